//! The smoothing that a match asks for: the least by which the hand's own lines and dots on its tablet are as steady as the pen's.
//!
//! How: of all kinds and strengths, how much of what is fast is left along the hand's lines at normal effort (a Gaussian filter parts it from the
//! hand's bow, as raggedness is read, ISO 16610-21), and how far a held dot strays; of those that leave little enough the one whose live ink stays
//! least behind; what is read of its ink says whether it was enough. Limits: more than `MOST_LAG_MS`, or a corner cut by more than a line's width, is
//! not asked of a hand (common practice, no source); where that does not suffice the steadiest within these limits is taken.

use eddymist_ink::{
    Brush, InkError, Sample, Stroke,
    brush::{Smoothing, SmoothingKind},
    smoothing::finished,
};
use eddymist_measure::{
    scan::wander::{CUT_OFF_MM, low_pass},
    stats::{mean_sd, median},
};

use rayon::prelude::*;

use super::{
    bench::{Bench, smooth},
    document::{FittedSmoothing, Steadied},
    words,
};
use crate::{
    smoothing::{corner_mm, lag_ms, places, tried},
    steadiness::across,
    warmup::Exercise,
};

/// Further behind than this live ink is not asked to be.
const MOST_LAG_MS: f64 = 40.0;
/// What is cut off a corner may always be as much, mm.
const LEAST_CORNER_MM: f64 = 0.3;
/// A hand that shows no more than this many times what the pen does is as steady: what is read of an edge is within a tenth.
const AS_STEADY: f64 = 1.1;
/// The hand's own share of what the pen shows that is aimed at, and that is enough: the brush adds the rest.
const SHARE: f64 = 0.9;
const ENOUGH: f64 = 1.0;
/// A dot that is larger than its line by less than this share of it is as large.
const LEAST_DOT: f64 = 0.02;

/// What of the hand's ink a smoothing takes away.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Fault {
    /// The roughness of its lines at normal effort, µm.
    Rough,
    /// How much larger than a line its dots are before any ink pools, as a share of the line.
    Slides,
}

/// A fault that the hand shows more of than the pen.
struct Asked {
    fault: Fault,
    hand: f64,
    pen: f64,
}

/// One smoothing that was tried, and what it leaves in the way of each fault that is asked about.
struct Tried {
    kind: SmoothingKind,
    lag_ms: f64,
    left: Vec<f64>,
}

/// The hand's strokes that a smoothing is tried on.
struct Hand<'a> {
    bench: &'a Bench<'a>,
    brush: &'a Brush,
    lines: Vec<&'a Stroke>,
    dots: Vec<&'a Stroke>,
    line_mm: Option<f64>,
}

impl Hand<'_> {
    /// A fault as it is read of the ink.
    fn read(&self, fault: Fault, kind: &SmoothingKind) -> Result<Option<f64>, InkError> {
        let one = Brush { smoothing: with(self.brush, kind), edge: smooth(&self.brush.edge), pooling: None, ..self.brush.clone() };
        match fault {
            Fault::Rough => self.bench.roughness(&one).map(|(figures, by_hand)| median(&figures).filter(|_| by_hand)),
            Fault::Slides => self.bench.grown(&one, &self.dots, self.line_mm).map(|dots| mean_sd(&dots).map(|m| m.0 - 1.0)),
        }
    }

    /// The same of the way alone, which is quick.
    fn left(&self, fault: Fault, kind: &SmoothingKind) -> Option<f64> {
        let strokes = if fault == Fault::Rough { &self.lines } else { &self.dots };
        let one = |s: &&Stroke| {
            let out = finished(kind, s, &places(s));
            if fault == Fault::Slides {
                return mean_reach(&out);
            }
            let moved = Stroke { samples: s.samples.iter().zip(&out).map(|(p, o)| Sample { x: o[0], y: o[1], ..*p }).collect(), ..(*s).clone() };
            let (way, off) = across(&moved)?;
            fast_um(&way, &off)
        };
        median(&strokes.iter().filter_map(one).collect::<Vec<_>>())
    }
}

