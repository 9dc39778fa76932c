//! Blind proof, recipe and the lanes of what is no ruled line, against SciPy and against formulas.

use eddymist_calibrate::{
    PenCard,
    blind::{BlindResult, of_brush, of_pen, wilson},
    exercises::{Shown, shown},
    lanes::{Along, PenLine},
    pen_card::{CardNib, Note, WidthAtEffort},
    recipe::{RecipeError, recipe},
};
use eddymist_ink::{
    Brush, Curve, Inker, Sample, Stroke,
    brush::{Nib, NibShape},
};
use proptest::prelude::*;
use serde_json::Value;

fn golden(name: &str) -> Value {
    let path = format!("{}/../../tests/reference/{name}", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&std::fs::read_to_string(&path).expect("a golden file")).expect("JSON")
}

#[test]
fn the_wilson_interval_is_scipys() {
    for case in golden("wilson.json").as_array().expect("cases") {
        let n = |k: &str| case[k].as_f64().expect("a number");
        let [low, high] = wilson(n("right") as u32, n("of") as u32);
        assert!((low - n("low")).abs() < 1e-9 && (high - n("high")).abs() < 1e-9, "{case}: {low} {high}");
    }
    assert_eq!(wilson(0, 0), [0.0, 1.0]);
    assert!(BlindResult::new(10, 20).says.contains("told apart at most 70 %"), "{}", BlindResult::new(10, 20).says);
    assert!(BlindResult::new(19, 20).says.starts_with("told apart at least 76 %"), "{}", BlindResult::new(19, 20).says);
    assert!(BlindResult::new(1, 20).says.contains("each taken for the other"));
}

fn card(name: &str, widths: &[[f64; 2]], nib: Option<CardNib>) -> PenCard {
    let text = format!(r#"{{"format":"eddymist/pen-card","version":1,"name":"{name}","resolution_dpi":600.0,"note":{{}},"warnings":[]}}"#);
    let mut card = PenCard::from_json(&text).expect("a card");
    card.widths_by_effort =
        Some(widths.iter().map(|w| WidthAtEffort { effort: w[0], width_mm: w[1], sd_mm: None, lines: 6, each_mm: None, force_n: None }).collect());
    card.nib = nib;
    card.note = Note::default();
    card
}

const EFFORTS: [f64; 5] = [0.0, 0.25, 0.5, 0.75, 1.0];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Typed in, the correction makes the other brush draw the pen's width at every pressure, to what the recipe says is left.
    #[test]
    fn a_recipe_makes_the_other_brush_draw_like_the_pen(bow in 0.5f64..2.0, there_bow in 0.5f64..2.0, low in 0.1f64..0.4, rise in 0.4f64..2.0, curved in 0.6f64..1.6) {
        let pen: Vec<[f64; 2]> = EFFORTS.iter().map(|e| [*e, low + rise * e.powf(bow)]).collect();
        // The other brush starts thinner and comes as wide: everything the pen does is within its reach.
        let there: Vec<[f64; 2]> = EFFORTS.iter().map(|e| [*e, 0.5 * low + (rise + 0.5 * low) * e.powf(there_bow)]).collect();
        let response = Curve::new(&[[0.05, 0.0], [0.3, 0.25f64.powf(curved)], [0.55, 0.5f64.powf(curved)], [0.9, 1.0]]).expect("a response");
        let r = recipe(&card("pen", &pen, None), Some(&card("other", &there, None)), Some(&response)).expect("a recipe");
        prop_assert_eq!(r.correction.len(), 4);
        prop_assert!(r.correction.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] >= w[0][1]));
        let (pen, there) = (Curve::new(&pen).expect("a curve"), Curve::new(&there).expect("a curve"));
        for k in 0..=40 {
            let p = 0.05 + 0.85 * f64::from(k) / 40.0;
            let i = r.correction.partition_point(|c| c[0] < p).clamp(1, 3);
            let (a, b) = (r.correction[i - 1], r.correction[i]);
            let corrected = a[1] + (b[1] - a[1]) * ((p - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0);
            let drawn = r.size_factor * there.value(response.value(corrected).clamp(0.0, 1.0));
            prop_assert!((drawn - pen.value(response.value(p).clamp(0.0, 1.0))).abs() <= 1.2 * r.left_mm + 0.004, "{p}: {drawn}, {} left", r.left_mm);
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Before any sheet was inked: a brush whose width is its size times the pressure draws the pen's width with what is typed in, and
    /// each width is as sure as the mean of so many lines is (Student's t; NIST/SEMATECH e-Handbook, 1.3.6.7.2: 2.571 at five degrees).
    #[test]
    fn a_recipe_serves_before_a_sheet_was_inked(bow in 0.5f64..2.0, low in 0.1f64..0.4, rise in 0.4f64..2.0, sd in 0.005f64..0.05) {
        let pen: Vec<[f64; 2]> = EFFORTS.iter().map(|e| [*e, low + rise * e.powf(bow)]).collect();
        let mut of_pen = card("pen", &pen, None);
        of_pen.widths_by_effort.iter_mut().flatten().for_each(|w| w.sd_mm = Some(sd));
        let r = recipe(&of_pen, None, None).expect("a recipe");
        prop_assert!(r.assumed && r.says.iter().any(|s| s.starts_with("Nothing was inked with that brush yet")));
        prop_assert!((r.size_mm - (low + rise)).abs() < 1e-9 && (r.size_factor - 1.0).abs() < 1e-9);
        for ((p, width), sure) in r.correction.iter().zip(&r.widths_mm).zip(&r.sure_mm) {
            prop_assert!((r.size_mm * p[1] - width).abs() < 1e-6, "{p:?}: {} and {width}", r.size_mm * p[1]);
            let half = 2.571 * sd / 6f64.sqrt();
            prop_assert!((sure.expect("six lines") - half).abs() < 1e-3 * half, "{sure:?} and {half}");
        }
        // One line alone says nothing of how sure it is.
        of_pen.widths_by_effort.iter_mut().flatten().for_each(|w| w.lines = 1);
        prop_assert!(recipe(&of_pen, None, None).expect("a recipe").sure_mm.iter().all(Option::is_none));
    }
}

#[test]
fn a_recipe_says_what_the_other_brush_cannot() {
    let pen = card("pen", &[[0.0, 0.1], [1.0, 2.0]], Some(CardNib::Ellipse { length_mm: 2.0, breadth_mm: 0.5, angle_deg: 30.0, residual_mm: 0.0, rays: None }));
    let r = recipe(&pen, Some(&card("other", &[[0.0, 0.3], [1.0, 1.0]], None)), None).expect("a recipe");
    assert!((r.size_factor - 2.0).abs() < 1e-9 && (r.least_size - 0.05).abs() < 1e-9 && (r.roundness - 0.25).abs() < 1e-9 && r.angle_deg == 30.0);
    assert!(r.says.iter().any(|s| s.contains("2.00 times")) && r.says.iter().any(|s| s.contains("least size be 5 %")), "{:?}", r.says);
    // A change with the effort counts from a fiftieth of the width on, whatever the width is.
    for width in [0.2, 0.5, 4.0] {
        for (change, flat) in [(0.0, true), (0.019, true), (0.021, false), (0.5, false)] {
            let other = card("other", &[[0.0, width * (1.0 - change)], [1.0, width]], None);
            assert_eq!(recipe(&pen, Some(&other), None) == Err(RecipeError::Flat), flat, "{change} of {width} mm");
        }
    }
    assert!(matches!(recipe(&pen, Some(&card("one", &[[0.5, 0.5]], None)), None), Err(RecipeError::TooFew(_))));
}

#[test]
fn the_fan_lane_follows_the_ellipse() {
    let nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.3), angle_deg: 40.0, ..Nib::round() };
    let inker = Inker::new(&Brush { nib, ..Brush::plain("flat", 1.0) }, None, None).expect("inkable");
    let lane = shown(Shown::Fan, None, None, &inker).expect("a lane");
    assert_eq!((lane.along, lane.pen.len()), (Along::Degrees, 0));
    let n = lane.brush.len() / 2;
    for p in &lane.brush[..n] {
        // 2·√(a²·sin²(θ − φ) + b²·cos²(θ − φ)), both angles counter-clockwise.
        let t = (p[0] - 40.0f64).to_radians();
        let formula = (t.sin()).hypot(0.3 * t.cos());
        assert!((-2.0 * p[1] / formula - 1.0).abs() < 0.005, "{}: {} and {formula}", p[0], -2.0 * p[1]);
    }
}

