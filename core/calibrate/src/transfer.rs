//! The same intended strokes on several tablets, raw and corrected; whether a profile still holds; force by a hand scale.
//!
//! How: the profile's own response is turned round to what that tablet would report of an intent, and inked without and with it. Limits:
//! what lies under the activation or past the full point stays lost; force is read only where grams and raw pressure were noted together.

use eddymist_ink::{Curve, DocumentError};
use eddymist_measure::stats::{mean_sd, median};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    TabletProfile,
    profile::{ProfileError, profile},
    warmup::{WarmUp, effort_name},
};

/// Places along a stroke that are compared.
const PLACES: usize = 121;

/// One intended stroke: its effort over the share of its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Intended {
    Ramp,
    Swell,
    Steps,
}

impl Intended {
    pub const ALL: [Self; 3] = [Self::Ramp, Self::Swell, Self::Steps];

    fn effort(self, u: f64) -> f64 {
        match self {
            Self::Ramp => u,
            Self::Swell => 0.15 + 0.75 * (std::f64::consts::PI * u).sin().powi(2),
            Self::Steps => [0.1, 0.4, 0.7, 1.0][((u * 4.0) as usize).min(3)],
        }
    }
}

/// One tablet's line of one intended stroke, mm wide at even places.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct TransferLine {
    /// Which of the profiles, from 0.
    pub profile: usize,
    pub raw_mm: Vec<f64>,
    pub corrected_mm: Vec<f64>,
}

/// All tablets' lines of one intended stroke, and how far they disagree.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Transfer {
    pub stroke: Intended,
    pub intended_mm: Vec<f64>,
    pub lines: Vec<TransferLine>,
    /// Standard deviation between the tablets, averaged over the stroke, mm, and its share of the mean width.
    pub raw_mm: f64,
    pub raw_share: f64,
    pub corrected_mm: f64,
    pub corrected_share: f64,
}

/// What each tablet would report of the same intent, inked without and with its profile, by a weight curve (effort to mm).
///
/// The profile's own response is turned round for it: what lies under its activation or past its full point stays lost,
/// and pressure comes in the device's steps.
pub fn transfer(profiles: &[TabletProfile], weight: &[[f64; 2]]) -> Result<Vec<Transfer>, DocumentError> {
    let bad = |e: eddymist_ink::curve::CurveError| DocumentError::Malformed { expected: crate::profile::FORMAT, problem: e.to_string() };
    let weight = Curve::new(weight).map_err(bad)?;
    let responses = profiles.iter().map(|p| p.curve().map_err(bad)).collect::<Result<Vec<_>, _>>()?;
    Ok(Intended::ALL
        .into_iter()
        .map(|stroke| {
            let efforts: Vec<f64> = (0..PLACES).map(|i| stroke.effort(i as f64 / (PLACES - 1) as f64)).collect();
            let lines: Vec<TransferLine> = profiles
                .iter()
                .zip(&responses)
                .enumerate()
                .map(|(i, (p, r))| {
                    let raws: Vec<f64> = efforts.iter().map(|e| reported(p, r, *e)).collect();
                    TransferLine {
                        profile: i,
                        raw_mm: raws.iter().map(|v| weight.value(*v)).collect(),
                        corrected_mm: raws.iter().map(|v| weight.value(r.value(*v))).collect(),
                    }
                })
                .collect();
            let spread = |f: fn(&TransferLine) -> &[f64]| -> (f64, f64) {
                let at = |k: usize| mean_sd(&lines.iter().map(|l| f(l)[k]).collect::<Vec<_>>()).unwrap_or((0.0, 0.0));
                let (mean, sd) = (0..PLACES).map(at).fold((0.0, 0.0), |a, m| (a.0 + m.0, a.1 + m.1));
                (sd / PLACES as f64, if mean > 0.0 { sd / mean } else { 0.0 })
            };
            let (raw, corrected) = (spread(|l| &l.raw_mm), spread(|l| &l.corrected_mm));
            Transfer {
                stroke,
                intended_mm: efforts.iter().map(|e| weight.value(*e)).collect(),
                raw_mm: raw.0,
                raw_share: raw.1,
                corrected_mm: corrected.0,
                corrected_share: corrected.1,
                lines,
            }
        })
        .collect())
}

/// The raw value at which the response says this effort, in the device's own steps.
fn reported(p: &TabletProfile, response: &Curve, effort: f64) -> f64 {
    let (mut low, mut high) = (p.activation.min(p.full_point), p.full_point);
    for _ in 0..40 {
        let mid = 0.5 * (low + high);
        if response.value(mid) < effort { low = mid } else { high = mid }
    }
    let raw = 0.5 * (low + high);
    match p.pressure_steps {
        Some(s) if s > 1 => (raw * f64::from(s - 1)).round() / f64::from(s - 1),
        _ => raw,
    }
}

/// One effort of a re-check.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Rechecked {
    pub effort: f64,
    /// What the profile makes of the strokes drawn at it now.
    pub comes_out: f64,
}

