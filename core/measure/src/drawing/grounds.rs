//! Which flats of a drawing are ink and which are the ground that its lines lie on: nothing, paper, white and painted fills, a rough that
//! shows through.
//!
//! How: a flat of a role's colour is that role's ink, also where it is half transparent. Of the others what is wide is ground, and what is
//! narrow is ground where it has a ground's colour, is faint, or lies between inks as a small fill does; else it is ink of no role, or of
//! the role that takes the rest. A wide flat is ink of the rest where it is black and there is a light ground. Common practice, no source.
//! Limits: what is no flat (a texture, a blur) is told by what lies about it.

use rayon::prelude::*;

use super::{
    Plan, Source,
    flat::{Flat, FlatRun},
    flats::{self, Flats},
    ink::OFF,
    labels::{GROUND, INK, LIKE, MIXED, OPEN, bordered, class, label},
    premultiplied::{Colour, alike, premultiplied},
    unmix::{Vector, length, less},
    unseen,
};
use crate::{
    Picture,
    colour::{delta_e, lab, lab_of},
};

/// A colour that ink of a class has in this picture.
#[derive(Debug, Clone, Copy)]
pub(super) struct InkColour {
    pub class: u8,
    pub colour: Colour,
    pub area: u32,
}

/// What was found of a picture's grounds and inks.
pub(super) struct Grounds {
    pub inks: Vec<InkColour>,
    /// The ground that takes most room.
    pub paper: Colour,
    /// The colours of those that have one, the commonest first.
    pub colours: Vec<Colour>,
    /// Faint ink is the file's noise.
    pub noisy: bool,
}

/// Ink is at least as opaque as this, and a ground's contrast is under [`FAINT`] of the strongest ink's.
const OPAQUE: f32 = 0.35 * 255.0;
const FAINT: f32 = 0.33;
/// A narrow flat of a wide ground's colour, or nearly, in levels.
const SAME: f32 = 6.0;
/// As dark as this (L*), a wide flat may be a spotted black; a ground is so much lighter.
const BLACK: f32 = 25.0;
const LIGHTER: f32 = 40.0;
/// Lines that run together have so many times the area of the square that fits where they do.
const RUN_TOGETHER: u32 = 6;
/// A fill has ink on at least this share of its border.
const FILLED: f64 = 0.6;
/// What has a fill's colour elsewhere is a piece of fill where ink is on this share of its border.
const FILL_COLOURED: f64 = 0.15;
/// So many colours of ink are told apart in a class.
const MOST_INKS: usize = 12;
const LEAST_PX: u32 = 6;
/// A flat of fewer pixels that is no ground's is chance.
const FEW_PX: u32 = 3;
/// So many grounds, and inks about a small fill, are told by their colours.
const MOST_GROUNDS: usize = 64;
/// Of so many grounds what two of them make where they meet is no ink's colour.
const MEETING: usize = 7;
/// Labels have room for so many roles.
const MOST_ROLES: usize = 240;
/// Labels that one thread takes at a time.
const LABELS_AT_ONCE: usize = 1 << 15;
/// A ground of which so little is flat has no colour of its own.
const LEAST_GROUND: u32 = 30;

fn vector(c: Colour) -> Vector {
    c.map(f32::from)
}

/// The colour that a premultiplied one has where it is opaque.
fn straight(c: Vector) -> [f32; 3] {
    [0, 1, 2].map(|k| (c[k] * 255.0 / c[3].max(1.0)).min(255.0))
}

/// Lightness over white.
fn lightness(c: Vector) -> f32 {
    lab([0, 1, 2].map(|k| (c[k] + 255.0 - c[3]).min(255.0))).l
}

struct Sorter<'a> {
    picture: &'a Picture<'a>,
    roles: Vec<(u8, palette::Lab<palette::white_point::D65, f32>, f32, Vector)>,
    /// The class that takes ink of any colour.
    other: Option<u8>,
    wide: u16,
    /// Colours of a noisy picture are given more room, CIEDE2000, and its smallest flats say nothing.
    noisy: bool,
}

