//! A drawing of a delivery: its check, what was decided on it, what is pinned.

use eddymist_check::{
    DrawingCheck, Finding, Manifest, WeighedLine,
    register::Move,
    summary::{DrawingState, Summary},
    takes::Compared,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A drawing in a delivery, in short.
#[derive(Serialize, JsonSchema)]
pub struct DrawingSummary {
    pub id: Uuid,
    pub file: String,
    pub message: Option<String>,
    pub manifest: Manifest,
    pub summary: Option<Summary>,
    pub standing: DrawingState,
    pub decision: Option<DecisionBrief>,
    /// There is an earlier take of it.
    pub again: bool,
    /// There is a later take of it.
    pub came_again: bool,
    pub sha256: String,
}

#[derive(Serialize, JsonSchema)]
pub struct DecisionBrief {
    pub number: i32,
    pub state: String,
    pub by: String,
    pub note: String,
}

#[derive(Serialize, JsonSchema)]
pub struct DrawingView {
    pub id: Uuid,
    pub delivery: Uuid,
    pub file: String,
    pub sha256: String,
    pub manifest: Manifest,
    pub check: Option<DrawingCheck>,
    pub lines: Vec<WeighedLine>,
    pub decisions: Vec<DecisionView>,
    pub dismissals: Vec<DismissalView>,
    pub pins: Vec<PinView>,
    pub earlier: Option<EarlierTake>,
    pub later: Option<Uuid>,
    /// Other files with the same picture.
    pub same_picture: Vec<String>,
}

/// How one drawing lies on another: only of two scans that have enough in common.
#[derive(Serialize, JsonSchema)]
pub struct LaidView {
    pub laid: Option<Move>,
}

/// The take before this one, and what became of its findings.
#[derive(Serialize, JsonSchema)]
pub struct EarlierTake {
    pub id: Uuid,
    pub delivery_name: String,
    pub file: String,
    pub sha256: String,
    pub at: String,
    pub findings: Vec<Finding>,
    pub compared: Compared,
    /// Why it was returned, if it was.
    pub note: Option<String>,
}

/// A decision; strokes are polylines in px of the drawing.
#[derive(Serialize, JsonSchema)]
pub struct DecisionView {
    pub number: i32,
    pub state: String,
    pub note: String,
    pub strokes: Vec<Vec<[f64; 2]>>,
    pub by: String,
    pub at: String,
}

#[derive(Serialize, JsonSchema)]
pub struct DismissalView {
    pub id: Uuid,
    /// Its place among the findings, where it is still found.
    pub finding: Option<usize>,
    pub by: String,
    pub why: String,
    pub at: String,
    /// It came over from the take before.
    pub carried: bool,
}

#[derive(Serialize, JsonSchema)]
pub struct PinView {
    pub id: Uuid,
    pub x: f64,
    pub y: f64,
    pub text: String,
    pub by: String,
    pub at: String,
}

#[derive(Clone, Copy, PartialEq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Decided {
    Ready,
    Return,
    /// The decision is taken back.
    Open,
}

impl Decided {
    pub fn name(self) -> &'static str {
        match self {
            Self::Ready => "ready",
            Self::Return => "return",
            Self::Open => "open",
        }
    }
}

/// A drawing to be decided on, and how many decisions on it were seen.
#[derive(Deserialize, JsonSchema)]
pub struct Seen {
    pub id: Uuid,
    pub seen: i32,
}

#[derive(Deserialize, JsonSchema)]
pub struct Decide {
    pub drawings: Vec<Seen>,
    pub state: Decided,
    #[serde(default)]
    pub note: String,
    /// Drawn on the drawing: polylines in its px.
    #[serde(default)]
    pub strokes: Vec<Vec<[f64; 2]>>,
}

#[derive(Deserialize, JsonSchema)]
pub struct Dismiss {
    pub finding: Finding,
    pub why: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewPin {
    pub x: f64,
    pub y: f64,
    pub text: String,
}

/// The ink across a line at one place: coverage, one number a step, the place in the middle.
#[derive(Serialize, JsonSchema)]
pub struct AcrossView {
    pub coverage: Vec<f32>,
    pub step_px: f64,
}
