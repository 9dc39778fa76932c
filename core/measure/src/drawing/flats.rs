//! Flats: connected pixels of one colour, or of one that runs slowly into another. Most of a picture is flat; what is not is an edge.
//!
//! How: a pixel is flat where the four beside it differ by at most [`ALIKE`]; flat pixels hang together along rows and between rows (union-
//! find). The side of the largest square that lies in a flat says how wide it is. Colours are premultiplied, so that nothing is a colour
//! like any other. Limits: a line under three pixels has none.

use petgraph::unionfind::UnionFind;

use crate::Picture;

/// Red, green, blue and alpha, premultiplied, 0…255.
pub(super) type Colour = [u8; 4];

/// Neighbours differ by no more than this in any of the four: rounding, and a gradient's steps.
const ALIKE: u8 = 2;
/// The same where a picture was compressed with losses, so that about its edges nothing is even.
const NOISY: u8 = 7;

/// A pixel premultiplied.
pub(super) fn premultiplied(p: [u8; 4]) -> Colour {
    if p[3] == 255 {
        return p;
    }
    let a = u32::from(p[3]);
    let m = |c: u8| ((u32::from(c) * a + 127) / 255) as u8;
    [m(p[0]), m(p[1]), m(p[2]), p[3]]
}

pub(super) fn alike(a: Colour, b: Colour, by: u8) -> bool {
    a.iter().zip(b).all(|(x, y)| x.abs_diff(y) <= by)
}

/// A connected flat.
#[derive(Debug, Clone)]
pub(super) struct Flat {
    pub area: u32,
    /// Side of the largest square in it, px.
    pub square: u16,
    pub mean: [f32; 4],
    pub low: Colour,
    pub high: Colour,
}

impl Flat {
    /// Whether a colour is one that the flat has, or nearly.
    pub(super) fn holds(&self, c: [f32; 4], by: f32) -> bool {
        (0..4).all(|k| c[k] >= f32::from(self.low[k]) - by && c[k] <= f32::from(self.high[k]) + by)
    }
}

/// A run of flat pixels: `x0..x1` in row `y`.
#[derive(Debug, Clone, Copy)]
pub(super) struct FlatRun {
    pub y: u32,
    pub x0: u32,
    pub x1: u32,
    /// Which flat it is of.
    pub flat: u32,
}

/// All flats of a picture, and the runs that they are made of, row by row.
pub(super) struct Flats {
    /// Compressed with losses: nothing is quite even.
    pub noisy: bool,
    pub runs: Vec<FlatRun>,
    pub flats: Vec<Flat>,
}

/// What is summed over a run.
struct Sum {
    area: u32,
    square: u16,
    total: [u64; 4],
    low: Colour,
    high: Colour,
}

/// By how much neighbours in a flat may differ: more than rounding where that makes a good share of the picture flat that is not even.
fn difference(picture: &Picture) -> u8 {
    let (w, h) = (picture.width, picture.height);
    let (mut even, mut nearly, mut all) = (0usize, 0usize, 0usize);
    for y in (1..h.saturating_sub(1)).step_by(5) {
        for x in 1..w.saturating_sub(1) {
            let i = y * w + x;
            let c = premultiplied(picture.pixel(i));
            let most = [i - 1, i + 1, i - w, i + w]
                .into_iter()
                .flat_map(|j| premultiplied(picture.pixel(j)).into_iter().zip(c).map(|(a, b)| a.abs_diff(b)).collect::<Vec<_>>())
                .max()
                .unwrap_or(0);
            (even, nearly, all) = (even + usize::from(most <= ALIKE), nearly + usize::from(most <= NOISY), all + 1);
        }
    }
    if (nearly - even) * 33 > all { NOISY } else { ALIKE }
}

/// The flats; none where there are so many that the picture is grain.
pub(super) fn find(picture: &Picture) -> Option<Flats> {
    let (w, h) = (picture.width, picture.height);
    let row = |y: usize| -> Vec<Colour> { picture.rgba[4 * y * w..4 * (y + 1) * w].as_chunks::<4>().0.iter().map(|p| premultiplied(*p)).collect() };
    let (mut above, mut here) = (Vec::new(), row(0));
    let (mut runs, mut sums): (Vec<FlatRun>, Vec<Sum>) = (Vec::new(), Vec::new());
    let by = difference(picture);
    let mut squares = (vec![0u16; w], vec![0u16; w]);
    let (mut joins, mut above_runs): (Vec<(u32, u32)>, std::ops::Range<usize>) = (Vec::new(), 0..0);
    let most = w * h / 16 + 4096;
    for y in 0..h {
        if runs.len() > most {
            return None;
        }
        let below = if y + 1 < h { row(y + 1) } else { Vec::new() };
        let first = runs.len();
        let (before, now) = (&squares.0, &mut squares.1);
        for x in 0..w {
            let c = here[x];
            let same = |line: &[Colour], x: usize| line.get(x).is_none_or(|d| alike(c, *d, by));
            let left = x == 0 || alike(c, here[x - 1], by);
            if !(left && same(&here, x + 1) && same(&above, x) && same(&below, x)) {
                now[x] = 0;
                continue;
            }
            let beside = if x > 0 { now[x - 1].min(before[x - 1]) } else { 0 };
            now[x] = beside.min(before[x]).saturating_add(1);
            match runs[first..].last_mut().filter(|r| r.x1 as usize == x) {
                Some(r) => r.x1 += 1,
                None => {
                    runs.push(FlatRun { y: y as u32, x0: x as u32, x1: x as u32 + 1, flat: 0 });
                    sums.push(Sum { area: 0, square: 0, total: [0; 4], low: c, high: c });
                }
            }
            if let Some(s) = sums.last_mut() {
                s.area += 1;
                s.square = s.square.max(now[x]);
                for (k, v) in c.into_iter().enumerate() {
                    s.total[k] += u64::from(v);
                    (s.low[k], s.high[k]) = (s.low[k].min(v), s.high[k].max(v));
                }
            }
        }
        // Flat pixels one above the other are alike: that is what flat means.
        let mut k = above_runs.start;
        for i in first..runs.len() {
            while k < above_runs.end && runs[k].x1 <= runs[i].x0 {
                k += 1;
            }
            for j in (k..above_runs.end).take_while(|j| runs[*j].x0 < runs[i].x1) {
                joins.push((i as u32, j as u32));
            }
        }
        above_runs = first..runs.len();
        squares = (squares.1, squares.0);
        (above, here) = (here, below);
    }
    let mut sets = UnionFind::<u32>::new(runs.len());
    for (a, b) in joins {
        sets.union(a, b);
    }
    let mut number = vec![u32::MAX; runs.len()];
    let mut all: Vec<Sum> = Vec::new();
    for (i, s) in sums.into_iter().enumerate() {
        let root = sets.find_mut(i as u32) as usize;
        if number[root] == u32::MAX {
            number[root] = all.len() as u32;
            all.push(s);
        } else {
            let t = &mut all[number[root] as usize];
            (t.area, t.square) = (t.area + s.area, t.square.max(s.square));
            for k in 0..4 {
                t.total[k] += s.total[k];
                (t.low[k], t.high[k]) = (t.low[k].min(s.low[k]), t.high[k].max(s.high[k]));
            }
        }
        runs[i].flat = number[root];
    }
    let flats = all
        .into_iter()
        .map(|s| Flat { area: s.area, square: s.square, mean: s.total.map(|t| (t as f64 / f64::from(s.area)) as f32), low: s.low, high: s.high })
        .collect();
    Some(Flats { noisy: by == NOISY, runs, flats })
}
