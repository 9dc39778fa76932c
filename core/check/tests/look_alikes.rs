//! What looks like a fault and is none, and faults where they hide: each case once, drawn from the definitions (docs/methods.md, "Faults").

use common::{INK, RED, Sheet, W, guide, role};
use eddymist_check::{
    Finding, FindingKind, LineGuide,
    guide::{Ends, Role},
};
use proptest::prelude::*;

mod common;

const LINE: &str = "#1b1e24";

fn two(ends: Ends) -> LineGuide {
    let mut red = role("inner line", "#c02020", 4.0, 0.12);
    red.ends = ends;
    guide(vec![role("contour", LINE, 6.0, 0.12), red])
}

fn found(sheet: &Sheet, g: &LineGuide) -> Vec<Finding> {
    sheet.check(g).check.findings
}

fn of(sheet: &Sheet, g: &LineGuide, kind: FindingKind) -> usize {
    found(sheet, g).iter().filter(|f| f.kind == kind).count()
}

fn at(degrees: f64, [x, y]: [f64; 2]) -> [f64; 2] {
    let (s, c) = degrees.to_radians().sin_cos();
    [400.0 + x * c - y * s, 300.0 + x * s + y * c]
}

fn ruled(s: Sheet, degrees: f64, a: [f64; 2], b: [f64; 2], widths: &[[f64; 2]], colour: [u8; 3]) -> Sheet {
    s.line(at(degrees, a), at(degrees, b), widths, colour)
}

/// Lays a form of whole or partly covered pixels over a sheet.
fn laid(mut s: Sheet, colour: [u8; 3], cover: impl Fn(f64, f64) -> f64) -> Sheet {
    for (i, p) in s.rgba.chunks_exact_mut(4).enumerate() {
        let c = cover((i % W) as f64 + 0.5, (i / W) as f64 + 0.5).clamp(0.0, 1.0);
        for (v, to) in p.iter_mut().zip(colour) {
            *v = (f64::from(*v) + (f64::from(to) - f64::from(*v)) * c).round() as u8;
        }
    }
    s
}

