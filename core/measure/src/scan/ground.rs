//! The light that paper has about every place of a scan, whatever lights it: a lid's shadow, a fold, a lamp that wavers, or nothing but even
//! light.
//!
//! How: tiles give a first estimate (the lighter half's median), grown from the lightest so that ink is none; then the mean of what is paper
//! by it, in cells some way from any ink: a plane through as many about a place as are needed to have some, and read between them.
//! Limits: a shadow as sharp as ink is ink; where no paper is within sixty cells the lightest there stands in. Common practice, no source.

use rayon::prelude::*;

/// Side of a cell, px, and of a tile, cells.
const CELL: usize = 8;
const TILE: usize = 8;
/// A tile that is so much darker than a neighbour is under ink, not in a shadow.
const SHADOW: f32 = 0.72;
/// From one strip of a cell's width to the next a shadow's edge falls by no more than this.
const FADES: f32 = 0.84;
/// What absorbs more than this share of the paper's light is ink, or so many times the grain.
const INK: f32 = 0.07;
const GRAINS: f32 = 5.0;
/// Half the sides, in cells, over which paper is averaged: the first that holds [`ENOUGH`] cells of paper.
const REACH: [usize; 6] = [2, 3, 5, 9, 20, 60];
const ENOUGH: f64 = 9.0;
/// Ink is looked for as far beyond a cell, px: an edge's foot is no paper.
const MARGIN: usize = 3;
/// So many pixels of a cell may be darker than paper.
const FLECK: u32 = 2;
/// In the first round what absorbs more than this is ink.
const ROUGHLY: f32 = 0.2;
/// Weight on flat in a plane's slopes, cells².
const FLAT: f64 = 0.2;

/// Paper's light by cells.
pub(super) struct Ground {
    columns: usize,
    rows: usize,
    width: usize,
    /// One number a cell, at its middle.
    light: Vec<f32>,
}

impl Ground {
    pub(super) fn new(light: &[f32], w: usize, h: usize, on_page: &(dyn Fn(f64, f64) -> bool + Sync)) -> Self {
        let (columns, rows) = (w.div_ceil(CELL), h.div_ceil(CELL));
        let first = tiles(light, w, h, on_page);
        let grain = grain(light, w, h, &first);
        let mut paper: Vec<f32> = (0..rows * columns).into_par_iter().map(|i| first.at(i % columns, i / columns)).collect();
        // A tile's light is a rough guess where a shadow falls through it: what it leaves is judged again by the cells'.
        for threshold in [ROUGHLY, INK.max(GRAINS * grain).min(0.25)] {
            let clean = clean(light, [w, h], [columns, rows], &paper, threshold, on_page);
            let sums = Sums::new(&clean, columns, rows);
            paper = (0..rows * columns)
                .into_par_iter()
                .map(|i| REACH.iter().find_map(|r| sums.about(i % columns, i / columns, *r)).unwrap_or(paper[i]).max(0.02))
                .collect();
        }
        Self { columns, rows, width: w, light: paper }
    }

    /// Paper's light along a row of pixels.
    pub(super) fn row(&self, y: usize) -> impl Iterator<Item = f32> + '_ {
        let (a, b, v) = between(y, self.rows);
        let mix = move |c: usize| {
            let (top, low) = (self.light[a * self.columns + c], self.light[b * self.columns + c]);
            top + (low - top) * v
        };
        let mut last = (usize::MAX, 0.0, 0.0);
        (0..self.width).map(move |x| {
            let (l, r, u) = between(x, self.columns);
            if last.0 != l {
                last = (l, mix(l), mix(r));
            }
            last.1 + (last.2 - last.1) * u
        })
    }

    /// How much darker the darkest paper is than the lightest, as a share; the darkest and the lightest hundredth left out.
    pub(super) fn shading(&self, on_page: &(dyn Fn(f64, f64) -> bool + Sync)) -> f64 {
        let at = |i: usize| (((i % self.columns) * CELL + CELL / 2) as f64, ((i / self.columns) * CELL + CELL / 2) as f64);
        let mut seen: Vec<f32> = self.light.iter().enumerate().filter(|(i, _)| on_page(at(*i).0, at(*i).1)).map(|(_, l)| *l).collect();
        if seen.is_empty() {
            return 0.0;
        }
        seen.sort_by(f32::total_cmp);
        let (low, high) = (seen[seen.len() / 100], seen[seen.len() - 1 - seen.len() / 100]);
        f64::from(1.0 - low / high).clamp(0.0, 1.0)
    }
}

