//! The team's statistics against the outside: worked examples of the NIST/SEMATECH e-Handbook and NIST's certified one-way data
//! (both from memory; the certified sums show that the data were remembered right), published control-chart constants, and
//! statsmodels, SciPy and ruptures (golden: tests/reference/make_team.py).

use eddymist_check::team::{
    capability::capability,
    change::change,
    chart::{Rule, chart, d2_of_two, d4_of_two, individuals, weighted, weighted_half, western_electric},
    inference::{holm, mean_of, one_way, welch},
    variance::variance,
};
use proptest::prelude::*;
use serde_json::Value;

fn golden(text: &str) -> Vec<Value> {
    serde_json::from_str(text).expect("golden values")
}

fn numbers(v: &Value) -> Vec<f64> {
    v.as_array().expect("numbers").iter().filter_map(Value::as_f64).collect()
}

/// e-Handbook 6.3.2.2, chart of individuals of ten flow rates: centre 50.81, mean moving range 1.8778, limits 55.8041 and 45.8159.
#[test]
fn individuals_are_the_handbooks() {
    let y = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1];
    let (centre, spread) = individuals(&y).expect("a chart");
    assert!((centre - 50.81).abs() < 1e-9 && (spread * d2_of_two() - 1.8778).abs() < 5e-5);
    let c = chart(&y).expect("a chart");
    // The handbook rounds d₂ to 1.128.
    assert!((c.limits[1] - 55.8041).abs() < 2e-3 && (c.limits[0] - 45.8159).abs() < 2e-3, "{:?}", c.limits);
    assert!(c.broken.iter().all(|b| !b.contains(&Rule::Beyond) && !b.contains(&Rule::Jump)));
}

/// e-Handbook 6.3.2.4, weighted mean with λ 0.3 from 50 with spread 2.0539: limits 52.5884 and 47.4115, and its twenty values.
#[test]
fn weighted_means_are_the_handbooks() {
    let y = [52.0, 47.0, 53.0, 49.3, 50.1, 47.0, 51.0, 50.1, 51.2, 50.5, 49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1];
    let said = [50.60, 49.52, 50.56, 50.18, 50.16, 49.21, 49.75, 49.85, 50.26, 50.33, 50.11, 49.36, 49.52, 50.05, 49.38, 49.92, 50.73, 51.23, 51.94, 51.99];
    for (z, s) in weighted(&y, 50.0, 0.3).iter().zip(said) {
        assert!((z - s).abs() < 6e-3, "{z} {s}");
    }
    assert!((weighted_half(2.0539, 0.3) - 2.5884).abs() < 2e-4);
}

/// Constants for two values (e-Handbook 6.3.2, and every handbook's table): d₂ 1.128, D₄ 3.267, and 3/d₂ 2.66.
#[test]
fn constants_are_the_published_ones() {
    assert!((d2_of_two() - 1.128).abs() < 5e-4 && (d4_of_two() - 3.267).abs() < 5e-4 && (3.0 / d2_of_two() - 2.66).abs() < 5e-3);
}

/// The rules as the handbook draws them: each is broken by its own run, and not by a run one shorter.
#[test]
fn western_electric_rules_are_broken_by_their_own_runs() {
    let runs: [(Rule, &[f64]); 4] = [
        (Rule::Beyond, &[3.1]),
        (Rule::TwoOfThree, &[2.1, 0.0, 2.2]),
        (Rule::FourOfFive, &[1.1, 1.2, -0.2, 1.3, 1.4]),
        (Rule::EightOnOneSide, &[0.1, 0.2, 0.1, 0.3, 0.2, 0.1, 0.4, 0.2]),
    ];
    for (rule, run) in runs {
        for side in [1.0, -1.0] {
            let z: Vec<f64> = run.iter().map(|v| v * side).collect();
            let broken = western_electric(&z);
            assert!(broken.last().expect("a point").contains(&rule), "{rule:?}");
            assert!(broken[..run.len() - 1].iter().all(Vec::is_empty), "{rule:?}");
            assert!(western_electric(&z[1..]).iter().all(|b| !b.contains(&rule)), "{rule:?}");
        }
    }
}

