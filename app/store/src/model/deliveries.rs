//! What the interface takes and gives of deliveries, their drawings and what is decided on them.

use std::collections::BTreeMap;

use eddymist_check::{
    FindingKind, LineGuide, Manifest,
    document::{SequenceFinding, Verdict},
    summary::DrawingState,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::{AsideView, DrawingSummary};

/// What would be known of files by their names and a manifest.
#[derive(Deserialize, JsonSchema)]
pub struct NamesPreview {
    pub pattern: String,
    pub files: Vec<String>,
    /// A manifest as CSV with a header.
    #[serde(default)]
    pub csv: Option<String>,
    /// The guide that they are checked against.
    #[serde(default)]
    pub guide_id: Option<Uuid>,
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
    /// What fields may say with the guide: a drawing that says another cannot be checked.
    pub allowed: BTreeMap<String, Vec<String>>,
}

/// How a delivery's drawings are known from now on.
#[derive(Deserialize, JsonSchema)]
pub struct SetManifest {
    /// The manifest's version that it started from.
    pub from_version: i32,
    pub pattern: String,
    /// Replaces what the manifest said before, or is added to it.
    #[serde(default)]
    pub csv: Option<String>,
    /// What was said of files that the table does not name stays.
    #[serde(default)]
    pub add: bool,
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

#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(default)]
pub struct DeliveriesAsk {
    /// Deliveries older than this one.
    pub before: Option<Uuid>,
}

#[derive(Serialize, JsonSchema)]
pub struct DeliverySummary {
    pub id: Uuid,
    pub name: String,
    pub drawings: i64,
    pub done: i64,
    pub failed: i64,
    /// Not decided, and needs fixes.
    pub to_return: i64,
    pub undecided: i64,
    pub at: String,
}

/// A delivery in small.
#[derive(Serialize, JsonSchema)]
pub struct DeliveryStrip {
    /// Of three of its drawings: the first, the middle and the last.
    pub pictures: Vec<String>,
    /// Of its first drawings, in their order.
    pub marks: Vec<StripMark>,
    pub in_all: usize,
}

/// How a drawing stands, and the verdict of a role that is off, if one is.
#[derive(Serialize, JsonSchema)]
pub struct StripMark {
    pub standing: DrawingState,
    pub off: Option<Verdict>,
}

/// A file that came in.
#[derive(Serialize, JsonSchema)]
pub struct FileTaken {
    pub file: String,
    /// The drawing that it became; none where the same was there.
    pub id: Option<Uuid>,
    pub fields: Option<Manifest>,
    /// It is a later take.
    pub take: bool,
    /// The file whose later take it is.
    pub of: Option<String>,
    /// It may be the next take of several: the page of the delivery asks which.
    pub asked: bool,
    /// The same file was there already: nothing was added.
    pub there: bool,
}

#[derive(Serialize, JsonSchema)]
pub struct DeliveryView {
    pub id: Uuid,
    pub name: String,
    pub pattern: String,
    /// Of pattern and manifest: given with a change of them.
    pub manifest_version: i32,
    pub guide_id: Uuid,
    pub guide_version: i32,
    pub current_guide_version: i32,
    pub guide: LineGuide,
    pub not_looked_for: Vec<FindingKind>,
    /// The first of its drawings, in their order.
    pub drawings: Vec<DrawingSummary>,
    /// So many drawings it has.
    pub in_all: usize,
    /// What only the drawings together show; none until all are weighed.
    pub sequence: Option<Vec<SequenceFinding>>,
    /// What is not known of the drawings, and what cannot be said without it; and what came twice.
    pub missing: Vec<String>,
    pub stopped: bool,
    /// What is removed from it, or marked as no drawing.
    pub aside: Vec<AsideView>,
    /// Sentences for the head of the page.
    pub headline: String,
    pub summary: String,
}
