//! A simulated scanner: outlines on paper to 8-bit grey, with turn, shading, grain, blur and noise.

use eddymist_ink::{Outline, raster::rasterise};
use eddymist_measure::colour::encode_f64;

use crate::{normal, rng};

/// How a scan is made.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scanner {
    pub dpi: f64,
    /// Counter-clockwise as seen on the page.
    pub turn_deg: f64,
    /// Fall of the light across the sheet, as a share.
    pub shading: f64,
    /// Standard deviation of the paper's grain, share of its brightness.
    pub grain: f64,
    /// Standard deviation of the optics' blur, px.
    pub blur_px: f64,
    /// Standard deviation of the sensor's noise.
    pub noise: f64,
    /// Linear reflectance of paper and ink.
    pub paper: f64,
    pub ink: f64,
}

impl Scanner {
    /// A fair office scanner.
    pub fn fair(dpi: f64) -> Self {
        Self { dpi, turn_deg: 0.0, shading: 0.08, grain: 0.012, blur_px: 0.9, noise: 0.004, paper: 0.82, ink: 0.035 }
    }
}

/// A grey scan, encoded sRGB values.
#[derive(Debug, Clone, PartialEq)]
pub struct GreyScan {
    pub width: usize,
    pub height: usize,
    pub data: Vec<u8>,
}

/// Scans a sheet of `size_mm` with ink on it.
pub fn scan(s: &Scanner, ink: &[Outline], size_mm: [f64; 2], seed: u64) -> GreyScan {
    let k = s.dpi / 25.4;
    let (sin, cos) = (-s.turn_deg.to_radians()).sin_cos();
    let mid = [0.5 * size_mm[0], 0.5 * size_mm[1]];
    // The picture holds the turned sheet whole.
    let (bw, bh) = (size_mm[0] * cos.abs() + size_mm[1] * sin.abs(), size_mm[0] * sin.abs() + size_mm[1] * cos.abs());
    let (width, height) = ((bw * k).ceil() as usize, (bh * k).ceil() as usize);
    let mut cover = vec![0.0f32; width * height];
    for o in ink {
        let turned = Outline {
            paths: o
                .paths
                .iter()
                .map(|p| {
                    p.iter()
                        .map(|q| {
                            let (x, y) = (q[0] - mid[0], q[1] - mid[1]);
                            [0.5 * bw + cos * x - sin * y, 0.5 * bh + sin * x + cos * y]
                        })
                        .collect()
                })
                .collect(),
        };
        let Some([l, t, r, b]) = turned.bounds() else {
            continue;
        };
        let (x0, y0) = (((l * k).floor() as usize).min(width), ((t * k).floor() as usize).min(height));
        let (x1, y1) = (((r * k).ceil().max(0.0) as usize + 1).min(width), ((b * k).ceil().max(0.0) as usize + 1).min(height));
        let part = rasterise(&turned, k, [x0 as f64 / k, y0 as f64 / k], x1 - x0, y1 - y0);
        for y in y0..y1 {
            for x in x0..x1 {
                let c = &mut cover[y * width + x];
                *c = c.max(part.data[(y - y0) * (x1 - x0) + x - x0]);
            }
        }
    }
    let mut r = rng(seed, 0x5CA);
    let mut light: Vec<f32> = cover
        .iter()
        .enumerate()
        .map(|(i, c)| {
            let (u, v) = ((i % width) as f64 / width as f64, (i / width) as f64 / height as f64);
            let shade = 1.0 - s.shading * (0.6 * u + 0.4 * v * v);
            let grain = 1.0 + s.grain * normal(&mut r);
            let c = f64::from(*c);
            ((s.paper * grain * (1.0 - c) + s.ink * c) * shade) as f32
        })
        .collect();
    blur(&mut light, width, height, s.blur_px);
    let data = light
        .iter()
        .map(|l| {
            let v = (f64::from(*l) + s.noise * normal(&mut r)).clamp(0.0, 1.0);
            (encode_f64(v) * 255.0).round() as u8
        })
        .collect();
    GreyScan { width, height, data }
}

fn blur(p: &mut [f32], w: usize, h: usize, sigma: f64) {
    if sigma <= 0.0 {
        return;
    }
    let reach = (3.5 * sigma).ceil() as isize;
    let mut kernel: Vec<f32> = (-reach..=reach).map(|k| (-0.5 * (k as f64 / sigma).powi(2)).exp() as f32).collect();
    let total: f32 = kernel.iter().sum();
    kernel.iter_mut().for_each(|k| *k /= total);
    let mut row = vec![0.0f32; w.max(h)];
    let mut pass = |p: &mut [f32], start: usize, step: usize, n: usize| {
        for (i, v) in row.iter_mut().enumerate().take(n) {
            *v = p[start + i * step];
        }
        for i in 0..n {
            let mut sum = 0.0;
            for (k, g) in kernel.iter().enumerate() {
                let j = (i as isize + k as isize - reach).clamp(0, n as isize - 1) as usize;
                sum += g * row[j];
            }
            p[start + i * step] = sum;
        }
    };
    for y in 0..h {
        pass(p, y * w, 1, w);
    }
    for x in 0..w {
        pass(p, x, w, h);
    }
}
