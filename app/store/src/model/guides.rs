//! Line guides and their versions.

use eddymist_check::LineGuide;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

#[derive(Serialize, JsonSchema)]
pub struct GuideView {
    pub id: Uuid,
    pub version: i32,
    pub guide: LineGuide,
    pub by: String,
    pub at: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct SaveGuide {
    pub guide: LineGuide,
    pub from_version: i32,
}

/// A model sheet with its measured lines.
#[derive(Serialize, JsonSchema)]
pub struct ModelSheetView {
    pub sha256: String,
    pub sheet: eddymist_check::model::ModelSheet,
}

/// Lines of a model sheet that make a role, by their places in the list.
#[derive(Deserialize, JsonSchema)]
pub struct RoleFromLines {
    pub name: String,
    pub page: eddymist_check::guide::Page,
    pub lines: Vec<usize>,
}
