//! What is wrong with single lines besides their weight: uneven, hooks, doubles, ends, edges.
//!
//! How: each by its definition (methods.md, section 6) on the measured lines; what is said of it is in `words`. Limits: ends that the page
//! cuts are no ends; an edge is told only where the line is body; hatching has neither hooks nor doubles.

use eddymist_measure::{
    drawing::{End, Line, Place, edge_px},
    stats::{mean_sd, moving_mean},
};

use crate::{
    beside::{Beside, Neighbour},
    document::FindingKind,
    guide::{Ends, Finish, Limits, Weight},
    hatching::hatching,
};

/// One thing found on a line, before it is worded.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    pub kind: FindingKind,
    pub x: f64,
    pub y: f64,
    pub length_px: Option<f64>,
    pub value: f64,
    pub limit: f64,
}

/// The direction turns by more than this near an end: a hook, degrees.
pub const HOOK_DEG: f64 = 60.0;
/// A tip is this much nearer to its line as the crow flies than along it: it turns back by about 90° or more.
const FOLDED: f64 = 0.72;
/// A double lasts for more than so many widths.
const DOUBLE_WIDTHS: f64 = 4.0;
/// Lines that part do so at an angle between these, as tangents: about 2° and 15°.
const LEAST_FORK: f64 = 0.035;
const MOST_FORK: f64 = 0.27;
/// Of lines drawn smoothly so many edges may miss every partly covered pixel; of aliased ones all do.
const CRISP: f64 = 0.8;
/// An edge of a hard finish covers pixels whole or not at all; over this width, px, it was smoothed.
const HARD_PX: f64 = 0.5;

/// The lines of one role as they are judged; px are the drawing's.
pub struct Judged<'a> {
    pub lines: &'a [Line],
    pub weight: Weight,
    pub ends: Ends,
    pub finish: Finish,
    pub limits: Limits,
    /// Sides of the drawing, px: ends there are cut, not drawn.
    pub page: [f64; 2],
}

