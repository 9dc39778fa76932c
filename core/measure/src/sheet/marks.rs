//! The corner marks in a scan, and where they put the sheet: position, turn, skew and perspective by least squares over
//! all finder squares of all marks.

use nalgebra::{DMatrix, DVector};
use rayon::prelude::*;

use super::{
    beside::Axes,
    layout::{self, BLOCK_MM, MARK_MM, MarkText, SheetPlan},
};
use crate::{bilinear::inside, scan::Scan, stats::quantile};

/// Resolutions at which marks are looked for, in turn, until enough are found: two tell where the others must be.
const READ_AT_DPI: [f64; 4] = [200.0, 150.0, 100.0, 300.0];
/// Modules to a side of a mark, and the middles of its three finder squares, in modules from its top left.
pub(super) const MODULES: f64 = 21.0;
pub(super) const FINDERS: [[f64; 2]; 3] = [[3.5, 3.5], [17.5, 3.5], [3.5, 17.5]];

/// A mark as it was found: its text, and the middles of its finder squares in scan px.
#[derive(Debug, Clone, PartialEq)]
pub struct FoundMark {
    pub text: MarkText,
    pub finders: [[f64; 2]; 3],
}

/// All marks of ours in a picture of about this resolution; in a photo two do not tell where the others must be.
pub fn find(scan: &Scan, about_dpi: f64, enough: usize) -> Vec<FoundMark> {
    let mut out: Vec<FoundMark> = Vec::new();
    let mut tried = Vec::new();
    for dpi in READ_AT_DPI {
        let factor = ((about_dpi / dpi).round() as usize).clamp(1, 24);
        if tried.contains(&factor) || out.len() >= enough {
            continue;
        }
        tried.push(factor);
        for mark in find_reduced(scan, factor) {
            if !out.iter().any(|m| m.text == mark.text) {
                out.push(mark);
            }
        }
    }
    out
}

fn find_reduced(scan: &Scan, factor: usize) -> Vec<FoundMark> {
    let (w, h) = (scan.width / factor, scan.height / factor);
    if w < 32 || h < 32 {
        return Vec::new();
    }
    let mut small = vec![0.0f32; w * h];
    small.par_chunks_mut(w).enumerate().for_each(|(y, out)| {
        for row in scan.data[y * factor * scan.width..].chunks(scan.width).take(factor) {
            for (o, px) in out.iter_mut().zip(row.chunks_exact(factor)) {
                *o += px.iter().sum::<f32>();
            }
        }
    });
    let scale = 1.0 / (factor * factor) as f32;
    // As bright as it looks: half-way between ink and paper the marks' modules are as wide as they are.
    let mut picture = rqrr::PreparedImage::prepare_from_greyscale(w, h, |x, y| ((small[y * w + x] * scale).clamp(0.0, 1.0).sqrt() * 255.0) as u8);
    // The reader asserts what a damaged mark can break: then there is no mark.
    let grids = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| picture.detect_grids().into_iter().map(|g| g.bounds).collect::<Vec<_>>()));
    let full = |p: rqrr::Point| [(f64::from(p.x) + 0.5) * factor as f64, (f64::from(p.y) + 0.5) * factor as f64];
    // Two marks lie eleven of their sides apart: what is larger than the picture allows is a pattern of thick lines.
    let most = scan.width.max(scan.height) as f64 / 8.0;
    let small_enough = |c: &[[f64; 2]; 4]| (0..4).all(|k| (c[(k + 1) % 4][0] - c[k][0]).hypot(c[(k + 1) % 4][1] - c[k][1]) < most);
    let grids = grids.unwrap_or_default().into_iter().map(|bounds| bounds.map(full)).filter(small_enough);
    let found = grids.collect::<Vec<_>>().into_par_iter().filter_map(|corners| finders(scan, corners));
    found.filter_map(|finders| Some(FoundMark { text: text(scan, finders)?, finders })).collect()
}

