//! A stroke that goes over lines that are there: how near to them it lies, how evenly the hand went, which of them it went over, and whether it
//! were better done again.
//!
//! How: nodes every half millimetre along the stroke, each by the nearest stretch of any line. Limits: where two lines lie nearer to one another
//! than the hand misses, both count as gone over. The limits of what is good are those that pairing stands (methods.md, section 8); evenness is
//! common practice, no source.

use crate::stroke::Stroke;

/// Further from a line than this a node lies on none, mm.
const REACH_MM: f64 = 4.0;
const NODE_MM: f64 = 0.5;
/// A stroke nearer than this is near enough, mm.
const NEAR_MM: f64 = 1.2;
/// A hand that goes slower than this gets no nearer by going slower, mm/s.
const SLOW: f64 = 25.0;
/// Speed's spread over its mean, from which a hand stopped and went on.
const UNEVEN: f64 = 0.7;
/// So much of a line counts as the whole of it.
const WHOLE: f64 = 0.7;
/// So much of a stroke must lie on lines.
const ON: f64 = 0.5;
/// A shorter stroke says nothing, mm.
const SHORTEST_MM: f64 = 2.0;

/// What to do with a stroke.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Advice {
    Good,
    /// It lies off the line, and was fast.
    Slower,
    /// It lies off the line, and was slow.
    Nearer,
    /// The hand stopped and went on.
    Evenly,
    /// Half of it and more lies on no line.
    Elsewhere,
}

/// A stroke held against lines.
#[derive(Debug, Clone, PartialEq)]
pub struct GoneOver {
    /// The median distance from the lines that it lies on, mm.
    pub off_mm: f64,
    /// The hand's mean speed, mm/s, and its spread over that.
    pub speed_mm_s: f64,
    pub uneven: f64,
    /// The lines that were gone over, by their number.
    pub lines: Vec<usize>,
    pub advice: Advice,
}

/// Holds a stroke against lines, each places in mm along it; none where either is too short to say anything.
pub fn gone_over(stroke: &Stroke, lines: &[Vec<[f64; 2]>]) -> Option<GoneOver> {
    let nodes = nodes(stroke);
    if (nodes.len() as f64) * NODE_MM < SHORTEST_MM || lines.iter().all(Vec::is_empty) {
        return None;
    }
    let mut gone: Vec<Vec<bool>> = lines.iter().map(|l| vec![false; l.len()]).collect();
    let mut off: Vec<f64> = Vec::new();
    for node in &nodes {
        let mut nearest = f64::INFINITY;
        for (line, gone) in lines.iter().zip(&mut gone) {
            for (k, p) in line.iter().enumerate() {
                let d = (p[0] - node.at[0]).hypot(p[1] - node.at[1]);
                if d < REACH_MM {
                    gone[k] = true;
                    // Between two places the line lies nearer than either.
                    nearest = line.get(k + 1).map_or(d, |q| apart(node.at, *p, *q)).min(nearest);
                }
            }
        }
        if nearest < REACH_MM {
            off.push(nearest);
        }
    }
    let on = off.len() as f64 / nodes.len() as f64;
    off.sort_by(f64::total_cmp);
    let off_mm = off.get(off.len() / 2).copied().unwrap_or(f64::INFINITY);
    let (speed_mm_s, uneven) = pace(&nodes, stroke.zoom);
    let share = |g: &[bool]| g.iter().filter(|g| **g).count() as f64 / g.len().max(1) as f64;
    let lines = (0..lines.len()).filter(|k| !gone[*k].is_empty() && share(&gone[*k]) >= WHOLE).collect();
    let advice = if on < ON {
        Advice::Elsewhere
    } else if off_mm > NEAR_MM {
        if speed_mm_s > SLOW { Advice::Slower } else { Advice::Nearer }
    } else if uneven > UNEVEN {
        Advice::Evenly
    } else {
        Advice::Good
    };
    Some(GoneOver { off_mm, speed_mm_s, uneven, lines, advice })
}

struct Node {
    t_ms: f64,
    at: [f64; 2],
}

/// Places along a stroke, every [`NODE_MM`].
fn nodes(stroke: &Stroke) -> Vec<Node> {
    let mut out = Vec::new();
    let mut left = 0.0;
    for pair in stroke.samples.windows(2) {
        let (a, b) = (&pair[0], &pair[1]);
        let long = (b.x - a.x).hypot(b.y - a.y);
        while left < long {
            let u = left / long;
            out.push(Node { t_ms: a.t_ms + u * (b.t_ms - a.t_ms), at: [a.x + u * (b.x - a.x), a.y + u * (b.y - a.y)] });
            left += NODE_MM;
        }
        left -= long;
    }
    out
}

/// Distance of a place from the stretch between two.
fn apart(p: [f64; 2], a: [f64; 2], b: [f64; 2]) -> f64 {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let long2 = dx * dx + dy * dy;
    let t = if long2 > 0.0 { (((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / long2).clamp(0.0, 1.0) } else { 0.0 };
    (p[0] - a[0] - t * dx).hypot(p[1] - a[1] - t * dy)
}

/// The hand's mean speed and its spread over that, of stretches of a millimetre, the first and the last tenth left out.
fn pace(nodes: &[Node], zoom: f64) -> (f64, f64) {
    let tenth = nodes.len() / 10;
    let body = &nodes[tenth..nodes.len() - tenth];
    let speeds: Vec<f64> = body.windows(3).step_by(2).map(|w| 1000.0 * zoom * 2.0 * NODE_MM / (w[2].t_ms - w[0].t_ms).max(1.0)).collect();
    let n = speeds.len().max(1) as f64;
    let mean = speeds.iter().sum::<f64>() / n;
    let sd = (speeds.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / n).sqrt();
    (mean, if mean > 0.0 { sd / mean } else { 0.0 })
}
