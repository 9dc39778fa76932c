//! Benchmarks, one figure a line (name, unit, value): `eddymist-bench ink`, `fitting`, `faults N [which]`, `boil N`, `handed-in N [GROUND]`, `handed-in cost`, `sheet`,
//! `sheets N [WHITE]`, `photos N [FIRST]`, `carded N [FIRST]`, `tablets N`, `match N`, `pairs N [PEN]`, `replaced`, `drawing OUT.png`, `drawings N`; `render N FOLDER` makes drawings to send, `handed-in write GROUND SEED
//! FILE` one drawing as it is handed in.

mod carded;
mod faults;
mod fitting;
mod handed_faults;
mod handed_in;
mod matches;
mod pairs;
mod photos;
mod replaced;
mod sheets;
mod tablets;

use std::time::Instant;

use eddymist_check::{Manifest, NamedLayer, check_lines, plan::plan};
use eddymist_formats::{LIMITS, images};
use eddymist_ink::{
    Brush, Inker, LiveStroke, Sample, Stroke,
    brush::{Edge, Ends, Nib, NibShape, Shaped, Smoothing, SmoothingKind, Stamped, StrokeKind, Taper},
    fitting::fit_outline,
};
use eddymist_measure::{
    Picture,
    drawing::{Layer, measure},
};
use eddymist_sim::{
    osk::Pose,
    production::{DELIVERIES, Delivery, drawing as production_drawing, line_guide, render},
};
use rayon::prelude::*;

/// The median of `runs` timings in ms.
fn median_ms(runs: usize, mut f: impl FnMut()) -> f64 {
    let mut times: Vec<f64> = (0..runs)
        .map(|_| {
            let t = Instant::now();
            f();
            t.elapsed().as_secs_f64() * 1000.0
        })
        .collect();
    times.sort_by(f64::total_cmp);
    times[runs / 2]
}

fn stroke(n: usize) -> Stroke {
    Stroke::new(
        (0..n)
            .map(|i| {
                let u = i as f64 / 400.0;
                Sample {
                    t_ms: 5.0 * i as f64,
                    x: 12.0 * u + 8.0 * (2.3 * u).sin(),
                    y: 9.0 * (1.7 * u).sin() + 3.0 * (5.0 * u).cos(),
                    pressure: Some(0.5 + 0.45 * (3.0 * u).sin()),
                    ..Sample::default()
                }
            })
            .collect(),
    )
}

/// A hard round tip of 128 px, and paper of 256 px at 300 dpi, as PNG in data URIs.
fn pictures() -> Option<[String; 2]> {
    let uri = |px: usize, mm: f64, grey: &dyn Fn(usize, usize) -> u8| {
        let data: Vec<u8> = (0..px * px).map(|i| grey(i % px, i / px)).collect();
        let bytes = images::write_png(px, px, images::PngKind::Grey, &data, Some(1.0 / mm)).ok()?;
        Some(format!("data:image/png;base64,{}", base64::Engine::encode(&base64::engine::general_purpose::STANDARD, bytes)))
    };
    let tip = uri(128, 0.01, &|x, y| if (x as f64 - 63.5).hypot(y as f64 - 63.5) < 64.0 { 0 } else { 255 })?;
    let paper = uri(256, 25.4 / 300.0, &|x, y| ((x * 37 + y * 91 + x * y) % 256) as u8)?;
    Some([tip, paper])
}

/// A whole stroke of each stroke kind: to its outline, or to its picture at 600 dpi.
fn kinds(brush: &Brush, s: &Stroke) {
    let Some([tip_png, paper]) = pictures() else { return };
    let leaf = "M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z".to_string();
    let stamped = Stamped {
        tip_png,
        spacing: 0.1,
        size_range: 0.2,
        angle_range_deg: 30.0,
        spacing_range: 0.2,
        stray: 0.1,
        second_tip_png: None,
        paper_png: Some(paper),
        paper_high_is_light: true,
    };
    let all = [
        ("shape, stretched", StrokeKind::Shaped(Shaped { shape_path: leaf.clone(), ends: Ends::Stretch, caps: None, break_over_deg: None })),
        ("shape, ends kept", StrokeKind::Shaped(Shaped { shape_path: leaf, ends: Ends::Keep, caps: Some([0.2, 0.2]), break_over_deg: Some(60.0) })),
        ("dry brush, 40 hairs", StrokeKind::DryBrush { hairs: 40, spread: 0.5, snap: 0.6, ink_held: 1.0 }),
        ("dry brush, 16 hairs", StrokeKind::DryBrush { hairs: 16, spread: 0.5, snap: 0.6, ink_held: 1.0 }),
        ("stamped at 10 % with paper, 600 dpi", StrokeKind::Stamped(stamped)),
        ("pixel", StrokeKind::Pixel),
    ];
    for (what, stroke) in all {
        let Ok(i) = Inker::new(&Brush { stroke, ..brush.clone() }, None, None) else { continue };
        let time = median_ms(9, || {
            let inked = i.ink(s).inked(0.0005);
            if inked.stamping.is_some()
                && let Some([l, t, r, b]) = inked.bounds()
            {
                let px = 600.0 / 25.4;
                drop(inked.raster(px, [l, t], ((r - l) * px) as usize + 1, ((b - t) * px) as usize + 1));
            }
        });
        println!("a whole stroke of 2000 samples, {what}\tms\t{time:.3}");
    }
}

