//! What becomes of a drawing in print: lines that fall under the thinnest printable weight, and white gaps that close.
//!
//! A width in print is the drawn one times the reduction, plus the ink's gain; a gap is narrowed by the same gain (common practice in
//! prepress, no source). What is thinnest and what closes is the printer's to say.

use eddymist_measure::{
    drawing::{Line, Place},
    stats::moving_mean,
};

use crate::{
    beside::{Beside, Neighbour},
    document::{Lost, PrintPlace},
    guide::Print,
};

/// Stretches shorter than this in print are not told, mm.
const SHORTEST_MM: f64 = 0.3;

impl Print {
    /// A drawn width in px as mm in print.
    pub fn width_mm(&self, px: f64, px_per_mm: f64) -> f64 {
        px / px_per_mm * self.reduction + self.ink_gain_mm
    }

    /// A drawn white gap in px as mm in print.
    pub fn gap_mm(&self, px: f64, px_per_mm: f64) -> f64 {
        px / px_per_mm * self.reduction - self.ink_gain_mm
    }
}

/// What print loses of these lines, given with their roles' names; `px_per_mm` is of the drawing as it was drawn.
pub fn losses(print: &Print, px_per_mm: f64, lines: &[(&str, &Line)]) -> Vec<PrintPlace> {
    let plain: Vec<&Line> = lines.iter().map(|l| l.1).collect();
    let beside = Beside::new(&plain, |_| false);
    // White that would close, in px of the drawing.
    let closing = (print.closes_mm + print.ink_gain_mm) / print.reduction * px_per_mm;
    let least = SHORTEST_MM / print.reduction * px_per_mm;
    let mut out = Vec::new();
    for (k, (role, line)) in lines.iter().enumerate() {
        let smooth = moving_mean(&line.points.iter().map(|p| f64::from(p.width)).collect::<Vec<_>>(), ((4.0 / line.step_px) as usize).max(1));
        let thin = |i: usize| {
            let mm = print.width_mm(smooth[i], px_per_mm);
            (line.points[i].place == Place::Body && mm < print.thinnest_mm).then_some(mm)
        };
        for run in runs(line.points.len(), thin) {
            out.extend(place(Lost::TooThin, role, line, &run, print.thinnest_mm, least));
        }
        let found: Vec<Option<Neighbour>> = (0..line.points.len())
            .map(|i| {
                let width = f64::from(line.points[i].width);
                beside.neighbour(k, i, width, closing + 3.0 * width).filter(|n| n.clear < closing)
            })
            .collect();
        // Each white is seen from both of its lines: it is told once.
        let first = |i: usize| found[i].filter(|n| n.line as usize > k || n.line as usize == k && n.place as usize > i);
        for run in runs(line.points.len(), |i| first(i).map(|n| print.gap_mm(n.clear, px_per_mm))) {
            out.extend(place(Lost::Closes, role, line, &run, print.closes_mm, least));
        }
    }
    out
}

/// Runs of places that have a figure.
fn runs(n: usize, value: impl Fn(usize) -> Option<f64>) -> Vec<Vec<(usize, f64)>> {
    let mut out: Vec<Vec<(usize, f64)>> = Vec::new();
    let mut open = false;
    for i in 0..n {
        match value(i) {
            Some(v) if open => out.last_mut().into_iter().for_each(|r| r.push((i, v))),
            Some(v) => out.push(vec![(i, v)]),
            None => {}
        }
        open = value(i).is_some();
    }
    out
}

fn place(lost: Lost, role: &str, line: &Line, run: &[(usize, f64)], limit_mm: f64, least_px: f64) -> Option<PrintPlace> {
    let length_px = run.len() as f64 * line.step_px;
    if length_px < least_px {
        return None;
    }
    let at = |i: usize| [line.points[i].x, line.points[i].y].map(|v| (f64::from(v) * 10.0).round() / 10.0);
    let [x, y] = at(run[run.len() / 2].0);
    let value_mm = run.iter().map(|r| r.1).sum::<f64>() / run.len() as f64;
    let every = (run.len() / 60).max(1);
    Some(PrintPlace { lost, role: role.into(), x, y, length_px, value_mm, limit_mm, along: run.iter().step_by(every).map(|r| at(r.0)).collect() })
}
