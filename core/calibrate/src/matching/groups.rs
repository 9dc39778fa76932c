//! Whether several groups of lines go as the pen's do, all held against one another at once: widths by direction, widths by pace.
//!
//! How: each group's difference, brush less pen, squared and summed over its variance, is noncentral F where they differ; they are alike where a
//! root mean square difference of the margin would seldom look so small, and differ where it would seldom look so large. Limits: the pen's spread is
//! the same in all groups. Source: S. Wellek, Testing Statistical Hypotheses of Equivalence and Noninferiority, 2nd ed. 2010, chapter 7 (the F-test for
//! equivalence of k means); the noncentral F as a Poisson mixture of beta functions (N. L. Johnson, S. Kotz, N. Balakrishnan, Continuous Univariate
//! Distributions 2, chapter 30).

use eddymist_measure::stats::mean_sd;
use statrs::function::{beta::beta_reg, gamma::ln_gamma};

use super::document::{MARGIN, Verdict};

/// Lines of the pen and of the brush that are held against one another, in the pen's spreads.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Lines {
    /// The mean of the pen's, and how many they are.
    pub pen: f64,
    pub lines: f64,
    pub brush: Vec<f64>,
}

/// The spread of the pen's lines in the units that differences are counted in, and the degrees of freedom that it is known by. It is 1 but where the pen
/// is steadier than what can be told.
#[derive(Debug, Clone, Copy)]
pub(super) struct PenSpread {
    pub sd: f64,
    pub df: f64,
}

/// How far groups are apart, root mean square in the pen's spreads, with its 95 % interval, and what that says.
pub(super) struct Apart {
    pub difference: f64,
    pub interval: [f64; 2],
    pub spread_ratio: Option<f64>,
    pub verdict: Verdict,
    /// Lines of the pen by which it could be told that they are alike, were the difference what it seems.
    pub needed: f64,
}

/// Holds groups against one another; `tied` says that one group follows from the others, as shares of a mean do. None without groups that both have.
pub(super) fn apart(groups: &[Lines], pen: PenSpread, tied: bool) -> Option<Apart> {
    let seen: Vec<(&Lines, f64, f64)> = groups.iter().filter(|g| g.lines >= 1.0).filter_map(|g| mean_sd(&g.brush).map(|(m, sd)| (g, m, sd))).collect();
    let k = seen.len() as f64;
    let d1 = if tied { k - 1.0 } else { k };
    if d1 < 1.0 {
        return None;
    }
    // The brush's own spread within its groups, one for all.
    let (own_ss, own_df) = seen.iter().fold((0.0, 0.0), |a, (g, _, sd)| (a.0 + sd * sd * (g.brush.len() as f64 - 1.0), a.1 + g.brush.len() as f64 - 1.0));
    let own = if own_df > 0.0 { own_ss / own_df } else { 0.0 };
    // With so many times as many lines of the pen.
    let variances = |times: f64| seen.iter().map(move |(g, _, _)| pen.sd * pen.sd / (times * g.lines) + own / g.brush.len() as f64);
    let weight = |times: f64| variances(times).map(|v| 1.0 / v).sum::<f64>();
    let q: f64 = seen.iter().zip(variances(1.0)).map(|((g, m, _), v)| (m - g.pen).powi(2) / v).sum();
    let by_chance = |rms: f64, times: f64, f: f64| noncentral_f(f, d1, pen.df, rms * rms * weight(times));
    let (f, w) = (q / d1, weight(1.0));
    let difference = ((q - d1).max(0.0) / w).sqrt();
    let limit = |p: f64| {
        // The difference at which so small an F, or a smaller one, has this probability: it falls as the difference grows.
        let (mut low, mut high) = (0.0, (q / w).sqrt() + 8.0 / w.sqrt() * k.sqrt() + 1.0);
        if by_chance(0.0, 1.0, f) <= p {
            return 0.0;
        }
        for _ in 0..48 {
            let mid = 0.5 * (low + high);
            if by_chance(mid, 1.0, f) > p { low = mid } else { high = mid }
        }
        0.5 * (low + high)
    };
    let expected = |times: f64| (d1 + difference * difference * weight(times)) / d1;
    let lines: f64 = seen.iter().map(|(g, _, _)| g.lines).sum();
    let enough = (0..40).map(|i| 1.12f64.powi(i)).find(|t| by_chance(MARGIN, *t, expected(*t)) < 0.05);
    let at_margin = by_chance(MARGIN, 1.0, f);
    let verdict = if at_margin < 0.05 {
        Verdict::Alike
    } else if at_margin > 0.975 {
        Verdict::Differs
    } else {
        Verdict::TooFew
    };
    let spread_ratio = (own_df > 0.0 && pen.sd > 0.0).then(|| own.sqrt() / pen.sd);
    Some(Apart { difference, interval: [limit(0.975), limit(0.025)], spread_ratio, verdict, needed: lines * enough.unwrap_or(99.0) })
}

