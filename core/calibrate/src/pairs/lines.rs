//! The page's lines as places that can be looked up by where they are, and the strokes as what is laid over them.
//!
//! How: lines are thinned to a place every [`STEP_MM`] and put into square cells. Limits: a stroke shorter than 2 mm, or without pressure, is none.

use eddymist_ink::Stroke;
use eddymist_measure::inked::InkedPage;

/// Places along a line are so far apart, mm.
pub(super) const STEP_MM: f64 = 0.2;
const CELL_MM: f64 = 2.0;
/// A stroke shorter than this is none, mm.
const LEAST_MM: f64 = 2.0;
/// Speed and direction are taken over so long, ms.
const OVER_MS: f64 = 80.0;

/// A place on a line.
#[derive(Debug, Clone, Copy)]
pub(super) struct InkPlace {
    pub at: [f64; 2],
    /// Unit vector along the line.
    pub along: [f64; 2],
    pub width: Option<f64>,
    pub line: usize,
}

/// All lines of a page.
pub(super) struct Ink {
    /// Line by line, in order along each.
    pub places: Vec<InkPlace>,
    /// The lines' free ends, as indices of places.
    pub tips: Vec<usize>,
    pub size: [f64; 2],
    columns: usize,
    cells: Vec<Vec<u32>>,
}

impl Ink {
    pub fn new(page: &InkedPage) -> Self {
        let mut places: Vec<InkPlace> = Vec::new();
        let mut tips = Vec::new();
        for (line, l) in page.lines.iter().enumerate() {
            let first = places.len();
            let step = l.places.windows(2).map(|w| (w[1].x_mm - w[0].x_mm).hypot(w[1].y_mm - w[0].y_mm)).sum::<f64>() / (l.places.len() as f64 - 1.0).max(1.0);
            let stride = ((STEP_MM / step.max(1e-6)).round() as usize).clamp(1, l.places.len().max(1));
            let n = l.places.len();
            for i in (stride / 2..n).step_by(stride) {
                let (a, b) = (i.saturating_sub(2 * stride), (i + 2 * stride).min(n - 1));
                let (dx, dy) = (l.places[b].x_mm - l.places[a].x_mm, l.places[b].y_mm - l.places[a].y_mm);
                let d = dx.hypot(dy).max(1e-9);
                let about = &l.places[i.saturating_sub(stride / 2)..(i + stride / 2 + 1).min(n)];
                let widths: Option<Vec<f64>> = about.iter().map(|p| p.width_mm).collect();
                let width = widths.map(|w| w.iter().sum::<f64>() / w.len() as f64);
                places.push(InkPlace { at: [l.places[i].x_mm, l.places[i].y_mm], along: [dx / d, dy / d], width, line });
            }
            if places.len() > first {
                tips.extend(l.free.into_iter().zip([first, places.len() - 1]).filter(|t| t.0).map(|t| t.1));
            }
        }
        let size = page.size_mm.map(|v| v.max(1.0));
        let columns = (size[0] / CELL_MM).ceil() as usize + 1;
        let rows = (size[1] / CELL_MM).ceil() as usize + 1;
        let mut ink = Self { places, tips, size, columns, cells: vec![Vec::new(); columns * rows] };
        for i in 0..ink.places.len() {
            let c = ink.cell(ink.places[i].at);
            ink.cells[c].push(i as u32);
        }
        ink
    }

    fn cell(&self, at: [f64; 2]) -> usize {
        let k = |v: f64, most: usize| ((v / CELL_MM).max(0.0) as usize).min(most - 1);
        k(at[1], self.cells.len() / self.columns) * self.columns + k(at[0], self.columns)
    }

