//! What the team's page takes and gives.

use eddymist_check::team::{
    By, TeamLook, Working,
    trim::{Outcome, Trim},
};
use eddymist_ink::Brush;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Which drawings the team is looked at by, and put together by what.
#[derive(Debug, Clone, Default, Deserialize, JsonSchema)]
#[serde(default)]
pub struct TeamAsk {
    /// The guide that they are held against; the one of the newest delivery if left out.
    pub guide: Option<Uuid>,
    pub delivery: Option<Uuid>,
    pub shot: Option<String>,
    /// First and last day, `2026-11-24`.
    pub from: Option<String>,
    pub to: Option<String>,
    /// artist, tablet or brush.
    pub by: Option<By>,
    /// Of a report: a4 or letter.
    pub paper: Option<String>,
}

#[derive(Serialize, JsonSchema)]
pub struct TeamView {
    /// Absent where no guide holds any delivery.
    pub guide: Option<TeamGuide>,
    pub guides: Vec<TeamGuide>,
    pub deliveries: Vec<NamedRef>,
    pub shots: Vec<String>,
    /// First and last day of all drawings of the guide.
    pub days: Option<[String; 2]>,
    pub look: Option<TeamLook>,
    pub trims: Vec<TrimView>,
}

#[derive(Serialize, JsonSchema)]
pub struct TeamGuide {
    pub id: Uuid,
    pub name: String,
    pub version: i32,
}

#[derive(Serialize, JsonSchema)]
pub struct NamedRef {
    pub id: Uuid,
    pub name: String,
}

#[derive(Serialize, JsonSchema)]
pub struct WorkingView {
    pub working: Working,
    /// What is wrong only in the sequence, of this artist and role.
    pub sequence: Vec<SequenceSeen>,
    /// What a trim could be carried onto, the advised first.
    pub carries: Vec<Carry>,
    /// Why there is none.
    pub no_carry: Option<String>,
}

#[derive(Serialize, JsonSchema)]
pub struct SequenceSeen {
    pub delivery: Uuid,
    pub delivery_name: String,
    pub kind: eddymist_check::FindingKind,
    pub message: String,
    /// The first of its drawings, to go to.
    pub drawing: Option<Uuid>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Onto {
    Brush,
    Profile,
}

impl Onto {
    pub fn name(self) -> &'static str {
        match self {
            Self::Brush => "brush",
            Self::Profile => "profile",
        }
    }

    pub fn from_name(name: &str) -> Self {
        if name == "profile" { Self::Profile } else { Self::Brush }
    }
}

/// What a trim would be carried onto.
#[derive(Serialize, JsonSchema)]
pub struct Carry {
    pub onto: Onto,
    /// The brush's or the profile's name.
    pub name: String,
    pub why: String,
    pub brush_id: Uuid,
    pub brush_version: i32,
    pub profile_id: Option<Uuid>,
    /// The weight curve (effort, mm), or the response (raw, effort), as it is and as it would be.
    pub before: Vec<[f64; 2]>,
    pub after: Vec<[f64; 2]>,
    /// How the brush draws as it is, and how it would draw, by the same effort.
    pub brush: Brush,
    pub brush_after: Brush,
}

#[derive(Deserialize, JsonSchema)]
pub struct OfferTrim {
    pub artist: String,
    pub role: String,
    pub onto: Onto,
    /// The drawings that it is of, as they were looked at.
    #[serde(default)]
    pub of: TeamAsk,
}

#[derive(Serialize, JsonSchema)]
pub struct TrimView {
    pub id: Uuid,
    pub artist: String,
    pub role: String,
    pub guide_id: Uuid,
    pub trim: Trim,
    pub onto: Onto,
    pub brush_id: Uuid,
    pub brush: String,
    pub brush_version: i32,
    pub profile_id: Option<Uuid>,
    pub tablet: Option<String>,
    pub curve: Vec<[f64; 2]>,
    pub says: String,
    /// offered, taken, declined or withdrawn.
    pub state: String,
    pub by: String,
    pub at: String,
    pub answered_by: Option<String>,
    pub answered_at: Option<String>,
    /// The brush or profile that came of it.
    pub made: Option<Uuid>,
    /// Whether the member who asks may take it.
    pub mine: bool,
    /// Of a trim that was taken.
    pub outcome: Option<Outcome>,
    pub outcome_says: Option<String>,
}
