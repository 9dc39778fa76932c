//! A card's sides to a fraction of a pixel, and the lens that makes them straight.
//!
//! How: across each side, every half millimetre, the steepest steps, and of them those on one line; the lens' one term is the one by which the sides, and what was
//! ruled, are straightest (a plumb line's method, Brown 1971), held to a lens that bends little; a line through each side's places, the far ones
//! left out, and where they meet. Limits: the card's upper face lies 0.76 mm over the paper, which is allowed for by a usual
//! focal length; where a card is as light as its own shadow, the shadow's foot may be taken for its side.

use super::outline::{self, Outline, RADIUS_MM};
use crate::{bilinear::inside, scan::Scan, seen::straight, stats::median};

/// How straight a card's side and a ruled line are, mm; and how little a camera's lens bends, as its term.
const STRAIGHT_MM: f64 = 0.06;
const LENS: f64 = 0.04;
/// Places that lie closer are not free of one another, mm.
const FREE_MM: f64 = 4.0;
/// How far from where a side is thought to be its step is looked for, mm.
const REACH_MM: f64 = 1.3;

/// Steps that lie closer to a line belong to it: a lens bends a side by as much, mm.
const OFF_LINE_MM: f64 = 0.15;

/// Places along one line, photo px.
pub(super) type Run = Vec<[f64; 2]>;

/// A card with its sides as they were found.
pub(super) struct Sides {
    pub outline: Outline,
    runs: [Run; 4],
}

/// A straight line through places, those far off left out: a point, its direction, and the deviation of what is kept.
fn through(places: &[[f64; 2]]) -> Option<([f64; 2], [f64; 2], f64)> {
    let mut kept: Vec<[f64; 2]> = places.to_vec();
    let mut last = None;
    for _ in 0..4 {
        if kept.len() < 8 {
            return None;
        }
        let n = kept.len() as f64;
        let m = [0, 1].map(|k| kept.iter().map(|p| p[k]).sum::<f64>() / n);
        let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
        for p in &kept {
            let (x, y) = (p[0] - m[0], p[1] - m[1]);
            (xx, xy, yy) = (xx + x * x, xy + x * y, yy + y * y);
        }
        let (s, c) = (0.5 * (2.0 * xy).atan2(xx - yy)).sin_cos();
        let off = |p: &[f64; 2]| (p[1] - m[1]) * c - (p[0] - m[0]) * s;
        let spread = 1.48 * median(&places.iter().map(|p| off(p).abs()).collect::<Vec<_>>())?;
        kept = places.iter().copied().filter(|p| off(p).abs() < (3.0 * spread).max(0.3)).collect();
        let sd = (kept.iter().map(|p| off(p).powi(2)).sum::<f64>() / (kept.len() as f64).max(1.0)).sqrt();
        last = Some((m, [c, s], sd));
    }
    last
}

/// Finds the card; none where there is none.
pub(super) fn find(scan: &Scan) -> Option<Sides> {
    outline::find(scan).iter().filter_map(|o| to_the_pixel(scan, o)).find(|s| outline::rounded(scan, &s.outline) && outline::parts(scan, &s.outline))
}

/// Looks for the four sides about an outline; none where one of them is not there.
fn to_the_pixel(scan: &Scan, outline: &Outline) -> Option<Sides> {
    let mut now = *outline;
    let mut runs = <[Run; 4]>::default();
    for reach in [REACH_MM, 0.5 * REACH_MM] {
        let place = now.place()?;
        let corners = now.corners_mm();
        for (side, run) in runs.iter_mut().enumerate() {
            let (a, b) = (corners[side], corners[(side + 1) % 4]);
            let long = (b[0] - a[0]).hypot(b[1] - a[1]);
            let (d, n) = ([(b[0] - a[0]) / long, (b[1] - a[1]) / long], [(b[1] - a[1]) / long, (a[0] - b[0]) / long]);
            let from = RADIUS_MM + 1.5;
            let steps = ((long - 2.0 * from) / 0.5) as usize;
            let at = |s: f64, t: f64| place.px([a[0] + s * d[0] + t * n[0], a[1] + s * d[1] + t * n[1]]);
            let stations: Vec<Station> = (0..steps)
                .map(|k| {
                    let s = from + 0.5 * k as f64;
                    Station { s, steps: steps_across(scan, |t| at(s, t), reach) }
                })
                .collect();
            *run = agreed(&stations).into_iter().map(|(s, t)| at(s, t)).collect();
            if run.len() * 2 < steps {
                return None;
            }
        }
        now.corners = meeting(&runs)?;
    }
    Some(Sides { outline: now, runs })
}

/// The steps of light across a side at one place along it: how far outward, mm, and how high.
struct Station {
    s: f64,
    steps: Vec<(f64, f64)>,
}

