//! Tip images and paper: coverage to be set down, and heights that take ink.
//!
//! How: halves of size for small prints, read linearly between pixels; paper repeats without a seam of its own. Limits: four million pixels.

use crate::bilinear::bilinear;
use crate::picture::{Picture, PictureError};

/// Why a picture is no tip.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum TipError {
    #[error(transparent)]
    Picture(#[from] PictureError),
    #[error("the tip is empty: no pixel of it is covered")]
    Empty,
    #[error("the paper tooth states no resolution: save it with its dpi")]
    NoResolution,
    #[error("the paper tooth is even: paper without heights takes ink everywhere alike; leave it out")]
    Even,
}

/// Coverage below this is none.
const NOTHING: f32 = 1.0 / 255.0;

/// Coverage alone, in halves of size each half the one before: its colour is the brush's.
#[derive(Debug, Clone, PartialEq)]
pub struct Tip {
    levels: Vec<Grey>,
}

#[derive(Debug, Clone, PartialEq)]
struct Grey {
    width: usize,
    height: usize,
    data: Vec<f32>,
}

/// A tip at one of its sizes.
pub(crate) struct TipLevel<'a> {
    grey: &'a Grey,
    size: [f64; 2],
    /// Beyond this from the middle there is nothing, in image sides.
    pub reach: [f64; 2],
}

impl TipLevel<'_> {
    /// Coverage at `u`, `v` from −0.5 to 0.5 of the image's sides.
    #[inline]
    pub fn coverage(&self, u: f64, v: f64) -> f32 {
        self.grey.sample((u + 0.5) * self.size[0], (v + 0.5) * self.size[1])
    }
}

impl Grey {
    #[inline]
    fn pixel(&self, x: isize, y: isize) -> f32 {
        let inside = x >= 0 && y >= 0 && (x as usize) < self.width && (y as usize) < self.height;
        if inside { self.data[y as usize * self.width + x as usize] } else { 0.0 }
    }

    /// Between pixels; beyond the picture there is nothing. Pixel centres lie at .5.
    fn sample(&self, x: f64, y: f64) -> f32 {
        bilinear(x - 0.5, y - 0.5, |i, j| self.pixel(i, j))
    }

    fn halved(&self) -> Self {
        let (width, height) = (self.width.div_ceil(2), self.height.div_ceil(2));
        let cell = |x: usize, y: usize| {
            let (x, y) = (2 * x as isize, 2 * y as isize);
            0.25 * (self.pixel(x, y) + self.pixel(x + 1, y) + self.pixel(x, y + 1) + self.pixel(x + 1, y + 1))
        };
        Self { width, height, data: (0..width * height).map(|k| cell(k % width, k / width)).collect() }
    }
}

impl Tip {
    /// From a PNG in a data URI, cut to what is covered.
    pub fn read(uri: &str) -> Result<Self, TipError> {
        Self::from_picture(&Picture::read(uri)?)
    }

    /// From coverage, cut to what is covered.
    pub fn from_picture(p: &Picture) -> Result<Self, TipError> {
        let covered = |x: usize, y: usize| p.coverage[y * p.width + x] > NOTHING;
        let rows: Vec<usize> = (0..p.height).filter(|y| (0..p.width).any(|x| covered(x, *y))).collect();
        let columns: Vec<usize> = (0..p.width).filter(|x| (0..p.height).any(|y| covered(*x, y))).collect();
        let (Some(&t), Some(&b), Some(&l), Some(&r)) = (rows.first(), rows.last(), columns.first(), columns.last()) else {
            return Err(TipError::Empty);
        };
        let data = (t..=b).flat_map(|y| p.coverage[y * p.width + l..=y * p.width + r].iter().copied()).collect();
        let mut levels = vec![Grey { width: r - l + 1, height: b - t + 1, data }];
        while let Some(last) = levels.last().filter(|g| g.width.max(g.height) > 2) {
            let next = last.halved();
            levels.push(next);
        }
        Ok(Self { levels })
    }

