//! The tablet profile as a document, and why a warm-up gives none.

use eddymist_ink::{Curve, DocumentError, brush::SmoothingKind, check_document};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

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
    /// Absent where the five efforts and ramps show it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub response_from: Option<ResponseFrom>,
    pub advice: Vec<String>,
}

/// What shows the response, where it is not the five efforts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ResponseFrom {
    /// Lines that were gone over.
    Over,
    /// Paper over the tablet.
    Paper,
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
    #[error("this device reported no pressure (a mouse does not): a response cannot be measured; use a stylus, or choose the pressure along the line")]
    NoPressure,
    #[error("the pressure did not rise with the effort: all strokes came out alike at {0:.3}; press from feather to hardest")]
    Flat(f64),
    #[error("the strokes' times do not rise; without them nothing can be said of the device")]
    NoTime,
}

/// Whether knots are a response: up to nine between 0 and 1, both numbers strictly rising.
pub fn is_response(knots: &[[f64; 2]]) -> bool {
    let within = knots.iter().flatten().all(|v| (0.0..=1.0).contains(v));
    knots.len() <= 9 && within && knots.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] > w[0][1])
}

impl TabletProfile {
    /// Reads and validates a profile document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let mut value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        check_document(&value, FORMAT)?;
        eddymist_ink::older::renamed(&mut value);
        let profile: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        if !is_response(&profile.response) {
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

/// The least smoothing that brings the position noise under the limit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SuggestedSmoothing {
    pub smoothing: SmoothingKind,
    /// How far the ink stays behind the stylus on the artist's own strokes.
    pub lag_ms: f64,
    /// Position noise that is left.
    pub noise_um: f64,
}
