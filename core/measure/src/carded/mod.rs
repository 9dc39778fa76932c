//! Ruled lines in a photo, beside a card of known size: laid flat by the card, read as a scan is, their widths in the card's millimetres.
//!
//! How: `outline` finds the card (ISO/IEC 7810 ID-1), `sides` where exactly it lies and what the lens bends; the photo is laid flat in the card's
//! plane; `page` says what of it is paper; lines go through the same code as a scan's. Limits: without printed bars nothing says what a camera's
//! sharpening and tone make of an edge, so that widths are said to be sure to [`UNSURE_PX`]; what is finer than the photo's blur is not the pen's,
//! and no edges are given; places are px of the flat picture.

mod outline;
mod page;
mod sides;

use crate::{
    scan::{self, CardPhoto, LineMeasurement, LineView, Scan, ScanError, find, paper},
    seen::Seen,
    sheet::{marks::homography, words::PHOTO_EDGES},
};
use page::{Page, SHADOW_MM};
use sides::Run;

/// Lines further from the card than this are not looked for, mm.
const AROUND_MM: f64 = 260.0;
/// A line needs so many photo px across.
const LEAST_PX: f64 = 6.0;
/// What sharpening and tone take from a line or give it, photo px: at most that on simulated cameras of two laws each.
const UNSURE_PX: f64 = 0.7;
/// How thick a card is, mm, and a camera's focal length over the longer side of its picture: the card's face lies nearer to it than the lines.
const THICK_MM: f64 = 0.76;
const FOCAL: f64 = 0.85;
/// The flat picture has at most so many px to the mm, and so many in all.
const MOST_PX_MM: f64 = 40.0;
const MOST_PX: f64 = 30e6;
/// Px to the mm at which the lines are looked for that show the lens.
const FIRST_PX_MM: f64 = 8.0;
/// Darker paper than this share of white is too near to the noise.
const DARK: f32 = 0.05;

/// Why a photo of lines beside a card cannot be read.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum CardedError {
    #[error(
        "a photo has no scale of its own, and no card was found in it: lay a bank card (85.6 × 54 mm) flat beside the lines, whole in the picture and on a ground of another colour, and take it again; or scan the lines"
    )]
    NoCard,
    #[error("the photo is too dark: more light on the paper, or a longer exposure")]
    Dark,
    #[error("the lens was too far: {needs:.0} px across the thinnest line are needed, this has {has:.1}. Go nearer, card and lines in the picture")]
    Thin { needs: f64, has: f64 },
    #[error(transparent)]
    Lines(#[from] ScanError),
}

/// A photo laid flat by the card in it.
pub struct Laid {
    pub flat: Scan,
    pub photo: CardPhoto,
    seen: Seen,
    /// Of the flat picture's upper left corner, mm from the card's.
    origin: [f64; 2],
    page: Page,
}

impl Laid {
    /// Mm of the card's plane of a place of the flat picture.
    fn mm(&self, px: [f64; 2]) -> [f64; 2] {
        let k = self.flat.dpi / 25.4;
        [0, 1].map(|i| self.origin[i] + px[i] / k)
    }
}

/// Whether there is a card in the picture.
pub fn has_card(photo: &Scan) -> bool {
    sides::find(photo).is_some()
}

