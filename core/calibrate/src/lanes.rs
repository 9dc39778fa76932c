//! Pen and brush laid over one ruler: the pen's line as scanned, the hand's stroke as inked, and what lies between.
//!
//! How: the stroke is straightened along its chord, and both are laid end on end or tip on tip. Limits: a stroke that turns is not
//! straightened well; its widths by direction have a lane of their own (`exercises`).

use eddymist_ink::{Inker, Stroke};
use eddymist_measure::{course::Coarseness, sheet::StrokeReading, stats::moving_mean};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A pen's line as it was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PenLine {
    /// Effort it was ruled at, where the artist said it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effort: Option<f64>,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    pub step_mm: f64,
    /// Edges to either side of where the line runs, mm.
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    /// How far a hand's bow takes it off the fitted line, mm; empty where it is straight.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bow_mm: Vec<f64>,
    pub width_mm: Vec<f64>,
    /// Of the edges about their lines: lag in µm, correlation.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub autocorrelation: Vec<[f64; 2]>,
    /// The straightened line as a grey PNG, a data URI; empty where the line came from a sheet.
    pub strip_png: String,
    /// Height and length of the strip, mm.
    pub strip_mm: [f64; 2],
}

/// Of several lines of one kind the one in the middle by a figure (of an even number the lower of the two): what is shown for all of them.
pub fn typical<T>(lines: impl IntoIterator<Item = T>, figure: impl Fn(&T) -> f64) -> Option<T> {
    let mut lines: Vec<(f64, T)> = lines.into_iter().map(|l| (figure(&l), l)).collect();
    lines.sort_by(|a, b| a.0.total_cmp(&b.0));
    let middle = lines.len().saturating_sub(1) / 2;
    lines.into_iter().nth(middle).map(|l| l.1)
}

impl PenLine {
    /// A ruled line of a sampler sheet.
    pub fn from_stroke(stroke: &StrokeReading, effort: Option<f64>) -> Self {
        let high = stroke.width_mm.iter().copied().fold(0.2, f64::max);
        Self {
            effort,
            from: stroke.from,
            to: stroke.to,
            step_mm: stroke.step_mm,
            left_mm: stroke.left_mm.clone(),
            right_mm: stroke.right_mm.clone(),
            bow_mm: stroke.bow_mm.clone(),
            width_mm: stroke.width_mm.clone(),
            autocorrelation: stroke.autocorrelation.clone(),
            strip_png: String::new(),
            strip_mm: [stroke.step_mm * stroke.width_mm.len() as f64, 2.0 * high],
        }
    }
}

/// The mean autocorrelation of all lines' edges, `[lag in µm, correlation]`, at the lags that most of them have.
pub fn mean_autocorrelation(lines: &[PenLine]) -> Vec<[f64; 2]> {
    let shown: Vec<&[[f64; 2]]> = lines.iter().map(|l| &l.autocorrelation[..]).filter(|a| a.len() > 2).collect();
    let Some(longest) = shown.iter().max_by_key(|a| a.len()) else { return Vec::new() };
    let at = |a: &[[f64; 2]], lag: f64| {
        let i = a.partition_point(|p| p[0] < lag);
        a.get(i).filter(|p| (p[0] - lag).abs() < 1.0).map(|p| p[1])
    };
    let mean = |lag: f64| {
        let v: Vec<f64> = shown.iter().filter_map(|a| at(a, lag)).collect();
        (2 * v.len() > shown.len()).then(|| v.iter().sum::<f64>() / v.len() as f64)
    };
    longest.iter().filter_map(|p| Some([p[0], mean(p[0])?])).collect()
}

/// One exercise on the bench: closed shapes in mm, the line along y = 0.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Lane {
    pub length_mm: f64,
    pub pen: Vec<[f64; 2]>,
    pub brush: Vec<[f64; 2]>,
    /// Brush minus pen, `[mm along, µm]`.
    pub difference: Vec<[f64; 2]>,
    pub pen_mm: f64,
    pub brush_mm: f64,
    /// What stands along the ruler: `mm`, `degrees`, or numbers of `dots` or `lines`.
    pub along: Along,
    /// An earlier version of the brush, compared.
    pub under: Vec<[f64; 2]>,
    /// How close the lines of hatching lie: the pen's, and the brush's over the same lines.
    pub hatching: Option<[Coarseness; 2]>,
    /// Where the hand pressed otherwise on the stroke that is shown than the pen's lines were drawn.
    pub pressed: Option<Pressed>,
    /// Where the pen's line and the hand's stroke were drawn at speeds that are further apart than a hand varies.
    pub paced: Option<Paced>,
}

