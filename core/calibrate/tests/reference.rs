//! Pens' and tablets' figures against outside libraries: tests/reference/make_pens.py says which and at what version.

use eddymist_calibrate::{
    Exercise, Group, PenCard, WarmUp,
    compare::compare,
    nib::{self, Seen},
    pen_card::{CardNib, Note, WidthAtEffort},
    steadiness,
    tapers::{Flick, taper},
};
use eddymist_ink::{Sample, Stroke};
use eddymist_measure::scan::LineMeasurement;
use proptest::prelude::*;
use serde::Deserialize;

#[derive(Deserialize)]
struct Spectrum {
    rate_hz: f64,
    raw: Vec<f64>,
    sd: f64,
}

/// scipy.signal.periodogram.
#[test]
fn pressure_noise_is_what_another_periodogram_says() {
    let cases: Vec<Spectrum> = serde_json::from_str(include_str!("../../../tests/reference/spectrum.json")).expect("golden values");
    for c in cases {
        let sample = |(i, p): (usize, &f64)| Sample { t_ms: 1000.0 * i as f64 / c.rate_hz, x: i as f64, pressure: Some(*p), ..Sample::default() };
        let stroke = Stroke::new(c.raw.iter().enumerate().map(sample).collect());
        let w = WarmUp {
            groups: vec![Group { exercise: Exercise::Effort, effort: Some(0.5), pace: None, strokes: vec![stroke] }],
            scale_from_card: false,
            slips_counted: false,
        };
        let got = steadiness::pressure_noise(&w, c.rate_hz, 1.0).expect("a steady stroke");
        assert!((got / c.sd - 1.0).abs() < 1e-6, "{got} for {}", c.sd);
        // At the full point nothing trembles: it tells nothing.
        assert!(steadiness::pressure_noise(&w, c.rate_hz, 0.3).is_none());
    }
}

#[derive(Deserialize)]
struct Welch {
    before: (f64, f64, u32),
    after: (f64, f64, u32),
    interval: [f64; 2],
}

fn card(w: (f64, f64, u32)) -> PenCard {
    let none = LineMeasurement {
        photo: None,
        format: String::new(),
        version: 1,
        resolution_dpi: 600.0,
        source: None,
        lines: Vec::new(),
        nearest_standard_width_mm: None,
        warnings: Vec::new(),
    };
    let widths = vec![WidthAtEffort { effort: 0.5, width_mm: w.0, sd_mm: Some(w.1), lines: w.2, each_mm: None, force_n: None }];
    PenCard { widths_by_effort: Some(widths), ..PenCard::from_lines("x", &none, &[], Note::default()) }
}

/// scipy.stats.t at Welch's degrees of freedom.
#[test]
fn a_change_has_the_interval_that_another_library_gives_it() {
    let cases: Vec<Welch> = serde_json::from_str(include_str!("../../../tests/reference/welch.json")).expect("golden values");
    for c in cases {
        let changes = compare(&card(c.before), &card(c.after));
        let [only] = &changes[..] else { panic!("{changes:?}") };
        let got = only.interval.expect("both have spreads");
        assert!((got[0] - c.interval[0]).abs() < 1e-6 && (got[1] - c.interval[1]).abs() < 1e-6, "{got:?} for {:?}", c.interval);
        assert_eq!(only.changed, Some(c.interval[0] > 0.0 || c.interval[1] < 0.0));
        // The other way round the change is turned over.
        let back = compare(&card(c.after), &card(c.before))[0].interval.expect("both");
        assert!((back[0] + got[1]).abs() < 1e-12);
    }
    assert!(compare(&card((0.5, 0.0, 1)), &card((0.6, 0.0, 1)))[0].interval.is_none());
}

#[derive(Deserialize)]
struct Fitted {
    law: String,
    widths: Vec<[f64; 2]>,
    fitted: [f64; 3],
}

fn seen(widths: &[[f64; 2]]) -> Vec<Seen> {
    widths.iter().map(|w| Seen { direction_deg: w[0], width_mm: w[1], weight: 1.0 }).collect()
}

