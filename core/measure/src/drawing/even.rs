//! Which pixels are even: those from which the four beside them hardly differ.
//!
//! How: byte by byte along the rows, in bands side by side; a picture that was compressed with losses is given more room, and so is what slopes
//! evenly, as an airbrushed shade does, and a line whose opacity follows the pressure (an opening by a square). Limits: colours are compared channel by channel, premultiplied.

use rayon::prelude::*;

use super::premultiplied::premultiplied;
use crate::Picture;

/// Neighbours differ by no more than this in any of the four: rounding, and a gradient's steps.
const ALIKE: u8 = 2;
/// The same where a picture was compressed with losses, so that about its edges nothing is even.
const NOISY: u8 = 7;

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

/// By how much a pixel lies off the middle of those beside it, in any of the four; by as much as noise shows, and a slope does not.
fn bend(rows: &[Vec<u8>; 3], x: usize, first: bool, last: bool) -> u8 {
    let [above, here, below] = rows;
    let off = |a: u8, b: u8, c: u8| (i16::from(a) + i16::from(b) - 2 * i16::from(c)).unsigned_abs().min(255) as u8;
    let mut most = 0;
    for i in 4 * x..4 * x + 4 {
        if i >= 4 && i + 4 < here.len() {
            most = most.max(off(here[i - 4], here[i + 4], here[i]));
        }
        if !first && !last {
            most = most.max(off(above[i], below[i], here[i]));
        }
    }
    most
}

/// A pixel that is no more than even, and one on a slope.
const EVEN: u8 = 1;
const SLOPE: u8 = 2;
/// The lower left corner of a square.
const CORNER: u8 = 4;
/// What lies in a square that fits.
pub(super) const WIDE: u8 = 8;
/// Writes 1 where a pixel is flat, 0 where it is not; and whether the picture was compressed with losses: there more than rounding makes a
/// good share of it flat that is not even. What slopes as a soft shade does, steeper than a flat, is flat where a small square is.
pub(super) fn find(picture: &Picture, flags: &mut [u8]) -> bool {
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
                    let y = first + j;
                    premultiplied_row(picture, (y + 1).min(h - 1), &mut rows[2]);
                    differences(&rows[0], &rows[1], &rows[2], &mut each, &mut most);
                    for (x, (o, m)) in out.iter_mut().zip(&most).enumerate() {
                        *o = u8::from(*m <= by);
                        if *m > ALIKE && *m <= NOISY {
                            let slope = bend(&rows, x, y == 0, y + 1 == h) <= ALIKE;
                            count[usize::from(slope)] += 1;
                            *o |= SLOPE * u8::from(slope);
                        }
                    }
                    rows.rotate_left(1);
                }
                count
            })
            .reduce(|| [0; 2], |a, b| [a[0] + b[0], a[1] + b[1]])
    };
    let [nearly, slopes] = mark(flags, ALIKE);
    let noisy = nearly * 33 > w * h;
    if noisy {
        mark(flags, NOISY);
    }
    if !noisy && slopes > 0 {
        open(flags, w);
    } else {
        flags.par_iter_mut().for_each(|f| *f &= EVEN);
    }
    noisy
}

/// Leaves of the slopes those that lie in a square of even pixels and slopes, three pixels wide: 1 as what is even, and 0 elsewhere. Narrower
/// ones are feet of edges.
fn open(flags: &mut [u8], w: usize) {
    let rows = flags.len() / w;
    // What lies above and below each band, before any of them changes.
    let beside: Vec<Vec<u8>> = (0..rows)
        .step_by(BAND_ROWS)
        .map(|first| {
            let row = |y: usize| if y < rows { flags[y * w..(y + 1) * w].to_vec() } else { vec![0; w] };
            let end = (first + BAND_ROWS).min(rows);
            [first.wrapping_sub(2), first.wrapping_sub(1), end, end + 1].into_iter().flat_map(row).collect()
        })
        .collect();
    flags.par_chunks_mut(BAND_ROWS * w).zip(beside).for_each(|(band, beside)| {
        let all = [&beside[..2 * w], &*band, &beside[2 * w..]].concat();
        let centres = of_nine(&all, w, u8::min);
        let within = of_nine(&centres, w, u8::max);
        for (f, o) in band.iter_mut().zip(&within) {
            *f = (*f & EVEN) | u8::from(*o > 0);
        }
    });
}

