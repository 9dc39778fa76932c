//! What was marked by hand on a scan: a flick in, a flick out, a dot, each read where it was marked.
//!
//! How: the ink in the marked box is straightened and its widths read from the marked end. Limits: a mark without ink, or with two lines, says why.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    Scan, ScanError, bow,
    find::Candidate,
    levels::InkLevel,
    paper::{self, Flat},
    profile,
};
use crate::stats::{median, moving_mean, quantile};

/// What a mark says that the stroke is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MarkKind {
    /// A stroke that lands while moving: its fine tip is where it began.
    FlickIn,
    /// A stroke that lifts while moving: its fine tip is where it ended.
    FlickOut,
    Dot,
}

/// A box of pixels and what is in it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Mark {
    pub kind: MarkKind,
    /// Left, top, width and height, px.
    pub area: [f64; 4],
}

/// What a mark gave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct MarkedStroke {
    pub kind: MarkKind,
    /// Scan px: a flick's fine tip and its other end; a dot's middle, twice.
    pub from: [f64; 2],
    pub to: [f64; 2],
    /// Of a flick, from its tip on.
    pub step_mm: f64,
    pub width_mm: Vec<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dot_mm: Option<f64>,
}

/// Why a mark gives nothing.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum MarkError {
    #[error("a mark lies outside of the picture or is under 8 px: draw the box about the whole stroke, with paper around it")]
    Area,
    #[error("there is no ink in a marked box")]
    Empty,
    #[error("ink runs out of a marked box: draw it about the whole stroke and nothing else")]
    Crossed,
    #[error("the stroke in a marked box is no flick: it is as broad as it is long")]
    NoFlick,
    #[error(transparent)]
    Scan(#[from] ScanError),
}

/// A picture with its paper divided out, on which marks are read.
pub struct Marking {
    flat: Flat,
    dpi: f64,
}

impl Marking {
    pub fn new(scan: &Scan) -> Result<Self, ScanError> {
        scan.check()?;
        Ok(Self { flat: paper::flatten(scan, &mut Vec::new()), dpi: scan.dpi })
    }

    /// Reads one mark. `ink` is the solid ink's absorptance where ruled lines told it; else the stroke's own darkest tenth is
    /// taken for it.
    pub fn read(&self, mark: &Mark, ink: Option<f64>) -> Result<MarkedStroke, MarkError> {
        let [x, y, w, h] = mark.area;
        let sane = mark.area.iter().all(|v| v.is_finite()) && x >= 0.0 && y >= 0.0 && w >= 8.0 && h >= 8.0;
        let (x0, y0, x1, y1) = (x as usize, y as usize, (x + w) as usize, (y + h) as usize);
        if !sane || x1 > self.flat.width || y1 > self.flat.height {
            return Err(MarkError::Area);
        }
        let threshold = (6.0 * self.flat.grain).clamp(0.12, 0.35) as f32;
        let mut dark: Vec<f64> = Vec::new();
        let (mut m, mut sx, mut sy, mut sxx, mut sxy, mut syy) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
        let mut border = 0;
        for j in y0..y1 {
            for i in x0..x1 {
                let a = self.flat.data[j * self.flat.width + i];
                if a <= threshold {
                    continue;
                }
                border += usize::from(a > 0.3 && (i == x0 || j == y0 || i + 1 == x1 || j + 1 == y1));
                let (v, u, w) = (f64::from(a), i as f64 + 0.5, j as f64 + 0.5);
                dark.push(v);
                m += v;
                (sx, sy, sxx, sxy, syy) = (sx + v * u, sy + v * w, sxx + v * u * u, sxy + v * u * w, syy + v * w * w);
            }
        }
        let level = ink.or_else(|| quantile(&dark, 0.9)).filter(|_| dark.len() > 12).ok_or(MarkError::Empty)?.clamp(0.05, 1.0);
        if border > 2 {
            return Err(MarkError::Crossed);
        }
        let ink = InkLevel { absorptance: level, grain: self.flat.grain };
        let mid = [sx / m, sy / m];
        if mark.kind == MarkKind::Dot {
            return Ok(self.dot(mid, [x0, y0, x1, y1], m, &ink));
        }
        // The stroke lies along the principal axis of its ink.
        let (cxx, cxy, cyy) = (sxx / m - mid[0] * mid[0], sxy / m - mid[0] * mid[1], syy / m - mid[1] * mid[1]);
        let (sin, cos) = (0.5 * (2.0 * cxy).atan2(cxx - cyy)).sin_cos();
        let root = (0.25 * (cxx - cyy).powi(2) + cxy * cxy).sqrt();
        let (long, broad) = (0.5 * (cxx + cyy) + root, (0.5 * (cxx + cyy) - root).max(1e-6));
        if long < 9.0 * broad {
            return Err(MarkError::NoFlick);
        }
        self.flick(mark.kind, mid, [cos, sin], [x0, y0, x1, y1], m, &ink)
    }

