//! A value between the pixels of a picture, linear along both axes.
//!
//! Two others stand by themselves: `scan/profile` reads in 32 bits with a multiplication less, the most frequent step of reading a
//! scan; `drawing/width` in whole numbers, the most frequent one of measuring a drawing.

/// Between four pixels: top left, top right, low left, low right; `t` to the right and `u` down from the first, 0…1.
#[inline]
pub(crate) fn mix([a, b, c, d]: [f64; 4], t: f64, u: f64) -> f64 {
    (a * (1.0 - t) + b * t) * (1.0 - u) + (c * (1.0 - t) + d * t) * u
}

/// At a place in px, pixel centres at .5, of whatever `at` gives for the pixels about it, also beyond the border.
#[inline]
pub(crate) fn anywhere([x, y]: [f64; 2], at: impl Fn(i64, i64) -> f64) -> f64 {
    let (x, y) = (x - 0.5, y - 0.5);
    let (i, j) = (x.floor(), y.floor());
    let (t, u) = (x - i, y - j);
    let (i, j) = (i as i64, j as i64);
    mix([at(i, j), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1)], t, u)
}

/// At a place in px, pixel centres at .5; none within half a pixel of the border or beyond it.
pub(crate) fn inside(data: &[f32], width: usize, height: usize, [x, y]: [f64; 2]) -> Option<f64> {
    let (u, v) = (x - 0.5, y - 0.5);
    if u < 0.0 || v < 0.0 || u >= width.saturating_sub(1) as f64 || v >= height.saturating_sub(1) as f64 {
        return None;
    }
    let (ix, iy) = (u as usize, v as usize);
    let at = |dx: usize, dy: usize| f64::from(data[(iy + dy) * width + ix + dx]);
    Some(mix([at(0, 0), at(1, 0), at(0, 1), at(1, 1)], u - ix as f64, v - iy as f64))
}