/// How a hand pressed on one stroke, and what of its width comes of that.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, JsonSchema)]
pub struct Pressed {
    /// In the mean over the stroke's middle.
    pub effort: f64,
    /// At which it was meant to be drawn, as the pen's lines were.
    pub meant: f64,
    /// The brush's width at the one over that at the other, less 1.
    pub wider: f64,
}

/// Speeds at which a pen's line and a hand's stroke were drawn, mm/s.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, JsonSchema)]
pub struct Paced {
    pub pen: f64,
    pub hand: f64,
}

/// A width that a hand's press changes by less than this share shows no difference to the eye.
const LEAST_PRESSED: f64 = 0.01;

/// Speeds whose ratio's logarithm is less than this are one pace.
const NEAR_PACE: f64 = 0.2;

/// The mean effort of a stroke's middle three fifths.
fn middle_effort(stroke: &Stroke, inker: &Inker) -> f64 {
    let n = stroke.samples.len();
    let part = &stroke.samples[n / 5..n - n / 5];
    let sum: f64 = part.iter().enumerate().map(|(i, s)| inker.effort(s, (n / 5 + i) as f64 / n.max(1) as f64)).sum();
    sum / part.len().max(1) as f64
}

/// Of several strokes the one that was pressed nearest to the effort that is meant.
pub fn nearest<'a>(strokes: impl IntoIterator<Item = &'a Stroke>, inker: &Inker, meant: f64) -> Option<&'a Stroke> {
    let off = |s: &Stroke| (middle_effort(s, inker) - meant).abs();
    strokes.into_iter().min_by(|a, b| off(a).total_cmp(&off(b)))
}

impl Lane {
    /// The same with what it owes to how the hand pressed on its stroke; nothing is said of what would not be seen.
    pub fn with_press(self, stroke: Option<&Stroke>, inker: &Inker, meant: f64) -> Self {
        let pressed = stroke.and_then(|s| {
            let effort = middle_effort(s, inker);
            let wider = inker.weight_mm(effort, None) / inker.weight_mm(meant, None).max(1e-9) - 1.0;
            (wider.abs() >= LEAST_PRESSED).then_some(Pressed { effort, meant, wider })
        });
        Self { pressed, ..self }
    }

    /// The same with the speeds of pen and hand, where the pen's is known and the hand's is not near it.
    pub fn with_pace(self, pen_mm_s: Option<f64>, stroke: Option<&Stroke>) -> Self {
        let paced = pen_mm_s.zip(stroke.and_then(|s| {
            let seconds = (s.samples.last()?.t_ms - s.samples.first()?.t_ms) / 1000.0;
            (seconds > 0.0 && s.timed).then(|| s.lengths_mm().last().copied().unwrap_or(0.0) * s.zoom / seconds)
        }));
        Self { paced: paced.filter(|(pen, hand)| (hand / pen).ln().abs() > NEAR_PACE).map(|(pen, hand)| Paced { pen, hand }), ..self }
    }
}

/// What stands along a lane's ruler.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Along {
    Mm,
    Degrees,
    Dots,
    Lines,
}

/// Where a pen's line and a stroke of another length lie over one another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Align {
    Start,
    /// Ruled lines: both from where they are as wide as they are, so that neither shows its ends, over as many mm as both have.
    Body,
    /// At their ends: flicks are held tip on tip.
    End,
}

