//! A scan of a sampler sheet, read cell by cell.
//!
//! How: corner marks place the sheet (`marks`), a card or rule beside it gives the scale (`beside`), each cell is read by its own measure
//! (`cells`, `lane`, `patches`, `window`); `words` says what could not be. Limits: two corner marks at least; over a tenth off its size is refused.

use rayon::prelude::*;

use super::{
    beside::{self, Axes},
    cells, lane,
    layout::{Cell, CellKind},
    marks::{self, Placement},
    reading::{CellReading, Marked, SheetError, SheetReading},
    words,
};

use crate::{
    scan::{
        RepeatingStrip, Scan,
        levels::{self, InkLevel},
        paper::{self},
    },
    stats::median,
};

/// Reads a sheet; beside it the levelled strip of a line at normal effort, where there is one. Cells in `marked` lie where
/// they were marked, the others where the corner marks put them.
pub fn read(scan: &Scan, marked: &[Marked]) -> Result<(SheetReading, Option<RepeatingStrip>), SheetError> {
    if !(100.0..=2400.0).contains(&scan.dpi) {
        return Err(SheetError::Range(scan.dpi));
    }
    let (plan, mut found) = marks::sheet_of(marks::find(scan, scan.dpi, 2)).ok_or(SheetError::NoMarks)?;
    if marks::mirrored(&found) {
        return Err(SheetError::Mirrored);
    }
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
    judge_scale(scale, scan.dpi, beside.is_some(), &mut warnings)?;
    if found.len() < 4 {
        warnings.push(words::marks_missing(found.len()));
    }
    if place.keystone(&plan) > 0.01 {
        warnings.push(words::PHOTO.into());
    }
    // What lies beyond the sheet's borders is no paper of its.
    let on_page = |x: f64, y: f64| beside::outside(&page_px, [x, y]) < 0.0;
    let flat = paper::flatten_page(scan, &on_page, &mut warnings);
    let ink = cells::solid_ink(&plan, &places, &flat);
    let (ink, known) = match ink {
        Some(level) => (level, true),
        None => (InkLevel { absorptance: 1.0, grain: flat.grain }, false),
    };
    let all = |ink: &InkLevel| -> Vec<CellReading> { plan.cells.par_iter().zip(&places).map(|(c, p)| cells::cell(c, p, &flat, &axes, ink)).collect() };
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
        photo: None,
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
fn judge_scale(scale: [f64; 2], dpi: f64, beside: bool, warnings: &mut Vec<String>) -> Result<(), SheetError> {
    let mean = 0.5 * (scale[0] + scale[1]);
    if !(0.9..=1.1).contains(&mean) {
        return Err(SheetError::Resolution { found: 100.0 * mean, stated: dpi, likely: dpi * mean });
    }
    if scale.iter().any(|s| (s - 1.0).abs() > 0.01) {
        warnings.push(words::printed_at(scale, beside));
    }
    Ok(())
}
