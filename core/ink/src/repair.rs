//! Strokes put right after they were drawn: laid along a straight edge or an arc, pulled, turned round. Times and pressure stay.

use crate::stroke::{Sample, Stroke, along};

/// Along the straight edge from its first place to its last: every sample moves square to the edge, none further back than the one before.
pub fn straightened(stroke: &Stroke) -> Stroke {
    let (Some(a), Some(b)) = (stroke.samples.first(), stroke.samples.last()) else { return stroke.clone() };
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let long2 = dx * dx + dy * dy;
    if long2 <= 0.0 {
        return stroke.clone();
    }
    let mut reached = 0.0f64;
    let samples = stroke.samples.iter().map(|s| {
        let t = (((s.x - a.x) * dx + (s.y - a.y) * dy) / long2).clamp(0.0, 1.0);
        reached = reached.max(t);
        Sample { x: a.x + dx * reached, y: a.y + dy * reached, ..*s }
    });
    Stroke { samples: samples.collect(), ..stroke.clone() }
}

/// Along the circle through its first place, the place half way along it, and its last; along the straight edge where they lie on a line.
pub fn on_arc(stroke: &Stroke) -> Stroke {
    let way = stroke.lengths_mm();
    let (Some(a), Some(b), Some(total)) = (stroke.samples.first(), stroke.samples.last(), way.last()) else { return stroke.clone() };
    let Some(middle) = way.iter().position(|w| *w >= 0.5 * total).and_then(|i| stroke.samples.get(i)) else { return stroke.clone() };
    let (p, q) = ([middle.x - a.x, middle.y - a.y], [b.x - a.x, b.y - a.y]);
    let cross = 2.0 * (p[0] * q[1] - p[1] * q[0]);
    let (pp, qq) = (p[0] * p[0] + p[1] * p[1], q[0] * q[0] + q[1] * q[1]);
    // Flatter than a two-hundredth of its chord is straight.
    if cross.abs() < 0.02 * qq {
        return straightened(stroke);
    }
    let (cx, cy) = ((q[1] * pp - p[1] * qq) / cross, (p[0] * qq - q[0] * pp) / cross);
    let (centre, r) = ([a.x + cx, a.y + cy], cx.hypot(cy));
    let angle = |x: f64, y: f64| (y - centre[1]).atan2(x - centre[0]);
    let from = angle(a.x, a.y);
    // The way round is the one that passes the middle.
    let turn = |to: f64| (to - from).rem_euclid(std::f64::consts::TAU);
    let (by_middle, end) = (turn(angle(middle.x, middle.y)), turn(angle(b.x, b.y)));
    let sweep = if by_middle <= end { end } else { end - std::f64::consts::TAU };
    let samples = stroke.samples.iter().zip(&way).map(|(s, w)| {
        let at = from + sweep * w / total.max(f64::MIN_POSITIVE);
        Sample { x: centre[0] + r * at.cos(), y: centre[1] + r * at.sin(), ..*s }
    });
    Stroke { samples: samples.collect(), ..stroke.clone() }
}

/// Pulled by its place nearest to `from` toward `to`; the pull falls off along the line, to nothing at `reach` mm.
pub fn pulled(stroke: &Stroke, from: [f64; 2], to: [f64; 2], reach: f64) -> Stroke {
    let way = along(stroke.samples.iter().map(|s| (s.x, s.y)));
    let off = |s: &Sample| (s.x - from[0]).powi(2) + (s.y - from[1]).powi(2);
    let Some(held) = stroke.samples.iter().enumerate().min_by(|a, b| off(a.1).total_cmp(&off(b.1))).map(|h| way[h.0]) else { return stroke.clone() };
    let samples = stroke.samples.iter().zip(&way).map(|(s, w)| {
        let u = ((w - held).abs() / reach.max(1e-6)).min(1.0);
        // Smooth at the hand and where it ends.
        let k = (1.0 - u * u).powi(2);
        Sample { x: s.x + k * (to[0] - from[0]), y: s.y + k * (to[1] - from[1]), ..*s }
    });
    Stroke { samples: samples.collect(), ..stroke.clone() }
}

/// Drawn the other way: its places in the other order, with what was pressed there; the times still run on.
pub fn reversed(stroke: &Stroke) -> Stroke {
    let times: Vec<f64> = stroke.samples.iter().map(|s| s.t_ms).collect();
    let (first, last) = (times.first().copied().unwrap_or(0.0), times.last().copied().unwrap_or(0.0));
    let samples = stroke.samples.iter().rev().map(|s| Sample { t_ms: first + last - s.t_ms, ..*s });
    Stroke { samples: samples.collect(), ..stroke.clone() }
}
