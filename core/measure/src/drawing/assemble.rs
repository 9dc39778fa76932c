//! From classified pixels to the ink of a picture: the runs that its mask is made of, and how much ink each class has.
//!
//! How: band by band, as the pixels were classified; no run goes from one band to the next, since each begins with a row. Where two lines
//! nearly touch, the pixels of the valley between them are in no run, though more than half of each is ink. Ink that is full of valleys is a
//! textured brush's, and is evened out (`textured`). Limits: valleys are looked for in clean drawings only; a scan's grain is full of them.

use rayon::prelude::*;

use super::{
    Blend, Plan,
    ink::{HALF, Ink, OFF, Pixel, Run},
    textured,
};

/// Pixels with any ink in some rows, and those of them that are not full, in reading order.
#[derive(Default)]
pub(super) struct Band {
    pub(super) touched: Vec<u32>,
    pub(super) faint: Vec<u32>,
}

/// Ink of which more than this share lies in small valleys, and in so many of them, has a grain of its own.
const GRAINY: f64 = 0.02;
const MANY: usize = 40;

/// The ink of a picture whose pixels are classified.
pub(super) fn assemble(
    (width, height): (usize, usize),
    mut pixels: Vec<Pixel>,
    distance2: Vec<u16>,
    bands: &[Band],
    plan: &Plan,
    blend: Blend,
    clean: bool,
) -> Ink {
    let mut found: Vec<Runs> = bands.par_iter().map(|b| runs(&pixels, width, &b.touched, clean)).collect();
    let mut touched = bands.iter().map(|b| &b.touched[..]).collect::<Vec<_>>().concat();
    let mut textured = false;
    let all = found.iter().map(|f| f.valleys.len() + f.pixels).sum::<usize>() as f64;
    let valleys = found.iter().map(|f| f.valleys.len()).sum::<usize>() as f64;
    if valleys > GRAINY * all {
        let grains = textured::grains(&pixels, found.iter().flat_map(|f| f.valleys.iter().copied()).collect(), width);
        // Between two lines lies one long valley: there are more small ones in a grain.
        textured = grains.len() >= MANY && grains.iter().sum::<usize>() as f64 > f64::max(0.4 * GRAINY * all, 0.2 * valleys);
    }
    if textured {
        textured::even_out(&mut pixels, width, &mut touched);
        found =
            touched.chunk_by(|a, b| *a as usize / (BAND_ROWS * width) == *b as usize / (BAND_ROWS * width)).map(|t| runs(&pixels, width, t, false)).collect();
    }
    let runs = found.iter().map(|f| &f.runs[..]).collect::<Vec<_>>().concat();
    let sum = |class: usize| found.iter().map(|f| f.px255[class]).sum::<u64>() as f64 / 255.0;
    let role_px2: Vec<f64> = (0..plan.roles.len()).map(sum).collect();
    let (toned_px2, opacity) = (vec![0.0; role_px2.len()], vec![1.0; role_px2.len()]);
    Ink { width, height, runs, touched, pixels, distance2, role_px2, toned_px2, opacity, off_palette_px2: sum(OFF as usize), blend }
}

/// A pixel with less ink than this may lie in a valley, whose sides have at least so much, and so much more than it has.
const VALLEY: u8 = 217;
const SIDES: u8 = 235;
const RISES: u8 = 38;

/// Whether a pixel lies between two that are covered whole, within two pixels on either side along rows, columns or diagonals.
fn valley(pixels: &[Pixel], w: usize, i: usize) -> bool {
    let c = pixels[i].coverage;
    let edge = 2 * w + 2;
    if c > VALLEY || i < edge || i + edge >= pixels.len() {
        return false;
    }
    let role = pixels[i].role;
    let high = |j: usize| if pixels[j].role == role { pixels[j].coverage } else { 0 };
    [1, w, w + 1, w - 1].into_iter().any(|d| {
        let least = high(i + d).max(high(i + 2 * d)).min(high(i - d).max(high(i - 2 * d)));
        least >= SIDES && least - c >= RISES
    })
}

/// Whether a pixel touches one across a valley by a corner alone, where the valley's own pixels do so the other way: of the two the one with less
/// ink is taken out, for what touches by corners hangs together.
fn bridges(pixels: &[Pixel], w: usize, i: usize) -> bool {
    let edge = 3 * w + 3;
    if i < edge || i + edge >= pixels.len() {
        return false;
    }
    let Pixel { coverage, role } = pixels[i];
    [(1, w), (1, w.wrapping_neg()), (1usize.wrapping_neg(), w), (1usize.wrapping_neg(), w.wrapping_neg())].into_iter().any(|(across, down)| {
        let (a, b) = (i.wrapping_add(across), i.wrapping_add(down));
        if pixels[a].coverage > VALLEY || pixels[b].coverage > VALLEY {
            return false;
        }
        let j = a.wrapping_add(down);
        let less = pixels[j].role == role && (coverage, i) < (pixels[j].coverage, j) && pixels[j].coverage >= HALF;
        less && valley(pixels, w, a) && valley(pixels, w, b)
    })
}

/// Rows whose runs are found together where they are found again.
const BAND_ROWS: usize = 32;

/// Runs of mask pixels, how many pixels they have, those that were left out as valleys, and the coverage by class.
struct Runs {
    runs: Vec<Run>,
    pixels: usize,
    valleys: Vec<u32>,
    px255: [u64; 256],
}

/// The runs of pixels with ink, which are given in reading order.
fn runs(pixels: &[Pixel], w: usize, touched: &[u32], clean: bool) -> Runs {
    let mut out = Runs { runs: Vec::new(), pixels: 0, valleys: Vec::new(), px255: [0; 256] };
    let (mut y, mut row) = (0, 0);
    for &i in touched {
        let i = i as usize;
        let Pixel { coverage, role } = pixels[i];
        out.px255[role as usize] += u64::from(coverage);
        if coverage < HALF || role >= OFF {
            continue;
        }
        if clean && (valley(pixels, w, i) || bridges(pixels, w, i)) {
            out.valleys.push(i as u32);
            continue;
        }
        out.pixels += 1;
        if i >= row + w {
            y = (i / w) as u32;
            row = y as usize * w;
        }
        let x = (i - row) as u32;
        match out.runs.last_mut() {
            Some(r) if r.y == y && r.x1 == x && r.role == role => r.x1 = x + 1,
            _ => out.runs.push(Run { y, x0: x, x1: x + 1, role }),
        }
    }
    out
}
