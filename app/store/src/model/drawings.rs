//! A drawing of a delivery: its check, what was decided on it, what is pinned.

use eddymist_check::{
    DrawingCheck, Finding, FindingKind, Manifest, WeighedLine,
    guide::Finish,
    hand_on::Fix,
    limits::LeftOut,
    register::Move,
    summary::{DrawingState, Summary},
    takes::{Became, Compared},
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
    /// It may be the next take of several: somebody says of which.
    pub asked: bool,
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
    pub handed: Option<Handed>,
    /// What it may be the next take of: somebody says of which, if any.
    pub asks: Vec<TakeCandidate>,
    /// What is left out of this drawing alone.
    pub regions: Vec<RegionView>,
    /// Of the guide that it is checked against.
    pub finish: Finish,
}

/// A region left out of one drawing; its corners are px of the guide's page.
#[derive(Serialize, JsonSchema)]
pub struct RegionView {
    pub id: Uuid,
    pub region: LeftOut,
    pub by: String,
}

/// Who handed a drawing in, and with which note.
#[derive(Serialize, JsonSchema)]
pub struct Handed {
    pub by: String,
    pub note: String,
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
    /// What was pinned on it, where that lies on this take, and what became of it.
    pub pins: Vec<EarlierPin>,
}

#[derive(Serialize, JsonSchema)]
pub struct EarlierPin {
    pub x: f64,
    pub y: f64,
    pub text: String,
    pub by: String,
    pub became: Became,
}

/// A decision; strokes are polylines in px of the drawing.
#[derive(Serialize, JsonSchema)]
pub struct DecisionView {
    pub number: i32,
    pub state: String,
    pub note: String,
    pub strokes: Vec<Vec<[f64; 2]>>,
    /// Only this must be fixed; none: all that the guide says must be.
    pub fix: Option<Vec<Fix>>,
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
    /// Of what is returned, only this must be fixed; none: all that the guide says must be.
    #[serde(default)]
    pub fix: Option<Vec<Fix>>,
}

#[derive(Deserialize, JsonSchema)]
pub struct Dismiss {
    pub finding: Finding,
    pub why: String,
}

/// A finding on a drawing.
#[derive(Serialize, JsonSchema)]
pub struct Alike {
    pub drawing: Uuid,
    pub file: String,
    pub finding: Finding,
}

#[derive(Deserialize, JsonSchema)]
pub struct FindingOn {
    pub drawing: Uuid,
    pub finding: Finding,
}

/// All open findings of a kind on some drawings.
#[derive(Deserialize, JsonSchema)]
pub struct KindOn {
    pub kind: FindingKind,
    pub drawings: Vec<Uuid>,
}

/// Findings to be marked as intended, with one reason: these, or all of a kind.
#[derive(Deserialize, JsonSchema)]
pub struct DismissMany {
    #[serde(default)]
    pub findings: Vec<FindingOn>,
    #[serde(default)]
    pub all: Option<KindOn>,
    pub why: String,
}

#[derive(Serialize, JsonSchema)]
pub struct MarkedOne {
    pub drawing: Uuid,
    pub dismissal: Uuid,
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

/// A drawing that another may be the next take of.
#[derive(Serialize, JsonSchema)]
pub struct TakeCandidate {
    pub id: Uuid,
    pub file: String,
    pub sha256: String,
    pub delivery_name: String,
}

/// Whose next take a drawing is; none: it is a drawing of its own.
#[derive(Deserialize, JsonSchema)]
pub struct TakeOf {
    #[serde(default)]
    pub of: Option<Uuid>,
}

/// Why a drawing is set aside.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum WhyAside {
    Removed,
    /// A slate, a colour model, a note: nothing to be checked.
    NoDrawing,
}

impl WhyAside {
    pub fn name(self) -> &'static str {
        match self {
            Self::Removed => "removed",
            Self::NoDrawing => "no-drawing",
        }
    }
}

/// Drawings of a delivery to be set aside; without a reason they are restored.
#[derive(Deserialize, JsonSchema)]
pub struct SetAside {
    pub drawings: Vec<Uuid>,
    #[serde(default)]
    pub why: Option<WhyAside>,
}

/// A drawing that is in no count, lane or sequence, until it is restored.
#[derive(Serialize, JsonSchema)]
pub struct AsideView {
    pub id: Uuid,
    pub file: String,
    pub sha256: String,
    pub why: WhyAside,
    pub by: String,
    pub at: String,
}

/// A drawing that was returned to an artist.
#[derive(Serialize, JsonSchema)]
pub struct Returned {
    pub id: Uuid,
    pub file: String,
    pub sha256: String,
    pub delivery: Uuid,
    pub delivery_name: String,
    pub note: String,
    pub by: String,
}
