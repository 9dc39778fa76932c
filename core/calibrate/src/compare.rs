//! Two pens, or two scans of one, held against each other: each figure's change with its interval.
//!
//! The interval of a difference of means is Welch's ("The generalization of Student's problem when several different
//! population variances are involved", Biometrika 34, 1947).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::{PenCard, warmup::effort_name};

/// One figure of both.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Change {
    pub figure: String,
    pub unit: String,
    pub before: f64,
    pub after: f64,
    /// Of the difference, 95 %; absent where a spread is not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval: Option<[f64; 2]>,
    /// Whether the interval leaves no change out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub changed: Option<bool>,
}

/// Mean, standard deviation and number of what a figure came from.
type Mean = (f64, Option<f64>, u32);

/// What changed from one card to another; parts that only one of them shows are left out.
pub fn compare(before: &PenCard, after: &PenCard) -> Vec<Change> {
    let mut out = Vec::new();
    for a in before.widths_by_effort.iter().flatten() {
        if let Some(b) = after.widths_by_effort.iter().flatten().find(|b| (b.effort - a.effort).abs() < 1e-9) {
            out.push(change(format!("width, {}", effort_name(a.effort)), "mm", (a.width_mm, a.sd_mm, a.lines), (b.width_mm, b.sd_mm, b.lines)));
        }
    }
    for a in before.widths_by_pace.iter().flatten() {
        if let Some(b) = after.widths_by_pace.iter().flatten().find(|b| b.pace == a.pace) {
            out.push(change(format!("width, {} pace", a.pace), "mm", (a.width_mm, Some(a.sd_mm), a.lines), (b.width_mm, Some(b.sd_mm), b.lines)));
        }
    }
    for (name, a, b) in
        [("lead-in, to 90 %", before.lead_in.as_ref(), after.lead_in.as_ref()), ("lead-out, to 90 %", before.lead_out.as_ref(), after.lead_out.as_ref())]
    {
        if let Some((a, b)) = a.zip(b) {
            out.push(change(name.into(), "mm", (a.at_90_mm, a.sd_mm, a.flicks), (b.at_90_mm, b.sd_mm, b.flicks)));
        }
    }
    if let Some((a, b)) = before.edge.as_ref().zip(after.edge.as_ref()) {
        out.push(change("raggedness".into(), "µm", (a.raggedness_um, None, 0), (b.raggedness_um, None, 0)));
    }
    if let Some((a, b)) = before.darkness.zip(after.darkness) {
        out.push(change("darkness".into(), "", (a, None, 0), (b, None, 0)));
    }
    if let Some((a, b)) = before.pooling.as_ref().zip(after.pooling.as_ref()) {
        out.push(change("held dot over line".into(), "", (a.ratio, None, 0), (b.ratio, None, 0)));
    }
    out
}

fn change(figure: String, unit: &str, a: Mean, b: Mean) -> Change {
    let interval = match (a, b) {
        ((ma, Some(sa), na), (mb, Some(sb), nb)) if na > 1 && nb > 1 => {
            let (va, vb) = (sa * sa / f64::from(na), sb * sb / f64::from(nb));
            let df = (va + vb).powi(2) / (va * va / f64::from(na - 1) + vb * vb / f64::from(nb - 1)).max(f64::MIN_POSITIVE);
            let t = StudentsT::new(0.0, 1.0, df.clamp(1.0, 1e6)).map_or(2.0, |t| t.inverse_cdf(0.975));
            let half = t * (va + vb).sqrt();
            Some([mb - ma - half, mb - ma + half])
        }
        _ => None,
    };
    Change { figure, unit: unit.into(), before: a.0, after: b.0, interval, changed: interval.map(|i| i[0] > 0.0 || i[1] < 0.0) }
}
