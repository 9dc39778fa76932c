//! Line weights in a drawing: coverage, roles, topology, centre lines, width along them, bodies and tapers.
//!
//! Only pixels near ink are worked on: the cost grows with the ink, not with the page.

mod about;
pub mod across;
mod assemble;
mod centre;
mod classify;
mod distance;
mod ends;
mod even;
mod faded;
mod flat;
mod flats;
mod fringes;
pub mod gaps;
mod graph;
mod grounds;
mod hatching;
mod ink;
mod inks;
pub mod islands;
mod labels;
mod lettering;
mod lines;
mod local;
mod masks;
mod mixing;
mod necks;
mod octaves;
mod off_palette;
mod outside;
pub mod palette;
mod paper;
mod pieces;
mod places;
mod plan;
mod plane;
mod premultiplied;
mod scratch;
mod screen;
pub mod signs;
mod spans;
mod textured;
mod thin;
mod tone;
mod unmix;
mod unseen;
mod width;

pub use lines::{Blend, DrawingLines, End, Line, LinePoint, MaskKind, Masked, Place, RoleLines, edge_px};
pub use plan::{Layer, Look, Plan, Source};

use rayon::prelude::*;

use crate::{Picture, source::Kind};

/// Measures a drawing given as one flat picture or as layers, bottom first, all of one size.
pub fn measure(layers: &[Layer], plan: &Plan) -> DrawingLines {
    look_at(layers, plan, None).0
}

/// Measures a drawing, and finds what of its ink and paper stands alone, and the gaps in its lines.
pub fn measure_all(layers: &[Layer], plan: &Plan, look: &Look) -> (DrawingLines, islands::Islands) {
    look_at(layers, plan, Some(look))
}

fn look_at(layers: &[Layer], plan: &Plan, look: Option<&Look>) -> (DrawingLines, islands::Islands) {
    let (mut found, mut tones) = (islands::Islands::default(), Vec::new());
    // Islands and gaps are of the whole drawing: the ink of several layers is laid together.
    let mut together = (layers.len() > 1 && look.is_some()).then(|| vec![ink::PAPER; layers[0].picture.width * layers[0].picture.height]);
    let mut out = DrawingLines {
        roles: vec![RoleLines::default(); plan.roles.len()],
        blend: Blend::Encoded,
        off_palette_px2: 0.0,
        masked: Vec::new(),
        beside: false,
        clipped: None,
    };
    for layer in layers {
        // Before the planes: what it takes is given back by then.
        let scan = (layer.role.is_none() && layer.picture.kind != Kind::Drawing).then(|| paper::clean(&layer.picture, plan));
        let mut planes = scratch::take(layer.picture.width * layer.picture.height);
        let picture = scan.as_ref().map_or(layer.picture, |s| Picture { rgba: &s.rgba, ..layer.picture });
        let mut ink = classify::classify(&picture, plan, layer.role, scan.as_ref().map(|s| &s.inks[..]), &mut planes);
        out.beside |= scan.as_ref().is_some_and(|s| s.beside);
        out.clipped = out.clipped.or(scan.as_ref().and_then(|s| s.clipped));
        if layer.role.is_none() {
            out.blend = ink.blend;
        }
        out.off_palette_px2 += ink.off_palette_px2;
        if look.is_some_and(|l| l.off_palette) && layer.role.is_none() {
            found.off.extend(off_palette::find(&ink, &picture, plan));
        }
        distance::measure(&mut ink);
        let left = masks::mask(&mut ink, plan.widest_px);
        out.masked.extend(left.masked);
        let outside = outside::find(&ink, plan);
        let [first, second] = &mut planes.halves;
        let of = |runs: &[ink::Run], planes: &mut scratch::Half| lines_of(&ink, plan, &outside, left.toned.as_ref(), runs, planes);
        let (first, second) = rayon::join(|| of(&left.halves[0], first), || of(&left.halves[1], second));
        for (role, line) in first.into_iter().chain(second) {
            out.roles[role].lines.push(line);
        }
        tones.extend(left.toned);
        for (role, px2) in ink.role_px2.iter().enumerate() {
            out.roles[role].ink_px2 += px2;
            out.roles[role].toned_px2 += ink.toned_px2[role];
            out.roles[role].opacity = out.roles[role].opacity.min(ink.opacity[role]);
        }
        if let Some(all) = &mut together {
            for &i in &ink.touched {
                let (i, p) = (i as usize, ink.pixels[i as usize]);
                if p.coverage > all[i].coverage {
                    all[i] = p;
                }
            }
        } else if let Some(look) = look {
            out.roles.iter_mut().for_each(|r| hatching::mark(&mut r.lines));
            islands::find(&mut found, ink.width, &ink.pixels, &out.roles, look);
        }
        let touched = ink.touched;
        planes = scratch::Planes { pixels: ink.pixels, distance2: ink.distance2, ..planes };
        scratch::give_back(planes, &touched);
    }
    if let (Some(all), Some(look)) = (together, look) {
        out.roles.iter_mut().for_each(|r| hatching::mark(&mut r.lines));
        islands::find(&mut found, layers[0].picture.width, &all, &out.roles, look);
    }
    tones.iter().for_each(|t: &tone::Toned| t.leave_out(&mut found));
    (out, found)
}

/// The lines of some pieces of ink, given by their runs, with their roles.
fn lines_of(
    ink: &ink::Ink,
    plan: &Plan,
    outside: &Option<outside::Outside>,
    toned: Option<&tone::Toned>,
    runs: &[ink::Run],
    planes: &mut scratch::Half,
) -> Vec<(usize, Line)> {
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
            if let Some(t) = toned {
                t.mark(&mut line);
            }
            let class = usize::from(chain.role);
            Some((outside.as_ref().map_or(Some(class), |o| o.role_of(&line, class))?, line))
        })
        .collect()
}
