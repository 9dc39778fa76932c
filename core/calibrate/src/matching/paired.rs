//! A match by pairs of pressure and ink: what they put in the place of the five efforts, and strokes that the fit has not seen.
//!
//! How: the response is read off the pairs on the card's own scale; the brush's width at each pair is compared with the pen's there. Limits: a pen
//! whose width hardly goes by pressure has no such scale, and the five efforts stand.

use eddymist_ink::{Brush, Curve, Sample, Stroke};

use super::{
    FitError,
    weight::{Target, Unseen},
};
use crate::{
    pairs::{PressurePairs, foretold, response_on_card},
    pen_card::{PenCard, WidthAtEffort},
    profile::{self, TabletProfile},
};

/// Card and profile as the pairs have them.
pub(super) struct Paired<'a> {
    pub pairs: &'a PressurePairs,
    pub card: PenCard,
    pub profile: Option<TabletProfile>,
    /// Whether the pairs show a response.
    pub shown: bool,
    pub says: String,
}

impl<'a> Paired<'a> {
    pub fn new(card: &PenCard, profile: Option<&TabletProfile>, pairs: &'a PressurePairs) -> Result<Self, FitError> {
        let mut card = card.clone();
        // A single line says nothing of effort: then the pairs' own scale is the pen's.
        if card.widths_by_effort.as_ref().is_none_or(|w| w.len() < 2) && pairs.response.len() > 1 {
            card.widths_by_effort = own_scale(pairs);
        }
        if card.nib.is_none() {
            card.nib.clone_from(&pairs.nib);
        }
        let Some(response) = response_on_card(pairs, &card) else {
            let says = "response: the pen's width hardly goes by pressure, so the pairs say nothing of it, and the five efforts stand".to_string();
            return Ok(Self { pairs, card, profile: profile.cloned(), shown: false, says });
        };
        let way = pairs.way.words();
        let known = profile.cloned().unwrap_or_else(|| profile::unknown(&response));
        let profile = known.by_pairs(pairs, Some(&card));
        Ok(Self { pairs, card, profile, shown: true, says: format!("response: from {} pairs of {way}, on the pen's own scale of effort", pairs.pairs.len()) })
    }
}

/// Widths by effort on the pairs' own scale, at the five efforts.
fn own_scale(pairs: &PressurePairs) -> Option<Vec<WidthAtEffort>> {
    let (response, widths) = (Curve::new(&pairs.response).ok()?, Curve::new(&pairs.widths).ok()?);
    let spread = pairs.left_over.map(|l| l.spread);
    let at = |effort: f64| {
        let width_mm = widths.value(response.inverse(effort));
        WidthAtEffort { effort, width_mm, sd_mm: spread.map(|s| s * width_mm), lines: strokes(pairs) as u32, each_mm: None, force_n: None }
    };
    Some([0.0, 0.25, 0.5, 0.75, 1.0].map(at).to_vec())
}

/// How many strokes the pairs come from.
pub(super) fn strokes(pairs: &PressurePairs) -> usize {
    pairs.pairs.chunk_by(|a, b| a.stroke == b.stroke).count()
}

/// Level strokes at normal pace, one at each of the pen's efforts, as this tablet would report them.
pub(super) fn level(targets: &[Target], response: &Curve, card: &PenCard) -> Vec<(f64, Stroke)> {
    let speed = card.widths_by_pace.iter().flatten().find(|p| p.pace == "normal").map_or(60.0, |p| p.speed_mm_s);
    let stroke = |raw: f64| {
        Stroke::new(
            (0..160).map(|i| f64::from(i) * 10.0).map(|t| Sample { t_ms: t, x: speed * t / 1000.0, pressure: Some(raw), ..Sample::default() }).collect(),
        )
    };
    targets.iter().map(|t| (t.effort, stroke(response.inverse(t.effort)))).collect()
}

/// The brush's width over the pen's, stroke by stroke and effort by effort, by laws that have not seen the stroke.
pub(super) fn unseen(brush: &Brush, targets: &[Target], pairs: &PressurePairs, response: &Curve, locked: bool) -> Result<Vec<Unseen>, FitError> {
    let efforts: Vec<f64> = targets.iter().map(|t| t.effort).collect();
    // Of a weight that is locked the laws say nothing: it is off by what it is off from theirs.
    let own = Curve::new(&brush.weight).map_err(eddymist_ink::InkError::from)?;
    let pen = Curve::new(&targets.iter().map(|t| [t.effort, t.width]).collect::<Vec<_>>()).map_err(eddymist_ink::InkError::from)?;
    let off = |effort: f64| if locked { own.value(effort) / pen.value(effort) } else { 1.0 };
    let seen = foretold(pairs, response, &efforts);
    let target = |e: f64| targets.iter().position(|t| t.effort == e);
    Ok(seen
        .iter()
        .filter_map(|f| Some((target(f.effort)?, f)))
        .map(|(target, f)| Unseen {
            target,
            stroke: f.stroke,
            width: targets[target].width * (1.0 + f.off) * off(f.effort),
            weight: Vec::new(),
            response: None,
        })
        .collect())
}

/// The pen's spread along its strokes, mm, where its card has single lines only.
pub(super) fn spread(pairs: &PressurePairs, targets: &[Target]) -> Option<(f64, f64)> {
    let mean = targets.iter().map(|t| t.width).sum::<f64>() / targets.len().max(1) as f64;
    pairs.left_over.map(|l| (l.spread * mean, strokes(pairs) as f64 - 1.0)).filter(|s| s.1 >= 1.0)
}