/// Which two cells a pixel lies between, and how far from the first to the second.
fn between(pixel: usize, cells: usize) -> (usize, usize, f32) {
    let at = ((pixel as f32 + 0.5) / CELL as f32 - 0.5).clamp(0.0, (cells - 1) as f32);
    let k = at as usize;
    (k, (k + 1).min(cells - 1), at - k as f32)
}

/// The first estimate by tiles.
struct Tiles {
    columns: usize,
    rows: usize,
    light: Vec<f32>,
}

impl Tiles {
    /// At a cell, read between tiles.
    fn at(&self, cx: usize, cy: usize) -> f32 {
        let place = |c: usize, n: usize| {
            let at = ((c as f32 + 0.5) / TILE as f32 - 0.5).clamp(0.0, (n - 1) as f32);
            (at as usize, (at as usize + 1).min(n - 1), at.fract())
        };
        let ((l, r, u), (a, b, v)) = (place(cx, self.columns), place(cy, self.rows));
        let at = |x: usize, y: usize| self.light[y * self.columns + x];
        let (top, low) = (at(l, a) + (at(r, a) - at(l, a)) * u, at(l, b) + (at(r, b) - at(l, b)) * u);
        (top + (low - top) * v).max(0.02)
    }
}

fn tiles(light: &[f32], w: usize, h: usize, on_page: &(dyn Fn(f64, f64) -> bool + Sync)) -> Tiles {
    let side = CELL * TILE;
    let (columns, rows) = (w.div_ceil(side), h.div_ceil(side));
    // On large scans every fourth row and column of a tile tells as much.
    let every = if w * h > 8_000_000 { 4 } else { 2 };
    let seen: Vec<Option<f32>> = (0..rows * columns)
        .into_par_iter()
        .map(|i| {
            let (x0, y0) = (i % columns * side, i / columns * side);
            if !on_page((x0 + side / 2) as f64, (y0 + side / 2) as f64) {
                return None;
            }
            let mut v: Vec<f32> = Vec::with_capacity(side * side / (every * every));
            for y in (y0..(y0 + side).min(h)).step_by(every) {
                v.extend(light[y * w..][x0..(x0 + side).min(w)].iter().step_by(every));
            }
            // The median of the lighter half: paper, wherever lines cover less than half of the tile.
            let at = v.len() * 3 / 4;
            (at < v.len()).then(|| *v.select_nth_unstable_by(at, f32::total_cmp).1)
        })
        .collect();
    // From the lightest on: a neighbour that is not much darker is paper too.
    let mut order: Vec<usize> = (0..seen.len()).filter(|i| seen[*i].is_some()).collect();
    order.sort_by(|a, b| seen[*b].unwrap_or(0.0).total_cmp(&seen[*a].unwrap_or(0.0)));
    let lightest = order.get(order.len() / 50).and_then(|i| seen[*i]).unwrap_or(1.0);
    let mut paper = vec![false; seen.len()];
    let mut front: Vec<usize> = order.into_iter().filter(|i| seen[*i].is_some_and(|v| v > 0.9 * lightest)).collect();
    front.iter().for_each(|i| paper[*i] = true);
    while let Some(i) = front.pop() {
        let (x, y) = (i % columns, i / columns);
        for (nx, ny) in [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)] {
            if nx >= columns || ny >= rows || paper[ny * columns + nx] {
                continue;
            }
            let near = seen[ny * columns + nx].zip(seen[i]).is_some_and(|(n, own)| n > SHADOW * own);
            if near || seen[ny * columns + nx].is_some() && fades(light, [w, h], [x, y], [nx, ny]) {
                paper[ny * columns + nx] = true;
                front.push(ny * columns + nx);
            }
        }
    }
    // The others take what their neighbours have, ring by ring.
    let mut out: Vec<Option<f32>> = seen.iter().zip(&paper).map(|(v, p)| v.filter(|_| *p)).collect();
    while out.iter().any(Option::is_none) && out.iter().any(Option::is_some) {
        let before = out.clone();
        for i in (0..out.len()).filter(|i| before[*i].is_none()) {
            let (x, y) = (i % columns, i / columns);
            let around = (y.saturating_sub(1)..=(y + 1).min(rows - 1)).flat_map(|v| (x.saturating_sub(1)..=(x + 1).min(columns - 1)).map(move |u| (u, v)));
            let known: Vec<f32> = around.filter_map(|(u, v)| before[v * columns + u]).collect();
            out[i] = (!known.is_empty()).then(|| known.iter().sum::<f32>() / known.len() as f32);
        }
    }
    Tiles { columns, rows, light: out.into_iter().map(|v| v.unwrap_or(lightest)).collect() }
}

