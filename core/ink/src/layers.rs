//! A stroke's ink as it lies: its outline, or nested outlines where its opacity varies, and how soft its edge is; or what is
//! set down by a stamped lay, or the pixels of a pixel lay; and the raster of any of them.
//!
//! Overlapping strokes build up as `1 − Π(1 − αᵢ)`; one stroke does not build up on itself: each place has the greatest opacity
//! that the nib had over it.

use crate::{
    fitting::fit_outline,
    inking::InkedStroke,
    kinds::{Grid, Stamping},
    outline::Outline,
    raster::{Coverage, rasterise},
};

/// A varying opacity is shown in steps of at most this: one such step of black on white is a change of 1.6 %, about the least that is
/// seen along a line (from memory: contrast thresholds lie near 1 %).
const STEP: f64 = 1.0 / 64.0;
/// A stroke whose opacity goes up and down so often that its steps come to more pieces than this has fewer steps, and is cut at its samples.
const MOST_PIECES: f64 = 1000.0;
const FEWEST: f64 = 12.0;
/// The 10–90 % distance of a Gaussian edge over its deviation: 2·Φ⁻¹(0.9).
const SOFT: f64 = 2.563_103;

/// One outline and the opacity that it is laid over the ones before it with.
#[derive(Debug, Clone, PartialEq)]
pub struct Layer {
    pub outline: Outline,
    pub alpha: f64,
}

/// All ink of one stroke.
#[derive(Debug, Clone, PartialEq)]
pub struct Inked {
    pub layers: Vec<Layer>,
    /// 10–90 % distance of the edge, mm; 0 is sharp.
    pub softness_mm: f64,
    /// A stamped lay has no outline: its ink is a picture.
    pub stamping: Option<Stamping>,
    /// The course of a pixel lay, mm: it is drawn on the grid of whatever drawing it comes to.
    pub pixels: Option<Vec<[f64; 2]>>,
}

impl InkedStroke {
    /// The stroke's ink, arcs within `tolerance_mm`.
    pub fn inked(&self, tolerance_mm: f64) -> Inked {
        let one = |layers| Inked { layers, softness_mm: self.softness_mm(), stamping: None, pixels: None };
        if let Some(stamping) = self.stamping() {
            return Inked { stamping: Some(stamping), ..one(Vec::new()) };
        }
        if self.is_pixel() {
            let layer = Layer { outline: self.outline(tolerance_mm), alpha: 1.0 };
            return Inked { pixels: Some(self.samples.iter().map(|s| [s.x, s.y]).collect()), ..one(vec![layer]) };
        }
        let alphas = self.samples.iter().map(|s| s.opacity);
        let (low, high) = alphas.fold((f64::INFINITY, f64::NEG_INFINITY), |m, a| (m.0.min(a), m.1.max(a)));
        let whole = self.outline(tolerance_mm);
        if self.samples.is_empty() || high - low < 1e-6 || !self.parts() {
            let mean = self.samples.iter().map(|s| s.opacity).sum::<f64>() / self.samples.len().max(1) as f64;
            return one(vec![Layer { outline: whole, alpha: if self.samples.is_empty() { 1.0 } else { mean } }]);
        }
        // A rough edge is traced anew for every step, and hides it: it has the fewest, from the samples as they are.
        let moved: f64 = self.samples.windows(2).map(|w| (w[1].opacity - w[0].opacity).abs()).sum();
        let afford = if self.is_rough() { FEWEST } else { (MOST_PIECES * (high - low) / moved).max(FEWEST) };
        let wanted = (high - low) / STEP;
        let steps = wanted.min(afford).ceil().max(1.0) as usize;
        let dense = if afford < wanted { self.clone() } else { self.denser(STEP) };
        let at = |k: f64| low + (high - low) * k / steps as f64;
        let mut layers = vec![Layer { outline: whole, alpha: low }];
        let mut before = Vec::new();
        for k in 0..steps {
            let enough = at(k as f64 + 0.5);
            let runs = runs(dense.samples.iter().map(|s| s.opacity >= enough));
            // Laid over what is there already, it comes to the step's own opacity.
            let (from, to) = (at(k as f64), at(k as f64 + 1.0));
            let alpha = (1.0 - (1.0 - to) / (1.0 - from).max(1e-9)).clamp(0.0, 1.0);
            let parts = |runs: &[std::ops::Range<usize>]| -> Vec<Outline> { runs.iter().map(|r| dense.part(r.clone(), tolerance_mm)).collect() };
            match layers.last_mut() {
                // Steps that no sample lies between are one.
                Some(last) if runs == before => last.alpha = 1.0 - (1.0 - last.alpha) * (1.0 - alpha),
                _ => layers.push(Layer { outline: Outline::merged(parts(&runs)), alpha }),
            }
            before = runs;
        }
        one(layers)
    }
}

