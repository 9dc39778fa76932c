//! The direct envelope against the slow way: all hulls of neighbouring placements united, whatever the nib does.

use std::f64::consts::PI;

use eddymist_ink::{
    Outline,
    envelope::{NibPlacement, envelope, hull},
    outline::signed_area,
    raster::rasterise,
};
use proptest::prelude::*;

fn nib(x: f64, y: f64, a: f64, ratio: f64, angle: f64) -> NibPlacement {
    NibPlacement { x, y, a, b: a * ratio, angle }
}

fn slow(nibs: &[NibPlacement]) -> Outline {
    Outline::united(nibs.windows(2).map(|w| hull(&w[0], &w[1], 0.0005)).collect())
}

/// The share of the page on which two outlines differ, per area of the first.
fn differ(a: &Outline, b: &Outline) -> f64 {
    let [l, t, r, bottom] = a.bounds().expect("ink");
    let k = 20.0;
    let (w, h) = (((r - l + 1.0) * k) as usize, ((bottom - t + 1.0) * k) as usize);
    let of = |o: &Outline| rasterise(o, k, [l - 0.5, t - 0.5], w, h).data;
    let off: f64 = of(a).iter().zip(of(b)).map(|(x, y)| f64::from((x - y).abs())).sum();
    off / (k * k) / a.area_mm2()
}

fn convex(p: &[[f64; 2]]) -> bool {
    let n = p.len();
    let turn = |i: usize| {
        let (a, b, c) = (p[i], p[(i + 1) % n], p[(i + 2) % n]);
        (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])
    };
    let sign = signed_area(p).signum();
    (0..n).all(|i| turn(i) * sign > -1e-9)
}

#[test]
fn a_hull_of_two_discs_has_its_formulas_area() {
    // Two circles r, s apart d: both common tangents, two arcs. Source: elementary geometry, from memory.
    for (r, s, d) in [(1.0, 1.0, 3.0), (1.0, 0.4, 3.0), (0.7, 0.69, 0.02), (2.0, 0.5, 1.6)] {
        let alpha = f64::acos((r - s) / d);
        let flank = (d * d - (r - s) * (r - s)).sqrt();
        let area = (r + s) * flank + r * r * (PI - alpha) + s * s * alpha;
        let got = signed_area(&hull(&nib(0.0, 0.0, r, 1.0, 0.0), &nib(d, 0.0, s, 1.0, 0.0), 1e-5)).abs();
        assert!((got / area - 1.0).abs() < 1e-4, "{r} {s} {d}: {got} and {area}");
    }
    // One inside the other leaves the larger.
    let got = signed_area(&hull(&nib(0.0, 0.0, 2.0, 1.0, 0.0), &nib(0.5, 0.0, 0.4, 1.0, 0.0), 1e-5)).abs();
    assert!((got / (4.0 * PI) - 1.0).abs() < 1e-4);
}

#[test]
fn turns_reversals_and_standing_still_leave_what_they_should() {
    let shapes: [(&str, Vec<NibPlacement>); 6] = [
        ("a right angle", vec![nib(0.0, 0.0, 0.6, 1.0, 0.0), nib(6.0, 0.0, 0.6, 1.0, 0.0), nib(6.0, 5.0, 0.6, 1.0, 0.0)]),
        ("there and back", vec![nib(0.0, 0.0, 0.5, 1.0, 0.0), nib(5.0, 0.0, 0.5, 1.0, 0.0), nib(1.0, 0.0, 0.5, 1.0, 0.0)]),
        ("a dwell that grows", (0..8).map(|i| nib(2.0, 3.0, 0.2 + 0.1 * f64::from(i), 1.0, 0.0)).collect()),
        ("a dwell that shrinks, then away", vec![nib(0.0, 0.0, 1.0, 1.0, 0.0), nib(0.1, 0.0, 0.3, 1.0, 0.0), nib(4.0, 0.0, 0.3, 1.0, 0.0)]),
        ("a nib that turns in place", (0..12).map(|i| nib(0.0, 0.0, 1.0, 0.2, 0.25 * f64::from(i))).collect()),
        ("a flat nib along itself", vec![nib(0.0, 0.0, 1.0, 0.1, 0.0), nib(5.0, 0.0, 1.0, 0.1, 0.0), nib(5.0, 4.0, 1.0, 0.1, 0.0)]),
    ];
    for (name, nibs) in shapes {
        let (fast, slow) = (envelope(&nibs, 0.0005), slow(&nibs));
        assert!((fast.area_mm2() / slow.area_mm2() - 1.0).abs() < 1e-3, "{name}: {} and {}", fast.area_mm2(), slow.area_mm2());
        assert!(differ(&slow, &fast) < 2e-3, "{name}: {}", differ(&slow, &fast));
    }
}

#[test]
fn a_loop_keeps_its_hole_and_a_tight_one_fills_it() {
    let ring =
        |radius: f64| (0..=80).map(|i| 2.0 * PI * f64::from(i) / 80.0).map(|u| nib(radius * u.cos(), radius * u.sin(), 1.0, 1.0, 0.0)).collect::<Vec<_>>();
    let (wide, tight) = (envelope(&ring(4.0), 0.0005), envelope(&ring(0.8), 0.0005));
    assert!(wide.paths.len() == 2 && (wide.area_mm2() / (PI * (25.0 - 9.0)) - 1.0).abs() < 2e-3, "{}", wide.area_mm2());
    assert!(tight.paths.len() == 1 && (tight.area_mm2() / (PI * 1.8f64.powi(2)) - 1.0).abs() < 2e-3, "{}", tight.area_mm2());
}

