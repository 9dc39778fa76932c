//! Edges that are not smooth: ragged by chance, or as those of a real line whose strip is repeated along the stroke.
//!
//! How: each side is moved along its normal by a wandering value of given deviation and correlation length, from the brush's seed. Limits: the
//! correlation is exponential; fibres that feather are not drawn.

use crate::{
    brush::Brush,
    envelope::{NibPlacement, Run, Sink, envelope, hull_into, runs, trace},
    noise::{Wander, seed},
    outline::{Outline, Path, signed_area},
    strip::Strip,
};

/// Places along the edge to one correlation length.
const FINE: f64 = 6.0;
/// An edge is never moved in by more than this share of the half width: the line is not parted.
const DEEPEST: f64 = 0.8;

/// How far each edge lies off its smooth course, mm outward, by the way along the stroke.
#[derive(Debug, Clone)]
pub enum Rough {
    Chance { deviation_mm: f64, step_mm: f64, sides: [Wander; 2] },
    Strip(Strip),
}

impl Rough {
    /// Of a brush for a stroke that begins at a place; none where its edges are smooth.
    pub fn new(brush: &Brush, strip: Option<&Strip>, first: [f64; 2]) -> Option<Self> {
        if let Some(s) = strip {
            return Some(Self::Strip(s.clone()));
        }
        let e = &brush.edge;
        let length = (e.correlation_um / 1000.0).max(0.005);
        (e.raggedness_um > 0.0).then(|| Self::Chance {
            deviation_mm: e.raggedness_um / 1000.0,
            step_mm: length / FINE,
            sides: [3, 4].map(|purpose| Wander::new(seed(brush.seed, first, purpose), length)),
        })
    }

    fn step(&self) -> f64 {
        match self {
            Self::Chance { step_mm, .. } => *step_mm,
            Self::Strip(s) => s.step_mm,
        }
    }

    /// No edge is moved in further than this, but for one place in ten thousand, mm.
    fn deepest(&self) -> f64 {
        match self {
            Self::Chance { deviation_mm, .. } => 3.9 * deviation_mm,
            Self::Strip(s) => s.deepest_mm(),
        }
    }

    fn off(&mut self, side: usize, way: f64) -> f64 {
        match self {
            Self::Chance { deviation_mm, sides, .. } => *deviation_mm * sides[side].value(way),
            Self::Strip(s) => s.off(side, way),
        }
    }
}

/// Where on the stroke a place of its edge is: side, way, and the nib's half breadth there.
type Where = (usize, f64, f64);

/// A traced path whose points know where along the stroke they are.
#[derive(Default)]
struct Tagged {
    points: Vec<([f64; 2], usize, Option<usize>)>,
}

impl Sink for Tagged {
    fn put(&mut self, p: [f64; 2], nib: usize, side: Option<usize>) {
        self.points.push((p, nib, side));
    }

    fn drop_last(&mut self) {
        self.points.pop();
    }
}

impl Tagged {
    /// The path with its edges moved off.
    fn roughened(&self, nibs: &[NibPlacement], way: &[f64], rough: &mut Rough) -> Path {
        let n = self.points.len();
        let around: f64 = (0..n).map(|i| apart(self.points[i].0, self.points[(i + 1) % n].0)).sum();
        // A piece of a long stroke has its share of them.
        let share = (0.5 * n as f64 / nibs.len().max(1) as f64).min(1.0);
        let step = rough.step().max(around / (share * MOST_POINTS));
        // Flanks between placements get points of their own.
        let mut fine: Vec<([f64; 2], Option<Where>)> = Vec::with_capacity(2 * n);
        for i in 0..n {
            let ((p, k, side), (q, m, other)) = (self.points[i], self.points[(i + 1) % n]);
            let half = |k: usize| nibs[k].a.min(nibs[k].b);
            fine.push((p, side.map(|s| (s, way[k], half(k)))));
            let (Some(s), true) = (side, side == other && k != m) else { continue };
            let parts = (((q[0] - p[0]).hypot(q[1] - p[1]) / step).ceil() as usize).clamp(1, 4096);
            for j in 1..parts {
                let t = j as f64 / parts as f64;
                let mix = |a: f64, b: f64| a + (b - a) * t;
                fine.push(([mix(p[0], q[0]), mix(p[1], q[1])], Some((s, mix(way[k], way[m]), mix(half(k), half(m))))));
            }
        }
        let count = fine.len();
        (0..count)
            .map(|i| {
                let (p, tag) = fine[i];
                let Some((side, way, half)) = tag else { return p };
                let (a, b) = (fine[(i + count - 1) % count].0, fine[(i + 1) % count].0);
                let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
                let long = dx.hypot(dy);
                if long <= 0.0 {
                    return p;
                }
                // The path runs with its ink on one hand throughout: outward is the other.
                let off = rough.off(side, way).max(-DEEPEST * half);
                [p[0] - dy / long * off, p[1] + dx / long * off]
            })
            .collect()
    }
}

/// An edge has about so many points at most: one that is kilometres long is less fine.
const MOST_POINTS: f64 = 500_000.0;

fn apart(p: [f64; 2], q: [f64; 2]) -> f64 {
    (q[0] - p[0]).hypot(q[1] - p[1])
}

