//! Since when: the one place along a series where its mean changes most, and whether chance would give one as strong.
//!
//! How: least squares over all places, against shuffled series. Limits: one change a series, none within two values of an end, none of fewer
//! than six. Source: J. Antoch and M. Hušková, Stat. Probab. Lett. 53 (2001).

use rand::{SeedableRng, seq::SliceRandom};
use rand_chacha::ChaCha8Rng;

/// Orders tried.
const TRIED: usize = 1999;
/// Neither side may have fewer.
const LEAST: usize = 2;

/// A change of the mean before the value at `at`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Change {
    pub at: usize,
    pub before: f64,
    pub after: f64,
    pub p: f64,
}

/// The largest between-sum-of-squares over all places, with its place.
fn best(y: &[f64], total: f64) -> (f64, usize) {
    let n = y.len();
    let mut sum: f64 = y[..LEAST - 1].iter().sum();
    let mut found = (0.0, LEAST);
    for at in LEAST..=n - LEAST {
        sum += y[at - 1];
        let (a, b) = (at as f64, (n - at) as f64);
        let between = (sum / a - (total - sum) / b).powi(2) * a * b / (a + b);
        if between > found.0 {
            found = (between, at);
        }
    }
    found
}

/// The change of mean that explains most of a series (least squares, one change), with the share of shuffled series whose best
/// change explains as much: the permutation test of the maximally selected statistic (J. Antoch and M. Hušková, Stat. Probab.
/// Lett. 53, 2001). None of fewer than six values, or where all are equal.
pub fn change(y: &[f64]) -> Option<Change> {
    let n = y.len();
    if n < 6 || y.iter().any(|v| !v.is_finite()) {
        return None;
    }
    let middle = y.iter().sum::<f64>() / n as f64;
    let mut left: Vec<f64> = y.iter().map(|v| v - middle).collect();
    let total: f64 = left.iter().sum();
    let (strength, at) = best(&left, total);
    if strength <= 0.0 {
        return None;
    }
    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
    let (before, after) = (mean(&y[..at]), mean(&y[at..]));
    let mut r = ChaCha8Rng::seed_from_u64(n as u64);
    let as_strong = (0..TRIED)
        .filter(|_| {
            left.shuffle(&mut r);
            best(&left, total).0 >= strength * (1.0 - 1e-9)
        })
        .count();
    Some(Change { at, before, after, p: (as_strong + 1) as f64 / (TRIED + 1) as f64 })
}
