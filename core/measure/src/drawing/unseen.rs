//! The colour of an ink that is nowhere wide enough to be flat, as lines under three pixels are.
//!
//! How: of the pixels that are no ground those whose colour lies furthest from all grounds, and from what two grounds make where they meet; of
//! their strongest hundredth the commonest. Limits: of several such inks the one furthest off is found. Common practice, no source.

use std::collections::HashMap;

use super::{
    labels::MIXED,
    premultiplied::{Colour, premultiplied},
    unmix::{Vector, length, less, of_two},
};
use crate::Picture;

/// Among pixels of no label, and of the ink's own: flats that are too small to have a colour each have one together. `grounds` has one at least.
pub(super) fn strongest(picture: &Picture, labels: &[u8], own: u8, grounds: &[Vector]) -> Option<Colour> {
    let mut counts: HashMap<Colour, u32> = HashMap::new();
    for (i, _) in labels.iter().enumerate().filter(|(_, l)| **l == MIXED || **l == own) {
        *counts.entry(premultiplied(picture.pixel(i))).or_default() += 1;
    }
    let far = |c: Vector| {
        let pairs = (1..grounds.len()).flat_map(|i| (0..i).map(move |j| (i, j)));
        pairs.map(|(i, j)| of_two(c, grounds[i], grounds[j]).off).fold(length(less(c, grounds[0])), f32::min)
    };
    let mut all: Vec<(Colour, u32, f32)> = counts.into_iter().map(|(c, n)| (c, n, far(c.map(f32::from)))).collect();
    all.sort_by(|a, b| b.2.total_cmp(&a.2).then(a.0.cmp(&b.0)));
    let total: u32 = all.iter().map(|c| c.1).sum();
    let mut seen = 0;
    let strong = all.iter().take_while(|c| {
        let more = seen * 50 <= total;
        seen += c.1;
        more
    });
    strong.max_by_key(|c| c.1).map(|c| c.0)
}
