//! The proof figures: what every brush is shown on. Effort stands in the samples' pressure, and the times are those of a
//! steady hand, so that pace and pooling show.
//!
//! A ruled line, an arc, a corner, a loop, a ring, hatching, a ramp, flicks and a five-pointed figure are common practice for
//! trying a pen, no source.

use std::f64::consts::{PI, TAU};

use crate::stroke::{Sample, Stroke, along};

/// One figure in a box of its own, mm from the box's top left corner.
#[derive(Debug, Clone, PartialEq)]
pub struct Figure {
    pub name: &'static str,
    /// Where the box stands on the sheet, and its size, mm.
    pub at: [f64; 2],
    pub size: [f64; 2],
    pub strokes: Vec<Stroke>,
}

/// Width and height that the figures take together, mm.
pub const PROOF_MM: [f64; 2] = [180.0, 48.0];
/// Samples a second of the steady hand.
const RATE_HZ: f64 = 200.0;

/// A stroke along a course given by its share, at a speed in mm/s.
fn drawn(course: impl Fn(f64) -> [f64; 2], effort: impl Fn(f64) -> f64, speed: f64) -> Stroke {
    const FINE: usize = 2000;
    let places: Vec<[f64; 2]> = (0..=FINE).map(|i| course(i as f64 / FINE as f64)).collect();
    let way = along(places.iter().map(|p| (p[0], p[1])));
    let total = way[FINE];
    let n = (total / speed * RATE_HZ).ceil().max(4.0) as usize;
    let samples = (0..=n)
        .map(|k| {
            let u = k as f64 / n as f64;
            let s = u * total;
            let i = way.partition_point(|w| *w < s).clamp(1, FINE);
            let t = (s - way[i - 1]) / (way[i] - way[i - 1]).max(f64::MIN_POSITIVE);
            let [x, y] = [0, 1].map(|k| places[i - 1][k] + (places[i][k] - places[i - 1][k]) * t);
            Sample { t_ms: 1000.0 * k as f64 / RATE_HZ, x, y, pressure: Some(effort(u).clamp(0.0, 1.0)), ..Sample::default() }
        })
        .collect();
    Stroke::new(samples)
}

fn line(a: [f64; 2], b: [f64; 2], effort: impl Fn(f64) -> f64, speed: f64) -> Stroke {
    drawn(move |u| [a[0] + (b[0] - a[0]) * u, a[1] + (b[1] - a[1]) * u], effort, speed)
}

/// All figures, each in its box.
pub fn figures() -> Vec<Figure> {
    let figure = |name, at, size, strokes| Figure { name, at, size, strokes };
    let polyline = |corners: &[[f64; 2]], effort: f64, speed: f64| {
        let corners = corners.to_vec();
        let way = along(corners.iter().map(|p| (p[0], p[1])));
        let total = way[way.len() - 1];
        drawn(
            move |u| {
                let s = u * total;
                let i = way.partition_point(|w| *w < s).clamp(1, corners.len() - 1);
                let t = (s - way[i - 1]) / (way[i] - way[i - 1]);
                [0, 1].map(|k| corners[i - 1][k] + (corners[i][k] - corners[i - 1][k]) * t)
            },
            move |_| effort,
            speed,
        )
    };
    let star: Vec<[f64; 2]> = (0..6)
        .map(|k| {
            let a = -PI / 2.0 + f64::from(2 * k) * TAU / 5.0;
            [10.0 + 8.5 * a.cos(), 13.0 + 8.5 * a.sin()]
        })
        .collect();
    vec![
        figure("ruled line", [0.0, 0.0], [60.0, 8.0], vec![line([2.0, 4.0], [58.0, 4.0], |_| 0.5, 60.0)]),
        figure("ramp", [0.0, 8.0], [60.0, 10.0], vec![line([2.0, 5.0], [58.0, 5.0], |u| 1.0 - (2.0 * u - 1.0).abs(), 60.0)]),
        figure(
            "flicks",
            [60.0, 0.0],
            [38.0, 18.0],
            (0..5)
                .map(|k| line([2.0, 2.0 + 3.4 * f64::from(k)], [36.0 - 3.0 * f64::from(k), 2.0 + 3.4 * f64::from(k)], |u| 0.85 * (1.0 - u).powf(0.6), 260.0))
                .collect(),
        ),
        figure(
            "efforts",
            [98.0, 0.0],
            [32.0, 18.0],
            (0..5).map(|k| line([2.0, 2.0 + 3.5 * f64::from(k)], [30.0, 2.0 + 3.5 * f64::from(k)], move |_| 0.25 * f64::from(k), 60.0)).collect(),
        ),
        figure(
            "hatching",
            [130.0, 0.0],
            [26.0, 18.0],
            (0..11).map(|k| line([2.0 + 1.5 * f64::from(k), 16.0], [8.0 + 1.5 * f64::from(k), 2.0], |u| 0.7 - 0.45 * u, 180.0)).collect(),
        ),
        figure("dots", [156.0, 0.0], [24.0, 18.0], (0..3).map(|k| dot([5.0 + 7.0 * f64::from(k), 9.0], 0.25 + 0.25 * f64::from(k))).collect()),
        figure(
            "arc",
            [0.0, 20.0],
            [40.0, 26.0],
            vec![drawn(|u| [20.0 - 17.0 * (PI * u).cos(), 22.0 - 17.0 * (PI * u).sin()], |u| 0.25 + 0.6 * (PI * u).sin(), 80.0)],
        ),
        figure("corner", [40.0, 20.0], [32.0, 26.0], vec![polyline(&[[3.0, 22.0], [16.0, 4.0], [29.0, 22.0]], 0.6, 60.0)]),
        figure(
            "loop",
            [72.0, 20.0],
            [40.0, 26.0],
            vec![drawn(
                |u| {
                    let a = TAU * (1.5 * u - 0.25);
                    [6.0 + 28.0 * u + 7.0 * a.cos(), 14.0 + 9.0 * a.sin()]
                },
                |u| 0.5 + 0.35 * (TAU * 1.5 * u).sin(),
                90.0,
            )],
        ),
        figure("ring", [112.0, 20.0], [26.0, 26.0], vec![drawn(|u| [13.0 + 9.5 * (TAU * u).cos(), 13.0 + 9.5 * (TAU * u).sin()], |_| 0.5, 70.0)]),
        figure("five-pointed figure", [140.0, 20.0], [20.0, 26.0], vec![polyline(&star, 0.5, 80.0)]),
        figure(
            "signature",
            [160.0, 20.0],
            [20.0, 26.0],
            vec![drawn(
                |u| [2.0 + 15.0 * u + 2.0 * (13.0 * u).sin(), 13.0 + 8.0 * (11.0 * u).sin() * (1.0 - 0.5 * u)],
                |u| 0.3 + 0.5 * (9.0 * u).sin().abs(),
                110.0,
            )],
        ),
    ]
}

/// A dot held for half a second.
fn dot(at: [f64; 2], effort: f64) -> Stroke {
    let sample = |k: u32| Sample { t_ms: 10.0 * f64::from(k), x: at[0] + 0.02 * f64::from(k % 2), y: at[1], pressure: Some(effort), ..Sample::default() };
    Stroke::new((0..=50).map(sample).collect())
}

impl Figure {
    /// Its strokes where they lie on the sheet.
    pub fn placed(&self) -> Vec<Stroke> {
        let moved = |s: &Stroke| Stroke { samples: s.samples.iter().map(|p| Sample { x: p.x + self.at[0], y: p.y + self.at[1], ..*p }).collect(), ..s.clone() };
        self.strokes.iter().map(moved).collect()
    }
}
