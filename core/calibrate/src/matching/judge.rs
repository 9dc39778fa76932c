//! Verdicts: whether figures of the brush's strokes are alike the pen's.
//!
//! *Alike* is two one-sided tests inside the margin (D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15, 1987); *differs* an
//! interval outside of it; else there are too few lines to say. Weight is checked at every effort in
//! the pen's spread there, and the worst is the one told; fewer than three lines on a side are too few.

use eddymist_ink::Curve;
use eddymist_measure::stats::{mean_sd, pooled_sd};
use statrs::distribution::{ContinuousCDF, StudentsT};

use super::{
    document::{MARGIN, Part, PartMatch, Verdict},
    weight::{Target, Unseen, by_effort, within_reach},
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
const LEAST_LINES: f64 = 3.0;

/// Judges figures of inked strokes beside the pen's. `word` says of a difference which way it goes.
pub(super) fn judged(part: Part, pen: PenFigure, brush: &[f64], measured: String, word: impl Fn(f64) -> String) -> PartMatch {
    let mut out = PartMatch {
        part,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        unit: "spreads".into(),
        measured,
        lines: pen.n as u32,
        says: String::new(),
    };
    let (Some(spread), Some((mean, sd))) = (pen.sd.filter(|s| *s > 0.0 && pen.n >= 2.0), mean_sd(brush)) else {
        out.says = match mean_sd(brush) {
            Some((m, _)) => words::without_spread(&word(m - pen.mean)),
            None => words::NOT_SHOWN.into(),
        };
        return out;
    };
    let n = brush.len() as f64;
    let difference = (mean - pen.mean) / spread;
    let error = (1.0 / pen.n + (sd / spread).powi(2) / n).sqrt();
    let df = pen.n - 1.0;
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

/// Whether the brush's lines, chance and all, differ from one another as the pen's do: their ratio alone decides.
pub(super) fn steadiness(weight: &PartMatch, brush: Option<(f64, f64)>, pen: Option<(f64, f64)>) -> Option<PartMatch> {
    let ratio = brush?.0 / pen.filter(|p| p.0 > 0.0)?.0;
    let verdict = if (0.5..=2.0).contains(&ratio) { Verdict::Alike } else { Verdict::Differs };
    // The difference is the log of the ratio over that of the limit: 1 at the limits.
    let difference = Some(ratio.max(1e-6).ln() / 2f64.ln());
    Some(PartMatch {
        part: Part::Steadiness,
        verdict,
        difference,
        interval: None,
        spread_ratio: Some(ratio),
        unit: "doublings of the spread".into(),
        says: words::steadiness(ratio),
        ..weight.clone()
    })
}

/// The weight at every effort that strokes show, each from a curve that has not seen its stroke.
pub(super) fn weight(targets: &[Target], strokes: usize, response: Option<&Curve>, unseen: &[Unseen], pen_spread: Option<(f64, f64)>) -> PartMatch {
    let lines: f64 = targets.iter().map(|t| t.lines).sum();
    let mut out = PartMatch {
        part: Part::Weight,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        unit: "spreads".into(),
        measured: words::weight_from(lines, targets.len(), strokes),
        lines: lines as u32,
        says: String::new(),
    };
    let Some((spread, df)) = pen_spread else {
        out.says = words::SINGLE_LINES.into();
        return out;
    };
    if spread <= 0.0 || strokes == 0 {
        out.says = words::NO_STROKES.into();
        return out;
    }
    let units = units(targets, spread);
    let compared = targets.iter().enumerate().filter(|(k, _)| unseen.iter().any(|u| u.target == *k)).count().max(1);
    // Past the tablet's full point no curve can tell presses apart: what is off there is the tablet's, not the brush's.
    let (mut worst, mut beyond): (Option<AtEffort>, Option<AtEffort>) = (None, None);
    let (mut all_alike, mut any_differs, mut most, mut widest) = (true, false, 0.0f64, 0.0f64);
    for (k, t) in targets.iter().enumerate() {
        let widths: Vec<f64> = unseen.iter().filter(|u| u.target == k).map(|u| u.width).collect();
        let Some((mean, sd)) = mean_sd(&widths) else {
            continue;
        };
        let (n, unit) = (widths.len() as f64, units[k]);
        let difference = (mean - t.width) / unit;
        let error = (1.0 / t.lines + (sd / unit).powi(2) / n).sqrt();
        let told = n >= LEAST_LINES && t.lines >= LEAST_LINES;
        let sure = told && difference.abs() - student(1.0 - 0.025 / compared as f64, df) * error > MARGIN;
        let here = AtEffort { difference, half: student(0.975, df) * error, by_mm: mean - t.width, target: k };
        let further = |than: &Option<AtEffort>| than.as_ref().is_none_or(|w| difference.abs() > w.difference.abs());
        if !within_reach(t.effort, response) {
            if sure && further(&beyond) {
                beyond = Some(here);
            }
            continue;
        }
        all_alike &= told && difference.abs() + student(0.95, df) * error < MARGIN;
        any_differs |= sure;
        most = most.max(needed(difference, student(0.95, df), sd / unit));
        widest = widest.max((mean / t.width - 1.0).abs());
        if further(&worst) {
            worst = Some(here);
        }
    }
    let cannot = beyond.filter(|_| !any_differs);
    let past = cannot.is_some();
    let Some(at) = cannot.or(worst) else {
        out.says = words::NO_EFFORTS.into();
        return out;
    };
    out.difference = Some(at.difference);
    out.interval = Some([at.difference - at.half, at.difference + at.half]);
    out.spread_ratio = pooled_sd(by_effort(targets, unseen, |u, t| u.width / t.width)).zip(log_spread(targets)).map(|(b, p)| b.0 / p);
    let off = words::WeightOff { by_mm: at.by_mm, width_mm: targets[at.target].width, effort: targets[at.target].effort };
    (out.verdict, out.says) = if let Some(r) = response.filter(|_| past) {
        (Verdict::CannotBeMatched, off.past_full_point(r.value(1.0), all_alike))
    } else if all_alike {
        (Verdict::Alike, words::alike_everywhere(widest))
    } else if any_differs {
        (Verdict::Differs, off.differs())
    } else {
        (Verdict::TooFew, off.so_far(most))
    };
    out
}

/// How the weight compares at one effort, in the pen's spreads there.
struct AtEffort {
    difference: f64,
    half: f64,
    by_mm: f64,
    target: usize,
}

/// The pen's spread by the logarithm of the width, pooled over its efforts.
fn log_spread(targets: &[Target]) -> Option<f64> {
    pooled_sd(targets.iter().filter_map(|t| t.sd.map(|sd| (sd / t.width, t.lines)))).map(|p| p.0).filter(|s| *s > 0.0)
}

/// One spread of the pen at each effort, mm: a share of the width where spreads grow with it, else the same everywhere.
fn units(targets: &[Target], spread: f64) -> Vec<f64> {
    let known: Vec<(f64, f64)> = targets.iter().filter_map(|t| t.sd.filter(|s| *s > 0.0).map(|sd| (sd.ln(), t.width.ln()))).collect();
    let scatter = |f: &dyn Fn(&(f64, f64)) -> f64| mean_sd(&known.iter().map(f).collect::<Vec<_>>()).map_or(0.0, |m| m.1);
    match log_spread(targets) {
        Some(share) if known.len() >= 3 && scatter(&|k| k.0 - k.1) < scatter(&|k| k.0) => targets.iter().map(|t| share * t.width).collect(),
        _ => vec![spread; targets.len()],
    }
}

/// Lines at which the tests could pass, were the difference what it seems; `ratio` is of the brush's spread to the pen's.
fn needed(difference: f64, t: f64, ratio: f64) -> f64 {
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

/// Student's t at probability `p`.
fn student(p: f64, df: f64) -> f64 {
    StudentsT::new(0.0, 1.0, df.max(1.0)).map_or(2.0, |t| t.inverse_cdf(p))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// Quantiles of Student's t at 0.95 and 0.975 (NIST/SEMATECH e-Handbook of Statistical Methods, section 1.3.6.7.2).
    const T: [(f64, f64, f64); 4] = [(1.0, 6.314, 12.706), (5.0, 2.015, 2.571), (9.0, 1.833, 2.262), (29.0, 1.699, 2.045)];

    fn said(pen: PenFigure, brush: &[f64]) -> PartMatch {
        judged(Part::Pooling, pen, brush, "as measured".into(), |by| format!("{by:+.3}"))
    }

    proptest! {
        /// The two one-sided tests and the interval by their definitions: the difference of the means over the pen's spread, its standard
        /// error from both spreads and numbers, the pen's degrees of freedom (methods.md, section 4).
        #[test]
        fn verdicts_are_the_two_one_sided_tests(row in 0usize..4, mean in -2.0f64..2.0, spread in 0.05f64..0.5, off in -2.5f64..2.5, tremble in prop::collection::vec(-1.0f64..1.0, 2..40)) {
            let (df, t95, t975) = T[row];
            let middle = tremble.iter().sum::<f64>() / tremble.len() as f64;
            let brush: Vec<f64> = tremble.iter().map(|v| mean + spread * (off + v - middle)).collect();
            let sd = (tremble.iter().map(|v| (v - middle).powi(2)).sum::<f64>() / (tremble.len() - 1) as f64).sqrt();
            let out = said(PenFigure { mean, sd: Some(spread), n: df + 1.0 }, &brush);
            let error = (1.0 / (df + 1.0) + sd * sd / tremble.len() as f64).sqrt();
            prop_assert!((out.difference.expect("a difference") - off).abs() < 1e-9 && (out.spread_ratio.expect("a ratio") - sd).abs() < 1e-9);
            let [low, high] = out.interval.expect("an interval");
            prop_assert!((low - (off - t975 * error)).abs() < 2e-3 * t975 * error && (high - (off + t975 * error)).abs() < 2e-3 * t975 * error);
            let (inside, outside) = (off.abs() + t95 * error - MARGIN, off.abs() - t975 * error - MARGIN);
            // Where the table's digits could decide, either is right.
            prop_assume!(inside.abs() > 0.004 * t95 * error && outside.abs() > 0.004 * t975 * error);
            let want = if df + 1.0 < 3.0 || tremble.len() < 3 { Verdict::TooFew } else if inside < 0.0 { Verdict::Alike } else if outside > 0.0 { Verdict::Differs } else { Verdict::TooFew };
            prop_assert_eq!(out.verdict, want);
            prop_assert!(out.says.contains(&format!("{:+.3}", spread * off)), "{}", out.says);
        }

        /// A brush whose lines differ twice as much as the pen's, or half as much, is still alike; the size of it is 1 there.
        #[test]
        fn steadiness_is_a_ratio_within_two(ratio in 0.1f64..8.0, pen in 0.01f64..0.4) {
            let weight = said(PenFigure { mean: 0.0, sd: None, n: 4.0 }, &[]);
            let out = steadiness(&weight, Some((ratio * pen, 3.0)), Some((pen, 3.0))).expect("a verdict");
            prop_assert_eq!(out.verdict, if (0.5..=2.0).contains(&ratio) { Verdict::Alike } else { Verdict::Differs });
            prop_assert!((out.difference.expect("a size") - ratio.log2()).abs() < 1e-9 && out.part == Part::Steadiness);
            prop_assert!(steadiness(&weight, None, Some((pen, 3.0))).is_none() && steadiness(&weight, Some((pen, 3.0)), Some((0.0, 3.0))).is_none());
        }
    }

    /// A pen at five efforts whose spread is a share of its width, and strokes of a brush that are off by these shares, `n` at each effort.
    fn weighed(share: f64, off: [f64; 5], n: usize) -> PartMatch {
        let widths = [0.3, 0.5, 0.9, 1.6, 2.6];
        let targets: Vec<Target> = (0..5).map(|k| Target { effort: 0.25 * k as f64, width: widths[k], sd: Some(share * widths[k]), lines: 6.0 }).collect();
        let jig = |i: usize| 0.2 * share * if i.is_multiple_of(2) { 1.0 } else { -1.0 };
        let unseen: Vec<Unseen> = (0..5)
            .flat_map(|k| (0..n).map(move |i| (k, i)))
            .map(|(k, i)| Unseen { target: k, stroke: k * n + i, width: widths[k] * (1.0 + off[k] + jig(i)), weight: Vec::new() })
            .collect();
        let spread = pooled_sd(targets.iter().filter_map(|t| t.sd.map(|sd| (sd, t.lines))));
        weight(&targets, 5 * n, None, &unseen, spread)
    }

    proptest! {
        /// Each effort is held to its own spread: a feather line that is off by as many of them as the widest is told as surely, and the sentence is
        /// of the effort that is off the most.
        #[test]
        fn every_effort_counts_in_its_own_spread(share in 0.02f64..0.08, at in 0usize..5, far in 3.0f64..8.0) {
            let mut off = [0.0; 5];
            off[at] = far * share;
            let p = weighed(share, off, 6);
            prop_assert_eq!(p.verdict, Verdict::Differs);
            prop_assert!((p.difference.expect("a difference") - far).abs() < 0.05 * far, "{:?}", p.difference);
            prop_assert!(p.says.contains(crate::warmup::effort_name(0.25 * at as f64)) && p.says.contains("heavy"), "{}", p.says);
        }

        /// A sentence for every effort is true of every effort.
        #[test]
        fn what_is_said_of_every_effort_holds_at_each(share in 0.03f64..0.08, near in prop::array::uniform5(-0.15f64..0.15)) {
            let off = near.map(|v| v * share);
            let p = weighed(share, off, 6);
            prop_assert_eq!(p.verdict, Verdict::Alike);
            let told: f64 = p.says.trim_start_matches("within ").split(' ').next().and_then(|v| v.parse().ok()).expect("a figure");
            let worst = off.iter().fold(0.0f64, |a, o| a.max(o.abs()));
            prop_assert!(told + 0.051 >= 100.0 * worst && told <= 100.0 * worst + 0.151, "{told} % of {worst}: {}", p.says);
        }

        /// Two strokes at an effort say nothing, however alike or far off they are.
        #[test]
        fn two_strokes_are_too_few(share in 0.02f64..0.08, far in 0.0f64..9.0) {
            prop_assert_eq!(weighed(share, [far * share; 5], 2).verdict, Verdict::TooFew);
        }
    }

    #[test]
    fn spreads_that_do_not_grow_with_the_width_are_the_same_everywhere() {
        let target = |width: f64, sd: f64| Target { effort: 0.0, width, sd: Some(sd), lines: 6.0 };
        let even = [target(0.3, 0.02), target(0.9, 0.021), target(2.6, 0.019)];
        assert_eq!(units(&even, 0.02), vec![0.02; 3]);
        let grown = [target(0.3, 0.012), target(0.9, 0.036), target(2.6, 0.104)];
        let told = units(&grown, 0.06);
        assert!((told[0] - 0.012).abs() < 1e-9 && (told[2] - 0.104).abs() < 1e-9, "{told:?}");
        // Of two efforts nothing is known of how spreads grow.
        assert_eq!(units(&grown[..2], 0.03), vec![0.03; 2]);
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
