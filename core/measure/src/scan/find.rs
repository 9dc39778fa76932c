//! Where ruled lines lie in a scan: long straight pieces of ink, found on a reduced picture.
//!
//! How: connected ink whose length is many times its breadth, its axis by second moments. Limits: shorter than 5 mm is no line; a line must be
//! darker than its paper. Common practice, no source.

use super::paper::Flat;

/// A line's place: middle, unit direction, half length, half width, all px.
#[derive(Debug, Clone, Copy)]
pub struct Candidate {
    pub x: f64,
    pub y: f64,
    pub dx: f64,
    pub dy: f64,
    pub half: f64,
    pub half_width: f64,
}

/// A ruled line is at least this long.
const SHORTEST_MM: f64 = 5.0;

/// Finds lines on a picture reduced so that a component is cheap to walk, yet thin lines survive.
pub fn lines(flat: &Flat, dpi: f64) -> Vec<Candidate> {
    let factor = ((dpi / 200.0).round() as usize).clamp(1, 8);
    let (w, h) = (flat.width / factor, flat.height / factor);
    let mut small = vec![0.0f32; w * h];
    for y in 0..h {
        for x in 0..w {
            let mut sum = 0.0;
            for yy in 0..factor {
                for xx in 0..factor {
                    sum += flat.data[(y * factor + yy) * flat.width + x * factor + xx];
                }
            }
            small[y * w + x] = sum / (factor * factor) as f32;
        }
    }
    let threshold = (6.0 * flat.grain as f32 / factor as f32).clamp(0.12, 0.4);
    let mut seen = vec![false; w * h];
    let mut out = Vec::new();
    for start in 0..w * h {
        if seen[start] || small[start] < threshold {
            continue;
        }
        let mut stack = vec![start];
        seen[start] = true;
        let mut pixels = Vec::new();
        while let Some(i) = stack.pop() {
            pixels.push(i);
            let (x, y) = (i % w, i / w);
            for ny in y.saturating_sub(1)..=(y + 1).min(h - 1) {
                for nx in x.saturating_sub(1)..=(x + 1).min(w - 1) {
                    let j = ny * w + nx;
                    if !seen[j] && small[j] >= threshold {
                        seen[j] = true;
                        stack.push(j);
                    }
                }
            }
        }
        if let Some(c) = straight(&pixels, &small, w, factor as f64, dpi) {
            out.push(c);
        }
    }
    out
}

/// The principal axis of a component, if it is long, slender and straight.
fn straight(pixels: &[usize], small: &[f32], w: usize, factor: f64, dpi: f64) -> Option<Candidate> {
    let place = |i: usize| ((i % w) as f64 + 0.5, (i / w) as f64 + 0.5, f64::from(small[i]));
    let (mut m, mut sx, mut sy) = (0.0, 0.0, 0.0);
    for &i in pixels {
        let (x, y, a) = place(i);
        m += a;
        sx += a * x;
        sy += a * y;
    }
    let (cx, cy) = (sx / m, sy / m);
    let (mut xx, mut xy, mut yy) = (0.0, 0.0, 0.0);
    for &i in pixels {
        let (x, y, a) = place(i);
        xx += a * (x - cx).powi(2);
        xy += a * (x - cx) * (y - cy);
        yy += a * (y - cy).powi(2);
    }
    let angle = 0.5 * (2.0 * xy).atan2(xx - yy);
    let (dx, dy) = (angle.cos(), angle.sin());
    let (mut lo, mut hi, mut out) = (f64::MAX, f64::MIN, 0.0);
    for &i in pixels {
        let (x, y, a) = place(i);
        let s = (x - cx) * dx + (y - cy) * dy;
        let n = (y - cy) * dx - (x - cx) * dy;
        lo = lo.min(s);
        hi = hi.max(s);
        out += a * n * n;
    }
    let length_mm = (hi - lo) * factor * 25.4 / dpi;
    // A uniform band of half width b has variance b²/3.
    let half_width = (3.0 * out / m).sqrt();
    if length_mm < SHORTEST_MM || (hi - lo) < 8.0 * half_width {
        return None;
    }
    let mid = 0.5 * (lo + hi);
    // Reading direction: rightward, or downward for a line steeper than 45°.
    let flip = if dx.abs() >= dy.abs() { dx < 0.0 } else { dy < 0.0 };
    let sign = if flip { -1.0 } else { 1.0 };
    Some(Candidate {
        x: (cx + mid * dx) * factor,
        y: (cy + mid * dy) * factor,
        dx: dx * sign,
        dy: dy * sign,
        half: 0.5 * (hi - lo) * factor,
        half_width: half_width * factor,
    })
}
