//! What lies about a pixel of which neither is known: the grounds and the inks nearest to it.
//!
//! How: places are looked at outward. Where the nearest ground and the nearest ink make up the pixel's colour as well as rounding or noise lets them, no
//! more is looked for; else another ground is, and another ink. Limits: no further than [`FAR`] px. Common practice, no source.

use super::{
    Blend,
    ink::OFF,
    labels::{self, GROUND, MIXED, class},
    premultiplied::alike,
    unmix::{Vector, of_two},
};
use crate::{Picture, colour::linear_of};

/// As far as this, px, a ground and an ink are looked for.
const NEAR: i32 = 3;
const FAR: i32 = 6;
/// Squared distance, px², to which an ink's edge reaches where it lies between two grounds.
pub(super) const EDGE: i32 = 4;
/// Colours nearer than this in all four, levels, are one.
const ONE: u8 = 16;
/// A mixture that lies off by no more than this, in levels, is off by rounding, or by the noise of a file that was compressed with losses.
const ROUNDING: f32 = 1.0;
const NOISE: f32 = 4.0;

/// An ink beside a pixel.
#[derive(Clone, Copy)]
pub(super) struct Beside {
    pub class: u8,
    pub colour: Vector,
    /// What it costs to say so.
    pub cost: f32,
}

/// A pixel's colour, premultiplied, as it is mixed.
#[inline]
pub(super) fn vector(p: [u8; 4], blend: Blend) -> Vector {
    let a = f32::from(p[3]) / 255.0;
    let of = |c: u8| if blend == Blend::Linear { 255.0 * linear_of(c) * a } else { f32::from(c) * a };
    [of(p[0]), of(p[1]), of(p[2]), f32::from(p[3])]
}

/// A labelled picture.
pub(super) struct View<'a> {
    pub picture: &'a Picture<'a>,
    pub labels: &'a [u8],
    pub blend: Blend,
}

/// What was found about a pixel.
pub(super) struct About {
    pub grounds: [Option<Vector>; 2],
    /// Each with the pixel that shows it.
    pub inks: [Option<(Beside, usize)>; 2],
    /// Squared distance of the nearest ink, px².
    pub nearest: i32,
}

/// Places about a pixel, the nearest first, and how many of them are within [`NEAR`].
pub(super) struct Places {
    /// Along the row, down the page, and along the rows that follow one another.
    around: Vec<(i32, i32, isize)>,
    near: usize,
    /// How far off a mixture may lie that is one.
    fits: f32,
}

impl Places {
    /// For a picture of a width in px, compressed with losses or not.
    pub fn new(width: usize, noisy: bool) -> Self {
        let mut around: Vec<(i32, i32)> = (-FAR..=FAR).flat_map(|y| (-FAR..=FAR).map(move |x| (x, y))).filter(|p| *p != (0, 0)).collect();
        around.sort_by_key(|(x, y)| (x * x + y * y, *y, *x));
        let near = around.partition_point(|(x, y)| x * x + y * y <= NEAR * NEAR + 1);
        let around = around.into_iter().map(|(x, y)| (x, y, y as isize * width as isize + x as isize)).collect();
        Self { around, near, fits: if noisy { NOISE } else { ROUNDING } }
    }

    /// What lies about pixel `i`, whose colour is `c`; also where what is nearest explains it, if `all` is asked.
    pub fn look(&self, view: &View, i: usize, c: Vector, all: bool) -> About {
        let (w, h) = (view.picture.width as i32, view.picture.height as i32);
        let (x, y) = (i as i32 % w, i as i32 / w);
        let mut out = About { grounds: [None; 2], inks: [None; 2], nearest: i32::MAX };
        let About { grounds, inks, nearest } = &mut out;
        // Most neighbours are just as the first ground or the first ink.
        let (mut ground_bytes, mut ink_bytes) = ([0u8; 4], [0u8; 4]);
        let apart = |a: Vector, b: Vector| (0..4).any(|k| (a[k] - b[k]).abs() > f32::from(ONE));
        // Compared as they stand, which is quicker: in linear light a level is up to 2.3.
        let near = if view.blend == Blend::Linear { ONE / 3 } else { ONE };
        let same = |a: [u8; 4], b: [u8; 4]| a == b || a[3] == b[3] && alike(a, b, near);
        let inside = x >= FAR && y >= FAR && x + FAR < w && y + FAR < h;
        for (n, (dx, dy, along)) in self.around.iter().enumerate() {
            // Further off only what has not been found is looked for; nothing more is where all four have been.
            if n >= self.near && grounds[0].is_some() {
                break;
            }
            if !inside && (x + dx < 0 || y + dy < 0 || x + dx >= w || y + dy >= h) {
                continue;
            }
            let j = i.wrapping_add_signed(*along);
            let label = view.labels[j];
            if label == MIXED {
                continue;
            }
            if grounds[1].is_some() && inks[1].is_some() {
                break;
            }
            let bytes = view.picture.pixel(j);
            let mut first = false;
            if label == GROUND {
                if grounds[1].is_some() || grounds[0].is_some() && same(bytes, ground_bytes) {
                    continue;
                }
                let c = vector(bytes, view.blend);
                match grounds[0] {
                    None => (grounds[0], ground_bytes, first) = (Some(c), bytes, true),
                    Some(a) if apart(a, c) => grounds[1] = Some(c),
                    Some(_) => {}
                }
            } else {
                if n >= self.near || inks[1].is_some() || inks[0].is_some_and(|(a, _)| labels::label(a.class) == label) && same(bytes, ink_bytes) {
                    continue;
                }
                *nearest = (*nearest).min(dx * dx + dy * dy);
                let ink = Beside { class: class(label).unwrap_or(OFF), colour: vector(bytes, view.blend), cost: 0.0 };
                match inks[0] {
                    None => (inks[0], ink_bytes, first) = (Some((ink, j)), bytes, true),
                    Some((a, _)) if a.class != ink.class || apart(a.colour, ink.colour) => inks[1] = Some((ink, j)),
                    Some(_) => {}
                }
            }
            if let ([Some(ground), None], [Some((ink, _)), None]) = (&grounds, &inks)
                && first
                && !all
                && *nearest <= EDGE
                && of_two(c, *ground, ink.colour).off <= self.fits
            {
                break;
            }
        }
        out
    }
}
