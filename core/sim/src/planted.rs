//! Drawings with one planted fault each, made from the definitions of the findings alone, and clean ones.
//!
//! A page is divided into cells; each holds a closed contour, a line within it, a tapered inner line, a blunt prop line, hatching,
//! a spotted black, or nothing. A fault is planted in one cell, its amount drawn at random beyond the guide's limit.

use std::f64::consts::TAU;

use eddymist_check::{
    document::FindingKind,
    guide::{Ends, LineGuide, Page, Role, RoleSource, Weight},
};
use eddymist_ink::{Outline, raster::rasterise};
use rand::Rng;

use crate::{
    figures::{aside, blurred, bow, ring, run_out, stroke},
    rng,
};

/// Sides of the page, px.
pub const PAGE: [usize; 2] = [1280, 720];
const CELLS: [usize; 2] = [8, 4];
const CONTOUR: [u8; 3] = [0x1b, 0x1e, 0x24];
const INNER: [u8; 3] = [0x7a, 0x43, 0x26];
const PROP: [u8; 3] = [0x8a, 0x1f, 0x4e];
const WEIGHTS: [f64; 3] = [6.0, 3.6, 5.0];

/// The kinds that one drawing can show.
pub const KINDS: [FindingKind; 13] = [
    FindingKind::Heavy,
    FindingKind::Thin,
    FindingKind::Uneven,
    FindingKind::Gap,
    FindingKind::Hook,
    FindingKind::Speck,
    FindingKind::Pinhole,
    FindingKind::OffPalette,
    FindingKind::SoftEdge,
    FindingKind::HardEdge,
    FindingKind::Double,
    FindingKind::BluntEnd,
    FindingKind::TaperedEnd,
];

/// A drawing, RGBA, and the box `[left, top, right, bottom]` in px in which its fault lies.
pub struct PlantedDrawing {
    pub rgba: Vec<u8>,
    pub at: Option<[f64; 4]>,
}

/// The guide that the drawings are made to.
pub fn planted_guide() -> LineGuide {
    let role = |name: &str, [r, g, b]: [u8; 3], target: f64, ends: Ends| Role {
        name: name.into(),
        from: RoleSource { colour: Some(format!("#{r:02x}{g:02x}{b:02x}")), tolerance: Some(8.0), ..RoleSource::default() },
        weight_px: Some(Weight { target, tolerance: 0.12, swell: None }),
        ends,
        judge: true,
        gap_px: None,
    };
    let page = Page { width_px: PAGE[0] as f64, height_px: PAGE[1] as f64, px_per_mm: None, rate_fps: None };
    let roles = vec![
        role("contour", CONTOUR, WEIGHTS[0], Ends::Any),
        role("inner line", INNER, WEIGHTS[1], Ends::Tapered),
        role("prop line", PROP, WEIGHTS[2], Ends::Blunt),
    ];
    LineGuide::new("planted faults", page, roles)
}

/// What is laid on the page, one after the other.
struct Laid {
    ink: Outline,
    colour: [u8; 3],
    /// Deviation of a blur, px.
    blur: f64,
    hard: bool,
    /// Paper again where it was ink.
    paper: bool,
}

fn laid(ink: Outline, colour: [u8; 3]) -> Laid {
    Laid { ink, colour, blur: 0.0, hard: false, paper: false }
}

