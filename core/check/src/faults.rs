//! What is wrong with single lines besides their weight: uneven, ends, and what `edges`, `hooks` and `doubles` find.
//!
//! How: each by its definition (methods.md, section 6) on the measured lines; what is said of it is in `words`. Limits: ends that the page
//! cuts are no ends.

use eddymist_measure::{
    drawing::{End, Line, Place},
    stats::mean_sd,
};

use crate::{
    around::Around,
    document::FindingKind,
    doubles::doubles,
    edges::edges,
    fault::{Fault, width_of, xy},
    guide::{Ends, Finish, Limits, Weight},
    hooks::hooks,
};

/// A line shorter than so many target widths is a dot.
const DOT_WIDTHS: f64 = 1.5;

/// The lines of one role as they are judged; px are the drawing's.
pub struct Judged<'a> {
    pub lines: &'a [Line],
    pub weight: Weight,
    pub ends: Ends,
    pub finish: Finish,
    pub limits: Limits,
    /// Sides of the drawing, px: ends there are cut, not drawn.
    pub page: [f64; 2],
    /// The role's place in the guide, and the ink about its lines.
    pub role: usize,
    pub around: &'a Around,
}

impl Judged<'_> {
    pub fn faults(&self) -> Vec<Fault> {
        let mut out = Vec::new();
        for line in self.lines {
            out.extend(self.uneven(line));
            out.extend(self.ends(line));
            out.extend(edges(line, self.finish, self.limits.soft_px, self.weight.target));
            out.extend(hooks(line, self.limits.hook_px, |at, reach| self.around.other(self.role, at, reach)));
        }
        out.extend(doubles(self.lines));
        out
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
        let (x, y) = xy(line, at);
        Some(Fault::new(FindingKind::Uneven, (x, y), Some(line.length_px()), spread, limit))
    }

    fn ends(&self, line: &Line) -> Vec<Fault> {
        let mut out = Vec::new();
        // What is no longer than wide is a dot, or the last of a taper that faded in between: it has no ends.
        let Some(body) = width_of(line).filter(|_| line.length_px() > DOT_WIDTHS * self.weight.target) else { return out };
        for (side, end) in line.ends.iter().enumerate() {
            let End::Free { taper_px, tapered } = end else { continue };
            let place = xy(line, if side == 0 { 0 } else { line.points.len() - 1 });
            let kind = match (self.ends, tapered) {
                (Ends::Tapered, false) => FindingKind::BluntEnd,
                (Ends::Blunt, true) => FindingKind::TaperedEnd,
                _ => continue,
            };
            // An end that lies on or against other ink, straight ahead or aside, is not seen whole.
            let n = line.points.len();
            let shown = (taper_px / line.step_px) as usize;
            let covered = (0..shown.min(n)).any(|k| line.points[if side == 0 { k } else { n - 1 - k }].place.is_hidden());
            let against = covered || line.against[side] || self.around.other(self.role, place, 0.5 * body + 1.5);
            if !against && !self.cut_by_page(place) {
                out.push(Fault::new(kind, place, None, taper_px / body, eddymist_measure::TAPER_WIDTHS));
            }
        }
        out
    }
}
