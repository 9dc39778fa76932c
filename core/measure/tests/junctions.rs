//! Where lines meet, cross and end: how many there are, what is left out about a junction, and what no spur may add.

use eddymist_measure::{
    Picture,
    drawing::{DrawingLines, End, Layer, Line, Place, Plan, Source, measure},
};
use proptest::prelude::*;

const SIDE: usize = 360;

/// Points and width.
type Drawn = (Vec<[f64; 2]>, f64);

/// Draws round-ended strokes of a width through points, anti-aliased by sixteen looks at each pixel (which err where a line
/// runs along the pixels' diagonal: none does here).
fn drawn(strokes: &[Drawn]) -> DrawingLines {
    let near = |p: [f64; 2], a: [f64; 2], b: [f64; 2]| {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let t = (((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy).max(1e-12)).clamp(0.0, 1.0);
        (p[0] - a[0] - t * dx).hypot(p[1] - a[1] - t * dy)
    };
    let mut rgba = vec![255u8; 4 * SIDE * SIDE];
    for (i, p) in rgba.chunks_exact_mut(4).enumerate() {
        let (x, y) = ((i % SIDE) as f64, (i / SIDE) as f64);
        let at = |s: usize| [x + ((s % 4) as f64 + 0.5) / 4.0, y + ((s / 4) as f64 + 0.5) / 4.0];
        let inked = |q: [f64; 2]| strokes.iter().any(|(points, width)| points.windows(2).any(|w| near(q, w[0], w[1]) < 0.5 * width));
        if strokes.iter().any(|(points, width)| points.windows(2).any(|w| near([x + 0.5, y + 0.5], w[0], w[1]) < 0.5 * width + 1.0)) {
            let c = (0..16).filter(|s| inked(at(*s))).count() as f64 / 16.0;
            p[..3].fill((255.0 * (1.0 - c)).round() as u8);
        }
    }
    let plan = Plan { roles: vec![Source::Colour { rgb: [0; 3], tolerance: 8.0 }], widest_px: 20.0 };
    measure(&[Layer { picture: Picture::new(SIDE, SIDE, &rgba).expect("a picture"), role: None }], &plan)
}

fn body(l: &Line) -> Vec<f64> {
    l.points.iter().filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect()
}

fn free_ends(found: &DrawingLines) -> usize {
    found.roles[0].lines.iter().flat_map(|l| l.ends).filter(|e| matches!(e, End::Free { .. })).count()
}

#[test]
fn crossings_forks_and_corners_have_the_lines_and_ends_they_have() {
    let w = 6.0;
    let one = |points: &[[f64; 2]]| (points.to_vec(), w);
    // Strokes, lines between ends and junctions, free ends.
    let cases: [(&str, Vec<Drawn>, usize, usize); 7] = [
        ("a line", vec![one(&[[40.0, 60.0], [320.0, 90.0]])], 1, 2),
        ("a corner", vec![one(&[[40.0, 60.0], [180.0, 60.0], [180.0, 300.0]])], 1, 2),
        ("a cross", vec![one(&[[40.0, 180.0], [320.0, 190.0]]), one(&[[180.0, 40.0], [190.0, 320.0]])], 4, 4),
        ("a fork", vec![one(&[[40.0, 180.0], [180.0, 180.0]]), one(&[[180.0, 180.0], [300.0, 87.0]]), one(&[[180.0, 180.0], [300.0, 281.0]])], 3, 3),
        ("a T", vec![one(&[[40.0, 180.0], [320.0, 180.0]]), one(&[[180.0, 180.0], [180.0, 320.0]])], 3, 3),
        ("two apart", vec![one(&[[40.0, 100.0], [320.0, 100.0]]), one(&[[40.0, 140.0], [320.0, 140.0]])], 2, 4),
        ("a closed triangle", vec![one(&[[60.0, 300.0], [180.0, 60.0], [300.0, 300.0], [60.0, 300.0]])], 1, 0),
    ];
    for (name, strokes, lines, ends) in cases {
        let found = drawn(&strokes);
        assert_eq!((found.roles[0].lines.len(), free_ends(&found)), (lines, ends), "{name}");
        for line in &found.roles[0].lines {
            // Whatever is measured is the line's own width: nothing across a junction, a corner or an end.
            let widths = body(line);
            assert!(!widths.is_empty() && widths.iter().all(|v| (v - w).abs() < 0.35), "{name}: {widths:?}");
        }
    }
}

#[test]
fn a_junction_takes_one_width_on_either_side_out_and_no_more() {
    let found = drawn(&[(vec![[40.0, 180.0], [320.0, 180.0]], 8.0), (vec![[180.0, 40.0], [180.0, 320.0]], 8.0)]);
    for line in &found.roles[0].lines {
        let left_out = line.points.iter().filter(|p| matches!(p.place, Place::Junction | Place::Blocked)).count() as f64 * line.step_px;
        assert!((8.0..24.0).contains(&left_out), "{left_out} px of {}", line.length_px());
        // About an end, one width of a blunt one.
        let end = line.points.iter().filter(|p| p.place == Place::End).count() as f64 * line.step_px;
        assert!((6.0..14.0).contains(&end), "{end}");
    }
}

#[test]
fn a_corner_over_thirty_degrees_is_left_out_and_a_bend_under_it_is_not() {
    let at = |turn: f64| {
        let a = turn.to_radians();
        let found = drawn(&[(vec![[40.0, 200.0], [180.0, 200.0], [180.0 + 140.0 * a.cos(), 200.0 - 140.0 * a.sin()]], 6.0)]);
        found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Corner).count()
    };
    assert_eq!((at(0.0), at(15.0)), (0, 0));
    assert!(at(50.0) > 4 && at(90.0) > 4, "{} {}", at(50.0), at(90.0));
}

