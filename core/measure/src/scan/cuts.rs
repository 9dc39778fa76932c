//! Cuts through a scan's lines, along its rows and columns: what their shapes show of the blur, of the ink's own level and of what a stretched
//! contrast took, also where every line is too thin to show its ink.
//!
//! How: over all phases of the pixels the mean count of a cut's pixels above a level is how wide the blurred line is at that level, so that cuts need
//! not be laid over one another; to those widths, over lines of several widths and inks at once, a blurred band is fitted (`band`). Limits: lines
//! between paper and paper, within 20° of a row or a column, of any number of inks. Common practice, no source.

use rayon::prelude::*;

use super::{
    band,
    shown::{Class, Shown},
};
use crate::stats::median;

/// Levels at which a class's widths are taken, up to this share of the highest that its cuts reach.
const LEVELS: usize = 12;
const UP_TO: f64 = 0.88;
/// The faintest level, of the highest, where nothing was cut: the blur's feet, in which scanners differ most, lie under it.
const FAINTEST: f64 = 0.15;
/// The same where something was: the feet are what tells.
const FAINTEST_CUT: f64 = 0.06;
/// So many rows and columns are cut at most, so many lines in each.
const ROWS: usize = 1500;
const IN_A_ROW: usize = 64;
/// A cut is no longer than this, px; its darkest pixel is at least so dark; it has so much paper beside it, px.
const LONGEST: usize = 48;
const LEAST: f32 = 0.2;
const CLEAR: usize = 3;
/// The steepest that lines run against the row's normal, and by how much a line's ink may change from row to row.
const SLOPE: f64 = 0.36;
const BEND: f64 = 0.3;
const CHANGE: f64 = 0.12;
/// Lines of one class have ink (and darkness, which varies as a thin line lies on the pixels) within this share of one another; a class has at
/// least so many cuts; so many classes are kept.
const CLASS: f64 = 0.1;
const DARK: f64 = 0.25;
const ENOUGH: usize = 48;
const CLASSES: usize = 10;
/// Where a cut's middle lies between pixels is parted so often; so many of these have to be met so often.
const PHASES: usize = 8;
const LEAST_PHASES: usize = 6;
const IN_A_PHASE: usize = 4;

/// One cut: its ink across the line, px, and its pixels.
struct Cut {
    ink_px: f64,
    /// Its mean level, weighted by itself: of lines of one ink and width about the same wherever they lie on the pixels.
    dark: f64,
    /// Where its middle lies between pixels, by eighths.
    phase: usize,
    /// What the cut's slant stretches it by.
    cos: f64,
    pixels: Vec<f32>,
}

/// What the cuts show; none where there are too few. In: absorptance, the paper's grain, whether paper was cut to white, and of a line's darkest
/// pixel whether it is of the ink that is asked for.
pub fn shown(data: &[f32], w: usize, h: usize, grain: f64, clipped: bool, asked: &(dyn Fn(usize) -> bool + Sync)) -> Option<Shown> {
    let floor = (4.0 * grain).clamp(0.02, 0.1) as f32;
    let mut cuts: Vec<Cut> = Vec::new();
    for (along, over, n, m) in [(1, w, w, h), (w, 1, h, w)] {
        let step = m.div_ceil(ROWS).max(1);
        let rows = (2..m.saturating_sub(2)).into_par_iter().filter(|k| k % step == 0);
        let rows: Vec<Vec<Cut>> = rows.map(|k| row(data, [k * over, along, over, n], floor, asked)).collect();
        cuts.extend(rows.into_iter().flatten());
    }
    let mut classes = Vec::new();
    for alike in classed(&mut cuts, CLASS, |c| c.ink_px) {
        for here in classed(alike, DARK, |c| c.dark).filter(|c| c.len() >= ENOUGH) {
            classes.extend(class(here, f64::from(floor), if clipped { FAINTEST_CUT } else { FAINTEST }));
        }
    }
    classes.sort_by_key(|c| std::cmp::Reverse(c.count));
    classes.truncate(CLASSES);
    (!classes.is_empty()).then(|| band::fit(&classes, clipped)).flatten()
}

/// Parts cuts into those that are alike by a figure.
fn classed(cuts: &mut [Cut], within: f64, of: fn(&Cut) -> f64) -> impl Iterator<Item = &mut [Cut]> {
    cuts.sort_by(|a, b| of(a).total_cmp(&of(b)));
    let mut first = None;
    cuts.chunk_by_mut(move |a, b| {
        let same = of(b) <= *first.get_or_insert_with(|| of(a)) * (1.0 + within);
        if !same {
            first = Some(of(b));
        }
        same
    })
}

