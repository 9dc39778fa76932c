//! Which ink runs beside a line, and how much clear paper is between.
//!
//! How: places of all lines in a grid; the nearest that runs the same way within 26°, beside and not before or behind. Limits: less than a
//! quarter of a pixel of paper is none, the two inks are one. Common practice, no source.

use std::collections::HashMap;

use eddymist_measure::drawing::{Line, Place};

const CELL: f64 = 12.0;
/// Directions differ by less than this, as a cosine: about 26°.
const PARALLEL: f32 = 0.9;
/// Less paper than this is none: the two inks are one.
const CLEAR_PX: f64 = 0.25;

/// Lines among which neighbours are looked for.
pub struct Beside<'a> {
    lines: &'a [&'a Line],
    grid: HashMap<(i32, i32), Vec<(u32, u32)>>,
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

fn way(l: &Line, i: usize) -> (f32, f32) {
    let (a, b) = (&l.points[i.saturating_sub(3)], &l.points[(i + 3).min(l.points.len() - 1)]);
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let d = dx.hypot(dy).max(1e-6);
    (dx / d, dy / d)
}

impl<'a> Beside<'a> {
    /// `skip` says which lines are nobody's neighbours.
    pub fn new(lines: &'a [&'a Line], skip: impl Fn(usize) -> bool) -> Self {
        let mut grid: HashMap<(i32, i32), Vec<(u32, u32)>> = HashMap::new();
        for (k, line) in lines.iter().enumerate().filter(|(k, _)| !skip(*k)) {
            for (i, p) in line.points.iter().enumerate() {
                grid.entry((cell(p.x), cell(p.y))).or_default().push((k as u32, i as u32));
            }
        }
        Self { lines, grid }
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
        let reach = reach as f32;
        let mut best: Option<Neighbour> = None;
        for y in cell(p.y - reach)..=cell(p.y + reach) {
            for x in cell(p.x - reach)..=cell(p.x + reach) {
                for &(j, m) in self.grid.get(&(x, y)).into_iter().flatten() {
                    let other = self.lines[j as usize];
                    let q = &other.points[m as usize];
                    let apart = (i as f64 - f64::from(m)).abs() * line.step_px;
                    let apart = if line.closed { apart.min(line.length_px() - apart) } else { apart };
                    if j as usize == k && apart < 8.0 * width || matches!(q.place, Place::Junction) {
                        continue;
                    }
                    let (dx, dy) = (q.x - p.x, q.y - p.y);
                    // Beside it, not before or behind it.
                    let (along, across) = ((dx * tx + dy * ty).abs(), (dx * ty - dy * tx).abs());
                    if along > 0.75 {
                        continue;
                    }
                    let (ox, oy) = way(other, m as usize);
                    if (ox * tx + oy * ty).abs() < PARALLEL {
                        continue;
                    }
                    let clear = f64::from(across) - 0.5 * f64::from(p.width + q.width);
                    if clear > CLEAR_PX && best.is_none_or(|b| clear < b.clear) {
                        best = Some(Neighbour { clear, line: j, place: m, thinner: f64::from(p.width.min(q.width)) });
                    }
                }
            }
        }
        best
    }
}
