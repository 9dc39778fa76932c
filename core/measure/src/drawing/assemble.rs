//! From classified pixels to the ink of a picture: the runs that its mask is made of, and how much ink each class has.
//!
//! How: band by band, as the pixels were classified; no run goes from one band to the next, since each begins with a row. Where two lines
//! nearly touch, the pixels of the valley between them are in no run, though more than half of each is ink. Limits: valleys are looked for in
//! clean drawings only; a scan's grain is full of them.

use rayon::prelude::*;

use super::{
    Blend, Plan,
    ink::{HALF, Ink, OFF, Pixel, Run},
};

/// Pixels with any ink in some rows, and those of them that are not full, in reading order.
#[derive(Default)]
pub(super) struct Band {
    pub(super) touched: Vec<u32>,
    pub(super) faint: Vec<u32>,
}

/// The ink of a picture whose pixels are classified.
pub(super) fn assemble(
    (width, height): (usize, usize),
    pixels: Vec<Pixel>,
    distance2: Vec<u16>,
    bands: &[Band],
    plan: &Plan,
    blend: Blend,
    clean: bool,
) -> Ink {
    let found: Vec<(Vec<Run>, [u64; 256])> = bands.par_iter().map(|b| runs(&pixels, width, &b.touched, clean)).collect();
    let runs = found.iter().map(|f| &f.0[..]).collect::<Vec<_>>().concat();
    let sum = |class: usize| found.iter().map(|f| f.1[class]).sum::<u64>() as f64 / 255.0;
    let touched = bands.iter().map(|b| &b.touched[..]).collect::<Vec<_>>().concat();
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

/// Runs of mask pixels, from the pixels with ink in reading order, and the coverage summed by class.
fn runs(pixels: &[Pixel], w: usize, touched: &[u32], clean: bool) -> (Vec<Run>, [u64; 256]) {
    let mut out: Vec<Run> = Vec::new();
    let mut sums = [0u64; 256];
    let (mut y, mut row) = (0, 0);
    for &i in touched {
        let i = i as usize;
        let Pixel { coverage, role } = pixels[i];
        sums[role as usize] += u64::from(coverage);
        if coverage < HALF || role >= OFF || clean && (valley(pixels, w, i) || bridges(pixels, w, i)) {
            continue;
        }
        if i >= row + w {
            y = (i / w) as u32;
            row = y as usize * w;
        }
        let x = (i - row) as u32;
        match out.last_mut() {
            Some(r) if r.y == y && r.x1 == x && r.role == role => r.x1 = x + 1,
            _ => out.push(Run { y, x0: x, x1: x + 1, role }),
        }
    }
    (out, sums)
}
