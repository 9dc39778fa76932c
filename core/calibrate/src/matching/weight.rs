//! The weight curve that gives a hand's strokes the pen's widths, what they are on strokes that it has not seen, and how much
//! lines differ from one another by it.
//!
//! How: knots at the pen's efforts, moved by what is missing until nothing moves by 0.1 µm, kept from falling (isotonic regression); each stroke
//! is left out once. Limits: efforts past the tablet's full point cannot be shown and are not fitted; the only stroke at its effort cannot be
//! left out. Source of the spread of a wandering width: the mean of an Ornstein-Uhlenbeck process.

use eddymist_ink::{Brush, Curve, InkError, Inker, Stroke, brush::Chance};
use eddymist_measure::stats::{mean_sd, median, pooled_sd};
use rayon::prelude::*;

use super::{
    FitError,
    bench::smooth,
    scanned::{CardScanner, own_width},
};
use crate::{
    isotonic,
    pen_card::{PenCard, WidthAtEffort},
    profile,
    warmup::{Exercise, WarmUp},
};

/// The chance that makes lines differ from one another as the pen's do, over what the hand's own already do; `pen` is the pen's pooled spread, mm.
///
/// A value that wanders with deviation σ and correlation length c, averaged over a length L, has the variance
/// `σ²·2(c/L)·(1 − (c/L)(1 − e^(−L/c)))` (the mean of an Ornstein-Uhlenbeck process).
pub(super) fn chance(brush: &Brush, targets: &[Target], strokes: &[Drawn], unseen: &[Unseen], pen: f64) -> Option<Chance> {
    let hand = pooled_sd(by_effort(targets, unseen, |u, _| u.width)).map_or(0.0, |p| p.0);
    let width = (targets.iter().map(|t| t.width * t.width).sum::<f64>() / targets.len() as f64).sqrt();
    let missing = (pen * pen - hand * hand).max(0.0) / (width * width);
    let correlation_mm = brush.chance.map_or(WANDERS_MM, |j| j.correlation_mm);
    let lengths: Vec<f64> = strokes.iter().filter_map(|s| s.stroke.lengths_mm().last().copied()).collect();
    // The body that a width is taken over is three fifths of the stroke.
    let body = 0.6 * mean_sd(&lengths)?.0.max(1.0);
    let q = correlation_mm / body;
    let kept = 2.0 * q * (1.0 - q * (1.0 - (-1.0 / q).exp()));
    let spread = round4((missing / kept.max(1e-6)).sqrt().min(0.5));
    (spread >= 0.002).then_some(Chance { spread, correlation_mm })
}

/// Over which length chance wanders, where the starting brush does not say: most of a line, so that lines differ whole.
const WANDERS_MM: f64 = 30.0;

/// How the same strokes differ from one another with the brush's chance; none without strokes that can be left out.
pub(super) fn with_chance(brush: &Brush, targets: &[Target], hand: &Hand, unseen: &[Unseen]) -> Result<Option<(f64, f64)>, InkError> {
    let one = |u: &Unseen| -> Result<Unseen, InkError> {
        let inker = Inker::new(&Brush { chance: brush.chance, ..bare(brush, u.weight.clone()) }, u.response.clone(), None)?;
        Ok(Unseen { width: hand.scanner.width_mm(&inker.ink(hand.strokes[u.stroke].stroke)), ..u.clone() })
    };
    let chanced: Vec<Unseen> = unseen.par_iter().map(one).collect::<Result<_, _>>()?;
    Ok(pooled_sd(by_effort(targets, &chanced, |u, _| u.width)))
}

/// Spread and number of the unseen strokes at each effort.
pub(super) fn by_effort(targets: &[Target], unseen: &[Unseen], figure: impl Fn(&Unseen, &Target) -> f64) -> impl Iterator<Item = (f64, f64)> {
    targets.iter().enumerate().filter_map(move |(k, t)| {
        let of: Vec<f64> = unseen.iter().filter(|u| u.target == k).map(|u| figure(u, t)).collect();
        mean_sd(&of).map(|(_, sd)| (sd, of.len() as f64))
    })
}

/// What the pen does at one effort.
pub(super) struct Target {
    pub effort: f64,
    pub width: f64,
    pub sd: Option<f64>,
    pub lines: f64,
    /// What a scan tells of a width: lines that differ by less are alike, however even the pen.
    pub told_mm: f64,
}

