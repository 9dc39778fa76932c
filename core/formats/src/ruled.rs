//! A picture of ruled lines: a scan, or a photo with a card beside the lines, to what is measured of it.

use eddymist_measure::{
    carded::{self, CardedError},
    scan::{self, LineMeasurement, LineView, Scan, ScanError},
    source::{Kind, Origin, Source},
};

use crate::{Given, Limits, ReadError, images, pen_sheet::flat_png};

/// What a photo of no resolution is decoded at; nothing is measured by it.
const PHOTO_DPI: f64 = 300.0;

/// Why a picture of ruled lines is not read.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum RuledError {
    #[error(transparent)]
    File(#[from] ReadError),
    #[error(transparent)]
    Photo(#[from] CardedError),
    #[error(transparent)]
    Scan(#[from] ScanError),
    #[error("--area is a part of a scan: a photo is laid flat first, whole")]
    Area,
    #[error("--area lies outside the scan of {0}×{1} px")]
    Outside(usize, usize),
}

/// What was measured, and the sides of the picture that places are in: the scan, or the photo laid flat.
pub struct Ruled {
    pub width_px: usize,
    pub height_px: usize,
    pub dpi: f64,
    /// Its `NoLine` is no refusal: something can still be marked on a scan.
    pub measured: Result<(LineMeasurement, Vec<LineView>), ScanError>,
}

/// The picture and what is known of it; whether it is a photo, by its file, by what it shows or as it is said to be. A camera's picture whose
/// resolution was given is what a person says that it is: a scan.
fn picture(bytes: &[u8], given: &Given, limits: &Limits) -> Result<(Scan, Source, bool), ReadError> {
    let mut source = images::scan_source(bytes, given, limits)?;
    let unsaid = given.dpi.is_none() && images::resolutions(bytes).is_none();
    let any = Given { dpi: given.dpi.or(unsaid.then_some([PHOTO_DPI; 2])), ..given.clone() };
    let scan = images::scan_of(bytes, &any, limits)?;
    let mut photo = source.kind == Kind::Photo && (given.dpi.is_none() || source.from.kind == Origin::Stated);
    if unsaid && !photo {
        if source.from.kind == Origin::Stated || !carded::has_card(&scan) {
            return Err(ReadError::NoResolution);
        }
        (source.kind, source.from.kind, source.assumed, photo) = (Kind::Photo, Origin::Measured, Vec::new(), true);
    }
    if photo {
        source.from.resolution = Some(Origin::Measured);
    }
    Ok((scan, source, photo))
}

/// Measures the ruled lines of a picture, or of an area of a scan, px: left, top, width, height.
pub fn read(bytes: &[u8], given: &Given, area: Option<[usize; 4]>, limits: &Limits) -> Result<Ruled, RuledError> {
    let (mut scan, source, photo) = picture(bytes, given, limits)?;
    let sourced = |(document, views): (LineMeasurement, Vec<LineView>)| (LineMeasurement { source: Some(source), ..document }, views);
    if photo {
        if area.is_some() {
            return Err(RuledError::Area);
        }
        let (document, views, flat) = carded::measure(&scan)?;
        return Ok(Ruled { width_px: flat.width, height_px: flat.height, dpi: flat.dpi, measured: Ok(sourced((document, views))) });
    }
    let (width_px, height_px, dpi) = (scan.width, scan.height, scan.dpi);
    if let Some(area) = area {
        scan = cut(&scan, area).ok_or(RuledError::Outside(width_px, height_px))?;
    }
    let measured = match scan::measure(&scan) {
        Err(e) if e != ScanError::NoLine => return Err(e.into()),
        other => other.map(sourced),
    };
    Ok(Ruled { width_px, height_px, dpi, measured })
}

/// The picture that places of lines are in: the scan, or the photo laid flat.
pub fn laid(bytes: &[u8], given: &Given, limits: &Limits) -> Result<Scan, RuledError> {
    let (scan, _, photo) = picture(bytes, given, limits)?;
    Ok(if photo { carded::lay_flat(&scan)?.flat } else { scan })
}

/// A photo of lines beside a card, laid flat: a grey PNG with its resolution.
pub fn laid_flat(bytes: &[u8], limits: &Limits) -> Result<Vec<u8>, RuledError> {
    Ok(flat_png(&laid(bytes, &Given { kind: Some(Kind::Photo), ..Given::default() }, limits)?)?)
}

fn cut(s: &Scan, [x, y, w, h]: [usize; 4]) -> Option<Scan> {
    let fits = x.checked_add(w).is_some_and(|r| r <= s.width) && y.checked_add(h).is_some_and(|b| b <= s.height) && w > 0 && h > 0;
    let data = || (y..y + h).flat_map(|row| s.data[row * s.width + x..row * s.width + x + w].iter().copied()).collect();
    fits.then(|| Scan { width: w, height: h, data: data(), dpi: s.dpi })
}
