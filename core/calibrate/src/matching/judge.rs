//! Verdicts: whether figures of the brush's strokes are alike the pen's.
//!
//! *Alike* is two one-sided tests inside the margin (D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15, 1987); *differs* an
//! interval outside of it; else there are too few lines to say, as fewer than three on a side are. Both sides' spreads have their own degrees of freedom
//! (Welch). The weight's own test is `weighed`, that of several groups at once `groups`.

use eddymist_measure::stats::mean_sd;
use statrs::distribution::{ContinuousCDF, StudentsT};

use super::{
    document::{MARGIN, Part, PartMatch, Verdict},
    groups::Apart,
    words,
};

/// A figure of the pen: mean, spread and number; what of it is not known is absent.
#[derive(Debug, Clone, Copy)]
pub(super) struct PenFigure {
    pub mean: f64,
    pub sd: Option<f64>,
    pub n: f64,
}

/// Fewer lines than this on either side say nothing.
pub(super) const LEAST_LINES: f64 = 3.0;

/// Judges figures of inked strokes beside the pen's. `word` says of a difference which way it goes; `share` is what one of the figure's units makes of
/// the width, as a share of it, where that is known.
pub(super) fn judged(part: Part, pen: PenFigure, brush: &[f64], share: Option<f64>, measured: String, word: impl Fn(f64) -> String) -> PartMatch {
    let mut out = PartMatch {
        part,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        off_share: None,
        unit: "spreads".into(),
        measured,
        lines: pen.n as u32,
        says: String::new(),
    };
    out.off_share = share.zip(mean_sd(brush)).map(|(s, m)| s * (m.0 - pen.mean));
    let (Some(spread), Some((mean, sd))) = (pen.sd.filter(|s| *s > 0.0 && pen.n >= 2.0), mean_sd(brush)) else {
        out.says = match mean_sd(brush) {
            Some((m, _)) => words::without_spread(&word(m - pen.mean)),
            None => words::NOT_SHOWN.into(),
        };
        return out;
    };
    let n = brush.len() as f64;
    let difference = (mean - pen.mean) / spread;
    let (error, df) = welch([1.0, pen.n, pen.n - 1.0], [sd / spread, n, n - 1.0]);
    let half = student(0.975, df) * error;
    out.difference = Some(difference);
    out.interval = Some([difference - half, difference + half]);
    out.spread_ratio = (brush.len() > 1).then_some(sd / spread);
    let says = word(mean - pen.mean);
    (out.verdict, out.says) = if pen.n < LEAST_LINES || n < LEAST_LINES {
        (Verdict::TooFew, words::so_far(&says, LEAST_LINES))
    } else if difference.abs() + student(0.95, df) * error < MARGIN {
        (Verdict::Alike, says)
    } else if difference.abs() - half > MARGIN {
        (Verdict::Differs, says)
    } else {
        (Verdict::TooFew, words::so_far(&says, needed(difference, student(0.95, df), sd / spread)))
    };
    out
}

/// The verdict of several groups of lines held against the pen's at once, one spread of which is `share` of the width; `word` says of their difference,
/// in the pen's spreads, what it is.
pub(super) fn judged_together(part: Part, told: Option<Apart>, lines: f64, share: f64, measured: String, word: impl Fn(f64) -> String) -> PartMatch {
    let mut out = judged(part, PenFigure { mean: 0.0, sd: None, n: lines }, &[], None, measured, |_| String::new());
    if let Some(a) = told {
        out.off_share = Some(a.difference * share);
        (out.difference, out.interval, out.spread_ratio, out.verdict) = (Some(a.difference), Some(a.interval), a.spread_ratio, a.verdict);
        let says = word(a.difference);
        out.says = if a.verdict == Verdict::TooFew { words::so_far(&says, a.needed) } else { says };
    }
    out
}

/// Whether the brush's lines, chance and all, differ from one another as the pen's do: their ratio alone decides. Neither is less than a scan tells, mm.
pub(super) fn steadiness(weight: &PartMatch, brush: Option<(f64, f64)>, pen: Option<(f64, f64)>, told_mm: f64) -> Option<PartMatch> {
    let (brush, pen) = (brush?.0.max(told_mm), pen.filter(|p| p.0 > 0.0)?.0.max(told_mm));
    let ratio = brush / pen;
    let verdict = if (0.5..=2.0).contains(&ratio) { Verdict::Alike } else { Verdict::Differs };
    // The difference is the log of the ratio over that of the limit: 1 at the limits.
    let difference = Some(ratio.max(1e-6).ln() / 2f64.ln());
    Some(PartMatch {
        part: Part::Steadiness,
        verdict,
        difference,
        interval: None,
        spread_ratio: Some(ratio),
        off_share: Some(brush - pen),
        unit: "doublings of the spread".into(),
        says: words::steadiness(ratio),
        ..weight.clone()
    })
}

/// Lines at which the tests could pass, were the difference what it seems; `ratio` is of the brush's spread to the pen's.
pub(super) fn needed(difference: f64, t: f64, ratio: f64) -> f64 {
    let room = (MARGIN - difference.abs()).max(0.05);
    (t / room).powi(2) * (1.0 + ratio.powi(2))
}

