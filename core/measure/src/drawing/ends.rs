//! Bodies, tapers, and what is left out about junctions (methods.md, section 5).
//!
//! How: from each free end inward to where the width first stays over 90 % of the body's; a stroke that is mostly taper, and an end that dies into
//! other ink, by how steadily its width rises. Limits: where it does not, an end's taper is at most half the line.

use super::{
    End, Line, Place,
    graph::{Chain, Graph},
};
use crate::{
    TAPER_WIDTHS,
    stats::{median, moving_mean},
};

/// Marks junctions, finds how each end ends, and takes tapers and blunt ends out of the body.
pub fn mark(line: &mut Line, graph: &Graph, chain: &Chain) {
    let n = line.points.len();
    if line.closed || n == 0 {
        return;
    }
    let step = line.step_px;
    let widths = line.known_widths(Place::is_hidden);
    let middle: Vec<f64> = (n / 3..=(2 * n / 3).min(n - 1)).filter(|&i| line.points[i].place == Place::Body).map(|i| widths[i]).collect();
    let body = median(&middle).or_else(|| median(&widths)).unwrap_or(1.0).max(0.5);
    for (side, node) in chain.nodes.iter().enumerate() {
        let Some(node) = node else { continue };
        let reach = ((graph.nodes[*node].radius + body) / step).ceil() as usize;
        for k in 0..reach.min(n) {
            let i = if side == 0 { k } else { n - 1 - k };
            line.points[i].place = Place::Junction;
        }
    }
    let smooth = moving_mean(&widths, ((0.5 * body / step) as usize).max(3));
    for side in 0..2 {
        if chain.nodes[side].is_some() {
            dies(line, &smooth, side, body);
            continue;
        }
        let at = |k: usize| if side == 0 { k } else { n - 1 - k };
        // An end that runs into other ink is no free end.
        let near = ((0.75 * body / step).ceil() as usize + 1).min(n);
        if let Some(hidden) = (0..near).map(|k| line.points[at(k)].place).find(|p| p.is_hidden()) {
            for k in 0..((body / step).ceil() as usize).min(n) {
                line.points[at(k)].place = hidden;
            }
            dies(line, &smooth, side, body);
            continue;
        }
        let hold = (body / step).ceil() as usize;
        // A taper rises to where the width first stays level: what the line does further on is no end of it.
        let first_level = level(|k| smooth[at(k)], n, hold);
        let levels = first_level.is_some();
        let body = first_level.unwrap_or(body);
        let mut since = 0;
        let mut found = n;
        for k in 0..n {
            // At the very tip the mean over half a width looks inward only: the width itself is read there.
            let w = if k < 2 { widths[at(k)] } else { smooth[at(k)] };
            if w < 0.9 * body {
                since = k + 1;
            } else if k - since >= hold {
                found = since;
                break;
            }
        }
        // A stroke that is mostly taper rises steadily to its widest, wherever that is.
        let whole = if levels { None } else { steady(|k| smooth[at(k)], 0, n, hold, BEGINS) };
        let taper_px = whole.unwrap_or(found.min(n / 2)) as f64 * step;
        let tapered = taper_px > TAPER_WIDTHS * body;
        line.ends[side] = End::Free { taper_px, tapered };
        let out = if tapered { taper_px } else { body };
        for k in 0..((out / step).ceil() as usize).min(n) {
            let p = &mut line.points[at(k)];
            if p.place == Place::Body {
                p.place = Place::End;
            }
        }
    }
}

/// Takes the taper of an end that dies into other ink out of the body.
fn dies(line: &mut Line, smooth: &[f64], side: usize, body: f64) {
    let n = smooth.len();
    let at = |k: usize| if side == 0 { k } else { n - 1 - k };
    // From where the junction's own ink ends.
    let Some(first) = (0..n).find(|k| {
        let place = line.points[at(*k)].place;
        place != Place::Junction && !place.is_hidden()
    }) else {
        return;
    };
    let hold = (body / line.step_px).ceil() as usize;
    if smooth[at(first)] > DYING * body {
        return;
    }
    let Some(to) = steady(|k| smooth[at(k)], first, n, hold, DYING) else { return };
    for k in first..to {
        let p = &mut line.points[at(k)];
        if p.place == Place::Body {
            p.place = Place::End;
        }
    }
}

/// An end that is this thin against the body, where it leaves a junction, may be a taper's.
const DYING: f64 = 0.75;
/// A taper's width falls back by no more than this share on its way up, and is under this share of the widest where it begins.
const FALLS_BACK: f64 = 0.06;
const BEGINS: f64 = 0.6;
/// It ends where it has reached this share of the widest.
const REACHED: f64 = 0.9;

/// How far from `first` on a width rises steadily to nine tenths of the line's widest; none where it does not rise so, or was wide at first.
fn steady(width: impl Fn(usize) -> f64, first: usize, n: usize, hold: usize, begins: f64) -> Option<usize> {
    let widest = (first..n).map(&width).fold(0.0, f64::max);
    let to = (first..n).find(|k| width(*k) >= REACHED * widest)?;
    if to < first + hold || width(first + hold / 2) > begins * widest {
        return None;
    }
    let mut highest = 0.0f64;
    let rises = (first..to).all(|k| {
        highest = highest.max(width(k));
        width(k) >= highest - FALLS_BACK * widest
    });
    rises.then_some(to)
}

/// The width at which a line first stays level, from its end inward; none where it does not within the first half.
///
/// Level: over four widths it rises by less than a twenty-fifth.
fn level(width: impl Fn(usize) -> f64, n: usize, hold: usize) -> Option<f64> {
    let span = 4 * hold;
    let k = (hold..(n / 2).saturating_sub(span)).find(|&k| width(k + span) < 1.04 * width(k) && width(k + span / 2) < 1.04 * width(k))?;
    median(&(k..k + span).map(width).collect::<Vec<f64>>())
}
