//! The sampler sheet: its plan, and what a scan of it tells of the pen.

pub mod beside;
mod lane;
pub mod layout;
pub mod marks;
mod patches;

use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    course::{Coarseness, Patch},
    drawing::{Line, Place},
    scan::{
        RepeatingStrip, Scan,
        levels::{self, Flat, InkLevel},
    },
    stats::median,
};
use beside::{Axes, Beside};
use layout::{Cell, CellKind, SheetPlan, Slot};
use marks::Placement;

/// What a scan of a sampler sheet told.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct SheetReading {
    pub plan: SheetPlan,
    /// The scan's, as the file or the member says.
    pub resolution_dpi: f64,
    /// What lies beside the sheet and tells the scale in place of the file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub beside: Option<Beside>,
    /// Corners of the whole page in scan px, clockwise from its top left.
    pub page_px: [[f64; 2]; 4],
    /// Corner marks that were found, of four.
    pub marks: u32,
    pub turn_deg: f64,
    /// Printed size over full size, across and down.
    pub printed_scale: [f64; 2],
    /// Absorptance of the solid ink, and −log₁₀ of its reflectance over the paper's.
    pub ink_absorptance: f64,
    pub darkness: f64,
    /// Fall of the light over the page that was taken out, as a share.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shading: Option<f64>,
    pub cells: Vec<CellReading>,
    pub warnings: Vec<String>,
}

/// One cell as it was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CellReading {
    pub id: String,
    pub kind: CellKind,
    /// Its corners in scan px, clockwise from its top left.
    pub corners_px: [[f64; 2]; 4],
    pub strokes: Vec<StrokeReading>,
    /// Widths by direction of travel, where the cell is the circle: degrees counter-clockwise, mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub by_direction: Vec<[f64; 2]>,
    /// The circle's outer and inner edge in scan px.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ring_px: Vec<Vec<[f64; 2]>>,
    /// Lines of any course, where the cell is the free line or the hatching.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub free: Vec<FreeLine>,
    /// How close the hatching's lines lie, in mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coarseness: Option<Coarseness>,
    /// Whether its place was marked by hand.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub by_hand: bool,
    /// Mean coverage of the hatched or the solid field.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tone: Option<f64>,
    /// What could not be read, and why; empty when all was.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub says: Vec<String>,
}

/// A line of any course: its middle in scan px and its width there, mm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FreeLine {
    pub points_px: Vec<[f64; 2]>,
    pub width_mm: Vec<f64>,
}

/// A cell whose place on the scan was marked by hand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Marked {
    /// The cell's id.
    pub id: String,
    /// Its corners in scan px, clockwise from its top left.
    pub corners_px: [[f64; 2]; 4],
}

/// One stroke of a cell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct StrokeReading {
    /// Which of the cell's strokes, from 0.
    pub slot: u32,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    /// Direction drawn, counter-clockwise on the sheet, degrees.
    pub direction_deg: f64,
    /// How far along its slot the stroke begins, mm.
    pub begins_mm: f64,
    pub length_mm: f64,
    /// Step along the line, mm, of the widths and edges.
    pub step_mm: f64,
    pub width_mm: Vec<f64>,
    /// Edges at the 60 % threshold to either side of the fitted line, mm.
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    /// Of the edges about their lines, where the stroke is ruled: lag in µm, correlation.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub autocorrelation: Vec<[f64; 2]>,
    /// The body's figures, where the stroke is ruled.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub body: Option<Body>,
    /// A dot's diameter, where it is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dot_mm: Option<f64>,
}

/// Figures of a stroke's body.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Body {
    pub width_mm: f64,
    pub sd_mm: f64,
    pub raggedness_um: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_correlation_um: Option<f64>,
    pub blurriness_um: f64,
    /// 95 % of both; absent where the stroke is a ray.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intervals_um: Option<EdgeIntervals>,
    /// How much lighter than paper it is beside the line, over the ink's level: a scanner's sharpening.
    pub overshoot: f64,
    pub from_mm: f64,
}

/// How sure an edge's figures are, 95 %.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct EdgeIntervals {
    pub raggedness: [f64; 2],
    pub blurriness: [f64; 2],
}

/// Why a scan is no sheet.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum SheetError {
    #[error("no corner mark of a sampler sheet was found; scan the whole sheet in grey at 300 dpi or more, all four marks in view")]
    NoMarks,
    #[error("only one corner mark was found, which does not tell where the sheet lies; scan it with at least two in view, better all four")]
    OneMark,
    #[error(
        "the sheet's marks lie {found:.0} % of their distance apart: either the resolution is not {stated} dpi (about {likely:.0} would fit), or it was printed far off its size. Type the scan's true resolution"
    )]
    Resolution { found: f64, stated: f64, likely: f64 },
    #[error("the sheet is blank: no cell holds any ink")]
    Blank,
    #[error("{0}: no cell of the sheet is called so, or its four corners make no area; mark it again")]
    Marked(String),
    #[error("the resolution must lie between 100 and 2400 dpi, not {0}")]
    Range(f64),
}

