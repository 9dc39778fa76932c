//! Where a recorded page lies on its scan, looked for at every angle: the start of the registration.
//!
//! How: strokes and lines as pictures of their ways in cells, correlated by Fourier transform for each angle. Limits: the strokes' size must be
//! about the scan's (or one of the sizes that are tried); cells are 1/256 of both sides together. Source: cross-correlation theorem, any textbook.

use std::f64::consts::TAU;

use rustfft::{Fft, FftPlanner, num_complex::Complex};

use super::lines::{Ink, Report};

/// Cells to a side.
const SIDE: usize = 256;
/// Angles that are tried.
const ANGLES: usize = 120;
/// Best places that are handed on.
const KEPT: usize = 6;

/// A place to start from: turned by `angle` (y down, radians) and enlarged by `scale` about the strokes' middle, then moved.
#[derive(Debug, Clone, Copy)]
pub(super) struct Start {
    pub angle: f64,
    pub scale: f64,
    pub score: f64,
    /// As the document has it: `[a, b, c, d, e, f]`.
    pub map: [f64; 6],
}

/// The best places of the strokes at these sizes, the best first.
pub(super) fn starts(ink: &Ink, strokes: &[Report], scales: &[f64]) -> Vec<Start> {
    let (low, high) = bounds(strokes);
    let middle = [0.5 * (low[0] + high[0]), 0.5 * (low[1] + high[1])];
    let radius = 0.5 * (high[0] - low[0]).hypot(high[1] - low[1]);
    let mut found: Vec<Start> = Vec::new();
    let mut planner = FftPlanner::new();
    let (forward, back) = (planner.plan_fft_forward(SIDE), planner.plan_fft_inverse(SIDE));
    for scale in scales {
        // Both pictures beside one another must fit, or they would wrap around.
        let cell = ((ink.size[0].max(ink.size[1]) + 2.0 * scale * radius) / SIDE as f64).max(0.5);
        let mut lines = vec![Complex::new(0.0, 0.0); SIDE * SIDE];
        for p in &ink.places {
            set(&mut lines, [p.at[0] / cell, p.at[1] / cell]);
        }
        let lines = soft(&lines);
        let mut lines = lines;
        transform(&mut lines, &*forward);
        for k in 0..ANGLES {
            let angle = TAU * k as f64 / ANGLES as f64;
            let (s, c) = angle.sin_cos();
            let mut way = vec![Complex::new(0.0, 0.0); SIDE * SIDE];
            for r in strokes {
                let (x, y) = (scale * (r.at[0] - middle[0]), scale * (r.at[1] - middle[1]));
                set(&mut way, [(c * x - s * y) / cell + 0.5 * SIDE as f64, (s * x + c * y) / cell + 0.5 * SIDE as f64]);
            }
            let drawn: f64 = way.iter().map(|v| v.re).sum();
            transform(&mut way, &*forward);
            way.iter_mut().zip(&lines).for_each(|(w, l)| *w = w.conj() * l);
            transform(&mut way, &*back);
            let (at, best) = way.iter().enumerate().map(|(i, v)| (i, v.re)).fold((0, f64::MIN), |a, b| if b.1 > a.1 { b } else { a });
            let shift = |v: usize| if v >= SIDE / 2 { v as f64 - SIDE as f64 } else { v as f64 };
            // Of a picture moved by half its side: what is beyond is before.
            let (dx, dy) = (shift(at % SIDE) * cell, shift(at / SIDE) * cell);
            let half = 0.5 * SIDE as f64 * cell;
            let (tx, ty) = (wrapped(dx + half, SIDE as f64 * cell), wrapped(dy + half, SIDE as f64 * cell));
            let (a, b) = (scale * c, -scale * s);
            let map = [a, b, tx - a * middle[0] - b * middle[1], -b, a, ty + b * middle[0] - a * middle[1]];
            found.push(Start { angle, scale: *scale, score: best / drawn.max(1.0) / (SIDE * SIDE) as f64, map });
        }
    }
    found.sort_by(|a, b| b.score.total_cmp(&a.score));
    let mut kept: Vec<Start> = Vec::new();
    for f in found {
        let apart =
            |k: &Start| (k.scale / f.scale - 1.0).abs() > 0.02 || { (k.angle - f.angle).rem_euclid(TAU).min((f.angle - k.angle).rem_euclid(TAU)) > 0.1 };
        if kept.len() < KEPT && kept.iter().all(apart) {
            kept.push(f);
        }
    }
    kept
}

fn wrapped(v: f64, round: f64) -> f64 {
    v.rem_euclid(round)
}

fn bounds(strokes: &[Report]) -> ([f64; 2], [f64; 2]) {
    strokes.iter().fold(([f64::MAX; 2], [f64::MIN; 2]), |(l, h), r| ([0, 1].map(|k| l[k].min(r.at[k])), [0, 1].map(|k| h[k].max(r.at[k]))))
}

/// A cell that a way goes through counts once: hatching weighs no more than a line.
fn set(picture: &mut [Complex<f64>], at: [f64; 2]) {
    let [x, y] = at.map(|v| (v.floor().max(0.0) as usize).min(SIDE - 1));
    picture[y * SIDE + x].re = 1.0;
}

/// Neighbours count by a half, those aslant by a quarter.
fn soft(p: &[Complex<f64>]) -> Vec<Complex<f64>> {
    let at = |x: isize, y: isize| {
        let inside = (0..SIDE as isize).contains(&x) && (0..SIDE as isize).contains(&y);
        if inside { p[y as usize * SIDE + x as usize].re } else { 0.0 }
    };
    (0..SIDE * SIDE)
        .map(|i| {
            let (x, y) = ((i % SIDE) as isize, (i / SIDE) as isize);
            let sum: f64 = (-1..=1)
                .flat_map(|v: isize| (-1..=1).map(move |u: isize| (u, v)))
                .map(|(u, v)| at(x + u, y + v) * 0.5f64.powi((u.abs() + v.abs()) as i32))
                .fold(0.0, f64::max);
            Complex::new(sum, 0.0)
        })
        .collect()
}

/// Rows, then columns; unscaled.
fn transform(p: &mut [Complex<f64>], fft: &dyn Fft<f64>) {
    fft.process(p);
    transpose(p);
    fft.process(p);
    transpose(p);
}

fn transpose(p: &mut [Complex<f64>]) {
    for y in 0..SIDE {
        for x in y + 1..SIDE {
            p.swap(y * SIDE + x, x * SIDE + y);
        }
    }
}
