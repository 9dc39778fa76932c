//! One planted fault on a handed-in drawing, by how far beyond its limit it is; and what looks like faults and is none.
//!
//! Severity: 1 is at the limit, over 1 is a fault, under 1 is none; what must stay over a limit (a speck's area, a gap's width) is divided by
//! it. Everything is made from the definitions of the findings (docs/methods.md, "Faults") alone. Limits: edges of a hard finish have no severity.

use std::f64::consts::{PI, TAU};

use eddymist_check::{
    FindingKind,
    guide::{Ends, LineGuide},
};
use eddymist_ink::Outline;
use eddymist_measure::colour::{delta_e, lab_of};
use rand::{Rng, seq::IndexedRandom};

use super::{
    Edge, Ground, HandedIn, Shape,
    content::{Hand, INKS, WEIGHTS, coloured, finished, role},
};
use crate::{
    figures::{aside, bow, ring, run_out, stroke},
    rng,
};

/// A kind of finding and how far it is beyond its limit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fault {
    pub kind: FindingKind,
    pub severity: f64,
}

/// A drawing with its fault, and the box `[left, top, right, bottom]` in px that the fault lies in.
pub struct Planted {
    pub handed: HandedIn,
    pub at: Option<[f64; 4]>,
}

const PROP: [u8; 3] = [0x8a, 0x1f, 0x4e];
const PROP_WEIGHT: f64 = 5.0;
/// The prop's role, behind the two of the plain guide.
const PROP_ROLE: usize = 2;

/// Whether a fault of this kind can be planted on a ground: what has no colour of its own cannot be off the palette, and what a file's kind
/// does to edges is no artist's.
pub fn can_be(kind: FindingKind, ground: Ground) -> bool {
    match kind {
        // That role's inks live between the inner line's width and the contour's.
        FindingKind::Thin | FindingKind::Uneven => ground != Ground::SeveralInks,
        FindingKind::OffPalette => !matches!(ground, Ground::SeveralInks | Ground::HalfTransparent),
        FindingKind::SoftEdge | FindingKind::HardEdge => !matches!(ground, Ground::Palette | Ground::Jpeg | Ground::WhiteMatte),
        _ => true,
    }
}

/// A drawing on a ground with a fault, or a clean one.
pub fn planted(ground: Ground, fault: Option<Fault>, seed: u64) -> Planted {
    let mut r = rng(seed, 0x42);
    let ends = match fault.map(|f| f.kind) {
        Some(FindingKind::BluntEnd) => Ends::Tapered,
        Some(FindingKind::TaperedEnd) => Ends::Blunt,
        _ => [Ends::Any, Ends::Blunt, Ends::Tapered][(seed % 3) as usize],
    };
    let home = r.random_range(0..4);
    let mut at = None;
    let mut handed = finished(ground, &mut r, |hand, what, middle| {
        if let Some(f) = fault.filter(|_| what == home) {
            at = Some(hand.faulty(f, middle));
        } else if what < 6 {
            hand.look_alike(what, middle, ends);
        } else {
            hand.figure(what, middle);
        }
    });
    add_prop(&mut handed.guide, ends);
    Planted { handed, at }
}

fn add_prop(guide: &mut LineGuide, ends: Ends) {
    if guide.roles.len() < PROP_ROLE {
        if let Some(w) = guide.roles.iter_mut().find_map(|r| r.weight_px.as_mut()) {
            w.swell = Some([0.88 * WEIGHTS[1], 1.12 * WEIGHTS[0]]);
        }
        guide.roles.push(role("inner line", coloured([0xff, 0, 0xff]), WEIGHTS[1]));
    }
    let mut prop = role("prop line", coloured(PROP), PROP_WEIGHT);
    prop.ends = ends;
    guide.roles.push(prop);
}

