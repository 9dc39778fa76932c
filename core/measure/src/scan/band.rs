//! A band of ink, seen through square pixels and blurred by a Gaussian: fitted to how wide lines are at several levels.
//!
//! How: Gauss and Newton, damped (Levenberg 1944), over what all lines have in common, the blur and the light that was cut away; within, each class's
//! own width and depth of ink. Limits: where lines are hardly wider than the blur the level and the blur stand in for one another, which `sure` says.

use super::shown::{Class, Ink, Shown};
use crate::stats::{phi, solve};

/// Where the light that was cut away is looked for first.
const STARTS: [f64; 3] = [0.05, 0.15, 0.35];
const ROUNDS: usize = 25;
/// The most that may have been cut away, of white.
const MOST: f64 = 1.5;
/// Ink is no paler than this share of what its lines reach.
const LEAST_OF_TOP: f64 = 0.98;
/// How far a parameter goes in one round.
const STRIDE: f64 = 0.2;
/// By how much a parameter is moved to see what it does.
const NUDGE: f64 = 1e-3;
/// Widths are taken to be off by so much, px, for how sure the rest is.
const OFF_PX: f64 = 0.02;

/// The integral of Φ(u/σ).
fn psi(x: f64, sigma: f64) -> f64 {
    let u = x / sigma;
    sigma * (u * phi(u) + (-0.5 * u * u).exp() / (2.0 * std::f64::consts::PI).sqrt())
}

/// A band of width `w`, 1 where it is whole.
fn band(x: f64, w: f64, sigma: f64) -> f64 {
    let edge = |x: f64| psi(x + 0.5, sigma) - psi(x - 0.5, sigma);
    edge(x + 0.5 * w) - edge(x - 0.5 * w)
}

/// Half as wide as a band is at `level`: by Newton between bounds, from a guess on.
fn half_at(level: f64, w: f64, sigma: f64, guess: f64) -> f64 {
    if band(0.0, w, sigma) <= level {
        return 0.0;
    }
    let (mut lo, mut hi) = (0.0, 0.5 * w + 1.0 + 6.0 * sigma);
    let mut x = guess.clamp(lo, hi);
    for _ in 0..30 {
        let f = band(x, w, sigma) - level;
        *(if f > 0.0 { &mut lo } else { &mut hi }) = x;
        let edge = |x: f64| phi((x + 0.5) / sigma) - phi((x - 0.5) / sigma);
        let slope = edge(x + 0.5 * w) - edge(x - 0.5 * w);
        let next = x - f / slope;
        let next = if slope < -1e-9 && next > lo && next < hi { next } else { 0.5 * (lo + hi) };
        if (next - x).abs() < 1e-5 {
            return next;
        }
        x = next;
    }
    x
}

/// By how much a class's widths are off from those of a band of width `w`, px.
fn off(class: &Class, [deep, cut, sigma]: [f64; 3], w: f64) -> Vec<f64> {
    let (mut half, mut last) = (0.5 * w + sigma, 0.0);
    let mut out: Vec<f64> = class
        .widths
        .iter()
        .map(|(level, seen)| {
            (half, last) = (half_at((level + cut) / deep, w, sigma, half), *level);
            seen - 2.0 * half
        })
        .collect();
    // What lies above the last level, by Simpson over half of it.
    let h = half / 8.0;
    let weight = |k: usize| if k.is_multiple_of(8) { 1.0 } else { 2.0 + 2.0 * (k % 2) as f64 };
    let above: f64 = (0..=8).map(|k| weight(k) * (deep * band(k as f64 * h, w, sigma) - cut - last).max(0.0)).sum::<f64>() * 2.0 * h / 3.0;
    out.push(class.above - above / (class.top - last).max(1e-6));
    out
}

/// A class's own width and depth of ink, and by how much its widths are then off.
struct Held {
    w: f64,
    deep: f64,
    off: Vec<f64>,
    /// The depth's variance where the blur and the cut are known, by the square of what widths are off.
    variance: f64,
}