/// Whether the light falls off from one tile to the next step by step, as a shadow's edge does and ink's does not: strips of a cell's width
/// across both tiles, each by the median of its lighter half.
fn fades(light: &[f32], [w, h]: [usize; 2], [x, y]: [usize; 2], [nx, ny]: [usize; 2]) -> bool {
    let side = CELL * TILE;
    let along = nx != x;
    let (from, to) = if along { (x.min(nx) * side, (x.max(nx) + 1) * side) } else { (y.min(ny) * side, (y.max(ny) + 1) * side) };
    let across = if along { y * side..((y + 1) * side).min(h) } else { x * side..((x + 1) * side).min(w) };
    let to = to.min(if along { w } else { h });
    let strips: Vec<f32> = (from..to)
        .step_by(CELL)
        .filter_map(|s| {
            let strip = s..(s + CELL).min(to);
            let (xs, ys) = if along { (strip, across.clone()) } else { (across.clone(), strip) };
            let mut v: Vec<f32> = ys.flat_map(|y| light[y * w + xs.start..y * w + xs.end].iter().step_by(2).copied()).collect();
            let at = v.len() * 3 / 4;
            (at < v.len()).then(|| *v.select_nth_unstable_by(at, f32::total_cmp).1)
        })
        .collect();
    strips.windows(2).all(|s| s[0].min(s[1]) > FADES * s[0].max(s[1]))
}

/// Standard deviation of the paper's grain, a share of its light: the median size of what neighbours in a row differ by.
fn grain(light: &[f32], w: usize, h: usize, first: &Tiles) -> f32 {
    let step = (w * h / 100_000).max(1);
    let mut found: Vec<f32> = (0..w * h - 1)
        .step_by(step)
        .filter(|i| i % w + 1 < w)
        .filter_map(|i| {
            let paper = first.at(i % w / CELL, i / w / CELL);
            let (a, b) = (light[i] / paper, light[i + 1] / paper);
            (a > 0.75 && b > 0.75).then(|| (a - b).abs())
        })
        .collect();
    if found.is_empty() {
        return 0.0;
    }
    let middle = found.len() / 2;
    // Of a difference of two normal values; neighbours share some of the scanner's blur.
    *found.select_nth_unstable_by(middle, f32::total_cmp).1 / 0.6745 / std::f32::consts::SQRT_2 * 1.5
}

