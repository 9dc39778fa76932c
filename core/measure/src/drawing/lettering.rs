//! Rows of letters: five or more compact pieces of about one height side by side, winding as letters do and not all alike.
//!
//! Common practice, no source. Limits: writing in one stroke, and rows that are not level.

use std::collections::BTreeMap;

use petgraph::unionfind::UnionFind;

use super::{octaves::Octaves, pieces::Piece};

/// Rows of letters.
pub(super) fn rows(pieces: &[Piece], page_height: usize) -> Vec<Vec<usize>> {
    // A straight stroke's area is its width by its length: a letter winds, and has more.
    let winding = |p: &Piece| f64::from(p.pixels) / (p.inscribed().max(1.0) * p.width().hypot(p.height()));
    let letters: Vec<usize> = (0..pieces.len())
        .filter(|&i| {
            let p = &pieces[i];
            let (long, stroke) = (p.width().max(p.height()), p.inscribed().max(1.0));
            (3.0..=20.0).contains(&(long / stroke)) && p.height() >= 6.0 && p.width() < 3.0 * p.height() && p.height() < page_height as f64 / 8.0
        })
        .collect();
    let linked = |i: usize, j: usize| {
        let (a, b) = (&pieces[i], &pieces[j]);
        let (low, high) = (a.height().min(b.height()), a.height().max(b.height()));
        let shared = f64::from(a.y1.min(b.y1)) - f64::from(a.y0.max(b.y0));
        let gap = f64::from(a.x0.max(b.x0)) - f64::from(a.x1.min(b.x1));
        high < 2.0 * low && shared > 0.6 * low && gap < 0.8 * high && gap > -0.3 * low
    };
    // The next in a row begins no farther than this to the right, and up or down.
    let reach = |i: usize| pieces[i].width() + 2.0 * pieces[i].height();
    let places: Vec<((f64, f64), f64)> = letters.iter().map(|&i| ((f64::from(pieces[i].x0), f64::from(pieces[i].y0)), pieces[i].height())).collect();
    let grid = Octaves::new(&places, |k| reach(letters[k]));
    let mut sets = UnionFind::<usize>::new(letters.len());
    for (k, &i) in letters.iter().enumerate() {
        for m in grid.near(places[k].0, places[k].1, reach(i)).filter(|m| *m != k && linked(i, letters[*m])) {
            sets.union(k, m);
        }
    }
    // From left to right, and in the order of their first pieces.
    let label = sets.into_labeling();
    let mut groups: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    letters.iter().zip(label).for_each(|(i, set)| groups.entry(set).or_default().push(*i));
    groups.values_mut().for_each(|g| g.sort_by_key(|i| (pieces[*i].x0, *i)));
    let mut rows: Vec<Vec<usize>> = groups.into_values().collect();
    rows.sort_by_key(|g| (pieces[g[0]].x0, g[0]));
    rows.retain(|g| {
        let wound: Vec<f64> = g.iter().map(|&i| winding(&pieces[i])).collect();
        let widths: Vec<f64> = g.iter().map(|&i| pieces[i].width()).collect();
        let many = wound.iter().filter(|w| **w > 1.3).count();
        // Strokes of hatching stand in rows too, but straight; a row of rivets, but all alike.
        g.len() >= 5 && 2 * many >= g.len() && crate::stats::mean_sd(&widths).is_some_and(|(m, sd)| sd > 0.12 * m)
    });
    rows
}