/// What a mark says, its modules read at full resolution where its three finder squares put them.
fn text(scan: &Scan, [o, x, y]: [[f64; 2]; 3]) -> Option<MarkText> {
    let long = FINDERS[1][0] - FINDERS[0][0];
    let at = |u: f64, v: f64| {
        let (s, t) = ((u - FINDERS[0][0]) / long, (v - FINDERS[0][1]) / long);
        inside(&scan.data, scan.width, scan.height, [0, 1].map(|k| o[k] + s * (x[k] - o[k]) + t * (y[k] - o[k])))
    };
    // A module's middle; its borders are its neighbours' too.
    let module = |i: usize, j: usize| -> Option<f64> {
        let seen: Option<Vec<f64>> = [-0.2, 0.0, 0.2].into_iter().flat_map(|b| [-0.2, 0.0, 0.2].map(|a| at(i as f64 + 0.5 + a, j as f64 + 0.5 + b))).collect();
        Some(seen?.iter().sum::<f64>() / 9.0)
    };
    let n = MODULES as usize;
    let light: Vec<f64> = (0..n * n).map(|k| module(k % n, k / n)).collect::<Option<_>>()?;
    let between = 0.5 * (quantile(&light, 0.2)? + quantile(&light, 0.8)?);
    let grid = rqrr::SimpleGrid::from_func(n, |x, y| light[y * n + x] < between);
    let read = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| rqrr::Grid::new(grid).decode().ok())).ok()??;
    MarkText::decode(&read.1)
}

/// The middles of the finder squares to a fraction of a pixel: the dark 3 × 3 modules in each one's middle stand alone in
/// a white ring, and their centre of mass is not moved by blur. `corners` are the mark's, to a pixel or two.
fn finders(scan: &Scan, corners: [[f64; 2]; 4]) -> Option<[[f64; 2]; 3]> {
    let [a, b, c, d] = corners;
    let at = |m: [f64; 2]| {
        let (u, v) = (m[0] / MODULES, m[1] / MODULES);
        [0, 1].map(|k| (1.0 - u) * (1.0 - v) * a[k] + u * (1.0 - v) * b[k] + u * v * c[k] + (1.0 - u) * v * d[k])
    };
    let axis = |p: [f64; 2], q: [f64; 2]| [(q[0] - p[0]) / MODULES, (q[1] - p[1]) / MODULES];
    let (ex, ey) = (axis(a, b), axis(a, d));
    let mut out = [[0.0; 2]; 3];
    for (found, finder) in out.iter_mut().zip(FINDERS) {
        let mut mid = at(finder);
        // The reader's corners can be off by most of a module: a narrow window walks onto the square, a wide one weighs it.
        for window in [3.4, 3.4, 3.4, 3.4, 3.4, 3.8, 3.8] {
            mid = middle_of_dark(scan, mid, ex, ey, window, 24)?;
        }
        for window in [4.4, 4.4] {
            mid = middle_of_dark(scan, mid, ex, ey, window, 160)?;
        }
        *found = mid;
    }
    Some(out)
}

/// Centre of the darkness in a window about a place; its side is in modules, looked at in at most so many places. From 3 to 5 hold the white
/// ring.
fn middle_of_dark(scan: &Scan, mid: [f64; 2], ex: [f64; 2], ey: [f64; 2], window: f64, most: i32) -> Option<[f64; 2]> {
    let n = (window * ex[0].hypot(ex[1])).ceil().max(5.0).min(f64::from(most)) as i32;
    let mut seen: Vec<(f64, f64, f64)> = Vec::with_capacity((n * n) as usize);
    for j in 0..n {
        for i in 0..n {
            let [u, v] = [i, j].map(|k| ((f64::from(k) + 0.5) / f64::from(n) - 0.5) * window);
            seen.push((u, v, inside(&scan.data, scan.width, scan.height, [mid[0] + u * ex[0] + v * ey[0], mid[1] + u * ex[1] + v * ey[1]])?));
        }
    }
    let values: Vec<f64> = seen.iter().map(|s| s.2).collect();
    let (dark, light) = (quantile(&values, 0.1)?, quantile(&values, 0.9)?);
    let (mut m, mut su, mut sv) = (0.0, 0.0, 0.0);
    for (u, v, value) in seen {
        let weight = ((light - value) / (light - dark).max(1e-6) - 0.15).clamp(0.0, 1.0);
        m += weight;
        su += weight * u;
        sv += weight * v;
    }
    (m > 0.0).then(|| [0, 1].map(|k| mid[k] + su / m * ex[k] + sv / m * ey[k]))
}