impl Bench<'_> {
    /// The smoothing that steadies this hand to the pen's edge and dots, and what it does; none where it is steady enough, or they are not known.
    pub fn smoothing(&self, brush: &Brush) -> Result<Option<(Smoothing, FittedSmoothing)>, InkError> {
        let hand = Hand { bench: self, brush, lines: self.normal_lines().collect(), dots: self.dots(), line_mm: self.normal_mm(brush)? };
        let now = &brush.smoothing.position;
        let rough = self.card.edge.as_ref().map(|e| (Fault::Rough, e.raggedness_um)).filter(|e| e.1 > 0.0);
        let slides = self.card.pooling.as_ref().map(|p| (Fault::Slides, (p.ratio - 1.0).max(LEAST_DOT)));
        // How much of each may be left in the way alone.
        let (mut asked, mut limits) = (Vec::new(), Vec::new());
        for (fault, pen) in rough.into_iter().chain(slides) {
            if let (Some(seen), Some(left)) = (hand.read(fault, now)?.filter(|s| *s > AS_STEADY * pen), hand.left(fault, now)) {
                asked.push(Asked { fault, hand: seen, pen });
                limits.push(left * SHARE * pen / seen);
            }
        }
        if asked.is_empty() {
            return Ok(None);
        }
        let free = [Exercise::Freehand, Exercise::Circle, Exercise::Ruled].into_iter().flat_map(|e| self.strokes(e));
        let free: Vec<&Stroke> = free.chain(hand.lines.iter().copied()).collect();
        let corner = hand.line_mm.unwrap_or(0.0).max(LEAST_CORNER_MM);
        let one = |kind: SmoothingKind| {
            let lag_ms = lag_ms(&kind, &free).filter(|l| *l <= MOST_LAG_MS)?;
            corner_mm(&kind, &free).filter(|c| *c <= corner)?;
            let left = asked.iter().map(|a| hand.left(a.fault, &kind)).collect::<Option<_>>()?;
            Some(Tried { kind, lag_ms, left })
        };
        let mut tried: Vec<Tried> = tried().into_par_iter().filter_map(one).collect();
        tried.sort_by(|a, b| a.lag_ms.total_cmp(&b.lag_ms));
        let mut best: Option<(&Tried, Vec<f64>)> = None;
        let far = |read: &[f64]| most(read.iter().zip(&asked).map(|(r, a)| r / a.pen));
        // What is left of the way, and of the ink that a nib of some width draws along it, are not one: what is read says how they go together.
        for _ in 0..6 {
            let over = |t: &Tried| most(t.left.iter().zip(&limits).map(|(l, m)| l / m.max(1e-9)));
            let steadiest = || tried.iter().min_by(|a, b| over(a).total_cmp(&over(b)));
            let Some(next) = tried.iter().find(|t| over(t) <= 1.0).or_else(steadiest) else { break };
            let read: Option<Vec<f64>> = asked.iter().map(|a| hand.read(a.fault, &next.kind)).collect::<Result<_, _>>()?;
            let Some(read) = read else { break };
            let done = far(&read) <= ENOUGH || over(next) > 1.0;
            for (limit, (a, r)) in limits.iter_mut().zip(asked.iter().zip(&read)).filter(|(_, (a, r))| **r > ENOUGH * a.pen) {
                *limit *= (SHARE * a.pen / r).clamp(0.3, 0.95);
            }
            if best.as_ref().is_none_or(|b| far(&read) < far(&b.1)) {
                best = Some((next, read));
            }
            if done {
                break;
            }
        }
        let seen: Vec<f64> = asked.iter().map(|a| a.hand).collect();
        // What comes of pressure no smoothing of place takes away: where it helps little it is not worth being behind.
        let helps = |read: &[f64]| far(read) <= 1.0 || far(read) - 1.0 < 0.5 * (far(&seen) - 1.0);
        Ok(best.filter(|b| helps(&b.1)).map(|(t, read)| {
            let shown = |fault: Fault| asked.iter().zip(&read).find(|(a, _)| a.fault == fault).map(|(a, r)| Steadied { hand: a.hand, left: *r, pen: a.pen });
            let (edge_um, dot) = (shown(Fault::Rough), shown(Fault::Slides));
            let says = words::smoothed(&t.kind, t.lag_ms, edge_um, dot);
            (with(brush, &t.kind), FittedSmoothing { lag_ms: t.lag_ms, edge_um, dot, says })
        }))
    }
}

fn most(shares: impl Iterator<Item = f64>) -> f64 {
    shares.fold(0.0, f64::max)
}

/// How far places reach across their middle, mean of all directions.
fn mean_reach(places: &[[f64; 2]]) -> Option<f64> {
    const DIRECTIONS: u32 = 12;
    let reach = |k: u32| {
        let (s, c) = (std::f64::consts::PI * f64::from(k) / f64::from(DIRECTIONS)).sin_cos();
        let (low, high) = places.iter().map(|p| c * p[0] + s * p[1]).fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
        high - low
    };
    (!places.is_empty()).then(|| (0..DIRECTIONS).map(reach).sum::<f64>() / f64::from(DIRECTIONS))
}

/// The brush's smoothing with this one of position.
fn with(brush: &Brush, kind: &SmoothingKind) -> Smoothing {
    Smoothing { position: kind.clone(), ..brush.smoothing.clone() }
}

/// Deviation of what is shorter than the cut-off wavelength, of values along a way in mm; what lies within half of it of the ends is left out.
fn fast_um(way: &[f64], off: &[f64]) -> Option<f64> {
    const STEP_MM: f64 = 0.2;
    let places = (way.last()? - way.first()?) / STEP_MM;
    let ends = (0.5 * CUT_OFF_MM / STEP_MM) as usize;
    if !places.is_finite() || places < (4 * ends) as f64 || places > 1e5 {
        return None;
    }
    let mut k = 0;
    let at = |i: usize| {
        let x = way[0] + STEP_MM * i as f64;
        // Where a hand dwells its noise goes to and fro: the next report that is further on counts.
        while k + 2 < way.len() && way[k + 1] < x {
            k += 1;
        }
        let (a, b) = (way[k], way[k + 1]);
        off[k] + (off[k + 1] - off[k]) * if b > a { ((x - a) / (b - a)).clamp(0.0, 1.0) } else { 1.0 }
    };
    let even: Vec<f64> = (0..places as usize).map(at).collect();
    let slow = low_pass(&even, CUT_OFF_MM / STEP_MM);
    let fast: Vec<f64> = even.iter().zip(slow).map(|(v, s)| v - s).collect();
    mean_sd(&fast[ends..fast.len() - ends]).map(|m| 1000.0 * m.1)
}
