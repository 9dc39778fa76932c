//! The match: the brush that makes this hand on this tablet draw like that pen, and how alike they are.
//!
//! How: smoothing is what the hand's lines ask for; weight and nib are fitted together, then what is left over to tapers, pooling and edge;
//! the artist's strokes are inked with it and held against the pen part by part (`shown`, `judge`), on strokes that the fit did not see. Limits: what neither card nor warm-up shows stays
//! as the starting brush has it, and is said in `assumed`. Source: methods.md, section 4.

mod bench;
mod document;
mod flick;
mod groups;
mod judge;
mod paired;
mod parts;
mod pull;
mod scanned;
mod shown;
mod smoothed;
mod weighed;
mod weight;
mod words;

pub use document::{FORMAT, FitError, FittedSmoothing, Match, Part, PartMatch, Steadied, Verdict};

use eddymist_ink::{Brush, InkError, Stroke, brush::Chance};
use eddymist_measure::stats::pooled_sd;
use rayon::prelude::*;

use crate::{
    pairs::PressurePairs,
    pen_card::PenCard,
    profile::{self, TabletProfile},
    warmup::WarmUp,
};
use bench::Bench;
use flick::Tip;
use paired::Paired;
use parts::{Tapered, fit_parts};
use scanned::CardScanner;
use weight::{Drawn, Hand, chance, targets, unseen, with_chance};

/// Fits what is not locked, and compares.
pub fn fit(card: &PenCard, warmup: Option<&WarmUp>, profile: Option<&TabletProfile>, start: Option<&Brush>, locked: &[Part]) -> Result<Match, FitError> {
    fit_by(card, warmup, profile, start, locked, None)
}

