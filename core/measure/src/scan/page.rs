//! A scan as it is given, and why no line of it can be measured.

/// A scan as linear-light reflectance 0…1, row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Scan {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
    pub dpi: f64,
}

impl Scan {
    pub(crate) fn check(&self) -> Result<(), ScanError> {
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
    #[error("no ruled line was found; a line must be darker than its paper, fairly straight, in one stroke, at least 5 mm long and cross no other")]
    NoLine,
    #[error("no ink was found on the page; lines must be darker than their paper")]
    NoInk,
    #[error("the picture is too small to measure ({width}×{height} px); scan at 300 dpi or more")]
    TooSmall { width: usize, height: usize },
    #[error("the resolution must lie between 50 and 10000 dpi, not {0}")]
    Resolution(f64),
}
