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

/// Of this many places one is asked how far the line lies off the ink's middle.
const SPARSE: usize = 4;
/// The cosine of 30°, between chords that lie half a width to a whole width before and after a place. Of a corner's turn
/// smoothing leaves four fifths there; of a bend's they see five quarters of what it turns within one width.
const CORNER_COS: f32 = 0.866;

/// One side of a profile, in px and px².
struct Side {
    area: f64,
    moment: f64,
    /// Σ c·(1 − c), px.
    edge: f64,
    clear: bool,
}

/// Binary places of a position in the plane.
const FINE: u32 = 16;
/// Coverage of 1 as [`sample`] gives it.
const FULL: u32 = 255 << 16;

/// Coverage of any ink, bilinear between pixel centres, 0 to [`FULL`]; the place in 1/65536 px, pixel centres whole.
///
/// Whole numbers throughout: it is by far the most frequent step of measuring.
#[inline(always)]
fn sample(ink: &Ink, u: i32, v: i32) -> u32 {
    let (x, y) = ((u >> FINE) as usize, (v >> FINE) as usize);
    let (tx, ty) = ((u >> 8 & 255) as u32, (v >> 8 & 255) as u32);
    let [a, b, c, d] = if u >= 0 && v >= 0 && x + 1 < ink.width && y + 1 < ink.height {
        let i = y * ink.width + x;
        let (top, low) = (&ink.pixels[i..i + 2], &ink.pixels[i + ink.width..i + ink.width + 2]);
        [top[0].coverage, top[1].coverage, low[0].coverage, low[1].coverage]
    } else {
        // Beyond the page there is none.
        let at = |x: i32, y: i32| pixel(ink, x, y).map_or(0, |i| ink.pixels[i].coverage);
        let (x, y) = (u >> FINE, v >> FINE);
        [at(x, y), at(x + 1, y), at(x, y + 1), at(x + 1, y + 1)]
    }
    .map(u32::from);
    (a * (256 - tx) + b * tx) * (256 - ty) + (c * (256 - tx) + d * tx) * ty
}

fn pixel(ink: &Ink, x: i32, y: i32) -> Option<usize> {
    (x >= 0 && y >= 0 && (x as usize) < ink.width && (y as usize) < ink.height).then(|| y as usize * ink.width + x as usize)
}

/// A place in px as [`sample`] takes it.
fn fine(at: f64) -> i32 {
    ((at - 0.5) * f64::from(1 << FINE)) as i32
}

/// Coverage 0…1 of the role's ink at a place in px.
fn coverage(ink: &Ink, role: u8, x: f64, y: f64) -> f64 {
    let (u, v) = (fine(x), fine(y));
    if foreign(ink, role, u, v) { 0.0 } else { f64::from(sample(ink, u, v)) / f64::from(FULL) }
}

/// Whether ink of another role stands at a place.
#[inline(always)]
fn foreign(ink: &Ink, role: u8, u: i32, v: i32) -> bool {
    let half = 1 << (FINE - 1);
    pixel(ink, (u + half) >> FINE, (v + half) >> FINE).is_some_and(|i| {
        let p = ink.pixels[i];
        p.role != role && p.role != NONE && p.coverage > 64
    })
}

/// Walks from the centre outward in steps of a px.
///
/// At whole px a bilinear profile sums exactly along an axis; in other directions what is missed evens out along the
/// line. Half px costs twice as much and was no better by more than a thousandth of a px on the references.
fn side(ink: &Ink, role: u8, at: (f64, f64), normal: (f64, f64), radius: f64) -> Side {
    const RISE: u32 = FULL / 100 * 12;
    const SHALLOW: u32 = FULL / 10 * 7;
    const PAPER: u32 = FULL / 5;
    const NOTHING: u32 = FULL / 250;
    let (du, dv) = ((normal.0 * f64::from(1 << FINE)) as i32, (normal.1 * f64::from(1 << FINE)) as i32);
    let (mut u, mut v) = (fine(at.0) + du / 2, fine(at.1) + dv / 2);
    let (mut area, mut moment, mut edge) = (0u64, 0u64, 0u64);
    let (mut low, mut low_area, mut low_moment, mut low_edge) = (FULL, 0, 0, 0);
    let steps = (2.0 * radius + 4.0).ceil() as usize;
    // As far as the ink reaches by its distance the places are read one after the other without a question between them.
    let mut profile = [0u32; 24];
    let sure = ((radius + 2.0) as usize).clamp(3, profile.len());
    for (k, c) in (0..).zip(&mut profile[..sure]) {
        *c = sample(ink, u.wrapping_add(k * du), v.wrapping_add(k * dv));
    }
    let side = |area: u64, moment: u64, edge: u64, clear: bool| Side {
        area: area as f64 / f64::from(FULL),
        moment: moment as f64 / f64::from(2 * FULL),
        edge: edge as f64 / f64::from(FULL),
        clear,
    };
    for k in 0..steps {
        let c = profile[..sure].get(k).copied().unwrap_or_else(|| sample(ink, u, v));
        if c < low {
            (low, low_area, low_moment, low_edge) = (c, area, moment, edge);
        } else if c > low + RISE && low < SHALLOW {
            // Ink rises again: another line. Up to the valley it is this one's; a shallow valley is no paper.
            return side(low_area + u64::from(low / 2), low_moment, low_edge, low < PAPER);
        }
        area += u64::from(c);
        moment += u64::from(c) * (2 * k as u64 + 1);
        edge += (u64::from(c) * u64::from(FULL - c)) >> 24;
        if foreign(ink, role, u, v) {
            return side(area, moment, edge, false);
        }
        if c < NOTHING {
            return side(area, moment, edge, !foreign(ink, role, u.wrapping_add(du), v.wrapping_add(dv)));
        }
        (u, v) = (u.wrapping_add(du), v.wrapping_add(dv));
    }
    side(area, moment, edge, false)
}

