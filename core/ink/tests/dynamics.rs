//! What moves the nib beyond effort: smoothing of every kind, pace, dwelling, chance, tilt, direction, shape and the lift, each
//! against its formula; and live ink against finished ink.

use std::f64::consts::{PI, TAU};

use eddymist_ink::{
    Brush, Inker, LiveStroke, Outline, Sample, Stroke,
    brush::{AngleFrom, Chance, Driver, Nib, NibShape, OwnTapers, Pooling, SmoothingKind, Taper},
    noise::Wander,
    outline::signed_area,
    smoothing::Average,
};
use proptest::prelude::*;

fn inker(brush: &Brush) -> Inker {
    Inker::new(brush, None, None).expect("inkable")
}

fn sample(t_ms: f64, [x, y]: [f64; 2]) -> Sample {
    Sample { t_ms, x, y, pressure: Some(0.5), ..Sample::default() }
}

/// A stroke of `n` samples, 5 ms apart, by a course over seconds.
fn by_time(n: usize, at: impl Fn(f64) -> [f64; 2]) -> Stroke {
    Stroke::new((0..n).map(|i| 0.005 * i as f64).map(|t| sample(1000.0 * t, at(t))).collect())
}

fn smoothed(position: SmoothingKind) -> Brush {
    let mut b = Brush::plain("smooth", 0.5);
    b.smoothing.position = position;
    b
}

fn live(brush: &Brush, s: &Stroke) -> Outline {
    let mut l = LiveStroke::new(inker(brush), s.zoom, 0.0005);
    Outline::united(s.samples.iter().flat_map(|p| l.push(*p)).collect())
}

/// A moving mean takes `sinc(π f w)` off a wave and nothing off a straight course (elementary, from memory).
#[test]
fn an_average_leaves_of_a_wave_what_its_window_says() {
    for (f, window) in [(4.0, 60.0), (7.0, 100.0), (2.0, 200.0)] {
        let s = by_time(401, |t| [60.0 * t, 3.0 * (TAU * f * t).sin()]);
        let inked = inker(&smoothed(SmoothingKind::Average { span_ms: window })).ink(&s);
        let x = PI * f * window / 1000.0;
        let left = x.sin() / x;
        for (p, raw) in inked.samples.iter().zip(&s.samples).skip(60).take(280) {
            assert!((p.y - left * raw.y).abs() < 0.02 && (p.x - raw.x).abs() < 1e-6, "{f} Hz, {window} ms: {} for {}", p.y, left * raw.y);
        }
        // The ends stay where the pen was; live ink is half a window behind.
        assert_eq!((inked.samples[0].x, inked.samples[400].x), (s.samples[0].x, s.samples[400].x));
        let mut a = Average::default();
        (0..200).for_each(|i| a.push(5.0 * f64::from(i), 0.06 * 5.0 * f64::from(i)));
        assert!((0.06 * 995.0 - a.last(window) - 0.06 * 0.5 * window).abs() < 1e-9);
    }
}

/// Towed along a line the nib is one radius behind; round a circle of R it runs on one of √(R² − r²) (pursuit with a taut rope:
/// from memory).
#[test]
fn a_towed_nib_follows_a_taut_rope() {
    let r = 1.5;
    let tow = smoothed(SmoothingKind::Tow { slack_mm: r });
    let straight = inker(&tow).ink(&by_time(200, |t| [40.0 * t, 2.0]));
    assert!((straight.samples[199].x - (40.0 * 0.995 - r)).abs() < 1e-9 && straight.samples.iter().all(|p| p.y == 2.0));
    let around = inker(&tow).ink(&by_time(4000, |t| [6.0 * (2.0 * t).cos(), 6.0 * (2.0 * t).sin()]));
    let last = around.samples[3999];
    assert!((last.x.hypot(last.y) - (36.0 - r * r).sqrt()).abs() < 0.01, "{}", last.x.hypot(last.y));
    // Within the circle nothing moves; it needs no times.
    let mut still = by_time(50, |t| [0.7 * (40.0 * t).cos(), 0.7 * (40.0 * t).sin()]);
    still.timed = false;
    assert!(inker(&tow).ink(&still).samples.iter().all(|p| (p.x, p.y) == (still.samples[0].x, still.samples[0].y)));
}

