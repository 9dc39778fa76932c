//! Edges, opacity and softness against what the brush says of them, and against formulas.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_ink::{
    Brush, Inker, LiveStroke, Outline, Sample, Stroke,
    brush::{Edge, Nib, NibShape, Opacity, StrokeKind},
    strip::Strip,
};
use proptest::prelude::*;
use statrs::distribution::{ContinuousCDF, Normal};

fn inker(brush: &Brush) -> Inker {
    Inker::new(brush, None, None).expect("inkable")
}

fn line(n: usize, long: f64, y: f64, pressure: impl Fn(f64) -> f64) -> Stroke {
    let u = |i: usize| i as f64 / (n - 1) as f64;
    Stroke::new((0..n).map(|i| Sample { t_ms: 5.0 * i as f64, x: long * u(i), y, pressure: Some(pressure(u(i))), ..Sample::default() }).collect())
}

fn ragged(um: f64, correlation_um: f64) -> Brush {
    Brush { edge: Edge { raggedness_um: um, correlation_um, ..Edge::default() }, ..Brush::plain("ragged", 0.6) }
}

/// Where a level line's outline lies above and below its middle, every `step` mm of its body.
fn edges(o: &Outline, long: f64, step: f64) -> [Vec<f64>; 2] {
    let path = o.paths.iter().max_by_key(|p| p.len()).expect("an outline");
    let mut sides: [Vec<[f64; 2]>; 2] = Default::default();
    for p in path.iter().filter(|p| p[0] > 1.0 && p[0] < long - 1.0) {
        sides[usize::from(p[1] > 0.0)].push(*p);
    }
    sides.map(|mut s| {
        s.sort_by(|a, b| a[0].total_cmp(&b[0]));
        let n = ((long - 4.0) / step) as usize;
        (0..n)
            .map(|k| {
                let x = 2.0 + step * k as f64;
                let i = s.partition_point(|p| p[0] < x).clamp(1, s.len() - 1);
                let (a, b) = (s[i - 1], s[i]);
                a[1] + (b[1] - a[1]) * (x - a[0]) / (b[0] - a[0]).max(1e-12)
            })
            .collect()
    })
}

fn moments(a: &[f64], b: &[f64], lag: usize) -> f64 {
    let (ma, mb) = (a.iter().sum::<f64>() / a.len() as f64, b.iter().sum::<f64>() / b.len() as f64);
    let n = a.len() - lag;
    (0..n).map(|i| (a[i] - ma) * (b[i + lag] - mb)).sum::<f64>() / n as f64
}

#[test]
fn a_ragged_edge_has_its_deviation_and_its_correlation_on_each_side_for_itself() {
    let (um, length) = (12.0, 150.0);
    let o = inker(&ragged(um, length)).ink(&line(400, 300.0, 0.0, |_| 0.5)).outline(0.0005);
    let [top, low] = edges(&o, 300.0, 0.05);
    for side in [&top, &low] {
        let variance = moments(side, side, 0);
        assert!((1000.0 * variance.sqrt() / um - 1.0).abs() < 0.06, "{}", 1000.0 * variance.sqrt());
        let at_length = moments(side, side, 3) / variance;
        assert!((at_length - (-1.0f64).exp()).abs() < 0.06, "{at_length}");
    }
    let across = moments(&top, &low, 0) / moments(&top, &top, 0);
    assert!(across.abs() < 0.08, "{across}");
    // The mean width is the brush's: the line is neither fattened nor thinned.
    let width = low.iter().zip(&top).map(|(l, t)| l - t).sum::<f64>() / low.len() as f64;
    assert!((width - 0.6).abs() < 0.002, "{width}");
    // The same stroke has the same edge, another seed another; a fine line is never torn in two.
    let again = inker(&ragged(um, length)).ink(&line(400, 300.0, 0.0, |_| 0.5)).outline(0.0005);
    assert_eq!(o, again);
    let thin = Brush { weight: vec![[0.0, 0.03], [1.0, 0.03]], ..ragged(20.0, 100.0) };
    assert_eq!(inker(&thin).ink(&line(200, 60.0, 0.0, |_| 0.5)).outline(0.0005).paths.iter().filter(|p| p.len() > 40).count(), 1);
}

