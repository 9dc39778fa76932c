//! How ink was mixed with paper. Where edges lie at many sub-pixel places their coverage is uniform, so its mean is one
//! half for the true way; where they lie at a few (lines along the pixels), a line that repeats at other places has one
//! width for the true way, and another at each place for the wrong one.

use std::collections::BTreeMap;

use super::{Blend, about::vector, unmix::of_two};
use crate::Picture;

/// Kinds of shares that are told apart: those of one kind are the same edge met again, until many kinds are met.
const KINDS: usize = 128;
/// Kinds from which on the mean is believed.
const MANY: f64 = 40.0;
/// A kind counts at most this many times the mean of all: the densest of uniform shares read the wrong way has 2.3.
const DENSEST: f64 = 3.0;
/// Full ink between two edges that are looked at as a line's, px.
const THICK: usize = 64;
/// Widths that are one: the steps of 8 bits and a little, px.
const SAME: f32 = 0.02;
/// Lines along the pixels that tell, at the least.
const PAIRS: usize = 6;
/// More than so many of them are not kept: they are held each against each.
const MOST: usize = 1_000;

/// Edge pixels of one kind: how many, and the sums of their shares of ink read both ways.
#[derive(Clone, Copy, Default)]
struct Met([f64; 3]);

/// A line along the pixels: the shares of its edges, and its width read both ways.
#[derive(Clone, Copy)]
struct Pair {
    shares: [f32; 2],
    width: [f32; 2],
}

/// Edge pixels between ground and ink, each straight across.
pub(super) struct Edges {
    met: [Met; KINDS],
    pairs: BTreeMap<(u16, u8, u8), Pair>,
}

impl Default for Edges {
    fn default() -> Self {
        Self { met: [Met::default(); KINDS], pairs: BTreeMap::new() }
    }
}

impl Edges {
    /// An edge pixel, where ground lies straight across from ink (a corner's coverage is not uniform); asked for its
    /// share if `telling`, and always for a line along the pixels that begins there.
    pub(super) fn look(&mut self, picture: &Picture, i: usize, telling: bool, ground: impl Fn(usize) -> bool, ink: impl Fn(usize) -> bool) {
        let (w, h) = (picture.width, picture.height);
        let (x, y) = (i % w, i / w);
        if x < 1 || y < 1 || x + 3 >= w || y + 3 >= h {
            return;
        }
        let Some((step, along)) = [(1, w), (w, 1)].into_iter().find(|(s, _)| (ground(i - s) && ink(i + s)) || (ground(i + s) && ink(i - s))) else {
            return;
        };
        let enters = ink(i + step);
        let here = picture.pixel(i);
        let begins = enters && picture.pixel(i + along) == here && picture.pixel(i + 2 * along) == here && picture.pixel(i - along) != here;
        if telling && let Some([e, l]) = Self::free(picture, i, if enters { step as isize } else { -(step as isize) }, &ink) {
            let Met(met) = &mut self.met[((e * KINDS as f32) as usize).min(KINDS - 1)];
            met.iter_mut().zip([1.0, f64::from(e), f64::from(l)]).for_each(|(m, more)| *m += more);
        }
        if begins {
            self.pair(picture, i + along, step, ground, ink);
        }
    }

    /// The share of pixel `i`, ink lying `across`, where it may be any: a line under three pixels has full ink between its edges at some
    /// places only, and so its edges' shares are not uniform.
    fn free(picture: &Picture, i: usize, across: isize, ink: impl Fn(usize) -> bool) -> Option<[f32; 2]> {
        let at = |k: isize| i.checked_add_signed(k * across).filter(|i| *i < picture.width * picture.height);
        let (before, first, last) = (at(-1)?, at(1)?, at(3)?);
        let share = shares(picture, i, before, first).filter(|s| (0.04..0.96).contains(&s[0]))?;
        let beyond = || shares(picture, last, before, first).map_or(0.0, |s| s[0]);
        (ink(at(2)?) && (ink(last) || share[0] + beyond() >= 1.0)).then_some(share)
    }

