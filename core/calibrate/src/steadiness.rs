//! How steady a device is: pressure noise, position noise, diagonal wobble and hysteresis.
//!
//! How: noise is what lies above 15 Hz, by the periodogram, scaled to the whole band as if white (what is slower is the hand); a wobble is a
//! peak in a diagonal's residual that stays at the same place in mm at two paces, since tremor stays in Hz. Limits: fewer than
//! six steps of the spectrum above 15 Hz say nothing; bows are taken out before. Common practice, no source.

use std::f64::consts::TAU;

use eddymist_ink::Stroke;
use eddymist_measure::stats::{mean_sd, median, solve};
use rustfft::{FftPlanner, num_complex::Complex};
use schemars::JsonSchema;
use serde::Serialize;

use crate::{
    profile::Wobble,
    warmup::{Exercise, WarmUp},
};

/// What is slower than this is the hand.
const HAND_HZ: f64 = 15.0;
/// Standard deviation of the raw pressure's part above 15 Hz over steady strokes, scaled to the whole band as if white;
/// none without strokes that are steady, long enough and short of the full point.
pub fn pressure_noise(warmup: &WarmUp, rate_hz: f64, full_point: f64) -> Option<f64> {
    let steady = warmup.efforts().map(|(_, s)| s).chain(warmup.strokes(Exercise::Ruled));
    let variances: Vec<f64> = steady
        .filter_map(|s| {
            let raws: Vec<f64> = s.samples.iter().filter_map(|p| p.pressure).collect();
            let n = raws.len();
            let part = &raws[n / 5..n - n / 5];
            let clipped = part.iter().filter(|v| **v >= full_point - 1e-9).count();
            (part.len() >= 24 && clipped * 20 < part.len()).then(|| fast_variance(&without_bow(part, 2), rate_hz)).flatten()
        })
        .collect();
    median(&variances).map(f64::sqrt)
}

/// Variance above 15 Hz by the periodogram, scaled to the whole band; none where the band does not reach far enough.
fn fast_variance(v: &[f64], rate_hz: f64) -> Option<f64> {
    let n = v.len();
    let mut spectrum: Vec<Complex<f64>> = v.iter().map(|x| Complex::new(*x, 0.0)).collect();
    FftPlanner::new().plan_fft_forward(n).process(&mut spectrum);
    let above: Vec<f64> = (1..=(n - 1) / 2).filter(|k| *k as f64 * rate_hz / n as f64 > HAND_HZ).map(|k| spectrum[k].norm_sqr()).collect();
    let (fast, bins) = (above.iter().map(|p| 2.0 * p / (n * n) as f64).sum::<f64>(), above.len());
    let all = (n - 1) as f64 / 2.0;
    (bins >= 6).then(|| fast * all / bins as f64)
}

/// Residuals from the least-squares polynomial of degree up to 3.
pub(crate) fn without_bow(v: &[f64], degree: usize) -> Vec<f64> {
    let n = v.len();
    let at = |i: usize| 2.0 * i as f64 / (n - 1).max(1) as f64 - 1.0;
    let powers = |x: f64| [1.0, x, if degree > 1 { x * x } else { 0.0 }, if degree > 2 { x * x * x } else { 0.0 }];
    let (mut a, mut b) = ([[0.0; 4]; 4], [0.0; 4]);
    for (i, y) in v.iter().enumerate() {
        let p = powers(at(i));
        for j in 0..4 {
            for k in 0..4 {
                a[j][k] += p[j] * p[k];
            }
            b[j] += p[j] * y;
        }
    }
    for (j, row) in a.iter_mut().enumerate().skip(degree + 1) {
        row[j] = 1.0;
    }
    let Some(c) = solve(a, b) else { return v.to_vec() };
    v.iter().enumerate().map(|(i, y)| y - powers(at(i)).iter().zip(&c).map(|(p, c)| p * c).sum::<f64>()).collect()
}

