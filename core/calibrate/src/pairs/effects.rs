//! What the pairs say of the pen: `log w = W(raw) + pace(speed) + nib(direction)`, and what is left.
//!
//! How: in turns (backfitting), each a monotone curve through knots, outliers weighed down (Tukey's biweight); from lines that were gone over the
//! hand answers what its eye saw, so raw pressure is fitted to the width and turned round. Limits: eight directions for a nib; a width that
//! goes by pressure by less than 6 % is flat. Source: Breiman and Friedman, "Estimating optimal transformations" (1985), on fitting in turns.

use eddymist_ink::Curve;
use eddymist_measure::stats::{mean_sd, median, pooled_sd};

use super::{document::Way, rising::rising};
use crate::{
    nib::{self, Seen},
    pen_card::CardNib,
};

/// A pair as it is fitted.
#[derive(Debug, Clone, Copy)]
pub(super) struct Row {
    pub stroke: usize,
    pub raw: f64,
    pub speed: f64,
    pub direction_deg: f64,
    pub log_width: f64,
    /// Way along its stroke, mm.
    pub way: f64,
    /// The square millimetre of the page that it is in.
    pub cell: (i32, i32),
}

/// Fitted effects.
#[derive(Debug, Clone)]
pub(super) struct Effects {
    /// Raw pressure to the logarithm of the width, at the pairs' median speed and over all directions.
    pub weight: Curve,
    /// Speed to the logarithm of its factor.
    pub pace: Option<Curve>,
    /// The logarithm of each direction's factor, and the law that it comes from.
    nib: Option<CardNib>,
    /// Of the law: its mean over the pairs.
    level: f64,
}

/// Times round; by then nothing moves by a thousandth.
const ROUNDS: usize = 12;
const BINS: usize = 24;
/// While the rest is not known, a nib's law may leave this share of the width.
const ROUGH_NIB: f64 = 0.12;
/// A width that goes by less than this over all pressures is flat.
const FLAT: f64 = 0.06;
/// A pace that changes widths by less than this is none.
const LEAST_PACE: f64 = 0.015;

impl Effects {
    /// The logarithm of the width that is foretold of a pair.
    pub fn foretell(&self, r: &Row) -> f64 {
        self.weight.value(r.raw) + self.pace(r) + self.direction(r.direction_deg)
    }

    fn pace(&self, r: &Row) -> f64 {
        self.pace.as_ref().map_or(0.0, |p| p.value(r.speed))
    }

    /// The logarithm of the factor of a direction.
    pub fn direction(&self, degrees: f64) -> f64 {
        self.nib.as_ref().map_or(0.0, |n| n.width_toward(degrees).max(1e-6).ln() - self.level)
    }

    /// The nib's law, at the middle of the pairs' widths.
    pub fn nib(&self) -> Option<&CardNib> {
        self.nib.as_ref()
    }

    /// Whether that law leaves so little that it may be told.
    pub fn nib_is_sure(&self) -> bool {
        self.nib.as_ref().is_some_and(|n| n.residual_mm() <= nib::MOST_RESIDUAL * self.level.exp())
    }
}

/// Fits all of it, begun with the pressure and begun with the nib: what leaves less is right. None where raw pressure hardly varies.
pub(super) fn fit(rows: &[Row], way: Way) -> Option<Effects> {
    let left = |e: &Effects| median(&rows.iter().map(|r| (r.log_width - e.foretell(r)).abs()).collect::<Vec<_>>()).unwrap_or(f64::MAX);
    [false, true].into_iter().filter_map(|nib_first| begun(rows, way, nib_first)).min_by(|a, b| left(a).total_cmp(&left(b)))
}

fn begun(rows: &[Row], way: Way, nib_first: bool) -> Option<Effects> {
    let speed = median(&rows.iter().map(|r| r.speed).collect::<Vec<_>>())?;
    let level = rows.iter().map(|r| r.log_width).sum::<f64>() / rows.len().max(1) as f64;
    let mut effects = Effects { weight: Curve::new(&[[0.0, level]]).ok()?, pace: None, nib: None, level: 0.0 };
    let mut trust = vec![1.0; rows.len()];
    let repeats = repeats(rows);
    for round in 0..ROUNDS {
        if round >= 2 || nib_first {
            (effects.nib, effects.level) = direction(rows, &trust, level.exp(), |r| r.log_width - effects.weight.value(r.raw) - effects.pace(r));
        }
        if nib_first && round == 0 && effects.nib.as_ref().is_none_or(|n| matches!(n, CardNib::Round { .. })) {
            return None;
        }
        let other = |r: &Row| r.log_width - effects.pace(r) - effects.direction(r.direction_deg);
        effects.weight = weight(rows, &trust, way, repeats, other)?;
        if way == Way::Paper {
            effects.pace = pace(rows, &trust, speed, |r| r.log_width - effects.weight.value(r.raw) - effects.direction(r.direction_deg));
        }
        trust = robust(rows, &effects);
    }
    Some(effects)
}

