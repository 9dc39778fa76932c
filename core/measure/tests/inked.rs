//! Lines of any course on a scanned page, drawn by another rasteriser (tiny-skia) and lit unevenly: their widths in mm, and what is no line.

use eddymist_measure::{
    inked::{InkedLine, page},
    scan::{Scan, ScanError},
    stats::{mean_sd, median},
};
use proptest::prelude::*;
use tiny_skia::{Color, FillRule, LineCap, Paint, PathBuilder, Pixmap, Stroke, Transform};

const DPI: f64 = 300.0;
const MM: f64 = 25.4 / DPI;
const PAPER: f32 = 0.82;
const INK: f32 = 0.04;

/// A page of black on white, `[x, y]` of each line in mm, to light: paper and ink, darker to one side.
fn scanned(size: [f64; 2], lines: &[(Vec<[f64; 2]>, f64)], slope: f32) -> Scan {
    let [w, h] = size.map(|v| (v / MM) as u32);
    let mut map = Pixmap::new(w, h).expect("sides over 0");
    map.fill(Color::WHITE);
    let paint = Paint { anti_alias: true, ..Paint::default() };
    for (line, width) in lines {
        let mut path = PathBuilder::new();
        for (i, p) in line.iter().enumerate() {
            let [x, y] = p.map(|v| (v / MM) as f32);
            if i == 0 { path.move_to(x, y) } else { path.line_to(x, y) }
        }
        // A line without a width is the outline of one.
        let path = path.finish().expect("a path");
        let pen = Stroke { width: (width / MM) as f32, line_cap: LineCap::Round, ..Stroke::default() };
        let outline = if *width > 0.0 { path.stroke(&pen, 16.0).expect("an outline") } else { path };
        map.fill_path(&outline, &paint, FillRule::Winding, Transform::identity(), None);
    }
    let light = |i: usize, grey: u8| {
        let cover = 1.0 - f32::from(grey) / 255.0;
        (PAPER * (1.0 - cover) + INK * cover) * (1.0 - slope * (i as u32 % w) as f32 / w as f32)
    };
    let data = map.pixels().iter().enumerate().map(|(i, p)| light(i, p.red())).collect();
    Scan { width: w as usize, height: h as usize, data, dpi: DPI }
}

fn arc(middle: [f64; 2], radius: f64, from: f64, turn: f64) -> Vec<[f64; 2]> {
    (0..=200).map(|i| from + turn * f64::from(i) / 200.0).map(|a| [middle[0] + radius * a.cos(), middle[1] + radius * a.sin()]).collect()
}

fn widths(l: &InkedLine) -> Vec<f64> {
    l.places.iter().filter_map(|p| p.width_mm).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// An arc and a straight line in any direction have their width, and lie where they were drawn.
    #[test]
    fn a_line_has_its_width_wherever_it_runs(width in 0.3f64..1.2, radius in 6.0f64..14.0, from in 0.0f64..6.2, turn in 1.5f64..5.0, slope in 0.0f32..0.3) {
        let way = [from.cos(), from.sin()];
        let straight = vec![[55.0 - 9.0 * way[0], 20.0 - 9.0 * way[1]], [55.0 + 9.0 * way[0], 20.0 + 9.0 * way[1]]];
        let found = page(&scanned([76.0, 40.0], &[(arc([20.0, 20.0], radius, from, turn), width), (straight, width)], slope)).expect("lines");
        prop_assert_eq!(found.lines.len(), 2);
        for l in &found.lines {
            let (mean, sd) = mean_sd(&widths(l)).expect("widths");
            // A twentieth of a pixel, and half a per cent.
            prop_assert!((mean - width).abs() < 0.05 * MM + 0.005 * width && sd < 0.12 * MM + 0.01 * width, "{mean} ± {sd} of {width}");
            prop_assert_eq!(l.free, [true; 2]);
        }
        let bow = found.lines.iter().min_by(|a, b| a.places[0].x_mm.total_cmp(&b.places[0].x_mm)).expect("the arc");
        let off: Vec<f64> = bow.places.iter().filter(|p| p.width_mm.is_some()).map(|p| ((p.x_mm - 20.0).hypot(p.y_mm - 20.0) - radius).abs()).collect();
        prop_assert!(median(&off).expect("places") < 0.1 * MM, "{:?}", median(&off));
    }

    /// A line that swells is as wide at each place as it was drawn there; its tips, within their own width, are not told.
    #[test]
    fn a_swelling_line_is_told_place_by_place(thin in 0.3f64..0.6, more in 0.4f64..1.6) {
        let width = |x: f64| thin + more * ((x - 8.0) / 54.0 * std::f64::consts::PI).sin().max(0.0);
        let edge = |up: f64| (0..=540).map(|i| 8.0 + 0.1 * f64::from(i)).map(move |x| [x, 10.0 + up * 0.5 * width(x)]);
        let outline: Vec<[f64; 2]> = edge(-1.0).chain(edge(1.0).collect::<Vec<_>>().into_iter().rev()).collect();
        let found = page(&scanned([70.0, 20.0], &[(outline, 0.0)], 0.1)).expect("a line");
        prop_assert_eq!(found.lines.len(), 1);
        let l = &found.lines[0];
        for p in l.places.iter().filter(|p| (12.0..58.0).contains(&p.x_mm)) {
            let told = p.width_mm.expect("a width");
            prop_assert!((told - width(p.x_mm)).abs() < 0.02 + 0.02 * told, "{told} and {} at {}", width(p.x_mm), p.x_mm);
        }
        prop_assert!(l.places.iter().filter(|p| p.x_mm < 8.0 + 0.8 * thin).all(|p| p.width_mm.is_none()));
    }
}

#[test]
fn where_lines_cross_no_width_is_told_and_what_is_no_page_is_refused() {
    let cross = [(vec![[5.0, 15.0], [45.0, 15.0]], 0.8), (vec![[25.0, 4.0], [25.0, 26.0]], 0.8)];
    let found = page(&scanned([50.0, 30.0], &cross, 0.0)).expect("lines");
    assert_eq!(found.lines.len(), 4, "a crossing parts both");
    for l in &found.lines {
        assert_eq!(l.free.iter().filter(|f| **f).count(), 1);
        assert!(l.places.iter().all(|p| p.width_mm.is_none() || (p.x_mm - 25.0).hypot(p.y_mm - 15.0) > 0.8), "{l:?}");
    }
    assert_eq!(page(&scanned([50.0, 30.0], &[], 0.0)).map(|p| p.lines.len()), Err(ScanError::NoInk));
    let thin = page(&scanned([50.0, 30.0], &[(vec![[5.0, 15.2], [45.0, 15.9]], 0.12)], 0.0)).expect("a hair");
    assert!(thin.warnings.iter().any(|w| w.contains("no line is wide enough")), "{:?}", thin.warnings);
    assert!(matches!(page(&Scan { dpi: 10.0, ..scanned([50.0, 30.0], &cross, 0.0) }), Err(ScanError::Resolution(_))));
}