    /// Length (along the stroke's nib direction) and breadth of the image, as shares of the longer.
    pub fn proportions(&self) -> [f64; 2] {
        let (w, h) = (self.levels[0].width as f64, self.levels[0].height as f64);
        [w / w.max(h), h / w.max(h)]
    }

    /// The level whose pixels are nearest to a pixel of a drawing: `per_pixel` is how many of the tip's a pixel spans.
    pub(crate) fn level(&self, per_pixel: f64) -> usize {
        (per_pixel.max(1.0).log2().round() as usize).min(self.levels.len() - 1)
    }

    pub(crate) fn width_px(&self) -> f64 {
        self.levels[0].width as f64
    }

    /// One of its levels, to be sampled.
    pub(crate) fn at_level(&self, level: usize) -> TipLevel<'_> {
        // A level's sides are whole pixels: the first level's true size, halved, may end within the last.
        let size = [self.levels[0].width, self.levels[0].height].map(|s| s as f64 / (1u64 << level) as f64);
        TipLevel { grey: &self.levels[level], size, reach: size.map(|s| 0.5 + 0.5 / s) }
    }

    /// Corners of the hull of what is covered by half or more, in units of the longer side.
    pub(crate) fn hull(&self) -> Vec<[f64; 2]> {
        let g = &self.levels[0];
        let most = g.data.iter().copied().fold(0.0, f32::max);
        let long = g.width.max(g.height) as f64;
        let mut points = Vec::new();
        for (y, row) in g.data.chunks(g.width).enumerate() {
            let dark = |v: &f32| *v >= 0.5 * most;
            let (Some(l), Some(r)) = (row.iter().position(dark), row.iter().rposition(dark)) else { continue };
            for (x, y) in [(l, y), (r + 1, y), (l, y + 1), (r + 1, y + 1)] {
                points.push([(x as f64 - 0.5 * g.width as f64) / long, (y as f64 - 0.5 * g.height as f64) / long]);
            }
        }
        crate::envelope::convex(points)
    }
}

/// Paper: heights 0…1 that repeat over the page.
#[derive(Debug, Clone, PartialEq)]
pub struct Tooth {
    px_mm: f64,
    heights: Grey,
}

/// Efforts from nothing to full move the ink's level by this much of the heights, so that at 1 the valleys are full.
const DEEP: f64 = 1.2;
/// Over this much of the heights the ink's level runs out.
const SOFT: f64 = 0.2;

impl Tooth {
    /// From a PNG in a data URI with its resolution; its lightest pixels are the high fibres, or its darkest.
    pub fn read(uri: &str, high_is_light: bool) -> Result<Self, TipError> {
        let p = Picture::read(uri)?;
        let px_mm = p.px_mm.ok_or(TipError::NoResolution)?;
        let (low, high) = p.coverage.iter().fold((f32::MAX, f32::MIN), |m, v| (m.0.min(*v), m.1.max(*v)));
        if high - low < 0.02 {
            return Err(TipError::Even);
        }
        let level = |v: &f32| (v - low) / (high - low);
        let data = p.coverage.iter().map(|v| if high_is_light { 1.0 - level(v) } else { level(v) }).collect();
        Ok(Self { px_mm, heights: Grey { width: p.width, height: p.height, data } })
    }

    /// Height of the paper at a page point, mm.
    pub fn height(&self, x: f64, y: f64) -> f64 {
        let g = &self.heights;
        let wrap = |v: f64, n: usize| (v / self.px_mm).rem_euclid(n as f64);
        let (x, y) = (wrap(x, g.width), wrap(y, g.height));
        let at = |i: isize, j: isize| g.data[(j as usize % g.height) * g.width + i as usize % g.width];
        f64::from(bilinear(x, y, at))
    }

    /// The share of ink that paper of a height takes at an effort: high fibres first, the valleys when pressed.
    pub fn takes(height: f64, effort: f64) -> f64 {
        ((height - (1.0 - DEEP * effort)) / SOFT).clamp(0.0, 1.0)
    }
}
