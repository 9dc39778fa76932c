//! Where ruled lines lie in a scan: long straight pieces of ink, found on a reduced picture.
//!
//! How: connected ink whose length is many times its breadth, its axis by second moments; what hangs together by fainter lines, as those of squared
//! paper, is parted from them. Limits: shorter than 5 mm is no line; a line must be
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
    /// A place in its ink near its middle, px, where one is known.
    pub on: Option<[f64; 2]>,
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
    let mut out = Vec::new();
    let mut open = vec![false; w * h];
    let mut pieces = connected(0..w * h, &small, w, threshold, &mut open);
    while let Some((pixels, at)) = pieces.pop() {
        if !is_long(&pixels, w, factor as f64, dpi) {
            continue;
        }
        // What hangs together by fainter lines, as on squared paper, or by the blur between two lines, falls apart where that is left out.
        let mut levels: Vec<f32> = pixels.iter().map(|i| small[*i]).collect();
        let strong = (levels.len() - 1) * 19 / 20;
        let between = FAINTER * *levels.select_nth_unstable_by(strong, f32::total_cmp).1;
        let apart = if between > 1.3 * at { connected(pixels.iter().copied(), &small, w, between, &mut open) } else { Vec::new() };
        let Some(c) = straight(&pixels, &small, w, factor as f64, dpi) else {
            pieces.extend(apart);
            continue;
        };
        let beside: Vec<Candidate> = apart
            .iter()
            .filter_map(|p| straight(&p.0, &small, w, factor as f64, dpi))
            .filter(|p| p.half > 0.8 * c.half && p.half_width < 0.7 * c.half_width)
            .collect();
        if beside.len() > 1 { out.extend(beside) } else { out.push(c) }
    }
    out
}

/// A line that is fainter than this share of the strongest beside it is the paper's own.
const FAINTER: f32 = 0.5;

/// The pieces that hang together, of some pixels, at and over a threshold; each with that threshold. `open` is a plane to work on: false before and
/// after.
fn connected(of: impl Iterator<Item = usize> + Clone, small: &[f32], w: usize, threshold: f32, open: &mut [bool]) -> Vec<(Vec<usize>, f32)> {
    let h = small.len() / w.max(1);
    of.clone().for_each(|i| open[i] = small[i] >= threshold);
    let mut out = Vec::new();
    for start in of {
        if !open[start] {
            continue;
        }
        let mut pixels = vec![start];
        open[start] = false;
        let mut next = 0;
        while next < pixels.len() {
            let (x, y) = (pixels[next] % w, pixels[next] / w);
            next += 1;
            for ny in y.saturating_sub(1)..=(y + 1).min(h - 1) {
                for nx in x.saturating_sub(1)..=(x + 1).min(w - 1) {
                    if std::mem::take(&mut open[ny * w + nx]) {
                        pixels.push(ny * w + nx);
                    }
                }
            }
        }
        out.push((pixels, threshold));
    }
    out
}

/// Whether some pixels reach as far as a line does.
fn is_long(pixels: &[usize], w: usize, factor: f64, dpi: f64) -> bool {
    let range = |f: &dyn Fn(usize) -> usize| pixels.iter().fold((usize::MAX, 0), |r, i| (r.0.min(f(*i)), r.1.max(f(*i))));
    let ((l, r), (t, b)) = (range(&|i| i % w), range(&|i| i / w));
    (r - l).max(b - t) as f64 * factor * 25.4 / dpi >= SHORTEST_MM
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
    let (mut own, mut ox, mut oy) = (0.0, 0.0, 0.0);
    for (x, y, a) in pixels.iter().map(|i| place(*i)).filter(|(x, y, _)| ((x - cx) * dx + (y - cy) * dy - mid).abs() < 1.0) {
        (own, ox, oy) = (own + a, ox + a * x, oy + a * y);
    }
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
        on: (own > 0.0).then(|| [ox / own * factor, oy / own * factor]),
    })
}
