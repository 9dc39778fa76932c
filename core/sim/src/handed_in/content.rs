//! The figures on a handed-in drawing, and what its ground puts beside them.
//!
//! Twelve cells: closed figures with inner lines, figures that a line parts in two, hatching, ticks, strokes that are mostly taper, and lines
//! that run on beneath none or die into another. Everything follows from a seed.

use std::f64::consts::TAU;

use eddymist_check::guide::{Ends, LineGuide, Page, Role, RoleSource, Weight};
use rand::{Rng, seq::IndexedRandom};

use super::{Drawn, Edge, Ground, HandedIn, Shape, Sheet, TrueStroke};
use crate::{
    figures::{bow, ring, run_out, stroke},
    rng,
};

/// Sides of the page, px, and how many cells it has.
const PAGE: [usize; 2] = [1200, 900];
const CELLS: [usize; 2] = [4, 3];
pub(super) const WEIGHTS: [f64; 2] = [6.0, 3.6];
pub(super) const INKS: [[u8; 3]; 2] = [[0x1b, 0x1e, 0x24], [0x7a, 0x43, 0x26]];
/// Inks that one role may hold.
const MORE_INKS: [[u8; 3]; 4] = [[0x1b, 0x1e, 0x24], [0x9a, 0x2a, 0x2a], [0x2a, 0x5a, 0x9a], [0x3a, 0x6a, 0x2a]];
const PAINTS: [[u8; 3]; 6] = [[0xf2, 0xc9, 0xa0], [0x6f, 0xa8, 0xc9], [0xb7, 0xd1, 0x8a], [0xd8, 0x7f, 0x6a], [0xe9, 0xdf, 0x8d], [0x9a, 0x8f, 0xb5]];

pub(super) struct Hand<'a, R: Rng> {
    pub(super) ground: Ground,
    pub(super) r: &'a mut R,
    fills: Vec<Shape>,
    rough: Vec<Shape>,
    pub(super) ink: Vec<Shape>,
    strokes: Vec<TrueStroke>,
}

