//! Ink against outside references, and what must hold for any stroke.

use std::f64::consts::FRAC_PI_2;

use eddymist_ink::{
    Brush, Curve, Inker, LiveStroke, Outline, Sample, Stroke,
    brush::{Nib, NibShape, StrokeKind, Taper},
    envelope::{NibPlacement, envelope},
    fitting::fit_outline,
    raster::rasterise,
    stroke::spherical_of_tilt,
};
use proptest::prelude::*;
use serde_json::Value;

fn numbers(v: &Value) -> Vec<f64> {
    v.as_array().expect("a list").iter().map(|x| x.as_f64().expect("a number")).collect()
}

fn golden(text: &str) -> Vec<Value> {
    serde_json::from_str(text).expect("golden values")
}

/// A closed line has no ends: a tapering brush leaves 2πr·w of ink round a circle (Pappus of Alexandria), a flat one 2πr·w in the mean of all
/// directions too; an open one tapers.
#[test]
fn a_closed_line_has_no_pinch_where_its_ends_meet() {
    let taper = Some(Taper { length_mm: 6.0, share: 0.4, tip_width_mm: 0.02, shape: 1.0, over_mm_s: 0.0 });
    let brush = Brush { lead_in: taper, lead_out: taper, ..Brush::plain("b", 1.0) };
    let inker = Inker::new(&brush, None, None).expect("inkable");
    let circle = |share: f64| {
        let at = |i: usize| std::f64::consts::TAU * share * i as f64 / 400.0;
        let sample = |i: usize| Sample { x: 10.0 * at(i).cos(), y: 10.0 * at(i).sin(), pressure: Some(0.5), ..Sample::default() };
        let mut samples: Vec<Sample> = (0..=400).map(sample).collect();
        if share == 1.0 {
            samples[400] = samples[0];
        }
        Stroke { samples, zoom: 1.0, timed: false }
    };
    let closed = inker.ink(&circle(1.0));
    let area = closed.outline(0.0005).area_mm2();
    let whole = std::f64::consts::TAU * 10.0;
    assert!((area / whole - 1.0).abs() < 2e-3, "{area} and {whole}");
    assert!(closed.samples.iter().all(|s| (s.nib_mm - 1.0).abs() < 1e-9));
    let open = inker.ink(&circle(0.98)).outline(0.0005).area_mm2();
    assert!(open < 0.98 * whole - 3.0, "{open}");
}

/// SciPy's PchipInterpolator; values by tests/reference/make.py.
#[test]
fn curves_are_scipys_pchip() {
    for case in golden(include_str!("../../../tests/reference/pchip.json")) {
        let knots: Vec<[f64; 2]> = case["knots"].as_array().expect("knots").iter().map(|k| [numbers(k)[0], numbers(k)[1]]).collect();
        let curve = Curve::new(&knots).expect("a curve");
        for p in case["at"].as_array().expect("places") {
            assert!((curve.value(numbers(p)[0]) - numbers(p)[1]).abs() < 1e-12);
        }
    }
}

/// Shapely's union of nib hulls: 0.1 % before curve fitting, 0.3 % after, with a mean offset under 0.5 µm (methods.md, 1).
#[test]
fn inked_areas_are_shapelys() {
    for case in golden(include_str!("../../../tests/reference/areas.json")) {
        let nibs: Vec<NibPlacement> =
            case["nibs"].as_array().expect("nibs").iter().map(numbers).map(|n| NibPlacement { x: n[0], y: n[1], a: n[2], b: n[3], angle: n[4] }).collect();
        let truth = case["area"].as_f64().expect("an area");
        let outline = envelope(&nibs, 0.0005);
        let fitted = Outline { paths: fit_outline(&outline, 0.002).iter().map(|p| p.flattened(24)).collect() };
        let rim: f64 = outline
            .paths
            .iter()
            .map(|p| {
                (0..p.len())
                    .map(|i| {
                        let (a, b) = (p[i], p[(i + 1) % p.len()]);
                        (a[0] - b[0]).hypot(a[1] - b[1])
                    })
                    .sum::<f64>()
            })
            .sum();
        let name = case["name"].as_str().expect("a name");
        assert!((outline.area_mm2() / truth - 1.0).abs() < 0.001, "{name}: {} of {truth}", outline.area_mm2());
        assert!((fitted.area_mm2() / truth - 1.0).abs() < 0.003, "{name} fitted: {} of {truth}", fitted.area_mm2());
        assert!((fitted.area_mm2() - outline.area_mm2()).abs() / rim < 0.0005, "{name}: mean offset");
    }
}

