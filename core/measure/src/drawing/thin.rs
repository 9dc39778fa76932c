//! Thinning: a role's ink to a skeleton of one pixel's width, in the order of its distance from the outside.
//!
//! How: a pixel goes where it is simple (Yokoi's number for 8-connected ink is one) and no end, the outermost first, so that the skeleton is
//! medial. Limits: among equal distances reading order decides. Common practice of ordered thinning, no single source.

use super::ink::{Ink, Run};

/// A one-pixel skeleton: its pixels in reading order, and for each of them which neighbours are in it too.
pub struct Skeleton<'a> {
    pub pixels: Vec<u32>,
    /// Bit k of a pixel of the skeleton is set where neighbour k of the same role is in it; elsewhere it means nothing.
    pub near: &'a [u8],
}

/// Neighbours clockwise from the upper left; the opposite of k is k + 4 (mod 8).
pub const AROUND: [(isize, isize); 8] = [(-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0)];

/// Whether a pixel with these neighbours can go: it is simple (Yokoi's number for 8-connected ink is one) and no end.
fn removable(bits: u8) -> bool {
    let clear = |k: u32| bits & (1 << (k % 8)) == 0;
    let yokoi: u32 = [1, 3, 5, 7].iter().map(|&k| u32::from(clear(k) && !(clear(k + 1) && clear(k + 2)))).sum();
    yokoi == 1 && bits.count_ones() >= 2
}

/// Whether only two neighbours are left, one beside the other: the tip of a strip of two pixels' width whose other half has
/// just gone. Taken at once, the next row becomes such a tip, and a straight strip is eaten from its end.
fn tip_of_two(bits: u8) -> bool {
    bits.count_ones() == 2 && bits & bits.rotate_left(1) != 0
}

/// Thins whole pieces of the mask, given by their runs.
pub fn thin<'a>(ink: &Ink, runs: &[Run], near: &'a mut [u8], mark: &mut [u8]) -> Skeleton<'a> {
    let w = ink.width;
    let mut count = 0;
    for run in runs {
        let range = inside(ink, run);
        count += range.len();
        mark[range].fill(run.role + 1);
    }
    for run in runs {
        look_around(near, mark, w, inside(ink, run), run.role + 1);
    }
    for run in runs {
        mark[inside(ink, run)].fill(0);
    }
    let table: [bool; 256] = std::array::from_fn(|b| removable(b as u8));
    let offsets = AROUND.map(|(dx, dy)| dx + dy * w as isize);
    let tips: [bool; 256] = std::array::from_fn(|b| table[b] && tip_of_two(b as u8));
    // On a ridge such a tip waits for the second pass, when the strip under it has been thinned.
    let on_ridge = |i: usize, bits: u8| {
        let next = |k: usize| ink.distance2[i.wrapping_add_signed(offsets[k])] > ink.distance2[i];
        !(0..8).any(|k| bits & 1 << k != 0 && next(k))
    };
    let mut first = true;
    let mut order = by_distance(ink, runs, count);
    loop {
        let before = order.len();
        order.retain(|&i| {
            let i = i as usize;
            let bits = near[i];
            let gone = table[bits as usize] && !(first && tips[bits as usize] && on_ridge(i, bits));
            if gone {
                // Its neighbours have it no longer.
                for (k, offset) in offsets.iter().enumerate() {
                    near[i.wrapping_add_signed(*offset)] &= !(u8::from(bits & 1 << k != 0) << ((k + 4) % 8));
                }
            }
            !gone
        });
        if order.len() == before && !first {
            break;
        }
        first = false;
    }
    order.sort_unstable();
    Skeleton { pixels: order, near }
}

/// Finds the neighbours of a run's pixels that have the same mark.
fn look_around(near: &mut [u8], mark: &[u8], w: usize, range: std::ops::Range<usize>, own: u8) {
    if range.is_empty() {
        return;
    }
    let row = |shift: isize| &mark[(range.start - 1).wrapping_add_signed(shift)..(range.end + 1).wrapping_add_signed(shift)];
    let (above, here, below) = (row(-(w as isize)), row(0), row(w as isize));
    for (x, bits) in near[range.clone()].iter_mut().enumerate() {
        let is = |row: &[u8], k: usize, bit: u32| u8::from(row[x + k] == own) << bit;
        *bits = is(above, 0, 0) | is(above, 1, 1) | is(above, 2, 2) | is(here, 2, 3) | is(below, 2, 4) | is(below, 1, 5) | is(below, 0, 6) | is(here, 0, 7);
    }
}

/// A run's pixels but for the page's outermost ones, so that every pixel has eight neighbours.
fn inside(ink: &Ink, run: &Run) -> std::ops::Range<usize> {
    let row = run.y as usize * ink.width;
    if run.y == 0 || run.y as usize + 1 >= ink.height {
        return row..row;
    }
    let (x0, x1) = ((run.x0 as usize).max(1), (run.x1 as usize).min(ink.width - 1));
    row + x0..row + x1.max(x0)
}

/// Mask pixels by rising squared distance (a counting sort).
fn by_distance(ink: &Ink, runs: &[Run], count: usize) -> Vec<u32> {
    let top = runs.iter().flat_map(|r| &ink.distance2[inside(ink, r)]).max().copied().unwrap_or(0) as usize;
    let mut start = vec![0u32; top + 2];
    for r in runs {
        for d in &ink.distance2[inside(ink, r)] {
            start[*d as usize + 1] += 1;
        }
    }
    for d in 1..start.len() {
        start[d] += start[d - 1];
    }
    let mut out = vec![0u32; count];
    for r in runs {
        for i in inside(ink, r) {
            let slot = &mut start[ink.distance2[i] as usize];
            out[*slot as usize] = i as u32;
            *slot += 1;
        }
    }
    out
}
