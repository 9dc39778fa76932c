//! The width of a line at a place: the integral of coverage along the normal, bounded by the valley to any neighbouring line.
//!
//! The distance transform only says how far to look. Works on whole numbers, 1/65536 px; limits: steps of one px along the normal,
//! so that what a single place misses evens out along the line (a thousandth of a px on the references).

use super::ink::{Ink, NONE};

/// One side of a profile, in px and px².
pub(super) struct Side {
    pub(super) area: f64,
    pub(super) moment: f64,
    /// Σ c·(1 − c), px.
    pub(super) edge: f64,
    pub(super) meets: Meets,
}

impl Side {
    pub(super) fn is_clear(&self) -> bool {
        self.meets == Meets::Paper
    }
}

/// What the normal meets where the line ends.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Meets {
    Paper,
    Ink,
    /// Neither: faint ink that does not end.
    Unclear,
}

/// Binary places of a position in the plane.
pub(super) const FINE: u32 = 16;

/// Coverage of 1 as [`sample`] gives it.
pub(super) const FULL: u32 = 255 << 16;

/// Coverage of any ink, bilinear between pixel centres, 0 to [`FULL`]; the place in 1/65536 px, pixel centres whole.
///
/// Whole numbers throughout: it is by far the most frequent step of measuring.
#[inline(always)]
pub(super) fn sample(ink: &Ink, u: i32, v: i32) -> u32 {
    let (x, y) = ((u >> FINE) as usize, (v >> FINE) as usize);
    let (tx, ty) = ((u >> 8 & 255) as u32, (v >> 8 & 255) as u32);
    let [a, b, c, d] = if u >= 0 && v >= 0 && x + 1 < ink.width && y + 1 < ink.height {
        let i = y * ink.width + x;
        let (top, low) = (&ink.pixels[i..i + 2], &ink.pixels[i + ink.width..i + ink.width + 2]);
        [top[0].coverage, top[1].coverage, low[0].coverage, low[1].coverage]
    } else {
        // Beyond the page there is none.
        let at = |x: i32, y: i32| pixel(ink, x, y).map_or(0, |i| ink.pixels[i].coverage);
        let (x, y) = (u >> FINE, v >> FINE);
        [at(x, y), at(x + 1, y), at(x, y + 1), at(x + 1, y + 1)]
    }
    .map(u32::from);
    (a * (256 - tx) + b * tx) * (256 - ty) + (c * (256 - tx) + d * tx) * ty
}

pub(super) fn pixel(ink: &Ink, x: i32, y: i32) -> Option<usize> {
    (x >= 0 && y >= 0 && (x as usize) < ink.width && (y as usize) < ink.height).then(|| y as usize * ink.width + x as usize)
}

/// A place in px as [`sample`] takes it.
pub(super) fn fine(at: f64) -> i32 {
    ((at - 0.5) * f64::from(1 << FINE)) as i32
}

/// Coverage 0…1 of the role's ink at a place in px.
pub(super) fn coverage(ink: &Ink, role: u8, x: f64, y: f64) -> f64 {
    let (u, v) = (fine(x), fine(y));
    if foreign(ink, role, u, v) { 0.0 } else { f64::from(sample(ink, u, v)) / f64::from(FULL) }
}

/// Whether ink of another role stands at a place.
#[inline(always)]
pub(super) fn foreign(ink: &Ink, role: u8, u: i32, v: i32) -> bool {
    let half = 1 << (FINE - 1);
    pixel(ink, (u + half) >> FINE, (v + half) >> FINE).is_some_and(|i| {
        let p = ink.pixels[i];
        p.role != role && p.role != NONE && p.coverage > 64
    })
}

