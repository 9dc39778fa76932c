//! The weight's verdict: at every effort in the pen's spread there, and the worst is the one told.
//!
//! How: two one-sided tests at each effort that strokes show; fewer than three lines on a side are too few. Limits: past the tablet's full point no curve
//! can tell presses apart, and what is off there is said to be the tablet's.

use eddymist_ink::Curve;
use eddymist_measure::stats::{mean_sd, pooled_sd};

use super::{
    document::{MARGIN, Part, PartMatch, Verdict},
    judge::{LEAST_LINES, needed, student, welch},
    weight::{Target, Unseen, by_effort, within_reach},
    words,
};

/// The weight at every effort that strokes show, each from a curve that has not seen its stroke.
pub(super) fn weight(targets: &[Target], strokes: usize, response: Option<&Curve>, unseen: &[Unseen], pen_spread: Option<(f64, f64)>) -> PartMatch {
    let lines: f64 = targets.iter().map(|t| t.lines).sum();
    let mut out = PartMatch {
        part: Part::Weight,
        verdict: Verdict::TooFew,
        difference: None,
        interval: None,
        spread_ratio: None,
        off_share: None,
        unit: "spreads".into(),
        measured: words::weight_from(lines, targets.len(), strokes),
        lines: lines as u32,
        says: String::new(),
    };
    let Some((spread, df)) = pen_spread else {
        out.says = words::SINGLE_LINES.into();
        return out;
    };
    if strokes == 0 {
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
        let (n, Unit { mm: unit, pen }) = (widths.len() as f64, units[k]);
        let difference = (mean - t.width) / unit;
        let (error, df) = welch([pen, t.lines, df], [sd / unit, n, n - 1.0]);
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
    out.off_share = Some(at.by_mm / targets[at.target].width);
    out.spread_ratio = pooled_sd(by_effort(targets, unseen, |u, t| u.width / t.width)).zip(log_spread(targets)).map(|(b, p)| b.0 / p.0);
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

/// The pen's spread by the logarithm of the width, pooled over its efforts, with its degrees of freedom.
pub(super) fn log_spread(targets: &[Target]) -> Option<(f64, f64)> {
    pooled_sd(targets.iter().filter_map(|t| t.sd.map(|sd| (sd / t.width, t.lines)))).filter(|s| s.0 > 0.0)
}

/// What differences at an effort are counted in, and the pen's own spread there in it.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Unit {
    mm: f64,
    pen: f64,
}

/// One spread of the pen at each effort: a share of the width where spreads grow with it, else the same everywhere; never less than a scan tells.
fn units(targets: &[Target], spread: f64) -> Vec<Unit> {
    let known: Vec<(f64, f64)> = targets.iter().filter_map(|t| t.sd.filter(|s| *s > 0.0).map(|sd| (sd.ln(), t.width.ln()))).collect();
    let scatter = |f: &dyn Fn(&(f64, f64)) -> f64| mean_sd(&known.iter().map(f).collect::<Vec<_>>()).map_or(0.0, |m| m.1);
    let share = log_spread(targets).filter(|_| known.len() >= 3 && scatter(&|k| k.0 - k.1) < scatter(&|k| k.0));
    let unit = |t: &Target| {
        let own = share.map_or(spread, |(share, _)| share * t.width);
        let mm = own.max(t.told_mm);
        Unit { mm, pen: own / mm }
    };
    targets.iter().map(unit).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// A pen at five efforts whose spread is a share of its width, and strokes of a brush that are off by these shares, `n` at each effort.
    fn weighed(share: f64, off: [f64; 5], n: usize) -> PartMatch {
        let widths = [0.3, 0.5, 0.9, 1.6, 2.6];
        let targets: Vec<Target> =
            (0..5).map(|k| Target { effort: 0.25 * k as f64, width: widths[k], sd: Some(share * widths[k]), lines: 6.0, told_mm: 0.002 }).collect();
        let jig = |i: usize| 0.2 * share * if i.is_multiple_of(2) { 1.0 } else { -1.0 };
        let unseen: Vec<Unseen> = (0..5)
            .flat_map(|k| (0..n).map(move |i| (k, i)))
            .map(|(k, i)| Unseen { target: k, stroke: k * n + i, width: widths[k] * (1.0 + off[k] + jig(i)), weight: Vec::new(), response: None })
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
            prop_assert!((p.off_share.expect("a share") - far * share).abs() < 0.05 * far * share, "{:?}", p.off_share);
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

        /// A pen whose lines are all of one width is held to what a scan tells, and no further.
        #[test]
        fn what_a_scan_does_not_tell_is_alike(near in prop::array::uniform5(-0.4f64..0.4), at in 0usize..5, far in 2.0f64..6.0) {
            let widths = [0.3f64, 0.5, 0.9, 1.6, 2.6];
            let told = widths.map(|w| 0.002 / w);
            let off: [f64; 5] = std::array::from_fn(|k| near[k] * 0.002 / widths[k]);
            prop_assert_eq!(weighed(1e-9, off, 6).verdict, Verdict::Alike);
            let mut one = off;
            one[at] = far * told[at];
            let p = weighed(1e-9, one, 6);
            prop_assert!(p.verdict == Verdict::Differs && p.says.contains(crate::warmup::effort_name(0.25 * at as f64)), "{}", p.says);
        }

        /// Two strokes at an effort say nothing, however alike or far off they are.
        #[test]
        fn two_strokes_are_too_few(share in 0.02f64..0.08, far in 0.0f64..9.0) {
            prop_assert_eq!(weighed(share, [far * share; 5], 2).verdict, Verdict::TooFew);
        }
    }

    #[test]
    fn spreads_that_do_not_grow_with_the_width_are_the_same_everywhere() {
        let target = |width: f64, sd: f64| Target { effort: 0.0, width, sd: Some(sd), lines: 6.0, told_mm: 0.002 };
        let even = [target(0.3, 0.02), target(0.9, 0.021), target(2.6, 0.019)];
        assert_eq!(units(&even, 0.02), vec![Unit { mm: 0.02, pen: 1.0 }; 3]);
        let grown = [target(0.3, 0.012), target(0.9, 0.036), target(2.6, 0.104)];
        let told = units(&grown, 0.06);
        assert!((told[0].mm - 0.012).abs() < 1e-9 && (told[2].mm - 0.104).abs() < 1e-9, "{told:?}");
        // Of two efforts nothing is known of how spreads grow.
        assert_eq!(units(&grown[..2], 0.03), vec![Unit { mm: 0.03, pen: 1.0 }; 2]);
        // Less than a scan tells is counted in what it tells.
        assert_eq!(units(&even, 0.0005), vec![Unit { mm: 0.002, pen: 0.25 }; 3]);
    }
}