/// What a scan at this resolution tells of a mean width (methods.md, section 2): half a per cent, or 2 µm, 4 at 300 dpi and less.
pub(super) fn told_mm(width_mm: f64, dpi: f64) -> f64 {
    (0.005 * width_mm).max(if dpi > 300.0 { 0.002 } else { 0.004 })
}

pub(super) fn targets(card: &PenCard) -> Result<Vec<Target>, FitError> {
    let target = |w: &WidthAtEffort| Target {
        effort: w.effort,
        width: w.width_mm,
        sd: w.sd_mm,
        lines: f64::from(w.lines),
        told_mm: told_mm(w.width_mm, card.resolution_dpi),
    };
    let mut out: Vec<Target> = card.widths_by_effort.iter().flatten().map(target).collect();
    out.sort_by(|a, b| a.effort.total_cmp(&b.effort));
    out.dedup_by(|a, b| a.effort == b.effort);
    if out.is_empty() { Err(FitError::NoWidths) } else { Ok(out) }
}

/// The body without tapers, pooling, chance and roughness: they are other parts, and the weight is read where they do not reach.
fn bare(brush: &Brush, weight: Vec<[f64; 2]>) -> Brush {
    Brush { weight, lead_in: None, lead_out: None, pooling: None, chance: None, edge: smooth(&brush.edge), ..brush.clone() }
}

/// A weight lies between these, whatever a wild hand asks for: what a brush may have is no wider (`eddymist_ink`).
const LEAST_MM: f64 = 0.01;
const MOST_MM: f64 = 100.0;

/// The weight curve by which these strokes get the pen's widths; `from` is where the search starts.
pub(super) fn fit_weight(
    brush: &Brush,
    targets: &[Target],
    strokes: &[Drawn],
    response: Option<&Curve>,
    from: Option<&[[f64; 2]]>,
) -> Result<Vec<[f64; 2]>, InkError> {
    if let [only] = targets {
        return Ok(vec![[0.0, round4(only.width)], [1.0, round4(only.width)]]);
    }
    let mut knots: Vec<[f64; 2]> = match from {
        Some(knots) if knots.len() == targets.len() => knots.to_vec(),
        _ => targets.iter().map(|t| [t.effort, t.width]).collect(),
    };
    rise(&mut knots, targets);
    if strokes.is_empty() {
        return Ok(knots);
    }
    // An effort that no stroke shows: the nib makes of the weight what it makes of it at the others.
    let shown = |t: &Target| within_reach(t.effort, response) && strokes.iter().any(|s| (s.effort - t.effort).abs() < 1e-6);
    for _ in 0..8 {
        let inker = Inker::new(&bare(brush, knots.clone()), response.cloned(), None)?;
        let mut moved = 0.0f64;
        for (k, t) in targets.iter().enumerate().filter(|(_, t)| within_reach(t.effort, response)) {
            let widths: Vec<f64> = strokes.iter().filter(|s| (s.effort - t.effort).abs() < 1e-6).map(|s| s.reads * own_width(&inker.ink(s.stroke))).collect();
            if let Some((mean, _)) = mean_sd(&widths) {
                let step = t.width - mean;
                knots[k][1] = (knots[k][1] + 0.8 * step).clamp(LEAST_MM, MOST_MM);
                moved = moved.max(step.abs());
            }
        }
        let nib = median(&knots.iter().zip(targets).filter(|(_, t)| shown(t)).map(|(k, t)| k[1] / t.width).collect::<Vec<_>>());
        for (k, t) in knots.iter_mut().zip(targets).filter(|(_, t)| !shown(t)) {
            k[1] = (t.width * nib.unwrap_or(1.0)).clamp(LEAST_MM, MOST_MM);
        }
        rise(&mut knots, targets);
        if moved < 1e-4 {
            break;
        }
    }
    Ok(knots)
}

/// Whether the tablet still tells this effort from the ones below: past its full point no curve can show it.
pub(super) fn within_reach(effort: f64, response: Option<&Curve>) -> bool {
    response.is_none_or(|r| effort <= r.value(1.0) + 0.02)
}

