//! The recipe: a brush of another program made to draw like a pen, as numbers to be typed in.
//!
//! That brush was inked on a blank sampler sheet through the artist's tablet and came in as a pen card. The correction of its
//! pressure is `r(p) = W_there⁻¹(W_pen(effort(p)))`: pressed with p, it is to draw what the pen draws at that effort.

use eddymist_ink::Curve;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::pen_card::{CardNib, PenCard};

/// Numbers and pictures of one recipe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Recipe {
    /// Four points of the correction: pressure from the tablet, pressure that the brush is to get.
    pub correction: Vec<[f64; 2]>,
    /// The size that it was tried at may stay; where the pen is wider, this is the factor on it.
    pub size_factor: f64,
    /// The pen's least width over its greatest.
    pub least_size: f64,
    /// Breadth over length of the tip; 1 is round.
    pub roundness: f64,
    /// Direction of the tip's length, degrees counter-clockwise.
    pub angle_deg: f64,
    /// Distance of the tip's prints over its size: tight enough for a line.
    pub spacing: f64,
    /// Width that the brush is to draw at each of the points, mm; how sure the pen's own is there (half of its mean's 95 % interval).
    pub widths_mm: Vec<f64>,
    pub sure_mm: Vec<Option<f64>>,
    /// The size that its widest line has, mm.
    pub size_mm: f64,
    /// Nothing was inked with that brush yet: its size is taken to grow straight with the pressure.
    pub assumed: bool,
    /// Largest difference that is left when the points are joined straight, mm.
    pub left_mm: f64,
    /// What the correction cannot give, and what was assumed.
    pub says: Vec<String>,
}

/// Why no recipe can be had.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum RecipeError {
    #[error("the {0} shows no widths at two efforts or more: ink the sampler sheet's ruled lines at several efforts")]
    TooFew(&'static str),
    #[error("that brush's width does not change with the pressure: let its size follow the pressure and ink the sheet again")]
    Flat,
}

/// Points that can be typed in.
const POINTS: usize = 4;
/// Tighter than this a line of a hard tip shows no marks (common practice, no source).
const SPACING: f64 = 0.1;
/// Under this part of its width a change with the effort is none.
const FLAT: f64 = 0.02;

/// Widths by effort as a curve that never falls: pooled where efforts come out of order.
fn curve(card: &PenCard, which: &'static str) -> Result<Curve, RecipeError> {
    let mut w: Vec<[f64; 2]> = card.widths_by_effort.iter().flatten().map(|w| [w.effort, w.width_mm]).collect();
    w.sort_by(|a, b| a[0].total_cmp(&b[0]));
    w.dedup_by(|a, b| a[0] == b[0]);
    for i in 1..w.len() {
        w[i][1] = w[i][1].max(w[i - 1][1]);
    }
    if w.len() < 2 {
        return Err(RecipeError::TooFew(which));
    }
    Curve::new(&w).map_err(|_| RecipeError::TooFew(which))
}

/// How sure a card's width is at an effort: half of the mean's 95 % interval, between the efforts that were inked; none where one of
/// them was inked once.
fn sure_mm(card: &PenCard, effort: f64) -> Option<f64> {
    let half = |f: &crate::figures::Figure| Some((f.at.parse::<f64>().ok()?, f.interval.map(|[a, b]| 0.5 * (b - a))));
    let mut known: Vec<(f64, Option<f64>)> = card.figures().iter().filter(|f| f.figure == "width by effort").filter_map(half).collect();
    known.sort_by(|a, b| a.0.total_cmp(&b.0));
    let i = known.partition_point(|k| k.0 < effort).clamp(1, known.len().checked_sub(1)?.max(1));
    let (a, b) = (known.get(i - 1)?, known.get(i).or(known.get(i - 1))?);
    let t = if b.0 > a.0 { ((effort - a.0) / (b.0 - a.0)).clamp(0.0, 1.0) } else { 0.0 };
    Some(a.1? + t * (b.1? - a.1?))
}

