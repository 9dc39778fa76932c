//! The inked line: efforts, courses, smoothing, tapers and nibs against their formulas, the fit and the raster against
//! their limits and another library.

use std::f64::consts::PI;

use eddymist_ink::{
    Brush, Course, Curve, Inker, LiveStroke, Outline, Sample, Stroke,
    brush::{AngleFrom, Driver, Edge, Nib, NibShape, SmoothingKind, Taper},
    fitting::fit_outline,
    inking::taper_factor,
    outline::signed_area,
    raster::rasterise,
    smoothing::OneEuro,
    stroke::spherical_of_tilt,
};
use proptest::prelude::*;
use serde_json::Value;

fn line(n: usize, length_mm: f64, pressure: impl Fn(f64) -> Option<f64>) -> Stroke {
    let at = |i: usize| i as f64 / (n - 1) as f64;
    Stroke::new((0..n).map(|i| Sample { t_ms: 8.0 * i as f64, x: length_mm * at(i), y: 3.0, pressure: pressure(at(i)), ..Sample::default() }).collect())
}

fn rising() -> Brush {
    Brush { weight: vec![[0.0, 0.2], [1.0, 1.2]], ..Brush::plain("rising", 0.5) }
}

fn inker(brush: &Brush) -> Inker {
    Inker::new(brush, None, None).expect("inkable")
}

#[test]
fn effort_goes_through_the_response_and_the_course_stands_in() {
    let response = Curve::new(&[[0.1, 0.0], [0.4, 0.5], [0.8, 1.0]]).expect("a response");
    let with = |response: Option<&Curve>, course: Option<&str>| {
        Inker::new(&rising(), response.cloned(), course.map(|c| Course::parse(c).expect("a course"))).expect("inkable")
    };
    let efforts = |inker: &Inker, s: &Stroke| -> Vec<f64> { inker.ink(s).samples.iter().map(|s| s.effort).collect() };
    let pressed = line(5, 20.0, Some);
    // Without a profile raw pressure is effort; with one, the response's knots come out exactly, clamped outside.
    assert_eq!(efforts(&with(None, None), &pressed), [0.0, 0.25, 0.5, 0.75, 1.0]);
    let through = efforts(&with(Some(&response), None), &line(3, 20.0, |u| Some([0.05, 0.4, 0.9][(2.0 * u) as usize])));
    assert_eq!(through, [0.0, 0.5, 1.0]);
    // A mouse has effort 0.5; a course overrules stylus and mouse alike.
    assert!(efforts(&with(Some(&response), None), &line(4, 20.0, |_| None)).iter().all(|e| *e == 0.5));
    for (course, at) in
        [("even", [0.5, 0.5, 0.5]), ("rise", [0.0, 0.5, 1.0]), ("fall", [1.0, 0.5, 0.0]), ("swell", [0.0, 1.0, 0.0]), ("[[0,0.2],[1,0.6]]", [0.2, 0.4, 0.6])]
    {
        for pressure in [None, Some(0.9)] {
            let got = efforts(&with(Some(&response), Some(course)), &line(3, 20.0, |_| pressure));
            assert!(got.iter().zip(at).all(|(g, a)| (g - a).abs() < 1e-12), "{course}: {got:?}");
        }
    }
}

#[test]
fn a_course_that_is_none_says_what_one_is() {
    for (text, says) in [
        ("up", "rise, swell, fall, even"),
        ("", "rise, swell, fall, even"),
        ("[[0,0.5],[0,0.6]]", "right of"),
        ("[[0,2]]", "between 0 and 1"),
        ("[[-0.1,0.5]]", "between 0 and 1"),
        ("[]", "at least one"),
    ] {
        assert!(Course::parse(text).expect_err(text).to_string().contains(says), "{text}");
    }
}

/// The filter's authors' own package OneEuroFilter; values by tests/reference/make.py.
#[test]
fn the_adaptive_filter_is_its_authors() {
    let cases: Vec<Value> = serde_json::from_str(include_str!("../../../tests/reference/one_euro.json")).expect("golden values");
    for case in cases {
        let number = |k: &str| case[k].as_f64().expect("a number");
        let mut filter = OneEuro::new(number("min_cutoff_hz"), number("speed_coefficient"));
        let mut last = None;
        for s in case["samples"].as_array().expect("samples") {
            let (t, x, y) = (s[0].as_f64().expect("t"), s[1].as_f64().expect("x"), s[2].as_f64().expect("y"));
            let dt = last.map_or(0.0, |l| t - l);
            last = Some(t);
            assert!((filter.push(x, dt, 1.0) - y).abs() < 1e-9);
        }
    }
}

