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
pub(crate) type Tangents = [[f64; 2]; 2];

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

/// What takes the points of a path as it is traced: which placement each is of, and on which side of the course it lies (0 at the right hand, on
/// the way there, 1 on the way back); a step through a nib's middle lies on none.
pub(crate) trait Sink {
    fn put(&mut self, p: [f64; 2], nib: usize, side: Option<usize>);
    /// Takes the last point back: it is the first one again.
    fn drop_last(&mut self);
}

impl Sink for Path {
    fn put(&mut self, p: [f64; 2], _: usize, _: Option<usize>) {
        self.push(p);
    }

    fn drop_last(&mut self) {
        self.pop();
    }
}

/// A placement's number, and the sides that its arc begins and ends on.
type Of = (usize, [usize; 2]);

/// Adds the arc of `nib` from parameter `from` down to `to` (which lies within one turn below it), ends included.
fn arc(out: &mut impl Sink, nib: &NibPlacement, from: f64, to: f64, tolerance: f64, (k, sides): Of) {
    let sweep = from - to;
    let r = nib.a.max(nib.b);
    let step = if r > tolerance { 2.0 * (1.0 - tolerance / r).acos() } else { PI / 3.0 };
    // Inscribed arcs lie inside the ellipse by up to the tolerance: the points are pushed out so that the area holds.
    let n = (sweep / step).ceil().max(1.0) as usize;
    let swell = inscribed_swell(sweep / n as f64);
    for i in 0..=n {
        let tau = from - sweep * i as f64 / n as f64;
        let p = nib.point(tau);
        let swell = if i == 0 || i == n { 1.0 } else { swell };
        out.put([nib.x + (p[0] - nib.x) * swell, nib.y + (p[1] - nib.y) * swell], k, Some(sides[usize::from(2 * i > n)]));
    }
}

/// The factor on the radius at which a polygon with this angle between corners has its circle's area.
fn inscribed_swell(step: f64) -> f64 {
    if step < 1e-6 { 1.0 } else { (step / step.sin()).sqrt().min(1.05) }
}

fn whole(nib: &NibPlacement, tolerance: f64) -> Path {
    let mut out = Path::new();
    arc(&mut out, nib, PI, -PI, tolerance, (0, [0, 1]));
    out.pop();
    out
}

/// The hull of two neighbouring placements as one convex polygon: the piece that live ink adds.
pub fn hull(p: &NibPlacement, q: &NibPlacement, tolerance: f64) -> Path {
    let mut out = Path::new();
    if hull_into(&mut out, p, q, tolerance) {
        return out;
    }
    match pair(p, q) {
        Pair::Crossed => {
            let mut points = whole(p, tolerance);
            points.extend(whole(q, tolerance));
            convex(points)
        }
        _ => whole(if p.a * p.b >= q.a * q.b { p } else { q }, tolerance),
    }
}

/// The same where it has two flanks, its placements numbered 0 and 1; false where it has not.
pub(crate) fn hull_into(out: &mut impl Sink, p: &NibPlacement, q: &NibPlacement, tolerance: f64) -> bool {
    let Pair::Hull(t) = pair(p, q) else { return false };
    arc(out, q, t[0][1], below(t[1][1], t[0][1]), tolerance, (1, [0, 1]));
    arc(out, p, t[1][0], below(t[0][0], t[1][0]), tolerance, (0, [1, 0]));
    true
}

/// `angle` moved by whole turns to lie in `(top − 2π, top]`.
fn below(angle: f64, top: f64) -> f64 {
    top - (top - angle).rem_euclid(TAU)
}