fn ink() {
    let mut brush = Brush::plain("bench", 0.5);
    brush.weight = vec![[0.0, 0.15], [0.5, 0.5], [1.0, 1.2]];
    brush.lead_out = Some(Taper { length_mm: 6.0, share: 0.3, tip_width_mm: 0.05, shape: 0.8, over_mm_s: 0.0 });
    let Ok(inker) = Inker::new(&brush, None, None) else { return };
    let s = stroke(2000);
    println!("samples to polygonal outline, 2000 samples\tms\t{:.3}", median_ms(41, || drop(inker.ink(&s).outline(0.0005))));
    let outline = inker.ink(&s).outline(0.0005);
    println!("curve fitting at the lift, 2000 samples\tms\t{:.3}", median_ms(21, || drop(fit_outline(&outline, 0.002))));
    let rough = Brush { edge: Edge { raggedness_um: 6.0, correlation_um: 140.0, ..Edge::default() }, ..brush.clone() };
    let nib = Nib { shape: NibShape::Polygon, points: Some(vec![[-0.5, -0.2], [0.5, -0.3], [0.3, 0.4], [-0.4, 0.3]]), ..Nib::round() };
    let drawn = Brush { nib, ..brush.clone() };
    let faired = Brush { smoothing: Smoothing { position: SmoothingKind::Faired { tolerance_mm: 0.1 }, ..Smoothing::default() }, ..brush.clone() };
    for (what, b) in [("ragged edge", &rough), ("four-cornered nib", &drawn), ("faired", &faired)] {
        let Ok(i) = Inker::new(b, None, None) else { return };
        println!("the same with a {what}\tms\t{:.3}", median_ms(15, || drop(i.ink(&s).outline(0.0005))));
    }
    kinds(&brush, &s);
    for n in [200, 2000, 20_000] {
        let s = stroke(n);
        let mut live = LiveStroke::new(inker.clone(), 1.0, 0.002);
        s.samples[..n - 100].iter().for_each(|p| drop(live.push(*p)));
        let t = Instant::now();
        s.samples[n - 100..].iter().for_each(|p| drop(live.push(*p)));
        println!("one more live sample at {n}, native\tms\t{:.5}", t.elapsed().as_secs_f64() * 10.0);
    }
}

fn drawing(out: &str) {
    let png = render(&Pose::in_phase(0.3), 1.0, |_, _| 1.0, 3);
    if std::fs::write(out, &png).is_err() {
        return;
    }
    let guide = line_guide();
    let decode = median_ms(15, || drop(images::rgba(&png, &LIMITS)));
    let Ok(p) = images::rgba(&png, &LIMITS) else { return };
    let Some(picture) = Picture::new(p.width, p.height, &p.data) else { return };
    let plan = plan(&guide, 1.0);
    let widths = median_ms(31, || drop(measure(&[Layer { picture, role: None }], &plan)));
    let verdicts = median_ms(31, || drop(check_lines(&guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new())));
    let found = measure(&[Layer { picture, role: None }], &plan);
    let length: f64 = found.roles.iter().flat_map(|r| &r.lines).map(|l| l.length_px()).sum();
    let ink: f64 = found.roles.iter().map(|r| r.ink_px2).sum();
    println!("the drawing's lines and ink\tpx, px²\t{length:.0}, {ink:.0}");
    println!("decoding the PNG, 1920x1080\tms\t{decode:.2}");
    println!("decoded pixels to widths\tms\t{widths:.2}");
    println!("decoded pixels to widths and verdicts\tms\t{verdicts:.2}");
    println!("widths over decoding\tratio\t{:.2}", widths / decode);
    // The same drawing at twice the size, lines as much wider: four times the pixels.
    let big = images::rgba(&render(&Pose::in_phase(0.3), 2.0, |_, _| 1.0, 3), &LIMITS);
    if let Some((picture, _)) = big.as_ref().ok().and_then(|p| Some((Picture::new(p.width, p.height, &p.data)?, ()))) {
        let plan = eddymist_check::plan::plan(&guide, 2.0);
        let time = median_ms(15, || drop(measure(&[Layer { picture, role: None }], &plan)));
        println!("decoded pixels to widths, 3840x2160\tms\t{time:.2}");
        println!("3840x2160 over 1920x1080\tratio\t{:.2}", time / widths);
    }
}

