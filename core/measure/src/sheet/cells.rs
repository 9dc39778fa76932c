//! One cell of the sheet: which of its strokes are read, and by which measure.
//!
//! Limits: the solid patch tells the ink's level only where four fifths of it are filled.

use rayon::prelude::*;

use super::{
    CellReading, StrokeReading,
    beside::Axes,
    lane,
    layout::{Cell, CellKind, SheetPlan},
    marks::Placement,
    patches,
    window::Window,
    words,
};
use crate::{
    scan::{levels::InkLevel, paper::Flat},
    stats::median,
};

/// The ink's level from the solid patch, where it is filled.
pub(super) fn solid_ink(plan: &SheetPlan, places: &[Placement], flat: &Flat) -> Option<InkLevel> {
    let (cell, place) = plan.cells.iter().zip(places).find(|(c, _)| c.kind == CellKind::Solid)?;
    let values = patches::field(cell.strokes.first()?, 0.35, place, flat);
    let level = median(&values)?;
    // The robust mode: what lies near the median; holes in the ink stay out of it.
    let near: Vec<f64> = values.iter().copied().filter(|v| (v - level).abs() < 0.1).collect();
    let filled = near.len() as f64 > 0.8 * values.len() as f64 && level > 0.25;
    filled.then(|| InkLevel { absorptance: (near.iter().sum::<f64>() / near.len() as f64).clamp(0.05, 1.0), grain: flat.grain })
}

pub(super) fn cell(c: &Cell, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> CellReading {
    let [x, y, w, h] = c.area;
    let mut out = CellReading {
        id: c.id.clone(),
        kind: c.kind,
        corners_px: [[x, y], [x + w, y], [x + w, y + h], [x, y + h]].map(|p| place.px(p)),
        strokes: Vec::new(),
        by_direction: Vec::new(),
        ring_px: Vec::new(),
        free: Vec::new(),
        coarseness: None,
        by_hand: false,
        tone: None,
        says: Vec::new(),
    };
    let inside = |p: &[f64; 2]| p[0] > -0.5 && p[1] > -0.5 && p[0] < flat.width as f64 + 0.5 && p[1] < flat.height as f64 + 0.5;
    if !out.corners_px.iter().all(inside) {
        out.says.push(words::OUTSIDE.into());
    }
    match c.kind {
        CellKind::Hatching | CellKind::Solid => {
            let values = c.strokes.first().map(|s| patches::field(s, 0.5, place, flat)).unwrap_or_default();
            let tone = values.iter().sum::<f64>() / values.len().max(1) as f64 / ink.absorptance;
            if tone > 0.01 {
                out.tone = Some(tone.clamp(0.0, 1.0));
            }
            if c.kind == CellKind::Hatching && tone > 0.01 {
                let window = Window::cut(&c.strokes[0], place, flat, axes, ink);
                let lines = window.patch.lines();
                out.coarseness = window.patch.coarseness(&lines, window.px_mm);
                out.free = window.kept(&lines, 40);
            }
        }
        CellKind::Circle => match c.strokes.first().and_then(|s| patches::ring(s, place, flat, axes, ink)) {
            Some(ring) => (out.by_direction, out.ring_px) = (ring.by_direction, ring.edges_px.into()),
            None => out.says.push(words::NO_RING.into()),
        },
        CellKind::Signature => out.free = c.strokes.first().map(|s| Window::cut(s, place, flat, axes, ink).free()).unwrap_or_default(),
        CellKind::Dot => {
            for (i, s) in c.strokes.iter().enumerate() {
                out.strokes.extend(patches::dot(i, s, place, flat, axes, ink));
            }
        }
        _ => {
            let read: Vec<Result<StrokeReading, lane::Unread>> =
                c.strokes.par_iter().enumerate().map(|(i, s)| lane::stroke(i, s, c.kind, place, flat, axes, ink)).collect();
            for why in lane::Unread::ALL {
                let slots: Vec<String> =
                    read.iter().enumerate().filter(|(_, r)| r.as_ref().is_err_and(|e| *e == why)).map(|(i, _)| (i + 1).to_string()).collect();
                let all_empty = why == lane::Unread::Empty && slots.len() == read.len();
                if !slots.is_empty() && !all_empty {
                    out.says.push(words::unread(why, &slots.join(", ")));
                }
            }
            out.strokes = read.into_iter().flatten().collect();
        }
    }
    let bare = out.strokes.is_empty() && out.by_direction.is_empty() && out.tone.is_none() && c.kind != CellKind::Signature;
    if bare && out.says.is_empty() {
        out.says.push(words::NOTHING.into());
    }
    out
}
