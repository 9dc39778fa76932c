//! Openings narrower than a pixel: a line that goes on for the mask, and shows paper across its middle all the same.
//!
//! How: along the middle of a line that is covered whole on either side, the paper of a short dip is summed. Limits: lines too thin to be covered
//! whole anywhere show none; a dip at a line's end is the end's own.

use super::{Line, Place};

/// Covered whole, and less than whole.
const WHOLE: f64 = 0.96;
const LESS: f64 = 0.9;
/// A dip is shorter than this, px.
const LONGEST: f64 = 4.0;

/// Where a line's middle shows paper: the places before and after, and how much paper lies between, px.
pub(super) fn necks(line: &Line, width: f64, coverage: impl Fn(f64, f64) -> f64) -> Vec<([f64; 2], [f64; 2], f64)> {
    let n = line.points.len();
    let at = |i: usize| [f64::from(line.points[i].x), f64::from(line.points[i].y)];
    let cover: Vec<f64> = (0..n).map(|i| coverage(at(i)[0], at(i)[1])).collect();
    let beside = (width / line.step_px).ceil() as usize;
    let mut out = Vec::new();
    let mut i = beside;
    while i + beside < n {
        if cover[i] >= LESS {
            i += 1;
            continue;
        }
        let first = i;
        while i < n && cover[i] < WHOLE {
            i += 1;
        }
        let paper: f64 = cover[first.saturating_sub(1)..i.min(n)].iter().map(|c| (1.0 - c) * line.step_px).sum();
        let whole = |range: std::ops::Range<usize>| range.clone().all(|k| cover.get(k).is_some_and(|c| *c >= WHOLE));
        let places = |k: usize| line.points.get(k).is_some_and(|p| !matches!(p.place, Place::Junction | Place::LeftOut));
        let short = (i - first) as f64 * line.step_px <= LONGEST;
        if short && first > beside / 2 && whole(i..i + beside / 2) && whole(first - 1 - beside / 2..first - 1) && places(first) && places(i) {
            out.push((at(first - 1), at(i), paper));
        }
    }
    out
}
