//! Line weights in a drawing: coverage, roles, topology, centre lines, width along them, bodies and tapers.
//!
//! Only pixels near ink are worked on: the cost grows with the ink, not with the page.

pub mod across;
mod centre;
mod classify;
mod distance;
mod ends;
pub mod gaps;
mod graph;
pub mod islands;
mod masks;
mod outside;
pub mod palette;
mod paper;
mod pieces;
mod scratch;
mod thin;

use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{Picture, colour::Rgb};

/// How a role's ink is told from the rest.
#[derive(Debug, Clone, PartialEq)]
pub enum Source {
    /// Ink of this colour, within a CIEDE2000 tolerance.
    Colour { rgb: Rgb, tolerance: f32 },
    /// Ink on layers that the caller has matched by name.
    Layer,
    /// Lines that border the outside of the drawing.
    Outline,
    /// All other ink.
    Rest,
}

/// What to look for: the roles in the guide's order.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    pub roles: Vec<Source>,
    /// The widest width in px that a line of any role may have: wider ink is a spotted black.
    pub widest_px: f64,
}

/// A flat picture, or one layer of a drawing, with the role that its name gave it.
#[derive(Debug, Clone, Copy)]
pub struct Layer<'a> {
    pub picture: Picture<'a>,
    /// Index of the role by layer, or none where roles by colour, outline and rest apply.
    pub role: Option<usize>,
}

/// Why a place of a line is in the line's body, or is not.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    Body,
    /// In a taper, or within one width of a blunt end.
    End,
    /// Within one width of a junction.
    Junction,
    /// Within one width of a turn over 30°.
    Corner,
    /// The normal meets other ink before it meets paper.
    Blocked,
}

/// One step along a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LinePoint {
    /// Sub-pixel centre in px, pixel centres at .5.
    pub x: f32,
    pub y: f32,
    /// Width in px across the line; meaningless where blocked.
    pub width: f32,
    /// Σ c·(1 − c) of coverage c across one edge, px, the mean of both; see [`edge_px`].
    pub edge: f32,
    pub place: Place,
}

/// The 10–90 % width in px of an edge whose Σ c·(1 − c) is given.
///
/// For a Gaussian edge of deviation σ that sum is σ/√π, and its 10–90 % width 2.563 σ; reading between pixels adds 1/6 px² to
/// the variance.
pub fn edge_px(edge: f64) -> f64 {
    2.563 * (std::f64::consts::PI * edge * edge - 1.0 / 6.0).max(0.0).sqrt()
}

/// How a line ends.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum End {
    /// At a junction with ink of its own role.
    Joined,
    /// Free: the distance in px from the tip at which the width first stays over 90 % of the body's, and whether that
    /// is a taper (over 1.5 widths) or blunt.
    Free { taper_px: f64, tapered: bool },
}

/// A line between two ends.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    pub points: Vec<LinePoint>,
    /// Distance between points in px.
    pub step_px: f64,
    pub closed: bool,
    pub ends: [End; 2],
    /// The share of its edges, where they run aslant to the pixels, at which no pixel is partly covered; none where no edge does.
    pub crisp: Option<f64>,
}

impl Line {
    /// Length along the centre line in px.
    pub fn length_px(&self) -> f64 {
        let joins = if self.closed { self.points.len() } else { self.points.len().saturating_sub(1) };
        joins as f64 * self.step_px
    }
}

/// The lines of one role.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct RoleLines {
    pub lines: Vec<Line>,
    /// Ink in px².
    pub ink_px2: f64,
}

/// How the file's ink was mixed with its paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Blend {
    /// In encoded sRGB values, as drawings nearly always are.
    Encoded,
    /// In linear light, as this file's own edges say.
    Linear,
}

/// All lines of a drawing.
#[derive(Debug, Clone, PartialEq)]
pub struct DrawingLines {
    /// As many as the plan has roles, in its order.
    pub roles: Vec<RoleLines>,
    pub blend: Blend,
    /// Ink in px² that is in no role's colour.
    pub off_palette_px2: f64,
    /// Ink that is no line.
    pub masked: Vec<Masked>,
}

/// Why ink is not weighed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MaskKind {
    SpottedBlack,
    Tone,
    Lettering,
}

