//! What drawings are made of: lines along points with their width, bows, rings and tapers.
//!
//! How: the envelope of round nibs along the points. Limits: a width under 0.2 px is drawn as 0.2 px.

use eddymist_ink::{
    Outline,
    envelope::{NibPlacement, envelope},
};

/// A line along points a pixel or so apart; the width by the distance from both ends, px.
pub(crate) fn stroke(points: &[[f64; 2]], width: impl Fn(f64, f64) -> f64) -> Outline {
    let mut way = vec![0.0];
    for p in points.windows(2) {
        way.push(way[way.len() - 1] + (p[1][0] - p[0][0]).hypot(p[1][1] - p[0][1]));
    }
    let total = way[way.len() - 1];
    let nibs: Vec<NibPlacement> = points
        .iter()
        .zip(&way)
        .map(|(p, d)| {
            let r = 0.5 * width(*d, total - *d).max(0.2);
            NibPlacement { x: p[0], y: p[1], a: r, b: r, angle: 0.0 }
        })
        .collect();
    envelope(&nibs, 0.01)
}

/// A bowed line across a cell.
pub(crate) fn bow(middle: [f64; 2], length: f64, turn: f64, sag: f64) -> Vec<[f64; 2]> {
    let n = length.ceil() as usize;
    (0..=n)
        .map(|i| {
            let u = 2.0 * i as f64 / n as f64 - 1.0;
            let (x, y) = (0.5 * length * u, sag * (1.0 - u * u));
            [middle[0] + x * turn.cos() - y * turn.sin(), middle[1] + x * turn.sin() + y * turn.cos()]
        })
        .collect()
}

/// The middle of a line over a length, moved aside; its points are about a px apart.
pub(crate) fn aside(line: &[[f64; 2]], long: f64, apart: f64) -> Vec<[f64; 2]> {
    let first = (0.5 * (line.len() as f64 - long)) as usize;
    (first..first + long as usize)
        .map(|i| {
            let (a, b) = (line[i - 1], line[i + 1]);
            let d = (b[0] - a[0]).hypot(b[1] - a[1]);
            [line[i][0] - apart * (b[1] - a[1]) / d, line[i][1] + apart * (b[0] - a[0]) / d]
        })
        .collect()
}

/// A closed wavy ring from one angle to another.
pub(crate) fn ring(middle: [f64; 2], radius: f64, waves: [f64; 2], from: f64, to: f64) -> Vec<[f64; 2]> {
    let n = (radius * (to - from)).ceil() as usize;
    (0..=n)
        .map(|i| {
            let a = from + (to - from) * i as f64 / n as f64;
            let r = radius * (1.0 + 0.08 * (2.0 * a + waves[0]).sin() + 0.05 * (3.0 * a + waves[1]).sin());
            [middle[0] + r * a.cos(), middle[1] + r * a.sin()]
        })
        .collect()
}

/// A taper over so many px to a fine tip.
pub(crate) fn run_out(d: f64, over: f64) -> f64 {
    if d < over { 0.12 + 0.88 * (d / over).powf(0.8) } else { 1.0 }
}

/// Blurred along rows or columns by a Gaussian of a deviation in px; nothing lies about it.
pub(crate) fn blurred(data: &[f32], w: usize, h: usize, sigma: f64, rows: bool) -> Vec<f32> {
    let reach = (3.0 * sigma).ceil() as isize;
    let kernel: Vec<f64> = (-reach..=reach).map(|k| (-0.5 * (k as f64 / sigma).powi(2)).exp()).collect();
    let total: f64 = kernel.iter().sum();
    let at = |x: isize, y: isize| if x >= 0 && y >= 0 && (x as usize) < w && (y as usize) < h { f64::from(data[y as usize * w + x as usize]) } else { 0.0 };
    (0..w * h)
        .map(|i| {
            let (x, y) = ((i % w) as isize, (i / w) as isize);
            let sum: f64 = (-reach..=reach).zip(&kernel).map(|(k, g)| g * if rows { at(x + k, y) } else { at(x, y + k) }).sum();
            (sum / total) as f32
        })
        .collect()
}