/// The stretches of a sequence where something holds.
fn runs(holds: impl Iterator<Item = bool>) -> Vec<std::ops::Range<usize>> {
    let mut runs: Vec<std::ops::Range<usize>> = Vec::new();
    for (i, _) in holds.enumerate().filter(|h| h.1) {
        match runs.last_mut() {
            Some(last) if last.end == i => last.end = i + 1,
            _ => runs.push(i..i + 1),
        }
    }
    runs
}

/// Deviation of the Gaussian that gives an edge of this 10–90 % distance.
pub fn blur_of(softness_mm: f64) -> f64 {
    softness_mm / SOFT
}

impl Inked {
    /// Deviation of the Gaussian that its edge is blurred by, mm.
    pub fn blur_mm(&self) -> f64 {
        blur_of(self.softness_mm)
    }

    /// `[left, top, right, bottom]` in mm of all that is inked, the soft edge's reach with it.
    pub fn bounds(&self) -> Option<[f64; 4]> {
        let reach = 3.0 * self.blur_mm();
        let hard = self.layers.iter().find_map(|l| l.outline.bounds()).or_else(|| self.stamping.as_ref()?.bounds());
        hard.map(|[l, t, r, b]| [l - reach, t - reach, r + reach, b + reach])
    }

    /// Each layer as SVG path data with its opacity.
    pub fn svg_paths(&self, tolerance_mm: f64) -> Vec<(String, f64)> {
        let path = |l: &Layer| (fit_outline(&l.outline, tolerance_mm).iter().map(|p| p.svg()).collect::<String>(), l.alpha);
        self.layers.iter().map(path).filter(|(d, _)| !d.is_empty()).collect()
    }

    /// Coverage with opacity in it, at `px_per_mm`, the page point `origin_mm` at the top left corner.
    pub fn raster(&self, px_per_mm: f64, origin_mm: [f64; 2], width: usize, height: usize) -> Coverage {
        let mut out = match &self.stamping {
            Some(s) => s.raster(px_per_mm, origin_mm, width, height),
            None => Coverage { width, height, data: vec![0.0; width * height] },
        };
        if let Some(places) = &self.pixels {
            for [x, y] in (Grid { px_per_mm, origin_mm }).course(places.iter().copied()) {
                if (0..width as i64).contains(&x) && (0..height as i64).contains(&y) {
                    out.data[y as usize * width + x as usize] = 1.0;
                }
            }
            return out;
        }
        for l in self.layers.iter().filter(|l| l.alpha > 0.0) {
            let c = rasterise(&l.outline, px_per_mm, origin_mm, width, height);
            for (o, c) in out.data.iter_mut().zip(&c.data) {
                *o = 1.0 - (1.0 - *o) * (1.0 - c * l.alpha as f32);
            }
        }
        let sigma = self.blur_mm() * px_per_mm;
        if sigma > 0.05 {
            out.blur(sigma);
        }
        out
    }
}

impl Coverage {
    /// A Gaussian blur of a deviation in px; beyond the picture there is no ink.
    pub fn blur(&mut self, sigma: f64) {
        let reach = (3.5 * sigma).ceil() as usize;
        let mut kernel: Vec<f32> = (0..=2 * reach).map(|k| (-0.5 * ((k as f64 - reach as f64) / sigma).powi(2)).exp() as f32).collect();
        let total: f32 = kernel.iter().sum();
        kernel.iter_mut().for_each(|k| *k /= total);
        let (w, h) = (self.width, self.height);
        let mut line = vec![0.0f32; w.max(h) + 2 * reach];
        let mut pass = |data: &mut [f32], start: usize, step: usize, n: usize| {
            line[..reach].fill(0.0);
            line[reach + n..n + 2 * reach].fill(0.0);
            (0..n).for_each(|i| line[reach + i] = data[start + i * step]);
            for i in 0..n {
                data[start + i * step] = line[i..=i + 2 * reach].iter().zip(&kernel).map(|(v, k)| v * k).sum();
            }
        };
        (0..h).for_each(|y| pass(&mut self.data, y * w, 1, w));
        (0..w).for_each(|x| pass(&mut self.data, x, w, h));
    }
}