/// scipy.optimize.curve_fit of the same laws.
#[test]
fn nib_laws_are_fitted_as_another_library_fits_them() {
    let cases: Vec<Fitted> = serde_json::from_str(include_str!("../../../tests/reference/nib.json")).expect("golden values");
    for c in cases {
        let near = |a: f64, b: f64, off: f64| (a - b).abs() < off;
        match nib::law(&seen(&c.widths)).expect("a law").0 {
            CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. } => {
                let [l, b, a] = c.fitted;
                let ok = near(length_mm, l, 0.003) && near(breadth_mm, b, 0.004) && near(angle_deg, a.to_degrees(), 0.3);
                assert!(c.law == "ellipse" && ok, "{length_mm} {breadth_mm} {angle_deg} for {:?}", c.fitted);
            }
            CardNib::Spring { length_mm, opening_mm, pull_deg, .. } => {
                let [w0, q, pull] = c.fitted;
                let ok = near(length_mm, w0, 0.001) && near(0.5 * opening_mm, q, 0.001) && near(pull_deg, pull.to_degrees(), 0.2);
                assert!(c.law == "spring" && ok, "{length_mm} {opening_mm} {pull_deg} for {:?}", c.fitted);
            }
            CardNib::Round { .. } => panic!("{} came out round", c.law),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    /// Turning the sheet's directions turns the nib with them, and a round nib gets no angle, whatever its noise.
    #[test]
    fn a_nib_turns_with_its_directions(flat in 0.2f64..0.7, angle in -89.0f64..89.0, by in -180.0f64..180.0) {
        let width = |d: f64| { let t = (d - angle).to_radians(); t.sin().hypot(flat * t.cos()) };
        let at = |turn: f64| seen(&(0..24).map(|k| [15.0 * f64::from(k) + turn, width(15.0 * f64::from(k))]).collect::<Vec<_>>());
        let of = |turn: f64| match nib::law(&at(turn)).expect("a law").0 {
            CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. } => Some((length_mm, breadth_mm, angle_deg)),
            _ => None,
        };
        let ((l, b, a), (_, _, turned)) = (of(0.0).expect("flat"), of(by).expect("flat"));
        prop_assert!((l - 1.0).abs() < 1e-6 && (b - flat).abs() < 1e-6 && (a - angle).abs() < 1e-6);
        let off = (turned - a - by).rem_euclid(180.0);
        prop_assert!(off.min(180.0 - off) < 1e-6);
    }

    #[test]
    fn a_round_nib_has_no_angle(seed in 1u64..5000, noise in 0.0f64..0.03) {
        let mut s = seed;
        let widths: Vec<[f64; 2]> = (0..24).map(|k| { s = s.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1); [15.0 * f64::from(k), 0.5 * (1.0 + noise * ((s >> 40) as f64 / 8_388_608.0 - 1.0))] }).collect();
        let round = matches!(nib::law(&seen(&widths)).expect("a law").0, CardNib::Round { .. });
        prop_assert!(round);
    }

    /// Flicks made by the law itself give its distances and its law back, at any size.
    #[test]
    fn a_taper_comes_back(body in 0.3f64..1.5, length in 3.0f64..10.0, shape in 0.5f64..1.4, tip in 0.0f64..0.3) {
        let step = 0.04;
        let share = |d: f64| if d < length { tip + (1.0 - tip) * (d / length).powf(shape) } else { 1.0 };
        let one = || Flick { widths_mm: (0..400).map(|i| body * share(step * (f64::from(i) + 0.5))).collect(), step_mm: step };
        let t = taper(&[one(), one(), one(), one()]).expect("flicks");
        let reached = |s: f64| if tip >= s { 0.0 } else { length * ((s - tip) / (1.0 - tip)).powf(1.0 / shape) };
        prop_assert!((t.at_90_mm - reached(0.9)).abs() < 0.08 * length && (t.at_50_mm - reached(0.5)).abs() < 0.08 * length, "{t:?}");
        prop_assert!((t.body_mm - body).abs() < 0.01 * body && t.flicks == 4);
        // Blunt flicks have distances of nought; a single flick has the law and no spread.
        let blunt = || Flick { widths_mm: vec![body; 400], step_mm: step };
        prop_assert_eq!(taper(&[blunt(), blunt(), blunt()]).expect("flicks").at_90_mm, 0.0);
        prop_assert!(taper(&[one()]).is_some_and(|s| s.sd_mm.is_none() && (s.at_90_mm - t.at_90_mm).abs() < 1e-9) && taper(&[]).is_none());
    }
}
