//! A card or a steel rule laid beside the sheet: the scan's true resolution, for each of its axes.
//!
//! A card is ISO/IEC 7810 ID-1, 85.60 × 53.98 mm; a rule is known by its millimetre graduations. Both are looked for outside
//! the page only, as what differs from the scanner's lid.

use std::f64::consts::TAU;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{bilinear::inside, scan::Scan, stats::median};

/// ISO/IEC 7810 ID-1, mm.
pub const CARD_MM: [f64; 2] = [85.60, 53.98];
/// What is checked is checked at about this resolution.
const COARSE_DPI: f64 = 60.0;
/// How far a thing's reflectance differs from the lid's, linear light.
const DIFFERS: f32 = 0.05;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum BesideKind {
    Card,
    Rule,
}

/// What lies beside the sheet.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Beside {
    pub kind: BesideKind,
    /// Its corners in scan px.
    pub corners_px: [[f64; 2]; 4],
    /// Resolution along the scan's rows and down its columns; an axis that a rule does not tell keeps the file's.
    pub dpi: [f64; 2],
}

/// A rectangle: middle, unit vector along its long side, half its long and short side, px.
#[derive(Debug, Clone, Copy)]
struct Rect {
    mid: [f64; 2],
    u: [f64; 2],
    half: [f64; 2],
}

impl Rect {
    fn point(&self, along: f64, across: f64) -> [f64; 2] {
        [self.mid[0] + self.u[0] * along - self.u[1] * across, self.mid[1] + self.u[1] * along + self.u[0] * across]
    }

    fn corners(&self) -> [[f64; 2]; 4] {
        let [a, b] = self.half;
        [self.point(-a, -b), self.point(a, -b), self.point(a, b), self.point(-a, b)]
    }
}

/// Looks beside the page (its corners in scan px) for a card, then for a rule.
pub fn find(scan: &Scan, page: &[[f64; 2]; 4]) -> Option<Beside> {
    let things = things(scan, page);
    let px_mm = 25.4 / scan.dpi;
    let card = things.iter().filter(|r| (0..2).all(|k| (2.0 * r.half[k] * px_mm / CARD_MM[k] - 1.0).abs() < 0.06)).find_map(|r| card(scan, r));
    card.or_else(|| things.iter().filter(|r| 2.0 * r.half[0] * px_mm > 80.0 && r.half[0] > 4.0 * r.half[1]).find_map(|r| rule(scan, r)))
}

/// How far beyond the page's edges a place lies, px; under 0 on the page.
pub fn outside(page: &[[f64; 2]; 4], [x, y]: [f64; 2]) -> f64 {
    let beyond = |i: usize| {
        let (a, b) = (page[i], page[(i + 1) % 4]);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        -(dx * (y - a[1]) - dy * (x - a[0])) / dx.hypot(dy)
    };
    (0..4).map(beyond).fold(f64::NEG_INFINITY, f64::max)
}

/// Large pieces outside the page that differ from the lid, as the least rectangles about them.
fn things(scan: &Scan, page: &[[f64; 2]; 4]) -> Vec<Rect> {
    let f = ((scan.dpi / COARSE_DPI).round() as usize).max(1);
    let (w, h) = (scan.width / f, scan.height / f);
    let px_mm = 25.4 / scan.dpi * f as f64;
    let margin = 2.0 * scan.dpi / 25.4;
    let mut value = vec![f32::NAN; w * h];
    let mut lid = Vec::new();
    for y in 0..h {
        for x in 0..w {
            if outside(page, [(x as f64 + 0.5) * f as f64, (y as f64 + 0.5) * f as f64]) > margin {
                let v = (0..f).map(|j| scan.data[(y * f + j) * scan.width + x * f..][..f].iter().sum::<f32>()).sum::<f32>() / (f * f) as f32;
                value[y * w + x] = v;
                lid.push(f64::from(v));
            }
        }
    }
    // Too little beside the page to hold anything.
    if (lid.len() as f64) * px_mm * px_mm < 2500.0 {
        return Vec::new();
    }
    // The lid is what borders the scan; a card or a rule touches little of the border.
    let border: Vec<f64> =
        (0..w * h).filter(|i| i % w < 2 || i % w + 3 > w || i / w < 2 || i / w + 3 > h).map(|i| f64::from(value[i])).filter(|v| v.is_finite()).collect();
    let Some(lid) = median(&border).or_else(|| median(&lid)) else { return Vec::new() };
    let mut open: Vec<bool> = value.iter().map(|v| (v - lid as f32).abs() > DIFFERS).collect();
    let mut out = Vec::new();
    for start in 0..w * h {
        if !open[start] {
            continue;
        }
        let mut stack = vec![start];
        let mut points = Vec::new();
        open[start] = false;
        while let Some(i) = stack.pop() {
            let (x, y) = (i % w, i / w);
            points.push([x as f64 + 0.5, y as f64 + 0.5]);
            for (a, b) in [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)] {
                if a < w && b < h && open[b * w + a] {
                    open[b * w + a] = false;
                    stack.push(b * w + a);
                }
            }
        }
        if points.len() as f64 * px_mm * px_mm > 300.0 {
            out.push(least_rectangle(&points, f as f64));
        }
    }
    out
}