    /// The line whose first edge is pixel `i`, across `step`.
    fn pair(&mut self, picture: &Picture, i: usize, step: usize, ground: impl Fn(usize) -> bool, ink: impl Fn(usize) -> bool) {
        let room = if step == 1 { picture.width - i % picture.width } else { picture.height - i / picture.width };
        let Some(n) = (1..THICK.min(room.saturating_sub(1))).find(|n| !ink(i + n * step)) else {
            return;
        };
        let last = i + n * step;
        if n < 2 || !ground(i - step) || !ground(last + step) || ground(last) {
            return;
        }
        if let (Some(a), Some(b)) = (shares(picture, i, i - step, i + step), shares(picture, last, last + step, last - step)) {
            let width = [0, 1].map(|k| (n - 1) as f32 + a[k] + b[k]);
            self.keep((n as u16, (a[0] * 255.0) as u8, (b[0] * 255.0) as u8), Pair { shares: [a[0], b[0]], width });
        }
    }

    fn keep(&mut self, key: (u16, u8, u8), pair: Pair) {
        if self.pairs.len() < MOST {
            self.pairs.insert(key, pair);
        }
    }

    pub(super) fn add(&mut self, other: Self) {
        self.met.iter_mut().zip(other.met).for_each(|(m, more)| m.0.iter_mut().zip(more.0).for_each(|(m, more)| *m += more));
        other.pairs.into_iter().for_each(|(key, pair)| self.keep(key, pair));
    }

    /// Only where it is beyond doubt.
    pub(super) fn say_linear(&self) -> bool {
        let (count, [encoded, linear]) = self.means();
        if count >= MANY {
            // The mean of uniform shares is off by 0.27/√n; no picture's edges are as free of one another as that, so that
            // at least a twentieth is asked for.
            return (linear - 0.5).abs() + 0.05 < (encoded - 0.5).abs() && (encoded - 0.5).abs() > 4.0 * 0.27 / count.sqrt();
        }
        let [encoded, linear] = [0, 1].map(|k| self.repeated(k));
        self.pairs.len() >= PAIRS && linear >= 0.8 && encoded <= 0.4
    }

    /// How many shares there are, none of which counts for the crowd of its like, and their mean read both ways.
    fn means(&self) -> (f64, [f64; 2]) {
        let total = |cap: f64| self.met.iter().map(|m| m.0[0].min(cap)).sum::<f64>();
        let mut cap = f64::INFINITY;
        for _ in 0..KINDS {
            let next = (DENSEST * total(cap) / KINDS as f64).max(1.0);
            if next >= cap {
                break;
            }
            cap = next;
        }
        let count = total(cap);
        let sum = |k: usize| self.met.iter().filter(|m| m.0[0] > 0.0).map(|m| m.0[k] / m.0[0] * m.0[0].min(cap)).sum::<f64>();
        (count, [1, 2].map(|k| sum(k) / count.max(1.0)))
    }

    /// The share of the lines along the pixels whose width is met again at another place, read encoded (0) or linear (1).
    fn repeated(&self, k: usize) -> f64 {
        // A place and its mirror image show one width either way.
        let elsewhere = |p: &Pair, o: &Pair| o.shares.iter().all(|s| (s - p.shares[0]).abs() > 0.05);
        let again = |p: &Pair| self.pairs.values().any(|o| elsewhere(p, o) && (o.width[k] - p.width[k]).abs() < SAME);
        self.pairs.values().filter(|p| again(p)).count() as f64 / self.pairs.len().max(1) as f64
    }
}

/// The share of ink in a pixel between a ground's and an ink's, read encoded and linear; only opaque colours tell.
fn shares(picture: &Picture, at: usize, ground: usize, ink: usize) -> Option<[f32; 2]> {
    let [p, g, k] = [at, ground, ink].map(|i| picture.pixel(i));
    [p, g, k].iter().all(|c| c[3] == 255).then(|| [Blend::Encoded, Blend::Linear].map(|b| of_two(vector(p, b), vector(g, b), vector(k, b)).second))
}
