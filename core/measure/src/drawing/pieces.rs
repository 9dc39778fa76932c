//! Ink that hangs together, from runs of mask pixels: diagonals touch, roles are kept apart.
//!
//! How: union-find over runs of neighbouring rows, one pass. Limits: runs come row by row, left to right.

use petgraph::unionfind::UnionFind;

use super::ink::{Ink, Run};

/// A connected piece of one role's ink (diagonals touch).
#[derive(Debug, Clone, Copy)]
pub struct Piece {
    pub x0: u32,
    pub y0: u32,
    /// One past the last.
    pub x1: u32,
    pub y1: u32,
    pub pixels: u32,
    /// Greatest squared distance to the outside, px².
    pub inside2: u16,
}

impl Piece {
    pub fn width(&self) -> f64 {
        f64::from(self.x1 - self.x0)
    }

    pub fn height(&self) -> f64 {
        f64::from(self.y1 - self.y0)
    }

    /// Width in px of the widest disc that lies in it.
    pub fn inscribed(&self) -> f64 {
        2.0 * f64::from(self.inside2).sqrt() - 1.0
    }
}

/// The pieces, and the number of the piece that each run is in. Runs come row by row, left to right.
pub fn find(ink: &Ink, runs: &[Run]) -> (Vec<Piece>, Vec<u32>) {
    let mut joined = UnionFind::<u32>::new(runs.len());
    let (mut above, mut row_start) = (0..0, 0);
    let mut k = 0;
    for (i, r) in runs.iter().enumerate() {
        if i == 0 || runs[i - 1].y != r.y {
            above = if i > 0 && runs[i - 1].y + 1 == r.y { row_start..i } else { i..i };
            row_start = i;
            k = above.start;
        }
        // Runs above that end left of this one end left of all that follow in its row.
        while k < above.end && runs[k].x1 < r.x0 {
            k += 1;
        }
        for (j, a) in runs.iter().enumerate().take(above.end).skip(k) {
            if a.x0 > r.x1 {
                break;
            }
            if a.role == r.role {
                joined.union(i as u32, j as u32);
            }
        }
    }
    let mut number = vec![u32::MAX; runs.len()];
    let mut pieces: Vec<Piece> = Vec::new();
    for (i, r) in runs.iter().enumerate() {
        let top = joined.find_mut(i as u32) as usize;
        if number[top] == u32::MAX {
            number[top] = pieces.len() as u32;
            pieces.push(Piece { x0: r.x0, y0: r.y, x1: r.x1, y1: r.y + 1, pixels: 0, inside2: 0 });
        }
        number[i] = number[top];
        let row = r.y as usize * ink.width;
        let p = &mut pieces[number[i] as usize];
        (p.x0, p.x1, p.y1) = (p.x0.min(r.x0), p.x1.max(r.x1), r.y + 1);
        p.pixels += r.x1 - r.x0;
        p.inside2 = ink.distance2[row + r.x0 as usize..row + r.x1 as usize].iter().fold(p.inside2, |m, d| m.max(*d));
    }
    (pieces, number)
}

/// The runs in two lots of whole pieces, about as heavy as one another, each in reading order.
pub fn halves(runs: &[Run], pieces: &[Piece], of_run: &[u32]) -> [Vec<Run>; 2] {
    let mut order: Vec<usize> = (0..pieces.len()).collect();
    order.sort_by_key(|&i| std::cmp::Reverse(pieces[i].pixels));
    let (mut second, mut weight) = (vec![false; pieces.len()], [0u64; 2]);
    for i in order {
        second[i] = weight[1] < weight[0];
        weight[usize::from(second[i])] += u64::from(pieces[i].pixels);
    }
    let mut out = [Vec::with_capacity(runs.len()), Vec::with_capacity(runs.len())];
    for (run, piece) in runs.iter().zip(of_run) {
        out[usize::from(second[*piece as usize])].push(*run);
    }
    out
}
