//! Smoothing of position and of effort: live, one value at a time, and once more when the pen has lifted.
//!
//! Source of the adaptive kind: G. Casiez, N. Roussel, D. Vogel, "1€ Filter: A Simple Speed-based Low-pass Filter for
//! Noisy Input in Interactive Systems", CHI 2012, algorithm 1. Average and tow: common practice, no single source.

use crate::{brush::SmoothingKind, fairing, stroke::Stroke};

/// The derivative's own cut-off, Hz.
const DERIVATIVE_CUTOFF_HZ: f64 = 1.0;

/// A 1€ filter on one axis.
#[derive(Debug, Clone)]
pub struct OneEuro {
    min_cutoff_hz: f64,
    speed_coefficient: f64,
    state: Option<(f64, f64)>,
}

impl OneEuro {
    pub fn new(min_cutoff_hz: f64, speed_coefficient: f64) -> Self {
        Self { min_cutoff_hz, speed_coefficient, state: None }
    }

    /// The filtered value of `x`, `dt_s` after the last one; `scale` turns the unit into mm of the hand for the speed.
    pub fn push(&mut self, x: f64, dt_s: f64, scale: f64) -> f64 {
        let Some((last, last_rate)) = self.state else {
            self.state = Some((x, 0.0));
            return x;
        };
        if dt_s <= 0.0 {
            return last;
        }
        let rate = lerp(last_rate, (x - last) / dt_s, alpha(DERIVATIVE_CUTOFF_HZ, dt_s));
        let cutoff = self.min_cutoff_hz + self.speed_coefficient * (rate * scale).abs();
        let y = lerp(last, x, alpha(cutoff, dt_s));
        self.state = Some((y, rate));
        y
    }
}

fn alpha(cutoff_hz: f64, dt_s: f64) -> f64 {
    let tau = 1.0 / (std::f64::consts::TAU * cutoff_hz);
    1.0 / (1.0 + tau / dt_s)
}

fn lerp(a: f64, b: f64, t: f64) -> f64 {
    a + (b - a) * t
}

/// The mean of a value over spans of time: its integral, straight between the samples.
#[derive(Debug, Clone, Default)]
pub struct Average {
    t: Vec<f64>,
    x: Vec<f64>,
    sum: Vec<f64>,
}

impl Average {
    /// Takes the value at a time, ms; times never fall.
    pub fn push(&mut self, t: f64, x: f64) {
        let sum = match (self.t.last(), self.x.last(), self.sum.last()) {
            (Some(t0), Some(x0), Some(s)) => s + 0.5 * (x + x0) * (t - t0).max(0.0),
            _ => 0.0,
        };
        let t = self.t.last().map_or(t, |last| last.max(t));
        self.t.push(t);
        self.x.push(x);
        self.sum.push(sum);
    }

    fn integral(&self, t: f64) -> f64 {
        let i = self.t.partition_point(|v| *v <= t).clamp(1, self.t.len()) - 1;
        let Some(next) = self.t.get(i + 1) else { return self.sum[i] };
        let u = ((t - self.t[i]) / (next - self.t[i])).clamp(0.0, 1.0);
        let at = lerp(self.x[i], self.x[i + 1], u);
        self.sum[i] + 0.5 * (self.x[i] + at) * (t - self.t[i]).max(0.0)
    }

    /// The mean between two times, cut to those that were taken; none where that is no span.
    pub fn mean(&self, from: f64, to: f64) -> Option<f64> {
        let (a, b) = (from.max(*self.t.first()?), to.min(*self.t.last()?));
        (b > a + 1e-9).then(|| (self.integral(b) - self.integral(a)) / (b - a))
    }

    /// The mean over the window that ends at the last value.
    pub fn last(&self, span_ms: f64) -> f64 {
        let Some((t, x)) = self.t.last().zip(self.x.last()) else { return 0.0 };
        self.mean(t - span_ms, *t).unwrap_or(*x)
    }

    /// The mean about every value, over as much of the window to either side as there is of it on both: the ends stay.
    pub fn centred(&self, span_ms: f64) -> Vec<f64> {
        let (Some(first), Some(last)) = (self.t.first(), self.t.last()) else { return Vec::new() };
        let about = |(t, x): (&f64, &f64)| {
            let half = (0.5 * span_ms).min(t - first).min(last - t);
            self.mean(t - half, t + half).unwrap_or(*x)
        };
        self.t.iter().zip(&self.x).map(about).collect()
    }
}