#[test]
fn smoothing_takes_wobble_away_and_needs_real_times() {
    let mut brush = rising();
    brush.smoothing.position = SmoothingKind::Adaptive { min_cutoff_hz: 1.5, speed_coefficient: 0.02 };
    let shaken = Stroke::new(
        (0..200).map(|i| Sample { t_ms: 5.0 * i as f64, x: 0.2 * i as f64, y: if i % 2 == 0 { 0.1 } else { -0.1 }, ..Sample::default() }).collect(),
    );
    let wobble = |s: &Stroke| {
        let inked = inker(&brush).ink(s).samples;
        (inked[100..].iter().map(|s| s.y * s.y).sum::<f64>() / 100.0).sqrt()
    };
    assert!(wobble(&shaken) < 0.02);
    // A bare path has no times: it is left as it is. So is a stroke whose clock stands still.
    assert!((wobble(&Stroke { timed: false, ..shaken.clone() }) - 0.1).abs() < 1e-12);
    let frozen = Stroke::new(shaken.samples.iter().map(|s| Sample { t_ms: 0.0, ..*s }).collect());
    assert!(inker(&brush).ink(&frozen).samples.iter().all(|s| s.x.is_finite() && s.y.is_finite()));
    // Speed is of the hand: at twice the zoom the page moves half as much for the same hand, and smooths alike.
    let zoomed = Stroke { zoom: 2.0, ..Stroke::new(shaken.samples.iter().map(|s| Sample { x: 0.5 * s.x, y: 0.5 * s.y, ..*s }).collect()) };
    assert!((2.0 * wobble(&zoomed) - wobble(&shaken)).abs() < 1e-9);
}

#[test]
fn tapers_follow_their_law_and_multiply() {
    let t = Taper { length_mm: 8.0, share: 0.5, tip_width_mm: 0.2, shape: 0.8, over_mm_s: 0.0 };
    // t + (1 − t)·(d/L)^shape with t = 0.2 / 1.0 and L = min(8, 0.5 · total).
    for (d, total, length) in [(0.0f64, 40.0, 8.0f64), (2.0, 40.0, 8.0), (7.9, 40.0, 8.0), (2.0, 10.0, 5.0)] {
        let law = 0.2 + 0.8 * (d / length).powf(0.8);
        assert!((taper_factor(&t, 1.0, d, total) - law).abs() < 1e-12, "{d} of {total}");
    }
    assert_eq!(taper_factor(&t, 1.0, 8.0, 40.0), 1.0);
    // A tip wider than the line leaves the line alone; no length and no share are no taper.
    assert_eq!(taper_factor(&t, 0.15, 0.0, 40.0), 1.0);
    assert_eq!(taper_factor(&Taper { length_mm: 0.0, ..t }, 1.0, 0.0, 40.0), 1.0);
    assert_eq!(taper_factor(&Taper { share: 0.0, ..t }, 1.0, 0.0, 40.0), 1.0);
    // Both on one short stroke: each at its own distance, multiplied, and under the floor where they say so.
    let brush = Brush { lead_in: Some(t), lead_out: Some(Taper { shape: 1.0, ..t }), floor_mm: 0.5, ..Brush::plain("both", 1.0) };
    let inked = inker(&brush).ink(&line(101, 10.0, |_| Some(0.5))).samples;
    for (i, s) in inked.iter().enumerate() {
        let d = 0.1 * i as f64;
        let (a, b): (f64, f64) =
            (if d < 5.0 { 0.2 + 0.8 * (d / 5.0).powf(0.8) } else { 1.0 }, if 10.0 - d < 5.0 { 0.2 + 0.8 * ((10.0 - d) / 5.0) } else { 1.0 });
        assert!((s.width_mm - a * b).abs() < 1e-9, "at {d}: {} and {}", s.width_mm, a * b);
    }
    assert!(inked[0].width_mm < 0.5);
}

