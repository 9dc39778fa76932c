//! What a pixel of a drawing with several grounds is labelled as: ground, ink of a class, an edge, or a narrow flat that is not told yet; and
//! what lies about such a flat.

use super::{
    flat::FlatRun,
    ink::OFF,
    premultiplied::premultiplied,
    unmix::{Vector, length, less},
};
use crate::Picture;

/// An edge, or a line that is too thin to be flat.
pub(super) const MIXED: u8 = 0;
pub(super) const GROUND: u8 = 1;
/// Ink: its class and this much.
pub(super) const INK: u8 = 2;
/// A narrow flat that is neither yet.
pub(super) const OPEN: u8 = 255;

/// The label of ink of a class; [`OFF`] has one too.
pub(super) fn label(class: u8) -> u8 {
    if class == OFF { INK } else { INK + 1 + class }
}

/// The class of ink by its label; none for ground and edges.
pub(super) fn class(label: u8) -> Option<u8> {
    match label {
        MIXED | GROUND => None,
        INK => Some(OFF),
        l => Some(l - INK - 1),
    }
}

/// Edges are looked across as far as this, px.
const ACROSS: usize = 6;
/// A pixel that is so near to an ink's colour, in levels, is that ink's.
pub(super) const LIKE: f32 = 48.0;

/// The share of a flat's border that has ink beyond it.
pub(super) fn bordered(picture: &Picture, own: &[FlatRun], labels: &[u8], known: &[Vector]) -> f64 {
    let (w, h) = (picture.width, picture.height);
    let (mut inked, mut all) = (0u32, 0u32);
    // Whether there is ink across the edge that begins at a pixel; none where the flat itself goes on.
    let mut look = |x: usize, y: usize, dx: isize, dy: isize| {
        let (mut x, mut y) = (x, y);
        let mut found = false;
        for step in 0..ACROSS {
            (x, y) = (x.wrapping_add_signed(dx), y.wrapping_add_signed(dy));
            if x >= w || y >= h {
                break;
            }
            match labels[y * w + x] {
                OPEN if step == 0 => return,
                MIXED => {
                    let c = premultiplied(picture.pixel(y * w + x)).map(f32::from);
                    found |= known.iter().any(|k| length(less(c, *k)) < LIKE);
                }
                GROUND | OPEN => break,
                l => {
                    found |= l != INK;
                    break;
                }
            }
        }
        all += 1;
        inked += u32::from(found);
    };
    let every = (own.len() / 200).max(1);
    for r in own.iter().step_by(every) {
        let (y, x0, x1) = (r.y as usize, r.x0 as usize, r.x1 as usize - 1);
        look(x0, y, -1, 0);
        look(x1, y, 1, 0);
        for x in [x0, (x0 + x1) / 2, x1] {
            look(x, y, 0, -1);
            look(x, y, 0, 1);
        }
    }
    f64::from(inked) / f64::from(all.max(1))
}
