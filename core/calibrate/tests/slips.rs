//! A slip in a warm-up: one stroke that was pressed quite otherwise than the rest of its exercise changes nothing, and is said.

use eddymist_calibrate::{Exercise, Group, WarmUp, profile};
use eddymist_ink::{Sample, Stroke};
use proptest::prelude::*;

const EFFORTS: [f64; 5] = [0.0, 0.25, 0.5, 0.75, 1.0];

fn stroke(raw: f64, k: usize) -> Stroke {
    // A hand that breathes a little, so that nothing is a plateau.
    let at = |i: usize| Sample {
        t_ms: 7.0 * i as f64 + 4000.0 * k as f64,
        x: 0.5 * i as f64,
        y: 10.0,
        pressure: Some((raw + 0.006 * (0.3 * i as f64 + k as f64).sin()).clamp(0.001, 1.0)),
        ..Sample::default()
    };
    Stroke::new((0..160).map(at).collect())
}

/// Three strokes of each effort, their raw pressures rising evenly, each a little off.
fn warmup(low: f64, high: f64, slip: Option<(usize, usize, f64)>) -> WarmUp {
    let groups = EFFORTS.iter().enumerate().map(|(e, effort)| {
        let raw = |k: usize| match slip {
            Some((at, which, raw)) if at == e && which == k => raw,
            _ => low + (high - low) * effort + 0.01 * (k as f64 - 1.0),
        };
        Group { exercise: Exercise::Effort, effort: Some(*effort), pace: None, strokes: (0..3).map(|k| stroke(raw(k), 3 * e + k)).collect() }
    });
    WarmUp { groups: groups.collect(), scale_from_card: false, slips_counted: false }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_slip_is_left_out_and_said(
        low in 0.05f64..0.15,
        high in 0.7f64..0.85,
        effort in 0usize..4,
        which in 0usize..3,
        slipped in 0.9f64..1.0,
    ) {
        let clean = profile(&warmup(low, high, None), "t").expect("a profile");
        let other = profile(&warmup(low, high, Some((effort, which, slipped))), "t").expect("a profile");
        let said: Vec<&String> = other.advice.iter().filter(|a| a.contains("looks like a slip")).collect();
        prop_assert_eq!(said.len(), 1);
        prop_assert!(said[0].starts_with(&format!("stroke {} at", which + 1)), "{}", said[0]);
        prop_assert!(clean.advice.iter().all(|a| !a.contains("slip")));
        let (a, b) = (clean.curve().expect("a curve"), other.curve().expect("a curve"));
        for k in 0..=20 {
            let raw = low + (high - low) * f64::from(k) / 20.0;
            prop_assert!((a.value(raw) - b.value(raw)).abs() < 0.04, "at {raw}: {} and {}", a.value(raw), b.value(raw));
        }
        // Where it was meant it counts, and is still pointed out: the effort's mean moves by a third of the way.
        let meant = WarmUp { slips_counted: true, ..warmup(low, high, Some((effort, which, slipped))) };
        let counted = profile(&meant, "t").expect("a profile");
        prop_assert!(counted.advice.iter().any(|a| a.contains("looks like a slip and counts all the same")));
        prop_assert!(counted.response != other.response);
    }

    /// A hand that is only unsteady has no slips.
    #[test]
    fn an_unsteady_hand_is_no_slip(low in 0.05f64..0.15, high in 0.7f64..0.85, effort in 0usize..5, which in 0usize..3, off in -0.12f64..0.12) {
        let raw = (low + (high - low) * EFFORTS[effort] + off).clamp(0.01, 0.99);
        let p = profile(&warmup(low, high, Some((effort, which, raw))), "t").expect("a profile");
        prop_assert!(p.advice.iter().all(|a| !a.contains("slip")), "{:?}", p.advice);
    }
}