/// e-Handbook 6.1.6: limits 8 and 20, mean 16, spread 2: cp 1.0, cpk 0.6667.
#[test]
fn capability_is_the_handbooks() {
    // Fifty values of mean 16 and spread 2.
    let spread = 2.0 * (49.0f64 / 50.0).sqrt();
    let y: Vec<f64> = (0..50).map(|k| 16.0 + if k % 2 == 0 { spread } else { -spread }).collect();
    let c = capability(&y, [8.0, 20.0]).expect("a capability");
    assert!((c.cp - 1.0).abs() < 1e-9 && (c.cpk - 2.0 / 3.0).abs() < 1e-9);
    // Two spreads to the upper limit: 2.275 % of a normal distribution; the lower is four away.
    assert!((c.outside - 0.02278).abs() < 1e-4 && (c.outside_centred - 2.0 * 0.00135).abs() < 1e-4);
    assert!(c.cpk_interval[0] < c.cpk && c.cp_interval[0] < 1.0 && c.cp_interval[1] > 1.0);
    assert!(capability(&[6.0; 9], [5.0, 7.0]).is_none() && capability(&y[..5], [8.0, 20.0]).is_none());
}

/// NIST's certified one-way data. SiRstv: five instruments, five days each (certified between 5.11462616000000E-02, within
/// 2.16636560000000E-01, F 1.18046237440255). SmLs (Simon and Lesage): nine treatments of 21 whose first eight digits or more can be
/// common (certified between 1.68, within 1.80, F 21.0).
#[test]
fn one_way_tables_are_certified() {
    let resistivity = [
        [196.3052, 196.1240, 196.1890, 196.2569, 196.3403],
        [196.3042, 196.3825, 196.1669, 196.3257, 196.0422],
        [196.1303, 196.2005, 196.2889, 196.0343, 196.1811],
        [196.2795, 196.1748, 196.1494, 196.1485, 195.9885],
        [196.2119, 196.1051, 196.1850, 196.0052, 196.2090],
    ];
    let t = one_way(&resistivity.map(|g| g.to_vec())).expect("a table");
    let close = |a: f64, b: f64, digits: f64| (a / b - 1.0).abs() < 10f64.powf(-digits);
    assert!(close(t.between, 5.114_626_16e-2, 9.0) && close(t.within, 2.166_365_6e-1, 9.0) && close(t.f, 1.180_462_374_402_55, 9.0), "{t:?}");
    for (common, digits) in [(0.0, 12.0), (1e6, 7.0), (1e12, 2.0)] {
        let groups: Vec<Vec<f64>> = (0..9)
            .map(|k| {
                let middle = common + if k == 0 { 1.4 } else { [1.3, 1.5][k % 2] };
                (0..21).map(|j| if j == 0 { middle } else { middle + [0.1, -0.1][j % 2] }).collect()
            })
            .collect();
        let t = one_way(&groups).expect("a table");
        assert_eq!(t.df, [8, 180]);
        assert!(close(t.between, 1.68, digits) && close(t.within, 1.80, digits) && close(t.f, 21.0, digits), "{common}: {t:?}");
    }
}

#[test]
fn variances_are_those_of_statsmodels() {
    for case in golden(include_str!("../../../tests/reference/variance.json")) {
        let table: Vec<Vec<Vec<f64>>> = serde_json::from_value(case["table"].clone()).expect("a table");
        let v = variance(&table).expect("parts");
        let near = |ours: f64, key: &str| {
            let theirs = case[key].as_f64().expect("a value");
            assert!((ours - theirs).abs() < 2e-4 + 2e-3 * theirs, "{key}: {ours} and {theirs}");
        };
        near(v.mean_px, "mean");
        near(v.artist.sd_px, "artist");
        near(v.drawing.sd_px, "drawing");
        near(v.line.sd_px, "line");
        assert!(v.calibrated_px <= v.whole_px);
        for part in [v.artist, v.drawing, v.line] {
            assert!(part.low_px <= part.sd_px + 1e-9 && part.high_px.is_none_or(|h| h >= part.sd_px));
        }
    }
}

