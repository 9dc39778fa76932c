//! The parts of a brush beside its weight: taken from the pen card as far as card and warm-up show them, and held against it.
//!
//! Each is one figure a stroke, measured on the inked strokes as it is on the scan, and compared by two one-sided tests
//! (D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15, 1987). Tapers are fitted to what is left over: on a flick the pressure
//! already falls, and the brush adds only what the pen does beyond that.

use std::f64::consts::TAU;

use eddymist_ink::{
    Brush, Curve, InkError, InkedStroke, Inker, Stroke,
    brush::{AngleFrom, Edge, Nib, NibShape, Pooling, Taper},
    stroke::along,
};
use eddymist_measure::stats::{mean_sd, median, moving_mean};

use crate::{
    isotonic,
    matching::{MARGIN, Part, PartMatch, Verdict, student},
    pen_card::{CardNib, CardTaper, PenCard},
    tapers::{self, Flick},
    warmup::{Exercise, WarmUp},
};

/// A figure of the pen: mean, spread and number; what of it is not known is absent.
#[derive(Debug, Clone, Copy)]
struct OfPen {
    mean: f64,
    sd: Option<f64>,
    n: f64,
}

/// Holds figures of inked strokes against the pen's. `word` says of a difference which way it goes.
fn held(part: Part, pen: OfPen, brush: &[f64], measured: String, word: impl Fn(f64) -> String) -> PartMatch {
    let mut out = PartMatch {
        part,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        unit: "spreads".into(),
        measured,
        lines: pen.n as u32,
        says: String::new(),
    };
    let (Some(spread), Some((mean, sd))) = (pen.sd.filter(|s| *s > 0.0 && pen.n >= 2.0), mean_sd(brush)) else {
        out.says = match mean_sd(brush) {
            Some((m, _)) => format!("{}; the pen's own spread is not known, so how much that is cannot be said", word(m - pen.mean)),
            None => "the warm-up has no strokes that show it".into(),
        };
        return out;
    };
    let n = brush.len() as f64;
    let difference = (mean - pen.mean) / spread;
    let error = (1.0 / pen.n + (sd / spread).powi(2) / n).sqrt();
    let df = pen.n - 1.0;
    let half = student(0.975, df) * error;
    out.difference = Some(difference);
    out.interval = Some([difference - half, difference + half]);
    out.spread_ratio = (brush.len() > 1).then_some(sd / spread);
    let words = word(mean - pen.mean);
    (out.verdict, out.says) = if difference.abs() + student(0.95, df) * error < MARGIN {
        (Verdict::Alike, words)
    } else if difference.abs() - half > MARGIN {
        (Verdict::Differs, words)
    } else {
        let room = (MARGIN - difference.abs()).max(0.05);
        let needed = ((student(0.95, df) / room).powi(2) * (1.0 + (sd / spread).powi(2))).ceil().min(99.0);
        (Verdict::TooFew, format!("{words} so far; about {needed:.0} of them would tell"))
    };
    out
}

/// What is fitted from and compared on.
pub struct Bench<'a> {
    pub card: &'a PenCard,
    pub warmup: Option<&'a WarmUp>,
    pub response: Option<&'a Curve>,
}