fn drawings(n: usize) {
    let pngs: Vec<Vec<u8>> = (0..8).map(|i| render(&Pose::in_phase(f64::from(i) / 8.0), 1.0, |_, _| 1.0, i as u64)).collect();
    let guide = line_guide();
    let t = Instant::now();
    (0..n).into_par_iter().for_each(|i| {
        if let Ok(p) = images::rgba(&pngs[i % 8], &LIMITS)
            && let Some(picture) = Picture::new(p.width, p.height, &p.data)
        {
            drop(check_lines(&guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()));
        }
    });
    println!("{n} drawings from PNG to verdict, all cores\ts\t{:.2}", t.elapsed().as_secs_f64());
    let peak = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    println!("{}", peak.lines().find(|l| l.starts_with("VmHWM")).unwrap_or(""));
}

fn main() {
    let args: Vec<String> = std::env::args().skip(1).collect();
    match args.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["ink"] => ink(),
        ["fitting"] => fitting::run(),
        ["faults", n] => faults::faults(n.parse().unwrap_or(100), false),
        ["faults", n, "which"] => faults::faults(n.parse().unwrap_or(100), true),
        ["boil", n] => faults::boil(n.parse().unwrap_or(50)),
        ["handed-in", "faults", n, "which", ref only @ ..] => handed_faults::table(n.parse().unwrap_or(16), only, true),
        ["handed-in", "faults", n, ref only @ ..] => handed_faults::table(n.parse().unwrap_or(16), only, false),
        ["handed-in", "cost"] => handed_in::cost(None),
        ["handed-in", "cost", ground] => handed_in::cost(Some(ground)),
        ["handed-in", "picture", kind, severity, ground, seed, to] => {
            if let Err(e) = handed_faults::write(kind, severity.parse().unwrap_or(2.5), ground, seed.parse().unwrap_or(0), to) {
                eprintln!("{to}: {e}");
            }
        }
        ["handed-in", n] => handed_in::table(n.parse().unwrap_or(4), None),
        ["handed-in", n, only] => handed_in::table(n.parse().unwrap_or(4), Some(only)),
        ["handed-in", "write", ground, seed, to] => {
            if let Err(e) = handed_in::write(ground, seed.parse().unwrap_or(0), to) {
                eprintln!("{to}: {e}");
            }
        }
        ["replaced"] => replaced::run(),
        ["sheet"] => sheets::cost(255.0),
        ["sheet", white] => sheets::cost(white.parse().unwrap_or(255.0)),
        ["tablets", n] => tablets::table(n.parse().unwrap_or(200)),
        ["match", n] => matches::matches(n.parse().unwrap_or(50)),
        ["pairs", n] => pairs::run(n.parse().unwrap_or(20), None),
        ["pairs", n, pen] => pairs::run(n.parse().unwrap_or(20), Some(pen)),
        ["sheets", n] => sheets::table(n.parse().unwrap_or(200), 255.0),
        ["sheets", n, white] => sheets::table(n.parse().unwrap_or(200), white.parse().unwrap_or(255.0)),
        ["carded", "picture", seed, file] => {
            if let Err(e) = carded::picture(seed.parse().unwrap_or(0), file) {
                eprintln!("{file}: {e}");
            }
        }
        ["carded", n, ref rest @ ..] => carded::table(n.parse().unwrap_or(100), rest.first().and_then(|f| f.parse().ok()).unwrap_or(0)),
        ["photos", n, ref rest @ ..] => photos::table(n.parse().unwrap_or(100), rest.first().and_then(|f| f.parse().ok()).unwrap_or(0)),
        ["drawing", out] => drawing(out),
        ["render", n, folder] => (1..=n.parse().unwrap_or(100)).into_par_iter().for_each(|i: usize| {
            let all = Delivery { drawings: n.parse().unwrap_or(100), ..DELIVERIES[0] };
            let d = production_drawing(&all, i, 7);
            if let Err(e) = std::fs::write(format!("{folder}/{}", d.file), d.png) {
                eprintln!("{folder}: {e}");
            }
        }),
        ["drawings", n] => drawings(n.parse().unwrap_or(200)),
        _ => eprintln!(
            "usage: eddymist-bench ink | faults N [which] | boil N | handed-in N [GROUND] | handed-in faults N [which] [KIND|GROUND|clean]… | handed-in picture KIND SEVERITY GROUND SEED FILE | handed-in cost [GROUND] | handed-in write GROUND SEED FILE | sheet | sheets N | photos N [FIRST] | carded N [FIRST] | carded picture SEED FILE | tablets N | match N | pairs N [PEN] | replaced | drawing OUT.png | drawings N | render N FOLDER"
        ),
    }
}
