//! A value between the pixels of a picture, linear along both axes, in 32 bits.

/// At a place in px, pixel centres whole, of whatever `at` gives for the pixels about it, also beyond the border.
#[inline]
pub(crate) fn bilinear(x: f64, y: f64, at: impl Fn(isize, isize) -> f32) -> f32 {
    let (i, j) = (x.floor(), y.floor());
    let (t, u) = ((x - i) as f32, (y - j) as f32);
    let (i, j) = (i as isize, j as isize);
    let row = |j: isize| at(i, j) * (1.0 - t) + at(i + 1, j) * t;
    row(j) * (1.0 - u) + row(j + 1) * u
}
