//! Ruled lines in simulated scans whose truth is known: methods.md, section 2.

use eddymist_ink::{Brush, Inker, Outline, Sample, Stroke};
use eddymist_measure::source::Kind;
use eddymist_measure::{
    Picture,
    colour::{encode_f64, linear},
    drawing::{self, Layer, Place, Plan, Source},
    scan::{MeasuredLine, Scan, measure},
    stats::{median, quantile},
};
use eddymist_sim::{
    pens::{Fray, PENS, Pen, Ruled, rule, rule_frayed},
    scanner::{Lamp, Scanner, scan},
};

/// Scans lines and gives them as measured, top to bottom.
fn measured(lines: &[Ruled], scanner: &Scanner, size: [f64; 2], seed: u64) -> Vec<MeasuredLine> {
    let outlines: Vec<Outline> = lines.iter().map(|l| l.outline.clone()).collect();
    let grey = scan(scanner, &outlines, size, seed);
    let data = grey.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
    measure(&Scan { width: grey.width, height: grey.height, data, dpi: scanner.dpi }).expect("lines are found").0.lines
}

fn blunt(pen: &Pen) -> Pen {
    Pen { lead_out_mm: 0.0, ..*pen }
}

/// Standard deviation of the drawn edges about the line's smooth middle (both edges' middle through a Gaussian of which half of a wave of 4 mm
/// passes), the mean of both; written anew from the definition.
fn raggedness_um(line: &Ruled) -> f64 {
    let points = &line.outline.paths[0];
    let half = points.len() / 2;
    let (there, mut back) = (points[..half].to_vec(), points[half..].to_vec());
    back.reverse();
    let n = there.len().min(back.len());
    let step = (there[n - 1][0] - there[0][0]) / (n - 1) as f64;
    let middle: Vec<f64> = (0..n).map(|i| 0.5 * (there[i][1] + back[i][1])).collect();
    // The Gaussian whose amplitude at 4 mm is one half has σ = 4 mm · √(2 ln 2) / 2π.
    let sigma = 4.0 * (2.0 * 2f64.ln()).sqrt() / std::f64::consts::TAU / step;
    let reach = (3.0 * sigma) as isize;
    let smooth = |i: usize| {
        let near = (-reach..=reach).filter_map(|k| Some((middle.get(usize::try_from(i as isize + k).ok()?)?, (-0.5 * (k as f64 / sigma).powi(2)).exp())));
        let (sum, weight) = near.fold((0.0, 0.0), |s, (v, w)| (s.0 + v * w, s.1 + w));
        sum / weight
    };
    let about: Vec<[f64; 2]> = (0..n).step_by(3).map(|i| [there[i][1] - smooth(i), back[i][1] - smooth(i)]).collect();
    let sd = |k: usize| {
        let mean = about.iter().map(|a| a[k]).sum::<f64>() / about.len() as f64;
        (about.iter().map(|a| (a[k] - mean).powi(2)).sum::<f64>() / about.len() as f64).sqrt()
    };
    500.0 * (sd(0) + sd(1))
}

