//! A value between the pixels of a picture.

/// Bilinear at a place in px, pixel centres at .5; none within half a pixel of the border or beyond it.
pub(crate) fn bilinear(data: &[f32], width: usize, height: usize, [x, y]: [f64; 2]) -> Option<f64> {
    let (u, v) = (x - 0.5, y - 0.5);
    if u < 0.0 || v < 0.0 || u >= width.saturating_sub(1) as f64 || v >= height.saturating_sub(1) as f64 {
        return None;
    }
    let (ix, iy) = (u as usize, v as usize);
    let (tx, ty) = (u - ix as f64, v - iy as f64);
    let at = |dx: usize, dy: usize| f64::from(data[(iy + dy) * width + ix + dx]);
    Some((at(0, 0) * (1.0 - tx) + at(1, 0) * tx) * (1.0 - ty) + (at(0, 1) * (1.0 - tx) + at(1, 1) * tx) * ty)
}
