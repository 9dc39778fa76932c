//! A sampler sheet that comes back: a scan, or pixels inked in any program (PNG, TIFF, JPEG, or OpenRaster with its own
//! merged picture), to what it tells of the pen.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_measure::{
    scan::{RepeatingStrip, Scan},
    sheet::{self, Marked, SheetReading},
};

use serde::{Deserialize, Serialize};

use crate::{
    Limits, ReadError,
    images::{self, PngKind, write_png},
    openraster::merged,
};

/// Why a file gives no reading.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum PenSheetError {
    #[error(transparent)]
    File(#[from] ReadError),
    #[error(transparent)]
    Sheet(#[from] sheet::SheetError),
}

/// What a sheet told, and its levelled strip as a PNG in a data URI.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PenSheet {
    pub width_px: usize,
    pub height_px: usize,
    pub reading: SheetReading,
    pub strip_png: Option<String>,
    /// How far the strip's edges miss one another at the seam, µm.
    pub strip_mismatch_um: Option<f64>,
}

/// Reads a sheet at the file's resolution, or at `dpi` where given; some cells lie where they were marked by hand.
pub fn read(bytes: &[u8], dpi: Option<[f64; 2]>, marked: &[Marked], limits: &Limits) -> Result<PenSheet, PenSheetError> {
    let scan = picture(bytes, dpi, limits)?;
    let (reading, strip) = sheet::read(&scan, marked)?;
    let strip_png = strip.as_ref().map(strip_uri).transpose()?;
    Ok(PenSheet { width_px: scan.width, height_px: scan.height, reading, strip_png, strip_mismatch_um: strip.map(|s| s.mismatch_um) })
}

/// A repeating strip as grey coverage (black is ink), with its resolution.
pub fn strip_png(s: &RepeatingStrip) -> Result<Vec<u8>, ReadError> {
    let grey: Vec<u8> = s.strip.data.iter().map(|c| 255 - (c * 255.0).round() as u8).collect();
    write_png(s.strip.columns, s.strip.rows, PngKind::Grey, &grey, Some(1.0 / s.strip.px_mm))
}

/// The same as a data URI.
pub fn strip_uri(s: &RepeatingStrip) -> Result<String, ReadError> {
    Ok(format!("data:image/png;base64,{}", STANDARD.encode(strip_png(s)?)))
}

fn picture(bytes: &[u8], dpi: Option<[f64; 2]>, limits: &Limits) -> Result<Scan, ReadError> {
    if !bytes.starts_with(b"PK") {
        return images::scan_of(bytes, dpi, limits);
    }
    let (merged, stated) = merged(bytes, limits)?;
    images::scan_of(&merged, dpi.or_else(|| images::resolutions(&merged)).or(stated.map(|d| [d; 2])), limits)
}