/// The rectangle of least area about points, by every direction of half a degree, brought to full resolution.
fn least_rectangle(points: &[[f64; 2]], scale: f64) -> Rect {
    let mut best = (f64::INFINITY, Rect { mid: [0.0; 2], u: [1.0, 0.0], half: [0.0; 2] });
    for k in 0..180 {
        let (s, c) = (f64::from(k) * 0.5).to_radians().sin_cos();
        let mut box_ = [f64::INFINITY, f64::NEG_INFINITY, f64::INFINITY, f64::NEG_INFINITY];
        for p in points {
            let (u, v) = (c * p[0] + s * p[1], c * p[1] - s * p[0]);
            box_ = [box_[0].min(u), box_[1].max(u), box_[2].min(v), box_[3].max(v)];
        }
        let (a, b) = (box_[1] - box_[0] + 1.0, box_[3] - box_[2] + 1.0);
        if a * b < best.0 {
            let (mu, mv) = (0.5 * (box_[0] + box_[1]), 0.5 * (box_[2] + box_[3]));
            let mid = [scale * (c * mu - s * mv), scale * (s * mu + c * mv)];
            let half = [0.5 * scale * a, 0.5 * scale * b];
            let rect = if a >= b { Rect { mid, u: [c, s], half } } else { Rect { mid, u: [-s, c], half: [half[1], half[0]] } };
            best = (a * b, rect);
        }
    }
    best.1
}

/// Linear light between pixels; none beyond the scan.
fn sample(scan: &Scan, p: [f64; 2]) -> Option<f64> {
    inside(&scan.data, scan.width, scan.height, p)
}

/// An edge of the card: how far outside the rectangle's side it lies at the side's middle, and its slope along the side.
fn edge(scan: &Scan, rect: &Rect, side: usize) -> Option<(f64, f64)> {
    let mm = scan.dpi / 25.4;
    // Corners are rounded by 3.18 mm, and shadows are soft: the middle of the side tells.
    let (long, out) = (rect.half[side % 2] - 6.0 * mm, rect.half[1 - side % 2]);
    let sign = if side < 2 { 1.0 } else { -1.0 };
    let place = |s: f64, n: f64| if side.is_multiple_of(2) { rect.point(s, sign * n) } else { rect.point(sign * n, s) };
    let reach = (1.5 * mm).ceil() as i32;
    let stations = (2.0 * long / 2.0) as usize;
    let mut found = Vec::with_capacity(stations);
    for k in 0..stations {
        let s = -long + 2.0 * (k as f64 + 0.5);
        let profile: Vec<f64> = (-reach..=reach).map(|r| sample(scan, place(s, out + f64::from(r)))).collect::<Option<_>>()?;
        // Where it changes most over 4 px; then where it crosses halfway between what lies to either side of there.
        let n = profile.len();
        let at = (4..n - 4).max_by(|a, b| (profile[a + 2] - profile[a - 2]).abs().total_cmp(&(profile[b + 2] - profile[b - 2]).abs()))?;
        let (a, b) = (profile[at - 4], profile[at + 4]);
        if (a - b).abs() < 0.5 * f64::from(DIFFERS) {
            continue;
        }
        let half = 0.5 * (a + b);
        let cross = (at - 4..at + 4).find(|i| (profile[*i] - half) * (profile[i + 1] - half) <= 0.0 && profile[*i] != profile[i + 1])?;
        found.push((s, f64::from(-reach) + cross as f64 + (profile[cross] - half) / (profile[cross] - profile[cross + 1])));
    }
    let mut near = 0.5 * mm;
    let mut line = (median(&found.iter().map(|p| p.1).collect::<Vec<_>>())?, 0.0);
    for _ in 0..5 {
        let kept: Vec<&(f64, f64)> = found.iter().filter(|p| (p.1 - line.0 - line.1 * p.0).abs() < near).collect();
        let n = kept.len() as f64;
        if n < 0.5 * stations as f64 {
            return None;
        }
        let (sx, sy) = kept.iter().fold((0.0, 0.0), |t, p| (t.0 + p.0, t.1 + p.1));
        let (sxx, sxy) = kept.iter().fold((0.0, 0.0), |t, p| (t.0 + p.0 * p.0, t.1 + p.0 * p.1));
        let slope = (n * sxy - sx * sy) / (n * sxx - sx * sx);
        line = ((sy - slope * sx) / n, slope);
        near = (0.6 * near).max(1.0);
    }
    Some(line)
}