fn course() -> impl Strategy<Value = Vec<NibPlacement>> {
    (prop::collection::vec((-1.5f64..1.5, 0.3f64..2.5, 0.05f64..0.9), 2..24), 0.15f64..=1.0, -3.0f64..3.0, -0.3f64..0.3).prop_map(
        |(steps, ratio, angle, turning)| {
            let (mut x, mut y, mut way) = (0.0, 0.0, 0.0f64);
            steps
                .iter()
                .enumerate()
                .map(|(i, (bend, step, a))| {
                    way += bend;
                    (x, y) = (x + step * way.cos(), y + step * way.sin());
                    nib(x, y, *a, ratio, angle + turning * i as f64)
                })
                .collect()
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// The direct envelope is the union of all hulls, for any course of any elliptical nib.
    #[test]
    fn the_envelope_is_the_union_of_the_hulls(nibs in course()) {
        let (fast, slow) = (envelope(&nibs, 0.0005), slow(&nibs));
        prop_assert!((fast.area_mm2() / slow.area_mm2() - 1.0).abs() < 2e-3, "{} and {}", fast.area_mm2(), slow.area_mm2());
        prop_assert!(differ(&slow, &fast) < 4e-3, "{}", differ(&slow, &fast));
    }

    /// A dot that is held crosses itself at every report, and is the union of its hulls all the same, whatever it grows or slides by.
    #[test]
    fn a_held_dot_is_the_union_of_its_hulls(
        nibs in (0.15f64..1.5, 0.15f64..1.0, 0.0f64..0.4, 0.0f64..0.8, prop::collection::vec((-1.0f64..1.0, -1.0f64..1.0), 30..160)).prop_map(|(a, ratio, slide, grows, jitter)| {
            let n = jitter.len() as f64;
            jitter.iter().enumerate().map(|(i, (x, y))| {
                let u = i as f64 / n;
                nib(slide * u + 0.02 * x, 0.3 * slide * u + 0.02 * y, a * (1.0 + grows * u), ratio, 0.3)
            }).collect::<Vec<_>>()
        })
    ) {
        let (fast, slow) = (envelope(&nibs, 0.0005), slow(&nibs));
        prop_assert!((fast.area_mm2() / slow.area_mm2() - 1.0).abs() < 2e-3, "{} and {}", fast.area_mm2(), slow.area_mm2());
        prop_assert!(differ(&slow, &fast) < 4e-3, "{}", differ(&slow, &fast));
    }

    /// Every piece that live ink adds is convex and holds both its nibs.
    #[test]
    fn live_pieces_are_convex(nibs in course()) {
        for w in nibs.windows(2) {
            let piece = hull(&w[0], &w[1], 0.001);
            prop_assert!(piece.len() > 2 && piece.iter().flatten().all(|v| v.is_finite()));
            prop_assert!(convex(&piece));
            let least = PI * (w[0].a * w[0].b).max(w[1].a * w[1].b);
            prop_assert!(signed_area(&piece).abs() > 0.995 * least);
        }
    }

    /// Ink is the same whichever way round the page is looked at.
    #[test]
    fn turning_and_mirroring_the_page_keeps_the_ink(nibs in course(), turn in -3.0f64..3.0) {
        let (s, c) = turn.sin_cos();
        let turned: Vec<NibPlacement> = nibs.iter().map(|n| NibPlacement { x: c * n.x - s * n.y, y: s * n.x + c * n.y, angle: n.angle + turn, ..*n }).collect();
        let mirrored: Vec<NibPlacement> = nibs.iter().map(|n| NibPlacement { x: -n.x, angle: -n.angle, ..*n }).collect();
        let area = envelope(&nibs, 0.0005).area_mm2();
        prop_assert!((envelope(&turned, 0.0005).area_mm2() / area - 1.0).abs() < 1e-3);
        prop_assert!((envelope(&mirrored, 0.0005).area_mm2() / area - 1.0).abs() < 1e-3);
    }
}

/// A stroke of more samples than are traced as one path: the same ink as with every eighth of them, which is traced as one. Archimedes' spiral,
/// whose area is that of its band (length by width, and two half caps), and a zigzag that crosses itself at every turn.
#[test]
fn a_stroke_without_end_is_the_ink_of_its_pieces() {
    let nib = |x: f64, y: f64| nib(x, y, 0.4, 1.0, 0.0);
    let n = 16_000;
    let spiral: Vec<_> = (0..n)
        .map(|i| {
            let angle = 40.0 * f64::from(i) / f64::from(n);
            nib((3.0 + angle) * angle.cos(), (3.0 + angle) * angle.sin())
        })
        .collect();
    let length: f64 = spiral.windows(2).map(|w| (w[1].x - w[0].x).hypot(w[1].y - w[0].y)).sum();
    let area = envelope(&spiral, 0.0005).area_mm2();
    let band = 0.8 * length + PI * 0.16;
    assert!((area / band - 1.0).abs() < 1e-3, "{area} mm² of {band}");
    let zigzag: Vec<_> = (0..n)
        .map(|i| {
            let t = f64::from(i) / 200.0;
            nib(0.3 * t, 4.0 * ((t % 2.0) - 1.0).abs())
        })
        .collect();
    for whole in [spiral, zigzag] {
        let few: Vec<_> = whole.iter().step_by(8).chain(whole.last()).copied().collect();
        let (many, few) = (envelope(&whole, 0.0005), envelope(&few, 0.0005));
        assert!(differ(&many, &few) < 2e-3, "{} and {} mm²", many.area_mm2(), few.area_mm2());
        let (a, b) = (many.bounds().expect("ink"), few.bounds().expect("ink"));
        assert!(a.iter().zip(b).all(|(a, b)| (a - b).abs() < 0.01), "{a:?}, {b:?}");
    }
}
