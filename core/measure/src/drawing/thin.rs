//! The thinned medial axis: mask pixels are taken away in the order of their distance while the ink's topology holds.

use super::classify::{Ink, Run};

/// A one-pixel skeleton: role + 1 at its pixels, 0 elsewhere, and the list of its pixels in reading order.
pub struct Skeleton {
    pub mark: Vec<u8>,
    pub pixels: Vec<u32>,
}

/// Neighbours clockwise from the upper left.
pub const AROUND: [(isize, isize); 8] = [(-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0)];

/// Bit k is set where neighbour k of the marked pixel `i` has the same mark. The page's outermost pixels are never marked.
#[inline]
pub fn neighbours(mark: &[u8], w: usize, i: usize) -> u8 {
    let own = mark[i];
    let row = |at: usize| -> [bool; 3] {
        let r = &mark[at - 1..at + 2];
        [r[0] == own, r[1] == own, r[2] == own]
    };
    let (a, b, c) = (row(i - w), row(i), row(i + w));
    u8::from(a[0])
        | u8::from(a[1]) << 1
        | u8::from(a[2]) << 2
        | u8::from(b[2]) << 3
        | u8::from(c[2]) << 4
        | u8::from(c[1]) << 5
        | u8::from(c[0]) << 6
        | u8::from(b[0]) << 7
}

/// Whether a pixel with these neighbours can go: it is simple (Yokoi's number for 8-connected ink is one) and no end.
fn removable(bits: u8) -> bool {
    let clear = |k: u32| bits & (1 << (k % 8)) == 0;
    let yokoi: u32 = [1, 3, 5, 7].iter().map(|&k| u32::from(clear(k) && !(clear(k + 1) && clear(k + 2)))).sum();
    yokoi == 1 && bits.count_ones() >= 2
}

/// Thins the mask on a blank plane.
pub fn thin(ink: &Ink, mut mark: Vec<u8>) -> Skeleton {
    let w = ink.width;
    let mut count = 0;
    for run in &ink.runs {
        let range = inside(ink, run);
        count += range.len();
        mark[range].fill(run.role + 1);
    }
    let table: [bool; 256] = std::array::from_fn(|b| removable(b as u8));
    let mut order = by_distance(ink, count);
    loop {
        let before = order.len();
        order.retain(|&i| {
            let i = i as usize;
            let gone = table[neighbours(&mark, w, i) as usize];
            if gone {
                mark[i] = 0;
            }
            !gone
        });
        if order.len() == before {
            break;
        }
    }
    order.sort_unstable();
    Skeleton { mark, pixels: order }
}

/// A run's pixels but for the page's outermost ones, so that every marked pixel has eight neighbours.
fn inside(ink: &Ink, run: &Run) -> std::ops::Range<usize> {
    let row = run.y as usize * ink.width;
    if run.y == 0 || run.y as usize + 1 >= ink.height {
        return row..row;
    }
    let (x0, x1) = ((run.x0 as usize).max(1), (run.x1 as usize).min(ink.width - 1));
    row + x0..row + x1.max(x0)
}

/// Mask pixels by rising squared distance (a counting sort).
fn by_distance(ink: &Ink, count: usize) -> Vec<u32> {
    let top = ink.runs.iter().flat_map(|r| &ink.distance2[inside(ink, r)]).max().copied().unwrap_or(0) as usize;
    let mut start = vec![0u32; top + 2];
    for r in &ink.runs {
        for d in &ink.distance2[inside(ink, r)] {
            start[*d as usize + 1] += 1;
        }
    }
    for d in 1..start.len() {
        start[d] += start[d - 1];
    }
    let mut out = vec![0u32; count];
    for r in &ink.runs {
        for i in inside(ink, r) {
            let slot = &mut start[ink.distance2[i] as usize];
            out[*slot as usize] = i as u32;
            *slot += 1;
        }
    }
    out
}
