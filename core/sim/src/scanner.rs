//! A simulated scanner: outlines on paper to 8-bit grey, with turn, shading, grain, blur and noise.

use eddymist_ink::{Outline, raster::rasterise};
use eddymist_measure::colour::encode_f64;

use rand::Rng;

use crate::{normal, rng};

/// How a lamp lights the sheet, beside its slope; a second family of what the paper removal has to stand, which it does not know.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Lamp {
    /// Only the slope.
    Plain,
    /// The lid stands open: a shadow of this depth over the last third, with an edge some mm wide.
    Lid(f64),
    /// The sheet lifts off the glass to one side, as in a book's fold: darkness of this depth that falls off over 12 mm.
    Gutter(f64),
    /// A lamp that wavers along the way: bands of this depth, 7 to 19 mm wide.
    Bands(f64),
}

impl Lamp {
    /// The share of the light at a place in mm of a sheet.
    pub(crate) fn share(self, [x, y]: [f64; 2], [w, _]: [f64; 2]) -> f64 {
        match self {
            Self::Plain => 1.0,
            Self::Lid(depth) => 1.0 - depth / (1.0 + (-(x - 0.68 * w - 0.08 * y) / 1.3).exp()),
            Self::Gutter(depth) => 1.0 - depth * (-x / 12.0).exp(),
            Self::Bands(depth) => 1.0 - 0.5 * depth * (1.0 + (y / 2.1 + 2.0 * (y / 9.0).sin()).sin()),
        }
    }
}

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
    pub lamp: Lamp,
    /// Light over this share of the paper's is clipped to white; none where nothing is.
    pub clip: Option<f64>,
    /// Flecks in the paper, so many a cm².
    pub flecks: f64,
}

impl Scanner {
    /// A fair office scanner.
    pub fn fair(dpi: f64) -> Self {
        Self {
            dpi,
            turn_deg: 0.0,
            shading: 0.08,
            grain: 0.012,
            blur_px: 0.9,
            noise: 0.004,
            paper: 0.82,
            ink: 0.035,
            lamp: Lamp::Plain,
            clip: None,
            flecks: 0.0,
        }
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
        lay(&mut cover, [width, height], k, &turned);
    }
    let mut r = rng(seed, 0x5CA);
    let fleck = flecks(s, [width, height], k, seed);
    let mut light: Vec<f32> = cover
        .iter()
        .enumerate()
        .map(|(i, c)| {
            let (u, v) = ((i % width) as f64 / width as f64, (i / width) as f64 / height as f64);
            let shade = 1.0 - s.shading * (0.6 * u + 0.4 * v * v);
            let grain = 1.0 + s.grain * normal(&mut r);
            let c = f64::from(*c);
            let place = [(i % width) as f64 / k, (i / width) as f64 / k];
            let lamp = s.lamp.share(place, [width as f64 / k, height as f64 / k]);
            let paper = s.paper * grain * (1.0 - f64::from(fleck.get(i).copied().unwrap_or(0.0)));
            ((paper * (1.0 - c) + s.ink * c) * shade * lamp) as f32
        })
        .collect();
    blur(&mut light, width, height, s.blur_px);
    let data = light
        .iter()
        .map(|l| {
            let v = (f64::from(*l) + s.noise * normal(&mut r)).clamp(0.0, 1.0);
            let v = s.clip.map_or(v, |share| (v / (share * s.paper)).min(1.0));
            (encode_f64(v) * 255.0).round() as u8
        })
        .collect();
    GreyScan { width, height, data }
}

/// Lays an outline in mm onto coverage of `k` px to the mm.
pub(crate) fn lay(cover: &mut [f32], [width, height]: [usize; 2], k: f64, o: &Outline) {
    let Some([l, t, r, b]) = o.bounds() else { return };
    let (x0, y0) = (((l * k).floor() as usize).min(width), ((t * k).floor() as usize).min(height));
    let (x1, y1) = (((r * k).ceil().max(0.0) as usize + 1).min(width), ((b * k).ceil().max(0.0) as usize + 1).min(height));
    if x1 <= x0 || y1 <= y0 {
        return;
    }
    let part = rasterise(o, k, [x0 as f64 / k, y0 as f64 / k], x1 - x0, y1 - y0);
    for y in y0..y1 {
        for x in x0..x1 {
            let c = &mut cover[y * width + x];
            *c = c.max(part.data[(y - y0) * (x1 - x0) + x - x0]);
        }
    }
}

/// How much darker flecks make the paper: soft spots of a tenth to a third of a mm.
fn flecks(s: &Scanner, [w, h]: [usize; 2], k: f64, seed: u64) -> Vec<f32> {
    if s.flecks <= 0.0 {
        return Vec::new();
    }
    let mut r = rng(seed, 0xF1EC);
    let mut out = vec![0.0f32; w * h];
    for _ in 0..(s.flecks * w as f64 * h as f64 / (k * k) / 100.0) as usize {
        let (x, y) = (r.random_range(0.0..w as f64), r.random_range(0.0..h as f64));
        let (size, depth) = (r.random_range(0.05..0.16) * k, r.random_range(0.04..0.12));
        let reach = 3.0 * size;
        for v in (y - reach).max(0.0) as usize..((y + reach) as usize + 1).min(h) {
            for u in (x - reach).max(0.0) as usize..((x + reach) as usize + 1).min(w) {
                let d2 = (u as f64 - x).powi(2) + (v as f64 - y).powi(2);
                out[v * w + u] += (depth * (-0.5 * d2 / (size * size)).exp()) as f32;
            }
        }
    }
    out
}

pub(crate) fn blur(p: &mut [f32], w: usize, h: usize, sigma: f64) {
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