/// A place whose ink is not weighed, by its upper left corner and sides in px.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Masked {
    pub kind: MaskKind,
    pub x: f64,
    pub y: f64,
    pub width: f64,
    pub height: f64,
    pub ink_px2: f64,
}

/// Measures a drawing given as one flat picture or as layers, bottom first, all of one size.
pub fn measure(layers: &[Layer], plan: &Plan) -> DrawingLines {
    look_at(layers, plan, None).0
}

/// Measures a drawing, and finds what of its ink and paper stands alone, and the gaps in its lines.
pub fn measure_all(layers: &[Layer], plan: &Plan, look: &islands::Look) -> (DrawingLines, islands::Islands) {
    look_at(layers, plan, Some(look))
}

fn look_at(layers: &[Layer], plan: &Plan, look: Option<&islands::Look>) -> (DrawingLines, islands::Islands) {
    let mut found = islands::Islands::default();
    // Islands and gaps are of the whole drawing: the ink of several layers is laid together.
    let mut together = (layers.len() > 1 && look.is_some()).then(|| vec![classify::PAPER; layers[0].picture.width * layers[0].picture.height]);
    let mut out = DrawingLines { roles: vec![RoleLines::default(); plan.roles.len()], blend: Blend::Encoded, off_palette_px2: 0.0, masked: Vec::new() };
    for layer in layers {
        let mut planes = scratch::take(layer.picture.width * layer.picture.height);
        let scan = (layer.role.is_none() && paper::is_scan(&layer.picture)).then(|| paper::clean(&layer.picture, plan));
        let picture = scan.as_ref().map_or(layer.picture, |s| Picture { rgba: &s.rgba, ..layer.picture });
        let mut ink = classify::classify(&picture, plan, layer.role, scan.as_ref().map(|s| &s.inks[..]), &mut planes);
        if layer.role.is_none() {
            out.blend = ink.blend;
        }
        out.off_palette_px2 += ink.off_palette_px2;
        if look.is_some() && layer.role.is_none() {
            found.off.extend(islands::off_palette(&ink, &picture, plan));
        }
        distance::measure(&mut ink);
        let (masked, halves) = masks::mask(&mut ink, plan.widest_px);
        out.masked.extend(masked);
        let outside = outside::find(&ink, plan);
        let [first, second] = &mut planes.halves;
        let (first, second) = rayon::join(|| lines_of(&ink, plan, &outside, &halves[0], first), || lines_of(&ink, plan, &outside, &halves[1], second));
        for (role, line) in first.into_iter().chain(second) {
            out.roles[role].lines.push(line);
        }
        for (role, px2) in ink.role_px2.iter().enumerate() {
            out.roles[role].ink_px2 += px2;
        }
        if let Some(all) = &mut together {
            for &i in &ink.touched {
                let (i, p) = (i as usize, ink.pixels[i as usize]);
                if p.coverage > all[i].coverage {
                    all[i] = p;
                }
            }
        } else if let Some(look) = look {
            islands::find(&mut found, ink.width, &ink.pixels, &out.roles, look);
        }
        let touched = ink.touched;
        planes = scratch::Planes { pixels: ink.pixels, distance2: ink.distance2, ..planes };
        scratch::give_back(planes, &touched);
    }
    if let (Some(all), Some(look)) = (together, look) {
        islands::find(&mut found, layers[0].picture.width, &all, &out.roles, look);
    }
    (out, found)
}

/// The lines of some pieces of ink, given by their runs, with their roles.
fn lines_of(ink: &classify::Ink, plan: &Plan, outside: &Option<outside::Outside>, runs: &[classify::Run], planes: &mut scratch::Half) -> Vec<(usize, Line)> {
    let skeleton = thin::thin(ink, runs, &mut planes.near, &mut planes.seen);
    let graph = graph::trace(ink, &skeleton, &mut planes.seen);
    scratch::blank(&mut planes.seen, &skeleton.pixels, 0);
    graph
        .chains
        .par_iter()
        .filter(|chain| usize::from(chain.role) < plan.roles.len())
        .filter_map(|chain| {
            let mut line = centre::line(ink, &graph, chain)?;
            ends::mark(&mut line, &graph, chain);
            let class = usize::from(chain.role);
            Some((outside.as_ref().map_or(Some(class), |o| o.role_of(&line, class))?, line))
        })
        .collect()
}
