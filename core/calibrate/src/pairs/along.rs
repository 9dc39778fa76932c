//! A stroke that goes over a line, place by place along it: monotone time warping on place and direction, ends free.
//!
//! How: of all lines near a stroke's nodes the cheapest course, by dynamic programming; along one line it never turns back, from one line to
//! another it may go at a cost (a crossing parts a line in two), and where no line is near it is on none. Limits: who is further off than
//! [`REACH_MM`] is on none. Source: Sakoe and Chiba, "Dynamic programming algorithm optimization for spoken word recognition" (1978).

use super::lines::{Ink, Report, STEP_MM, distance, dot};

/// A hand may miss its line by so much, mm, three times as much being the most.
const MISS_MM: f64 = 1.2;
const REACH_MM: f64 = 3.0;
/// Nodes of a stroke are so far apart, mm.
pub(super) const NODE_MM: f64 = 0.5;
/// Cost of being on no line, of changing the line, and of going a millimetre more or less than the hand did.
const NONE: f64 = 3.0;
const CHANGE: f64 = 3.0;
const STRAY: f64 = 0.4;
/// Cost of running straight across the line.
const ASLANT: f64 = 6.0;

/// Which place of the ink a node is on, and whether the stroke goes up along it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct On {
    pub place: usize,
    pub up: bool,
}

/// A candidate of a node, the cost of the cheapest way to it, and where it came from.
#[derive(Clone, Copy)]
struct State {
    on: Option<On>,
    cost: f64,
    from: usize,
}

/// The places that a stroke's nodes are on, the cheapest way through.
pub(super) fn course(ink: &Ink, nodes: &[Report], shift: [f64; 2]) -> Vec<Option<On>> {
    let mut columns: Vec<Vec<State>> = Vec::with_capacity(nodes.len());
    for (i, r) in nodes.iter().enumerate() {
        let at = [r.at[0] + shift[0], r.at[1] + shift[1]];
        let own = |k: usize| {
            let p = ink.places[k];
            let (d, c) = (distance(p.at, at) / MISS_MM, dot(p.along, r.along));
            State { on: Some(On { place: k, up: c >= 0.0 }), cost: 0.5 * d * d + ASLANT * (1.0 - c * c), from: 0 }
        };
        let mut column = vec![State { on: None, cost: NONE, from: 0 }];
        column.extend(ink.near(at, REACH_MM).map(own));
        if let Some(before) = columns.last() {
            let gone = r.way - nodes[i - 1].way;
            for s in &mut column {
                let (from, cost) =
                    before.iter().enumerate().map(|(k, b)| (k, b.cost + step(ink, b.on, s.on, gone))).min_by(|a, b| a.1.total_cmp(&b.1)).unwrap_or((0, 0.0));
                (s.cost, s.from) = (s.cost + cost, from);
            }
        }
        columns.push(column);
    }
    let mut out = vec![None; nodes.len()];
    let last = columns.last().and_then(|c| (0..c.len()).min_by(|a, b| c[*a].cost.total_cmp(&c[*b].cost)));
    let Some(mut k) = last else { return out };
    for i in (0..nodes.len()).rev() {
        out[i] = columns[i][k].on;
        k = columns[i][k].from;
    }
    out
}

/// What it costs to get from one place to another while the hand goes `gone` mm.
fn step(ink: &Ink, from: Option<On>, to: Option<On>, gone: f64) -> f64 {
    match (from, to) {
        (None, None) => 0.0,
        (None, Some(_)) | (Some(_), None) => 0.5 * CHANGE,
        (Some(a), Some(b)) => {
            let (p, q) = (ink.places[a.place], ink.places[b.place]);
            if p.line == q.line && a.up == b.up {
                let steps = if a.up { b.place as f64 - a.place as f64 } else { a.place as f64 - b.place as f64 };
                if steps >= 0.0 {
                    return STRAY * (steps * STEP_MM - gone).abs();
                }
            }
            CHANGE + STRAY * (distance(p.at, q.at) - gone).abs()
        }
    }
}

/// Where a stroke is along the lines, by time.
pub(super) struct Track {
    /// Time, place along the ink as a number of places, whether up; by runs on one line.
    runs: Vec<Run>,
}

struct Run {
    up: bool,
    t_ms: Vec<f64>,
    place: Vec<f64>,
    lines: [usize; 2],
}

impl Track {
    pub fn new(ink: &Ink, nodes: &[Report], course: &[Option<On>]) -> Self {
        let mut runs: Vec<Run> = Vec::new();
        let mut last: Option<(usize, bool)> = None;
        for (r, on) in nodes.iter().zip(course) {
            let key = on.map(|o| (ink.places[o.place].line, o.up));
            if let (Some(o), Some(k)) = (on, key) {
                if last != key {
                    let line = ink.places.partition_point(|p| p.line < k.0);
                    let end = ink.places.partition_point(|p| p.line <= k.0);
                    runs.push(Run { up: o.up, t_ms: Vec::new(), place: Vec::new(), lines: [line, end] });
                }
                if let Some(run) = runs.last_mut() {
                    run.t_ms.push(r.t_ms);
                    run.place.push(o.place as f64);
                }
            }
            last = key;
        }
        runs.retain(|r| r.t_ms.len() >= 4);
        for run in &mut runs {
            run.place = eddymist_measure::stats::moving_mean(&run.place, 5.min(run.place.len() | 1));
            // A mean of fewer at the ends must not turn back.
            let up = run.up;
            let mut most = run.place[0];
            for p in &mut run.place {
                most = if up { most.max(*p) } else { most.min(*p) };
                *p = most;
            }
        }
        Self { runs }
    }

    /// The width of the line where the stroke was at a time, and the place; none where it was on none, or it is not measured there.
    pub fn width(&self, ink: &Ink, t_ms: f64) -> Option<(f64, [f64; 2])> {
        let run = self.runs.iter().find(|r| r.t_ms[0] <= t_ms && t_ms <= r.t_ms[r.t_ms.len() - 1])?;
        let i = run.t_ms.partition_point(|t| *t <= t_ms).clamp(1, run.t_ms.len() - 1);
        let (t0, t1) = (run.t_ms[i - 1], run.t_ms[i]);
        let f = if t1 > t0 { (t_ms - t0) / (t1 - t0) } else { 0.0 };
        let place = run.place[i - 1] + f * (run.place[i] - run.place[i - 1]);
        let k = (place.floor().max(run.lines[0] as f64) as usize).min(run.lines[1] - 1);
        let (a, b) = (ink.places[k], ink.places[(k + 1).min(run.lines[1] - 1)]);
        let f = (place - k as f64).clamp(0.0, 1.0);
        Some((a.width? + f * (b.width? - a.width?), [0, 1].map(|c| a.at[c] + f * (b.at[c] - a.at[c]))))
    }
}
