//! Simulated pens: the width that each gives at an effort, and how it varies.

use eddymist_ink::{Outline, outline::Path};
use serde::Serialize;

use crate::{normal, rng, wander};

/// A pen of one of five kinds.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Pen {
    pub id: &'static str,
    pub name: &'static str,
    /// Width in mm at feather, and what it gains toward hardest.
    pub width_mm: [f64; 2],
    /// How late the width comes: over 1 stays thin for long.
    pub late: f64,
    /// Line to line, as a share of the width.
    pub spread: f64,
    /// Along a line, as a share of the width.
    pub waver: f64,
    pub raggedness_um: f64,
    pub correlation_um: f64,
    /// Distance in mm over which a ruled line runs out; 0 is blunt.
    pub lead_out_mm: f64,
}

/// The pens that ship with the program.
pub const PENS: [Pen; 5] = [
    Pen {
        id: "technical-035",
        name: "technical pen 0.35",
        width_mm: [0.345, 0.01],
        late: 1.0,
        spread: 0.012,
        waver: 0.012,
        raggedness_um: 4.0,
        correlation_um: 120.0,
        lead_out_mm: 0.0,
    },
    Pen {
        id: "fineliner-05",
        name: "fineliner 0.5",
        width_mm: [0.44, 0.13],
        late: 0.8,
        spread: 0.025,
        waver: 0.02,
        raggedness_um: 7.0,
        correlation_um: 150.0,
        lead_out_mm: 0.0,
    },
    Pen {
        id: "steel-nib",
        name: "flexible steel nib",
        width_mm: [0.18, 1.0],
        late: 1.7,
        spread: 0.045,
        waver: 0.03,
        raggedness_um: 6.0,
        correlation_um: 140.0,
        lead_out_mm: 5.0,
    },
    Pen {
        id: "brush-pen",
        name: "soft brush pen",
        width_mm: [0.3, 2.3],
        late: 1.2,
        spread: 0.07,
        waver: 0.05,
        raggedness_um: 14.0,
        correlation_um: 260.0,
        lead_out_mm: 9.0,
    },
    Pen {
        id: "chisel",
        name: "chisel marker",
        width_mm: [1.9, 0.25],
        late: 1.0,
        spread: 0.03,
        waver: 0.02,
        raggedness_um: 18.0,
        correlation_um: 300.0,
        lead_out_mm: 0.0,
    },
];

impl Pen {
    /// The pen of this id.
    pub fn by_id(id: &str) -> Option<&'static Self> {
        PENS.iter().find(|p| p.id == id)
    }

    /// Mean width in mm at an effort.
    pub fn width(&self, effort: f64) -> f64 {
        self.width_mm[0] + self.width_mm[1] * (1.0 - (1.0 - effort.powf(self.late)).powf(1.15))
    }
}

/// One ruled line's truth.
#[derive(Debug, Clone, PartialEq)]
pub struct Ruled {
    pub effort: f64,
    pub from: [f64; 2],
    pub length_mm: f64,
    /// Mean width of what was drawn.
    pub width_mm: f64,
    pub outline: Outline,
}

/// A ruled line from `from` rightward.
pub fn rule(pen: &Pen, effort: f64, from: [f64; 2], length_mm: f64, seed: u64) -> Ruled {
    const STEP: f64 = 0.02;
    let mut r = rng(seed, 0x9E);
    let n = (length_mm / STEP) as usize;
    let mean = pen.width(effort) * (1.0 + pen.spread * normal(&mut r));
    let slow = wander(&mut r, n, 4.0 / STEP);
    let mut edges = [0, 1].map(|_| wander(&mut r, n, pen.correlation_um / 1000.0 / STEP));
    for e in &mut edges {
        let m = e.iter().sum::<f64>() / n as f64;
        e.iter_mut().for_each(|v| *v -= m);
    }
    let rag = pen.raggedness_um / 1000.0;
    let (mut upper, mut lower): (Path, Path) = (Path::new(), Path::new());
    let mut sum = 0.0;
    for i in 0..n {
        let s = i as f64 * STEP;
        let left = length_mm - s;
        let run_out = if pen.lead_out_mm > 0.0 && left < pen.lead_out_mm { (left / pen.lead_out_mm).sqrt() } else { 1.0 };
        let w = mean * (1.0 + pen.waver * slow[i]) * run_out;
        sum += w;
        upper.push([from[0] + s, from[1] - 0.5 * w - rag * edges[0][i] * run_out]);
        lower.push([from[0] + s, from[1] + 0.5 * w + rag * edges[1][i] * run_out]);
    }
    lower.reverse();
    upper.extend(lower);
    Ruled { effort, from, length_mm, width_mm: sum / n as f64, outline: Outline { paths: vec![upper] } }
}

/// Ruled lines at the five efforts, `each` of them, as a sheet in mm: the lines and the sheet's size.
pub fn ruled_sheet(pen: &Pen, efforts: &[f64], each: usize, length_mm: f64, seed: u64) -> (Vec<Ruled>, [f64; 2]) {
    let pitch = (1.9 * pen.width(1.0)).max(2.6);
    let mut lines = Vec::new();
    let mut y = 8.0;
    for (i, effort) in efforts.iter().enumerate() {
        for k in 0..each {
            lines.push(rule(pen, *effort, [9.0, y], length_mm, seed.wrapping_add((100 * i + k) as u64)));
            y += pitch;
        }
        y += 2.0;
    }
    (lines, [length_mm + 18.0, y + 5.0])
}
