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
    runs: Vec<Run>,
}

/// A line where a hand went over it: its width, its place, and the unit vector along it as the hand went.
#[derive(Debug, Clone, Copy)]
pub(super) struct SeenLine {
    pub width: f64,
    pub at: [f64; 2],
    pub along: [f64; 2],
}

/// A stretch of a stroke on one line: whether it goes up along it, its nodes' times and places (as numbers of places), the line's own.
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

    /// The line where the stroke was at a time; none where it was on none, or its width is not known there.
    pub fn seen(&self, ink: &Ink, t_ms: f64) -> Option<SeenLine> {
        let run = self.runs.iter().find(|r| r.t_ms[0] <= t_ms && t_ms <= r.t_ms[r.t_ms.len() - 1])?;
        let i = run.t_ms.partition_point(|t| *t <= t_ms).clamp(1, run.t_ms.len() - 1);
        let (t0, t1) = (run.t_ms[i - 1], run.t_ms[i]);
        let f = if t1 > t0 { (t_ms - t0) / (t1 - t0) } else { 0.0 };
        let place = run.place[i - 1] + f * (run.place[i] - run.place[i - 1]);
        let k = (place.floor().max(run.lines[0] as f64) as usize).min(run.lines[1] - 1);
        let (a, b) = (ink.places[k], ink.places[(k + 1).min(run.lines[1] - 1)]);
        let f = (place - k as f64).clamp(0.0, 1.0);
        let along = if run.up { a.along } else { a.along.map(|v| -v) };
        Some(SeenLine { width: a.width? + f * (b.width? - a.width?), at: [0, 1].map(|c| a.at[c] + f * (b.at[c] - a.at[c])), along })
    }
}

#[cfg(test)]
mod tests {
    use eddymist_measure::inked::{InkedLine, InkedPage, InkedPlace};
    use serde::Deserialize;

    use super::*;

    #[derive(Deserialize)]
    struct Case {
        line: Vec<[f64; 2]>,
        nodes: Vec<[f64; 2]>,
        mm: Vec<f64>,
    }

    fn page(lines: &[&[[f64; 2]]]) -> Ink {
        let line =
            |l: &&[[f64; 2]]| InkedLine { places: l.iter().map(|p| InkedPlace { x_mm: p[0], y_mm: p[1], width_mm: Some(0.5) }).collect(), free: [true; 2] };
        Ink::new(&InkedPage { size_mm: [210.0, 148.0], lines: lines.iter().map(line).collect(), warnings: Vec::new() })
    }

    fn nodes(at: &[[f64; 2]]) -> Vec<Report> {
        let way = eddymist_ink::stroke::along(at.iter().map(|p| (p[0], p[1])));
        (0..at.len())
            .map(|i| {
                let (a, b) = (at[i.saturating_sub(1)], at[(i + 1).min(at.len() - 1)]);
                let d = distance(a, b).max(1e-9);
                let along = [(b[0] - a[0]) / d, (b[1] - a[1]) / d];
                Report { stroke: 0, t_ms: 8.0 * i as f64, at: at[i], along, raw: 0.5, speed: 60.0, way: way[i] }
            })
            .collect()
    }

    /// A stroke that goes over a line up to a millimetre beside it is where dtw-python has it (`make_pairs.py`), forward and back.
    #[test]
    fn a_course_is_where_dtw_has_it() {
        let cases: Vec<Case> = serde_json::from_str(include_str!("../../../../tests/reference/warping.json")).expect("golden");
        for c in cases {
            let ink = page(&[&c.line]);
            let on = course(&ink, &nodes(&c.nodes), [0.0; 2]);
            let place = |o: &Option<On>| o.map(|o| o.place as f64 * STEP_MM);
            let off: Vec<f64> = on.iter().zip(&c.mm).filter_map(|(o, mm)| Some((place(o)? - mm).abs())).collect();
            assert!(off.len() * 50 >= on.len() * 49, "{} of {}", off.len(), on.len());
            assert!(
                eddymist_measure::stats::median(&off).expect("some") < 0.35 && eddymist_measure::stats::quantile(&off, 0.95).expect("some") < 1.2,
                "{off:?}"
            );
            let back: Vec<[f64; 2]> = c.nodes.iter().rev().copied().collect();
            let reversed = course(&ink, &nodes(&back), [0.0; 2]);
            let same = on.iter().zip(reversed.iter().rev()).filter(|(a, b)| place(a).zip(place(b)).is_some_and(|(a, b)| (a - b).abs() < 0.61)).count();
            assert!(same * 10 >= on.len() * 9 && reversed.iter().flatten().all(|o| !o.up), "{same} of {}", on.len());
        }
    }

    /// At a crossing a stroke stays on its own line, whichever pieces the crossing leaves.
    #[test]
    fn a_crossing_is_passed_straight() {
        let level: Vec<[f64; 2]> = (0..400).map(|i| [20.0 + 0.1 * f64::from(i), 60.0]).collect();
        let down: Vec<[f64; 2]> = (0..400).map(|i| [40.0, 40.0 + 0.1 * f64::from(i)]).collect();
        let ink = page(&[&level[..195], &level[205..], &down[..195], &down[205..]]);
        let along: Vec<[f64; 2]> = (0..76).map(|i| [21.0 + 0.5 * f64::from(i), 60.6]).collect();
        let on = course(&ink, &nodes(&along), [0.0; 2]);
        assert!(on.iter().flatten().all(|o| ink.places[o.place].line < 2 && o.up));
        assert!(on.iter().flatten().any(|o| ink.places[o.place].line == 0) && on.iter().flatten().any(|o| ink.places[o.place].line == 1));
        // Nothing is on a line that is a centimetre off.
        let far: Vec<[f64; 2]> = along.iter().map(|p| [p[0], 80.0 + 20.0]).collect();
        assert!(course(&ink, &nodes(&far), [0.0; 2]).iter().all(Option::is_none));
    }
}
