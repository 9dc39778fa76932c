//! A second estimate of a response, without the convention that effort on paper is effort on the tablet: free drawing on both
//! sides, its quantiles matched.
//!
//! The pen's free line gives the share of its length that was drawn under each effort, by the pen's own widths; the tablet's
//! free strokes give the share drawn under each raw pressure. If the hand draws alike on both, equal shares are equal efforts.

use eddymist_ink::{Curve, Stroke};
use eddymist_measure::stats::quantile_sorted;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    PenCard, TabletProfile,
    pen_card::CardNib,
    warmup::{Exercise, WarmUp},
};

/// The second estimate beside the first.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct SecondEstimate {
    /// Raw pressure, the response's effort there, and the effort by matched quantiles.
    pub points: Vec<[f64; 3]>,
    /// Median and greatest difference of effort.
    pub disagreement: f64,
    pub worst: f64,
    pub says: String,
}

/// Why there is none.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum NoEstimate {
    #[error("{0} shows no free line: ink the free line of a sampler sheet")]
    NoFreeLine(String),
    #[error("{0} has no widths that grow with effort, so that a width does not tell the effort")]
    Flat(String),
    #[error("the nib of {0} draws wider in one direction than in another: its free line does not tell effort from direction. Choose a round pen")]
    Nib(String),
    #[error("this warm-up has no free strokes with pressure")]
    NoStrokes,
}

/// Over this disagreement the two do not tell the same (the transfer's own bound, methods.md section 3, at the 95th percentile).
const AGREES: f64 = 0.06;
/// A nib whose widest direction is over this much wider than its narrowest tells direction as well as effort.
const ROUND: f64 = 1.15;

/// Matches the quantiles of the pen's free line and of the warm-up's free strokes.
pub fn second_estimate(card: &PenCard, profile: &TabletProfile, warmup: &WarmUp) -> Result<SecondEstimate, NoEstimate> {
    let free = card.free_line.as_ref().ok_or_else(|| NoEstimate::NoFreeLine(card.name.clone()))?;
    let slant = match &card.nib {
        Some(CardNib::Ellipse { length_mm, breadth_mm, .. }) => length_mm / breadth_mm.max(1e-6),
        Some(CardNib::Spring { length_mm, opening_mm, .. }) => 1.0 + 0.5 * opening_mm / length_mm.max(1e-6),
        _ => 1.0,
    };
    if slant > ROUND {
        return Err(NoEstimate::Nib(card.name.clone()));
    }
    // Effort by width: where widths do not grow, equal ones tell nothing.
    let mut knots: Vec<[f64; 2]> = Vec::new();
    for w in card.widths_by_effort.iter().flatten() {
        if knots.last().is_none_or(|k: &[f64; 2]| w.width_mm > k[0] * 1.02) {
            knots.push([w.width_mm, w.effort]);
        }
    }
    let flat = || NoEstimate::Flat(card.name.clone());
    let effort = (knots.len() > 2).then(|| Curve::new(&knots).ok()).flatten().ok_or_else(flat)?;
    let mut raw: Vec<f64> = warmup.strokes(Exercise::Freehand).flat_map(by_way).collect();
    raw.sort_by(f64::total_cmp);
    if raw.len() < 100 {
        return Err(NoEstimate::NoStrokes);
    }
    let response = profile.curve().map_err(|_| NoEstimate::NoStrokes)?;
    let points: Vec<[f64; 3]> = free
        .iter()
        .filter(|q| (0.08..=0.92).contains(&q[0]))
        .filter_map(|[share, width]| {
            let raw = quantile_sorted(&raw, *share)?;
            Some([raw, response.value(raw), effort.value(*width)])
        })
        .collect();
    let mut off: Vec<f64> = points.iter().map(|p| (p[2] - p[1]).abs()).collect();
    off.sort_by(f64::total_cmp);
    let (disagreement, worst) = quantile_sorted(&off, 0.5).zip(off.last().copied()).ok_or_else(flat)?;
    let mean = points.iter().map(|p| p[2] - p[1]).sum::<f64>() / points.len() as f64;
    let says = if disagreement <= AGREES {
        format!("both agree within {disagreement:.2} of effort: free drawing on paper and on this tablet presses alike")
    } else {
        let (which, other) = if mean > 0.0 { ("paper", "the tablet") } else { ("the tablet", "paper") };
        format!("they differ by {disagreement:.2} of effort: free drawing pressed harder on {which} than on {other}, or another hand or subject drew it")
    };
    Ok(SecondEstimate { points, disagreement, worst, says })
}

/// Raw pressure every 0.2 mm of a stroke's way, so that a slow place counts no more than a fast one.
fn by_way(stroke: &Stroke) -> Vec<f64> {
    let way = stroke.lengths_mm();
    let mut out = Vec::new();
    let mut next = 0.0;
    for (s, w) in stroke.samples.iter().zip(way) {
        while next <= w {
            out.extend(s.pressure);
            next += 0.2;
        }
    }
    out
}