/// Weights by how far each pair is from what is foretold.
fn robust(rows: &[Row], effects: &Effects) -> Vec<f64> {
    let off: Vec<f64> = rows.iter().map(|r| r.log_width - effects.foretell(r)).collect();
    let spread = 4.685 * 1.4826 * median(&off.iter().map(|o| o.abs()).collect::<Vec<_>>()).unwrap_or(1.0);
    off.iter().map(|o| (1.0 - (o / spread.max(0.02)).powi(2)).max(0.0).powi(2)).collect()
}

/// The share of raw pressure's variance that comes again where other strokes go over the same place; none without such places.
fn repeats(rows: &[Row]) -> Option<f64> {
    let mut cells: std::collections::BTreeMap<(i32, i32), std::collections::BTreeMap<usize, (f64, f64)>> = Default::default();
    for r in rows {
        let of = cells.entry(r.cell).or_default().entry(r.stroke).or_default();
        *of = (of.0 + r.raw, of.1 + 1.0);
    }
    let groups = cells.values().filter(|c| c.len() > 1).filter_map(|c| {
        let means: Vec<f64> = c.values().map(|m| m.0 / m.1).collect();
        mean_sd(&means).map(|(_, sd)| (sd, means.len() as f64))
    });
    let (within, df) = pooled_sd(groups)?;
    let (_, all) = mean_sd(&rows.iter().map(|r| r.raw).collect::<Vec<_>>())?;
    (df > 30.0).then(|| (1.0 - (within / all.max(1e-9)).powi(2)).clamp(0.05, 1.0))
}

/// Raw pressure to the logarithm of the width, rising.
///
/// Of lines that were gone over the hand answered to what it saw, so raw pressure is fitted to the width. What of the width it could not see or follow
/// makes that too flat: the widths are drawn together about their mean by their reliability, which is what raw pressure and width have in common over
/// what raw pressure has with itself (regression calibration; Carroll, Ruppert, Stefanski and Crainiceanu, "Measurement Error in Nonlinear
/// Models" (2006), chapter 4).
fn weight(rows: &[Row], trust: &[f64], way: Way, repeats: Option<f64>, other: impl Fn(&Row) -> f64) -> Option<Curve> {
    let mut points: Vec<(f64, f64, f64)> = rows.iter().zip(trust).map(|(r, t)| (r.raw, other(r), *t)).filter(|p| p.2 > 0.0).collect();
    if way == Way::Paper {
        return Curve::new(&rising::<9>(&mut points)?).ok();
    }
    points.iter_mut().for_each(|p| (p.0, p.1) = (p.1, p.0));
    let knots = rising::<9>(&mut points)?;
    let curve = Curve::new(&knots).ok()?;
    let total: f64 = points.iter().map(|p| p.2).sum();
    let mean = |f: &dyn Fn(&(f64, f64, f64)) -> f64| points.iter().map(|p| p.2 * f(p)).sum::<f64>() / total.max(1e-9);
    let (mx, my) = (mean(&|p| p.0), mean(&|p| p.1));
    let shared = 1.0 - mean(&|p| (p.1 - curve.value(p.0)).powi(2)) / mean(&|p| (p.1 - my).powi(2)).max(1e-12);
    let shared = shared.clamp(0.02, 1.0);
    // Without repeats both are held to be as unsure.
    let reliable = repeats.map_or(shared.sqrt(), |r| (shared / r).min(1.0));
    // Where the hand's answer stands still, the width does not go by it.
    let mut kept: Vec<[f64; 2]> = Vec::new();
    for [x, raw] in knots {
        let raw = raw.clamp(0.0, 1.0);
        let log_width = mx + reliable * (x - mx);
        match kept.last_mut() {
            Some(l) if raw - l[0] < 1e-4 => l[1] = 0.5 * (l[1] + log_width),
            _ => kept.push([raw, log_width]),
        }
    }
    Curve::new(&kept).ok()
}

