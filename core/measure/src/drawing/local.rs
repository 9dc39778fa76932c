//! The ink of a drawing whose lines lie on several grounds, or are of several inks: every edge pixel is unmixed between the ink beside it and
//! the ground on its own side.
//!
//! How: flats are labelled as ground or ink (`grounds`). About a pixel that is neither, the nearest ground, another ground and up to two inks
//! are looked for; of the mixtures of two or three of them the simplest that fits is taken (`unmix`). Where no ink is near, as in a line of a
//! pixel or two, the picture's inks stand in. In the space in which the file's own edges say they were blended.

use rayon::prelude::*;

use super::{
    Blend, Plan,
    about::{About, Beside, EDGE, Places, View, vector},
    assemble::{Band, assemble},
    fringes,
    grounds::{self, Grounds},
    ink::{Ink, OFF, PAPER, Pixel},
    labels::{GROUND, MIXED, class},
    mixing::Edges,
    premultiplied::unpremultiplied,
    scratch::Planes,
    unmix::{Vector, length, less, of_three, of_two},
};
use crate::{
    Picture,
    colour::{delta_e, lab},
    source::Kind,
};

/// A mixture of three has to fit better than one of two by so many levels.
const SIMPLER: f32 = 5.0;
/// An ink that is not beside the pixel, likewise; more where another is: a faint edge says little of its colour.
const ABSENT: f32 = 4.0;
const ABSENT_NEAR: f32 = 12.0;
const ABSENT_BESIDE: f32 = 40.0;
/// A fill’s rim that peeks out beside a line: at most so far from its ink, squared px; it has to fit better by so many levels. Not where two inks
/// meet, nor in a lossy file.
const RIM: i32 = 9;
const RIM_COST: f32 = 15.0;
/// What fits no better than this is asked by its colour.
const FITS: f32 = 7.0;
/// Between ground and ink the mixture is given some room.
const ROOM: f32 = 2.0;
const NOISY_ROOM: f32 = 12.0;
const BAND_ROWS: usize = 32;
/// One pixel of so many says how ink was mixed with its ground.
const TELLING: usize = 5;
/// Labels looked at together.
const BLOCK: usize = 32;
/// Beside ink a pixel that has less of it is its edge, whatever its colour.
const HALF: f32 = 0.5;
/// Coverage up to which ink is noise in a file that was compressed with losses, 255ths.
const NOISE: u8 = 12;

struct Local<'a> {
    picture: &'a Picture<'a>,
    labels: &'a [u8],
    grounds: &'a Grounds,
    /// The guide's colours: what is near enough to one is not off-palette.
    tolerances: Vec<f32>,
    blend: Blend,
    places: Places,
}

/// Classifies a picture by its flats; none where it has none to speak of.
pub(super) fn classify(picture: &Picture, plan: &Plan, fixed: Option<u8>, planes: &mut Planes) -> Option<Ink> {
    let mut labels = std::mem::take(&mut planes.halves[0].near);
    let found = grounds::labelled(picture, plan, fixed, &mut labels);
    let ink = found.map(|grounds| {
        let tolerances = plan.roles.iter().map(|r| if let super::Source::Colour { tolerance, .. } = r { *tolerance } else { f32::INFINITY }).collect();
        let mut local =
            Local { picture, labels: &labels, grounds: &grounds, tolerances, blend: Blend::Encoded, places: Places::new(picture.width, grounds.noisy) };
        let (mut ink, edges) = local.run(plan, planes);
        let opacity: Vec<f64> = (0..plan.roles.len()).map(|class| grounds.opacity(class as u8)).collect();
        if !edges.say_linear() {
            ink.opacity = opacity;
            return ink;
        }
        local.blend = Blend::Linear;
        for &i in &ink.touched {
            ink.pixels[i as usize] = PAPER;
        }
        (planes.pixels, planes.distance2) = (ink.pixels, ink.distance2);
        Ink { opacity, ..local.run(plan, planes).0 }
    });
    planes.halves[0].near = labels;
    ink
}