/// A balanced table whose parts follow from its mean squares by hand, and whose line part has the interval of χ².
#[test]
fn a_balanced_table_has_the_parts_of_its_mean_squares() {
    let line = [-0.1, 0.0, 0.1];
    let table: Vec<Vec<Vec<f64>>> =
        [-0.6, -0.1, 0.2, 0.5].iter().map(|a| [-0.2, 0.05, 0.15].iter().map(|d| line.iter().map(|e| 6.0 + a + d + e).collect()).collect()).collect();
    let v = variance(&table).expect("parts");
    let squares = |x: &[f64]| x.iter().map(|v| v * v).sum::<f64>();
    let (ms_line, ms_drawing, ms_artist) = (squares(&line) / 2.0, 3.0 * squares(&[-0.2, 0.05, 0.15]) / 2.0, 9.0 * squares(&[-0.6, -0.1, 0.2, 0.5]) / 3.0);
    let sd = |v: f64| v.sqrt();
    assert!((v.line.sd_px - sd(ms_line)).abs() < 1e-5);
    assert!((v.drawing.sd_px - sd((ms_drawing - ms_line) / 3.0)).abs() < 1e-5);
    assert!((v.artist.sd_px - sd((ms_artist - ms_drawing) / 9.0)).abs() < 1e-5);
}

#[test]
fn pairs_and_corrections_are_those_of_scipy_and_statsmodels() {
    for case in golden(include_str!("../../../tests/reference/pairs.json")) {
        let groups: Vec<Vec<f64>> = case["groups"].as_array().expect("groups").iter().map(numbers).collect();
        let mut p = Vec::new();
        for pair in case["pairs"].as_array().expect("pairs") {
            let of = |k: &str| pair[k].as_u64().expect("an index") as usize;
            let (_, interval, ours) = welch(&groups[of("a")], &groups[of("b")]).expect("a test");
            let theirs = |k: &str| pair[k].as_f64().expect("a value");
            assert!((ours - theirs("p")).abs() < 1e-9 && (interval[0] - theirs("low")).abs() < 1e-7 && (interval[1] - theirs("high")).abs() < 1e-7);
            p.push(ours);
        }
        for (ours, theirs) in holm(&p).iter().zip(numbers(&case["holm"])) {
            assert!((ours - theirs).abs() < 1e-9);
        }
        assert!((one_way(&groups).expect("a table").f - numbers(&case["oneway"])[0]).abs() < 1e-9);
    }
}

/// SciPy's t.interval; values by tests/reference/make.py.
#[test]
fn means_have_scipys_interval() {
    for case in golden(include_str!("../../../tests/reference/t_interval.json")) {
        let m = mean_of(&numbers(&case["values"])).expect("a mean");
        let (ours, theirs) = (m.interval.expect("an interval"), numbers(&case["interval"]));
        assert!((ours[0] - theirs[0]).abs() < 1e-6 && (ours[1] - theirs[1]).abs() < 1e-6);
    }
}

#[test]
fn changes_are_where_ruptures_puts_them() {
    for case in golden(include_str!("../../../tests/reference/change.json")) {
        let c = change(&numbers(&case["y"])).expect("a change");
        assert_eq!(c.at as u64, case["at"].as_u64().expect("a place"));
    }
}

