//! The drawing's coverage as a plane: how much paper lies between two places, and which region closing them would part.
//!
//! How: coverage read linearly between pixels; paper is filled from both sides of the closing line in turns. Limits: paper is what is less than
//! half covered.

use super::ink::{HALF, Pixel};
use crate::bilinear::anywhere;

/// The smaller of the two regions that closing would part: pixels of a box.
#[derive(Debug, Clone, PartialEq)]
pub struct Region {
    pub x: usize,
    pub y: usize,
    pub width: usize,
    pub inside: Vec<bool>,
}

/// Which pixels a flood has come to, told from those of the floods before it by their number.
pub(super) struct Flood {
    pub seen: Vec<u32>,
    pub run: u32,
}

pub(super) struct Plane<'a> {
    pub width: usize,
    pub height: usize,
    pub pixels: &'a [Pixel],
}

impl Plane<'_> {
    pub fn coverage(&self, x: f64, y: f64) -> f64 {
        anywhere([x, y], |i, j| {
            let inside = i >= 0 && j >= 0 && (i as usize) < self.width && (j as usize) < self.height;
            if inside { f64::from(self.pixels[j as usize * self.width + i as usize].coverage) / 255.0 } else { 0.0 }
        })
    }

    /// Paper along the way from a tip to the middle of what it faces, px.
    pub fn paper_between(&self, a: [f64; 2], b: [f64; 2]) -> f64 {
        const STEP: f64 = 0.25;
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let d = dx.hypot(dy);
        let n = (d / STEP).ceil().max(1.0);
        (0..n as usize).map(|k| 1.0 - self.coverage(a[0] + dx * (k as f64 + 0.5) / n, a[1] + dy * (k as f64 + 0.5) / n)).sum::<f64>() * d / n
    }

    /// The least paper between two ends: a line's last places lie a little beside its middle, and caps are round.
    pub fn narrowest(&self, a: [f64; 2], b: [f64; 2], aside: f64) -> ([f64; 2], [f64; 2], f64) {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let d = dx.hypot(dy).max(1e-9);
        let moved = |p: [f64; 2], k: i32| [p[0] - dy / d * aside * f64::from(k) / 3.0, p[1] + dx / d * aside * f64::from(k) / 3.0];
        let ways = (-3..=3).flat_map(|i| (-3..=3).map(move |j| (moved(a, i), moved(b, j))));
        let found = ways.map(|(p, q)| (p, q, self.paper_between(p, q))).min_by(|x, y| x.2.total_cmp(&y.2));
        found.unwrap_or((a, b, self.paper_between(a, b)))
    }

    /// The smaller region once the way from `a` to `b` is closed; none where paper still hangs together about it.
    ///
    /// Paper is filled from both sides of the closing line in turns: the side that is full first is the smaller one.
    pub fn parted(&self, a: [f64; 2], b: [f64; 2], flood: &mut Flood) -> Option<Region> {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let d = dx.hypot(dy).max(1e-9);
        let (ux, uy) = (dx / d, dy / d);
        // The closing line is drawn two pixels wide, a little into the ink on either side.
        let (left, right) = (a[0].min(b[0]) as i64 - 4, a[0].max(b[0]) as i64 + 4);
        let (top, bottom) = (a[1].min(b[1]) as i64 - 4, a[1].max(b[1]) as i64 + 4);
        let barred = |x: i64, y: i64| {
            if x < left || x > right || y < top || y > bottom {
                return false;
            }
            let (px, py) = (x as f64 + 0.5 - a[0], y as f64 + 0.5 - a[1]);
            let (along, across) = (px * ux + py * uy, (px * uy - py * ux).abs());
            across <= 1.0 && along > -2.0 && along < d + 2.0
        };
        let free = |x: i64, y: i64| {
            x >= 0
                && y >= 0
                && (x as usize) < self.width
                && (y as usize) < self.height
                && self.pixels[y as usize * self.width + x as usize].coverage < HALF
                && !barred(x, y)
        };
        let seed = |side: f64| {
            (0..11).find_map(|k| {
                // Beside the closing line's middle first, then toward its ends.
                let t = 0.5 + [0.0, 0.1, -0.1, 0.2, -0.2, 0.3, -0.3, 0.4, -0.4, 0.5, -0.5][k];
                (2..5).find_map(|r| {
                    let off = side * (f64::from(r) - 0.4);
                    let p = ((a[0] + dx * t + uy * off).floor() as i64, (a[1] + dy * t - ux * off).floor() as i64);
                    free(p.0, p.1).then_some(p)
                })
            })
        };
        let seeds = [seed(1.0)?, seed(-1.0)?];
        let at = |p: (i64, i64)| p.1 as usize * self.width + p.0 as usize;
        // Two numbers for each flood, one for each side; all lower ones are of earlier floods.
        flood.run += 2;
        let (seen, sides) = (&mut flood.seen, [flood.run - 1, flood.run]);
        (seen[at(seeds[0])], seen[at(seeds[1])]) = (sides[0], sides[1]);
        if at(seeds[0]) == at(seeds[1]) {
            return None;
        }
        let mut fronts = seeds.map(|s| vec![s]);
        let mut filled = seeds.map(|s| vec![s]);
        loop {
            for side in 0..2 {
                let mut next = Vec::new();
                for (x, y) in std::mem::take(&mut fronts[side]) {
                    for p in [(x - 1, y), (x + 1, y), (x, y - 1), (x, y + 1)].into_iter().filter(|p| free(p.0, p.1)) {
                        let mark = &mut seen[at(p)];
                        if *mark < sides[0] {
                            *mark = sides[side];
                            next.push(p);
                        } else if *mark != sides[side] {
                            return None;
                        }
                    }
                }
                if next.is_empty() {
                    return Some(region(&filled[side]));
                }
                filled[side].extend(&next);
                fronts[side] = next;
            }
        }
    }
}

fn region(pixels: &[(i64, i64)]) -> Region {
    let range = |f: fn(&(i64, i64)) -> i64| pixels.iter().map(f).fold((i64::MAX, i64::MIN), |r, v| (r.0.min(v), r.1.max(v)));
    let ((l, r), (t, b)) = (range(|p| p.0), range(|p| p.1));
    let (width, height) = ((r - l + 1) as usize, (b - t + 1) as usize);
    let mut inside = vec![false; width * height];
    for (x, y) in pixels {
        inside[(y - t) as usize * width + (x - l) as usize] = true;
    }
    Region { x: l as usize, y: t as usize, width, inside }
}
