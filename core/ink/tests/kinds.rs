//! The stroke kinds against what each is: areas by Pappus's theorem, pixels by their own definition, coverage by `1 − Π(1 − α)`.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_ink::{
    Brush, InkedStroke, Inker, LiveStroke, Outline, Sample, Stroke,
    brush::{Edge, Ends, Opacity, Shaped, Stamped, StrokeKind},
    kinds::{Tip, Tooth},
    raster::{Coverage, rasterise},
};
use proptest::prelude::*;

fn inker(kind: StrokeKind, width: f64) -> Inker {
    Inker::new(&Brush { stroke: kind, ..Brush::plain("laid", width) }, None, None).expect("inkable")
}

fn stroke(n: usize, at: impl Fn(f64) -> [f64; 2], effort: f64, seconds: f64) -> Stroke {
    let u = |i: usize| i as f64 / (n - 1).max(1) as f64;
    let sample = |i: usize| Sample { t_ms: 1000.0 * seconds * u(i), x: at(u(i))[0], y: at(u(i))[1], pressure: Some(effort), ..Sample::default() };
    Stroke::new((0..n).map(sample).collect())
}

fn line(long: f64) -> Stroke {
    stroke(200, |u| [long * u, 0.0], 0.5, 2.0)
}

fn png(width: u32, height: u32, dpi: Option<f64>, grey: impl Fn(u32, u32) -> u8) -> String {
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, width, height);
    encoder.set_color(png::ColorType::Grayscale);
    if let Some(d) = dpi {
        let xppu = (d / 0.0254).round() as u32;
        encoder.set_pixel_dims(Some(png::PixelDimensions { xppu, yppu: xppu, unit: png::Unit::Meter }));
    }
    let data: Vec<u8> = (0..width * height).map(|i| grey(i % width, i / width)).collect();
    encoder.write_header().expect("a head").write_image_data(&data).expect("data");
    format!("data:image/png;base64,{}", STANDARD.encode(bytes))
}

/// A hard round tip.
fn disk(size: u32) -> String {
    let r = f64::from(size) / 2.0;
    png(size, size, None, move |x, y| if (f64::from(x) + 0.5 - r).hypot(f64::from(y) + 0.5 - r) < r { 0 } else { 255 })
}

fn stamped(tip_png: String, spacing: f64) -> Stamped {
    Stamped {
        tip_png,
        spacing,
        size_range: 0.0,
        angle_range_deg: 0.0,
        spacing_range: 0.0,
        stray: 0.0,
        second_tip_png: None,
        paper_png: None,
        paper_high_is_light: false,
    }
}

fn area(o: &Outline) -> f64 {
    o.area_mm2()
}

const LEAF: &str = "M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z";
const BAR: &str = "M0 -2 H40 V2 H0 Z";

