//! A pen's tapers from its flicks: registered at the tip, and one law fitted to all of them at once.
//!
//! How: the tip is where the line through 5 % and 15 % of the full width comes down to nothing; the law `t + (1 − t)·(d/L)^s` by least squares
//! over the mean of all flicks, its tip in closed form for each length and shape. Limits: a flick that reaches nine tenths within
//! three quarters of its width ends blunt and has distances of 0; a tip finer than 5 % of the width is lost in grain. Common practice, no source.

use eddymist_measure::{
    sheet::StrokeReading,
    stats::{mean_sd, median, moving_mean, quantile},
};

use crate::{
    grid,
    pen_card::{CardTaper, rounded},
};

/// A flick's widths from its free tip inward, mm, and their step.
pub struct Flick {
    pub widths_mm: Vec<f64>,
    pub step_mm: f64,
}

impl Flick {
    /// Of a stroke as it was read; `out` where its free tip is at its end.
    pub fn of_reading(stroke: &StrokeReading, out: bool) -> Self {
        let mut widths_mm = stroke.width_mm.clone();
        if out {
            widths_mm.reverse();
        }
        Self { widths_mm, step_mm: stroke.step_mm }
    }
}

/// One flick registered at its tip.
struct Registered {
    /// The width that it reaches.
    full: f64,
    at_50: f64,
    at_90: f64,
    /// Share of the full width at every step, and which of them, in fractions, is the tip.
    shares: Vec<f64>,
    tip: f64,
    step: f64,
}

impl Registered {
    fn share(&self, from_tip_mm: f64) -> Option<f64> {
        let at = self.tip + from_tip_mm / self.step;
        if at < 0.0 { Some(0.0) } else { self.shares.get(at as usize).copied() }
    }
}

/// An end that has reached 90 % of its width within this many widths is blunt: a round cap does within 0.28.
pub(crate) const BLUNT_WIDTHS: f64 = 0.75;
/// Nearest that the tip can be told: less of the full width than this is lost in grain.
const TIP_SHARE: f64 = 0.05;

/// Over how much of its length a flick's width is averaged before it is asked where it reaches nine tenths, mm.
pub(crate) const SMOOTH_MM: f64 = 0.25;

fn smoothed(f: &Flick) -> Vec<f64> {
    moving_mean(&f.widths_mm, ((SMOOTH_MM / f.step_mm).round() as usize).max(1))
}

/// The width that a flick reaches, mm.
pub(crate) fn full_mm(f: &Flick) -> Option<f64> {
    quantile(&smoothed(f), 0.9).filter(|w| *w > 0.0)
}

fn register(f: &Flick) -> Option<Registered> {
    let (smooth, full) = (smoothed(f), full_mm(f)?);
    let fine = moving_mean(&f.widths_mm, ((0.1 / f.step_mm).round() as usize).max(1));
    let first = |share: f64| fine.iter().position(|w| *w > share * full).map(|k| k as f64);
    // Fine points are lost in grain: the tip is where the line through 5 % and 15 % comes down to nothing. Ink from the first
    // place on begins there.
    let (low, high) = (first(TIP_SHARE)?, first(3.0 * TIP_SHARE)?);
    let tip = if low > 0.0 { low - 0.5 * (high - low) } else { 0.0 };
    let start = low as usize;
    // The first place from which the width stays over the share for half a millimetre: one ragged tooth is no arrival.
    let hold = ((0.5 / f.step_mm) as usize).max(1);
    let reached = |v: &[f64], share: f64| {
        let from = (start..v.len()).find(|k| v[*k..(k + hold).min(v.len())].iter().all(|w| *w >= share * full))?;
        let before = if from > 0 { v[from - 1] } else { 0.0 };
        let part = if v[from] > before { (v[from] - share * full) / (v[from] - before) } else { 0.0 };
        Some((from as f64 - part.clamp(0.0, 1.0) - tip).max(0.0) * f.step_mm)
    };
    Some(Registered { full, at_50: reached(&fine, 0.5)?, at_90: reached(&smooth, 0.9)?, shares: fine.iter().map(|w| w / full).collect(), tip, step: f.step_mm })
}

/// The distance from its tip at which a flick has reached nine tenths of its width, mm: 0 where it ends blunt.
pub(crate) fn at_90_mm(flick: &Flick) -> Option<f64> {
    register(flick).map(|r| if r.at_90 < BLUNT_WIDTHS * r.full { 0.0 } else { r.at_90 })
}

/// The taper of these flicks; none where none could be read. Flicks that end blunt have distances of 0.
pub fn taper(flicks: &[Flick]) -> Option<CardTaper> {
    let seen: Vec<Registered> = flicks.iter().filter_map(register).collect();
    let of = |f: fn(&Registered) -> f64| seen.iter().map(f).collect::<Vec<f64>>();
    let body_mm = median(&of(|r| r.full))?;
    let (at_50, at_90) = (median(&of(|r| r.at_50))?, median(&of(|r| r.at_90))?);
    let sd_mm = mean_sd(&of(|r| r.at_90)).filter(|_| seen.len() > 1).map(|m| m.1);
    let flicks = seen.len() as u32;
    let each_90_mm = Some(rounded(seen.iter().map(|r| if r.at_90 < BLUNT_WIDTHS * r.full { 0.0 } else { r.at_90 }).collect(), 1e3));
    if at_90 < BLUNT_WIDTHS * body_mm {
        return Some(CardTaper {
            at_50_mm: 0.0,
            at_90_mm: 0.0,
            sd_mm: sd_mm.map(|_| 0.0),
            tip_width_mm: body_mm,
            body_mm,
            length_mm: 0.0,
            shape: 1.0,
            flicks,
            each_90_mm,
        });
    }
    let (tip, length_mm, shape) = fit(&seen, at_90);
    Some(CardTaper { at_50_mm: at_50, at_90_mm: at_90, sd_mm, tip_width_mm: tip * body_mm, body_mm, length_mm, shape, flicks, each_90_mm })
}

/// Share at the tip, length and shape of `t + (1 − t)·(d/L)^s`, least squares over the mean of all flicks: for each length
/// and shape the tip follows in closed form; the grid is refined twice about its best.
fn fit(seen: &[Registered], at_90: f64) -> (f64, f64, f64) {
    let step = (at_90 / 80.0).max(0.02);
    let n = (1.5 * at_90 / step) as usize;
    let points: Vec<(f64, f64)> = (0..n)
        .filter_map(|k| {
            let d = step * (k as f64 + 0.5);
            let at: Vec<f64> = seen.iter().filter_map(|r| r.share(d)).collect();
            mean_sd(&at).map(|m| (d, m.0.min(1.0)))
        })
        .collect();
    let score = |length: f64, shape: f64| {
        let g = |d: f64| if d < length { (d / length).powf(shape) } else { 1.0 };
        let (mut num, mut den) = (0.0, 0.0);
        for (d, y) in &points {
            let g = g(*d);
            num += (y - g) * (1.0 - g);
            den += (1.0 - g) * (1.0 - g);
        }
        let tip = if den > 0.0 { (num / den).clamp(0.0, 0.95) } else { 0.0 };
        let error: f64 = points.iter().map(|(d, y)| (y - tip - (1.0 - tip) * g(*d)).powi(2)).sum();
        (error, tip)
    };
    let from = (f64::INFINITY, at_90, 1.0);
    let (_, length, shape) = grid::least(from, (0.6 * at_90, 2.2 * at_90), (0.15, 2.5), 24, 12.0, |l, s| score(l, s).0);
    (score(length, shape).1, length, shape)
}