/// Speed to the logarithm of its factor, one way; none where it makes no difference.
fn pace(rows: &[Row], trust: &[f64], speed: f64, other: impl Fn(&Row) -> f64) -> Option<Curve> {
    let mut points: Vec<(f64, f64, f64)> = rows.iter().zip(trust).map(|(r, t)| (r.speed, other(r), *t)).filter(|p| p.2 > 0.0).collect();
    let mean = |k: usize| points.iter().map(|p| if k == 0 { p.0 } else { p.1 }).sum::<f64>() / points.len().max(1) as f64;
    let (mx, my) = (mean(0), mean(1));
    let slope: f64 = points.iter().map(|p| (p.0 - mx) * (p.1 - my)).sum();
    let sign = if slope < 0.0 { -1.0 } else { 1.0 };
    points.iter_mut().for_each(|p| p.1 *= sign);
    let mut knots = rising::<5>(&mut points)?;
    knots.iter_mut().for_each(|k| k[1] *= sign);
    let zero = Curve::new(&knots).ok()?.value(speed);
    knots.iter_mut().for_each(|k| k[1] -= zero);
    let range = knots.last()?[1] - knots[0][1];
    (range.abs() > LEAST_PACE).then(|| Curve::new(&knots).ok()).flatten()
}

/// The nib's law from what each direction is wider than the rest, and its mean logarithm over the pairs.
fn direction(rows: &[Row], trust: &[f64], width: f64, other: impl Fn(&Row) -> f64) -> (Option<CardNib>, f64) {
    let mut bins = vec![Vec::new(); BINS];
    for (r, _) in rows.iter().zip(trust).filter(|(_, t)| **t > 0.0) {
        bins[(r.direction_deg.rem_euclid(360.0) / 360.0 * BINS as f64) as usize % BINS].push((r.direction_deg.rem_euclid(360.0), other(r)));
    }
    let seen: Vec<Seen> = bins
        .iter()
        .filter(|b| b.len() >= 8)
        .filter_map(|b| {
            let direction_deg = b.iter().map(|p| p.0).sum::<f64>() / b.len() as f64;
            let off = median(&b.iter().map(|p| p.1).collect::<Vec<_>>())?;
            Some(Seen { direction_deg, width_mm: width * off.exp(), weight: (b.len() as f64).min(200.0) })
        })
        .collect();
    let law = nib::law_within(&seen, ROUGH_NIB).map(|(n, _)| n);
    let of = |n: &CardNib| rows.iter().map(|r| n.width_toward(r.direction_deg).max(1e-6).ln()).sum::<f64>() / rows.len().max(1) as f64;
    let level = law.as_ref().map_or(0.0, of);
    (law, level)
}

/// Whether the pen's width goes by the pressure at all.
pub(super) fn is_flat(effects: &Effects) -> bool {
    let knots = effects.weight.knots();
    knots.last().zip(knots.first()).is_none_or(|(l, f)| (l[1] - f[1]).abs() < FLAT)
}

/// Spread of what is left, as a share of the width, and the way over which its autocorrelation falls to 1/e.
pub(super) fn left_over(rows: &[Row], effects: &Effects) -> Option<(f64, f64)> {
    let off: Vec<f64> = rows.iter().map(|r| r.log_width - effects.foretell(r)).collect();
    // 1.4826 median deviations are a normal distribution's standard deviation.
    let spread = 1.4826 * median(&off.iter().map(|o| o.abs()).collect::<Vec<_>>())?;
    let (_, sd) = mean_sd(&off)?;
    let within = 4.0 * spread.max(1e-6);
    let alike = |lag: f64| {
        let (mut sum, mut n) = (0.0, 0.0);
        let mut j = 0;
        for i in 0..rows.len() {
            j = j.max(i);
            while j < rows.len() && rows[j].stroke == rows[i].stroke && rows[j].way - rows[i].way < lag {
                j += 1;
            }
            if j < rows.len() && rows[j].stroke == rows[i].stroke && off[i].abs() < within && off[j].abs() < within {
                sum += off[i] * off[j];
                n += 1.0;
            }
        }
        if n > 20.0 { sum / n / (spread * spread).max(1e-12) } else { 0.0 }
    };
    let mut lag = 0.25;
    while lag < 60.0 && alike(lag) > (-1.0f64).exp() {
        lag *= 1.25;
    }
    (sd > 0.0).then_some((spread, lag))
}