/// Reads a sheet; beside it the levelled strip of a line at normal effort, where there is one. Cells in `marked` lie where
/// they were marked, the others where the corner marks put them.
pub fn read(scan: &Scan, marked: &[Marked]) -> Result<(SheetReading, Option<RepeatingStrip>), SheetError> {
    if !(100.0..=2400.0).contains(&scan.dpi) {
        return Err(SheetError::Range(scan.dpi));
    }
    let (plan, mut found) = marks::sheet_of(marks::find(scan)).ok_or(SheetError::NoMarks)?;
    marks::complete(scan, &plan, &mut found);
    let place = marks::place(&plan, &found).ok_or(SheetError::OneMark)?;
    let places = plan.cells.iter().map(|c| placed(c, &place, marked)).collect::<Result<Vec<_>, _>>()?;
    if let Some(m) = marked.iter().find(|m| plan.cells.iter().all(|c| c.id != m.id)) {
        return Err(SheetError::Marked(m.id.clone()));
    }
    let [w, h] = plan.size_mm;
    let page_px = [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]].map(|c| place.px(c));
    let beside = beside::find(scan, &page_px);
    let axes = Axes::new(beside.map_or([scan.dpi; 2], |b| b.dpi));
    let mut warnings = Vec::new();
    let scale = place.scale(&plan, &axes);
    say_scale(scale, scan.dpi, beside.is_some(), &mut warnings)?;
    if found.len() < 4 {
        warnings.push(format!("{} of the four corner marks were found; places are less sure toward the missing ones", found.len()));
    }
    if place.keystone(&plan) > 0.01 {
        warnings.push("the sheet is larger on one side than on the other: this looks like a photo. Widths differ over it by as much; scan it flat".into());
    }
    // What lies beyond the sheet's borders is no paper of its.
    let on_page = |x: f64, y: f64| beside::outside(&page_px, [x, y]) < 0.0;
    let flat = levels::flatten_page(scan, &on_page, &mut warnings);
    let ink = solid_ink(&plan, &places, &flat);
    let (ink, known) = match ink {
        Some(level) => (level, true),
        None => (InkLevel { absorptance: 1.0, grain: flat.grain }, false),
    };
    let all = |ink: &InkLevel| -> Vec<CellReading> { plan.cells.par_iter().zip(&places).map(|(c, p)| cell(c, p, &flat, &axes, ink)).collect() };
    let mut cells = all(&ink);
    let mut level = ink.absorptance;
    if !known {
        level = lane::fitted_level(&plan, &place, &flat, &axes, &mut warnings).ok_or(SheetError::Blank)?;
        cells = all(&InkLevel { absorptance: level, grain: flat.grain });
    }
    if cells.iter().all(|c| c.strokes.is_empty() && c.by_direction.is_empty()) {
        return Err(SheetError::Blank);
    }
    let overshoot: Vec<f64> =
        cells.iter().filter(|c| c.kind == CellKind::Effort).flat_map(|c| &c.strokes).filter_map(|s| s.body).map(|b| b.overshoot).collect();
    if median(&overshoot).is_some_and(levels::is_sharpened) {
        warnings.push(levels::SHARPENED.into());
    }
    cells.iter_mut().for_each(|c| c.by_hand = marked.iter().any(|m| m.id == c.id));
    let strip = lane::strip(&plan, &place, &flat, &axes, &InkLevel { absorptance: level, grain: flat.grain });
    let reading = SheetReading {
        resolution_dpi: scan.dpi,
        beside,
        page_px,
        marks: found.len() as u32,
        turn_deg: place.turn_deg(&plan),
        printed_scale: scale,
        ink_absorptance: level,
        darkness: -(1.0 - level).max(1e-3).log10(),
        shading: Some((flat.shading * 1000.0).round() / 1000.0),
        cells,
        warnings,
        plan,
    };
    Ok((reading, strip))
}

/// Where a cell lies: by the corner marks, or by its own corners where they were marked by hand.
fn placed(c: &Cell, sheet: &Placement, marked: &[Marked]) -> Result<Placement, SheetError> {
    let Some(m) = marked.iter().find(|m| m.id == c.id) else { return Ok(*sheet) };
    let [x, y, w, h] = c.area;
    let corners = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
    let pairs: Vec<([f64; 2], [f64; 2])> = corners.into_iter().zip(m.corners_px).collect();
    let area = (0..4).map(|i| (m.corners_px[i], m.corners_px[(i + 1) % 4])).map(|(a, b)| 0.5 * (a[0] * b[1] - a[1] * b[0])).sum::<f64>();
    let sane = m.corners_px.iter().flatten().all(|v| v.is_finite() && v.abs() < 1e6) && area.abs() > 400.0;
    sane.then(|| marks::homography(&pairs, true)).flatten().ok_or_else(|| SheetError::Marked(m.id.clone()))
}

