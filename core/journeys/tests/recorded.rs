//! Strokes that people's hands drew (tests/reference/make_recorded.py): their places and times are what a tablet reported. The pressure, which was not
//! recorded, is ours.

use eddymist_calibrate::{
    PressurePairs,
    pairs::{Drawn, PairError, Way, pair},
};
use eddymist_ink::{
    Brush, Curve, Inker, Outline, Sample, Stroke,
    brush::SmoothingKind,
    dynamics::Motion,
    fitting::fit_outline,
    outline::signed_area,
    smoothing::{finished, live},
};
use eddymist_measure::inked::{InkedLine, InkedPage, InkedPlace};
use serde_json::{Value, json};

const SPIRALS: [&str; 6] = ["spiral-a", "spiral-b", "spiral-c", "spiral-d", "spiral-e", "spiral-f"];

fn reference(name: &str) -> Value {
    let all: Value = serde_json::from_str(include_str!("../../../tests/reference/recorded.json")).expect("golden values");
    all[name].clone()
}

fn numbers(of: &Value) -> Vec<f64> {
    of.as_array().expect("numbers").iter().map(|v| v.as_f64().expect("a number")).collect()
}

/// The strokes of a recording; the page is taken to be 100 mm wide.
fn strokes(name: &str) -> Vec<Stroke> {
    let path = format!("{}/../../tests/reference/recorded/{name}.csv", env!("CARGO_MANIFEST_DIR"));
    let rows: Vec<Vec<f64>> =
        std::fs::read_to_string(path).expect("a recording").lines().skip(1).map(|l| l.split(',').map(|v| v.parse().expect("a number")).collect()).collect();
    let sample = |r: &Vec<f64>| Sample { t_ms: 1000.0 * r[3], x: r[1], y: r[2], ..Sample::default() };
    rows.chunk_by(|a, b| a[0] == b[0]).map(|s| Stroke::new(s.iter().map(sample).collect())).collect()
}

/// Distance along the spiral r = 1.075 θ.
fn arc(theta: f64) -> f64 {
    1.075 * 0.5 * (theta * theta.hypot(1.0) + theta.asinh())
}

/// How wide the spiral is there, mm: swells that no multiple of one another are.
fn width(s: f64) -> f64 {
    0.75 + 0.3 * (s / 3.1).sin() + 0.2 * (s / 7.3).cos()
}

/// The spiral that was to be traced, as a scan's line.
fn page() -> InkedPage {
    let thetas: Vec<f64> = (0..=25_132).map(|k| 0.001 * f64::from(k)).collect();
    let mut places = Vec::new();
    for t in thetas {
        let s = arc(t);
        if s >= 0.1 * places.len() as f64 {
            places.push(InkedPlace { x_mm: 50.0 + 1.075 * t * t.cos(), y_mm: 50.0 + 1.075 * t * t.sin(), width_mm: Some(width(s)) });
        }
    }
    InkedPage { size_mm: [100.0, 100.0], lines: vec![InkedLine { places, free: [true; 2] }], warnings: Vec::new() }
}

/// The pen: 0.2 mm without pressure, 1.6 at full.
fn law(raw: f64) -> f64 {
    0.2 + 1.4 * raw.powf(1.4)
}

/// The hand that drew the spiral, pressing as the line had been wide `lag_ms` before, by where dynamic time warping has it.
fn pressed(name: &str, lag_ms: f64) -> Stroke {
    let mut stroke = strokes(name).swap_remove(0);
    let known: Vec<[f64; 2]> = numbers(&reference(name)["arc"]).iter().enumerate().map(|(i, s)| [stroke.samples[50 * i].t_ms, *s]).collect();
    let at = |t: f64| {
        let i = known.partition_point(|k| k[0] <= t).clamp(1, known.len() - 1);
        let ([t0, a], [t1, b]) = (known[i - 1], known[i]);
        a + (b - a) * ((t - t0) / (t1 - t0)).clamp(0.0, 1.0)
    };
    for s in &mut stroke.samples {
        s.pressure = Some(((width(at(s.t_ms - lag_ms)) - 0.2) / 1.4).powf(1.0 / 1.4));
    }
    stroke
}

