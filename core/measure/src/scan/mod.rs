//! Ruled lines in a scan: where they lie, how wide they are, how ragged and blurred their edges, how they end.
//!
//! Follows ISO/IEC 13660 for raggedness (deviation of an edge about its fitted line, at the 60 % threshold) and
//! blurriness (10 % to 90 % distance of an edge).

mod band;
pub mod beside;
mod bleed;
pub(crate) mod bow;
mod clipped;
pub(crate) mod cuts;
mod document;
pub(crate) mod edges;
pub(crate) mod find;
mod ground;
pub(crate) mod levels;
pub mod mark;
mod page;
pub(crate) mod paper;
pub(crate) mod profile;
mod repeat;
pub(crate) mod sampled;
pub(crate) mod shown;
mod solid;
pub(crate) mod stretch;
mod views;
pub mod wander;

pub(crate) use document::nearest_of;
pub use document::{CardPhoto, FORMAT, LineEnd, LineMeasurement, MeasuredLine, STANDARD_WIDTHS_MM, WidthStats, nearest_standard};
pub use page::{Scan, ScanError};
pub use paper::without_shading;
pub use repeat::repeat;
pub use views::{LineView, RepeatingStrip, Strip};

/// Measures all ruled lines of a scan, top to bottom.
pub fn measure(scan: &Scan) -> Result<(LineMeasurement, Vec<LineView>), ScanError> {
    scan.check()?;
    let mut warnings = Vec::new();
    let flat = paper::flatten(scan, &mut warnings);
    of_flat(&flat, scan.dpi, warnings)
}

/// All ruled lines of it, straightened.
pub(crate) fn straightened(flat: &paper::Flat, dpi: f64) -> Vec<profile::Straight> {
    find::lines(flat, dpi).iter().filter_map(|c| profile::straighten(flat, dpi, c)).collect()
}

/// The same of absorptance, whose paper has been divided out.
pub(crate) fn of_flat(flat: &paper::Flat, dpi: f64, mut warnings: Vec<String>) -> Result<(LineMeasurement, Vec<LineView>), ScanError> {
    let mut straight = straightened(flat, dpi);
    let pieces = straight.len();
    straight.retain(solid::is_line);
    solid::leave_stems(&mut straight);
    warnings.extend(solid::said(pieces - straight.len()));
    if straight.is_empty() {
        return Err(ScanError::NoLine);
    }
    let ink = levels::ink(&straight, flat.lost, || cuts::shown(&flat.data, flat.width, flat.height, flat.grain, false, &|_| true), &mut warnings);
    straight.sort_by(|a, b| a.middle_y().total_cmp(&b.middle_y()));
    let views: Vec<LineView> = straight.iter().filter_map(|s| edges::line(s, &ink)).collect();
    if views.is_empty() {
        return Err(ScanError::NoLine);
    }
    let lines: Vec<MeasuredLine> = views.iter().map(|v| v.figures.clone()).collect();
    let document = LineMeasurement {
        format: FORMAT.into(),
        version: 1,
        resolution_dpi: dpi,
        source: None,
        photo: None,
        nearest_standard_width_mm: document::nearest_of(&lines),
        lines,
        warnings,
    };
    Ok((document, views))
}
