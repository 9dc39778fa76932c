//! What the interface takes and gives of ink: roll, library, paths, density, blind proof, recipe.

use eddymist_ink::Brush;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What one line role is inked with.
#[derive(Clone, Serialize, Deserialize, JsonSchema)]
pub struct RollItem {
    pub role: String,
    pub brush_id: Uuid,
    /// The brush's name; what is sent here is not read.
    #[serde(default)]
    pub brush: String,
    pub version: i32,
    /// The brush's own current version; what is sent here is not read.
    #[serde(default)]
    pub current_version: i32,
    /// `#rrggbb`; absent, it is the brush's own.
    #[serde(default)]
    pub colour: Option<String>,
    pub weight_factor: f64,
}

/// The roll as it shall be, and as it was seen before: a roll that was changed meanwhile is not written over.
#[derive(Deserialize, JsonSchema)]
pub struct PutRoll {
    pub roll: Vec<RollItem>,
    pub seen: Vec<RollItem>,
}

/// A library that was read: nothing is kept.
#[derive(Serialize, JsonSchema)]
pub struct LibraryReading {
    pub brushes: Vec<LibraryBrushRead>,
    pub roll: Vec<eddymist_formats::library::RollEntry>,
}

#[derive(Serialize, JsonSchema)]
pub struct LibraryBrushRead {
    pub brush: Brush,
    pub tags: Vec<String>,
    /// A brush of the same name on the rack.
    pub clash: Option<LibraryClash>,
}

#[derive(Serialize, JsonSchema)]
pub struct LibraryClash {
    pub id: Uuid,
    pub version: i32,
    /// Whether its current version is the same brush.
    pub same: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct LibraryText {
    /// The file's text.
    pub library: String,
}

/// What becomes of a brush whose name is taken.
#[derive(Clone, Copy, PartialEq, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ClashChoice {
    /// Comes in under another name.
    Rename,
    /// Becomes the next version of the one that is there.
    Version,
    /// Stays out.
    Leave,
}

#[derive(Deserialize, JsonSchema)]
pub struct TakeLibrary {
    pub library: String,
    /// By name of the brush; every clash needs one.
    #[serde(default)]
    pub clashes: std::collections::BTreeMap<String, ClashChoice>,
    /// Whether the file's pen roll replaces the production's.
    #[serde(default)]
    pub with_roll: bool,
}

/// What came in.
#[derive(Serialize, JsonSchema)]
pub struct LibraryTaken {
    pub made: u32,
    pub versions: u32,
    pub left: u32,
    pub roll: u32,
}

/// A tip as it came in: levelled, cut to what is covered, its colour gone.
#[derive(Serialize, JsonSchema)]
pub struct TipView {
    /// PNG with coverage as alpha, a data URI; its length runs along x.
    pub tip_png: String,
    /// Its border as the path data of a shape, in pixels; empty where nothing is covered.
    pub shape_path: String,
    /// By how much it was turned, degrees counter-clockwise.
    pub turned_deg: f64,
    pub width_px: u32,
    pub height_px: u32,
}

/// Lines of a picture that can be inked.
#[derive(Serialize, JsonSchema)]
pub struct PathsView {
    pub lines: Vec<PathLine>,
    /// Whether the file states its size; else 96 px to the inch were taken.
    pub in_mm: bool,
    /// `[left, top, right, bottom]` in mm.
    pub bounds: [f64; 4],
    /// The page's own size, mm.
    pub page_mm: [f64; 2],
}

#[derive(Serialize, JsonSchema)]
pub struct PathLine {
    /// `[x, y]` in mm.
    pub points: Vec<[f64; 2]>,
    pub colour: String,
    pub layer: String,
    pub name: String,
    pub length_mm: f64,
}

#[derive(Deserialize, JsonSchema)]
pub struct InkPaths {
    /// Which the lines name by their places here.
    pub brushes: Vec<BrushAt>,
    pub lines: Vec<eddymist_formats::path_ink::PathToInk>,
    /// The picture's size against how it came.
    pub scale: f64,
    /// Whether weights grow with the picture, or stay in mm.
    pub weight_scales: bool,
    /// The page's own size, mm.
    pub page_mm: [f64; 2],
}

/// A brush at one of its versions.
#[derive(Deserialize, JsonSchema)]
pub struct BrushAt {
    pub brush_id: Uuid,
    pub version: i32,
}

/// Strokes as the page took them, six numbers a sample, to be inked with a brush.
#[derive(Deserialize, JsonSchema)]
pub struct DenseStrokes {
    pub brush: Brush,
    /// The drawing hand's response, raw pressure to effort; empty takes raw pressure as effort.
    #[serde(default)]
    pub response: Vec<[f64; 2]>,
    pub strokes: Vec<Vec<Option<f64>>>,
}

/// How dense a brush makes what was drawn.
#[derive(Serialize, JsonSchema)]
pub struct Density {
    /// Absent where no line has a neighbour.
    pub coarseness: Option<eddymist_measure::course::Coarseness>,
    /// Share of the drawn box that is ink.
    pub tone: f64,
    /// How much bends distort a shape that is bent along the strokes: the worst stroke's.
    pub distortion: Option<f64>,
}

/// Lines to be told apart: the pen's and the brush's, in chance order.
#[derive(Serialize, JsonSchema)]
pub struct BlindView {
    pub id: Uuid,
    pub length_mm: f64,
    pub lines: Vec<eddymist_calibrate::blind::FlatLine>,
}

#[derive(Deserialize, JsonSchema)]
pub struct BlindAsk {
    /// The profile of whoever draws; left out, the one that the brush was matched through.
    #[serde(default)]
    pub profile: Option<Uuid>,
}

#[derive(Deserialize, JsonSchema)]
pub struct BlindAnswers {
    /// For every line whether it is taken for the pen's.
    pub of_pen: Vec<bool>,
}

/// What came of a proof, with the lines that were the pen's.
#[derive(Serialize, JsonSchema)]
pub struct BlindTold {
    pub result: eddymist_calibrate::blind::BlindResult,
    pub of_pen: Vec<bool>,
}

#[derive(Serialize, JsonSchema)]
pub struct BlindKept {
    pub version: i32,
    pub result: eddymist_calibrate::blind::BlindResult,
    pub by: String,
    pub at: String,
}

#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(default)]
pub struct RecipeAsk {
    /// The card that the other brush's sheet came in as.
    pub other: Option<Uuid>,
}

/// A recipe with its pictures.
#[derive(Serialize, JsonSchema)]
pub struct RecipeView {
    pub recipe: eddymist_calibrate::recipe::Recipe,
    /// The tip, a PNG as a data URI.
    pub tip_png: String,
    /// The pen that the recipe makes for, and the card of the other brush where one came in.
    pub pen: String,
    pub there: Option<String>,
    /// The tablet profile that it goes through.
    pub profile: Option<String>,
    /// A strip of the pen's edge.
    pub strip_png: Option<String>,
}
