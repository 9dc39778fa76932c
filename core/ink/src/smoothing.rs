//! Smoothing of position and effort, one value at a time, so that live and finished ink agree.
//!
//! Source of the adaptive kind: G. Casiez, N. Roussel, D. Vogel, "1€ Filter: A Simple Speed-based Low-pass Filter for
//! Noisy Input in Interactive Systems", CHI 2012, algorithm 1.

use crate::brush::SmoothingKind;

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

/// Smoothing on one axis as the brush asks for it.
#[derive(Debug, Clone)]
pub enum Smoother {
    Off,
    Adaptive(OneEuro),
}

impl Smoother {
    /// A smoother of this kind; without real times there is none.
    pub fn new(kind: &SmoothingKind, timed: bool) -> Self {
        match kind {
            SmoothingKind::Adaptive { min_cutoff_hz, speed_coefficient } if timed => Self::Adaptive(OneEuro::new(*min_cutoff_hz, *speed_coefficient)),
            _ => Self::Off,
        }
    }

    /// The smoothed value.
    pub fn push(&mut self, x: f64, dt_s: f64, scale: f64) -> f64 {
        match self {
            Self::Off => x,
            Self::Adaptive(f) => f.push(x, dt_s, scale),
        }
    }
}
