//! Line weights against truth drawn by other libraries' rasterisers (zeno, tiny-skia), and what must not change them.

use eddymist_measure::{
    Picture,
    drawing::{DrawingLines, Layer, Place, Plan, Source, measure},
    stats::{mean_sd, median},
};
use proptest::prelude::*;
use tiny_skia::{Color, LineCap, Paint, PathBuilder, Pixmap, Stroke, Transform};

const INK: [u8; 3] = [0x1b, 0x1e, 0x24];

fn plan() -> Plan {
    Plan { roles: vec![Source::Colour { rgb: INK, tolerance: 8.0 }], widest_px: 40.0 }
}

fn canvas(w: u32, h: u32) -> Pixmap {
    let mut map = Pixmap::new(w, h).expect("sides over 0");
    map.fill(Color::WHITE);
    map
}

/// Who draws: an exact-area rasteriser, one that samples, and one that is aliased.
#[derive(Clone, Copy, PartialEq)]
enum By {
    Zeno,
    TinySkia,
    Aliased,
}

fn stroke(width: f32) -> Stroke {
    Stroke { width, line_cap: LineCap::Round, ..Stroke::default() }
}

fn draw(map: &mut Pixmap, path: PathBuilder, width: f32, by: By) {
    let aliased = by == By::Aliased;
    if by == By::Zeno {
        // tiny-skia's stroker makes the outline, zeno fills it: zeno's own stroker is coarse in bends.
        let outline = path.finish().expect("a path").stroke(&stroke(width), 16.0).expect("an outline");
        let mut text = String::new();
        for s in outline.segments() {
            use tiny_skia::PathSegment::*;
            match s {
                MoveTo(p) => text += &format!("M{},{}", p.x, p.y),
                LineTo(p) => text += &format!("L{},{}", p.x, p.y),
                QuadTo(a, p) => text += &format!("Q{},{} {},{}", a.x, a.y, p.x, p.y),
                CubicTo(a, b, c) => text += &format!("C{},{} {},{} {},{}", a.x, a.y, b.x, b.y, c.x, c.y),
                Close => text += "Z",
            }
        }
        let (w, h) = (map.width(), map.height());
        let (mask, _) = zeno::Mask::new(text.as_str()).size(w, h).render();
        for (p, c) in map.data_mut().chunks_exact_mut(4).zip(mask) {
            for k in 0..3 {
                p[k] = (f32::from(p[k]) + (f32::from(INK[k]) - f32::from(p[k])) * f32::from(c) / 255.0).round() as u8;
            }
        }
        return;
    }
    let mut paint = Paint { anti_alias: !aliased, ..Paint::default() };
    paint.set_color_rgba8(INK[0], INK[1], INK[2], 255);
    map.stroke_path(&path.finish().expect("a path"), &paint, &stroke(width), Transform::identity(), None);
}

fn weigh(map: &Pixmap) -> DrawingLines {
    let picture = Picture::new(map.width() as usize, map.height() as usize, map.data()).expect("a picture");
    measure(&[Layer { picture, role: None }], &plan())
}

fn body_widths(lines: &DrawingLines) -> Vec<f64> {
    lines.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect()
}

/// Straight and curved lines of one width in many directions, on one sheet.
fn sheet(width: f32, seed: f32, by: By) -> Pixmap {
    let mut map = canvas(900, 700);
    for k in 0..6 {
        let a = (seed + k as f32 * 31.0).to_radians();
        let (cx, cy) = (160.0 + 290.0 * (k % 3) as f32 + seed.fract(), 180.0 + 340.0 * (k / 3) as f32);
        let mut line = PathBuilder::new();
        line.move_to(cx - 110.0 * a.cos(), cy - 110.0 * a.sin());
        if k % 2 == 0 {
            line.line_to(cx + 110.0 * a.cos(), cy + 110.0 * a.sin());
        } else {
            line.cubic_to(cx + 90.0 * a.sin(), cy - 90.0 * a.cos(), cx + 90.0, cy + 40.0, cx + 110.0 * a.cos(), cy + 110.0 * a.sin());
        }
        draw(&mut map, line, width, by);
    }
    map
}

/// methods.md, section 5: a role's mean within 0.02 px in the median and 0.1 px at worst; every tenth of a line within 0.1 px.
#[test]
fn anti_aliased_lines_are_weighed_to_hundredths_of_a_pixel() {
    for by in [By::Zeno, By::TinySkia] {
        check_anti_aliased(by);
    }
}

