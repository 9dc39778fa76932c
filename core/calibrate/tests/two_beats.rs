//! A tablet that reports in two beats, and other times that are no even beat: the profile's figures are numbers, and it is read again as it
//! was written. Found by fuzzing: as many short intervals as long ones have a median that no interval is near; a line
//! through the reports at a ramp's end leads past what a device can say.

use eddymist_calibrate::{Exercise, Group, TabletProfile, WarmUp, profile::profile};
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
    WarmUp { groups: [0.0, 0.25, 0.5, 0.75, 1.0].map(group).into(), scale_from_card: false }
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
    WarmUp { groups: vec![Group { exercise: Exercise::Ramp, effort: None, pace: None, strokes }], scale_from_card: false }
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
