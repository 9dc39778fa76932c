//! The tablet profile: what a warm-up tells of one artist on one tablet.

use eddymist_ink::{Curve, DocumentError, Stroke, check_document};
use eddymist_measure::stats::{median, quantile};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    isotonic,
    smoothing::{self, SuggestedSmoothing},
    steadiness,
    warmup::{Exercise, WarmUp},
};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/tablet-profile";

/// One artist on one tablet. What the warm-up did not show is absent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TabletProfile {
    /// Always `eddymist/tablet-profile`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub label: String,
    /// The lowest raw value in contact: first percentile of first samples.
    pub activation: f64,
    /// The raw value that harder pressing does not exceed.
    pub full_point: f64,
    /// 1 + 1 / (finest step); absent where too few values were seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pressure_steps: Option<u32>,
    pub report_rate_hz: f64,
    /// Reports missing inside strokes.
    pub dropouts: u32,
    /// Standard deviation above 15 Hz over steady strokes, scaled to the whole band as if white.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pressure_noise: Option<f64>,
    /// Median raw falling minus raw rising at equal effort of the ramp's guide.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hysteresis: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub position_noise_um: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub diagonal_wobble: Option<Wobble>,
    /// Absent where the position noise needs none, or was not shown.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub suggested_smoothing: Option<SuggestedSmoothing>,
    /// Pairs of raw pressure and newtons from a hand scale.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub force_n: Option<Vec<[f64; 2]>>,
    /// Whether a plateau showed the full point.
    pub full_point_seen: bool,
    pub tilt: bool,
    pub scale: Scale,
    /// Raw pressure to effort: at most nine strictly rising knots joined by the monotone cubic.
    pub response: Vec<[f64; 2]>,
    pub advice: Vec<String>,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Wobble {
    /// Half of peak to peak.
    pub amplitude_um: f64,
    /// Along the line.
    pub period_mm: f64,
}

/// Where the millimetres come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Scale {
    Card,
    Assumed,
}

/// Why a warm-up gives no profile.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ProfileError {
    #[error("the warm-up has no strokes in an effort or ramp exercise; draw at least the five efforts, or one ramp")]
    NoExercise,
    #[error("this device reported no pressure (a mouse does not): a response cannot be measured; use a stylus, or ink by course")]
    NoPressure,
    #[error("the pressure did not rise with the effort: all strokes came out alike at {0:.3}; press from feather to hardest")]
    Flat(f64),
    #[error("the strokes' times do not rise; without them nothing can be said of the device")]
    NoTime,
}

impl TabletProfile {
    /// Reads and validates a profile document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        check_document(&value, FORMAT)?;
        let profile: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        let k = &profile.response;
        if k.len() > 9 || k.windows(2).any(|w| w[1][1] <= w[0][1]) || k.iter().flatten().any(|v| !(0.0..=1.0).contains(v)) {
            return Err(malformed("response: at most nine knots between 0 and 1, both numbers strictly rising".into()));
        }
        profile.curve().map_err(|e| malformed(format!("response: {e}")))?;
        Ok(profile)
    }

    /// Raw pressure to effort.
    pub fn curve(&self) -> Result<Curve, eddymist_ink::curve::CurveError> {
        Curve::new(&self.response)
    }
}

