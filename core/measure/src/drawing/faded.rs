//! Lines that fade into their ground: what is thin of a gradient, and has no colour of its wide parts. It hangs together with its ground like a flat,
//! and is none.
//!
//! How: what lies in no square as wide as lines are, and has no colour of what does, is a line where ground lies beside it; between inks it is a
//! gradient's narrow end. Common practice, no source. Limits: of a gradient of more colours than are kept nothing is told.

use std::collections::HashMap;

use petgraph::unionfind::UnionFind;

use super::{
    even::{WIDE, mark_squares},
    flat::{Flat, FlatRun, Sum},
    premultiplied::{Colour, alike, premultiplied},
    unmix::{length, less},
};
use crate::Picture;

/// A flat whose colours are no further apart, in levels, has no line in it.
const RANGE: u8 = 30;
/// A colour of a gradient's wide parts, or nearly, in levels; and of a paper's.
const SAME: f32 = 6.0;
const PAPER: f32 = 2.0;
/// Across a line's edge its ground begins within so many pixels.
const ACROSS: usize = 6;
/// A line has ground beyond this share of its border.
const BESIDE: f64 = 0.5;
/// So few pixels are chance.
const FEW: u32 = 12;
/// Wide parts are looked at in one row of so many.
const EVERY: u32 = 4;
/// As far from its strongest colour, in levels, a line is its ink.
const INK: u8 = 3;

/// A piece of a line that fades: of which flat it was, and whether it is the line's ink, by the line's number, or fainter.
pub(super) struct Piece {
    pub run: FlatRun,
    pub ink: Option<u32>,
}

/// The pieces of lines that fade into the flats that they hang together with, in the order of the runs; `side` is a square's that no line is as
/// wide as. `flags` is 0 where nothing is flat.
pub(super) fn lines(picture: &Picture, side: u16, runs: &[FlatRun], flats: &[Flat], flags: &[u8]) -> Vec<Piece> {
    let may = |f: &Flat| f.square >= side && !alike(f.low, f.high, RANGE);
    if !flats.iter().any(may) {
        return Vec::new();
    }
    let w = picture.width;
    let places = Wide::of(flags, w, picture.height, side);
    let wide = wide_parts(picture, runs, flats, &places, may);
    let thin: Vec<FlatRun> = runs
        .iter()
        .filter_map(|r| wide[r.flat as usize].as_ref().map(|g| (r, g)))
        .flat_map(|(r, g)| places.parts(r, false).map(move |part| (part, g)))
        .flat_map(|(r, g)| r.parts(move |x| !g.holds(colour(picture, &r, x).map(f32::from), room(g))))
        .collect();
    let of = together(&thin);
    // Of each line, by one of its runs: borders that meet ground, and all that meet something; its pixels; its strongest colour.
    let mut found: HashMap<usize, ([u32; 3], Colour)> = HashMap::new();
    for (r, of) in thin.iter().zip(&of) {
        let Some(ground) = &wide[r.flat as usize] else { continue };
        let first = colour(picture, r, r.x0);
        let (counts, strongest) = found.entry(*of).or_insert(([0; 3], first));
        counts[2] += r.x1 - r.x0;
        let middle = r.x0.midpoint(r.x1 - 1);
        for (x, dx, dy) in [(r.x0, -1, 0), (r.x1 - 1, 1, 0), (middle, 0, -1), (middle, 0, 1)] {
            if let Some(is) = across(picture, ground, flags, &places, [x as usize, r.y as usize], [dx, dy]) {
                counts[0] += u32::from(is);
                counts[1] += 1;
            }
        }
        let far = |c: Colour| length(less(c.map(f32::from), ground.mean));
        for c in (r.x0..r.x1).map(|x| colour(picture, r, x)) {
            if far(c) > far(*strongest) {
                *strongest = c;
            }
        }
    }
    found.retain(|_, ([ground, all, area], _)| *area >= FEW && f64::from(*ground) >= BESIDE * f64::from(*all));
    let mut numbers: Vec<usize> = found.keys().copied().collect();
    numbers.sort_unstable();
    let mut out = Vec::new();
    for (r, of) in thin.iter().zip(&of) {
        let Some((_, ink)) = found.get(of) else { continue };
        let number = numbers.binary_search(of).ok().map(|n| n as u32);
        let strong = |x: u32| alike(colour(picture, r, x), *ink, INK);
        out.extend(r.parts(strong).map(|run| Piece { run, ink: number }));
        out.extend(r.parts(|x| !strong(x)).map(|run| Piece { run, ink: None }));
    }
    out.sort_unstable_by_key(|p| (p.run.y, p.run.x0));
    out
}

/// Which places are wide, by blocks of pixels.
struct Wide {
    blocks: Vec<u8>,
    across: usize,
}