impl Local<'_> {
    fn at(&self, i: usize) -> Vector {
        vector(self.picture.pixel(i), self.blend)
    }

    fn run(&self, plan: &Plan, planes: &mut Planes) -> (Ink, Edges) {
        let (w, h) = (self.picture.width, self.picture.height);
        let mut pixels = std::mem::take(&mut planes.pixels);
        let least = if self.grounds.noisy { NOISE } else { 2 };
        let bands: Vec<(Band, Edges)> = pixels
            .par_chunks_mut(BAND_ROWS * w)
            .enumerate()
            .map(|(k, pixels)| {
                let (first, mut band, mut edges) = (k * BAND_ROWS * w, Band::default(), Edges::default());
                // Most of a page is ground: whole blocks of it are passed over at once.
                let labels = &self.labels[first..first + pixels.len()];
                let blocks = labels.chunks(BLOCK).enumerate().filter(|(_, some)| some.iter().any(|l| *l != GROUND));
                for j in blocks.flat_map(|(b, some)| b * BLOCK..b * BLOCK + some.len()) {
                    let (i, p) = (first + j, &mut pixels[j]);
                    let found = match self.labels[i] {
                        GROUND => continue,
                        MIXED => {
                            if self.blend == Blend::Encoded {
                                edges.look(self.picture, i, i.is_multiple_of(TELLING), |j| self.labels[j] == GROUND, |j| class(self.labels[j]).is_some());
                            }
                            self.mixed(i, None)
                        }
                        label => Pixel { coverage: 255, role: class(label).unwrap_or(OFF) },
                    };
                    if found.coverage > least {
                        *p = found;
                        band.touched.push(i as u32);
                    }
                }
                (band, edges)
            })
            .collect();
        let mut edges = Edges::default();
        let bands: Vec<Band> = bands
            .into_iter()
            .map(|(band, more)| {
                edges.add(more);
                band
            })
            .collect();
        for (i, class) in fringes::find(w, &pixels, &bands.iter().map(|b| &b.touched[..]).collect::<Vec<_>>()) {
            pixels[i as usize] = self.mixed(i as usize, Some(class));
        }
        (
            assemble(
                (w, h),
                pixels,
                std::mem::take(&mut planes.distance2),
                &bands,
                plan,
                self.blend,
                self.picture.kind == Kind::Drawing && !self.grounds.noisy,
            ),
            edges,
        )
    }

    /// What is in a pixel that is neither ground nor ink alone; of one class only, where that is known.
    fn mixed(&self, i: usize, only: Option<u8>) -> Pixel {
        let c = self.at(i);
        let About { grounds, inks, nearest } = self.places.look(&View { picture: self.picture, labels: self.labels, blend: self.blend }, i, c, only.is_some());
        let first = grounds[0].unwrap_or_else(|| self.likeliest(c));
        let mut best = Found { score: f32::INFINITY, off: f32::INFINITY, share: 0.0, class: OFF, mixture: first };
        // Two grounds that meet, and no ink's edge could be here.
        if let Some(second) = grounds[1].filter(|_| nearest > EDGE) {
            let m = of_two(c, first, second);
            best.take(m.off - 1.0, m.off, 0.0, OFF, first);
        }
        let may = |class: u8| only.is_none_or(|o| o == class);
        for (ink, _) in inks.iter().flatten().filter(|i| may(i.0.class)) {
            self.between(c, first, grounds[1], *ink, &mut best);
        }
        if let [Some((a, _)), Some((b, _))] = inks
            && may(a.class)
            && may(b.class)
        {
            let m = of_three(c, first, a.colour, b.colour);
            let class = if m.second >= m.third { a.class } else { b.class };
            best.take(m.off + SIMPLER, m.off, m.second + m.third, class, first);
        }
        let absent = if nearest <= 2 {
            ABSENT_BESIDE
        } else if nearest <= 5 {
            ABSENT_NEAR
        } else {
            ABSENT
        };
        if best.score > FITS {
            for k in self.grounds.inks.iter().filter(|k| may(k.class)) {
                let colour = vector(unpremultiplied(k.colour), self.blend);
                self.between(c, first, grounds[1], Beside { class: k.class, colour, cost: absent }, &mut best);
            }
        }
        if best.score > FITS && !self.grounds.noisy {
            if nearest == i32::MAX {
                // Ink that is nowhere flat is beside no pixel.
                let all = self.grounds.inks.iter().filter(|k| k.area == 0 && may(k.class));
                let all = all.map(|k| Beside { class: k.class, colour: vector(unpremultiplied(k.colour), self.blend), cost: absent });
                self.rim(c, grounds, &all.collect::<Vec<_>>(), &mut best);
            } else if nearest <= RIM && inks[1].is_none() {
                let near: Vec<Beside> = inks.iter().flatten().map(|i| i.0).filter(|i| may(i.class)).collect();
                self.rim(c, grounds, &near, &mut best);
            }
        }
        if only.is_none() && best.off > FITS && best.class != OFF && (nearest > 2 || best.share > HALF) && self.strange(c, &best) {
            return Pixel { role: OFF, coverage: (length(less(c, first)) / 1.5).min(255.0) as u8 };
        }
        Pixel { role: best.class, coverage: (255.0 * best.share + 0.5) as u8 }
    }

    /// The ground of a pixel that has none near, as between lines that nearly touch: the one whose colour it has most of.
    fn likeliest(&self, c: Vector) -> Vector {
        let all = self.grounds.colours.iter().chain([&self.grounds.paper]).map(|g| vector(unpremultiplied(*g), self.blend));
        all.min_by(|a, b| length(less(*a, c)).total_cmp(&length(less(*b, c)))).unwrap_or(c)
    }

    /// A pixel between an ink, its ground, and the rim of a fill that is elsewhere as wide as to be seen.
    fn rim(&self, c: Vector, grounds: [Option<Vector>; 2], inks: &[Beside], best: &mut Found) {
        let first = grounds[0].unwrap_or_else(|| self.likeliest(c));
        let fills = self.grounds.colours.iter().chain([&self.grounds.paper]).map(|g| vector(unpremultiplied(*g), self.blend));
        for fill in fills.filter(|p| grounds.iter().flatten().all(|g| length(less(*g, *p)) > FITS)) {
            for ink in inks {
                let m = of_three(c, first, fill, ink.colour);
                let mixture = [0, 1, 2, 3].map(|k| first[k] + m.second * (fill[k] - first[k]) + m.third * (ink.colour[k] - first[k]));
                best.take(m.off + ink.cost + RIM_COST, m.off, m.third, ink.class, mixture);
            }
        }
    }

    /// A pixel between an ink and one ground, or an ink and two.
    fn between(&self, c: Vector, first: Vector, second: Option<Vector>, ink: Beside, best: &mut Found) {
        let m = of_two(c, first, ink.colour);
        let mixture = [0, 1, 2, 3].map(|k| first[k] + m.second * (ink.colour[k] - first[k]));
        best.take(m.off + ink.cost, m.off, m.second, ink.class, mixture);
        if let Some(second) = second {
            let m = of_three(c, first, second, ink.colour);
            let mixture = [0, 1, 2, 3].map(|k| first[k] + m.second * (second[k] - first[k]) + m.third * (ink.colour[k] - first[k]));
            best.take(m.off + ink.cost + SIMPLER, m.off, m.third, ink.class, mixture);
        }
    }

    /// Whether a colour is further from what it should be mixed of than its role allows.
    fn strange(&self, c: Vector, best: &Found) -> bool {
        let tolerance = self.tolerances.get(best.class as usize).copied().unwrap_or(f32::INFINITY);
        let seen = |v: Vector| {
            let over = [0, 1, 2].map(|k| (v[k] + 255.0 - v[3]).clamp(0.0, 255.0));
            if self.blend == Blend::Linear { lab(over.map(|v| 255.0 * crate::colour::encode(v / 255.0))) } else { lab(over) }
        };
        tolerance.is_finite() && delta_e(seen(c), seen(best.mixture)) > tolerance + if self.grounds.noisy { NOISY_ROOM } else { ROOM }
    }
}

/// The best mixture so far.
struct Found {
    score: f32,
    off: f32,
    share: f32,
    class: u8,
    mixture: Vector,
}

impl Found {
    fn take(&mut self, score: f32, off: f32, share: f32, class: u8, mixture: Vector) {
        if score < self.score {
            *self = Self { score, off, share, class, mixture };
        }
    }
}