#[test]
fn widths_turn_and_raggedness_come_out_as_drawn() {
    let (mut wrong, mut turns, mut ragged) = (Vec::new(), Vec::new(), Vec::new());
    for seed in 0..24u64 {
        let dpi = [300.0, 600.0, 600.0, 1200.0][seed as usize % 4];
        let turn_deg = -5.0 + (seed * 7 % 11) as f64;
        let scanner = Scanner { turn_deg, shading: 0.2 * (seed % 5) as f64 / 4.0, ..Scanner::fair(dpi) };
        // A wide line on the sheet shows the ink's own level.
        let pens = [blunt(&PENS[seed as usize % 5]), blunt(&PENS[4])];
        let lines: Vec<Ruled> = (0..2).map(|k| rule(&pens[k], 0.5, [9.0, 9.0 + 8.0 * k as f64], 64.0, 10 * seed + k as u64)).collect();
        let found = measured(&lines, &scanner, [82.0, 26.0], seed);
        assert_eq!(found.len(), 2, "seed {seed}");
        for (line, m) in lines.iter().zip(&found) {
            let limit = (0.005 * line.width_mm).max(if dpi <= 300.0 { 0.004 } else { 0.002 });
            wrong.push((m.width_mm.mean - line.width_mm).abs() / limit);
            turns.push((m.angle_deg - turn_deg).abs());
        }
        if dpi >= 600.0 {
            let truth = raggedness_um(&lines[0]);
            let got = found[0].raggedness_um.expect("a scan");
            println!("{dpi} {} {got:.2} of {truth:.2}", pens[0].name);
            ragged.push((got / truth - 1.0).abs());
        }
    }
    let at = |v: &[f64], q: f64| quantile(v, q).expect("lines");
    println!("width error over its limit: median {:.2} p95 {:.2} worst {:.2}", at(&wrong, 0.5), at(&wrong, 0.95), at(&wrong, 1.0));
    println!("turn worst {:.3}; raggedness off by {:.3} in the median", at(&turns, 1.0), at(&ragged, 0.5));
    assert!(at(&wrong, 1.0) <= 1.0);
    assert!(at(&turns, 1.0) <= 0.05);
    assert!(median(&ragged).expect("lines") <= 0.10);
}