/// Side of a block, px.
const BLOCK: usize = 4;

impl Wide {
    /// What lies in a square of blocks, `side` px wide and more, of which no pixel is 0.
    fn of(flags: &[u8], width: usize, height: usize, side: u16) -> Self {
        let across = width.div_ceil(BLOCK);
        let mut blocks = vec![1u8; across * height.div_ceil(BLOCK)];
        for (row, y) in flags.chunks_exact(width).zip(0..) {
            for (block, some) in blocks[y / BLOCK * across..].iter_mut().zip(row.chunks(BLOCK)) {
                *block &= u8::from(!some.contains(&0));
            }
        }
        mark_squares(&mut blocks, across, u32::from(side).div_ceil(BLOCK as u32));
        Self { blocks, across }
    }

    fn row(&self, y: u32) -> &[u8] {
        &self.blocks[y as usize / BLOCK * self.across..][..self.across]
    }

    fn hold(&self, x: u32, y: u32) -> bool {
        self.row(y)[x as usize / BLOCK] & WIDE > 0
    }

    /// The parts of a run that are wide, or those that are not.
    fn parts(&self, r: &FlatRun, wide: bool) -> impl Iterator<Item = FlatRun> {
        let (run, row, mut x) = (*r, self.row(r.y), r.x0);
        std::iter::from_fn(move || {
            let next = |x: u32| (x / BLOCK as u32 + 1) * BLOCK as u32;
            let is = |x: u32| (row[x as usize / BLOCK] & WIDE > 0) == wide;
            while x < run.x1 && !is(x) {
                x = next(x);
            }
            let x0 = x;
            while x < run.x1 && is(x) {
                x = next(x);
            }
            (x0 < run.x1).then_some(FlatRun { x0, x1: x.min(run.x1), ..run })
        })
    }
}

fn colour(picture: &Picture, r: &FlatRun, x: u32) -> Colour {
    premultiplied(picture.pixel(r.y as usize * picture.width + x as usize))
}

/// Of the flats that may have a line in them what their wide parts come to; none of those that have none, or more colours than are kept.
fn wide_parts(picture: &Picture, runs: &[FlatRun], flats: &[Flat], places: &Wide, may: impl Fn(&Flat) -> bool) -> Vec<Option<Flat>> {
    let some = || runs.iter().filter(|r| r.y.is_multiple_of(EVERY));
    let mut sums: Vec<Option<Sum>> = flats.iter().map(|f| may(f).then(|| Sum::none(f.square))).collect();
    for r in some() {
        if let Some(sum) = &mut sums[r.flat as usize] {
            places.parts(r, true).for_each(|part| sum.add(&Sum::of(picture, &part, 0)));
        }
    }
    let mut out: Vec<Option<Flat>> = sums.iter().map(|s| s.as_ref().map(Sum::flat)).collect();
    for r in some() {
        if let Some(flat) = &mut out[r.flat as usize] {
            places.parts(r, true).for_each(|part| flat.add_shades(picture, &part));
        }
    }
    out.into_iter().map(|f| f.filter(|f| f.area > 0 && !f.has_more_shades())).collect()
}

/// How near a colour is to a ground's to be its own, in levels.
fn room(ground: &Flat) -> f32 {
    if alike(ground.low, ground.high, 4) { PAPER } else { SAME }
}

/// What a look across a piece's border meets: nothing where the piece itself goes on or its edge does, else whether it is ground.
fn across(picture: &Picture, ground: &Flat, flags: &[u8], places: &Wide, [mut x, mut y]: [usize; 2], [dx, dy]: [isize; 2]) -> Option<bool> {
    for step in 0..ACROSS {
        (x, y) = (x.wrapping_add_signed(dx), y.wrapping_add_signed(dy));
        if x >= picture.width || y >= picture.height {
            return None;
        }
        let i = y * picture.width + x;
        if flags[i] > 0 {
            let is = places.hold(x as u32, y as u32) || ground.holds(premultiplied(picture.pixel(i)).map(f32::from), room(ground));
            return if is { Some(true) } else { (step > 0).then_some(false) };
        }
    }
    None
}

/// Which of the runs, in the order of their rows, hang together; by one of each.
fn together(runs: &[FlatRun]) -> Vec<usize> {
    let mut sets = UnionFind::<usize>::new(runs.len());
    let mut above = 0;
    for (k, r) in runs.iter().enumerate() {
        while (runs[above].y + 1, runs[above].x1) <= (r.y, r.x0) {
            above += 1;
        }
        runs[above..k].iter().zip(above..).take_while(|(a, _)| a.y + 1 == r.y && a.x0 < r.x1).for_each(|(_, j)| {
            sets.union(j, k);
        });
    }
    sets.into_labeling()
}
