//! What the interface takes and gives of deliveries, their drawings and what is decided on them.

use std::collections::BTreeMap;

use eddymist_check::{
    DrawingCheck, Finding, FindingKind, LineGuide, Manifest, WeighedLine,
    document::SequenceFinding,
    summary::{Standing, Summary},
    takes::Compared,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What would be known of files by their names and a manifest.
#[derive(Deserialize, JsonSchema)]
pub struct NamesPreview {
    pub pattern: String,
    pub files: Vec<String>,
    /// A manifest as CSV with a header.
    #[serde(default)]
    pub csv: Option<String>,
}

#[derive(Serialize, JsonSchema)]
pub struct NameRead {
    pub file: String,
    /// None where neither the name fits nor the manifest has it.
    pub fields: Option<Manifest>,
}

#[derive(Serialize, JsonSchema)]
pub struct NamesRead {
    pub read: Vec<NameRead>,
    /// What is not known, and what cannot be said without it.
    pub missing: Vec<String>,
    /// Files of the manifest that are not among these.
    pub absent: Vec<String>,
}

/// How a delivery's drawings are known from now on.
#[derive(Deserialize, JsonSchema)]
pub struct SetManifest {
    pub pattern: String,
    /// Replaces what the manifest said before.
    #[serde(default)]
    pub csv: Option<String>,
    /// By hand: the fields of single files; an empty field is taken out.
    #[serde(default)]
    pub rows: BTreeMap<String, Manifest>,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewDelivery {
    pub name: String,
    pub guide_id: Uuid,
    pub pattern: String,
    #[serde(default)]
    pub csv: Option<String>,
}

#[derive(Serialize, JsonSchema)]
pub struct DeliverySummary {
    pub id: Uuid,
    pub name: String,
    pub drawings: i64,
    pub done: i64,
    pub failed: i64,
    /// Returned, or not decided and going back.
    pub to_return: i64,
    pub undecided: i64,
    pub at: String,
}

/// A file that came in.
#[derive(Serialize, JsonSchema)]
pub struct FileTaken {
    pub file: String,
    pub fields: Option<Manifest>,
    /// It is a later take of a file of this name.
    pub take: bool,
    /// The same file was there already: nothing was added.
    pub there: bool,
}

/// A drawing in a delivery, in short.
#[derive(Serialize, JsonSchema)]
pub struct DrawingSummary {
    pub id: Uuid,
    pub file: String,
    pub message: Option<String>,
    pub manifest: Manifest,
    pub summary: Option<Summary>,
    pub standing: Standing,
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
pub struct DeliveryView {
    pub id: Uuid,
    pub name: String,
    pub pattern: String,
    pub guide_id: Uuid,
    pub guide_version: i32,
    pub current_guide_version: i32,
    pub guide: LineGuide,
    pub not_looked_for: Vec<FindingKind>,
    pub drawings: Vec<DrawingSummary>,
    /// What only the drawings together show; none until all are weighed.
    pub sequence: Option<Vec<SequenceFinding>>,
    /// What is not known of the drawings, and what cannot be said without it; and what came twice.
    pub missing: Vec<String>,
    pub stopped: bool,
    /// Sentences for the head of the page.
    pub headline: String,
    pub summary: String,
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
