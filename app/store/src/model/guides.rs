//! Line guides and their versions.

use eddymist_check::{HandOn, LineGuide};
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
    /// Why this version was made, where somebody said.
    pub note: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct SaveGuide {
    pub guide: LineGuide,
    pub from_version: i32,
    #[serde(default)]
    pub note: String,
}

/// A guide that is not saved yet, to be tried on a delivery.
#[derive(Deserialize, JsonSchema)]
pub struct TryGuide {
    pub guide: LineGuide,
    /// The newest checked against the saved guide, where none is named.
    #[serde(default)]
    pub delivery: Option<Uuid>,
    /// So many of its drawings were tried already.
    #[serde(default)]
    pub done: usize,
}

/// What it would change, some drawings at a time.
#[derive(Serialize, JsonSchema)]
pub struct GuideTried {
    /// None: nothing was checked against this guide yet.
    pub delivery: Option<Uuid>,
    pub delivery_name: String,
    /// So many drawings were tried by now, of so many.
    pub done: usize,
    pub of: usize,
    /// Those of this part that would change.
    pub changed: Vec<WouldChange>,
}

#[derive(Serialize, JsonSchema)]
pub struct WouldChange {
    pub id: Uuid,
    pub file: String,
    pub was: Option<HandOn>,
    pub is: Option<HandOn>,
    pub why: Vec<String>,
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
