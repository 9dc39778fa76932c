//! Drawings that were scanned: the paper is taken away as from a pen's scan, and each ink's own colour is read off where
//! it is solid.
//!
//! How: what lies beside the sheet is passed over (`scan/beside`); each channel's light is divided by the paper's surface (`scan/paper`);
//! grain far from ink is blanked. Limits: whether
//! a picture is a scan is said by who gives it.

use palette::{Lab, white_point::D65};
use rayon::prelude::*;

use super::{Plan, Source};
use crate::{
    Picture,
    colour::{Rgb, delta_e, encode, lab_of, linear_of},
    scan::{
        beside::Beside,
        cuts,
        paper::{unclip, without_paper},
        shown::Shown,
    },
    stats::median,
};

/// A scan on even white paper.
pub struct Cleaned {
    pub rgba: Vec<u8>,
    /// The colour that each role's ink has in this scan, where some of it is solid.
    pub inks: Vec<Option<Rgb>>,
    /// The sheet does not fill the picture: what lies about it is white here.
    pub beside: bool,
    /// What is said of a stretched contrast.
    pub clipped: Option<&'static str>,
}

/// Share of the paper's light that ink takes at least.
const INK: f32 = 0.25;
/// As far from ink, px, grain is grain; nearer it may be an edge.
const NEAR: usize = 3;

/// Divides the paper out in each channel, one after the other, and blanks what is only grain.
pub fn clean(picture: &Picture, plan: &Plan) -> Cleaned {
    let (w, h) = (picture.width, picture.height);
    let beside = Beside::find(|i| (0..3).map(|c| linear_of(picture.rgba[4 * i + c])).sum::<f32>() / 3.0, w, h);
    let on_page = |x: f64, y: f64| beside.as_ref().is_none_or(|b| !b.holds((x.max(0.0) as usize).min(w - 1), (y.max(0.0) as usize).min(h - 1)));
    let grey = picture.rgba.as_chunks::<4>().0.par_iter().all(|p| p[0] == p[1] && p[0] == p[2]);
    let (mut clipped, mut grain) = (None, 0.0f64);
    let mut rgba = vec![255u8; 4 * w * h];
    for c in 0..if grey { 1 } else { 3 } {
        let light: Vec<f32> = picture.rgba.iter().skip(c).step_by(4).map(|v| linear_of(*v)).collect();
        let mut of = without_paper(&light, w, h, &on_page);
        clipped = clipped.or(unclip(&light, &mut of.absorptance, w).map(|c| c.says));
        grain = grain.max(of.grain);
        rgba.as_chunks_mut::<4>().0.par_iter_mut().zip(&of.absorptance).for_each(|(p, a)| {
            let v = (encode(1.0 - a) * 255.0).round().clamp(0.0, 255.0) as u8;
            if grey { p[..3].fill(v) } else { p[c] = v }
        });
    }
    let off_page = |i: usize| beside.as_ref().is_some_and(|b| b.holds(i % w, i / w));
    let near = grown(&(0..w * h).map(|i| !off_page(i) && absorbed(&rgba, i) > INK).collect::<Vec<bool>>(), w, h);
    let blank = 4.0 * grain as f32;
    rgba.as_chunks_mut::<4>().0.par_iter_mut().enumerate().for_each(|(i, p)| {
        if off_page(i) || !(near[i] || absorbed(p, 0) > blank) {
            *p = [255; 4];
        }
    });
    let inks = inks(&rgba, w, h, plan, grain);
    Cleaned { rgba, inks, beside: beside.is_some(), clipped }
}

/// How much of the paper's light is gone, in the channel where most is.
fn absorbed(rgba: &[u8], i: usize) -> f32 {
    1.0 - linear_of(rgba[4 * i].min(rgba[4 * i + 1]).min(rgba[4 * i + 2]))
}

/// The mask grown by [`NEAR`] px.
fn grown(mask: &[bool], w: usize, h: usize) -> Vec<bool> {
    let along: Vec<bool> = (0..w * h)
        .map(|i| {
            let (x, row) = (i % w, i - i % w);
            mask[row + x.saturating_sub(NEAR)..row + (x + NEAR + 1).min(w)].iter().any(|m| *m)
        })
        .collect();
    (0..w * h)
        .map(|i| {
            let (x, y) = (i % w, i / w);
            (y.saturating_sub(NEAR)..(y + NEAR + 1).min(h)).any(|v| along[v * w + x])
        })
        .collect()
}

/// Each role's colour: the median of the solid pixels nearest to the guide's; for outline and rest, of those near to none. Where its lines are so thin
/// that blur leaves them no solid middle, deeper by what their cuts show (`scan/cuts`).
fn inks(rgba: &[u8], w: usize, h: usize, plan: &Plan, grain: f64) -> Vec<Option<Rgb>> {
    let absorbed = |i: usize| absorbed(rgba, i);
    let known: Vec<Option<(Lab<D65, f32>, f32)>> =
        plan.roles.iter().map(|r| if let Source::Colour { rgb, tolerance } = r { Some((lab_of(*rgb), *tolerance)) } else { None }).collect();
    let other = plan.roles.iter().position(|r| matches!(r, Source::Outline | Source::Rest));
    // A scanned ink may lie some way off the guide's colour: the paper, the lamp and the ink itself shift it.
    let role_of = |i: usize| {
        let c = lab_of([rgba[4 * i], rgba[4 * i + 1], rgba[4 * i + 2]]);
        let nearest = known.iter().enumerate().filter_map(|(k, t)| t.map(|(l, tolerance)| (k, delta_e(c, l), tolerance))).min_by(|a, b| a.1.total_cmp(&b.1));
        nearest.filter(|n| n.1 < n.2 + 14.0).map(|n| n.0).or(other)
    };
    let mut solid: Vec<[Vec<f64>; 3]> = vec![Default::default(); plan.roles.len()];
    for y in 1..h.saturating_sub(1) {
        for x in 1..w.saturating_sub(1) {
            let i = y * w + x;
            let here = absorbed(i);
            // Solid: ink all about, about as dark.
            if here < INK || [i - w - 1, i - w + 1, i + w - 1, i + w + 1, i - 1, i + 1, i - w, i + w].iter().any(|&j| absorbed(j) < 0.8 * here) {
                continue;
            }
            if let Some(role) = role_of(i) {
                for (c, v) in solid[role].iter_mut().enumerate() {
                    v.push(1.0 - f64::from(linear_of(rgba[4 * i + c])));
                }
            }
        }
    }
    let ink = |(role, solid): (usize, &[Vec<f64>; 3])| {
        let seen = (solid[0].len() >= 50).then(|| solid.each_ref().map(|v| median(v).unwrap_or(0.0)))?;
        // In the channel where it is darkest.
        let (k, most) = seen.iter().copied().enumerate().max_by(|a, b| a.1.total_cmp(&b.1))?;
        let channel: Vec<f32> = rgba.iter().skip(k).step_by(4).map(|v| 1.0 - linear_of(*v)).collect();
        let shown = cuts::shown(&channel, w, h, grain, false, &|i| role_of(i) == Some(role));
        let deeper = shown.filter(Shown::is_thin).and_then(|s| s.level()).map_or(1.0, |level| (level / most).max(1.0));
        Some(seen.map(|a| (encode((1.0 - a * deeper) as f32) * 255.0).round().clamp(0.0, 255.0) as u8))
    };
    solid.iter().enumerate().map(ink).collect()
}