impl Bench<'_> {
    /// Inks without chance: it is another part, and every other is read where it does not reach.
    fn inker(&self, brush: &Brush) -> Result<Inker, InkError> {
        Inker::new(&Brush { jitter: None, ..brush.clone() }, self.response.cloned(), None)
    }

    fn strokes(&self, exercise: Exercise) -> Vec<&Stroke> {
        self.warmup.map(|w| w.strokes(exercise).filter(|s| s.samples.len() > 8).collect()).unwrap_or_default()
    }

    /// The nib as the card has it, held as the page has it; none where the card shows none.
    pub fn nib(&self, start: &Brush) -> Option<Nib> {
        let keep = |shape: NibShape| Nib { shape, angle_from: AngleFrom::Page, widen_by_tilt: start.nib.widen_by_tilt, ..Nib::round() };
        Some(match self.card.nib.as_ref()? {
            CardNib::Round { .. } => keep(NibShape::Round),
            CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. } => {
                Nib { breadth: Some((breadth_mm / length_mm).clamp(0.01, 1.0)), angle_deg: *angle_deg, ..keep(NibShape::Ellipse) }
            }
            CardNib::Spring { opening_mm, pull_deg, .. } => Nib { opening_mm: Some(*opening_mm), pull_deg: Some(*pull_deg), ..keep(NibShape::Spring) },
        })
    }

    /// Width of the pen by direction over its mean over all directions, at normal effort.
    fn by_direction(&self, direction: f64) -> Option<f64> {
        let width = |a: f64| -> Option<f64> {
            Some(match self.card.nib.as_ref()? {
                CardNib::Round { .. } => 1.0,
                CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. } => {
                    let t = a - angle_deg.to_radians();
                    (length_mm * t.sin()).hypot(breadth_mm * t.cos())
                }
                CardNib::Spring { length_mm, opening_mm, pull_deg, .. } => length_mm + 0.5 * opening_mm * (a - pull_deg.to_radians()).cos().max(0.0),
            })
        };
        let mean = (0..72).map(|k| width(TAU * f64::from(k) / 72.0)).sum::<Option<f64>>()? / 72.0;
        Some(width(direction)? / mean)
    }

    /// Circles of the hand: how far their widths go by direction as the pen's do.
    pub fn compare_nib(&self, brush: &Brush) -> Result<Option<PartMatch>, InkError> {
        let (length, residual) = match &self.card.nib {
            Some(CardNib::Round { length_mm, residual_mm }) => (*length_mm, *residual_mm),
            Some(CardNib::Ellipse { length_mm, breadth_mm, residual_mm, .. }) => (0.5 * (length_mm + breadth_mm), *residual_mm),
            Some(CardNib::Spring { length_mm, opening_mm, residual_mm, .. }) => (length_mm + 0.16 * opening_mm, *residual_mm),
            None => return Ok(None),
        };
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, ..brush.clone() })?;
        // Each eighth of each circle is one figure: its width over the circle's mean, over what the pen's would be there.
        let mut seen = Vec::new();
        for s in self.strokes(Exercise::Circle) {
            let inked = inker.ink(s).samples;
            // Where the hand lands and lifts it does not press as it does between.
            let inked = &inked[inked.len() / 25..inked.len() - inked.len() / 25];
            let ways: Vec<f64> = inked.windows(2).map(|w| (w[1].x - w[0].x).hypot(w[1].y - w[0].y)).collect();
            let mean = inked.iter().zip(&ways).map(|(p, d)| p.width_mm * d).sum::<f64>() / ways.iter().sum::<f64>().max(1e-9);
            let mut parts = [(0.0, 0.0, 0.0); 8];
            for w in inked.windows(2) {
                let (dx, dy) = (w[1].x - w[0].x, w[1].y - w[0].y);
                let direction = (-dy).atan2(dx).rem_euclid(TAU);
                let (ds, Some(want)) = (dx.hypot(dy), self.by_direction(direction)) else { continue };
                let p = &mut parts[((direction / TAU * 8.0) as usize).min(7)];
                *p = (p.0 + ds * w[0].width_mm / mean, p.1 + ds * want, p.2 + ds);
            }
            seen.extend(parts.iter().filter(|p| p.2 > 0.0).map(|p| (p.0 - p.1) / p.2));
        }
        let measured = format!("{} directions on the hand's circles", seen.len());
        // Differences of either sign do not cancel: it is their size that is held against the law's own residual.
        let size: Vec<f64> = seen.iter().map(|d| d.abs()).collect();
        let spread = (residual / length.max(1e-6)).max(0.01);
        let pen = OfPen { mean: 0.0, sd: Some(spread), n: 24.0 };
        Ok(Some(held(Part::Nib, pen, &size, measured, |d| format!("widths by direction are off by {:.1} % of the width", 100.0 * d))))
    }

    /// Factors on the width by the hand's speed, from the card's three paces; none where they do not go one way.
    pub fn pace(&self) -> Option<Vec<[f64; 2]>> {
        let paces = self.card.widths_by_pace.as_ref()?;
        let normal = paces.iter().find(|p| p.pace == "normal")?.width_mm;
        let mut points: Vec<(f64, f64, f64)> = paces.iter().map(|p| (p.speed_mm_s, p.width_mm / normal, f64::from(p.lines))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|a, b| a.0 == b.0);
        let (first, last) = (points.first()?.1, points.last()?.1);
        // Isotonic regression rises: where the pen runs thin with speed it is turned over.
        let sign = if last < first { -1.0 } else { 1.0 };
        let turned: Vec<(f64, f64, f64)> = points.iter().map(|p| (p.0, sign * p.1, p.2)).collect();
        let knots = points.iter().zip(isotonic::regression(&turned)).map(|(p, y)| [round(p.0, 10.0), round(sign * y, 1e4)]).collect::<Vec<_>>();
        (knots.len() > 1).then_some(knots)
    }

    /// Strokes of the hand at whatever speed: their factor by the brush over the pen's at that speed.
    pub fn compare_pace(&self, brush: &Brush) -> Result<Option<PartMatch>, InkError> {
        let (Some(knots), Some(paces)) = (self.pace(), &self.card.widths_by_pace) else { return Ok(None) };
        let (Ok(pen), normal) = (Curve::new(&knots), paces.iter().find(|p| p.pace == "normal").map_or(1.0, |p| p.width_mm)) else { return Ok(None) };
        let bare = Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() };
        let (with, without) = (self.inker(&bare)?, self.inker(&Brush { pace: None, driver: None, ..bare.clone() })?);
        let mut off = Vec::new();
        for s in [Exercise::Ruled, Exercise::Diagonal].into_iter().flat_map(|e| self.strokes(e)) {
            let (way, t) = (s.lengths_mm(), s.samples.last().map_or(0.0, |l| l.t_ms) - s.samples[0].t_ms);
            let speed = way.last().copied().unwrap_or(0.0) * s.zoom / (t / 1000.0).max(1e-3);
            let middle = |i: &InkedStroke| median(&i.samples[i.samples.len() / 5..i.samples.len() * 4 / 5].iter().map(|p| p.width_mm).collect::<Vec<_>>());
            if let (Some(a), Some(b)) = (middle(&with.ink(s)), middle(&without.ink(s))) {
                off.push((a / b - pen.at(speed)) * normal);
            }
        }
        let lines: f64 = paces.iter().map(|p| f64::from(p.lines)).sum();
        let ss: f64 = paces.iter().map(|p| p.sd_mm.powi(2) * (f64::from(p.lines) - 1.0)).sum();
        let df = (lines - paces.len() as f64).max(1.0);
        let sd = Some((ss / df).sqrt());
        let measured = format!("{lines:.0} lines of the pen at {} paces, {} strokes of the hand", paces.len(), off.len());
        Ok(Some(held(Part::Pace, OfPen { mean: 0.0, sd, n: lines }, &off, measured, |d| match by(1000.0 * d, 0.5, "µm", 0, ["heavy", "thin"]) {
            Some(words) => format!("{words} at the hand's own speeds"),
            None => "as wide as the pen at the hand's own speeds".into(),
        })))
    }

    /// Dots of the hand that were held about as long as the pen's: one held shorter or longer says nothing of it.
    fn dots(&self) -> Vec<&Stroke> {
        let meant = self.card.pooling.and_then(|p| p.held_s);
        let held = |s: &Stroke| Some((s.samples.last()?.t_ms - s.samples[0].t_ms) / 1000.0);
        let alike = |s: &&Stroke| meant.zip(held(s)).is_none_or(|(m, h)| (0.4..2.5).contains(&(h / m)));
        self.strokes(Exercise::Dot).into_iter().filter(alike).collect()
    }

    /// The widest that each dot gets, over what it is without pooling.
    fn grown(&self, brush: &Brush, dots: &[&Stroke]) -> Result<Vec<f64>, InkError> {
        let (with, without) = (self.inker(brush)?, self.inker(&Brush { pooling: None, ..brush.clone() })?);
        let widest = |i: &InkedStroke| i.samples.iter().map(|s| s.nib_mm).fold(0.0, f64::max);
        Ok(dots.iter().map(|s| widest(&with.ink(s)) / widest(&without.ink(s)).max(1e-9)).collect())
    }

    /// The ratio at which these dots of the hand, or else a pen held still as long as the card's, grow as the card's had; its
    /// time stays the brush's.
    pub fn pooling(&self, start: &Brush, dots: &[&Stroke]) -> Result<Option<Pooling>, InkError> {
        let Some(p) = self.card.pooling.filter(|p| p.ratio > 1.0) else { return Ok(None) };
        let time_s = start.pooling.map_or(0.4, |b| b.time_s);
        let Some(held) = p.held_s else { return Ok(start.pooling) };
        let mut out = Pooling { ratio: 1.0 + (p.ratio - 1.0) / (1.0 - (-held / time_s).exp()).max(0.05), time_s };
        for _ in 0..3 {
            let grown = self.grown(&Brush { pooling: Some(out), ..start.clone() }, dots)?;
            if let Some((mean, _)) = mean_sd(&grown).filter(|m| m.0 > 1.01) {
                out.ratio = (1.0 + (out.ratio - 1.0) * (p.ratio - 1.0) / (mean - 1.0)).clamp(1.0, 10.0);
            }
        }
        out.ratio = round(out.ratio, 1e3);
        Ok(Some(out))
    }

    /// The pooling that all dots of the hand ask for.
    pub fn all_pooling(&self, start: &Brush) -> Result<Option<Pooling>, InkError> {
        self.pooling(start, &self.dots())
    }

    /// Dots of the hand over a line at the same effort, each by a ratio that has not seen it, unless that part is locked.
    pub fn compare_pooling(&self, brush: &Brush, locked: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(p) = self.card.pooling else { return Ok(None) };
        let dots = self.dots();
        let mut ratios = Vec::new();
        for (i, s) in dots.iter().enumerate() {
            let others: Vec<&Stroke> = dots.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            let pooling = if locked || others.is_empty() { brush.pooling } else { self.pooling(brush, &others)? };
            ratios.extend(self.grown(&Brush { pooling, ..brush.clone() }, &[s])?);
        }
        let line = p.dot_mm / p.ratio;
        let pen = OfPen { mean: p.ratio, sd: p.sd_mm.map(|s| s / line), n: f64::from(p.dots.unwrap_or(1)) };
        let measured = format!("{} dots of the pen, {} of the hand held as long", p.dots.unwrap_or(1), ratios.len());
        Ok(Some(held(Part::Pooling, pen, &ratios, measured, |d| match by(d, 0.005, "of the line", 2, ["larger", "smaller"]) {
            Some(words) => format!("a held dot is {words} than the pen's"),
            None => "a held dot is as large as the pen's".into(),
        })))
    }

    /// The lead-out that is left over on the hand's flicks, and why the pen's cannot be reached, where it cannot.
    pub fn lead_out(&self, brush: &Brush, flicks: &[&Stroke]) -> Result<(Option<Taper>, Option<String>), InkError> {
        let Some(card) = self.card.lead_out else { return Ok((brush.lead_out, None)) };
        let keep = |t: &Taper| (t.share, t.over_mm_s);
        let (share, over_mm_s) = brush.lead_out.as_ref().map_or((1.0, 0.0), keep);
        let inker = self.inker(&Brush { lead_out: None, ..brush.clone() })?;
        let hand: Vec<Ending> = flicks.iter().map(|s| Ending::of(&inker.ink(s))).collect();
        let least = card.at_90_mm + card.sd_mm.unwrap_or(0.0).max(0.05 * card.at_90_mm);
        let alone = median(&hand.iter().filter_map(|e| tapers::at_90_mm(&e.flick())).collect::<Vec<_>>()).unwrap_or(0.0);
        // Ink is joined straight between samples: it cannot run out over less than the last two are apart.
        let apart = median(&hand.iter().filter_map(|e| e.way_mm.get(1).copied()).collect::<Vec<_>>()).unwrap_or(0.0);
        let hinders = if alone > least {
            Some("your hand alone already runs out longer than the pen does: a brush can only narrow it further".to_string())
        } else if apart > least {
            Some(format!("on your flicks this tablet reports every {apart:.1} mm, and between two reports ink runs straight: nothing shorter shows"))
        } else {
            None
        };
        if card.at_90_mm <= 0.0 {
            return Ok((None, hinders));
        }
        let (length_mm, shape) = left_over(&card, &hand);
        let tip_width_mm = round(card.tip_width_mm, 1e4);
        let taper = (length_mm > 0.05).then(|| Taper { length_mm: round(length_mm, 100.0), share, tip_width_mm, shape: round(shape, 100.0), over_mm_s });
        Ok((taper, hinders))
    }

    /// Leave one flick out: each is inked with a lead-out that did not see it, unless that part is locked.
    pub fn compare_lead_out(&self, brush: &Brush, locked: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(card) = self.card.lead_out else { return Ok(None) };
        let flicks = self.strokes(Exercise::Flick);
        let mut reached = Vec::new();
        for (i, s) in flicks.iter().enumerate() {
            let others: Vec<&Stroke> = flicks.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            let lead_out = if locked || others.is_empty() { brush.lead_out } else { self.lead_out(brush, &others)?.0 };
            let inked = self.inker(&Brush { lead_out, ..brush.clone() })?.ink(s);
            reached.extend(tapers::at_90_mm(&Ending::of(&inked).flick()));
        }
        let pen = OfPen { mean: card.at_90_mm, sd: card.sd_mm, n: f64::from(card.flicks) };
        let measured = format!("{} flicks of the pen, {} of the hand", card.flicks, flicks.len());
        let mut out = held(Part::LeadOut, pen, &reached, measured, |d| match by(d, 0.05, "mm", 1, ["too far from its tip", "too near its tip"]) {
            Some(words) => format!("reaches nine tenths {words}, on flicks"),
            None => "reaches nine tenths where the pen does, on flicks".into(),
        });
        if let Some(why) = self.lead_out(brush, &flicks)?.1.filter(|_| out.verdict == Verdict::Differs) {
            (out.verdict, out.says) = (Verdict::CannotBeMatched, why);
        }
        Ok(Some(out))
    }

    /// The lead-in as the card has it: the warm-up has no stroke that lands while moving.
    pub fn lead_in(&self, start: &Brush) -> Option<Taper> {
        let t = self.card.lead_in?;
        let (share, over_mm_s) = start.lead_in.map_or((1.0, 0.0), |b| (b.share, b.over_mm_s));
        (t.at_90_mm > 0.0).then(|| Taper {
            length_mm: round(t.length_mm, 100.0),
            share,
            tip_width_mm: round(t.tip_width_mm, 1e4),
            shape: round(t.shape, 100.0),
            over_mm_s,
        })
    }

    /// Nothing of the hand shows a lead-in; what the brush has is said.
    pub fn compare_lead_in(&self) -> Option<PartMatch> {
        let t = self.card.lead_in?;
        let pen = OfPen { mean: t.at_90_mm, sd: t.sd_mm, n: f64::from(t.flicks) };
        let mut out = held(Part::LeadIn, pen, &[], format!("{} flicks of the pen, none of the hand", t.flicks), |_| String::new());
        out.says = "the warm-up has no stroke that lands while moving: the pen's own law is taken".into();
        Some(out)
    }

    /// Raggedness and its correlation as the card has them.
    pub fn edge(&self, start: &Brush) -> Option<Edge> {
        let e = self.card.edge?;
        Some(Edge {
            raggedness_um: round(e.raggedness_um, 10.0),
            correlation_um: e.raggedness_correlation_um.map_or(start.edge.correlation_um.max(100.0), |c| round(c, 1.0)),
            ..start.edge.clone()
        })
    }

    /// Edges of the hand's inked strokes about their own smooth outline: the difference of two outlines' areas would hide them,
    /// so the line is inked straight, as long as the pen's were.
    pub fn compare_edge(&self, brush: &Brush) -> Result<Option<PartMatch>, InkError> {
        let Some(e) = self.card.edge else { return Ok(None) };
        if brush.edge.strip_png.is_some() {
            return Ok(None);
        }
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() })?;
        let figures: Vec<f64> = (0..6).map(|k| ragged_um(&inker, 3.0 * f64::from(k))).collect();
        let pen = OfPen { mean: e.raggedness_um, sd: e.sd_um, n: f64::from(e.lines.unwrap_or(1)) };
        let measured = format!("{} lines of the pen, six ruled by the brush", e.lines.unwrap_or(1));
        Ok(Some(held(Part::Edge, pen, &figures, measured, |d| {
            format!("{:.1} µm {} than the pen's edge", d.abs(), if d >= 0.0 { "rougher" } else { "smoother" })
        })))
    }
}

