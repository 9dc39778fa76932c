//! A card's figures in one list against a table of Student's t, and the exercises of the bench against the nib's own formula.

use eddymist_calibrate::{
    Exercise, Group, PenCard, WarmUp,
    exercises::{Shown, shown},
    warmup::Pace,
};
use eddymist_ink::{
    Brush, Inker, Sample, Stroke,
    brush::{Nib, NibShape},
};
use proptest::prelude::*;

/// Quantiles of Student's t at 0.975 (NIST/SEMATECH e-Handbook of Statistical Methods, section 1.3.6.7.2).
const T: [(u32, f64); 5] = [(1, 12.706), (2, 4.303), (5, 2.571), (9, 2.262), (29, 2.045)];

#[test]
fn every_mean_has_its_spread_its_number_and_the_interval_of_the_table() {
    for (free, t) in T {
        let n = free + 1;
        let text = format!(
            r#"{{"format":"eddymist/pen-card","version":1,"name":"p","resolution_dpi":600,
            "widths_by_effort":[{{"effort":0.25,"width_mm":0.4,"sd_mm":0.03,"lines":{n}}},{{"effort":0.75,"width_mm":0.8,"lines":1}}],
            "widths_by_pace":[{{"pace":"slow","speed_mm_s":20,"width_mm":0.5,"sd_mm":0.02,"lines":{n}}}],
            "nib":{{"law":"ellipse","length_mm":0.8,"breadth_mm":0.3,"angle_deg":35,"residual_mm":0.01}},
            "lead_out":{{"at_50_mm":2.1,"at_90_mm":5.4,"sd_mm":0.9,"tip_width_mm":0.05,"body_mm":0.62,"length_mm":6.5,"shape":0.8,"flicks":{n}}},
            "edge":{{"raggedness_um":6,"raggedness_interval_um":[5,7.5],"blurriness_um":60}}}}"#
        );
        let all = PenCard::from_json(&text).expect("a card").figures();
        let one = |name: &str, at: &str| all.iter().find(|f| f.figure == name && f.at == at).unwrap_or_else(|| panic!("{name} {at}"));
        for (name, at, value, sd) in [("width by effort", "0.25", 0.4, 0.03), ("width by pace", "slow", 0.5, 0.02), ("lead-out", "90 %", 5.4, 0.9)] {
            let f = one(name, at);
            assert_eq!((f.value, f.spread, f.number), (value, Some(sd), Some(n)), "{name}");
            let half = t * sd / f64::from(n).sqrt();
            let [lo, hi] = f.interval.expect("an interval");
            assert!((lo - (value - half)).abs() < 1e-3 * half && (hi - (value + half)).abs() < 1e-3 * half, "{name}: {lo} to {hi}, ± {half}");
        }
        // One line alone has neither spread nor interval; what was fitted has what its fit leaves.
        assert_eq!((one("width by effort", "0.75").spread, one("width by effort", "0.75").interval), (None, None));
        assert_eq!((one("nib", "breadth").spread, one("nib", "angle").spread), (Some(0.01), None));
        assert_eq!((one("raggedness", "").interval, one("lead-out", "50 %").number), (Some([5.0, 7.5]), Some(n)));
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, failure_persistence: None, ..ProptestConfig::default() })]

    /// Round a circle an elliptical nib is as wide as `2·√(a²·sin²(θ−φ) + b²·cos²(θ−φ))` in every direction (methods.md, section 1).
    #[test]
    fn a_circle_shows_the_nib_by_direction(angle in -80.0f64..80.0, breadth in 0.2f64..0.9) {
        let brush = Brush {
            nib: Nib { shape: NibShape::Ellipse, breadth: Some(breadth), angle_deg: angle, ..Nib::round() },
            ..Brush::plain("flat", 1.0)
        };
        let turn = |i: i32| f64::from(i) / 720.0 * std::f64::consts::TAU;
        let samples = (0..=900).map(|i| Sample { t_ms: 4.0 * f64::from(i), x: 40.0 * turn(i).cos(), y: -40.0 * turn(i).sin(), pressure: Some(0.5), ..Sample::default() });
        let circle = Group { exercise: Exercise::Circle, effort: None, pace: None, strokes: vec![Stroke::new(samples.collect())] };
        let lane = shown(Shown::Circle, None, Some(&WarmUp { groups: vec![circle], scale_from_card: false, slips_counted: false }), &Inker::new(&brush, None, None).expect("inkable")).expect("a lane");
        let mut seen = 0;
        // The lane has each direction's width about its axis, above and below.
        for p in lane.brush.iter().filter(|p| p[1] > 0.0) {
            let direction = p[0].round() / 15.0;
            if (direction - direction.round()).abs() > 1e-6 {
                continue;
            }
            let off = (15.0 * direction.round() - angle).to_radians();
            let width = (off.sin().powi(2) + (breadth * off.cos()).powi(2)).sqrt();
            prop_assert!((2.0 * p[1] - width).abs() < 0.02, "at {}°: {} of {width}", p[0], 2.0 * p[1]);
            seen += 1;
        }
        prop_assert!(seen >= 20, "{seen} directions");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// A diagonal stands in for a ruled line that was not drawn: level, as long, as fast and as hard pressed as it was, whichever way it went.
    #[test]
    fn a_diagonal_stands_in_for_a_ruled_line_of_its_pace(turn in -3.1f64..3.1, long in 1.0f64..200.0, bow in -0.2f64..0.2, n in 2usize..40) {
        let drawn = |turn: f64| -> Stroke {
            let at = |i: usize| {
                let u = i as f64 / (n - 1) as f64;
                let (x, y) = (long * u, bow * long * u * (1.0 - u));
                let (x, y) = (30.0 + x * turn.cos() - y * turn.sin(), 40.0 + x * turn.sin() + y * turn.cos());
                Sample { t_ms: 7.0 * i as f64, x, y, pressure: Some(0.2 + 0.6 * u), ..Sample::default() }
            };
            Stroke::new((0..n).map(at).collect())
        };
        let of = |exercise, pace| Group { exercise, effort: None, pace: Some(pace), strokes: vec![drawn(turn)] };
        let warmup = WarmUp { groups: vec![of(Exercise::Diagonal, Pace::Fast), of(Exercise::Freehand, Pace::Normal)], scale_from_card: false, slips_counted: false };
        prop_assert!(warmup.at_pace(Pace::Slow).is_empty() && warmup.at_pace(Pace::Normal).is_empty());
        let level = warmup.at_pace(Pace::Fast).pop().expect("it is there");
        for (a, b) in level.samples.iter().zip(&drawn(0.0).samples) {
            prop_assert!((a.x - level.samples[0].x - (b.x - 30.0)).abs() < 1e-9 && (a.y - level.samples[0].y - (b.y - 40.0)).abs() < 1e-9);
            prop_assert!(a.t_ms == b.t_ms && a.pressure == b.pressure);
        }
    }
}
