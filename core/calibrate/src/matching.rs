//! The match: the weight curve that makes this hand on this tablet draw like that pen, and how alike they are.
//!
//! The artist's strokes are inked with the candidate brush and their widths held against the pen's. What is reported
//! comes from strokes that the fit did not see (leave one out). *Alike* is two one-sided tests inside the margin
//! (D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15, 1987), at every effort; the worst effort is the one reported.

use eddymist_ink::{Brush, Curve, InkError, Inker, Stroke};
use eddymist_measure::stats::mean_sd;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::{
    isotonic,
    parts::Bench,
    pen_card::PenCard,
    profile::TabletProfile,
    warmup::{Exercise, WarmUp, effort_name},
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
        brush.weight = fit_weight(&brush, &targets, &strokes, response.as_ref())?;
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
    let weight = compare_weight(&brush, &targets, &strokes, response.as_ref(), locked.contains(&Part::Weight))?;
    let steadiness = steadiness(&weight);
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

/// Whether the brush's lines differ from one another as the pen's do: their ratio alone decides.
fn steadiness(weight: &PartMatch) -> Option<PartMatch> {
    let ratio = weight.spread_ratio?;
    let (verdict, says) = if ratio < 0.5 {
        (Verdict::Differs, format!("too even: your lines with it vary {ratio:.2} times as much as the pen's"))
    } else if ratio > 2.0 {
        (Verdict::Differs, format!("unsteady: your lines with it vary {ratio:.1} times as much as the pen's"))
    } else {
        (Verdict::Alike, format!("your lines with it vary {ratio:.1} times as much as the pen's"))
    };
    // The difference is the log of the ratio over that of the limit: 1 at the limits.
    let difference = Some(ratio.max(1e-6).ln() / 2f64.ln());
    Some(PartMatch {
        part: Part::Steadiness,
        verdict,
        difference,
        interval: None,
        spread_ratio: Some(ratio),
        unit: "doublings of the spread".into(),
        says,
        ..weight.clone()
    })
}

/// What the pen does at one effort.
struct Target {
    effort: f64,
    width: f64,
    sd: Option<f64>,
    lines: f64,
}

fn targets(card: &PenCard) -> Result<Vec<Target>, FitError> {
    let mut out: Vec<Target> =
        card.widths_by_effort.iter().flatten().map(|w| Target { effort: w.effort, width: w.width_mm, sd: w.sd_mm, lines: f64::from(w.lines) }).collect();
    out.sort_by(|a, b| a.effort.total_cmp(&b.effort));
    out.dedup_by(|a, b| a.effort == b.effort);
    if out.is_empty() { Err(FitError::NoWidths) } else { Ok(out) }
}

/// Mean width of a stroke's body as the brush inks it, mm.
fn inked_width(inker: &Inker, stroke: &Stroke) -> f64 {
    let inked = inker.ink(stroke).samples;
    let n = inked.len();
    let (mut sum, mut length) = (0.0, 0.0);
    for w in inked[n / 5..n - n / 5].windows(2) {
        let ds = (w[1].x - w[0].x).hypot(w[1].y - w[0].y);
        sum += ds * 0.5 * (w[0].width_mm + w[1].width_mm);
        length += ds;
    }
    if length > 0.0 { sum / length } else { inked[n / 2].width_mm }
}

/// The body without tapers, pooling and chance: they are other parts, and the weight is read where they do not reach.
fn bare(brush: &Brush, weight: Vec<[f64; 2]>) -> Brush {
    Brush { weight, lead_in: None, lead_out: None, pooling: None, jitter: None, ..brush.clone() }
}

fn fit_weight(brush: &Brush, targets: &[Target], strokes: &[(f64, &Stroke)], response: Option<&Curve>) -> Result<Vec<[f64; 2]>, InkError> {
    if let [only] = targets {
        return Ok(vec![[0.0, round4(only.width)], [1.0, round4(only.width)]]);
    }
    let mut knots: Vec<[f64; 2]> = targets.iter().map(|t| [t.effort, t.width]).collect();
    rise(&mut knots, targets);
    if strokes.is_empty() {
        return Ok(knots);
    }
    for _ in 0..8 {
        let inker = Inker::new(&bare(brush, knots.clone()), response.cloned(), None)?;
        let mut moved = 0.0f64;
        for (k, t) in targets.iter().enumerate().filter(|(_, t)| within_reach(t.effort, response)) {
            let widths: Vec<f64> = strokes.iter().filter(|(e, _)| (e - t.effort).abs() < 1e-6).map(|(_, s)| inked_width(&inker, s)).collect();
            if let Some((mean, _)) = mean_sd(&widths) {
                let step = t.width - mean;
                knots[k][1] = (knots[k][1] + 0.8 * step).max(0.01);
                moved = moved.max(step.abs());
            }
        }
        rise(&mut knots, targets);
        if moved < 1e-4 {
            break;
        }
    }
    Ok(knots)
}

/// Whether the tablet still tells this effort from the ones below: past its full point no curve can show it.
fn within_reach(effort: f64, response: Option<&Curve>) -> bool {
    response.is_none_or(|r| effort <= r.at(1.0) + 0.02)
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

fn compare_weight(brush: &Brush, targets: &[Target], strokes: &[(f64, &Stroke)], response: Option<&Curve>, locked: bool) -> Result<PartMatch, InkError> {
    let lines: f64 = targets.iter().map(|t| t.lines).sum();
    let mut out = PartMatch {
        part: Part::Weight,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        unit: "spreads".into(),
        measured: format!("{lines:.0} lines of the pen at {} efforts, {} strokes of the hand", targets.len(), strokes.len()),
        lines: lines as u32,
        says: String::new(),
    };
    let (ss, df) = targets.iter().filter_map(|t| t.sd.map(|sd| (sd * sd * (t.lines - 1.0), t.lines - 1.0))).fold((0.0, 0.0), |a, b| (a.0 + b.0, a.1 + b.1));
    if df < 1.0 {
        out.says = "the pen's own spread is not known from single lines; three lines at each effort would do".into();
        return Ok(out);
    }
    let spread = (ss / df).sqrt();
    if spread <= 0.0 || strokes.is_empty() {
        out.says = "there are no strokes of your hand to hold against the pen; warm up on this tablet first".into();
        return Ok(out);
    }
    // Leave one stroke out: each width comes from a curve that did not see that stroke.
    let mut unseen: Vec<(usize, f64)> = Vec::new();
    for i in 0..strokes.len() {
        let Some(k) = targets.iter().position(|t| (t.effort - strokes[i].0).abs() < 1e-6) else {
            continue;
        };
        let weight = if locked {
            brush.weight.clone()
        } else {
            let others: Vec<(f64, &Stroke)> = strokes.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            fit_weight(brush, targets, &others, response)?
        };
        let inker = Inker::new(&bare(brush, weight), response.cloned(), None)?;
        unseen.push((k, inked_width(&inker, strokes[i].1)));
    }
    let mut worst: Option<(f64, f64, f64, usize)> = None;
    let mut all_alike = true;
    let mut any_differs = false;
    let mut needed = 0.0f64;
    let (mut brush_ss, mut brush_df) = (0.0, 0.0);
    let compared = targets.iter().enumerate().filter(|(k, _)| unseen.iter().any(|u| u.0 == *k)).count().max(1);
    for (k, t) in targets.iter().enumerate() {
        let widths: Vec<f64> = unseen.iter().filter(|u| u.0 == k).map(|u| u.1).collect();
        let Some((mean, sd)) = mean_sd(&widths) else {
            continue;
        };
        let n = widths.len() as f64;
        brush_ss += sd * sd * (n - 1.0);
        brush_df += n - 1.0;
        let difference = (mean - t.width) / spread;
        let error = (1.0 / t.lines + (sd / spread).powi(2) / n).sqrt();
        let (t90, t95) = (student(0.95, df), student(0.975, df));
        all_alike &= difference.abs() + t90 * error < MARGIN;
        any_differs |= difference.abs() - student(1.0 - 0.025 / compared as f64, df) * error > MARGIN;
        // Lines at which the tests could pass, were the difference what it seems.
        let room = (MARGIN - difference.abs()).max(0.05);
        needed = needed.max((t90 / room).powi(2) * (1.0 + (sd / spread).powi(2)));
        if worst.is_none_or(|w| difference.abs() > w.0.abs()) {
            worst = Some((difference, t95 * error, mean - t.width, k));
        }
    }
    let Some((difference, half, by_mm, k)) = worst else {
        out.says = "the warm-up has no strokes at the pen's efforts; draw the five efforts".into();
        return Ok(out);
    };
    out.difference = Some(difference);
    out.interval = Some([difference - half, difference + half]);
    out.spread_ratio = (brush_df > 0.0).then(|| (brush_ss / brush_df).sqrt() / spread);
    let share = 100.0 * by_mm / targets[k].width;
    let where_ = effort_name(targets[k].effort);
    let side = if by_mm >= 0.0 { "heavy" } else { "thin" };
    (out.verdict, out.says) = if all_alike {
        (Verdict::Alike, format!("within {:.1} % at every effort, on strokes that the fit has not seen", share.abs().max(0.1)))
    } else if any_differs {
        (Verdict::Differs, format!("{:.0} µm too {side} at {where_} effort ({:.1} %)", (by_mm * 1000.0).abs(), share.abs()))
    } else {
        (
            Verdict::TooFew,
            format!("{:.1} % {side} at {where_} effort so far; about {:.0} lines at each effort would tell", share.abs(), needed.ceil().min(99.0)),
        )
    };
    if let Some(r) = response.filter(|r| !within_reach(targets[k].effort, Some(r))) {
        out.says.push_str(&format!("; this tablet reaches its full point at {:.0} % of the effort, and harder presses look the same to it", 100.0 * r.at(1.0)));
    }
    Ok(out)
}

pub(crate) fn student(p: f64, df: f64) -> f64 {
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(2.0, |t| t.inverse_cdf(p))
}
