//! Paper and ink: the paper's brightness divided out, the ink's level found.

use super::{Scan, profile::Straight};
use crate::stats::median;

/// Absorptance against the paper: 0 on paper, near 1 on ink.
pub struct Flat {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
    /// Standard deviation of the paper's own grain.
    pub grain: f64,
}

/// Side of the tiles that the paper's brightness is read from, px.
const TILE: usize = 64;

/// Divides out the paper's brightness and says what the scanner did to it.
pub fn flatten(scan: &Scan, warnings: &mut Vec<String>) -> Flat {
    let (data, grain) = without_paper(&scan.data, scan.width, scan.height);
    let clipped = scan.data.iter().filter(|v| **v >= 0.9995).count();
    if clipped * 2 > scan.data.len() {
        warnings.push("the paper is clipped to white; scan again with less contrast to keep the edges true".into());
    }
    let levels: std::collections::HashSet<u32> = scan.data.iter().step_by(7).map(|v| (v * 255.0) as u32).collect();
    if levels.len() <= 3 {
        warnings.push("this is a one-bit scan: its edges are steps of a pixel; scan in grey to measure finer".into());
    }
    Flat { width: scan.width, height: scan.height, data, grain }
}

/// Absorptance against the paper, a smooth surface of second order through the tiles' light values, and the standard
/// deviation of the paper's grain. In: linear light row by row.
pub fn without_paper(light: &[f32], w: usize, h: usize) -> (Vec<f32>, f64) {
    let mut tiles = Vec::new();
    for ty in (0..h).step_by(TILE) {
        for tx in (0..w).step_by(TILE) {
            let mut v: Vec<f64> = Vec::new();
            for y in (ty..(ty + TILE).min(h)).step_by(2) {
                v.extend((tx..(tx + TILE).min(w)).step_by(2).map(|x| f64::from(light[y * w + x])));
            }
            // The median of the lighter half: paper, wherever lines cover less than half of the tile.
            if let Some(half) = median(&v) {
                let paper: Vec<f64> = v.iter().copied().filter(|x| *x >= half).collect();
                tiles.push((tx as f64 + TILE as f64 / 2.0, ty as f64 + TILE as f64 / 2.0, median(&paper).unwrap_or(half)));
            }
        }
    }
    let surface = fit_surface(&tiles, w as f64, h as f64);
    let mut data = Vec::with_capacity(w * h);
    for y in 0..h {
        let v = y as f64 / h as f64 - 0.5;
        for x in 0..w {
            let u = x as f64 / w as f64 - 0.5;
            let paper = surface[0] + surface[1] * u + surface[2] * v + surface[3] * u * u + surface[4] * u * v + surface[5] * v * v;
            data.push(1.0 - light[y * w + x] / paper.max(0.05) as f32);
        }
    }
    // The lighter half's median lies above the paper's mean by a share of the grain: the mode puts it right.
    let (shift, grain) = paper_mode(&data);
    for a in &mut data {
        *a = 1.0 - (1.0 - *a) / (1.0 - shift);
    }
    (data, grain)
}

/// Mean and standard deviation of the absorptance of paper, outliers cut at three deviations.
fn paper_mode(data: &[f32]) -> (f32, f64) {
    let step = (data.len() / 400_000).max(1);
    let sample: Vec<f64> = data.iter().step_by(step).map(|v| f64::from(*v)).filter(|v| v.abs() < 0.25).collect();
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
        let mut a = [[0.0; 7]; 6];
        for t in &used {
            let x = terms(t);
            for i in 0..6 {
                for j in 0..6 {
                    a[i][j] += x[i] * x[j];
                }
                a[i][6] += x[i] * t.2;
            }
        }
        // A little weight on flat keeps the fit sane where the tiles do not tell.
        for (i, row) in a.iter_mut().enumerate().skip(1) {
            row[i] += 1e-3 * used.len() as f64;
        }
        let Some(fit) = solve(a) else { break };
        out = fit;
        tolerance = (tolerance * 0.4).max(0.02 * level);
    }
    out
}

fn dot(a: &[f64; 6], b: &[f64; 6]) -> f64 {
    a.iter().zip(b).map(|(x, y)| x * y).sum()
}

fn solve(mut a: [[f64; 7]; 6]) -> Option<[f64; 6]> {
    for i in 0..6 {
        let p = (i..6).max_by(|x, y| a[*x][i].abs().total_cmp(&a[*y][i].abs()))?;
        a.swap(i, p);
        if a[i][i].abs() < 1e-12 {
            return None;
        }
        let pivot = a[i];
        for (j, row) in a.iter_mut().enumerate() {
            if j != i {
                let f = row[i] / pivot[i];
                for k in i..7 {
                    row[k] -= f * pivot[k];
                }
            }
        }
    }
    Some(std::array::from_fn(|i| a[i][6] / a[i][i]))
}

/// The solid ink's absorptance, and the blur of the scan.
pub struct InkLevel {
    pub absorptance: f64,
    pub grain: f64,
}

/// From the widest strokes' middle where one is wide enough to show it; else fitted with the blur.
pub fn ink(lines: &[Straight], warnings: &mut Vec<String>) -> InkLevel {
    let grain = lines.first().map_or(0.0, |l| l.grain);
    let fits: Vec<super::profile::BlurFit> = lines.iter().map(super::profile::fit_blur).collect();
    let shown: Vec<f64> = lines.iter().zip(&fits).filter(|(_, f)| f.width_px > 5.2 * f.sigma_px + 1.0).map(|(l, _)| l.core_level()).collect();
    let absorptance = match median(&shown) {
        Some(a) => a,
        None => {
            warnings.push(
                "no line is wide enough to show the ink's own level; it was fitted together with the blur. A solid patch or a wider line beside it would settle it".into(),
            );
            median(&fits.iter().map(|f| f.level).collect::<Vec<_>>()).unwrap_or(1.0)
        }
    };
    InkLevel { absorptance: absorptance.clamp(0.05, 1.0), grain }
}
