//! Ruled lines in a scan: where they lie, how wide they are, how ragged and blurred their edges, how they end.
//!
//! Follows ISO/IEC 13660 for raggedness (deviation of an edge about its fitted line, at the 60 % threshold) and
//! blurriness (10 % to 90 % distance of an edge).

pub mod beside;
mod bleed;
pub(crate) mod bow;
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
mod views;
mod wander;

pub use document::{FORMAT, LineEnd, LineMeasurement, MeasuredLine, STANDARD_WIDTHS_MM, WidthStats, nearest_standard};
pub use page::{Scan, ScanError};
pub use paper::without_shading;
pub use repeat::repeat;
pub use views::{LineView, RepeatingStrip, Strip};

/// Measures all ruled lines of a scan, top to bottom.
pub fn measure(scan: &Scan) -> Result<(LineMeasurement, Vec<LineView>), ScanError> {
    scan.check()?;
    let mut warnings = Vec::new();
    let flat = paper::flatten(scan, &mut warnings);
    let candidates = find::lines(&flat, scan.dpi);
    let mut straight: Vec<profile::Straight> = candidates.iter().filter_map(|c| profile::straighten(&flat, scan.dpi, c)).collect();
    if straight.is_empty() {
        return Err(ScanError::NoLine);
    }
    let ink = levels::ink(&straight, &mut warnings);
    straight.sort_by(|a, b| a.middle_y().total_cmp(&b.middle_y()));
    let views: Vec<LineView> = straight.iter().filter_map(|s| edges::line(s, &ink)).collect();
    if views.is_empty() {
        return Err(ScanError::NoLine);
    }
    let widths: Vec<f64> = views.iter().map(|v| v.figures.width_mm.mean).collect();
    let document = LineMeasurement {
        format: FORMAT.into(),
        version: 1,
        resolution_dpi: scan.dpi,
        source: None,
        lines: views.iter().map(|v| v.figures.clone()).collect(),
        nearest_standard_width_mm: crate::stats::median(&widths).and_then(nearest_standard),
        warnings,
    };
    Ok((document, views))
}
