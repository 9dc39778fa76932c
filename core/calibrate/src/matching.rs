//! The match: the weight curve that makes this hand on this tablet draw like that pen, and how alike they are.
//!
//! The artist's strokes are inked with the candidate brush and their widths held against the pen's. What is reported
//! comes from strokes that the fit did not see (leave one out). *Alike* is two one-sided tests inside the margin
//! (D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15, 1987), at every effort; the worst effort is the one reported.

use eddymist_ink::{Brush, InkError, Stroke};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::{
    parts::Bench,
    pen_card::PenCard,
    profile::TabletProfile,
    warmup::{Exercise, WarmUp},
    weight::{chance, compare_weight, fit_weight, pooled, steadiness, targets, unseen, with_chance},
};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/match";
/// A difference inside this many spreads is alike.
pub(crate) const MARGIN: f64 = 1.0;

/// A fitted brush and how it compares with the pen, part by part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Match {
    /// Always `eddymist/match`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub brush: Brush,
    pub parts: Vec<PartMatch>,
    /// The part that differs most; absent where nothing could be compared.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub worst: Option<Part>,
    /// What neither card nor warm-up shows.
    pub assumed: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartMatch {
    pub part: Part,
    pub verdict: Verdict,
    /// Brush minus pen, in `unit`; absent where there is no spread to measure it in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub difference: Option<f64>,
    /// 95 %.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval: Option<[f64; 2]>,
    /// Spread of the brush's lines over the pen's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spread_ratio: Option<f64>,
    pub unit: String,
    pub measured: String,
    pub lines: u32,
    pub says: String,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Part {
    Weight,
    Nib,
    Pace,
    Pooling,
    LeadIn,
    LeadOut,
    Edge,
    Steadiness,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    Alike,
    Differs,
    TooFew,
    CannotBeMatched,
}

impl Part {
    pub const ALL: [(Part, &'static str); 8] = [
        (Self::Weight, "weight"),
        (Self::Nib, "nib"),
        (Self::Pace, "pace"),
        (Self::Pooling, "pooling"),
        (Self::LeadIn, "lead-in"),
        (Self::LeadOut, "lead-out"),
        (Self::Edge, "edge"),
        (Self::Steadiness, "steadiness"),
    ];

    /// The part of this name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|p| p.1 == name).map(|p| p.0)
    }
}

/// Why nothing could be fitted.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum FitError {
    #[error("the pen card shows no widths; measure at least one ruled line of the pen")]
    NoWidths,
    #[error("{0}")]
    Ink(#[from] InkError),
}

/// Fits what is not locked, and compares.
pub fn fit(card: &PenCard, warmup: Option<&WarmUp>, profile: Option<&TabletProfile>, start: Option<&Brush>, locked: &[Part]) -> Result<Match, FitError> {
    let targets = targets(card)?;
    let mut brush = start.cloned().unwrap_or_else(|| Brush::plain(&card.name, targets[0].width));
    let mut assumed = Vec::new();
    let response = match profile {
        Some(p) => Some(p.curve().map_err(InkError::from)?),
        None => {
            assumed.push("response: no tablet profile, so raw pressure is taken as effort".to_string());
            None
        }
    };
    let strokes: Vec<(f64, &Stroke)> = warmup.map(|w| w.efforts().filter(|(_, s)| s.samples.len() >= 8).collect()).unwrap_or_default();
    if warmup.is_none() {
        assumed.push("hand: no warm-up, so the weight curve is the pen's own, taken as if every effort were met".into());
    }
    if targets.len() == 1 {
        assumed.push(format!("weight curve: the card shows one effort only, so {:.3} mm is taken for all", targets[0].width));
    }
    let bench = Bench { card, warmup, response: response.as_ref() };
    let open = |p: Part| !locked.contains(&p);
    fit_parts(&bench, &mut brush, &open, &mut assumed);
    // Weight and nib are one: every width is seen in some direction.
    if open(Part::Weight) {
        brush.weight = fit_weight(&brush, &targets, &strokes, response.as_ref(), None)?;
    }
    if open(Part::Pooling) && card.pooling.is_some() {
        brush.pooling = bench.all_pooling(&brush)?;
        assumed.push("pooling's time: as the starting brush has it, nothing shows it".into());
    }
    if open(Part::LeadOut) && card.lead_out.is_some() {
        let flicks: Vec<&Stroke> = warmup.map(|w| w.strokes(Exercise::Flick).filter(|s| s.samples.len() > 8).collect()).unwrap_or_default();
        if flicks.is_empty() {
            assumed.push("lead-out: the warm-up has no flicks, so the pen's own law is taken, as if the hand lifted at full effort".into());
        }
        brush.lead_out = bench.lead_out(&brush, &flicks)?.0;
    }
    let unseen = unseen(&brush, &targets, &strokes, response.as_ref(), locked.contains(&Part::Weight))?;
    let pen_spread = pooled(targets.iter().filter_map(|t| t.sd.map(|sd| (sd, t.lines))));
    if open(Part::Steadiness)
        && !unseen.is_empty()
        && let Some(pen) = pen_spread
    {
        brush.jitter = chance(&brush, &targets, &strokes, &unseen, pen.0);
        if brush.jitter.is_some() {
            assumed.push("chance: the card shows how lines differ from one another, not how fast; it wanders over a few centimetres".into());
        }
    }
    let weight = compare_weight(&targets, &strokes, response.as_ref(), &unseen, pen_spread);
    let steadiness = steadiness(&weight, with_chance(&brush, &targets, &strokes, response.as_ref(), &unseen)?, pen_spread);
    let mut parts = vec![weight];
    parts.extend(bench.compare_nib(&brush)?);
    parts.extend(bench.compare_pace(&brush)?);
    parts.extend(bench.compare_pooling(&brush, locked.contains(&Part::Pooling))?);
    parts.extend(bench.compare_lead_in());
    parts.extend(bench.compare_lead_out(&brush, locked.contains(&Part::LeadOut))?);
    parts.extend(bench.compare_edge(&brush)?);
    parts.extend(steadiness);
    // The worst first: what differs, then what cannot be matched or told, then what is alike; by size within.
    let rank = |p: &PartMatch| match p.verdict {
        Verdict::Differs => 0,
        Verdict::CannotBeMatched => 1,
        Verdict::TooFew => 2,
        Verdict::Alike => 3,
    };
    let size = |p: &PartMatch| p.difference.map_or(0.0, f64::abs);
    parts.sort_by(|a, b| rank(a).cmp(&rank(b)).then(size(b).total_cmp(&size(a))));
    let worst = parts.first().filter(|p| p.difference.is_some()).map(|p| p.part);
    Ok(Match { format: FORMAT.into(), version: 1, brush, worst, parts, assumed })
}

/// Takes from the card what it shows of the parts that are open; the rest stays as the brush has it, and is said.
fn fit_parts(bench: &Bench, brush: &mut Brush, open: &dyn Fn(Part) -> bool, assumed: &mut Vec<String>) {
    let mut keeps = |part: Part, name: &str| {
        if open(part) {
            assumed.push(format!("{name}: the card does not show it, so it is as the starting brush has it"));
        }
    };
    match bench.nib(brush) {
        Some(nib) if open(Part::Nib) => brush.nib = nib,
        None => keeps(Part::Nib, "nib"),
        _ => {}
    }
    match bench.pace() {
        // Driven by effort alone a pace would do nothing.
        Some(pace) if open(Part::Pace) => (brush.pace, brush.driver) = (Some(pace), None),
        None => keeps(Part::Pace, "pace"),
        _ => {}
    }
    if bench.card.pooling.is_none() {
        keeps(Part::Pooling, "pooling");
    }
    match bench.card.lead_in {
        Some(_) if open(Part::LeadIn) => brush.lead_in = bench.lead_in(brush),
        None => keeps(Part::LeadIn, "lead-in"),
        _ => {}
    }
    if bench.card.lead_out.is_none() {
        keeps(Part::LeadOut, "lead-out");
    }
    match bench.edge(brush) {
        Some(edge) if open(Part::Edge) => brush.edge = edge,
        None => keeps(Part::Edge, "edge"),
        _ => {}
    }
    if open(Part::LeadIn) || open(Part::LeadOut) {
        assumed.push("the tapers' shares and speed limits: as the starting brush has them, nothing shows them".into());
    }
}

pub(crate) fn student(p: f64, df: f64) -> f64 {
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(2.0, |t| t.inverse_cdf(p))
}
