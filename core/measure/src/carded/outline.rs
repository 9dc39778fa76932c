//! Where a card lies in a photo: four straight edges about a rectangle of a card's proportions, seen aslant, with a card's round corners.
//!
//! How: edges of a reduced picture vote for straight lines (Hough; Duda and Hart 1972); of all pairs of pairs those are kept that have edge all
//! along their sides and could be a card for some focal length of an upright camera (Zhang and He 2007, whiteboard scanning); of these the one
//! with most edge whose corners are round. Limits: the whole card is in the picture, and differs from what lies about it on most of its rim.

use std::f64::consts::PI;

use rayon::prelude::*;

use crate::{
    bilinear::inside,
    scan::Scan,
    sheet::{
        beside::CARD_MM,
        marks::{Placement, homography},
    },
};

/// A corner's radius, mm (ISO/IEC 7810: 2.88 to 3.48).
pub(super) const RADIUS_MM: f64 = 3.18;
/// The longer side of the picture that is looked through, px.
const SMALL: usize = 800;
/// A step of light (square root of linear light) that is an edge.
const EDGE: f32 = 0.02;
const LINES: usize = 110;
/// Of each side so much is edge, and of all four so much.
const SIDE: f64 = 0.6;
const ALL: f64 = 0.78;
/// Places along a side at which edge is first looked for.
const ROUGH: usize = 12;
/// How far the proportions and the right angle may be off.
const OFF: f64 = 0.035;
/// Focal lengths over the picture's longer side.
const FOCAL: [f64; 7] = [0.55, 0.7, 0.85, 1.1, 1.6, 2.6, 6.0];

/// A card as it lies: where its sides would meet, photo px, from the upper left clockwise; and how long its upper and its left side are, mm.
#[derive(Debug, Clone, Copy)]
pub(super) struct Outline {
    pub corners: [[f64; 2]; 4],
    pub size_mm: [f64; 2],
}

impl Outline {
    /// Its corners on the card's own plane, mm, in the same order.
    pub fn corners_mm(&self) -> [[f64; 2]; 4] {
        let [w, h] = self.size_mm;
        [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]]
    }

    pub fn place(&self) -> Option<Placement> {
        let pairs: Vec<_> = self.corners_mm().into_iter().zip(self.corners).collect();
        homography(&pairs, true)
    }
}

/// Edges of a reduced picture.
struct Edges {
    width: usize,
    height: usize,
    /// Direction across the edge, 0 to π; none where there is none.
    across: Vec<f32>,
}

impl Edges {
    fn new(scan: &Scan, f: usize) -> Self {
        let (w, h) = (scan.width / f, scan.height / f);
        let small: Vec<f32> = (0..w * h)
            .into_par_iter()
            .map(|i| {
                let (x, y) = (i % w * f, i / w * f);
                let sum: f32 = (y..y + f).map(|row| scan.data[row * scan.width + x..][..f].iter().sum::<f32>()).sum();
                (sum / (f * f) as f32).max(0.0).sqrt()
            })
            .collect();
        let mut across = vec![f32::NAN; w * h];
        for y in 1..h.saturating_sub(1) {
            for x in 1..w.saturating_sub(1) {
                let at = |dx: usize, dy: usize| small[(y + dy - 1) * w + x + dx - 1];
                let gx = 0.25 * ((at(2, 0) - at(0, 0)) + 2.0 * (at(2, 1) - at(0, 1)) + (at(2, 2) - at(0, 2)));
                let gy = 0.25 * ((at(0, 2) - at(0, 0)) + 2.0 * (at(1, 2) - at(1, 0)) + (at(2, 2) - at(2, 0)));
                if gx.hypot(gy) > EDGE {
                    across[y * w + x] = gy.atan2(gx).rem_euclid(std::f32::consts::PI);
                }
            }
        }
        Self { width: w, height: h, across }
    }

