//! Ruled lines whose every figure follows from a formula: a bar of ink under a Gaussian blur, on even and uneven paper.

use eddymist_measure::scan::{LineMeasurement, Scan, ScanError, measure, nearest_standard};
use proptest::prelude::*;
use statrs::distribution::{ContinuousCDF, Normal};

/// A line from `from` to `to` in mm, its width there and its dot at the end, under a blur of `sigma` mm.
#[derive(Clone, Copy)]
struct Bar {
    from: [f64; 2],
    to: [f64; 2],
    width: f64,
    /// Over the last so many mm the width falls to nothing, evenly.
    taper: f64,
}

impl Bar {
    fn new(y: f64, width: f64) -> Self {
        Self { from: [4.0, y], to: [56.0, y + 1.3], width, taper: 0.0 }
    }

    /// Coverage at a place: the Gaussian integral across the bar, and along its ends.
    fn cover(&self, p: [f64; 2], sigma: f64, phi: &Normal) -> f64 {
        let (dx, dy) = (self.to[0] - self.from[0], self.to[1] - self.from[1]);
        let length = dx.hypot(dy);
        let along = ((p[0] - self.from[0]) * dx + (p[1] - self.from[1]) * dy) / length;
        let across = ((p[0] - self.from[0]) * dy - (p[1] - self.from[1]) * dx) / length;
        let half = 0.5 * self.width * if self.taper > 0.0 { ((length - along) / self.taper).clamp(0.0, 1.0) } else { 1.0 };
        if across.abs() > half + 6.0 * sigma || along < -6.0 * sigma || along > length + 6.0 * sigma {
            return 0.0;
        }
        let inside = |v: f64, low: f64, high: f64| phi.cdf((high - v) / sigma) - phi.cdf((low - v) / sigma);
        inside(across, -half, half) * inside(along, 0.0, length)
    }
}

const PAPER: f64 = 0.8;
const INK: f64 = 0.04;

fn scan(bars: &[Bar], dpi: f64, sigma: f64, shade: impl Fn(f64, f64) -> f64) -> Scan {
    let k = dpi / 25.4;
    let (width, height) = ((60.0 * k) as usize, (24.0 * k) as usize);
    let phi = Normal::new(0.0, 1.0).expect("the normal law");
    let mut data = Vec::with_capacity(width * height);
    for y in 0..height {
        for x in 0..width {
            let p = [(x as f64 + 0.5) / k, (y as f64 + 0.5) / k];
            // Of a line of several bars, where one ends and the next begins both cover half.
            let c = bars.iter().map(|b| b.cover(p, sigma, &phi)).sum::<f64>().min(1.0);
            data.push(((PAPER * (1.0 - c) + INK * c) * shade(x as f64 / width as f64, y as f64 / height as f64)) as f32);
        }
    }
    Scan { width, height, data, dpi }
}

fn read(s: &Scan) -> LineMeasurement {
    measure(s).expect("lines are found").0
}

#[test]
fn width_edges_and_darkness_are_what_their_formulas_say() {
    for (dpi, sigma) in [(600.0, 0.04), (600.0, 0.06), (1200.0, 0.03)] {
        // The wide bar shows the ink's own level.
        let m = read(&scan(&[Bar::new(4.0, 0.5), Bar::new(12.0, 2.0)], dpi, sigma, |_, _| 1.0));
        assert_eq!((m.lines.len(), m.resolution_dpi), (2, dpi));
        let pixel = 25.4 / dpi;
        // A pixel is an average over its own square: that blurs a little more.
        let blur = sigma.hypot(pixel / 12f64.sqrt());
        for (line, width) in m.lines.iter().zip([0.5, 2.0]) {
            assert!((line.width_mm.mean - width).abs() < 0.001, "{} of {width}", line.width_mm.mean);
            assert!(line.width_mm.sd < 0.001 && line.width_mm.max - line.width_mm.min < 0.004, "{:?}", line.width_mm);
            // 10 % to 90 % of a Gaussian edge: 2 · 1.2816 σ. At 60 % of the way to the ink each edge lies 0.2533 σ inside its middle.
            let blurriness = line.blurriness_um.expect("a scan");
            assert!((blurriness / (2563.1 * blur) - 1.0).abs() < 0.06, "{blurriness} of {}", 2563.1 * blur);
            assert!((line.width_60_mm - width + 2.0 * 0.2533 * blur).abs() < 0.004, "{} of {}", line.width_60_mm, width - 0.5066 * blur);
            assert!(line.raggedness_um.is_some_and(|r| r < 1.0), "{:?}", line.raggedness_um);
            assert!((line.darkness - (PAPER / INK).log10()).abs() < 0.05, "{}", line.darkness);
            assert!((line.angle_deg.abs() - (1.3f64 / 52.0).atan().to_degrees()).abs() < 0.01 && (line.length_mm - 52.0).abs() < 0.4, "{line:?}");
            assert!(line.start.taper_mm == 0.0 && line.end.taper_mm == 0.0 && (line.start.dot_ratio - 1.0).abs() < 0.02, "{line:?}");
            assert!(line.from_mm < line.length_mm && line.from_mm > 48.0 - width, "{}", line.from_mm);
        }
    }
}

