//! The peg holes of a scanned sheet, where the scanner's dark lid shows through them: how a scan lies, whatever was drawn on it.
//!
//! How: blacks of punched form (a disc, or a slot along an edge) near one edge of the page; two to six of them that are alike in size and in how
//! far apart they are on two scans are the same holes, and move one onto the other (a rigid fit by least squares of their middles). Limits: holes
//! under a white lid are not seen; turns up to 4°, shifts up to a tenth of the page.

use eddymist_measure::drawing::{MaskKind, Masked};

use crate::document::DrawingCheck;

/// A hole: its middle and its sides, px.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hole {
    pub at: [f64; 2],
    sides: [f64; 2],
}

/// Holes lie within this share of the page from an edge, and are so large, as a share of its longer side.
const BAND: f64 = 0.12;
const SIDES: std::ops::RangeInclusive<f64> = 0.006..=0.08;
/// Of its box a disc fills π/4; a slot more, less where it lies askew.
const DISC: std::ops::RangeInclusive<f64> = 0.72..=0.85;
const SLOT: std::ops::RangeInclusive<f64> = 0.6..=1.0;
/// A slot is so much longer than wide.
const LONG: f64 = 1.5;
/// Two holes of two scans are one where their sides differ by no more than this share and so many px.
const ALIKE: f64 = 0.08;
const ALIKE_PX: f64 = 3.0;
/// So far apart, px and as a share, may what lies between two holes be on two scans.
const APART_PX: f64 = 2.0;
const APART: f64 = 0.003;
const MOST_HOLES: usize = 6;
const MOST_TURN_DEG: f64 = 4.0;
const MOST_SHIFT: f64 = 0.1;

/// The holes along each edge of a page: left, top, right and bottom.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Holes([Vec<Hole>; 4]);

impl Holes {
    /// Of a drawing that was checked.
    pub fn seen(check: &DrawingCheck) -> Self {
        Self::new(&check.masked, [f64::from(check.width_px), f64::from(check.height_px)])
    }

    /// Of a page of a size, from what is masked on it.
    pub fn new(masked: &[Masked], [width, height]: [f64; 2]) -> Self {
        let mut out = Self::default();
        let longer = width.max(height);
        for m in masked.iter().filter(|m| m.kind == MaskKind::SpottedBlack && m.x > 1.0 && m.y > 1.0) {
            let (at, sides) = ([m.x + 0.5 * m.width, m.y + 0.5 * m.height], [m.width, m.height]);
            let inside = m.x + m.width < width - 1.0 && m.y + m.height < height - 1.0;
            let fills = m.ink_px2 / (m.width * m.height).max(1.0);
            let (short, long) = (sides[0].min(sides[1]), sides[0].max(sides[1]));
            let round = long <= short * (1.0 + ALIKE) + 2.0 && DISC.contains(&fills);
            if !inside || !SIDES.contains(&(short / longer)) || !SIDES.contains(&(long / longer)) {
                continue;
            }
            for (edge, near) in [at[0] / width, at[1] / height, 1.0 - at[0] / width, 1.0 - at[1] / height].into_iter().enumerate() {
                // A slot lies along the edge.
                let slot = sides[1 - edge % 2] >= LONG * sides[edge % 2] && SLOT.contains(&fills);
                if near < BAND && (round || slot) {
                    out.0[edge].push(Hole { at, sides });
                }
            }
        }
        for (edge, holes) in out.0.iter_mut().enumerate() {
            holes.sort_by(|a, b| a.at[1 - edge % 2].total_cmp(&b.at[1 - edge % 2]));
        }
        out
    }

    /// Moved with the page.
    pub fn moved(&self, by: impl Fn([f64; 2]) -> [f64; 2]) -> Self {
        Self(std::array::from_fn(|edge| self.0[edge].iter().map(|h| Hole { at: by(h.at), ..*h }).collect()))
    }

    /// The turn in degrees about a place, and the shift in px, that bring these onto another's; none where they are not the same holes.
    pub fn onto(&self, other: &Self, about: [f64; 2]) -> Option<(f64, [f64; 2])> {
        let same = |edge: &usize| self.0[*edge].len() >= 2 && alike(&self.0[*edge], &other.0[*edge]);
        let edge = (0..4).filter(same).max_by_key(|edge| self.0[*edge].len())?;
        let (from, to) = (&self.0[edge], &other.0[edge]);
        let n = from.len() as f64;
        let middle = |h: &[Hole]| [0, 1].map(|k| h.iter().map(|h| h.at[k]).sum::<f64>() / n);
        let (a, b) = (middle(from), middle(to));
        let (mut cross, mut dot) = (0.0, 0.0);
        for (p, q) in from.iter().zip(to) {
            let ([px, py], [qx, qy]) = ([p.at[0] - a[0], p.at[1] - a[1]], [q.at[0] - b[0], q.at[1] - b[1]]);
            cross += px * qy - py * qx;
            dot += px * qx + py * qy;
        }
        let turn = cross.atan2(dot);
        let (s, c) = turn.sin_cos();
        let arm = [about[0] - a[0], about[1] - a[1]];
        let shift = [b[0] + arm[0] * c - arm[1] * s - about[0], b[1] + arm[0] * s + arm[1] * c - about[1]];
        let page = 2.0 * about[0].max(about[1]);
        (turn.abs().to_degrees() <= MOST_TURN_DEG && shift[0].hypot(shift[1]) <= MOST_SHIFT * page).then_some((turn.to_degrees(), shift))
    }
}

/// Whether two rows of holes are one: as many, of one size each, and as far apart.
fn alike(a: &[Hole], b: &[Hole]) -> bool {
    let near = |p: f64, q: f64, share: f64, px: f64| (p - q).abs() <= share * p.max(q) + px;
    let apart = |h: &[Hole], i: usize| (h[i].at[0] - h[0].at[0]).hypot(h[i].at[1] - h[0].at[1]);
    a.len() == b.len()
        && a.len() <= MOST_HOLES
        && a.iter().zip(b).all(|(p, q)| (0..2).all(|k| near(p.sides[k], q.sides[k], ALIKE, ALIKE_PX)))
        && (1..a.len()).all(|i| near(apart(a, i), apart(b, i), APART, APART_PX))
}
