//! What is no straight stroke: dots, the ring, the mean of a field.
//!
//! How: a dot's diameter from its area; the ring's widths between its inner and outer edge by direction. Limits: a ring must close inside its ticks.

use std::f64::consts::TAU;

use super::{
    StrokeReading,
    beside::Axes,
    layout::{RING_MM, Slot},
    marks::Placement,
};
use crate::{
    scan::{levels::InkLevel, paper::Flat, sampled::sample},
    stats::{median, moving_mean, quantile},
};

/// Absorptance over the middle of a field: the `share` of its half sides about its centre, a place every 0.1 mm.
pub fn field(slot: &Slot, share: f64, place: &Placement, flat: &Flat) -> Vec<f64> {
    let mid = [0.5 * (slot.from[0] + slot.to[0]), slot.from[1]];
    let (half, high) = (share * (slot.to[0] - slot.from[0]), 2.0 * share * slot.reach);
    let (nx, ny) = ((half / 0.1) as i32, (high / 0.1) as i32);
    (-ny..=ny)
        .flat_map(|j| (-nx..=nx).map(move |i| (i, j)))
        .map(|(i, j)| {
            let p = place.px([mid[0] + 0.1 * f64::from(i), mid[1] + 0.1 * f64::from(j)]);
            f64::from(sample(flat, p[0], p[1]))
        })
        .collect()
}

/// A dot: its ink's area as that of a disc. Paper about it is taken as nought, and ink that touches the window's border is
/// no dot.
pub fn dot(index: usize, slot: &Slot, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Option<StrokeReading> {
    let px = 25.4 / axes.dpi_mean();
    let c = place.px(slot.from);
    let reach = (slot.reach / px) as i64;
    let (cx, cy) = (c[0] as i64, c[1] as i64);
    let at = |x: i64, y: i64| {
        let inside = x >= 0 && y >= 0 && (x as usize) < flat.width && (y as usize) < flat.height;
        if inside { f64::from(flat.data[y as usize * flat.width + x as usize]) } else { 0.0 }
    };
    // The middle of the ink in the window, then a tighter window about it.
    let centre = |cx: i64, cy: i64, r: i64| {
        let (mut m, mut sx, mut sy) = (0.0, 0.0, 0.0);
        for y in cy - r..=cy + r {
            for x in cx - r..=cx + r {
                let v = at(x, y);
                if v > 0.3 {
                    m += v;
                    sx += v * x as f64;
                    sy += v * y as f64;
                }
            }
        }
        (m > 4.0).then(|| ((sx / m) as i64, (sy / m) as i64, m))
    };
    let (cx, cy, rough) = centre(cx, cy, reach)?;
    let radius = (rough / ink.absorptance / std::f64::consts::PI).sqrt();
    let r = ((1.8 * radius) as i64 + 8).min(reach);
    let (mut border, mut sum) = (Vec::new(), 0.0);
    for y in cy - r..=cy + r {
        for x in cx - r..=cx + r {
            if (x - cx).abs() == r || (y - cy).abs() == r {
                border.push(at(x, y));
            }
            sum += at(x, y);
        }
    }
    if quantile(&border, 0.98)? > 0.3 {
        return None;
    }
    let side = (2 * r + 1) as f64;
    let area = (sum - median(&border)? * side * side) / ink.absorptance;
    let diameter = 2.0 * (area.max(0.0) / std::f64::consts::PI).sqrt() * px;
    (diameter > 0.02).then(|| StrokeReading {
        slot: index as u32,
        from: [cx as f64 + 0.5, cy as f64 + 0.5],
        to: [cx as f64 + 0.5, cy as f64 + 0.5],
        direction_deg: 0.0,
        begins_mm: 0.0,
        length_mm: diameter,
        step_mm: 0.0,
        width_mm: Vec::new(),
        left_mm: Vec::new(),
        right_mm: Vec::new(),
        bow_mm: Vec::new(),
        autocorrelation: Vec::new(),
        body: None,
        dot_mm: Some(diameter),
    })
}

/// The ring as it was read.
pub struct Ring {
    /// Widths by direction of travel, degrees counter-clockwise and mm, every three degrees.
    pub by_direction: Vec<[f64; 2]>,
    /// Its outer and its inner edge in scan px.
    pub edges_px: [Vec<[f64; 2]>; 2],
}

/// The middle of the ring's ink along a radius: how far out (sheet mm), how wide (mm), and its edges in scan px.
struct Way {
    radius: f64,
    width: f64,
    edges: [[f64; 2]; 2],
}

/// Walks the ring radius by radius; none where there is no closed ring. The width along a radius is brought to the normal by
/// the ring's own slant.
pub fn ring(slot: &Slot, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Option<Ring> {
    const STEPS: usize = 720;
    let across = 0.5;
    let (inner, outer) = (RING_MM - slot.reach - 2.0, RING_MM + slot.reach);
    let ways: Vec<Option<Way>> = (0..STEPS)
        .map(|k| {
            let a = TAU * k as f64 / STEPS as f64;
            let (p, q) = (
                place.px([slot.from[0] + inner * a.cos(), slot.from[1] - inner * a.sin()]),
                place.px([slot.from[0] + outer * a.cos(), slot.from[1] - outer * a.sin()]),
            );
            let long = (q[0] - p[0]).hypot(q[1] - p[1]);
            let unit = [(q[0] - p[0]) / long, (q[1] - p[1]) / long];
            let n = (long / across) as usize;
            let (mut mass, mut moment) = (0.0, 0.0);
            for i in 0..n {
                let t = (i as f64 + 0.5) / n as f64 * long;
                let v = f64::from(sample(flat, p[0] + unit[0] * t, p[1] + unit[1] * t));
                if v > 0.08 {
                    mass += v * across;
                    moment += v * across * t;
                }
            }
            let (mid, half) = (moment / mass, 0.5 * mass / ink.absorptance);
            let edge = |t: f64| [p[0] + unit[0] * t, p[1] + unit[1] * t];
            (mass > 0.8).then(|| Way {
                radius: inner + (outer - inner) * mid / long,
                width: 2.0 * half * axes.mm(unit),
                edges: [edge(mid + half), edge(mid - half)],
            })
        })
        .collect();
    if ways.iter().filter(|w| w.is_none()).count() * 12 > STEPS {
        return None;
    }
    let radii = moving_mean(&ways.iter().map(|w| w.as_ref().map_or(0.0, |w| w.radius)).collect::<Vec<_>>(), 9);
    let step = TAU / STEPS as f64;
    let by_direction: Vec<[f64; 2]> = (0..STEPS / 6)
        .filter_map(|b| {
            let some: Vec<f64> = (6 * b..6 * b + 6)
                .filter_map(|k| {
                    let slope = (radii[(k + 6) % STEPS] - radii[(k + STEPS - 6) % STEPS]) / (12.0 * step * radii[k].max(1.0));
                    ways[k].as_ref().map(|w| w.width / 1f64.hypot(slope))
                })
                .collect();
            let a = 360.0 * (b as f64 + 0.5) / (STEPS / 6) as f64;
            // Travel is along the tangent.
            median(&some).map(|w| [(a + 90.0).rem_euclid(360.0), w])
        })
        .collect();
    let edges_px = [0, 1].map(|side| ways.iter().flatten().step_by(4).map(|w| w.edges[side].map(|v| (v * 100.0).round() / 100.0)).collect());
    (!by_direction.is_empty()).then_some(Ring { by_direction, edges_px })
}
