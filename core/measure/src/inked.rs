//! All lines of a scanned page, of any course: their middle and their width along the way, in mm of the scan.
//!
//! How: the paper is divided out (`scan/paper`), ink's own level is read off its solid places, and what is left is measured as a drawing's lines
//! are (`drawing`). Limits: within a width of a junction, a corner or a tip no width is given; ink wider than 8 mm is no line.

use serde::{Deserialize, Serialize};

use crate::{
    Picture,
    drawing::{Layer, Line, Place, Plan, Source, measure},
    scan::{Scan, ScanError, paper::flatten},
    source::Kind,
    stats::{median, quantile},
};

/// A place on a line, mm from the scan's top left corner, y down.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct InkedPlace {
    pub x_mm: f64,
    pub y_mm: f64,
    /// Absent where the line cannot be measured: at junctions, corners and round tips.
    pub width_mm: Option<f64>,
}

/// A line of the page.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct InkedLine {
    pub places: Vec<InkedPlace>,
    /// Whether either end is the line's own, not a junction.
    pub free: [bool; 2],
}

/// A page's lines, and what was said of its scan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct InkedPage {
    pub size_mm: [f64; 2],
    pub lines: Vec<InkedLine>,
    pub warnings: Vec<String>,
}

/// Ink wider than this is no line, mm.
const WIDEST_MM: f64 = 8.0;
/// A line shorter than this says nothing, mm.
const SHORTEST_MM: f64 = 1.0;
/// Share of light that ink takes at least where its own level is looked for.
const INK: f32 = 0.25;
/// A place is solid where all about it is as dark but for this share.
const EVEN: f32 = 0.9;
/// Coverage under this is grain of the paper, over one less it is grain of the ink.
const GRAIN: f32 = 0.08;

/// Reads a page.
pub fn page(scan: &Scan) -> Result<InkedPage, ScanError> {
    scan.check()?;
    let mut warnings = Vec::new();
    let flat = flatten(scan, &mut warnings);
    let level = ink_level(&flat.data, flat.width, flat.height, &mut warnings).ok_or(ScanError::NoInk)?;
    let (grain, mm) = (GRAIN.max(3.0 * flat.grain as f32 / level), 25.4 / scan.dpi);
    let alpha = |a: f32| match a / level {
        c if c < grain => 0,
        c if c > 1.0 - grain => 255,
        c => (255.0 * c).round() as u8,
    };
    // Ink with its coverage as alpha: nothing is left to be unmixed.
    let mut rgba = vec![0u8; 4 * flat.data.len()];
    rgba.as_chunks_mut::<4>().0.iter_mut().zip(&flat.data).for_each(|(p, a)| p[3] = alpha(*a));
    let (width, height) = (flat.width, flat.height);
    drop(flat);
    let Some(picture) = Picture::new(width, height, &rgba) else { return Err(ScanError::TooSmall { width, height }) };
    let plan = Plan { roles: vec![Source::Colour { rgb: [0; 3], tolerance: 12.0 }], widest_px: WIDEST_MM / mm };
    let lines = measure(&[Layer { picture: picture.of_kind(Kind::Scan), role: Some(0) }], &plan).roles.swap_remove(0).lines;
    let lines: Vec<InkedLine> = lines.iter().filter(|l| l.length_px() * mm >= SHORTEST_MM).map(|l| inked(l, mm)).collect();
    if lines.iter().all(|l| l.places.iter().all(|p| p.width_mm.is_none())) {
        return Err(ScanError::NoInk);
    }
    Ok(InkedPage { size_mm: [width as f64 * mm, height as f64 * mm], lines, warnings })
}

/// How much light solid ink takes: the median of places as dark as all about them; where no line is wide enough to have any, the darkest.
fn ink_level(absorptance: &[f32], w: usize, h: usize, warnings: &mut Vec<String>) -> Option<f32> {
    let (mut solid, mut dark) = (Vec::new(), Vec::new());
    for y in 1..h.saturating_sub(1) {
        for x in 1..w.saturating_sub(1) {
            let i = y * w + x;
            let here = absorptance[i];
            if here < INK {
                continue;
            }
            dark.push(f64::from(here));
            if [i - w - 1, i - w, i - w + 1, i - 1, i + 1, i + w - 1, i + w, i + w + 1].iter().all(|&j| absorptance[j] >= EVEN * here) {
                solid.push(f64::from(here));
            }
        }
    }
    // Of pale ink and dark on one page the dark is the pen's.
    let top = quantile(&dark, 0.99)?;
    let solid: Vec<f64> = solid.into_iter().filter(|v| *v > 0.7 * top).collect();
    if solid.len() >= 50 {
        return median(&solid).map(|m| m as f32);
    }
    warnings.push("no line is wide enough to show the ink's own level: the darkest places stand in, and widths may be some hundredths off".into());
    Some(top as f32)
}

fn inked(line: &Line, mm: f64) -> InkedLine {
    let free = line.ends.map(|e| matches!(e, crate::drawing::End::Free { .. }) && !line.closed);
    let n = line.points.len();
    let places = line.points.iter().enumerate().map(|(i, p)| {
        let width = f64::from(p.width);
        // A round cap is narrower than the way to its tip is long, up to 1.6 of its radii; a taper is so all along.
        let (before, behind) = (i as f64 * line.step_px, (n - 1 - i) as f64 * line.step_px);
        let tip = free[0] && before < width || free[1] && behind < width;
        let measured = matches!(p.place, Place::Body | Place::End) && !tip && width > 0.0;
        InkedPlace { x_mm: f64::from(p.x) * mm, y_mm: f64::from(p.y) * mm, width_mm: measured.then_some(width * mm) }
    });
    InkedLine { places: places.collect(), free }
}
