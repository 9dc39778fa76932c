//! Outline to coverage: the exact area of ink in every pixel, by accumulating signed trapezoids along each row.
//!
//! Outlines have no overlap, so signed area is coverage. Common practice in font rasterisers, no single source.

use crate::outline::Outline;

/// Coverage 0…1 of every pixel, row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Coverage {
    pub width: usize,
    pub height: usize,
    pub data: Vec<f32>,
}

/// Draws an outline at `px_per_mm` with the page point `origin_mm` at the picture's top left corner.
pub fn rasterise(outline: &Outline, px_per_mm: f64, origin_mm: [f64; 2], width: usize, height: usize) -> Coverage {
    let stride = width + 2;
    let mut acc = vec![0.0f32; stride * height];
    for path in &outline.paths {
        let n = path.len();
        for i in 0..n {
            let to_px = |p: [f64; 2]| [(p[0] - origin_mm[0]) * px_per_mm, (p[1] - origin_mm[1]) * px_per_mm];
            edge(&mut acc, stride, width, height, to_px(path[i]), to_px(path[(i + 1) % n]));
        }
    }
    let mut data = vec![0.0f32; width * height];
    for (row, out) in acc.chunks(stride).zip(data.chunks_mut(width.max(1))) {
        let mut sum = 0.0f32;
        for (a, o) in row.iter().zip(out.iter_mut()) {
            sum += a;
            *o = sum.abs().min(1.0);
        }
    }
    Coverage { width, height, data }
}

/// Adds one edge's signed trapezoids. Left of the picture it counts as on its border; right of it, not at all.
fn edge(acc: &mut [f32], stride: usize, width: usize, height: usize, p: [f64; 2], q: [f64; 2]) {
    if p[1] == q[1] {
        return;
    }
    let (sign, top, bottom) = if p[1] < q[1] { (1.0, p, q) } else { (-1.0, q, p) };
    let slope = (bottom[0] - top[0]) / (bottom[1] - top[1]);
    let (y0, y1) = (top[1].max(0.0), bottom[1].min(height as f64));
    if y0 >= y1 {
        return;
    }
    for row in y0 as usize..(y1.ceil() as usize).min(height) {
        let (a, b) = (y0.max(row as f64), y1.min(row as f64 + 1.0));
        let dy = b - a;
        if dy <= 0.0 {
            continue;
        }
        let limit = width as f64;
        let xa = (top[0] + (a - top[1]) * slope).clamp(0.0, limit);
        let xb = (top[0] + (b - top[1]) * slope).clamp(0.0, limit);
        let (x0, x1) = if xa < xb { (xa, xb) } else { (xb, xa) };
        span(&mut acc[row * stride..(row + 1) * stride], x0, x1, sign * dy);
    }
}

/// Spreads the signed height `h` of an edge that runs from x0 to x1 within one row.
fn span(row: &mut [f32], x0: f64, x1: f64, h: f64) {
    let (first, last) = (x0.floor() as usize, x1.floor() as usize);
    if first == last {
        let right_of = 0.5 * (x0 + x1) - first as f64;
        row[first] += (h * (1.0 - right_of)) as f32;
        row[first + 1] += (h * right_of) as f32;
        return;
    }
    let per_px = h / (x1 - x0);
    // Coverage to the right of the edge, pixel by pixel; what is stored is its change from one pixel to the next.
    let mut before = 0.0;
    for (x, cell) in row.iter_mut().enumerate().take(last + 1).skip(first) {
        let (l, r) = (x0.max(x as f64), x1.min(x as f64 + 1.0));
        let crossed = (r - l) * per_px;
        let covered = (l - x0) * per_px + crossed * (x as f64 + 1.0 - 0.5 * (l + r));
        *cell += (covered - before) as f32;
        before = covered;
    }
    row[last + 1] += (h - before) as f32;
}
