//! Tablet profiles, warm-ups and the stand-ins for them.

use eddymist_calibrate::{
    TabletProfile,
    transfer::{ScaleReading, Transfer},
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

#[derive(Serialize, JsonSchema)]
pub struct StandIn {
    pub id: String,
    pub name: String,
}

#[derive(Serialize, JsonSchema)]
pub struct StandIns {
    pub hands: Vec<StandIn>,
    pub tablets: Vec<StandIn>,
    pub pens: Vec<StandIn>,
}

#[derive(Deserialize, JsonSchema)]
pub struct SimulatedWarmUp {
    pub hand: String,
    pub tablet: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct WarmUpText {
    pub inkml: String,
    #[serde(default)]
    pub label: String,
    /// Whether strokes that look like slips are to count; left out, as the file says.
    #[serde(default)]
    pub slips_counted: Option<bool>,
}

/// Strokes of one exercise as the page took them: six numbers a sample, t in ms, x and y in mm, raw pressure,
/// azimuth and elevation in degrees; null where the device gives none.
#[derive(Deserialize, JsonSchema)]
pub struct DrawnGroup {
    /// As in a warm-up's file: `effort`, `ramp`, `ruled`, `diagonal`, `flick`, `dot`, `circle`, `freehand` or `card`.
    pub exercise: String,
    #[serde(default)]
    pub effort: Option<f64>,
    /// `slow`, `normal` or `fast`.
    #[serde(default)]
    pub pace: Option<String>,
    pub strokes: Vec<Vec<Option<f64>>>,
}

#[derive(Deserialize, JsonSchema)]
pub struct DrawnWarmUp {
    pub label: String,
    pub groups: Vec<DrawnGroup>,
}

/// A warm-up as read: not kept.
#[derive(Serialize, JsonSchema)]
pub struct ProfileReading {
    pub profile: TabletProfile,
    /// Share of the raw pressures used, in 40 equal bins from 0 to 1.
    pub used: Vec<f64>,
    pub inkml: String,
    /// Whether strokes that look like slips count; none where there are none.
    pub slips_counted: Option<bool>,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewProfile {
    pub artist: String,
    pub tablet: String,
    pub inkml: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct ScaleReadings {
    pub readings: Vec<ScaleReading>,
}

/// The same intended strokes on the team's tablets.
#[derive(Serialize, JsonSchema)]
pub struct TransferView {
    /// Artist and tablet of each profile that the lines name by its place here.
    pub profiles: Vec<TransferProfile>,
    pub strokes: Vec<Transfer>,
}

#[derive(Serialize, JsonSchema)]
pub struct TransferProfile {
    pub id: Uuid,
    pub artist: String,
    pub tablet: String,
}

#[derive(Serialize, JsonSchema)]
pub struct ProfileView {
    pub id: Uuid,
    pub artist: String,
    pub tablet: String,
    pub profile: TabletProfile,
    pub used: Vec<f64>,
    pub kept_at: String,
    /// Of the member who asks: the artist has their name.
    pub mine: bool,
}