/// W3C Pointer Events Level 3's conversion. Worked values from its definition: azimuth there runs clockwise, here not.
#[test]
fn tilts_become_azimuth_and_elevation() {
    let near = |t: (f64, f64), azimuth: f64, elevation: f64| {
        let (a, e) = spherical_of_tilt(t.0, t.1);
        assert!((a - azimuth).abs() < 1e-6 && (e - elevation).abs() < 1e-6, "{t:?} gave {a}, {e}");
    };
    near((0.0, 0.0), 0.0, 90.0);
    near((45.0, 0.0), 0.0, 45.0);
    near((-45.0, 0.0), 180.0, 45.0);
    near((0.0, 30.0), 270.0, 60.0);
    near((0.0, -30.0), 90.0, 60.0);
    // Both tilts at 45°: the stylus' horizontal part is √2 of its height.
    near((45.0, 45.0), 315.0, (1.0 / 2f64.sqrt()).atan().to_degrees());
}

fn samples(n: usize, f: impl Fn(f64) -> (f64, f64, f64)) -> Vec<Sample> {
    (0..n)
        .map(|i| {
            let u = i as f64 / (n - 1) as f64;
            let (x, y, p) = f(u);
            Sample { t_ms: 1000.0 * u, x, y, pressure: Some(p), ..Sample::default() }
        })
        .collect()
}

/// An ellipse with semi-axes a, b turned by φ draws 2·√(a²·sin²(θ−φ) + b²·cos²(θ−φ)) along θ (methods.md, 1.4).
#[test]
fn an_elliptical_nib_follows_the_formula_in_every_direction() {
    let mut brush = Brush::plain("flat", 0.8);
    brush.nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.25), angle_deg: 35.0, ..Nib::round() };
    let inker = Inker::new(&brush, None, None).expect("inkable");
    for k in 0..36 {
        let page = f64::from(10 * k).to_radians();
        // The page's y runs down: counter-clockwise on it is −y.
        let stroke = Stroke::new(samples(40, |u| (20.0 * u * page.cos(), -20.0 * u * page.sin(), 0.5)));
        let inked = inker.ink(&stroke);
        let t = page - 35f64.to_radians();
        let formula = 2.0 * ((0.4 * t.sin()).powi(2) + (0.1 * t.cos()).powi(2)).sqrt();
        assert!((inked.samples[20].width_mm / formula - 1.0).abs() < 0.005);
        let band = (inked.outline(0.0005).area_mm2() - std::f64::consts::PI * 0.4 * 0.1) / 20.0;
        assert!((band / formula - 1.0).abs() < 0.005, "{k}: {band} and {formula}");
    }
}

#[test]
fn tapers_narrow_toward_their_tips_and_leave_ticks_alone() {
    let mut brush = Brush::plain("tapered", 1.0);
    brush.lead_out = Some(Taper { length_mm: 10.0, share: 0.25, tip_width_mm: 0.1, shape: 1.0, over_mm_s: 0.0 });
    let inker = Inker::new(&brush, None, None).expect("inkable");
    let long = inker.ink(&Stroke::new(samples(201, |u| (20.0 * u, 0.0, 0.5)))).samples;
    // A quarter of 20 mm is 5: half way into it the width is 0.1 + 0.9/2.
    assert!((long[175].width_mm - 0.55).abs() < 1e-9 && (long[150].width_mm - 1.0).abs() < 1e-9 && (long[200].width_mm - 0.1).abs() < 1e-9);
    let tick = inker.ink(&Stroke::new(samples(20, |u| (1.9 * u, 0.0, 0.5)))).samples;
    assert!(tick.iter().all(|s| (s.width_mm - 1.0).abs() < 1e-9));
}