/// Builds the line of one chain; none when it is too short to have a direction.
pub fn line(ink: &Ink, graph: &Graph, chain: &Chain) -> Option<Line> {
    let (w, role) = (ink.width, chain.role);
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
            if l.clear && r.clear && area > 0.3 { ((l.moment - r.moment) / area).clamp(-1.0, 1.0) } else { 0.0 }
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
    let mut edges = (0u32, 0u32);
    for i in 0..points.len() {
        let n = normal(&points, i, span, chain.closed);
        let (l, r) = (side(ink, role, points[i], n, reach[i]), side(ink, role, points[i], (-n.0, -n.1), reach[i]));
        out.push(LinePoint {
            x: points[i].0 as f32,
            y: points[i].1 as f32,
            width: (l.area + r.area) as f32,
            edge: (0.5 * (l.edge + r.edge)) as f32,
            place: if l.clear && r.clear { Place::Body } else { Place::Blocked },
        });
        // Along the pixels an edge may be crisp by its place; aslant it passes through pixels.
        if l.clear && r.clear && n.0.abs().min(n.1.abs()) > ASLANT {
            for (far, way) in [(l.area, 1.0), (r.area, -1.0)] {
                edges.0 += 1;
                edges.1 += u32::from(!partly(ink, points[i], (way * n.0, way * n.1), far));
            }
        }
    }
    let crisp = (edges.0 >= LEAST_EDGES).then(|| f64::from(edges.1) / f64::from(edges.0));
    let mut line = Line { points: out, step_px: step, closed: chain.closed, ends: [End::Joined; 2], crisp };
    mark_blocked(&mut line, radius);
    mark_corners(&mut line, radius);
    Some(line)
}

/// So many edges aslant must have been seen before a line is called crisp or not.
const LEAST_EDGES: u32 = 24;
/// Sine of the angle to the pixels from which an edge is aslant.
const ASLANT: f64 = 0.09;

/// Whether any of the pixels about an edge, `far` px from the centre, is partly covered.
fn partly(ink: &Ink, at: (f64, f64), normal: (f64, f64), far: f64) -> bool {
    [-1.0, 0.0, 1.0].iter().any(|d| {
        let (x, y) = (at.0 + normal.0 * (far + d), at.1 + normal.1 * (far + d));
        pixel(ink, x.floor() as i32, y.floor() as i32).is_some_and(|i| (26..230).contains(&ink.pixels[i].coverage))
    })
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
    let chord = |i: usize, j: usize| {
        let (a, b) = (&line.points[i], &line.points[j]);
        (b.x - a.x, b.y - a.y)
    };
    let mut corners = Vec::new();
    let (near, far) = (half.div_ceil(2), 2 * half);
    let range = if line.closed { 0..n } else { far..n - far };
    for i in range {
        let (a, b) = (chord((i + n - far) % n, (i + n - near) % n), chord((i + near) % n, (i + far) % n));
        let (dot, squares) = (a.0 * b.0 + a.1 * b.1, (a.0 * a.0 + a.1 * a.1) * (b.0 * b.0 + b.1 * b.1));
        if dot < CORNER_COS * squares.sqrt() {
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
    for k in 1..=most {
        let p = (b.0 + d.0 * k as f64, b.1 + d.1 * k as f64);
        if coverage(ink, role, p.0, p.1) < 0.4 {
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
