//! What a pen card may say: every figure within what a pen on paper can be.

use std::ops::RangeInclusive;

use crate::pen_card::{CardNib, PenCard};

const WIDTH_MM: RangeInclusive<f64> = 0.001..=100.0;
/// A spread, a residual, a width that may be none.
const UP_TO_MM: RangeInclusive<f64> = 0.0..=100.0;
const LENGTH_MM: RangeInclusive<f64> = 0.0..=1000.0;
const SHARE: RangeInclusive<f64> = 0.0..=1.0;
const UM: RangeInclusive<f64> = 0.0..=1e5;
const ANGLE_DEG: RangeInclusive<f64> = -360.0..=360.0;
const COUNT: RangeInclusive<f64> = 0.0..=1e6;

impl PenCard {
    /// The first figure that cannot be, as a sentence; a card that was measured has none.
    pub fn validate(&self) -> Result<(), String> {
        let fine = |field: &str, v: f64, range: RangeInclusive<f64>| {
            let (low, high) = (*range.start(), *range.end());
            if range.contains(&v) { Ok(()) } else { Err(format!("{field} lies between {low} and {high}")) }
        };
        let each = |field: &str, values: &[f64], range: &RangeInclusive<f64>| values.iter().try_for_each(|v| fine(field, *v, range.clone()));
        let some = |field: &str, v: Option<f64>, range: &RangeInclusive<f64>| v.map_or(Ok(()), |v| fine(field, v, range.clone()));
        fine("resolution_dpi", self.resolution_dpi, 1.0..=100_000.0)?;
        for w in self.widths_by_effort.iter().flatten() {
            fine("widths_by_effort: effort", w.effort, SHARE)?;
            fine("widths_by_effort: width_mm", w.width_mm, WIDTH_MM)?;
            some("widths_by_effort: sd_mm", w.sd_mm, &UP_TO_MM)?;
            some("widths_by_effort: force_n", w.force_n, &UP_TO_MM)?;
            each("widths_by_effort: each_mm", w.each_mm.as_deref().unwrap_or_default(), &WIDTH_MM)?;
        }
        for r in self.ramp.iter().flatten() {
            fine("ramp: position", r.position, SHARE)?;
            fine("ramp: width_mm", r.width_mm, UP_TO_MM)?;
        }
        match self.nib {
            Some(CardNib::Round { length_mm, residual_mm, .. }) => {
                fine("nib: length_mm", length_mm, WIDTH_MM)?;
                fine("nib: residual_mm", residual_mm, UP_TO_MM)?;
            }
            Some(CardNib::Ellipse { length_mm, breadth_mm, angle_deg, residual_mm, .. }) => {
                fine("nib: length_mm", length_mm, WIDTH_MM)?;
                fine("nib: breadth_mm", breadth_mm, 0.0..=length_mm)?;
                fine("nib: angle_deg", angle_deg, ANGLE_DEG)?;
                fine("nib: residual_mm", residual_mm, UP_TO_MM)?;
            }
            Some(CardNib::Spring { length_mm, opening_mm, pull_deg, residual_mm, .. }) => {
                fine("nib: length_mm", length_mm, WIDTH_MM)?;
                fine("nib: opening_mm", opening_mm, UP_TO_MM)?;
                fine("nib: pull_deg", pull_deg, ANGLE_DEG)?;
                fine("nib: residual_mm", residual_mm, UP_TO_MM)?;
            }
            None => {}
        }
        if let Some(CardNib::Round { rays, .. } | CardNib::Ellipse { rays, .. } | CardNib::Spring { rays, .. }) = &self.nib {
            for [direction, width] in rays.iter().flatten() {
                fine("nib: a ray's direction", *direction, ANGLE_DEG)?;
                fine("nib: a ray's width", *width, WIDTH_MM)?;
            }
        }
        for (name, taper) in [("lead_in", &self.lead_in), ("lead_out", &self.lead_out)] {
            let Some(t) = taper else { continue };
            each(&format!("{name}: a length"), &[t.at_50_mm, t.at_90_mm, t.length_mm, t.sd_mm.unwrap_or(0.0)], &LENGTH_MM)?;
            fine(&format!("{name}: tip_width_mm"), t.tip_width_mm, UP_TO_MM)?;
            fine(&format!("{name}: body_mm"), t.body_mm, WIDTH_MM)?;
            fine(&format!("{name}: shape"), t.shape, 0.01..=10.0)?;
            fine(&format!("{name}: flicks"), f64::from(t.flicks), COUNT)?;
            each(&format!("{name}: each_90_mm"), t.each_90_mm.as_deref().unwrap_or_default(), &LENGTH_MM)?;
        }
        for p in self.widths_by_pace.iter().flatten() {
            fine("widths_by_pace: speed_mm_s", p.speed_mm_s, 0.0..=1e5)?;
            fine("widths_by_pace: width_mm", p.width_mm, WIDTH_MM)?;
            fine("widths_by_pace: sd_mm", p.sd_mm, UP_TO_MM)?;
            each("widths_by_pace: each_mm", p.each_mm.as_deref().unwrap_or_default(), &WIDTH_MM)?;
        }
        if let Some(p) = &self.pooling {
            fine("pooling: dot_mm", p.dot_mm, WIDTH_MM)?;
            fine("pooling: ratio", p.ratio, 0.1..=20.0)?;
            some("pooling: held_s", p.held_s, &(0.001..=60.0))?;
            some("pooling: sd_mm", p.sd_mm, &UP_TO_MM)?;
            each("pooling: each_mm", p.each_mm.as_deref().unwrap_or_default(), &WIDTH_MM)?;
        }
        if let Some(e) = &self.edge {
            each("edge: each_um", e.each_um.as_deref().unwrap_or_default(), &UM)?;
            each("edge: raggedness_um", &[e.raggedness_um, e.sd_um.unwrap_or(0.0)], &UM)?;
            some("edge: raggedness_correlation_um", e.raggedness_correlation_um, &UM)?;
            some("edge: wander_um", e.wander_um, &(0.0..=1e5))?;
            fine("edge: blurriness_um", e.blurriness_um, UM)?;
            each("edge: an interval", &[e.raggedness_interval_um, e.blurriness_interval_um].into_iter().flatten().flatten().collect::<Vec<_>>(), &UM)?;
            some("edge: from_mm", e.from_mm, &(0.0..=1e6))?;
        }
        some("darkness", self.darkness, &(-1.0..=100.0))?;
        if let Some(h) = self.hatching {
            each("hatching", &[h.coarseness, h.width, h.clear, h.tone], &(0.0..=1e4))?;
        }
        for f in self.free_line.iter().flatten() {
            fine("free_line: share", f[0], SHARE)?;
            fine("free_line: width", f[1], UP_TO_MM)?;
        }
        some("nearest_standard_width_mm", self.nearest_standard_width_mm, &WIDTH_MM)
    }
}