/// The same by pairs of pressure and ink, where there are any: they say what raw pressure is which effort, in the place of the five efforts.
pub fn fit_by(
    card: &PenCard,
    warmup: Option<&WarmUp>,
    profile: Option<&TabletProfile>,
    start: Option<&Brush>,
    locked: &[Part],
    pairs: Option<&PressurePairs>,
) -> Result<Match, FitError> {
    let paired = pairs.map(|p| Paired::new(card, profile, p)).transpose()?;
    let (card, profile) = paired.as_ref().map_or((card, profile), |p| (&p.card, p.profile.as_ref()));
    let by_pairs = paired.as_ref().and_then(|p| p.shown.then_some(p.pairs));
    let targets = targets(card)?;
    let mut brush = start.cloned().unwrap_or_else(|| Brush::plain(&card.name, targets[0].width));
    let mut assumed = Vec::new();
    let response = match profile {
        Some(p) => Some(p.curve().map_err(InkError::from)?),
        None => {
            assumed.push("response: no tablet profile, so raw pressure is taken as effort".to_string());
            None
        }
    };
    assumed.extend(paired.as_ref().map(|p| p.says.clone()));
    // What a hand calls an effort is no measure where pairs are: level lines at the pen's own efforts stand in.
    let level: Vec<(f64, Stroke)> = by_pairs.and(response.as_ref()).map(|r| paired::level(&targets, r, card)).unwrap_or_default();
    let own = || warmup.map(|w| w.efforts().filter(|(_, s)| s.samples.len() >= 8).collect()).unwrap_or_default();
    let strokes: Vec<(f64, &Stroke)> = if by_pairs.is_some() { level.iter().map(|(e, s)| (*e, s)).collect() } else { own() };
    if warmup.is_none() && by_pairs.is_none() {
        assumed.push("hand: no warm-up, so the weight curve is the pen's own, as if every effort were met exactly".into());
    }
    if targets.len() == 1 {
        assumed.push(format!("weight curve: the card shows one effort only, so {:.3} mm is used for all efforts", targets[0].width));
    }
    let bench = Bench { card, warmup, response: response.as_ref(), scanner: CardScanner::of(card) };
    let open = |p: Part| !locked.contains(&p);
    fit_parts(&bench, &mut brush, &open, &mut assumed);
    if let Some(pace) = by_pairs.and_then(|p| p.pace.clone()).filter(|_| open(Part::Pace) && card.widths_by_pace.is_none()) {
        (brush.pace, brush.driver) = (Some(pace), None);
        assumed.retain(|a| !a.starts_with("pace:"));
    }
    // A response that was read off this very warm-up has seen its strokes.
    let own = warmup.filter(|w| profile.zip(profile::response_of(w)).is_some_and(|(p, r)| p.response == r));
    let strokes = strokes.into_iter().map(|(effort, stroke)| Drawn { effort, stroke, reads: 1.0 }).collect();
    let mut hand = Hand { strokes, response: response.clone(), warmup: own, scanner: bench.scanner };
    // Weight and nib are one: every width is seen in some direction.
    if open(Part::Weight) {
        brush.weight = hand.fit_weight(&brush, &targets)?;
    }
    // How steady a hand must be is seen of lines as wide as the pen's, and steadier they are a little thinner.
    let mut smoothing = None;
    let steadied = open(Part::Smoothing) && by_pairs.is_none();
    if steadied && let Some((steady, fitted)) = bench.smoothing(&brush)? {
        (brush.smoothing, smoothing) = (steady, Some(fitted));
        if open(Part::Weight) {
            brush.weight = hand.fit_weight(&brush, &targets)?;
        }
    }
    if open(Part::Pooling) && card.pooling.is_some() {
        brush.pooling = bench.pooling(&brush)?.0;
        assumed.push("pooling's time: as the starting brush has it, nothing shows it".into());
    }
    for (tip, part) in [(Tip::In, Part::LeadIn), (Tip::Out, Part::LeadOut)] {
        let strokes = bench.strokes(tip.exercise());
        if !open(part) || bench.card_taper(tip).is_none() {
            continue;
        }
        if strokes.is_empty() {
            assumed.push(words::no_strokes(tip).into());
        }
        // Without a stroke that lands while moving the card's own shape stands; a flick without one is as if the hand lifted at full effort.
        if tip == Tip::Out || !strokes.is_empty() {
            let taper = bench.taper(tip, &brush, &strokes)?.0;
            brush = brush.with_taper(tip, taper);
        }
    }
    if open(Part::Edge) && by_pairs.is_none() {
        brush.edge = bench.left_of_edge(&brush)?;
    }
    let weight_locked = locked.contains(&Part::Weight);
    let mut pen_spread = pooled_sd(targets.iter().filter_map(|t| t.sd.map(|sd| (sd, t.lines))));
    let unseen = match (by_pairs, response.as_ref()) {
        (Some(p), Some(r)) => paired::unseen(&brush, &targets, p, r, weight_locked)?,
        _ => unseen(&brush, &targets, &hand, weight_locked)?,
    };
    if let Some(p) = by_pairs {
        // A single line has no spread; along the strokes there is one.
        pen_spread = pen_spread.or_else(|| paired::spread(p, &targets));
        if let Some(l) = p.left_over.filter(|_| open(Part::Steadiness)) {
            brush.chance = Some(Chance { spread: l.spread.clamp(0.0, 0.5), correlation_mm: l.correlation_mm.clamp(0.1, 100.0) });
        }
    } else if open(Part::Steadiness)
        && !unseen.is_empty()
        && let Some(pen) = pen_spread
    {
        brush.chance = chance(&brush, &targets, &hand.strokes, &unseen, pen.0);
        if brush.chance.is_some() {
            assumed.push("chance: the card shows how lines differ from one another, not how fast; it wanders over a few centimetres".into());
        }
    }
    let from = by_pairs.map_or(hand.strokes.len(), paired::strokes);
    let weight = weighed::weight(&targets, from, response.as_ref(), &unseen, pen_spread);
    // Each holds its own part of the same brush against the pen.
    let spread = weighed::log_spread(&targets);
    let is_locked = |p: Part| locked.contains(&p);
    type Compared = Result<Option<PartMatch>, InkError>;
    let steady = || -> Compared {
        if by_pairs.is_some() {
            return Ok(None);
        }
        Ok(judge::steadiness(&weight, with_chance(&brush, &targets, &hand, &unseen)?, pen_spread, targets[targets.len() / 2].told_mm))
    };
    let compared: [&(dyn Fn() -> Compared + Sync); 7] = [
        &|| bench.compare_nib(&brush, spread),
        &|| bench.compare_pace(&brush, spread),
        &|| bench.compare_pooling(&brush, is_locked(Part::Pooling), steadied),
        &|| bench.compare_taper(Tip::In, &brush, is_locked(Part::LeadIn)),
        &|| bench.compare_taper(Tip::Out, &brush, is_locked(Part::LeadOut)),
        &|| bench.compare_edge(&brush, is_locked(Part::Edge), steadied),
        &steady,
    ];
    let compared: Vec<Option<PartMatch>> = compared.into_par_iter().map(|c| c()).collect::<Result<_, _>>()?;
    let mut parts: Vec<PartMatch> = std::iter::once(weight).chain(compared.into_iter().flatten()).collect();
    judge::rank(&mut parts);
    let worst = parts.first().filter(|p| p.difference.is_some()).map(|p| p.part);
    Ok(Match { format: FORMAT.into(), version: 1, brush, worst, parts, assumed, smoothing })
}