    fn dot(&self, mid: [f64; 2], [x0, y0, x1, y1]: [usize; 4], mass: f64, ink: &InkLevel) -> MarkedStroke {
        let radius = (mass / ink.absorptance / std::f64::consts::PI).sqrt();
        // Its ink within a disc of half as much again, the paper in a ring about that.
        let (inner, outer) = (1.4 * radius + 5.0, 1.8 * radius + 10.0);
        let (mut sum, mut count, mut paper) = (0.0, 0.0, Vec::new());
        for j in y0..y1 {
            for i in x0..x1 {
                let a = f64::from(self.flat.data[j * self.flat.width + i]);
                let d = (i as f64 + 0.5 - mid[0]).hypot(j as f64 + 0.5 - mid[1]);
                if d < inner {
                    (sum, count) = (sum + a, count + 1.0);
                } else if d < outer {
                    paper.push(a);
                }
            }
        }
        let area = ((sum - median(&paper).unwrap_or(0.0) * count) / ink.absorptance).max(0.0);
        let dot_mm = 2.0 * (area / std::f64::consts::PI).sqrt() * 25.4 / self.dpi;
        MarkedStroke { kind: MarkKind::Dot, from: mid, to: mid, step_mm: 0.0, width_mm: Vec::new(), dot_mm: Some(dot_mm) }
    }

    fn flick(&self, kind: MarkKind, mid: [f64; 2], [dx, dy]: [f64; 2], area: [usize; 4], mass: f64, ink: &InkLevel) -> Result<MarkedStroke, MarkError> {
        let px_mm = 25.4 / self.dpi;
        // How far the box reaches along the axis either way.
        let corners = [[area[0], area[1]], [area[2], area[1]], [area[2], area[3]], [area[0], area[3]]].map(|c| c.map(|v| v as f64));
        let reach = corners.iter().map(|c| ((c[0] - mid[0]) * dx + (c[1] - mid[1]) * dy).abs()).fold(0.0, f64::max);
        let rough = mass / ink.absorptance / (2.0 * reach).max(1.0);
        let c = Candidate { x: mid[0], y: mid[1], dx, dy, half: reach, half_width: (0.75 * rough).max(2.0), on: None };
        let margin = (0.3 / px_mm).max(6.0);
        let c = bow::refine(&self.flat, &c, margin).ok_or(MarkError::NoFlick)?;
        let s = profile::cut(&self.flat, &c, px_mm, margin);
        // Neighbours beyond the box are not this stroke's: only columns within it count.
        let inside = |k: usize| {
            let (x, y) = (s.from[0] + s.direction[0] * k as f64, s.from[1] + s.direction[1] * k as f64);
            x >= area[0] as f64 && x < area[2] as f64 && y >= area[1] as f64 && y < area[3] as f64
        };
        let widths: Vec<f64> = s.areas().iter().enumerate().map(|(k, a)| if inside(k) { (a / ink.absorptance * px_mm).max(0.0) } else { 0.0 }).collect();
        let fine = moving_mean(&widths, ((0.1 / px_mm).round() as usize).max(1));
        let full = quantile(&fine.iter().copied().filter(|w| *w > 0.02).collect::<Vec<_>>(), 0.9).ok_or(MarkError::Empty)?;
        let (first, last) = fine.iter().position(|w| *w > 0.03 * full).zip(fine.iter().rposition(|w| *w > 0.03 * full)).ok_or(MarkError::Empty)?;
        if last < first + 12 {
            return Err(MarkError::NoFlick);
        }
        // The finer half is the tip's.
        let middle = (first + last) / 2;
        let sum = |r: std::ops::Range<usize>| fine[r].iter().sum::<f64>();
        let mut width_mm: Vec<f64> = fine[first..=last].iter().map(|w| (w * 1e4).round() / 1e4).collect();
        let at = |k: usize| [s.from[0] + s.direction[0] * k as f64, s.from[1] + s.direction[1] * k as f64];
        let (mut from, mut to) = (at(first), at(last));
        if sum(first..middle) > sum(middle..last + 1) {
            width_mm.reverse();
            std::mem::swap(&mut from, &mut to);
        }
        Ok(MarkedStroke { kind, from, to, step_mm: px_mm, width_mm, dot_mm: None })
    }
}
