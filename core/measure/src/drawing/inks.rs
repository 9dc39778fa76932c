//! The paper and the inks of a picture: which colours they have, and how each ink mixes with the paper.
//!
//! How: paper is alpha where there is any, else the commonest colour, unless that is a page's blacks; inks are the guide's colours, and for roles
//! by rest or outline the colours seen often that are no mixture of another with paper. Limits: one paper a picture. Common practice, no source.

use palette::{Lab, white_point::D65};

use super::{Blend, Plan, Source};
use crate::{
    Picture,
    colour::{Rgb, delta_e, encode, lab, lab_of, linear_of},
    scan::stretch::BLACK_INK,
};

/// A colour that ink may have.
pub(super) struct Target {
    pub(super) class: u8,
    pub(super) tolerance: f32,
    pub(super) paper: [f32; 3],
    pub(super) toward: [f32; 3],
    pub(super) paper_linear: [f32; 3],
    pub(super) toward_linear: [f32; 3],
    pub(super) square: f32,
    pub(super) square_linear: f32,
    /// L*a*b* of its mixtures with the paper by their share in 255ths, for one way of mixing.
    pub(super) mixtures: Vec<Lab<D65, f32>>,
}

impl Target {
    pub(super) fn new(class: u8, tolerance: f32, paper: [u8; 3], rgb: [u8; 3]) -> Option<Self> {
        let p = paper.map(f32::from);
        let lin = |c: [u8; 3]| c.map(linear_of);
        let (pl, rl) = (lin(paper), lin(rgb));
        let toward = [0, 1, 2].map(|i| f32::from(rgb[i]) - p[i]);
        let toward_linear = [0, 1, 2].map(|i| rl[i] - pl[i]);
        let square = dot(toward, toward);
        (square > 100.0)
            .then(|| Self {
                class,
                tolerance,
                paper: p,
                toward,
                paper_linear: pl,
                toward_linear,
                square,
                square_linear: dot(toward_linear, toward_linear).max(1e-6),
                mixtures: Vec::new(),
            })
            .map(|t| t.mixed(Blend::Encoded))
    }

    pub(super) fn rgb(&self) -> Rgb {
        [0, 1, 2].map(|k| (self.paper[k] + self.toward[k]) as u8)
    }

    pub(super) fn mixed(self, blend: Blend) -> Self {
        let mixtures = (0..=255).map(|share| lab(self.mixture(share as f32 / 255.0, blend))).collect();
        Self { mixtures, ..self }
    }

    /// The share of this ink in a pixel's colour.
    pub(super) fn share(&self, c: [u8; 3], blend: Blend) -> f32 {
        match blend {
            Blend::Encoded => dot([0, 1, 2].map(|i| f32::from(c[i]) - self.paper[i]), self.toward) / self.square,
            Blend::Linear => {
                let d = [0, 1, 2].map(|i| linear_of(c[i]) - self.paper_linear[i]);
                dot(d, self.toward_linear) / self.square_linear
            }
        }
    }

    /// The nearest mixture of this ink with the paper, encoded 0…255.
    pub(super) fn mixture(&self, share: f32, blend: Blend) -> [f32; 3] {
        let t = share.clamp(0.0, 1.0);
        match blend {
            Blend::Encoded => [0, 1, 2].map(|i| self.paper[i] + t * self.toward[i]),
            Blend::Linear => [0, 1, 2].map(|i| 255.0 * encode(self.paper_linear[i] + t * self.toward_linear[i])),
        }
    }

    pub(super) fn plain_residual(&self, c: [u8; 3], share: f32, blend: Blend) -> f32 {
        let m = self.mixture(share, blend);
        let d = [0, 1, 2].map(|i| f32::from(c[i]) - m[i]);
        dot(d, d).sqrt()
    }

    /// How far the colour lies from any mixture of this ink with the paper.
    pub(super) fn residual(&self, c: Lab<D65, f32>, share: f32) -> f32 {
        delta_e(c, self.mixtures[(share.clamp(0.0, 1.0) * 255.0 + 0.5) as usize])
    }
}

pub(super) fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}

/// How a picture's paper is known.
pub(super) enum Paper {
    /// By alpha.
    Clear,
    Colour([u8; 3]),
}

/// As dark as this (L*), the commonest colour is paper only where nothing that is so much lighter takes this share of the picture.
const BLACK: f32 = 25.0;
const LIGHTER: f32 = 40.0;
const ROOM: f64 = 0.05;

