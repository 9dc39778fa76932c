//! How a camera saw the sheet: a plane in perspective through a lens that bends straight lines, found by corner marks and printed frames.
//!
//! How: a homography, then radial distortion about the picture's middle with two terms (Brown 1966); a first term by trying, then all ten by
//! least squares over the marks' finder squares and over where the frames' hair lines are darkest across themselves (Gauss–Newton, stations
//! far off left out). Limits: the middle of the lens is the picture's; a sheet that is not flat is told by what is left over.

use nalgebra::{DMatrix, DVector};

use super::super::{
    layout::{MARK_MM, SheetPlan},
    marks::{FINDERS, FoundMark, MODULES},
};
use crate::{bilinear::inside, scan::Scan, seen::Seen, stats::median};

/// A place on a frame, and the unit vector across it there.
type Station = ([f64; 2], [f64; 2]);

/// Places on the frames of all cells, so many mm apart.
fn stations(plan: &SheetPlan) -> Vec<Station> {
    let every = 3.0;
    let mut out = Vec::new();
    for c in &plan.cells {
        let [x, y, w, h] = c.area;
        for k in 0..((w - 4.0) / every) as usize {
            let at = x + 2.0 + every * (k as f64 + 0.5);
            out.extend([y, y + h].map(|y| ([at, y], [0.0, 1.0])));
        }
        for k in 0..((h - 4.0) / every) as usize {
            let at = y + 2.0 + every * (k as f64 + 0.5);
            out.extend([x, x + w].map(|x| ([x, at], [1.0, 0.0])));
        }
    }
    out
}

/// Finder squares: their places on the sheet and in the photo.
fn finders(plan: &SheetPlan, found: &[FoundMark]) -> Vec<([f64; 2], [f64; 2])> {
    let module = MARK_MM / MODULES;
    found
        .iter()
        .flat_map(|m| {
            let [x, y] = plan.marks[m.text.corner];
            FINDERS.map(|f| [x + f[0] * module, y + f[1] * module]).into_iter().zip(m.finders)
        })
        .collect()
}

/// Light at a place of the sheet, as a lens of these terms would show it.
fn light(scan: &Scan, seen: &Seen, mm: [f64; 2]) -> Option<f64> {
    inside(&scan.data, scan.width, scan.height, seen.px(mm))
}

/// How dark the frames are where they should be, against what lies half a millimetre to either side; the mean over all stations.
fn darkness(scan: &Scan, seen: &Seen, stations: &[Station]) -> f64 {
    let (mut sum, mut n) = (0.0, 0.0);
    for (m, across) in stations.iter().step_by(3) {
        let at = |t: f64| light(scan, seen, [m[0] + t * across[0], m[1] + t * across[1]]);
        if let (Some(a), Some(b), Some(c)) = (at(-0.4), at(0.0), at(0.4)) {
            sum += (0.5 * (a + c) - b) / (0.5 * (a + c)).max(0.02);
            n += 1.0;
        }
    }
    if n > 0.0 { sum / n } else { 0.0 }
}

/// How the camera saw the sheet; none where three marks were not found.
pub fn find(scan: &Scan, plan: &SheetPlan, found: &[FoundMark]) -> Option<Seen> {
    if found.len() < 3 {
        return None;
    }
    let pairs = finders(plan, found);
    let middle = [0.5 * scan.width as f64, 0.5 * scan.height as f64];
    let radius = middle[0].hypot(middle[1]);
    let stations = stations(plan);
    let best = |from: f64, step: f64, steps: i32| {
        let tries = (-steps..=steps).filter_map(|k| Seen::through(&pairs, middle, radius, from + step * f64::from(k)));
        tries.map(|s| (darkness(scan, &s, &stations), s)).max_by(|a, b| a.0.total_cmp(&b.0))
    };
    let (_, coarse) = best(0.0, 0.005, 50)?;
    let (_, mut seen) = best(coarse.bends[0], 0.000_5, 10)?;
    for (round, window) in [0.6, 0.4, 0.35, 0.35, 0.35].into_iter().enumerate() {
        let places = darkest(scan, &seen, &stations, window);
        // Too few to tell of a lens: what the marks say stays.
        if places.len() < 60 {
            break;
        }
        let off: Vec<f64> = places.iter().map(|p| p.2.abs()).collect();
        let far = (3.0 * 1.48 * median(&off)?).max(0.04);
        let kept: Vec<&(Station, [f64; 2], f64)> = places.iter().filter(|p| p.2.abs() <= far).collect();
        seen.off_mm = (kept.iter().map(|p| p.2 * p.2).sum::<f64>() / kept.len() as f64).sqrt();
        seen = step(&seen, &pairs, &kept, round > 0)?;
    }
    Some(seen)
}