#[test]
fn a_bent_shape_keeps_its_proportions_and_by_pappus_its_area() {
    for (path, share) in [(BAR, 1.0), (LEAF, 0.6)] {
        // Twice as long is twice as thick.
        let i = inker(StrokeKind::Shaped(Shaped { shape_path: path.into(), ends: Ends::Stretch, caps: None, break_over_deg: None }), 0.8);
        let (one, two) = (i.ink(&line(20.0)).outline(1e-4), i.ink(&line(40.0)).outline(1e-4));
        assert!((area(&two) / area(&one) - 4.0).abs() < 1e-3, "{path}");
        let [l, t, r, b] = one.bounds().expect("inked");
        assert!(
            (l - 0.0).abs() < 1e-6 && (r - 20.0).abs() < 1e-6 && ((b - t) / 20.0 * 40.0 / if share == 1.0 { 4.0 } else { 12.0 } - 1.0).abs() < 2e-3,
            "{path}: {t} {b}"
        );
        // Pappus: bent about a circle, a shape that is alike on both sides keeps its area.
        let arc = stroke(600, |u| [10.0 * (u * 1.5).sin(), 10.0 - 10.0 * (u * 1.5).cos()], 0.5, 2.0);
        let straight = i.ink(&line(15.0)).outline(1e-4);
        let ratio = area(&i.ink(&arc).outline(1e-4)) / area(&straight);
        assert!((ratio - 1.0).abs() < 2e-3, "{path}: {ratio}");
        let d = i.ink(&arc).distortion().expect("bent");
        let half = 0.5 * (b - t) * 15.0 / 20.0;
        assert!((d.share / (half / 10.0) - 1.0).abs() < 0.02 && d.folded == 0.0, "{path}: {d:?}");
    }
    // Reversed, the thick end changes place and the side on which it bulges does not.
    let wedge = "M0 0 L40 -6 L40 0 Z";
    let out = |reversed| {
        let b = Brush {
            stroke: StrokeKind::Shaped(Shaped { shape_path: wedge.into(), ends: Ends::Stretch, caps: None, break_over_deg: None }),
            reversed,
            ..Brush::plain("wedge", 1.0)
        };
        Inker::new(&b, None, None).expect("inkable").ink(&line(20.0)).outline(1e-4)
    };
    let thickest = |o: &Outline| {
        let p = o.paths.concat();
        let top = p.iter().map(|q| q[1]).fold(f64::MAX, f64::min);
        p.iter().filter(|q| q[1] < top + 0.01).map(|q| q[0]).sum::<f64>() / p.iter().filter(|q| q[1] < top + 0.01).count() as f64
    };
    assert!(thickest(&out(false)) > 19.0 && thickest(&out(true)) < 1.0);
}

#[test]
fn a_capped_run_is_as_thick_on_a_long_stroke_as_on_a_short_one() {
    let i = inker(StrokeKind::Shaped(Shaped { shape_path: LEAF.into(), ends: Ends::Keep, caps: Some([0.5, 0.5]), break_over_deg: None }), 1.2);
    for long in [10.0, 40.0, 120.0] {
        let [_, t, _, b] = i.ink(&line(long)).outline(1e-4).bounds().expect("inked");
        assert!((b - t - 1.2).abs() < 2e-3, "{long}: {}", b - t);
    }
    // Of a bar the middle repeats without a seam.
    let bar = inker(StrokeKind::Shaped(Shaped { shape_path: BAR.into(), ends: Ends::Keep, caps: Some([0.1, 0.2]), break_over_deg: None }), 0.5);
    let o = bar.ink(&line(90.0)).outline(1e-4);
    assert!(o.paths.len() == 1 && (area(&o) - 45.0).abs() < 1e-3, "{} {}", o.paths.len(), area(&o));
    // Beads: caps and as many middles as fit.
    let beads = "M0 0 L5 -3 L10 -1 C 13 -5 17 -5 20 -1 L25 -3 L30 0 L25 3 L20 1 C 17 5 13 5 10 1 L5 3 Z";
    let run = inker(StrokeKind::Shaped(Shaped { shape_path: beads.into(), ends: Ends::Keep, caps: Some([1.0 / 3.0, 1.0 / 3.0]), break_over_deg: None }), 1.0);
    let widest = |s: &Stroke| {
        let o = run.ink(s).outline(1e-4);
        let c = rasterise(&o, 20.0, [0.0, -1.0], (20.0 * s.samples[s.samples.len() - 1].x) as usize + 1, 40);
        let sums: Vec<f32> = (0..c.width).map(|x| (0..c.height).map(|y| c.data[y * c.width + x]).sum::<f32>() / 20.0).collect();
        sums.windows(3).filter(|w| w[1] > 0.8 && w[1] >= w[0] && w[1] > w[2]).count()
    };
    // A period is 10/8 mm and the caps take as much each (the shape is 8 high).
    assert_eq!(widest(&line(20.0)), 14);
    // Broken at its corners, a zigzag is capped at each; unbroken, it is not.
    let zigzag = stroke(401, |u| [40.0 * u, 10.0 * (4.0 * u - (4.0 * u).round()).abs()], 0.5, 2.0);
    let thin = |break_over_deg| {
        let i = inker(StrokeKind::Shaped(Shaped { shape_path: LEAF.into(), ends: Ends::Keep, caps: Some([0.5, 0.5]), break_over_deg }), 1.0);
        let o = i.ink(&zigzag).outline(1e-4);
        o.area_mm2()
    };
    assert!(thin(Some(60.0)) < 0.98 * thin(None), "{} {}", thin(Some(60.0)), thin(None));
}

