//! Islands and holes against scikit-image's labelling, figures of single faults against closed forms, and gaps against what they part.
//! Golden: tests/reference/make_check.py.

use eddymist_measure::{
    Picture,
    drawing::{
        DrawingLines, Layer, Look, Plan, Source, edge_px,
        islands::{Island, Islands},
        measure_all,
    },
};
use proptest::prelude::*;
use serde_json::Value;

const INK: [u8; 3] = [0x1b, 0x1e, 0x24];

/// A picture on white by its coverage.
fn picture(width: usize, height: usize, coverage: impl Fn(f64, f64) -> f64) -> Vec<u8> {
    (0..width * height)
        .flat_map(|i| {
            let c = coverage((i % width) as f64 + 0.5, (i / width) as f64 + 0.5).clamp(0.0, 1.0);
            let [r, g, b] = INK.map(|v| (255.0 + c * (f64::from(v) - 255.0)).round() as u8);
            [r, g, b, 255]
        })
        .collect()
}

fn found(width: usize, height: usize, rgba: &[u8], gap_px: f64) -> (DrawingLines, Islands) {
    let plan = Plan { roles: vec![Source::Colour { rgb: INK, tolerance: 8.0 }], widest_px: 40.0 };
    let layer = Layer { picture: Picture::new(width, height, rgba).expect("a picture"), role: None };
    measure_all(&[layer], &plan, &Look { gaps_px: vec![gap_px], region_px2: 0.0, least_paper_px: 0.5, off_palette: true })
}

/// Coverage of what lies within a distance: an edge a pixel wide.
fn inside(distance: f64, radius: f64) -> f64 {
    (radius - distance + 0.5).clamp(0.0, 1.0)
}

#[test]
fn islands_and_holes_are_those_of_the_labelling() {
    let cases: Vec<Value> = serde_json::from_str(include_str!("../../../tests/reference/islands.json")).expect("golden values");
    assert_eq!(cases.len(), 10);
    for case in cases {
        let width = case["width"].as_u64().expect("a width") as usize;
        let ink: Vec<bool> = case["ink"].as_str().expect("ink").chars().map(|c| c == '#').collect();
        // On clear ground: where most of a picture is ink its commonest colour is no paper.
        let rgba: Vec<u8> = ink.iter().flat_map(|i| [INK[0], INK[1], INK[2], if *i { 255 } else { 0 }]).collect();
        let (_, islands) = found(width, ink.len() / width, &rgba, 0.0);
        for (own, of) in [(&islands.ink, "islands"), (&islands.paper, "holes")] {
            let want: Vec<[f64; 3]> = serde_json::from_value(case[of].clone()).expect("islands");
            let mut own: Vec<[f64; 3]> = own.iter().map(|i: &Island| [i.area_px2, i.x, i.y]).collect();
            own.sort_by(|a, b| a.partial_cmp(b).expect("numbers"));
            assert_eq!(own.len(), want.len(), "{of}");
            for (a, b) in own.iter().zip(&want) {
                assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 0.02 * b.abs().max(1.0)), "{of} {a:?} {b:?}");
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// The area of a disc is that of a disc, be it ink on paper or paper in ink.
    #[test]
    fn a_speck_and_a_pinhole_have_their_areas(x in 30.0..34.0f64, y in 30.0..34.0f64, r in 1.0..6.0f64) {
        let area = std::f64::consts::PI * r * r;
        let disc = |px: f64, py: f64| inside((px - x).hypot(py - y), r);
        let (_, islands) = found(64, 64, &picture(64, 64, disc), 0.0);
        prop_assert_eq!((islands.ink.len(), islands.paper.len()), (1, 0));
        // What is fainter than a quarter at the rim is left out.
        prop_assert!((islands.ink[0].area_px2 - area).abs() < 0.2 * area + 0.3, "{} {}", islands.ink[0].area_px2, area);
        prop_assert!((islands.ink[0].x - x).hypot(islands.ink[0].y - y) < 0.35);
        let ring = |px: f64, py: f64| inside((px - 32.0).hypot(py - 32.0), 24.0) - disc(px, py);
        let (_, islands) = found(64, 64, &picture(64, 64, ring), 0.0);
        prop_assert_eq!(islands.paper.len(), 1);
        prop_assert!((islands.paper[0].area_px2 - area).abs() < 0.2 * area + 0.3, "{} {}", islands.paper[0].area_px2, area);
    }

    /// A Gaussian edge of deviation σ is 2.563 σ wide from 10 to 90 % (the normal distribution's quantiles).
    #[test]
    fn a_blurred_edge_is_as_wide_as_its_blur_says(sigma in 0.5..2.5f64, slope in 0.05..0.9f64, w in 8.0..14.0f64) {
        let (s, c) = slope.sin_cos();
        let step = |d: f64| 0.5 * (1.0 + erf(d / sigma / std::f64::consts::SQRT_2));
        let line = |x: f64, y: f64| {
            let across = (y - 60.0) * c - (x - 60.0) * s;
            step(0.5 * w - across) - step(-0.5 * w - across)
        };
        let (lines, _) = found(120, 120, &picture(120, 120, line), 0.0);
        let edges: Vec<f64> = lines.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == eddymist_measure::drawing::Place::Body).map(|p| f64::from(p.edge)).collect();
        prop_assert!(edges.len() > 40);
        let seen = edge_px(edges.iter().sum::<f64>() / edges.len() as f64);
        // An edge of over five pixels begins and ends so slowly that its last levels may be taken for the ground's and the ink's own.
        let room = if sigma < 2.1 { 0.08 } else { 0.16 };
        prop_assert!((seen / (2.563 * sigma) - 1.0).abs() < room, "{} {}", seen, 2.563 * sigma);
    }

    /// A ring that is open by so much has a gap of as much paper, and what leaks is the ring's inside; with a second opening nothing
    /// is parted by closing one; open wider than the limit it is no gap.
    #[test]
    fn an_open_ring_leaks_its_inside(open in 1.5..5.0f64, turn in 0.0..std::f64::consts::TAU, r in 40.0..55.0f64, w in 4.0..8.0f64) {
        let ring = |openings: Vec<f64>, open: f64| {
            picture(140, 140, move |x, y| {
                let (dx, dy) = (x - 70.0, y - 70.0);
                // Round caps: the nearest place of the arc, which leaves `open` px of paper between the caps.
                let half = ((open + w) / 2.0 / r).asin();
                let a = dy.atan2(dx);
                let mut d = (dx.hypot(dy) - r).abs();
                for o in &openings {
                    let off = (a - o + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU) - std::f64::consts::PI;
                    if off.abs() < half {
                        let cap = o + half * off.signum();
                        d = (dx - r * cap.cos()).hypot(dy - r * cap.sin());
                    }
                }
                inside(d, 0.5 * w)
            })
        };
        let (_, islands) = found(140, 140, &ring(vec![turn], open), 6.0);
        prop_assert_eq!(islands.gaps.len(), 1);
        let gap = &islands.gaps[0];
        prop_assert!((gap.paper_px - open).abs() < 0.8, "{} {}", gap.paper_px, open);
        let area = gap.region.inside.iter().filter(|i| **i).count() as f64;
        let truth = std::f64::consts::PI * (r - 0.5 * w).powi(2);
        prop_assert!((area / truth - 1.0).abs() < 0.04, "{} {}", area, truth);
        let (_, two) = found(140, 140, &ring(vec![turn, turn + 2.5], open), 6.0);
        prop_assert!(two.gaps.is_empty());
        let (_, wide) = found(140, 140, &ring(vec![turn], open + 6.5), 6.0);
        prop_assert!(wide.gaps.is_empty());
    }
}

