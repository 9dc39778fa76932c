//! Whether a picture is a drawing, a scan or a photo.
//!
//! How: signs from the pixels and from the file vote; none decides alone, and where the vote is close that is said. Weights are from pictures of
//! our own stand-ins and of outside renderers; common practice, no source.

use eddymist_measure::{
    drawing::signs::Signs,
    source::{Kind, Origin},
};

/// What a file says of itself that bears on its kind.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(crate) struct FileSigns {
    pub resolution: bool,
    pub jpeg: bool,
    /// A camera has written it.
    pub camera: bool,
    /// A scanner has.
    pub scanner: bool,
}

/// A kind, where it is from, and whether it is a close call.
pub(crate) struct Vote {
    pub kind: Kind,
    pub from: Origin,
    pub close: bool,
}

/// Votes nearer to nothing than this are close.
const CLOSE: f64 = 1.0;

/// `all_round`: whether something dark lies about the sheet on all sides, which is asked only where it tells.
pub(crate) fn vote(pixels: &Signs, file: &FileSigns, all_round: impl FnOnce() -> bool) -> Vote {
    if file.camera {
        return Vote { kind: Kind::Photo, from: Origin::File, close: false };
    }
    if pixels.clear {
        return Vote { kind: Kind::Drawing, from: Origin::Measured, close: false };
    }
    // Compression takes a fine grain away, and leaves its shades block by block; paper that was drawn has one.
    let compressed = file.jpeg && pixels.has_shades();
    let paper = match pixels.paper_grain {
        g if g > 0.5 => 2.0,
        g if g > 0.15 => 0.5,
        g if g > 0.02 => -1.0,
        _ if compressed => 0.5,
        _ => -2.0,
    };
    let ink = match pixels.ink_grain {
        // Ink that is even nowhere at all, and not by compression.
        Some(g) if g > 0.9 && !file.jpeg => 3.0,
        Some(g) if g > 0.5 => 2.0,
        Some(g) if g > 0.15 => 1.0,
        _ if compressed => 0.0,
        Some(g) if g < 0.03 => -3.0,
        Some(_) => -1.0,
        None => 0.0,
    };
    let edge = match pixels.edge_px {
        Some(e) if e >= 3.0 => 1.5,
        Some(e) if e >= 2.0 => 0.5,
        Some(_) => -1.5,
        None => 0.0,
    };
    // Another colour than the paper's, repeated exactly over whole patches, is no lens's.
    let paint = if pixels.paints > 0.01 && !compressed { -2.0 } else { 0.0 };
    let said = f64::from(u8::from(file.resolution)) + 0.5 * f64::from(u8::from(file.jpeg)) + 3.0 * f64::from(u8::from(file.scanner));
    let sum = paper + ink + edge + paint + said;
    // No scanner's glass is wider than its sheet on all sides, unless its file says that it is a scan.
    if sum >= 0.0 && !file.resolution && !file.scanner && all_round() {
        return Vote { kind: Kind::Photo, from: Origin::Measured, close: sum.abs() < CLOSE };
    }
    Vote { kind: if sum >= 0.0 { Kind::Scan } else { Kind::Drawing }, from: Origin::Measured, close: sum.abs() < CLOSE }
}
