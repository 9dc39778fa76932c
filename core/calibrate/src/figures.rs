//! All figures of a pen card in one list, each with its spread, its number and the interval of its mean.
//!
//! How: 95 % by Student's t from the spread and the number. Limits: a figure without repeats has neither spread nor interval.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    PenCard,
    pen_card::{CardNib, interval_of_mean},
};

/// One figure.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Figure {
    pub figure: String,
    /// Which of its kind: an effort, a pace, a place; empty where there is one only.
    pub at: String,
    pub value: f64,
    pub unit: String,
    /// Standard deviation of what it is the mean of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spread: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub number: Option<u32>,
    /// Of the mean, 95 %, by Student's t.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval: Option<[f64; 2]>,
}

fn figure(name: &str, at: impl ToString, value: f64, unit: &str) -> Figure {
    Figure { figure: name.into(), at: at.to_string(), value, unit: unit.into(), spread: None, number: None, interval: None }
}

/// A mean of `n` values with their standard deviation.
fn mean(name: &str, at: impl ToString, value: f64, unit: &str, spread: Option<f64>, n: u32) -> Figure {
    let half = spread.and_then(|s| interval_of_mean(s, n as usize));
    Figure { spread, number: Some(n), interval: half.map(|h| [value - h, value + h]), ..figure(name, at, value, unit) }
}

impl PenCard {
    /// Every figure that the card holds.
    pub fn figures(&self) -> Vec<Figure> {
        let mut out = vec![figure("resolution", "", self.resolution_dpi, "dpi")];
        out.extend(self.widths_by_effort.iter().flatten().map(|w| mean("width by effort", w.effort, w.width_mm, "mm", w.sd_mm, w.lines)));
        out.extend(self.widths_by_pace.iter().flatten().map(|w| mean("width by pace", &w.pace, w.width_mm, "mm", Some(w.sd_mm), w.lines)));
        out.extend(self.ramp.iter().flatten().map(|p| figure("ramp", format!("{:.3}", p.position), p.width_mm, "mm")));
        for (name, t) in [("lead-in", &self.lead_in), ("lead-out", &self.lead_out)] {
            if let Some(t) = t {
                out.push(Figure { number: Some(t.flicks), ..figure(name, "50 %", t.at_50_mm, "mm") });
                out.push(mean(name, "90 %", t.at_90_mm, "mm", t.sd_mm, t.flicks));
            }
        }
        let nib = |at: &str, value: f64, unit: &str, residual: f64| Figure { spread: Some(residual), ..figure("nib", at, value, unit) };
        match self.nib {
            Some(CardNib::Round { length_mm, residual_mm, .. }) => out.push(nib("round", length_mm, "mm", residual_mm)),
            Some(CardNib::Ellipse { length_mm, breadth_mm, angle_deg, residual_mm, .. }) => out.extend([
                nib("length", length_mm, "mm", residual_mm),
                nib("breadth", breadth_mm, "mm", residual_mm),
                figure("nib", "angle", angle_deg, "degrees"),
            ]),
            Some(CardNib::Spring { length_mm, opening_mm, pull_deg, residual_mm, .. }) => out.extend([
                nib("closed", length_mm, "mm", residual_mm),
                nib("opening", opening_mm, "mm", residual_mm),
                figure("nib", "pull", pull_deg, "degrees"),
            ]),
            None => {}
        }
        if let Some(p) = &self.pooling {
            out.extend([figure("held dot", "", p.dot_mm, "mm"), figure("held dot over line", "", p.ratio, "")]);
        }
        if let Some(e) = &self.edge {
            let sure = |name: &str, value: f64, interval| Figure { interval, ..figure(name, "", value, "µm") };
            out.extend([sure("raggedness", e.raggedness_um, e.raggedness_interval_um), sure("blurriness", e.blurriness_um, e.blurriness_interval_um)]);
            out.extend(e.raggedness_correlation_um.map(|c| figure("raggedness correlation", "", c, "µm")));
        }
        if let Some(h) = self.hatching {
            out.extend([
                figure("hatching", "coarseness", h.coarseness, ""),
                figure("hatching", "clear distance", h.clear, "mm"),
                figure("hatching", "tone", h.tone, ""),
            ]);
        }
        out.extend(self.widths_by_effort.iter().flatten().filter_map(|w| Some(figure("force by effort", w.effort, w.force_n?, "N"))));
        out.extend(self.darkness.map(|d| figure("darkness", "", d, "")));
        out
    }
}