#[test]
fn every_lay_is_kept_as_it_came() {
    let mut brush = Brush::plain("hairs", 0.5);
    brush.stroke = StrokeKind::DryBrush { hairs: 30, spread: 0.5, snap: 0.5, ink_held: 1.0 };
    let text = serde_json::to_string(&brush).expect("JSON");
    let back = Brush::from_json(&text).expect("it loads");
    assert_eq!(back, brush);
    let least = r#"{"format":"eddymist/brush","version":1,"name":"plain 0.5","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]]}"#;
    assert!(Brush::from_json(least).is_ok());
    for (wrong, says) in [
        (least.replace("\"version\":1", "\"version\":2"), "version 2"),
        (least.replace("/brush", "/guide"), "eddymist/guide"),
        (least.replace("0.5]]", "0.5]],\"hue\":1"), "hue"),
        (least.replace("[1.0,0.5]", "[1.0,0.2]"), "fall"),
    ] {
        assert!(Brush::from_json(&wrong).expect_err("refused").to_string().contains(says), "{wrong}");
    }
}

prop_compose! {
    fn any_stroke()(n in 1usize..60, seed in prop::collection::vec((-30.0f64..30.0, -30.0f64..30.0, 0.0f64..=1.0), 60)) -> Stroke {
        Stroke::new(seed.iter().take(n).enumerate().map(|(i, s)| Sample { t_ms: 7.0 * i as f64, x: s.0, y: s.1, pressure: Some(s.2), ..Sample::default() }).collect())
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn rising_knots_make_a_rising_curve(steps in prop::collection::vec((0.01f64..1.0, 0.0f64..1.0), 2..9)) {
        let mut at = [0.0, 0.0];
        let knots: Vec<[f64; 2]> = steps.iter().map(|s| { at = [at[0] + s.0, at[1] + s.1]; at }).collect();
        let curve = Curve::new(&knots).expect("a curve");
        let values: Vec<f64> = (0..=200).map(|i| curve.value(knots[0][0] + (at[0] - knots[0][0]) * f64::from(i) / 200.0)).collect();
        prop_assert!(values.windows(2).all(|w| w[1] >= w[0] - 1e-12));
        prop_assert!(values.iter().all(|v| *v >= knots[0][1] - 1e-12 && *v <= at[1] + 1e-12));
    }

    #[test]
    fn the_outline_covers_each_nib_and_its_raster_has_its_area(stroke in any_stroke()) {
        let mut brush = Brush::plain("any", 0.6);
        brush.weight = vec![[0.0, 0.2], [1.0, 3.0]];
        let inked = Inker::new(&brush, None, None).expect("inkable").ink(&stroke);
        let outline = inked.outline(0.001);
        let largest = inked.samples.iter().map(|s| s.nib_mm).fold(0.0, f64::max);
        prop_assert!(outline.area_mm2() >= 0.25 * std::f64::consts::PI * largest * largest * 0.999);
        let cover = rasterise(&outline, 8.0, [-34.0, -34.0], 544, 544);
        let sum: f64 = cover.data.iter().map(|c| f64::from(*c)).sum::<f64>() / 64.0;
        prop_assert!((sum - outline.area_mm2()).abs() < 2e-3 * outline.area_mm2() + 1e-3, "{} and {}", sum, outline.area_mm2());
    }

    #[test]
    fn live_ink_covers_what_finished_ink_does(stroke in any_stroke()) {
        let mut brush = Brush::plain("live", 0.6);
        brush.weight = vec![[0.0, 0.2], [1.0, 2.0]];
        let inker = Inker::new(&brush, None, None).expect("inkable");
        let mut live = LiveStroke::new(inker.clone(), 1.0, 0.001);
        let pieces: Vec<_> = stroke.samples.iter().flat_map(|s| live.push(*s)).collect();
        let whole = inker.ink(&stroke).outline(0.001).area_mm2();
        let together = Outline::united(pieces).area_mm2();
        prop_assert!((together / whole - 1.0).abs() < 2e-3, "{} and {}", together, whole);
    }
}

#[test]
fn nothing_turns_on_the_quarter_circle() {
    // A quarter turn of stroke and nib together turns the ink and keeps its area.
    let nibs = |turn: f64| -> Vec<NibPlacement> {
        (0..50)
            .map(|i| {
                let u = f64::from(i) / 49.0;
                let (x, y) = (10.0 * u, 3.0 * (4.0 * u).sin());
                let (s, c) = turn.sin_cos();
                NibPlacement { x: c * x - s * y, y: s * x + c * y, a: 0.6, b: 0.2, angle: 0.4 + turn }
            })
            .collect()
    };
    assert!((envelope(&nibs(0.0), 0.0005).area_mm2() / envelope(&nibs(FRAC_PI_2), 0.0005).area_mm2() - 1.0).abs() < 1e-6);
}

/// However long a smooth stroke is, its curves stay within the tolerance of its outline: a spiral of so many samples.
#[test]
fn a_long_smooth_strokes_curves_stay_with_its_outline() {
    for n in [300usize, 6000, 20_000] {
        let turns = n as f64 / 150.0;
        let at = |i: usize| {
            let u = i as f64 / (n - 1) as f64;
            let (a, r) = (std::f64::consts::TAU * turns * u, 2.0 + 1.5 * turns * u);
            Sample { t_ms: 5.0 * i as f64, x: r * a.cos(), y: r * a.sin(), pressure: Some(0.5), ..Sample::default() }
        };
        let ink = Inker::new(&Brush::plain("b", 0.5), None, None).expect("inkable").ink(&Stroke::new((0..n).map(at).collect()));
        let outline = ink.outline(0.0005);
        let fitted = fit_outline(&outline, 0.002);
        let flat: Vec<Vec<[f64; 2]>> = fitted.iter().map(|c| c.flattened(12)).collect();
        let area = |rings: &[Vec<[f64; 2]>]| rings.iter().map(|r| eddymist_ink::outline::signed_area(r)).sum::<f64>().abs();
        let (before, after) = (area(&outline.paths), area(&flat));
        assert!((after / before - 1.0).abs() < 1e-3, "{n}: {after} of {before} mm²");
        // Each flattened point's distance to the outline, looked for in cells of a millimetre.
        let mut cells: std::collections::HashMap<(i64, i64), Vec<[[f64; 2]; 2]>> = std::collections::HashMap::new();
        for ring in &outline.paths {
            for (k, p) in ring.iter().enumerate() {
                let q = ring[(k + 1) % ring.len()];
                for x in (p[0].min(q[0]) - 0.1).floor() as i64..=(p[0].max(q[0]) + 0.1).floor() as i64 {
                    for y in (p[1].min(q[1]) - 0.1).floor() as i64..=(p[1].max(q[1]) + 0.1).floor() as i64 {
                        cells.entry((x, y)).or_default().push([*p, q]);
                    }
                }
            }
        }
        let to = |c: [f64; 2], [p, q]: [[f64; 2]; 2]| {
            let (dx, dy) = (q[0] - p[0], q[1] - p[1]);
            let t = (((c[0] - p[0]) * dx + (c[1] - p[1]) * dy) / (dx * dx + dy * dy).max(1e-18)).clamp(0.0, 1.0);
            (c[0] - p[0] - t * dx).hypot(c[1] - p[1] - t * dy)
        };
        let worst = flat.iter().flatten().map(|c| {
            let near = cells.get(&(c[0].floor() as i64, c[1].floor() as i64));
            near.into_iter().flatten().map(|e| to(*c, *e)).fold(f64::INFINITY, f64::min)
        });
        let worst = worst.fold(0.0, f64::max);
        assert!(worst < 0.0025, "{n}: {worst} mm off");
    }
}