fn covered(ink: &InkedStroke, px: f64, [l, t, r, b]: [f64; 4]) -> Coverage {
    ink.inked(0.0005).raster(px, [l, t], ((r - l) * px) as usize, ((b - t) * px) as usize)
}

#[test]
fn a_pressed_slow_bundle_closes_and_a_light_or_a_fast_one_parts() {
    let i = inker(StrokeKind::DryBrush { hairs: 40, spread: 0.3, snap: 0.8, ink_held: 1.6 }, 3.0);
    // Ink over the band of its middle two millimetres, where every hair could reach.
    let filled = |effort: f64, seconds: f64| {
        let c = covered(&i.ink(&stroke(400, |u| [60.0 * u, 0.0], effort, seconds)), 40.0, [10.0, -1.0, 50.0, 1.0]);
        c.data.iter().map(|v| f64::from(*v)).sum::<f64>() / c.data.len() as f64
    };
    let (firm, light, fast) = (filled(1.0, 3.0), filled(0.1, 3.0), filled(0.9, 0.12));
    assert!(firm > 0.995, "{firm}");
    assert!(light < 0.8 && light > 0.05 && fast < 0.9 && fast > 0.1, "{light} {fast}");
    // The whole is as wide as the weight says.
    let [_, t, _, b] = i.ink(&stroke(400, |u| [60.0 * u, 0.0], 1.0, 3.0)).outline(0.0005).bounds().expect("inked");
    assert!((b - t - 3.0).abs() < 0.15, "{}", b - t);
    // The streaks are the stroke's own: the same again.
    let s = stroke(100, |u| [30.0 * u, 3.0 * (6.0 * u).sin()], 0.4, 0.4);
    assert_eq!(i.ink(&s).outline(0.001), i.ink(&s).outline(0.001));
    // Live, its pieces are the finished ink.
    let mut live = LiveStroke::new(i.clone(), 1.0, 0.001);
    let pieces = Outline::united(s.samples.iter().flat_map(|p| live.push(*p)).collect());
    let whole = i.ink(&s).outline(0.001);
    assert!((area(&pieces) / area(&whole) - 1.0).abs() < 0.02, "{} {}", area(&pieces), area(&whole));
}

#[test]
fn tight_spacing_of_a_hard_tip_is_a_line_and_wide_spacing_shows_its_marks() {
    // Common practice, no source: 10–15 % looks continuous, 75 % shows separate marks.
    let bumps = |spacing: f64| {
        let ink = inker(StrokeKind::Stamped(stamped(disk(128), spacing)), 2.0).ink(&line(30.0));
        let c = covered(&ink, 20.0, [5.0, -1.5, 25.0, 1.5]);
        let width: Vec<f64> = (0..c.width).map(|x| (0..c.height).map(|y| f64::from(c.data[y * c.width + x])).sum::<f64>() / 20.0).collect();
        let (low, high) = width.iter().fold((f64::MAX, f64::MIN), |m, w| (m.0.min(*w), m.1.max(*w)));
        (low, high)
    };
    for spacing in [0.1, 0.15] {
        let (low, high) = bumps(spacing);
        assert!(high - low < 0.05 && (high - 2.0).abs() < 0.06, "{spacing}: {low} to {high}");
    }
    // Two disks 75 % apart leave a waist of 2·√(1 − 0.75²).
    let (low, high) = bumps(0.75);
    assert!((low - 2.0 * (1.0f64 - 0.75f64.powi(2)).sqrt()).abs() < 0.08 && high > 1.94, "{low} {high}");
    assert!(bumps(1.3).0 == 0.0);
}