/// The recipe for a brush `there` to draw like a pen, through an artist's response (raw pressure → effort; straight where there
/// is none). Before anything was inked with that brush its size is taken to grow straight with the pressure.
pub fn recipe(pen: &PenCard, there: Option<&PenCard>, response: Option<&Curve>) -> Result<Recipe, RecipeError> {
    let pen_w = curve(pen, "pen")?;
    let widest = pen_w.knots().last().map_or(0.0, |k| k[1]);
    let there_w = match there {
        Some(card) => curve(card, "other brush")?,
        None => Curve::new(&[[0.0, 0.0], [1.0, widest]]).map_err(|_| RecipeError::TooFew("pen"))?,
    };
    let ends = |c: &Curve| {
        let k = c.knots();
        (c.value(k[0][0]), c.value(k[k.len() - 1][0]))
    };
    let ((pen_low, pen_high), (low, high)) = (ends(&pen_w), ends(&there_w));
    if high - low < FLAT * high {
        return Err(RecipeError::Flat);
    }
    let mut says = Vec::new();
    if there.is_none() {
        says.push(format!(
            "Nothing was inked with that brush yet. At a size of {pen_high:.2} mm it is taken to grow straight with the pressure, from nothing: ink a sheet with it to be sure."
        ));
    }
    let size_factor = if pen_high > high { pen_high / high } else { 1.0 };
    if size_factor > 1.0 {
        says.push(format!("The pen is wider than that brush ever was: set its size to {size_factor:.2} times what it was on the sheet."));
    }
    if pen_low < low * size_factor * (1.0 - FLAT) {
        says.push(format!(
            "The pen goes down to {pen_low:.2} mm, that brush only to {:.2} mm: let its least size be {:.0} % of its size.",
            low * size_factor,
            100.0 * pen_low / (high * size_factor)
        ));
    }
    let effort = |p: f64| response.map_or(p, |r| r.value(p)).clamp(0.0, 1.0);
    // The raw pressure of an effort: the response rises, so that it can be gone back.
    let raw = |e: f64| {
        let (mut a, mut b) = (0.0, 1.0);
        for _ in 0..40 {
            let m = 0.5 * (a + b);
            if effort(m) < e { a = m } else { b = m }
        }
        0.5 * (a + b)
    };
    if response.is_none() {
        says.push("No tablet profile was chosen: raw pressure was taken as effort.".into());
    }
    let exact = |p: f64| raw(there_w.inverse(pen_w.value(effort(p)) / size_factor));
    let (from, to) = (raw(1e-6), raw(1.0 - 1e-6));
    let at = |k: usize| from + (to - from) * k as f64 / (POINTS - 1) as f64;
    // The inner points are moved to where straight lines through them leave least.
    let mut points: Vec<f64> = (0..POINTS).map(at).collect();
    let steps = 60;
    let line = |points: &[f64], p: f64| {
        let i = points.partition_point(|q| *q < p).clamp(1, POINTS - 1);
        let (a, b) = (points[i - 1], points[i]);
        let t = if b > a { (p - a) / (b - a) } else { 0.0 };
        exact(a) + (exact(b) - exact(a)) * t
    };
    let left = |points: &[f64]| {
        (0..=steps)
            .map(|k| {
                let p = from + (to - from) * f64::from(k) / f64::from(steps);
                (there_w.value(effort(line(points, p))) * size_factor - pen_w.value(effort(p))).abs()
            })
            .fold(0.0, f64::max)
    };
    let mut best = left(&points);
    let grid = 14;
    for i in 1..grid - 1 {
        for j in i + 1..grid {
            let g = |k: i32| from + (to - from) * f64::from(k) / f64::from(grid);
            let tried = vec![from, g(i), g(j), to];
            let l = left(&tried);
            if l < best {
                (best, points) = (l, tried);
            }
        }
    }
    let (roundness, angle_deg) = match &pen.nib {
        Some(CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. }) => (breadth_mm / length_mm, *angle_deg),
        Some(CardNib::Spring { .. }) => {
            says.push("The pen opens on the pull: no tip of a fixed shape does that; a round one is given.".into());
            (1.0, 0.0)
        }
        _ => (1.0, 0.0),
    };
    Ok(Recipe {
        correction: points.iter().map(|p| [*p, exact(*p)]).collect(),
        widths_mm: points.iter().map(|p| pen_w.value(effort(*p))).collect(),
        sure_mm: points.iter().map(|p| sure_mm(pen, effort(*p))).collect(),
        size_mm: high * size_factor,
        assumed: there.is_none(),
        size_factor,
        least_size: pen_low / pen_high,
        roundness,
        angle_deg,
        spacing: SPACING,
        left_mm: best,
        says,
    })
}