/// A cubic with noise on it comes back as the cubic; every sample is moved by no more than the tolerance.
#[test]
fn a_faired_stroke_is_its_own_course_without_the_noise() {
    let mut w = Wander::new(7, 0.0001);
    let course = |u: f64| [60.0 * u, 40.0 * u * (1.0 - u) * (1.0 - 1.6 * u)];
    let s = Stroke::new(
        (0..300)
            .map(|i| f64::from(i) / 299.0)
            .map(|u| {
                let [x, y] = course(u);
                sample(1000.0 * u, [x, y + 0.02 * w.value(u)])
            })
            .collect(),
    );
    let tolerance = 0.1;
    let inked = inker(&smoothed(SmoothingKind::Faired { tolerance_mm: tolerance })).ink(&s).samples;
    let mut off = 0.0f64;
    let shiver = |y: &dyn Fn(usize) -> f64| (1..299).map(|i| (y(i + 1) - 2.0 * y(i) + y(i - 1)).abs()).sum::<f64>();
    for (p, raw) in inked.iter().zip(&s.samples) {
        assert!((p.x - raw.x).hypot(p.y - raw.y) <= tolerance * 1.01);
        off += (p.y - course(p.x / 60.0)[1]).powi(2);
    }
    // Least squares within the tolerance, from end to end of the stroke; what shivered is all but gone.
    assert!((off / 300.0).sqrt() < 0.02, "{}", (off / 300.0).sqrt());
    let (before, after) = (shiver(&|i| s.samples[i].y), shiver(&|i| inked[i].y));
    assert!(after < 0.1 * before, "{after} of {before}");
    assert_eq!(inked.len(), 300);
}

#[test]
fn pace_goes_by_the_hands_speed_whatever_the_zoom() {
    let mut b = Brush::plain("paced", 1.0);
    b.pace = Some(vec![[0.0, 1.0], [100.0, 0.6], [200.0, 0.5]]);
    let width = |b: &Brush, mm_s: f64, zoom: f64| {
        let mut s = by_time(80, |t| [mm_s * t / zoom, 0.0]);
        s.zoom = zoom;
        let w: Vec<f64> = inker(b).ink(&s).samples.iter().map(|p| p.width_mm).collect();
        assert!(w.iter().all(|v| (v - w[0]).abs() < 1e-9), "even speed, even width");
        w[0]
    };
    for zoom in [0.5, 1.0, 4.0] {
        assert!((width(&b, 100.0, zoom) - 0.6).abs() < 1e-9 && (width(&b, 400.0, zoom) - 0.5).abs() < 1e-9, "{zoom}");
    }
    // The floor bounds what weight and pace make together; without its driver a pace does nothing.
    b.floor_mm = 0.8;
    assert!((width(&b, 400.0, 1.0) - 0.8).abs() < 1e-9);
    (b.floor_mm, b.driver) = (0.0, Some(Driver::Effort));
    assert!((width(&b, 400.0, 1.0) - 1.0).abs() < 1e-9);
    // Speed alone drives: effort does not count.
    (b.driver, b.weight) = (Some(Driver::Speed), vec![[0.0, 0.2], [0.5, 1.0], [1.0, 3.0]]);
    let mut hard = by_time(40, |t| [100.0 * t, 0.0]);
    hard.samples.iter_mut().for_each(|s| s.pressure = Some(1.0));
    assert!((inker(&b).ink(&hard).samples[30].width_mm - 0.6).abs() < 1e-9);
    // A path has no times, so it has no pace.
    hard.timed = false;
    assert!((inker(&b).ink(&hard).samples[30].width_mm - 1.0).abs() < 1e-9);
}

