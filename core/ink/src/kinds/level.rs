//! Shapes and tips laid level: their longest way turned to run along the stroke.
//!
//! How: the main axis of the ink's second moments. Limits: a tip whose moments differ by less than 5 % is round and is not turned. Source: principal
//! axes, any textbook.

use crate::bilinear::bilinear;
use crate::{
    outline::{Outline, Path, signed_area},
    picture::Picture,
};

/// Direction of the longest way of spread-out mass, radians in page axes, from its second moments about its middle.
fn principal([xx, xy, yy]: [f64; 3]) -> f64 {
    0.5 * (2.0 * xy).atan2(xx - yy)
}

/// Closed rings turned level: the union's principal axis of area lies along x. Gives the rings and by how much they were turned,
/// degrees counter-clockwise.
pub fn rings(rings: &[Path]) -> (Vec<Path>, f64) {
    let outline = Outline::united(rings.to_vec());
    // Moments of polygons by Green's theorem.
    let (mut area, mut first, mut second) = (0.0, [0.0; 2], [0.0; 3]);
    for path in &outline.paths {
        for (k, p) in path.iter().enumerate() {
            let q = path[(k + 1) % path.len()];
            let cross = p[0] * q[1] - q[0] * p[1];
            area += 0.5 * cross;
            first = [first[0] + (p[0] + q[0]) * cross / 6.0, first[1] + (p[1] + q[1]) * cross / 6.0];
            second[0] += (p[0] * p[0] + p[0] * q[0] + q[0] * q[0]) * cross / 12.0;
            second[1] += (p[0] * q[1] + 2.0 * p[0] * p[1] + 2.0 * q[0] * q[1] + q[0] * p[1]) * cross / 24.0;
            second[2] += (p[1] * p[1] + p[1] * q[1] + q[1] * q[1]) * cross / 12.0;
        }
    }
    if area.abs() < 1e-12 {
        return (rings.to_vec(), 0.0);
    }
    let m = [first[0] / area, first[1] / area];
    let a = principal([second[0] / area - m[0] * m[0], second[1] / area - m[0] * m[1], second[2] / area - m[1] * m[1]]);
    let (s, c) = a.sin_cos();
    let turn = |p: &[f64; 2]| [c * (p[0] - m[0]) + s * (p[1] - m[1]), c * (p[1] - m[1]) - s * (p[0] - m[0])];
    let mut turned: Vec<Path> = outline.paths.iter().map(|r| r.iter().map(turn).collect()).collect();
    // All outer borders turn one way afterwards too.
    if turned.first().is_some_and(|r| signed_area(r) < 0.0) {
        turned.iter_mut().for_each(|r| r.reverse());
    }
    (turned, a.to_degrees())
}

/// Coverage turned level, in a picture just large enough; and by how much, degrees counter-clockwise.
pub fn picture(p: &Picture) -> (Picture, f64) {
    let (mut mass, mut first, mut second) = (0.0, [0.0; 2], [0.0; 3]);
    for (i, c) in p.coverage.iter().enumerate() {
        let (c, x, y) = (f64::from(*c), (i % p.width) as f64 + 0.5, (i / p.width) as f64 + 0.5);
        mass += c;
        first = [first[0] + c * x, first[1] + c * y];
        second = [second[0] + c * x * x, second[1] + c * x * y, second[2] + c * y * y];
    }
    if mass <= 0.0 {
        return (p.clone(), 0.0);
    }
    let m = first.map(|v| v / mass);
    let moments = [second[0] / mass - m[0] * m[0], second[1] / mass - m[0] * m[1], second[2] / mass - m[1] * m[1]];
    // What is nearly round has no direction of its own.
    let (mean, apart) = (0.5 * (moments[0] + moments[2]), (0.5 * (moments[0] - moments[2])).hypot(moments[1]));
    if apart < ROUND * mean {
        return (p.clone(), 0.0);
    }
    let a = principal(moments);
    let (s, c) = a.sin_cos();
    let corners = [[0.0, 0.0], [p.width as f64, 0.0], [p.width as f64, p.height as f64], [0.0, p.height as f64]]
        .map(|[x, y]| [c * (x - m[0]) + s * (y - m[1]), c * (y - m[1]) - s * (x - m[0])]);
    let range = |k: usize| corners.iter().fold((f64::MAX, f64::MIN), |r, q| (r.0.min(q[k]), r.1.max(q[k])));
    let ((l, r), (t, b)) = (range(0), range(1));
    let (width, height) = ((r - l).ceil() as usize, (b - t).ceil() as usize);
    let at = |x: isize, y: isize| {
        let inside = x >= 0 && y >= 0 && (x as usize) < p.width && (y as usize) < p.height;
        if inside { p.coverage[y as usize * p.width + x as usize] } else { 0.0 }
    };
    let coverage = (0..width * height)
        .map(|i| {
            let (u, v) = (l + (i % width) as f64 + 0.5, t + (i / width) as f64 + 0.5);
            bilinear(m[0] + c * u - s * v - 0.5, m[1] + s * u + c * v - 0.5, at)
        })
        .collect();
    (Picture { width, height, coverage, px_mm: p.px_mm }, a.to_degrees())
}

/// Second moments that differ by less than this share are alike.
const ROUND: f64 = 0.05;