/// Of each pixel but those of the first and the last row what comes of it and the eight about it; beyond the rows' ends lies 0.
fn of_nine(rows: &[u8], w: usize, op: impl Fn(u8, u8) -> u8) -> Vec<u8> {
    let mut out = Vec::with_capacity(rows.len().saturating_sub(2 * w));
    let mut tall = vec![0; w + 2];
    for k in 0..(rows.len() / w).saturating_sub(2) {
        let [above, here, below] = [k, k + 1, k + 2].map(|k| &rows[k * w..(k + 1) * w]);
        for (((t, a), b), c) in tall[1..=w].iter_mut().zip(above).zip(here).zip(below) {
            *t = op(op(*a, *b), *c);
        }
        out.extend((0..w).map(|x| op(op(tall[x], tall[x + 1]), tall[x + 2])));
    }
    out
}

/// Marks with [`WIDE`] what lies in a square, `side` px wide, of which no pixel is 0.
pub(super) fn mark_squares(flags: &mut [u8], w: usize, side: u32) {
    // Down the page: columns of rows that go on for so long to the right.
    let mut down = vec![0u32; w];
    for row in flags.chunks_exact_mut(w) {
        let mut along = 0u32;
        for (f, d) in row.iter_mut().zip(&mut down).rev() {
            along = (along + 1) * u32::from(*f > 0);
            *d = (*d + 1) * u32::from(along >= side);
            *f |= CORNER * u8::from(*d >= side);
        }
    }
    // And up again: what lies above a corner, and to the right.
    let mut up = vec![0u32; w];
    for row in flags.chunks_exact_mut(w).rev() {
        let mut along = 0u32;
        for (f, u) in row.iter_mut().zip(&mut up) {
            *u = if *f & CORNER > 0 { side } else { u.saturating_sub(1) };
            along = if *u > 0 { side } else { along.saturating_sub(1) };
            *f = (*f & !CORNER) | if along > 0 { WIDE } else { 0 };
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::{BAND_ROWS, CORNER, EVEN, SLOPE, WIDE, mark_squares, open};

    /// Whether a pixel lies in a square that holds no 0.
    fn fits(before: &[u8], w: usize, side: usize, i: usize) -> bool {
        let (x, y, h) = (i % w, i / w, before.len() / w);
        let whole = |x0: usize, y0: usize| (y0..y0 + side).all(|v| (x0..x0 + side).all(|u| u < w && v < h && before[v * w + u] > 0));
        (x.saturating_sub(side - 1)..=x).any(|x0| (y.saturating_sub(side - 1)..=y).any(|y0| whole(x0, y0)))
    }

    proptest! {
        /// What is opened is the union of the squares that hold nothing else, also across bands.
        #[test]
        fn slopes_stay_where_a_square_fits(marks in prop::collection::vec(0u8..9, 14 * (BAND_ROWS + 9)), side in 1u32..6) {
            let w = 14;
            let before: Vec<u8> = marks.iter().map(|m| match m { 0 => 0, 1..5 => EVEN, _ => SLOPE }).collect();
            let mut after = before.clone();
            open(&mut after, w);
            let mut marked = before.clone();
            mark_squares(&mut marked, w, side);
            for (i, f) in before.iter().enumerate() {
                prop_assert_eq!(after[i], u8::from(*f == EVEN || fits(&before, w, 3, i)));
                prop_assert_eq!(marked[i] & (WIDE | CORNER), if fits(&before, w, side as usize, i) { WIDE } else { 0 });
            }
        }
    }
}