impl<R: Rng> Hand<'_, R> {
    pub(super) fn colour(&mut self, role: usize) -> [u8; 3] {
        match self.ground {
            Ground::SeveralInks => *MORE_INKS.choose(self.r).unwrap_or(&INKS[0]),
            Ground::NearBlack if role == 0 => [0x14; 3],
            _ => INKS[role],
        }
    }

    /// What the contour should weigh, px.
    pub(super) fn weight(&self) -> f64 {
        if self.ground == Ground::NearBlack { 10.0 } else { WEIGHTS[0] }
    }

    fn draw(&mut self, role: usize, drawn: Drawn, points: Vec<[f64; 2]>, width: impl Fn(f64, f64) -> f64) {
        let mut way = vec![0.0];
        for p in points.windows(2) {
            way.push(way[way.len() - 1] + (p[1][0] - p[0][0]).hypot(p[1][1] - p[0][1]));
        }
        let total = way[way.len() - 1];
        let widths: Vec<f64> = way.iter().map(|d| width(*d, total - d)).collect();
        let rgb = self.colour(role);
        self.ink.push(Shape { form: stroke(&points, &width), rgb, edge: Edge::Plain });
        let role = if self.ground == Ground::SeveralInks { 0 } else { role };
        self.strokes.push(TrueStroke { role, drawn, points, widths });
    }

    /// What lies inside of a closed way.
    pub(super) fn fill(&mut self, points: Vec<[f64; 2]>) {
        let rgb = match self.ground {
            Ground::WhiteFills | Ground::Palette => [255; 3],
            Ground::PaintedFills | Ground::PaintedPage | Ground::Jpeg => *PAINTS.choose(self.r).unwrap_or(&PAINTS[0]),
            _ => return,
        };
        self.fills.push(Shape { form: eddymist_ink::Outline::united(vec![points]), rgb, edge: Edge::Plain });
    }

    /// The construction beneath a figure: loose strokes about it.
    fn sketch(&mut self, middle: [f64; 2], radius: f64) {
        if !matches!(self.ground, Ground::RoughOnWhite | Ground::RoughOnClear) {
            return;
        }
        for _ in 0..3 {
            let (a, sag) = (self.r.random_range(0.0..TAU), self.r.random_range(-30.0..30.0));
            let shift = [self.r.random_range(-0.4..0.4) * radius, self.r.random_range(-0.4..0.4) * radius];
            let way = bow([middle[0] + shift[0], middle[1] + shift[1]], 1.9 * radius, a, sag);
            let width = self.r.random_range(2.0..5.0);
            self.rough.push(Shape { form: stroke(&way, |_, _| width), rgb: [0x30, 0x50, 0xb0], edge: Edge::Plain });
        }
        let way = ring([middle[0] + 3.0, middle[1] - 2.0], radius, [0.3, 1.1], 0.0, TAU);
        self.rough.push(Shape { form: stroke(&way, |_, _| 3.0), rgb: [0x30, 0x30, 0x30], edge: Edge::Plain });
    }

    pub(super) fn figure(&mut self, what: usize, middle: [f64; 2]) {
        let weight = self.weight();
        let (turn, sag) = (self.r.random_range(0.0..TAU), self.r.random_range(-18.0..18.0));
        let (radius, waves) = (self.r.random_range(78.0..100.0), [self.r.random_range(0.0..TAU), self.r.random_range(0.0..TAU)]);
        let unlike = self.r.random_range(0.97..1.03);
        let even = move |w: f64| move |_: f64, _: f64| w * unlike;
        let inner = move |d: f64, e: f64| WEIGHTS[1] * unlike * run_out(d, 14.0) * run_out(e, 20.0);
        self.sketch(middle, radius);
        let around = ring(middle, radius, waves, 0.0, TAU);
        match what {
            // A closed figure with inner lines.
            0..=3 => {
                self.fill(around.clone());
                self.draw(0, Drawn::Even, around, even(weight));
                for k in 0..3 {
                    let at = [middle[0] + 22.0 * (f64::from(k) - 1.0) * turn.sin(), middle[1] - 22.0 * (f64::from(k) - 1.0) * turn.cos()];
                    self.draw(1, Drawn::RunOut, bow(at, 0.9 * radius, turn, 0.3 * sag), inner);
                }
            }
            // A figure that a line parts in two.
            4..=6 => {
                let at = |a: f64| ring(middle, radius, waves, a, a + 0.01)[0];
                let (a, b) = (at(turn), at(turn + 0.5 * TAU));
                let line: Vec<[f64; 2]> = {
                    let n = (b[0] - a[0]).hypot(b[1] - a[1]).ceil() as usize;
                    (0..=n)
                        .map(|i| {
                            let u = i as f64 / n as f64;
                            let off = sag * (1.0 - (2.0 * u - 1.0).powi(2));
                            [a[0] + (b[0] - a[0]) * u - off * turn.sin(), a[1] + (b[1] - a[1]) * u + off * turn.cos()]
                        })
                        .collect()
                };
                let half = |from: f64, to: f64, back: bool| {
                    let mut way = ring(middle, radius, waves, from, to);
                    way.extend(if back { line.clone() } else { line.iter().rev().copied().collect() });
                    way
                };
                self.fill(half(turn, turn + 0.5 * TAU, false));
                self.fill(half(turn + 0.5 * TAU, turn + TAU, true));
                self.draw(0, Drawn::Even, around, even(weight));
                self.draw(0, Drawn::Even, line, even(weight));
            }
            // Hatching within a figure.
            7 | 8 => {
                self.fill(around.clone());
                self.draw(0, Drawn::Even, around, even(weight));
                for k in 0..9 {
                    let shift = 9.0 * (f64::from(k) - 4.0);
                    let at = [middle[0] - shift * turn.sin(), middle[1] + shift * turn.cos()];
                    self.draw(1, Drawn::Hatching, bow(at, 0.6 * radius, turn, 0.0), |d, e| WEIGHTS[1] * unlike * run_out(d, 5.0) * run_out(e, 8.0));
                }
            }
            // Strokes that are mostly taper, and ticks beside them.
            9 | 10 => {
                for k in 0..3 {
                    let at = [middle[0], middle[1] + 34.0 * (f64::from(k) - 1.0)];
                    let way = bow(at, 1.5 * radius, 0.2 * sag / 18.0, sag);
                    self.draw(0, Drawn::Taper, way, move |d, e| weight * unlike * (0.1 + 0.9 * (d / (d + e)).powf(0.7)) * run_out(e, 10.0));
                }
                for k in 0..7 {
                    let at = [middle[0] + 20.0 * (f64::from(k) - 3.0), middle[1] + 78.0];
                    self.draw(1, Drawn::Tick, bow(at, 15.0, 1.2, 1.0), |d, e| WEIGHTS[1] * unlike * run_out(d, 6.0) * run_out(e, 6.0));
                }
            }
            // Lines that die into a contour.
            _ => {
                self.draw(0, Drawn::Even, bow(middle, 2.0 * radius, turn, sag), even(weight));
                for k in 0..4 {
                    let u = (f64::from(k) - 1.5) * 0.4 * radius;
                    let s = sag * (1.0 - (u / radius).powi(2));
                    let foot = [middle[0] + u * turn.cos() - s * turn.sin(), middle[1] + u * turn.sin() + s * turn.cos()];
                    let way = turn + 0.25 * TAU + self.r.random_range(-0.5..0.5);
                    let line: Vec<[f64; 2]> = (0..=60).map(|i| [foot[0] + f64::from(i) * way.cos(), foot[1] + f64::from(i) * way.sin()]).collect();
                    self.draw(1, Drawn::RunOut, line, |_, e| WEIGHTS[1] * unlike * run_out(e, 24.0));
                }
            }
        }
        if self.ground == Ground::SpottedBlacks && what < 7 {
            // A black that leans on the contour, from within.
            let a = turn + 1.0;
            let at = [middle[0] + 0.72 * radius * a.cos(), middle[1] + 0.72 * radius * a.sin()];
            self.ink.push(Shape { form: stroke(&[at, [at[0] + 1.0, at[1]]], |_, _| 46.0), rgb: INKS[0], edge: Edge::Plain });
        }
    }
}

