//! Pressure and ink of one and the same stroke: what raw pressure gave what width of the artist's own pen (methods.md, section 8).
//!
//! How: strokes are laid over the scanned lines (`placement`, `registration`) or followed along them (`along`), each report gets its line's width, and
//! the pen's laws are read off the pairs (`effects`, `scale`). Limits: where two strokes lie on one another the ink is of both, and gives no pair.

mod along;
mod document;
mod effects;
mod lines;
mod over;
mod paper;
mod placement;
mod registration;
mod rising;
mod scale;

pub use document::{EffortScale, FORMAT, LeftOver, Nudge, Pair, PairError, PressurePairs, Registration, Unseen, Way};
pub use scale::{response_on_card, responses_off};

use eddymist_ink::Stroke;
use eddymist_measure::{
    inked::InkedPage,
    stats::{median, quantile},
};

use crate::{
    pen_card::{CardNib, PenCard},
    profile,
};
use document::Found;
use effects::{Effects, Row};
use lines::{Ink, Report, reports};

impl PressurePairs {
    /// The same with at most so many pairs, evenly of all.
    pub fn thinned(mut self, most: usize) -> Self {
        let stride = self.pairs.len().div_ceil(most.max(1)).max(1);
        self.pairs = self.pairs.into_iter().step_by(stride).collect();
        self
    }
}

/// What was drawn.
pub struct Drawn<'a> {
    /// The strokes that lie on the page, in their order.
    pub strokes: Vec<&'a Stroke>,
    /// Strokes at named efforts, of the same hand and tablet.
    pub efforts: Vec<(f64, &'a Stroke)>,
    /// Whether the strokes' millimetres come from a traced card.
    pub scale_from_card: bool,
    /// Where somebody laid the strokes, as the document has it; none: their place is looked for.
    pub start: Option<[f64; 6]>,
}

/// So many pairs at least, and at most.
const LEAST: usize = 60;
const MOST: usize = 20_000;
/// As many are fitted: neighbours say the same.
const FITTED: usize = 6_000;
const FOLDS: usize = 10;
/// As many are left out by turns where a brush is compared: a bench is drawn anew while a hand waits.
const TOLD: usize = 1_200;

/// Pairs of a scanned page and the strokes on it; with a card the effort is on its scale.
pub fn pair(page: &InkedPage, dpi: f64, drawn: &Drawn, way: Way, card: Option<&PenCard>) -> Result<PressurePairs, PairError> {
    if drawn.strokes.iter().all(|s| s.samples.iter().all(|p| p.pressure.is_none())) {
        return Err(PairError::NoPressure);
    }
    if drawn.strokes.iter().any(|s| !s.timed) {
        return Err(PairError::NoTime);
    }
    let ink = Ink::new(page);
    if ink.places.iter().all(|p| p.width.is_none()) {
        return Err(PairError::NoLines);
    }
    let strokes: Vec<Vec<Report>> = drawn.strokes.iter().enumerate().filter_map(|(i, s)| reports(i, s)).collect();
    if strokes.is_empty() {
        return Err(PairError::TooShort);
    }
    let (_, dropouts) = profile::timing(&drawn.strokes).map_err(|_| PairError::NoTime)?;
    let found = match way {
        Way::Over => {
            let courses = over::courses(&ink, &strokes, dpi)?;
            let first = over::pairs(&ink, &courses, &|_| 0.0);
            // A nib's own widths by direction hide how late the hand answers.
            match effects::fit(&rows(&first.pairs), way).filter(|e| e.nib().is_some_and(|n| !matches!(n, CardNib::Round { .. }))) {
                Some(e) => over::pairs(&ink, &courses, &|d| e.direction(d)),
                None => first,
            }
        }
        Way::Paper => paper::pairs(&ink, &strokes, dpi, drawn.scale_from_card, drawn.start)?,
    };
    if found.pairs.len() < LEAST {
        return Err(PairError::TooFew(found.pairs.len()));
    }
    let mut out = read_off(found, way, drawn, card)?;
    let reports: usize = strokes.iter().map(Vec::len).sum();
    out.dropouts = dropouts;
    if dropouts as usize * 50 > reports {
        out.warnings.push(format!(
            "{dropouts} of {} reports were missing inside strokes; close what else uses the computer, or try another port",
            reports + dropouts as usize
        ));
    }
    out.warnings.splice(0..0, page.warnings.iter().cloned());
    Ok(out)
}

