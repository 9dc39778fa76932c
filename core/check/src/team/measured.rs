//! What a checked drawing keeps for the team: small enough that a production of thousands is read at once.
//!
//! How: widths at 41 shares of a role's length, each line's mean, px of the page with the shot's factor taken out. Limits: a line shorter
//! than four of its widths says nothing of its own.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{WeighedLine, document::DrawingCheck, guide::LineGuide};

/// Widths are kept at these shares of a role's length, 0 to 1.
pub const SHARES: usize = 41;
/// A line shorter than this many of its widths says nothing of its own.
const LEAST_WIDTHS: f64 = 4.0;

/// The judged roles of one drawing; every px is the page's, shot factor taken out.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
pub struct Measured {
    pub roles: Vec<MeasuredRole>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct MeasuredRole {
    pub role: String,
    /// Of the bodies of its lines, by length.
    pub mean_px: f64,
    /// Each line's mean width.
    pub lines_px: Vec<f64>,
    /// The width at equal shares of the length, ascending: the least, then every 2.5 %, the greatest.
    pub widths_px: Vec<f64>,
}

fn milli(v: f64) -> f64 {
    (v * 1000.0).round() / 1000.0
}

impl Measured {
    /// Of a check and its lines as they are drawn over the drawing.
    pub fn new(guide: &LineGuide, check: &DrawingCheck, lines: &[WeighedLine]) -> Self {
        let factor = check.scale * check.shot_factor;
        let roles = guide.roles.iter().enumerate().filter(|(_, r)| r.judge).filter_map(|(k, role)| {
            let mean = check.roles.iter().find(|r| r.role == role.name)?.weight_px?.mean / factor;
            let mut all = Vec::new();
            let mut means = Vec::new();
            for line in lines.iter().filter(|l| l.role == k) {
                let own = measured(line, factor);
                let length: f64 = own.iter().map(|p| p[1]).sum();
                let Some(w) = (length > 0.0).then(|| own.iter().map(|p| p[0] * p[1]).sum::<f64>() / length) else { continue };
                if length >= LEAST_WIDTHS * w {
                    means.push(milli(w));
                }
                all.extend(own);
            }
            Some(MeasuredRole { role: role.name.clone(), mean_px: milli(mean), lines_px: means, widths_px: at_shares(all) })
        });
        Self { roles: roles.collect() }
    }

    pub fn role(&self, name: &str) -> Option<&MeasuredRole> {
        self.roles.iter().find(|r| r.role == name)
    }
}

/// Width and the length that it stands for, of each measured place.
fn measured(line: &WeighedLine, factor: f64) -> Vec<[f64; 2]> {
    let places: Vec<&[i32]> = line.places.chunks_exact(3).collect();
    let apart = |a: &[i32], b: &[i32]| (f64::from(a[0] - b[0])).hypot(f64::from(a[1] - b[1])) / (10.0 * factor);
    let step = |i: usize| {
        let before = i.checked_sub(1).map_or(0.0, |j| apart(places[j], places[i]));
        0.5 * (before + places.get(i + 1).map_or(0.0, |n| apart(places[i], n)))
    };
    line.standing
        .bytes()
        .enumerate()
        .filter(|(i, s)| *s != b'-' && *i < places.len())
        .map(|(i, _)| [f64::from(places[i][2]) / (10.0 * factor), step(i)])
        .collect()
}

/// Widths at equal shares of the length; empty of nothing.
fn at_shares(mut all: Vec<[f64; 2]>) -> Vec<f64> {
    all.sort_by(|a, b| a[0].total_cmp(&b[0]));
    let total: f64 = all.iter().map(|p| p[1]).sum();
    let (Some(last), true) = (all.last().copied(), total > 0.0) else { return Vec::new() };
    let mut out = Vec::with_capacity(SHARES);
    let (mut i, mut behind) = (0, 0.0);
    for k in 0..SHARES {
        let at = total * k as f64 / (SHARES - 1) as f64;
        while i + 1 < all.len() && behind + all[i][1] < at {
            behind += all[i][1];
            i += 1;
        }
        out.push(milli(if k + 1 == SHARES { last[0] } else { all[i][0] }));
    }
    out
}