/// The width and the depth of ink that fit a class best, at one blur and cut.
fn held(class: &Class, [cut, sigma]: [f64; 2]) -> Held {
    let least = (LEAST_OF_TOP * class.top).min(1.0) + cut;
    let mut at = [(class.ink_px / (class.top + cut).max(0.3)).max(0.3), (class.top + cut + 0.02).max(least)];
    let of = |at: [f64; 2]| off(class, [at[1], cut, sigma], at[0]);
    let (mut best, mut damp, mut variance) = (of(at), 1e-3, f64::INFINITY);
    for _ in 0..12 {
        let rows = [0, 1].map(|k| {
            let mut moved = at;
            moved[k] += NUDGE;
            difference(&of(moved), &best)
        });
        let normal: [[f64; 2]; 2] = std::array::from_fn(|i| std::array::from_fn(|j| dot(&rows[i], &rows[j])));
        variance = solve(normal, [0.0, 1.0]).map_or(f64::INFINITY, |v| v[1]);
        let towards = [0, 1].map(|k| -dot(&rows[k], &best));
        let before = dot(&best, &best);
        let better = (0..6).find_map(|_| {
            let mut damped = normal;
            (0..2).for_each(|k| damped[k][k] *= 1.0 + damp);
            let step = solve(damped, towards)?;
            let next = [(at[0] + step[0].clamp(-0.5 * at[0], 0.5 * at[0])).max(0.2), (at[1] + step[1].clamp(-STRIDE, STRIDE)).clamp(least, 1.0 + cut)];
            let there = of(next);
            let lower = dot(&there, &there) < before;
            damp *= if lower { 0.2 } else { 8.0 };
            lower.then_some((next, there))
        });
        let Some((next, there)) = better else { break };
        let little = before - dot(&there, &there) < 1e-4 * before;
        (at, best) = (next, there);
        if little {
            break;
        }
    }
    Held { w: at[0], deep: at[1], off: best, variance }
}

fn dot(a: &[f64], b: &[f64]) -> f64 {
    a.iter().zip(b).map(|(x, y)| x * y).sum()
}

fn difference(moved: &[f64], here: &[f64]) -> Vec<f64> {
    moved.iter().zip(here).map(|(a, b)| (a - b) / NUDGE).collect()
}

fn all(classes: &[Class], at: [f64; 2]) -> Vec<f64> {
    classes.iter().flat_map(|c| held(c, at).off).collect()
}

/// What all classes have in common, and each one's own.
pub(super) fn fit(classes: &[Class], clipped: bool) -> Option<Shown> {
    let starts: &[f64] = if clipped { &STARTS } else { &[0.0] };
    let (cost, at, [cut_sd, sigma_sd]) = starts.iter().map(|start| from(classes, [*start, 0.7], clipped)).min_by(|a, b| a.0.total_cmp(&b.0))?;
    let blurred = [at[0], at[1] + NUDGE];
    let inks = classes.iter().map(|c| {
        let (here, more) = (held(c, at), held(c, blurred));
        let by_blur = (more.deep - here.deep) / NUDGE * sigma_sd;
        let sure = (OFF_PX * OFF_PX * here.variance + by_blur * by_blur).sqrt();
        Ink { level: if clipped { here.deep - at[0] } else { c.ink_px / here.w }, deep: here.deep, width_px: here.w, sure }
    });
    let off_px = (cost / classes.iter().map(|c| c.widths.len() + 1).sum::<usize>() as f64).sqrt();
    Some(Shown { cut: at[0], cut_sure: cut_sd, sigma_px: at[1], off_px, inks: inks.collect() })
}

/// From one start: the sum of squares, `[cut, σ]`, and their deviations if every width were off by [`OFF_PX`].
fn from(classes: &[Class], start: [f64; 2], clipped: bool) -> (f64, [f64; 2], [f64; 2]) {
    let (mut at, mut damp) = (start, 1e-3);
    let mut here = all(classes, at);
    let mut normal = [[0.0; 2]; 2];
    for _ in 0..ROUNDS {
        let rows = [0, 1].map(|k| {
            let mut moved = at;
            moved[k] += NUDGE;
            if k == 0 && !clipped { vec![0.0; here.len()] } else { difference(&all(classes, moved), &here) }
        });
        normal = std::array::from_fn(|i| std::array::from_fn(|j| dot(&rows[i], &rows[j])));
        if !clipped {
            normal[0][0] = 1.0;
        }
        let towards = [0, 1].map(|k| -dot(&rows[k], &here));
        let before = dot(&here, &here);
        let better = (0..6).find_map(|_| {
            let mut damped = normal;
            (0..2).for_each(|k| damped[k][k] *= 1.0 + damp);
            let step = solve(damped, towards)?;
            let next = [(at[0] + step[0].clamp(-STRIDE, STRIDE)).clamp(0.0, MOST), (at[1] + step[1].clamp(-STRIDE, STRIDE)).clamp(0.15, 4.0)];
            let there = all(classes, next);
            let lower = dot(&there, &there) < before;
            damp *= if lower { 0.3 } else { 8.0 };
            lower.then_some((next, there))
        });
        let Some((next, there)) = better else { break };
        let little = before - dot(&there, &there) < 1e-5 * before;
        (at, here) = (next, there);
        if little {
            break;
        }
    }
    let sure = [0, 1].map(|k| {
        let unit = [0, 1].map(|i| f64::from(u8::from(i == k)));
        solve(normal, unit).map_or(f64::INFINITY, |v| OFF_PX * v[k].max(0.0).sqrt())
    });
    (dot(&here, &here), at, sure)
}