impl<R: Rng> Hand<'_, R> {
    /// A line of the contour's or the inner line's ink whose width is by the way along it.
    fn lay(&mut self, rgb: [u8; 3], points: &[[f64; 2]], edge: Edge, width: impl Fn(f64, f64) -> f64) {
        self.ink.push(Shape { form: stroke(points, width), rgb, edge });
    }

    fn dot(&mut self, at: [f64; 2], area: f64, rgb: [u8; 3]) {
        let d = 2.0 * (area / PI).sqrt();
        self.lay(rgb, &[at, [at[0] + 0.02, at[1]]], Edge::Plain, |_, _| d);
    }

    /// Plants a fault; gives the box that it lies in.
    fn faulty(&mut self, fault: Fault, middle: [f64; 2]) -> [f64; 4] {
        let weight = self.weight();
        let s = fault.severity;
        let (turn, sag) = (self.r.random_range(0.0..TAU), self.r.random_range(6.0..22.0) * if self.r.random_bool(0.5) { 1.0 } else { -1.0 });
        let (radius, waves) = (self.r.random_range(84.0..98.0), [self.r.random_range(0.0..TAU), self.r.random_range(0.0..TAU)]);
        let base = self.r.random_range(0.985..1.015);
        let around = ring(middle, radius, waves, 0.0, TAU);
        let ink = self.colour(0);
        let line = bow(middle, 1.3 * radius, turn, sag);
        let whole = [middle[0] - 112.0, middle[1] - 112.0, middle[0] + 112.0, middle[1] + 112.0];
        let about = |p: [f64; 2], r: f64| [p[0] - r, p[1] - r, p[0] + r, p[1] + r];
        self.fill(around.clone());
        if fault.kind != FindingKind::Gap {
            self.lay(ink, &around, Edge::Plain, |_, _| weight * base);
        }
        match fault.kind {
            FindingKind::Heavy | FindingKind::Thin => {
                let by = if fault.kind == FindingKind::Heavy { 0.12 * s } else { -0.12 * s };
                let long = self.r.random_range(8.0..11.0) * weight;
                // Full over the whole stretch, with a way up and down.
                let part = move |d: f64, e: f64| {
                    let from_middle = (0.5 * (d - e)).abs();
                    ((0.5 * long + 6.0 - from_middle) / 6.0).clamp(0.0, 1.0)
                };
                self.lay(ink, &line, Edge::Plain, move |d, e| weight * (base * (1.0 - part(d, e)) + (1.0 + by) * part(d, e)));
                whole
            }
            FindingKind::Uneven => {
                let (depth, period) = ((0.2 * s * 2f64.sqrt()).min(0.5), self.r.random_range(3.6..5.0) * weight);
                self.lay(ink, &line, Edge::Plain, move |d, _| weight * (1.0 + depth * (TAU * d / period).sin()));
                whole
            }
            FindingKind::Gap => {
                let open = 6.0 / s + weight * base;
                let mut open_ring = ring(middle, radius, waves, turn, turn + TAU);
                while open_ring.last().is_some_and(|p| (p[0] - open_ring[0][0]).hypot(p[1] - open_ring[0][1]) < open) {
                    open_ring.pop();
                }
                // The last point goes to where the opening is as asked.
                let (a, b) = (open_ring[0], open_ring[open_ring.len() - 1]);
                let d = (b[0] - a[0]).hypot(b[1] - a[1]);
                open_ring.push([a[0] + (b[0] - a[0]) * open / d, a[1] + (b[1] - a[1]) * open / d]);
                self.lay(ink, &open_ring, Edge::Plain, |_, _| weight * base);
                about(a, 16.0)
            }
            FindingKind::Hook => {
                // The line turns by an arc before its tip, and goes straight on for what is left.
                let total = (60.0 * s).min(175.0f64).to_radians();
                let r = self.r.random_range(0.6..2.6) * weight;
                let leg = self.r.random_range(0.5..2.5) * weight;
                let side = if self.r.random_bool(0.5) { 1.0 } else { -1.0 };
                let mut hooked = bow([middle[0] - 20.0 * turn.cos(), middle[1] - 20.0 * turn.sin()], radius, turn, 0.2 * sag);
                let n = hooked.len();
                let (a, b) = (hooked[n - 3], hooked[n - 1]);
                let (mut way, mut p, mut gone) = ((b[1] - a[1]).atan2(b[0] - a[0]), b, 0.0);
                while gone < r * total + leg {
                    if gone < r * total {
                        way += side / r;
                    }
                    p = [p[0] + way.cos(), p[1] + way.sin()];
                    gone += 1.0;
                    hooked.push(p);
                }
                self.lay(ink, &hooked, Edge::Plain, |_, _| weight * base);
                about(b, 12.0 + 3.0 * r + leg)
            }
            FindingKind::Speck => {
                let at = [middle[0] + 0.4 * sag, middle[1] - 0.4 * sag];
                self.dot(at, 12.0 / s, ink);
                about(at, 10.0)
            }
            FindingKind::Pinhole => {
                // In a line, as long as it must be to have its area; or in a black.
                let area = 8.0 / s;
                let black = self.r.random_bool(0.5);
                let (at, ways, form) = if black {
                    (middle, vec![middle, [middle[0] + 0.02, middle[1]]], stroke(&[middle, [middle[0] + 1.0, middle[1]]], |_, _| 52.0))
                } else {
                    let k = line.len() / 3;
                    let long = ((area - PI * 1.2) / 2.2).max(0.02);
                    let (a, b) = (line[k - 1], line[k + 1]);
                    let d = (b[0] - a[0]).hypot(b[1] - a[1]);
                    let end = |t: f64| [line[k][0] + t * long * (b[0] - a[0]) / d, line[k][1] + t * long * (b[1] - a[1]) / d];
                    (line[k], vec![end(-0.5), end(0.5)], stroke(&line, |_, _| weight * base * 1.08))
                };
                let across = if at == middle { 2.0 * (area / PI).sqrt() } else { 2.2f64.min(2.0 * (area / PI).sqrt()) };
                // A colour as wide as a black is a fill.
                let rgb = if black && self.ground == Ground::SeveralInks { INKS[0] } else { ink };
                self.ink.push(Shape { form: holed(form, stroke(&ways, |_, _| across)), rgb, edge: Edge::Plain });
                about(at, 10.0)
            }
            FindingKind::OffPalette => {
                let toward = [[0x20, 0x60, 0xc0], [0x2f, 0x8f, 0x3a], [0xd0, 0x60, 0x10], [0x80, 0x84, 0x8a], [0x10, 0x90, 0x90]];
                let to = *toward.choose(self.r).unwrap_or(&toward[0]);
                let own = if self.ground == Ground::NearBlack { [0; 3] } else { INKS[0] };
                self.lay(off_by(&[own, INKS[1], PROP], ink, to, 8.0 * s), &line, Edge::Plain, |_, _| weight * base);
                whole
            }
            FindingKind::SoftEdge => {
                // The pixels' own box has a variance of 1/12.
                let sigma = ((1.5 * s / 2.563).powi(2) - 1.0 / 12.0).max(0.0).sqrt();
                self.lay(ink, &line, Edge::Soft(sigma), |_, _| weight * base);
                whole
            }
            FindingKind::HardEdge => {
                self.lay(ink, &line, if s > 1.0 { Edge::Hard } else { Edge::Plain }, |_, _| weight * base);
                whole
            }
            FindingKind::Double => {
                let apart = weight * base * (1.0 + 1.0 / s);
                let long = self.r.random_range(6.0..9.0) * weight;
                let beside = aside(&line, long, apart);
                self.lay(ink, &line, Edge::Plain, |_, _| weight * base);
                self.lay(ink, &beside, Edge::Plain, |_, _| weight * base);
                whole
            }
            // A prop line full after so many widths at one end; its other end is as the guide has it.
            FindingKind::BluntEnd => {
                let full = 1.5 / s;
                self.lay(PROP, &line, Edge::Plain, |d, e| PROP_WEIGHT * full_after(d, full * PROP_WEIGHT) * full_after(e, 20.0));
                whole
            }
            _ => {
                self.lay(PROP, &line, Edge::Plain, |d, _| PROP_WEIGHT * full_after(d, 1.5 * s * PROP_WEIGHT));
                whole
            }
        }
    }

    /// What looks like a fault and is none by its definition.
    fn look_alike(&mut self, what: usize, middle: [f64; 2], ends: Ends) {
        let weight = self.weight();
        let [ink, inner] = [self.colour(0), self.colour(1)];
        let turn: f64 = self.r.random_range(0.0..TAU);
        let at = |along: f64, aside: f64| [middle[0] + along * turn.cos() - aside * turn.sin(), middle[1] + along * turn.sin() + aside * turn.cos()];
        let straight = |a: [f64; 2], b: [f64; 2]| {
            let n = (b[0] - a[0]).hypot(b[1] - a[1]).ceil().max(2.0) as usize;
            (0..=n).map(|i| [a[0] + (b[0] - a[0]) * i as f64 / n as f64, a[1] + (b[1] - a[1]) * i as f64 / n as f64]).collect::<Vec<_>>()
        };
        match what {
            // A frame that lies on the pixels, and a line that ends against it from within.
            0 => {
                let m = middle.map(f64::round);
                let corners = [[-80.0, -70.0], [80.0, -70.0], [80.0, 70.0], [-80.0, 70.0], [-80.0, -70.0]].map(|[x, y]| [m[0] + x, m[1] + y]);
                self.fill(corners.to_vec());
                self.ink.push(Shape { form: frame(m, [80.0, 70.0], weight), rgb: ink, edge: Edge::Plain });
                self.lay(inner, &straight([m[0] - 76.0, m[1] + 8.0], [m[0] + 20.0, m[1] - 12.0]), Edge::Plain, |_, e| WEIGHTS[1] * run_out(e, 16.0));
            }
            // Two lines that part at a small angle; a corner; a curl wider than a hook.
            1 => {
                let angle = self.r.random_range(7.0f64..13.0).to_radians();
                self.lay(ink, &straight(at(-90.0, -40.0), at(80.0, -40.0)), Edge::Plain, |_, _| weight);
                self.lay(ink, &straight(at(-90.0, -40.0), at(-90.0 + 165.0 * angle.cos(), -40.0 + 165.0 * angle.sin())), Edge::Plain, |_, _| weight);
                let mut corner = straight(at(-102.0, 72.0), at(0.0, 20.0));
                corner.extend(straight(at(0.0, 20.0), at(92.0, 84.0)));
                self.lay(ink, &corner, Edge::Plain, |_, _| weight);
            }
            2 => {
                // A curl: the end turns by three quarters at a radius of five widths.
                let r = 5.0 * weight.min(7.0);
                let mut curl = straight(at(-90.0, 0.0), at(20.0, 0.0));
                curl.extend((1..=(0.75 * TAU * r) as usize).map(|k| {
                    let a = k as f64 / r;
                    at(20.0 + r * a.sin(), r * (1.0 - a.cos()))
                }));
                self.lay(ink, &curl, Edge::Plain, |_, _| weight);
            }
            // Strands that fan out from a root, run out; eyes.
            3 => {
                for k in 0..5 {
                    let a = turn + 0.16 * (f64::from(k) - 2.0);
                    let root = at(-80.0, 0.0);
                    self.lay(ink, &straight(root, [root[0] + 160.0 * a.cos(), root[1] + 160.0 * a.sin()]), Edge::Plain, |_, e| weight * run_out(e, 50.0));
                }
                for side in [-1.0, 1.0] {
                    let eye = at(-30.0, 75.0 * side);
                    self.lay(inner, &ring(eye, 17.0, [0.4, 2.0], 0.0, TAU), Edge::Plain, |_, _| WEIGHTS[1]);
                    self.dot(eye, 60.0, inner);
                }
            }
            // Lines across one another, in one role and in two; a prop line whose ends are as its role has them.
            4 => {
                self.lay(ink, &straight(at(-90.0, -30.0), at(90.0, 20.0)), Edge::Plain, |_, _| weight);
                self.lay(ink, &straight(at(-70.0, 60.0), at(60.0, -80.0)), Edge::Plain, |_, _| weight);
                self.lay(inner, &straight(at(-60.0, -70.0), at(40.0, 70.0)), Edge::Plain, |d, e| WEIGHTS[1] * run_out(d, 16.0) * run_out(e, 16.0));
                let over = if ends == Ends::Tapered { 22.0 } else { 1.0 };
                if ends != Ends::Any {
                    self.lay(PROP, &straight(at(-40.0, 85.0), at(80.0, 60.0)), Edge::Plain, |d, e| PROP_WEIGHT * full_after(d, over) * full_after(e, over));
                }
            }
            // A contour that another role's tip crosses by a little, with a prop line that ends against it.
            _ => {
                let (radius, waves) = (90.0, [turn, 1.7 * turn]);
                let around = ring(middle, radius, waves, 0.0, TAU);
                self.fill(around.clone());
                for k in 0..4 {
                    let foot = around[(k * around.len() / 4 + 11) % around.len()];
                    let way = (middle[1] - foot[1]).atan2(middle[0] - foot[0]) + 0.3 * (k as f64 - 1.5);
                    let from = [foot[0] - 5.0 * way.cos(), foot[1] - 5.0 * way.sin()];
                    let to = [foot[0] + 56.0 * way.cos(), foot[1] + 56.0 * way.sin()];
                    self.lay(inner, &straight(from, to), Edge::Plain, |_, e| WEIGHTS[1] * run_out(e, 22.0));
                }
                self.lay(ink, &around, Edge::Plain, |_, _| weight);
                if ends == Ends::Blunt {
                    let foot = around[around.len() / 2];
                    self.lay(PROP, &straight([foot[0], foot[1]], [0.5 * (foot[0] + middle[0]), 0.5 * (foot[1] + middle[1])]), Edge::Plain, |_, _| PROP_WEIGHT);
                }
            }
        }
    }
}

