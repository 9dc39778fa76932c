//! Lanes of what is no ruled line: widths by direction (fan, circle), dots, hatching; pen and brush over one ruler.
//!
//! How: the pen's figures as the card has them, the brush's from the hand's own strokes or, where it drew none, from straight lines at
//! normal effort. Limits: dots are shown as wide as they are, not as they are shaped.

use std::f64::consts::TAU;

use eddymist_ink::{Course, InkError, Inker, Outline, Sample, Stroke, raster::rasterise, stroke::along};
use eddymist_measure::{
    course::Patch,
    sheet::{CellReading, SheetReading, layout::CellKind},
    stats::median,
};

use crate::{
    Exercise, WarmUp,
    lanes::{Along, Lane, interpolate, middle},
};

/// Directions in which the brush is tried, and the length of such a line, mm.
const DIRECTIONS: usize = 24;
const RAY_MM: f64 = 20.0;
/// Resolution at which hatching is measured, px a mm.
const FINE: f64 = 24.0;
/// Places round a dot.
const ROUND: usize = 32;

/// What a lane shows besides lines of one effort.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shown {
    Fan,
    Circle,
    Dots,
    Hatching,
}

fn cell(sheet: Option<&SheetReading>, kind: CellKind) -> Option<&CellReading> {
    sheet?.cells.iter().find(|c| c.kind == kind)
}

/// Bars as tall as the widths, by whatever stands along the ruler.
fn bars(pen: &[[f64; 2]], brush: &[[f64; 2]], length: f64, along: Along) -> Lane {
    let shape = |pairs: &[[f64; 2]]| {
        let half = |side: f64| move |p: &[f64; 2]| [p[0], side * 0.5 * p[1]];
        pairs.iter().map(half(-1.0)).chain(pairs.iter().rev().map(half(1.0))).collect::<Vec<_>>()
    };
    let difference = if pen.len() > 1 && brush.len() > 1 {
        let (from, to) = (pen[0][0].max(brush[0][0]), pen[pen.len() - 1][0].min(brush[brush.len() - 1][0]));
        let at = |k: usize| from + (to - from) * k as f64 / 240.0;
        (0..=240).map(|k| [at(k), 1000.0 * (interpolate(brush, at(k)) - interpolate(pen, at(k)))]).collect()
    } else {
        Vec::new()
    };
    let mean = |pairs: &[[f64; 2]]| pairs.iter().map(|p| p[1]).sum::<f64>() / pairs.len().max(1) as f64;
    Lane {
        length_mm: length,
        pen: shape(pen),
        brush: shape(brush),
        difference,
        pen_mm: mean(pen),
        brush_mm: mean(brush),
        along,
        under: Vec::new(),
        hatching: None,
        pressed: None,
        paced: None,
    }
}

/// Dots in a row, each as wide as it is.
fn row_of_dots(pen: &[f64], brush: &[f64]) -> Lane {
    let widest = pen.iter().chain(brush).copied().fold(0.5, f64::max);
    let pitch = 2.0 * widest;
    let shape = |dots: &[f64]| {
        dots.iter()
            .enumerate()
            .flat_map(|(k, d)| {
                let x = pitch * (k as f64 + 0.5);
                // From its left, round, and back to the axis: the dots hang together on the axis.
                (0..=ROUND).map(move |i| {
                    let a = TAU * i as f64 / ROUND as f64;
                    [x - 0.5 * d * a.cos(), -0.5 * d * a.sin()]
                })
            })
            .collect::<Vec<_>>()
    };
    let n = pen.len().max(brush.len());
    let mean = |dots: &[f64]| dots.iter().sum::<f64>() / dots.len().max(1) as f64;
    let pairs = pen.iter().zip(brush).enumerate();
    let difference = pairs.flat_map(|(k, (p, b))| [0.2, 0.8].map(|at| [pitch * (k as f64 + at), 1000.0 * (b - p)])).collect();
    Lane {
        length_mm: pitch * n.max(1) as f64,
        pen: shape(pen),
        brush: shape(brush),
        difference,
        pen_mm: mean(pen),
        brush_mm: mean(brush),
        along: Along::Dots,
        under: Vec::new(),
        hatching: None,
        pressed: None,
        paced: None,
    }
}

/// A straight line in a direction (degrees, counter-clockwise) at a hand's usual speed.
fn ray(direction: f64) -> Stroke {
    let a = direction.to_radians();
    let n = 80;
    Stroke::new(
        (0..=n)
            .map(|k| {
                let d = RAY_MM * f64::from(k) / f64::from(n);
                Sample { t_ms: 5.0 * f64::from(k), x: d * a.cos(), y: -d * a.sin(), ..Sample::default() }
            })
            .collect(),
    )
}

