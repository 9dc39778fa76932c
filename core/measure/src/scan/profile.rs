//! A line straightened: one column a pixel of length, one row a fraction of a pixel across.

use super::{find::Candidate, levels::Flat};
use crate::stats::{mean_sd, median};

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
    /// First and one past the last column with ink at half its level.
    pub span: (usize, usize),
}

/// A blurred band fitted to the mean profile.
pub struct BlurFit {
    pub level: f64,
    pub width_px: f64,
    pub sigma_px: f64,
}

/// Bilinear absorptance at a place, pixel centres at .5; paper beyond the scan.
fn sample(flat: &Flat, x: f64, y: f64) -> f32 {
    let (u, v) = (x - 0.5, y - 0.5);
    if u < 0.0 || v < 0.0 || u >= (flat.width - 1) as f64 || v >= (flat.height - 1) as f64 {
        return 0.0;
    }
    let (ix, iy) = (u as usize, v as usize);
    let (tx, ty) = ((u - ix as f64) as f32, (v - iy as f64) as f32);
    let i = iy * flat.width + ix;
    let top = flat.data[i] * (1.0 - tx) + flat.data[i + 1] * tx;
    let low = flat.data[i + flat.width] * (1.0 - tx) + flat.data[i + flat.width + 1] * tx;
    top * (1.0 - ty) + low * ty
}

/// Straightens a candidate, its direction refined on its own middle line; none when it runs out of the scan.
pub fn straighten(flat: &Flat, dpi: f64, c: &Candidate) -> Option<Straight> {
    let px_mm = 25.4 / dpi;
    let margin = (0.3 / px_mm).max(6.0);
    let mut c = *c;
    for _ in 0..2 {
        c = refine(flat, &c, margin)?;
    }
    let out = cut(flat, &c, px_mm, margin);
    (out.span.1 > out.span.0 + 8).then_some(out)
}

fn cut(flat: &Flat, c: &Candidate, px_mm: f64, margin: f64) -> Straight {
    let lead = (2.0 * c.half_width + 0.6 / px_mm).ceil();
    let columns = (2.0 * (c.half + lead)).ceil() as usize;
    let rows = (2.0 * (c.half_width * 2.2 + margin) * ACROSS) as usize | 1;
    let from = [c.x - c.dx * columns as f64 * 0.5, c.y - c.dy * columns as f64 * 0.5];
    let mut data = vec![0.0f32; rows * columns];
    for r in 0..rows {
        let n = (r as f64 - (rows / 2) as f64) / ACROSS;
        for k in 0..columns {
            let s = k as f64 + 0.5;
            data[r * columns + k] = sample(flat, from[0] + c.dx * s - c.dy * n, from[1] + c.dy * s + c.dx * n);
        }
    }
    let mut s = Straight { columns, rows, data, px_mm, from, direction: [c.dx, c.dy], grain: flat.grain, span: (0, 0) };
    s.level_paper();
    s.span = s.find_span(2.0 * c.half_width);
    s
}

/// A line through the middles of the columns' ink, by weighted least squares.
fn refine(flat: &Flat, c: &Candidate, margin: f64) -> Option<Candidate> {
    let reach = c.half_width * 2.2 + margin;
    let parts = (2.0 * c.half).ceil() as usize;
    let (mut sw, mut ss, mut sn, mut sss, mut ssn) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for k in 0..parts {
        let s = k as f64 + 0.5 - parts as f64 * 0.5;
        let (mut m, mut mn) = (0.0, 0.0);
        let mut n = -reach;
        while n <= reach {
            let a = f64::from(sample(flat, c.x + c.dx * s - c.dy * n, c.y + c.dy * s + c.dx * n));
            if a > 0.15 {
                m += a;
                mn += a * n;
            }
            n += 0.5;
        }
        if m > 0.3 {
            let mid = mn / m;
            sw += 1.0;
            ss += s;
            sn += mid;
            sss += s * s;
            ssn += s * mid;
        }
    }
    let det = sw * sss - ss * ss;
    if sw < 8.0 || det <= 0.0 {
        return None;
    }
    let slope = (sw * ssn - ss * sn) / det;
    let shift = (sn - slope * ss) / sw;
    let len = 1f64.hypot(slope);
    let (dx, dy) = ((c.dx - slope * c.dy) / len, (c.dy + slope * c.dx) / len);
    Some(Candidate { x: c.x - c.dy * shift, y: c.y + c.dx * shift, dx, dy, ..*c })
}

impl Straight {
    /// The middle's height on the scan, by which lines are listed.
    pub fn middle_y(&self) -> f64 {
        self.from[1] + self.direction[1] * 0.5 * (self.span.0 + self.span.1) as f64
    }

    fn column(&self, k: usize) -> impl Iterator<Item = f32> {
        (0..self.rows).map(move |r| self.data[r * self.columns + k])
    }

    /// Paper beside the line is 0 on average: what the smooth surface left is taken out along the line.
    fn level_paper(&mut self) {
        let band = (self.rows / 10).max(4);
        let mut side: Vec<f64> = Vec::with_capacity(self.columns);
        for k in 0..self.columns {
            let v: Vec<f64> = self.column(k).enumerate().filter(|(r, _)| *r < band || *r >= self.rows - band).map(|(_, a)| f64::from(a)).collect();
            side.push(median(&v).unwrap_or(0.0));
        }
        let smooth = crate::stats::moving_mean(&side, 201);
        for r in 0..self.rows {
            for (a, shift) in self.data[r * self.columns..].iter_mut().zip(&smooth) {
                *a -= shift.clamp(-0.05, 0.05) as f32;
            }
        }
    }

