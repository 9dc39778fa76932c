//! A photographed sampler sheet: laid flat by its marks and frames, read as a scan is, its widths corrected by its printed bars.
//!
//! How: `lens` finds how the camera saw the sheet; the photo is laid flat by it; the flat picture goes through the same code as a scan; `bars` says what the camera makes of widths;
//! places are given in px of the flat picture. Limits: edges finer than the photo's blur are not the pen's, so that none are given.

mod bars;
mod lens;

use super::{
    beside::Axes,
    layout::{CellKind, SheetPlan},
    marks::{self, FoundMark},
    reading::{Marked, PhotoReading, SheetError, SheetReading, Widths},
    scanned::read,
    words,
};
use crate::{
    scan::{Scan, levels},
    seen::Seen,
    stats::median,
};

/// A sheet that is larger on one side than on the other by more than this was not scanned.
const KEYSTONE: f64 = 0.01;
/// Darker paper than this share of white is too near to the noise.
const DARK: f64 = 0.05;
/// Softer edges than this, mm, are a lens out of focus or a hand that shook.
const SOFT_MM: f64 = 0.7;
/// A millimetre needs so many photo px to be looked at at all.
const LEAST_PX_MM: f64 = 3.0;
/// A line needs so many photo px across.
const LEAST_PX: f64 = 2.0;
/// Frames further from a flat sheet's than this, mm, are a sheet that is not flat.
const WAVY_MM: f64 = 0.15;
/// What of the surroundings is kept: a card lies there, mm.
const AROUND_MM: f64 = 70.0;

/// The flat picture has at most so many px to the mm, for its memory.
const MOST_PX_MM: f64 = 20.0;

/// The resolution that a photo has if the sheet fills it: its marks are looked for by it.
fn as_if_filled(scan: &Scan) -> f64 {
    let (long, short) = (scan.width.max(scan.height) as f64, scan.width.min(scan.height) as f64);
    25.4 * (long / 297.0).min(short / 210.0).clamp(2.0, 100.0)
}

fn found(scan: &Scan, about_dpi: f64) -> Option<(SheetPlan, Vec<FoundMark>)> {
    let (plan, mut found) = marks::sheet_of(marks::find(scan, about_dpi, 4))?;
    if !marks::mirrored(&found) {
        marks::complete(scan, &plan, &mut found);
    }
    Some((plan, found))
}

/// Whether the picture shows a sheet as a camera sees it and no scanner.
pub fn is_photo(scan: &Scan) -> bool {
    let place = found(scan, as_if_filled(scan)).and_then(|(plan, found)| Some((marks::place(&plan, &found)?.keystone(&plan), found.len())));
    place.is_some_and(|(keystone, marks)| marks > 2 && keystone > KEYSTONE)
}

/// The photo laid flat: what `read_photo` gives places in.
pub fn lay_flat(photo: &Scan) -> Result<Scan, SheetError> {
    flattened(photo).map(|f| f.flat)
}

/// A photo laid flat, and how it was seen.
struct Flattened {
    size_mm: [f64; 2],
    seen: Seen,
    flat: Scan,
    fewest_px_per_mm: f64,
}

fn flattened(photo: &Scan) -> Result<Flattened, SheetError> {
    let (plan, found) = found(photo, as_if_filled(photo)).ok_or(SheetError::NoMarks)?;
    if marks::mirrored(&found) {
        return Err(SheetError::Mirrored);
    }
    let seen = lens::find(photo, &plan, &found).ok_or(SheetError::PhotoMarks(found.len() as u32))?;
    let [w, h] = plan.size_mm;
    let spots: Vec<[f64; 2]> = (0..25).map(|k| [w * f64::from(k % 5) / 4.0, h * f64::from(k / 5) / 4.0]).collect();
    let scales: Vec<f64> = spots.iter().map(|p| seen.px_per_mm(*p)).collect();
    let (fewest, most) = scales.iter().fold((f64::INFINITY, 0.0f64), |r, v| (r.0.min(*v), r.1.max(*v)));
    if !(fewest.is_finite() && fewest > LEAST_PX_MM && most < 100.0) {
        return Err(SheetError::PhotoFar { has: if fewest.is_finite() { fewest } else { 0.0 } });
    }
    let (flat, origin) = laid_flat(photo, &seen, &plan, most.clamp(4.0, MOST_PX_MM));
    let page_light: Vec<f64> = spots.iter().map(|p| [p[0].clamp(3.0, w - 3.0), p[1].clamp(3.0, h - 3.0)]).map(|p| at(&flat, origin, p)).collect();
    if median(&page_light).is_none_or(|l| l < DARK) {
        return Err(SheetError::Dark);
    }
    Ok(Flattened { size_mm: plan.size_mm, seen, flat, fewest_px_per_mm: fewest })
}

