//! Flats: connected pixels of one colour, or of one that runs slowly into another. Most of a picture is flat; what is not is an edge.
//!
//! How: a pixel is flat where the four beside it differ by at most [`ALIKE`]; flat pixels hang together along rows and between rows (union-
//! find). The side of the largest square that lies in a flat says how wide it is. Colours are premultiplied, so that nothing is a colour
//! like any other. Limits: a line under three pixels has none.

use petgraph::unionfind::UnionFind;
use rayon::prelude::*;

use crate::Picture;

/// Red, green, blue and alpha, premultiplied, 0…255.
pub(super) type Colour = [u8; 4];

/// Neighbours differ by no more than this in any of the four: rounding, and a gradient's steps.
const ALIKE: u8 = 2;
/// The same where a picture was compressed with losses, so that about its edges nothing is even.
const NOISY: u8 = 7;

/// A pixel premultiplied.
pub(super) fn premultiplied(p: [u8; 4]) -> Colour {
    if p[3] == 255 {
        return p;
    }
    let a = u32::from(p[3]);
    let m = |c: u8| ((u32::from(c) * a + 127) / 255) as u8;
    [m(p[0]), m(p[1]), m(p[2]), p[3]]
}

/// The colour of a premultiplied one, with its alpha.
pub(super) fn unpremultiplied(c: [u8; 4]) -> [u8; 4] {
    let a = u32::from(c[3]).max(1);
    [c[0], c[1], c[2]].map(|v| (u32::from(v) * 255 / a).min(255) as u8).into_iter().chain([c[3]]).collect::<Vec<u8>>().try_into().unwrap_or(c)
}

pub(super) fn alike(a: Colour, b: Colour, by: u8) -> bool {
    a.iter().zip(b).all(|(x, y)| x.abs_diff(y) <= by)
}

/// A connected flat.
#[derive(Debug, Clone)]
pub(super) struct Flat {
    pub area: u32,
    /// Side of the largest square in it, px.
    pub square: u16,
    pub mean: [f32; 4],
    pub low: Colour,
    pub high: Colour,
}