/// Lays a pen's line over a stroke of the hand at the same effort; the stroke is straightened along its chord.
pub fn lane(pen: Option<&PenLine>, stroke: Option<&Stroke>, inker: &Inker, align: Align) -> Lane {
    let mut widths = stroke.map(|s| inked(s, inker)).unwrap_or_default();
    let cut = if align == Align::Body { bodies(pen, &mut widths) } else { None };
    let pen = cut.as_ref().or(pen);
    let pen_length = pen.map_or(0.0, |p| p.step_mm * p.width_mm.len() as f64);
    let brush_length = widths.last().map_or(0.0, |w| w[0]);
    let length_mm = pen_length.max(brush_length);
    let shift = |length: f64| if align == Align::End { length_mm - length } else { 0.0 };
    let (pen_at, brush_at) = (shift(pen_length), shift(brush_length));
    widths.iter_mut().for_each(|w| w[0] += brush_at);
    let mut out = Lane {
        length_mm,
        pen: Vec::new(),
        brush: Vec::new(),
        difference: Vec::new(),
        pen_mm: 0.0,
        brush_mm: middle(&widths),
        along: Along::Mm,
        under: Vec::new(),
        hatching: None,
        pressed: None,
        paced: None,
    };
    if let Some(p) = pen {
        let at = |i: usize| pen_at + i as f64 * p.step_mm;
        out.pen = p.left_mm.iter().enumerate().map(|(i, e)| [at(i), *e]).chain(p.right_mm.iter().enumerate().rev().map(|(i, e)| [at(i), *e])).collect();
        let window = ((0.4 / p.step_mm) as usize).max(1);
        let smooth = moving_mean(&p.width_mm, window);
        let pairs: Vec<[f64; 2]> = smooth.iter().enumerate().map(|(i, w)| [at(i), *w]).collect();
        out.pen_mm = middle(&pairs);
        if !widths.is_empty() {
            let (from, to) = (pen_at.max(brush_at), (pen_at + pen_length).min(brush_at + brush_length));
            let steps = 240;
            out.difference = (0..=steps)
                .map(|k| {
                    let s = from + (to - from) * f64::from(k) / f64::from(steps);
                    [s, 1000.0 * (interpolate(&widths, s) - interpolate(&pairs, s))]
                })
                .collect();
        }
    }
    let half = |w: &[f64; 2], side: f64| [w[0], side * 0.5 * w[1]];
    out.brush = widths.iter().map(|w| half(w, -1.0)).chain(widths.iter().rev().map(|w| half(w, 1.0))).collect();
    out
}

/// Where a line is within a tenth of its middle width for the first and for the last time, mm.
fn body(pairs: &[[f64; 2]]) -> [f64; 2] {
    let whole = |p: &&[f64; 2]| p[1] >= 0.9 * middle(pairs);
    [pairs.iter().find(whole).map_or(0.0, |p| p[0]), pairs.iter().rev().find(whole).map_or(0.0, |p| p[0])]
}

/// The bodies of both over as many mm as both have, each from 0; gives the pen's.
fn bodies(pen: Option<&PenLine>, widths: &mut Vec<[f64; 2]>) -> Option<PenLine> {
    let of_pen = pen.map(|p| body(&p.width_mm.iter().enumerate().map(|(i, w)| [i as f64 * p.step_mm, *w]).collect::<Vec<_>>()));
    let of_brush = (!widths.is_empty()).then(|| body(widths));
    let length = [of_pen, of_brush].into_iter().flatten().map(|[from, to]| to - from).fold(f64::INFINITY, f64::min);
    if let Some([from, _]) = of_brush {
        widths.retain(|w| w[0] >= from && w[0] <= from + length);
        widths.iter_mut().for_each(|w| w[0] -= from);
    }
    let (pen, [from, _]) = (pen?, of_pen?);
    let first = (from / pen.step_mm).round() as usize;
    let of = |mm: &[f64]| mm.iter().skip(first).take((length / pen.step_mm) as usize + 1).copied().collect::<Vec<_>>();
    Some(PenLine { left_mm: of(&pen.left_mm), right_mm: of(&pen.right_mm), bow_mm: of(&pen.bow_mm), width_mm: of(&pen.width_mm), ..pen.clone() })
}

/// `[mm along, width]` of a stroke as inked.
pub(crate) fn inked(stroke: &Stroke, inker: &Inker) -> Vec<[f64; 2]> {
    let samples = inker.ink(stroke).samples;
    let way = eddymist_ink::stroke::along(samples.iter().map(|s| (s.x, s.y)));
    samples.iter().zip(way).map(|(s, w)| [w, s.width_mm]).collect()
}

pub(crate) fn middle(pairs: &[[f64; 2]]) -> f64 {
    let n = pairs.len();
    let part = &pairs[n / 5..n - n / 5];
    part.iter().map(|p| p[1]).sum::<f64>() / part.len().max(1) as f64
}

pub(crate) fn interpolate(pairs: &[[f64; 2]], s: f64) -> f64 {
    let i = pairs.partition_point(|p| p[0] < s).clamp(1, pairs.len().max(2) - 1);
    let (Some(a), Some(b)) = (pairs.get(i - 1), pairs.get(i)) else {
        return pairs.first().map_or(0.0, |p| p[1]);
    };
    let t = if b[0] > a[0] { ((s - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) } else { 0.0 };
    a[1] + (b[1] - a[1]) * t
}
