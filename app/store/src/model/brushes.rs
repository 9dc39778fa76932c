//! Brushes, their versions, and what the bench shows of one.

use eddymist_calibrate::{Match, lanes::Lane, matching::Part, smoothing::Trade};
use eddymist_ink::Brush;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

#[derive(Deserialize, JsonSchema)]
pub struct NewBrush {
    pub name: String,
    #[serde(default)]
    pub pen_id: Option<Uuid>,
    #[serde(default)]
    pub profile_id: Option<Uuid>,
    /// Another brush to start from, at one of its versions.
    #[serde(default)]
    pub copy_of: Option<Uuid>,
    #[serde(default)]
    pub copy_version: Option<i32>,
}

#[derive(Clone, Serialize, JsonSchema)]
pub struct BrushSummary {
    pub id: Uuid,
    pub name: String,
    pub current_version: i32,
    pub unsaved: bool,
    pub brush: Brush,
    pub pen: Option<String>,
    pub profile: Option<String>,
    pub tags: Vec<String>,
    pub tags_version: i32,
    /// When it was last inked with.
    pub used_at: Option<String>,
    /// Line roles of the pen roll that are inked with it.
    pub used_in: Vec<String>,
}

#[derive(Serialize, JsonSchema)]
pub struct BrushVersion {
    pub version: i32,
    pub brush: Brush,
    pub says: String,
    pub by: String,
    pub at: String,
}

#[derive(Serialize, JsonSchema)]
pub struct BrushView {
    pub id: Uuid,
    pub name: String,
    pub current_version: i32,
    /// One's own unsaved work, and the version that it began from.
    pub draft: Option<Brush>,
    pub draft_from_version: Option<i32>,
    pub tags: Vec<String>,
    /// Of the tags: given with a change of them.
    pub tags_version: i32,
    /// The newest 200, the one that is current, and the one that one's own unsaved work began from; the newest first.
    pub versions: Vec<BrushVersion>,
    /// How many there are.
    pub versions_in_all: i64,
    pub pen: Option<StandInRef>,
    pub profile: Option<StandInRef>,
    /// The response of the profile, for live ink.
    pub response: Option<Vec<[f64; 2]>>,
}

#[derive(Serialize, JsonSchema)]
pub struct StandInRef {
    pub id: Uuid,
    pub name: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct Draft {
    /// None takes the draft back.
    pub brush: Option<Brush>,
    /// The version that it began from.
    pub from_version: i32,
}

#[derive(Deserialize, JsonSchema)]
pub struct SaveBrush {
    pub brush: Brush,
    pub from_version: i32,
    #[serde(default)]
    pub says: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct GoBack {
    pub version: i32,
    pub from_version: i32,
}

#[derive(Deserialize, JsonSchema)]
pub struct BenchRequest {
    pub brush: Brush,
    #[serde(default)]
    pub effort: Option<f64>,
    /// Another exercise than lines of an effort.
    #[serde(default)]
    pub exercise: Option<LaneExercise>,
    /// Parts to be fitted to the pen again; all others are locked.
    #[serde(default)]
    pub fit: Vec<Part>,
    /// A version whose lane is laid under the brush's.
    #[serde(default)]
    pub under: Option<i32>,
    /// The profile of whoever draws; left out, the one that the brush was matched through.
    #[serde(default)]
    pub profile: Option<Uuid>,
}

/// What can be laid over one another besides lines of one effort.
#[derive(Clone, Copy, PartialEq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum LaneExercise {
    Flick,
    Ramp,
    Slow,
    Normal,
    Fast,
    Dots,
    Fan,
    Circle,
    Hatching,
}

#[derive(Serialize, JsonSchema)]
pub struct Bench {
    /// The same brush, or the fitted one where a fit was asked for.
    pub found: Option<Match>,
    pub lane: Lane,
    /// What the brush's smoothing of position costs and gives on the hand's own strokes.
    pub smoothing: Option<Trade>,
    /// The pen's pooled spread in µm at this effort.
    pub spread_um: Option<f64>,
    /// Efforts at which pen or hand can be shown.
    pub efforts: Vec<f64>,
    pub effort: f64,
}