impl Judged<'_> {
    pub fn faults(&self) -> Vec<Fault> {
        let hatching = hatching(self.lines, self.weight.target);
        let mut out = Vec::new();
        for (line, hatch) in self.lines.iter().zip(&hatching) {
            out.extend(self.uneven(line));
            out.extend(self.ends(line));
            out.extend(self.edges(line));
            if !hatch {
                out.extend(self.hooks(line));
            }
        }
        out.extend(doubles(self.lines, &hatching));
        out
    }

    fn xy(line: &Line, i: usize) -> (f64, f64) {
        (f64::from(line.points[i].x), f64::from(line.points[i].y))
    }

    fn cut_by_page(&self, (x, y): (f64, f64)) -> bool {
        let near = self.weight.target + 2.0;
        x < near || y < near || x > self.page[0] - near || y > self.page[1] - near
    }

    /// Within on average, and its widths spread more than the limit; where a swell is allowed, more than widths that live evenly
    /// between its bounds do.
    fn uneven(&self, line: &Line) -> Option<Fault> {
        let body: Vec<(usize, f64)> = line.points.iter().enumerate().filter(|(_, p)| p.place == Place::Body).map(|(i, p)| (i, f64::from(p.width))).collect();
        if (body.len() as f64) * line.step_px < 6.0 * self.weight.target {
            return None;
        }
        let (mean, sd) = mean_sd(&body.iter().map(|b| b.1).collect::<Vec<_>>())?;
        let [lo, hi] = self.weight.living();
        let limit = self.weight.swell.map_or(self.limits.uneven, |[a, b]| self.limits.uneven.max((b - a) / 12f64.sqrt() / self.weight.target));
        let spread = sd / mean;
        if !(lo..=hi).contains(&mean) || spread <= limit {
            return None;
        }
        // Pinned where the line is furthest from its mean.
        let (at, _) = body.iter().copied().max_by(|a, b| (a.1 - mean).abs().total_cmp(&(b.1 - mean).abs()))?;
        let (x, y) = Self::xy(line, at);
        Some(Fault { kind: FindingKind::Uneven, x, y, length_px: Some(line.length_px()), value: spread, limit })
    }

    fn ends(&self, line: &Line) -> Vec<Fault> {
        let mut out = Vec::new();
        let Some(body) = width_of(line) else { return out };
        for (side, end) in line.ends.iter().enumerate() {
            let End::Free { taper_px, tapered } = end else { continue };
            let place = Self::xy(line, if side == 0 { 0 } else { line.points.len() - 1 });
            let kind = match (self.ends, tapered) {
                (Ends::Tapered, false) => FindingKind::BluntEnd,
                (Ends::Blunt, true) => FindingKind::TaperedEnd,
                _ => continue,
            };
            if !self.cut_by_page(place) {
                out.push(Fault { kind, x: place.0, y: place.1, length_px: None, value: taper_px / body, limit: eddymist_measure::TAPER_WIDTHS });
            }
        }
        out
    }

    /// Stretches whose edges are softer than the guide's finish has them, or a line that is harder.
    fn edges(&self, line: &Line) -> Vec<Fault> {
        let mut out = Vec::new();
        let body: Vec<usize> = (0..line.points.len()).filter(|&i| line.points[i].place == Place::Body).collect();
        if (body.len() as f64) < 8.0 {
            return out;
        }
        let widths: Vec<f64> = body.iter().map(|&i| f64::from(line.points[i].edge)).collect();
        let middle = Self::xy(line, body[body.len() / 2]);
        let whole = edge_px(widths.iter().sum::<f64>() / widths.len() as f64);
        match self.finish {
            Finish::Smooth => {
                if line.crisp.is_some_and(|c| c > CRISP) && line.length_px() > 6.0 * self.weight.target {
                    out.push(Fault { kind: FindingKind::HardEdge, x: middle.0, y: middle.1, length_px: Some(line.length_px()), value: whole, limit: HARD_PX });
                    return out;
                }
                // Averaged over two widths: one place's edge depends on how it lies to the pixels.
                let window = ((2.0 * self.weight.target / line.step_px) as usize).max(5);
                let soft: Vec<f64> = moving_mean(&widths, window).into_iter().map(edge_px).collect();
                let over = |k: usize| soft[k] > self.limits.soft_px;
                let mut k = 0;
                while k < soft.len() {
                    let first = k;
                    while k < soft.len() && over(k) {
                        k += 1;
                    }
                    let long = (k - first) as f64 * line.step_px;
                    if long > (3.0 * self.weight.target).max(8.0) {
                        let value = soft[first..k].iter().sum::<f64>() / (k - first) as f64;
                        let (x, y) = Self::xy(line, body[(first + k) / 2]);
                        out.push(Fault { kind: FindingKind::SoftEdge, x, y, length_px: Some(long), value, limit: self.limits.soft_px });
                    }
                    k = k.max(first + 1);
                }
            }
            Finish::Hard => {
                if line.crisp.is_some_and(|c| c < 1.0 - CRISP) {
                    out.push(Fault { kind: FindingKind::SoftEdge, x: middle.0, y: middle.1, length_px: Some(line.length_px()), value: whole, limit: HARD_PX });
                }
            }
        }
        out
    }

    /// Near a free end the way turns by more than 60° over a width and a half.
    fn hooks(&self, line: &Line) -> Vec<Fault> {
        let mut out = Vec::new();
        let (n, Some(body)) = (line.points.len(), width_of(line)) else { return out };
        if line.closed {
            return out;
        }
        let within = self.limits.hook_px.max(2.0 * body);
        let arm = ((1.4 * body).max(2.5) / line.step_px).round() as usize;
        for side in 0..2 {
            let at = |k: usize| Self::xy(line, if side == 0 { k } else { n - 1 - k });
            // An end that lies against its own line is folded back; one that runs into other ink is no end.
            let (tip, first) = (at(0), (1.5 * body / line.step_px) as usize);
            let last = ((within + 2.0 * body) / line.step_px) as usize;
            let folded = (first..last.min(n)).any(|k| (at(k).0 - tip.0).hypot(at(k).1 - tip.1) < FOLDED * k as f64 * line.step_px);
            if !matches!(line.ends[side], End::Free { .. }) && !folded {
                continue;
            }
            // The last half width is the end's own shape; further in than half the line is the other end's.
            let from = (arm / 2).max((0.8 * body / line.step_px) as usize);
            let to = (((within + 0.5 * body) / line.step_px) as usize).min(n.saturating_sub(arm + 1));
            let turn = |k: usize| {
                let (a, b, c) = (at(k.saturating_sub(arm)), at(k), at(k + arm));
                let (u, v) = ((b.0 - a.0, b.1 - a.1), (c.0 - b.0, c.1 - b.1));
                (u.0 * v.1 - u.1 * v.0).atan2(u.0 * v.0 + u.1 * v.1).to_degrees().abs()
            };
            let worst = (from..=to).map(|k| (k, turn(k))).max_by(|a, b| a.1.total_cmp(&b.1));
            if let Some((k, deg)) = worst.filter(|w| w.1 > HOOK_DEG) {
                let (x, y) = at(k);
                out.push(Fault { kind: FindingKind::Hook, x, y, length_px: None, value: deg, limit: HOOK_DEG });
            }
        }
        out
    }
}