/// A card: its four edges to a fraction of a px, and the resolution that its sides give.
fn card(scan: &Scan, rect: &Rect) -> Option<Beside> {
    let mut rect = *rect;
    for _ in 0..2 {
        let e: Vec<(f64, f64)> = (0..4).map(|side| edge(scan, &rect, side)).collect::<Option<_>>()?;
        // Sides 0 and 2 run along, 1 and 3 across; all slopes tell of one turn.
        let turn = 0.25 * (e[0].1 - e[2].1 - e[1].1 + e[3].1);
        let (along, across) = (0.5 * (e[1].0 - e[3].0), 0.5 * (e[0].0 - e[2].0));
        let mid = rect.point(along, across);
        let (s, c) = turn.sin_cos();
        let half = [rect.half[0] + 0.5 * (e[1].0 + e[3].0), rect.half[1] + 0.5 * (e[0].0 + e[2].0)];
        rect = Rect { mid, u: [rect.u[0] * c - rect.u[1] * s, rect.u[1] * c + rect.u[0] * s], half };
    }
    let (l, s) = (2.0 * rect.half[0], 2.0 * rect.half[1]);
    let (ux2, uy2) = (rect.u[0] * rect.u[0], rect.u[1] * rect.u[1]);
    // (mm per px)² of both axes from both sides; a card that lies at 45° tells of their mean only.
    let (a, b) = ((CARD_MM[0] / l).powi(2), (CARD_MM[1] / s).powi(2));
    let det = ux2 - uy2;
    let squares = if det.abs() > 0.3 { [(a * ux2 - b * uy2) / det, (b * ux2 - a * uy2) / det] } else { [0.5 * (a + b); 2] };
    let dpi = squares.map(|m| 25.4 / m.max(1e-12).sqrt());
    dpi.iter().all(|d| (d / scan.dpi - 1.0).abs() < 0.06).then(|| Beside { kind: BesideKind::Card, corners_px: rect.corners(), dpi })
}

/// A rule: the period of its graduations along it, which is 1 mm, or half of one.
fn rule(scan: &Scan, rect: &Rect) -> Option<Beside> {
    let mm = scan.dpi / 25.4;
    let n = (2.0 * rect.half[0] - 8.0 * mm) as usize;
    let mut best: Option<(f64, f64)> = None;
    for sign in [-1.0, 1.0] {
        for inside in [0.8, 1.4, 2.0, 2.6] {
            let across = sign * (rect.half[1] - inside * mm);
            let row: Option<Vec<f64>> = (0..n).map(|k| sample(scan, rect.point(k as f64 - 0.5 * n as f64, across))).collect();
            let Some(row) = row else { continue };
            let level = crate::stats::moving_mean(&row, (3.0 * mm) as usize);
            // A window keeps the ends from leaking into the peak.
            let signal: Vec<f64> =
                row.iter().zip(&level).enumerate().map(|(k, (v, m))| (v - m) * (0.5 - 0.5 * (TAU * (k as f64 + 0.5) / n as f64).cos())).collect();
            let total: f64 = signal.iter().map(|v| v * v).sum();
            let power = |f: f64| {
                let (mut re, mut im) = (0.0, 0.0);
                for (k, v) in signal.iter().enumerate() {
                    let (s, c) = (TAU * f * k as f64).sin_cos();
                    re += v * c;
                    im += v * s;
                }
                (re * re + im * im) / (n as f64 * total.max(1e-12))
            };
            for per_mm in [1.0, 2.0] {
                let f0 = per_mm / mm;
                let step = 0.25 / n as f64;
                let tries = (0.05 * f0 / step) as i32;
                let Some(f) = (-tries..=tries).map(|k| f0 + f64::from(k) * step).max_by(|a, b| power(*a).total_cmp(&power(*b))) else { continue };
                // A parabola through the peak of the windowed spectrum.
                let (p, q, r) = (power(f - step), power(f), power(f + step));
                let f = f + step * 0.5 * (p - r) / (p - 2.0 * q + r).min(-1e-12);
                // Narrow graduations share their power among harmonics; chance leaves a few thousandths here.
                if q > 0.08 && best.is_none_or(|b| q > b.0) {
                    best = Some((q, 25.4 * per_mm / f));
                }
            }
        }
    }
    let (_, along) = best?;
    let dpi = if rect.u[0].abs() > 0.97 {
        [along, scan.dpi]
    } else if rect.u[1].abs() > 0.97 {
        [scan.dpi, along]
    } else {
        [along; 2]
    };
    Some(Beside { kind: BesideKind::Rule, corners_px: rect.corners(), dpi })
}

/// A scan's scale along its rows and down its columns, mm to the px.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Axes([f64; 2]);

impl Axes {
    pub fn new(dpi: [f64; 2]) -> Self {
        Self(dpi.map(|d| 25.4 / d))
    }

    /// Length in mm of a way given in px.
    pub fn mm(&self, way: [f64; 2]) -> f64 {
        (way[0] * self.0[0]).hypot(way[1] * self.0[1])
    }

    /// Dots to the inch across a line of this direction (a unit vector): what its width goes by.
    pub fn dpi_across(&self, direction: [f64; 2]) -> f64 {
        25.4 / self.mm([-direction[1], direction[0]])
    }

    /// Dots to the inch by area.
    pub fn dpi_mean(&self) -> f64 {
        25.4 / (self.0[0] * self.0[1]).sqrt()
    }
}