/// Lays a photo flat by the card in it.
pub fn lay_flat(photo: &Scan) -> Result<Laid, CardedError> {
    let sides = sides::find(photo).ok_or(CardedError::NoCard)?;
    let middle = [0.5 * photo.width as f64, 0.5 * photo.height as f64];
    let radius = middle[0].hypot(middle[1]);
    let card_mm = sides.outline.corners_mm();
    let by = |bend: f64, nearer: f64| {
        let corners = sides.corners(middle, radius, bend)?;
        let pairs: Vec<_> = card_mm.iter().map(|c| c.map(|v| v * nearer)).zip(corners).collect();
        let plane = homography(&pairs, true)?;
        Some(Seen { plane, middle, radius, bends: [bend, 0.0], off_mm: 0.0 })
    };
    let px_mm = by(0.0, 1.0).ok_or(CardedError::NoCard)?.px_per_mm(sides.outline.size_mm.map(|s| 0.5 * s));
    // What lies lower looks smaller.
    let nearer = 1.0 + THICK_MM * px_mm / (FOCAL * photo.width.max(photo.height) as f64);
    let size = sides.outline.size_mm.map(|v| v * nearer);
    let first = laid(photo, by(0.0, nearer).ok_or(CardedError::NoCard)?, size, FIRST_PX_MM)?;
    let ruled = ruled(&first);
    let bend = sides.bend(&ruled, middle, radius, first.photo.px_per_mm);
    laid(photo, by(bend, nearer).ok_or(CardedError::NoCard)?, size, MOST_PX_MM)
}

/// Flat with at most so many px to the mm.
fn laid(photo: &Scan, seen: Seen, card_mm: [f64; 2], at_most: f64) -> Result<Laid, CardedError> {
    let centre = card_mm.map(|s| 0.5 * s);
    let at_card = seen.px_per_mm(centre);
    let (pw, ph) = (photo.width as f64, photo.height as f64);
    let shown = |mm: [f64; 2]| {
        let h = &seen.plane.h;
        let p = seen.px(mm);
        // Not beyond the horizon, nor so far that nothing could be measured.
        h[6] * mm[0] + h[7] * mm[1] + 1.0 > 0.2 && p[0] > 0.0 && p[1] > 0.0 && p[0] < pw && p[1] < ph
    };
    let (mut low, mut high, mut most) = (centre, centre, at_card);
    for i in -52..=52 {
        for j in -52..=52 {
            let mm = [centre[0] + AROUND_MM / 52.0 * f64::from(i), centre[1] + AROUND_MM / 52.0 * f64::from(j)];
            if shown(mm) {
                low = [low[0].min(mm[0]), low[1].min(mm[1])];
                high = [high[0].max(mm[0]), high[1].max(mm[1])];
                most = most.max(seen.px_per_mm(mm));
            }
        }
    }
    let size = [high[0] - low[0], high[1] - low[1]];
    let k = most.min(1.2 * at_card).min((MOST_PX / (size[0] * size[1]).max(1.0)).sqrt()).clamp(2.0, at_most);
    let flat = seen.laid_flat(photo, low, size, k);
    let mm = |px: [f64; 2]| [0, 1].map(|i| low[i] + px[i] / k);
    let carded = |px: [f64; 2]| {
        let p = mm(px);
        (0..2).all(|i| p[i] > -SHADOW_MM && p[i] < card_mm[i] + SHADOW_MM)
    };
    let page = Page::find(&flat, &|px| shown(mm(px)), &carded).ok_or(CardedError::Lines(ScanError::NoLine))?;
    if page.light < DARK {
        return Err(CardedError::Dark);
    }
    let corners = [[0.0, 0.0], [card_mm[0], 0.0], card_mm, [0.0, card_mm[1]]];
    let photo = CardPhoto {
        px_per_mm: at_card,
        fewest_px_per_mm: at_card,
        sure_mm: UNSURE_PX / at_card,
        lens_bends: seen.bends[0],
        card_px: corners.map(|c| [0, 1].map(|i| (c[i] - low[i]) * k)),
    };
    Ok(Laid { flat, photo, seen, origin: low, page })
}

/// The flat picture as absorptance, nothing where no paper is.
fn inked(laid: &Laid, warnings: &mut Vec<String>) -> paper::Flat {
    let on_page = |x: f64, y: f64| laid.page.holds(x, y);
    let mut flat = paper::flatten_page(&laid.flat, &on_page, warnings);
    let w = flat.width;
    flat.data.iter_mut().enumerate().filter(|(i, _)| !laid.page.holds((i % w) as f64, (i / w) as f64)).for_each(|(_, v)| *v = 0.0);
    flat
}