/// One drawing; `kind` is the fault to plant, none for a clean one.
pub fn planted(kind: Option<FindingKind>, seed: u64) -> PlantedDrawing {
    let mut r = rng(seed, 0xFA);
    let size = [PAGE[0] as f64 / CELLS[0] as f64, PAGE[1] as f64 / CELLS[1] as f64];
    let home = r.random_range(0..CELLS[0] * CELLS[1]);
    let mut all: Vec<Laid> = Vec::new();
    let mut at = None;
    for cell in 0..CELLS[0] * CELLS[1] {
        let middle = [
            (cell % CELLS[0]) as f64 * size[0] + 0.5 * size[0] + r.random_range(-6.0..6.0),
            (cell / CELLS[0]) as f64 * size[1] + 0.5 * size[1] + r.random_range(-6.0..6.0),
        ];
        let (turn, sag, length) = (r.random_range(0.0..TAU), r.random_range(-22.0..22.0), r.random_range(85.0..118.0));
        let (radius, waves) = (r.random_range(42.0..58.0), [r.random_range(0.0..TAU), r.random_range(0.0..TAU)]);
        let unlike = r.random_range(0.97..1.03);
        let line = bow(middle, length, turn, sag);
        let inner = |d: f64, e: f64| WEIGHTS[1] * unlike * run_out(d, 14.0) * run_out(e, 18.0);
        let blunt = |w: f64| move |_: f64, _: f64| w * unlike;
        let closed = || stroke(&ring(middle, radius, waves, 0.0, TAU), blunt(WEIGHTS[0]));
        let Some(kind) = kind.filter(|_| cell == home) else {
            match r.random_range(0..8) {
                0 | 1 => all.push(laid(closed(), CONTOUR)),
                2 => {
                    all.push(laid(closed(), CONTOUR));
                    // A line from the contour inward, ending in the open.
                    let from = ring(middle, radius, waves, turn, turn + 0.01)[0];
                    let to = [middle[0] + 0.1 * radius * turn.sin(), middle[1] - 0.1 * radius * turn.cos()];
                    let way: Vec<[f64; 2]> = (0..=60).map(|i| [0, 1].map(|k| from[k] + (to[k] - from[k]) * f64::from(i) / 60.0)).collect();
                    all.push(laid(stroke(&way, blunt(WEIGHTS[0])), CONTOUR));
                }
                3 | 4 => all.push(laid(stroke(&line, inner), INNER)),
                5 => all.push(laid(stroke(&line, blunt(WEIGHTS[2])), PROP)),
                6 => {
                    // Hatching: closer than a double's clear paper, which it may be.
                    for k in 0..6 {
                        let shift = 9.0 * (f64::from(k) - 2.5);
                        let m = [middle[0] - shift * turn.sin(), middle[1] + shift * turn.cos()];
                        all.push(laid(stroke(&bow(m, 0.6 * length, turn, 0.0), blunt(WEIGHTS[0])), CONTOUR));
                    }
                }
                _ => all.push(laid(stroke(&[middle, [middle[0] + 1.0, middle[1]]], |_, _| 64.0), CONTOUR)),
            }
            continue;
        };
        at = Some([middle[0] - 0.55 * size[0], middle[1] - 0.55 * size[1], middle[0] + 0.55 * size[0], middle[1] + 0.55 * size[1]]);
        let amount = r.random_range(0.0..1.0);
        let between = |a: f64, b: f64| a + (b - a) * amount;
        match kind {
            FindingKind::Heavy | FindingKind::Thin => {
                // Over a stretch of five to nine widths the line is a fifth to a half off.
                let off = if kind == FindingKind::Heavy { between(1.22, 1.5) } else { between(0.78, 0.55) };
                let half = 0.5 * between(5.0, 9.0) * WEIGHTS[0];
                let swollen = move |d: f64, e: f64| {
                    let from_middle = (0.5 * (d - e)).abs();
                    let t = ((half + 4.0 - from_middle) / 4.0).clamp(0.0, 1.0);
                    WEIGHTS[0] * (1.0 + (off - 1.0) * t)
                };
                all.push(laid(stroke(&line, swollen), CONTOUR));
            }
            FindingKind::Uneven => {
                let depth = between(0.36, 0.5);
                all.push(laid(stroke(&line, |d, _| WEIGHTS[0] * (1.0 + depth * (TAU * d / 16.0).sin())), CONTOUR));
            }
            FindingKind::Gap => {
                let open = between(1.5, 5.2) + WEIGHTS[0];
                let mut open_ring = ring(middle, radius, waves, turn, turn + TAU);
                while open_ring.last().is_some_and(|p| (p[0] - open_ring[0][0]).hypot(p[1] - open_ring[0][1]) < open) {
                    open_ring.pop();
                }
                all.push(laid(stroke(&open_ring, blunt(WEIGHTS[0])), CONTOUR));
            }
            FindingKind::Hook => {
                let (n, bend) = (line.len(), between(80.0, 130.0f64).to_radians() * if sag > 0.0 { 1.0 } else { -1.0 });
                let (a, b) = (line[n - 4], line[n - 1]);
                let way = (b[1] - a[1]).atan2(b[0] - a[0]) + bend;
                let mut hooked = line.clone();
                hooked.extend((1..=9).map(|k| [b[0] + f64::from(k) * way.cos(), b[1] + f64::from(k) * way.sin()]));
                all.push(laid(stroke(&hooked, blunt(WEIGHTS[2])), PROP));
            }
            FindingKind::Speck => {
                let area: f64 = between(2.5, 10.5);
                let d = 2.0 * (area / std::f64::consts::PI).sqrt();
                all.push(laid(stroke(&[middle, [middle[0] + 0.05, middle[1]]], |_, _| d), CONTOUR));
            }
            FindingKind::Pinhole => {
                all.push(laid(stroke(&line, blunt(WEIGHTS[0])), CONTOUR));
                let (area, p): (f64, _) = (between(1.8, 6.5), line[line.len() / 3]);
                let d = 2.0 * (area / std::f64::consts::PI).sqrt();
                all.push(Laid { paper: true, ..laid(stroke(&[p, [p[0] + 0.05, p[1]]], |_, _| d), [255; 3]) });
            }
            FindingKind::OffPalette => {
                let colours = [[0x20, 0x60, 0xc0], [0x2f, 0x8f, 0x3a], [0xd0, 0x60, 0x10], [0x60, 0x66, 0x70]];
                all.push(laid(stroke(&line, blunt(WEIGHTS[0])), colours[(amount * 3.99) as usize]));
            }
            FindingKind::SoftEdge => all.push(Laid { blur: between(0.85, 1.5), ..laid(stroke(&line, blunt(WEIGHTS[0])), CONTOUR) }),
            FindingKind::HardEdge => all.push(Laid { hard: true, ..laid(stroke(&line, blunt(WEIGHTS[0])), CONTOUR) }),
            FindingKind::Double => {
                all.push(laid(stroke(&line, blunt(WEIGHTS[0])), CONTOUR));
                let apart = WEIGHTS[0] * (1.0 + between(0.25, 0.8));
                let long = between(6.0, 10.0) * WEIGHTS[0];
                let beside = aside(&line, long, apart);
                all.push(laid(stroke(&beside, blunt(WEIGHTS[0])), CONTOUR));
            }
            FindingKind::BluntEnd => all.push(laid(stroke(&line, |d, _| WEIGHTS[1] * run_out(d, 14.0)), INNER)),
            _ => all.push(laid(stroke(&line, |_, e| WEIGHTS[2] * run_out(e, between(18.0, 30.0))), PROP)),
        }
    }
    PlantedDrawing { rgba: picture(&all), at }
}

