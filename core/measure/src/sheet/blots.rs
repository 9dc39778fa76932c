//! A drop of ink on a ruled line: a dip pen's, or a knot where it caught in the paper.
//!
//! How: a place much wider than the line, to which it widens and from which it narrows at once; a line that swells does so over many of its widths.
//! Limits: common practice, no source; a blot at a line's very end is taken for the dot that pens start and stop with.

use crate::stats::median;

/// Over so many times the line's median width it is a blot, and under so many it is the line again; what makes the mean wider by less than this share
/// does no harm (common practice, no source).
const BLOT: f64 = 1.6;
const BESIDE_BLOT: f64 = 1.25;
const HARMLESS: f64 = 0.005;

/// Whether a blot makes a line's mean wider: a place much wider than the rest, to which it widens and from which it narrows at once. A line that swells is none.
pub(super) fn blotted(widths_mm: &[f64], step_mm: f64) -> bool {
    let Some(width) = median(widths_mm).filter(|w| *w > 0.0 && step_mm > 0.0) else { return false };
    let near = ((1.5 * width).max(0.5) / step_mm).ceil() as usize;
    // Pens start and stop with a dot.
    let ends = near.max((2.0 * width / step_mm).ceil() as usize);
    if widths_mm.len() < 4 * ends {
        return false;
    }
    let body = &widths_mm[ends..widths_mm.len() - ends];
    let (mut extra, mut k) = (0.0, 0);
    while let Some(from) = (k..body.len()).find(|i| body[*i] > BLOT * width) {
        let to = (from..body.len()).find(|i| body[*i] <= BLOT * width).unwrap_or(body.len());
        let beside = |mut places: std::ops::Range<usize>| places.any(|i| body[i] < BESIDE_BLOT * width);
        if beside(from.saturating_sub(near)..from) && beside(to..(to + near).min(body.len())) {
            extra += body[from..to].iter().map(|w| w - width).sum::<f64>();
        }
        k = to;
    }
    extra > HARMLESS * width * body.len() as f64
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const STEP_MM: f64 = 0.05;

    proptest! {
        /// A ragged line that swells to more than twice its width, over as many widths as a hand needs, has no blot; with a drop on it, it has one.
        #[test]
        fn a_swell_is_no_blot(width in 0.15f64..2.0, swell in 1.0f64..2.4, over in 8.0f64..20.0, ragged in 0.0f64..0.08, at in 0.3f64..0.7, drop in 2.5f64..6.0) {
            let long = 60.0 + 30.0 * width;
            let n = (long / STEP_MM) as usize;
            let rough = |i: usize| 1.0 + ragged * ((i * 7919 % 101) as f64 / 50.0 - 1.0);
            let bump = |i: usize, reach: f64| (-((i as f64 / n as f64 - at) * long / reach).powi(2)).exp();
            let line: Vec<f64> = (0..n).map(|i| width * rough(i) * (1.0 + (swell - 1.0) * bump(i, over * width))).collect();
            prop_assert!(!blotted(&line, STEP_MM));
            let size = drop * width;
            let chord = |i: usize| (1.0 - ((i as f64 / n as f64 - at) * long / (0.5 * size)).powi(2)).max(0.0).sqrt() * size;
            let even: Vec<f64> = (0..n).map(|i| (width * rough(i)).max(chord(i))).collect();
            let harms = (0..n).map(|i| even[i] - width * rough(i)).sum::<f64>() > 0.02 * width * n as f64;
            prop_assert!(blotted(&even, STEP_MM) || !harms);
        }
    }
}