/// Reads a warm-up.
pub fn profile(warmup: &WarmUp, label: &str) -> Result<TabletProfile, ProfileError> {
    let pressed: Vec<&Stroke> = warmup.groups.iter().flat_map(|g| &g.strokes).filter(|s| s.samples.iter().any(|p| p.pressure.is_some())).collect();
    let shown = warmup.efforts().count() + warmup.strokes(Exercise::Ramp).count();
    if shown == 0 {
        return Err(ProfileError::NoExercise);
    }
    if pressed.is_empty() {
        return Err(ProfileError::NoPressure);
    }
    let mut advice = Vec::new();
    let firsts: Vec<f64> = pressed.iter().filter_map(|s| raws(s).into_iter().find(|p| *p > 0.0)).collect();
    let activation = quantile(&firsts, 0.01).ok_or(ProfileError::NoPressure)?;
    let (full_point, full_point_seen) = full_point(warmup);
    let (response, onset) = response(warmup, full_point_seen.then_some(full_point))?;
    if full_point_seen {
        if let Some(e) = onset.filter(|e| *e < 0.92) {
            advice.push(format!(
                "the full point is reached early, at {:.0} % of your effort: above it every press gives the widest line. Lower the tablet's pressure setting, or press less for the widest",
                100.0 * e
            ));
        }
    } else {
        advice.push(
            "no plateau was seen even in the hardest strokes: the full point given is the median of the hardest strokes, and the device may go further".into(),
        );
    }
    if activation > 0.06 {
        advice.push(format!(
            "the first ink comes late, at {:.1} % of the raw range: feather-light starts are lost; a fresh stylus tip or a softer setting helps",
            100.0 * activation
        ));
    }
    let timing = timing(&pressed)?;
    if timing.1 > 0 {
        advice.push(format!("{} reports were missing inside strokes; close what else uses the computer, or try another port", timing.1));
    }
    let steps = pressure_steps(&pressed);
    let position_noise_um = steadiness::position_noise_um(warmup);
    let wobble = steadiness::diagonal_wobble(warmup);
    let hysteresis = steadiness::hysteresis(warmup);
    let pressure_noise = steadiness::pressure_noise(warmup, timing.0, full_point);
    let suggested_smoothing = smoothing::suggested(warmup);
    if steps.is_some_and(|s| s <= 1100) {
        advice.push("pressure comes in few steps: slow swells may show as stairs; smoothing of effort hides them".into());
    }
    if timing.0 < 60.0 {
        advice.push(format!("only {:.0} reports a second: fast curves come out as corners; a cable or another port may help", timing.0));
    }
    if let Some(n) = pressure_noise.filter(|n| *n > 0.008) {
        advice.push(format!("pressure is noisy, ± {:.1} % of its range: widths tremble; smoothing of effort hides it", 100.0 * n));
    }
    if let Some(h) = hysteresis.filter(|h| h.abs() > 0.03) {
        advice.push(format!(
            "letting go reads {:.1} % of the range {} than pressing at the same effort: lines end {} than they should",
            100.0 * h.abs(),
            if h > 0.0 { "higher" } else { "lower" },
            if h > 0.0 { "heavier" } else { "thinner" }
        ));
    }
    if let Some(w) = wobble {
        advice.push(format!(
            "diagonals wobble by {:.0} µm every {:.1} mm: the device's own grid, not your hand; draw slow diagonals with a turned page, or with more smoothing",
            w.amplitude_um, w.period_mm
        ));
    }
    if let Some(s) = &suggested_smoothing {
        advice.push(format!(
            "position noise is {:.0} µm; smoothing ({}) brings it to {:.0} µm, and the ink stays {:.0} ms behind",
            position_noise_um.unwrap_or(0.0),
            smoothing::in_words(&s.smoothing),
            s.noise_um,
            s.lag_ms
        ));
    }
    Ok(TabletProfile {
        format: FORMAT.into(),
        version: 1,
        label: label.into(),
        activation,
        full_point,
        pressure_steps: steps,
        report_rate_hz: timing.0,
        dropouts: timing.1,
        pressure_noise,
        hysteresis,
        position_noise_um,
        diagonal_wobble: wobble,
        suggested_smoothing,
        force_n: None,
        full_point_seen,
        tilt: pressed.iter().flat_map(|s| &s.samples).any(|p| p.elevation_deg.is_some_and(|e| e < 89.5)),
        scale: if warmup.scale_from_card { Scale::Card } else { Scale::Assumed },
        response,
        advice,
    })
}

