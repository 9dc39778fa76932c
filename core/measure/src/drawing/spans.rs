//! Pixels of one kind that hang together, as runs: ink also over corners, paper only above sides, so that one is the border of the other.
//!
//! How: union-find over the runs of neighbouring rows. Limits: a picture of up to 2³² pixels.

use petgraph::unionfind::UnionFind;

use super::ink::Pixel;

/// A run of pixels of one kind: `x0..x1` in row `y`.
#[derive(Debug, Clone, Copy)]
pub(super) struct Span {
    pub y: u32,
    pub x0: u32,
    pub x1: u32,
}

/// Spans of one kind with the number of the piece that each is in.
pub(super) struct Spans {
    pub spans: Vec<Span>,
    pub number: Vec<u32>,
    pub count: usize,
    /// Where each row's spans begin.
    rows: Vec<usize>,
}

impl Spans {
    /// All that fulfils a condition, hanging together over corners or only above sides.
    pub(super) fn new(width: usize, pixels: &[Pixel], is: impl Fn(u8) -> bool, corners: bool) -> Self {
        let (mut spans, mut rows): (Vec<Span>, Vec<usize>) = (Vec::new(), vec![0]);
        for (y, row) in pixels.chunks_exact(width).enumerate() {
            let mut x = 0;
            while x < width {
                let here = is(row[x].coverage);
                let end = row[x..].iter().position(|p| is(p.coverage) != here).map_or(width, |k| x + k);
                if here {
                    spans.push(Span { y: y as u32, x0: x as u32, x1: end as u32 });
                }
                x = end;
            }
            rows.push(spans.len());
        }
        let reach = u32::from(corners);
        let mut joined = UnionFind::<u32>::new(spans.len());
        for y in 1..rows.len() - 1 {
            let mut k = rows[y - 1];
            for i in rows[y]..rows[y + 1] {
                let s = spans[i];
                while k < rows[y] && spans[k].x1 + reach <= s.x0 {
                    k += 1;
                }
                for j in (k..rows[y]).take_while(|j| spans[*j].x0 < s.x1 + reach) {
                    joined.union(i as u32, j as u32);
                }
            }
        }
        // Pieces are numbered in the order in which their first spans are met.
        let (mut of_root, mut count) = (vec![u32::MAX; spans.len()], 0);
        let number = (0..spans.len() as u32)
            .map(|i| {
                let root = &mut of_root[joined.find_mut(i) as usize];
                if *root == u32::MAX {
                    *root = count;
                    count += 1;
                }
                *root
            })
            .collect();
        Self { spans, number, count: count as usize, rows }
    }

    /// The piece at a pixel.
    pub fn piece(&self, x: i64, y: i64) -> Option<u32> {
        let y = usize::try_from(y).ok().filter(|y| y + 1 < self.rows.len())?;
        let row = &self.spans[self.rows[y]..self.rows[y + 1]];
        let k = row.partition_point(|s| i64::from(s.x1) <= x);
        row.get(k).filter(|s| i64::from(s.x0) <= x).map(|_| self.number[self.rows[y] + k])
    }
}
