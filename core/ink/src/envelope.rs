//! The direct envelope of a swept elliptical nib: the union of the convex hulls of neighbouring placements.
//!
//! Each hull is bounded by two common tangents. Running along one side and back along the other, with an arc on the
//! outside of every turn and a step through the nib's middle on its inside, gives a closed path whose winding number is
//! one or more on the union and zero outside it; a single clean-up union by the non-zero rule then yields the outline.
//! Where one placement lies inside its neighbour there is no tangent: the path is closed there and another one begun.

use std::f64::consts::{PI, TAU};

use crate::outline::{Outline, Path};

/// One placement of an elliptical nib: centre in mm, semi-axes in mm, direction of `a` in radians (y down).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NibPlacement {
    pub x: f64,
    pub y: f64,
    pub a: f64,
    pub b: f64,
    pub angle: f64,
}

/// A point on the nib, by its ellipse parameter.
impl NibPlacement {
    fn point(&self, tau: f64) -> [f64; 2] {
        let (u, v) = (self.a * tau.cos(), self.b * tau.sin());
        let (s, c) = self.angle.sin_cos();
        [self.x + c * u - s * v, self.y + s * u + c * v]
    }

    /// Distance of the tangent with outward normal `psi` from the centre.
    fn support(&self, psi: f64) -> f64 {
        let t = psi - self.angle;
        (self.a * t.cos()).hypot(self.b * t.sin())
    }

    /// The parameter of the point whose outward normal is `psi`.
    fn parameter(&self, psi: f64) -> f64 {
        let t = psi - self.angle;
        (self.b * t.sin()).atan2(self.a * t.cos())
    }

    fn similar(&self, other: &Self) -> bool {
        let same_ratio = (self.a * other.b - self.b * other.a).abs() <= 1e-12 * self.a * other.a;
        let round = (self.a - self.b).abs() <= 1e-12 * self.a;
        same_ratio && (round || self.angle == other.angle)
    }
}

/// Parameters of the tangent points on both sides of a hull: `[side][start, end]`.
type Tangents = [[f64; 2]; 2];

enum Pair {
    Hull(Tangents),
    /// One nib covers the other.
    Nested,
    /// More than two common tangents: two unlike ellipses that cross.
    Crossed,
}

fn pair(p: &NibPlacement, q: &NibPlacement) -> Pair {
    let (dx, dy) = (q.x - p.x, q.y - p.y);
    if p.similar(q) {
        // In the space where the nib is a circle, both have one parameter for both nibs.
        let (s, c) = p.angle.sin_cos();
        let ratio = if p.a > 0.0 { p.b / p.a } else { 1.0 };
        let (u, v) = (c * dx + s * dy, (c * dy - s * dx) / ratio);
        let d = u.hypot(v);
        if d <= (p.a - q.a).abs() {
            return Pair::Nested;
        }
        let (delta, alpha) = (v.atan2(u), ((p.a - q.a) / d).acos());
        return Pair::Hull([[delta + alpha; 2], [delta - alpha; 2]]);
    }
    let f = |psi: f64| q.support(psi) - p.support(psi) + dx * psi.cos() + dy * psi.sin();
    const STEPS: usize = 96;
    let delta = dy.atan2(dx);
    let mut roots = Vec::new();
    for i in 0..STEPS {
        let (lo, hi) = (delta + TAU * i as f64 / STEPS as f64, delta + TAU * (i + 1) as f64 / STEPS as f64);
        if (f(lo) > 0.0) != (f(hi) > 0.0) {
            roots.push(bisect(&f, lo, hi));
        }
    }
    match roots[..] {
        [] => Pair::Nested,
        [r0, r1] => {
            // Between the side at delta+α (first root) and the one at delta−α (second), the front belongs to q.
            let (up, down) = if f(delta) > 0.0 { (r0, r1) } else { (r1, r0) };
            Pair::Hull([[p.parameter(up), q.parameter(up)], [p.parameter(down), q.parameter(down)]])
        }
        _ => Pair::Crossed,
    }
}

