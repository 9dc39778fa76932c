//! Nibs of any shape, blurs and averages against other libraries (tests/reference/make_ink.py), and what shapes must hold to.

use eddymist_ink::{
    Outline,
    envelope::NibPlacement,
    outline::signed_area,
    polygon::{Shape, ShapeError},
    raster::Coverage,
    smoothing::Average,
};
use proptest::prelude::*;
use serde::Deserialize;

#[derive(Deserialize)]
struct Swept {
    name: String,
    rings: Vec<Vec<[f64; 2]>>,
    /// Place, length and angle (radians, page axes).
    nibs: Vec<[f64; 4]>,
    area: f64,
    #[serde(default)]
    across: Vec<[f64; 2]>,
}

/// Shapely: the union of the convex hulls of a shape's triangles at neighbouring placements, within 0.1 %.
#[test]
fn swept_shapes_have_shapelys_areas_and_widths() {
    let cases: Vec<Swept> = serde_json::from_str(include_str!("../../../tests/reference/shapes.json")).expect("golden values");
    assert_eq!(cases.len(), 18);
    for c in cases {
        let shape = Shape::new(&c.rings).expect("a shape");
        let nibs: Vec<NibPlacement> = c.nibs.iter().map(|n| NibPlacement { x: n[0], y: n[1], a: 0.5 * n[2], b: 0.5 * n[2], angle: n[3] }).collect();
        let area = shape.sweep(&nibs, 0.0005).area_mm2();
        assert!((area / c.area - 1.0).abs() < 0.001, "{}: {area} and {}", c.name, c.area);
        for [degrees, width] in c.across {
            assert!((shape.across(degrees.to_radians(), 1.0) - width).abs() < 1e-6, "{} across {degrees}°", c.name);
        }
    }
}

#[derive(Deserialize)]
struct Blurred {
    sigma: f64,
    picture: Vec<Vec<f32>>,
    blurred: Vec<Vec<f32>>,
}

/// scipy.ndimage.gaussian_filter with no ink beyond the picture.
#[test]
fn a_blur_is_scipys() {
    let cases: Vec<Blurred> = serde_json::from_str(include_str!("../../../tests/reference/blur.json")).expect("golden values");
    for c in cases {
        let (width, height) = (c.picture[0].len(), c.picture.len());
        let mut cover = Coverage { width, height, data: c.picture.concat() };
        cover.blur(c.sigma);
        for (got, want) in cover.data.iter().zip(c.blurred.concat()) {
            // It is cut at whole pixels a little further out than ours for some widths.
            assert!((got - want).abs() < 5e-4, "{} at {}: {got} and {want}", c.sigma, width);
        }
    }
}

#[derive(Deserialize)]
struct Averaged {
    window: f64,
    t: Vec<f64>,
    x: Vec<f64>,
    mean: Vec<f64>,
}

/// scipy.integrate.cumulative_trapezoid over uneven times.
#[test]
fn a_mean_over_time_is_scipys_integral() {
    let cases: Vec<Averaged> = serde_json::from_str(include_str!("../../../tests/reference/average.json")).expect("golden values");
    for c in cases {
        let mut a = Average::default();
        c.t.iter().zip(&c.x).for_each(|(t, x)| a.push(*t, *x));
        for (i, (got, want)) in a.centred(c.window).iter().zip(&c.mean).enumerate() {
            assert!((got - want).abs() < 1e-9, "{} ms, sample {i}: {got} and {want}", c.window);
        }
    }
}

#[test]
fn rings_that_make_no_shape_say_why() {
    let square = vec![[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]];
    for (rings, why) in [
        (vec![], ShapeError::Corners),
        (vec![vec![[0.0, 0.0], [1.0, 0.0]]], ShapeError::Corners),
        (vec![vec![[0.0, 0.0], [1.0, f64::NAN], [0.0, 1.0]]], ShapeError::Corners),
        (vec![vec![[0.0, 0.0], [1e6, 0.0], [0.0, 1.0]]], ShapeError::Corners),
        (vec![square.clone(), vec![[0.0, 0.0], [1.0, 1.0]]], ShapeError::Corners),
        (vec![vec![[0.0, 0.0], [0.5, 0.5], [1.0, 1.0]]], ShapeError::NoArea),
        (vec![vec![[0.2, 0.2]; 5]], ShapeError::NoArea),
    ] {
        assert_eq!(Shape::new(&rings), Err(why), "{rings:?}");
    }
    // What overlaps counts once, whichever way round its rings run; a bow tie is both its halves.
    let at = NibPlacement { x: 3.0, y: 4.0, a: 0.5, b: 0.5, angle: 0.0 };
    let area = |rings: &[Vec<[f64; 2]>]| Shape::new(rings).expect("a shape").sweep(&[at], 0.001).area_mm2();
    let moved = square.iter().map(|p| [p[0] + 0.5, p[1]]).rev().collect::<Vec<_>>();
    assert!((area(&[square.clone(), moved]) - 1.5).abs() < 1e-6);
    assert!((area(&[square.iter().rev().copied().collect()]) - 1.0).abs() < 1e-6);
    assert!(Shape::new(&[square]).expect("a shape").sweep(&[], 0.001).paths.is_empty());
}