/// The map from the sheet's mm to scan px: a homography, rows of a 3 × 3 matrix whose last entry is 1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Placement {
    pub h: [f64; 9],
}

impl Placement {
    /// Scan px of a place on the sheet.
    pub fn px(&self, mm: [f64; 2]) -> [f64; 2] {
        let h = &self.h;
        let w = h[6] * mm[0] + h[7] * mm[1] + 1.0;
        [(h[0] * mm[0] + h[1] * mm[1] + h[2]) / w, (h[3] * mm[0] + h[4] * mm[1] + h[5]) / w]
    }

    /// The printed sheet's size over its full size, across and down its middle.
    pub fn scale(&self, plan: &SheetPlan, axes: &Axes) -> [f64; 2] {
        let [w, h] = plan.size_mm;
        let long = |a: [f64; 2], b: [f64; 2], mm: f64| {
            let (p, q) = (self.px(a), self.px(b));
            axes.mm([q[0] - p[0], q[1] - p[1]]) / mm
        };
        let (u, v) = (0.5 * BLOCK_MM[0], 0.5 * BLOCK_MM[1]);
        let (x, y) = (0.5 * w, 0.5 * h);
        [long([x - u, y], [x + u, y], 2.0 * u), long([x, y - v], [x, y + v], 2.0 * v)]
    }

    /// The sheet's turn, counter-clockwise as seen, degrees.
    pub fn turn_deg(&self, plan: &SheetPlan) -> f64 {
        let y = 0.5 * plan.size_mm[1];
        let (p, q) = (self.px([10.0, y]), self.px([plan.size_mm[0] - 10.0, y]));
        -(q[1] - p[1]).atan2(q[0] - p[0]).to_degrees()
    }

    /// How much larger the sheet is on one side than on the other: 0 for a scan, some per cent for a photo.
    pub fn keystone(&self, plan: &SheetPlan) -> f64 {
        self.h[6].abs() * plan.size_mm[0] + self.h[7].abs() * plan.size_mm[1]
    }
}

/// Places the sheet by its marks; none where they do not suffice (one mark alone tells too little). With two the perspective
/// is left out.
pub fn place(plan: &SheetPlan, found: &[FoundMark]) -> Option<Placement> {
    let pairs: Vec<([f64; 2], [f64; 2])> = found
        .iter()
        .flat_map(|m| {
            let [x, y] = plan.marks[m.text.corner];
            let module = MARK_MM / MODULES;
            FINDERS.map(|f| [x + f[0] * module, y + f[1] * module]).into_iter().zip(m.finders)
        })
        .collect();
    if found.len() < 2 {
        return None;
    }
    homography(&pairs, found.len() > 2)
}

/// The map from mm to px through pairs of places, or without perspective.
///
/// Direct linear transform (Hartley and Zisserman, Multiple View Geometry, 2nd ed., section 4.1) with coordinates brought to
/// the order of 1.
pub fn homography(pairs: &[([f64; 2], [f64; 2])], perspective: bool) -> Option<Placement> {
    let (mm, px) = (200.0, 4000.0);
    let unknowns = if perspective { 8 } else { 6 };
    let mut rows = Vec::with_capacity(2 * pairs.len() * unknowns);
    let mut right = Vec::with_capacity(2 * pairs.len());
    for (m, p) in pairs {
        let (x, y, u, v) = (m[0] / mm, m[1] / mm, p[0] / px, p[1] / px);
        rows.extend_from_slice(&[x, y, 1.0, 0.0, 0.0, 0.0, -u * x, -u * y][..unknowns]);
        rows.extend_from_slice(&[0.0, 0.0, 0.0, x, y, 1.0, -v * x, -v * y][..unknowns]);
        right.extend([u, v]);
    }
    if right.len() < unknowns {
        return None;
    }
    // By singular values: the normal equations would lose half of the digits.
    let svd = DMatrix::from_row_slice(right.len(), unknowns, &rows).svd(true, true);
    if svd.singular_values.min() < 1e-9 * svd.singular_values.max() {
        return None;
    }
    let found = svd.solve(&DVector::from_vec(right), 0.0).ok()?;
    let s: Vec<f64> = found.iter().copied().chain([0.0, 0.0]).collect();
    let h = [s[0] * px / mm, s[1] * px / mm, s[2] * px, s[3] * px / mm, s[4] * px / mm, s[5] * px, s[6] / mm, s[7] / mm, 1.0];
    Some(Placement { h })
}

