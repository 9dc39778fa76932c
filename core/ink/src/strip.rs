//! The strip of a real line, levelled and cut where its ends meet: how far its edges lie off their means.
//!
//! How: where every column crosses 60 % of the ink's level on either side, as ISO/IEC 13660 has it. Limits: it repeats, so that a stroke longer than it shows its period.

use crate::picture::{Picture, PictureError};

/// Both edges of a strip that repeats.
#[derive(Debug, Clone, PartialEq)]
pub struct Strip {
    /// Length of a column of the strip, mm.
    pub step_mm: f64,
    /// The upper and the lower edge off its mean, mm outward, column by column.
    edges: [Vec<f64>; 2],
    /// How far the edges miss one another where the strip's ends meet, mm.
    pub mismatch_mm: f64,
}

/// Why a picture is no strip.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum StripError {
    #[error(transparent)]
    Picture(#[from] PictureError),
    #[error("the strip states no resolution: save it with its dpi")]
    NoResolution,
    #[error("the strip shows no line from its left end to its right: it is to be level, dark on light, and uncut")]
    NoLine,
}

impl Strip {
    /// From a PNG in a data URI: dark ink on light paper (or coverage as alpha), the line level, its resolution in the file.
    pub fn read(uri: &str) -> Result<Self, StripError> {
        let p = Picture::read(uri)?;
        let px_mm = p.px_mm.ok_or(StripError::NoResolution)?;
        let level = p.coverage.iter().copied().fold(0.0f32, f32::max);
        let threshold = 0.6 * level;
        if level < 0.2 || p.width < 8 || p.height < 3 {
            return Err(StripError::NoLine);
        }
        let mut edges = [Vec::with_capacity(p.width), Vec::with_capacity(p.width)];
        for x in 0..p.width {
            let at = |y: usize| p.coverage[y * p.width + x];
            // From outside in, where it crosses the threshold of ISO/IEC 13660 between two pixels.
            let top = (1..p.height).find(|y| at(*y) >= threshold && at(y - 1) < threshold);
            let low = (1..p.height).rev().find(|y| at(y - 1) >= threshold && at(*y) < threshold);
            let (Some(t), Some(b)) = (top, low) else { return Err(StripError::NoLine) };
            let between = |outer: f32, inner: f32| f64::from((threshold - outer) / (inner - outer));
            edges[0].push(-(t as f64 - 1.0 + between(at(t - 1), at(t))) * px_mm);
            edges[1].push((b as f64 - between(at(b), at(b - 1))) * px_mm);
        }
        for e in &mut edges {
            let mean = e.iter().sum::<f64>() / e.len() as f64;
            e.iter_mut().for_each(|v| *v -= mean);
        }
        let mismatch_mm = edges.iter().map(|e| (e[0] - e[e.len() - 1]).abs()).fold(0.0, f64::max);
        Ok(Self { step_mm: px_mm, edges, mismatch_mm })
    }

    /// Length after which it repeats, mm.
    pub fn period_mm(&self) -> f64 {
        self.step_mm * self.edges[0].len() as f64
    }

    /// How far an edge lies off its mean at a way along the stroke, mm outward: side 0 is at the right hand of one who goes along,
    /// where the strip's lower edge is.
    pub fn off(&self, side: usize, way: f64) -> f64 {
        let e = &self.edges[1 - side];
        let at = (way / self.step_mm).rem_euclid(e.len() as f64);
        let i = at as usize % e.len();
        let t = at - at.floor();
        e[i] + (e[(i + 1) % e.len()] - e[i]) * t
    }

    /// How far an edge is moved in at most, mm.
    pub fn deepest_mm(&self) -> f64 {
        self.edges.iter().flatten().fold(0.0, |d, v| f64::max(d, -v))
    }
}