/// Whether a profile still holds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Recheck {
    pub holds: bool,
    /// Largest difference of effort.
    pub off: f64,
    pub efforts: Vec<Rechecked>,
    pub says: String,
}

/// A difference of effort that a hand makes by itself from one time to the next (common practice, no source).
const HAND_REPEATS: f64 = 0.08;

/// Holds fresh strokes at known efforts against a profile: a 30-second re-check.
pub fn recheck(p: &TabletProfile, fresh: &WarmUp) -> Result<Recheck, ProfileError> {
    let now = profile(fresh, "re-check")?;
    let response = p.curve().map_err(|_| ProfileError::NoExercise)?;
    let mut efforts: Vec<Rechecked> = Vec::new();
    for effort in [0.0, 0.25, 0.5, 0.75, 1.0] {
        let seen: Vec<f64> = fresh
            .efforts()
            .filter(|(e, _)| (e - effort).abs() < 1e-9)
            .filter_map(|(_, s)| {
                let raws: Vec<f64> = s.samples.iter().filter_map(|p| p.pressure).collect();
                median(&raws[raws.len() / 5..raws.len() - raws.len() / 5])
            })
            .map(|raw| response.value(raw))
            .collect();
        if let Some(comes_out) = median(&seen) {
            efforts.push(Rechecked { effort, comes_out });
        }
    }
    // Past the profile's own full point a harder press cannot show.
    let reach = response.value(1.0);
    let worst = efforts.iter().max_by(|a, b| off(a, reach).total_cmp(&off(b, reach))).ok_or(ProfileError::NoExercise)?;
    let by = off(worst, reach);
    let holds = by <= HAND_REPEATS && (now.full_point - p.full_point).abs() < 0.05;
    let says = if holds {
        format!("the profile holds: every effort comes out within {by:.2} of what it was")
    } else if by > HAND_REPEATS {
        let way = if worst.comes_out > worst.effort.min(reach) { "higher" } else { "lower" };
        format!("the profile no longer holds: {} effort comes out {way} by {by:.2}; warm up again on this tablet", effort_name(worst.effort))
    } else {
        format!("the full point moved from {:.2} to {:.2}: a driver setting or a stylus tip changed; warm up again", p.full_point, now.full_point)
    };
    Ok(Recheck { holds, off: by, efforts, says })
}

fn off(r: &Rechecked, reach: f64) -> f64 {
    (r.comes_out - r.effort.min(reach)).abs()
}

/// A reading on a kitchen scale: grams, the raw pressure beside it, and whether the hand was letting go.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct ScaleReading {
    pub grams: f64,
    pub raw: f64,
    #[serde(default)]
    pub letting_go: bool,
}

/// What a hand scale tells: `[raw, newtons]` on pressing, and raw letting go minus raw pressing at equal force.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct HandScale {
    pub force_n: Vec<[f64; 2]>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hysteresis: Option<f64>,
}

/// Why readings of a scale cannot be used.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ScaleError {
    #[error("grams must lie between 0 and 3000 and raw pressure between 0 and 1; reading {0} does not")]
    Range(usize),
    #[error("give at least four readings while pressing, from light to hard")]
    TooFew,
    #[error("raw pressure falls while the grams rise; check which readings were taken while letting go")]
    Falls,
}

/// Standard gravity (ISO 80000-3), m/s².
const GRAVITY: f64 = 9.806_65;

/// From readings to the force curve and the hysteresis against force.
pub fn hand_scale(readings: &[ScaleReading]) -> Result<HandScale, ScaleError> {
    if let Some(i) = readings.iter().position(|r| !(0.0..=3000.0).contains(&r.grams) || !(0.0..=1.0).contains(&r.raw)) {
        return Err(ScaleError::Range(i + 1));
    }
    let branch = |letting_go: bool| {
        let mut v: Vec<[f64; 2]> = readings.iter().filter(|r| r.letting_go == letting_go).map(|r| [r.raw, r.grams / 1000.0 * GRAVITY]).collect();
        v.sort_by(|a, b| a[1].total_cmp(&b[1]));
        v
    };
    let (mut up, down) = (branch(false), branch(true));
    if up.len() < 4 {
        return Err(ScaleError::TooFew);
    }
    if up.windows(2).any(|w| w[1][0] < w[0][0] - 0.02) {
        return Err(ScaleError::Falls);
    }
    up.dedup_by(|a, b| a[0] <= b[0]);
    let raw_at = |v: &[[f64; 2]], force: f64| {
        let i = v.partition_point(|p| p[1] < force);
        let (a, b) = (v.get(i.checked_sub(1)?)?, v.get(i)?);
        Some(a[0] + (b[0] - a[0]) * (force - a[1]) / (b[1] - a[1]).max(1e-9))
    };
    let gaps: Vec<f64> = down.iter().filter_map(|d| Some(d[0] - raw_at(&up, d[1])?)).collect();
    Ok(HandScale { hysteresis: median(&gaps), force_n: up })
}
