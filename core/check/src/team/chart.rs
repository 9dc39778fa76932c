//! Control charts along one artist's drawings (NIST/SEMATECH e-Handbook of Statistical Methods, section 6.3).
//!
//! Each drawing is one value: its role's mean weight. The chart of individuals has its spread from the moving ranges (6.3.2.2), the
//! chart of the exponentially weighted mean shows small lasting shifts (6.3.2.4), and the rules are Western Electric's (6.3.2).

use eddymist_measure::stats::mean_sd;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Fewer drawings give no chart.
const LEAST: usize = 5;
/// What the weighted mean keeps of each new value.
pub const LAMBDA: f64 = 0.3;

/// The expected range of two values of a normal distribution of spread 1: 2/√π.
pub fn d2_of_two() -> f64 {
    2.0 / std::f64::consts::PI.sqrt()
}

/// Upper limit of a chart of moving ranges over their mean: 1 + 3·d₃/d₂ with d₃² = 2 − d₂².
pub fn d4_of_two() -> f64 {
    let d2 = d2_of_two();
    1.0 + 3.0 * (2.0 - d2 * d2).sqrt() / d2
}

/// A rule that points along the drawings break.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Rule {
    /// One beyond three spreads.
    Beyond,
    /// Two of three beyond two spreads, on one side.
    TwoOfThree,
    /// Four of five beyond one spread, on one side.
    FourOfFive,
    /// Eight on one side of the middle.
    EightOnOneSide,
    /// The weighted mean beyond its limits.
    WeightedMean,
    /// A jump between neighbours beyond the moving ranges' limit.
    Jump,
}

impl Rule {
    /// The rule in words.
    pub fn says(self) -> &'static str {
        match self {
            Self::Beyond => "beyond three spreads",
            Self::TwoOfThree => "two of three beyond two spreads",
            Self::FourOfFive => "four of five beyond one spread",
            Self::EightOnOneSide => "eight on one side of the middle",
            Self::WeightedMean => "the weighted mean is beyond its limits",
            Self::Jump => "a jump from the drawing before",
        }
    }
}

/// Charts of a series; one value of `weighted` and one list of broken rules a value.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Chart {
    pub centre: f64,
    /// From the moving ranges.
    pub spread: f64,
    /// Centre ∓ three spreads.
    pub limits: [f64; 2],
    pub range_limit: f64,
    pub weighted: Vec<f64>,
    /// Of the weighted mean, as it stands after many values.
    pub weighted_limits: [f64; 2],
    pub broken: Vec<Vec<Rule>>,
}

/// Centre and spread of individuals from their moving ranges; none of fewer than two.
pub fn individuals(y: &[f64]) -> Option<(f64, f64)> {
    let (centre, _) = mean_sd(y)?;
    let ranges: Vec<f64> = y.windows(2).map(|w| (w[1] - w[0]).abs()).collect();
    Some((centre, mean_sd(&ranges)?.0 / d2_of_two()))
}

/// The exponentially weighted means, one a value, from `start`.
pub fn weighted(y: &[f64], start: f64, lambda: f64) -> Vec<f64> {
    y.iter()
        .scan(start, |z, v| {
            *z = lambda * v + (1.0 - lambda) * *z;
            Some(*z)
        })
        .collect()
}

/// Half the width of the weighted mean's limits: 3·s·√(λ/(2 − λ)).
pub fn weighted_half(spread: f64, lambda: f64) -> f64 {
    3.0 * spread * (lambda / (2.0 - lambda)).sqrt()
}

/// The charts of a series in its order; none of fewer than five values or of values that never differ.
pub fn chart(y: &[f64]) -> Option<Chart> {
    if y.len() < LEAST {
        return None;
    }
    let (centre, spread) = individuals(y).filter(|c| c.1 > 0.0)?;
    let range_limit = d4_of_two() * spread * d2_of_two();
    let weighted = weighted(y, centre, LAMBDA);
    let half = weighted_half(spread, LAMBDA);
    let z: Vec<f64> = y.iter().map(|v| (v - centre) / spread).collect();
    let mut broken = western_electric(&z);
    for (i, b) in broken.iter_mut().enumerate() {
        if (weighted[i] - centre).abs() > half {
            b.push(Rule::WeightedMean);
        }
        if i > 0 && (y[i] - y[i - 1]).abs() > range_limit {
            b.push(Rule::Jump);
        }
    }
    Some(Chart {
        centre,
        spread,
        limits: [centre - 3.0 * spread, centre + 3.0 * spread],
        range_limit,
        weighted,
        weighted_limits: [centre - half, centre + half],
        broken,
    })
}

/// The Western Electric rules on values in spreads from the middle: at each, the rules that it completes.
pub fn western_electric(z: &[f64]) -> Vec<Vec<Rule>> {
    let on_a_side = |i: usize, of: usize, least: usize, beyond: f64| {
        i + 1 >= of && [1.0, -1.0].iter().any(|side| z[i] * side > beyond && z[i + 1 - of..=i].iter().filter(|v| **v * side > beyond).count() >= least)
    };
    (0..z.len())
        .map(|i| {
            let rules = [
                (Rule::Beyond, z[i].abs() > 3.0),
                (Rule::TwoOfThree, on_a_side(i, 3, 2, 2.0)),
                (Rule::FourOfFive, on_a_side(i, 5, 4, 1.0)),
                (Rule::EightOnOneSide, on_a_side(i, 8, 8, 0.0)),
            ];
            rules.into_iter().filter(|r| r.1).map(|r| r.0).collect()
        })
        .collect()
}