/// Raw pressures that were used in drawing (what is drawn along a ruler tells of the device, not of the hand), as shares of `bins` equal bins over 0…1: what the response curve is drawn over.
pub fn used_histogram(warmup: &WarmUp, bins: usize) -> Vec<f64> {
    let mut out = vec![0.0; bins];
    let mut total = 0.0;
    let drawn = |e: Exercise| matches!(e, Exercise::Effort | Exercise::Ramp | Exercise::Flick | Exercise::Circle | Exercise::Freehand);
    for p in warmup.groups.iter().filter(|g| drawn(g.exercise)).flat_map(|g| &g.strokes).flat_map(raws) {
        out[((p * bins as f64) as usize).min(bins - 1)] += 1.0;
        total += 1.0;
    }
    out.iter_mut().for_each(|v| *v /= f64::max(total, 1.0));
    out
}

fn raws(s: &Stroke) -> Vec<f64> {
    s.samples.iter().filter_map(|p| p.pressure).collect()
}

/// The middle three fifths of a stroke's raw values: the hand has arrived and not yet left.
fn steady(s: &Stroke) -> Vec<f64> {
    let v = raws(s);
    let n = v.len();
    v[n / 5..n - n / 5].to_vec()
}

/// The full point: a plateau of one raw value in the hardest strokes; else the median of the hardest strokes.
fn full_point(warmup: &WarmUp) -> (f64, bool) {
    let hardest: Vec<&Stroke> = warmup.efforts().filter(|(e, _)| *e >= 1.0).map(|(_, s)| s).collect();
    let from: Vec<&Stroke> = hardest.iter().copied().chain(warmup.strokes(Exercise::Ramp)).collect();
    let top = from.iter().flat_map(|s| raws(s)).fold(0.0, f64::max);
    // A hand does not hold one value: eight equal reports in a row, and the highest seen, are the device's end.
    let plateau = from.iter().any(|s| raws(s).split(|v| (v - top).abs() > 1e-9).any(|run| run.len() >= 8));
    if plateau {
        return (top, true);
    }
    let medians: Vec<f64> = hardest.iter().filter_map(|s| median(&steady(s))).collect();
    (median(&medians).unwrap_or(top), false)
}

/// `(period's rate in Hz, missing reports)`.
fn timing(strokes: &[&Stroke]) -> Result<(f64, u32), ProfileError> {
    let intervals: Vec<f64> = strokes.iter().flat_map(|s| s.samples.windows(2).map(|w| w[1].t_ms - w[0].t_ms)).filter(|d| *d > 0.0 && d.is_finite()).collect();
    let typical = median(&intervals).ok_or(ProfileError::NoTime)?;
    let single: Vec<f64> = intervals.iter().copied().filter(|d| (0.5 * typical..1.5 * typical).contains(d)).collect();
    let period = single.iter().sum::<f64>() / single.len().max(1) as f64;
    let missing: f64 = intervals.iter().map(|d| (d / period).round() - 1.0).filter(|m| *m >= 1.0).sum();
    Ok((1000.0 / period, missing.min(f64::from(u32::MAX)) as u32))
}

