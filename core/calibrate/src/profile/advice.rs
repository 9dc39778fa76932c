//! The advice of a profile: a tablet's faults in plain words, and what to do about each.
//!
//! Limits from which something is said are common practice, no source.

use super::{TabletProfile, response::Slip};
use crate::{smoothing, warmup::effort_name};

/// The sentences, in the order in which a stroke meets the faults; `onset` is the effort at which ramps reached the full point.
pub(super) fn sentences(p: &TabletProfile, onset: Option<f64>) -> Vec<String> {
    let mut out = Vec::new();
    if p.full_point_seen {
        if let Some(e) = onset.filter(|e| *e < 0.92) {
            out.push(format!(
                "the full point is reached early, at {:.0} % of your effort: above it every press gives the widest line. Lower the tablet's pressure setting, or press less for the widest",
                100.0 * e
            ));
        }
    } else {
        out.push(
            "no plateau was seen even in the hardest strokes: the full point given is the median of the hardest strokes, and the device may go further".into(),
        );
    }
    if p.activation > 0.06 {
        out.push(format!(
            "the first ink comes late, at {:.1} % of the raw range: feather-light starts are lost; a fresh stylus tip or a softer setting helps",
            100.0 * p.activation
        ));
    }
    if p.dropouts > 0 {
        out.push(format!("{} reports were missing inside strokes; close what else uses the computer, or try another port", p.dropouts));
    }
    if p.pressure_steps.is_some_and(|s| s <= 1100) {
        out.push("pressure comes in few steps: slow swells may show as stairs; smoothing of effort hides them".into());
    }
    if p.report_rate_hz < 60.0 {
        out.push(format!("only {:.0} reports a second: fast curves come out as corners; a cable or another port may help", p.report_rate_hz));
    }
    if let Some(n) = p.pressure_noise.filter(|n| *n > 0.008) {
        out.push(format!("pressure is noisy, ± {:.1} % of its range: widths tremble; smoothing of effort hides it", 100.0 * n));
    }
    if let Some(h) = p.hysteresis.filter(|h| h.abs() > 0.03) {
        out.push(format!(
            "letting go reads {:.1} % of the range {} than pressing at the same effort: lines end {} than they should",
            100.0 * h.abs(),
            if h > 0.0 { "higher" } else { "lower" },
            if h > 0.0 { "heavier" } else { "thinner" }
        ));
    }
    if let Some(w) = &p.diagonal_wobble {
        out.push(format!(
            "diagonals wobble by {:.0} µm every {:.1} mm: the device's own grid, not your hand; draw slow diagonals with a turned page, or with more smoothing",
            w.amplitude_um, w.period_mm
        ));
    }
    if let Some(s) = &p.suggested_smoothing {
        out.push(format!(
            "position noise is {:.0} µm; smoothing ({}) brings it to {:.0} µm, and the ink stays {:.0} ms behind",
            p.position_noise_um.unwrap_or(0.0),
            smoothing::in_words(&s.smoothing),
            s.noise_um,
            s.lag_ms
        ));
    }
    out
}

/// A stroke that looks like a slip.
pub(super) fn slipped(s: &Slip, counted: bool) -> String {
    format!(
        "stroke {} at {} effort was pressed at {:.2} where the others are at {:.2}: it looks like a slip and {}",
        s.stroke,
        effort_name(s.effort),
        s.raw,
        s.others,
        if counted { "counts all the same, as you said" } else { "was left out. Count it if it was meant, or draw the exercise again" }
    )
}