#[test]
fn a_rough_edge_follows_bends_corners_and_crossings_and_keeps_the_area() {
    let courses: [fn(f64) -> [f64; 2]; 3] = [
        |u| [10.0 * (6.0 * u).cos(), 10.0 * (6.0 * u).sin()],
        |u| if u < 0.5 { [40.0 * u, 0.0] } else { [20.0, 40.0 * (u - 0.5)] },
        |u| [20.0 * (6.3 * u).sin(), 12.0 * (12.6 * u).sin()],
    ];
    for (i, course) in courses.into_iter().enumerate() {
        let s = Stroke::new(
            (0..500)
                .map(|k| {
                    let [x, y] = course(f64::from(k) / 499.0);
                    Sample { t_ms: 4.0 * f64::from(k), x, y, pressure: Some(0.5), ..Sample::default() }
                })
                .collect(),
        );
        let b = ragged(10.0, 140.0);
        let rough = inker(&b).ink(&s).outline(0.0005).area_mm2();
        let smooth = inker(&Brush { edge: Edge::default(), ..b.clone() }).ink(&s).outline(0.0005).area_mm2();
        assert!((rough / smooth - 1.0).abs() < 0.01, "{i}: {rough} and {smooth}");
        let mut live = LiveStroke::new(inker(&b), 1.0, 0.0005);
        let together = Outline::united(s.samples.iter().flat_map(|p| live.push(*p)).collect());
        assert!((together.area_mm2() / rough - 1.0).abs() < 0.01, "{i}: live {}", together.area_mm2());
    }
}

/// A strip as a grey PNG: dark between two edges that are waves along it, its resolution in the file.
fn strip(columns: usize, px_mm: f64, edges: impl Fn(f64) -> [f64; 2]) -> String {
    let rows = 80;
    let data: Vec<u8> = (0..rows * columns)
        .map(|i| {
            let (x, y) = (((i % columns) as f64 + 0.5) * px_mm, (i / columns) as f64);
            let [t, b] = edges(x).map(|e| 40.0 + e / px_mm);
            let cover = ((y + 1.0).min(b) - y.max(t)).clamp(0.0, 1.0);
            (255.0 * (1.0 - cover)) as u8
        })
        .collect();
    let mut bytes = Vec::new();
    let mut e = png::Encoder::new(&mut bytes, columns as u32, rows as u32);
    e.set_color(png::ColorType::Grayscale);
    e.set_pixel_dims(Some(png::PixelDimensions { xppu: (1000.0 / px_mm) as u32, yppu: (1000.0 / px_mm) as u32, unit: png::Unit::Meter }));
    e.write_header().and_then(|mut w| w.write_image_data(&data)).expect("a PNG");
    format!("data:image/png;base64,{}", STANDARD.encode(bytes))
}

#[test]
fn a_strip_repeats_along_the_stroke_with_its_own_edges() {
    let (px, n) = (0.01, 800);
    let period = px * n as f64;
    let wave = |x: f64, k: f64| (std::f64::consts::TAU * k * x / period).sin();
    let uri = strip(n, px, |x| [-0.2 + 0.03 * wave(x, 3.0), 0.2 + 0.02 * wave(x, 5.0)]);
    let read = Strip::read(&uri).expect("a strip");
    assert!((read.period_mm() - period).abs() < 1e-9 && read.mismatch_mm < 0.002, "{}", read.mismatch_mm);
    let b = Brush { edge: Edge { strip_png: Some(uri), ..Edge::default() }, ..Brush::plain("strip", 0.6) };
    let [top, low] = edges(&inker(&b).ink(&line(300, 40.0, 0.0, |_| 0.5)).outline(0.0005), 40.0, 0.1);
    // Which edge comes first depends on the way the stroke goes: the left one is the strip's upper one.
    for (k, (t, l)) in top.iter().zip(&low).enumerate() {
        let x = 2.0 + 0.1 * k as f64;
        assert!((t - (-0.3 + 0.03 * wave(x, 3.0))).abs() < 0.006, "{x}: {t}");
        assert!((l - (0.3 + 0.02 * wave(x, 5.0))).abs() < 0.006, "{x}: {l}");
    }
    // A strip whose ends do not meet says by how much.
    let off = Strip::read(&strip(n, px, |x| [-0.2 - 0.05 * x / period, 0.2])).expect("a strip");
    assert!((off.mismatch_mm - 0.05).abs() < 0.004, "{}", off.mismatch_mm);
    for (bad, says) in
        [("x".to_string(), "data URI"), ("data:image/png;base64,AAAA".into(), "no readable PNG"), (strip(n, px, |_| [0.0, 0.0]), "shows no line")]
    {
        let b = Brush { edge: Edge { strip_png: Some(bad), ..Edge::default() }, ..Brush::plain("strip", 0.6) };
        assert!(Inker::new(&b, None, None).expect_err("no strip").to_string().contains(says), "{says}");
    }
}

