//! A hand that presses harder toward one direction: what of a pen's widths by direction is the hand's, so that the nib does not do it again.
//!
//! How: the effort along the hand's circles, as the pen's own widths at those efforts, by direction; its first harmonic by least squares, taken where it
//! is more than chance and more than a hand wavers by. Limits: that a hand pulls on paper as it does on the tablet is taken for granted and said.
//! Source: the F-test of nested models, any textbook.

use eddymist_ink::{Curve, Stroke};
use eddymist_measure::stats::{mean_sd, solve};
use statrs::distribution::{ContinuousCDF, FisherSnedecor};

use super::{bench::Bench, words};
use crate::{
    nib::{self, Seen},
    pen_card::CardNib,
    warmup::Exercise,
};

/// How the hand's press makes the pen wider toward one direction.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Pull {
    /// Share of the mean width, from the middle to where it is widest.
    pub share: f64,
    /// Direction of travel in which it is widest, degrees counter-clockwise.
    pub toward_deg: f64,
}

impl Pull {
    /// The width toward a direction over the mean of all.
    fn factor(self, direction_deg: f64) -> f64 {
        (self.share * (direction_deg - self.toward_deg).to_radians().cos()).exp()
    }
}

/// Directions are told apart by so many parts of the circle.
const PARTS: usize = 24;
/// Less than this share is what any hand wavers by over a circle.
const LEAST: f64 = 0.02;
/// A law that leaves no more than this share of the mean width, and less than half of what a round nib does, is better than none.
const NEARLY: f64 = 0.15;
/// How often a hand that does not pull may be taken for one that does.
const BY_CHANCE: f64 = 0.01;

impl Bench<'_> {
    /// The pull of the hand that drew the circles; none where it has none, or nothing shows it.
    pub(super) fn pull(&self) -> Option<Pull> {
        let (response, widths) = (self.response?, self.card.widths_by_effort.as_ref()?);
        let mut knots: Vec<[f64; 2]> = widths.iter().map(|w| [w.effort, w.width_mm]).collect();
        knots.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let pen = Curve::new(&knots).ok()?;
        let mut sums = [(0.0, 0.0); PARTS];
        for s in self.strokes(Exercise::Circle) {
            self.along(s, response, &pen, &mut sums);
        }
        let seen: Vec<(f64, f64)> =
            sums.iter().enumerate().filter(|(_, s)| s.1 > 0.0).map(|(k, s)| ((k as f64 + 0.5) / PARTS as f64 * std::f64::consts::TAU, s.0 / s.1)).collect();
        // A quarter of the circle that nobody drew tells no harmonic.
        if seen.len() < PARTS * 3 / 4 {
            return None;
        }
        let (mut m, mut r) = ([[0.0; 3]; 3], [0.0; 3]);
        for (a, y) in &seen {
            let x = [1.0, a.cos(), a.sin()];
            for i in 0..3 {
                (0..3).for_each(|j| m[i][j] += x[i] * x[j]);
                r[i] += x[i] * y;
            }
        }
        let [mean, c, s] = solve(m, r)?;
        let rest: f64 = seen.iter().map(|(a, y)| (y - mean - c * a.cos() - s * a.sin()).powi(2)).sum();
        let total: f64 = seen.iter().map(|(_, y)| (y - mean).powi(2)).sum();
        let df = seen.len() as f64 - 3.0;
        let f = (total - rest) / 2.0 / (rest / df).max(f64::MIN_POSITIVE);
        let share = c.hypot(s);
        let sure = FisherSnedecor::new(2.0, df).is_ok_and(|d| f > d.inverse_cdf(1.0 - BY_CHANCE));
        (sure && share > LEAST).then(|| Pull { share, toward_deg: s.atan2(c).to_degrees().rem_euclid(360.0) })
    }

    /// Adds up the logarithm of the pen's width at the stroke's efforts, by direction.
    fn along(&self, s: &Stroke, response: &Curve, pen: &Curve, sums: &mut [(f64, f64); PARTS]) {
        let p = &s.samples;
        for w in p[p.len() / 25..p.len() - p.len() / 25].windows(2) {
            let (dx, dy) = (w[1].x - w[0].x, w[1].y - w[0].y);
            let (Some(raw), way) = (w[0].pressure, dx.hypot(dy)) else { continue };
            let turn = (-dy).atan2(dx).rem_euclid(std::f64::consts::TAU) / std::f64::consts::TAU;
            let sum = &mut sums[((turn * PARTS as f64) as usize).min(PARTS - 1)];
            *sum = (sum.0 + way * pen.value(response.value(raw)).max(1e-6).ln(), sum.1 + way);
        }
    }

    /// The card's nib without what the hand's pull made of its rays, and what of it is to be said: as it is where its rays are not known, or where there
    /// is no pull and a law fits them. Of rays that no law fits as well as a card asks for the brush has the best law: a round nib is further off.
    pub(super) fn own_nib(&self) -> (Option<CardNib>, Vec<String>) {
        let Some(nib) = self.card.nib.clone() else { return (None, Vec::new()) };
        let pull = self.pull();
        let Some(rays) = nib.rays().filter(|_| pull.is_some() || matches!(nib, CardNib::Round { .. })) else { return (Some(nib), Vec::new()) };
        let seen: Vec<Seen> = rays.iter().map(|r| Seen { direction_deg: r[0], width_mm: r[1] / pull.map_or(1.0, |p| p.factor(r[0])), weight: 1.0 }).collect();
        let pulls = pull.map(|p| words::pulls(p.share, p.toward_deg));
        match nib::law(&seen) {
            Some((own, None)) if pull.is_some() => (Some(own), pulls.into_iter().collect()),
            Some((_, Some(_))) => match nearest(&seen) {
                Some((own, left)) => (Some(own), pulls.into_iter().chain([words::nib_nearly(left)]).collect()),
                None => (Some(nib), Vec::new()),
            },
            _ => (Some(nib), Vec::new()),
        }
    }

    /// What the pen makes of a line toward a direction over one to the right, by the nib's law, or where none fits closely by the nearest.
    pub(super) fn slant(&self, direction_deg: f64) -> f64 {
        let Some(nib) = &self.card.nib else { return 1.0 };
        let seen = |rays: &[[f64; 2]]| rays.iter().map(|r| Seen { direction_deg: r[0], width_mm: r[1], weight: 1.0 }).collect::<Vec<_>>();
        let near = nib.rays().filter(|_| matches!(nib, CardNib::Round { .. })).and_then(|rays| nearest(&seen(rays)));
        let nib = near.as_ref().map_or(nib, |n| &n.0);
        nib.width_toward(direction_deg) / nib.width_toward(0.0).max(1e-6)
    }
}

/// The law that is nearest to these widths and near enough, and what it leaves as a share of their mean; none where a round nib is as good.
fn nearest(seen: &[Seen]) -> Option<(CardNib, f64)> {
    let (mean, even) = mean_sd(&seen.iter().map(|s| s.width_mm).collect::<Vec<_>>())?;
    let (own, why) = nib::law_within(seen, NEARLY)?;
    let left = own.residual_mm();
    (why.is_none() && left < 0.5 * even).then_some((own, left / mean))
}
