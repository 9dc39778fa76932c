//! From a chain of pixels to a sub-pixel centre line with the ink's width at every step along it.
//!
//! The width is the integral of coverage along the normal, bounded by the valley to any neighbouring line; the distance
//! transform only says how far to look.

use super::{
    End, Line, LinePoint, Place,
    classify::{Ink, NONE},
    graph::{Chain, Graph},
};
use crate::stats::moving_mean;

/// Step of the integral along the normal, px.
///
/// At whole px a bilinear profile sums exactly along an axis; in other directions what is missed evens out along the
/// line. Half px costs twice as much and was no better by more than a thousandth of a px on the references.
const H: f64 = 1.0;
/// A turn of over 30° within one width is a corner; smoothing has taken some of it away by the time it is read.
const CORNER_RAD: f64 = 0.47;

/// One side of a profile.
struct Side {
    area: f64,
    moment: f64,
    clear: bool,
}

/// The coverage of one role's ink alone, 0 where there is none.
pub struct Own<'a> {
    pub ink: &'a Ink,
    pub role: u8,
    pub plane: &'a [u8],
}

/// Coverage 0…1 of the role's ink at a place in px, bilinear between pixel centres.
#[inline(always)]
fn coverage(own: &Own, x: f64, y: f64) -> f64 {
    let (u, v) = (x - 0.5, y - 0.5);
    let (w, h) = (own.ink.width, own.ink.height);
    if u >= 0.0 && v >= 0.0 && u < (w - 1) as f64 && v < (h - 1) as f64 {
        // Positive here: a cast is the floor, and the baseline processor has no faster one.
        let (ix, iy) = (u as usize, v as usize);
        let (tx, ty) = ((u - ix as f64) as f32, (v - iy as f64) as f32);
        let i = iy * w + ix;
        let (top, low) = (&own.plane[i..i + 2], &own.plane[i + w..i + w + 2]);
        let a = f32::from(top[0]) * (1.0 - tx) + f32::from(top[1]) * tx;
        let b = f32::from(low[0]) * (1.0 - tx) + f32::from(low[1]) * tx;
        return f64::from(a * (1.0 - ty) + b * ty) / 255.0;
    }
    let (fx, fy) = (u.floor(), v.floor());
    let (ix, iy, tx, ty) = (fx as isize, fy as isize, u - fx, v - fy);
    let edge = |x: isize, y: isize| {
        let inside = x >= 0 && y >= 0 && (x as usize) < w && (y as usize) < h;
        if inside { f64::from(own.plane[y as usize * w + x as usize]) } else { 0.0 }
    };
    let a = edge(ix, iy) * (1.0 - tx) + edge(ix + 1, iy) * tx;
    let b = edge(ix, iy + 1) * (1.0 - tx) + edge(ix + 1, iy + 1) * tx;
    (a * (1.0 - ty) + b * ty) / 255.0
}

/// Whether ink of another role stands at a place.
fn foreign(ink: &Ink, role: u8, x: f64, y: f64) -> bool {
    if x < 0.0 || y < 0.0 || x >= ink.width as f64 || y >= ink.height as f64 {
        return false;
    }
    let i = y as usize * ink.width + x as usize;
    ink.role[i] != role && ink.role[i] != NONE && ink.coverage[i] > 64
}

fn side(own: &Own, at: (f64, f64), normal: (f64, f64), radius: f64) -> Side {
    let mut s = Side { area: 0.0, moment: 0.0, clear: false };
    let reach = 2.0 * radius + 4.0;
    let (mut low, mut low_area, mut low_moment) = (1.0f64, 0.0, 0.0);
    let mut t = 0.5 * H;
    while t < reach {
        let (x, y) = (at.0 + normal.0 * t, at.1 + normal.1 * t);
        let v = coverage(own, x, y);
        if v < low {
            (low, low_area, low_moment) = (v, s.area, s.moment);
        } else if v > low + 0.12 && low < 0.7 {
            // Ink rises again: another line. Up to the valley it is this one's; a shallow valley is no paper.
            s.area = low_area + low * H * 0.5;
            s.moment = low_moment;
            s.clear = low < 0.2;
            return s;
        }
        s.area += v * H;
        s.moment += v * H * t;
        if v < 0.5 && foreign(own.ink, own.role, x, y) {
            return s;
        }
        if v < 0.004 {
            s.clear = !foreign(own.ink, own.role, x + normal.0, y + normal.1);
            return s;
        }
        t += H;
    }
    s
}

