//! A flick's end, and the taper that is left over: what the brush must add to the hand's own falling pressure to end as the pen does.
//!
//! How: the law's length and shape by a grid, so that all flicks together have the pen's profile and reach nine tenths where it does.
//! Limits: where the hand alone is already narrower than the pen, nothing can be added. Common practice, no source.

use eddymist_ink::InkedStroke;
use eddymist_ink::stroke::along;
use eddymist_measure::stats::moving_mean;

use crate::{
    grid,
    pen_card::CardTaper,
    tapers::{self, Flick},
    warmup::Exercise,
};

/// Which end of a stroke a taper is at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Tip {
    /// Where the pen lands.
    In,
    /// Where it lifts.
    Out,
}

impl Tip {
    /// The exercise that shows it.
    pub(super) fn exercise(self) -> Exercise {
        match self {
            Self::In => Exercise::Landing,
            Self::Out => Exercise::Flick,
        }
    }
}

/// An inked stroke from one end inward: how far each sample is from the tip, mm, and the line's width there, mm.
pub(super) struct Ending {
    pub(super) way_mm: Vec<f64>,
    pub(super) widths_mm: Vec<f64>,
}

impl Ending {
    pub(super) fn new(inked: &InkedStroke, tip: Tip) -> Self {
        let mut samples: Vec<_> = inked.samples.iter().collect();
        if tip == Tip::Out {
            samples.reverse();
        }
        Self { way_mm: along(samples.iter().map(|s| (s.x, s.y))), widths_mm: samples.iter().map(|s| s.width_mm).collect() }
    }

    /// Every twentieth of a millimetre, joined straight between samples as the ink is.
    pub(super) fn flick(&self) -> Flick {
        const STEP: f64 = 0.05;
        let n = (self.way_mm.last().copied().unwrap_or(0.0) / STEP) as usize;
        Flick { widths_mm: joined(&self.way_mm, &self.widths_mm, n, STEP), step_mm: STEP }
    }
}

/// Values at ascending places, joined straight, at the middles of `n` even steps.
fn joined(at: &[f64], values: &[f64], n: usize, step: f64) -> Vec<f64> {
    let mut i = 0;
    let place = |k: usize| {
        let d = step * (k as f64 + 0.5);
        while i + 2 < at.len() && at[i + 1] < d {
            i += 1;
        }
        let j = (i + 1).min(at.len() - 1);
        if at[j] > at[i] { values[i] + (values[j] - values[i]) * ((d - at[i]) / (at[j] - at[i])).clamp(0.0, 1.0) } else { values[i] }
    };
    if at.is_empty() { Vec::new() } else { (0..n).map(place).collect() }
}

/// Length and shape of the taper that makes of the hand's own flicks the pen's.
pub(super) fn left_over(card: &CardTaper, hand: &[Ending]) -> (f64, f64) {
    let tip = card.tip_width_mm / card.body_mm.max(1e-6);
    let pen = |d: f64| if d < card.length_mm { tip + (1.0 - tip) * (d / card.length_mm).powf(card.shape) } else { 1.0 };
    let step = (card.at_90_mm / 60.0).max(0.03);
    let n = (1.6 * card.at_90_mm / step) as usize;
    // Share of its own full width that each flick has at each of its last samples, before any taper.
    let bare: Vec<(Vec<f64>, Vec<f64>)> = hand
        .iter()
        .filter_map(|e| {
            let full = tapers::full_mm(&e.flick())?;
            let near = (e.way_mm.partition_point(|d| *d < n as f64 * step) + 1).min(e.way_mm.len());
            (e.way_mm.len() > 2).then(|| (e.way_mm[..near].to_vec(), e.widths_mm[..near].iter().map(|w| w / full).collect()))
        })
        .collect();
    if bare.is_empty() {
        return (card.length_mm, card.shape);
    }
    let want: Vec<f64> = (0..n).map(|k| pen((k as f64 + 0.5) * step)).collect();
    // The profile as a whole, and where it reaches nine tenths, which is what is held against the pen: a tenth off there counts
    // as much as the whole profile off by a tenth.
    let smooth = ((tapers::SMOOTH_MM / step).round() as usize).max(1);
    let score = |length: f64, shape: f64| -> f64 {
        let of = |(way, bare): &(Vec<f64>, Vec<f64>)| {
            let made = way.iter().zip(bare).map(|(d, b)| {
                let t = if *b > 0.0 { (tip / b).min(1.0) } else { 1.0 };
                if *d < length { b * (t + (1.0 - t) * (d / length).powf(shape)) } else { *b }
            });
            let made = joined(way, &made.collect::<Vec<f64>>(), n, step);
            let reached = moving_mean(&made, smooth).iter().rposition(|v| *v < 0.9).map_or(0.0, |k| (k + 1) as f64 * step);
            let profile: f64 = made.iter().zip(&want).map(|(m, w)| (m - w).powi(2)).sum();
            profile + n as f64 * (reached / card.at_90_mm - 1.0).powi(2)
        };
        bare.iter().map(of).sum()
    };
    let none = score(0.0, 1.0);
    let (_, length, shape) = grid::least((none, 0.0, 1.0), (0.02 * card.at_90_mm, 2.4 * card.at_90_mm), (0.1, 3.0), 16, 10.0, score);
    (length, shape)
}