/// The steepest steps across a side.
fn steps_across(scan: &Scan, at: impl Fn(f64) -> [f64; 2], reach: f64) -> Vec<(f64, f64)> {
    let fine = 0.04;
    let n = (reach / fine) as i32;
    // About as far as a photo is soft: the foot of a shadow is softer.
    let half = 3;
    let row: Option<Vec<f64>> =
        (-n - half..=n + half).map(|k| inside(&scan.data, scan.width, scan.height, at(fine * f64::from(k))).map(|v| v.max(0.0).sqrt())).collect();
    let Some(row) = row else { return Vec::new() };
    let half = half as usize;
    let high: Vec<f64> =
        (half..row.len() - half).map(|i| ((row[i + 1..=i + half].iter().sum::<f64>() - row[i - half..i].iter().sum::<f64>()) / half as f64).abs()).collect();
    let mut found: Vec<(f64, f64)> = (1..high.len() - 1)
        .filter(|i| high[*i] > 0.012 && high[*i] >= high[i - 1] && high[*i] > high[i + 1])
        .map(|i| {
            let (a, b, c) = (high[i - 1], high[i], high[i + 1]);
            let t = i as f64 + 0.5 * (a - c) / (a - 2.0 * b + c).min(-1e-12);
            (fine * (t - f64::from(n)), b)
        })
        .collect();
    found.sort_by(|a, b| b.1.total_cmp(&a.1));
    found.truncate(4);
    found
}

/// Of the steps at all stations those that lie on one line: of all lines through two of them the one with the highest steps along it
/// (Fischler and Bolles 1981, every pair of some stations in place of chance). Out: along and outward, mm.
fn agreed(stations: &[Station]) -> Vec<(f64, f64)> {
    let near = |st: &Station, a: f64, b: f64| {
        let line = a + b * st.s;
        st.steps.iter().copied().filter(|p| (p.0 - line).abs() < OFF_LINE_MM).max_by(|p, q| p.1.total_cmp(&q.1))
    };
    let some: Vec<&Station> = stations.iter().step_by((stations.len() / 20).max(1)).collect();
    let mut best = (0.0, 0.0, 0.0);
    for (i, p) in some.iter().enumerate() {
        for q in some[i + 1..].iter().filter(|q| q.s - p.s > 15.0) {
            for (t, _) in &p.steps {
                for (u, _) in &q.steps {
                    let b = (u - t) / (q.s - p.s);
                    let a = t - b * p.s;
                    let score: f64 = some.iter().filter_map(|st| near(st, a, b)).map(|p| p.1.sqrt()).sum();
                    best = if score > best.0 { (score, a, b) } else { best };
                }
            }
        }
    }
    stations.iter().filter_map(|st| Some((st.s, near(st, best.1, best.2)?.0))).collect()
}

/// Where neighbouring sides meet: the corner before each side.
fn meeting(runs: &[Run; 4]) -> Option<[[f64; 2]; 4]> {
    let lines: Vec<_> = runs.iter().map(|r| through(r)).collect::<Option<_>>()?;
    let mut out = [[0.0; 2]; 4];
    for (k, o) in out.iter_mut().enumerate() {
        let ((p, d, _), (q, e, _)) = (&lines[(k + 3) % 4], &lines[k]);
        let det = d[0] * e[1] - d[1] * e[0];
        if det.abs() < 0.2 {
            return None;
        }
        let t = ((q[0] - p[0]) * e[1] - (q[1] - p[1]) * e[0]) / det;
        *o = [p[0] + t * d[0], p[1] + t * d[1]];
    }
    Some(out)
}

impl Sides {
    /// The lens' term by which the sides and what was ruled are straightest. In: runs of places along ruled lines.
    pub fn bend(&self, ruled: &[Run], middle: [f64; 2], radius: f64, px_mm: f64) -> f64 {
        let unsure = |bend: f64| {
            let of = |run: &Run| {
                let places: Vec<[f64; 2]> = run.iter().map(|p| straight(*p, middle, radius, bend)).collect();
                let (a, b) = (places.first().copied().unwrap_or_default(), places.last().copied().unwrap_or_default());
                let free = (b[0] - a[0]).hypot(b[1] - a[1]) / px_mm / FREE_MM;
                through(&places).map_or(0.0, |(.., sd)| free * (sd / px_mm / STRAIGHT_MM).powi(2))
            };
            self.runs.iter().chain(ruled).map(of).sum::<f64>() + (bend / LENS).powi(2)
        };
        let best = |from: f64, step: f64| {
            let tries = (-15..=15).map(|k| from + step * f64::from(k));
            tries.map(|b| (unsure(b), b)).min_by(|a, b| a.0.total_cmp(&b.0)).map_or(0.0, |b| b.1)
        };
        best(best(0.0, 0.01), 0.000_7)
    }

    /// The card's corners as a lens that does not bend would show them.
    pub fn corners(&self, middle: [f64; 2], radius: f64, bend: f64) -> Option<[[f64; 2]; 4]> {
        meeting(&self.runs.each_ref().map(|r| r.iter().map(|p| straight(*p, middle, radius, bend)).collect()))
    }
}