    /// Ink per column: the integral of absorptance across, px.
    pub fn areas(&self) -> Vec<f64> {
        let (lo, hi) = self.window();
        (0..self.columns).map(|k| (lo..hi).map(|r| f64::from(self.data[r * self.columns + k])).sum::<f64>() / ACROSS).collect()
    }

    /// Rows about the line in which its ink lies: no further out, where paper would only add its grain.
    fn window(&self) -> (usize, usize) {
        let mean: Vec<f64> = (0..self.rows)
            .map(|r| {
                (self.columns / 4..3 * self.columns / 4).map(|k| f64::from(self.data[r * self.columns + k])).sum::<f64>() / (self.columns / 2).max(1) as f64
            })
            .collect();
        let top = mean.iter().copied().fold(0.0, f64::max);
        let first = mean.iter().position(|v| *v > 0.02 * top).unwrap_or(0);
        let last = mean.iter().rposition(|v| *v > 0.02 * top).unwrap_or(self.rows - 1);
        let pad = (4.0 * ACROSS) as usize;
        (first.saturating_sub(pad), (last + 1 + pad).min(self.rows))
    }

    fn find_span(&self, width_px: f64) -> (usize, usize) {
        let mid = self.rows / 2;
        let reach = ((0.3 * width_px * ACROSS) as usize).clamp(1, mid);
        let core: Vec<f64> =
            (0..self.columns).map(|k| (mid - reach..=mid + reach).map(|r| f64::from(self.data[r * self.columns + k])).fold(0.0, f64::max)).collect();
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

    /// The mean profile over the middle of the line, each column moved so that its ink's middle lies on the row's middle.
    pub fn mean_profile(&self) -> Vec<f64> {
        let (a, b) = self.span;
        let fifth = (b - a) / 5;
        let (lo, hi) = self.window();
        let mut sum = vec![0.0; self.rows];
        let mut count = 0.0;
        for k in a + fifth..b - fifth {
            let (mut m, mut mr) = (0.0, 0.0);
            for r in lo..hi {
                let v = f64::from(self.data[r * self.columns + k]);
                m += v;
                mr += v * r as f64;
            }
            let shift = if m > 0.0 { (mr / m - (self.rows / 2) as f64).clamp(-8.0, 8.0) } else { 0.0 };
            for (r, s) in sum.iter_mut().enumerate() {
                let at = (r as f64 + shift).clamp(0.0, (self.rows - 2) as f64);
                let (i, t) = (at as usize, at.fract());
                *s += f64::from(self.data[i * self.columns + k]) * (1.0 - t) + f64::from(self.data[(i + 1) * self.columns + k]) * t;
            }
            count += 1.0;
        }
        sum.iter().map(|s| s / f64::max(count, 1.0)).collect()
    }
}

/// Fits `level · [Φ((n+w/2)/σ) − Φ((n−w/2)/σ)]` to the mean profile, keeping its area: σ is searched, and for each the
/// width and level that follow are scored.
pub fn fit_blur(s: &Straight) -> BlurFit {
    let profile = s.mean_profile();
    let mid = (s.rows / 2) as f64;
    let area: f64 = profile.iter().filter(|v| **v > 0.0).sum::<f64>() / ACROSS;
    let mut best = (f64::INFINITY, BlurFit { level: 1.0, width_px: area, sigma_px: 0.5 });
    let score = |w: f64, sigma: f64| {
        let level = area / w;
        let error: f64 = profile
            .iter()
            .enumerate()
            .map(|(r, v)| {
                let n = (r as f64 - mid) / ACROSS;
                (v - level * (phi((n + 0.5 * w) / sigma) - phi((n - 0.5 * w) / sigma))).powi(2)
            })
            .sum();
        (error, BlurFit { level, width_px: w, sigma_px: sigma })
    };
    // The level lies between the profile's own peak and full absorption.
    let peak = profile.iter().copied().fold(0.05, f64::max);
    for i in 0..=40 {
        let w = area / (peak + (1.02f64.max(peak) - peak) * f64::from(i) / 40.0);
        for j in 0..60 {
            let found = score(w, 0.25 + 0.06 * f64::from(j));
            if found.0 < best.0 {
                best = found;
            }
        }
    }
    best.1
}

/// The normal distribution (Abramowitz and Stegun 7.1.26, error under 1.5e-7).
pub fn phi(z: f64) -> f64 {
    let x = z.abs() / std::f64::consts::SQRT_2;
    let t = 1.0 / (1.0 + 0.327_591_1 * x);
    let poly = t * (0.254_829_592 + t * (-0.284_496_736 + t * (1.421_413_741 + t * (-1.453_152_027 + t * 1.061_405_429))));
    let erf = 1.0 - poly * (-x * x).exp();
    if z < 0.0 { 0.5 * (1.0 - erf) } else { 0.5 * (1.0 + erf) }
}
