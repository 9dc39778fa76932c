//! The paper of a scan: its brightness as a smooth surface, divided out, and its grain.
//!
//! What is left is absorptance: 0 on paper, up to 1 in ink. Hard JPEG is told by its blocks (common practice, no source).

use rayon::prelude::*;

use super::Scan;
use crate::stats::{median, solve};

/// Absorptance against the paper: 0 on paper, near 1 on ink.
pub struct Flat {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
    /// Standard deviation of the paper's own grain.
    pub grain: f64,
    /// How much darker the darkest paper was than the lightest, as a share.
    pub shading: f64,
}

/// Side of the tiles that the paper's brightness is read from, px.
const TILE: usize = 64;

/// Divides out the paper's brightness and says what the scanner did to it.
pub fn flatten(scan: &Scan, warnings: &mut Vec<String>) -> Flat {
    flatten_page(scan, &|_, _| true, warnings)
}

/// The same where only a part of the scan is paper: `on_page` says of a place in px whether it is.
pub fn flatten_page(scan: &Scan, on_page: &(dyn Fn(f64, f64) -> bool + Sync), warnings: &mut Vec<String>) -> Flat {
    let Levelled { absorptance: data, grain, shading } = without_paper(&scan.data, scan.width, scan.height, on_page);
    let clipped = scan.data.iter().step_by(5).filter(|v| **v >= 0.9995).count();
    if clipped * 10 > scan.data.len() {
        warnings.push("the paper is clipped to white; scan again with less contrast to keep the edges true".into());
    }
    let mut levels = [false; 256];
    scan.data.iter().step_by(7).for_each(|v| levels[(v * 255.0).clamp(0.0, 255.0) as usize] = true);
    if levels.iter().filter(|l| **l).count() <= 3 {
        warnings.push("this is a one-bit scan: its edges are steps of a pixel; scan in grey to measure finer".into());
    }
    if is_hard_jpeg(&data, scan.width, scan.height, grain) {
        warnings
            .push("the scan was compressed hard as a JPEG, which leaves ripples about every edge; scan again to PNG or TIFF, or at the highest quality".into());
    }
    Flat { width: scan.width, height: scan.height, data, grain, shading }
}

/// A picture whose paper has been divided out.
pub struct Levelled {
    /// 0 on paper, near 1 on ink.
    pub absorptance: Vec<f32>,
    /// Standard deviation of the paper's own grain.
    pub grain: f64,
    /// How much darker the darkest paper was than the lightest, as a share.
    pub shading: f64,
}

/// Whether the scan was compressed hard as a JPEG: paper steps more across the borders of blocks of eight pixels than inside
/// them (grain and shading have no such period), and paper some pixels beside ink ripples more than paper's own grain, where
/// neither blur nor sharpening reaches. The limits are common practice, no source.
fn is_hard_jpeg(data: &[f32], w: usize, h: usize, grain: f64) -> bool {
    if w < 64 || h < 64 {
        return false;
    }
    let plain = (3.0 * grain).max(0.01) as f32;
    let steps = |step: usize, phase: &dyn Fn(usize) -> usize| {
        let (mut sums, mut counts) = ([0.0f64; 8], [0u32; 8]);
        for i in (0..data.len().saturating_sub(step)).step_by(3) {
            let (a, b) = (data[i], data[i + step]);
            if a.abs() < plain && b.abs() < plain {
                sums[phase(i)] += f64::from((a - b).abs());
                counts[phase(i)] += 1;
            }
        }
        let mut means: Vec<f64> = sums.iter().zip(counts).map(|(s, n)| s / f64::from(n.max(1))).collect();
        means.sort_by(f64::total_cmp);
        means[7] / (0.5 * (means[3] + means[4])).max(1e-5)
    };
    if steps(1, &|i| i % w % 8).min(steps(w, &|i| i / w % 8)) < 1.3 {
        return false;
    }
    let mut ripples: Vec<f64> = Vec::new();
    for row in data.chunks_exact(w).step_by(3) {
        for x in 8..w - 8 {
            for (beside, behind) in [(x - 5, x - 1), (x + 5, x + 1)] {
                if row[x] > 0.6 && row[behind] < row[x] && row[beside].abs() < 0.2 {
                    ripples.push(f64::from(row[beside].abs()));
                }
            }
        }
    }
    // The median of a normal distribution's size is 0.6745 of its deviation; other ink that is near is an outlier.
    let ripple = median(&ripples).unwrap_or(0.0) / 0.6745;
    ripples.len() > 100 && ripple > 0.02 + 1.5 * grain
}