/// `1 + (ratio − 1)(1 − e^(−t/τ))` while the pen rests; moving on leaves the pool behind.
#[test]
fn ink_pools_where_the_pen_rests() {
    let mut b = Brush::plain("pools", 0.5);
    b.pooling = Some(Pooling { ratio: 1.5, time_s: 0.4 });
    let s = by_time(600, |t| if t < 2.0 { [3.0, 3.0] } else { [3.0 + 60.0 * (t - 2.0), 3.0] });
    let w: Vec<f64> = inker(&b).ink(&s).samples.iter().map(|p| p.width_mm).collect();
    for (i, t) in [(80, 0.4), (200, 1.0), (400, 2.0)] {
        assert!((w[i] - 0.5 * (1.0 + 0.5 * (1.0 - f64::exp(-t / 0.4)))).abs() < 1e-6, "{i}: {}", w[i]);
    }
    // Two millimetres on it is the plain line again.
    assert!(w[400 + 8..].iter().all(|v| *v < 0.505), "{:?}", &w[404..410]);
    // A fast line never pools, a slow one hardly.
    assert!(inker(&b).ink(&by_time(100, |t| [80.0 * t, 0.0])).samples[50].width_mm < 0.5001);
}

#[test]
fn a_spring_opens_on_the_pull() {
    let mut b = Brush::plain("spring", 0.3);
    b.nib = Nib { shape: NibShape::Spring, opening_mm: Some(0.8), pull_deg: Some(270.0), ..Nib::round() };
    for k in 0..24 {
        let page = f64::from(15 * k).to_radians();
        let s = by_time(60, |t| [80.0 * t * page.cos(), -80.0 * t * page.sin()]);
        let formula = 0.3 + 0.8 * 0.5 * (page - 1.5 * PI).cos().max(0.0);
        let inked = inker(&b).ink(&s);
        assert!(inked.samples.iter().all(|p| (p.width_mm - formula).abs() < 1e-9), "{k}: {} and {formula}", inked.samples[9].width_mm);
    }
}

#[test]
fn a_lowered_stylus_widens_and_chance_stays_within_its_range() {
    let mut b = Brush::plain("tilted", 1.0);
    b.nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.2), widen_by_tilt: Some(3.0), ..Nib::round() };
    let at = |elevation: Option<f64>| {
        let mut s = by_time(40, |t| [50.0 * t, 0.0]);
        s.samples.iter_mut().for_each(|p| p.elevation_deg = elevation);
        inker(&b).ink(&s).samples[20].width_mm
    };
    // Along its own length the breadth shows.
    for (elevation, width) in [(None, 0.2), (Some(90.0), 0.2), (Some(60.0), 0.2), (Some(40.0), 0.4), (Some(20.0), 0.6), (Some(5.0), 0.6)] {
        assert!((at(elevation) - width).abs() < 1e-9, "{elevation:?}");
    }
    let mut turned = Brush::plain("turned", 1.0);
    turned.nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.2), turn_range_deg: 40.0, ..Nib::round() };
    let angles: Vec<f64> = inker(&turned).ink(&by_time(4000, |t| [50.0 * t, 0.0])).samples.iter().map(|p| p.nib_angle.to_degrees()).collect();
    let (low, high) = angles.iter().fold((0.0f64, 0.0f64), |m, a| (m.0.min(*a), m.1.max(*a)));
    assert!(low >= -20.0 && high <= 20.0 && low < -16.0 && high > 16.0, "{low} {high}");
}

/// Deviation and the exponential correlation are what the brush says, over ten thousand lengths.
#[test]
fn chance_has_the_spread_and_the_correlation_it_is_given() {
    let mut w = Wander::new(11, 2.0);
    let v: Vec<f64> = (0..80_000).map(|i| w.value(0.25 * f64::from(i))).collect();
    let n = v.len() as f64;
    let (mean, square) = (v.iter().sum::<f64>() / n, v.iter().map(|x| x * x).sum::<f64>() / n);
    assert!(mean.abs() < 0.05 && (square.sqrt() - 1.0).abs() < 0.03, "{mean} {square}");
    for lag in [4usize, 8, 16] {
        let c = (0..v.len() - lag).map(|i| v[i] * v[i + lag]).sum::<f64>() / n / square;
        assert!((c - (-0.25 * lag as f64 / 2.0).exp()).abs() < 0.04, "{lag}: {c}");
    }
    let mut b = Brush { chance: Some(Chance { spread: 0.05, correlation_mm: 0.5 }), ..Brush::plain("lively", 1.0) };
    let s = by_time(3000, |t| [200.0 * t, 0.0]);
    let widths = |b: &Brush, s: &Stroke| inker(b).ink(s).samples.iter().map(|p| p.width_mm).collect::<Vec<f64>>();
    let w = widths(&b, &s);
    let sd = (w.iter().map(|v| (v - 1.0).powi(2)).sum::<f64>() / w.len() as f64).sqrt();
    assert!((sd - 0.05).abs() < 0.004, "{sd}");
    // The same stroke always has the same edge; another stroke, or another seed, has another.
    assert_eq!(w, widths(&b, &s));
    assert_ne!(w, widths(&b, &by_time(3000, |t| [0.5 + 200.0 * t, 0.0])));
    b.seed = 5;
    assert_ne!(w, widths(&b, &s));
}

