//! The classified picture: how much ink is in each pixel, and whose.
//!
//! Where it lies in runs, which pixels hold any, and how far each lies from the outside of its ink.

use super::Blend;

/// Paper, or ink of no role.
pub const NONE: u8 = 255;

/// Ink of no role's colour.
pub const OFF: u8 = 254;

/// Coverage from which a pixel is in the mask.
pub const HALF: u8 = 128;
/// Coverage from which ink hangs together, in 255ths: faint specks are seen too.
pub const INK_FROM: u8 = 64;

/// A horizontal run of mask pixels of one role: `x0..x1` in row `y`.
#[derive(Debug, Clone, Copy)]
pub struct Run {
    pub y: u32,
    pub x0: u32,
    pub x1: u32,
    pub role: u8,
}

/// What a pixel is: side by side, since one is seldom asked for without the other.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pixel {
    /// Coverage 0…255.
    pub coverage: u8,
    /// Role index, [`OFF`] or [`NONE`].
    pub role: u8,
}

/// Paper.
pub const PAPER: Pixel = Pixel { coverage: 0, role: NONE };

/// The classified picture.
pub struct Ink {
    pub width: usize,
    pub height: usize,
    pub pixels: Vec<Pixel>,
    pub runs: Vec<Run>,
    /// Pixels with any ink, in reading order.
    pub touched: Vec<u32>,
    /// Squared distance in px² from mask pixels to the nearest other pixel, saturated.
    pub distance2: Vec<u16>,
    pub role_px2: Vec<f64>,
    /// How opaque each role's commonest ink is, 0…1.
    pub opacity: Vec<f64>,
    /// Each role's ink that is masked as tone and stands in no lattice.
    pub toned_px2: Vec<f64>,
    pub off_palette_px2: f64,
    pub blend: Blend,
}

impl Ink {
    /// Distance in px from a mask pixel to the nearest pixel outside its ink.
    pub fn distance(&self, i: usize) -> f64 {
        f64::from(self.distance2[i]).sqrt()
    }
}

/// The class of masked ink that is solid: a spotted black.
pub const MASKED: u8 = 253;

/// The class of masked ink that is tone or lettering.
pub const TEXTURE: u8 = 252;

/// An empty picture, to be filled by a test.
#[cfg(test)]
pub fn blank(width: usize, height: usize) -> Ink {
    Ink {
        width,
        height,
        pixels: vec![PAPER; width * height],
        runs: Vec::new(),
        touched: Vec::new(),
        distance2: vec![0; width * height],
        role_px2: vec![0.0],
        toned_px2: vec![0.0],
        opacity: vec![1.0],
        off_palette_px2: 0.0,
        blend: Blend::Encoded,
    }
}