#[test]
fn angles_are_counter_clockwise_and_lines_come_from_above() {
    let tilted = |dy: f64, y: f64| Bar { from: [4.0, y], to: [56.0, y + dy], ..Bar::new(y, 0.6) };
    let m = read(&scan(&[tilted(2.0, 15.0), tilted(-2.0, 6.0), tilted(0.0, 10.0)], 400.0, 0.05, |_, _| 1.0));
    // On the page y runs down: a line that falls to the right turns clockwise.
    let angles: Vec<f64> = m.lines.iter().map(|l| l.angle_deg).collect();
    let turn = (2.0f64 / 52.0).atan().to_degrees();
    for (got, want) in angles.iter().zip([turn, 0.0, -turn]) {
        assert!((got - want).abs() < 0.01, "{angles:?}");
    }
}

#[test]
fn uneven_light_is_divided_out() {
    let bars = [Bar::new(4.0, 0.35), Bar::new(12.0, 2.0)];
    let even = read(&scan(&bars, 600.0, 0.04, |_, _| 1.0));
    let uneven = read(&scan(&bars, 600.0, 0.04, |u, v| 1.0 - 0.2 * u * u - 0.1 * v));
    for (a, b) in even.lines.iter().zip(&uneven.lines) {
        assert!((a.width_mm.mean - b.width_mm.mean).abs() < 0.004 && (a.darkness - b.darkness).abs() < 0.04, "{a:?}\n{b:?}");
    }
}

#[test]
fn a_taper_ends_where_the_width_first_stays_over_nine_tenths() {
    for taper in [6.0, 12.0] {
        let m = read(&scan(&[Bar { taper, ..Bar::new(5.0, 0.8) }, Bar::new(14.0, 2.0)], 600.0, 0.04, |_, _| 1.0));
        let line = &m.lines[0];
        // The width falls evenly: 90 % is left where a tenth of the taper is gone. The last tip, thinner than can be seen, is lost.
        assert!((line.end.taper_mm / (0.9 * taper) - 1.0).abs() < 0.1, "{} of {}", line.end.taper_mm, 0.9 * taper);
        assert!(line.start.taper_mm == 0.0 && (line.width_mm.mean - 0.8).abs() < 0.004, "{line:?}");
        assert!((line.from_mm - (52.0 - taper)).abs() < 2.0, "{}", line.from_mm);
    }
}

#[test]
fn without_a_wide_line_the_ink_is_fitted_and_said_to_be() {
    let m = read(&scan(&[Bar::new(5.0, 0.18), Bar::new(12.0, 0.2)], 600.0, 0.05, |_, _| 1.0));
    assert!(m.warnings.iter().any(|w| w.contains("fitted together with the blur")), "{:?}", m.warnings);
    for (line, width) in m.lines.iter().zip([0.18, 0.2]) {
        assert!((line.width_mm.mean / width - 1.0).abs() < 0.05, "{} of {width}", line.width_mm.mean);
    }
}

#[test]
fn clipped_and_one_bit_scans_are_told() {
    let good = scan(&[Bar::new(5.0, 0.5), Bar::new(14.0, 2.0)], 600.0, 0.04, |_, _| 1.0);
    assert!(read(&good).warnings.is_empty(), "{:?}", read(&good).warnings);
    let clipped = Scan { data: good.data.iter().map(|v| (v * 1.3).min(1.0)).collect(), ..good.clone() };
    assert!(read(&clipped).warnings.iter().any(|w| w.contains("clipped")));
    let bits = Scan { data: good.data.iter().map(|v| if *v > 0.4 { 0.95 } else { 0.03 }).collect(), ..good.clone() };
    assert!(read(&bits).warnings.iter().any(|w| w.contains("one-bit")));
    // Its steps cost accuracy, but not the line.
    assert!((read(&bits).lines[0].width_mm.mean - 0.5).abs() < 0.02);
}

