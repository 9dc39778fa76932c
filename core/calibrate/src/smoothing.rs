//! Smoothing is a trade: what it takes off the wobble, how far the ink stays behind for it, and how it rounds a corner, on the
//! artist's own strokes; and the least that a tablet asks for.
//!
//! How: the strokes are smoothed as ink does it and held against themselves; the suggestion is the least lag of live ink, of any kind, that
//! brings the position noise under a stated limit. Limits: without a ruled stroke nothing is said of wobble. The limit of 10 µm is common
//! practice, no source.

use eddymist_ink::{Sample, Stroke, brush::SmoothingKind, smoothing, stroke::along};
use eddymist_measure::stats::{mean_sd, median};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    profile::SuggestedSmoothing,
    steadiness::{across, position_noise_um, without_bow},
    warmup::{Exercise, WarmUp},
};

/// Position noise that is left under a brush's line without being seen, µm (common practice, no source).
pub const NOISE_LIMIT_UM: f64 = 10.0;

/// What a smoothing costs and gives.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Trade {
    /// How far live ink stays behind the stylus: in time, and along the way.
    pub lag_ms: f64,
    pub lag_mm: f64,
    /// How far finished ink cuts a right-angled corner, drawn at the artist's own median speed.
    pub corner_mm: f64,
    /// Share of the wobble about a straight edge that finished ink has lost; absent where no straight edge was drawn.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wobble_removed: Option<f64>,
}

pub(crate) fn places(s: &Stroke) -> Vec<[f64; 2]> {
    s.samples.iter().map(|p| [p.x, p.y]).collect()
}

/// How far the smoothed point stays behind, ms and mm: the distance back along the way, and that over the speed there.
fn lag(s: &Stroke, out: &[[f64; 2]]) -> Option<[f64; 2]> {
    let way = along(s.samples.iter().map(|p| (p.x, p.y)));
    let n = s.samples.len();
    let seen: Vec<[f64; 2]> = (4..n.saturating_sub(4))
        .filter_map(|i| {
            let (a, b) = (&s.samples[i - 4], &s.samples[i + 4]);
            let seconds = (b.t_ms - a.t_ms) / 1000.0;
            let speed = (way[i + 4] - way[i - 4]) / seconds;
            let (dx, dy) = (b.x - a.x, b.y - a.y);
            let len = dx.hypot(dy);
            if seconds <= 0.0 || speed < 5.0 || len <= 0.0 {
                return None;
            }
            let behind = ((s.samples[i].x - out[i][0]) * dx + (s.samples[i].y - out[i][1]) * dy) / len;
            Some([1000.0 * behind / speed, behind])
        })
        .collect();
    let of = |k: usize| median(&seen.iter().map(|v| v[k]).collect::<Vec<_>>());
    Some([of(0)?, of(1)?])
}

/// How far live ink stays behind on these strokes, ms: the median stroke's.
pub(crate) fn lag_ms(kind: &SmoothingKind, strokes: &[&Stroke]) -> Option<f64> {
    median(&strokes.iter().filter_map(|s| lag(s, &smoothing::live(kind, s, &places(s))).map(|l| l[0])).collect::<Vec<_>>())
}

/// Deviation about the straight edge, bow taken out, µm.
fn wobble_um(s: &Stroke, out: &[[f64; 2]]) -> Option<f64> {
    let moved = Stroke::new(s.samples.iter().zip(out).map(|(p, o)| Sample { x: o[0], y: o[1], ..*p }).collect());
    across(&moved).and_then(|(_, off)| mean_sd(&without_bow(&off, 3)).map(|m| 1000.0 * m.1))
}

/// Free strokes, ruled ones among them.
fn all(warmup: &WarmUp) -> Vec<&Stroke> {
    let free = warmup.strokes(Exercise::Freehand).chain(warmup.strokes(Exercise::Circle)).chain(warmup.strokes(Exercise::Ruled));
    free.chain(warmup.efforts().map(|(_, s)| s)).collect()
}

/// What a smoothing of position costs and gives on the strokes of a warm-up; none where there are none.
pub fn trade(kind: &SmoothingKind, warmup: &WarmUp) -> Option<Trade> {
    let strokes = all(warmup);
    let lags: Vec<[f64; 2]> = strokes.iter().filter_map(|s| lag(s, &smoothing::live(kind, s, &places(s)))).collect();
    let of = |k: usize| median(&lags.iter().map(|v| v[k]).collect::<Vec<_>>());
    let ruled: Vec<f64> = warmup
        .strokes(Exercise::Ruled)
        .filter_map(|s| {
            let before = wobble_um(s, &places(s)).filter(|b| *b > 0.0)?;
            Some(1.0 - wobble_um(s, &smoothing::finished(kind, s, &places(s)))? / before)
        })
        .collect();
    Some(Trade { lag_ms: of(0)?, lag_mm: of(1)?, corner_mm: corner_mm(kind, &strokes)?, wobble_removed: median(&ruled) })
}