    /// Whether an edge across this direction runs within a pixel of a place.
    fn runs(&self, [x, y]: [f64; 2], n: [f64; 2]) -> bool {
        let angle = n[1].atan2(n[0]).rem_euclid(PI);
        [0.0, -1.0, 1.0].iter().any(|t| {
            let (u, v) = (x + t * n[0], y + t * n[1]);
            if u < 0.0 || v < 0.0 || u >= self.width as f64 || v >= self.height as f64 {
                return false;
            }
            let a = f64::from(self.across[v as usize * self.width + u as usize]);
            let d = (a - angle).abs();
            d.min(PI - d) < 0.26
        })
    }

    /// The straight lines with most edge: angle across and distance from the corner.
    fn lines(&self) -> Vec<(f64, f64)> {
        let reach = (self.width as f64).hypot(self.height as f64).ceil() as usize;
        let rhos = 2 * reach + 1;
        let turns: Vec<(f64, f64)> = (0..180).map(|t| f64::from(t).to_radians().sin_cos()).collect();
        let mut votes = vec![0u32; 180 * rhos];
        for (i, a) in self.across.iter().enumerate().filter(|(_, a)| a.is_finite()) {
            let (x, y) = ((i % self.width) as f64 + 0.5, (i / self.width) as f64 + 0.5);
            let middle = f64::from(*a).to_degrees().round() as i32;
            for t in middle - 2..=middle + 2 {
                let t = t.rem_euclid(180) as usize;
                let (s, c) = turns[t];
                votes[t * rhos + ((x * c + y * s).round() + reach as f64) as usize] += 1;
            }
        }
        let least = (self.width.max(self.height) / 16) as u32;
        let mut peaks: Vec<(u32, usize, usize)> = (0..180 * rhos).filter(|i| votes[*i] > least).map(|i| (votes[i], i / rhos, i % rhos)).collect();
        peaks.sort_by_key(|p| std::cmp::Reverse(p.0));
        let mut out: Vec<(usize, usize)> = Vec::new();
        for (_, t, r) in peaks {
            let near = |(u, q): &(usize, usize)| {
                let d = t.abs_diff(*u);
                // Half a turn on, the same line lies on the other side of the corner.
                d < 4 && r.abs_diff(*q) < 4 || 180 - d < 4 && (2 * reach - r).abs_diff(*q) < 4
            };
            if !out.iter().any(near) {
                out.push((t, r));
                if out.len() == LINES {
                    break;
                }
            }
        }
        out.into_iter().map(|(t, r)| ((t as f64).to_radians(), r as f64 - reach as f64)).collect()
    }

    /// The share of a side that is edge, its round corners left out.
    fn along(&self, a: [f64; 2], b: [f64; 2], steps: usize) -> f64 {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let long = dx.hypot(dy).max(1e-9);
        let n = [-dy / long, dx / long];
        let at = |k: usize| 0.07 + 0.86 * (k as f64 + 0.5) / steps as f64;
        (0..steps).filter(|k| self.runs([a[0] + at(*k) * dx, a[1] + at(*k) * dy], n)).count() as f64 / steps as f64
    }
}

fn meet((a, r): (f64, f64), (b, q): (f64, f64)) -> Option<[f64; 2]> {
    let ((sa, ca), (sb, cb)) = (a.sin_cos(), b.sin_cos());
    let det = ca * sb - sa * cb;
    (det.abs() > 0.3).then(|| [(r * sb - q * sa) / det, (q * ca - r * cb) / det])
}

/// How near four corners are to a card's for some focal length: 0 exact, 1 at the limit; and whether its first side is the long one.
fn like_a_card(corners: &[[f64; 2]; 4], middle: [f64; 2], long: f64) -> Option<(f64, bool)> {
    let unit = [[0.0, 0.0], [200.0, 0.0], [200.0, 200.0], [0.0, 200.0]];
    let pairs: Vec<_> = unit.into_iter().zip(corners.map(|c| [c[0] - middle[0], c[1] - middle[1]])).collect();
    let h = homography(&pairs, true)?.h;
    let wanted = CARD_MM[0] / CARD_MM[1];
    let mut best = (f64::INFINITY, true);
    for f in FOCAL.map(|f| f * long) {
        let (a, b) = ([h[0] / f, h[3] / f, h[6]], [h[1] / f, h[4] / f, h[7]]);
        let dot = |p: &[f64; 3], q: &[f64; 3]| p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
        let (aa, bb) = (dot(&a, &a).sqrt(), dot(&b, &b).sqrt());
        let skew = (dot(&a, &b) / (aa * bb)).abs();
        for (ratio, first) in [(aa / bb, true), (bb / aa, false)] {
            let off = (ratio / wanted - 1.0).abs().max(skew) / OFF;
            if off < best.0 {
                best = (off, first);
            }
        }
    }
    (best.0 < 1.0).then_some(best)
}