/// The finest step that all values seen are multiples of, as a count of steps; none where too few values were seen.
fn pressure_steps(strokes: &[&Stroke]) -> Option<u32> {
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

/// Knots of the response, and the effort at which the full point is first reached, where ramps show it.
fn response(warmup: &WarmUp, full: Option<f64>) -> Result<(Vec<[f64; 2]>, Option<f64>), ProfileError> {
    let mut points: Vec<(f64, f64, f64)> = Vec::new();
    let mut groups: std::collections::BTreeMap<i64, Vec<f64>> = Default::default();
    for (effort, stroke) in warmup.efforts() {
        if let Some(raw) = median(&steady(stroke)) {
            groups.entry((effort * 1000.0).round() as i64).or_default().push(raw);
        }
    }
    for (effort, raws) in &groups {
        let mean = raws.iter().sum::<f64>() / raws.len() as f64;
        points.push((*effort as f64 / 1000.0, mean, 2.0 * raws.len() as f64));
    }
    let rising: Vec<Vec<(f64, f64)>> = warmup.strokes(Exercise::Ramp).map(rising_branch).filter(|r| r.len() >= 12).collect();
    let onset = full.and_then(|full| {
        let seen: Vec<f64> = rising.iter().filter_map(|r| r.iter().find(|p| p.1 >= full - 1e-9).map(|p| p.0)).collect();
        median(&seen)
    });
    for k in 0..9 {
        let effort = f64::from(k) / 8.0;
        for ramp in &rising {
            if let Some(raw) = local_line(ramp, effort) {
                points.push((effort, raw, 1.0));
            }
        }
    }
    // Above the full point the device says nothing: those efforts become one knot, where the ramps reached it.
    if let Some(full) = full {
        let limit = full - 1e-6;
        let saturated: Vec<f64> = points.iter().filter(|p| p.1 >= limit || onset.is_some_and(|o| p.0 > o)).map(|p| p.0).collect();
        points.retain(|p| p.1 < limit && onset.is_none_or(|o| p.0 <= o));
        if let Some(effort) = onset.or_else(|| (!saturated.is_empty()).then(|| saturated.iter().sum::<f64>() / saturated.len() as f64)) {
            points.push((effort, full, 4.0));
        }
    }
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut merged: Vec<(f64, f64, f64)> = Vec::new();
    for p in points {
        match merged.last_mut() {
            Some(m) if (m.0 - p.0).abs() < 0.02 => {
                let w = m.2 + p.2;
                *m = ((m.0 * m.2 + p.0 * p.2) / w, (m.1 * m.2 + p.1 * p.2) / w, w);
            }
            _ => merged.push(p),
        }
    }
    let mut blocks = isotonic::blocks(&merged);
    while blocks.len() > 9 {
        // Two neighbours that say nearly the same become one knot.
        let k = (1..blocks.len() - 1).min_by(|a, b| (blocks[a + 1].y - blocks[a - 1].y).total_cmp(&(blocks[b + 1].y - blocks[b - 1].y))).unwrap_or(1);
        blocks.remove(k);
    }
    let knots: Vec<[f64; 2]> = blocks.iter().map(|b| [round6(b.y), round6(b.x)]).collect();
    if knots.len() < 2 {
        return Err(ProfileError::Flat(knots.first().map_or(0.0, |k| k[0])));
    }
    Ok((knots, onset))
}

fn round6(v: f64) -> f64 {
    (v * 1e6).round() / 1e6
}

/// `(effort, raw)` on the way up: effort is linear in the way along the guide, hardest at its middle.
fn rising_branch(s: &Stroke) -> Vec<(f64, f64)> {
    let (Some(a), Some(b)) = (s.samples.first(), s.samples.last()) else {
        return Vec::new();
    };
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let square = dx * dx + dy * dy;
    s.samples
        .iter()
        .filter_map(|p| {
            let u = ((p.x - a.x) * dx + (p.y - a.y) * dy) / square;
            (u <= 0.5).then_some((2.0 * u, p.pressure?))
        })
        .collect()
}

/// The value at `effort` of a straight line through the samples near it; none where they do not reach it.
fn local_line(ramp: &[(f64, f64)], effort: f64) -> Option<f64> {
    let near: Vec<(f64, f64)> = ramp.iter().copied().filter(|p| (p.0 - effort).abs() <= 0.05).collect();
    let n = near.len() as f64;
    if near.len() < 4 {
        return None;
    }
    let (sx, sy) = near.iter().fold((0.0, 0.0), |a, p| (a.0 + p.0 - effort, a.1 + p.1));
    let (sxx, sxy) = near.iter().fold((0.0, 0.0), |a, p| (a.0 + (p.0 - effort).powi(2), a.1 + (p.0 - effort) * p.1));
    let det = n * sxx - sx * sx;
    Some(if det > 1e-9 { (sy * sxx - sx * sxy) / det } else { sy / n })
}
