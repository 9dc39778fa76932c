//! Which other roles' lines lie about a place.
//!
//! How: the places of all lines in a grid. Limits: ink that is no line is not known here; a line's end says whether it lies against any.

use std::collections::HashMap;

use eddymist_measure::drawing::DrawingLines;

use crate::fault::width_of;

const CELL: f64 = 16.0;

/// A place of a line: x, y, half the width, and its role.
type Seen = ([f64; 3], usize);

/// Places of all roles' lines.
pub(crate) struct Around {
    grid: HashMap<(i32, i32), Vec<Seen>>,
    widest: f64,
}

fn cell(v: f64) -> i32 {
    (v / CELL).floor() as i32
}

impl Around {
    pub fn new(lines: &DrawingLines) -> Self {
        let mut grid: HashMap<(i32, i32), Vec<Seen>> = HashMap::new();
        let mut widest = 0.0f64;
        for (role, found) in lines.roles.iter().enumerate() {
            // Where another line lies over it, a line is as wide as it is elsewhere.
            let usual = found.lines.iter().map(|l| (l, width_of(l).unwrap_or(0.0)));
            for (p, usual) in usual.flat_map(|(l, usual)| l.points.iter().map(move |p| (p, usual))) {
                let at = [f64::from(p.x), f64::from(p.y), 0.5 * f64::from(p.width).max(usual)];
                widest = widest.max(at[2]);
                grid.entry((cell(at[0]), cell(at[1]))).or_default().push((at, role));
            }
        }
        Self { grid, widest }
    }

    /// Whether a line of another role begins within `reach` px of a place.
    pub fn other(&self, role: usize, (x, y): (f64, f64), reach: f64) -> bool {
        let far = reach + self.widest.min(200.0);
        let cells = (cell(y - far)..=cell(y + far)).flat_map(|j| (cell(x - far)..=cell(x + far)).map(move |i| (i, j)));
        cells.filter_map(|c| self.grid.get(&c)).flatten().any(|(p, r)| *r != role && (p[0] - x).hypot(p[1] - y) < p[2] + reach)
    }
}
