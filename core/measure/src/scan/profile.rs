//! A line straightened: its absorptance across and along, and the blurred band that its mean profile is.
//!
//! How: resampled along the fitted line, its direction refined on its own middle; the band by least squares over level, width and blur. Limits:
//! a line that bows more than the margin runs out of its strip.

use std::sync::OnceLock;

use super::{
    bow::{Bow, bow, refine, through},
    find::Candidate,
    paper::Flat,
    sampled::{bilinear, sample},
};
use crate::stats::{mean_sd, median, phi};

/// Rows per px across the line.
pub const ACROSS: f64 = 4.0;

/// A straightened line: absorptance, `rows` across (row `rows / 2` on the fitted line) and `columns` along.
pub struct Straight {
    pub columns: usize,
    pub rows: usize,
    pub data: Vec<f32>,
    pub px_mm: f64,
    pub from: [f64; 2],
    pub direction: [f64; 2],
    pub grain: f64,
    /// How far the hand's bow takes the line off the fitted one, px by columns: the strip follows it.
    pub bow: Vec<f64>,
    /// First and one past the last column with ink at half its level.
    pub span: (usize, usize),
    mean: OnceLock<Vec<f64>>,
}

/// A blurred band fitted to the mean profile.
pub struct BlurFit {
    pub level: f64,
    pub width_px: f64,
    pub sigma_px: f64,
}

/// Straightens a candidate, its direction refined on its own middle line; none when it runs out of the scan.
pub fn straighten(flat: &Flat, dpi: f64, c: &Candidate) -> Option<Straight> {
    let px_mm = 25.4 / dpi;
    let margin = (0.3 / px_mm).max(6.0);
    let mut c = *c;
    match through(flat, &c, px_mm, margin) {
        Some(bowed) => c = bowed,
        None => {
            for _ in 0..2 {
                c = refine(flat, &c, margin)?;
            }
        }
    }
    let mut out = cut(flat, &c, px_mm, margin);
    if let Some(bounds) = out.alone(c.half_width) {
        out.clear(bounds, false);
    }
    (out.span.1 > out.span.0 + 8).then_some(out)
}

pub fn cut(flat: &Flat, c: &Candidate, px_mm: f64, margin: f64) -> Straight {
    let lead = (2.0 * c.half_width + 0.6 / px_mm).ceil();
    let columns = (2.0 * (c.half + lead)).ceil() as usize;
    let from = [c.x - c.dx * columns as f64 * 0.5, c.y - c.dy * columns as f64 * 0.5];
    let Bow { off: bow, half_width } = bow(flat, c, from, columns, px_mm, margin);
    let rows = (2.0 * (half_width * 2.2 + margin) * ACROSS) as usize | 1;
    let bows = bow.iter().any(|b| *b != 0.0);
    // Across a line that bows is across where it runs.
    let turned: Vec<(f64, f64)> = (0..if bows { columns } else { 0 })
        .map(|k| {
            let (a, b) = (k.saturating_sub(2), (k + 2).min(columns - 1));
            let slope = (bow[b] - bow[a]) / (b - a) as f64;
            (slope / slope.hypot(1.0), 1.0 / slope.hypot(1.0))
        })
        .collect();
    let mut data = vec![0.0f32; rows * columns];
    for (r, row) in data.chunks_exact_mut(columns.max(1)).enumerate() {
        let n = (r as f64 - (rows / 2) as f64) / ACROSS;
        let (x0, y0) = (from[0] - c.dy * n, from[1] + c.dx * n);
        let inside = |s: f64| {
            let (x, y) = (x0 + c.dx * s, y0 + c.dy * s);
            x > 1.0 && y > 1.0 && x < (flat.width - 2) as f64 && y < (flat.height - 2) as f64
        };
        if bows {
            for (k, v) in row.iter_mut().enumerate() {
                let (along, over) = (k as f64 + 0.5 - turned[k].0 * n, bow[k] + turned[k].1 * n);
                *v = sample(flat, from[0] + c.dx * along - c.dy * over, from[1] + c.dy * along + c.dx * over);
            }
        } else if inside(0.0) && inside(columns as f64) {
            // The usual case, without asking at every place.
            for (k, v) in row.iter_mut().enumerate() {
                let s = k as f64 + 0.5;
                *v = bilinear(flat, x0 + c.dx * s - 0.5, y0 + c.dy * s - 0.5);
            }
        } else {
            for (k, v) in row.iter_mut().enumerate() {
                let s = k as f64 + 0.5;
                *v = sample(flat, x0 + c.dx * s, y0 + c.dy * s);
            }
        }
    }
    let mut s = Straight { columns, rows, data, px_mm, from, direction: [c.dx, c.dy], grain: flat.grain, bow, span: (0, 0), mean: OnceLock::new() };
    s.span = s.find_span(2.0 * half_width);
    s
}

