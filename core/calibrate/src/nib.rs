//! The nib's law from widths by direction: round, ellipse or spring, chosen by leaving one direction out at a time.
//!
//! How: the ellipse `w² = L²·sin²(θ−φ) + B²·cos²(θ−φ)` by least squares in w², the spring `w = w₀ + q·max(0, cos(θ − pull))` by a search over
//! the pull; a law must beat a round nib on directions that it has not seen, and beat chance (F-test). Limits: no angle is given where the
//! nib is round within its error, nor where a law leaves over 5 %; fewer than eight directions give none. Source: the shadow of an ellipse;
//! the F-test of nested models, any textbook.

use eddymist_measure::stats::solve;
use statrs::distribution::{ContinuousCDF, FisherSnedecor};

use crate::pen_card::CardNib;

/// A width by direction of travel, with the weight it has in the fit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seen {
    pub direction_deg: f64,
    pub width_mm: f64,
    pub weight: f64,
}

/// Efforts of fan and circle.
const AT_EFFORT: f64 = 0.5;
/// A law whose residual is over this share of the mean width is none.
pub(crate) const MOST_RESIDUAL: f64 = 0.05;
/// A law must leave this much less than a round nib does, on directions that it has not seen.
const BETTER: f64 = 0.9;

/// A nib whose width goes by less than this share over all directions is round for every purpose.
const LEAST_RANGE: f64 = 0.04;
/// How often a round nib may be taken for another by chance.
const BY_CHANCE: f64 = 2e-4;

#[derive(Clone, Copy)]
enum Law {
    Round {
        w: f64,
    },
    /// `w² = L²·sin²(θ−φ) + B²·cos²(θ−φ)`: the shadow of an ellipse across the direction of travel.
    Ellipse {
        a: f64,
        b: f64,
        c: f64,
    },
    /// `w = w₀ + q·max(0, cos(θ − pull))`.
    Spring {
        w0: f64,
        q: f64,
        pull: f64,
    },
}

impl Law {
    fn width(self, theta: f64) -> f64 {
        match self {
            Self::Round { w } => w,
            Self::Ellipse { a, b, c } => (a + b * (2.0 * theta).cos() + c * (2.0 * theta).sin()).max(0.0).sqrt(),
            Self::Spring { w0, q, pull } => w0 + q * (theta - pull).cos().max(0.0),
        }
    }
}

fn theta(s: &Seen) -> f64 {
    s.direction_deg.to_radians()
}

fn round(seen: &[Seen]) -> Option<Law> {
    let total: f64 = seen.iter().map(|s| s.weight).sum();
    (total > 0.0).then(|| Law::Round { w: seen.iter().map(|s| s.weight * s.width_mm).sum::<f64>() / total })
}

fn ellipse(seen: &[Seen]) -> Option<Law> {
    // Least squares in w²; its error is 2·w times the width's.
    let (mut m, mut r) = ([[0.0; 3]; 3], [0.0; 3]);
    for s in seen {
        let x = [1.0, (2.0 * theta(s)).cos(), (2.0 * theta(s)).sin()];
        let k = s.weight / (4.0 * s.width_mm * s.width_mm);
        for i in 0..3 {
            for j in 0..3 {
                m[i][j] += k * x[i] * x[j];
            }
            r[i] += k * x[i] * s.width_mm * s.width_mm;
        }
    }
    let [a, b, c] = solve(m, r)?;
    (a > b.hypot(c)).then_some(Law::Ellipse { a, b, c })
}

/// With the pull given, least squares for the closed width and the opening.
fn spring_at(seen: &[Seen], pull: f64) -> Option<(Law, f64)> {
    let (mut m, mut r) = ([[0.0; 2]; 2], [0.0; 2]);
    for s in seen {
        let x = [1.0, (theta(s) - pull).cos().max(0.0)];
        for i in 0..2 {
            for j in 0..2 {
                m[i][j] += s.weight * x[i] * x[j];
            }
            r[i] += s.weight * x[i] * s.width_mm;
        }
    }
    let [w0, q] = solve(m, r)?;
    let law = Law::Spring { w0, q, pull };
    (w0 > 0.0 && q >= 0.0).then(|| (law, misfit(law, seen)))
}

fn spring(seen: &[Seen]) -> Option<Law> {
    let best =
        |from: f64, step: f64, n: i32| (0..n).filter_map(|k| spring_at(seen, from + step * f64::from(k))).min_by(|a, b| a.1.total_cmp(&b.1)).map(|b| b.0);
    let Law::Spring { pull, .. } = best(0.0, 5f64.to_radians(), 72)? else { return None };
    best(pull - 5f64.to_radians(), 0.1f64.to_radians(), 101)
}

