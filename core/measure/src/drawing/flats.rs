//! Flats: connected pixels of one colour, or of one that runs slowly into another. Most of a picture is flat; what is not is an edge.
//!
//! How: even pixels (`even`) hang together along rows and between rows (union-find). The side of the largest square that lies in a flat says how wide it is. Colours are premultiplied, so that nothing is a colour
//! like any other. Limits: a line under three pixels has none.

use std::ops::Range;

use petgraph::unionfind::UnionFind;
use rayon::prelude::*;

use super::{
    even,
    premultiplied::{Colour, alike, premultiplied},
};
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

    fn add_shade(&mut self, c: Colour) {
        if self.shades.len() < SHADES && !self.shades.iter().any(|s| alike(*s, c, SHADE)) {
            self.shades.push(c);
        }
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

/// All flats of a picture, and the runs that they are made of, row by row.
pub(super) struct Flats {
    /// Compressed with losses: nothing is quite even.
    pub noisy: bool,
    pub runs: Vec<FlatRun>,
    pub flats: Vec<Flat>,
}

/// What is summed over a run.
struct Sum {
    area: u32,
    square: u16,
    total: [u64; 4],
    low: Colour,
    high: Colour,
}

/// What a run's pixels come to.
fn sum(rgba: &[u8], square: u16) -> Sum {
    let pixels = rgba.as_chunks::<4>().0;
    let first = pixels.first().copied().unwrap_or([0; 4]);
    // All are one where each is as the one before.
    if rgba.get(4..).is_none_or(|rest| rest == &rgba[..rest.len()]) {
        let c = premultiplied(first);
        return Sum { area: pixels.len() as u32, square, total: c.map(|v| u64::from(v) * pixels.len() as u64), low: c, high: c };
    }
    let mut s = Sum { area: pixels.len() as u32, square, total: [0; 4], low: [255; 4], high: [0; 4] };
    for p in pixels {
        for (k, v) in premultiplied(*p).into_iter().enumerate() {
            s.total[k] += u64::from(v);
            (s.low[k], s.high[k]) = (s.low[k].min(v), s.high[k].max(v));
        }
    }
    s
}

/// Runs of some rows, what their pixels come to, which hang together, and where the last row's begin.
struct Rows {
    runs: Vec<FlatRun>,
    sums: Vec<Sum>,
    joins: Vec<(u32, u32)>,
    last: usize,
}

/// Which of the runs `below` lie under which of those `above`, both of one row: flat pixels one above the other are alike, that is what flat means.
fn joined(runs: &[FlatRun], above: Range<usize>, below: Range<usize>, joins: &mut Vec<(u32, u32)>) {
    let mut k = above.start;
    for i in below {
        while k < above.end && runs[k].x1 <= runs[i].x0 {
            k += 1;
        }
        joins.extend((k..above.end).take_while(|j| runs[*j].x0 < runs[i].x1).map(|j| (i as u32, j as u32)));
    }
}

/// The runs of some rows, and the side of the largest square, at most `most` px, that ends in each; none where there are more runs than `many`.
fn rows(picture: &Picture, flags: &[u8], rows: Range<usize>, most: u16, many: usize) -> Option<Rows> {
    let w = picture.width;
    let mut out = Rows { runs: Vec::new(), sums: Vec::new(), joins: Vec::new(), last: 0 };
    let mut above = 0..0;
    let (mut before, mut now) = (vec![0u16; w], vec![0u16; w]);
    // What lies in a square that ends in the first row is looked at for its side alone.
    for y in rows.start.saturating_sub(usize::from(most))..rows.end {
        let (own, first) = (y >= rows.start, out.runs.len());
        let flags = &flags[y * w..(y + 1) * w];
        let mut x = 0;
        while x < w {
            if flags[x] == 0 {
                now[x] = 0;
                x += 1;
                continue;
            }
            let end = memchr::memchr(0, &flags[x..]).map_or(w, |n| x + n);
            let mut widest = 0;
            let mut beside = if x > 0 { now[x - 1].min(before[x - 1]) } else { 0 };
            for (n, b) in now[x..end].iter_mut().zip(&before[x..end]) {
                *n = (beside.min(*b) + 1).min(most);
                widest = widest.max(*n);
                beside = (*n).min(*b);
            }
            if own {
                out.runs.push(FlatRun { y: y as u32, x0: x as u32, x1: end as u32, flat: 0 });
                out.sums.push(sum(&picture.rgba[4 * (y * w + x)..4 * (y * w + end)], widest));
            }
            x = end;
        }
        if own {
            joined(&out.runs, above, first..out.runs.len(), &mut out.joins);
            above = first..out.runs.len();
        }
        if out.runs.len() > many {
            return None;
        }
        std::mem::swap(&mut before, &mut now);
    }
    out.last = above.start;
    Some(out)
}

/// Bands of rows, each so many times as high as what is looked at above it.
fn bands(height: usize, most: u16) -> Vec<Range<usize>> {
    let count = (height / (4 * usize::from(most))).clamp(1, rayon::current_num_threads());
    (0..count).map(|k| k * height / count..(k + 1) * height / count).collect()
}

/// The flats; none where there are so many that the picture is grain. A square's side is told up to `most` px, at least 1. `flags` is a plane to
/// work on.
pub(super) fn find(picture: &Picture, most: u16, flags: &mut [u8]) -> Option<Flats> {
    let (w, h) = (picture.width, picture.height);
    let noisy = even::find(picture, most / 2, flags);
    let (flags, many) = (&*flags, w * h / 16 + 4096);
    let parts: Vec<Option<Rows>> = bands(h, most).into_par_iter().map(|band| rows(picture, flags, band, most, many)).collect();
    let (mut runs, mut sums, mut joins): (Vec<FlatRun>, Vec<Sum>, Vec<(u32, u32)>) = (Vec::new(), Vec::new(), Vec::new());
    let mut above = 0..0;
    for part in parts {
        let (part, n) = (part?, runs.len());
        let row = part.runs.first().map(|r| r.y);
        runs.extend(part.runs);
        sums.extend(part.sums);
        joins.extend(part.joins.into_iter().map(|(a, b)| (a + n as u32, b + n as u32)));
        let below = n..n + runs[n..].partition_point(|r| Some(r.y) == row);
        // The row above a band is the last of the one before, unless nothing in one of them is flat.
        if runs.get(above.start).is_some_and(|r| Some(r.y + 1) == row) {
            joined(&runs, above, below, &mut joins);
        }
        above = n + part.last..runs.len();
    }
    if runs.len() > many {
        return None;
    }
    let mut sets = UnionFind::<u32>::new(runs.len());
    for (a, b) in joins {
        sets.union(a, b);
    }
    let mut number = vec![u32::MAX; runs.len()];
    let mut all: Vec<Sum> = Vec::new();
    for (i, s) in sums.into_iter().enumerate() {
        let root = sets.find_mut(i as u32) as usize;
        if number[root] == u32::MAX {
            number[root] = all.len() as u32;
            all.push(s);
        } else {
            let t = &mut all[number[root] as usize];
            (t.area, t.square) = (t.area + s.area, t.square.max(s.square));
            for k in 0..4 {
                t.total[k] += s.total[k];
                (t.low[k], t.high[k]) = (t.low[k].min(s.low[k]), t.high[k].max(s.high[k]));
            }
        }
        runs[i].flat = number[root];
    }
    let mean = |s: &Sum| s.total.map(|t| (t as f64 / f64::from(s.area)) as f32);
    let mut flats: Vec<Flat> =
        all.into_iter().map(|s| Flat { area: s.area, square: s.square, mean: mean(&s), low: s.low, high: s.high, shades: Vec::new() }).collect();
    // A gradient's colours: of each of its runs the ends and the middle.
    for r in &runs {
        let flat = &mut flats[r.flat as usize];
        if !alike(flat.low, flat.high, SHADE) {
            for x in [r.x0, r.x0.midpoint(r.x1), r.x1 - 1] {
                flat.add_shade(premultiplied(picture.pixel(r.y as usize * w + x as usize)));
            }
        }
    }
    Some(Flats { noisy, runs, flats })
}

/// Colours with fewer solid pixels, of those that are looked at, are not of a flat.
const LEAST_SOLID: u32 = 6;
/// Rows between those that are looked at.
const EVERY: usize = 4;

/// Whether a picture has flats that are neither its paper nor an ink as the guide has it, so that it is to be looked at by its flats.
pub(super) fn has_more(picture: &Picture, paper: Option<[u8; 3]>, inks: &[[u8; 3]]) -> bool {
    let (w, h) = (picture.width, picture.height);
    let mut counts: std::collections::HashMap<[u8; 4], u32> = Default::default();
    for y in (1..h.saturating_sub(1)).step_by(EVERY) {
        let row = |y: usize| picture.rgba[4 * y * w..4 * (y + 1) * w].as_chunks::<4>().0;
        let (above, here, below) = (row(y - 1), row(y), row(y + 1));
        let mut last = [0; 4];
        for x in 1..w.saturating_sub(1) {
            let p = here[x];
            // Paper, and whatever was paper or a role's ink a pixel before.
            if p[3] == 0 || p == last {
                continue;
            }
            let near = |c: [u8; 3]| c.iter().zip(&p).all(|(a, b)| a.abs_diff(*b) <= 2);
            if p[3] == 255 && paper.is_some_and(near) || p[3] >= 253 && inks.iter().any(|c| near(*c)) {
                last = p;
                continue;
            }
            let alike = |q: [u8; 4]| q.iter().zip(&p).all(|(a, b)| a.abs_diff(*b) <= 1);
            if alike(here[x - 1]) && alike(here[x + 1]) && alike(above[x]) && alike(below[x]) {
                let n = counts.entry(premultiplied(p)).or_default();
                *n += 1;
                if *n >= LEAST_SOLID {
                    return true;
                }
            }
        }
    }
    false
}