/// Keeps the curve from falling, and its numbers to 0.1 µm.
fn rise(knots: &mut [[f64; 2]], targets: &[Target]) {
    let points: Vec<(f64, f64, f64)> = knots.iter().zip(targets).map(|(k, t)| (k[0], k[1], t.lines.max(1.0))).collect();
    for (k, y) in knots.iter_mut().zip(isotonic::regression(&points)) {
        k[1] = round4(y);
    }
}

fn round4(v: f64) -> f64 {
    (v * 1e4).round() / 1e4
}

/// One stroke of the hand, inked with a weight curve that has not seen it.
#[derive(Clone)]
pub(super) struct Unseen {
    pub target: usize,
    pub stroke: usize,
    pub width: f64,
    pub weight: Vec<[f64; 2]>,
    /// Of the profile without that stroke.
    pub response: Option<Curve>,
}

/// A stroke of the hand at an effort.
#[derive(Debug, Clone, Copy)]
pub(super) struct Drawn<'a> {
    pub effort: f64,
    pub stroke: &'a Stroke,
    /// What its line is read to be over the ink's own width at its middle.
    pub reads: f64,
}

/// The hand's strokes at the five efforts, on its tablet, and what measures their ink.
pub(super) struct Hand<'a> {
    pub strokes: Vec<Drawn<'a>>,
    pub response: Option<Curve>,
    /// The warm-up that the response was read off, where it was.
    pub warmup: Option<&'a WarmUp>,
    pub scanner: CardScanner,
}

impl Hand<'_> {
    /// The weight curve by which what is read of its lines has the pen's widths: searched by the ink's own widths, each brought to what a line is
    /// read to be with the curve that came of it.
    pub fn fit_weight(&mut self, brush: &Brush, targets: &[Target]) -> Result<Vec<[f64; 2]>, InkError> {
        let weight = fit_weight(brush, targets, &self.strokes, self.response.as_ref(), None)?;
        let inker = Inker::new(&bare(brush, weight.clone()), self.response.clone(), None)?;
        let scanner = self.scanner;
        self.strokes.par_iter_mut().for_each(|s| {
            let inked = inker.ink(s.stroke);
            s.reads = (scanner.width_mm(&inked) / own_width(&inked).max(1e-6)).clamp(0.5, 2.0);
        });
        fit_weight(brush, targets, &self.strokes, self.response.as_ref(), Some(&weight))
    }

    /// The tablet's response as the warm-up tells it without one of its strokes; as it is where the warm-up then tells none, or it is from elsewhere.
    fn response_without(&self, stroke: usize) -> Option<Curve> {
        let without = || {
            let (warmup, left_out) = (self.warmup?, self.strokes.get(stroke)?.stroke);
            let mut others = warmup.clone();
            others.groups.iter_mut().filter(|g| g.exercise == Exercise::Effort).for_each(|g| g.strokes.retain(|s| s != left_out));
            Curve::new(&profile::response_of(&others)?).ok()
        };
        without().or_else(|| self.response.clone())
    }
}

/// Leave one stroke out: each width comes from a curve that did not see that stroke. The only stroke at its effort cannot be
/// left out: without it nothing shows that effort.
pub(super) fn unseen(brush: &Brush, targets: &[Target], hand: &Hand, locked: bool) -> Result<Vec<Unseen>, InkError> {
    let strokes = &hand.strokes;
    let one = |(i, drawn): (usize, &Drawn)| -> Result<Option<Unseen>, InkError> {
        let same = |e: f64| (e - drawn.effort).abs() < 1e-6;
        let alone = strokes.iter().filter(|s| same(s.effort)).count() < 2;
        let Some(target) = targets.iter().position(|t| same(t.effort)).filter(|_| locked || !alone) else { return Ok(None) };
        let response = hand.response_without(i);
        let weight = if locked {
            brush.weight.clone()
        } else {
            let others: Vec<Drawn> = strokes.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            fit_weight(brush, targets, &others, response.as_ref(), Some(&brush.weight))?
        };
        let inker = Inker::new(&bare(brush, weight.clone()), response.clone(), None)?;
        Ok(Some(Unseen { target, stroke: i, width: hand.scanner.width_mm(&inker.ink(drawn.stroke)), weight, response }))
    };
    let all: Vec<Option<Unseen>> = strokes.par_iter().enumerate().map(one).collect::<Result<_, _>>()?;
    Ok(all.into_iter().flatten().collect())
}
