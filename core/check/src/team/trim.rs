//! The weight correction: a map of widths that brings an artist's lines to the guide's weight, carried onto a weight curve or a response, with
//! its predicted effect on the lines already measured. It is offered; nobody's brush is changed for them.
//!
//! How: widths at seven shares of the length are matched to those of teammates who are within, the mean to the guide's target. Limits: widths
//! that pile up in one place cannot be told apart again; without the page's px per mm it is one factor.

use eddymist_ink::Curve;
use eddymist_measure::stats::{mean_sd, quantile_sorted};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    entries::Entry,
    inference::{Mean, mean_of},
    standing::series,
};
use crate::guide::Weight;

/// Shares of the length at which widths are brought to those asked for.
const AT: [f64; 7] = [0.05, 0.2, 0.35, 0.5, 0.65, 0.8, 0.95];
/// Widths that differ by less are one.
const SAME: f64 = 0.01;

/// A map from the widths drawn to the widths asked for, px of the page; it never falls.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Trim {
    pub knots: Vec<[f64; 2]>,
    pub before: Effect,
    /// Predicted, on the same lines.
    pub after: Effect,
    /// What the widths asked for are taken from.
    pub from: String,
    /// What the correction cannot do.
    pub limits: Vec<String>,
}

/// How lines lie against the guide.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Effect {
    pub mean_px: f64,
    pub p10_px: f64,
    pub p90_px: f64,
    /// Share of the length between the tolerance's limits, or the swell's.
    pub within: f64,
    pub drawings: usize,
}

impl Trim {
    /// The width that a drawn width becomes; proportional beyond the knots.
    pub fn corrected(&self, w: f64) -> f64 {
        interpolated(&self.knots, w)
    }
}

fn interpolated(knots: &[[f64; 2]], w: f64) -> f64 {
    let (Some(first), Some(last)) = (knots.first(), knots.last()) else { return w };
    if w <= first[0] {
        return w * first[1] / first[0];
    }
    if w >= last[0] {
        return w * last[1] / last[0];
    }
    let k = knots.partition_point(|p| p[0] <= w).clamp(1, knots.len() - 1);
    let ([a, fa], [b, fb]) = (knots[k - 1], knots[k]);
    fa + (fb - fa) * (w - a) / (b - a)
}

/// The widths of drawings together, at equal shares of their length.
fn pooled(entries: &[&Entry], role: &str) -> Vec<f64> {
    let mut all: Vec<f64> = entries.iter().filter_map(|e| e.role(role)).flat_map(|r| r.widths_px.iter().copied()).filter(|w| *w > 0.0).collect();
    all.sort_by(f64::total_cmp);
    all
}

fn effect(entries: &[&Entry], role: &str, weight: &Weight, map: impl Fn(f64) -> f64) -> Option<Effect> {
    let own = pooled(entries, role);
    let after: Vec<f64> = own.iter().map(|w| map(*w)).collect();
    let (drawn, mapped) = (mean_sd(&own)?.0, mean_sd(&after)?.0);
    let (seen, y) = series(entries, role);
    let [low, high] = weight.living();
    Some(Effect {
        // The measure's own mean, moved as the widths are.
        mean_px: mean_sd(&y)?.0 * mapped / drawn,
        p10_px: quantile_sorted(&after, 0.1)?,
        p90_px: quantile_sorted(&after, 0.9)?,
        within: after.iter().filter(|w| **w >= low && **w <= high).count() as f64 / after.len() as f64,
        drawings: seen.len(),
    })
}

/// The trim of an artist's drawings in a role. The widths asked for are those of `like` (teammates who are within), brought to the
/// target; without any, the artist's own times one factor. None where nothing was measured.
pub fn trim(weight: &Weight, role: &str, own: &[&Entry], like: &[&Entry]) -> Option<Trim> {
    let drawn = pooled(own, role);
    let mean = mean_sd(&series(own, role).1)?.0;
    let asked = pooled(like, role);
    let like_mean = mean_sd(&series(like, role).1).map(|m| m.0);
    let mut limits = Vec::new();
    let mut knots: Vec<[f64; 2]> = Vec::new();
    let mut merged = 1.0;
    for q in AT {
        let w = quantile_sorted(&drawn, q)?;
        let to = match like_mean {
            Some(m) if !asked.is_empty() => quantile_sorted(&asked, q)? * weight.target / m,
            _ => w * weight.target / mean,
        };
        match knots.last_mut() {
            // Widths that pile up in one place cannot be told apart again: they go to the middle of what is asked of them.
            Some(last) if w < last[0] * (1.0 + SAME) => {
                merged += 1.0;
                last[1] += (to - last[1]) / merged;
            }
            _ => {
                merged = 1.0;
                knots.push([w, to]);
            }
        }
    }
    for k in 1..knots.len() {
        knots[k][1] = knots[k][1].max(knots[k - 1][1]);
    }
    if knots.len() < AT.len() && like_mean.is_some() && knots.len() > 1 {
        limits.push("widths that piled up in one place stay in one place: the correction can move them, not part them".to_string());
    }
    let before = effect(own, role, weight, |w| w)?;
    // The mean is what the guide asks for; the shape alone is taken from others.
    let reached = effect(own, role, weight, |w| interpolated(&knots, w))?.mean_px;
    knots.iter_mut().for_each(|k| k[1] *= weight.target / reached);
    let after = effect(own, role, weight, |w| interpolated(&knots, w))?;
    let from =
        if like_mean.is_some() { "the widths of those who are within".to_string() } else { "the guide’s target: one factor for all widths".to_string() };
    Some(Trim { knots, before, after, from, limits })
}