/// A straight stroke's way and its distances from its own line, mm (total least squares), the ends left out.
pub(crate) fn across(s: &Stroke) -> Option<(Vec<f64>, Vec<f64>)> {
    let n = s.samples.len();
    if n < 24 {
        return None;
    }
    let part = &s.samples[n / 20..n - n / 20];
    let m = part.len() as f64;
    let (cx, cy) = part.iter().fold((0.0, 0.0), |a, p| (a.0 + p.x / m, a.1 + p.y / m));
    let (xx, xy, yy) = part.iter().fold((0.0, 0.0, 0.0), |a, p| {
        let (x, y) = (p.x - cx, p.y - cy);
        (a.0 + x * x, a.1 + x * y, a.2 + y * y)
    });
    let angle = 0.5 * (2.0 * xy).atan2(xx - yy);
    let (dx, dy) = (angle.cos(), angle.sin());
    let sign = if (part[part.len() - 1].x - part[0].x) * dx + (part[part.len() - 1].y - part[0].y) * dy < 0.0 { -1.0 } else { 1.0 };
    let way = part.iter().map(|p| sign * ((p.x - cx) * dx + (p.y - cy) * dy)).collect();
    let off = part.iter().map(|p| sign * ((p.y - cy) * dx - (p.x - cx) * dy)).collect();
    Some((way, off))
}

/// Standard deviation about a straight edge, µm, bows taken out; none without ruled strokes.
pub fn position_noise_um(warmup: &WarmUp) -> Option<f64> {
    let seen: Vec<f64> = warmup.strokes(Exercise::Ruled).filter_map(across).filter_map(|(_, off)| mean_sd(&without_bow(&off, 3)).map(|m| m.1)).collect();
    median(&seen).map(|v| v * 1000.0)
}

/// Power of a sine of this period along the way, as an amplitude in the unit of `off`.
fn amplitude(way: &[f64], off: &[f64], period: f64) -> f64 {
    let (mut m, mut r) = ([[0.0; 2]; 2], [0.0; 2]);
    for (s, o) in way.iter().zip(off) {
        let (sin, cos) = (TAU * s / period).sin_cos();
        let x = [sin, cos];
        for i in 0..2 {
            for j in 0..2 {
                m[i][j] += x[i] * x[j];
            }
            r[i] += x[i] * o;
        }
    }
    solve(m, r).map_or(0.0, |a| a[0].hypot(a[1]))
}

/// The strongest period of a diagonal's residual, its amplitude, and how far it stands out from the rest.
fn peak(s: &Stroke) -> Option<(f64, f64, f64)> {
    let (way, off) = across(s)?;
    let off = without_bow(&off, 3);
    let length = way[way.len() - 1] - way[0];
    let periods: Vec<f64> = (0..240).map(|k| 1.5 * (12f64).powf(f64::from(k) / 239.0)).filter(|p| *p < length / 4.0).collect();
    let spectrum: Vec<f64> = periods.iter().map(|p| amplitude(&way, &off, *p)).collect();
    let best = (0..spectrum.len()).max_by(|a, b| spectrum[*a].total_cmp(&spectrum[*b]))?;
    // Between the grid's periods, the peak of a parabola through three.
    let fine =
        (0..=40).map(|k| periods[best] * (0.985 + 0.00075 * f64::from(k))).max_by(|a, b| amplitude(&way, &off, *a).total_cmp(&amplitude(&way, &off, *b)))?;
    Some((fine, amplitude(&way, &off, fine), spectrum[best] / median(&spectrum)?.max(1e-12)))
}