impl Straight {
    /// The middle's height on the scan, by which lines are listed.
    pub fn middle_y(&self) -> f64 {
        self.from[1] + self.direction[1] * 0.5 * (self.span.0 + self.span.1) as f64
    }

    /// Takes what lies beyond these distances from the fitted line, px to its left (negative) and right, for paper.
    pub fn clear_outside(&mut self, bounds: [f64; 2]) {
        self.clear(bounds, true);
    }

    /// The same, the distances from the fitted line or from the line as the hand bows it.
    fn clear(&mut self, [left, right]: [f64; 2], fitted: bool) {
        let mid = (self.rows / 2) as f64;
        for r in 0..self.rows {
            let n = (r as f64 - mid) / ACROSS;
            for (v, bow) in self.data[r * self.columns..(r + 1) * self.columns].iter_mut().zip(&self.bow) {
                let n = if fitted { n + bow } else { n };
                if n < left || n > right {
                    *v = 0.0;
                }
            }
        }
    }

    /// How far to its left (negative) and right, px, a line goes until another rises beside it; none where none does. `half` is about half its width.
    fn alone(&self, half: f64) -> Option<[f64; 2]> {
        const RISE: f64 = 0.04;
        let mean = self.rows_mean();
        let mid = self.rows / 2;
        let near = ((half * ACROSS) as usize).min(mid);
        let top = (mid - near..=mid + near).filter(|r| *r < self.rows).max_by(|a, b| mean[*a].total_cmp(&mean[*b]))?;
        let valley = |rows: &mut dyn Iterator<Item = usize>| {
            let mut low = (mean[top], top);
            for r in rows {
                if mean[r] < low.0 {
                    low = (mean[r], r);
                } else if low.0 < 0.5 * mean[top] && mean[r] > low.0 + RISE * mean[top] {
                    return Some((low.1 as f64 - mid as f64) / ACROSS);
                }
            }
            None
        };
        let (left, right) = (valley(&mut (0..top).rev()), valley(&mut (top + 1..self.rows)));
        let far = mid as f64 / ACROSS + 1.0;
        (left.is_some() || right.is_some()).then(|| [left.unwrap_or(-far), right.unwrap_or(far)])
    }

    /// The mean absorptance of each row, over the middle half of the columns.
    fn rows_mean(&self) -> Vec<f64> {
        let some = self.columns / 4..3 * self.columns / 4;
        (0..self.rows).map(|r| some.clone().map(|k| f64::from(self.data[r * self.columns + k])).sum::<f64>() / (self.columns / 2).max(1) as f64).collect()
    }

    /// Ink per column: the integral of absorptance across, px.
    pub fn areas(&self) -> Vec<f64> {
        let (lo, hi) = self.window();
        let mut sums = vec![0.0f64; self.columns];
        for row in self.data[lo * self.columns..hi * self.columns].chunks_exact(self.columns) {
            sums.iter_mut().zip(row).for_each(|(s, v)| *s += f64::from(*v));
        }
        sums.iter_mut().for_each(|s| *s /= ACROSS);
        sums
    }

    /// Rows about the line in which its ink lies: no further out, where paper would only add its grain.
    fn window(&self) -> (usize, usize) {
        let mean = self.rows_mean();
        let top = mean.iter().copied().fold(0.0, f64::max);
        let first = mean.iter().position(|v| *v > 0.02 * top).unwrap_or(0);
        let last = mean.iter().rposition(|v| *v > 0.02 * top).unwrap_or(self.rows - 1);
        let pad = (4.0 * ACROSS) as usize;
        (first.saturating_sub(pad), (last + 1 + pad).min(self.rows))
    }

    fn find_span(&self, width_px: f64) -> (usize, usize) {
        let mid = self.rows / 2;
        let reach = ((0.3 * width_px * ACROSS) as usize).clamp(1, mid);
        let mut core = vec![0.0f64; self.columns];
        for row in self.data[(mid - reach) * self.columns..(mid + reach + 1) * self.columns].chunks_exact(self.columns) {
            core.iter_mut().zip(row).for_each(|(c, v)| *c = c.max(f64::from(*v)));
        }
        let smooth = crate::stats::moving_mean(&core, 3);
        let level = median(&smooth[self.columns / 4..3 * self.columns / 4]).unwrap_or(1.0);
        let first = smooth.iter().position(|v| *v > 0.5 * level).unwrap_or(0);
        let last = smooth.iter().rposition(|v| *v > 0.5 * level).unwrap_or(0);
        (first, last + 1)
    }

