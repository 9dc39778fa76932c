//! The team's plain statistics: means with their intervals, two means against one another, many tests at once, one-way tables.
//!
//! Limits: values are taken as independent; a mean of fewer than two has no interval. Sources: B. L. Welch, Biometrika 34 (1947); S. Holm,
//! Scand. J. Stat. 6 (1979); NIST's certified one-way data hold the table's digits (`tests/team_statistics.rs`).

use eddymist_measure::stats::mean_sd;
use statrs::distribution::{ContinuousCDF, StudentsT};

/// Student's t at a share of its distribution; the degrees of freedom are at least 1.
pub fn t_at(share: f64, df: f64) -> f64 {
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(f64::INFINITY, |t| t.inverse_cdf(share))
}

/// How often Student's t lies above `t`.
pub fn t_above(t: f64, df: f64) -> f64 {
    if t.is_nan() {
        return 1.0;
    }
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(1.0, |d| d.sf(t))
}

/// A mean with its standard deviation (n − 1) and 95 % interval by Student; no interval of fewer than two.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mean {
    pub n: usize,
    pub mean: f64,
    pub sd: f64,
    pub interval: Option<[f64; 2]>,
}

/// The mean of values; none of nothing.
pub fn mean_of(values: &[f64]) -> Option<Mean> {
    let (mean, sd) = mean_sd(values)?;
    let n = values.len();
    let half = t_at(0.975, n as f64 - 1.0) * sd / (n as f64).sqrt();
    Some(Mean { n, mean, sd, interval: (n > 1).then_some([mean - half, mean + half]) })
}

/// The difference a − b of two means with unequal spreads: difference, its 95 % interval and two-sided p (B. L. Welch, Biometrika 34,
/// 1947). None where either has fewer than two values. Two groups without any spread differ surely, or not at all.
pub fn welch(a: &[f64], b: &[f64]) -> Option<(f64, [f64; 2], f64)> {
    let (a, b) = (mean_of(a).filter(|m| m.n > 1)?, mean_of(b).filter(|m| m.n > 1)?);
    let (va, vb) = (a.sd * a.sd / a.n as f64, b.sd * b.sd / b.n as f64);
    let (d, se) = (a.mean - b.mean, (va + vb).sqrt());
    if se == 0.0 {
        return Some((d, [d, d], if d == 0.0 { 1.0 } else { 0.0 }));
    }
    let df = (va + vb).powi(2) / (va * va / (a.n as f64 - 1.0) + vb * vb / (b.n as f64 - 1.0));
    let half = t_at(0.975, df) * se;
    Some((d, [d - half, d + half], (2.0 * t_above((d / se).abs(), df)).min(1.0)))
}

/// Holm's corrected probabilities (Scand. J. Stat. 6, 1979), in the order given.
pub fn holm(p: &[f64]) -> Vec<f64> {
    let mut by: Vec<usize> = (0..p.len()).collect();
    by.sort_by(|a, b| p[*a].total_cmp(&p[*b]));
    let mut out = vec![1.0; p.len()];
    let mut least: f64 = 0.0;
    for (k, i) in by.into_iter().enumerate() {
        least = least.max(((p.len() - k) as f64 * p[i]).min(1.0));
        out[i] = least;
    }
    out
}

/// A one-way table: the sum of squares between and within groups, with their degrees of freedom and F.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OneWay {
    pub between: f64,
    pub within: f64,
    pub df: [usize; 2],
    pub f: f64,
}

/// The one-way analysis of variance of groups; none of fewer than two groups or without repeats. Deviations are summed, not squares,
/// so that a large common part costs no digits.
pub fn one_way(groups: &[Vec<f64>]) -> Option<OneWay> {
    let groups: Vec<&Vec<f64>> = groups.iter().filter(|g| !g.is_empty()).collect();
    let n: usize = groups.iter().map(|g| g.len()).sum();
    if groups.len() < 2 || n <= groups.len() {
        return None;
    }
    let origin = groups[0][0];
    let means: Vec<f64> = groups.iter().map(|g| g.iter().map(|v| v - origin).sum::<f64>() / g.len() as f64).collect();
    let grand = groups.iter().zip(&means).map(|(g, m)| m * g.len() as f64).sum::<f64>() / n as f64;
    let between = groups.iter().zip(&means).map(|(g, m)| g.len() as f64 * (m - grand).powi(2)).sum::<f64>();
    let within = groups.iter().zip(&means).flat_map(|(g, m)| g.iter().map(move |v| (v - origin - m).powi(2))).sum::<f64>();
    let df = [groups.len() - 1, n - groups.len()];
    Some(OneWay { between, within, df, f: (between / df[0] as f64) / (within / df[1] as f64) })
}
