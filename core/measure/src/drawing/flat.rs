//! A flat, the runs that it is made of, and what their pixels come to.

use super::premultiplied::{Colour, alike, premultiplied};
use crate::Picture;

/// A connected flat.
#[derive(Debug, Clone)]
pub(super) struct Flat {
    pub area: u32,
    /// Side of the largest square in it, px, as far as it was asked for.
    pub square: u16,
    pub mean: [f32; 4],
    pub low: Colour,
    pub high: Colour,
    /// Some of a gradient's colours, [`SHADE`] apart: between the lowest and the highest of each channel lie many that it has not.
    pub shades: Vec<Colour>,
}

/// How far apart a gradient's colours are kept, in levels, and how many.
const SHADE: u8 = 10;
const SHADES: usize = 64;

impl Flat {
    /// Whether a colour is one that the flat has, or nearly.
    pub(super) fn holds(&self, c: [f32; 4], by: f32) -> bool {
        let within = |low: Colour, high: Colour, by: f32| (0..4).all(|k| c[k] >= f32::from(low[k]) - by && c[k] <= f32::from(high[k]) + by);
        within(self.low, self.high, by) && (self.shades.is_empty() || self.shades.iter().any(|s| within(*s, *s, by + f32::from(SHADE))))
    }

    /// Of a gradient's run the colours at its ends and in its middle.
    pub(super) fn add_shades(&mut self, picture: &Picture, r: &FlatRun) {
        if alike(self.low, self.high, SHADE) {
            return;
        }
        for x in [r.x0, r.x0.midpoint(r.x1), r.x1 - 1] {
            let c = premultiplied(picture.pixel(r.y as usize * picture.width + x as usize));
            if !self.has_more_shades() && !self.shades.iter().any(|s| alike(*s, c, SHADE)) {
                self.shades.push(c);
            }
        }
    }

    /// It may have more colours than are kept.
    pub(super) fn has_more_shades(&self) -> bool {
        self.shades.len() >= SHADES
    }
}

/// A run of flat pixels: `x0..x1` in row `y`.
#[derive(Debug, Clone, Copy)]
pub(super) struct FlatRun {
    pub y: u32,
    pub x0: u32,
    pub x1: u32,
    /// Which flat it is of.
    pub flat: u32,
}

impl FlatRun {
    /// The parts of a run where it is so.
    pub(super) fn parts<F: Fn(u32) -> bool>(&self, is: F) -> impl Iterator<Item = Self> + use<F> {
        let run = *self;
        let mut x = run.x0;
        std::iter::from_fn(move || {
            let x0 = (x..run.x1).find(|x| is(*x))?;
            x = (x0..run.x1).find(|x| !is(*x)).unwrap_or(run.x1);
            Some(Self { x0, x1: x, ..run })
        })
    }
}

/// What is summed over runs.
pub(super) struct Sum {
    area: u32,
    square: u16,
    total: [u64; 4],
    low: Colour,
    high: Colour,
}

impl Sum {
    /// Of nothing yet.
    pub(super) fn none(square: u16) -> Self {
        Self { area: 0, square, total: [0; 4], low: [255; 4], high: [0; 4] }
    }

    /// Of a run; the side of the largest square that ends in it is known.
    pub(super) fn of(picture: &Picture, r: &FlatRun, square: u16) -> Self {
        let row = r.y as usize * picture.width;
        let rgba = &picture.rgba[4 * (row + r.x0 as usize)..4 * (row + r.x1 as usize)];
        let pixels = rgba.as_chunks::<4>().0;
        let first = pixels.first().copied().unwrap_or([0; 4]);
        // All are one where each is as the one before.
        if rgba.get(4..).is_none_or(|rest| rest == &rgba[..rest.len()]) {
            let c = premultiplied(first);
            return Self { area: pixels.len() as u32, square, total: c.map(|v| u64::from(v) * pixels.len() as u64), low: c, high: c };
        }
        let mut s = Self { area: pixels.len() as u32, ..Self::none(square) };
        for p in pixels {
            for (k, v) in premultiplied(*p).into_iter().enumerate() {
                s.total[k] += u64::from(v);
                (s.low[k], s.high[k]) = (s.low[k].min(v), s.high[k].max(v));
            }
        }
        s
    }

    pub(super) fn add(&mut self, s: &Self) {
        (self.area, self.square) = (self.area + s.area, self.square.max(s.square));
        for k in 0..4 {
            self.total[k] += s.total[k];
            (self.low[k], self.high[k]) = (self.low[k].min(s.low[k]), self.high[k].max(s.high[k]));
        }
    }

    /// The flat that they make.
    pub(super) fn flat(&self) -> Flat {
        let mean = self.total.map(|t| (t as f64 / f64::from(self.area.max(1))) as f32);
        Flat { area: self.area, square: self.square, mean, low: self.low, high: self.high, shades: Vec::new() }
    }
}