/// Over 1 % off is said; over a tenth is no printer's doing.
fn say_scale(scale: [f64; 2], dpi: f64, beside: bool, warnings: &mut Vec<String>) -> Result<(), SheetError> {
    let mean = 0.5 * (scale[0] + scale[1]);
    if !(0.9..=1.1).contains(&mean) {
        return Err(SheetError::Resolution { found: 100.0 * mean, stated: dpi, likely: dpi * mean });
    }
    if scale.iter().any(|s| (s - 1.0).abs() > 0.01) {
        warnings.push(format!(
            "printed at {:.1} % across and {:.1} % down; widths are by {} and do not depend on it",
            100.0 * scale[0],
            100.0 * scale[1],
            if beside { "what lies beside the sheet" } else { "the scan's resolution" }
        ));
    }
    Ok(())
}

/// The ink's level from the solid patch, where it is filled.
fn solid_ink(plan: &SheetPlan, places: &[Placement], flat: &Flat) -> Option<InkLevel> {
    let (cell, place) = plan.cells.iter().zip(places).find(|(c, _)| c.kind == CellKind::Solid)?;
    let values = patches::field(cell.strokes.first()?, 0.35, place, flat);
    let level = median(&values)?;
    // The robust mode: what lies near the median; holes in the ink stay out of it.
    let near: Vec<f64> = values.iter().copied().filter(|v| (v - level).abs() < 0.1).collect();
    let filled = near.len() as f64 > 0.8 * values.len() as f64 && level > 0.25;
    filled.then(|| InkLevel { absorptance: (near.iter().sum::<f64>() / near.len() as f64).clamp(0.05, 1.0), grain: flat.grain })
}

fn cell(c: &Cell, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> CellReading {
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
        out.says.push("lies partly outside of the scan".into());
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
            None => out.says.push("no closed ring was found inside the ticks".into()),
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
                    out.says.push(why.says(&slots.join(", ")));
                }
            }
            out.strokes = read.into_iter().flatten().collect();
        }
    }
    let bare = out.strokes.is_empty() && out.by_direction.is_empty() && out.tone.is_none() && c.kind != CellKind::Signature;
    if bare && out.says.is_empty() {
        out.says.push("nothing is inked here".into());
    }
    out
}

/// A field of the sheet cut out of the scan as it lies there.
struct Window {
    patch: Patch,
    /// Its top left corner in scan px.
    corner: [f64; 2],
    px_mm: f64,
}

impl Window {
    /// The field about a slot, 2 % inside its borders; what lies beyond it is paper.
    fn cut(slot: &Slot, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Self {
        let (reach, long) = (0.98 * slot.reach, 0.01 * (slot.to[0] - slot.from[0]));
        let (l, r, t, b) = (slot.from[0] + long, slot.to[0] - long, slot.from[1] - reach, slot.from[1] + reach);
        let quad = [[l, t], [r, t], [r, b], [l, b]].map(|p| place.px(p));
        let bound = |k: usize, most: usize| {
            let v = quad.map(|p| p[k].clamp(0.0, most as f64));
            let low = v.into_iter().fold(f64::INFINITY, f64::min).floor() as usize;
            (low, (v.into_iter().fold(0.0, f64::max).ceil() as usize).max(low))
        };
        let ((x0, x1), (y0, y1)) = (bound(0, flat.width), bound(1, flat.height));
        let inside = |x: f64, y: f64| {
            (0..4).all(|i| {
                let (a, b) = (quad[i], quad[(i + 1) % 4]);
                (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0]) >= 0.0
            })
        };
        let at = |x: usize, y: usize| (flat.data[y * flat.width + x] / ink.absorptance as f32).clamp(0.0, 1.0);
        let mut coverage = Vec::with_capacity((x1 - x0) * (y1 - y0));
        for y in y0..y1 {
            coverage.extend((x0..x1).map(|x| if inside(x as f64 + 0.5, y as f64 + 0.5) { at(x, y) } else { 0.0 }));
        }
        let patch = Patch { width: x1 - x0, height: y1 - y0, coverage };
        Self { patch, corner: [x0 as f64, y0 as f64], px_mm: 25.4 / axes.dpi_mean() }
    }

    /// The lines of the patch, their widths where they are body.
    fn free(&self) -> Vec<FreeLine> {
        self.kept(&self.patch.lines(), 500)
    }

    /// Lines with at most so many places each.
    fn kept(&self, lines: &[Line], most: usize) -> Vec<FreeLine> {
        let digits = |v: f64, d: f64| (v * d).round() / d;
        let kept = |l: &Line| {
            let stride = (l.points.len() / most).max(1);
            let body: Vec<_> = l.points.iter().filter(|p| p.place == Place::Body).step_by(stride).collect();
            FreeLine {
                points_px: body.iter().map(|p| [self.corner[0] + f64::from(p.x), self.corner[1] + f64::from(p.y)].map(|v| digits(v, 100.0))).collect(),
                width_mm: body.iter().map(|p| digits(f64::from(p.width) * self.px_mm, 1e4)).collect(),
            }
        };
        lines.iter().map(kept).filter(|l| l.width_mm.len() > 8).collect()
    }
}
