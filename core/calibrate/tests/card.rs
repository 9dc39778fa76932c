//! What a pen card is made of beside its widths: marked strokes, weights, edges and their intervals; and which words are said of a
//! smoothing.

use eddymist_calibrate::{
    PenCard,
    lanes::typical,
    pen_card::{CardEdge, LineEdge, interval_of_mean},
    smoothing::in_words,
};
use eddymist_ink::brush::SmoothingKind;
use eddymist_measure::scan::mark::{MarkKind, MarkedStroke};
use proptest::prelude::*;

fn card() -> PenCard {
    let text = r#"{"format":"eddymist/pen-card","version":1,"name":"p","resolution_dpi":600,"widths_by_effort":[
        {"effort":0.0,"width_mm":0.3,"sd_mm":0.01,"lines":6},{"effort":0.5,"width_mm":0.5,"sd_mm":0.02,"lines":6},{"effort":1.0,"width_mm":0.9,"sd_mm":0.03,"lines":6}]}"#;
    PenCard::from_json(text).expect("a card")
}

fn dot(mm: f64) -> MarkedStroke {
    MarkedStroke { kind: MarkKind::Dot, from: [0.0; 2], to: [0.0; 2], step_mm: 0.0, width_mm: Vec::new(), dot_mm: Some(mm) }
}

/// A flick whose width rises in a straight line from its tip to its full width over a length.
fn flick(kind: MarkKind, length: f64) -> MarkedStroke {
    let step_mm = 0.04;
    let width_mm = (0..400).map(|i| 0.8 * f64::min(1.0, step_mm * (f64::from(i) + 0.5) / length)).collect();
    MarkedStroke { kind, from: [0.0; 2], to: [400.0, 0.0], step_mm, width_mm, dot_mm: None }
}

#[test]
fn marked_strokes_become_parts_of_the_card() {
    let mut c = card();
    c.add_marks(&[flick(MarkKind::FlickOut, 5.0), flick(MarkKind::FlickOut, 5.4), flick(MarkKind::FlickIn, 2.0), dot(0.7), dot(0.8), dot(0.9)]);
    let (out, into) = (c.lead_out.clone().expect("a lead-out"), c.lead_in.clone().expect("a lead-in"));
    assert_eq!(out.each_90_mm.as_ref().map(Vec::len), Some(2));
    // Nine tenths of a straight rise lie at nine tenths of its length.
    assert!((out.at_90_mm - 0.9 * 5.2).abs() < 0.15 && out.flicks == 2 && out.sd_mm.is_some(), "{out:?}");
    assert!((into.at_90_mm - 1.8).abs() < 0.1 && into.flicks == 1 && into.sd_mm.is_none(), "{into:?}");
    assert!((out.shape - 1.0).abs() < 0.1 && (out.body_mm - 0.8).abs() < 0.01, "{out:?}");
    let p = c.pooling.clone().expect("pooling");
    assert!((p.dot_mm - 0.8).abs() < 1e-9 && (p.ratio - 1.6).abs() < 1e-9 && p.dots == Some(3) && p.held_s.is_none());
    assert!((p.sd_mm.expect("a spread") - 0.1).abs() < 1e-9);
    assert_eq!(p.each_mm, Some(vec![0.7, 0.8, 0.9]));
    // No marks change nothing; a dot without a line at normal effort says what it lacks.
    let before = c.clone();
    c.add_marks(&[]);
    assert_eq!(c, before);
    let mut bare = PenCard { widths_by_effort: None, ..card() };
    bare.add_marks(&[dot(0.7)]);
    assert!(bare.pooling.is_none() && bare.warnings.iter().any(|w| w.contains("no line at normal effort")));
    // It is written and read as it is.
    assert_eq!(PenCard::from_json(&serde_json::to_string(&c).expect("JSON")).expect("a card"), c);
}

#[test]
fn weights_on_a_kitchen_scale_become_newtons() {
    let mut c = card();
    c.weigh(&[[0.5, 100.0], [1.0, 250.0], [0.75, 10.0]]);
    let forces: Vec<Option<f64>> = c.widths_by_effort.iter().flatten().map(|w| w.force_n).collect();
    // 9.80665 m/s² (CGPM 1901).
    assert!(forces[0].is_none() && (forces[1].expect("N") - 0.980665).abs() < 1e-9 && (forces[2].expect("N") - 2.4516625).abs() < 1e-9);
    assert_eq!(c.figures().iter().filter(|f| f.figure == "force by effort" && f.unit == "N").count(), 2);
    c.weigh(&[]);
    assert!(c.widths_by_effort.iter().flatten().all(|w| w.force_n.is_none()));
}

#[test]
fn an_edge_is_as_sure_as_its_lines_are() {
    let line = |um: f64| LineEdge {
        raggedness_um: um,
        raggedness_interval_um: Some([um - 1.0, um + 1.5]),
        correlation_um: Some(150.0),
        wander_um: Some(30.0),
        blurriness_um: 60.0,
        blurriness_interval_um: Some([58.0, 62.0]),
        from_mm: 50.0,
    };
    assert!(CardEdge::from_lines(&[]).is_none());
    // One line has its own interval and no spread; several have that of their mean.
    let one = CardEdge::from_lines(&[line(6.0)]).expect("an edge");
    assert!(one.raggedness_interval_um == Some([5.0, 7.5]) && one.sd_um.is_none() && one.lines == Some(1) && one.from_mm == Some(50.0));
    let three = CardEdge::from_lines(&[line(5.0), line(6.0), line(7.0)]).expect("an edge");
    // Student's t for two degrees of freedom is 4.303 (handbook table): 4.303 · 1 / √3.
    let [low, high] = three.raggedness_interval_um.expect("an interval");
    assert!((high - low - 2.0 * 4.302_65 / 3f64.sqrt()).abs() < 1e-3 && (three.raggedness_um - 6.0).abs() < 1e-9, "{low} {high}");
    assert!(three.from_mm == Some(150.0) && (three.sd_um.expect("a spread") - 1.0).abs() < 1e-9);
    assert!(interval_of_mean(1.0, 1).is_none() && (interval_of_mean(2.0, 16).expect("an interval") - 2.131_45 * 0.5).abs() < 1e-3);
}

#[test]
fn every_smoothing_has_its_words() {
    for (kind, words) in [
        (SmoothingKind::None, "none"),
        (SmoothingKind::Adaptive { min_cutoff_hz: 2.5, speed_coefficient: 0.01 }, "adaptive: filter when slow 2.5 Hz"),
        (SmoothingKind::Average { span_ms: 40.0 }, "averaged over 40 ms"),
        (SmoothingKind::Tow { slack_mm: 0.25 }, "tow: follows at 0.25 mm"),
        (SmoothingKind::Faired { tolerance_mm: 0.1 }, "smoothed after the stroke, may deviate by 0.10 mm"),
    ] {
        assert_eq!(in_words(&kind), words);
    }
}

proptest! {
    #[test]
    fn the_typical_line_has_as_many_below_as_above(figures in prop::collection::vec(0.0f64..9.0, 1..12)) {
        let it = typical(figures.clone(), |f| *f).expect("one of them");
        let (below, above) = (figures.iter().filter(|f| **f < it).count(), figures.iter().filter(|f| **f > it).count());
        prop_assert!(figures.contains(&it) && below <= figures.len() / 2 && above <= figures.len() / 2);
    }
}

#[test]
fn of_no_lines_none_is_typical() {
    assert_eq!(typical(Vec::<f64>::new(), |f| *f), None);
}
