//! A function for each thing that can be asked of a picture; each starts a reader and waits for it.

use eddymist_check::{
    LineGuide, Manifest, WeighedDrawing,
    guide::Page,
    model::{ModelSheet, RoleRead},
    plan,
};
use eddymist_formats::{Given, pen_sheet::PenSheet, svg_paths::SvgPaths};
use eddymist_measure::{
    scan::mark::{Mark, MarkedStroke},
    sheet::Marked,
};
use serde_bytes::ByteBuf;

pub use crate::ask::{Inked, Lines, Tip};
use crate::{Unread, ask::Ask, parent::asked};

/// A drawing held against a guide.
pub fn weigh(guide: &LineGuide, file: &str, bytes: &[u8], manifest: &Manifest) -> Result<WeighedDrawing, Unread> {
    weigh_by(guide, file, bytes, manifest, None)
}

/// The same by an ICC profile in the place of the file's own.
pub fn weigh_by(guide: &LineGuide, file: &str, bytes: &[u8], manifest: &Manifest, icc: Option<Vec<u8>>) -> Result<WeighedDrawing, Unread> {
    asked(&Ask::Weigh { guide: Box::new(guide.clone()), file: file.into(), manifest: manifest.clone(), icc }, bytes)
}

/// The ink across a line at a place in px of the drawing, the normal in degrees.
pub fn across(guide: &LineGuide, bytes: &[u8], at: [f64; 2], normal_deg: f64) -> Result<plan::Across, Unread> {
    asked(&Ask::Across { guide: Box::new(guide.clone()), at, normal_deg }, bytes)
}

/// The lines of a model sheet.
pub fn model_sheet(bytes: &[u8]) -> Result<ModelSheet, Unread> {
    asked(&Ask::ModelSheet, bytes)
}

/// A role made of some lines of a model sheet, by their numbers on it.
pub fn role(bytes: &[u8], page: &Page, name: &str, lines: &[usize]) -> Result<RoleRead, Unread> {
    asked(&Ask::Role { page: *page, name: name.into(), lines: lines.to_vec() }, bytes)
}

/// Ruled lines of a scan, or of an area of it, px: left, top, width, height.
pub fn lines(bytes: &[u8], given: Given, area: Option<[usize; 4]>) -> Result<Lines, Unread> {
    asked(&Ask::Lines { given, area }, bytes)
}

/// All lines of a scan, of any course, with their widths.
pub fn inked(bytes: &[u8], given: Given) -> Result<Inked, Unread> {
    asked(&Ask::Inked { given }, bytes)
}

/// Flicks and dots marked on a scan, or on a photo laid flat: each a stroke, or why there is none.
pub fn marks(bytes: &[u8], given: Given, marks: &[Mark]) -> Result<Vec<Result<MarkedStroke, String>>, Unread> {
    asked(&Ask::Marks { given, marks: marks.to_vec() }, bytes)
}

/// A sampler sheet, some of its cells where they were marked by hand.
pub fn sheet(bytes: &[u8], given: Given, marked: &[Marked]) -> Result<PenSheet, Unread> {
    asked(&Ask::Sheet { given, marked: marked.to_vec() }, bytes)
}

/// A PNG of at most `side` px to a side, with the paper's shading divided out where that is wanted.
pub fn preview(bytes: &[u8], side: u32, flat: bool) -> Result<Vec<u8>, Unread> {
    asked::<ByteBuf>(&Ask::Preview { side, flat }, bytes).map(ByteBuf::into_vec)
}

/// The picture's pixels as a PNG.
pub fn png(bytes: &[u8]) -> Result<Vec<u8>, Unread> {
    asked::<ByteBuf>(&Ask::Png, bytes).map(ByteBuf::into_vec)
}

/// The photo of a sheet, or of lines beside a card, laid flat, as its reading has it: a PNG.
pub fn laid_flat(bytes: &[u8]) -> Result<Vec<u8>, Unread> {
    asked::<ByteBuf>(&Ask::Laid, bytes).map(ByteBuf::into_vec)
}

/// A tip, laid level.
pub fn tip(bytes: &[u8]) -> Result<Tip, Unread> {
    asked(&Ask::Tip, bytes)
}

/// The lines of an SVG.
pub fn paths(bytes: &[u8]) -> Result<SvgPaths, Unread> {
    asked(&Ask::Paths, bytes)
}