/// What the pairs say, as the document.
fn read_off(found: Found, way: Way, drawn: &Drawn, card: Option<&PenCard>) -> Result<PressurePairs, PairError> {
    let stride = found.pairs.len().div_ceil(MOST);
    let pairs: Vec<Pair> = found.pairs.into_iter().step_by(stride).collect();
    let rows = rows(&pairs);
    let effects = effects::fit(&rows, way).ok_or(PairError::TooFew(rows.len()))?;
    let mut warnings = found.warnings;
    let flat = effects::is_flat(&effects);
    if flat {
        warnings.push("this pen's width hardly goes by pressure: the pairs say nothing of the effort, and the five efforts stand".into());
    }
    let (scale, response) = scale::response(&effects, card);
    let response = if flat { Vec::new() } else { response };
    let efforts_off = scale::efforts_off(&response, &drawn.efforts);
    let round = |v: f64, d: f64| (v * d).round() / d;
    let widths = rising(effects.weight.knots().into_iter().map(|k| [round(k[0], 1e4), round(k[1].exp(), 1e4)]).collect());
    let pace = effects.pace.as_ref().map(|p| rising(p.knots().iter().map(|k| [round(k[0], 10.0), round(k[1].exp(), 1e4)]).collect()));
    let left_over = effects::left_over(&rows, &effects);
    Ok(PressurePairs {
        format: FORMAT.into(),
        version: 1,
        way,
        lag_ms: round(found.lag_ms, 10.0),
        registration_mm: Registration {
            median: round(median(&found.off_mm).unwrap_or(0.0), 1e4),
            p95: round(quantile(&found.off_mm, 0.95).unwrap_or(0.0), 1e4),
        },
        response,
        scale,
        widths,
        pace,
        nib: effects.nib().filter(|_| effects.nib_is_sure()).cloned(),
        left_over: left_over.map(|(spread, mm)| LeftOver { spread: round(spread, 1e4), correlation_mm: round(mm, 100.0) }),
        unseen: unseen(&rows, way),
        efforts_off,
        placement: found.placement,
        not_gone_over: round(found.not_gone_over, 1e3),
        dropouts: 0,
        source: None,
        warnings,
        pairs,
    })
}

/// Knots that rounding has put on one another are one.
fn rising(mut knots: Vec<[f64; 2]>) -> Vec<[f64; 2]> {
    knots.dedup_by(|b, a| b[0] <= a[0]);
    knots
}

fn rows(pairs: &[Pair]) -> Vec<Row> {
    let mut way = 0.0;
    let mut last: Option<&Pair> = None;
    let mut out = Vec::with_capacity(pairs.len());
    for p in pairs {
        way = match last {
            Some(l) if l.stroke == p.stroke => way + (p.x_mm - l.x_mm).hypot(p.y_mm - l.y_mm),
            _ => 0.0,
        };
        out.push(Row {
            stroke: p.stroke as usize,
            raw: p.raw,
            speed: p.speed_mm_s,
            direction_deg: p.direction_deg,
            log_width: p.width_mm.ln(),
            way,
            cell: (p.x_mm.floor() as i32, p.y_mm.floor() as i32),
        });
        last = Some(p);
    }
    let stride = out.len().div_ceil(FITTED);
    out.into_iter().step_by(stride.max(1)).collect()
}

/// How well strokes that were left out are foretold, so many folds of them.
fn unseen(rows: &[Row], way: Way) -> Option<Unseen> {
    let off = left_out(rows, way)?;
    let mean = rows.iter().map(|r| r.log_width.exp()).sum::<f64>() / rows.len() as f64;
    let off: Vec<f64> = off.iter().map(|(r, told)| (told.exp() - r.log_width.exp()).abs() / mean).collect();
    let round = |v: f64| (v * 1e4).round() / 1e4;
    Some(Unseen { median: round(median(&off)?), p95: round(quantile(&off, 0.95)?), strokes: strokes(rows).len() as u32 })
}

fn strokes(rows: &[Row]) -> Vec<usize> {
    let mut strokes: Vec<usize> = rows.iter().map(|r| r.stroke).collect();
    strokes.dedup();
    strokes
}

/// Every row with the logarithm of its width as laws foretell it that have not seen its stroke; none of fewer than three strokes.
fn left_out(rows: &[Row], way: Way) -> Option<Vec<(Row, f64)>> {
    let strokes = strokes(rows);
    let folds = strokes.len().min(FOLDS);
    if folds < 3 {
        return None;
    }
    let fold = |stroke: usize| strokes.partition_point(|s| *s < stroke) % folds;
    let mut out = Vec::with_capacity(rows.len());
    for k in 0..folds {
        let (own, seen): (Vec<Row>, Vec<Row>) = rows.iter().partition(|r| fold(r.stroke) == k);
        let effects: Effects = effects::fit(&seen, way)?;
        out.extend(own.into_iter().map(|r| (r, effects.foretell(&r))));
    }
    Some(out)
}

/// One stroke's lines near one effort: by how much the width that is foretold of it, by laws that have not seen it, is off, as a share.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Foretold {
    pub stroke: usize,
    pub effort: f64,
    pub off: f64,
}

/// Every stroke of the pairs at each of these efforts that it shows for three places or more; effort by `response`.
pub fn foretold(pairs: &PressurePairs, response: &eddymist_ink::Curve, efforts: &[f64]) -> Vec<Foretold> {
    let rows: Vec<Row> = rows(&pairs.pairs);
    let stride = rows.len().div_ceil(TOLD).max(1);
    let rows: Vec<Row> = rows.into_iter().step_by(stride).collect();
    let near =
        |raw: f64| efforts.iter().enumerate().min_by(|a, b| (a.1 - response.value(raw)).abs().total_cmp(&(b.1 - response.value(raw)).abs())).map(|e| e.0);
    let mut by: std::collections::BTreeMap<(usize, usize), Vec<f64>> = Default::default();
    for (r, told) in left_out(&rows, pairs.way).unwrap_or_default() {
        if let Some(k) = near(r.raw) {
            by.entry((k, r.stroke)).or_default().push((told - r.log_width).exp_m1());
        }
    }
    let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
    by.iter().filter(|(_, v)| v.len() >= 3).map(|((k, stroke), v)| Foretold { stroke: *stroke, effort: efforts[*k], off: mean(v) }).collect()
}