#[test]
fn floor_and_driver_decide_the_weight() {
    let floored = Brush { floor_mm: 0.6, ..rising() };
    assert_eq!(inker(&floored).weight_mm(0.0, None), 0.6);
    assert!((inker(&floored).weight_mm(1.0, None) - 1.2).abs() < 1e-12);
    for driver in [Driver::None, Driver::Speed] {
        let steady = Brush { driver: Some(driver), ..rising() };
        assert!([0.0, 0.3, 1.0].iter().all(|e| (inker(&steady).weight_mm(*e, None) - 0.7).abs() < 1e-12), "{driver:?}");
    }
}

#[test]
fn a_nib_turns_with_the_page_the_stylus_or_the_way() {
    let flat = |from: AngleFrom, angle: f64| Brush {
        nib: Nib { shape: NibShape::Ellipse, breadth: Some(0.25), angle_deg: angle, angle_from: from, ..Nib::round() },
        ..Brush::plain("flat", 1.0)
    };
    let along = |page_deg: f64, azimuth: Option<f64>| {
        let a = page_deg.to_radians();
        Stroke::new(
            (0..30)
                .map(|i| Sample { t_ms: 5.0 * i as f64, x: i as f64 * a.cos(), y: -(i as f64) * a.sin(), azimuth_deg: azimuth, ..Sample::default() })
                .collect(),
        )
    };
    let width = |b: &Brush, s: &Stroke| inker(b).ink(s).samples[15].width_mm;
    // Fixed to the page: full length across a line at a right angle to it, the breadth along it.
    assert!((width(&flat(AngleFrom::Page, 40.0), &along(130.0, None)) - 1.0).abs() < 1e-9);
    assert!((width(&flat(AngleFrom::Page, 40.0), &along(40.0, None)) - 0.25).abs() < 1e-9);
    // With the stylus' azimuth; without one it lies at its own angle.
    assert!((width(&flat(AngleFrom::Stylus, 10.0), &along(60.0, Some(50.0))) - 0.25).abs() < 1e-9);
    assert!((width(&flat(AngleFrom::Stylus, 60.0), &along(60.0, None)) - 0.25).abs() < 1e-9);
    // With the direction of travel the width is the same whichever way it goes.
    for way in [0.0, 33.0, 90.0, 200.0, 359.0] {
        assert!((width(&flat(AngleFrom::Travel, 90.0), &along(way, None)) - 1.0).abs() < 1e-9, "{way}");
    }
}

#[test]
fn single_dots_and_still_pens_leave_a_dot() {
    for n in [1, 2, 9] {
        let still = Stroke::new((0..n).map(|i| Sample { t_ms: i as f64, x: 4.0, y: 5.0, pressure: Some(0.5), ..Sample::default() }).collect());
        let outline = inker(&Brush::plain("dot", 0.8)).ink(&still).outline(0.0005);
        assert!((outline.area_mm2() / (PI * 0.16) - 1.0).abs() < 2e-3, "{n}");
        let b = outline.bounds().expect("bounds");
        assert!((b[0] - 3.6).abs() < 1e-3 && (b[3] - 5.4).abs() < 1e-3);
    }
    let nothing = inker(&Brush::plain("dot", 0.8)).ink(&Stroke::new(Vec::new()));
    assert!(nothing.samples.is_empty() && nothing.outline(0.001).bounds().is_none());
}

#[test]
fn the_number_of_samples_never_changes() {
    let mut brush = rising();
    brush.smoothing.position = SmoothingKind::Adaptive { min_cutoff_hz: 1.0, speed_coefficient: 0.01 };
    for n in [1, 2, 3, 50] {
        let s = line(n.max(2), 30.0, Some);
        assert_eq!(inker(&brush).ink(&s).samples.len(), s.samples.len());
    }
}

#[test]
fn a_live_stroke_gives_back_its_samples_and_starts_thin() {
    let brush = Brush { lead_in: Some(Taper { length_mm: 5.0, share: 1.0, tip_width_mm: 0.1, shape: 1.0, over_mm_s: 0.0 }), ..Brush::plain("live", 1.0) };
    let s = line(60, 30.0, |_| Some(0.5));
    let mut live = LiveStroke::new(inker(&brush), 1.0, 0.001);
    let pieces: Vec<_> = s.samples.iter().flat_map(|p| live.push(*p)).collect();
    assert!(signed_area(&pieces[1]).abs() < signed_area(&pieces[40]).abs());
    assert_eq!(live.finish().samples, s.samples);
    // Finished ink differs from live ink only by what the lift adds; here nothing: the areas agree.
    let (whole, together) = (inker(&brush).ink(&s).outline(0.001).area_mm2(), Outline::united(pieces).area_mm2());
    assert!((together / whole - 1.0).abs() < 2e-3);
}