/// A wobble on diagonals that stays at the same place in mm when the line is drawn at two paces: tremor stays in Hz.
pub fn diagonal_wobble(warmup: &WarmUp) -> Option<Wobble> {
    let groups: Vec<Vec<(f64, f64, f64)>> = warmup
        .groups
        .iter()
        .filter(|g| g.exercise == Exercise::Diagonal)
        .map(|g| g.strokes.iter().filter_map(peak).filter(|p| p.2 > 4.0).collect())
        .filter(|p: &Vec<_>| !p.is_empty())
        .collect();
    if groups.len() < 2 {
        return None;
    }
    let of = |g: &[(f64, f64, f64)], f: fn(&(f64, f64, f64)) -> f64| median(&g.iter().map(f).collect::<Vec<_>>());
    let periods: Vec<f64> = groups.iter().filter_map(|g| of(g, |p| p.0)).collect();
    let (low, high) = periods.iter().fold((f64::MAX, 0.0f64), |a, p| (a.0.min(*p), a.1.max(*p)));
    if high > 1.08 * low {
        return None;
    }
    let all: Vec<(f64, f64, f64)> = groups.into_iter().flatten().collect();
    Some(Wobble { amplitude_um: 1000.0 * of(&all, |p| p.1)?, period_mm: of(&all, |p| p.0)? })
}

/// Median of raw falling minus raw rising at equal effort of the ramps' guide, over the middle 60 %.
pub fn hysteresis(warmup: &WarmUp) -> Option<f64> {
    let mut seen = Vec::new();
    for s in warmup.strokes(Exercise::Ramp) {
        let (Some(a), Some(b)) = (s.samples.first(), s.samples.last()) else { continue };
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        let square = dx * dx + dy * dy;
        if square <= 0.0 {
            continue;
        }
        let at: Vec<(f64, f64)> = s.samples.iter().filter_map(|p| Some((((p.x - a.x) * dx + (p.y - a.y) * dy) / square, p.pressure?))).collect();
        let near = |u: f64| {
            let some: Vec<f64> = at.iter().filter(|p| (p.0 - u).abs() < 0.02).map(|p| p.1).collect();
            mean_sd(&some).map(|m| m.0)
        };
        seen.extend((0..=24).filter_map(|k| {
            let effort = 0.2 + 0.6 * f64::from(k) / 24.0;
            Some(near(1.0 - 0.5 * effort)? - near(0.5 * effort)?)
        }));
    }
    (seen.len() >= 12).then(|| median(&seen)).flatten()
}

/// What the figures were read from, for the eye: `[mm along, µm across]` of a ruled line and of a diagonal, bows taken out;
/// `[effort, raw]` up and down a ramp; `[s, raw]` of a steady stroke.
#[derive(Debug, Clone, Default, PartialEq, Serialize, JsonSchema)]
pub struct Evidence {
    pub ruled: Vec<[f64; 2]>,
    pub diagonal: Vec<[f64; 2]>,
    pub pressing: Vec<[f64; 2]>,
    pub letting_go: Vec<[f64; 2]>,
    pub steady: Vec<[f64; 2]>,
}

/// One stroke of each kind, the first that can be read.
pub fn evidence(warmup: &WarmUp) -> Evidence {
    let residual = |e: Exercise| {
        let found = warmup.strokes(e).find_map(across);
        found.map_or(Vec::new(), |(way, off)| way.iter().map(|w| w - way[0]).zip(without_bow(&off, 3)).map(|(w, o)| [w, 1000.0 * o]).collect())
    };
    let mut out = Evidence { ruled: residual(Exercise::Ruled), diagonal: residual(Exercise::Diagonal), ..Evidence::default() };
    if let Some(s) = warmup.strokes(Exercise::Ramp).find(|s| s.samples.len() > 12) {
        let (a, b) = (&s.samples[0], &s.samples[s.samples.len() - 1]);
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        for p in &s.samples {
            let u = ((p.x - a.x) * dx + (p.y - a.y) * dy) / (dx * dx + dy * dy).max(1e-9);
            let Some(raw) = p.pressure else { continue };
            if u <= 0.5 { out.pressing.push([2.0 * u, raw]) } else { out.letting_go.push([2.0 - 2.0 * u, raw]) }
        }
    }
    let middle = warmup.efforts().find(|(e, s)| *e == 0.5 && s.samples.len() > 24).or_else(|| warmup.efforts().next());
    if let Some((_, s)) = middle {
        let start = s.samples.first().map_or(0.0, |p| p.t_ms);
        out.steady = s.samples.iter().filter_map(|p| Some([(p.t_ms - start) / 1000.0, p.pressure?])).collect();
    }
    out
}
