//! Simulated pens: the width that each gives at an effort, and how it varies.

use eddymist_ink::{Outline, outline::Path};
use rand::Rng;
use rand_chacha::ChaCha8Rng;
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

/// How ink frays along an edge: laws of which a fit may know one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fray {
    /// Exponential correlation, as the measure supposes.
    Grained,
    /// Gaussian correlation: smooth, as on coated paper.
    Smooth,
    /// Ink that runs out along single fibres, to the outside alone, over a finer grain.
    Fibres,
}

impl Fray {
    /// A series of deviation 1 whose correlation falls to 1/e over `length` steps, positive to the outside.
    fn series(self, r: &mut ChaCha8Rng, n: usize, length: f64) -> Vec<f64> {
        let raw = match self {
            Self::Grained => return wander(r, n, length),
            Self::Smooth => {
                // White noise through a Gaussian of σ has the correlation exp(−d²/4σ²).
                let sigma = 0.5 * length;
                let reach = (3.0 * sigma).ceil() as usize;
                let white: Vec<f64> = (0..n + 2 * reach).map(|_| normal(r)).collect();
                let kernel: Vec<f64> = (0..=2 * reach).map(|k| (-0.5 * ((k as f64 - reach as f64) / sigma).powi(2)).exp()).collect();
                (0..n).map(|i| kernel.iter().zip(&white[i..]).map(|(k, w)| k * w).sum::<f64>()).collect::<Vec<f64>>()
            }
            Self::Fibres => {
                let mut out: Vec<f64> = wander(r, n, 0.5 * length).into_iter().map(|v| 0.6 * v).collect();
                // One in about four lengths of the edge, as wide as a tenth of it and up to four deviations long.
                let every = 4.0 * length;
                let mut at = every * r.random::<f64>();
                while (at as usize) < n {
                    let (long, half) = (1.5 + 2.5 * r.random::<f64>(), 0.12 * length + 1.0);
                    let (from, to) = ((at - half).max(0.0) as usize, ((at + half) as usize).min(n - 1));
                    (from..=to).for_each(|i| out[i] += long * (1.0 - ((i as f64 - at) / half).abs()).max(0.0));
                    at += every * (0.4 + 1.2 * r.random::<f64>());
                }
                out
            }
        };
        let mean = raw.iter().sum::<f64>() / n as f64;
        let sd = (raw.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / n as f64).sqrt().max(1e-12);
        raw.into_iter().map(|v| (v - mean) / sd).collect()
    }
}

/// A ruled line from `from` rightward.
pub fn rule(pen: &Pen, effort: f64, from: [f64; 2], length_mm: f64, seed: u64) -> Ruled {
    rule_frayed(pen, Fray::Grained, effort, from, length_mm, seed)
}

/// The same whose edges fray by a law of their own.
pub fn rule_frayed(pen: &Pen, fray: Fray, effort: f64, from: [f64; 2], length_mm: f64, seed: u64) -> Ruled {
    const STEP: f64 = 0.02;
    let mut r = rng(seed, 0x9E);
    let n = (length_mm / STEP) as usize;
    let mean = pen.width(effort) * (1.0 + pen.spread * normal(&mut r));
    let slow = wander(&mut r, n, 4.0 / STEP);
    let mut edges = [0, 1].map(|_| fray.series(&mut r, n, pen.correlation_um / 1000.0 / STEP));
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