/// How near the finished ink of a right-angled corner comes to the corner, at the strokes' own median speed and report rate.
pub(crate) fn corner_mm(kind: &SmoothingKind, strokes: &[&Stroke]) -> Option<f64> {
    let (mut speeds, mut steps) = (Vec::new(), Vec::new());
    for s in strokes {
        let (Some(a), Some(b), Some(way)) = (s.samples.first(), s.samples.last(), s.lengths_mm().last().copied()) else { continue };
        if b.t_ms > a.t_ms && s.samples.len() > 8 {
            speeds.push(way / (b.t_ms - a.t_ms));
            steps.push((b.t_ms - a.t_ms) / (s.samples.len() - 1) as f64);
        }
    }
    let (speed, step) = (median(&speeds)?, median(&steps)?);
    let side = (600.0 * speed).max(20.0);
    let n = ((side / (speed * step).max(1e-6)) as usize).clamp(20, 4000);
    let at = |i: usize| if i <= n { [side * i as f64 / n as f64, 0.0] } else { [side, side * (i - n) as f64 / n as f64] };
    let s = Stroke::new((0..=2 * n).map(|i| Sample { t_ms: i as f64 * step, x: at(i)[0], y: at(i)[1], ..Sample::default() }).collect());
    let out = smoothing::finished(kind, &s, &places(&s));
    out.iter().map(|p| (p[0] - side).hypot(p[1])).reduce(f64::min)
}

/// The smoothings that are tried: of each kind from hardly any to a great deal.
pub(crate) fn tried() -> Vec<SmoothingKind> {
    // Three digits, as one would type them.
    let short = |v: f64| format!("{v:.2e}").parse().unwrap_or(v);
    let steps = |n: i32, from: f64, by: f64| (0..n).map(move |i| short(from * by.powi(i)));
    let adaptive = steps(18, 0.5, 1.35).flat_map(|min_cutoff_hz| {
        [0.0, 0.005, 0.01, 0.02, 0.04, 0.08, 0.16].map(|speed_coefficient| SmoothingKind::Adaptive { min_cutoff_hz, speed_coefficient })
    });
    let average = steps(12, 8.0, 1.35).map(|span_ms| SmoothingKind::Average { span_ms });
    let tow = steps(12, 0.03, 1.4).map(|slack_mm| SmoothingKind::Tow { slack_mm });
    adaptive.chain(average).chain(tow).collect()
}

/// Searches the artist's own ruled strokes for the least lag of live ink, of any kind, that brings the position noise under the
/// limit; none where there are none, or the noise is under it already.
pub fn suggested(warmup: &WarmUp) -> Option<SuggestedSmoothing> {
    if position_noise_um(warmup)? <= NOISE_LIMIT_UM {
        return None;
    }
    let ruled: Vec<&Stroke> = warmup.strokes(Exercise::Ruled).collect();
    let free: Vec<&Stroke> = warmup.strokes(Exercise::Freehand).chain(warmup.strokes(Exercise::Circle)).chain(ruled.iter().copied()).collect();
    let mut best: Option<SuggestedSmoothing> = None;
    for kind in tried() {
        let live = |s: &&Stroke| smoothing::live(&kind, s, &places(s));
        let noise: Vec<f64> = ruled.iter().filter_map(|s| wobble_um(s, &live(s))).collect();
        let Some(noise_um) = median(&noise).filter(|n| *n <= NOISE_LIMIT_UM) else { continue };
        let Some(lag_ms) = lag_ms(&kind, &free) else { continue };
        if best.as_ref().is_none_or(|b| lag_ms < b.lag_ms) {
            best = Some(SuggestedSmoothing { smoothing: kind, lag_ms, noise_um });
        }
    }
    best
}

/// A smoothing in a few words.
pub fn in_words(kind: &SmoothingKind) -> String {
    match kind {
        SmoothingKind::None => "none".into(),
        SmoothingKind::Adaptive { min_cutoff_hz, .. } => format!("adaptive: filter when slow {min_cutoff_hz:.1} Hz"),
        SmoothingKind::Average { span_ms } => format!("averaged over {span_ms:.0} ms"),
        SmoothingKind::Tow { slack_mm } => format!("tow: follows at {slack_mm:.2} mm"),
        SmoothingKind::Faired { tolerance_mm } => format!("smoothed after the stroke, may deviate by {tolerance_mm:.2} mm"),
    }
}
