//! Pens, and the scans and sheets that they come from.

use eddymist_calibrate::{PenCard, figures::Figure, lanes::PenLine, pen_card::Note};
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
    /// A photo, with a card beside the lines: places are those of the photo laid flat.
    #[serde(default)]
    pub photo: bool,
    pub marks: Vec<Mark>,
}

/// What each mark gave, in their order: the stroke, or why there is none.
#[derive(Serialize, JsonSchema)]
pub struct MarkRead {
    pub stroke: Option<MarkedStroke>,
    pub problem: Option<String>,
}

/// Another name for a thing.
#[derive(Deserialize, JsonSchema)]
pub struct NewName {
    pub name: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewPen {
    pub name: String,
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    /// A photo, with a card beside the lines: its resolution is found.
    #[serde(default)]
    pub photo: bool,
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
    /// As the photo that it was read as; its resolution is then found.
    #[serde(default)]
    pub photo: bool,
    #[serde(default)]
    pub marked: Vec<Marked>,
}

/// A pen to be kept from a sheet.
#[derive(Deserialize, JsonSchema)]
pub struct NewSheetPen {
    pub name: String,
    pub scan_sha256: String,
    pub resolution_dpi: f64,
    /// As the photo that it was read as; its resolution is then found.
    #[serde(default)]
    pub photo: bool,
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
    /// The version of the tags that it started from.
    pub from_version: i32,
}

impl Tags {
    /// Lower case, sorted, each once; at most twelve of up to forty letters.
    pub fn cleaned(&self) -> Result<Vec<String>, &'static str> {
        let mut tags: Vec<String> = self.tags.iter().map(|t| t.trim().to_lowercase()).filter(|t| !t.is_empty()).collect();
        tags.sort();
        tags.dedup();
        if tags.len() > 12 || tags.iter().any(|t| t.chars().count() > 40) {
            return Err("there can be up to twelve tags of up to forty letters");
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
    /// Of the tags: given with a change of them.
    pub tags_version: i32,
    pub scan_sha256: String,
    pub kept_by: String,
    pub kept_at: String,
}
