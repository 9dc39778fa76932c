//! Whether a long straight piece of ink is a ruled line at all: a row of writing or print, dashes and a row of dots are not, and would be given a
//! width that no pen has.
//!
//! How: along the middle of a ruled line ink is seen without gaps, and its width changes slowly. Limits: a word written in one stroke that is long
//! and low can pass; a pen so dry that it leaves gaps across its whole width is no line. The limits are ours: of 471 lines of simulated scans none
//! had a gap, and the most restless varied by 23 %; of 680 pieces of scanned and photographed print nine tenths have more than a twentieth of gaps
//! or vary by more than two fifths.

use super::profile::{ACROSS, Straight};
use crate::stats::mean_sd;

/// A column is a gap where its middle has less than this share of the strong columns' ink.
const GAP: f64 = 0.5;
/// Of a ruled line's length at most so much is gap.
const GAPS: f64 = 0.04;
/// A ruled line's ink varies by no more than this within an eighth of its length.
const RESTLESS: f64 = 0.3;
/// Of the middle of a ruled line so much is ink, hairs of a dry brush counted.
const HOLES: f64 = 0.3;

/// Whether it is one line of ink without gaps.
pub fn is_line(s: &Straight) -> bool {
    let (from, to) = s.span;
    let tenth = (to - from) / 10;
    let (from, to) = (from + tenth, to - tenth);
    let profile = s.mean_profile();
    let top = profile.iter().copied().fold(0.0, f64::max);
    let half = profile.iter().filter(|v| **v > 0.5 * top).count() as f64 / ACROSS / 2.0;
    let mid = s.rows / 2;
    let reach = ((0.5 * half * ACROSS) as usize).clamp(1, mid);
    let row = |r: usize| &s.data[r * s.columns + from..r * s.columns + to];
    let mut core = vec![0.0f64; to - from];
    let mut all: Vec<f32> = Vec::with_capacity((2 * reach + 1) * (to - from));
    for r in mid - reach..=mid + reach {
        core.iter_mut().zip(row(r)).for_each(|(c, v)| *c += f64::from(*v) / (2 * reach + 1) as f64);
        all.extend(row(r));
    }
    let strong = |v: &[f64]| {
        let mut v = v.to_vec();
        let at = (v.len() - 1) * 9 / 10;
        *v.select_nth_unstable_by(at, f64::total_cmp).1
    };
    let inked = GAP * strong(&core);
    let gaps = core.iter().filter(|c| **c < inked).count() as f64 / core.len() as f64;
    let at = (all.len() - 1) * 9 / 10;
    let inked = GAP as f32 * *all.select_nth_unstable_by(at, f32::total_cmp).1;
    let holes = all.iter().filter(|v| **v < inked).count() as f64 / all.len() as f64;
    let areas = &s.areas()[from..to];
    let eighths: Vec<f64> = areas.chunks((areas.len() / 8).max(8)).filter_map(|c| mean_sd(c).map(|(m, sd)| sd / m)).collect();
    let restless = eighths.iter().sum::<f64>() / eighths.len().max(1) as f64;
    gaps <= GAPS && holes <= HOLES && restless <= RESTLESS
}

/// What is said of pieces that were passed over.
pub fn said(passed: usize) -> Option<String> {
    match passed {
        0 => None,
        1 => Some("one mark was passed over: writing, print or dashes, not a line in one stroke".into()),
        n => Some(format!("{n} marks were passed over: writing, print or dashes, not lines in one stroke")),
    }
}
