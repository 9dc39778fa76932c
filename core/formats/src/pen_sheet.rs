//! A sampler sheet that comes back: a scan, or pixels inked in any program (PNG, TIFF, JPEG, or OpenRaster with its own
//! merged picture), to what it tells of the pen.

use std::io::{Cursor, Read};

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_measure::{
    scan::{RepeatingStrip, Scan},
    sheet::{self, Marked, SheetReading},
};

use crate::{
    ReadError,
    images::{self, PngKind, write_png},
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
#[derive(Debug, Clone, PartialEq)]
pub struct PenSheet {
    pub width_px: usize,
    pub height_px: usize,
    pub reading: SheetReading,
    pub strip_png: Option<String>,
    /// How far the strip's edges miss one another at the seam, µm.
    pub strip_mismatch_um: Option<f64>,
}

/// Reads a sheet at the file's resolution, or at `dpi` where given; some cells lie where they were marked by hand.
pub fn read(bytes: &[u8], dpi: Option<f64>, marked: &[Marked]) -> Result<PenSheet, PenSheetError> {
    let scan = picture(bytes, dpi)?;
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

fn picture(bytes: &[u8], dpi: Option<f64>) -> Result<Scan, ReadError> {
    if !bytes.starts_with(b"PK") {
        return images::scan(bytes, dpi);
    }
    let (merged, stated) = merged(bytes)?;
    images::scan(&merged, dpi.or_else(|| images::resolution(&merged)).or(stated))
}

/// The merged picture of an OpenRaster file as PNG, and the resolution that its stack states.
pub(crate) fn merged(bytes: &[u8]) -> Result<(Vec<u8>, Option<f64>), ReadError> {
    let bad = |e: &dyn std::fmt::Display| ReadError::Ora(e.to_string());
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|e| bad(&e))?;
    let mut entry = |name: &str, most: u64| -> Result<Vec<u8>, ReadError> {
        let file = zip.by_name(name).map_err(|_| bad(&format!("it has no {name}")))?;
        let mut data = Vec::new();
        file.take(most).read_to_end(&mut data).map_err(|e| bad(&e))?;
        Ok(data)
    };
    let merged = entry("mergedimage.png", 256 << 20)?;
    let xml = String::from_utf8(entry("stack.xml", 1 << 20)?).unwrap_or_default();
    let stated = roxmltree::Document::parse(&xml).ok().and_then(|d| d.root_element().attribute("xres")?.parse::<f64>().ok());
    Ok((merged, stated.filter(|d| *d >= 100.0)))
}
