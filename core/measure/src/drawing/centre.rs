//! From a chain of pixels to a sub-pixel centre line with the ink's width at every step along it.
//!
//! How: the chain is smoothed by a Gaussian, resampled a px apart, moved onto the ink's own middle where it lies off, and led on to the tips; the
//! width at each place is `width`'s, which places are body is `places`'. Limits: a chain shorter than two px has no direction.

use super::{
    End, Line, LinePoint, Place,
    graph::{Chain, Graph},
    ink::{Ink, OFF},
    places::{mark_blocked, mark_corners},
    width::{ASLANT, Meets, coverage, fine, foreign, partly, pixel, side},
};
use crate::stats::moving_mean;

/// Of this many places one is asked how far the line lies off the ink's middle.
const SPARSE: usize = 4;

/// A junction's middle is so near to the chains that meet there, beside the ink's own width, px.
const FROM_MIDDLE: f64 = 4.0;

/// Builds the line of one chain; none when it is too short to have a direction.
pub fn line(ink: &Ink, graph: &Graph, chain: &Chain) -> Option<Line> {
    let (w, role) = (ink.width, chain.role);
    let mut pixels: Vec<(f64, f64)> = chain.pixels.iter().map(|&i| ((i as usize % w) as f64 + 0.5, (i as usize / w) as f64 + 0.5)).collect();
    let mut radii: Vec<f64> = chain.pixels.iter().map(|&i| (ink.distance(i as usize) - 0.5).max(0.5)).collect();
    if !chain.closed {
        for side in [1, 0].into_iter().filter(|side| chain.nodes[*side].is_none()) {
            let corner = into_corner(&pixels, &radii, side);
            let range = if side == 0 { 0..corner } else { pixels.len() - corner..pixels.len() };
            pixels.drain(range.clone());
            radii.drain(range);
        }
    }
    // Where a whole thicket of ink is one junction its middle is nowhere near: the chain ends where it meets it.
    let middle = |side: usize, (x, y): (f64, f64), radius: f64| {
        let n = &graph.nodes[chain.nodes[side]?];
        ((n.x - x).hypot(n.y - y) <= 2.0 * radius + FROM_MIDDLE).then_some((n.x, n.y))
    };
    let last = pixels.len().checked_sub(1)?;
    let [start, end] = [middle(0, pixels[0], radii[0]), middle(1, pixels[last], radii[last])];
    if let Some(end) = end {
        pixels.push(end);
        radii.push(radii[last]);
    }
    if let Some(start) = start {
        pixels.insert(0, start);
        radii.insert(0, radii[0]);
    }
    let radius = crate::stats::median(&radii)?;
    let smooth = gaussian(&pixels, (0.9 * radius).clamp(1.5, 12.0), chain.closed);
    let (mut points, step) = resample(&smooth, chain.closed)?;
    // The distance at a pixel says how far to look there; a little more does no harm.
    let n = points.len();
    let mut reach: Vec<f64> = (0..n).map(|i| radii[i * (radii.len() - 1) / (n - 1).max(1)].max(0.6 * radius)).collect();
    if !chain.closed {
        if chain.nodes[0].is_none() {
            extend(ink, role, &mut points, &mut reach, step, true);
        }
        if chain.nodes[1].is_none() {
            extend(ink, role, &mut points, &mut reach, step, false);
        }
    }
    let span = ((radius / step).round() as usize).clamp(2, 8);
    // How far the ink's own middle lies off, at some places and in between by straight lines.
    let shift = |points: &[(f64, f64)]| -> Vec<f64> {
        let last = points.len() - 1;
        let off = |i: usize| {
            let n = normal(points, i, span, chain.closed);
            let (l, r) = (side(ink, role, points[i], n, reach[i]), side(ink, role, points[i], (-n.0, -n.1), reach[i]));
            let area = l.area + r.area;
            if l.is_clear() && r.is_clear() && area > 0.3 { ((l.moment - r.moment) / area).clamp(-1.0, 1.0) } else { 0.0 }
        };
        let at: Vec<f64> = (0..=last / SPARSE + 1).map(|k| off((SPARSE * k).min(last))).collect();
        (0..=last).map(|i| at[i / SPARSE] + (at[i / SPARSE + 1] - at[i / SPARSE]) * (i % SPARSE) as f64 / SPARSE as f64).collect()
    };
    // Smoothing cuts bends short; where the ink's own middle lies far off, once more brings the line onto it.
    for _ in 0..3 {
        let raw = shift(&points);
        let offsets = moving_mean(&raw, (2.0 * radius / step).clamp(3.0, 15.0) as usize);
        let normals: Vec<(f64, f64)> = (0..points.len()).map(|i| normal(&points, i, span, chain.closed)).collect();
        for ((p, o), n) in points.iter_mut().zip(&offsets).zip(&normals) {
            *p = (p.0 + n.0 * o, p.1 + n.1 * o);
        }
        if offsets.iter().all(|o| o.abs() < 0.2) {
            break;
        }
    }
    let mut out: Vec<LinePoint> = Vec::with_capacity(points.len());
    let mut aslant: Vec<(usize, bool)> = Vec::new();
    for i in 0..points.len() {
        let n = normal(&points, i, span, chain.closed);
        let (l, r) = (side(ink, role, points[i], n, reach[i]), side(ink, role, points[i], (-n.0, -n.1), reach[i]));
        out.push(LinePoint {
            x: points[i].0 as f32,
            y: points[i].1 as f32,
            width: (l.area + r.area) as f32,
            edge: (0.5 * (l.edge + r.edge)) as f32,
            place: place([l.meets, r.meets]),
        });
        // Along the pixels an edge may be crisp by its place; aslant it passes through pixels.
        if l.is_clear() && r.is_clear() && n.0.abs().min(n.1.abs()) > ASLANT {
            for (far, way) in [(l.area, 1.0), (r.area, -1.0)] {
                aslant.push((i, !partly(ink, points[i], (way * n.0, way * n.1), far)));
            }
        }
    }
    let mut line = Line { points: out, step_px: step, closed: chain.closed, ends: [End::Joined; 2], crisp: None, against: [false; 2], hatching: false };
    if !line.closed {
        line.against = [0, 1].map(|side| against(ink, role, &line, side, radius));
    }
    mark_blocked(&mut line, radius);
    mark_corners(&mut line, radius);
    // At a corner the way across is aslant though no edge is.
    aslant.retain(|(i, _)| line.points[*i].place == Place::Body);
    line.crisp = (aslant.len() >= LEAST_EDGES).then(|| aslant.iter().filter(|a| a.1).count() as f64 / aslant.len() as f64);
    Some(line)
}