/// Reads a photographed sheet; beside it the sides of the photo laid flat. Places, marked ones too, are px of that.
pub fn read_photo(photo: &Scan, marked: &[Marked]) -> Result<(SheetReading, [usize; 2]), SheetError> {
    let Flattened { size_mm: [w, h], seen, flat, fewest_px_per_mm } = flattened(photo)?;
    let (mut reading, _) = read(&flat, marked)?;
    let axes = Axes::new(reading.beside.map_or([flat.dpi; 2], |b| b.dpi));
    let (plan, found) = self::found(&flat, flat.dpi).ok_or(SheetError::NoMarks)?;
    let place = marks::place(&plan, &found).ok_or(SheetError::OneMark)?;
    let scale = place.scale(&plan, &axes);
    let widths = bars::read(&flat, &place, &plan, scale[1]);
    if let Some(soft) = widths.as_ref().map(|w| w.edge_mm).filter(|e| *e > SOFT_MM) {
        return Err(SheetError::Soft(soft));
    }
    if let Some(widths) = &widths {
        correct(&mut reading, widths);
        // Cameras sharpen; the bars were sharpened alike.
        reading.warnings.retain(|w| w != levels::SHARPENED);
    }
    thin_lines(&mut reading, &seen);
    reading.warnings.push(words::PHOTO_EDGES.into());
    if widths.is_none() {
        reading.warnings.push(if plan.bars.is_empty() { words::NO_BARS } else { words::BARS_UNREAD }.into());
    }
    if reading.beside.is_none() {
        reading.warnings.push(words::PHOTO_SCALE.into());
    }
    if seen.off_mm > WAVY_MM {
        reading.warnings.push(words::wavy(seen.off_mm));
    }
    reading.photo = Some(PhotoReading {
        px_per_mm: seen.px_per_mm([0.5 * w, 0.5 * h]),
        fewest_px_per_mm,
        lens_bends: seen.bends[0] + seen.bends[1],
        frames_off_mm: seen.off_mm,
        widths,
    });
    let across = [seen.px([10.0, 0.5 * h]), seen.px([w - 10.0, 0.5 * h])];
    reading.turn_deg = -(across[1][1] - across[0][1]).atan2(across[1][0] - across[0][0]).to_degrees();
    Ok((reading, [flat.width, flat.height]))
}

fn at(flat: &Scan, origin: [f64; 2], mm: [f64; 2]) -> f64 {
    let p = [0, 1].map(|i| (((mm[i] - origin[i]) * flat.dpi / 25.4) as usize).min([flat.width, flat.height][i] - 1));
    f64::from(flat.data[p[1] * flat.width + p[0]])
}

/// The photo as the sheet's plane at so many px to the mm, with what lies about the sheet; and where its top left corner lies, mm.
fn laid_flat(photo: &Scan, seen: &Seen, plan: &SheetPlan, k: f64) -> (Scan, [f64; 2]) {
    let [w, h] = plan.size_mm;
    let (pw, ph) = (photo.width as f64, photo.height as f64);
    // As far to each side as the photo shows there.
    let shown = |mm: [f64; 2]| {
        let p = seen.px(mm);
        p[0] > 0.0 && p[1] > 0.0 && p[0] < pw && p[1] < ph
    };
    let beyond = |from: [f64; 2], way: [f64; 2]| {
        (0..=14).map(|s| AROUND_MM / 14.0 * f64::from(s)).take_while(|s| shown([from[0] + s * way[0], from[1] + s * way[1]])).last().unwrap_or(0.0)
    };
    let [left, right] = [beyond([0.0, 0.5 * h], [-1.0, 0.0]), beyond([w, 0.5 * h], [1.0, 0.0])];
    let [top, low] = [beyond([0.5 * w, 0.0], [0.0, -1.0]), beyond([0.5 * w, h], [0.0, 1.0])];
    let origin = [-left, -top];
    (seen.laid_flat(photo, origin, [left + w + right, top + h + low], k), origin)
}

/// Widths as the bars say they are, and no edges.
fn correct(reading: &mut SheetReading, widths: &Widths) {
    for cell in &mut reading.cells {
        for s in &mut cell.strokes {
            s.width_mm.iter_mut().for_each(|w| *w = widths.of(*w));
            if let Some(dot) = &mut s.dot_mm {
                *dot = widths.of(*dot);
            }
            if let Some(b) = &mut s.body {
                b.width_mm = widths.of(b.width_mm);
                b.sd_mm /= widths.gain;
            }
        }
        cell.by_direction.iter_mut().for_each(|d| d[1] = widths.of(d[1]));
        cell.free.iter_mut().flat_map(|l| &mut l.width_mm).for_each(|w| *w = widths.of(*w));
    }
}

/// Takes out the edges of all lines, and the lines that have too few px across.
fn thin_lines(reading: &mut SheetReading, seen: &Seen) {
    for cell in &mut reading.cells {
        let area = reading.plan.cells.iter().find(|c| c.id == cell.id).map(|c| c.area);
        let Some([x, y, w, h]) = area else { continue };
        let px_mm = seen.px_per_mm([x + 0.5 * w, y + 0.5 * h]);
        for s in &mut cell.strokes {
            s.autocorrelation.clear();
            if let Some(b) = &mut s.body {
                b.intervals_um = None;
            }
        }
        let bodies: Vec<f64> = cell.strokes.iter().filter_map(|s| s.body).map(|b| b.width_mm * px_mm).collect();
        let thin = median(&bodies).is_some_and(|p| p < LEAST_PX);
        let ruled = matches!(cell.kind, CellKind::Effort | CellKind::Pace);
        if thin || ruled && cell.strokes.is_empty() && cell.says.iter().any(|s| s.contains(words::SHORT)) {
            cell.strokes.clear();
            cell.says = vec![words::too_thin(px_mm)];
        }
    }
}
