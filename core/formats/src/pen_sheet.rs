//! A sampler sheet that comes back: a scan, or pixels inked in any program (PNG, TIFF, JPEG, or OpenRaster with its own
//! merged picture), to what it tells of the pen.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_measure::{
    colour::encode_f64,
    scan::{RepeatingStrip, Scan},
    sheet::{self, Marked, SheetReading},
    source::{Kind, Origin, Origins, Source},
};

use serde::{Deserialize, Serialize};

use crate::{
    Given, Limits, ReadError,
    heads::camera,
    images::{self, PngKind, write_png},
    openraster::merged,
};

/// What a photo of no resolution is decoded at; nothing is measured by it.
const PHOTO_DPI: f64 = 300.0;

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
    pub source: Source,
    pub strip_png: Option<String>,
    /// How far the strip's edges miss one another at the seam, µm.
    pub strip_mismatch_um: Option<f64>,
}

/// Reads a sheet at the file's resolution, or at that which was given; some cells lie where they were marked by hand. A photo, by its file, by
/// what it shows or as it is said to be, needs no resolution.
pub fn read(bytes: &[u8], given: &Given, marked: &[Marked], limits: &Limits) -> Result<PenSheet, PenSheetError> {
    let (scan, source) = picture(bytes, given, limits)?;
    let (reading, strip, [width_px, height_px]) = if source.kind == Kind::Photo {
        let (reading, sides) = sheet::read_photo(&scan, marked)?;
        (reading, None, sides)
    } else {
        let (reading, strip) = sheet::read(&scan, marked)?;
        (reading, strip, [scan.width, scan.height])
    };
    let strip_png = strip.as_ref().map(strip_uri).transpose()?;
    Ok(PenSheet { width_px, height_px, reading, source, strip_png, strip_mismatch_um: strip.map(|s| s.mismatch_um) })
}

/// The photo of a sheet laid flat, as its reading has it: a grey PNG with its resolution.
pub fn laid_flat(bytes: &[u8], limits: &Limits) -> Result<Vec<u8>, PenSheetError> {
    let given = Given { kind: Some(Kind::Photo), ..Given::default() };
    Ok(flat_png(&sheet::lay_flat(&picture(bytes, &given, limits)?.0)?)?)
}

/// A photo that was laid flat as a grey PNG, with its resolution.
pub(crate) fn flat_png(flat: &Scan) -> Result<Vec<u8>, ReadError> {
    let grey: Vec<u8> = flat.data.iter().map(|v| (encode_f64(f64::from(*v)).clamp(0.0, 1.0) * 255.0).round() as u8).collect();
    write_png(flat.width, flat.height, PngKind::Grey, &grey, Some(flat.dpi / 25.4))
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

fn picture(bytes: &[u8], given: &Given, limits: &Limits) -> Result<(Scan, Source), ReadError> {
    if !bytes.starts_with(b"PK") {
        let mut source = images::scan_source(bytes, given, limits)?;
        // A photo's scale is the sheet's; where nothing is said, the picture itself tells whether it is one.
        if given.kind == Some(Kind::Photo) && camera(bytes).camera {
            source.from.kind = Origin::File;
        }
        let unsaid = given.dpi.is_none() && images::resolutions(bytes).is_none();
        let any = Given { dpi: given.dpi.or(unsaid.then_some([PHOTO_DPI; 2])), ..given.clone() };
        let scan = images::scan_of(bytes, &any, limits)?;
        if source.kind != Kind::Photo && source.from.kind != Origin::Stated && sheet::is_photo(&scan) {
            (source.kind, source.from.kind, source.assumed) = (Kind::Photo, Origin::Measured, Vec::new());
        }
        if source.kind == Kind::Photo {
            source.from.resolution = Some(Origin::Measured);
        } else if unsaid {
            return Err(ReadError::NoResolution);
        }
        return Ok((scan, source));
    }
    // Layers are no scanner's.
    let (merged, stated) = merged(bytes, limits)?;
    let dpi = given.dpi.or_else(|| images::resolutions(&merged)).or(stated.map(|d| [d; 2]));
    let scan = images::scan_of(&merged, &Given { dpi, icc: None, kind: None }, limits)?;
    let of = |said: bool| if said { Origin::Stated } else { Origin::File };
    let from = Origins { kind: of(given.kind.is_some()), light: Origin::File, resolution: Some(of(given.dpi.is_some())) };
    Ok((scan, Source { kind: given.kind.unwrap_or(Kind::Drawing), from, ..Source::default() }))
}