#[test]
fn a_taper_with_a_speed_limit_leaves_slow_ends_blunt() {
    let taper = Taper { length_mm: 5.0, share: 1.0, tip_width_mm: 0.1, shape: 1.0, over_mm_s: 40.0 };
    let b = Brush { lead_in: Some(taper), lead_out: Some(taper), ..Brush::plain("flicked", 1.0) };
    // It sets out slowly and leaves fast: only its end runs out.
    let s = by_time(200, |t| [20.0 * t + 120.0 * (t - 0.5).max(0.0).powi(2), 0.0]);
    let w = inker(&b).ink(&s).samples;
    assert!((w[0].width_mm - 1.0).abs() < 1e-9 && (w[199].width_mm - 0.1).abs() < 1e-9, "{} {}", w[0].width_mm, w[199].width_mm);
    let back = by_time(200, |t| [-(20.0 * (0.995 - t) + 120.0 * (0.5 - t).max(0.0).powi(2)), 0.0]);
    let w = inker(&b).ink(&back).samples;
    assert!((w[0].width_mm - 0.1).abs() < 1e-9 && (w[199].width_mm - 1.0).abs() < 1e-9, "{} {}", w[0].width_mm, w[199].width_mm);
}

#[test]
fn the_lift_guard_cuts_the_twitch_and_nothing_else() {
    let mut b = Brush::plain("guarded", 0.4);
    b.smoothing.lift_guard_ms = 40.0;
    // A straight stroke whose last 20 ms twitch aside as the pressure goes.
    let twitch = |falls: bool| {
        let mut s = by_time(100, |t| if t < 0.478 { [50.0 * t, 0.0] } else { [50.0 * 0.478, 60.0 * (t - 0.478)] });
        for (i, p) in s.samples.iter_mut().enumerate() {
            p.pressure = Some(if falls && i > 94 { 0.5 - 0.09 * (i as f64 - 94.0) } else { 0.5 });
        }
        s
    };
    let end = |b: &Brush, s: &Stroke| inker(b).ink(s).samples.last().map(|p| [p.x, p.y]).expect("samples");
    let (plain, s) = (Brush::plain("free", 0.4), twitch(true));
    assert!(end(&plain, &s)[1] > 0.9 && end(&b, &s)[1].abs() < 0.2, "{:?}", end(&b, &s));
    assert_eq!(inker(&b).ink(&s).samples.len(), 100);
    // A corner drawn at full pressure is meant; so is a stroke that only runs out.
    assert!(end(&b, &twitch(false))[1] > 0.9);
    let mut out = by_time(100, |t| [50.0 * t, 0.0]);
    out.samples.iter_mut().skip(90).enumerate().for_each(|(i, p)| p.pressure = Some(0.5 - 0.05 * i as f64));
    assert_eq!(end(&b, &out)[0], out.samples[99].x);
}