/// Marks that the reader missed, looked for where the others say that they must be: a finder square is known by its rings.
pub fn complete(scan: &Scan, plan: &SheetPlan, found: &mut Vec<FoundMark>) {
    let Some(place) = self::place(plan, found) else { return };
    for corner in (0..4).filter(|c| !found.iter().any(|m| m.text.corner == *c)).collect::<Vec<_>>() {
        let [x, y] = plan.marks[corner];
        let corners = [[x, y], [x + MARK_MM, y], [x + MARK_MM, y + MARK_MM], [x, y + MARK_MM]].map(|c| place.px(c));
        let axis = |i: usize| [(corners[i][0] - corners[0][0]) / MODULES, (corners[i][1] - corners[0][1]) / MODULES];
        let (ex, ey) = (axis(1), axis(3));
        let ringed = |m: &[f64; 2]| {
            // Dark, light, dark, dark, dark, light, dark through the middle, along and across.
            let at = |u: f64, v: f64| {
                let (x, y) = (m[0] + u * ex[0] + v * ey[0], m[1] + u * ex[1] + v * ey[1]);
                let inside = x >= 0.0 && y >= 0.0 && x < scan.width as f64 && y < scan.height as f64;
                if inside { scan.data[y as usize * scan.width + x as usize] } else { 0.5 }
            };
            let (dark, light) = (at(0.0, 0.0), at(2.0, 0.0));
            let half = 0.5 * (dark + light);
            dark + 0.2 < light
                && [-3.0, -2.0, -1.0, 1.0, 2.0, 3.0].iter().all(|k: &f64| {
                    let white = k.abs() == 2.0;
                    (at(*k, 0.0) > half) == white && (at(0.0, *k) > half) == white
                })
        };
        if let Some(finders) = finders(scan, corners).filter(|f| f.iter().all(ringed)) {
            found.push(FoundMark { text: MarkText { bars: !plan.bars.is_empty(), paper: plan.paper, number: plan.number.clone(), corner }, finders });
        }
    }
}

/// Whether the marks run counter-clockwise, as in a mirror; of fewer than three nothing is told.
pub fn mirrored(found: &[FoundMark]) -> bool {
    let middle = |m: &FoundMark| [0, 1].map(|k| 0.5 * (m.finders[1][k] + m.finders[2][k]));
    let mut all: Vec<(usize, [f64; 2])> = found.iter().map(|m| (m.text.corner, middle(m))).collect();
    all.sort_by_key(|m| m.0);
    let n = all.len();
    let area: f64 = (0..n).map(|i| (all[i].1, all[(i + 1) % n].1)).map(|(a, b)| a[0] * b[1] - a[1] * b[0]).sum();
    n > 2 && area < 0.0
}

/// The plan of the sheet that most of the marks belong to, with its marks.
pub fn sheet_of(found: Vec<FoundMark>) -> Option<(SheetPlan, Vec<FoundMark>)> {
    let most = found.iter().max_by_key(|m| found.iter().filter(|o| o.text.number == m.text.number).count())?.text.clone();
    let mut own: Vec<FoundMark> = found.into_iter().filter(|m| (&m.text.number, m.text.paper, m.text.bars) == (&most.number, most.paper, most.bars)).collect();
    own.sort_by_key(|m| m.text.corner);
    own.dedup_by_key(|m| m.text.corner);
    Some((if most.bars { layout::plan(most.paper, &most.number) } else { layout::plan_without_bars(most.paper, &most.number) }, own))
}