/// Andrew's monotone chain, in the orientation of the other pieces.
pub(crate) fn convex(mut p: Path) -> Path {
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

/// The outline of the whole sweep. Arcs are within `tolerance` (mm), and points are left out that lie within it.
pub fn envelope(nibs: &[NibPlacement], tolerance: f64) -> Outline {
    // Of a hair-thin line the tolerance would be a part of the width.
    let breadth = nibs.iter().map(|n| n.a.min(n.b)).sum::<f64>() / nibs.len().max(1) as f64;
    let within = tolerance.min(0.005 * breadth);
    let mut closed: Vec<Path> = Vec::new();
    runs(
        nibs,
        |run| match run {
            Run::Traced(run) => {
                let mut out = Path::with_capacity(4 * run.nibs.len() + 64);
                trace(&mut out, run, tolerance);
                closed.push(out);
            }
            Run::Alone(path) => closed.push(path),
        },
        tolerance,
    );
    let thin = closed.iter().map(|p| thinned(p, within)).collect();
    if is_spot(nibs) { Outline::united_by_twos(thin) } else { Outline::united_in_turn(thin) }
}

/// Whether a stroke's placements all lie over one another: a dot that is held crosses itself at every report.
fn is_spot(nibs: &[NibPlacement]) -> bool {
    let reach = |f: fn(&NibPlacement) -> f64| nibs.iter().map(f).fold((f64::INFINITY, f64::NEG_INFINITY), |r, v| (r.0.min(v), r.1.max(v)));
    let ((left, right), (top, bottom)) = (reach(|n| n.x), reach(|n| n.y));
    let length = nibs.iter().map(|n| 2.0 * n.a).sum::<f64>() / nibs.len().max(1) as f64;
    nibs.len() > 2 * SPOT_PIECE && (right - left).hypot(bottom - top) < 2.0 * length
}

/// A stretch of the sweep: placements by their numbers, with flanks between them; or what stands alone.
pub(crate) enum Run<'a> {
    Traced(&'a Stretch),
    Alone(Path),
}

/// Placements of the sweep one after the other, with the tangents between them.
#[derive(Default)]
pub(crate) struct Stretch {
    numbers: Vec<usize>,
    nibs: Vec<NibPlacement>,
    sides: Vec<Tangents>,
}

impl Stretch {
    fn push(&mut self, number: usize, nib: &NibPlacement) {
        self.numbers.push(number);
        self.nibs.push(*nib);
    }

    /// Hands over what there is and begins anew.
    fn flush(&mut self, take: &mut impl FnMut(Run), tolerance: f64) {
        match self.nibs.len() {
            0 => {}
            1 => take(Run::Alone(whole(&self.nibs[0], tolerance))),
            _ => take(Run::Traced(self)),
        }
        self.numbers.clear();
        self.nibs.clear();
        self.sides.clear();
    }
}

/// A stroke of more placements than this is traced in pieces of so many.
const LONG: usize = 8192;
const PIECE: usize = 512;
/// A spot's pieces.
const SPOT_PIECE: usize = 12;

/// Parts the sweep into runs.
pub(crate) fn runs(nibs: &[NibPlacement], mut take: impl FnMut(Run), tolerance: f64) {
    let mut run = Stretch::default();
    let piece = match nibs.len() {
        n if n > LONG => PIECE,
        _ if is_spot(nibs) => SPOT_PIECE,
        _ => usize::MAX,
    };
    for (k, nib) in nibs.iter().enumerate().filter(|(_, n)| n.a > 0.0) {
        let Some(last) = run.nibs.last().copied() else {
            run.push(k, nib);
            continue;
        };
        match pair(&last, nib) {
            Pair::Hull(t) => {
                run.sides.push(t);
                run.push(k, nib);
                // A stroke without end is traced in pieces that share a placement: together they cover the same.
                if run.nibs.len() == piece {
                    run.flush(&mut take, tolerance);
                    run.push(k, nib);
                }
            }
            Pair::Nested => {
                if last.similar(nib) && run.nibs.len() == 1 && nib.a >= last.a {
                    // A start that grows in place: only the larger counts.
                    (run.nibs[0], run.numbers[0]) = (*nib, k);
                    continue;
                }
                if last == *nib {
                    continue;
                }
                run.flush(&mut take, tolerance);
                run.push(k, nib);
            }
            Pair::Crossed => {
                take(Run::Alone(hull(&last, nib, tolerance)));
                run.flush(&mut take, tolerance);
                run.push(k, nib);
            }
        }
    }
    run.flush(&mut take, tolerance);
}

/// The path without the points that lie on the way of their neighbours, none dropped being off by more than `tolerance`:
/// dense samples cost the union far more than they tell. From each point kept, the directions that pass all points since
/// within the tolerance narrow to a wedge; the last point before the wedge is missed is kept next (Williams, "An
/// efficient algorithm for the piecewise linear approximation of planar curves", CGIP 8, 1978).
pub(crate) fn thinned(path: &Path, tolerance: f64) -> Path {
    let mut out = Path::with_capacity(path.len() / 2 + 2);
    let mut points = path.iter().copied();
    let Some(mut from) = points.next() else { return out };
    out.push(from);
    let (mut last, mut low, mut high): ([f64; 2], _, _) = (from, [0.0; 2], [0.0; 2]);
    let mut open = true;
    for p in points.chain([path[0]]) {
        let mut way = [p[0] - from[0], p[1] - from[1]];
        if !open && (turn_of(low, way) < 0.0 || turn_of(way, high) < 0.0 || way[0] * (last[0] - from[0]) + way[1] * (last[1] - from[1]) <= 0.0) {
            out.push(last);
            from = last;
            open = true;
            way = [p[0] - from[0], p[1] - from[1]];
        }
        let distance = (way[0] * way[0] + way[1] * way[1]).sqrt();
        if distance > tolerance {
            // The wedge of p: its own direction turned by asin(tolerance / distance) either way.
            let s = tolerance / distance;
            let c = (1.0 - s * s).sqrt();
            let (right, left) = ([way[0] * c + way[1] * s, way[1] * c - way[0] * s], [way[0] * c - way[1] * s, way[1] * c + way[0] * s]);
            if open || turn_of(low, right) > 0.0 {
                low = right;
            }
            if open || turn_of(left, high) > 0.0 {
                high = left;
            }
            open = false;
        }
        last = p;
    }
    out
}

fn turn_of(a: [f64; 2], b: [f64; 2]) -> f64 {
    a[0] * b[1] - a[1] * b[0]
}

/// The closed path round a run of hulls.
pub(crate) fn trace(out: &mut impl Sink, run: &Stretch, tolerance: f64) {
    let Stretch { numbers, nibs, sides } = run;
    let last = nibs.len() - 1;
    let ways: Vec<f64> = nibs.windows(2).map(|w| (w[1].y - w[0].y).atan2(w[1].x - w[0].x)).collect();
    // How far the course turns at nib k, −π to π.
    let bend = |k: usize| wrapped(ways[k] - ways[k - 1]);
    out.put(nibs[0].point(sides[0][0][0]), numbers[0], Some(0));
    for k in 1..last {
        turn(out, nibs, k, [sides[k - 1][0][1], sides[k][0][0]], bend(k), tolerance, (numbers[k], 0));
    }
    let end = sides[last - 1];
    arc(out, &nibs[last], end[0][1], below(end[1][1], end[0][1]), tolerance, (numbers[last], [0, 1]));
    for k in (1..last).rev() {
        turn(out, nibs, k, [sides[k][1][0], sides[k - 1][1][1]], -bend(k), tolerance, (numbers[k], 1));
    }
    let start = sides[0];
    arc(out, &nibs[0], start[1][0], below(start[0][0], start[1][0]), tolerance, (numbers[0], [1, 0]));
    out.drop_last();
}

fn wrapped(angle: f64) -> f64 {
    if (-PI..PI).contains(&angle) { angle } else { (angle + PI).rem_euclid(TAU) - PI }
}

/// Passes nib `k` between tangent points: an arc outside a turn, the middle inside it. Near a reversal the parameters
/// alone do not tell which way round it goes: the `bend` of the course does.
fn turn(out: &mut impl Sink, nibs: &[NibPlacement], k: usize, [from, to]: [f64; 2], bend: f64, tolerance: f64, (number, side): (usize, usize)) {
    let nib = &nibs[k];
    let delta = bend + wrapped(to - from - bend);
    let r = nib.a.max(nib.b);
    let step = |j: usize| ((nibs[j].x - nib.x).powi(2) + (nibs[j].y - nib.y).powi(2)).sqrt();
    let gentle = r * delta.abs() < 0.25 * step(k - 1).min(step(k + 1)) * (nib.b / nib.a).min(nib.a / nib.b);
    // The flanks of a slight bend meet in one point, off the nib by r·δ²/8: far under the tolerance.
    if r * delta * delta < 0.8 * tolerance && (delta <= 0.0 || gentle) {
        out.put(nib.point(from + 0.5 * delta), number, Some(side));
        return;
    }
    if delta <= 0.0 {
        arc(out, nib, from, from + delta, tolerance, (number, [side; 2]));
        return;
    }
    out.put(nib.point(from), number, Some(side));
    if !gentle {
        out.put([nib.x, nib.y], number, None);
    }
    if r * delta > 1e-9 {
        out.put(nib.point(to), number, Some(side));
    }
}