#[test]
fn two_lines_with_little_paper_between_them_do_not_add_up() {
    for gap in [3.0, 5.0, 9.0] {
        let found = drawn(&[(vec![[40.0, 180.0], [320.0, 180.0]], 6.0), (vec![[40.0, 186.0 + gap], [320.0, 186.0 + gap]], 6.0)]);
        assert_eq!(found.roles[0].lines.len(), 2, "{gap}");
        for line in &found.roles[0].lines {
            assert!(body(line).iter().all(|w| (w - 6.0).abs() < 0.2), "{gap}: {:?}", body(line).iter().copied().fold(0.0, f64::max));
        }
    }
}

#[test]
fn a_straight_line_of_whole_pixels_keeps_its_ends() {
    for width in [1.5, 2.0, 3.0, 4.0, 6.0, 8.0] {
        for (to, off) in [([180.0, 320.0], [0.0, 0.0]), ([180.0, 320.0], [0.14, 0.0]), ([180.5, 320.0], [0.0, 0.5]), ([320.0, 40.0], [0.5, 0.5])] {
            let from = if to[1] > 300.0 { [180.0, 40.0] } else { [40.0, 40.0] };
            let shifted = |p: [f64; 2]| [p[0] + off[0], p[1] + off[1]];
            let found = drawn(&[(vec![shifted(from), shifted(to)], width)]);
            let lengths: Vec<f64> = found.roles[0].lines.iter().map(|l| l.length_px()).collect();
            assert!(lengths.len() == 1 && (lengths[0] - 280.0 - width).abs() < 2.0, "{width} px to {to:?}: {lengths:?}");
        }
    }
}

#[test]
fn a_ragged_edge_grows_no_branches() {
    // Teeth of a pixel or two along both sides of a broad line.
    let mut strokes = vec![(vec![[40.0, 180.0], [320.0, 180.0]], 14.0)];
    for k in 0..40 {
        let x = 50.0 + 6.5 * f64::from(k);
        let y = if k % 2 == 0 { 173.0 } else { 187.0 };
        strokes.push((vec![[x, y], [x + 1.0, y]], 2.5 + f64::from(k % 3)));
    }
    let found = drawn(&strokes);
    assert_eq!((found.roles[0].lines.len(), free_ends(&found)), (1, 2));
    let widths = body(&found.roles[0].lines[0]);
    let mean = widths.iter().sum::<f64>() / widths.len() as f64;
    assert!((mean - 14.6).abs() < 0.6, "{mean}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Any bent line that keeps clear of itself is one line, as long as it was drawn and as wide.
    #[test]
    fn a_bent_line_is_one_line(bend in -1.2f64..1.2, turn in 0.0f64..6.2, width in 2.0f64..12.0) {
        let points: Vec<[f64; 2]> = (0..=60).map(|i| {
            let u = f64::from(i) / 30.0 - 1.0;
            let (x, y) = (110.0 * u, 60.0 * bend * (u * u - 0.5));
            [180.0 + x * turn.cos() - y * turn.sin(), 180.0 + x * turn.sin() + y * turn.cos()]
        }).collect();
        let length: f64 = points.windows(2).map(|w| (w[1][0] - w[0][0]).hypot(w[1][1] - w[0][1])).sum();
        let found = drawn(&[(points, width)]);
        prop_assert_eq!(found.roles[0].lines.len(), 1);
        let line = &found.roles[0].lines[0];
        // The round ends reach half a width beyond the last points.
        prop_assert!((line.length_px() - length - width).abs() < 0.03 * length + 2.0, "{} and {}", line.length_px(), length);
        let widths = body(line);
        let mean = widths.iter().sum::<f64>() / widths.len() as f64;
        prop_assert!((mean - width).abs() < 0.05, "{} of {}", mean, width);
    }
}
