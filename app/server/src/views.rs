//! What the interface takes and gives, besides the documents of core.

use eddymist_calibrate::{
    Match, PenCard, TabletProfile,
    figures::Figure,
    lanes::{Lane, PenLine},
    matching::Part,
    pen_card::Note,
    smoothing::Trade,
    transfer::{ScaleReading, Transfer},
};
use eddymist_check::LineGuide;
use eddymist_ink::Brush;
use eddymist_measure::{
    scan::{
        LineMeasurement,
        mark::{Mark, MarkedStroke},
    },
    sheet::{Marked, SheetReading},
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

use crate::{
    access::{Member, PartIn},
    problem::{Answer, Problem},
};

mod delivery;
mod ink;
mod keeping;
mod team;
mod trial;
pub use delivery::*;
pub use ink::*;
pub use keeping::*;
pub use team::*;
pub use trial::*;

#[derive(Serialize, JsonSchema)]
pub struct Session {
    pub member: Option<Member>,
    pub productions: Vec<ProductionView>,
    /// No member exists yet: the first one is made now.
    pub first: bool,
    /// Only where the demo is loaded.
    pub demo_sign_ins: Vec<DemoSignIn>,
}

#[derive(Serialize, JsonSchema)]
pub struct DemoSignIn {
    pub name: String,
    pub email: String,
    pub password: String,
    pub part: PartIn,
}

#[derive(Serialize, JsonSchema)]
pub struct ProductionView {
    pub id: Uuid,
    pub name: String,
    pub part: PartIn,
    /// Others are in it, or draw for it: there is a team to look at.
    pub team: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct FirstMember {
    pub name: String,
    pub email: String,
    pub password: String,
    pub production: String,
}

#[derive(Serialize, JsonSchema)]
pub struct Created {
    pub id: Uuid,
}

#[derive(Serialize, JsonSchema)]
pub struct DeskItem {
    pub text: String,
    pub next: String,
    /// Path of the page that the next step is on.
    pub to: String,
}

/// A scan that was measured and not kept.
#[derive(Serialize, JsonSchema)]
pub struct ScanView {
    pub sha256: String,
    pub width_px: u32,
    pub height_px: u32,
    pub measurement: LineMeasurement,
    pub lines: Vec<PenLine>,
}

/// Strokes marked on a scan.
#[derive(Deserialize, JsonSchema)]
pub struct ScanMarks {
    pub resolution_dpi: f64,
    pub marks: Vec<Mark>,
}

/// What each mark gave, in their order: the stroke, or why there is none.
#[derive(Serialize, JsonSchema)]
pub struct MarkRead {
    pub stroke: Option<MarkedStroke>,
    pub problem: Option<String>,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewPen {
    pub name: String,
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    /// Each line's effort, in their order; none leaves the line out of the widths by effort.
    pub efforts: Vec<Option<f64>>,
    /// Flicks and dots marked on the scan.
    #[serde(default)]
    pub marks: Vec<Mark>,
    #[serde(default)]
    pub note: Note,
}

#[derive(Serialize, JsonSchema)]
pub struct PenSummary {
    pub id: Uuid,
    pub name: String,
    pub card: PenCard,
    /// Its line at normal effort, for the drawer.
    pub line: Option<PenLine>,
    pub tags: Vec<String>,
    pub sheet_number: Option<String>,
    pub kept_at: String,
}

/// A sampler sheet as it was read; nothing is kept of it but its picture.
#[derive(Serialize, JsonSchema)]
pub struct SheetView {
    pub sha256: String,
    pub width_px: u32,
    pub height_px: u32,
    pub reading: SheetReading,
    /// The card that it would make.
    pub card: PenCard,
    pub strip_mismatch_um: Option<f64>,
    /// Pens that this sheet's number was kept as before.
    pub known: Vec<KnownPen>,
}

#[derive(Serialize, JsonSchema)]
pub struct KnownPen {
    pub id: Uuid,
    pub name: String,
}

/// A sheet to be read again, some of its cells where they were marked by hand.
#[derive(Deserialize, JsonSchema)]
pub struct SheetAgain {
    pub name: String,
    pub resolution_dpi: f64,
    #[serde(default)]
    pub marked: Vec<Marked>,
}

/// A pen to be kept from a sheet.
#[derive(Deserialize, JsonSchema)]
pub struct NewSheetPen {
    pub name: String,
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    /// Ids of cells that are not to count.
    #[serde(default)]
    pub left_out: Vec<String>,
    /// Cells whose place was marked by hand.
    #[serde(default)]
    pub marked: Vec<Marked>,
    /// What a kitchen scale under the sheet showed: effort, grams.
    #[serde(default)]
    pub grams: Vec<[f64; 2]>,
    #[serde(default)]
    pub note: Note,
}

/// What is kept of a sheet beside the card.
#[derive(Serialize, Deserialize, JsonSchema)]
pub struct KeptSheet {
    pub width_px: u32,
    pub height_px: u32,
    pub reading: SheetReading,
    pub left_out: Vec<String>,
    pub strip_mismatch_um: Option<f64>,
}

#[derive(Deserialize, JsonSchema)]
pub struct Tags {
    pub tags: Vec<String>,
}

impl Tags {
    /// Lower case, sorted, each once; at most twelve of up to forty letters.
    pub fn cleaned(&self) -> Answer<Vec<String>> {
        let mut tags: Vec<String> = self.tags.iter().map(|t| t.trim().to_lowercase()).filter(|t| !t.is_empty()).collect();
        tags.sort();
        tags.dedup();
        if tags.len() > 12 || tags.iter().any(|t| t.chars().count() > 40) {
            return Err(Problem::input("there can be up to twelve tags of up to forty letters"));
        }
        Ok(tags)
    }
}

#[derive(Serialize, JsonSchema)]
pub struct PenView {
    pub id: Uuid,
    pub name: String,
    pub card: PenCard,
    /// All figures of the card, with their intervals.
    pub figures: Vec<Figure>,
    /// Absent where it came from a sampler sheet.
    pub measurement: Option<LineMeasurement>,
    pub lines: Vec<PenLine>,
    /// Of the lines' edges, their mean: lag in µm, correlation.
    pub autocorrelation: Vec<[f64; 2]>,
    pub sheet: Option<KeptSheet>,
    pub tags: Vec<String>,
    pub scan_sha256: String,
    pub kept_by: String,
    pub kept_at: String,
}

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
}

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

#[derive(Serialize, JsonSchema)]
pub struct BrushSummary {
    pub id: Uuid,
    pub name: String,
    pub current_version: i32,
    pub unsaved: bool,
    pub brush: Brush,
    pub pen: Option<String>,
    pub profile: Option<String>,
    pub tags: Vec<String>,
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
    pub draft: Option<Brush>,
    pub versions: Vec<BrushVersion>,
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

#[derive(Serialize, JsonSchema)]
pub struct GuideView {
    pub id: Uuid,
    pub version: i32,
    pub guide: LineGuide,
    pub by: String,
    pub at: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct SaveGuide {
    pub guide: LineGuide,
    pub from_version: i32,
}
