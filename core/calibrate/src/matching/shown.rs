//! The parts of a brush beside its weight, compared: one figure a stroke, of the inked strokes as of the scan.
//!
//! Every figure comes from strokes that the fit has not seen (leave one out), unless the part is locked.

use std::f64::consts::TAU;

use eddymist_ink::{Brush, Curve, InkError, InkedStroke, Inker, Stroke};
use eddymist_measure::stats::{mean_sd, median};

use super::{
    bench::Bench,
    document::{Part, PartMatch, Verdict},
    flick::{Ending, Tip},
    judge::{PenFigure, judged},
    parts::Tapered,
    words,
};
use crate::{pen_card::CardNib, tapers, warmup::Exercise};

impl Bench<'_> {
    /// Width of the pen by direction, radians, over its mean over all directions, at normal effort.
    fn by_direction(&self, direction: f64) -> Option<f64> {
        let nib = self.card.nib.as_ref()?;
        let width = |a: f64| nib.width_toward(a.to_degrees());
        let mean = (0..72).map(|k| width(TAU * f64::from(k) / 72.0)).sum::<f64>() / 72.0;
        Some(width(direction) / mean)
    }

    /// Circles of the hand: how far their widths go by direction as the pen's do.
    pub fn compare_nib(&self, brush: &Brush) -> Result<Option<PartMatch>, InkError> {
        let (length, residual) = match &self.card.nib {
            Some(CardNib::Round { length_mm, residual_mm, .. }) => (*length_mm, *residual_mm),
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
        let pen = PenFigure { mean: 0.0, sd: Some(spread), n: 24.0 };
        Ok(Some(judged(Part::Nib, pen, &size, measured, words::nib)))
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
                off.push((a / b - pen.value(speed)) * normal);
            }
        }
        let lines: f64 = paces.iter().map(|p| f64::from(p.lines)).sum();
        let ss: f64 = paces.iter().map(|p| p.sd_mm.powi(2) * (f64::from(p.lines) - 1.0)).sum();
        let df = (lines - paces.len() as f64).max(1.0);
        let sd = Some((ss / df).sqrt());
        let measured = format!("{lines:.0} lines of the pen at {} paces, {} strokes of the hand", paces.len(), off.len());
        Ok(Some(judged(Part::Pace, PenFigure { mean: 0.0, sd, n: lines }, &off, measured, words::pace)))
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
        let pen = PenFigure { mean: p.ratio, sd: p.sd_mm.map(|s| s / line), n: f64::from(p.dots.unwrap_or(1)) };
        let measured = format!("{} dots of the pen, {} of the hand held as long", p.dots.unwrap_or(1), ratios.len());
        Ok(Some(judged(Part::Pooling, pen, &ratios, measured, words::pooling)))
    }

    /// Leave one flick or landing out: each is inked with a taper that did not see it, unless that part is locked.
    pub fn compare_taper(&self, tip: Tip, brush: &Brush, locked: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(card) = self.card_taper(tip) else { return Ok(None) };
        let (part, name) = if tip == Tip::In { (Part::LeadIn, "landings") } else { (Part::LeadOut, "flicks") };
        let strokes = self.strokes(tip.exercise());
        let mut reached = Vec::new();
        for (i, s) in strokes.iter().enumerate() {
            let others: Vec<&Stroke> = strokes.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            let taper = if locked || others.is_empty() { brush.taper(tip) } else { self.taper(tip, brush, &others)?.0 };
            let inked = self.inker(&brush.with_taper(tip, taper))?.ink(s);
            reached.extend(tapers::at_90_mm(&Ending::new(&inked, tip).flick()));
        }
        let pen = PenFigure { mean: card.at_90_mm, sd: card.sd_mm, n: f64::from(card.flicks) };
        let measured = format!("{} flicks of the pen, {} {name} of the hand", card.flicks, strokes.len());
        let mut out = judged(part, pen, &reached, measured, |mm| words::taper(mm, name));
        if strokes.is_empty() {
            out.says = words::no_strokes(tip).into();
        } else if let Some(why) = self.taper(tip, brush, &strokes)?.1.filter(|_| out.verdict == Verdict::Differs) {
            (out.verdict, out.says) = (Verdict::CannotBeMatched, why);
        }
        Ok(Some(out))
    }

    /// Edges of the hand's inked strokes about their own smooth outline: the difference of two outlines' areas would hide them,
    /// so the line is inked straight, as long as the pen's were.
    pub fn compare_edge(&self, brush: &Brush) -> Result<Option<PartMatch>, InkError> {
        let Some(e) = &self.card.edge else { return Ok(None) };
        if brush.edge.strip_png.is_some() {
            return Ok(None);
        }
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() })?;
        let figures: Vec<f64> = (0..6).map(|k| ragged_um(&inker, 3.0 * f64::from(k))).collect();
        let pen = PenFigure { mean: e.raggedness_um, sd: e.sd_um, n: f64::from(e.lines.unwrap_or(1)) };
        let measured = format!("{} lines of the pen, six ruled by the brush", e.lines.unwrap_or(1));
        Ok(Some(judged(Part::Edge, pen, &figures, measured, words::edge)))
    }
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
