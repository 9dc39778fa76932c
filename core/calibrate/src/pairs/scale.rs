//! The tablet's response on the pen's own scale of effort, and by how much the named efforts were off it.
//!
//! How: the effort at which the pen, by its card, is as wide as the pairs say; without a card effort goes evenly from the thinnest to the widest.
//! Limits: a pen that hardly goes by pressure has no such scale.

use eddymist_ink::{Curve, Stroke};
use eddymist_measure::stats::median;

use super::{
    document::{EffortScale, Pair, PressurePairs, Way},
    effects::Effects,
    lines::Report,
};
use crate::{
    isotonic,
    pen_card::PenCard,
    profile::{ResponseFrom, TabletProfile},
    warmup::EFFORTS,
};

/// Widths by effort that differ by less than this are one.
const FLAT: f64 = 0.06;

impl Pair {
    pub(super) fn new(r: &Report, raw: f64, speed: f64, along: [f64; 2], width_mm: f64, at: [f64; 2]) -> Self {
        let round = |v: f64, d: f64| (v * d).round() / d;
        Self {
            stroke: r.stroke as u32,
            t_s: round(r.t_ms / 1000.0, 1e4),
            raw: round(raw, 1e6),
            speed_mm_s: round(speed, 100.0),
            direction_deg: round((-along[1]).atan2(along[0]).to_degrees().rem_euclid(360.0), 10.0),
            width_mm: round(width_mm, 1e4),
            x_mm: round(at[0], 1e3),
            y_mm: round(at[1], 1e3),
        }
    }
}

/// Effort to the width by the card, where it goes by it.
fn by_card(card: &PenCard) -> Option<Curve> {
    let mut points: Vec<(f64, f64, f64)> = card.widths_by_effort.iter().flatten().map(|w| (w.effort, w.width_mm, f64::from(w.lines.max(1)))).collect();
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    points.dedup_by(|a, b| a.0 == b.0);
    let widths = isotonic::regression(&points);
    let knots: Vec<[f64; 2]> = points.iter().zip(&widths).map(|(p, w)| [p.0, *w]).collect();
    let rises = widths.last()? / widths.first()?.max(1e-9) > 1.0 + FLAT;
    (knots.len() > 1 && rises).then(|| Curve::new(&knots).ok()).flatten()
}

/// Raw pressure to effort, on the card's scale where there is one.
pub(super) fn response(effects: &Effects, card: Option<&PenCard>) -> (EffortScale, Vec<[f64; 2]>) {
    let knots = effects.weight.knots();
    let width = |log: f64| log.exp();
    match card.and_then(by_card) {
        // The card's lines lie level.
        Some(curve) => (EffortScale::Card, strict(knots.iter().map(|k| [k[0], curve.inverse((k[1] + effects.direction(0.0)).exp())]))),
        None => {
            let (thin, wide) = (width(knots[0][1]), width(knots[knots.len() - 1][1]));
            (EffortScale::Widths, strict(knots.iter().map(|k| [k[0], (width(k[1]) - thin) / (wide - thin).max(1e-9)])))
        }
    }
}

/// The same from a document, for a card that was not there when it was made; none where card or pairs have no such scale.
pub fn response_on_card(pairs: &PressurePairs, card: &PenCard) -> Option<Vec<[f64; 2]>> {
    let curve = by_card(card)?;
    let level = pairs.nib.as_ref().map_or(1.0, |n| {
        let all: f64 = pairs.pairs.iter().map(|p| n.width_toward(p.direction_deg).max(1e-6).ln()).sum::<f64>() / pairs.pairs.len().max(1) as f64;
        n.width_toward(0.0) / all.exp()
    });
    let knots = strict(pairs.widths.iter().map(|k| [k[0], curve.inverse(k[1] * level)]));
    (knots.len() > 1).then_some(knots)
}

/// Both numbers strictly rising, between 0 and 1: of knots at one end the innermost stays.
fn strict(knots: impl Iterator<Item = [f64; 2]>) -> Vec<[f64; 2]> {
    let digits = |v: f64| (v.clamp(0.0, 1.0) * 1e6).round() / 1e6;
    let mut out: Vec<[f64; 2]> = Vec::new();
    for k in knots.map(|k| k.map(digits)) {
        match out.last_mut() {
            Some(l) if k[1] <= l[1] || k[0] <= l[0] => {
                // Below the scale's start the last that is still at its start begins it.
                if out.len() == 1 && k[1] <= out[0][1] && k[0] > out[0][0] {
                    out[0] = k;
                }
            }
            _ => out.push(k),
        }
    }
    if out.len() > 1 { out } else { Vec::new() }
}

/// By how much the five efforts of a response were off another: what each was pressed at by the first, read off the second, less its name.
pub fn responses_off(by_efforts: &[[f64; 2]], response: &[[f64; 2]]) -> Vec<[f64; 2]> {
    let (Ok(first), Ok(second)) = (Curve::new(by_efforts), Curve::new(response)) else { return Vec::new() };
    EFFORTS.iter().map(|(e, _)| [*e, ((second.value(first.inverse(*e)) - e) * 1e3).round() / 1e3]).collect()
}

/// By how much each named effort lies off the scale: what it was pressed at, read off the response, less its name.
pub(super) fn efforts_off(response: &[[f64; 2]], efforts: &[(f64, &Stroke)]) -> Vec<[f64; 2]> {
    let Ok(curve) = Curve::new(response) else { return Vec::new() };
    let mut named: Vec<f64> = efforts.iter().map(|e| e.0).collect();
    named.sort_by(f64::total_cmp);
    named.dedup();
    named
        .into_iter()
        .filter_map(|e| {
            // The middle three fifths: the hand has arrived and not yet left.
            let steady = |s: &Stroke| {
                let raws: Vec<f64> = s.samples.iter().filter_map(|p| p.pressure).collect();
                median(&raws[raws.len() / 5..raws.len() - raws.len() / 5])
            };
            let raws: Vec<f64> = efforts.iter().filter(|x| x.0 == e).filter_map(|x| steady(x.1)).collect();
            Some([e, ((curve.value(median(&raws)?) - e) * 1e3).round() / 1e3])
        })
        .collect()
}

impl TabletProfile {
    /// The same profile with the response that pairs show, on the card's scale where one is given; none where they show none.
    pub fn by_pairs(&self, pairs: &PressurePairs, card: Option<&PenCard>) -> Option<Self> {
        let response = match card {
            Some(card) => response_on_card(pairs, card)?,
            None => pairs.response.clone(),
        };
        let response_from = Some(match pairs.way {
            Way::Over => ResponseFrom::Over,
            Way::Paper => ResponseFrom::Paper,
        });
        (response.len() > 1).then(|| Self { response, response_from, ..self.clone() })
    }
}