/// The outline of a sweep with rough edges; `way` is each placement's way from the stroke's start, mm.
pub fn rough_envelope(nibs: &[NibPlacement], way: &[f64], tolerance: f64, rough: &mut Rough) -> Outline {
    let mut closed: Vec<Path> = Vec::new();
    runs(
        nibs,
        |run| match run {
            Run::Traced(run) => {
                let mut out = Tagged::default();
                trace(&mut out, run, tolerance);
                closed.push(out.roughened(nibs, way, rough));
            }
            Run::Alone(path) => closed.push(path),
        },
        tolerance,
    );
    let edges = Outline::united_in_turn(closed);
    // Where a flat nib turns, its traced edges run through its own ink, and moved they part it. What lies deeper than any edge is moved is
    // ink: the same sweep by nibs that are so much smaller.
    let deep = rough.deepest();
    let core: Vec<NibPlacement> = nibs
        .iter()
        .map(|n| {
            let d = deep.min(DEEPEST * n.a.min(n.b));
            NibPlacement { a: n.a - d, b: n.b - d, ..*n }
        })
        .collect();
    if core.iter().all(|n| (n.a - n.b).abs() < 1e-9) {
        // A round nib's edges never do.
        return edges;
    }
    without_cracks(Outline::merged([edges, envelope(&core, tolerance)]), nibs, deep, tolerance)
}

/// The outline without the holes that lie within the smooth sweep, paper that no nib left, and without bays of its edge that closed: those are
/// no wider than the edge is moved, which is `deep`.
fn without_cracks(mut outline: Outline, nibs: &[NibPlacement], deep: f64, tolerance: f64) -> Outline {
    let sign = outline.paths.iter().map(|p| signed_area(p)).sum::<f64>().signum();
    if outline.paths.iter().all(|p| sign * signed_area(p) >= 0.0) {
        return outline;
    }
    // Edges of the smooth sweep by the rows of half a millimetre that they pass through: of each place only its row is looked at.
    const ROW_MM: f64 = 0.5;
    let row = |y: f64| (y / ROW_MM).floor() as i64;
    let mut rows: std::collections::HashMap<i64, Vec<[[f64; 2]; 2]>> = std::collections::HashMap::new();
    for path in &envelope(nibs, tolerance).paths {
        for (i, p) in path.iter().enumerate() {
            let q = path[(i + 1) % path.len()];
            for k in row(p[1].min(q[1]))..=row(p[1].max(q[1])) {
                rows.entry(k).or_default().push([*p, q]);
            }
        }
    }
    // Winding number by the edges that a ray to the right crosses (common practice, no source).
    let inside = |[x, y]: [f64; 2]| {
        let edges = rows.get(&row(y)).map_or(&[][..], Vec::as_slice);
        let winding: i32 = edges
            .iter()
            .filter(|[p, q]| (p[1] <= y) != (q[1] <= y) && p[0] + (q[0] - p[0]) * (y - p[1]) / (q[1] - p[1]) > x)
            .map(|[p, q]| if q[1] > p[1] { 1 } else { -1 })
            .sum();
        winding != 0
    };
    outline.paths.retain(|path| {
        let area = sign * signed_area(path);
        if area >= 0.0 || -area < 4.0 * deep * deep {
            return area >= 0.0;
        }
        // About a hole that the sweep leaves, half of its border lies beyond the smooth one.
        let step = (path.len() / 12).max(1);
        let looked = path.iter().step_by(step);
        let within = looked.clone().filter(|p| inside(**p)).count();
        within * 5 <= looked.count() * 4
    });
    outline
}

/// An outline of whatever origin with each of its contours roughened along its own length; `half` is the line's half width.
pub fn roughened(outline: &Outline, half: f64, rough: &mut Rough) -> Outline {
    let around: f64 = outline.paths.iter().flat_map(|p| (0..p.len()).map(move |i| apart(p[i], p[(i + 1) % p.len()]))).sum();
    let step = rough.step().max(around / MOST_POINTS);
    // Outer borders turn one way and holes the other: ink lies on one hand of both.
    let outward = outline.paths.iter().map(|p| signed_area(p)).sum::<f64>().signum();
    let mut begun = 0.0;
    let paths = outline.paths.iter().map(|path| {
        let fine: Path = (0..path.len())
            .flat_map(|i| {
                let (p, q) = (path[i], path[(i + 1) % path.len()]);
                let parts = (((q[0] - p[0]).hypot(q[1] - p[1]) / step).ceil() as usize).clamp(1, 100_000);
                (0..parts).map(move |j| [0, 1].map(|k| p[k] + (q[k] - p[k]) * j as f64 / parts as f64))
            })
            .collect();
        let n = fine.len();
        let mut way = begun;
        let out: Path = (0..n)
            .map(|i| {
                let (a, p, b) = (fine[(i + n - 1) % n], fine[i], fine[(i + 1) % n]);
                way += (p[0] - a[0]).hypot(p[1] - a[1]);
                let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
                let long = dx.hypot(dy);
                if long <= 0.0 {
                    return p;
                }
                let off = outward * rough.off(0, way).max(-DEEPEST * half);
                [p[0] + dy / long * off, p[1] - dx / long * off]
            })
            .collect();
        begun = way;
        out
    });
    Outline::united(paths.collect())
}

/// The piece that live ink adds between two placements, with rough flanks.
pub fn rough_hull(p: &NibPlacement, q: &NibPlacement, way: [f64; 2], tolerance: f64, rough: &mut Rough) -> Option<Path> {
    let mut out = Tagged::default();
    hull_into(&mut out, p, q, tolerance).then(|| out.roughened(&[*p, *q], &way, rough))
}