/// Walks from the centre outward in steps of a px.
///
/// At whole px a bilinear profile sums exactly along an axis; in other directions what is missed evens out along the
/// line. Half px costs twice as much and was no better by more than a thousandth of a px on the references.
pub(super) fn side(ink: &Ink, role: u8, at: (f64, f64), normal: (f64, f64), radius: f64) -> Side {
    const RISE: u32 = FULL / 100 * 12;
    const SHALLOW: u32 = FULL / 100 * 82;
    const PAPER: u32 = FULL / 5;
    const ROOM: u32 = FULL / 10 * 9;
    const NOTHING: u32 = FULL / 250;
    const FAINT: u32 = FULL / 100 * 35;
    const LEVEL: u32 = FULL / 1000 * 6;
    const SEEN: u32 = FULL / 100 * 3;
    let (du, dv) = ((normal.0 * f64::from(1 << FINE)) as i32, (normal.1 * f64::from(1 << FINE)) as i32);
    let (mut u, mut v) = (fine(at.0) + du / 2, fine(at.1) + dv / 2);
    let (mut area, mut moment, mut edge) = (0u64, 0u64, 0u64);
    let (mut low, mut low_area, mut low_moment, mut low_edge) = (FULL, 0, 0, 0);
    let steps = (2.0 * radius + 4.0).ceil() as usize;
    // As far as the ink reaches by its distance the places are read one after the other without a question between them.
    let mut profile = [0u32; 24];
    let sure = ((radius + 2.0) as usize).clamp(3, profile.len());
    for (k, c) in (0..).zip(&mut profile[..sure]) {
        *c = sample(ink, u.wrapping_add(k * du), v.wrapping_add(k * dv));
    }
    let side = |area: u64, moment: u64, edge: u64, meets: Meets| Side {
        area: area as f64 / f64::from(FULL),
        moment: moment as f64 / f64::from(2 * FULL),
        edge: edge as f64 / f64::from(FULL),
        meets,
    };
    let paper = |clear: bool| if clear { Meets::Paper } else { Meets::Ink };
    // The last two values: where three are alike and faint, that is what lies beneath and beside the line, not its edge.
    let mut last = [FULL; 2];
    for k in 0..steps {
        let c = profile[..sure].get(k).copied().unwrap_or_else(|| sample(ink, u, v));
        if c > SEEN && c < FAINT && last[0].abs_diff(c) < LEVEL && last[1].abs_diff(c) < LEVEL {
            return over(&Walk { ink, u: fine(at.0) + du / 2, v: fine(at.1) + dv / 2, du, dv }, k - 2, last[0]);
        }
        last = [last[1], c];
        if c < low {
            (low, low_area, low_moment, low_edge) = (c, area, moment, edge);
        } else if c > low + RISE && low < SHALLOW {
            // Ink rises again: another line. Up to the middle of the valley it is this one's; a shallow valley is no paper.
            let walk = Walk { ink, u: fine(at.0) + du / 2, v: fine(at.1) + dv / 2, du, dv };
            let clear = low < PAPER || paper_behind(&walk, k as i32) > ROOM;
            return side(u64::midpoint(low_area, area), u64::midpoint(low_moment, moment), low_edge, paper(clear));
        }
        area += u64::from(c);
        moment += u64::from(c) * (2 * k as u64 + 1);
        edge += (u64::from(c) * u64::from(FULL - c)) >> 24;
        if foreign(ink, role, u, v) {
            return side(area, moment, edge, Meets::Ink);
        }
        if c < NOTHING {
            return side(area, moment, edge, paper(!foreign(ink, role, u.wrapping_add(du), v.wrapping_add(dv))));
        }
        (u, v) = (u.wrapping_add(du), v.wrapping_add(dv));
    }
    side(area, moment, edge, if last[1] < SHALLOW { Meets::Unclear } else { Meets::Ink })
}

/// Where a walk along the normal begins, and its steps.
struct Walk<'a> {
    ink: &'a Ink,
    u: i32,
    v: i32,
    du: i32,
    dv: i32,
}

/// Paper of the valley that is left at step `k`, in px times [`FULL`]: where it lies across two pixels neither shows it whole.
fn paper_behind(walk: &Walk, k: i32) -> u32 {
    const WHOLE: u32 = FULL / 100 * 96;
    let c = |k: i32| sample(walk.ink, walk.u.wrapping_add(k * walk.du), walk.v.wrapping_add(k * walk.dv));
    (0..=k).rev().map(c).enumerate().take_while(|(n, c)| *n < 2 || *c < WHOLE).map(|(_, c)| FULL - c.min(FULL)).sum()
}

/// A side that ends, after so many steps, in faint ink that goes on, such as a rough: what is more than that is the line's.
fn over(walk: &Walk, steps: usize, faint: u32) -> Side {
    let faint = f64::from(faint) / f64::from(FULL);
    let mut side = Side { area: 0.0, moment: 0.0, edge: 0.0, meets: Meets::Paper };
    for k in 0..steps as i32 {
        let c = f64::from(sample(walk.ink, walk.u.wrapping_add(k * walk.du), walk.v.wrapping_add(k * walk.dv))) / f64::from(FULL);
        let own = ((c - faint) / (1.0 - faint)).max(0.0);
        side.area += own;
        side.moment += own * (f64::from(k) + 0.5);
        side.edge += own * (1.0 - own);
    }
    side
}

/// Sine of the angle to the pixels from which an edge is aslant.
pub(super) const ASLANT: f64 = 0.09;

/// Whether any of the pixels about an edge, `far` px from the centre, is partly covered.
pub(super) fn partly(ink: &Ink, at: (f64, f64), normal: (f64, f64), far: f64) -> bool {
    [-1.0, 0.0, 1.0].iter().any(|d| {
        let (x, y) = (at.0 + normal.0 * (far + d), at.1 + normal.1 * (far + d));
        pixel(ink, x.floor() as i32, y.floor() as i32).is_some_and(|i| (26..230).contains(&ink.pixels[i].coverage))
    })
}