/// The error function (Abramowitz and Stegun 7.1.26, good to 1.5e-7).
fn erf(x: f64) -> f64 {
    let t = 1.0 / (1.0 + 0.327_591_1 * x.abs());
    let y = 1.0 - (((((1.061_405_429 * t - 1.453_152_027) * t) + 1.421_413_741) * t - 0.284_496_736) * t + 0.254_829_592) * t * (-x * x).exp();
    y.copysign(x)
}

#[test]
fn ink_of_no_roles_colour_is_found_and_edges_between_two_roles_are_not() {
    let plan = Plan { roles: vec![Source::Colour { rgb: INK, tolerance: 8.0 }, Source::Colour { rgb: [0xc0, 0x20, 0x20], tolerance: 8.0 }], widest_px: 40.0 };
    let look = Look { gaps_px: Vec::new(), region_px2: 0.0, least_paper_px: 0.5, off_palette: true };
    let of = |third: [u8; 3]| {
        let mut rgba = vec![255u8; 4 * 120 * 90];
        let mut lay = |y0: f64, slope: f64, colour: [u8; 3]| {
            for (i, p) in rgba.chunks_exact_mut(4).enumerate() {
                let c = inside(((i / 120) as f64 + 0.5 - y0 - slope * ((i % 120) as f64 - 60.0)).abs(), 2.5);
                for (v, k) in p.iter_mut().zip(colour) {
                    *v = (f64::from(*v) + c * (f64::from(k) - f64::from(*v))).round() as u8;
                }
            }
        };
        lay(45.0, 0.5, INK);
        lay(45.0, -0.4, [0xc0, 0x20, 0x20]);
        lay(80.0, 0.0, third);
        measure_all(&[Layer { picture: Picture::new(120, 90, &rgba).expect("a picture"), role: None }], &plan, &look).1.off
    };
    assert_eq!(of(INK), []);
    // Blue lies off; a grey halfway between paper and ink is paler than any role, though each of its pixels could be an edge.
    for (colour, least) in [([0x20, 0x50, 0xd0], 20.0), ([0x78, 0x7a, 0x7e], 20.0)] {
        let off = of(colour);
        assert_eq!(off.len(), 1, "{off:?}");
        assert!(off[0].delta_e > least && off[0].rgb == colour && (off[0].y - 80.5).abs() < 1.0, "{off:?}");
    }
}