/// Where each station's hair line is darkest across itself, as photo px, and how far off that is, mm.
fn darkest(scan: &Scan, seen: &Seen, stations: &[Station], window: f64) -> Vec<(Station, [f64; 2], f64)> {
    let mut out = Vec::with_capacity(stations.len());
    let n = (window / 0.04).round() as i32;
    for s in stations {
        let (m, across) = s;
        let at = |t: f64| [m[0] + t * across[0], m[1] + t * across[1]];
        let Some(row) = (-n..=n).map(|k| light(scan, seen, at(0.04 * f64::from(k)))).collect::<Option<Vec<f64>>>() else { continue };
        let (low, high) = row.iter().fold((f64::INFINITY, 0.0f64), |r, v| (r.0.min(*v), r.1.max(*v)));
        if high - low < 0.06 * high {
            continue;
        }
        let floor = low + 0.6 * (high - low);
        let (mut mass, mut moment) = (0.0, 0.0);
        for (k, v) in row.iter().enumerate().filter(|(_, v)| **v < floor) {
            mass += floor - v;
            moment += (floor - v) * 0.04 * f64::from(k as i32 - n);
        }
        let t = moment / mass;
        // Darkest at the window's end: another line, or a stroke that runs over the frame.
        if t.abs() < window - 0.1 {
            out.push((*s, seen.px(at(t)), t));
        }
    }
    out
}

/// One step of Gauss and Newton over all ten unknowns, or nine of them.
fn step(seen: &Seen, pairs: &[([f64; 2], [f64; 2])], kept: &[&(Station, [f64; 2], f64)], both: bool) -> Option<Seen> {
    const SCALES: [f64; 10] = [20.0, 20.0, 4000.0, 20.0, 20.0, 4000.0, 5e-3, 5e-3, 1.0, 1.0];
    let unknowns = if both { 10 } else { 9 };
    let moved = |by: &[f64]| {
        let mut s = *seen;
        for (k, d) in by.iter().enumerate() {
            if k < 8 { s.plane.h[k] += d * SCALES[k] } else { s.bends[k - 8] += d * SCALES[k] }
        }
        s
    };
    // A finder square's middle is as sure as some stations of a frame.
    let weight = 3.0;
    let residuals = |s: &Seen| -> Vec<f64> {
        let mut out = Vec::with_capacity(2 * pairs.len() + kept.len());
        for (mm, p) in pairs {
            let q = s.px(*mm);
            out.extend([weight * (q[0] - p[0]), weight * (q[1] - p[1])]);
        }
        for (station, p, _) in kept {
            let (m, across) = station;
            let (q, r) = (s.px(*m), seen.px([m[0] + across[0], m[1] + across[1]]));
            let o = seen.px(*m);
            let (nx, ny) = (r[0] - o[0], r[1] - o[1]);
            let long = nx.hypot(ny).max(1e-9);
            out.push((nx * (q[0] - p[0]) + ny * (q[1] - p[1])) / long);
        }
        out
    };
    let now = residuals(seen);
    let mut jacobian = DMatrix::zeros(now.len(), unknowns);
    for k in 0..unknowns {
        let mut by = vec![0.0; unknowns];
        by[k] = 1e-6;
        for (i, (a, b)) in residuals(&moved(&by)).iter().zip(&now).enumerate() {
            jacobian[(i, k)] = (a - b) / 1e-6;
        }
    }
    let right = DVector::from_iterator(now.len(), now.iter().map(|v| -v));
    let by = jacobian.svd(true, true).solve(&right, 1e-12).ok()?;
    by.iter().all(|v| v.is_finite()).then(|| moved(by.as_slice()))
}