/// Absorptance against the paper, a smooth surface of second order through the tiles' light values, and the standard
/// deviation of the paper's grain. In: linear light row by row.
pub fn without_paper(light: &[f32], w: usize, h: usize, on_page: &(dyn Fn(f64, f64) -> bool + Sync)) -> Levelled {
    // On large scans every fourth row and column of a tile tells as much.
    let every = if w * h > 8_000_000 { 4 } else { 2 };
    let rows: Vec<usize> = (0..h).step_by(TILE).collect();
    let tiles: Vec<(f64, f64, f64)> = rows
        .into_par_iter()
        .flat_map_iter(|ty| {
            (0..w).step_by(TILE).filter_map(move |tx| {
                let half = TILE as f64 / 2.0;
                if !on_page(tx as f64 + half, ty as f64 + half) {
                    return None;
                }
                let mut v: Vec<f32> = Vec::with_capacity(TILE * TILE / (every * every));
                for y in (ty..(ty + TILE).min(h)).step_by(every) {
                    v.extend(light[y * w..][tx..(tx + TILE).min(w)].iter().step_by(every));
                }
                // The median of the lighter half: paper, wherever lines cover less than half of the tile.
                let at = v.len() * 3 / 4;
                let (_, paper, _) = (at < v.len()).then(|| v.select_nth_unstable_by(at, f32::total_cmp))?;
                Some((tx as f64 + TILE as f64 / 2.0, ty as f64 + TILE as f64 / 2.0, f64::from(*paper)))
            })
        })
        .collect();
    let surface = fit_surface(&tiles, w as f64, h as f64);
    let mut data = vec![0.0f32; w * h];
    data.par_chunks_mut(w.max(1)).zip(light.par_chunks(w.max(1))).enumerate().for_each(|(y, (out, row))| {
        let v = y as f64 / h as f64 - 0.5;
        let (base, slope) = (surface[0] + surface[2] * v + surface[5] * v * v, surface[1] + surface[4] * v);
        for (x, (o, l)) in out.iter_mut().zip(row).enumerate() {
            let u = x as f64 / w as f64 - 0.5;
            *o = 1.0 - l / (base + (slope + surface[3] * u) * u).max(0.05) as f32;
        }
    });
    // The lighter half's median lies above the paper's mean by a share of the grain: the mode puts it right.
    let (shift, grain) = paper_mode(&data, |i| on_page((i % w) as f64, (i / w) as f64));
    let k = 1.0 / (1.0 - shift);
    data.par_iter_mut().with_min_len(1 << 16).for_each(|a| *a = 1.0 - (1.0 - *a) * k);
    // The surface where there is paper, on a coarse grid.
    let seen = (0..=10).flat_map(|i| (0..=10).map(move |j| [i, j].map(|k| 0.01 + 0.098 * f64::from(k))));
    let paper = seen.filter(|[x, y]| on_page(x * w as f64, y * h as f64)).map(|[x, y]| {
        let (u, v) = (x - 0.5, y - 0.5);
        dot(&surface, &[1.0, u, v, u * u, u * v, v * v])
    });
    let (low, high) = paper.fold((f64::INFINITY, 0.0f64), |m, p| (m.0.min(p), m.1.max(p)));
    Levelled { absorptance: data, grain, shading: if high > 0.0 && low.is_finite() { (1.0 - low / high).clamp(0.0, 1.0) } else { 0.0 } }
}

/// Mean and standard deviation of the absorptance of paper, outliers cut at three deviations.
fn paper_mode(data: &[f32], on_page: impl Fn(usize) -> bool) -> (f32, f64) {
    let step = (data.len() / 400_000).max(1);
    let sample: Vec<f64> = data.iter().enumerate().step_by(step).filter(|(i, _)| on_page(*i)).map(|(_, v)| f64::from(*v)).filter(|v| v.abs() < 0.25).collect();
    let mut centre = median(&sample).unwrap_or(0.0);
    let mut spread = 0.1;
    for _ in 0..4 {
        let near: Vec<f64> = sample.iter().copied().filter(|v| (v - centre).abs() < 3.0 * spread).collect();
        if let Some((m, s)) = crate::stats::mean_sd(&near) {
            centre = m;
            spread = s.max(1e-4);
        }
    }
    (centre as f32, spread)
}

/// Least squares for `1, u, v, u², uv, v²` with outlying tiles (under ink, beyond the sheet) left out in a second round.
fn fit_surface(tiles: &[(f64, f64, f64)], w: f64, h: f64) -> [f64; 6] {
    let terms = |t: &(f64, f64, f64)| {
        let (u, v) = (t.0 / w - 0.5, t.1 / h - 0.5);
        [1.0, u, v, u * u, u * v, v * v]
    };
    let level = median(&tiles.iter().map(|t| t.2).collect::<Vec<_>>()).unwrap_or(1.0);
    let mut out = [level, 0.0, 0.0, 0.0, 0.0, 0.0];
    let mut tolerance = 0.25 * level;
    for _ in 0..3 {
        let used: Vec<_> = tiles.iter().filter(|t| (t.2 - dot(&out, &terms(t))).abs() < tolerance).collect();
        if used.len() < 12 {
            break;
        }
        let (mut a, mut b) = ([[0.0; 6]; 6], [0.0; 6]);
        for t in &used {
            let x = terms(t);
            for i in 0..6 {
                for j in 0..6 {
                    a[i][j] += x[i] * x[j];
                }
                b[i] += x[i] * t.2;
            }
        }
        // A little weight on flat keeps the fit sane where the tiles do not tell.
        for (i, row) in a.iter_mut().enumerate().skip(1) {
            row[i] += 1e-3 * used.len() as f64;
        }
        let Some(fit) = solve(a, b) else { break };
        out = fit;
        tolerance = (tolerance * 0.4).max(0.02 * level);
    }
    out
}

fn dot(a: &[f64; 6], b: &[f64; 6]) -> f64 {
    a.iter().zip(b).map(|(x, y)| x * y).sum()
}

/// A scan with its paper divided out: light against the paper's, 1 on paper.
pub fn without_shading(scan: &Scan) -> Vec<f32> {
    without_paper(&scan.data, scan.width, scan.height, &|_, _| true).absorptance.into_iter().map(|a| (1.0 - a).clamp(0.0, 1.0)).collect()
}