const NOISY_ROOM: f32 = 8.0;
const NOISY_PX: u32 = 16;

/// Labels a picture's pixels; none where it has no flats to speak of.
pub(super) fn labelled(picture: &Picture, plan: &Plan, fixed: Option<u8>, labels: &mut [u8]) -> Option<Grounds> {
    if plan.roles.len() > MOST_ROLES {
        return None;
    }
    let by_colour = |(i, r): (usize, &Source)| match r {
        Source::Colour { rgb, tolerance } => Some((i as u8, lab_of(*rgb), *tolerance, vector([rgb[0], rgb[1], rgb[2], 255]))),
        _ => None,
    };
    let roles = if fixed.is_some() { Vec::new() } else { plan.roles.iter().enumerate().filter_map(by_colour).collect() };
    let other = fixed.or_else(|| plan.roles.iter().position(|r| matches!(r, Source::Outline | Source::Rest)).map(|i| i as u8));
    let widest = if plan.widest_px > 0.0 { plan.widest_px } else { 16.0 };
    let wide = (1.3 * widest + 2.0).clamp(6.0, 4000.0) as u16;
    let Flats { noisy, runs, flats } = flats::find(picture, 2 * wide + 1, labels)?;
    let sorter = Sorter { picture, roles, other, wide, noisy };
    labels.fill(MIXED);
    let of_flat = sorter.sort(&runs, &flats, labels);
    let paper = (0..flats.len()).filter(|k| of_flat[*k] == GROUND).max_by_key(|k| flats[*k].area).map_or([255; 4], |k| round(flats[k].mean));
    let mut inks = inks(&flats, &of_flat);
    let colours = uniform(&flats, &of_flat, noisy);
    sorter.add_unseen(&mut inks, labels, paper, &colours);
    sorter.thin(&mut *labels, &inks, &colours);
    Some(Grounds { inks, paper, colours, noisy })
}

/// The colours of grounds that have one, the commonest first: wide ones, and a rough's strokes.
fn uniform(flats: &[Flat], of_flat: &[u8], noisy: bool) -> Vec<Colour> {
    // Of a gradient no colour is its own; noise about one is.
    let within = if noisy { 40 } else { 4 };
    let mut all: Vec<(Colour, u32)> = Vec::new();
    for (f, _) in flats.iter().zip(of_flat).filter(|(f, o)| **o == GROUND && alike(f.low, f.high, within)) {
        let c = round(f.mean);
        if let Some(o) = all.iter_mut().find(|o| alike(o.0, c, 2)) {
            o.1 += f.area;
        } else if all.len() < 16 * MOST_INKS {
            all.push((c, f.area));
        }
    }
    all.sort_by_key(|c| std::cmp::Reverse(c.1));
    all.into_iter().filter(|c| c.1 >= LEAST_GROUND).take(2 * MOST_INKS).map(|c| c.0).collect()
}

fn round(c: Vector) -> Colour {
    c.map(|v| v.round() as u8)
}

/// The inks' colours by class, the commonest first.
fn inks(flats: &[Flat], of_flat: &[u8]) -> Vec<InkColour> {
    let mut order: Vec<usize> = (0..flats.len()).filter(|k| of_flat[*k] > INK && flats[*k].area >= LEAST_PX).collect();
    order.sort_by_key(|k| std::cmp::Reverse(flats[*k].area));
    let mut out: Vec<InkColour> = Vec::new();
    for k in order {
        let (Some(class), colour) = (class(of_flat[k]), round(flats[k].mean)) else { continue };
        if let Some(i) = out.iter_mut().find(|i| i.class == class && alike(i.colour, colour, 8)) {
            i.area += flats[k].area;
        } else if out.iter().filter(|i| i.class == class).count() < MOST_INKS {
            out.push(InkColour { class, colour, area: flats[k].area });
        }
    }
    out
}

impl Grounds {
    /// How opaque a class's commonest ink is, 0…1; of none that was seen, 1.
    pub fn opacity(&self, class: u8) -> f64 {
        let own = self.inks.iter().filter(|i| i.class == class && i.area > 0).max_by_key(|i| i.area);
        own.map_or(1.0, |i| f64::from(i.colour[3]) / 255.0)
    }
}

