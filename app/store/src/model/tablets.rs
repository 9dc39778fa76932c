//! Tablet profiles, warm-ups and the stand-ins for them.

use eddymist_calibrate::{
    PressurePairs, TabletProfile,
    pairs::{Nudge, Way},
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
    /// As in a warm-up's file: `effort`, `ramp`, `ruled`, `diagonal`, `flick`, `dot`, `circle`, `freehand`, `card`, `landing`, `over` or `paper`.
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

/// Pressure and ink of the same strokes: a page that was scanned and sent before, and what was drawn on it.
#[derive(Deserialize, JsonSchema)]
pub struct PairsAsk {
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    pub way: Way,
    /// As the page took them: six numbers a sample, as in a warm-up's groups; mm of the scan from its top left corner where lines were gone over.
    #[serde(default)]
    pub strokes: Vec<Vec<Option<f64>>>,
    /// Or as InkML.
    #[serde(default)]
    pub inkml: Option<String>,
    /// The pen that drew the lines: its card's scale of effort is used.
    #[serde(default)]
    pub pen: Option<Uuid>,
    /// Where the strokes were moved to by hand: they are laid from there.
    #[serde(default)]
    pub nudge: Option<Nudge>,
}

/// Which resolution a scan of lines has; none takes the file's own.
#[derive(Deserialize, JsonSchema)]
pub struct ScanLinesAsk {
    #[serde(default)]
    pub resolution_dpi: Option<f64>,
}

/// The lines of a scan: places along each, mm from the scan's top left corner.
#[derive(Serialize, JsonSchema)]
pub struct ScanLines {
    pub lines: Vec<Vec<[f64; 2]>>,
}

/// Pairs as they are shown.
#[derive(Serialize, JsonSchema)]
pub struct PairsView {
    /// At most 4,000 of them.
    pub pairs: PressurePairs,
    /// The response that they give, and the one that the five efforts gave; the first is empty where they give none.
    pub response: Vec<[f64; 2]>,
    pub by_efforts: Vec<[f64; 2]>,
    /// By how much the five efforts were off that response, `[effort, off]`.
    pub efforts_off: Vec<[f64; 2]>,
    /// The pen whose lines they are.
    pub pen: Option<Uuid>,
    /// The scan's size, mm; absent of what is saved.
    pub size_mm: Option<[f64; 2]>,
    /// The strokes laid over the scan, mm from its top left corner; empty of what is saved.
    pub laid_mm: Vec<Vec<[f64; 2]>>,
}

#[derive(Deserialize, JsonSchema)]
pub struct SimulatedPairs {
    pub hand: String,
    pub tablet: String,
    pub pen: String,
    pub way: Way,
}

/// A page that a simulated pen has drawn, and the recording of the strokes on it.
#[derive(Serialize, JsonSchema)]
pub struct SimulatedPage {
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    pub inkml: String,
}