/// The mixture has some twenty times the root of this many terms.
const MOST_MIXED: f64 = 2000.0;

/// Distribution function of the noncentral F: of `d1` and `d2` degrees of freedom and the noncentrality λ (the sum of the squared means).
fn noncentral_f(f: f64, d1: f64, d2: f64, lambda: f64) -> f64 {
    if f <= 0.0 {
        return 0.0;
    }
    let half = 0.5 * lambda;
    if half > MOST_MIXED {
        // Patnaik's central F of as much mean and variance (Biometrika 36, 1949): so far out the two are one.
        let (nu, scale) = ((d1 + lambda).powi(2) / (d1 + 2.0 * lambda), (d1 + lambda) / d1);
        let x = nu * f / scale / (nu * f / scale + d2);
        return if x.is_finite() { beta_reg(0.5 * nu, 0.5 * d2, x.clamp(0.0, 1.0)) } else { f64::from(u8::from(f > scale)) };
    }
    let x = (d1 * f / (d1 * f + d2)).clamp(0.0, 1.0);
    let weight = |j: f64| if half > 0.0 { (j * half.ln() - half - ln_gamma(j + 1.0)).exp() } else { f64::from(u8::from(j == 0.0)) };
    // From the likeliest number of the Poisson mixture out to both sides, as far as it counts.
    let reach = (10.0 * half.sqrt() + 30.0).ceil();
    let first = (half - reach).max(0.0).floor();
    let mut sum = 0.0;
    let mut j = first;
    while j <= half + reach {
        sum += weight(j) * beta_reg(0.5 * d1 + j, 0.5 * d2, x);
        j += 1.0;
    }
    sum.clamp(0.0, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use serde::Deserialize;

    #[derive(Deserialize)]
    struct Case {
        f: f64,
        d1: f64,
        d2: f64,
        noncentrality: f64,
        p: f64,
    }

    /// scipy.stats.ncf.
    #[test]
    fn the_noncentral_f_is_another_librarys() {
        let cases: Vec<Case> = serde_json::from_str(include_str!("../../../../tests/reference/noncentral_f.json")).expect("golden values");
        for c in cases {
            let got = noncentral_f(c.f, c.d1, c.d2, c.noncentrality);
            assert!((got - c.p).abs() < 1e-9, "{got} for {} at {} {} {} {}", c.p, c.f, c.d1, c.d2, c.noncentrality);
        }
    }

    /// The same groups drawn with the pen's own scatter are hardly ever told from it, and those that are two spreads off are hardly ever alike.
    #[test]
    fn how_often_it_errs() {
        let mut state = 7u64;
        let mut uniform = || {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (state >> 11) as f64 / (1u64 << 53) as f64
        };
        let mut normal = || (-2.0 * uniform().max(1e-12).ln()).sqrt() * (std::f64::consts::TAU * uniform()).cos();
        const ROUNDS: usize = 500;
        let mut told = |off: f64, sd: f64| {
            let mut count = [0.0; 4];
            for _ in 0..ROUNDS {
                let group = |k: usize, normal: &mut dyn FnMut() -> f64| {
                    let pen = (0..3).map(|_| sd * normal()).sum::<f64>() / 3.0;
                    let sign = if k.is_multiple_of(2) { 1.0 } else { -1.0 };
                    Lines { pen: 20.0 + pen, lines: 3.0, brush: (0..2).map(|_| 20.0 + off * sign + 0.3 * normal()).collect() }
                };
                let groups: Vec<Lines> = (0..8).map(|k| group(k, &mut normal)).collect();
                count[apart(&groups, PenSpread { sd, df: 21.0 }, false).expect("groups").verdict as usize] += 1.0 / ROUNDS as f64;
            }
            count
        };
        let (same, far, at_margin) = (told(0.0, 1.0), told(2.0, 1.0), told(1.0, 1.0));
        println!("alike, differs, too few: same {same:?}, two spreads {far:?}, one spread {at_margin:?}");
        assert!(same[Verdict::Alike as usize] > 0.85 && same[Verdict::Differs as usize] < 0.005, "{same:?}");
        assert!(far[Verdict::Differs as usize] > 0.85 && far[Verdict::Alike as usize] < 0.005, "{far:?}");
        // On the margin itself it is called alike as seldom as the test allows (5 %), and different (2.5 %); the spread is taken as known here.
        assert!(at_margin[Verdict::Alike as usize] < 0.09 && at_margin[Verdict::Differs as usize] < 0.06, "{at_margin:?}");
        // A pen that is steadier than what can be told is told apart more surely, and on the margin no oftener wrongly.
        let (near, at_margin) = (told(0.5, 0.3), told(1.0, 0.3));
        assert!(near[Verdict::Alike as usize] > 0.95, "{near:?}");
        assert!(at_margin[Verdict::Alike as usize] < 0.09 && at_margin[Verdict::Differs as usize] < 0.06, "{at_margin:?}");
    }

    proptest! {
        /// From the mixture to what stands in for it far out is no step, and it takes no longer however far out it is.
        #[test]
        fn far_out_it_goes_on(q in 0.6f64..1.6, d1 in 2.0f64..8.0, d2 in 5.0f64..60.0, far in 4.0f64..12.0) {
            let near = 2.0 * MOST_MIXED;
            let f = q * (d1 + near) / d1;
            let (mixed, stands_in) = (noncentral_f(f, d1, d2, near), noncentral_f(f, d1, d2, near * (1.0 + 1e-9)));
            prop_assert!((mixed - stands_in).abs() < 2e-3, "{mixed} and {stands_in}");
            let lambda = 10f64.powf(far);
            prop_assert!(noncentral_f(1e-3 * lambda / d1, d1, d2, lambda) < 1e-3 && noncentral_f(1e3 * lambda / d1, d1, d2, lambda) > 0.99);
        }

        /// Neither the order of the groups nor where they lie counts, and the difference is inside its interval.
        #[test]
        fn only_the_differences_count(off in prop::array::uniform8(-3.0f64..3.0), at in 5.0f64..50.0, turn in 0usize..8, tied in any::<bool>()) {
            let of = |turn: usize, at: f64| {
                let groups: Vec<Lines> = (0..8).map(|k| Lines { pen: at, lines: 3.0, brush: vec![at + off[(k + turn) % 8] - 0.1, at + off[(k + turn) % 8] + 0.1] }).collect();
                apart(&groups, PenSpread { sd: 1.0, df: 21.0 }, tied).expect("groups")
            };
            let (a, b) = (of(0, 20.0), of(turn, at));
            prop_assert!((a.difference - b.difference).abs() < 1e-6 && a.verdict == b.verdict);
            prop_assert!(a.interval[0] <= a.difference + 1e-6 && a.difference <= a.interval[1] + 1e-6, "{} in {:?}", a.difference, a.interval);
        }
    }
}
