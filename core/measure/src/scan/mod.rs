//! Ruled lines in a scan: where they lie, how wide they are, how ragged and blurred their edges, how they end.
//!
//! Follows ISO/IEC 13660 for raggedness (deviation of an edge about its fitted line, at the 60 % threshold) and
//! blurriness (10 % to 90 % distance of an edge).

mod document;
pub(crate) mod edges;
pub(crate) mod find;
pub(crate) mod levels;
pub mod mark;
pub(crate) mod profile;
mod repeat;

pub use repeat::{RepeatingStrip, repeat};

pub use document::{FORMAT, LineEnd, LineMeasurement, MeasuredLine, STANDARD_WIDTHS_MM, WidthStats, nearest_standard};

/// A scan as linear-light reflectance 0…1, row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
    pub dpi: f64,
}

impl Scan {
    /// The same with its paper divided out: light against the paper's, 1 on paper.
    pub fn without_shading(&self) -> Vec<f32> {
        levels::without_paper(&self.data, self.width, self.height, &|_, _| true).absorptance.into_iter().map(|a| (1.0 - a).clamp(0.0, 1.0)).collect()
    }

    fn check(&self) -> Result<(), ScanError> {
        if !(50.0..=10_000.0).contains(&self.dpi) {
            return Err(ScanError::Resolution(self.dpi));
        }
        if self.width < 16 || self.height < 16 || self.data.len() != self.width * self.height {
            return Err(ScanError::TooSmall { width: self.width, height: self.height });
        }
        Ok(())
    }
}

/// Why no line could be measured.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ScanError {
    #[error("no ruled line was found; a line must be darker than its paper, fairly straight and at least 5 mm long")]
    NoLine,
    #[error("the picture is too small to measure ({width}×{height} px); scan at 300 dpi or more")]
    TooSmall { width: usize, height: usize },
    #[error("the resolution must lie between 50 and 10000 dpi, not {0}")]
    Resolution(f64),
}

/// One line with what a page needs to show it: the figures, and the picture they came from.
#[derive(Debug, Clone, PartialEq)]
pub struct LineView {
    pub figures: MeasuredLine,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    /// Step along the line, mm, of `left`, `right` and `width_mm`.
    pub step_mm: f64,
    /// Edges at the 60 % threshold, mm to either side of the fitted line (left of the direction is negative).
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    pub width_mm: Vec<f64>,
    /// The straightened line: absorptance over the ink's, rows across the line.
    pub strip: Strip,
    /// The longest part of the body that repeats, at the scan's own resolution.
    pub repeating: Option<RepeatingStrip>,
    /// Of the edges about their lines: lag in µm, correlation. Empty where they are too smooth to tell.
    pub autocorrelation: Vec<[f64; 2]>,
}

/// A straightened picture of a line, coverage 0…1, `rows` across and `columns` along it.
#[derive(Debug, Clone, PartialEq)]
pub struct Strip {
    pub columns: usize,
    pub rows: usize,
    pub px_mm: f64,
    pub data: Vec<f32>,
}

/// Measures all ruled lines of a scan, top to bottom.
pub fn measure(scan: &Scan) -> Result<(LineMeasurement, Vec<LineView>), ScanError> {
    scan.check()?;
    let mut warnings = Vec::new();
    let flat = levels::flatten(scan, &mut warnings);
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
        lines: views.iter().map(|v| v.figures.clone()).collect(),
        nearest_standard_width_mm: crate::stats::median(&widths).and_then(nearest_standard),
        warnings,
    };
    Ok((document, views))
}