pub(super) fn role(name: &str, from: RoleSource, target: f64) -> Role {
    Role { name: name.into(), from, weight_px: Some(Weight { target, tolerance: 0.12, swell: None }), ends: Ends::Any, judge: true, gap_px: None }
}

pub(super) fn coloured([r, g, b]: [u8; 3]) -> RoleSource {
    RoleSource { colour: Some(format!("#{r:02x}{g:02x}{b:02x}")), tolerance: Some(8.0), ..RoleSource::default() }
}

fn guide(ground: Ground) -> LineGuide {
    let roles = match ground {
        Ground::SeveralInks => vec![role("lines", RoleSource { rest: true, ..RoleSource::default() }, WEIGHTS[0])],
        Ground::NearBlack => vec![role("contour", coloured([0; 3]), 10.0), role("inner line", coloured(INKS[1]), WEIGHTS[1])],
        _ => vec![role("contour", coloured(INKS[0]), WEIGHTS[0]), role("inner line", coloured(INKS[1]), WEIGHTS[1])],
    };
    LineGuide::new("handed in", Page { width_px: PAGE[0] as f64, height_px: PAGE[1] as f64, px_per_mm: None, rate_fps: None }, roles)
}

fn rectangle(x0: f64, y0: f64, x1: f64, y1: f64) -> Vec<[f64; 2]> {
    vec![[x0, y0], [x1, y0], [x1, y1], [x0, y1]]
}

/// One drawing on a ground.
pub fn made(ground: Ground, seed: u64) -> HandedIn {
    finished(ground, &mut rng(seed, 0x41), |hand, what, middle| hand.figure(what, middle))
}

/// A drawing whose cells are drawn by `each`, given what lies in a cell (0 to 11) and its middle.
pub(super) fn finished<R: Rng>(ground: Ground, r: &mut R, mut each: impl FnMut(&mut Hand<R>, usize, [f64; 2])) -> HandedIn {
    let size = [PAGE[0] as f64 / CELLS[0] as f64, PAGE[1] as f64 / CELLS[1] as f64];
    let mut hand = Hand { ground, r, fills: Vec::new(), rough: Vec::new(), ink: Vec::new(), strokes: Vec::new() };
    let (w, h) = (PAGE[0] as f64, PAGE[1] as f64);
    let horizon: f64 = hand.r.random_range(0.4..0.6) * h;
    if matches!(ground, Ground::PaintedPage) {
        // Sky and ground: another background on either side, behind the figures.
        for (k, (from, to)) in [(0.0, horizon), (horizon, h)].into_iter().enumerate() {
            hand.fills.push(Shape {
                form: eddymist_ink::Outline::united(vec![rectangle(0.0, from, w, to)]),
                rgb: [[0xcf, 0xe3, 0xef], [0xa9, 0x9c, 0x7c]][k],
                edge: Edge::Plain,
            });
        }
    }
    let mut order: Vec<usize> = (0..CELLS[0] * CELLS[1]).collect();
    rand::seq::SliceRandom::shuffle(&mut order[..], hand.r);
    for (cell, what) in order.into_iter().enumerate() {
        let middle = [
            (cell % CELLS[0]) as f64 * size[0] + 0.5 * size[0] + hand.r.random_range(-6.0..6.0),
            (cell / CELLS[0]) as f64 * size[1] + 0.5 * size[1] + hand.r.random_range(-6.0..6.0),
        ];
        if ground == Ground::MostlyBlack {
            // A window in the black.
            hand.fills.push(Shape { form: eddymist_ink::Outline::united(vec![ring(middle, 124.0, [0.0, 1.0], 0.0, TAU)]), rgb: [255; 3], edge: Edge::Plain });
        }
        each(&mut hand, what, middle);
    }
    let Hand { fills, rough, ink, strokes, .. } = hand;
    let sheet = |shapes: Vec<Shape>, opacity: f64| Sheet { shapes, opacity };
    let ink = sheet(ink, if ground == Ground::HalfTransparent { 0.6 } else { 1.0 });
    let sheets = [sheet(fills, 1.0), sheet(rough, 0.2), ink].into_iter().filter(|s| !s.shapes.is_empty()).collect();
    let page = match ground {
        Ground::WhiteFills | Ground::PaintedFills | Ground::RoughOnClear | Ground::HalfTransparent | Ground::WhiteMatte | Ground::Palette => None,
        Ground::ColouredPage => Some([[0xd9, 0xc8, 0xa3]; 2]),
        Ground::Gradient => Some([[0xf4, 0xe2, 0xc4], [0x8f, 0xb2, 0xd0]]),
        Ground::MostlyBlack => Some([INKS[0]; 2]),
        _ => Some([[255; 3]; 2]),
    };
    HandedIn { ground, width: PAGE[0], height: PAGE[1], page, sheets, strokes, guide: guide(ground) }
}
