//! What the reports tell of the device itself: full point, report rate, dropouts, pressure steps.
//!
//! How: the full point is a plateau of eight equal reports at the highest value seen, else the median of the hardest strokes; the pressure
//! step is the one that all differences are multiples of, sharpened over ever longer ones. Limits: fewer than 24 values tell no step; a
//! hand that never presses to the end shows no plateau. Common practice, no source.

use eddymist_ink::{Sample, Stroke};
use eddymist_measure::stats::{median, quantile};

use super::ProfileError;
use crate::warmup::{Exercise, WarmUp};

pub(super) fn raws(s: &Stroke) -> Vec<f64> {
    s.samples.iter().filter_map(|p| p.pressure).collect()
}

/// The middle three fifths of a stroke's raw values: the hand has arrived and not yet left.
pub(super) fn steady(s: &Stroke) -> Vec<f64> {
    let v = raws(s);
    let n = v.len();
    v[n / 5..n - n / 5].to_vec()
}

/// One report in so many at most leaps over a plateau.
const MOST_LEAPS: usize = 100;

/// The full point: a plateau of one raw value in the hardest strokes; else the median of the hardest strokes.
pub(super) fn full_point(warmup: &WarmUp) -> (f64, bool) {
    let hardest: Vec<&Stroke> = warmup.efforts().filter(|(e, _)| *e >= 1.0).map(|(_, s)| s).collect();
    let from: Vec<&Stroke> = hardest.iter().copied().chain(warmup.strokes(Exercise::Ramp)).collect();
    // A hand does not hold one value: eight equal reports in a row, with next to nothing above them, are the device's end. Single reports can leap.
    let held = |s: &&Stroke| raws(s).chunk_by(|a, b| (a - b).abs() < 1e-9).filter(|run| run.len() >= 8).map(|run| run[0]).fold(0.0, f64::max);
    let top = from.iter().map(held).fold(0.0, f64::max);
    let (above, all) = from.iter().flat_map(|s| raws(s)).fold((0, 0), |(above, all), v| (above + usize::from(v > top + 1e-9), all + 1));
    if top > 0.0 && above * MOST_LEAPS <= all {
        return (top, true);
    }
    let medians: Vec<f64> = hardest.iter().filter_map(|s| median(&steady(s))).collect();
    (median(&medians).unwrap_or_else(|| from.iter().flat_map(|s| raws(s)).fold(0.0, f64::max)), false)
}

/// `(period's rate in Hz, missing reports)`.
pub(crate) fn timing(strokes: &[&Stroke]) -> Result<(f64, u32), ProfileError> {
    let intervals: Vec<f64> = strokes.iter().flat_map(|s| s.samples.windows(2).map(|w| w[1].t_ms - w[0].t_ms)).filter(|d| *d > 0.0 && d.is_finite()).collect();
    // One that occurs: between two beats of equally many reports lies none.
    let mut sorted = intervals.clone();
    sorted.sort_by(f64::total_cmp);
    let typical = *sorted.get(sorted.len().saturating_sub(1) / 2).ok_or(ProfileError::NoTime)?;
    let single: Vec<f64> = intervals.iter().copied().filter(|d| (0.5 * typical..1.5 * typical).contains(d)).collect();
    let period = single.iter().sum::<f64>() / single.len().max(1) as f64;
    let finest = Finest::of(strokes);
    let missing: f64 = pairs(strokes).filter(|w| !finest.still(w)).map(|w| ((w[1].t_ms - w[0].t_ms) / period).round() - 1.0).filter(|m| *m >= 1.0).sum();
    Ok((1000.0 / period, missing.min(f64::from(u32::MAX)) as u32))
}

fn pairs<'a>(strokes: &'a [&Stroke]) -> impl Iterator<Item = &'a [Sample]> {
    strokes.iter().flat_map(|s| s.samples.windows(2))
}

/// The finest steps in which a device reports places, mm, and pressure. Where both stand still nothing is reported, and nothing is missing: of
/// 3,386 longer intervals in recordings of people tracing slowly 3,295 were such (graphomotor, tests/reference/make_recorded.py).
struct Finest {
    place: f64,
    raw: f64,
}

impl Finest {
    fn of(strokes: &[&Stroke]) -> Self {
        let least = |steps: Vec<f64>| quantile(&steps.into_iter().filter(|d| *d > 1e-9).collect::<Vec<_>>(), 0.02).unwrap_or(0.0);
        let places = pairs(strokes).flat_map(|w| [(w[1].x - w[0].x).abs(), (w[1].y - w[0].y).abs()]).collect();
        Self { place: least(places), raw: least(pairs(strokes).filter_map(|w| Some((w[1].pressure? - w[0].pressure?).abs())).collect()) }
    }

    /// Whether neither went on by more than a step.
    fn still(&self, w: &[Sample]) -> bool {
        let pressed = w[0].pressure.zip(w[1].pressure).map_or(0.0, |(a, b)| (b - a).abs());
        let moved = (w[1].x - w[0].x).abs().max((w[1].y - w[0].y).abs());
        moved < 1.5 * self.place && pressed < 1.5 * self.raw.max(1e-9)
    }
}

/// The finest step that all values seen are multiples of, as a count of steps; none where too few values were seen.
pub(super) fn pressure_steps(strokes: &[&Stroke]) -> Option<u32> {
    let mut values: Vec<f64> = strokes.iter().flat_map(|s| raws(s)).collect();
    values.sort_by(f64::total_cmp);
    values.dedup_by(|a, b| (*a - *b).abs() < 1e-7);
    let gaps: Vec<f64> = values.windows(2).map(|w| w[1] - w[0]).collect();
    if gaps.len() < 24 {
        return None;
    }
    // Start from the small gaps, then let ever longer differences sharpen the step.
    let mut step = quantile(&gaps, 0.02)?;
    for reach in [1usize, 4, 16, 64, 256] {
        let (mut num, mut den) = (0.0, 0.0);
        for i in 0..values.len().saturating_sub(reach) {
            let d = values[i + reach] - values[i];
            let k = (d / step).round();
            if k >= 1.0 && (d / step - k).abs() < 0.25 {
                num += d * k;
                den += k * k;
            }
        }
        if den > 0.0 {
            step = num / den;
        }
    }
    let off: Vec<f64> = gaps.iter().map(|g| (g / step - (g / step).round()).abs()).collect();
    (median(&off)? < 0.12 && step > 0.0).then(|| (1.0 / step).round() as u32 + 1)
}
