//! Capability: how well an artist's drawings fit between the limits (NIST/SEMATECH e-Handbook of Statistical Methods, section 6.1.6).

use eddymist_measure::stats::mean_sd;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF, Normal};

/// Fewer drawings say nothing of it.
const LEAST: usize = 6;

/// Capability of the drawings' mean weights between the tolerance's two limits.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Capability {
    /// Room between the limits over six spreads.
    pub cp: f64,
    pub cp_interval: [f64; 2],
    /// The same by the nearer limit: less than cp where the mean is off the middle.
    pub cpk: f64,
    pub cpk_interval: [f64; 2],
    /// Share of drawings that would lie outside, if their weights are normal about their mean.
    pub outside: f64,
    /// The share that would lie outside with the mean on the target.
    pub outside_centred: f64,
}

/// Of values between limits; none of fewer than six, or where they do not vary.
///
/// Intervals: cp by χ² of the spread, cpk by its normal approximation (A. F. Bissell, Applied Statistics 39, 1990), as the handbook
/// gives them.
pub fn capability(y: &[f64], [low, high]: [f64; 2]) -> Option<Capability> {
    let (mean, s) = mean_sd(y)?;
    if y.len() < LEAST || s <= 0.0 || high <= low {
        return None;
    }
    let (n, nu) = (y.len() as f64, y.len() as f64 - 1.0);
    let cp = (high - low) / (6.0 * s);
    let cpk = (high - mean).min(mean - low) / (3.0 * s);
    let chi = ChiSquared::new(nu).ok()?;
    let normal = Normal::standard();
    let half = normal.inverse_cdf(0.975) * (1.0 / (9.0 * n) + cpk * cpk / (2.0 * nu)).sqrt();
    let outside = |about: f64| normal.cdf((low - about) / s) + normal.sf((high - about) / s);
    Some(Capability {
        cp,
        cp_interval: [0.025, 0.975].map(|q| cp * (chi.inverse_cdf(q) / nu).sqrt()),
        cpk,
        cpk_interval: [cpk - half, cpk + half],
        outside: outside(mean),
        outside_centred: outside(0.5 * (low + high)),
    })
}