    /// Absorptance of the line's middle.
    pub fn core_level(&self) -> f64 {
        let (a, b) = self.span;
        let fifth = (b - a) / 5;
        let mid = self.rows / 2;
        let v: Vec<f64> =
            (a + fifth..b - fifth).flat_map(|k| (mid - 1..=mid + 1).map(move |r| (r, k))).map(|(r, k)| f64::from(self.data[r * self.columns + k])).collect();
        // The mean, not the median: grain is even, and holes in the ink belong to it.
        mean_sd(&v).map_or(1.0, |m| m.0)
    }

    /// How much lighter than paper the mean profile gets beside the line: what a scanner's sharpening leaves.
    pub fn overshoot(&self) -> f64 {
        -self.mean_profile().iter().copied().fold(0.0, f64::min)
    }

    /// The mean profile over the middle of the line, each column moved so that its ink's middle lies on the row's middle.
    pub fn mean_profile(&self) -> &[f64] {
        self.mean.get_or_init(|| self.compute_mean_profile())
    }

    fn compute_mean_profile(&self) -> Vec<f64> {
        let (a, b) = self.span;
        let fifth = (b - a) / 5;
        self.profile_of(a + fifth, (b - fifth).max(a + fifth))
    }

    /// The mean profile of some columns.
    pub fn profile_of(&self, from: usize, to: usize) -> Vec<f64> {
        let (lo, hi) = self.window();
        let row = |r: usize| &self.data[r * self.columns + from..r * self.columns + to];
        let (mut mass, mut moment) = (vec![0.0f64; to - from], vec![0.0f64; to - from]);
        for r in lo..hi {
            for ((m, n), v) in mass.iter_mut().zip(&mut moment).zip(row(r)) {
                *m += f64::from(*v);
                *n += f64::from(*v) * r as f64;
            }
        }
        let middle = (self.rows / 2) as f64;
        let shifts: Vec<f64> = mass.iter().zip(&moment).map(|(m, n)| if *m > 0.0 { (n / m - middle).clamp(-8.0, 8.0) } else { 0.0 }).collect();
        let count = f64::max((to - from) as f64, 1.0);
        (0..self.rows)
            .map(|r| {
                let sum: f64 = shifts
                    .iter()
                    .enumerate()
                    .map(|(k, shift)| {
                        let at = (r as f64 + shift).clamp(0.0, (self.rows - 2) as f64);
                        let (i, t) = (at as usize, at - at.floor());
                        let j = i * self.columns + from + k;
                        f64::from(self.data[j]) * (1.0 - t) + f64::from(self.data[j + self.columns]) * t
                    })
                    .sum();
                sum / count
            })
            .collect()
    }
}

/// Fits `level · [Φ((n+w/2)/σ) − Φ((n−w/2)/σ)]` to the mean profile, keeping its area: σ is searched, and for each the
/// width and level that follow are scored.
pub fn fit_blur(s: &Straight) -> BlurFit {
    let profile = s.mean_profile();
    let mid = (s.rows / 2) as f64;
    let area: f64 = profile.iter().filter(|v| **v > 0.0).sum::<f64>() / ACROSS;
    // The error over every `stride`-th row for one width and blur.
    let score = |w: f64, sigma: f64, stride: usize| {
        let level = area / w;
        let error: f64 = profile
            .iter()
            .enumerate()
            .step_by(stride)
            .map(|(r, v)| {
                let n = (r as f64 - mid) / ACROSS;
                (v - level * (phi((n + 0.5 * w) / sigma) - phi((n - 0.5 * w) / sigma))).powi(2)
            })
            .sum();
        (error, BlurFit { level, width_px: w, sigma_px: sigma })
    };
    // The level lies between the profile's own peak and full absorption. A coarse grid first, then the fine one about it.
    let peak = profile.iter().copied().fold(0.05, f64::max);
    let width = |i: i32| area / (peak + (1.02f64.max(peak) - peak) * f64::from(i) / 40.0);
    let sigma = |j: i32| 0.25 + 0.06 * f64::from(j);
    let search = |is: (i32, i32, usize), js: (i32, i32, usize), stride: usize| {
        let mut best = (f64::INFINITY, 0, 0, BlurFit { level: 1.0, width_px: area, sigma_px: 0.5 });
        for i in (is.0.max(0)..=is.1.min(40)).step_by(is.2) {
            for j in (js.0.max(0)..=js.1.min(59)).step_by(js.2) {
                let found = score(width(i), sigma(j), stride);
                if found.0 < best.0 {
                    best = (found.0, i, j, found.1);
                }
            }
        }
        best
    };
    let (_, i, j, _) = search((0, 40, 4), (0, 59, 3), (profile.len() / 100).max(1));
    search((i - 5, i + 5, 1), (j - 4, j + 4, 1), (profile.len() / 300).max(1)).3
}