/// Median width of a line's body, px.
fn width_of(line: &Line) -> Option<f64> {
    let body: Vec<f64> = line.points.iter().filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
    eddymist_measure::stats::median(&body).or_else(|| eddymist_measure::stats::median(&line.points.iter().map(|p| f64::from(p.width)).collect::<Vec<_>>()))
}

/// Two inks of one role that run side by side with less clear paper between them than the thinner is wide.
fn doubles(lines: &[Line], hatching: &[bool]) -> Vec<Fault> {
    let plain: Vec<&Line> = lines.iter().collect();
    let beside = Beside::new(&plain, |k| hatching[k]);
    let mut out: Vec<Fault> = Vec::new();
    for (k, line) in lines.iter().enumerate().filter(|(k, _)| !hatching[*k]) {
        let Some(width) = width_of(line) else { continue };
        let n = line.points.len();
        let found: Vec<Option<Neighbour>> = (0..n).map(|i| beside.neighbour(k, i, width, 2.5 * width).filter(|f| f.clear < f.thinner)).collect();
        let mut i = 0;
        while i < n {
            let Some(Neighbour { line: other, .. }) = found[i] else {
                i += 1;
                continue;
            };
            let first = i;
            while i < n && found[i].is_some_and(|f| f.line == other) {
                i += 1;
            }
            let run: Vec<Neighbour> = found[first..i].iter().flatten().copied().collect();
            // Each pair is seen from both of its lines: it is told once.
            if other as usize > k || other as usize == k && run[0].place as usize > first {
                out.extend(double_of(line, first, &run, width));
            }
        }
    }
    out
}

/// Whether the paper beside a run narrows toward where its line meets another: the run's lines part from one fork, however long they stay near.
fn forked(line: &Line, first: usize, count: usize, [start, end]: [f64; 2], width: f64) -> bool {
    // From the middle of the first quarter to the middle of the last.
    let grows = (end - start) / (0.75 * count as f64 * line.step_px);
    if !(LEAST_FORK..MOST_FORK).contains(&grows.abs()) {
        return false;
    }
    let (side, left) = if grows > 0.0 { (0, first) } else { (1, line.points.len().saturating_sub(first + count)) };
    let meet = start.min(end) / grows.abs() + 3.0 * width;
    !matches!(line.ends[side], End::Free { .. }) && left as f64 * line.step_px <= meet
}

/// The double in a run of places beside another line, unless it is the fork of two lines that part.
fn double_of(line: &Line, first: usize, run: &[Neighbour], width: f64) -> Option<Fault> {
    let long = run.len() as f64 * line.step_px;
    if long <= DOUBLE_WIDTHS * width {
        return None;
    }
    let part = (run.len() / 4).max(1);
    let mean = |r: &[Neighbour]| r.iter().map(|v| v.clear).sum::<f64>() / r.len() as f64;
    let (start, end) = (mean(&run[..part]), mean(&run[run.len() - part..]));
    // Two lines that part or meet: clear paper grows all along from nearly nothing.
    let (narrow, wide) = (start.min(end), start.max(end));
    if wide > 2.0 * narrow && narrow < 0.35 * width || forked(line, first, run.len(), [start, end], width) {
        return None;
    }
    let value = mean(run);
    let p = &line.points[first + run.len() / 2];
    Some(Fault { kind: FindingKind::Double, x: f64::from(p.x), y: f64::from(p.y), length_px: Some(long), value, limit: width })
}