/// A taper that reaches nine tenths of the width at a distance from the tip.
fn full_after(d: f64, ninety: f64) -> f64 {
    // From 0.15 on, along a straight way: nine tenths lie at 0.75 / 0.85 of it.
    if ninety < 0.3 { 1.0 } else { (0.15 + 0.75 * d / ninety).min(1.0) }
}

/// The colour on the way from one to another that is so far (CIEDE2000) from all known ones.
fn off_by(known: &[[u8; 3]], from: [u8; 3], to: [u8; 3], far: f64) -> [u8; 3] {
    let known: Vec<_> = known.iter().map(|c| lab_of(*c)).collect();
    let mixed = |t: f64| [0, 1, 2].map(|k| (f64::from(from[k]) + (f64::from(to[k]) - f64::from(from[k])) * t).round() as u8);
    let nearest = |c: [u8; 3]| known.iter().map(|k| f64::from(delta_e(lab_of(c), *k))).fold(f64::MAX, f64::min);
    (0..=400).map(|k| mixed(f64::from(k) / 400.0)).find(|c| nearest(*c) >= far).unwrap_or(to)
}

/// A shape with another cut out of it.
fn holed(mut form: Outline, hole: Outline) -> Outline {
    form.paths.extend(hole.paths.into_iter().map(|mut p| {
        p.reverse();
        p
    }));
    form
}

fn frame(middle: [f64; 2], half: [f64; 2], weight: f64) -> Outline {
    let ring = |by: f64| [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]].map(|[x, y]| [middle[0] + x * (half[0] + by), middle[1] + y * (half[1] + by)]);
    let (outer, mut inner) = (ring(0.5 * weight), ring(-0.5 * weight));
    inner.reverse();
    Outline { paths: vec![outer.to_vec(), inner.to_vec()] }
}