/// Why a trim cannot be carried onto something.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum CarryError {
    #[error("the brush’s weight does not change with effort: correct its weight curve, not the tablet’s response")]
    Flat,
    #[error("the curve cannot be used: {0}")]
    Curve(String),
}

/// A weight curve (effort, mm) with the correction on it. Without the page's px per mm the map is one factor, that of the middle width.
pub fn on_weight(trim: &Trim, weight: &[[f64; 2]], px_per_mm: Option<f64>) -> Vec<[f64; 2]> {
    let factor = trim.knots.get(trim.knots.len() / 2).map_or(1.0, |k| k[1] / k[0]);
    let mut most: f64 = 0.0;
    weight
        .iter()
        .map(|[effort, mm]| {
            let to = px_per_mm.map_or(mm * factor, |r| trim.corrected(mm * r) / r);
            most = most.max((to * 1e4).round() / 1e4);
            [*effort, most]
        })
        .collect()
}

/// A response (raw, effort) with the correction on it, through the weight curve that it is drawn with: `r'(p) = W⁻¹(g(W(r(p))))`. Its ends
/// stay, so that the lightest mark stays the lightest.
pub fn on_response(trim: &Trim, response: &[[f64; 2]], weight: &[[f64; 2]], px_per_mm: Option<f64>) -> Result<Vec<[f64; 2]>, CarryError> {
    let curve = Curve::new(weight).map_err(|e| CarryError::Curve(e.to_string()))?;
    let (low, high) = (curve.value(0.0), curve.value(1.0));
    if high - low < 0.02 * high {
        return Err(CarryError::Flat);
    }
    let asked = Curve::new(&on_weight(trim, weight, px_per_mm)).map_err(|e| CarryError::Curve(e.to_string()))?;
    let mut out: Vec<[f64; 2]> = response.iter().map(|[raw, effort]| [*raw, curve.inverse(asked.value(*effort).clamp(low, high)).clamp(0.0, 1.0)]).collect();
    // Strictly increasing, as a response has to be; the lightest mark is effort 0.
    if let Some(first) = out.first_mut() {
        first[1] = 0.0;
    }
    for k in 1..out.len() {
        out[k][1] = out[k][1].max(out[k - 1][1] + 1e-3);
    }
    let most = out.last().map_or(1.0, |p| p[1]);
    if most > 1.0 {
        out.iter_mut().for_each(|p| p[1] /= most);
    }
    out.iter_mut().for_each(|p| p[1] = (p[1] * 1e5).round() / 1e5);
    Ok(out)
}

/// Whether a trim that was taken worked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// Too few drawings since.
    Waiting,
    Worked,
    /// Nearer to the target than before, and not surely within.
    Nearer,
    DidNot,
}

/// What became of a role's weight since a trim was taken, in words.
pub fn outcome(weight: &Weight, role: &str, before_px: f64, since: &[f64]) -> (Outcome, String) {
    const FEW: usize = 3;
    let Some(Mean { n, mean, interval: Some([a, b]), .. }) = mean_of(since).filter(|m| m.n >= FEW) else {
        let said = match since.len() {
            0 => "no drawing".to_string(),
            1 => "1 drawing".to_string(),
            n => format!("{n} drawings"),
        };
        return (Outcome::Waiting, format!("{said} since it was accepted: {FEW} will say whether it worked"));
    };
    let [low, high] = weight.band();
    let figure = format!("{role} {mean:.2} px ({a:.2} to {b:.2}) in {n} drawings since, {before_px:.2} before");
    let nearer = (mean - weight.target).abs() < 0.5 * (before_px - weight.target).abs();
    if a >= low && b <= high {
        (Outcome::Worked, format!("It worked: {figure}"))
    } else if nearer {
        (Outcome::Nearer, format!("Nearer, and not surely within: {figure}"))
    } else {
        (Outcome::DidNot, format!("It did not work: {figure}"))
    }
}