/// The light colour with most pixels, where what has most of all may be a spotted black. `colours` with their pixels.
pub(super) fn beside_a_black(commonest: Rgb, colours: impl Iterator<Item = (Rgb, usize)>) -> Option<Rgb> {
    let dark = lab_of(commonest).l;
    if dark >= BLACK {
        return None;
    }
    let (mut light, mut all, mut most) = (0, 0, (0, None));
    for (c, n) in colours {
        all += n;
        if lab_of(c).l > dark + LIGHTER {
            light += n;
            most = most.max((n, Some(c)));
        }
    }
    most.1.filter(|_| light as f64 > ROOM * all as f64)
}

/// Alpha where there is any; else the commonest colour, and whether that may be a black.
pub(super) fn find_paper(picture: &Picture) -> (Paper, bool) {
    let n = picture.width * picture.height;
    let step = (n / 4000).max(1);
    // A step that shares no factor with the row length looks at every column.
    let step = if picture.width.is_multiple_of(step) { step + 1 } else { step };
    let (mut colours, mut clear) = (Vec::new(), 0);
    for i in (0..n).step_by(step) {
        let p = picture.pixel(i);
        if p[3] < 128 { clear += 1 } else { colours.push([p[0], p[1], p[2]]) }
    }
    if clear * 20 > clear + colours.len() {
        return (Paper::Clear, false);
    }
    colours.sort_unstable();
    let commonest = colours.chunk_by(|a, b| a == b).max_by_key(|c| (c.len(), c[0].map(u32::from).iter().sum::<u32>()));
    let paper = commonest.map_or([255; 3], |c| c[0]);
    (Paper::Colour(paper), beside_a_black(paper, colours.chunk_by(|a, b| a == b).map(|c| (c[0], c.len()))).is_some())
}

/// The colours that ink may have in a scan, from which the paper has been taken.
pub(super) fn scanned_targets(plan: &Plan, inks: &[Option<Rgb>]) -> Vec<Target> {
    // No ink on paper is as black as a screen's.
    let black = (encode(BLACK_INK as f32) * 255.0).round() as u8;
    let of = |(i, role): (usize, &Source)| match role {
        Source::Colour { rgb, tolerance } => Target::new(i as u8, *tolerance, [255; 3], inks[i].unwrap_or(rgb.map(|v| v.max(black)))),
        Source::Outline | Source::Rest => Target::new(i as u8, f32::INFINITY, [255; 3], inks[i].unwrap_or([black; 3])),
        Source::Layer => None,
    };
    plan.roles.iter().enumerate().filter_map(of).map(|t| t.mixed(Blend::Linear)).collect()
}

/// The colours that ink may have: the roles', and for outline and rest those that the picture itself shows.
pub(super) fn targets(picture: &Picture, plan: &Plan, paper: &Paper, fixed: Option<u8>) -> Vec<Target> {
    let ground = if let Paper::Colour(p) = paper { *p } else { [255; 3] };
    let mut out = Vec::new();
    if fixed.is_none() {
        for (i, role) in plan.roles.iter().enumerate() {
            if let Source::Colour { rgb, tolerance } = role {
                out.extend(Target::new(i as u8, *tolerance, ground, *rgb));
            }
        }
    }
    let other = fixed.or_else(|| plan.roles.iter().position(|r| matches!(r, Source::Outline | Source::Rest)).map(|i| i as u8));
    let Some(class) = other else { return out };
    // Ink of any colour: the colours seen often, darkest against the paper first, mixtures of one with paper left out.
    let n = picture.width * picture.height;
    let mut counts: std::collections::HashMap<[u8; 3], u32> = Default::default();
    for i in 0..n {
        let p = picture.pixel(i);
        let rgb = [p[0], p[1], p[2]];
        if p[3] >= 128 && (rgb != ground || matches!(paper, Paper::Clear)) {
            *counts.entry(rgb).or_default() += 1;
        }
    }
    let total: u32 = counts.values().sum();
    let mut seen: Vec<([u8; 3], u32)> = counts.into_iter().filter(|c| c.1 * 200 >= total).collect();
    let contrast = |c: [u8; 3]| (0..3).map(|i| (i32::from(c[i]) - i32::from(ground[i])).pow(2)).sum::<i32>();
    seen.sort_by_key(|(c, n)| (-contrast(*c), std::cmp::Reverse(*n)));
    for (rgb, _) in seen.into_iter().take(64) {
        let c = lab_of(rgb);
        let mixture = out.iter().any(|t: &Target| t.residual(c, t.share(rgb, Blend::Encoded)) <= t.tolerance.max(6.0));
        if !mixture {
            out.extend(Target::new(class, f32::INFINITY, ground, rgb));
        }
    }
    out
}