fn class(cuts: &[Cut], floor: f64, faintest: f64) -> Option<Class> {
    // The second of a cut's pixels: the first is the grain's.
    let second = |c: &Cut| c.pixels.iter().fold((0.0f32, 0.0f32), |(a, b), v| if *v > a { (*v, a) } else { (a, b.max(*v)) });
    let top = median(&cuts.iter().map(|c| f64::from(second(c).0)).collect::<Vec<_>>())?;
    let from = (2.0 * floor).max(faintest * if faintest < FAINTEST { 1.0 } else { top });
    if from > 0.5 * top {
        return None;
    }
    let levels = (0..LEVELS).map(|k| from + (UP_TO * top - from) * k as f64 / (LEVELS - 1) as f64);
    // As much of each phase: of a line that runs along the pixels one is met again and again.
    let mut met = [0usize; PHASES];
    cuts.iter().for_each(|c| met[c.phase] += 1);
    let enough = met.map(|n| n >= IN_A_PHASE);
    let phases = enough.iter().filter(|e| **e).count();
    if phases < LEAST_PHASES {
        return None;
    }
    let mean = |of: &dyn Fn(f64) -> f64| {
        let each = cuts.iter().filter(|c| enough[c.phase]);
        each.map(|c| c.pixels.iter().map(|a| of(f64::from(*a))).sum::<f64>() * c.cos / met[c.phase] as f64).sum::<f64>() / phases as f64
    };
    let widths = levels.map(|t| (t, mean(&|a| f64::from(u8::from(a > t))))).collect();
    let above = mean(&|a| (a - UP_TO * top).max(0.0)) / ((1.0 - UP_TO) * top);
    Some(Class { widths, above, ink_px: median(&cuts.iter().map(|c| c.ink_px).collect::<Vec<_>>())?, top, count: cuts.len() })
}

/// Cuts of one row (or column), from paper to paper.
fn row(data: &[f32], [start, along, over, n]: [usize; 4], floor: f32, asked: &dyn Fn(usize) -> bool) -> Vec<Cut> {
    let at = |k: usize| data[start + k * along];
    let mut out = Vec::new();
    let mut k = CLEAR;
    while k + CLEAR < n && out.len() < IN_A_ROW {
        if at(k) <= floor {
            k += 1;
            continue;
        }
        let from = k;
        while k < n && at(k) > floor {
            k += 1;
        }
        if k + CLEAR >= n || !(2..=LONGEST).contains(&(k - from)) || from < 2 * CLEAR {
            continue;
        }
        let pixels: Vec<f32> = (from..k).map(at).collect();
        let top = pixels.iter().copied().fold(0.0, f32::max);
        let darkest = pixels.iter().position(|v| *v >= top).unwrap_or(0);
        if top < LEAST || waves(&pixels, top) || !asked(start + (from + darkest) * along) {
            continue;
        }
        if (1..=CLEAR).any(|d| at(from - d) > floor || at(k - 1 + d) > floor) {
            continue;
        }
        // The same line in the rows beside: as much ink, no more aslant, and straight.
        let of = |row: isize| {
            let v = |j: usize| f64::from(data[(start as isize + row * over as isize) as usize + j * along]);
            let (ink, moment) = (from - CLEAR..k + CLEAR).fold((0.0, 0.0), |(s, m), j| (s + v(j), m + v(j) * j as f64));
            (ink, moment / ink.max(1e-6))
        };
        let (here, before, after) = (of(0), of(-2), of(2));
        let slope = (after.1 - before.1) / 4.0;
        let changes = [before.0, after.0].iter().any(|a| (a / here.0 - 1.0).abs() > CHANGE);
        if here.0 < f64::from(LEAST) || slope.abs() > SLOPE || (after.1 + before.1 - 2.0 * here.1).abs() > BEND || changes {
            continue;
        }
        let cos = 1.0 / slope.hypot(1.0);
        let dark = pixels.iter().map(|v| f64::from(v * v)).sum::<f64>() / pixels.iter().map(|v| f64::from(*v)).sum::<f64>();
        let phase = (here.1.rem_euclid(1.0) * PHASES as f64) as usize % PHASES;
        out.push(Cut { ink_px: here.0 * cos, dark, phase, cos, pixels });
    }
    out
}

/// Whether it gets darker again after it got lighter: two lines.
fn waves(pixels: &[f32], top: f32) -> bool {
    let (mut high, mut fell) = (0.0f32, false);
    pixels.iter().any(|v| {
        high = high.max(*v);
        fell |= *v < 0.8 * high;
        fell && *v > 0.9 * high && high > 0.8 * top
    })
}