/// The lane of an exercise. `steady` inks at effort 0.5 whatever the pressure; `inker` goes by the hand's own strokes.
pub fn shown(what: Shown, sheet: Option<&SheetReading>, warmup: Option<&WarmUp>, inker: &Inker) -> Result<Lane, InkError> {
    let steady = inker.clone().with_course(Course::Even);
    let degrees = |k: usize| 360.0 * k as f64 / DIRECTIONS as f64;
    Ok(match what {
        Shown::Fan => {
            let mut pen: Vec<[f64; 2]> = cell(sheet, CellKind::Fan)
                .map(|c| c.strokes.iter().filter_map(|s| Some([s.direction_deg.rem_euclid(360.0), median(&s.width_mm)?])).collect())
                .unwrap_or_default();
            pen.sort_by(|a, b| a[0].total_cmp(&b[0]));
            let brush: Vec<[f64; 2]> = (0..=DIRECTIONS).map(|k| [degrees(k), middle(&crate::lanes::inked(&ray(degrees(k)), &steady))]).collect();
            bars(&pen, &brush, 360.0, Along::Degrees)
        }
        Shown::Circle => {
            let mut pen = cell(sheet, CellKind::Circle).map(|c| c.by_direction.clone()).unwrap_or_default();
            pen.iter_mut().for_each(|p| p[0] = p[0].rem_euclid(360.0));
            pen.sort_by(|a, b| a[0].total_cmp(&b[0]));
            let brush = warmup.and_then(|w| w.strokes(Exercise::Circle).next()).map(|s| by_direction(s, inker)).unwrap_or_default();
            bars(&pen, &brush, 360.0, Along::Degrees)
        }
        Shown::Dots => {
            let pen: Vec<f64> = cell(sheet, CellKind::Dot).map(|c| c.strokes.iter().filter_map(|s| s.dot_mm).collect()).unwrap_or_default();
            let of = |s: &Stroke| {
                let o = inker.ink(s).outline(0.0005);
                2.0 * (o.area_mm2() / std::f64::consts::PI).sqrt()
            };
            let brush: Vec<f64> = warmup.map(|w| w.strokes(Exercise::Dot).map(of).collect()).unwrap_or_default();
            row_of_dots(&pen, &brush)
        }
        Shown::Hatching => hatching(sheet, &steady),
    })
}

/// Widths of a turning stroke by its direction of travel, in steps of 15°.
fn by_direction(stroke: &Stroke, inker: &Inker) -> Vec<[f64; 2]> {
    let samples = inker.ink(stroke).samples;
    let way = along(samples.iter().map(|s| (s.x, s.y)));
    let total = way.last().copied().unwrap_or(0.0);
    let mut bins = vec![Vec::new(); DIRECTIONS];
    for w in 1..samples.len().saturating_sub(1) {
        // The ends have tapers.
        if way[w] < 0.05 * total || way[w] > 0.95 * total {
            continue;
        }
        let (a, b) = (&samples[w - 1], &samples[w + 1]);
        if (b.x - a.x).hypot(b.y - a.y) > 0.0 {
            let d = (-(b.y - a.y)).atan2(b.x - a.x).to_degrees().rem_euclid(360.0);
            bins[(d / 360.0 * DIRECTIONS as f64).round() as usize % DIRECTIONS].push(samples[w].width_mm);
        }
    }
    let seen = bins.iter_mut().enumerate();
    seen.filter_map(|(k, b)| Some([360.0 * k as f64 / DIRECTIONS as f64, median(b)?])).collect()
}

/// Line by line: the pen's hatching, and the brush over the same lines at effort 0.5.
fn hatching(sheet: Option<&SheetReading>, steady: &Inker) -> Lane {
    let found = sheet.and_then(|s| Some((s, cell(Some(s), CellKind::Hatching)?)));
    let Some((sheet, cell)) = found else { return bars(&[], &[], 1.0, Along::Lines) };
    let mm = 25.4 / sheet.resolution_dpi;
    let mut strokes = Vec::new();
    let (mut pen, mut brush) = (Vec::new(), Vec::new());
    for line in cell.free.iter().filter(|l| l.points_px.len() > 2) {
        let Some(width) = median(&line.width_mm) else { continue };
        let samples = line.points_px.iter().map(|p| Sample { x: p[0] * mm, y: p[1] * mm, ..Sample::default() }).collect();
        let stroke = Stroke { samples, zoom: 1.0, timed: false };
        let at = strokes.len() as f64 + 0.5;
        pen.push([at, width]);
        brush.push([at, middle(&crate::lanes::inked(&stroke, steady))]);
        strokes.push(stroke);
    }
    let n = pen.len().max(1) as f64;
    let mut lane = bars(&pen, &brush, n, Along::Lines);
    let ink = Outline::merged(strokes.iter().map(|s| steady.ink(s).outline(0.002)));
    if let (Some(theirs), Some([l, t, r, b])) = (cell.coarseness, ink.bounds()) {
        let (width, height) = (((r - l) * FINE).ceil() as usize + 2, ((b - t) * FINE).ceil() as usize + 2);
        let c = rasterise(&ink, FINE, [l - 1.0 / FINE, t - 1.0 / FINE], width, height);
        let patch = Patch { width, height, coverage: c.data };
        lane.hatching = patch.coarseness(&patch.lines(), 1.0 / FINE).map(|ours| [theirs, ours]);
    }
    lane
}
