//! The hand in a ruled line: its smooth middle, and what an edge is about that.
//!
//! How: the middle of both edges through a Gaussian low-pass of 4 mm (what is slower is the hand's bow, methods.md, section 2). Source: ISO
//! 16610-21, whose filter passes half of a wave of the cut-off's length. Limits: a line under two cut-offs long is held against the straight
//! line only.

/// Half of a wave of this length passes.
pub const CUT_OFF_MM: f64 = 4.0;
/// √(ln 2 / π), by which the filter is as the standard has it.
const ALPHA: f64 = 0.469_718_639_3;

/// The middle of a line along its columns.
pub(super) struct Middle {
    /// Px across; one number a column.
    pub(super) at: Vec<f64>,
    /// Standard deviation of the smooth middle about the straight line, px; none where the line is too short to tell.
    pub(super) wander: Option<f64>,
}

impl Middle {
    /// From both edges, px across by columns of `px` mm; NaN where an edge is not seen.
    pub(super) fn new(left: &[f64], right: &[f64], px: f64) -> Self {
        let raw = filled(left.iter().zip(right).map(|(l, r)| 0.5 * (l + r)).collect());
        let n = raw.len();
        let (shift, slope) = straight(&raw);
        let about: Vec<f64> = raw.iter().enumerate().map(|(i, v)| v - shift - slope * i as f64).collect();
        let line = |i: usize| shift + slope * i as f64;
        let cut_off = CUT_OFF_MM / px;
        if (n as f64) < 2.0 * cut_off {
            return Self { at: (0..n).map(line).collect(), wander: None };
        }
        let smooth = low_pass(&about, cut_off);
        let wander = (smooth.iter().map(|v| v * v).sum::<f64>() / n as f64).sqrt();
        Self { at: smooth.iter().enumerate().map(|(i, v)| v + line(i)).collect(), wander: Some(wander) }
    }
}

/// Gaps are bridged straight.
fn filled(mut v: Vec<f64>) -> Vec<f64> {
    let mut last: Option<usize> = None;
    for i in 0..v.len() {
        if !v[i].is_finite() {
            continue;
        }
        let from = last.map_or(v[i], |l| v[l]);
        let start = last.map_or(0, |l| l + 1);
        let to = v[i];
        for (k, gap) in v[start..i].iter_mut().enumerate() {
            let t = if last.is_some() { (k + 1) as f64 / (i + 1 - start) as f64 } else { 1.0 };
            *gap = from + (to - from) * t;
        }
        last = Some(i);
    }
    let end = last.map_or(0.0, |l| v[l]);
    let start = last.map_or(0, |l| l + 1);
    v[start..].fill(end);
    v
}

/// Shift and slope by least squares.
fn straight(v: &[f64]) -> (f64, f64) {
    let n = v.len() as f64;
    let mean = v.iter().sum::<f64>() / n.max(1.0);
    let middle = 0.5 * (n - 1.0);
    let (mut top, mut bottom) = (0.0, 0.0);
    for (i, y) in v.iter().enumerate() {
        let x = i as f64 - middle;
        (top, bottom) = (top + x * (y - mean), bottom + x * x);
    }
    let slope = if bottom > 0.0 { top / bottom } else { 0.0 };
    (mean - slope * middle, slope)
}

/// The Gaussian filter of ISO 16610-21 over values at even places, its cut-off in places; beyond its ends the line goes on as its own point
/// reflection.
pub fn low_pass(v: &[f64], cut_off: f64) -> Vec<f64> {
    let n = v.len() as isize;
    let reach = (cut_off as isize).clamp(1, n - 1);
    let kernel: Vec<f64> = (-reach..=reach).map(|k| (-std::f64::consts::PI * (k as f64 / (ALPHA * cut_off)).powi(2)).exp()).collect();
    let total: f64 = kernel.iter().sum();
    // What the line is at its very ends is told by some of it, not by one column.
    let end = |part: &[f64]| part.iter().sum::<f64>() / part.len() as f64;
    let short = ((cut_off / 20.0) as usize).clamp(1, v.len());
    let (first, last) = (end(&v[..short]), end(&v[v.len() - short..]));
    let at = |i: isize| {
        if i < 0 {
            2.0 * first - v[(-i).min(n - 1) as usize]
        } else if i >= n {
            2.0 * last - v[(2 * (n - 1) - i).max(0) as usize]
        } else {
            v[i as usize]
        }
    };
    let longer: Vec<f64> = (-reach..n + reach).map(at).collect();
    longer.windows(kernel.len()).map(|w| w.iter().zip(&kernel).map(|(a, k)| a * k).sum::<f64>() / total).collect()
}

#[cfg(test)]
mod tests {
    use super::{ALPHA, Middle, filled, low_pass};

    /// ISO 16610-21: half of a wave of the cut-off's length passes; of one ten times as long nearly all, of a tenth nothing.
    #[test]
    fn half_of_a_wave_of_the_cut_offs_length_passes() {
        assert!((ALPHA - (2f64.ln() / std::f64::consts::PI).sqrt()).abs() < 1e-9);
        for (wave, share) in [(80.0, 0.5), (800.0, 0.9931), (8.0, 0.0)] {
            let v: Vec<f64> = (0..2400).map(|i| (std::f64::consts::TAU * f64::from(i) / wave).sin()).collect();
            let smooth = low_pass(&v, 80.0);
            let top = smooth[400..2000].iter().copied().fold(0.0, f64::max);
            assert!((top - share).abs() < 0.005, "{wave}: {top}");
        }
    }

    #[test]
    fn a_bow_is_the_hands_and_gaps_are_bridged() {
        let px = 0.05;
        let bow = |i: usize| 6.0 * (std::f64::consts::PI * i as f64 / 1200.0).sin();
        let (l, r): (Vec<f64>, Vec<f64>) = (0..1200).map(|i| (bow(i) - 3.0, bow(i) + 3.0)).unzip();
        let m = Middle::new(&l, &r, px);
        let off = (100..1100).map(|i| (m.at[i] - bow(i)).abs()).fold(0.0, f64::max);
        assert!(off < 0.02, "{off}");
        assert!((m.wander.unwrap_or(0.0) - 6.0 * 0.3077).abs() < 0.05, "{:?}", m.wander);
        assert_eq!(Middle::new(&l[..100], &r[..100], px).wander, None);
        assert_eq!(filled(vec![f64::NAN, 1.0, f64::NAN, 3.0, f64::NAN]), [1.0, 1.0, 2.0, 3.0, 3.0]);
    }
}
