//! Closed outlines in mm: their clean-up union, area and bounds.
//!
//! How: the union by the non-zero rule (i_overlay). Limits: the paths must all turn the same way.

use i_overlay::core::{fill_rule::FillRule, solver::Solver};
use i_overlay::float::simplify::SimplifyShape;

/// A closed polygon, its last corner joined to its first.
pub type Path = Vec<[f64; 2]>;

/// Closed polygons without overlap: outer borders turn one way, holes the other.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Outline {
    pub paths: Vec<Path>,
}

impl Outline {
    /// The union of paths that all turn the same way, by the non-zero rule.
    pub fn united(paths: Vec<Path>) -> Self {
        if paths.is_empty() {
            return Self::default();
        }
        // A plain scan is quickest for one stroke; beyond that, fragments keep dense scribbles from costing the square.
        let solver = if paths.iter().map(Vec::len).sum::<usize>() < 2_000 { Solver::LIST } else { Solver::FRAG };
        let shapes = paths.simplify_shape_custom(FillRule::NonZero, Default::default(), solver);
        Self { paths: shapes.into_iter().flatten().filter(|p| p.len() > 2).collect() }
    }

    /// The same, of paths each of which may cross itself very often: first each for itself, then two by two, so that what all together cost
    /// does not grow with the square of what is crossed.
    pub fn united_in_turn(paths: Vec<Path>) -> Self {
        const FEW: usize = 20_000;
        if paths.iter().map(Vec::len).sum::<usize>() < FEW { Self::united(paths) } else { Self::united_by_twos(paths) }
    }

    /// The same whatever they cost together: of paths that lie over one another, as those of a held dot do.
    pub fn united_by_twos(paths: Vec<Path>) -> Self {
        let mut parts: Vec<Self> = paths.into_iter().map(|p| Self::united(vec![p])).collect();
        while parts.len() > 1 {
            let mut pairs = parts.into_iter();
            let mut next = Vec::new();
            while let Some(one) = pairs.next() {
                next.push(match pairs.next() {
                    Some(other) => Self::merged([one, other]),
                    None => one,
                });
            }
            parts = next;
        }
        parts.pop().unwrap_or_default()
    }

    /// The union of several outlines.
    pub fn merged(outlines: impl IntoIterator<Item = Outline>) -> Self {
        Self::united(outlines.into_iter().flat_map(|o| o.paths).collect())
    }

    /// Inked area in mm².
    pub fn area_mm2(&self) -> f64 {
        self.paths.iter().map(|p| signed_area(p)).sum::<f64>().abs()
    }

    /// `[left, top, right, bottom]` in mm, or none when nothing is inked.
    pub fn bounds(&self) -> Option<[f64; 4]> {
        let mut points = self.paths.iter().flatten();
        let first = points.next()?;
        Some(points.fold([first[0], first[1], first[0], first[1]], |b, p| [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]))
    }
}

/// Shoelace area; its sign is the way the path turns.
pub fn signed_area(p: &[[f64; 2]]) -> f64 {
    let n = p.len();
    (0..n).map(|i| p[i][0] * p[(i + 1) % n][1] - p[(i + 1) % n][0] * p[i][1]).sum::<f64>() * 0.5
}

/// What of a closed path lies between two x (Sutherland and Hodgman, "Reentrant polygon clipping", CACM 17, 1974); where it falls
/// into several pieces they hang together along the cut.
pub fn clipped(ring: &Path, from: f64, to: f64) -> Path {
    let cut = |ring: &Path, x: f64, sign: f64| {
        let mut out = Path::new();
        for (k, p) in ring.iter().enumerate() {
            let q = ring[(k + 1) % ring.len()];
            let (a, b) = (sign * (p[0] - x), sign * (q[0] - x));
            if a >= 0.0 {
                out.push(*p);
            }
            if (a > 0.0 && b < 0.0) || (a < 0.0 && b > 0.0) {
                out.push([x, p[1] + (q[1] - p[1]) * (x - p[0]) / (q[0] - p[0])]);
            }
        }
        out
    };
    cut(&cut(ring, from, 1.0), to, -1.0)
}
