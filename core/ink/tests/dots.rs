//! Dots of flat nibs: one report, and a pen that is held, before and after curves are fitted. An ellipse's area is π/4 · length · breadth; a
//! polygon's is its own (elementary geometry, from memory). The bounds are those of methods.md, section 1: 0.1 % before, 0.3 % after.

use std::f64::consts::PI;

use eddymist_ink::{
    Brush, Inker, Sample, Stroke,
    brush::{Edge, Nib, NibShape},
};
use kurbo::{BezPath, Shape};
use proptest::prelude::*;

fn sample(t_ms: f64, x: f64, y: f64) -> Sample {
    Sample { t_ms, x, y, pressure: Some(1.0), azimuth_deg: None, elevation_deg: None }
}

fn inker(nib: Nib, width_mm: f64, raggedness_um: f64) -> Inker {
    let edge = Edge { raggedness_um, correlation_um: 150.0, ..Edge::default() };
    Inker::new(&Brush { nib, edge, ..Brush::plain("flat", width_mm) }, None, None).expect("a brush")
}

/// Area of a fine outline, of the one that is fitted, and fitted.
fn areas(inker: &Inker, s: &Stroke) -> [f64; 3] {
    let inked = inker.ink(s);
    let fitted = inked.inked(0.0005).svg_paths(0.002).iter().map(|(d, _)| BezPath::from_svg(d).expect("a path").area().abs()).sum();
    [inked.outline(0.0001).area_mm2(), inked.outline(0.0005).area_mm2(), fitted]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(120))]

    #[test]
    fn a_dot_of_a_flat_nib_is_the_nib(length in 0.3f64..3.0, breadth in 0.15f64..1.0, angle_deg in 0.0f64..180.0, held in 1usize..60) {
        let nib = Nib { shape: NibShape::Ellipse, breadth: Some(breadth), angle_deg, ..Nib::round() };
        // Held to within a thousandth of a millimetre, as a tablet reports it.
        let s = Stroke::new((0..held).map(|k| sample(5.0 * k as f64, 5.0 + 0.001 * (k % 2) as f64, 5.0)).collect());
        let want = 0.25 * PI * length * length * breadth;
        // What the hand moves the nib by is ink too.
        let moved = if held > 1 { 0.001 * length } else { 0.0 };
        let [fine, before, after] = areas(&inker(nib.clone(), length, 0.0), &s);
        prop_assert!((fine - want).abs() < 0.001 * want + moved, "{fine} of {want}");
        prop_assert!((after / before - 1.0).abs() < 0.003, "{after} of {before} when fitted");
    }

    #[test]
    fn a_dot_of_a_cornered_nib_is_the_nib(length in 0.2f64..3.0, corners in 3usize..9, flat in 0.1f64..1.0, angle_deg in 0.0f64..180.0) {
        let points: Vec<[f64; 2]> = (0..corners).map(|k| 2.0 * PI * k as f64 / corners as f64).map(|a| [0.5 * a.cos(), 0.5 * flat * a.sin()]).collect();
        let want = 0.5 * corners as f64 * (2.0 * PI / corners as f64).sin() * 0.25 * flat * length * length;
        let nib = Nib { shape: NibShape::Polygon, points: Some(points), angle_deg, ..Nib::round() };
        let [before, _, after] = areas(&inker(nib, length, 0.0), &Stroke::new(vec![sample(0.0, 5.0, 5.0)]));
        prop_assert!((before / want - 1.0).abs() < 0.001, "{before} of {want}");
        prop_assert!((after / want - 1.0).abs() < 0.003, "{after} of {want} when fitted");
    }
}

/// A ragged edge goes as far out as in: over many seeds' worth of directions a dot is no larger than the nib.
#[test]
fn ragged_dots_have_the_nibs_area_in_the_mean() {
    let want = 0.25 * PI * 4.0 * 0.3;
    let off: Vec<f64> = (0..36)
        .map(|k| {
            let nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.3), angle_deg: 5.0 * f64::from(k), ..Nib::round() };
            let s = Stroke::new((0..8).map(|i| sample(5.0 * f64::from(i), 5.0 + 1.7 * f64::from(k), 5.0)).collect());
            areas(&inker(nib, 2.0, 8.0), &s)[0] / want - 1.0
        })
        .collect();
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    assert!(mean.abs() < 0.003, "{mean}: {off:?}");
}