fn picture(all: &[Laid]) -> Vec<u8> {
    let [w, h] = PAGE;
    let mut rgba = vec![255u8; 4 * w * h];
    for l in all {
        let Some([left, top, right, bottom]) = l.ink.bounds() else { continue };
        let margin = 4.0 + 3.0 * l.blur;
        let (x0, y0) = ((left - margin).floor().max(0.0) as usize, (top - margin).floor().max(0.0) as usize);
        let (x1, y1) = (((right + margin).ceil() as usize).min(w), ((bottom + margin).ceil() as usize).min(h));
        if x0 >= x1 || y0 >= y1 {
            continue;
        }
        let (bw, bh) = (x1 - x0, y1 - y0);
        let mut part = rasterise(&l.ink, 1.0, [x0 as f64, y0 as f64], bw, bh).data;
        if l.hard {
            part.iter_mut().for_each(|c| *c = if *c >= 0.5 { 1.0 } else { 0.0 });
        }
        if l.blur > 0.0 {
            part = blurred(&blurred(&part, bw, bh, l.blur, true), bw, bh, l.blur, false);
        }
        for (i, a) in part.iter().enumerate() {
            let p = 4 * ((y0 + i / bw) * w + x0 + i % bw);
            let colour = if l.paper { [255; 3] } else { l.colour };
            for (v, c) in rgba[p..p + 3].iter_mut().zip(colour) {
                *v = (f32::from(*v) + (f32::from(c) - f32::from(*v)) * a).round() as u8;
            }
        }
    }
    rgba
}