/// How many pixels at an end lead into a corner of its cap and not on: there the ink's border comes nearer as fast as the corner does, which no
/// taper of a line does. Where the line goes on to is `extend`'s to say.
fn into_corner(pixels: &[(f64, f64)], radii: &[f64], side: usize) -> usize {
    let n = pixels.len();
    let at = |k: usize| if side == 0 { k } else { n - 1 - k };
    let way = |k: usize| (pixels[at(k)].0 - pixels[at(0)].0).hypot(pixels[at(k)].1 - pixels[at(0)].1);
    let most = (1.5 * radii[at(n / 4)]).ceil() as usize + 1;
    (1..=most.min(n / 4)).rev().find(|k| radii[at(*k)] - radii[at(0)] > CORNER * way(*k)).unwrap_or(0)
}

/// So fast the border comes nearer along the way into a corner of 75° and more: the sine of half of it, and a little less.
const CORNER: f64 = 0.6;

fn place(meets: [Meets; 2]) -> Place {
    if meets.contains(&Meets::Ink) {
        Place::Blocked
    } else if meets.contains(&Meets::Unclear) {
        Place::Unclear
    } else {
        Place::Body
    }
}

/// Whether other ink begins within half a width, and a pixel and a half, of an end: ahead of it or aside.
fn against(ink: &Ink, role: u8, line: &Line, side: usize, radius: f64) -> bool {
    let n = line.points.len();
    let at = |k: usize| {
        let p = &line.points[if side == 0 { k } else { n - 1 - k }];
        (f64::from(p.x), f64::from(p.y))
    };
    let (tip, back) = (at(0), at(((2.0 * radius / line.step_px) as usize).clamp(1, n - 1)));
    let ahead = (tip.1 - back.1).atan2(tip.0 - back.0);
    let reach = radius + 1.5;
    (-4..=4).any(|k| {
        let (dy, dx) = (ahead + f64::from(k) * std::f64::consts::FRAC_PI_8).sin_cos();
        (0..=(reach * 2.0) as usize).any(|s| {
            let d = 0.5 * s as f64;
            let (x, y) = (tip.0 + dx * d, tip.1 + dy * d);
            let known = pixel(ink, x.floor() as i32, y.floor() as i32).is_some_and(|i| ink.pixels[i].role != OFF);
            known && foreign(ink, role, fine(x), fine(y))
        })
    })
}

/// So many edges aslant must have been seen before a line is called crisp or not.
const LEAST_EDGES: usize = 24;

