//! Whether a long straight piece of ink is a ruled line at all: a row of writing or print, dashes and a row of dots are not, and would be given a
//! width that no pen has.
//!
//! How: along the middle of a ruled line, which is followed as the hand bows it, ink is seen without gaps, and its width changes slowly. Limits:
//! a word written in one stroke that is long and low can pass, as can a letter's stem where no line is four times as long; a pen so dry that it
//! leaves gaps across its whole width is no line. The limits are ours: of 471 lines of simulated scans none had a gap, and but one varied by no
//! more than 23 %; of 712 pieces of scanned and photographed pages (print, a form, a banknote) 89 % have gaps over more than 4 % of their length
//! or vary by more than 40 %.

use super::profile::Straight;
use crate::stats::{mean_sd, moving_mean};

/// A column is a gap where its middle has less than this share of the strong columns' ink.
const GAP: f64 = 0.5;
/// Of a ruled line's length at most so much is gap.
const GAPS: f64 = 0.04;
/// A ruled line's ink varies by no more than this within an eighth of its length.
const RESTLESS: f64 = 0.3;
/// Of the middle of a ruled line so much is ink, hairs of a dry brush counted.
const HOLES: f64 = 0.3;

/// At most so many rows of a line's middle are looked at.
const ROWS: usize = 61;

/// The ink's middle is followed over so much of a line, mm: further than letters go, less far than a hand bows.
const FOLLOWED_MM: f64 = 1.5;
/// Less absorptance than this is paper.
const INKED: f32 = 0.1;

/// The row of the ink's middle in some columns, `reach` rows inside the strip: followed as the hand bows it, also where the strip does not.
fn middles(s: &Straight, from: usize, to: usize, reach: usize) -> Vec<usize> {
    let (mut mass, mut moment) = (vec![1e-6f64; to - from], vec![0.0f64; to - from]);
    for r in 0..s.rows {
        for ((m, n), v) in mass.iter_mut().zip(&mut moment).zip(&s.data[r * s.columns + from..r * s.columns + to]) {
            let v = f64::from(if *v < INKED { 0.0 } else { *v });
            (*m, *n) = (*m + v, *n + v * r as f64);
        }
    }
    let over = ((FOLLOWED_MM / s.px_mm).round() as usize).max(3);
    let (mass, moment) = (moving_mean(&mass, over), moving_mean(&moment, over));
    mass.iter().zip(&moment).map(|(m, n)| ((n / m).round() as usize).clamp(reach, s.rows - 1 - reach)).collect()
}

/// Whether it is one line of ink without gaps.
pub fn is_line(s: &Straight) -> bool {
    let (from, to) = s.span;
    let tenth = (to - from) / 10;
    let (from, to) = (from + tenth, to - tenth);
    let top = s.mean_profile().iter().copied().fold(0.0, f64::max);
    let half = s.mean_profile().iter().filter(|v| **v > 0.5 * top).count() / 2;
    let reach = (half / 2).clamp(1, (s.rows - 1) / 2);
    // Of a broad black some rows tell as much as all.
    let step = (2 * reach + 1).div_ceil(ROWS);
    let mut core = Vec::with_capacity(to - from);
    let mut all: Vec<f64> = Vec::with_capacity(ROWS * (to - from));
    for (k, middle) in middles(s, from, to, reach).into_iter().enumerate() {
        let first = all.len();
        all.extend((middle - reach..=middle + reach).step_by(step).map(|r| f64::from(s.data[r * s.columns + from + k])));
        core.push(all[first..].iter().sum::<f64>() / (all.len() - first) as f64);
    }
    let lacking = |v: &[f64]| {
        let mut sorted = v.to_vec();
        let at = (v.len() - 1) * 9 / 10;
        let strong = *sorted.select_nth_unstable_by(at, f64::total_cmp).1;
        v.iter().filter(|c| **c < GAP * strong).count() as f64 / v.len() as f64
    };
    let areas = &s.areas()[from..to];
    let eighths: Vec<f64> = areas.chunks((areas.len() / 8).max(8)).filter_map(|c| mean_sd(c).map(|(m, sd)| sd / m)).collect();
    let restless = eighths.iter().sum::<f64>() / eighths.len().max(1) as f64;
    lacking(&core) <= GAPS && lacking(&all) <= HOLES && restless <= RESTLESS
}

/// A piece shorter than this share of the longest line, aslant to it by more than so many degrees, is a letter's stem.
const STEM: f64 = 0.25;
const ASLANT_DEG: f64 = 20.0;

/// Takes away the stems of tall letters, which stand aslant to lines that are many times as long: alone on a page nothing tells them from short lines.
pub fn leave_stems(lines: &mut Vec<Straight>) {
    let length = |s: &Straight| (s.span.1 - s.span.0) as f64;
    let Some(([dx, dy], longest)) = lines.iter().max_by(|a, b| length(a).total_cmp(&length(b))).map(|s| (s.direction, length(s))) else { return };
    let aslant = |s: &Straight| (dx * s.direction[1] - dy * s.direction[0]).abs() > ASLANT_DEG.to_radians().sin();
    lines.retain(|s| length(s) >= STEM * longest || !aslant(s));
}

/// What is said of pieces that were passed over.
pub fn said(passed: usize) -> Option<String> {
    match passed {
        0 => None,
        1 => Some("one mark was passed over: writing, print or dashes, not a line in one stroke".into()),
        n => Some(format!("{n} marks were passed over: writing, print or dashes, not lines in one stroke")),
    }
}