#[test]
fn a_tip_is_set_down_as_it_is_and_builds_up_by_the_formula() {
    // At one pixel of the tip to one of the drawing it is itself.
    let uri = png(16, 8, None, |x, y| (255 - 15 * x) as u8 - 3 * y as u8);
    let tip = Tip::read(&uri).expect("a tip");
    assert_eq!(tip.proportions(), [1.0, 0.5]);
    let dot = stroke(1, |_| [2.0, 1.0], 0.5, 0.0);
    let one = inker(StrokeKind::Stamped(stamped(uri.clone(), 0.5)), 1.6).ink(&dot).inked(0.001);
    let c = one.raster(10.0, [1.2, 0.6], 16, 8);
    for y in 0..8u32 {
        for x in 0..16u32 {
            let drawn = 1.0 - f64::from((255 - 15 * x) as u8 - 3 * y as u8) / 255.0;
            assert!((f64::from(c.data[(y * 16 + x) as usize]) - drawn).abs() < 1e-5, "{x} {y}");
        }
    }
    // Set down n times over a place at 30 %: 1 − 0.7ⁿ. Spacing 0.25 of a square tip lays four over every place.
    let square = png(8, 8, None, |_, _| 0);
    let b = Brush { opacity: Opacity { floor: 0.3, full: 0.3 }, stroke: StrokeKind::Stamped(stamped(square, 0.25)), ..Brush::plain("b", 2.0) };
    let ink = Inker::new(&b, None, None).expect("inkable").ink(&line(20.0));
    let c = covered(&ink, 32.0, [8.0, -0.25, 12.0, 0.25]);
    let mean = c.data.iter().map(|v| f64::from(*v)).sum::<f64>() / c.data.len() as f64;
    assert!((mean - (1.0 - 0.7f64.powi(4))).abs() < 0.01, "{mean}");
    // A second nib must also cover: a half one leaves half.
    let half = png(8, 8, None, |_, y| if y < 4 { 0 } else { 255 });
    let both = Stamped { second_tip_png: Some(half), ..stamped(png(8, 8, None, |_, _| 0), 0.1) };
    let c = covered(&inker(StrokeKind::Stamped(both), 2.0).ink(&line(20.0)), 32.0, [8.0, -0.9, 12.0, 0.9]);
    let ink_of = |rows: std::ops::Range<usize>| rows.clone().map(|y| c.data[y * c.width + 64]).sum::<f32>() / rows.len() as f32;
    // The half tip is cut to what is covered and so stands in the middle of the nib.
    assert!(ink_of(20..38) > 0.99 && ink_of(0..10) < 0.01 && ink_of(48..57) < 0.01);
}

/// The edge's softness is the 10–90 % distance of a Gaussian edge on a tip that was brought in as on any other: 2.563 σ (tables of Φ).
#[test]
fn a_tip_that_was_brought_in_is_as_soft_as_its_edge_says() {
    let square = png(64, 64, None, |_, _| 0);
    for softness_mm in [0.2, 0.5, 1.0] {
        let edge = Edge { softness_mm, ..Edge::default() };
        let b = Brush { edge, stroke: StrokeKind::Stamped(stamped(square.clone(), 0.05)), ..Brush::plain("b", 4.0) };
        let inked = Inker::new(&b, None, None).expect("inkable").ink(&line(20.0)).inked(0.001);
        let [_, top, _, bottom] = inked.bounds().expect("ink");
        assert!(top < -2.0 - softness_mm && bottom > 2.0 + softness_mm, "{top} to {bottom}");
        let (px, from) = (40.0, -4.0);
        let (w, h) = (161, 160);
        let c = inked.raster(px, [8.0, from], w, h);
        let middle: Vec<f32> = (0..h).map(|y| c.data[y * w + w / 2]).collect();
        // Where the rise comes to a share, between two pixels' middles.
        let at = |share: f32| {
            let y = middle.iter().position(|v| *v >= share).expect("it rises");
            let (a, b) = (middle[y - 1], middle[y]);
            from + (y as f64 - 0.5 + f64::from((share - a) / (b - a))) / px
        };
        assert!((at(0.9) - at(0.1) - softness_mm).abs() < 0.03 * softness_mm + 0.004, "{softness_mm}: {}", at(0.9) - at(0.1));
        // Where a pixel is half covered the tips that follow one another fill it: the edge lies up to a pixel outside.
        assert!((-2.0 - 1.1 / px..-1.99).contains(&at(0.5)), "{softness_mm}: {}", at(0.5));
    }
}

