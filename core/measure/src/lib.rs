//! From pictures to widths: ruled lines in a scan, and the lines of a drawing with their weight along the way.
//!
//! Pictures come in as pixel arrays; files, colour profiles and resolution are the callers' matter.

mod bilinear;
pub mod carded;
pub mod colour;
pub mod course;
pub mod drawing;
pub mod inked;
pub mod scan;
mod seen;
pub mod sheet;
pub mod source;
pub mod stats;

/// An end is tapered when 90 % of the body's width is reached further than this many widths from the tip (methods.md, section 6).
pub const TAPER_WIDTHS: f64 = 1.5;

/// A picture of 8-bit sRGB with straight alpha, row by row, four bytes a pixel.
#[derive(Debug, Clone, Copy)]
pub struct Picture<'a> {
    pub width: usize,
    pub height: usize,
    pub rgba: &'a [u8],
    pub kind: source::Kind,
}

impl<'a> Picture<'a> {
    /// A drawing's picture over `rgba`; none when the number of bytes does not fit the sides or a side is 0.
    pub fn new(width: usize, height: usize, rgba: &'a [u8]) -> Option<Self> {
        (width > 0 && height > 0 && rgba.len() == width * height * 4).then_some(Self { width, height, rgba, kind: source::Kind::Drawing })
    }

    /// The same pixels as a picture of another kind.
    pub fn of_kind(self, kind: source::Kind) -> Self {
        Self { kind, ..self }
    }

    pub(crate) fn pixel(&self, i: usize) -> [u8; 4] {
        let p = &self.rgba[4 * i..4 * i + 4];
        [p[0], p[1], p[2], p[3]]
    }
}