fn gone_over(page: &InkedPage, strokes: &[Stroke]) -> Result<PressurePairs, PairError> {
    pair(page, 600.0, &Drawn { strokes: strokes.iter().collect(), efforts: Vec::new(), scale_from_card: false, start: None }, Way::Over, None)
}

#[test]
fn people_that_trace_a_line_are_followed_along_it() {
    let page = page();
    for lag in [0.0, 90.0] {
        let strokes: Vec<Stroke> = SPIRALS.iter().map(|n| pressed(n, lag)).collect();
        let off = |pairs: &PressurePairs| {
            let told = Curve::new(&pairs.widths).expect("knots");
            (2..=8).map(|k| 0.1 * f64::from(k)).map(|raw| (told.value(raw) / law(raw) - 1.0).abs()).fold(0.0, f64::max)
        };
        // Each by itself, the hurried ones of the other hand too; and all on one page.
        for (name, stroke) in SPIRALS.iter().zip(&strokes) {
            let pairs = gone_over(&page, std::slice::from_ref(stroke)).expect("pairs");
            assert!(off(&pairs) < 0.04 && (pairs.lag_ms - lag).abs() < 8.0, "{name}, {lag} ms: {} ms, off by {}", pairs.lag_ms, off(&pairs));
        }
        let pairs = gone_over(&page, &strokes).expect("pairs");
        assert!(off(&pairs) < 0.01 && (pairs.lag_ms - lag).abs() < 4.0, "{lag} ms: {} ms, off by {}", pairs.lag_ms, off(&pairs));
        assert!(pairs.not_gone_over < 0.02 && pairs.unseen.expect("strokes left out").median < 0.03, "{:?}", pairs.unseen);
    }
}

#[test]
fn strokes_of_another_line_are_told() {
    for name in ["memory", "alphabet"] {
        let mut strokes = strokes(name);
        strokes.iter_mut().flat_map(|s| &mut s.samples).for_each(|s| s.pressure = Some(0.4 + 0.2 * (s.t_ms / 900.0).sin()));
        let said = gone_over(&page(), &strokes);
        assert!(matches!(said, Err(PairError::AnotherSheet { .. } | PairError::Turned { .. })), "{name}: {said:?}");
    }
}

/// Where a hand stands still nothing is reported, and nothing is missing; what is taken out of a hand that moves is.
#[test]
fn a_hand_that_stands_still_loses_no_reports() {
    let page = page();
    let level = |name: &str| {
        let mut stroke = strokes(name).swap_remove(0);
        stroke.samples.iter_mut().for_each(|s| s.pressure = Some(0.5));
        stroke
    };
    for name in SPIRALS {
        let stroke = level(name);
        let dropouts = gone_over(&page, std::slice::from_ref(&stroke)).expect("pairs").dropouts;
        // By intervals alone 156 would be of the fifth's 3,678.
        assert!(dropouts as usize * 400 <= stroke.samples.len(), "{name}: {dropouts} of {}", stroke.samples.len());
    }
    let mut hurried = level("spiral-d");
    let lost = hurried.samples.len() / 10;
    hurried.samples = hurried.samples.into_iter().enumerate().filter(|(i, _)| i % 10 != 5).map(|(_, s)| s).collect();
    let told = gone_over(&page, &[hurried]).expect("pairs").dropouts as usize;
    assert!(told * 10 >= lost * 9 && told <= lost + 4, "{told} of {lost}");
}

/// The 1€ filter's authors' package on the reports' own, uneven times.
#[test]
fn people_s_strokes_are_filtered_as_by_the_filters_authors_and_have_their_speed() {
    for name in SPIRALS {
        let stroke = strokes(name).swap_remove(0);
        let places: Vec<[f64; 2]> = stroke.samples.iter().map(|s| [s.x, s.y]).collect();
        let kind = SmoothingKind::Adaptive { min_cutoff_hz: 1.5, speed_coefficient: 0.05 };
        let filtered = live(&kind, &stroke, &places);
        for (i, x) in numbers(&reference(name)["filtered"]).into_iter().enumerate() {
            assert!((filtered[50 * i][0] - x).abs() < 2e-6, "{name}: {} and {x}", filtered[50 * i][0]);
        }
        // The hand's speed is what its places and times say.
        let mut motion = Motion::default();
        let speeds: Vec<f64> = stroke.samples.iter().map(|s| motion.push([s.x, s.y], s.t_ms, 1.0, true).speed).collect();
        for (i, v) in numbers(&reference(name)["speed"]).into_iter().enumerate() {
            assert!((speeds[50 * (i + 1)] - v).abs() < 1e-3, "{name}: {} and {v} mm/s", speeds[50 * (i + 1)]);
        }
        // Smoothed after the stroke no place moves further than was allowed.
        let faired = finished(&SmoothingKind::Faired { tolerance_mm: 0.15 }, &stroke, &places);
        assert!(faired.iter().zip(&places).all(|(a, b)| (a[0] - b[0]).hypot(a[1] - b[1]) <= 0.15 + 1e-9), "{name}");
    }
}