/// The raster of zeno, another exact-area rasteriser, on inked outlines with holes and crossings.
#[test]
fn coverage_is_another_rasterisers() {
    let loops = Stroke::new(
        (0..240)
            .map(|i| {
                let u = f64::from(i) / 40.0;
                Sample {
                    t_ms: 5.0 * f64::from(i),
                    x: 12.0 + 8.0 * (u + 0.3).sin(),
                    y: 10.0 + 7.0 * (1.5 * u).cos(),
                    pressure: Some(0.5 + 0.4 * u.sin()),
                    ..Sample::default()
                }
            })
            .collect(),
    );
    let outline = inker(&rising()).ink(&loops).outline(0.0005);
    let (k, w, h) = (12.0, 300usize, 260usize);
    let ours = rasterise(&outline, k, [0.0, 0.0], w, h);
    let mut text = String::new();
    for p in &outline.paths {
        for (i, q) in p.iter().enumerate() {
            text += &format!("{}{},{} ", if i == 0 { "M" } else { "L" }, q[0] * k, q[1] * k);
        }
        text += "Z ";
    }
    let (theirs, _) = zeno::Mask::new(text.as_str()).size(w as u32, h as u32).render();
    let off: Vec<f64> = ours.data.iter().zip(&theirs).map(|(a, b)| (f64::from(*a) - f64::from(*b) / 255.0).abs()).collect();
    let worst = off.iter().copied().fold(0.0, f64::max);
    let mean = off.iter().sum::<f64>() / off.len() as f64;
    println!("coverage against zeno: mean {mean:.5}, worst {worst:.4}");
    assert!(worst < 0.03 && mean < 5e-4);
}

#[test]
fn a_raster_of_what_lies_outside_is_empty_or_cut() {
    let square = Outline { paths: vec![vec![[0.0, 0.0], [4.0, 0.0], [4.0, 4.0], [0.0, 4.0]]] };
    let sum = |origin: [f64; 2]| rasterise(&square, 2.0, origin, 6, 6).data.iter().map(|v| f64::from(*v)).sum::<f64>();
    assert_eq!(sum([0.0, 0.0]), 36.0);
    assert_eq!(sum([2.0, 2.0]), 16.0);
    assert_eq!(sum([-1.0, -1.0]), 16.0);
    assert_eq!(sum([5.0, 0.0]) + sum([0.0, -9.0]) + sum([-9.0, 0.0]), 0.0);
    assert_eq!(sum([0.25, 0.0]), 36.0);
    assert_eq!(rasterise(&square, 2.0, [0.0, 0.0], 0, 0).data.len(), 0);
}

