//! Two inks of one role that run side by side with less clear paper between them than the thinner is wide.
//!
//! How: the paper beside every place (`beside`), in runs over four widths. Limits: lines that part at less than about 15° are one fork, however
//! long they stay near; hatching has none.

use eddymist_measure::drawing::{End, Line};

use crate::{
    beside::{Beside, Neighbour},
    document::FindingKind,
    fault::{Fault, width_of},
};

/// A double lasts for more than so many widths.
const DOUBLE_WIDTHS: f64 = 4.0;
/// Lines that part do so at an angle between these, as tangents: about 2° and 15°.
const LEAST_FORK: f64 = 0.035;
const MOST_FORK: f64 = 0.27;
/// Clear paper that grows by less, px, may be the same all along.
const GROWS: f64 = 0.75;
/// Where several lines part from one root they are one for so many widths.
const ROOT_WIDTHS: f64 = 8.0;

/// Runs that lie behind one another within so many widths are one double: where the paper is hardest to see the lines run together.
const PARTED_WIDTHS: f64 = 6.0;

/// A double, px: the direction that it runs in, its lines' width.
struct Run {
    fault: Fault,
    way: [f64; 2],
    width: f64,
}

impl Run {
    fn long(&self) -> f64 {
        self.fault.length_px.unwrap_or(0.0)
    }

    /// How far another's middle lies along this one and across it.
    fn to(&self, other: &Self) -> [f64; 2] {
        let (dx, dy) = (other.fault.x - self.fault.x, other.fault.y - self.fault.y);
        [(dx * self.way[0] + dy * self.way[1]).abs(), (dx * self.way[1] - dy * self.way[0]).abs()]
    }

    /// Takes in one that goes on where this one leaves off; gives it back where it does not.
    fn join(&mut self, other: Self) -> Option<Self> {
        let [along, across] = self.to(&other);
        let (a, b) = (self.long(), other.long());
        if across > 0.75 * self.width || along > 0.5 * (a + b) + PARTED_WIDTHS * self.width {
            return Some(other);
        }
        let share = b / (a + b).max(1e-9);
        let mix = |of: f64, with: f64| of + (with - of) * share;
        let (f, g) = (&mut self.fault, &other.fault);
        (f.x, f.y, f.value, f.limit) = (mix(f.x, g.x), mix(f.y, g.y), mix(f.value, g.value), mix(f.limit, g.limit));
        f.length_px = Some((along + 0.5 * (a + b)).max(a).max(b));
        None
    }
}

/// Two inks of one role that run side by side with less clear paper between them than the thinner is wide.
pub(crate) fn doubles(lines: &[Line]) -> Vec<Fault> {
    let mut all: Vec<Run> = Vec::new();
    for run in runs(lines) {
        let mut left = Some(run);
        for known in &mut all {
            left = left.and_then(|r| known.join(r));
        }
        all.extend(left);
    }
    all.into_iter().map(|r| r.fault).collect()
}

fn runs(lines: &[Line]) -> Vec<Run> {
    let plain: Vec<&Line> = lines.iter().collect();
    let beside = Beside::new(&plain, |k| lines[k].hatching);
    let mut out: Vec<Run> = Vec::new();
    for (k, line) in lines.iter().enumerate().filter(|(_, l)| !l.hatching) {
        let Some(width) = width_of(line) else { continue };
        let n = line.points.len();
        let found: Vec<Option<Neighbour>> = (0..n).map(|i| beside.neighbour(k, i, width, 2.5 * width).filter(|f| f.clear < f.thinner)).collect();
        let mut i = 0;
        while i < n {
            let Some(Neighbour { line: other, .. }) = found[i] else {
                i += 1;
                continue;
            };
            let first = i;
            while i < n && found[i].is_some_and(|f| f.line == other) {
                i += 1;
            }
            let run: Vec<Neighbour> = found[first..i].iter().flatten().copied().collect();
            // Each pair is seen from both of its lines: it is told once.
            if other as usize > k || other as usize == k && run[0].place as usize > first {
                out.extend(double_of((line, &lines[other as usize]), first, &run, width));
            }
        }
    }
    out
}

/// Whether the paper beside a run narrows toward where its line meets another: the run's lines part from one fork, however long they stay near.
fn forked((line, other): (&Line, &Line), first: usize, run: &[Neighbour], [start, end]: [f64; 2], width: f64) -> bool {
    let count = run.len();
    // From the middle of the first quarter to the middle of the last.
    let grows = (end - start) / (0.75 * count as f64 * line.step_px);
    if !(LEAST_FORK..MOST_FORK).contains(&grows.abs()) {
        return false;
    }
    let meet = start.min(end) / grows.abs() + ROOT_WIDTHS * width;
    let joins = |l: &Line, side: usize, left: usize| !matches!(l.ends[side], End::Free { .. }) && left as f64 * l.step_px <= meet;
    // Either may be the one that ends where they part; the other may run either way.
    let (a, b) = (run[0].place as usize, run[count - 1].place as usize);
    let narrow = if grows > 0.0 { a } else { b };
    let back = (grows > 0.0) == (b >= a);
    // A line that turns back on itself at a root parts from itself.
    if std::ptr::eq(line, other) {
        let own = if grows > 0.0 { first } else { first + count };
        return own.abs_diff(narrow) as f64 * line.step_px <= 2.0 * meet;
    }
    let others = if back { (0, narrow) } else { (1, other.points.len().saturating_sub(narrow + 1)) };
    let own = if grows > 0.0 { (0, first) } else { (1, line.points.len().saturating_sub(first + count)) };
    joins(line, own.0, own.1) || joins(other, others.0, others.1)
}

/// The double in a run of places beside another line, unless it is the fork of two lines that part.
fn double_of((line, other): (&Line, &Line), first: usize, run: &[Neighbour], width: f64) -> Option<Run> {
    let long = run.len() as f64 * line.step_px;
    if long <= DOUBLE_WIDTHS * width {
        return None;
    }
    let part = (run.len() / 4).max(1);
    let mean = |r: &[Neighbour]| r.iter().map(|v| v.clear).sum::<f64>() / r.len() as f64;
    let (start, end) = (mean(&run[..part]), mean(&run[run.len() - part..]));
    // Two lines that part or meet: clear paper grows all along from nearly nothing.
    let (narrow, wide) = (start.min(end), start.max(end));
    if wide > 2.0 * narrow && wide > narrow + GROWS && narrow < 0.35 * width || forked((line, other), first, run, [start, end], width) {
        return None;
    }
    let value = mean(run);
    let p = &line.points[first + run.len() / 2];
    let (a, b) = (&line.points[first], &line.points[first + run.len() - 1]);
    let (dx, dy) = (f64::from(b.x - a.x), f64::from(b.y - a.y));
    let d = dx.hypot(dy).max(1e-9);
    let fault = Fault::new(FindingKind::Double, (f64::from(p.x), f64::from(p.y)), Some(long), value, width);
    Some(Run { fault, way: [dx / d, dy / d], width })
}