fn bisect(f: &impl Fn(f64) -> f64, mut lo: f64, mut hi: f64) -> f64 {
    let rising = f(hi) > 0.0;
    for _ in 0..48 {
        let mid = 0.5 * (lo + hi);
        if (f(mid) > 0.0) == rising { hi = mid } else { lo = mid }
    }
    0.5 * (lo + hi)
}

/// Adds the arc of `nib` from parameter `from` down to `to` (which lies within one turn below it), ends included.
fn arc(out: &mut Path, nib: &NibPlacement, from: f64, to: f64, tolerance: f64) {
    let sweep = from - to;
    let r = nib.a.max(nib.b);
    let step = if r > tolerance { 2.0 * (1.0 - tolerance / r).acos() } else { PI / 3.0 };
    // Inscribed arcs lie inside the ellipse by up to the tolerance: the points are pushed out so that the area holds.
    let n = (sweep / step).ceil().max(1.0) as usize;
    let swell = inscribed_swell(sweep / n as f64);
    for i in 0..=n {
        let tau = from - sweep * i as f64 / n as f64;
        let p = nib.point(tau);
        let k = if i == 0 || i == n { 1.0 } else { swell };
        out.push([nib.x + (p[0] - nib.x) * k, nib.y + (p[1] - nib.y) * k]);
    }
}

/// The factor on the radius at which a polygon with this angle between corners has its circle's area.
fn inscribed_swell(step: f64) -> f64 {
    if step < 1e-6 { 1.0 } else { (step / step.sin()).sqrt().min(1.05) }
}

fn whole(nib: &NibPlacement, tolerance: f64) -> Path {
    let mut out = Path::new();
    arc(&mut out, nib, PI, -PI, tolerance);
    out.pop();
    out
}

/// The hull of two neighbouring placements as one convex polygon: the piece that live ink adds.
pub fn hull(p: &NibPlacement, q: &NibPlacement, tolerance: f64) -> Path {
    match pair(p, q) {
        Pair::Hull(t) => {
            let mut out = Path::new();
            arc(&mut out, q, t[0][1], below(t[1][1], t[0][1]), tolerance);
            arc(&mut out, p, t[1][0], below(t[0][0], t[1][0]), tolerance);
            out
        }
        Pair::Nested => whole(if p.a * p.b >= q.a * q.b { p } else { q }, tolerance),
        Pair::Crossed => {
            let mut points = whole(p, tolerance);
            points.extend(whole(q, tolerance));
            convex(points)
        }
    }
}

/// `angle` moved by whole turns to lie in `(top − 2π, top]`.
fn below(angle: f64, top: f64) -> f64 {
    top - (top - angle).rem_euclid(TAU)
}

/// Andrew's monotone chain, in the orientation of the other pieces.
fn convex(mut p: Path) -> Path {
    p.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    let half = |points: &mut dyn Iterator<Item = &[f64; 2]>| {
        let mut h: Path = Vec::new();
        for q in points {
            while h.len() > 1 && cross(h[h.len() - 2], h[h.len() - 1], *q) >= 0.0 {
                h.pop();
            }
            h.push(*q);
        }
        h.pop();
        h
    };
    let mut out = half(&mut p.iter());
    out.extend(half(&mut p.iter().rev()));
    out
}

fn cross(o: [f64; 2], a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])
}

