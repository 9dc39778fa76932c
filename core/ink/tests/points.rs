//! Points of a drawn stroke: what is kept, what follows, and what stays, each by its definition.

use eddymist_ink::{
    Brush, Curve, Inker, Sample, Stroke,
    points::{nudged, points, pressed, widened, without},
};
use proptest::prelude::*;

prop_compose! {
    fn any_stroke()(n in 3usize..60, noise in prop::collection::vec((-3.0f64..3.0, -3.0f64..3.0, prop::option::of(0.0f64..1.0)), 60)) -> Stroke {
        Stroke::new((0..n).map(|i| {
            let u = i as f64 / (n - 1) as f64;
            Sample { t_ms: 6.0 * i as f64, x: 40.0 * u + noise[i].0, y: 10.0 * (5.0 * u).sin() + noise[i].1, pressure: noise[i].2, ..Sample::default() }
        }).collect())
    }
}

/// Distance of a place from a broken line.
fn from_line(p: &Sample, line: &[&Sample]) -> f64 {
    line.windows(2)
        .map(|w| {
            let (dx, dy) = (w[1].x - w[0].x, w[1].y - w[0].y);
            let long2 = (dx * dx + dy * dy).max(1e-18);
            let t = (((p.x - w[0].x) * dx + (p.y - w[0].y) * dy) / long2).clamp(0.0, 1.0);
            (p.x - w[0].x - t * dx).hypot(p.y - w[0].y - t * dy)
        })
        .fold(f64::INFINITY, f64::min)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn no_sample_lies_further_from_the_points_than_is_allowed(s in any_stroke(), tolerance in 0.05f64..6.0) {
        let found = points(&s, tolerance);
        prop_assert!(found[0] == 0 && *found.last().expect("an end") == s.samples.len() - 1 && found.windows(2).all(|w| w[0] < w[1]));
        let line: Vec<&Sample> = found.iter().map(|i| &s.samples[*i]).collect();
        for p in &s.samples {
            prop_assert!(from_line(p, &line) <= tolerance + 1e-9);
        }
        // Less allowed, no fewer points; so much allowed that the ends are enough.
        prop_assert!(points(&s, 0.5 * tolerance).len() >= found.len() && points(&s, 1e3).len() == 2);
    }

    #[test]
    fn a_nudged_point_is_where_it_was_put_and_its_neighbours_stay(s in any_stroke(), which in 0usize..60, to in (-20.0f64..60.0, -20.0f64..20.0)) {
        let found = points(&s, 1.0);
        let k = which % found.len();
        let out = nudged(&s, &found, k, [to.0, to.1]);
        prop_assert!((out.samples[found[k]].x - to.0).hypot(out.samples[found[k]].y - to.1) < 1e-9);
        let (a, b) = (if k > 0 { found[k - 1] } else { 0 }, *found.get(k + 1).unwrap_or(found.last().expect("an end")));
        for (i, (p, q)) in out.samples.iter().zip(&s.samples).enumerate() {
            prop_assert_eq!((p.t_ms, p.pressure), (q.t_ms, q.pressure));
            // Nothing beyond the neighbours moves, nor do they; nothing between moves further than the point.
            let moved = (p.x - q.x).hypot(p.y - q.y);
            let neighbour = (i == a || i == b) && i != found[k];
            prop_assert!(if i < a || i > b || neighbour { moved == 0.0 } else { moved <= (to.0 - s.samples[found[k]].x).hypot(to.1 - s.samples[found[k]].y) + 1e-9 }, "{i}");
        }
        // Back again, all is as it was: what follows does so by ways that the nudge has changed, so only the point and its neighbours.
        let back = nudged(&out, &found, k, [s.samples[found[k]].x, s.samples[found[k]].y]);
        prop_assert!((back.samples[found[k]].x - s.samples[found[k]].x).abs() < 1e-9);
    }

    #[test]
    fn a_point_is_pressed_as_it_is_told_and_nothing_leaves_what_a_tablet_says(s in any_stroke(), which in 0usize..60, pressure in -0.5f64..1.5) {
        let found = points(&s, 1.0);
        let k = which % found.len();
        let out = pressed(&s, &found, k, pressure);
        prop_assert!((out.samples[found[k]].pressure.expect("pressed") - pressure.clamp(0.0, 1.0)).abs() < 1e-12);
        for (p, q) in out.samples.iter().zip(&s.samples) {
            prop_assert!(p.pressure.is_none_or(|v| (0.0..=1.0).contains(&v)) && p.x == q.x && p.y == q.y && p.t_ms == q.t_ms);
        }
        for (j, at) in found.iter().enumerate().filter(|(j, _)| *j != k) {
            prop_assert!(out.samples[*at].pressure == s.samples[*at].pressure, "{j}");
        }
    }

    /// Without a point the samples beside its neighbours stay, and between them lies a curve that leaves and comes as the line did.
    #[test]
    fn without_a_point_there_is_one_curve_between_its_neighbours(s in any_stroke(), which in 0usize..60) {
        let found = points(&s, 1.0);
        prop_assume!(found.len() > 2);
        let k = which % found.len();
        let out = without(&s, &found, k);
        if k == 0 || k + 1 == found.len() {
            let kept = if k == 0 { s.samples.len() - found[1] } else { found[k - 1] + 1 };
            prop_assert_eq!(out.samples.len(), kept);
            return Ok(());
        }
        let (a, b) = (found[k - 1], found[k + 1]);
        for (i, (p, q)) in out.samples.iter().zip(&s.samples).enumerate() {
            prop_assert!(p.t_ms == q.t_ms && p.pressure == q.pressure && p.x.is_finite() && p.y.is_finite());
            prop_assert!((a + 1..b).contains(&i) || (p.x == q.x && p.y == q.y), "{i}");
        }
        // A cubic between two places with tangents as long as their chord stays within a third of it (Bernstein: control points at a third).
        let chord = (s.samples[b].x - s.samples[a].x).hypot(s.samples[b].y - s.samples[a].y);
        for p in &out.samples[a..=b] {
            prop_assert!(from_line(p, &[&s.samples[a], &s.samples[b]]) <= chord / 3.0 + 1e-9);
        }
    }

    /// Pulled to a width that the brush can have, the line has it there, whatever the tablet's response.
    #[test]
    fn a_point_is_as_wide_as_it_was_pulled(width in 0.25f64..1.9, bent in 0.4f64..2.5, which in 0usize..60) {
        let s = Stroke::new((0..80).map(|i| Sample { t_ms: 8.0 * f64::from(i), x: 0.6 * f64::from(i), y: 8.0 * (0.12 * f64::from(i)).sin(), pressure: Some(0.4), ..Sample::default() }).collect());
        let response = Curve::new(&[[0.0, 0.0], [0.5, 0.5f64.powf(bent)], [1.0, 1.0]]).expect("a response");
        let brush = Brush { weight: vec![[0.0, 0.2], [1.0, 2.0]], ..Brush::plain("b", 1.0) };
        let inker = Inker::new(&brush, Some(response), None).expect("inkable");
        let found = points(&s, 0.5);
        let k = which % found.len();
        let out = widened(&s, &found, k, width, &inker);
        let there = inker.ink(&out).samples[found[k]].width_mm;
        prop_assert!((there - width).abs() < 0.01, "{there} for {width}");
        // What it cannot have it comes near to.
        let most = inker.ink(&widened(&s, &found, k, 9.0, &inker)).samples[found[k]].width_mm;
        prop_assert!((most - 2.0).abs() < 0.02, "{most}");
    }
}

#[test]
fn what_are_no_points_change_nothing() {
    let s = Stroke::new((0..5).map(|i| Sample { x: f64::from(i), ..Sample::default() }).collect());
    for (wrong, k) in [(vec![0, 2, 9], 1), (vec![2, 1], 0), (vec![0, 4], 7), (vec![], 0)] {
        assert_eq!(nudged(&s, &wrong, k, [1.0, 1.0]), s);
        assert_eq!(pressed(&s, &wrong, k, 1.0), s);
        assert_eq!(without(&s, &wrong, k), s);
    }
    // One of two points stays.
    assert_eq!(without(&s, &[0, 4], 0), s);
    assert_eq!(points(&Stroke::new(Vec::new()), 1.0), Vec::<usize>::new());
}