/// Live smoothing of a place or of one value, as the brush asks for it. Kinds that need time do nothing without it.
#[derive(Debug, Clone)]
pub enum Smoother<const N: usize> {
    Off,
    Adaptive([OneEuro; N]),
    Average { span_ms: f64, each: [Average; N] },
    Tow { radius: f64, at: Option<[f64; N]> },
}

impl<const N: usize> Smoother<N> {
    pub fn new(kind: &SmoothingKind, timed: bool) -> Self {
        match kind {
            SmoothingKind::Adaptive { min_cutoff_hz, speed_coefficient } if timed => {
                Self::Adaptive(std::array::from_fn(|_| OneEuro::new(*min_cutoff_hz, *speed_coefficient)))
            }
            SmoothingKind::Average { span_ms } if timed && *span_ms > 0.0 => {
                Self::Average { span_ms: *span_ms, each: std::array::from_fn(|_| Average::default()) }
            }
            SmoothingKind::Tow { slack_mm } if *slack_mm > 0.0 => Self::Tow { radius: *slack_mm, at: None },
            // Faired comes when the pen has lifted.
            _ => Self::Off,
        }
    }

    /// The smoothed value of `x` at `t_ms`, `dt_s` after the last one.
    pub fn push(&mut self, x: [f64; N], t_ms: f64, dt_s: f64, scale: f64) -> [f64; N] {
        match self {
            Self::Off => x,
            Self::Adaptive(f) => std::array::from_fn(|k| f[k].push(x[k], dt_s, scale)),
            Self::Average { span_ms, each } => std::array::from_fn(|k| {
                each[k].push(t_ms, x[k]);
                each[k].last(*span_ms)
            }),
            Self::Tow { radius, at } => {
                let nib = at.get_or_insert(x);
                let away = (0..N).map(|k| (x[k] - nib[k]).powi(2)).sum::<f64>().sqrt();
                if away > *radius {
                    // Straight toward the stylus, as far as the circle's rim.
                    let by = 1.0 - *radius / away;
                    *nib = std::array::from_fn(|k| lerp(nib[k], x[k], by));
                }
                *nib
            }
        }
    }
}

/// The values of a whole stroke as the finished ink has them: a centred average, a faired curve; other kinds as live.
pub fn finished<const N: usize>(kind: &SmoothingKind, stroke: &Stroke, values: &[[f64; N]]) -> Vec<[f64; N]> {
    match kind {
        SmoothingKind::Average { span_ms } if stroke.timed && *span_ms > 0.0 => {
            let each: [Vec<f64>; N] = std::array::from_fn(|k| {
                let mut a = Average::default();
                stroke.samples.iter().zip(values).for_each(|(s, v)| a.push(s.t_ms, v[k]));
                a.centred(*span_ms)
            });
            (0..values.len()).map(|i| std::array::from_fn(|k| each[k][i])).collect()
        }
        SmoothingKind::Faired { tolerance_mm } if N == 2 && *tolerance_mm > 0.0 => {
            let points: Vec<[f64; 2]> = values.iter().map(|v| [v[0], v[N - 1]]).collect();
            fairing::faired(&points, *tolerance_mm).into_iter().map(|p| std::array::from_fn(|k| p[k.min(1)])).collect()
        }
        _ => live(kind, stroke, values),
    }
}

/// The values of a whole stroke as live ink has them, each from what came before it.
pub fn live<const N: usize>(kind: &SmoothingKind, stroke: &Stroke, values: &[[f64; N]]) -> Vec<[f64; N]> {
    let mut smoother = Smoother::<N>::new(kind, stroke.timed);
    let mut last = None;
    let mut step = |t_ms: f64| {
        let dt = last.map_or(0.0, |l| (t_ms - l) / 1000.0);
        last = Some(t_ms);
        dt
    };
    stroke.samples.iter().zip(values).map(|(s, v)| smoother.push(*v, s.t_ms, step(s.t_ms), if N == 2 { stroke.zoom } else { 1.0 })).collect()
}
