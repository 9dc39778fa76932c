//! The tablet profile: what a warm-up tells of one artist on one tablet.
//!
//! How: `response` fits raw pressure to effort, `device` reads the reports, `steadiness` and `smoothing` what they ask for, `advice` words it.
//! Limits: at least one effort or ramp exercise with pressure; what the warm-up did not show is absent.

mod advice;
mod device;
mod document;
mod response;

use eddymist_ink::Stroke;
use eddymist_measure::stats::quantile;

use crate::{
    profile::{
        device::{full_point, pressure_steps, raws},
        response::{response, slips},
    },
    smoothing::{self},
    steadiness,
    warmup::{Exercise, WarmUp},
};

pub(crate) use device::timing;
pub use document::{FORMAT, ProfileError, ResponseFrom, Scale, SuggestedSmoothing, TabletProfile, Wobble, is_response};

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
    let firsts: Vec<f64> = pressed.iter().filter_map(|s| raws(s).into_iter().find(|p| *p > 0.0)).collect();
    let activation = quantile(&firsts, 0.01).ok_or(ProfileError::NoPressure)?;
    let (full_point, full_point_seen) = full_point(warmup);
    let (response, onset) = response(warmup, full_point_seen.then_some(full_point))?;
    let timing = timing(&pressed)?;
    let steps = pressure_steps(&pressed);
    let position_noise_um = steadiness::position_noise_um(warmup);
    let wobble = steadiness::diagonal_wobble(warmup);
    let hysteresis = steadiness::hysteresis(warmup);
    let pressure_noise = steadiness::pressure_noise(warmup, timing.0, full_point);
    let suggested_smoothing = smoothing::suggested(warmup);
    let mut out = TabletProfile {
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
        response_from: None,
        advice: Vec::new(),
    };
    out.advice = advice::sentences(&out, onset);
    out.advice.splice(0..0, slips(warmup).iter().map(|s| advice::slipped(s, warmup.slips_counted)));
    Ok(out)
}

/// The response alone that a warm-up tells; none where it tells none.
pub(crate) fn response_of(warmup: &WarmUp) -> Option<Vec<[f64; 2]>> {
    let (full, seen) = full_point(warmup);
    Some(response(warmup, seen.then_some(full)).ok()?.0)
}

/// A profile of which only the response is known.
pub(crate) fn unknown(response: &[[f64; 2]]) -> TabletProfile {
    TabletProfile {
        format: FORMAT.into(),
        version: 1,
        label: String::new(),
        activation: response.first().map_or(0.0, |k| k[0]),
        full_point: response.last().map_or(1.0, |k| k[0]),
        pressure_steps: None,
        report_rate_hz: 0.0,
        dropouts: 0,
        pressure_noise: None,
        hysteresis: None,
        position_noise_um: None,
        diagonal_wobble: None,
        suggested_smoothing: None,
        force_n: None,
        full_point_seen: false,
        tilt: false,
        scale: Scale::Assumed,
        response: response.to_vec(),
        response_from: None,
        advice: Vec::new(),
    }
}

/// Whether a stroke of the warm-up looks like a slip.
pub fn has_slips(warmup: &WarmUp) -> bool {
    !slips(warmup).is_empty()
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
