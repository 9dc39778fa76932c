//! Which colours the ink of a drawing has, where nobody says so: solid colours that are not the paper's.
//!
//! How: colours seen in even patches, joined within a CIEDE2000 of 5, mixtures of one with paper left out. Limits: at most 24. Common practice, no source.

use std::collections::HashMap;

use palette::{Lab, white_point::D65};

use super::inks::beside_a_black;
use crate::{
    Picture,
    colour::{Rgb, delta_e, lab_of},
};

/// Colours nearer than this are one, CIEDE2000.
const ONE: f32 = 5.0;
/// A colour with fewer solid pixels is that of an edge, not of ink.
const LEAST_PX: usize = 24;
/// No more colours than this are told apart.
const MOST: usize = 24;

/// The ink's colours, the most used first. A pixel is solid where the two beside it or the two above and below have its colour.
pub fn inks(picture: &Picture) -> Vec<Rgb> {
    let (w, h) = (picture.width, picture.height);
    let at = |x: usize, y: usize| -> Option<Rgb> {
        let p = &picture.rgba[4 * (y * w + x)..4 * (y * w + x) + 4];
        (p[3] == 255).then(|| [p[0], p[1], p[2]])
    };
    let mut solid: HashMap<Rgb, usize> = HashMap::new();
    for y in 1..h.saturating_sub(1) {
        for x in 1..w.saturating_sub(1) {
            let Some(c) = at(x, y) else { continue };
            if at(x - 1, y) == Some(c) && at(x + 1, y) == Some(c) || at(x, y - 1) == Some(c) && at(x, y + 1) == Some(c) {
                *solid.entry(c).or_default() += 1;
            }
        }
    }
    let mut all: Vec<(Rgb, usize)> = solid.into_iter().filter(|s| s.1 >= LEAST_PX).collect();
    all.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(&b.0)));
    // Where the paper is not clear, it is the colour with most pixels that is no black.
    let clear = picture.rgba.as_chunks::<4>().0.iter().filter(|p| p[3] == 0).count() * 2 > w * h;
    let white = match all.first() {
        Some((most, _)) if !clear => beside_a_black(*most, all.iter().copied()).unwrap_or(*most),
        _ => [255; 3],
    };
    let mut out: Vec<(Rgb, Lab<D65, f32>)> = Vec::new();
    let paper = lab_of(white);
    for (c, _) in all {
        let l = lab_of(c);
        if delta_e(l, paper) > ONE && out.len() < MOST && out.iter().all(|o| delta_e(o.1, l) > ONE) {
            out.push((c, l));
        }
    }
    // A mixture of paper and a stronger ink is that ink's edge, drawn long and level.
    let strong = out.clone();
    out.retain(|(c, _)| !strong.iter().any(|(s, _)| s != c && is_mixture(*c, *s, white)));
    out.into_iter().map(|o| o.0).collect()
}

/// Whether a colour is a mixture of the paper and an ink, within a step or two of each channel.
fn is_mixture(c: Rgb, ink: Rgb, paper: Rgb) -> bool {
    let (mut top, mut bottom) = (0.0, 0.0);
    for i in 0..3 {
        let way = f64::from(ink[i]) - f64::from(paper[i]);
        top += way * (f64::from(c[i]) - f64::from(paper[i]));
        bottom += way * way;
    }
    let share = if bottom > 0.0 { top / bottom } else { 0.0 };
    let mixed = |i: usize| f64::from(paper[i]) + share * (f64::from(ink[i]) - f64::from(paper[i]));
    (0.02..0.97).contains(&share) && (0..3).all(|i| (mixed(i) - f64::from(c[i])).abs() < 3.0)
}
