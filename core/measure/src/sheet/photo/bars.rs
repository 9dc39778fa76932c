//! The printed bars of a photographed sheet: what the camera makes of widths that are known.
//!
//! How: a bar's width is its integrated absorptance over that of the thickest bar's core beside it, as a pen's is over its solid patch's; seen
//! against true by least squares with a gain and an offset, relative errors alike (common practice, no source). What the printer's ink spreads
//! by is in the offset (methods.md, section 2.6). Limits: bars that lie in shadow or under something are left out by their neighbours' median.

use super::super::{
    layout::{BARS_MM, Bar, SheetPlan},
    marks::Placement,
    reading::{BarsSeen, Widths},
};
use crate::{bilinear::inside, scan::Scan, stats::median};

/// Half of the clear paper about a bar that is read with it, mm.
const BESIDE_MM: f64 = 1.2;

/// Light across a bar from the middle outward, the mean over the middle two thirds of its length; and the step, mm.
fn across(scan: &Scan, place: &Placement, bar: &Bar) -> Option<(Vec<f64>, f64)> {
    let step = 0.02;
    let half = 0.5 * bar.width_mm + BESIDE_MM;
    let n = (half / step).round() as i32;
    let long = bar.to[0] - bar.from[0];
    (-n..=n)
        .map(|k| {
            let y = bar.from[1] + step * f64::from(k);
            let row = (0..16).map(|i| inside(&scan.data, scan.width, scan.height, place.px([bar.from[0] + long * (1.0 / 6.0 + f64::from(i) / 24.0), y])));
            let row = row.collect::<Option<Vec<f64>>>()?;
            Some(row.iter().sum::<f64>() / 16.0)
        })
        .collect::<Option<Vec<f64>>>()
        .map(|v| (v, step))
}

/// Absorptance across a bar, against the paper at both its sides.
fn absorptance(light: &[f64], step: f64) -> Option<Vec<f64>> {
    let side = (0.4 / step) as usize;
    let (a, b) = (median(&light[..side])?, median(&light[light.len() - side..])?);
    // One side in shadow, or written on.
    if a <= 0.0 || b <= 0.0 || !(0.8..=1.25).contains(&(a / b)) {
        return None;
    }
    let n = (light.len() - 1) as f64;
    Some(light.iter().enumerate().map(|(i, v)| 1.0 - v / (a + (b - a) * i as f64 / n)).collect())
}

/// Reads all bars; none where too few of them can be read to tell of gain and offset. `scale` is the printed size over the full one.
pub fn read(scan: &Scan, place: &Placement, plan: &SheetPlan, scale: f64) -> Option<Widths> {
    let mut seen: Vec<Vec<f64>> = vec![Vec::new(); BARS_MM.len()];
    let mut edges = Vec::new();
    for group in plan.bars.chunks(BARS_MM.len()) {
        let rows: Vec<Option<(Vec<f64>, f64)>> =
            group.iter().map(|b| across(scan, place, b).and_then(|(l, step)| Some((absorptance(&l, step)?, step)))).collect();
        let Some((thick, step)) = rows.last().and_then(Option::as_ref) else { continue };
        let middle = thick.len() / 2;
        let core = (0.3 / step) as usize;
        let Some(level) = median(&thick[middle - core..=middle + core]).filter(|l| *l > 0.2) else { continue };
        edges.extend(edge(&thick[middle..], level, *step));
        edges.extend(edge(&thick[..=middle].iter().rev().copied().collect::<Vec<f64>>(), level, *step));
        for (all, row) in seen.iter_mut().zip(&rows) {
            if let Some((a, step)) = row {
                all.push(a.iter().sum::<f64>() * step * scale / level);
            }
        }
    }
    let bars: Vec<BarsSeen> =
        BARS_MM.into_iter().zip(&seen).filter_map(|(true_mm, s)| Some(BarsSeen { true_mm, seen_mm: median(s)?, bars: s.len() as u32 })).collect();
    if bars.len() < 3 || bars.iter().any(|b| b.bars < 2) {
        return None;
    }
    // Weighted so that a share of the width counts alike at all of them.
    let (mut s, mut sx, mut sy, mut sxx, mut sxy) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for BarsSeen { true_mm: t, seen_mm: w, .. } in &bars {
        let (x, weight) = (t * scale, 1.0 / (t * t));
        s += weight;
        sx += weight * x;
        sy += weight * w;
        sxx += weight * x * x;
        sxy += weight * x * w;
    }
    let gain = (s * sxy - sx * sy) / (s * sxx - sx * sx);
    let offset = (sy - gain * sx) / s;
    Some(Widths { gain, offset_um: 1000.0 * offset, bars, edge_mm: median(&edges)? })
}

/// From nine tenths to one tenth of the level, outward from a bar's middle, mm.
fn edge(outward: &[f64], level: f64, step: f64) -> Option<f64> {
    let cross = |share: f64| {
        let v = share * level;
        let i = outward.windows(2).rposition(|w| w[0] >= v && w[1] < v)?;
        Some(i as f64 + (outward[i] - v) / (outward[i] - outward[i + 1]))
    };
    Some((cross(0.1)? - cross(0.9)?) * step)
}
