//! A drawn shape that is bent along a stroke, once or with its ends kept at their length: read from SVG path data, levelled.
//!
//! How: its border in straight pieces, each point carried to the rail; with ends kept only the middle is stretched. Limits: the path must enclose
//! an area; a run is made of one piece only.

use kurbo::{BezPath, PathEl, Shape as _};

use crate::{
    envelope::NibPlacement,
    kinds::rail::Rail,
    outline::{Outline, Path, clipped, signed_area},
};

/// Why a path makes no shape.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum LevelShapeError {
    #[error("the shape is no readable SVG path data: {0}")]
    Path(String),
    #[error("the shape has no area, or is thinner than a thousandth of its length")]
    NoArea,
    #[error("the shape has {0} points; at most 20,000 are read")]
    TooMany(usize),
    #[error("the shape is in {0} pieces, and ends that keep their length need one: its middle repeats and would fall apart")]
    Pieces(usize),
}

const MOST_POINTS: usize = 20_000;
/// The least share of a shape's length that repeats in a capped run.
const THINNEST: f64 = 0.01;

/// Rings with x along the stroke from 0 to `long`, and y across it from −0.5 to 0.5; y down.
#[derive(Debug, Clone, PartialEq)]
pub struct LevelShape {
    rings: Vec<Path>,
    /// Length over height.
    pub long: f64,
    pieces: usize,
}

impl LevelShape {
    /// From SVG path data whose x runs along the stroke and y down, in any unit.
    pub fn read(path: &str) -> Result<Self, LevelShapeError> {
        let path = BezPath::from_svg(path.trim()).map_err(|e| LevelShapeError::Path(e.to_string()))?;
        if path.elements().len() > MOST_POINTS {
            return Err(LevelShapeError::TooMany(path.elements().len()));
        }
        let bounds = path.bounding_box();
        let (wide, high) = (bounds.width(), bounds.height());
        if !(wide.is_finite() && high.is_finite()) || high <= 1e-3 * wide || wide <= 1e-3 * high {
            return Err(LevelShapeError::NoArea);
        }
        let mut rings: Vec<Path> = Vec::new();
        kurbo::flatten(&path, high * 5e-4, |e| match e {
            PathEl::MoveTo(p) => rings.push(vec![[p.x, p.y]]),
            PathEl::LineTo(p) => {
                if let Some(ring) = rings.last_mut() {
                    ring.push([p.x, p.y]);
                }
            }
            _ => {}
        });
        Self::from_rings(&rings)
    }

    /// From closed rings. What overlaps counts once; a ring within another is a hole where it turns the other way.
    pub fn from_rings(rings: &[Path]) -> Result<Self, LevelShapeError> {
        let outline = Outline::united(rings.to_vec());
        let points: usize = outline.paths.iter().map(Vec::len).sum();
        if points > MOST_POINTS {
            return Err(LevelShapeError::TooMany(points));
        }
        let [l, t, r, b] = outline.bounds().ok_or(LevelShapeError::NoArea)?;
        let high = b - t;
        if high <= 1e-3 * (r - l) || outline.area_mm2() <= 1e-4 * high * (r - l) {
            return Err(LevelShapeError::NoArea);
        }
        let middle = 0.5 * (t + b);
        let pieces = outline.paths.iter().filter(|p| (signed_area(p) > 0.0) == (signed_area(&outline.paths[0]) > 0.0)).count();
        let rings = outline.paths.iter().map(|p| p.iter().map(|q| [(q[0] - l) / high, (q[1] - middle) / high]).collect()).collect();
        Ok(Self { rings, long: (r - l) / high, pieces })
    }

    /// The same where it is one piece.
    pub fn in_one_piece(self) -> Result<Self, LevelShapeError> {
        if self.pieces == 1 { Ok(self) } else { Err(LevelShapeError::Pieces(self.pieces)) }
    }

    /// Its rings, to be drawn.
    pub fn rings(&self) -> &[Path] {
        &self.rings
    }

    fn dot(rail: &Rail, paths: &mut Vec<Path>, tolerance: f64) {
        if let Some(([x, y], nib)) = rail.spot() {
            let n = NibPlacement { x, y, a: 0.5 * nib, b: 0.5 * nib, angle: 0.0 };
            paths.push(crate::envelope::hull(&n, &n, tolerance));
        }
    }

    fn turned(ring: Path, reversed: bool, length: f64) -> Path {
        if reversed { ring.into_iter().rev().map(|[x, y]| [length - x, y]).collect() } else { ring }
    }

    /// Bent along the whole stroke once. It keeps its proportions: twice as long, it is twice as thick; weight, tapers and
    /// what else drives the width change the thickness against `usual_mm`.
    pub(crate) fn bend(&self, rail: &Rail, usual_mm: f64, reversed: bool, paths: &mut Vec<Path>, tolerance: f64) {
        let length = rail.length();
        if length <= 0.0 {
            return Self::dot(rail, paths, tolerance);
        }
        let scale = length / self.long;
        let rail = &rail.for_offsets(0.5 * scale * rail.mean_nib() / usual_mm);
        let length = rail.length();
        let scale = scale.min(length / self.long);
        for r in &self.rings {
            let ring = r.iter().map(|[x, y]| [x * scale, y * scale / usual_mm]).collect();
            paths.push(rail.lay(&Self::turned(ring, reversed, length)));
        }
    }

    /// As a capped run: `caps` are the shares of the shape's length that its two ends take; what is between repeats as often
    /// as fits best. On a stroke shorter than both, the caps shrink.
    pub(crate) fn run(&self, rail: &Rail, caps: [f64; 2], reversed: bool, paths: &mut Vec<Path>, tolerance: f64) {
        let nib = rail.mean_nib();
        let rail = &rail.for_offsets(0.5 * nib);
        let length = rail.length();
        if length < 0.25 * nib || length <= 0.0 {
            return Self::dot(rail, paths, tolerance);
        }
        let full = self.long * nib;
        let short = (length / ((caps[0] + caps[1]) * full).max(f64::MIN_POSITIVE)).min(1.0);
        let ends = caps.map(|c| c * full * short);
        let middle = (1.0 - caps[0] - caps[1]) * full;
        let room = length - ends[0] - ends[1];
        let (x0, x1) = (caps[0] * self.long, (1.0 - caps[1]) * self.long);
        // Where next to nothing lies between the ends, the shape as it is at the cut goes on.
        let thin = middle < THINNEST * full;
        let widened = if thin { 0.5 * (THINNEST * self.long - (x1 - x0)) } else { 0.0 };
        let (m0, m1) = ((x0 - widened).max(0.0), (x1 + widened).min(self.long));
        let times = match (short < 1.0, thin) {
            (true, _) => 0,
            (false, true) => 1,
            (false, false) => (room / middle).round().max(1.0) as usize,
        };
        let mut add = |from: f64, to: f64, at: f64, long: f64| {
            for r in &self.rings {
                let part = clipped(r, from, to);
                if part.len() > 2 && to > from {
                    let ring = part.iter().map(|[x, y]| [at + (x - from) / (to - from) * long, *y]).collect();
                    paths.push(rail.lay(&Self::turned(ring, reversed, length)));
                }
            }
        };
        add(0.0, x0, 0.0, ends[0]);
        for k in 0..times {
            let at = |k: usize| ends[0] + room * k as f64 / times as f64;
            add(m0, m1, at(k), at(k + 1) - at(k));
        }
        add(x1, self.long, length - ends[1], ends[1]);
    }
}
