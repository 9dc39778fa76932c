//! Nibs of any shape: split into convex pieces, each swept on its own; their union is the shape swept.
//!
//! How: the sweep of a convex piece is the hull of its two placements (Minkowski sum with the way). Limits: a ring must not cross itself.

use i_triangle::float::triangulatable::Triangulatable;

use crate::{
    envelope::{NibPlacement, convex},
    outline::{Outline, Path, signed_area},
};

/// Why points make no nib.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ShapeError {
    #[error("a shape has at least three corners, each a finite number within 100 nib lengths")]
    Corners,
    #[error("the shape has no area: its corners lie on a line")]
    NoArea,
}

/// A nib's shape in units of its length, as convex pieces.
#[derive(Debug, Clone, PartialEq)]
pub struct Shape {
    pieces: Vec<Path>,
}

impl Shape {
    /// From one or several rings; what overlaps counts once.
    pub fn new(rings: &[Path]) -> Result<Self, ShapeError> {
        let fine = |r: &Path| r.len() > 2 && r.iter().flatten().all(|v| v.is_finite() && v.abs() <= 100.0);
        if rings.is_empty() || !rings.iter().all(fine) {
            return Err(ShapeError::Corners);
        }
        // All rings turn one way, so that the non-zero rule unites them.
        let same = rings.iter().map(|r| if signed_area(r) < 0.0 { r.iter().rev().copied().collect() } else { r.clone() });
        let outline = Outline::united(same.collect());
        if outline.area_mm2() < 1e-6 {
            return Err(ShapeError::NoArea);
        }
        let pieces = outline.paths.triangulate().into_delaunay().to_convex_polygons();
        Ok(Self { pieces: pieces.into_iter().filter(|p| p.len() > 2).collect() })
    }

    /// Width across a direction of travel that lies `angle` from the nib's own, in nib lengths; its breadth is `stretch` times
    /// as much as drawn.
    pub fn across(&self, angle: f64, stretch: f64) -> f64 {
        let (s, c) = angle.sin_cos();
        let on_normal = self.pieces.iter().flatten().map(|p| c * stretch * p[1] - s * p[0]);
        let (low, high) = on_normal.fold((f64::INFINITY, f64::NEG_INFINITY), |m, v| (m.0.min(v), m.1.max(v)));
        (high - low).max(0.0)
    }

    fn placed(piece: &Path, n: &NibPlacement, out: &mut Path) {
        let (s, c) = n.angle.sin_cos();
        out.extend(piece.iter().map(|p| {
            let (u, v) = (2.0 * n.a * p[0], 2.0 * n.b * p[1]);
            [n.x + c * u - s * v, n.y + s * u + c * v]
        }));
    }

    /// Its pieces where it stands, with half its length and half its breadth in mm.
    pub(crate) fn hulls_at(&self, [x, y]: [f64; 2], a: f64, b: f64, angle: f64) -> Vec<Path> {
        let n = NibPlacement { x, y, a, b, angle };
        self.hulls(&n, &n)
    }

    /// The polygon that lies under the shape as it goes from one placement to the next: one convex piece each.
    pub fn hulls(&self, p: &NibPlacement, q: &NibPlacement) -> Vec<Path> {
        let hull = |piece: &Path| {
            let mut points = Path::with_capacity(2 * piece.len());
            Self::placed(piece, p, &mut points);
            Self::placed(piece, q, &mut points);
            convex(points)
        };
        self.pieces.iter().map(hull).filter(|h| h.len() > 2).collect()
    }

    /// The outline of the whole sweep; placements that lie on the way of their neighbours within `tolerance` are left out.
    pub fn sweep(&self, nibs: &[NibPlacement], tolerance: f64) -> Outline {
        let kept = thinned(nibs, tolerance, LONGEST);
        match kept[..] {
            [] => Outline::default(),
            [ref one] => Outline::united(self.hulls(one, one)),
            _ => Outline::united(kept.windows(2).flat_map(|w| self.hulls(&w[0], &w[1])).collect()),
        }
    }
}

/// Longest run of placements that one straight step may stand for.
const LONGEST: usize = 64;

/// Placements without those that a straight step between their neighbours passes within the tolerance.
pub(crate) fn thinned(nibs: &[NibPlacement], tolerance: f64, longest: usize) -> Vec<NibPlacement> {
    let off = |a: &NibPlacement, b: &NibPlacement, m: &NibPlacement| {
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        let l2 = dx * dx + dy * dy;
        let t = if l2 > 0.0 { (((m.x - a.x) * dx + (m.y - a.y) * dy) / l2).clamp(0.0, 1.0) } else { 0.0 };
        let mix = |u: f64, v: f64| u + (v - u) * t;
        let place = (mix(a.x, b.x) - m.x).hypot(mix(a.y, b.y) - m.y);
        let size = (mix(a.a, b.a) - m.a).abs().max((mix(a.b, b.b) - m.b).abs());
        place + 2.0 * size + 2.0 * m.a * (mix(a.angle, b.angle) - m.angle).abs()
    };
    let mut out = Vec::new();
    let mut from = 0;
    while from < nibs.len() {
        out.push(nibs[from]);
        let mut to = from + 1;
        while to + 1 < nibs.len() && to - from < longest && (from + 1..=to).all(|m| off(&nibs[from], &nibs[to + 1], &nibs[m]) <= tolerance) {
            to += 1;
        }
        from = to;
    }
    out
}
