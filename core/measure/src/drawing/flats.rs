//! Flats: connected pixels of one colour, or of one that runs slowly into another. Most of a picture is flat; what is not is an edge.
//!
//! How: even pixels (`even`) hang together along rows and between rows (union-find). The side of the largest square that lies in a flat says how wide it is. Colours are premultiplied, so that nothing is a colour
//! like any other. Limits: a line under three pixels has none.

use std::{collections::HashMap, ops::Range};

use petgraph::unionfind::UnionFind;
use rayon::prelude::*;

use super::{
    even,
    faded::{self, Piece},
    flat::{Flat, FlatRun, Sum},
    premultiplied::premultiplied,
};
use crate::Picture;

/// All flats of a picture, and the runs that they are made of, row by row.
pub(super) struct Flats {
    /// Compressed with losses: nothing is quite even.
    pub noisy: bool,
    pub runs: Vec<FlatRun>,
    pub flats: Vec<Flat>,
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
                out.sums.push(Sum::of(picture, &out.runs[out.runs.len() - 1], widest));
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
    let noisy = even::find(picture, flags);
    let many = w * h / 16 + 4096;
    let parts: Vec<Option<Rows>> = bands(h, most).into_par_iter().map(|band| rows(picture, &*flags, band, most, many)).collect();
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
            all[number[root] as usize].add(&s);
        }
        runs[i].flat = number[root];
    }
    let mut flats: Vec<Flat> = all.iter().map(Sum::flat).collect();
    runs.iter().for_each(|r| flats[r.flat as usize].add_shades(picture, r));
    let faded = faded::lines(picture, most / 2, &runs, &flats, flags);
    if !faded.is_empty() {
        take_out(picture, &faded, &mut runs, &mut flats);
    }
    Some(Flats { noisy, runs, flats })
}

/// Takes lines that fade, in the order of the runs, out of the flats that they hang together with; the ink of each is a flat of its own.
fn take_out(picture: &Picture, faded: &[Piece], runs: &mut Vec<FlatRun>, flats: &mut Vec<Flat>) {
    let first = flats.len() as u32;
    let mut rest = faded.iter().peekable();
    let mut left = Vec::with_capacity(runs.len() + faded.len());
    for r in runs.iter() {
        let mut x = r.x0;
        while let Some(p) = rest.next_if(|p| p.run.y == r.y && p.run.x1 <= r.x1) {
            left.extend((p.run.x0 > x).then_some(FlatRun { x0: x, x1: p.run.x0, ..*r }));
            left.extend(p.ink.map(|n| FlatRun { flat: first + n, ..p.run }));
            x = p.run.x1;
        }
        left.extend((r.x1 > x).then_some(FlatRun { x0: x, ..*r }));
    }
    *runs = left;
    // What their pixels come to, anew.
    let lines = faded.iter().filter_map(|p| p.ink).max().map_or(0, |n| n + 1);
    let mut sums: HashMap<u32, Sum> = (first..first + lines).map(|k| (k, Sum::none(1))).collect();
    sums.extend(faded.iter().map(|p| (p.run.flat, Sum::none(flats[p.run.flat as usize].square))));
    for r in runs.iter() {
        if let Some(sum) = sums.get_mut(&r.flat) {
            sum.add(&Sum::of(picture, r, 1));
        }
    }
    flats.resize_with((first + lines) as usize, || Sum::none(1).flat());
    sums.iter().for_each(|(k, s)| flats[*k as usize] = s.flat());
    runs.iter().filter(|r| sums.contains_key(&r.flat)).for_each(|r| flats[r.flat as usize].add_shades(picture, r));
}

/// Colours with fewer solid pixels, of those that are looked at, are not of a flat.
const LEAST_SOLID: u32 = 6;
/// Rows between those that are looked at.
const EVERY: usize = 4;

/// Whether a picture has flats that are neither its paper nor an ink as the guide has it, so that it is to be looked at by its flats.
pub(super) fn has_more(picture: &Picture, paper: Option<[u8; 3]>, inks: &[[u8; 3]]) -> bool {
    let (w, h) = (picture.width, picture.height);
    let mut counts: HashMap<[u8; 4], u32> = Default::default();
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
