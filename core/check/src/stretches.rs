//! Stretches of a line that are too heavy or too thin (methods.md, section 6).
//!
//! How: the width averaged over one width at every place of the body, outside the tolerance (the swell, where there is one) for more than
//! three target widths. Limits: with a hard finish less than half a pixel outside is the pixels' own.

use eddymist_measure::{
    drawing::{End, Line, Place},
    stats::moving_mean,
};

use crate::guide::{Finish, Weight};

/// How a place of a line stands against its role's widths.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    Unmeasured,
    Thin,
    Within,
    Heavy,
}

/// A run of places that are outside on one side.
pub struct Stretch {
    pub first: usize,
    pub last: usize,
    pub heavy: bool,
    /// Mean width along it.
    pub value: f64,
}

/// Width averaged over one width at every place of the body, and how it stands; `weight` is in the drawing's px.
pub fn standings(line: &Line, weight: &Weight) -> Vec<(f64, Standing)> {
    let mut out = vec![(0.0, Standing::Unmeasured); line.points.len()];
    let [lo, hi] = weight.living();
    for run in body_runs(line) {
        let widths: Vec<f64> = line.points[run.clone()].iter().map(|p| f64::from(p.width)).collect();
        let window = ((weight.target / line.step_px).round() as usize).max(1);
        for (i, w) in run.zip(moving_mean(&widths, window)) {
            let standing = if w < lo {
                Standing::Thin
            } else if w > hi {
                Standing::Heavy
            } else {
                Standing::Within
            };
            out[i] = (w, standing);
        }
    }
    out
}

/// A stroke between two free ends that is no longer than so many target widths is a tick: it is all ends.
const TICK_WIDTHS: f64 = 8.0;

/// Stretches outside for more than three target widths; with a hard finish, by more than half a pixel. A tick has none.
pub fn outside(line: &Line, standings: &[(f64, Standing)], weight: &Weight, finish: Finish) -> Vec<Stretch> {
    let free = line.ends.iter().all(|e| matches!(e, End::Free { .. })) && !line.closed;
    if free && line.length_px() < TICK_WIDTHS * weight.target {
        return Vec::new();
    }
    let [lo, hi] = weight.living();
    let margin = if finish == Finish::Hard { 0.5 } else { 0.0 };
    let side = |s: &(f64, Standing)| match s.1 {
        Standing::Heavy if s.0 > hi + margin => Some(true),
        Standing::Thin if s.0 < lo - margin => Some(false),
        _ => None,
    };
    let mut out = Vec::new();
    let mut i = 0;
    while i < standings.len() {
        let Some(heavy) = side(&standings[i]) else {
            i += 1;
            continue;
        };
        let first = i;
        while i < standings.len() && side(&standings[i]) == Some(heavy) {
            i += 1;
        }
        if (i - first) as f64 * line.step_px > 3.0 * weight.target {
            let value = standings[first..i].iter().map(|s| s.0).sum::<f64>() / (i - first) as f64;
            out.push(Stretch { first, last: i - 1, heavy, value });
        }
    }
    out
}

fn body_runs(line: &Line) -> Vec<std::ops::Range<usize>> {
    let mut out = Vec::new();
    let mut from = None;
    for (i, p) in line.points.iter().enumerate() {
        match (p.place == Place::Body, from) {
            (true, None) => from = Some(i),
            (false, Some(f)) => {
                out.push(f..i);
                from = None;
            }
            _ => {}
        }
    }
    if let Some(f) = from {
        out.push(f..line.points.len());
    }
    out
}