/// The outline of the whole sweep. `tolerance` (mm) is for the arcs; straight flanks are exact.
pub fn envelope(nibs: &[NibPlacement], tolerance: f64) -> Outline {
    let mut closed: Vec<Path> = Vec::new();
    let mut run: Vec<NibPlacement> = Vec::new();
    let mut sides: Vec<Tangents> = Vec::new();
    let flush = |run: &mut Vec<NibPlacement>, sides: &mut Vec<Tangents>, closed: &mut Vec<Path>| {
        match run.len() {
            0 => {}
            1 => closed.push(whole(&run[0], tolerance)),
            _ => closed.push(trace(run, sides, tolerance)),
        }
        run.clear();
        sides.clear();
    };
    for nib in nibs.iter().filter(|n| n.a > 0.0) {
        let Some(last) = run.last() else {
            run.push(*nib);
            continue;
        };
        match pair(last, nib) {
            Pair::Hull(t) => {
                sides.push(t);
                run.push(*nib);
            }
            Pair::Nested => {
                if last.similar(nib) && run.len() == 1 && nib.a >= last.a {
                    run[0] = *nib; // A start that grows in place: only the larger counts.
                    continue;
                }
                if last == nib {
                    continue;
                }
                flush(&mut run, &mut sides, &mut closed);
                run.push(*nib);
            }
            Pair::Crossed => {
                closed.push(hull(last, nib, tolerance));
                flush(&mut run, &mut sides, &mut closed);
                run.push(*nib);
            }
        }
    }
    flush(&mut run, &mut sides, &mut closed);
    Outline::united(closed)
}

/// The closed path round a run of hulls.
fn trace(nibs: &[NibPlacement], sides: &[Tangents], tolerance: f64) -> Path {
    let last = nibs.len() - 1;
    let mut out = Path::with_capacity(4 * nibs.len() + 64);
    out.push(nibs[0].point(sides[0][0][0]));
    for k in 1..last {
        turn(&mut out, nibs, k, [sides[k - 1][0][1], sides[k][0][0]], bend(nibs, k), tolerance);
    }
    let end = sides[last - 1];
    arc(&mut out, &nibs[last], end[0][1], below(end[1][1], end[0][1]), tolerance);
    for k in (1..last).rev() {
        turn(&mut out, nibs, k, [sides[k][1][0], sides[k - 1][1][1]], -bend(nibs, k), tolerance);
    }
    let start = sides[0];
    arc(&mut out, &nibs[0], start[1][0], below(start[0][0], start[1][0]), tolerance);
    out.pop();
    out
}

/// How far the course turns at nib `k`, −π to π.
fn bend(nibs: &[NibPlacement], k: usize) -> f64 {
    let direction = |p: &NibPlacement, q: &NibPlacement| (q.y - p.y).atan2(q.x - p.x);
    wrapped(direction(&nibs[k], &nibs[k + 1]) - direction(&nibs[k - 1], &nibs[k]))
}

fn wrapped(angle: f64) -> f64 {
    (angle + PI).rem_euclid(TAU) - PI
}

/// Passes nib `k` between tangent points: an arc outside a turn, the middle inside it. Near a reversal the parameters
/// alone do not tell which way round it goes: the `bend` of the course does.
fn turn(out: &mut Path, nibs: &[NibPlacement], k: usize, [from, to]: [f64; 2], bend: f64, tolerance: f64) {
    let nib = &nibs[k];
    let delta = bend + wrapped(to - from - bend);
    let r = nib.a.max(nib.b);
    let step = |j: usize| (nibs[j].x - nib.x).hypot(nibs[j].y - nib.y);
    let gentle = r * delta.abs() < 0.25 * step(k - 1).min(step(k + 1)) * (nib.b / nib.a).min(nib.a / nib.b);
    // The flanks of a slight bend meet in one point, off the nib by r·δ²/8: far under the tolerance.
    if r * delta * delta < 0.8 * tolerance && (delta <= 0.0 || gentle) {
        out.push(nib.point(from + 0.5 * delta));
        return;
    }
    if delta <= 0.0 {
        arc(out, nib, from, from + delta, tolerance);
        return;
    }
    out.push(nib.point(from));
    if !gentle {
        out.push([nib.x, nib.y]);
    }
    if r * delta > 1e-9 {
        out.push(nib.point(to));
    }
}
