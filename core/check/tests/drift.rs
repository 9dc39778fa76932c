//! Trends against SciPy's Theil–Sen slope and pymannkendall's Hamed–Rao test (golden: tests/reference/make_check.py), and who is
//! said to drift.

use eddymist_check::{
    DrawingCheck, LineGuide,
    document::{RoleCheck, WeightStats},
    drift::{drifts, trend},
};
use proptest::prelude::*;
use serde_json::Value;

#[test]
fn trends_are_those_of_the_references() {
    let cases: Vec<Value> = serde_json::from_str(include_str!("../../../tests/reference/trends.json")).expect("golden values");
    assert!(cases.len() >= 60);
    for case in cases {
        let y: Vec<f64> = case["y"].as_array().expect("a series").iter().filter_map(Value::as_f64).collect();
        let t = trend(&y).expect("a trend");
        let (slope, p) = (case["slope"].as_f64().expect("a slope"), case["p"].as_f64().expect("a p"));
        assert!((t.slope - slope).abs() < 1e-9, "{t:?} {slope}");
        // Where the correction makes the variance negative the reference has no number, and here nothing is claimed.
        assert!(p.is_nan() || (t.p - p).abs() < 1e-7 || p == 0.0 && t.p < 1e-12, "{t:?} {p} {y:?}");
    }
}

fn guide() -> LineGuide {
    let text = r##"{"format":"eddymist/line-guide","version":1,"name":"g","page":{"width_px":800,"height_px":600},
        "roles":[{"name":"contour","from":{"colour":"#1b1e24"},"weight_px":{"target":6.0,"tolerance":0.1}}]}"##;
    LineGuide::from_json(text).expect("a guide")
}

fn drawing(artist: &str, k: usize, mean: f64, at: Option<String>) -> DrawingCheck {
    let stats = WeightStats { mean, interval: [mean - 0.02, mean + 0.02], median: mean, p10: mean, p90: mean, sd: 0.0 };
    let mut manifest = eddymist_check::Manifest::from([("artist".to_string(), artist.to_string())]);
    manifest.extend(at.map(|a| ("drawn_at".to_string(), a)));
    let role = RoleCheck {
        role: "contour".into(),
        length_px: 1000.0,
        measured_share: 0.9,
        unread_px: Default::default(),
        weight_px: Some(stats),
        share_within: None,
        verdict: None,
        tapers_px: None,
    };
    DrawingCheck {
        file: format!("{artist}{k:02}.png"),
        width_px: 800,
        height_px: 600,
        scale: 1.0,
        shot_factor: 1.0,
        source: None,
        hand_on: None,
        why: None,
        warnings: Vec::new(),
        left_out: Vec::new(),
        manifest,
        roles: vec![role],
        findings: Vec::new(),
        masked: Vec::new(),
        print: Vec::new(),
        pins: Vec::new(),
        not_listed: Default::default(),
    }
}

#[test]
fn who_drifts_is_said_and_nobody_else() {
    let wander = |k: usize| 0.03 * ((k * 7 % 5) as f64 - 2.0);
    let mut all: Vec<DrawingCheck> = (0..12).map(|k| drawing("teo", k, 6.2 - 0.06 * k as f64 + wander(k), None)).collect();
    all.extend((0..12).map(|k| drawing("pia", k, 6.0 + wander(k), None)));
    // Surely, but by less than half the tolerance.
    all.extend((0..12).map(|k| drawing("ilse", k, 6.0 + 0.015 * k as f64 + 0.1 * wander(k), None)));
    // Strongly, but on too few drawings.
    all.extend((0..5).map(|k| drawing("dov", k, 5.0 + 0.3 * k as f64, None)));
    let found = drifts(&guide(), &all);
    assert_eq!(found.iter().map(|f| f.artist.as_deref()).collect::<Vec<_>>(), [Some("teo")]);
    assert!(found[0].message.contains("thinner over 12 drawings") && (found[0].value - 0.66).abs() < 0.1 && (found[0].limit - 0.3).abs() < 1e-9, "{found:?}");
    // In the order drawn, not in the order handed in.
    let shuffled: Vec<DrawingCheck> =
        (0..12).map(|k| drawing("teo", k, 6.2 - 0.06 * ((k * 5) % 12) as f64 + wander(k), Some(format!("2026-11-{:02}", (k * 5) % 12 + 1)))).collect();
    assert_eq!(drifts(&guide(), &shuffled).len(), 1);
    let off = LineGuide { off: vec![eddymist_check::FindingKind::Drift], ..guide() };
    assert!(drifts(&off, &all).is_empty());
}

proptest! {
    /// Turned round in time a trend has the other sign and the same surety; another unit changes neither.
    #[test]
    fn a_trend_knows_no_unit_and_no_side(y in prop::collection::vec(-5.0..5.0f64, 6..40), doublings in -6i32..7) {
        // Whole doublings are exact: what is equal stays equal.
        let unit = 2f64.powi(doublings);
        let t = trend(&y).expect("a trend");
        let back = trend(&y.iter().rev().copied().collect::<Vec<_>>()).expect("a trend");
        prop_assert!((t.slope + back.slope).abs() < 1e-9);
        prop_assert!((0.0..=1.0).contains(&t.p));
        let other = trend(&y.iter().map(|v| v * unit).collect::<Vec<_>>()).expect("a trend");
        prop_assert!((other.slope - t.slope * unit).abs() < 1e-9 * (1.0 + unit) && (other.p - t.p).abs() < 1e-6);
    }
}