/// Weighted sum of squared residuals.
fn misfit(law: Law, seen: &[Seen]) -> f64 {
    seen.iter().map(|s| s.weight * (s.width_mm - law.width(theta(s))).powi(2)).sum()
}

/// Root of the mean squared residual of each direction from a law that has not seen it.
fn unseen(fit: fn(&[Seen]) -> Option<Law>, seen: &[Seen]) -> f64 {
    let mut others = Vec::with_capacity(seen.len());
    let (mut sum, mut total) = (0.0, 0.0);
    for (i, s) in seen.iter().enumerate() {
        others.clear();
        others.extend(seen.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, o)| *o));
        let Some(law) = fit(&others) else { return f64::INFINITY };
        sum += s.weight * (s.width_mm - law.width(theta(s))).powi(2);
        total += s.weight;
    }
    if total > 0.0 { (sum / total).sqrt() } else { f64::INFINITY }
}

/// The law of these widths; none from fewer than eight directions. A round nib has no angle, and neither has one that
/// no law fits within 5 %: it comes back as round with that residual, and the sentence says so.
pub fn law(seen: &[Seen]) -> Option<(CardNib, Option<String>)> {
    law_within(seen, MOST_RESIDUAL)
}

/// The same where a law may leave another share of the mean width than 5 %.
pub fn law_within(seen: &[Seen], most: f64) -> Option<(CardNib, Option<String>)> {
    if seen.len() < 8 {
        return None;
    }
    let total: f64 = seen.iter().map(|s| s.weight).sum();
    let plain = round(seen)?;
    let Law::Round { w: mean } = plain else { return None };
    let even = unseen(round, seen);
    let (best, law) = [(unseen(ellipse, seen), ellipse(seen)), (unseen(spring, seen), spring(seen))].into_iter().min_by(|a, b| a.0.total_cmp(&b.0))?;
    let residual = |law: Law| (misfit(law, seen) / total).sqrt();
    let as_round = |law: Law| CardNib::Round { length_mm: mean, residual_mm: residual(law), rays: None };
    // Chance alone fits a direction to noise: the law must also leave less than chance would (F-test of two parameters more).
    let surely = |law: Law| {
        let (n, rest) = (seen.len() as f64, misfit(law, seen).max(f64::MIN_POSITIVE));
        let f = (misfit(plain, seen) - rest) / 2.0 / (rest / (n - 3.0).max(1.0));
        FisherSnedecor::new(2.0, (n - 3.0).max(1.0)).is_ok_and(|d| f > d.inverse_cdf(1.0 - BY_CHANCE))
    };
    let range = |law: Law| {
        let (low, high) = (0..72).map(|k| law.width(f64::from(k) * 5f64.to_radians())).fold((f64::MAX, 0.0f64), |a, w| (a.0.min(w), a.1.max(w)));
        (high - low) / mean
    };
    let Some(law) = law.filter(|l| best < BETTER * even && surely(*l) && range(*l) > LEAST_RANGE) else {
        let rough = even > most * mean;
        return Some((as_round(plain), rough.then(|| "the nib's widths go neither by direction nor evenly: no shape is given".to_string())));
    };
    if residual(law) > most * mean {
        return Some((
            as_round(plain),
            Some(format!("no nib shape fits within {:.0} % (the best leaves {:.0} %): no angle is given", 100.0 * most, 100.0 * residual(law) / mean)),
        ));
    }
    let degrees = |r: f64| r.to_degrees();
    let nib = match law {
        Law::Ellipse { a, b, c } => {
            let r = b.hypot(c);
            let angle = degrees(0.5 * (-c).atan2(-b));
            CardNib::Ellipse {
                length_mm: (a + r).sqrt(),
                breadth_mm: (a - r).max(0.0).sqrt(),
                angle_deg: if angle <= -90.0 { angle + 180.0 } else { angle },
                residual_mm: residual(law),
                rays: None,
            }
        }
        Law::Spring { w0, q, pull } => {
            CardNib::Spring { length_mm: w0, opening_mm: q / AT_EFFORT, pull_deg: degrees(pull).rem_euclid(360.0), residual_mm: residual(law), rays: None }
        }
        Law::Round { .. } => as_round(law),
    };
    Some((nib, None))
}