impl Flat {
    /// Whether a colour is one that the flat has, or nearly.
    pub(super) fn holds(&self, c: [f32; 4], by: f32) -> bool {
        (0..4).all(|k| c[k] >= f32::from(self.low[k]) - by && c[k] <= f32::from(self.high[k]) + by)
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
    if pixels.iter().all(|p| *p == first) {
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

/// A row of a picture, premultiplied, four bytes a pixel.
fn premultiplied_row(picture: &Picture, y: usize, out: &mut Vec<u8>) {
    let w = picture.width;
    out.clear();
    out.extend_from_slice(&picture.rgba[4 * y * w..4 * (y + 1) * w]);
    for p in out.as_chunks_mut::<4>().0.iter_mut().filter(|p| p[3] < 255) {
        *p = premultiplied(*p);
    }
}

/// The most by which each pixel of a row differs from those beside it, in any of the four.
fn differences(above: &[u8], here: &[u8], below: &[u8], each: &mut [u8], out: &mut Vec<u8>) {
    let n = here.len();
    // Byte by byte, so that many are compared at once; the ends of the row have one neighbour less.
    let inside = 4..n.saturating_sub(4).max(4);
    for i in (0..4.min(n)).chain(n.saturating_sub(4).max(4)..n) {
        let left = if i >= 4 { here[i - 4] } else { here[i] };
        let right = if i + 4 < n { here[i + 4] } else { here[i] };
        each[i] = here[i].abs_diff(left).max(here[i].abs_diff(right)).max(here[i].abs_diff(above[i])).max(here[i].abs_diff(below[i]));
    }
    if n > 8 {
        let (left, right) = (&here[..n - 8], &here[8..]);
        let (c, a, b) = (&here[inside.clone()], &above[inside.clone()], &below[inside.clone()]);
        for (((((e, c), l), r), a), b) in each[inside].iter_mut().zip(c).zip(left).zip(right).zip(a).zip(b) {
            *e = c.abs_diff(*l).max(c.abs_diff(*r)).max(c.abs_diff(*a)).max(c.abs_diff(*b));
        }
    }
    out.clear();
    out.extend(each.as_chunks::<4>().0.iter().map(|e| e[0].max(e[1]).max(e[2]).max(e[3])));
}

/// Rows that one thread takes at a time.
const BAND_ROWS: usize = 32;

/// Writes 1 where a pixel is flat, 0 where it is not; and whether the picture was compressed with losses: there more than rounding makes a
/// good share of it flat that is not even.
fn flat_pixels(picture: &Picture, flags: &mut [u8]) -> bool {
    let (w, h) = (picture.width, picture.height);
    let mark = |flags: &mut [u8], by: u8| -> [usize; 2] {
        flags
            .par_chunks_mut(BAND_ROWS * w)
            .enumerate()
            .map(|(k, band)| {
                let mut rows = [Vec::new(), Vec::new(), Vec::new()];
                let (mut each, mut most, mut count) = (vec![0u8; 4 * w], Vec::new(), [0usize; 2]);
                let first = k * BAND_ROWS;
                premultiplied_row(picture, first.saturating_sub(1), &mut rows[0]);
                premultiplied_row(picture, first, &mut rows[1]);
                for (j, out) in band.chunks_exact_mut(w).enumerate() {
                    premultiplied_row(picture, (first + j + 1).min(h - 1), &mut rows[2]);
                    differences(&rows[0], &rows[1], &rows[2], &mut each, &mut most);
                    for (o, m) in out.iter_mut().zip(&most) {
                        *o = u8::from(*m <= by);
                        count[0] += usize::from(*m <= ALIKE);
                        count[1] += usize::from(*m <= NOISY);
                    }
                    rows.rotate_left(1);
                }
                count
            })
            .reduce(|| [0; 2], |a, b| [a[0] + b[0], a[1] + b[1]])
    };
    let [even, nearly] = mark(flags, ALIKE);
    let noisy = (nearly - even) * 33 > w * h;
    if noisy {
        mark(flags, NOISY);
    }
    noisy
}

/// The flats; none where there are so many that the picture is grain. `flags` is a plane to work on.
pub(super) fn find(picture: &Picture, flags: &mut [u8]) -> Option<Flats> {
    let (w, h) = (picture.width, picture.height);
    let noisy = flat_pixels(picture, flags);
    let (mut runs, mut sums): (Vec<FlatRun>, Vec<Sum>) = (Vec::new(), Vec::new());
    let mut squares = (vec![0u16; w], vec![0u16; w]);
    let (mut joins, mut above_runs): (Vec<(u32, u32)>, std::ops::Range<usize>) = (Vec::new(), 0..0);
    let most = w * h / 16 + 4096;
    for (y, flags) in flags.chunks_exact(w).enumerate() {
        if runs.len() > most {
            return None;
        }
        let first = runs.len();
        let (before, now) = (&squares.0, &mut squares.1);
        let mut x = 0;
        while x < w {
            if flags[x] == 0 {
                now[x] = 0;
                x += 1;
                continue;
            }
            let end = flags[x..].iter().position(|f| *f == 0).map_or(w, |n| x + n);
            let mut widest = 0;
            let mut beside = if x > 0 { now[x - 1].min(before[x - 1]) } else { 0 };
            for (n, b) in now[x..end].iter_mut().zip(&before[x..end]) {
                *n = beside.min(*b).saturating_add(1);
                widest = widest.max(*n);
                beside = (*n).min(*b);
            }
            runs.push(FlatRun { y: y as u32, x0: x as u32, x1: end as u32, flat: 0 });
            sums.push(sum(&picture.rgba[4 * (y * w + x)..4 * (y * w + end)], widest));
            x = end;
        }
        // Flat pixels one above the other are alike: that is what flat means.
        let mut k = above_runs.start;
        for i in first..runs.len() {
            while k < above_runs.end && runs[k].x1 <= runs[i].x0 {
                k += 1;
            }
            for j in (k..above_runs.end).take_while(|j| runs[*j].x0 < runs[i].x1) {
                joins.push((i as u32, j as u32));
            }
        }
        above_runs = first..runs.len();
        squares = (squares.1, squares.0);
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
    let flats = all
        .into_iter()
        .map(|s| Flat { area: s.area, square: s.square, mean: s.total.map(|t| (t as f64 / f64::from(s.area)) as f32), low: s.low, high: s.high })
        .collect();
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

#[cfg(test)]
mod tests {
    use super::unpremultiplied;

    #[test]
    fn a_colour_comes_back_from_its_alpha() {
        assert_eq!(unpremultiplied([60, 30, 0, 120]), [127, 63, 0, 120]);
        assert_eq!(unpremultiplied([0; 4]), [0; 4]);
    }
}