/// A difference in words, with the word for more and that for less; none where it would be written as nought.
fn by(d: f64, least: f64, unit: &str, digits: usize, [more, less]: [&str; 2]) -> Option<String> {
    (d.abs() >= least).then(|| format!("{:.digits$} {unit} {}", d.abs(), if d > 0.0 { more } else { less }))
}

fn round(v: f64, digits: f64) -> f64 {
    (v * digits).round() / digits
}

/// An inked stroke from its end inward: how far each sample is from the end, mm, and the line's width there, mm.
struct Ending {
    way_mm: Vec<f64>,
    widths_mm: Vec<f64>,
}

impl Ending {
    fn of(inked: &InkedStroke) -> Self {
        let samples: Vec<_> = inked.samples.iter().rev().collect();
        Self { way_mm: along(samples.iter().map(|s| (s.x, s.y))), widths_mm: samples.iter().map(|s| s.width_mm).collect() }
    }

    /// Every twentieth of a millimetre, joined straight between samples as the ink is.
    fn flick(&self) -> Flick {
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
fn left_over(card: &CardTaper, hand: &[Ending]) -> (f64, f64) {
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
    let (mut best, mut spans) = ((none, 0.0, 1.0), ((0.02 * card.at_90_mm, 2.4 * card.at_90_mm), (0.1, 3.0)));
    for _ in 0..3 {
        for i in 0..=16 {
            for j in 0..=16 {
                let length = spans.0.0 + (spans.0.1 - spans.0.0) * f64::from(i) / 16.0;
                let shape = spans.1.0 + (spans.1.1 - spans.1.0) * f64::from(j) / 16.0;
                let s = score(length, shape);
                if s < best.0 {
                    best = (s, length, shape);
                }
            }
        }
        let (l, s) = ((spans.0.1 - spans.0.0) / 10.0, (spans.1.1 - spans.1.0) / 10.0);
        spans = (((best.1 - l).max(0.01), best.1 + l), ((best.2 - s).max(0.05), best.2 + s));
    }
    (best.1, best.2)
}

/// Deviation of the edges of a line that the brush rules at normal effort, about their fitted lines, µm: the mean of both.
fn ragged_um(inker: &Inker, y: f64) -> f64 {
    const LONG: f64 = 60.0;
    let samples = (0..200).map(|i| eddymist_ink::Sample { t_ms: 5.0 * f64::from(i), x: LONG * f64::from(i) / 199.0, y, ..Default::default() });
    let mut stroke = Stroke::new(samples.collect());
    stroke.timed = false;
    let outline = inker.ink(&stroke).outline(0.0002);
    let edge = |upper: bool| {
        let mut p: Vec<[f64; 2]> = outline.paths.iter().flatten().filter(|p| p[0] > 3.0 && p[0] < LONG - 3.0 && (p[1] < y) == upper).copied().collect();
        p.sort_by(|a, b| a[0].total_cmp(&b[0]));
        // Even steps along the line, so that no place counts twice.
        let at: Vec<f64> = (0..1000)
            .filter_map(|k| {
                let x = 3.5 + (LONG - 7.0) * f64::from(k) / 1000.0;
                let i = p.partition_point(|q| q[0] < x).clamp(1, p.len().max(2) - 1);
                let (a, b) = (p.get(i - 1)?, p.get(i)?);
                Some(a[1] + (b[1] - a[1]) * ((x - a[0]) / (b[0] - a[0]).max(1e-9)).clamp(0.0, 1.0))
            })
            .collect();
        mean_sd(&at).map_or(0.0, |m| 1000.0 * m.1)
    };
    0.5 * (edge(true) + edge(false))
}
