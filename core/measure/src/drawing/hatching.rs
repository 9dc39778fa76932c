//! Which lines are of hatching: groups of short, near-parallel strokes.
//!
//! How: straight strokes of two to forty widths with at least three of their like beside them, within 15° and of like length, looked for in
//! a grid whose cells are as large as the farthest that one may lie. Common practice, no source.

use std::collections::HashMap;

use super::Line;
use crate::stats::median;

/// A stroke of hatching is shorter than so many widths.
const LONGEST: f64 = 40.0;

/// Says of each line of a role whether it is of hatching.
pub(super) fn mark(lines: &mut [Line]) {
    struct Hatch {
        middle: [f64; 2],
        way: [f64; 2],
        length: f64,
    }
    let widths: Vec<f64> = lines.iter().filter_map(|l| median(&l.points.iter().map(|p| f64::from(p.width)).collect::<Vec<_>>())).collect();
    let Some(target) = median(&widths) else { return };
    let strokes: Vec<Option<Hatch>> = lines
        .iter()
        .map(|l| {
            let (a, b) = (l.points.first()?, l.points.last()?);
            let (dx, dy) = (f64::from(b.x - a.x), f64::from(b.y - a.y));
            let (chord, length) = (dx.hypot(dy), l.length_px());
            let straight = !l.closed && chord > 0.9 * length && length > 2.0 * target && length < LONGEST * target;
            straight.then(|| Hatch { middle: [0.5 * f64::from(a.x + b.x), 0.5 * f64::from(a.y + b.y)], way: [dx / chord, dy / chord], length })
        })
        .collect();
    let like = |a: &Hatch, b: &Hatch| {
        let (dx, dy) = (b.middle[0] - a.middle[0], b.middle[1] - a.middle[1]);
        let along = (dx * a.way[0] + dy * a.way[1]).abs();
        let across = (dx * a.way[1] - dy * a.way[0]).abs();
        let parallel = (a.way[0] * b.way[0] + a.way[1] * b.way[1]).abs() > 0.966;
        parallel && along < 0.6 * a.length && across < (8.0 * target).max(0.4 * a.length) && (0.4..2.5).contains(&(b.length / a.length))
    };
    // The longest stroke looks so far along itself, and so far aside.
    let reach = (LONGEST * target * 0.6).hypot((8.0 * target).max(0.4 * LONGEST * target)).max(1.0);
    let cell = |m: [f64; 2]| m.map(|v| (v / reach).floor() as i64);
    let mut grid: HashMap<[i64; 2], Vec<usize>> = HashMap::new();
    for (i, s) in strokes.iter().enumerate() {
        if let Some(s) = s {
            grid.entry(cell(s.middle)).or_default().push(i);
        }
    }
    let hatched = |i: usize, s: &Hatch| {
        let [x, y] = cell(s.middle);
        let cells = (x - 1..=x + 1).flat_map(|x| (y - 1..=y + 1).map(move |y| [x, y]));
        let near = cells.filter_map(|c| grid.get(&c)).flatten().filter(|j| **j != i).filter_map(|j| strokes[*j].as_ref());
        near.filter(|o| like(s, o)).nth(2).is_some()
    };
    let hatching: Vec<bool> = strokes.iter().enumerate().map(|(i, s)| s.as_ref().is_some_and(|s| hatched(i, s))).collect();
    lines.iter_mut().zip(hatching).for_each(|(l, h)| l.hatching = h);
}
