//! Pieces by where they lie and how large they are: what looks for its like finds it among hundreds of thousands, whatever else is on the page.
//!
//! How: a grid for each octave of size, whose cells are as large as its own pieces need; one large piece makes no cell large for the small.

use std::collections::BTreeMap;

/// Numbered places by octave of size.
pub(super) struct Octaves {
    grids: BTreeMap<i32, Grid>,
}

/// The places of one octave, cell by cell.
struct Grid {
    side: f64,
    /// The first corner, and cells across and down.
    from: (f64, f64),
    cells: (usize, usize),
    /// Where each cell's places begin.
    starts: Vec<u32>,
    places: Vec<u32>,
}

fn octave(size: f64) -> i32 {
    size.max(1.0).log2().floor() as i32
}

impl Octaves {
    /// Of each its place and its size, and how far it looks.
    pub fn new(of: &[((f64, f64), f64)], reach: impl Fn(usize) -> f64) -> Self {
        let mut octaves: BTreeMap<i32, Vec<u32>> = BTreeMap::new();
        for (k, (_, size)) in of.iter().enumerate() {
            octaves.entry(octave(*size)).or_default().push(k as u32);
        }
        let grid = |own: Vec<u32>| Grid::new(&own, |k| of[k as usize].0, own.iter().map(|k| reach(*k as usize)).fold(1.0, f64::max));
        Self { grids: octaves.into_iter().map(|(o, own)| (o, grid(own))).collect() }
    }

    /// All of at least half and at most twice a size that may lie within `reach` of a place, each once, in no order.
    pub fn near(&self, at: (f64, f64), size: f64, reach: f64) -> impl Iterator<Item = usize> + '_ {
        let own = octave(size);
        self.grids.range(own - 1..=own + 1).flat_map(move |(_, grid)| grid.near(at, reach))
    }
}

impl Grid {
    fn new(own: &[u32], at: impl Fn(u32) -> (f64, f64), reach: f64) -> Self {
        let (mut from, mut to) = ((f64::INFINITY, f64::INFINITY), (f64::NEG_INFINITY, f64::NEG_INFINITY));
        for (x, y) in own.iter().map(|k| at(*k)) {
            (from, to) = ((from.0.min(x), from.1.min(y)), (to.0.max(x), to.1.max(y)));
        }
        // No more cells than a few for each place.
        let room = (to.0 - from.0).max(1.0) * (to.1 - from.1).max(1.0);
        let side = reach.max((room / (4 * own.len() + 16) as f64).sqrt());
        let across = |from: f64, to: f64| ((to - from) / side) as usize + 1;
        let mut out = Self { side, from, cells: (across(from.0, to.0), across(from.1, to.1)), starts: Vec::new(), places: vec![0; own.len()] };
        out.starts = vec![0; out.cells.0 * out.cells.1 + 1];
        for k in own {
            let c = out.cell(at(*k));
            out.starts[c + 1] += 1;
        }
        for c in 1..out.starts.len() {
            out.starts[c] += out.starts[c - 1];
        }
        let mut next = out.starts.clone();
        for k in own {
            let n = &mut next[out.cell(at(*k))];
            out.places[*n as usize] = *k;
            *n += 1;
        }
        out
    }

    fn cell(&self, (x, y): (f64, f64)) -> usize {
        let of = |v: f64, from: f64, cells: usize| (((v - from) / self.side) as usize).min(cells - 1);
        of(y, self.from.1, self.cells.1) * self.cells.0 + of(x, self.from.0, self.cells.0)
    }

    fn near(&self, (x, y): (f64, f64), reach: f64) -> impl Iterator<Item = usize> + '_ {
        let of = |v: f64, from: f64, cells: usize| {
            let first = ((v - reach - from) / self.side).floor().max(0.0) as usize;
            let past = ((v + reach - from) / self.side).floor() + 1.0;
            first.min(cells)..(past.max(0.0) as usize).min(cells)
        };
        let columns = of(x, self.from.0, self.cells.0);
        of(y, self.from.1, self.cells.1).flat_map(move |row| {
            // A row's cells lie one after the other.
            let at = |c: usize| self.starts[row * self.cells.0 + c] as usize;
            let (from, to) = if columns.is_empty() { (0, 0) } else { (at(columns.start), at(columns.end)) };
            self.places[from..to].iter().map(|k| *k as usize)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Whatever lies within reach and is of half to twice the size is among what is found, and nothing is found twice.
        #[test]
        fn nothing_near_is_missed(
            of in prop::collection::vec(((-50.0f64..3000.0, -50.0f64..3000.0), 1.0f64..5000.0), 1..120),
            at in (-200.0f64..3200.0, -200.0f64..3200.0),
            size in 1.0f64..5000.0,
            reach in 0.0f64..800.0,
        ) {
            let found: Vec<usize> = Octaves::new(&of, |k| 4.0 * of[k].1.sqrt()).near(at, size, reach).collect();
            let mut once = found.clone();
            once.sort_unstable();
            once.dedup();
            prop_assert_eq!(once.len(), found.len());
            for (k, (p, s)) in of.iter().enumerate() {
                let near = (p.0 - at.0).hypot(p.1 - at.1) <= reach && *s < 2.0 * size && size < 2.0 * s;
                prop_assert!(!near || found.contains(&k), "{k}");
            }
        }
    }
}
