//! Fringes: pixels along an ink's edge that a palette of few colours or a lossy file has given another ink's colour.
//!
//! How: pixels of a class that hang together, none of which is covered whole, and all of which lie right beside ink of another class that is; or
//! a few, as where a taper ends, that touch another class with more ink. They are that ink's edge: a line of their own, however thin, leads away
//! from it. Limits: a fringe of more pixels than [`MOST`] stays what it was.

use rayon::prelude::*;

use super::ink::{NONE, OFF, Pixel};

/// Coverage from which a pixel is an ink's core.
const CORE: u8 = 240;
/// Pixels that may hang together.
const MOST: usize = 400;

/// So few touch another ink by chance only.
const FEW: usize = 8;

/// The pixels that are another class's edge, each with that class; `touched` are those with any ink.
pub(super) fn find(width: usize, pixels: &[Pixel], touched: &[&[u32]]) -> Vec<(u32, u8)> {
    let mut out = Vec::new();
    let mut known = std::collections::HashSet::new();
    // Few pixels lie right beside another class: the others are passed over together.
    let asked = |i: &u32| {
        let p = pixels[*i as usize];
        if p.role == NONE || p.coverage >= CORE || alone(width, pixels, *i as usize, p.role) {
            return None;
        }
        let class = beside(width, pixels, *i as usize, CORE).or_else(|| beside(width, pixels, *i as usize, p.coverage.saturating_add(1)));
        Some((*i, class?))
    };
    let asked: Vec<(u32, u8)> = touched.par_iter().flat_map_iter(|some| some.iter().filter_map(asked)).collect();
    for (i, class) in asked {
        if known.contains(&i) {
            continue;
        }
        let p = pixels[i as usize];
        let mut all = vec![i];
        known.insert(i);
        let (mut next, mut own, mut along) = (0, false, beside(width, pixels, i as usize, CORE) == Some(class));
        while next < all.len() && !own {
            for j in around(width, pixels.len(), all[next] as usize) {
                let q = pixels[j];
                if q.role == p.role && q.coverage > 2 && !own {
                    along &= beside(width, pixels, j, CORE) == Some(class);
                    own = q.coverage >= CORE || all.len() >= if along { MOST } else { FEW };
                    if !own && known.insert(j as u32) {
                        all.push(j as u32);
                    }
                }
            }
            next += 1;
        }
        if !own {
            out.extend(all.into_iter().map(|i| (i, class)));
        }
    }
    out
}

/// Whether nothing but a class and paper lies about a pixel; not told of the picture's border.
fn alone(width: usize, pixels: &[Pixel], i: usize, own: u8) -> bool {
    let plain = |at: usize| pixels[at - 1..at + 2].iter().fold(true, |all, p| all & ((p.role == own) | (p.role == NONE)));
    i > width && i + width + 1 < pixels.len() && plain(i - width) & plain(i) & plain(i + width)
}

/// The class of other ink right beside a pixel that is covered at least so much.
fn beside(width: usize, pixels: &[Pixel], i: usize, least: u8) -> Option<u8> {
    let own = pixels[i].role;
    around(width, pixels.len(), i).map(|j| pixels[j]).find(|q| q.coverage >= least && q.role < OFF && q.role != own).map(|q| q.role)
}

/// The eight pixels about one; none beyond the picture.
fn around(width: usize, count: usize, i: usize) -> impl Iterator<Item = usize> {
    let (x, y) = ((i % width) as isize, (i / width) as isize);
    let rows = (count / width) as isize;
    (-1..=1).flat_map(move |dy| (-1..=1).map(move |dx| (x + dx, y + dy))).filter_map(move |(nx, ny)| {
        let inside = nx >= 0 && ny >= 0 && nx < width as isize && ny < rows;
        (inside && (nx, ny) != (x, y)).then(|| ny as usize * width + nx as usize)
    })
}
