//! What reports tell of the device, against series whose rate, losses and steps are known by construction; and nib laws that must not be.

use eddymist_calibrate::{
    Exercise, Group, WarmUp,
    nib::{Seen, law},
    pen_card::CardNib,
    profile,
    warmup::{EFFORTS, Pace},
};
use eddymist_ink::{Sample, Stroke};
use proptest::prelude::*;

/// A level stroke of `n` reports, `period` ms apart, of which those in `lost` never came.
fn reported(effort: f64, n: usize, period: f64, start: f64, steps: u32, lost: &[usize]) -> Stroke {
    let at = |i: usize| {
        let raw = 0.1 + 0.7 * effort + 0.08 * (i as f64 / n as f64 - 0.5);
        let step = f64::from(steps - 1);
        Sample {
            t_ms: start + period * i as f64,
            x: 20.0 + 80.0 * i as f64 / n as f64,
            y: 20.0,
            pressure: Some((raw * step).round() / step),
            ..Sample::default()
        }
    };
    Stroke::new((0..n).filter(|i| !lost.contains(i)).map(at).collect())
}

fn warmed(period: f64, steps: u32, lost: &[usize]) -> WarmUp {
    let group = |(k, (effort, _)): (usize, (f64, &str))| Group {
        exercise: Exercise::Effort,
        effort: Some(effort),
        pace: Some(Pace::Normal),
        strokes: (0..3).map(|i| reported(effort, 120, period, 5000.0 * (3 * k + i) as f64, steps, lost)).collect(),
    };
    WarmUp { groups: EFFORTS.into_iter().enumerate().map(group).collect(), scale_from_card: false, slips_counted: false }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// The rate is that of the intervals that are one period long, and every report that is missing inside a stroke is counted, in runs too.
    #[test]
    fn rate_and_losses_are_counted(hz in 60.0f64..400.0, first in 5usize..40, run in 0usize..4, second in 60usize..100) {
        let period = 1000.0 / hz;
        let lost: Vec<usize> = (first..first + run).chain(std::iter::once(second)).collect();
        let p = profile(&warmed(period, 4096, &lost), "").expect("a profile");
        prop_assert!((p.report_rate_hz / hz - 1.0).abs() < 1e-6, "{} of {hz}", p.report_rate_hz);
        prop_assert_eq!(p.dropouts as usize, 15 * lost.len());
        prop_assert!(p.advice.iter().any(|a| a.contains("reports were missing")));
    }

    /// Reports that come twice within a tenth of the period are no faster device: one in twenty of them shifts the rate by under a hundredth.
    #[test]
    fn reports_in_a_burst_do_not_make_the_device_faster(hz in 60.0f64..400.0, from in 2usize..18) {
        let period = 1000.0 / hz;
        let mut w = warmed(period, 4096, &[]);
        for s in w.groups.iter_mut().flat_map(|g| &mut g.strokes) {
            for k in (from..110).step_by(20).rev() {
                let again = Sample { t_ms: s.samples[k].t_ms + 0.1 * period, ..s.samples[k] };
                s.samples.insert(k + 1, again);
            }
        }
        let p = profile(&w, "").expect("a profile");
        prop_assert!((p.report_rate_hz / hz - 1.0).abs() < 0.01, "{} of {hz}", p.report_rate_hz);
        prop_assert_eq!(p.dropouts, 0);
    }

    /// Pressure steps are told from the spacing of the values where the hand passes through neighbouring ones; the contact's first value is the activation.
    #[test]
    fn steps_and_activation_are_read_off_the_values(steps in 300u32..1200) {
        let p = profile(&warmed(5.0, steps, &[]), "").expect("a profile");
        let told = p.pressure_steps.expect("steps");
        prop_assert!((f64::from(told) / f64::from(steps) - 1.0).abs() < 0.05, "{told} of {steps}");
        prop_assert_eq!(p.dropouts, 0);
        let step = f64::from(steps - 1);
        prop_assert!((p.activation - (0.06 * step).round() / step).abs() < 1e-9, "{}", p.activation);
        prop_assert!(p.response.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] > w[0][1]));
    }

    /// A spring opens on its pull: its closed width and its opening are what they were, wherever it points.
    #[test]
    fn a_spring_is_told_by_its_pull(closed in 0.2f64..1.0, opens in 0.3f64..1.5, pull in 0.0f64..360.0) {
        let width = |d: f64| closed + opens * (d - pull).to_radians().cos().max(0.0);
        let seen: Vec<Seen> = (0..24).map(|k| 15.0 * f64::from(k)).map(|d| Seen { direction_deg: d, width_mm: width(d), weight: 1.0 }).collect();
        let Some((CardNib::Spring { length_mm, opening_mm, pull_deg, residual_mm, .. }, None)) = law(&seen) else {
            return Err(TestCaseError::fail(format!("{:?}", law(&seen))));
        };
        prop_assert!((length_mm - closed).abs() < 0.01 * closed && (opening_mm * 0.5 - opens).abs() < 0.01 * opens, "{length_mm} {opening_mm}");
        prop_assert!(((pull_deg - pull + 180.0).rem_euclid(360.0) - 180.0).abs() < 0.6 && residual_mm < 0.01 * closed);
    }

    /// What closes on the pull is no spring, and no law has a width or an opening under nought.
    #[test]
    fn no_law_opens_backward(wide in 0.6f64..1.4, closes in 0.1f64..0.5, pull in 0.0f64..360.0) {
        let width = |d: f64| wide - closes * (d - pull).to_radians().cos().max(0.0);
        let seen: Vec<Seen> = (0..24).map(|k| 15.0 * f64::from(k)).map(|d| Seen { direction_deg: d, width_mm: width(d), weight: 1.0 }).collect();
        match law(&seen) {
            Some((CardNib::Spring { length_mm, opening_mm, .. }, _)) => prop_assert!(length_mm > 0.0 && opening_mm >= 0.0, "{length_mm} {opening_mm}"),
            Some((CardNib::Ellipse { length_mm, breadth_mm, .. }, _)) => prop_assert!(length_mm >= breadth_mm && breadth_mm > 0.0),
            Some((CardNib::Round { length_mm, .. }, _)) => prop_assert!(length_mm > 0.0),
            None => prop_assert!(false, "24 directions are enough"),
        }
    }

    /// The width across any direction is the law's, and the same half a turn on for what has no pull.
    #[test]
    fn a_law_is_read_in_every_direction(length in 0.3f64..3.0, share in 0.1f64..1.0, angle in -90.0f64..90.0, toward in 0.0f64..360.0) {
        let n = CardNib::Ellipse { length_mm: length, breadth_mm: share * length, angle_deg: angle, residual_mm: 0.0, rays: None };
        let w = n.width_toward(toward);
        prop_assert!((n.width_toward(toward + 180.0) - w).abs() < 1e-9);
        prop_assert!(w <= length + 1e-9 && w >= share * length - 1e-9);
        // Along its own long side it is as wide as it is broad, across it as it is long.
        prop_assert!((n.width_toward(angle) - share * length).abs() < 1e-9 && (n.width_toward(angle + 90.0) - length).abs() < 1e-9);
    }
}

#[test]
fn too_few_directions_give_no_law_and_times_that_stand_still_no_profile() {
    let seen: Vec<Seen> = (0..7).map(|k| Seen { direction_deg: 50.0 * f64::from(k), width_mm: 0.5, weight: 1.0 }).collect();
    assert!(law(&seen).is_none());
    let mut still = warmed(5.0, 1024, &[]);
    still.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples).for_each(|p| p.t_ms = 7.0);
    assert!(profile(&still, "").expect_err("no times").to_string().contains("times"));
    let mut flat = warmed(5.0, 1024, &[]);
    flat.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples).for_each(|p| p.pressure = Some(0.4));
    assert!(profile(&flat, "").expect_err("no rise").to_string().contains("did not rise"));
}
