//! Which pixels are even: those from which the four beside them hardly differ.
//!
//! How: byte by byte along the rows, in bands side by side; a picture that was compressed with losses is given more room. Limits: colours are
//! compared channel by channel, premultiplied.

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

/// Writes 1 where a pixel is flat, 0 where it is not; and whether the picture was compressed with losses: there more than rounding makes a
/// good share of it flat that is not even.
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