#[test]
fn the_tooth_takes_ink_on_its_high_fibres_first() {
    let paper = |x: u32, y: u32| ((x * 37 + y * 91) % 256) as u8;
    for light in [false, true] {
        let tooth = Tooth::read(&png(64, 64, Some(300.0), paper), light).expect("a tooth");
        let (x, y) = (10.5 * 25.4 / 300.0, 20.0 * 25.4 / 300.0);
        assert!((0.0..=1.0).contains(&tooth.height(x, y)));
        // It repeats over the page.
        let long = 64.0 * 25.4 / 300.0;
        assert!((tooth.height(x, y) - tooth.height(x + 3.0 * long, y - 2.0 * long)).abs() < 1e-3);
        // Either polarity: the light pixel is high, or low.
        let at = |x: u32, y: u32| tooth.height(f64::from(x) * 0.0254 / 0.3, f64::from(y) * 0.0254 / 0.3);
        let brightest = (0..64 * 64).max_by_key(|i| paper(i % 64, i / 64)).expect("one");
        assert_eq!(at(brightest % 64, brightest / 64) > 0.5, light);
    }
    let paper_png = Some(png(64, 64, Some(150.0), paper));
    let i = inker(StrokeKind::Stamped(Stamped { paper_png, ..stamped(disk(64), 0.05) }), 3.0);
    let filled = |effort: f64| {
        let c = covered(&i.ink(&stroke(100, |u| [30.0 * u, 0.0], effort, 2.0)), 20.0, [5.0, -0.5, 25.0, 0.5]);
        c.data.iter().map(|v| f64::from(*v)).sum::<f64>() / c.data.len() as f64
    };
    let by: Vec<f64> = [0.0, 0.3, 0.6, 1.0].map(filled).to_vec();
    assert!(by.windows(2).all(|w| w[1] > w[0]) && by[3] > 0.999 && by[0] < 0.35, "{by:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Higher fibres take no less, and harder pressing takes no less.
    #[test]
    fn paper_never_takes_less_where_it_is_higher_or_pressed_harder(h in 0.0f64..1.0, e in 0.0f64..1.0, dh in 0.0f64..0.5, de in 0.0f64..0.5) {
        let there = Tooth::takes(h, e);
        prop_assert!(Tooth::takes(h + dh, e) >= there && Tooth::takes(h, e + de) >= there && (0.0..=1.0).contains(&there));
    }

    /// A pixel line has as many pixels as its longer side, touches itself by a side or corner, and is never half a pixel off.
    #[test]
    fn a_pixel_line_is_one_clean_pixel(x in -40.0f64..40.0, y in -40.0f64..40.0, px in 1.0f64..20.0) {
        let i = inker(StrokeKind::Pixel, 3.0);
        let s = stroke(2, |u| [x * u, y * u], 0.5, 1.0);
        let size = (90.0 * px) as usize;
        let c = covered(&i.ink(&s), px, [-45.0, -45.0, 45.0, 45.0]);
        prop_assert!(c.data.iter().all(|v| *v == 0.0 || *v == 1.0));
        let inked: Vec<[i64; 2]> = (0..c.data.len()).filter(|k| c.data[*k] == 1.0).map(|k| [(k % c.width) as i64, (k / c.width) as i64]).collect();
        let cell = |p: [f64; 2]| [0, 1].map(|k| ((p[k] + 45.0) * px).floor() as i64);
        let (from, to) = (cell([0.0, 0.0]), cell([x, y]));
        let along = [0, 1].map(|k| to[k] - from[k]);
        prop_assert_eq!(inked.len() as i64, along[0].abs().max(along[1].abs()) + 1, "{} px wide", size);
        let long = (along[0] as f64).hypot(along[1] as f64).max(1.0);
        for p in &inked {
            let d = [(p[0] - from[0]) as f64, (p[1] - from[1]) as f64];
            let minor = if along[0].abs() >= along[1].abs() { 0 } else { 1 };
            // Off the line along the shorter axis, at most half a pixel.
            let off = (d[0] * along[1] as f64 - d[1] * along[0] as f64) / (along[minor].abs().max(1)) as f64;
            prop_assert!(off.abs() <= 0.5 + 1e-9, "{off} of {long}");
        }
    }

    /// Whatever it is drawn with, no pixel of a pixel line can be taken out without a gap but its ends'.
    #[test]
    fn a_scribbled_pixel_line_has_no_doubled_corner(seed in prop::collection::vec((-1.0f64..1.0, 0.2f64..1.0), 8..40)) {
        // A course that never crosses itself: it always goes on to the right.
        let mut at = [0.0, 0.0];
        let places: Vec<[f64; 2]> = seed.iter().map(|(dy, dx)| { at = [at[0] + dx, at[1] + dy]; at }).collect();
        let n = places.len();
        let s = stroke(n, |u| places[(u * (n - 1) as f64).round() as usize], 0.5, 1.0);
        let c = covered(&inker(StrokeKind::Pixel, 1.0).ink(&s), 8.0, [-2.0, -45.0, 45.0, 45.0]);
        let on = |x: i64, y: i64| x >= 0 && y >= 0 && (x as usize) < c.width && (y as usize) < c.height && c.data[y as usize * c.width + x as usize] == 1.0;
        for (k, _) in c.data.iter().enumerate().filter(|(_, v)| **v == 1.0) {
            let (x, y) = ((k % c.width) as i64, (k / c.width) as i64);
            let sides = [(1, 0), (-1, 0), (0, 1), (0, -1)].iter().filter(|(a, b)| on(x + a, y + b)).count();
            let corner = [(1, 0), (-1, 0)].iter().any(|(a, _)| [1, -1].iter().any(|b| on(x + a, y) && on(x, y + b)));
            let all = [-1, 0, 1].iter().flat_map(|a| [-1, 0, 1].map(|b| (*a, b))).filter(|(a, b)| (*a, *b) != (0, 0) && on(x + a, y + b)).count();
            prop_assert!(!(corner && sides == 2 && all == 2), "a doubled corner at {x}, {y}");
        }
    }

    /// No stroke makes a kind fall over, and ink stays near the stroke.
    #[test]
    fn any_stroke_is_laid(points in prop::collection::vec((-20.0f64..20.0, -20.0f64..20.0, 0.0f64..=1.0), 1..40), which in 0usize..6, reversed: bool, ragged: bool) {
        let kind = match which {
            0 => StrokeKind::Shaped(Shaped { shape_path: LEAF.into(), ends: Ends::Stretch, caps: None, break_over_deg: None }),
            1 => StrokeKind::Shaped(Shaped { shape_path: LEAF.into(), ends: Ends::Keep, caps: Some([0.2, 0.3]), break_over_deg: Some(70.0) }),
            2 => StrokeKind::DryBrush { hairs: 12, spread: 0.6, snap: 0.2, ink_held: 0.8 },
            3 => StrokeKind::Stamped(Stamped { stray: 0.5, size_range: 0.4, angle_range_deg: 90.0, ..stamped(disk(16), 0.3) }),
            4 => StrokeKind::Pixel,
            _ => StrokeKind::Swept,
        };
        let edge = if ragged { Edge { raggedness_um: 20.0, correlation_um: 200.0, ..Edge::default() } } else { Edge::default() };
        let b = Brush { stroke: kind, reversed, edge, weight: vec![[0.0, 0.2], [1.0, 1.5]], ..Brush::plain("any", 1.0) };
        let s = Stroke::new(points.iter().enumerate().map(|(i, p)| Sample { t_ms: 8.0 * i as f64, x: p.0, y: p.1, pressure: Some(p.2), ..Sample::default() }).collect());
        let i = Inker::new(&b, None, None).expect("inkable");
        let ink = i.ink(&s);
        prop_assert_eq!(ink.samples.len(), s.samples.len());
        let inked = ink.inked(0.002);
        // A bundle that is hardly pressed or runs dry leaves nothing.
        prop_assume!(which != 2 || inked.bounds().is_some());
        let [l, t, r, bottom] = inked.bounds().expect("inked");
        let length = *s.lengths_mm().last().expect("one");
        // A bent shape is as thick as its proportions make it; all else stays within two of the widest nib.
        let reach = if which == 0 { 0.31 * 1.5 / 0.85 * length / 2.0 + 2.0 } else { 3.2 };
        prop_assert!(l > -20.0 - reach && t > -20.0 - reach && r < 20.0 + reach && bottom < 20.0 + reach, "{l} {t} {r} {bottom}");
        let mut live = LiveStroke::new(i, 1.0, 0.002);
        s.samples.iter().for_each(|p| drop(live.push(*p)));
        if let Some(d) = ink.distortion() {
            prop_assert!(d.share >= 0.0 && (0.0..=1.0).contains(&d.folded));
        }
    }
}

#[test]
fn a_stroke_kind_that_cannot_be_inked_is_refused_by_the_field_that_has_it() {
    let ring = "M0 0 H10 V4 H0 Z M20 0 H30 V4 H20 Z";
    let wrong = [
        (StrokeKind::Shaped(Shaped { shape_path: "M0 0 L".into(), ends: Ends::Stretch, caps: None, break_over_deg: None }), "stroke.shape_path"),
        (StrokeKind::Shaped(Shaped { shape_path: "M0 0 L10 0 L20 0 Z".into(), ends: Ends::Stretch, caps: None, break_over_deg: None }), "no area"),
        (StrokeKind::Shaped(Shaped { shape_path: ring.into(), ends: Ends::Keep, caps: Some([0.2, 0.2]), break_over_deg: None }), "2 pieces"),
        (StrokeKind::Shaped(Shaped { shape_path: LEAF.into(), ends: Ends::Keep, caps: Some([0.7, 0.7]), break_over_deg: None }), "stroke.caps"),
        (StrokeKind::DryBrush { hairs: 0, spread: 0.5, snap: 0.5, ink_held: 1.0 }, "stroke.hairs"),
        (StrokeKind::Stamped(stamped(String::new(), 0.1)), "stroke.tip_png"),
        (StrokeKind::Stamped(stamped(png(4, 4, None, |_, _| 255), 0.1)), "empty"),
        (StrokeKind::Stamped(stamped(disk(8), 0.0)), "stroke.spacing"),
        (StrokeKind::Stamped(Stamped { paper_png: Some(disk(8)), ..stamped(disk(8), 0.1) }), "dpi"),
        (StrokeKind::Stamped(Stamped { paper_png: Some(png(8, 8, Some(300.0), |_, _| 9)), ..stamped(disk(8), 0.1) }), "even"),
    ];
    for (kind, says) in wrong {
        let said = Inker::new(&Brush { stroke: kind, ..Brush::plain("b", 1.0) }, None, None).expect_err(says).to_string();
        assert!(said.contains(says), "{says}: {said}");
    }
    // A bent shape may be of several pieces.
    assert!(
        (inker(StrokeKind::Shaped(Shaped { shape_path: ring.into(), ends: Ends::Stretch, caps: None, break_over_deg: None }), 1.0)
            .ink(&line(30.0))
            .outline(1e-4)
            .paths
            .len())
            == 2
    );
}

/// What is inked of a document, as SVG.
fn inked(document: &str) -> Vec<(String, f64)> {
    let brush = Brush::from_json(document).expect(document);
    let wave: Vec<Sample> = (0..60)
        .map(|i| Sample { t_ms: 8.0 * f64::from(i), x: 0.4 * f64::from(i), y: (0.2 * f64::from(i)).sin(), pressure: Some(0.5), ..Sample::default() })
        .collect();
    let inked = Inker::new(&brush, None, None).expect("inkable").ink(&Stroke::new(wave)).inked(1e-3);
    inked.svg_paths(1e-3)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// A document with the names of before inks the same outline as one with those of today, and is written with those of today.
    #[test]
    fn names_of_before_ink_the_same(
        which in 0usize..4,
        (a, b) in (0.0f64..0.4, 0.0f64..0.5),
        hairs in 1u32..20,
        (spread, span, slack) in (0.0f64..0.3, 0.0f64..80.0, 0.0f64..0.5),
        tow in any::<bool>(),
    ) {
        let leaf = "M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z";
        let (old, new) = match which {
            0 => (format!(r#"{{"kind":"bent","shape_path":"{leaf}"}}"#), format!(r#"{{"kind":"shaped","shape_path":"{leaf}","ends":"stretch"}}"#)),
            1 => (
                format!(r#"{{"kind":"capped-run","shape_path":"{leaf}","caps":[{a},{b}]}}"#),
                format!(r#"{{"kind":"shaped","shape_path":"{leaf}","ends":"keep","caps":[{a},{b}]}}"#),
            ),
            2 => (
                format!(r#"{{"kind":"bristled","hairs":{hairs},"spread":{a},"stiffness":{b},"load":1.5}}"#),
                format!(r#"{{"kind":"dry-brush","hairs":{hairs},"spread":{a},"snap":{b},"ink_held":1.5}}"#),
            ),
            _ => {
                let (tip, paper) = (disk(16), png(8, 8, Some(300.0), |x, y| if (x + y) % 2 == 0 { 20 } else { 200 }));
                (
                    format!(r#"{{"kind":"stamped","tip_png":"{tip}","spacing":0.3,"scatter":{a},"tooth_png":"{paper}","tooth_high_is_light":true}}"#),
                    format!(r#"{{"kind":"stamped","tip_png":"{tip}","spacing":0.3,"stray":{a},"paper_png":"{paper}","paper_high_is_light":true}}"#),
                )
            }
        };
        let whole = |stroke: (&str, &str), chance: &str, average: &str, slack_name: &str| {
            let position = if tow { format!(r#"{{"kind":"tow","{slack_name}":{slack}}}"#) } else { r#"{"kind":"none"}"#.into() };
            format!(
                r#"{{"format":"eddymist/brush","version":1,"name":"b","nib":{{"shape":"round"}},"weight":[[0,0.3],[1,1.2]],"{}":{},"{chance}":{{"spread":{spread},"correlation_mm":2}},"smoothing":{{"position":{position},"effort":{{"kind":"average","{average}":{span}}}}}}}"#,
                stroke.0, stroke.1
            )
        };
        let before = whole(("lay", &old), "jitter", "window_ms", "radius_mm");
        let today = whole(("stroke", &new), "chance", "span_ms", "slack_mm");
        let (x, y) = (Brush::from_json(&before).expect("names of before"), Brush::from_json(&today).expect("names of today"));
        prop_assert_eq!(&x, &y);
        prop_assert_eq!(inked(&before), inked(&today));
        let written = serde_json::to_string(&x).expect("JSON");
        for gone in ["lay", "jitter", "window_ms", "radius_mm", "stiffness", "load", "scatter", "tooth_png", "bent", "capped-run", "bristled"] {
            prop_assert!(!written.contains(&format!("\"{gone}\"")), "{}", gone);
        }
    }
}