/// Ten of the two hundred series without a change may have one said at p < 0.05; a large one is always found.
#[test]
fn a_change_is_not_said_of_noise() {
    use rand::{Rng, SeedableRng};
    let mut r = rand_chacha::ChaCha8Rng::seed_from_u64(3);
    let mut said = 0;
    for _ in 0..200 {
        let y: Vec<f64> = (0..14).map(|_| 6.0 + r.random_range(-0.3..0.3)).collect();
        said += usize::from(change(&y).expect("a series").p < 0.05);
        let stepped: Vec<f64> = y.iter().enumerate().map(|(k, v)| v + if k >= 5 { 1.0 } else { 0.0 }).collect();
        let c = change(&stepped).expect("a series");
        assert!(c.at == 5 && c.p < 0.01);
    }
    assert!(said <= 18, "{said} of 200");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Both sides of a change are the means of what lies there (the least squares of a step); of two places that explain as much, the
    /// first; a series and its unit, its origin and its sign have their change at one place, with one chance.
    #[test]
    fn a_change_is_the_step_of_least_squares(y in prop::collection::vec(2.0f64..9.0, 6..16), unit in 0.3f64..4.0, shift in -5.0f64..5.0) {
        let c = change(&y).expect("a series");
        let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
        let left = |at: usize| y.iter().enumerate().map(|(k, v)| (v - if k < at { mean(&y[..at]) } else { mean(&y[at..]) }).powi(2)).sum::<f64>();
        for at in 2..=y.len() - 2 {
            prop_assert!(left(c.at) <= left(at) + 1e-9, "{at} before {}", c.at);
        }
        prop_assert!((c.before - mean(&y[..c.at])).abs() < 1e-12 && (c.after - mean(&y[c.at..])).abs() < 1e-12);
        let moved: Vec<f64> = y.iter().map(|v| shift - unit * v).collect();
        let m = change(&moved).expect("a series");
        prop_assert!(m.at == c.at && (m.p - c.p).abs() < 2e-3, "{} {} and {} {}", c.at, c.p, m.at, m.p);
    }
}

#[test]
fn of_two_changes_alike_the_first_is_said() {
    let c = change(&[1.0, 1.0, 1.0, 4.0, 4.0, 4.0, 1.0, 1.0, 1.0]).expect("a series");
    assert_eq!(c.at, 3);
}

proptest! {
    /// Parts do not move with the origin, grow with the unit, and their whole is the root of their squares.
    #[test]
    fn variance_goes_by_the_unit(table in prop::collection::vec(prop::collection::vec(prop::collection::vec(4.0f64..8.0, 1..6), 2..5), 2..6), unit in 0.2f64..5.0, shift in -3.0f64..3.0) {
        prop_assume!(table.iter().flatten().any(|d| d.len() > 1));
        let v = variance(&table).expect("parts");
        let moved: Vec<Vec<Vec<f64>>> = table.iter().map(|a| a.iter().map(|d| d.iter().map(|x| x * unit + shift).collect()).collect()).collect();
        let m = variance(&moved).expect("parts");
        for (a, b) in [(v.artist, m.artist), (v.drawing, m.drawing), (v.line, m.line)] {
            prop_assert!((a.sd_px * unit - b.sd_px).abs() < 2e-3 * unit, "{:?} {:?}", a, b);
        }
        prop_assert!((v.whole_px.powi(2) - v.artist.sd_px.powi(2) - v.drawing.sd_px.powi(2) - v.line.sd_px.powi(2)).abs() < 1e-9);
    }

    /// Whatever numbers come, the charts give a list of rules a point, and nothing breaks.
    #[test]
    fn any_series_is_charted_or_not(y in prop::collection::vec(-10.0f64..10.0, 0..40)) {
        if let Some(c) = chart(&y) {
            prop_assert!(c.broken.len() == y.len() && c.weighted.len() == y.len() && c.spread > 0.0);
        }
        prop_assert!(change(&y).is_none_or(|c| (0.0..=1.0).contains(&c.p) && c.at >= 2 && c.at + 2 <= y.len()));
    }
}
