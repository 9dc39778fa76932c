//! The paper of a scan: its brightness about each place, divided out, and its grain.
//!
//! What is left is absorptance: 0 on paper, up to 1 in ink. Hard JPEG is told by its blocks (common practice, no source).

use rayon::prelude::*;

use super::{
    Scan,
    beside::Beside,
    clipped,
    ground::Ground,
    stretch::{Seen, WHITE, said},
};
use crate::stats::{median, quantile};

/// Absorptance against the paper: 0 on paper, near 1 on ink.
pub struct Flat {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
    /// Standard deviation of the paper's own grain.
    pub grain: f64,
    /// How much darker the darkest paper was than the lightest, as a share.
    pub shading: f64,
    /// White took the feet of its edges, which are not put back.
    pub lost: bool,
}

/// Divides out the paper's brightness and says what the scanner did to it. What lies beside the sheet, a lid left open or a table, is no ink.
pub fn flatten(scan: &Scan, warnings: &mut Vec<String>) -> Flat {
    let (w, h) = (scan.width, scan.height);
    let Some(beside) = Beside::find(|i| scan.data[i], w, h) else { return flatten_page(scan, &|_, _| true, warnings) };
    let on_page = |x: f64, y: f64| !beside.holds((x.max(0.0) as usize).min(w - 1), (y.max(0.0) as usize).min(h - 1));
    let mut flat = flatten_page(scan, &on_page, warnings);
    flat.data.iter_mut().enumerate().filter(|(i, _)| beside.holds(i % w, i / w)).for_each(|(_, v)| *v = 0.0);
    warnings.push("what lies beside the sheet (a table, a lid left open) was passed over".into());
    flat
}

/// The same where only a part of the scan is paper: `on_page` says of a place in px whether it is.
pub fn flatten_page(scan: &Scan, on_page: &(dyn Fn(f64, f64) -> bool + Sync), warnings: &mut Vec<String>) -> Flat {
    let Levelled { absorptance: mut data, grain, shading } = without_paper(&scan.data, scan.width, scan.height, on_page);
    if is_hard_jpeg(&data, scan.width, scan.height, grain) {
        warnings
            .push("the scan was compressed hard as a JPEG, which leaves ripples about every edge; scan again to PNG or TIFF, or at the highest quality".into());
    }
    let clip = unclip(&scan.data, &mut data, scan.width);
    warnings.extend(clip.as_ref().map(|c| c.says.into()));
    Flat { width: scan.width, height: scan.height, data, grain, shading, lost: clip.is_some_and(|c| c.lost) }
}

/// A contrast that was stretched: what is said of it, and whether white took feet of edges that are not put back.
pub struct Clip {
    pub says: &'static str,
    pub lost: bool,
}

/// What is said of a scan that has but black and white.
const ONE_BIT: &str = "this is a one-bit scan: its edges are steps of a pixel; scan in grey to measure finer";

/// Whether it has but two levels, or three.
fn is_one_bit(light: &[f32]) -> bool {
    let mut levels = [false; 256];
    light.iter().step_by(7).for_each(|v| levels[(v * 255.0).clamp(0.0, 255.0) as usize] = true);
    levels.iter().filter(|l| **l).count() <= 3
}

/// Makes good what a stretched contrast has cut off, and says so. In: the light that was scanned, row by row, and its absorptance.
pub fn unclip(light: &[f32], data: &mut [f32], w: usize) -> Option<Clip> {
    if is_one_bit(light) {
        return Some(Clip { says: ONE_BIT, lost: false });
    }
    let (h, every) = (data.len() / w.max(1), (data.len() / 200_000).max(1));
    let papers: Vec<f64> = data.iter().zip(light).step_by(every).filter(|(a, _)| a.abs() < 0.25).map(|(_, v)| f64::from(*v)).collect();
    // Ink that has ink all about it.
    let about = |i: usize| [i.wrapping_sub(3), i + 3, i.wrapping_sub(3 * w), i + 3 * w];
    let deep = |i: &usize| data[*i] > 0.5 && about(*i).iter().all(|j| data.get(*j).is_some_and(|a| *a > 0.6 && *a > 0.8 * data[*i]));
    let inks: Vec<f64> = (0..data.len()).step_by((data.len() / 2_000_000).max(1)).filter(deep).map(|i| f64::from(light[i])).collect();
    let (Some(paper), Some(most)) = (median(&papers), quantile(&papers, 0.9)) else { return None };
    // Where every line is thinner than that, what is darkest.
    let dark = || {
        let dark: Vec<f64> = data.iter().zip(light).step_by((data.len() / 2_000_000).max(1)).filter(|(a, _)| **a > 0.25).map(|(_, v)| f64::from(*v)).collect();
        quantile(&dark, 0.05)
    };
    let ink = median(&inks).or_else(dark)?;
    // A tenth of the paper is enough: where the rest lies in a shadow it is left as it is.
    let seen = Seen { paper: if most >= WHITE { 1.0 } else { paper }, ink };
    let told = match (seen.white(), seen.black()) {
        (false, false) => return None,
        // Of a scan cut at both ends the blur cannot be told from the cut.
        (true, true) => None,
        _ => clipped::find(data, light, w, h, seen),
    };
    if let Some(of) = &told {
        clipped::restore(data, w, h, of);
    }
    Some(Clip { says: said(seen, told.as_ref().is_some_and(|t| t.whole)), lost: seen.white() && told.is_none() })
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

/// Absorptance against the paper about each place (`ground`), and the standard deviation of the paper's grain. In: linear light row by row.
pub fn without_paper(light: &[f32], w: usize, h: usize, on_page: &(dyn Fn(f64, f64) -> bool + Sync)) -> Levelled {
    let ground = Ground::new(light, w, h, on_page);
    let mut data = vec![0.0f32; w * h];
    data.par_chunks_mut(w.max(1)).zip(light.par_chunks(w.max(1))).enumerate().for_each(|(y, (out, row))| {
        let mut paper = ground.row(y);
        for (o, l) in out.iter_mut().zip(row) {
            *o = 1.0 - l / paper.next().unwrap_or(1.0);
        }
    });
    // What is left of the paper's mean: the mode puts it right.
    let (shift, grain) = paper_mode(&data, |i| on_page((i % w) as f64, (i / w) as f64));
    let k = 1.0 / (1.0 - shift);
    data.par_iter_mut().with_min_len(1 << 16).for_each(|a| *a = 1.0 - (1.0 - *a) * k);
    Levelled { absorptance: data, grain, shading: ground.shading(on_page) }
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

/// A scan with its paper divided out: light against the paper's, 1 on paper.
pub fn without_shading(scan: &Scan) -> Vec<f32> {
    without_paper(&scan.data, scan.width, scan.height, &|_, _| true).absorptance.into_iter().map(|a| (1.0 - a).clamp(0.0, 1.0)).collect()
}