/// People's styluses turn as they leave: where pressure falls then, the guard cuts no more than its own time, and from a turn on; where pressure does
/// not fall, nothing.
#[test]
fn the_lift_guard_cuts_where_people_s_styluses_leave() {
    let guarded = |ms: f64| {
        let mut brush = Brush::plain("even", 0.4);
        brush.smoothing.lift_guard_ms = ms;
        Inker::new(&brush, None, None).expect("an inker")
    };
    let (with, without) = (guarded(60.0), guarded(0.0));
    let (mut all, mut cut) = (0, 0);
    for stroke in SPIRALS.iter().chain(&["memory", "alphabet"]).flat_map(|n| strokes(n)).filter(|s| s.samples.len() > 12) {
        let last = stroke.samples[stroke.samples.len() - 1].t_ms;
        let pressed = |falls: bool| {
            let at = |s: &Sample| Sample { pressure: Some(if falls { (0.6 - 0.5 * (1.0 - (last - s.t_ms) / 60.0)).clamp(0.1, 0.6) } else { 0.6 }), ..*s };
            Stroke::new(stroke.samples.iter().map(at).collect())
        };
        // What is cut stays where the ink ends.
        let places = |inker: &Inker, falls: bool| inker.ink(&pressed(falls)).samples.iter().map(|s| [s.x, s.y]).collect::<Vec<_>>();
        let (whole, left) = (places(&without, true), places(&with, true));
        assert_eq!(whole, places(&with, false));
        all += 1;
        if let Some(kept) = whole.iter().zip(&left).position(|(a, b)| a != b) {
            cut += 1;
            assert!(last - stroke.samples[kept].t_ms <= 60.0, "{} ms", last - stroke.samples[kept].t_ms);
            let way = |i: usize| {
                let (a, b) = (stroke.samples[i - 1], stroke.samples[i]);
                [b.x - a.x, b.y - a.y]
            };
            let before = (1..kept).rev().map(way).find(|d| d[0].hypot(d[1]) > 0.0).expect("a way before");
            assert!(way(kept) != before, "a turn");
        }
    }
    assert!(all > 20 && cut * 4 > all && cut < all, "{cut} of {all}");
}

/// The inked area of strokes with stutters, loops and reversals against shapely's, as an outline and as the curves that are exported.
#[test]
fn people_s_strokes_are_inked_as_wide_as_the_brush() {
    let text = json!({"format":"eddymist/brush","version":1,"name":"even","nib":{"shape":"round"},"weight":[[0.0,0.4],[1.0,0.4]]});
    let inker = Inker::new(&Brush::from_json(&text.to_string()).expect("a brush"), None, None).expect("an inker");
    for name in SPIRALS.iter().chain(&["memory", "alphabet"]) {
        let inked: Vec<_> = strokes(name).iter().filter(|s| s.lengths_mm().last().is_some_and(|l| *l > 0.0)).map(|s| inker.ink(s).outline(0.002)).collect();
        let (area, real) = (inked.iter().map(Outline::area_mm2).sum::<f64>(), reference(name)["area"].as_f64().expect("an area"));
        assert!((area / real - 1.0).abs() < 2e-3, "{name}: {area} and {real}");
        let curves = inked.iter().map(|o| fit_outline(o, 0.004).iter().map(|c| signed_area(&c.flattened(16))).sum::<f64>().abs()).sum::<f64>();
        assert!((curves / real - 1.0).abs() < 4e-3, "{name}: {curves} and {real}");
    }
}
