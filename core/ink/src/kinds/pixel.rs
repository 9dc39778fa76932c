//! One pixel of the drawing: a course on its grid, aliased, each pixel touching the next by a side or a corner and no more.
//!
//! How: the pixels that the course passes, a doubled corner taken out. Limits: no width, no dynamics.

use crate::outline::{Outline, Path};

/// Most pixels of one stroke.
const MOST: i64 = 4_000_000;

/// The drawing's grid: pixel (0, 0) has its corner at the page's origin.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Grid {
    pub px_per_mm: f64,
    /// The page point, mm, at the corner of pixel (0, 0).
    pub origin_mm: [f64; 2],
}

impl Grid {
    fn pixel(&self, p: [f64; 2]) -> [i64; 2] {
        [0, 1].map(|k| ((p[k] - self.origin_mm[k]) * self.px_per_mm).floor() as i64)
    }

    /// The pixels of a course, in order: straight steps between samples (Bresenham, "Algorithm for computer control of a
    /// digital plotter", IBM Systems Journal 4, 1965), and no doubled corner: a pixel whose neighbours touch one another
    /// already is left out.
    pub fn course(&self, places: impl Iterator<Item = [f64; 2]>) -> Vec<[i64; 2]> {
        let mut out: Vec<[i64; 2]> = Vec::new();
        let mut put = |p: [i64; 2]| {
            if out.last() == Some(&p) {
                return;
            }
            if let [.., a, b] = out[..]
                && (a[0] - p[0]).abs() == 1
                && (a[1] - p[1]).abs() == 1
                && (b[0] == a[0] || b[1] == a[1])
            {
                out.pop();
            }
            out.push(p);
        };
        let mut last: Option<[i64; 2]> = None;
        for p in places {
            let to = self.pixel(p);
            let Some(from) = last.replace(to) else {
                put(to);
                continue;
            };
            let (dx, dy) = ((to[0] - from[0]).abs(), -(to[1] - from[1]).abs());
            if dx - dy > MOST {
                put(to);
                continue;
            }
            let step = [0, 1].map(|k| (to[k] - from[k]).signum());
            let (mut at, mut error) = (from, dx + dy);
            while at != to {
                let twice = 2 * error;
                if twice >= dy {
                    error += dy;
                    at[0] += step[0];
                }
                if twice <= dx {
                    error += dx;
                    at[1] += step[1];
                }
                put(at);
            }
        }
        out
    }

    fn corner(&self, x: i64, y: i64) -> [f64; 2] {
        [x as f64 / self.px_per_mm + self.origin_mm[0], y as f64 / self.px_per_mm + self.origin_mm[1]]
    }
}

/// The pixels as an outline: neighbours in a row joined.
pub(crate) fn squares(grid: &Grid, pixels: &[[i64; 2]]) -> Outline {
    let mut by_row: Vec<[i64; 2]> = pixels.iter().map(|[x, y]| [*y, *x]).collect();
    by_row.sort_unstable();
    by_row.dedup();
    let mut paths: Vec<Path> = Vec::new();
    let mut i = 0;
    while i < by_row.len() {
        let [y, x] = by_row[i];
        let mut end = x;
        while i + 1 < by_row.len() && by_row[i + 1] == [y, end + 1] {
            i += 1;
            end += 1;
        }
        i += 1;
        paths.push(vec![grid.corner(x, y), grid.corner(end + 1, y), grid.corner(end + 1, y + 1), grid.corner(x, y + 1)]);
    }
    Outline::united(paths)
}