#[test]
fn a_shape_is_swept_whole_and_may_have_pieces() {
    let square = vec![[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]];
    let mut b = Brush::plain("square", 1.0);
    b.nib = Nib { shape: NibShape::Polygon, points: Some(square.clone()), ..Nib::round() };
    let s = by_time(100, |t| [40.0 * t, 0.0]);
    let inked = inker(&b).ink(&s);
    assert!((inked.outline(0.0005).area_mm2() - (40.0 * 0.495 + 1.0)).abs() < 1e-3);
    assert!((inked.samples[50].width_mm - 1.0).abs() < 1e-9);
    // Across its corner it is √2 wide; half as broad, half as wide.
    b.nib.angle_deg = 45.0;
    assert!((inker(&b).ink(&s).samples[50].width_mm - 2f64.sqrt()).abs() < 1e-9);
    (b.nib.angle_deg, b.nib.breadth) = (0.0, Some(0.5));
    assert!((inker(&b).ink(&s).samples[50].width_mm - 0.5).abs() < 1e-9);
    // An L is no convex shape: drawn toward its hollow the hollow fills, lifted off at once it stays.
    let ell = vec![[0.0, 0.0], [1.0, 0.0], [1.0, 0.3], [0.3, 0.3], [0.3, 1.0], [0.0, 1.0]];
    b.nib = Nib { shape: NibShape::Drawn, points: Some(ell), ..Nib::round() };
    let dot = Stroke::new(vec![sample(0.0, [5.0, 5.0])]);
    assert!((inker(&b).ink(&dot).outline(0.0005).area_mm2() - (0.3 + 0.7 * 0.3)).abs() < 1e-6);
    // Two pieces draw two lines.
    let at = |y: f64| vec![[-0.1, y - 0.1], [0.1, y - 0.1], [0.1, y + 0.1], [-0.1, y + 0.1]];
    b.nib = Nib { shape: NibShape::Drawn, points: Some(at(-0.4)), pieces: vec![at(0.4)], ..Nib::round() };
    let outline = inker(&b).ink(&s).outline(0.0005);
    assert!(outline.paths.len() == 2 && (outline.area_mm2() - 2.0 * 0.2 * (40.0 * 0.495 + 0.2)).abs() < 1e-3, "{}", outline.area_mm2());
    // What has no area, too few corners or no shape is refused.
    for (points, says) in
        [(Some(vec![[0.0, 0.0], [1.0, 1.0], [2.0, 2.0]]), "no area"), (Some(vec![[0.0, 0.0], [1.0, 1.0]]), "three corners"), (None, "needs the corners")]
    {
        b.nib = Nib { shape: NibShape::Polygon, points, ..Nib::round() };
        assert!(Inker::new(&b, None, None).expect_err("no shape").to_string().contains(says), "{says}");
    }
}

