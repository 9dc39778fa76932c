//! What the interface takes and gives of trial pages.

use eddymist_ink::brush::OwnTapers;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A page to be inked over a rough. Strokes keep the brush version that they were inked with.
#[derive(Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialPage {
    pub width_px: u32,
    pub height_px: u32,
    pub px_per_mm: f64,
    /// The rough, and the drawings before and after it, by the SHA-256 of their pictures.
    #[serde(default)]
    pub rough: Option<String>,
    #[serde(default)]
    pub neighbours: Vec<String>,
    /// The returned drawing that is inked again: its notes and pins are shown on the page.
    #[serde(default)]
    pub drawing: Option<Uuid>,
    pub strokes: Vec<TrialStroke>,
}

impl TrialPage {
    /// The brushes that it is inked with, each once.
    pub fn brushes(&self) -> Vec<Uuid> {
        let mut out: Vec<Uuid> = self.strokes.iter().map(|s| s.brush_id).collect();
        out.sort_unstable();
        out.dedup();
        out
    }

    /// The pictures that it shows, by their SHA-256.
    pub fn pictures(&self) -> Vec<String> {
        self.rough.iter().chain(&self.neighbours).cloned().collect()
    }
}

#[derive(Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialStroke {
    /// Six numbers a sample: t in ms, x and y in mm, raw pressure, azimuth and elevation in degrees; null where there is none.
    pub samples: Vec<Option<f64>>,
    #[serde(default = "one")]
    pub zoom: f64,
    pub brush_id: Uuid,
    pub version: i32,
    /// Its pass: the line role that it was drawn for.
    pub role: String,
    pub colour: String,
    #[serde(default = "one")]
    pub weight_factor: f64,
    /// Its own tapers, where it has any.
    #[serde(default, skip_serializing_if = "OwnTapers::is_none")]
    pub tapers: OwnTapers,
    /// Pressure along it in place of the pen's: `rise`, `swell`, `fall`, `even`, or knots as JSON.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub course: Option<String>,
    /// The response of the hand that drew it, on its tablet: raw pressure to effort; empty where it had none. A stroke without it is of before,
    /// and goes by the profile that its brush was matched through.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub response: Option<Vec<[f64; 2]>>,
}

fn one() -> f64 {
    1.0
}

#[derive(Serialize, JsonSchema)]
pub struct TrialSummary {
    pub id: Uuid,
    pub name: String,
    pub by: String,
    pub at: String,
    pub strokes: i32,
}

#[derive(Serialize, JsonSchema)]
pub struct TrialView {
    pub id: Uuid,
    pub name: String,
    pub revision: i32,
    pub page: TrialPage,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewTrial {
    pub name: String,
    pub page: TrialPage,
}

#[derive(Deserialize, JsonSchema)]
pub struct SaveTrial {
    pub page: TrialPage,
    pub from_revision: i32,
}

#[derive(Serialize, JsonSchema)]
pub struct TrialSaved {
    pub revision: i32,
}

/// A picture that was kept for a trial page.
#[derive(Serialize, JsonSchema)]
pub struct RoughView {
    pub sha256: String,
    pub width_px: u32,
    pub height_px: u32,
    /// Where the file states it.
    pub px_per_mm: Option<f64>,
}

/// Bytes of the page as SVG, stroke by stroke and merged.
#[derive(Serialize, JsonSchema)]
pub struct TrialSizes {
    pub strokes_bytes: u64,
    pub merged_bytes: u64,
}
