//! A drawn stroke by a few of its samples, its points: one is nudged, taken out, or pressed otherwise, and what lies between its
//! neighbours follows. Times stay.
//!
//! How: points by U. Ramer (Comput. Graph. Image Process. 1, 1972) and D. Douglas and T. Peucker (Cartographica 10, 1973); what follows a
//! point does so by `(1 − u²)²` over the share u of the way to the neighbour (Tukey's biweight; common practice). Limits: a point is a
//! sample, so that a stroke of few samples has few.

use crate::{
    inker::Inker,
    stroke::{Sample, Stroke, along},
};

/// Pressure of a device that reports none.
const UNSAID: f64 = 0.5;

/// The samples from which a stroke lies nowhere further than `tolerance_mm`, its first and its last among them.
pub fn points(stroke: &Stroke, tolerance_mm: f64) -> Vec<usize> {
    let s = &stroke.samples;
    if s.len() < 3 {
        return (0..s.len()).collect();
    }
    let mut kept = vec![0, s.len() - 1];
    let mut open = vec![(0, s.len() - 1)];
    while let Some((a, b)) = open.pop() {
        let far = (a + 1..b).map(|i| (apart(&s[i], &s[a], &s[b]), i)).max_by(|p, q| p.0.total_cmp(&q.0));
        if let Some((_, i)) = far.filter(|f| f.0 > tolerance_mm) {
            kept.push(i);
            open.extend([(a, i), (i, b)]);
        }
    }
    kept.sort_unstable();
    kept
}

/// Distance of a sample from the stretch between two.
fn apart(p: &Sample, a: &Sample, b: &Sample) -> f64 {
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let long2 = dx * dx + dy * dy;
    let t = if long2 > 0.0 { (((p.x - a.x) * dx + (p.y - a.y) * dy) / long2).clamp(0.0, 1.0) } else { 0.0 };
    (p.x - a.x - t * dx).hypot(p.y - a.y - t * dy)
}

/// How much each sample follows a point: wholly at the point, not at all from its neighbours on.
fn follows(stroke: &Stroke, points: &[usize], k: usize) -> Vec<f64> {
    let way = along(stroke.samples.iter().map(|s| (s.x, s.y)));
    let at = points[k];
    let (before, after) = (k.checked_sub(1).map(|j| points[j]), points.get(k + 1).copied());
    let share = |i: usize| {
        let to = if i < at { before } else { after };
        let Some(to) = to.filter(|to| i.abs_diff(at) <= to.abs_diff(at)) else { return f64::from(u8::from(i == at)) };
        let whole = (way[to] - way[at]).abs();
        // Where the pen rested the samples' number tells.
        let u = if whole > 0.0 { (way[i] - way[at]).abs() / whole } else { i.abs_diff(at) as f64 / to.abs_diff(at).max(1) as f64 };
        (1.0 - u * u).max(0.0).powi(2)
    };
    (0..stroke.samples.len()).map(share).collect()
}

/// Whether these are points of a stroke, and `k` one of them.
fn fits(stroke: &Stroke, points: &[usize], k: usize) -> bool {
    k < points.len() && points.windows(2).all(|w| w[0] < w[1]) && points.last().is_some_and(|l| *l < stroke.samples.len())
}

/// A point at another place, mm.
pub fn nudged(stroke: &Stroke, points: &[usize], k: usize, to: [f64; 2]) -> Stroke {
    if !fits(stroke, points, k) {
        return stroke.clone();
    }
    let held = stroke.samples[points[k]];
    let (dx, dy) = (to[0] - held.x, to[1] - held.y);
    let moved = |(s, w): (&Sample, f64)| Sample { x: s.x + w * dx, y: s.y + w * dy, ..*s };
    Stroke { samples: stroke.samples.iter().zip(follows(stroke, points, k)).map(moved).collect(), ..stroke.clone() }
}

/// A point pressed otherwise, 0 to 1.
pub fn pressed(stroke: &Stroke, points: &[usize], k: usize, pressure: f64) -> Stroke {
    if !fits(stroke, points, k) {
        return stroke.clone();
    }
    let of = |s: &Sample| s.pressure.unwrap_or(UNSAID);
    let more = pressure.clamp(0.0, 1.0) - of(&stroke.samples[points[k]]);
    let put = |(s, w): (&Sample, f64)| Sample { pressure: if w > 0.0 { Some((of(s) + w * more).clamp(0.0, 1.0)) } else { s.pressure }, ..*s };
    Stroke { samples: stroke.samples.iter().zip(follows(stroke, points, k)).map(put).collect(), ..stroke.clone() }
}

/// A stroke without one of its points: one curve from the neighbour before to the one after, as it leaves the one and comes to the
/// other (cubic Hermite); without its first or last point it begins or ends at the next. One of two points stays.
pub fn without(stroke: &Stroke, points: &[usize], k: usize) -> Stroke {
    if !fits(stroke, points, k) || points.len() < 3 {
        return stroke.clone();
    }
    let s = &stroke.samples;
    if k == 0 {
        return Stroke { samples: s[points[1]..].to_vec(), ..stroke.clone() };
    }
    if k + 1 == points.len() {
        return Stroke { samples: s[..=points[k - 1]].to_vec(), ..stroke.clone() };
    }
    let (a, b) = (points[k - 1], points[k + 1]);
    let way = along(s.iter().map(|p| (p.x, p.y)));
    let chord = (s[b].x - s[a].x).hypot(s[b].y - s[a].y);
    let toward = |i: usize, j: usize| {
        let (dx, dy) = (s[j].x - s[i].x, s[j].y - s[i].y);
        let long = dx.hypot(dy);
        if long > 0.0 { [chord * dx / long, chord * dy / long] } else { [s[b].x - s[a].x, s[b].y - s[a].y] }
    };
    // What lies outside tells the direction; at the stroke's own ends it is the chord's.
    let leaves = if a > 0 { toward(a - 1, a) } else { [s[b].x - s[a].x, s[b].y - s[a].y] };
    let comes = if b + 1 < s.len() { toward(b, b + 1) } else { [s[b].x - s[a].x, s[b].y - s[a].y] };
    let mut out = stroke.clone();
    for i in a + 1..b {
        let whole = way[b] - way[a];
        let u = if whole > 0.0 { (way[i] - way[a]) / whole } else { (i - a) as f64 / (b - a) as f64 };
        let (u2, u3) = (u * u, u * u * u);
        let at = |p: f64, m: f64, q: f64, n: f64| (2.0 * u3 - 3.0 * u2 + 1.0) * p + (u3 - 2.0 * u2 + u) * m + (3.0 * u2 - 2.0 * u3) * q + (u3 - u2) * n;
        (out.samples[i].x, out.samples[i].y) = (at(s[a].x, leaves[0], s[b].x, comes[0]), at(s[a].y, leaves[1], s[b].y, comes[1]));
    }
    out
}

/// A point pressed so that the line is so wide there, mm, or as near to it as pressure brings it.
pub fn widened(stroke: &Stroke, points: &[usize], k: usize, width_mm: f64, inker: &Inker) -> Stroke {
    if !fits(stroke, points, k) {
        return stroke.clone();
    }
    let width = |p: f64| inker.ink(&pressed(stroke, points, k, p)).samples[points[k]].width_mm;
    // A brush's width never falls with the effort: halved until a pressure of a four-thousandth, as fine as tablets report.
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..12 {
        let middle = 0.5 * (low + high);
        if width(middle) < width_mm { low = middle } else { high = middle }
    }
    pressed(stroke, points, k, 0.5 * (low + high))
}