const PLAIN: &[[f64; 2]] = &[[0.0, 6.0]];
const THIN: &[[f64; 2]] = &[[0.0, 4.0]];

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, failure_persistence: None, ..ProptestConfig::default() })]

    /// Lines across one another in one role and in two, along one another, and a line of another role along a contour's edge: nothing.
    #[test]
    fn crossings_and_shared_edges_are_no_findings(degrees in 0.0f64..180.0, angle in 25.0f64..155.0, aside in -3.0f64..3.0) {
        let (s, c) = angle.to_radians().sin_cos();
        let sheet = ruled(Sheet::new(), degrees, [-220.0, 0.0], [220.0, 0.0], PLAIN, INK);
        let sheet = ruled(sheet, degrees, [-200.0 * c, -200.0 * s], [200.0 * c, 200.0 * s], PLAIN, INK);
        let sheet = ruled(sheet, degrees, [-150.0, 60.0], [160.0, -70.0], THIN, RED);
        // Half over the first line's edge for a while.
        let sheet = ruled(sheet, degrees, [60.0, 3.0 + aside.abs()], [150.0, 3.0 + aside.abs()], THIN, RED);
        let all = found(&sheet, &two(Ends::Any));
        prop_assert!(all.is_empty(), "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
    }

    /// A tip that goes a little way into or through another role's line is not thin there, nor blunt; a taper is no thin line.
    #[test]
    fn tips_that_cross_another_role_are_neither_thin_nor_blunt(degrees in 0.0f64..180.0, way in 40.0f64..140.0, through in 0.0f64..9.0, long in 60.0f64..120.0) {
        let (s, c) = way.to_radians().sin_cos();
        let run = |to: f64| vec![[0.0, 0.6], [0.25, 0.55 * to], [0.45, 0.85 * to], [0.6, to], [1.0, to]];
        let sheet = ruled(Sheet::new(), degrees, [-220.0, 0.0], [220.0, 0.0], PLAIN, INK);
        let tip = |k: f64| [k * c, k * s];
        let sheet = ruled(sheet, degrees, tip(long), tip(-through), &run(4.0), RED);
        // What stands out beyond the contour is an end that is seen.
        for ends in [Ends::Any, if through < 3.0 { Ends::Tapered } else { Ends::Any }] {
            let all = found(&sheet, &two(ends));
            prop_assert!(all.is_empty(), "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
        }
    }

    /// A frame on the pixel grid is smooth, and one that is drawn aliased aslant is not.
    #[test]
    fn a_frame_on_the_pixels_is_not_hard(x in 100u32..200, y in 80u32..160, w in 150u32..400, h in 120u32..300) {
        let (l, t, r, b) = (f64::from(x), f64::from(y), f64::from(x + w), f64::from(y + h));
        let ring = |px: f64, py: f64| {
            let out = px > l - 3.0 && px < r + 3.0 && py > t - 3.0 && py < b + 3.0;
            let inside = px > l + 3.0 && px < r - 3.0 && py > t + 3.0 && py < b - 3.0;
            f64::from(u8::from(out && !inside))
        };
        let all = found(&laid(Sheet::new(), INK, ring), &two(Ends::Any));
        prop_assert!(all.is_empty(), "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
    }

    /// Lines that fan out from a root at any small angles are no doubles, their wedges no pinholes, their root no hook.
    #[test]
    fn a_fan_is_nothing(degrees in 0.0f64..180.0, apart in 4.0f64..14.0, count in 2usize..6) {
        let sheet = (0..count).fold(Sheet::new(), |s, k| {
            let a = (apart * k as f64).to_radians();
            ruled(s, degrees, [-180.0, -40.0], [-180.0 + 330.0 * a.cos(), -40.0 + 330.0 * a.sin()], PLAIN, INK)
        });
        let all = found(&sheet, &two(Ends::Any));
        prop_assert!(all.is_empty(), "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
    }

    /// Strokes of hatching have no doubles, no gaps and no hooks; ticks are not thin.
    #[test]
    fn hatching_and_ticks_are_nothing(degrees in 0.0f64..180.0, pitch in 6.5f64..12.0, ticks in 8.0f64..26.0) {
        let run = [[0.0, 1.0], [0.15, 4.0], [0.8, 4.0], [1.0, 0.8]];
        let sheet = (0..9).fold(Sheet::new(), |s, k| {
            let y = pitch * (f64::from(k) - 4.0) - 60.0;
            ruled(s, degrees, [-60.0, y], [20.0, y + 6.0], &run, RED)
        });
        let tick = [[0.0, 0.8], [0.4, 3.0], [1.0, 0.8]];
        let sheet = (0..7).fold(sheet, |s, k| {
            let x = 26.0 * (f64::from(k) - 3.0);
            ruled(s, degrees, [x, 90.0], [x + 4.0, 90.0 + ticks], &tick, RED)
        });
        let all = found(&sheet, &two(Ends::Any));
        prop_assert!(all.is_empty(), "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
    }

    /// A pixel of clear paper between two lines is a double, and in a ring it is a gap; where another role closes the corner it is none.
    #[test]
    fn a_pixel_of_paper_tells(degrees in 0.0f64..180.0, clear in 1.1f64..1.6) {
        let sheet = ruled(Sheet::new(), degrees, [-220.0, 0.0], [220.0, 0.0], PLAIN, INK);
        let sheet = ruled(sheet, degrees, [-60.0, 6.0 + clear], [60.0, 6.0 + clear], PLAIN, INK);
        prop_assert_eq!(of(&sheet, &two(Ends::Any), FindingKind::Double), 1);
        let corners = [[-120.0, -90.0], [120.0, -90.0], [120.0, 90.0], [-120.0, 90.0]];
        let open = |s: Sheet| {
            let s = (0..3).fold(s, |s, k| ruled(s, degrees, corners[k], corners[k + 1], PLAIN, INK));
            // Round caps stand six pixels and the opening apart.
            let s = ruled(s, degrees, corners[3], [-120.0, 3.0 + 0.5 * clear], PLAIN, INK);
            ruled(s, degrees, [-120.0, -3.0 - 0.5 * clear], corners[0], PLAIN, INK)
        };
        prop_assert_eq!(of(&open(Sheet::new()), &two(Ends::Any), FindingKind::Gap), 1);
        let closed = ruled(open(Sheet::new()), degrees, [-123.0, -20.0], [-123.0, 20.0], THIN, RED);
        prop_assert_eq!(of(&closed, &two(Ends::Any), FindingKind::Gap), 0);
    }

    /// A hole in a spotted black is a pinhole as in a line; one of under the least size is none.
    #[test]
    fn a_pinhole_in_a_black_is_found(x in 330.0f64..470.0, y in 280.0f64..320.0, area in prop_oneof![0.2f64..0.5, 1.8f64..6.5, 11.0f64..30.0]) {
        let black = ruled(Sheet::new().lines(6.0, INK), 0.0, [-100.0, 0.0], [100.0, 0.0], &[[0.0, 80.0]], INK);
        let r = (area / std::f64::consts::PI).sqrt();
        let sheet = laid(black, [255; 3], |px, py| if r < 0.5 {
            // Smaller than a pixel: its share of one.
            if px.floor() == x.floor() && py.floor() == y.floor() { area } else { 0.0 }
        } else {
            r + 0.5 - (px - x).hypot(py - y)
        });
        prop_assert_eq!(of(&sheet, &two(Ends::Any), FindingKind::Pinhole), usize::from((1.0..8.0).contains(&area)), "{}", area);
    }

    /// Near-black or grey beside black, further than the tolerance: off the palette, and not thin.
    #[test]
    fn a_near_black_is_off_the_palette_and_not_thin(level in 70u8..110, degrees in 0.0f64..180.0) {
        let grey = [level, level, level + 4];
        let sheet = ruled(Sheet::new().line([60.0, 560.0], [740.0, 570.0], PLAIN, INK), degrees, [-200.0, 0.0], [200.0, 0.0], PLAIN, grey);
        let all = found(&sheet, &two(Ends::Any));
        prop_assert!(all.len() == 1 && all[0].kind == FindingKind::OffPalette, "{:?}", all.iter().map(|f| &f.message).collect::<Vec<_>>());
    }
}

/// An arc of `degrees` at a radius before the tip, after a straight way, and what goes on straight after it.
fn hooked(degrees: f64, radius: f64, leg: f64, before: f64) -> Vec<[f64; 2]> {
    let (mut p, mut a, mut out) = ([120.0, 300.0], 0.0f64, Vec::new());
    let mut go = |long: f64, turn: f64| {
        let n = long.ceil();
        for _ in 0..n as usize {
            a += long / n * turn;
            p = [p[0] + long / n * a.cos(), p[1] + long / n * a.sin()];
            out.push(p);
        }
    };
    go(before, 0.0);
    go(radius * degrees.to_radians(), 1.0 / radius);
    go(leg, 0.0);
    out
}

fn along(points: &[[f64; 2]], width: f64) -> Sheet {
    let bounds = points.iter().fold([f64::MAX, f64::MAX, 0.0, 0.0], |b, p| [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]);
    laid(Sheet::new(), INK, |x, y| {
        if x < bounds[0] - width || y < bounds[1] - width || x > bounds[2] + width || y > bounds[3] + width {
            return 0.0;
        }
        let d = points.windows(2).map(|w| {
            let (d, e) = ([w[1][0] - w[0][0], w[1][1] - w[0][1]], [x - w[0][0], y - w[0][1]]);
            let t = ((d[0] * e[0] + d[1] * e[1]) / (d[0] * d[0] + d[1] * d[1]).max(1e-12)).clamp(0.0, 1.0);
            (e[0] - t * d[0]).hypot(e[1] - t * d[1])
        });
        0.5 * width + 0.5 - d.fold(f64::MAX, f64::min)
    })
}

#[test]
fn hooks_are_told_by_their_whole_turn_their_radius_and_where_they_begin() {
    let g = guide(vec![Role { ends: Ends::Any, ..role("contour", LINE, 6.0, 0.12) }]);
    let hooks = |degrees: f64, radius: f64, leg: f64, before: f64| {
        let all: Vec<Finding> = found(&along(&hooked(degrees, radius, leg, before), 6.0), &g).into_iter().filter(|f| f.kind == FindingKind::Hook).collect();
        assert!(all.iter().all(|f| (f.value - degrees).abs() < 0.2 * degrees), "{degrees}° at {radius}: {all:?}");
        all.len()
    };
    let (mut missed, mut twice) = (Vec::new(), 0);
    for degrees in [72.0, 85.0, 100.0, 120.0, 140.0, 160.0, 178.0] {
        for radius in [4.0, 7.0, 11.0, 15.0, 17.0] {
            for leg in [3.0, 10.0] {
                let long = radius * f64::to_radians(degrees) + leg;
                match hooks(degrees, radius, leg, 260.0) {
                    // Further in than ten widths it is the line's own course.
                    _ if long > 56.0 => {}
                    1 => {}
                    0 => missed.push((degrees, radius, leg)),
                    _ => twice += 1,
                }
            }
        }
    }
    assert!(twice == 0 && missed.len() <= 3, "{missed:?}");
    // A smaller turn; a turn at over three widths; one that begins far from the tip; a line that bends all along.
    assert_eq!([hooks(48.0, 9.0, 6.0, 260.0), hooks(110.0, 27.0, 6.0, 260.0), hooks(110.0, 9.0, 90.0, 200.0), hooks(300.0, 60.0, 1.0, 2.0)], [0; 4]);
}