/// From the upper left clockwise: the side from the first to the second corner is the one that goes most to the right.
fn ordered(mut c: [[f64; 2]; 4]) -> [[f64; 2]; 4] {
    let area: f64 = (0..4).map(|i| c[i][0] * c[(i + 1) % 4][1] - c[(i + 1) % 4][0] * c[i][1]).sum();
    if area < 0.0 {
        c.reverse();
    }
    let right = |i: usize| c[(i + 1) % 4][0] - c[i][0] - (c[(i + 1) % 4][1] - c[i][1]).abs();
    let first = (0..4).max_by(|a, b| right(*a).total_cmp(&right(*b))).unwrap_or(0);
    [0, 1, 2, 3].map(|k| c[(first + k) % 4])
}

/// Whether the corners are round as a card's are, where they can be told from what lies about them.
pub(super) fn rounded(scan: &Scan, outline: &Outline) -> bool {
    let Some(place) = outline.place() else { return false };
    let at = |mm: [f64; 2]| inside(&scan.data, scan.width, scan.height, place.px(mm)).map(|v| v.max(0.0).sqrt());
    let (mut round, mut sharp) = (0, 0);
    for (corner, way) in outline.corners_mm().into_iter().zip([[1.0, 1.0], [-1.0, 1.0], [-1.0, -1.0], [1.0, -1.0]]) {
        let at = |u: f64, v: f64| at([corner[0] + u * way[0], corner[1] + v * way[1]]);
        // Between the sharp corner and the arc, which passes at 0.93 mm of each.
        let Some(asked) = at(0.35, 0.35) else { continue };
        // What lies about the corner need not be one thing, nor what is printed within it.
        let out: Vec<f64> = [(-0.8, -0.8), (-0.8, 3.5), (3.5, -0.8)].into_iter().filter_map(|(u, v)| at(u, v)).collect();
        let off = out.iter().map(|o| (asked - o).abs()).fold(f64::INFINITY, f64::min);
        let within = [1.7, 2.4, 3.2].into_iter().filter_map(|t| at(t, t));
        let differs = within.map(|v| out.iter().map(|o| (v - o).abs()).fold(f64::INFINITY, f64::min)).fold(0.0, f64::max);
        if differs > 0.04 {
            if off < 0.5 * differs { round += 1 } else { sharp += 1 }
        }
    }
    round >= 2 && round > 2 * sharp
}

/// How much of a side at least parts two things of different lightness: a line ruled on the paper has paper on both of its sides.
const PARTS: f64 = 0.5;
/// So different, square root of linear light.
const DIFFERS: f64 = 0.02;

/// Whether each side parts two things, as a card's rim does.
pub(super) fn parts(scan: &Scan, outline: &Outline) -> bool {
    let Some(place) = outline.place() else { return false };
    let corners = outline.corners_mm();
    let side = |k: usize| {
        let (a, b) = (corners[k], corners[(k + 1) % 4]);
        let long = (b[0] - a[0]).hypot(b[1] - a[1]);
        let (d, n) = ([(b[0] - a[0]) / long, (b[1] - a[1]) / long], [(b[1] - a[1]) / long, (a[0] - b[0]) / long]);
        let light = |s: f64, t: f64| inside(&scan.data, scan.width, scan.height, place.px([a[0] + s * d[0] + t * n[0], a[1] + s * d[1] + t * n[1]]));
        // Beyond what a ruled line and its blur are wide.
        let beside = |s: f64, way: f64| Some([1.0, 1.4, 1.8].map(|t| light(s, way * t)).into_iter().sum::<Option<f64>>()? / 3.0);
        let differ = |i: usize| {
            let s = RADIUS_MM + (long - 2.0 * RADIUS_MM) * (i as f64 + 0.5) / 24.0;
            let off = beside(s, 1.0)?.max(0.0).sqrt() - beside(s, -1.0)?.max(0.0).sqrt();
            Some(off.abs() > DIFFERS)
        };
        (0..24).filter(|i| differ(*i) == Some(true)).count() as f64 / 24.0
    };
    (0..4).all(|k| side(k) >= PARTS)
}