/// Places along what was ruled, photo px: where its ink's middle lies, every other millimetre.
fn ruled(laid: &Laid) -> Vec<Run> {
    let flat = inked(laid, &mut Vec::new());
    let k = flat_px(laid);
    let at = |p: [f64; 2]| crate::bilinear::inside(&flat.data, flat.width, flat.height, p).unwrap_or(0.0);
    let along = |c: &find::Candidate| -> Run {
        let reach = c.half_width + 0.8 * k;
        let steps = (2.0 * c.half / (2.0 * k)) as usize;
        let places = (1..steps).filter_map(|i| {
            let s = -c.half + 2.0 * k * i as f64;
            let n = (reach * 2.0) as i32;
            let (mut mass, mut moment) = (0.0, 0.0);
            for j in -n..=n {
                let t = 0.5 * f64::from(j);
                let v = at([c.x + s * c.dx - t * c.dy, c.y + s * c.dy + t * c.dx]).max(0.0);
                (mass, moment) = (mass + v, moment + v * t);
            }
            let t = moment / mass;
            (mass > 1.0).then(|| laid.seen.px(laid.mm([c.x + s * c.dx - t * c.dy, c.y + s * c.dy + t * c.dx])))
        });
        places.collect()
    };
    // What is shorter shows nothing of a lens.
    find::lines(&flat, laid.flat.dpi).iter().filter(|c| c.half > 15.0 * k).map(along).collect()
}

fn flat_px(laid: &Laid) -> f64 {
    laid.flat.dpi / 25.4
}

/// Measures all ruled lines of a photo; beside them the photo laid flat, in whose px places are.
pub fn measure(photo: &Scan) -> Result<(LineMeasurement, Vec<LineView>, Scan), CardedError> {
    let mut laid = lay_flat(photo)?;
    let mut warnings = Vec::new();
    let flat = inked(&laid, &mut warnings);
    let (mut document, views) = scan::of_flat(&flat, laid.flat.dpi, warnings)?;
    let px_mm = |v: &LineView| laid.seen.px_per_mm(laid.mm([0, 1].map(|i| 0.5 * (v.from[i] + v.to[i]))));
    let across = |v: &LineView| v.figures.width_mm.mean * px_mm(v);
    let (mut kept, thin): (Vec<LineView>, Vec<LineView>) = views.into_iter().partition(|v| across(v) >= LEAST_PX);
    let thinnest = thin.iter().map(across).fold(f64::INFINITY, f64::min);
    if kept.is_empty() {
        return Err(CardedError::Thin { needs: LEAST_PX, has: thinnest });
    }
    if !thin.is_empty() {
        document.warnings.push(format!(
            "{} of the lines are too thin for this photo and were left out: {LEAST_PX:.0} px across are needed, the thinnest has {thinnest:.1}. Go nearer",
            thin.len()
        ));
    }
    laid.photo.fewest_px_per_mm = kept.iter().map(px_mm).fold(f64::INFINITY, f64::min);
    for v in &mut kept {
        v.autocorrelation.clear();
        v.repeating = None;
        let f = &mut v.figures;
        (f.raggedness_um, f.raggedness_interval_um, f.raggedness_correlation_um) = (None, None, None);
        (f.blurriness_um, f.blurriness_interval_um) = (None, None);
    }
    document.lines = kept.iter().map(|v| v.figures.clone()).collect();
    document.nearest_standard_width_mm = scan::nearest_of(&document.lines);
    document.warnings.push(PHOTO_EDGES.into());
    let unsure = UNSURE_PX / laid.photo.fewest_px_per_mm;
    laid.photo.sure_mm = unsure;
    let thinnest = document.lines.iter().map(|l| l.width_mm.mean).fold(f64::INFINITY, f64::min);
    if unsure > (0.05 * thinnest).max(0.02) {
        document.warnings.push(format!(
            "a camera’s sharpening moves every edge a little, and nothing in this photo says how far: widths are sure to ±{unsure:.2} mm. Go nearer, so that card and lines fill the picture, or scan the lines"
        ));
    }
    document.photo = Some(laid.photo.clone());
    Ok((document, kept, laid.flat))
}
