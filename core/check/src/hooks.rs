//! Hooks: before a free end the line turns by more than 60° in all, at a mean radius of at most three widths (methods.md, section 6).
//!
//! How: the direction along the line from chords of about a width; of all turns that begin near enough to the tip, the one that turns most,
//! where the stretch before it, as long again, turns by less than a third of that. Limits: none in hatching, at a blot, or where the tip lies in
//! other ink; a turn tighter than half a width is one place to the pixels.

use eddymist_measure::drawing::{End, Line, Place};

use crate::{
    document::FindingKind,
    fault::{Fault, width_of, xy},
};

/// The direction turns by more than this before an end: a hook, degrees.
pub const HOOK_DEG: f64 = 60.0;
/// At a mean radius of at most so many widths.
const RADIUS_WIDTHS: f64 = 3.0;
/// The turn begins within so many widths of the tip, or the guide's hook_px, whichever is more.
const NEAR_WIDTHS: f64 = 10.0;
/// What is shorter than this, in widths from where it begins to the tip, is the cap's own shape.
const LEAST_WIDTHS: f64 = 1.2;
/// The stretch before turns by less than this share.
const BEFORE: f64 = 1.0 / 3.0;
/// An end wider than this, in widths, is a blot.
const BLOT: f64 = 1.6;

/// The hook at each end; `other` says whether ink of another role begins within so many px of a place.
pub(crate) fn hooks(line: &Line, hook_px: f64, other: impl Fn((f64, f64), f64) -> bool) -> Vec<Fault> {
    let Some(width) = width_of(line).filter(|_| !line.closed && !line.hatching) else { return Vec::new() };
    (0..2).filter_map(|side| hook(line, side, width.max(1.0), hook_px, &other)).collect()
}

fn hook(line: &Line, side: usize, width: f64, hook_px: f64, other_ink: &impl Fn((f64, f64), f64) -> bool) -> Option<Fault> {
    let (n, step) = (line.points.len(), line.step_px);
    let index = |k: usize| if side == 0 { k } else { n - 1 - k };
    let at = |k: usize| xy(line, index(k));
    let places = |px: f64| (px / step).round() as usize;
    // The turn, and as much again before it.
    let near = places(hook_px.max(NEAR_WIDTHS * width)).min(n - 1);
    let arm = places(0.6 * width).max(2);
    // An end at masked ink or another role's is where the line goes on unseen.
    if n < 4 * arm || line.against[side] || !ends_free(line, side, width, near) {
        return None;
    }
    // Directions from the tip inward, unwound; the cap's own shape is none of the line's.
    let first = places(0.5 * width);
    let last = (2 * near).min(n - 1 - arm);
    let mut way: Vec<f64> = Vec::with_capacity(last);
    for k in first..=last {
        let (a, b) = (at(k.saturating_sub(arm)), at(k + arm));
        let mut angle = (b.1 - a.1).atan2(b.0 - a.0);
        if let Some(before) = way.last() {
            angle += ((before - angle) / std::f64::consts::TAU).round() * std::f64::consts::TAU;
        }
        way.push(angle);
    }
    let turn = |a: usize, b: usize| (way[b] - way[a]).to_degrees();
    let mut best: Option<(usize, usize, f64)> = None;
    for begins in (first..=near).filter(|b| *b as f64 * step >= LEAST_WIDTHS * width) {
        let b = begins - first;
        if b >= way.len() {
            break;
        }
        for a in 0..b {
            let deg = turn(a, b).abs();
            if deg <= HOOK_DEG || best.is_some_and(|w| deg <= w.2) {
                continue;
            }
            let long = (b - a) as f64 * step;
            // As long again as from where the turn begins to the tip.
            let before = (b + begins.max(2 * arm)).min(way.len() - 1);
            let enough = (before - b) as f64 >= 0.9 * begins as f64;
            if long <= RADIUS_WIDTHS * width * deg.to_radians() && enough && turn(b, before).abs() < BEFORE * deg {
                best = Some((a, b, deg));
            }
        }
    }
    let (a, b, deg) = best?;
    // Where lines meet the middle of the ink turns though none of them does; a blot has no direction.
    let other = |i: usize| {
        let p = &line.points[i];
        p.place == Place::Junction || p.place == Place::Body && f64::from(p.width) > BLOT * width
    };
    if (0..=(first + b)).map(index).any(other) {
        return None;
    }
    // Where other ink lies over it, what turns may be the edge of that.
    if (first + a..=first + b).any(|k| other_ink(at(k), 0.5 * width + 1.0)) {
        return None;
    }
    Some(Fault::new(FindingKind::Hook, at(first + (a + b) / 2), None, deg, HOOK_DEG))
}

/// Whether an end is free, or is folded back on its own line: then it is nearer to it as the crow flies than along it.
fn ends_free(line: &Line, side: usize, width: f64, near: usize) -> bool {
    if matches!(line.ends[side], End::Free { .. }) {
        return true;
    }
    let n = line.points.len();
    let index = |k: usize| if side == 0 { k } else { n - 1 - k };
    let at = |k: usize| xy(line, index(k));
    let tip = at(0);
    if (0..near.min(n)).any(|k| line.points[index(k)].place == Place::Junction) {
        return false;
    }
    let first = (1.5 * width / line.step_px) as usize;
    (first..near.min(n)).any(|k| (at(k).0 - tip.0).hypot(at(k).1 - tip.1) < FOLDED * k as f64 * line.step_px)
}

/// A tip is this much nearer to its line as the crow flies than along it: it turns back by about 90° or more.
const FOLDED: f64 = 0.72;