/// The parts in order, the worst first: what differs, then what cannot be matched or told, then what is alike; by size within.
pub(super) fn rank(parts: &mut [PartMatch]) {
    let rank = |p: &PartMatch| match p.verdict {
        Verdict::Differs => 0,
        Verdict::CannotBeMatched => 1,
        Verdict::TooFew => 2,
        Verdict::Alike => 3,
    };
    let size = |p: &PartMatch| p.difference.map_or(0.0, f64::abs);
    parts.sort_by(|a, b| rank(a).cmp(&rank(b)).then(size(b).total_cmp(&size(a))));
}

/// Standard error of a difference of two means, each of a deviation, a number of lines and the degrees of freedom that its deviation is known
/// by, and the error's own degrees of freedom (B. L. Welch, Biometrika 34, 1947; F. E. Satterthwaite, Biometrics Bull. 2, 1946).
pub(super) fn welch(a: [f64; 3], b: [f64; 3]) -> (f64, f64) {
    let part = |[sd, n, df]: [f64; 3]| (sd * sd / n.max(1.0), df.max(1.0));
    let ((va, da), (vb, db)) = (part(a), part(b));
    let sum = va + vb;
    (sum.sqrt(), if sum > 0.0 { sum * sum / (va * va / da + vb * vb / db) } else { da })
}

/// Student's t at probability `p`.
pub(super) fn student(p: f64, df: f64) -> f64 {
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(2.0, |t| t.inverse_cdf(p))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn said(pen: PenFigure, brush: &[f64]) -> PartMatch {
        judged(Part::Pooling, pen, brush, Some(0.5), "as measured".into(), |by| format!("{by:+.3}"))
    }

    #[derive(serde::Deserialize)]
    struct Tost {
        pen: Vec<f64>,
        brush: Vec<f64>,
        p: f64,
        interval: [f64; 2],
    }

    /// statsmodels.stats.weightstats.ttost_ind and tconfint_diff, both with unlike variances; the margin is the pen's own spread.
    #[test]
    fn verdicts_are_another_librarys_two_one_sided_tests() {
        let cases: Vec<Tost> = serde_json::from_str(include_str!("../../../../tests/reference/tost.json")).expect("golden values");
        let mut seen = [0; 4];
        for c in cases {
            let (mean, sd) = mean_sd(&c.pen).expect("lines");
            let out = said(PenFigure { mean, sd: Some(sd), n: c.pen.len() as f64 }, &c.brush);
            assert!((out.off_share.expect("a share") - 0.5 * (mean_sd(&c.brush).expect("lines").0 - mean)).abs() < 1e-12);
            let got = out.interval.expect("an interval").map(|v| v * sd);
            assert!((got[0] - c.interval[0]).abs() < 1e-9 && (got[1] - c.interval[1]).abs() < 1e-9, "{got:?} for {:?}", c.interval);
            let want = if c.p < 0.05 {
                Verdict::Alike
            } else if c.interval[0] > sd || c.interval[1] < -sd {
                Verdict::Differs
            } else {
                Verdict::TooFew
            };
            assert_eq!(out.verdict, want, "p {}", c.p);
            seen[want as usize] += 1;
        }
        assert!(seen[..3].iter().all(|n| *n > 2), "{seen:?}");
    }

    proptest! {
        /// A brush whose lines differ twice as much as the pen's, or half as much, is still alike; the size of it is 1 there.
        #[test]
        fn steadiness_is_a_ratio_within_two(ratio in 0.1f64..8.0, pen in 0.01f64..0.4) {
            let weight = said(PenFigure { mean: 0.0, sd: None, n: 4.0 }, &[]);
            let out = steadiness(&weight, Some((ratio * pen, 3.0)), Some((pen, 3.0)), 0.0).expect("a verdict");
            prop_assert_eq!(out.verdict, if (0.5..=2.0).contains(&ratio) { Verdict::Alike } else { Verdict::Differs });
            prop_assert!((out.off_share.expect("a share") - (ratio - 1.0) * pen).abs() < 1e-9);
            prop_assert!((out.difference.expect("a size") - ratio.log2()).abs() < 1e-9 && out.part == Part::Steadiness);
            prop_assert!(steadiness(&weight, None, Some((pen, 3.0)), 0.0).is_none() && steadiness(&weight, Some((pen, 3.0)), Some((0.0, 3.0)), 0.0).is_none());
        }
    }

    #[test]
    fn without_a_spread_nothing_is_decided() {
        for pen in [PenFigure { mean: 1.0, sd: None, n: 9.0 }, PenFigure { mean: 1.0, sd: Some(0.0), n: 9.0 }, PenFigure { mean: 1.0, sd: Some(0.1), n: 1.0 }] {
            let out = said(pen, &[1.0, 1.1]);
            assert!(out.verdict == Verdict::TooFew && out.difference.is_none() && out.interval.is_none(), "{pen:?}");
        }
        // What differs most comes first, and what is alike last.
        let one = |verdict, difference| PartMatch { verdict, difference: Some(difference), ..said(PenFigure { mean: 0.0, sd: None, n: 1.0 }, &[]) };
        let mut parts = vec![
            one(Verdict::Alike, 0.1),
            one(Verdict::TooFew, 3.0),
            one(Verdict::Differs, 1.2),
            one(Verdict::CannotBeMatched, 9.0),
            one(Verdict::Differs, -2.0),
        ];
        rank(&mut parts);
        assert_eq!(parts.iter().filter_map(|p| p.difference).collect::<Vec<_>>(), [-2.0, 1.2, 9.0, 3.0, 0.1]);
    }
}