impl Sorter<'_> {
    /// Whether a flat is wider than lines are; where several lines of one ink run together they are as wide, and long.
    fn is_wide(&self, f: &Flat) -> bool {
        let square = u32::from(f.square);
        f.square > self.wide && (f.square > 2 * self.wide || f.area < RUN_TOGETHER * square * square)
    }

    /// The role whose colour a flat has.
    fn role(&self, c: Vector) -> Option<u8> {
        if c[3] < OPAQUE {
            return None;
        }
        let own = lab(straight(c));
        self.roles
            .iter()
            .map(|(class, l, tolerance, _)| (*class, delta_e(own, *l), *tolerance))
            .filter(|r| r.1 <= r.2 + if self.noisy { NOISY_ROOM } else { 0.0 })
            .min_by(|a, b| a.1.total_cmp(&b.1))
            .map(|r| r.0)
    }

    /// What each flat is; written into the labels too.
    fn sort(&self, runs: &[FlatRun], flats: &[Flat], labels: &mut [u8]) -> Vec<u8> {
        let mut out: Vec<u8> = flats
            .iter()
            .map(|f| match self.role(f.mean) {
                Some(class) => label(class),
                None if f.mean[3] < 1.0 || self.is_wide(f) => GROUND,
                None if self.noisy && f.area < NOISY_PX => MIXED,
                None => OPEN,
            })
            .collect();
        let grounds =
            |out: &[u8]| (0..flats.len()).filter(|k| out[*k] == GROUND && (flats[*k].square > self.wide || flats[*k].mean[3] < 1.0)).collect::<Vec<_>>();
        // Blacks, where the rest is a role's.
        if let Some(other) = self.other {
            let lights: Vec<(usize, f32)> = grounds(&out).into_iter().map(|k| (k, lightness(flats[k].mean))).collect();
            let most = lights.iter().map(|l| l.1).fold(0.0, f32::max);
            for (k, l) in lights {
                if l < BLACK && most > l + LIGHTER && flats[k].mean[3] >= OPAQUE {
                    out[k] = label(other);
                }
            }
        }
        let mut wide = grounds(&out);
        if wide.is_empty()
            && let Some(k) = (0..flats.len()).filter(|k| out[*k] == OPEN).max_by_key(|k| flats[*k].area)
        {
            // A small picture: most of it is its paper.
            out[k] = GROUND;
            wide.push(k);
        }
        // Many grounds have few colours: the largest have them.
        wide.sort_by_key(|k| std::cmp::Reverse(flats[*k].area));
        wide.truncate(MOST_GROUNDS);
        let contrast = |c: Vector| wide.iter().map(|k| length(less(c, flats[*k].mean))).fold(f32::INFINITY, f32::min);
        let strongest = self
            .roles
            .iter()
            .map(|r| contrast(r.3))
            .chain((0..flats.len()).filter(|k| out[*k] != GROUND && flats[*k].area >= LEAST_PX).map(|k| contrast(flats[k].mean)));
        let strongest = strongest.filter(|c| c.is_finite()).fold(0.0, f32::max);
        // A fill's colour away from the fill may be a line's: the paper's is not.
        let fills = if self.other.is_some() && !self.noisy { &wide[1..] } else { &[] };
        let paper = wide.first().map(|k| flats[*k].mean);
        let of_fill = |f: &Flat| {
            let far = paper.is_some_and(|p| length(less(f.mean, p)) >= FAINT * strongest);
            far && f.area >= LEAST_PX && fills.iter().any(|k| flats[*k].holds(f.mean, SAME))
        };
        for (f, o) in flats.iter().zip(&mut out).filter(|(_, o)| **o == OPEN) {
            let same = wide.iter().any(|k| flats[*k].holds(f.mean, SAME)) || contrast(f.mean) < FAINT * strongest;
            if same && !of_fill(f) {
                *o = GROUND;
            } else if f.area < FEW_PX {
                *o = MIXED;
            }
        }
        for r in runs {
            labels[r.y as usize * self.picture.width..][r.x0 as usize..r.x1 as usize].fill(out[r.flat as usize]);
        }
        // What is left is a line's or a small fill's, the strongest first.
        let mut open: Vec<usize> = (0..flats.len()).filter(|k| out[*k] == OPEN).collect();
        let contrasts: Vec<f32> = open.iter().map(|k| contrast(flats[*k].mean)).collect();
        let mut order: Vec<usize> = (0..open.len()).collect();
        order.sort_by(|a, b| contrasts[*b].total_cmp(&contrasts[*a]));
        open = order.into_iter().map(|n| open[n]).collect();
        let mut known: Vec<Vector> = self.roles.iter().map(|r| r.3).collect();
        let mut of: Vec<Vec<FlatRun>> = Vec::new();
        let mut place = vec![usize::MAX; flats.len()];
        open.iter().enumerate().for_each(|(n, k)| place[*k] = n);
        of.resize(open.len(), Vec::new());
        for r in runs.iter().filter(|r| place[r.flat as usize] != usize::MAX) {
            of[place[r.flat as usize]].push(*r);
        }
        for (k, own) in open.into_iter().zip(of) {
            // A line's own edge has nearly its own colour: that is no other ink.
            let others: Vec<Vector> = known.iter().copied().filter(|c| length(less(*c, flats[k].mean)) > 2.0 * LIKE).collect();
            let filled = bordered(self.picture, &own, labels, &others) >= if of_fill(&flats[k]) { FILL_COLOURED } else { FILLED };
            out[k] = match self.other {
                _ if filled => GROUND,
                Some(other) => label(other),
                None => label(OFF),
            };
            if !filled && self.other.is_some() {
                let c = flats[k].mean;
                if known.len() < MOST_GROUNDS && known.iter().all(|k| length(less(*k, c)) > SAME) {
                    known.push(c);
                }
            }
            for r in &own {
                labels[r.y as usize * self.picture.width..][r.x0 as usize..r.x1 as usize].fill(out[k]);
            }
        }
        out
    }

    /// Roles whose ink is nowhere wide enough to be flat take the guide's colour, the rest what is strongest.
    fn add_unseen(&self, inks: &mut Vec<InkColour>, labels: &[u8], paper: Colour, colours: &[Colour]) {
        for (class, _, _, colour) in &self.roles {
            if !inks.iter().any(|i| i.class == *class) {
                inks.push(InkColour { class: *class, colour: round(*colour), area: 0 });
            }
        }
        let Some(class) = self.other.filter(|o| !inks.iter().any(|i| i.class == *o)) else { return };
        let grounds: Vec<Vector> = [paper].into_iter().chain(colours.iter().copied().filter(|c| *c != paper).take(MEETING)).map(vector).collect();
        if let Some(colour) = unseen::strongest(self.picture, labels, label(class), &grounds) {
            inks.push(InkColour { class, colour, area: 0 });
        }
    }

    /// Labels what is as thin as to be no flat, and has an ink's or a ground's own colour.
    fn thin(&self, labels: &mut [u8], inks: &[InkColour], grounds: &[Colour]) {
        let w = self.picture.width;
        let n = labels.len();
        labels.par_chunks_mut(LABELS_AT_ONCE).enumerate().for_each(|(k, some)| {
            for (j, label) in some.iter_mut().enumerate().filter(|(_, l)| **l == MIXED) {
                let i = k * LABELS_AT_ONCE + j;
                let c = premultiplied(self.picture.pixel(i));
                if let Some(ink) = inks.iter().find(|k| k.area > 0 && alike(k.colour, c, 2)) {
                    *label = self::label(ink.class);
                } else if grounds.iter().any(|g| alike(*g, c, 1)) {
                    let beside = [i.wrapping_sub(1), i + 1, i.wrapping_sub(w), i + w];
                    let same = |j: &&usize| **j < n && alike(premultiplied(self.picture.pixel(**j)), c, 1);
                    if beside.iter().filter(same).count() >= 2 {
                        *label = GROUND;
                    }
                }
            }
        });
    }
}