/// Lights that no formula of the method or of the simulated scanner has: by place on the sheet, 0 to 1 both ways.
type Light = (&'static str, fn(f64, f64) -> f64);
const LIGHTS: [Light; 9] = [
    ("even light", |_, _| 1.0),
    ("a lid that stands open: a third of the sheet lies in a soft shadow", |u, v| 1.0 - 0.42 / (1.0 + (-(u - 0.62 - 0.06 * v) / 0.016).exp())),
    ("a fold: dark to one side, falling off over 12 mm", |u, _| 1.0 - 0.55 * (-u * 82.0 / 12.0).exp()),
    ("a lamp in bands, a tenth deep", |_, v| 1.0 - 0.05 * (1.0 + (v * 12.4 + 2.0 * (v * 2.9).sin()).sin())),
    ("a lamp close by, in a corner", |u, v| 1.0 / (1.0 + 1.6 * (u * u + 0.5 * v * v))),
    ("a lamp in the middle that falls off as cos⁴, by an eighth at the corners", |u, v| (1.0 + 0.135 * ((u - 0.5).powi(2) + (v - 0.5).powi(2))).powi(-2)),
    ("a sensor whose columns answer unlike", |u, _| 1.0 + 0.012 * (u * 400.0).sin().signum()),
    ("a lamp that flickers while the carriage runs", |_, v| 1.0 + 0.004 * (v * 71.0).sin() + 0.002 * (v * 23.0).cos()),
    ("a faint wash over half of the sheet", |u, _| if u > 0.5 { 0.95 } else { 1.0 }),
];

#[test]
fn widths_hold_under_every_light() {
    let mut broken = Vec::new();
    for (name, light) in LIGHTS {
        let mut worst = 0.0f64;
        for (seed, dpi) in [(31, 300.0), (32, 600.0), (33, 1200.0)] {
            let pens = [blunt(&PENS[seed as usize % 5]), blunt(&PENS[4])];
            let lines: Vec<Ruled> = (0..2).map(|k| rule(&pens[k], 0.5, [9.0, 9.0 + 8.0 * k as f64], 64.0, 10 * seed + k as u64)).collect();
            let outlines: Vec<Outline> = lines.iter().map(|l| l.outline.clone()).collect();
            let grey = scan(&Scanner { turn_deg: 1.3, shading: 0.0, ..Scanner::fair(dpi) }, &outlines, [82.0, 26.0], seed);
            let lit = grey.data.iter().enumerate().map(|(i, v)| {
                let place = ((i % grey.width) as f64 / grey.width as f64, (i / grey.width) as f64 / grey.height as f64);
                let seen = encode_f64((f64::from(linear(f32::from(*v) / 255.0)) * light(place.0, place.1)).clamp(0.0, 1.0));
                linear((seen * 255.0).round() as f32 / 255.0)
            });
            let found = measure(&Scan { width: grey.width, height: grey.height, data: lit.collect(), dpi }).expect("lines are found").0.lines;
            if found.len() != 2 {
                broken.push(format!(
                    "{name}, {dpi} dpi: {} lines found, {:?}",
                    found.len(),
                    found.iter().map(|l| (l.width_mm.mean, l.length_mm)).collect::<Vec<_>>()
                ));
                continue;
            }
            for (line, m) in lines.iter().zip(&found) {
                let limit = (0.005 * line.width_mm).max(if dpi <= 300.0 { 0.004 } else { 0.002 });
                worst = worst.max((m.width_mm.mean - line.width_mm).abs() / limit);
            }
        }
        println!("{name}: worst {worst:.2} of the limit");
        if worst > 1.0 {
            broken.push(format!("{name}: {worst:.2} of the limit"));
        }
    }
    assert!(broken.is_empty(), "{broken:#?}");
}

/// What people scan: paper clipped to white, pencil, grey marker, ink that is no black, flecked paper, paper that is no white.
#[test]
fn widths_hold_on_every_paper_and_in_every_ink() {
    let fair = Scanner::fair(600.0);
    for (what, scanner) in [
        ("clipped", Scanner { clip: Some(0.93), ..fair }),
        ("pencil", Scanner { ink: 0.42, ..fair }),
        ("grey marker", Scanner { ink: 0.3, grain: 0.006, ..fair }),
        ("blue ink by its light", Scanner { ink: 0.11, ..fair }),
        ("cream paper", Scanner { paper: 0.61, ..fair }),
        ("kraft paper", Scanner { paper: 0.36, grain: 0.03, ..fair }),
        ("flecked", Scanner { flecks: 30.0, ..fair }),
        ("under an open lid", Scanner { lamp: Lamp::Lid(0.45), ..fair }),
        ("in a fold", Scanner { lamp: Lamp::Gutter(0.5), ..fair }),
        ("in bands", Scanner { lamp: Lamp::Bands(0.12), ..fair }),
    ] {
        for seed in [61u64, 62, 63] {
            let pens = [blunt(&PENS[seed as usize % 5]), blunt(&PENS[4])];
            let lines: Vec<Ruled> = (0..2).map(|k| rule(&pens[k], 0.5, [9.0, 9.0 + 8.0 * k as f64], 64.0, 10 * seed + k as u64)).collect();
            let found = measured(&lines, &Scanner { turn_deg: 1.0, ..scanner }, [82.0, 26.0], seed);
            assert_eq!(found.len(), 2, "{what}, seed {seed}");
            for (line, m) in lines.iter().zip(&found) {
                // Of pencil's and kraft's grain a line's mean has its share.
                let limit = (0.005 * line.width_mm).max(0.002)
                    * match what {
                        "pencil" | "kraft paper" => 2.0,
                        _ => 1.0,
                    };
                let off = (m.width_mm.mean - line.width_mm).abs();
                assert!(off < limit, "{what}, seed {seed}: {:.4} of {:.4} mm", m.width_mm.mean, line.width_mm);
            }
        }
    }
}

/// A hand's line is not straight: its bow is the hand's wander, and the edge is as ragged as without it.
#[test]
fn raggedness_is_the_edges_and_wander_the_hands() {
    let mut off = Vec::new();
    for seed in 0..8u64 {
        let pen = blunt(&PENS[seed as usize % 3]);
        let line = rule(&pen, 0.5, [9.0, 9.0], 64.0, 70 + seed);
        let wide = rule(&blunt(&PENS[4]), 0.5, [9.0, 19.0], 64.0, 90 + seed);
        let truth = raggedness_um(&line);
        // Two families of hands: one sweep of the arm, and a slow wave of the wrist.
        let bow = |x: f64| if seed % 2 == 0 { 0.5 * (std::f64::consts::PI * (x - 9.0) / 64.0).sin() } else { 0.12 * (x / 3.1 + seed as f64).sin() };
        let bowed = |l: &Ruled| Outline { paths: l.outline.paths.iter().map(|p| p.iter().map(|q| [q[0], q[1] + bow(q[0])]).collect()).collect() };
        let grey = scan(&Scanner::fair(600.0), &[bowed(&line), wide.outline.clone()], [82.0, 30.0], seed);
        let data = grey.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
        let found = measure(&Scan { width: grey.width, height: grey.height, data, dpi: 600.0 }).expect("lines").0.lines;
        assert_eq!(found.len(), 2, "seed {seed}");
        let m = &found[0];
        println!(
            "{seed}: raggedness {:.2} of {truth:.2} µm, wander {:.0} µm, width {:.4} of {:.4}",
            m.raggedness_um.expect("a scan"),
            m.wander_um.unwrap_or(0.0),
            m.width_mm.mean,
            line.width_mm
        );
        off.push((m.raggedness_um.expect("a scan") / truth - 1.0).abs());
        let wander = if seed % 2 == 0 { 500.0 * 0.3077 } else { 120.0 / 2f64.sqrt() };
        assert!((m.wander_um.expect("wander") / wander - 1.0).abs() < 0.12, "seed {seed}: {:?} of {wander}", m.wander_um);
        assert!((m.width_mm.mean - line.width_mm).abs() < (0.005 * line.width_mm).max(0.002), "seed {seed}: {} of {}", m.width_mm.mean, line.width_mm);
    }
    assert!(median(&off).expect("lines") < 0.10, "{off:?}");
}

/// Edges that fray by laws which the measure does not suppose: their deviation is what is drawn, as well as the scan's blur lets it be seen, and the
/// width is the ink's.
#[test]
fn raggedness_of_edges_that_fray_otherwise() {
    for (fray, within) in [(Fray::Grained, 0.10), (Fray::Smooth, 0.10), (Fray::Fibres, 0.20)] {
        let mut off = Vec::new();
        for seed in 0..9u64 {
            let pen = blunt(&PENS[2 + seed as usize % 3]);
            let lines: Vec<Ruled> = (0..3).map(|k| rule_frayed(&pen, fray, 0.5, [9.0, 9.0 + 6.0 * f64::from(k)], 64.0, 300 + 10 * seed + k as u64)).collect();
            let found = measured(&lines, &Scanner::fair(600.0), [82.0, 32.0], seed);
            assert_eq!(found.len(), 3, "{fray:?} {seed}");
            for (m, line) in found.iter().zip(&lines) {
                assert!((m.width_mm.mean - line.width_mm).abs() < (0.005 * line.width_mm).max(0.004), "{fray:?}: {} of {}", m.width_mm.mean, line.width_mm);
                off.push(m.raggedness_um.expect("a scan") / raggedness_um(line) - 1.0);
            }
        }
        let sizes: Vec<f64> = off.iter().map(|o| o.abs()).collect();
        println!("{fray:?}: off by {:+.3} in the median, {:.3} in size", median(&off).expect("lines"), median(&sizes).expect("lines"));
        assert!(median(&sizes).is_some_and(|m| m < within), "{fray:?}: {off:?}");
    }
}

/// A blur of another law than the measure supposes: a square aperture, and light that spreads in the paper.
fn spread(light: &mut [f32], w: usize, sharpen: bool) {
    let h = light.len() / w;
    let mean = |of: &[f32], r: usize| -> Vec<f32> {
        let rows: Vec<f32> =
            (0..of.len()).map(|i| if i % w < r || i % w + r >= w { of[i] } else { of[i - r..=i + r].iter().sum::<f32>() / (2 * r + 1) as f32 }).collect();
        (0..of.len())
            .map(|i| if i / w < r || i / w + r >= h { rows[i] } else { (0..=2 * r).map(|k| rows[i + k * w - r * w]).sum::<f32>() / (2 * r + 1) as f32 })
            .collect()
    };
    let (near, far) = (mean(light, 1), mean(light, 4));
    for (l, (n, f)) in light.iter_mut().zip(near.iter().zip(&far)) {
        *l = if sharpen { (*l + 0.8 * (*l - n)).clamp(0.0, 1.0) } else { 0.9 * n + 0.1 * f };
    }
}

/// What a scanner's own levels do, to encoded values, beside a clip in light: white or black is cut, whatever the blur's law, and widths that were 3
/// to 10 % off are within 1 %. Cut at both ends they are left, which is said.
#[test]
fn a_stretched_contrast_is_made_good() {
    for (what, limit, black, white, scanner) in [
        ("white", 0.003, 0.0, 0.86, Scanner::fair(600.0)),
        ("white, hard", 0.012, 0.0, 0.78, Scanner::fair(600.0)),
        ("white, in part", 0.008, 0.0, 0.9, Scanner { shading: 0.2, ..Scanner::fair(600.0) }),
        ("white, at 300 dpi", 0.012, 0.0, 0.86, Scanner::fair(300.0)),
        ("white, a little black", 0.012, 0.1, 0.86, Scanner { blur_px: 1.5, ..Scanner::fair(1200.0) }),
        ("white, spread", 0.008, 0.0, 0.86, Scanner { blur_px: 0.5, ..Scanner::fair(600.0) }),
        ("white, sharpened", 0.008, 0.0, 0.86, Scanner::fair(600.0)),
        ("black", 0.012, 0.3, 1.0, Scanner::fair(600.0)),
        ("black, spread", 0.015, 0.3, 1.0, Scanner { blur_px: 0.5, ..Scanner::fair(600.0) }),
        ("black, sharpened", 0.012, 0.3, 1.0, Scanner::fair(600.0)),
        ("white and black", 0.03, 0.27, 0.86, Scanner::fair(600.0)),
        ("white and black, hard", 0.015, 0.4, 0.8, Scanner::fair(600.0)),
    ] {
        for seed in [61u64, 62] {
            let pens = [blunt(&PENS[seed as usize % 5]), blunt(&PENS[4]), blunt(&PENS[2])];
            let lines: Vec<Ruled> = (0..3).map(|k| rule(&pens[k], 0.5, [9.0, 9.0 + 8.0 * k as f64], 64.0, 10 * seed + k as u64)).collect();
            let outlines: Vec<Outline> = lines.iter().map(|l| l.outline.clone()).collect();
            let grey = scan(&Scanner { turn_deg: 1.0, ..scanner }, &outlines, [82.0, 34.0], seed);
            let mut light: Vec<f32> = grey.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
            if what.ends_with("spread") || what.ends_with("sharpened") {
                spread(&mut light, grey.width, what.ends_with("sharpened"));
            }
            let stretched = |v: f32| ((((encode_f64(f64::from(v)) - black) / (white - black)) * 255.0).round().clamp(0.0, 255.0) / 255.0) as f32;
            let data = light.iter().map(|v| linear(stretched(*v))).collect();
            let (found, _) = measure(&Scan { width: grey.width, height: grey.height, data, dpi: scanner.dpi }).expect("lines are found");
            let said = |word: &str| found.warnings.iter().any(|w| w.contains(word));
            assert!(said("clipped to white") == what.starts_with("white") && said("black") == (black > 0.2), "{what}: {:?}", found.warnings);
            for (line, m) in lines.iter().zip(&found.lines) {
                let off = m.width_mm.mean / line.width_mm - 1.0;
                println!("{what}, seed {seed}: {:.4} of {:.4} mm, {:+.2} %", m.width_mm.mean, line.width_mm, 100.0 * off);
                assert!(off.abs() < limit, "{what}, seed {seed}: {:.4} of {:.4} mm", m.width_mm.mean, line.width_mm);
            }
        }
    }
}

#[test]
fn a_scan_without_lines_says_so() {
    let grey = scan(&Scanner::fair(300.0), &[], [30.0, 30.0], 1);
    let data = grey.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
    let none = measure(&Scan { width: grey.width, height: grey.height, data, dpi: 300.0 });
    assert!(none.expect_err("there is nothing").to_string().contains("no ruled line"));
}

/// A scanned drawing goes through the same paper removal: its mean widths are held to the same limit as a pen's, whatever the light, the paper
/// and the ink.
#[test]
fn a_scanned_drawing_is_weighed_as_drawn() {
    let dark = || Source::Colour { rgb: [0x1b, 0x1e, 0x24], tolerance: 8.0 };
    let fair = |dpi| Scanner { shading: 0.15, ..Scanner::fair(dpi) };
    let even = Scanner { shading: 0.0, ..Scanner::fair(600.0) };
    for (what, seed, scanner, role, share) in [
        ("fair, the rest", 1, fair(300.0), Source::Rest, 0.0),
        ("fair, by colour", 2, fair(600.0), dark(), 0.0),
        ("even light", 3, even, dark(), 0.0),
        ("even light, the rest", 4, even, Source::Rest, 0.0),
        ("under an open lid", 5, Scanner { lamp: Lamp::Lid(0.45), ..even }, Source::Rest, 0.0),
        ("in a fold", 6, Scanner { lamp: Lamp::Gutter(0.5), ..even }, Source::Rest, 0.0),
        ("in bands", 7, Scanner { lamp: Lamp::Bands(0.12), ..even }, Source::Rest, 0.0),
        ("flecked cream paper", 8, Scanner { paper: 0.6, flecks: 30.0, ..even }, Source::Rest, 0.0),
        ("grey marker", 9, Scanner { ink: 0.3, ..even }, Source::Rest, 0.006),
        ("pencil", 10, Scanner { ink: 0.42, ..even }, Source::Rest, 0.01),
        ("clipped to white", 11, Scanner { clip: Some(0.93), ..even }, Source::Rest, 0.0),
    ] {
        let (width, dpi) = (0.5, scanner.dpi);
        let inker = Inker::new(&Brush::plain("plain", width), None, None).expect("a brush");
        let curve = |k: usize| {
            let at = |i: usize| (i as f64 * 0.3, 8.0 + 7.0 * k as f64 + 3.0 * (i as f64 * 0.02 * (k + 1) as f64).sin());
            Stroke { samples: (10..200).map(|i| Sample { x: at(i).0, y: at(i).1, ..Sample::default() }).collect(), zoom: 1.0, timed: false }
        };
        let outlines: Vec<Outline> = (0..4).map(|k| inker.ink(&curve(k)).outline(0.001)).collect();
        let grey = scan(&scanner, &outlines, [64.0, 40.0], seed);
        let rgba: Vec<u8> = grey.data.iter().flat_map(|v| [*v, *v, *v, 255]).collect();
        let picture = Picture::new(grey.width, grey.height, &rgba).expect("a picture").of_kind(Kind::Scan);
        let found = drawing::measure(&[Layer { picture, role: None }], &Plan { roles: vec![role], widest_px: 40.0 });
        let long = found.roles[0].lines.iter().filter(|l| l.length_px() > 200.0).count();
        assert_eq!(long, 4, "{what}: {} lines", found.roles[0].lines.len());
        let widths: Vec<f64> = found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
        let mean_mm = widths.iter().sum::<f64>() / widths.len() as f64 * 25.4 / dpi;
        println!("{what}, {dpi} dpi: {mean_mm:.4} of {width} mm");
        let limit = (share * width).max(if dpi <= 300.0 { 0.004 } else { 0.0025 });
        assert!((mean_mm - width).abs() < limit, "{what}: {mean_mm:.4} of {width} mm");
    }
}

/// Lines so thin that the blur leaves no solid middle: a scan of nothing else, ruled and drawn, at what most people scan. Their ink's own level is told
/// by the shapes of their cuts: they were 10 % heavy to 5 % thin. With paper clipped to white they were 4 to 16 % thin, of which nothing was said.
#[test]
fn thin_lines_show_their_ink() {
    for (width, blur, [ruled_limit, drawn_limit], clipped_limit) in [
        (0.15, 0.5, [0.045, 0.008], None),
        (0.15, 1.0, [0.03, 0.008], None),
        (0.2, 1.0, [0.008, 0.006], None),
        (0.25, 0.5, [0.02, 0.012], None),
        (0.25, 1.0, [0.008, 0.006], None),
        (0.3, 0.5, [0.012, 0.006], Some(0.05)),
        (0.3, 1.0, [0.012, 0.006], Some(0.06)),
        (0.4, 1.0, [0.008, 0.006], Some(0.015)),
        (0.5, 1.0, [0.006, 0.006], Some(0.015)),
    ] {
        let dpi = 300.0;
        let inker = Inker::new(&Brush::plain("plain", width), None, None).expect("a brush");
        let drawn = |waves: f64| -> Vec<Outline> {
            let stroke = |k: usize| {
                let y = |i: usize| 8.0 + 7.0 * k as f64 + waves * (i as f64 * 0.02 * (k + 1) as f64).sin();
                Stroke { samples: (10..200).map(|i| Sample { x: i as f64 * 0.3, y: y(i), ..Sample::default() }).collect(), zoom: 1.0, timed: false }
            };
            (0..4).map(|k| inker.ink(&stroke(k)).outline(0.001)).collect()
        };
        let scanner = Scanner { blur_px: blur, turn_deg: 1.0, ..Scanner::fair(dpi) };
        for white in [1.0, 0.86] {
            let levels = |v: &u8| (f64::from(*v) / white).round().min(255.0) as u8;
            let grey = scan(&scanner, &drawn(0.0), [64.0, 40.0], 7);
            let data = grey.data.iter().map(|v| linear(f32::from(levels(v)) / 255.0)).collect();
            let (ruled, _) = measure(&Scan { width: grey.width, height: grey.height, data, dpi }).expect("lines are found");
            assert_eq!(ruled.lines.len(), 4);
            let ruled_mm = ruled.lines.iter().map(|l| l.width_mm.mean).sum::<f64>() / 4.0;

            let grey = scan(&scanner, &drawn(3.0), [64.0, 40.0], 7);
            let rgba: Vec<u8> = grey.data.iter().flat_map(|v| [levels(v), levels(v), levels(v), 255]).collect();
            let picture = Picture::new(grey.width, grey.height, &rgba).expect("a picture").of_kind(Kind::Scan);
            let drawing = drawing::measure(&[Layer { picture, role: None }], &Plan { roles: vec![Source::Rest], widest_px: 40.0 });
            let points = drawing.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body);
            let widths: Vec<f64> = points.map(|p| f64::from(p.width)).collect();
            let drawn_mm = widths.iter().sum::<f64>() / widths.len() as f64 * 25.4 / dpi;

            println!("{width} mm, blur {blur} px, white {white}: ruled {ruled_mm:.4}, drawn {drawn_mm:.4}");
            let clipped = ruled.warnings.iter().any(|w| w.contains("clipped to white"));
            assert!(clipped == (white < 1.0) && drawing.clipped.is_some() == clipped, "{:?}, {:?}", ruled.warnings, drawing.clipped);
            for (is_mm, limit) in [(ruled_mm, ruled_limit), (drawn_mm, drawn_limit)] {
                // Where what was cut cannot be told, it is said that lines of a few pixels are too thin: they are not too heavy.
                assert!(white == 1.0 || is_mm < 1.02 * width, "{width} mm, blur {blur}: {is_mm}");
                let limit = if white < 1.0 { clipped_limit } else { Some(limit) };
                assert!(limit.is_none_or(|limit| (is_mm / width - 1.0).abs() < limit), "{width} mm, blur {blur}, white {white}: {is_mm}");
            }
        }
    }
}
