//! Which ink runs beside a line, and how much clear paper is between.
//!
//! How: places of all lines in grids by octaves of width, looked through outward; the nearest that runs the same way within 26°, beside and not
//! before or behind. Limits: less than a quarter of a pixel of paper is none, the two inks are one. Common practice, no source.

use std::{
    collections::{BTreeMap, HashMap},
    ops::RangeInclusive,
};

use eddymist_measure::drawing::{Line, Place};

/// Small enough that a crowded page has few places in one, px.
const CELL: f64 = 4.0;
/// Ink is looked for so much further than its centre may be, px.
const FURTHER: f32 = 12.0;
/// It is looked for this near first, then twice as far, and so on, px.
const NEAR: f32 = 16.0;
/// Directions differ by less than this, as a cosine: about 26°.
const PARALLEL: f32 = 0.9;
/// Places this near to a place's normal, px, are beside it, not before or behind it.
const ABREAST: f32 = 0.75;
/// Less paper than this is none: the two inks are one.
const CLEAR_PX: f64 = 0.25;

/// Lines among which neighbours are looked for.
pub struct Beside<'a> {
    lines: &'a [&'a Line],
    /// By octaves of width, thin ones first, with half the width of the widest place of each, px.
    grids: Vec<(f32, Grid)>,
}

type Grid = HashMap<(i32, i32), Vec<Inked>>;

/// A place of a line, no junction, as the grid holds it: where pages are dense, thousands are looked at for each.
struct Inked {
    x: f32,
    y: f32,
    width: f32,
    way: (f32, f32),
    line: u32,
    place: u32,
}

/// A place beside another: the clear paper between in px, and the other line with its place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Neighbour {
    pub clear: f64,
    pub line: u32,
    pub place: u32,
    /// The thinner of the two lines here, px.
    pub thinner: f64,
}

fn cell(v: f32) -> i32 {
    (f64::from(v) / CELL).floor() as i32
}

/// The cells through which the normal of a place goes, with what lies abreast of it, up to `reach` px on either side: row by row.
fn across(p: (f32, f32), normal: (f32, f32), reach: f32) -> impl Iterator<Item = (i32, RangeInclusive<i32>)> {
    let far = |n: f32| n.abs() * reach + ABREAST;
    (cell(p.1 - far(normal.1))..=cell(p.1 + far(normal.1))).filter_map(move |y| {
        let (top, low) = (y as f32 * CELL as f32 - ABREAST - p.1, (y + 1) as f32 * CELL as f32 + ABREAST - p.1);
        // How far along the normal the row begins and ends.
        let (a, b) = if normal.1.abs() < 1e-3 { (-reach, reach) } else { (top / normal.1, low / normal.1) };
        let (a, b) = (a.min(b).max(-reach), a.max(b).min(reach));
        let (x0, x1) = (p.0 + a * normal.0, p.0 + b * normal.0);
        (a <= b).then(|| (y, cell(x0.min(x1) - ABREAST)..=cell(x0.max(x1) + ABREAST)))
    })
}

fn way(l: &Line, i: usize) -> (f32, f32) {
    let (a, b) = (&l.points[i.saturating_sub(3)], &l.points[(i + 3).min(l.points.len() - 1)]);
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let d = dx.hypot(dy).max(1e-6);
    (dx / d, dy / d)
}

impl<'a> Beside<'a> {
    /// `skip` says which lines are nobody's neighbours.
    pub fn new(lines: &'a [&'a Line], skip: impl Fn(usize) -> bool) -> Self {
        let mut grids: BTreeMap<i32, (f32, Grid)> = BTreeMap::new();
        for (k, line) in lines.iter().enumerate().filter(|(k, _)| !skip(*k)) {
            for (i, p) in line.points.iter().enumerate().filter(|(_, p)| !matches!(p.place, Place::Junction)) {
                let inked = Inked { x: p.x, y: p.y, width: p.width, way: way(line, i), line: k as u32, place: i as u32 };
                let (half, grid) = grids.entry(p.width.max(1.0).log2() as i32).or_default();
                *half = half.max(0.5 * p.width);
                grid.entry((cell(p.x), cell(p.y))).or_default().push(inked);
            }
        }
        Self { lines, grids: grids.into_values().collect() }
    }

    /// The nearest other ink beside place `i` of line `k` whose centre is within `reach` px and that goes the same way or the opposite;
    /// of the same line only what is eight widths further along. None at junctions and corners.
    pub fn neighbour(&self, k: usize, i: usize, width: f64, reach: f64) -> Option<Neighbour> {
        let line = self.lines[k];
        let p = &line.points[i];
        if matches!(p.place, Place::Junction | Place::Corner) {
            return None;
        }
        let (tx, ty) = way(line, i);
        let mut best: Option<Neighbour> = None;
        let look = |best: &mut Option<Neighbour>, q: &Inked| {
            let (dx, dy) = (q.x - p.x, q.y - p.y);
            let (along, across) = ((dx * tx + dy * ty).abs(), (dx * ty - dy * tx).abs());
            if along > ABREAST || (q.way.0 * tx + q.way.1 * ty).abs() < PARALLEL {
                return;
            }
            let clear = f64::from(across) - 0.5 * f64::from(p.width + q.width);
            if clear <= CLEAR_PX || best.is_some_and(|b| clear >= b.clear) {
                return;
            }
            let other = (q.line as usize != k).then_some(f64::INFINITY);
            let further = || (i as f64 - f64::from(q.place)).abs() * line.step_px;
            let apart = other.unwrap_or_else(|| if line.closed { further().min(line.length_px() - further()) } else { further() });
            if apart >= 8.0 * width {
                *best = Some(Neighbour { clear, line: q.line, place: q.place, thinner: f64::from(p.width.min(q.width)) });
            }
        };
        let far = reach as f32 + FURTHER;
        for (half, grid) in &self.grids {
            // Outward: where something was found, what has more paper between than that is not looked for.
            let mut so_far = NEAR.min(far);
            loop {
                let cells = across((p.x, p.y), (-ty, tx), so_far).flat_map(|(y, row)| row.map(move |x| (x, y)));
                cells.filter_map(|c| grid.get(&c)).flatten().for_each(|q| look(&mut best, q));
                if so_far >= far || best.is_some_and(|b| b.clear as f32 + 0.5 * p.width + half <= so_far) {
                    break;
                }
                so_far = (2.0 * so_far).min(far);
            }
        }
        best
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::{ABREAST, CELL, across, cell};

    proptest! {
        /// Whatever lies abreast of a place within reach is in one of the cells.
        #[test]
        fn nothing_abreast_is_passed_over(x in -50f32..900.0, y in -50f32..900.0, turn in 0f32..6.3, reach in 1f32..300.0, a in -1f32..1.0, b in -1f32..1.0) {
            let (n, t) = ((turn.cos(), turn.sin()), (-turn.sin(), turn.cos()));
            let q = (x + a * reach * n.0 + b * ABREAST * t.0, y + a * reach * n.1 + b * ABREAST * t.1);
            let cells: Vec<(i32, i32)> = across((x, y), n, reach).flat_map(|(y, row)| row.map(move |x| (x, y))).collect();
            prop_assert!(cells.contains(&(cell(q.0), cell(q.1))));
            // As many as a line crosses, not as many as lie about it.
            prop_assert!(cells.len() as f32 <= 6.0 + reach * 2.0 / CELL as f32 * 3.0, "{}", cells.len());
        }
    }
}
