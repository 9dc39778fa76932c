//! Strokes put right: what a straight edge, an arc and a pull are, by their own definitions.

use eddymist_ink::{
    Sample, Stroke,
    repair::{on_arc, pulled, reversed, straightened},
};
use proptest::prelude::*;

prop_compose! {
    fn any_stroke()(n in 2usize..80, noise in prop::collection::vec((-0.4f64..0.4, -0.4f64..0.4, 0.0f64..1.0), 80), bow in 0.5f64..6.0) -> Stroke {
        Stroke::new((0..n).map(|i| {
            let u = i as f64 / (n - 1) as f64;
            Sample { t_ms: 6.0 * i as f64 + 40.0, x: 30.0 * u + noise[i].0, y: 4.0 * bow * u * (1.0 - u) + noise[i].1, pressure: Some(noise[i].2), ..Sample::default() }
        }).collect())
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn along_a_straight_edge_every_place_is_on_it_and_none_goes_back(s in any_stroke()) {
        let out = straightened(&s);
        let (a, b) = (s.samples[0], s.samples[s.samples.len() - 1]);
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        let mut last = -1e-12;
        for (p, q) in out.samples.iter().zip(&s.samples) {
            prop_assert!(((p.x - a.x) * dy - (p.y - a.y) * dx).abs() < 1e-7);
            let along = (p.x - a.x) * dx + (p.y - a.y) * dy;
            prop_assert!(along >= last - 1e-9);
            last = along;
            prop_assert_eq!((p.t_ms, p.pressure), (q.t_ms, q.pressure));
        }
    }

    #[test]
    fn on_an_arc_every_place_is_as_far_from_one_centre(s in any_stroke()) {
        let out = on_arc(&s).samples;
        prop_assume!(out.len() > 8);
        // The centre by three of the places (the circumcircle's formula), held against all others.
        let [a, b, c] = [out[0], out[out.len() / 2], out[out.len() - 1]];
        let d = 2.0 * (a.x * (b.y - c.y) + b.x * (c.y - a.y) + c.x * (a.y - b.y));
        prop_assume!(d.abs() > 5.0);
        let [aa, bb, cc] = [a, b, c].map(|p| p.x * p.x + p.y * p.y);
        let m = [(aa * (b.y - c.y) + bb * (c.y - a.y) + cc * (a.y - b.y)) / d, (aa * (c.x - b.x) + bb * (a.x - c.x) + cc * (b.x - a.x)) / d];
        let r = (a.x - m[0]).hypot(a.y - m[1]);
        for p in &out {
            prop_assert!(((p.x - m[0]).hypot(p.y - m[1]) / r - 1.0).abs() < 1e-6);
        }
        // It begins and ends where the stroke did.
        prop_assert!((a.x - s.samples[0].x).abs() < 1e-6 && (c.y - s.samples[s.samples.len() - 1].y).abs() < 1e-6);
    }

    #[test]
    fn a_pull_moves_its_place_wholly_and_nothing_beyond_its_reach(s in any_stroke(), to in (-9.0f64..9.0, -9.0f64..9.0), at in 0.0f64..1.0) {
        let k = ((s.samples.len() - 1) as f64 * at) as usize;
        let from = [s.samples[k].x, s.samples[k].y];
        let out = pulled(&s, from, [from[0] + to.0, from[1] + to.1], 5.0).samples;
        let way = s.lengths_mm();
        for (i, (p, q)) in out.iter().zip(&s.samples).enumerate() {
            let moved = (p.x - q.x).hypot(p.y - q.y);
            prop_assert!(moved <= to.0.hypot(to.1) + 1e-9);
            prop_assert!((way[i] - way[k]).abs() < 5.0 + 1e-9 || moved == 0.0);
        }
        prop_assert!((out[k].x - from[0] - to.0).abs() < 1e-9 && (out[k].y - from[1] - to.1).abs() < 1e-9);
    }

    #[test]
    fn reversed_twice_is_as_it_was(s in any_stroke()) {
        let twice = reversed(&reversed(&s));
        for (p, q) in twice.samples.iter().zip(&s.samples) {
            prop_assert!((p.t_ms - q.t_ms).abs() < 1e-9 && (p.x, p.y, p.pressure) == (q.x, q.y, q.pressure));
        }
        let once = reversed(&s).samples;
        prop_assert!(once.windows(2).all(|w| w[1].t_ms >= w[0].t_ms) && once[0].x == s.samples[s.samples.len() - 1].x);
    }
}