/// The outlines that could be a card's, the likeliest first.
pub(super) fn find(scan: &Scan) -> Vec<Outline> {
    let f = scan.width.max(scan.height).div_ceil(SMALL).max(1);
    let edges = Edges::new(scan, f);
    let lines = edges.lines();
    let (w, h) = (edges.width as f64, edges.height as f64);
    let (middle, long) = ([0.5 * w, 0.5 * h], w.max(h));
    let between = |a: f64, b: f64| {
        let d = (a - b).abs().rem_euclid(PI);
        d.min(PI - d)
    };
    let mut pairs: Vec<(usize, usize)> = Vec::new();
    for i in 0..lines.len() {
        for j in i + 1..lines.len() {
            if between(lines[i].0, lines[j].0) < 0.35 {
                pairs.push((i, j));
            }
        }
    }
    let n = lines.len();
    // Where two lines cross, if in the picture; and how much edge each has between any two that cross it, of [`ROUGH`].
    let crossings: Vec<Option<[f64; 2]>> = (0..n * n)
        .map(|k| {
            let (a, b) = (lines[k / n], lines[k % n]);
            let c = if between(a.0, b.0) < 0.9 { None } else { meet(a, b) }?;
            (c[0] >= 0.0 && c[1] >= 0.0 && c[0] <= w && c[1] <= h).then_some(c)
        })
        .collect();
    let rough: Vec<u8> = (0..n * n * n)
        .into_par_iter()
        .map(|k| match (crossings[k / n], crossings[k / n / n * n + k % n]) {
            (Some(a), Some(b)) if k / n % n < k % n => (edges.along(a, b, ROUGH) * ROUGH as f64).round() as u8,
            _ => 0,
        })
        .collect();
    let quads = |k: usize| {
        let (i, j) = pairs[k];
        let (rough, edges, crossings) = (&rough, &edges, &crossings);
        pairs[k + 1..].iter().filter_map(move |(l, m)| {
            let of = [(i, *l, *m), (j, *l, *m), (*l, i, j), (*m, i, j)].map(|(on, a, b)| f64::from(rough[(on * n + a) * n + b]) / ROUGH as f64);
            if of.iter().any(|s| *s <= SIDE) || of.iter().sum::<f64>() <= 4.0 * ALL {
                return None;
            }
            let corners = [crossings[i * n + l]?, crossings[i * n + m]?, crossings[j * n + m]?, crossings[j * n + l]?];
            let side = |k: usize| (corners[(k + 1) % 4][0] - corners[k][0]).hypot(corners[(k + 1) % 4][1] - corners[k][1]);
            let (a, b) = (side(0) + side(2), side(1) + side(3));
            if a.min(b) < 0.12 * long || !(1.2..2.2).contains(&(a.max(b) / a.min(b))) {
                return None;
            }
            let support = |steps: usize| {
                let of = [0, 1, 2, 3].map(|k| edges.along(corners[k], corners[(k + 1) % 4], steps));
                (of.iter().all(|s| *s > SIDE) && of.iter().sum::<f64>() > 4.0 * ALL).then(|| of.iter().sum::<f64>())
            };
            let support = support(48)?;
            let corners = ordered(corners);
            let (off, first) = like_a_card(&corners, middle, long)?;
            let size_mm = if first { CARD_MM } else { [CARD_MM[1], CARD_MM[0]] };
            Some((support - 0.3 * off, Outline { corners: corners.map(|c| c.map(|v| v * f as f64)), size_mm }))
        })
    };
    let mut found: Vec<(f64, Outline)> = (0..pairs.len()).into_par_iter().flat_map_iter(quads).collect();
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    found.into_iter().take(60).map(|f| f.1).collect()
}