#[test]
fn a_drawn_nib_has_rough_edges_too() {
    let square = vec![[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]];
    let b = Brush { nib: Nib { shape: NibShape::Polygon, points: Some(square), ..Nib::round() }, ..ragged(12.0, 150.0) };
    for side in edges(&inker(&b).ink(&line(400, 300.0, 0.0, |_| 0.5)).outline(0.0005), 300.0, 0.05) {
        let mean = side.iter().sum::<f64>() / side.len() as f64;
        assert!((mean.abs() - 0.3).abs() < 0.003, "{mean}");
        let um = 1000.0 * moments(&side, &side, 0).sqrt();
        assert!((um / 12.0 - 1.0).abs() < 0.08, "{um}");
    }
}

fn coverage(b: &Brush, strokes: &[Stroke]) -> impl Fn(f64, f64) -> f64 + use<> {
    let i = inker(b);
    let px = 20.0;
    let (w, h) = (900usize, 500usize);
    let mut sum = vec![0.0f32; w * h];
    for s in strokes {
        let c = i.ink(s).inked(0.0005).raster(px, [-2.0, -10.0], w, h);
        sum.iter_mut().zip(&c.data).for_each(|(o, c)| *o = 1.0 - (1.0 - *o) * (1.0 - c));
    }
    move |x, y| f64::from(sum[((y + 10.0) * px) as usize * w + ((x + 2.0) * px) as usize])
}

/// `1 − (1 − α)²` where two strokes cross; where one crosses itself, α.
#[test]
fn half_opacity_laid_twice_is_three_quarters_and_a_loop_does_not_build_up() {
    let b = Brush { opacity: Opacity { floor: 0.5, full: 0.5 }, ..Brush::plain("half", 2.0) };
    let at = coverage(&b, &[line(50, 40.0, 0.0, |_| 0.5), line(50, 40.0, 1.0, |_| 0.5)]);
    assert!((at(20.0, 0.5) - 0.75).abs() < 1e-3 && (at(20.0, -0.6) - 0.5).abs() < 1e-3 && at(20.0, 5.0) == 0.0);
    let crossing = Stroke::new(
        [[0.0, -5.0], [20.0, 5.0], [20.0, -5.0], [0.0, 5.0]]
            .iter()
            .enumerate()
            .map(|(i, p)| Sample { t_ms: 300.0 * i as f64, x: p[0], y: p[1], ..Sample::default() })
            .collect(),
    );
    let at = coverage(&b, &[crossing]);
    assert!((at(10.0, 0.0) - 0.5).abs() < 1e-3, "{}", at(10.0, 0.0));
}