fn check_anti_aliased(by: By) {
    let mut errors = Vec::new();
    let mut worst_tenth = 0.0f64;
    for (i, width) in [1.5, 2.0, 2.7, 3.5, 4.5, 6.0, 8.3, 12.0, 17.0, 24.0].into_iter().enumerate() {
        for turn in [0.0, 3.3, 11.7, 22.4, 45.1] {
            let lines = weigh(&sheet(width, turn + i as f32 * 0.37, by));
            let widths = body_widths(&lines);
            let (mean, _) = mean_sd(&widths).expect("lines are found");
            errors.push((mean - f64::from(width)).abs());
            for line in &lines.roles[0].lines {
                let body: Vec<f64> = line.points.iter().filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
                for tenth in body.chunks((body.len() / 10).max(8)).filter(|t| t.len() >= 8) {
                    let (m, _) = mean_sd(tenth).expect("not empty");
                    worst_tenth = worst_tenth.max((m - f64::from(width)).abs());
                }
            }
        }
    }
    let worst = errors.iter().copied().fold(0.0, f64::max);
    println!("means off by {:.4} px in the median, {worst:.4} at worst; tenths {worst_tenth:.3} at worst", median(&errors).expect("not empty"));
    assert!(median(&errors).expect("not empty") <= 0.02);
    assert!(worst <= 0.1);
    // tiny-skia samples four times a pixel: along a line at 45° that alone is off by up to a quarter of a pixel.
    assert!(worst_tenth <= if by == By::Zeno { 0.1 } else { 0.3 }, "{worst_tenth}");
}

#[test]
fn aliased_lines_of_many_directions_are_weighed_within_a_twentieth() {
    let mut errors = Vec::new();
    for width in [2.0, 3.0, 4.5, 6.0, 9.0, 14.0] {
        for turn in [4.0, 9.5, 17.0] {
            let (mean, _) = mean_sd(&body_widths(&weigh(&sheet(width, turn, By::Aliased)))).expect("lines are found");
            errors.push((mean - f64::from(width)).abs());
        }
    }
    let worst = errors.iter().copied().fold(0.0, f64::max);
    assert!(median(&errors).expect("not empty") <= 0.05);
    assert!(worst <= 0.15);
}

#[test]
fn nothing_is_measured_across_a_junction_or_between_near_lines() {
    let mut map = canvas(400, 400);
    for (a, b) in [((40.0, 200.0), (360.0, 210.0)), ((200.0, 40.0), (205.0, 360.0)), ((40.0, 300.0), (360.0, 300.0)), ((40.0, 307.5), (360.0, 307.5))] {
        let mut p = PathBuilder::new();
        p.move_to(a.0, a.1);
        p.line_to(b.0, b.1);
        draw(&mut map, p, 6.0, By::Zeno);
    }
    for w in body_widths(&weigh(&map)) {
        assert!((w - 6.0).abs() < 0.35, "{w}");
    }
}

fn turned(map: &Pixmap, f: impl Fn(u32, u32, u32, u32) -> (u32, u32), swap: bool) -> Pixmap {
    let (w, h) = (map.width(), map.height());
    let (nw, nh) = if swap { (h, w) } else { (w, h) };
    let mut out = canvas(nw, nh);
    for y in 0..h {
        for x in 0..w {
            let (nx, ny) = f(x, y, w, h);
            let (i, j) = (4 * (y * w + x) as usize, 4 * (ny * nw + nx) as usize);
            let pixel: [u8; 4] = map.data()[i..i + 4].try_into().expect("four bytes");
            out.data_mut()[j..j + 4].copy_from_slice(&pixel);
        }
    }
    out
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]
    #[test]
    fn turning_mirroring_and_scaling_keep_the_weights(width in 2.0f32..9.0, seed in 0.0f32..180.0) {
        let map = sheet(width, seed, By::Zeno);
        let mean = |m: &Pixmap| mean_sd(&body_widths(&weigh(m))).map(|m| m.0).unwrap_or(0.0);
        let here = mean(&map);
        prop_assert!((here - mean(&turned(&map, |x, y, _, h| (h - 1 - y, x), true))).abs() < 0.02);
        prop_assert!((here - mean(&turned(&map, |x, y, w, _| (w - 1 - x, y), false))).abs() < 0.02);
        let mut large = canvas(1800, 1400);
        for k in 0..6 {
            let a = (seed + k as f32 * 31.0).to_radians();
            let (cx, cy) = (320.0 + 580.0 * (k % 3) as f32, 360.0 + 680.0 * (k / 3) as f32);
            let mut p = PathBuilder::new();
            p.move_to(cx - 220.0 * a.cos(), cy - 220.0 * a.sin());
            p.line_to(cx + 220.0 * a.cos(), cy + 220.0 * a.sin());
            draw(&mut large, p, 2.0 * width, By::Zeno);
        }
        prop_assert!((mean(&large) - 2.0 * here).abs() < 0.05);
    }
}