#[test]
fn what_cannot_be_measured_is_refused() {
    let good = scan(&[Bar::new(5.0, 0.5)], 150.0, 0.06, |_, _| 1.0);
    for dpi in [0.0, 49.0, 20_000.0, f64::NAN, f64::INFINITY] {
        assert!(matches!(measure(&Scan { dpi, ..good.clone() }), Err(ScanError::Resolution(_))), "{dpi}");
    }
    assert!(matches!(measure(&Scan { width: 4, height: 4, data: vec![1.0; 16], dpi: 300.0 }), Err(ScanError::TooSmall { .. })));
    assert!(matches!(measure(&Scan { data: good.data[1..].to_vec(), ..good.clone() }), Err(ScanError::TooSmall { .. })));
    for level in [0.0, 0.5, 1.0, f32::NAN] {
        assert!(measure(&Scan { data: vec![level; good.data.len()], ..good.clone() }).is_err(), "{level}");
    }
}

#[test]
fn the_view_holds_the_line_that_the_figures_came_from() {
    let (m, views) = measure(&scan(&[Bar::new(5.0, 0.5), Bar::new(14.0, 2.0)], 600.0, 0.04, |_, _| 1.0)).expect("lines");
    for (figures, v) in m.lines.iter().zip(&views) {
        assert_eq!(&v.figures, figures);
        let px = 600.0 / 25.4;
        let length = (v.to[0] - v.from[0]).hypot(v.to[1] - v.from[1]) / px;
        assert!((length - figures.length_mm).abs() < 0.3, "{length}");
        assert_eq!((v.left_mm.len(), v.right_mm.len()), (v.width_mm.len(), v.width_mm.len()));
        let middle = v.width_mm.len() / 2;
        assert!(v.left_mm[middle] < 0.0 && v.right_mm[middle] > 0.0);
        assert!((v.right_mm[middle] - v.left_mm[middle] - figures.width_60_mm).abs() < 0.01);
        assert_eq!(v.strip.data.len(), v.strip.rows * v.strip.columns);
        let dark = v.strip.data[v.strip.rows / 2 * v.strip.columns + v.strip.columns / 2];
        assert!((dark - 1.0).abs() < 0.1, "{dark}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// Any width, turn and resolution: methods.md, section 2.
    #[test]
    fn any_ruled_line_is_measured_within_its_limit(width in 0.2f64..1.6, dy in -4.0f64..4.0, dpi in 300.0f64..900.0, sigma in 0.035f64..0.07) {
        let bars = [Bar { from: [4.0, 6.0 - 0.5 * dy], to: [56.0, 6.0 + 0.5 * dy], ..Bar::new(6.0, width) }, Bar { from: [4.0, 17.0], to: [56.0, 17.0], ..Bar::new(17.0, 2.0) }];
        let m = read(&scan(&bars, dpi, sigma, |u, _| 1.0 - 0.1 * u));
        prop_assert_eq!(m.lines.len(), 2);
        let limit = (0.005 * width).max(if dpi < 450.0 { 0.004 } else { 0.002 });
        prop_assert!((m.lines[0].width_mm.mean - width).abs() < limit, "{} of {}", m.lines[0].width_mm.mean, width);
        prop_assert!((m.lines[0].angle_deg + (dy / 52.0).atan().to_degrees()).abs() < 0.05);
    }

    /// Lines ruled close to one another: each is measured to the paper between them, and none is two.
    #[test]
    fn lines_side_by_side_are_measured_apart(width in 0.3f64..0.7, gap in 0.4f64..2.0, n in 2usize..6, tilt in -0.6f64..0.6) {
        let pitch = width + gap;
        let bars: Vec<Bar> = (0..n).map(|k| 4.0 + pitch * k as f64).map(|y| Bar { from: [6.0, y], to: [52.0, y + tilt], ..Bar::new(y, width) }).collect();
        let m = read(&scan(&bars, 300.0, 0.05, |u, _| 1.0 - 0.1 * u));
        prop_assert_eq!(m.lines.len(), n);
        for l in &m.lines {
            prop_assert!((l.width_mm.mean - width).abs() < (0.03 * width).max(0.012), "{} of {width}, {gap} apart", l.width_mm.mean);
        }
    }

    /// Lines ruled on squared paper, whose own lines are faint: they alone are found, as wide as they are but for what is printed beneath.
    #[test]
    fn squared_paper_is_paper(width in 0.3f64..0.9, every in 4.0f64..7.0, printed in 0.08f64..0.2) {
        let bars: Vec<Bar> = [5.2, 11.4, 17.9].map(|y| Bar { from: [6.0, y], to: [52.0, y + 0.7], ..Bar::new(y, width) }).to_vec();
        let rule = move |mm: f64| printed * (-0.5 * ((mm.rem_euclid(every) - 0.5 * every) / 0.09).powi(2)).exp();
        let m = read(&scan(&bars, 300.0, 0.05, |u, v| (1.0 - rule(24.0 * v)) * (1.0 - rule(60.0 * u))));
        prop_assert_eq!(m.lines.len(), 3);
        for l in &m.lines {
            prop_assert!((l.width_mm.mean - width).abs() < (0.1 * width).max(0.045), "{} of {width}", l.width_mm.mean);
        }
    }

    /// A note written beside the lines, and a dashed line: neither is a line, neither tells what the ink is like, and that they were passed over is
    /// said.
    #[test]
    fn what_is_written_beside_the_lines_is_no_line(
        letters in prop::collection::vec(prop::collection::vec((0u8..6, 0u8..6), 2..4), 8..20), pen in 0.2f64..0.5, high in 1.2f64..2.6, dash in 1.0f64..3.0, tall in 5.5f64..9.0
    ) {
        let bars = [Bar::new(3.0, 0.5), Bar::new(20.0, 1.4)];
        let alone = read(&scan(&bars, 300.0, 0.05, |_, _| 1.0));
        let wide = 0.6 * high;
        let place = |k: usize, at: u8| [6.0 + 1.05 * wide * k as f64 + 0.5 * wide * f64::from(at % 3), 12.0 - 0.5 * high + high * f64::from(at / 3)];
        let stroke = |k: usize, (a, b): (u8, u8)| Bar { from: place(k, a), to: place(k, b), width: pen, taper: 0.0 };
        let mut all = bars.to_vec();
        // Each letter stands on its stem, and hangs together with the next by a stroke.
        for (k, l) in letters.iter().enumerate() {
            all.extend(l.iter().filter(|(a, b)| a != b).map(|s| stroke(k, *s)));
            all.push(stroke(k, (0, 3)));
            all.push(Bar { from: place(k, 3), to: place(k + 1, 3), width: 0.4 * pen, taper: 0.0 });
        }
        all.extend((0..9).map(|k| 6.0 + 1.4 * dash * f64::from(k)).map(|x| Bar { from: [x, 16.5], to: [x + dash, 16.5], width: 0.4, taper: 0.0 }));
        // A tall letter's stem is long enough for a line.
        all.push(Bar { from: [51.0, 6.0], to: [52.0, 6.0 + tall], width: pen, taper: 0.0 });
        let m = read(&scan(&all, 300.0, 0.05, |_, _| 1.0));
        prop_assert_eq!(m.lines.len(), 2, "{:?}", m.lines.iter().map(|l| (l.length_mm, l.width_mm)).collect::<Vec<_>>());
        for (a, b) in alone.lines.iter().zip(&m.lines) {
            prop_assert!((a.width_mm.mean / b.width_mm.mean - 1.0).abs() < 0.01, "{} of {}", b.width_mm.mean, a.width_mm.mean);
        }
    }

    /// A line that a hand bows or waves is as wide as it is across where it runs, also beside others that do; raggedness is not what bows it.
    #[test]
    fn bowed_lines_are_as_wide_as_straight_ones(bow in 0.2f64..3.0, waves in 1usize..4, width in 0.3f64..0.6, n in 1usize..4) {
        let bow = bow / waves as f64;
        let y = |x: f64| bow * (waves as f64 * std::f64::consts::PI * (x - 4.0) / 52.0).sin();
        let (steps, pitch) = (60 * waves, width + 0.8);
        let place = |k: usize, i: usize| { let x = 4.0 + 52.0 * i as f64 / steps as f64; [x, 7.0 + pitch * k as f64 + y(x)] };
        let bars: Vec<Bar> =
            (0..n).flat_map(|k| (0..steps).map(move |i| (k, i))).map(|(k, i)| Bar { from: place(k, i), to: place(k, i + 1), width, taper: 0.0 }).collect();
        let m = read(&scan(&bars, 300.0, 0.05, |_, _| 1.0));
        prop_assert_eq!(m.lines.len(), n);
        prop_assert!(m.warnings.iter().all(|w| !w.contains("passed over")), "{:?}", m.warnings);
        for l in &m.lines {
            prop_assert!((l.width_mm.mean - width).abs() < 0.006f64.max(0.015 * width), "{} for {width}", l.width_mm.mean);
        }
    }

    /// A standard width is named within a tenth of it, and only then.
    #[test]
    fn standards_are_named_within_a_tenth(mm in 0.05f64..3.0) {
        match nearest_standard(mm) {
            Some(s) => prop_assert!((mm - s).abs() <= 0.1 * s + 1e-12),
            None => prop_assert!(eddymist_measure::scan::STANDARD_WIDTHS_MM.iter().all(|s| (mm - s).abs() > 0.099 * s)),
        }
    }
}