#[test]
fn opacity_follows_effort_and_takes_the_greatest_where_a_stroke_meets_itself() {
    let b = Brush { opacity: Opacity { floor: 0.2, full: 0.9 }, ..Brush::plain("washed", 2.0) };
    let at = coverage(&b, &[line(200, 40.0, 0.0, |u| u)]);
    for x in [4.0, 12.0, 20.0, 30.0, 38.0] {
        // A step, and the nib's own radius.
        assert!((at(x, 0.0) - (0.2 + 0.7 * x / 40.0)).abs() < 1.0 / 64.0 + 0.7 / 40.0, "{x}: {}", at(x, 0.0));
    }
    // However few samples came, nowhere along the line is there a step that is seen, nor the round end of one.
    for n in [5, 12, 200] {
        let at = coverage(&b, &[line(n, 40.0, 0.0, |u| u)]);
        for y in [0.0, 0.5, -0.8] {
            for k in 40..740 {
                let x = 0.05 * f64::from(k);
                let step = at(x + 0.05, y) - at(x, y);
                assert!((-1e-3..1.1 / 64.0).contains(&step), "{n} samples at {x}, {y}: {step}");
            }
        }
    }
    // Of hairs too, whose streaks part: no step that is laid is larger.
    let hairs = StrokeKind::DryBrush { hairs: 12, spread: 0.4, snap: 0.6, ink_held: 2.0 };
    for n in [5, 12, 200] {
        let dry = Brush { stroke: hairs.clone(), ..b.clone() };
        let laid = inker(&dry).ink(&line(n, 40.0, 0.0, |u| u)).inked(0.001);
        let after = laid.layers.iter().scan(0.0, |a, l| {
            *a = 1.0 - (1.0 - *a) * (1.0 - l.alpha);
            Some(*a)
        });
        let after: Vec<f64> = after.collect();
        assert!(after.windows(2).all(|w| w[1] - w[0] < 1.1 / 64.0), "{n} samples: {after:?}");
        assert!((after[0] - 0.2).abs() < 0.02 && (after[after.len() - 1] - 0.9).abs() < 0.02, "{n} samples: {after:?}");
    }
    // There at full effort, back at none: the way there shows.
    let back = Stroke::new(
        (0..100)
            .map(|i| Sample {
                t_ms: 5.0 * f64::from(i),
                x: if i < 50 { 0.8 * f64::from(i) } else { 0.8 * f64::from(99 - i) },
                pressure: Some(if i < 50 { 1.0 } else { 0.0 }),
                ..Sample::default()
            })
            .collect(),
    );
    assert!((coverage(&b, &[back])(20.0, 0.0) - 0.9).abs() < 1e-3);
}

/// A soft edge is a Gaussian whose 10–90 % distance is the softness: coverage across it is Φ.
#[test]
fn a_soft_edge_is_as_soft_as_it_says() {
    let phi = Normal::new(0.0, 1.0).expect("a distribution");
    for softness in [0.3, 0.8] {
        let b = Brush { edge: Edge { softness_mm: softness, ..Edge::default() }, ..Brush::plain("soft", 4.0) };
        let at = coverage(&b, &[line(50, 40.0, 0.0, |_| 0.5)]);
        let sigma = softness / 2.563_103;
        for k in -6..=6 {
            let y = 2.0 + 0.05 * f64::from(k);
            // A pixel is 0.05 mm: its middle.
            let middle = ((y + 10.0) * 20.0).floor() / 20.0 - 10.0 + 0.025;
            let want = 1.0 - phi.cdf((middle - 2.0) / sigma);
            assert!((at(20.0, y) - want).abs() < 0.02, "{softness} at {y}: {} and {want}", at(20.0, y));
        }
        assert_eq!(inker(&b).ink(&line(50, 40.0, 0.0, |_| 0.5)).outline(0.0005).paths.len(), 1);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever the edge, coverage lies between 0 and 1 and the outline is finite.
    #[test]
    fn any_edge_inks_any_stroke(um in 0.0f64..200.0, correlation in 0.0f64..400.0, soft in 0.0f64..1.0, floor in 0.0f64..=1.0, points in prop::collection::vec((0.0f64..20.0, 0.0f64..20.0, 0.0f64..=1.0), 1..30)) {
        let b = Brush {
            edge: Edge { raggedness_um: um, correlation_um: correlation, softness_mm: soft, ..Edge::default() },
            opacity: Opacity { floor, full: 1.0 },
            weight: vec![[0.0, 0.05], [1.0, 1.5]],
            ..Brush::plain("any", 1.0)
        };
        let s = Stroke::new(points.iter().enumerate().map(|(i, p)| Sample { t_ms: 9.0 * i as f64, x: p.0, y: p.1, pressure: Some(p.2), ..Sample::default() }).collect());
        let inked = inker(&b).ink(&s).inked(0.001);
        prop_assert!(inked.layers.iter().flat_map(|l| l.outline.paths.iter().flatten().flatten()).all(|v| v.is_finite()));
        let c = inked.raster(6.0, [-3.0, -3.0], 156, 156);
        prop_assert!(c.data.iter().all(|v| (0.0..=1.0001).contains(v)));
    }
}