/// Distance of a point to the nearest edge of an outline.
fn distance(p: [f64; 2], outline: &Outline) -> f64 {
    let to = |a: [f64; 2], b: [f64; 2]| {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let t = (((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy).max(1e-18)).clamp(0.0, 1.0);
        (p[0] - a[0] - t * dx).hypot(p[1] - a[1] - t * dy)
    };
    outline.paths.iter().flat_map(|q| (0..q.len()).map(move |i| to(q[i], q[(i + 1) % q.len()]))).fold(f64::MAX, f64::min)
}

#[test]
fn fitted_curves_stay_within_their_tolerance_and_are_far_fewer() {
    let wave = Stroke::new(
        (0..400)
            .map(|i| {
                let u = f64::from(i) / 399.0;
                Sample { t_ms: 4.0 * f64::from(i), x: 60.0 * u, y: 6.0 * (9.0 * u).sin(), pressure: Some(u), ..Sample::default() }
            })
            .collect(),
    );
    let outline = inker(&rising()).ink(&wave).outline(0.0005);
    let corners: usize = outline.paths.iter().map(Vec::len).sum();
    for tolerance in [0.002, 0.02] {
        let fitted = fit_outline(&outline, tolerance);
        let cubics: usize = fitted.iter().map(|p| p.cubics.len()).sum();
        let flat = Outline { paths: fitted.iter().map(|p| p.flattened(16)).collect() };
        let worst = flat.paths.iter().flatten().map(|p| distance(*p, &outline)).fold(0.0, f64::max);
        assert!(worst <= 1.5 * tolerance, "{worst} for {tolerance}");
        assert!(cubics * 4 < corners, "{cubics} cubics for {corners} corners");
        let text = fitted[0].svg();
        assert!(text.starts_with('M') && text.trim_end().ends_with('Z') && !text.contains("NaN"));
    }
}

#[test]
fn outlines_unite_and_say_their_bounds() {
    let square = |x: f64| vec![[x, 0.0], [x + 2.0, 0.0], [x + 2.0, 2.0], [x, 2.0]];
    assert!((Outline::united(vec![square(0.0), square(1.0)]).area_mm2() - 6.0).abs() < 1e-6);
    let merged = Outline::merged([Outline { paths: vec![square(0.0)] }, Outline { paths: vec![square(1.0)] }, Outline::default()]);
    assert!((merged.area_mm2() - 6.0).abs() < 1e-6);
    assert_eq!(Outline { paths: vec![square(3.0), square(-1.0)] }.bounds(), Some([-1.0, 0.0, 5.0, 2.0]));
    assert_eq!(Outline::default().bounds(), None);
    // A ring keeps its hole, wound the other way.
    let ring = Stroke::new(
        (0..=90)
            .map(|i| {
                let a = f64::from(i) * PI / 45.0;
                Sample { t_ms: f64::from(i), x: 10.0 * a.cos(), y: 10.0 * a.sin(), ..Sample::default() }
            })
            .collect(),
    );
    let outline = inker(&Brush::plain("ring", 1.0)).ink(&ring).outline(0.0005);
    assert_eq!(outline.paths.len(), 2);
    assert!(signed_area(&outline.paths[0]) * signed_area(&outline.paths[1]) < 0.0);
    assert!((outline.area_mm2() / (PI * (10.5f64.powi(2) - 9.5f64.powi(2))) - 1.0).abs() < 2e-3);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    /// W3C Pointer Events: a tilt made of any azimuth and elevation gives them back.
    #[test]
    fn tilts_are_the_plane_angles_of_the_stylus(azimuth in 1.0f64..359.0, elevation in 5.0f64..85.0) {
        prop_assume!((azimuth % 90.0) > 0.5 && (azimuth % 90.0) < 89.5);
        // The stylus' direction, its azimuth counter-clockwise, y down; the tilts are its angles in the two upright planes.
        let (a, e) = (azimuth.to_radians(), elevation.to_radians());
        let (x, y, z) = (e.cos() * a.cos(), -e.cos() * a.sin(), e.sin());
        let (got_azimuth, got_elevation) = spherical_of_tilt(x.atan2(z).to_degrees(), y.atan2(z).to_degrees());
        prop_assert!((got_azimuth - azimuth).abs() < 1e-6 && (got_elevation - elevation).abs() < 1e-6, "{} {}", got_azimuth, got_elevation);
    }

    /// The same stroke always gives the same ink; moved, it gives the same ink elsewhere; drawn backwards with no tapers,
    /// the same area.
    #[test]
    fn ink_depends_on_the_stroke_alone(points in prop::collection::vec((0.0f64..40.0, 0.0f64..40.0, 0.0f64..=1.0), 2..40), dx in -50.0f64..50.0) {
        let make = |dx: f64| Stroke::new(points.iter().enumerate().map(|(i, p)| Sample { t_ms: 6.0 * i as f64, x: p.0 + dx, y: p.1, pressure: Some(p.2), ..Sample::default() }).collect());
        let inker = inker(&rising());
        let first = inker.ink(&make(0.0)).outline(0.001);
        prop_assert_eq!(&first, &inker.ink(&make(0.0)).outline(0.001));
        let area = first.area_mm2();
        prop_assert!((inker.ink(&make(dx)).outline(0.001).area_mm2() / area - 1.0).abs() < 1e-4);
        let mut back = make(0.0);
        back.samples.reverse();
        prop_assert!((inker.ink(&back).outline(0.001).area_mm2() / area - 1.0).abs() < 1e-4);
    }

    /// More effort never makes a thinner line, whatever the knots.
    #[test]
    fn weight_never_falls(rises in prop::collection::vec((0.02f64..0.25, 0.0f64..1.5), 2..5), a in 0.0f64..=1.0, b in 0.0f64..=1.0) {
        let mut at = [-0.02, 0.05];
        let brush = Brush { weight: rises.iter().map(|r| { at = [at[0] + r.0, at[1] + r.1]; at }).collect(), ..Brush::plain("any", 0.5) };
        prop_assume!(brush.validate().is_ok());
        let inker = inker(&brush);
        prop_assert!(inker.weight_mm(a.max(b), None) >= inker.weight_mm(a.min(b), None) - 1e-12);
    }

    /// A curve's inverse finds the place again.
    #[test]
    fn a_curve_is_inverted(rises in prop::collection::vec((0.05f64..0.5, 0.05f64..1.0), 2..9), u in 0.0f64..=1.0) {
        let mut at = [0.0, 0.0];
        let knots: Vec<[f64; 2]> = rises.iter().map(|r| { at = [at[0] + r.0, at[1] + r.1]; at }).collect();
        let curve = Curve::new(&knots).expect("a curve");
        let x = knots[0][0] + u * (at[0] - knots[0][0]);
        prop_assert!((curve.inverse(curve.value(x)) - x).abs() < 1e-6);
        prop_assert_eq!(curve.knots(), knots);
    }
}

/// A nib with a ragged edge leaves no paper inside its ink, whatever its shape and wherever it goes: holes of its outline are those that the
/// smooth line has too.
#[test]
fn a_ragged_flat_nib_leaves_no_cracks() {
    let nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.28), angle_deg: 35.0, ..Nib::round() };
    let edge = Edge { raggedness_um: 14.0, correlation_um: 160.0, ..Edge::default() };
    let ragged = Brush { nib: nib.clone(), edge, weight: vec![[0.0, 0.6], [1.0, 1.8]], seed: 5, ..Brush::plain("chisel", 1.0) };
    let smooth = Brush { edge: Edge::default(), ..ragged.clone() };
    let (mut cracks, mut areas) = (Vec::new(), Vec::new());
    for k in 0..14 {
        let stroke: Stroke = match k {
            // Straight in every direction, a circle both ways round, and a wave that turns sharply.
            0..12 => {
                let (s, c) = (f64::from(k) * std::f64::consts::PI / 12.0).sin_cos();
                Stroke::new(
                    (0..120)
                        .map(|i| (f64::from(i), 0.5 * f64::from(i)))
                        .map(|(i, d)| Sample { t_ms: 6.0 * i, x: d * c, y: d * s, pressure: Some(0.5 + 0.3 * (0.1 * i).sin()), ..Sample::default() })
                        .collect(),
                )
            }
            12 => Stroke::new(
                (0..=200)
                    .map(|i| {
                        let a = f64::from(i) * std::f64::consts::TAU / 200.0;
                        Sample { t_ms: 6.0 * f64::from(i), x: 9.0 * a.cos(), y: 9.0 * a.sin(), pressure: Some(0.6), ..Sample::default() }
                    })
                    .collect(),
            ),
            _ => Stroke::new(
                (0..300)
                    .map(|i| Sample {
                        t_ms: 6.0 * f64::from(i),
                        x: 0.2 * f64::from(i),
                        y: 4.0 * (0.15 * f64::from(i)).sin(),
                        pressure: Some(0.7),
                        ..Sample::default()
                    })
                    .collect(),
            ),
        };
        let of = |b: &Brush| Inker::new(b, None, None).expect("inkable").ink(&stroke).outline(0.001);
        let (r, s) = (of(&ragged), of(&smooth));
        let whole = s.area_mm2();
        let holes = |o: &Outline| {
            let sign = o.paths.iter().map(|p| signed_area(p)).sum::<f64>().signum();
            let inner: Vec<f64> = o.paths.iter().map(|p| sign * signed_area(p)).filter(|a| *a < 0.0).map(f64::abs).collect();
            (inner.len(), inner.iter().sum::<f64>())
        };
        let (a, b) = (holes(&r), holes(&s));
        cracks.push((k, a.0.saturating_sub(b.0), a.1 - b.1));
        areas.push(r.area_mm2() / whole - 1.0);
    }
    assert!(cracks.iter().all(|c| c.1 == 0), "{cracks:?}");
    // What wanders by chance takes and gives alike.
    assert!(areas.iter().all(|a| a.abs() < 0.02), "{areas:?}");
}