/// Every cell's mean light where it is paper, some way from any ink; none where it is not. `paper` is what paper has there, roughly.
fn clean(
    light: &[f32],
    [w, h]: [usize; 2],
    [columns, rows]: [usize; 2],
    paper: &[f32],
    threshold: f32,
    on_page: &(dyn Fn(f64, f64) -> bool + Sync),
) -> Vec<Option<f32>> {
    (0..rows * columns)
        .into_par_iter()
        .map(|i| {
            let (x0, y0) = (i % columns * CELL, i / columns * CELL);
            if !on_page((x0 + CELL / 2) as f64, (y0 + CELL / 2) as f64) {
                return None;
            }
            let (mut sum, mut n, mut ink) = (0.0f32, 0u32, 0u32);
            for y in y0.saturating_sub(MARGIN)..(y0 + CELL + MARGIN).min(h) {
                for l in &light[y * w + x0.saturating_sub(MARGIN)..y * w + (x0 + CELL + MARGIN).min(w)] {
                    ink += u32::from(1.0 - l / paper[i] > threshold);
                }
            }
            // A fleck is the paper's.
            if ink > FLECK {
                return None;
            }
            for y in y0..(y0 + CELL).min(h) {
                for l in &light[y * w + x0..y * w + (x0 + CELL).min(w)] {
                    (sum, n) = (sum + l, n + 1);
                }
            }
            Some(sum / n as f32)
        })
        .collect()
}

/// Sums over rectangles of cells: how many, their places and their light, and the products of these.
struct Sums {
    columns: usize,
    rows: usize,
    table: Vec<[f64; TERMS]>,
}

/// 1, x, y, xx, xy, yy, l, lx, ly.
const TERMS: usize = 9;

impl Sums {
    fn new(cells: &[Option<f32>], columns: usize, rows: usize) -> Self {
        let mut table = vec![[0.0; TERMS]; (columns + 1) * (rows + 1)];
        for y in 0..rows {
            let mut row = [0.0; TERMS];
            for x in 0..columns {
                if let Some(l) = cells[y * columns + x] {
                    let (u, v, l) = (x as f64, y as f64, f64::from(l));
                    let terms = [1.0, u, v, u * u, u * v, v * v, l, l * u, l * v];
                    row.iter_mut().zip(terms).for_each(|(r, t)| *r += t);
                }
                let above = table[y * (columns + 1) + x + 1];
                table[(y + 1) * (columns + 1) + x + 1] = std::array::from_fn(|k| row[k] + above[k]);
            }
        }
        Self { columns, rows, table }
    }

    /// The light at a cell by the plane through those no more than `reach` away; none where they are too few to say.
    fn about(&self, cx: usize, cy: usize, reach: usize) -> Option<f32> {
        let (x0, y0) = (cx.saturating_sub(reach), cy.saturating_sub(reach));
        let (x1, y1) = ((cx + reach + 1).min(self.columns), (cy + reach + 1).min(self.rows));
        let at = |x: usize, y: usize| &self.table[y * (self.columns + 1) + x];
        let (a, b, c, d) = (at(x0, y0), at(x1, y0), at(x0, y1), at(x1, y1));
        let [n, x, y, xx, xy, yy, l, lx, ly]: [f64; TERMS] = std::array::from_fn(|k| d[k] - b[k] - c[k] + a[k]);
        if n < ENOUGH {
            return None;
        }
        // About the cell itself, with a little weight on flat.
        let (u, v) = (cx as f64, cy as f64);
        let (mx, my, ml) = (x / n - u, y / n - v, l / n);
        let (sxx, sxy, syy) = (xx / n - (x / n).powi(2) + FLAT, xy / n - x * y / (n * n), yy / n - (y / n).powi(2) + FLAT);
        let (slx, sly) = (lx / n - ml * x / n, ly / n - ml * y / n);
        let det = sxx * syy - sxy * sxy;
        let (gx, gy) = ((slx * syy - sly * sxy) / det, (sly * sxx - slx * sxy) / det);
        let light = ml - gx * mx - gy * my;
        // What lies all to one side says little of how it goes on.
        (light > 0.7 * ml && light < 1.4 * ml).then_some(light as f32)
    }
}