/// Unit normal at point `i`, from a chord over `span` points on either side.
fn normal(points: &[(f64, f64)], i: usize, span: usize, closed: bool) -> (f64, f64) {
    let n = points.len();
    let (a, b) =
        if closed { (points[(i + n - span % n) % n], points[(i + span) % n]) } else { (points[i.saturating_sub(span)], points[(i + span).min(n - 1)]) };
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let len = (dx * dx + dy * dy).sqrt();
    if len > 0.0 { (-dy / len, dx / len) } else { (0.0, 1.0) }
}

/// Smooths a chain with a Gaussian of `sigma` pixels; ends stay where they are.
fn gaussian(p: &[(f64, f64)], sigma: f64, closed: bool) -> Vec<(f64, f64)> {
    let n = p.len() as isize;
    let reach = (2.5 * sigma).ceil() as isize;
    let kernel: Vec<f64> = (-reach..=reach).map(|k| (-0.5 * (k as f64 / sigma).powi(2)).exp()).collect();
    let total: f64 = kernel.iter().sum();
    let (first, last) = (p[0], p[p.len() - 1]);
    // Beyond an end the chain goes on as its own point reflection.
    let at = |i: isize| -> (f64, f64) {
        if closed {
            p[i.rem_euclid(n) as usize]
        } else if i < 0 {
            let q = p[(-i).min(n - 1) as usize];
            (2.0 * first.0 - q.0, 2.0 * first.1 - q.1)
        } else if i >= n {
            let q = p[(2 * (n - 1) - i).max(0) as usize];
            (2.0 * last.0 - q.0, 2.0 * last.1 - q.1)
        } else {
            p[i as usize]
        }
    };
    let longer: Vec<(f64, f64)> = (-reach..n + reach).map(at).collect();
    longer
        .windows(kernel.len())
        .map(|window| {
            let sum = window.iter().zip(&kernel).fold((0.0, 0.0), |s, (q, g)| (s.0 + g * q.0, s.1 + g * q.1));
            (sum.0 / total, sum.1 / total)
        })
        .collect()
}

/// Points about one px apart, evenly; none when the chain is shorter than two.
fn resample(p: &[(f64, f64)], closed: bool) -> Option<(Vec<(f64, f64)>, f64)> {
    let mut way = vec![0.0];
    let m = p.len();
    for i in 1..m + usize::from(closed) {
        let (a, b) = (p[i - 1], p[i % m]);
        way.push(way[i - 1] + ((b.0 - a.0) * (b.0 - a.0) + (b.1 - a.1) * (b.1 - a.1)).sqrt());
    }
    let total = way[way.len() - 1];
    if total < 2.0 {
        return None;
    }
    let parts = total.round().max(2.0) as usize;
    let step = total / parts as f64;
    let count = if closed { parts } else { parts + 1 };
    let mut k = 0;
    let points = (0..count)
        .map(|i| {
            let s = (i as f64 * step).min(total);
            while k + 2 < way.len() && way[k + 1] < s {
                k += 1;
            }
            let t = ((s - way[k]) / (way[k + 1] - way[k]).max(1e-12)).clamp(0.0, 1.0);
            let (a, b) = (p[k], p[(k + 1) % m]);
            (a.0 + (b.0 - a.0) * t, a.1 + (b.1 - a.1) * t)
        })
        .collect();
    Some((points, step))
}

/// Ink that rises by so much beyond a free end is another line's.
const RISES: f64 = 0.12;

/// Leads a free end on to the tip of the ink: thinning stops about half a width short of it.
fn extend(ink: &Ink, role: u8, points: &mut Vec<(f64, f64)>, reach: &mut Vec<f64>, step: f64, at_start: bool) {
    if at_start {
        points.reverse();
        reach.reverse();
    }
    let n = points.len();
    let back = (reach[n - 1] * 1.5).max(3.0) as usize;
    let (a, b) = (points[n - 1 - back.min(n - 1)], points[n - 1]);
    let len = (b.0 - a.0).hypot(b.1 - a.1).max(1e-9);
    let d = ((b.0 - a.0) / len * step, (b.1 - a.1) / len * step);
    let most = (2.0 * reach[n - 1] + 3.0) as usize;
    // The least ink so far, and how many places there were then: where it rises again, another line begins.
    let mut low = (1.0, n);
    for k in 1..=most {
        let p = (b.0 + d.0 * k as f64, b.1 + d.1 * k as f64);
        let c = coverage(ink, role, p.0, p.1);
        if c > low.0 + RISES {
            points.truncate(low.1);
            reach.truncate(low.1);
            break;
        }
        if c < 0.4 {
            break;
        }
        if c < low.0 {
            low = (c, points.len());
        }
        points.push(p);
        reach.push(reach[n - 1]);
    }
    if at_start {
        points.reverse();
        reach.reverse();
    }
}
