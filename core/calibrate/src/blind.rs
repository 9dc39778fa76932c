//! The blind proof: can the artist tell the pen's lines from the brush's?
//!
//! How: lines of both on the same flat ground, of one length, in random order; the share of right answers with its interval says what the
//! proof excludes. Limits: a dozen answers exclude little, and the figure says so. Source: E. B. Wilson, J. Am. Stat. Assoc. 22 (1927).

use eddymist_ink::{
    Inker, Stroke,
    outline::{Path, clipped},
};
use schemars::JsonSchema;
use serde::Serialize;

use crate::lanes::PenLine;

/// z of a two-sided 95 % interval.
const Z: f64 = 1.959_963_985;

/// What came of it.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct BlindResult {
    pub right: u32,
    pub of: u32,
    /// How often the two are told apart, at least and at most (95 %).
    pub interval: [f64; 2],
    pub says: String,
}

/// The Wilson score interval of a share (E. B. Wilson, "Probable inference, the law of succession, and statistical inference",
/// Journal of the American Statistical Association 22, 1927).
pub fn wilson(right: u32, of: u32) -> [f64; 2] {
    if of == 0 {
        return [0.0, 1.0];
    }
    let (n, p) = (f64::from(of), f64::from(right) / f64::from(of));
    let middle = p + Z * Z / (2.0 * n);
    let half = Z * (p * (1.0 - p) / n + Z * Z / (4.0 * n * n)).sqrt();
    let whole = 1.0 + Z * Z / n;
    [((middle - half) / whole).max(0.0), ((middle + half) / whole).min(1.0)]
}

impl BlindResult {
    /// Guessing is right half of the time: what lies over that is telling them apart, what lies under it is telling them apart
    /// and naming them the wrong way round.
    pub fn new(right: u32, of: u32) -> Self {
        let interval = wilson(right, of);
        let per_cent = |v: f64| format!("{:.0} %", 100.0 * v);
        let says = if interval[0] > 0.5 {
            format!("told apart at least {} of the time: {right} of {of} were right", per_cent(interval[0]))
        } else if interval[1] < 0.5 {
            format!("told apart, but each taken for the other: {right} of {of} were right")
        } else {
            format!("told apart at most {} of the time: {right} of {of} were right, and guessing gives half", per_cent(interval[1].max(1.0 - interval[0])))
        };
        Self { right, of, interval, says }
    }
}

/// A line on a flat ground, level, cut to a length: closed paths in mm, the line along y = 0.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct FlatLine {
    pub paths: Vec<Path>,
}

/// A pen's line between its own edges, cut from its middle; none where it is shorter.
pub fn of_pen(line: &PenLine, length_mm: f64) -> Option<FlatLine> {
    let n = (length_mm / line.step_mm).round() as usize;
    let all = line.left_mm.len().min(line.right_mm.len());
    if n < 2 || all < n {
        return None;
    }
    let from = (all - n) / 2;
    let at = |k: usize| k as f64 * length_mm / (n - 1) as f64;
    // The hand's bow too: the brush's line has its own.
    let bow = |k: usize| line.bow_mm.get(from + k).copied().unwrap_or(0.0);
    let left = (0..n).map(|k| [at(k), line.left_mm[from + k] + bow(k)]);
    let right = (0..n).rev().map(|k| [at(k), line.right_mm[from + k] + bow(k)]);
    Some(FlatLine { paths: vec![left.chain(right).collect()] })
}

/// A stroke of the hand as inked, its chord laid level, cut from its middle; none where it is shorter.
pub fn of_brush(stroke: &Stroke, inker: &Inker, length_mm: f64) -> Option<FlatLine> {
    let (a, b) = (stroke.samples.first()?, stroke.samples.last()?);
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let chord = dx.hypot(dy);
    if chord < length_mm {
        return None;
    }
    let (c, s) = (dx / chord, dy / chord);
    let from = 0.5 * (chord - length_mm);
    let level = |p: &[f64; 2]| [(p[0] - a.x) * c + (p[1] - a.y) * s - from, (p[1] - a.y) * c - (p[0] - a.x) * s];
    let inked = inker.ink(stroke).outline(0.0005);
    let paths: Vec<Path> = inked.paths.iter().map(|p| clipped(&p.iter().map(level).collect(), 0.0, length_mm)).filter(|p| p.len() > 2).collect();
    (!paths.is_empty()).then_some(FlatLine { paths })
}