#[test]
fn blind_lines_are_of_one_length_and_between_their_own_edges() {
    let line = PenLine {
        effort: None,
        from: [0.0; 2],
        to: [1.0, 0.0],
        step_mm: 0.1,
        left_mm: vec![-0.2; 500],
        right_mm: vec![0.3; 500],
        bow_mm: (0..500).map(|k| 0.002 * f64::from(k)).collect(),
        width_mm: vec![0.5; 500],
        autocorrelation: Vec::new(),
        strip_png: String::new(),
        strip_mm: [50.0, 1.0],
    };
    let area = |paths: &[Vec<[f64; 2]>]| paths.iter().map(|p| eddymist_ink::outline::signed_area(p)).sum::<f64>().abs();
    let pen = of_pen(&line, 40.0).expect("long enough");
    assert!((area(&pen.paths) - 20.0).abs() < 1e-6);
    // The hand's bow is in it: 0.8 mm over 40 mm.
    let [top, low] = pen.paths[0].iter().fold([f64::MAX, f64::MIN], |r, p| [r[0].min(p[1]), r[1].max(p[1])]);
    assert!((low - top - 0.5 - 0.002 * 399.0).abs() < 1e-9);
    assert!(of_pen(&line, 60.0).is_none());
    // A slanted stroke is laid level and cut from its middle.
    let stroke = Stroke::new(
        (0..200).map(|k| Sample { t_ms: 5.0 * f64::from(k), x: 0.3 * f64::from(k), y: 0.1 * f64::from(k), pressure: Some(0.5), ..Sample::default() }).collect(),
    );
    let inker = Inker::new(&Brush::plain("plain", 0.5), None, None).expect("inkable");
    let flat = of_brush(&stroke, &inker, 40.0).expect("long enough");
    assert!((area(&flat.paths) - 20.0).abs() < 0.01);
    assert!(flat.paths.iter().flatten().all(|p| (-1e-9..=40.0 + 1e-9).contains(&p[0]) && p[1].abs() < 0.2501));
    assert!(of_brush(&stroke, &inker, 90.0).is_none());
}
