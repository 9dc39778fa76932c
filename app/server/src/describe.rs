//! Routes and their description from one registration: what a route takes and gives is its Rust type, whose JSON
//! Schema goes into the OpenAPI 3.1 components. The documents' own schemas come from the same types.

use schemars::{Schema, schema_for};
use serde_json::Value;

/// The OpenAPI description of the interface.
pub fn openapi() -> Value {
    crate::routes::api().describe()
}

/// The published JSON Schemas, by document.
pub fn schemas() -> Vec<(&'static str, Schema)> {
    vec![
        ("line-measurement", schema_for!(eddymist_measure::scan::LineMeasurement)),
        ("sampler-sheet", schema_for!(eddymist_measure::sheet::layout::SheetPlan)),
        ("pen-card", schema_for!(eddymist_calibrate::PenCard)),
        ("tablet-profile", schema_for!(eddymist_calibrate::TabletProfile)),
        ("pressure-pairs", schema_for!(eddymist_calibrate::PressurePairs)),
        ("brush", schema_for!(eddymist_ink::Brush)),
        ("brush-library", schema_for!(eddymist_formats::library::BrushLibrary)),
        ("match", schema_for!(eddymist_calibrate::Match)),
        ("line-guide", schema_for!(eddymist_check::LineGuide)),
        ("line-check", schema_for!(eddymist_check::LineCheck)),
    ]
}