fn any_brush() -> impl Strategy<Value = Brush> {
    let nib = (0usize..4, 0usize..3, 0.1f64..1.0, -180.0f64..180.0);
    let smoothing = prop_oneof![
        Just(SmoothingKind::None),
        (0.5f64..8.0, 0.0f64..0.1).prop_map(|(a, b)| SmoothingKind::Adaptive { min_cutoff_hz: a, speed_coefficient: b }),
        (0.2f64..2.0).prop_map(|r| SmoothingKind::Tow { slack_mm: r }),
    ];
    (nib, smoothing, any::<bool>(), any::<bool>(), 0.0f64..0.2).prop_map(|((shape, from, breadth, angle), position, paced, pools, spread)| {
        let mut b = smoothed(position);
        b.weight = vec![[0.0, 0.2], [1.0, 1.5]];
        b.nib = Nib {
            shape: [NibShape::Round, NibShape::Ellipse, NibShape::Spring, NibShape::Polygon][shape],
            breadth: (shape == 1).then_some(breadth),
            points: (shape == 3).then(|| vec![[-0.5, -0.2], [0.5, -0.3], [0.3, 0.4]]),
            opening_mm: Some(0.5),
            pull_deg: Some(angle),
            angle_deg: angle,
            angle_from: [AngleFrom::Page, AngleFrom::Stylus, AngleFrom::Travel][from],
            ..Nib::round()
        };
        b.pace = paced.then(|| vec![[0.0, 1.0], [150.0, 0.7]]);
        b.pooling = pools.then_some(Pooling { ratio: 1.4, time_s: 0.2 });
        b.chance = Some(Chance { spread, correlation_mm: 1.0 });
        b
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Live ink is finished ink, whatever the brush, but for what only the lift decides.
    #[test]
    fn live_ink_is_finished_ink(b in any_brush(), bend in -2.0f64..2.0, zoom in 0.5f64..3.0) {
        let mut s = by_time(120, |t| [50.0 * t, 12.0 * (bend * 4.0 * t).sin()]);
        s.samples.iter_mut().enumerate().for_each(|(i, p)| p.pressure = Some(0.5 + 0.4 * (0.1 * i as f64).sin()));
        s.zoom = zoom;
        let (whole, together) = (inker(&b).ink(&s).outline(0.0005), live(&b, &s));
        prop_assert!((together.area_mm2() / whole.area_mm2() - 1.0).abs() < 2e-3, "{} and {}", together.area_mm2(), whole.area_mm2());
    }

    /// A convex shape swept is the union of its hulls; its area is no less than any placement's.
    #[test]
    fn a_swept_polygon_is_the_union_of_its_hulls(bend in -2.0f64..2.0, angle in -180.0f64..180.0, size in 0.2f64..2.0) {
        let mut b = Brush::plain("shape", size);
        b.nib = Nib { shape: NibShape::Polygon, points: Some(vec![[-0.5, -0.2], [0.5, -0.3], [0.3, 0.4], [-0.4, 0.3]]), angle_deg: angle, ..Nib::round() };
        let s = by_time(60, |t| [50.0 * t, 12.0 * (bend * 4.0 * t).sin()]);
        let i = inker(&b);
        let inked = i.ink(&s);
        let shape = i.shape().expect("a shape");
        let slow = Outline::united(inked.placements().windows(2).flat_map(|w| shape.hulls(&w[0], &w[1])).collect());
        prop_assert!((inked.outline(0.0005).area_mm2() / slow.area_mm2() - 1.0).abs() < 1e-3);
        let one = shape.hulls(&inked.placements()[0], &inked.placements()[0]).iter().map(|h| signed_area(h).abs()).sum::<f64>();
        prop_assert!(slow.area_mm2() > one);
    }

    /// A stroke's own taper has its length, by the taper's formula; the other end stays the brush's, and beyond both nothing changes.
    #[test]
    fn a_stroke_has_tapers_of_its_own(b in any_brush(), own in prop::option::of(0.0f64..9.0), length in 12.0f64..40.0, at_end in any::<bool>(), (length_mm, tip_width_mm, shape) in (1.0f64..8.0, 0.0f64..0.3, 0.4f64..2.0)) {
        let taper = Taper { length_mm, share: 0.3, tip_width_mm, shape, over_mm_s: 0.0 };
        let b = Brush { smoothing: Default::default(), pooling: None, chance: None, lead_in: Some(taper), lead_out: Some(taper), ..b };
        let s = Stroke::new((0..=200).map(|i| sample(5.0 * f64::from(i), [length * f64::from(i) / 200.0, 0.0])).collect());
        let tapers = if at_end { OwnTapers { lead_out_mm: own, ..Default::default() } } else { OwnTapers { lead_in_mm: own, ..Default::default() } };
        let none = OwnTapers { lead_in_mm: Some(0.0), lead_out_mm: Some(0.0) };
        let widths = |b: &Brush| inker(b).ink(&s).samples.iter().map(|s| s.nib_mm).collect::<Vec<_>>();
        let (bare, brushs, with) = (widths(&b.tapered(none)), widths(&b), widths(&b.tapered(tapers)));
        let (kept, of) = if at_end { (b.lead_in, b.lead_out) } else { (b.lead_out, b.lead_in) };
        let (tip, shape) = of.map_or((0.0, 1.0), |t| (t.tip_width_mm, t.shape));
        for i in 0..=200 {
            let (from_start, to_end) = (length * i as f64 / 200.0, length * (200 - i) as f64 / 200.0);
            let (near, far) = if at_end { (to_end, from_start) } else { (from_start, to_end) };
            let Some(mm) = own else {
                prop_assert_eq!(with[i], brushs[i]);
                continue;
            };
            let t = (tip / bare[i]).min(1.0);
            let mine = if mm > 0.0 && near < mm { t + (1.0 - t) * (near / mm).powf(shape) } else { 1.0 };
            let theirs = kept.filter(|k| k.over_mm_s <= 0.0).map_or(1.0, |k| {
                let long = k.length_mm.min(k.share * length);
                let t = (k.tip_width_mm / bare[i]).min(1.0);
                if long > 0.0 && far < long { t + (1.0 - t) * (far / long).powf(k.shape) } else { 1.0 }
            });
            prop_assert!((with[i] - bare[i] * mine * theirs).abs() < 1e-9, "{i}: {} for {}", with[i], bare[i] * mine * theirs);
        }
    }
}
