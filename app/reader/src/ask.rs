//! What is asked of a picture, and how question and answer go through a pipe: CBOR, the question's length before it, the picture after.

use eddymist_check::{LineGuide, Manifest, guide::Page};
use eddymist_formats::Given;
use eddymist_measure::{
    inked::InkedPage,
    scan::{LineMeasurement, LineView, mark::Mark},
    sheet::Marked,
    source::Source,
};
use serde::{Deserialize, Serialize};

/// What is asked of a picture.
#[derive(Serialize, Deserialize)]
pub(crate) enum Ask {
    /// A drawing held against a guide.
    Weigh { guide: Box<LineGuide>, file: String, manifest: Manifest, icc: Option<Vec<u8>> },
    /// The ink across a line at a place.
    Across { guide: Box<LineGuide>, at: [f64; 2], normal_deg: f64 },
    /// The lines of a model sheet.
    ModelSheet,
    /// A role made of some lines of a model sheet.
    Role { page: Page, name: String, lines: Vec<usize> },
    /// Ruled lines of a scan, or of `area`, px: left, top, width, height.
    Lines { given: Given, area: Option<[usize; 4]> },
    /// All lines of a scan, of any course.
    Inked { given: Given },
    /// Flicks and dots marked on a scan, or on a photo laid flat.
    Marks { given: Given, marks: Vec<Mark> },
    /// A sampler sheet.
    Sheet { given: Given, marked: Vec<Marked> },
    /// A PNG of at most `side` px to a side.
    Preview { side: u32, flat: bool },
    /// The picture's pixels as a PNG.
    Png,
    /// The photo of a sheet, or of lines beside a card, laid flat, as a PNG.
    Laid,
    /// A tip.
    Tip,
    /// The lines of an SVG.
    Paths,
}

/// Why a picture gives nothing.
#[derive(Serialize, Deserialize)]
pub(crate) struct Refused {
    pub message: String,
    /// The file states no resolution, and none was given.
    pub no_resolution: bool,
}

/// The ruled lines of a scan, or of a photo laid flat.
#[derive(Serialize, Deserialize)]
pub struct Lines {
    pub width_px: usize,
    pub height_px: usize,
    pub dpi: f64,
    /// None where there is no line; `why` says so.
    pub measured: Option<(LineMeasurement, Vec<LineView>)>,
    pub why: String,
}

/// All lines of a scan.
#[derive(Serialize, Deserialize)]
pub struct Inked {
    pub page: InkedPage,
    pub dpi: f64,
    pub source: Source,
}

/// A tip, laid level: coverage 0 to 1, and by how much it was turned.
#[derive(Serialize, Deserialize)]
pub struct Tip {
    pub width: usize,
    pub height: usize,
    pub coverage: Vec<f32>,
    pub turned_deg: f64,
}

/// What a reader may take, said by it before it begins.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Allowance {
    pub bytes: u64,
    pub seconds: u64,
}

impl Allowance {
    /// So much whatever the picture is, and at most; per pixel that it declares.
    const BYTES: u64 = 512 << 20;
    const PIXEL_BYTES: u64 = 18;
    const MOST_BYTES: u64 = 2 << 30;
    const SECONDS: f64 = 10.0;
    const MEGAPIXEL_SECONDS: f64 = 0.25;

    pub fn new(pixels: u64) -> Self {
        Self {
            bytes: (Self::BYTES + pixels.saturating_mul(Self::PIXEL_BYTES)).min(Self::MOST_BYTES),
            seconds: (Self::SECONDS + Self::MEGAPIXEL_SECONDS * pixels as f64 / 1e6).ceil() as u64,
        }
    }

    pub fn most() -> Self {
        Self::new(eddymist_formats::LIMITS.layer_pixels)
    }
}