/// A star of any number of points, turned, of any size.
fn star() -> impl Strategy<Value = Vec<[f64; 2]>> {
    (3usize..9, prop::collection::vec(0.1f64..0.5, 18), 0.0f64..6.0).prop_map(|(n, radii, turn)| {
        let m = 2 * n;
        (0..m)
            .map(|k| {
                let a = turn + std::f64::consts::TAU * k as f64 / m as f64;
                [radii[k] * a.cos(), radii[k] * a.sin()]
            })
            .collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Set down once, a shape covers its own area: the convex pieces neither overlap nor leave a gap.
    #[test]
    fn a_shape_set_down_is_itself(ring in star(), x in -5.0f64..5.0, size in 0.2f64..3.0, angle in -3.0f64..3.0) {
        let shape = Shape::new(std::slice::from_ref(&ring)).expect("a shape");
        let at = NibPlacement { x, y: 1.0, a: 0.5 * size, b: 0.5 * size, angle };
        let pieces: f64 = shape.hulls(&at, &at).iter().map(|p| signed_area(p).abs()).sum();
        let want = signed_area(&ring).abs() * size * size;
        prop_assert!((pieces / want - 1.0).abs() < 1e-3 && (shape.sweep(&[at], 0.001).area_mm2() / want - 1.0).abs() < 1e-3, "{} of {}", pieces, want);
    }

    /// Swept, it covers all its placements, and no more than its convex hull would.
    #[test]
    fn a_swept_shape_lies_between_its_placements_and_its_hull(ring in star(), dx in -4.0f64..4.0, dy in -4.0f64..4.0, grow in 0.5f64..2.0) {
        let shape = Shape::new(std::slice::from_ref(&ring)).expect("a shape");
        let nibs = [NibPlacement { x: 0.0, y: 0.0, a: 0.5, b: 0.5, angle: 0.2 }, NibPlacement { x: dx, y: dy, a: 0.5 * grow, b: 0.5 * grow, angle: 0.2 }];
        let swept = shape.sweep(&nibs, 0.0005).area_mm2();
        let apart = Outline::merged(nibs.iter().map(|n| shape.sweep(&[*n], 0.0005))).area_mm2();
        let hull: f64 = {
            let all: Vec<[f64; 2]> = nibs.iter().flat_map(|n| shape.hulls(n, n)).flatten().collect();
            let convex = Shape::new(&[hull_of(all)]).expect("a hull");
            convex.hulls(&NibPlacement { x: 0.0, y: 0.0, a: 0.5, b: 0.5, angle: 0.0 }, &NibPlacement { x: 0.0, y: 0.0, a: 0.5, b: 0.5, angle: 0.0 }).iter().map(|p| signed_area(p).abs()).sum()
        };
        prop_assert!(swept >= apart * 0.999 && swept <= hull * 1.001, "{} between {} and {}", swept, apart, hull);
    }
}

/// Gift wrapping: plain and slow.
fn hull_of(points: Vec<[f64; 2]>) -> Vec<[f64; 2]> {
    let start = points.iter().copied().min_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1]))).expect("points");
    let mut out = vec![start];
    loop {
        let here = out[out.len() - 1];
        let next = points
            .iter()
            .copied()
            .filter(|p| *p != here)
            .reduce(|best, p| {
                let cross = (best[0] - here[0]) * (p[1] - here[1]) - (best[1] - here[1]) * (p[0] - here[0]);
                let further = (p[0] - here[0]).hypot(p[1] - here[1]) > (best[0] - here[0]).hypot(best[1] - here[1]);
                if cross < 0.0 || (cross == 0.0 && further) { p } else { best }
            })
            .expect("more than one point");
        if next == start || out.len() > points.len() {
            return out;
        }
        out.push(next);
    }
}