    /// Places within `reach` of a point.
    pub fn near(&self, at: [f64; 2], reach: f64) -> impl Iterator<Item = usize> + '_ {
        let rows = self.cells.len() / self.columns;
        let span = |v: f64, most: usize| {
            let low = ((v - reach) / CELL_MM).floor().max(0.0) as usize;
            low.min(most)..(((v + reach) / CELL_MM).floor().max(-1.0) + 1.0) as usize
        };
        let (xs, ys) = (span(at[0], self.columns), span(at[1], rows));
        ys.take_while(move |y| *y < rows)
            .flat_map(move |y| xs.clone().take_while(|x| *x < self.columns).flat_map(move |x| self.cells[y * self.columns + x].iter()))
            .map(|i| *i as usize)
            .filter(move |i| distance(self.places[*i].at, at) <= reach)
    }

    /// The nearest place whose line runs as the stroke does, within 40° either way.
    pub fn nearest(&self, at: [f64; 2], along: [f64; 2], reach: f64) -> Option<usize> {
        self.near(at, reach)
            .filter(|i| dot(self.places[*i].along, along).abs() > 0.766)
            .min_by(|a, b| distance(self.places[*a].at, at).total_cmp(&distance(self.places[*b].at, at)))
    }

    /// Total length of what can be measured, mm.
    pub fn length(&self) -> f64 {
        self.places.len() as f64 * STEP_MM
    }
}

pub(super) fn distance(a: [f64; 2], b: [f64; 2]) -> f64 {
    (a[0] - b[0]).hypot(a[1] - b[1])
}

pub(super) fn dot(a: [f64; 2], b: [f64; 2]) -> f64 {
    a[0] * b[0] + a[1] * b[1]
}

/// A report of a stroke.
#[derive(Debug, Clone, Copy)]
pub(super) struct Report {
    pub stroke: usize,
    pub t_ms: f64,
    pub at: [f64; 2],
    /// Unit vector of travel.
    pub along: [f64; 2],
    pub raw: f64,
    pub speed: f64,
    /// Way from the stroke's start, mm.
    pub way: f64,
}

/// The reports of a stroke that has pressure; none where it is too short.
pub(super) fn reports(number: usize, stroke: &Stroke) -> Option<Vec<Report>> {
    let samples: Vec<_> = stroke.samples.iter().filter(|s| s.pressure.is_some()).collect();
    let way = eddymist_ink::stroke::along(samples.iter().map(|s| (s.x, s.y)));
    let last = *way.last()?;
    if last < LEAST_MM || samples.len() < 8 {
        return None;
    }
    // Over how many reports the time and the way of a stroke are taken: half to each side.
    let (mut a, mut b) = (0, 0);
    let out = (0..samples.len()).map(|i| {
        while samples[i].t_ms - samples[a].t_ms > 0.5 * OVER_MS {
            a += 1;
        }
        b = b.max(i);
        while b + 1 < samples.len() && samples[b + 1].t_ms - samples[i].t_ms <= 0.5 * OVER_MS {
            b += 1;
        }
        let (from, to) = (samples[a.min(i.saturating_sub(1))], samples[b.max((i + 1).min(samples.len() - 1))]);
        let (dx, dy) = (to.x - from.x, to.y - from.y);
        let d = dx.hypot(dy).max(1e-9);
        let seconds = ((to.t_ms - from.t_ms) / 1000.0).max(1e-6);
        let gone = way[b.max((i + 1).min(samples.len() - 1))] - way[a.min(i.saturating_sub(1))];
        Report {
            stroke: number,
            t_ms: samples[i].t_ms,
            at: [samples[i].x, samples[i].y],
            along: [dx / d, dy / d],
            raw: samples[i].pressure.unwrap_or(0.0),
            speed: gone * stroke.zoom / seconds,
            way: way[i],
        }
    });
    Some(out.collect())
}

/// Of all reports such as lie so far apart along their strokes, mm.
pub(super) fn thinned(reports: &[Report], apart: f64) -> Vec<Report> {
    let mut out: Vec<Report> = Vec::new();
    for r in reports {
        if out.last().is_none_or(|l| l.stroke != r.stroke || r.way - l.way >= apart) {
            out.push(*r);
        }
    }
    out
}
