//! Hands and tablets as no one has them: two beats, ramps that are none, strokes that jump. The profile's figures are numbers and it is read
//! again as it was written; the brush that is fitted loads. Found by fuzzing: as many short intervals as long ones have a median that no interval is near; a line
//! through the reports at a ramp's end leads past what a device can say.

use eddymist_calibrate::{Exercise, Group, PenCard, TabletProfile, WarmUp, fit, profile::profile};
use eddymist_ink::{Sample, Stroke};
use proptest::prelude::*;

/// A line at each of five efforts, its reports at these intervals.
fn warmup(intervals: &[f64]) -> WarmUp {
    let stroke = |effort: f64| {
        let mut t = 0.0;
        let sample = |(k, d): (usize, &f64)| {
            t += d;
            let u = k as f64 / intervals.len() as f64;
            Sample { t_ms: t, x: 40.0 * u, y: 5.0, pressure: Some(0.05 + 0.8 * effort + 0.02 * u), azimuth_deg: None, elevation_deg: None }
        };
        Stroke::new(intervals.iter().enumerate().map(sample).collect())
    };
    let group = |effort: f64| Group { exercise: Exercise::Effort, effort: Some(effort), pace: None, strokes: vec![stroke(effort), stroke(effort)] };
    WarmUp { groups: [0.0, 0.25, 0.5, 0.75, 1.0].map(group).into(), scale_from_card: false, slips_counted: false }
}

fn read_again(w: &WarmUp) -> Option<TabletProfile> {
    let p = profile(w, "any").ok()?;
    let text = serde_json::to_string(&p).expect("written");
    assert_eq!(TabletProfile::from_json(&text).expect("read again"), p);
    Some(p)
}

#[test]
fn two_beats_are_one_rate() {
    // The first interval is the first sample's time and no interval: of the rest 32 are short and 32 long.
    let w = warmup(&(0..65).map(|k| if k % 2 == 0 { 2.0 } else { 13.0 }).collect::<Vec<_>>());
    let p = read_again(&w).expect("a ramp with pressure");
    assert!((p.report_rate_hz - 500.0).abs() < 1.0, "{}", p.report_rate_hz);
}

/// Ramps along a guide, their pressure by these values: at its ends a line through them leads under nothing and over all.
fn ramps(pressures: &[f64]) -> WarmUp {
    let n = pressures.len() as f64;
    let sample =
        |(k, p): (usize, &f64)| Sample { t_ms: 5.0 * k as f64, x: 80.0 * k as f64 / n, y: 9.0, pressure: Some(*p), azimuth_deg: None, elevation_deg: None };
    let strokes = vec![Stroke::new(pressures.iter().enumerate().map(sample).collect())];
    WarmUp { groups: vec![Group { exercise: Exercise::Ramp, effort: None, pace: None, strokes }], scale_from_card: false, slips_counted: false }
}

proptest! {
    #[test]
    fn whatever_the_ramp_the_profile_is_read_again(pressures in proptest::collection::vec(0.0..=1.0f64, 24..160), fine in 1.0..40.0f64) {
        // Wild values, and values that climb from nothing to all within a few reports.
        read_again(&ramps(&pressures));
        let n = pressures.len();
        let steep: Vec<f64> = (0..n).map(|k| (fine * (k as f64 / n as f64 - 0.02)).clamp(0.0, 1.0)).collect();
        read_again(&ramps(&steep));
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..Default::default() })]
    #[test]
    fn whatever_the_beat_the_profile_is_read_again(intervals in proptest::collection::vec(0.0..60.0f64, 2..90)) {
        if let Some(p) = read_again(&warmup(&intervals)) {
            prop_assert!(p.report_rate_hz.is_finite() && p.report_rate_hz > 0.0);
        }
    }
}

/// Walks in leaps at three efforts.
fn leaps(steps: &[(f64, f64, f64, f64)]) -> WarmUp {
    let stroke = |effort: f64| {
        let (mut x, mut y, mut t) = (20.0, 20.0, 0.0);
        let sample = |(dx, dy, p, dt): &(f64, f64, f64, f64)| {
            (x, y, t) = (x + dx, y + dy, t + dt);
            Sample { t_ms: t, x, y, pressure: Some((p * (0.2 + 0.8 * effort)).clamp(0.0, 1.0)), azimuth_deg: None, elevation_deg: None }
        };
        Stroke::new(steps.iter().map(sample).collect())
    };
    let group = |effort: f64| Group { exercise: Exercise::Effort, effort: Some(effort), pace: None, strokes: vec![stroke(effort), stroke(effort)] };
    WarmUp { groups: [0.0, 0.5, 1.0].map(group).into(), scale_from_card: false, slips_counted: false }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..Default::default() })]
    #[test]
    fn whatever_hand_and_pen_the_brush_loads(
        steps in proptest::collection::vec((-6.0..6.0f64, -6.0..6.0f64, 0.0..=1.0f64, 0.0..255.0f64), 10..60),
        widths in proptest::collection::vec(0.05..2.6f64, 5),
    ) {
        let of = |(k, w): (usize, &f64)| serde_json::json!({"effort": k as f64 / 4.0, "width_mm": w, "sd_mm": 0.01, "lines": 1 + k});
        let rows: Vec<_> = widths.iter().enumerate().map(of).collect();
        let card = serde_json::json!({"format": "eddymist/pen-card", "version": 1, "name": "any", "resolution_dpi": 600.0, "widths_by_effort": rows});
        let card = PenCard::from_json(&card.to_string()).expect("a card");
        let warmup = leaps(&steps);
        if let Some(p) = read_again(&warmup)
            && let Ok(found) = fit(&card, Some(&warmup), Some(&p), None, &[])
        {
            prop_assert!(found.brush.validate().is_ok(), "{:?}", found.brush.weight);
        }
    }
}