/// Builds the line of one chain; none when it is too short to have a direction.
pub fn line(own: &Own, graph: &Graph, chain: &Chain) -> Option<Line> {
    let ink = own.ink;
    let w = ink.width;
    let mut pixels: Vec<(f64, f64)> = chain.pixels.iter().map(|&i| ((i as usize % w) as f64 + 0.5, (i as usize / w) as f64 + 0.5)).collect();
    let mut radii: Vec<f64> = chain.pixels.iter().map(|&i| (ink.distance(i as usize) - 0.5).max(0.5)).collect();
    if let Some(n) = chain.nodes[0] {
        pixels.insert(0, (graph.nodes[n].x, graph.nodes[n].y));
        radii.insert(0, radii[0]);
    }
    if let Some(n) = chain.nodes[1] {
        pixels.push((graph.nodes[n].x, graph.nodes[n].y));
        radii.push(radii[radii.len() - 1]);
    }
    let radius = crate::stats::median(&radii)?;
    let smooth = gaussian(&pixels, (0.9 * radius).clamp(1.5, 12.0), chain.closed);
    let (mut points, step) = resample(&smooth, chain.closed)?;
    // The distance at a pixel says how far to look there; a little more does no harm.
    let n = points.len();
    let mut reach: Vec<f64> = (0..n).map(|i| radii[i * (radii.len() - 1) / (n - 1).max(1)].max(0.6 * radius)).collect();
    if !chain.closed {
        if chain.nodes[0].is_none() {
            extend(own, &mut points, &mut reach, step, true);
        }
        if chain.nodes[1].is_none() {
            extend(own, &mut points, &mut reach, step, false);
        }
    }
    let span = ((radius / step).round() as usize).clamp(2, 8);
    // How far the ink's own middle lies off, at every third place and in between by straight lines.
    let shift = |points: &[(f64, f64)]| -> Vec<f64> {
        let last = points.len() - 1;
        let off = |i: usize| {
            let n = normal(points, i, span, chain.closed);
            let (l, r) = (side(own, points[i], n, reach[i]), side(own, points[i], (-n.0, -n.1), reach[i]));
            let area = l.area + r.area;
            if l.clear && r.clear && area > 0.3 { ((l.moment - r.moment) / area).clamp(-1.0, 1.0) } else { 0.0 }
        };
        let at: Vec<f64> = (0..=last / 3 + 1).map(|k| off((3 * k).min(last))).collect();
        (0..=last).map(|i| at[i / 3] + (at[i / 3 + 1] - at[i / 3]) * (i % 3) as f64 / 3.0).collect()
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
    for i in 0..points.len() {
        let n = normal(&points, i, span, chain.closed);
        let (l, r) = (side(own, points[i], n, reach[i]), side(own, points[i], (-n.0, -n.1), reach[i]));
        out.push(LinePoint {
            x: points[i].0 as f32,
            y: points[i].1 as f32,
            width: (l.area + r.area) as f32,
            place: if l.clear && r.clear { Place::Body } else { Place::Blocked },
        });
    }
    let mut line = Line { points: out, step_px: step, closed: chain.closed, ends: [End::Joined; 2] };
    mark_blocked(&mut line, radius);
    mark_corners(&mut line, radius);
    Some(line)
}

/// About a blocked place the neighbours are disturbed too: half a width on either side is left out with it.
fn mark_blocked(line: &mut Line, radius: f64) {
    let spread = (radius / line.step_px).ceil() as usize;
    let blocked: Vec<usize> = (0..line.points.len()).filter(|&i| line.points[i].place == Place::Blocked).collect();
    for i in blocked {
        let to = (i + spread + 1).min(line.points.len());
        for p in &mut line.points[i.saturating_sub(spread)..to] {
            p.place = Place::Blocked;
        }
    }
}

fn mark_corners(line: &mut Line, radius: f64) {
    let n = line.points.len();
    let half = ((radius / line.step_px).round() as usize).max(2);
    let spread = 2 * half;
    if n < 4 * half {
        return;
    }
    let direction = |i: usize, j: usize| {
        let (a, b) = (&line.points[i], &line.points[j]);
        f64::from(b.y - a.y).atan2(f64::from(b.x - a.x))
    };
    let mut corners = Vec::new();
    let range = if line.closed { 0..n } else { half..n - half };
    for i in range {
        let (before, after) = ((i + n - half) % n, (i + half) % n);
        let turn = direction(i, after) - direction(before, i);
        let turn = (turn + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU) - std::f64::consts::PI;
        // The chord directions lie half a width apart on either side: together they see the turn within one width.
        if turn.abs() > CORNER_RAD {
            corners.push(i);
        }
    }
    for i in corners {
        for k in 0..=2 * spread {
            let j = i + k;
            let at = if line.closed { Some((j + n - spread) % n) } else { j.checked_sub(spread).filter(|j| *j < n) };
            if let Some(p) = at.map(|j| &mut line.points[j])
                && p.place == Place::Body
            {
                p.place = Place::Corner;
            }
        }
    }
}

/// Unit normal at point `i`, from a chord over `span` points on either side.
fn normal(points: &[(f64, f64)], i: usize, span: usize, closed: bool) -> (f64, f64) {
    let n = points.len();
    let (a, b) =
        if closed { (points[(i + n - span % n) % n], points[(i + span) % n]) } else { (points[i.saturating_sub(span)], points[(i + span).min(n - 1)]) };
    let (dx, dy) = (b.0 - a.0, b.1 - a.1);
    let len = dx.hypot(dy);
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
    (0..n)
        .map(|i| {
            let (mut x, mut y) = (0.0, 0.0);
            for (k, g) in kernel.iter().enumerate() {
                let q = at(i + k as isize - reach);
                x += g * q.0;
                y += g * q.1;
            }
            (x / total, y / total)
        })
        .collect()
}

/// Points about one px apart, evenly; none when the chain is shorter than two.
fn resample(p: &[(f64, f64)], closed: bool) -> Option<(Vec<(f64, f64)>, f64)> {
    let mut way = vec![0.0];
    let m = p.len();
    for i in 1..m + usize::from(closed) {
        let (a, b) = (p[i - 1], p[i % m]);
        way.push(way[i - 1] + (b.0 - a.0).hypot(b.1 - a.1));
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

/// Leads a free end on to the tip of the ink: thinning stops about half a width short of it.
fn extend(own: &Own, points: &mut Vec<(f64, f64)>, reach: &mut Vec<f64>, step: f64, at_start: bool) {
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
    for k in 1..=most {
        let p = (b.0 + d.0 * k as f64, b.1 + d.1 * k as f64);
        if coverage(own, p.0, p.1) < 0.4 {
            break;
        }
        points.push(p);
        reach.push(reach[n - 1]);
    }
    if at_start {
        points.reverse();
        reach.reverse();
    }
}
