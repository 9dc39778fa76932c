//! What a warm-up tells of a simulated device's own faults, against its truth: methods.md, section 3.

use eddymist_calibrate::{
    Exercise, Group, WarmUp, profile,
    smoothing::trade,
    transfer::{ScaleError, ScaleReading, hand_scale, recheck, transfer},
};
use eddymist_ink::{Sample, Stroke, brush::SmoothingKind};
use eddymist_sim::stylus::{HANDS, TABLETS, Tablet, warmup};

fn near(got: Option<f64>, want: f64, share: f64, what: &str) {
    let got = got.unwrap_or(f64::NAN);
    assert!((got - want).abs() <= share * want.abs(), "{what}: {got} for {want}");
}

#[test]
fn noise_wobble_and_hysteresis_come_out_as_they_are() {
    for tablet in &TABLETS {
        let mut seen: [Vec<f64>; 4] = Default::default();
        for seed in 0..8 {
            let p = profile(&warmup(&HANDS[0], tablet, seed), "x").expect("a profile");
            seen[0].extend(p.pressure_noise);
            seen[1].extend(p.position_noise_um);
            seen[2].extend(p.hysteresis);
            assert_eq!(p.diagonal_wobble.is_some(), tablet.wobble_mm[0] > 0.0, "{} seed {seed}: {:?}", tablet.id, p.diagonal_wobble);
            if let Some(w) = p.diagonal_wobble {
                seen[3].push(w.amplitude_um);
                assert!((w.period_mm / tablet.wobble_mm[1] - 1.0).abs() < 0.03, "{w:?}");
            }
        }
        let median = |v: &[f64]| eddymist_measure::stats::median(v);
        // The device's own steps are part of its noise.
        let steps = 1.0 / f64::from(tablet.steps - 1) / 12f64.sqrt();
        near(median(&seen[0]), tablet.pressure_noise.hypot(steps), 0.15, &format!("{} pressure noise", tablet.id));
        near(median(&seen[1]), 1000.0 * tablet.position_noise_mm, 0.15, &format!("{} position noise", tablet.id));
        if tablet.wobble_mm[0] > 0.0 {
            near(median(&seen[3]), 1000.0 * tablet.wobble_mm[0], 0.15, &format!("{} wobble", tablet.id));
        }
        let h = median(&seen[2]).expect("ramps");
        assert!((h - tablet.hysteresis).abs() < 0.006, "{} hysteresis {h} for {}", tablet.id, tablet.hysteresis);
    }
}

#[test]
fn smoothing_is_suggested_where_noise_asks_for_it_and_costs_what_it_says() {
    let read = |t: &Tablet| profile(&warmup(&HANDS[0], t, 3), "x").expect("a profile");
    let quiet = read(&Tablet { position_noise_mm: 0.004, ..TABLETS[0] });
    assert!(quiet.suggested_smoothing.is_none());
    let (a, b) = (read(&TABLETS[0]).suggested_smoothing.expect("some"), read(&TABLETS[3]).suggested_smoothing.expect("more"));
    assert!(a.noise_um <= 10.0 && b.noise_um <= 10.0 && b.lag_ms > a.lag_ms && a.lag_ms > 0.0, "{a:?} {b:?}");
}

/// Half a window behind, one radius behind, nothing behind: what each kind of smoothing costs follows from what it is.
#[test]
fn a_smoothing_is_a_trade_whose_figures_follow_from_its_kind() {
    let w = warmup(&HANDS[0], &TABLETS[2], 3);
    let of = |kind: SmoothingKind| trade(&kind, &w).expect("strokes");
    let none = of(SmoothingKind::None);
    assert!(none.lag_ms.abs() < 1e-9 && none.corner_mm < 1e-9 && none.wobble_removed.expect("ruled lines").abs() < 1e-9, "{none:?}");
    let average = of(SmoothingKind::Average { span_ms: 40.0 });
    assert!((average.lag_ms - 20.0).abs() < 2.0 && average.wobble_removed.expect("ruled lines") > 0.3, "{average:?}");
    // A corner averaged over ±20 ms at v is cut by v · 20 ms / 4 along both sides.
    let speed = average.lag_mm / average.lag_ms;
    assert!((average.corner_mm / (speed * 20.0 / 4.0 * 2f64.sqrt()) - 1.0).abs() < 0.35, "{average:?}");
    let tow = of(SmoothingKind::Tow { slack_mm: 1.0 });
    assert!((tow.lag_mm - 1.0).abs() < 0.03 && tow.wobble_removed.expect("ruled lines") > 0.2, "{tow:?}");
    let faired = of(SmoothingKind::Faired { tolerance_mm: 0.15 });
    assert!(faired.lag_mm.abs() < 1e-9 && faired.corner_mm < 0.16 && faired.wobble_removed.expect("ruled lines") > 0.3, "{faired:?}");
    // More of the same costs more.
    let slow = of(SmoothingKind::Adaptive { min_cutoff_hz: 1.0, speed_coefficient: 0.01 });
    let quick = of(SmoothingKind::Adaptive { min_cutoff_hz: 8.0, speed_coefficient: 0.01 });
    assert!(slow.lag_ms > quick.lag_ms && slow.corner_mm > quick.corner_mm && slow.wobble_removed > quick.wobble_removed, "{slow:?} {quick:?}");
}

#[test]
fn lost_reports_are_counted_and_the_rate_stays_true() {
    let p = profile(&warmup(&HANDS[0], &TABLETS[2], 1), "x").expect("a profile");
    assert!(p.dropouts > 2 && (p.report_rate_hz / TABLETS[2].rate_hz - 1.0).abs() < 0.02, "{} {}", p.dropouts, p.report_rate_hz);
    assert_eq!(profile(&warmup(&HANDS[0], &TABLETS[0], 1), "x").expect("a profile").dropouts, 0);
}

#[test]
fn a_recheck_holds_for_the_same_hand_and_not_for_another_setting() {
    let p = profile(&warmup(&HANDS[0], &TABLETS[0], 1), "x").expect("a profile");
    let same = recheck(&p, &warmup(&HANDS[0], &TABLETS[0], 9)).expect("a re-check");
    assert!(same.holds && same.off < 0.08, "{same:?}");
    let softer = Tablet { force_n: [0.05, 3.0], ..TABLETS[0] };
    let other = recheck(&p, &warmup(&HANDS[0], &softer, 9)).expect("a re-check");
    assert!(!other.holds && other.says.contains("warm up again"), "{other:?}");
}

#[test]
fn the_same_intent_agrees_once_it_is_corrected() {
    let profiles: Vec<_> = TABLETS.iter().zip([0, 1, 2, 0]).map(|(t, h)| profile(&warmup(&HANDS[h], t, 2), t.name).expect("a profile")).collect();
    for t in transfer(&profiles, &[[0.0, 0.1], [1.0, 1.0]]).expect("valid profiles") {
        assert!(t.corrected_share < 0.35 * t.raw_share && t.raw_share > 0.1, "{:?}: {} {}", t.stroke, t.raw_share, t.corrected_share);
        assert_eq!(t.lines.len(), 4);
    }
}

#[test]
fn a_card_gives_the_millimetres_and_what_is_no_card_is_not_taken_for_one() {
    let line =
        |to: [f64; 2]| Stroke::new((0..=20).map(|i| Sample { x: to[0] * f64::from(i) / 20.0, y: to[1] * f64::from(i) / 20.0, ..Sample::default() }).collect());
    let with = |sides: Vec<Stroke>| {
        let mut w = warmup(&HANDS[0], &TABLETS[0], 1);
        w.groups.push(Group { exercise: Exercise::Card, effort: None, pace: None, strokes: sides });
        w
    };
    // A page that shows 0.8 mm for every true one.
    let scaled: WarmUp = with(vec![line([0.8 * 85.6, 0.0]), line([0.0, 0.8 * 53.98])]).scaled_by_card().expect("a card");
    let first = |w: &WarmUp| w.groups[0].strokes[0].samples[0].x;
    assert!(scaled.scale_from_card && (first(&scaled) / first(&warmup(&HANDS[0], &TABLETS[0], 1)) - 1.25).abs() < 1e-9);
    assert!(with(vec![line([70.0, 0.0]), line([0.0, 70.0])]).scaled_by_card().is_none());
    assert!(with(vec![line([70.0, 0.0])]).scaled_by_card().is_none());
    assert!(!warmup(&HANDS[0], &TABLETS[0], 1).scaled_by_card().expect("as it is").scale_from_card);
}

#[test]
fn a_kitchen_scale_gives_force_and_hysteresis() {
    let r = |grams: f64, raw: f64, letting_go: bool| ScaleReading { grams, raw, letting_go };
    let up: Vec<ScaleReading> = (0..8).map(|i| r(50.0 * f64::from(i), 0.1 * f64::from(i), false)).collect();
    let mut all = up.clone();
    all.extend((1..7).map(|i| r(50.0 * f64::from(i), 0.1 * f64::from(i) + 0.03, true)));
    let s = hand_scale(&all).expect("a curve");
    // 100 g weigh 0.980665 N.
    assert!((s.force_n[2][1] - 0.980_665).abs() < 1e-9 && (s.hysteresis.expect("both ways") - 0.03).abs() < 1e-9, "{s:?}");
    assert_eq!(hand_scale(&up[..3]), Err(ScaleError::TooFew));
    assert_eq!(hand_scale(&[r(-1.0, 0.1, false)]), Err(ScaleError::Range(1)));
    assert_eq!(hand_scale(&[r(50.0, 0.9, false), r(100.0, 0.5, false), r(150.0, 0.2, false), r(200.0, 0.1, false)]), Err(ScaleError::Falls));
    assert!(hand_scale(&up).expect("a curve").hysteresis.is_none());
}

/// What could still be measured is; the rest says why.
#[test]
fn a_poor_warm_up_tells_what_it_can() {
    let whole = warmup(&HANDS[0], &TABLETS[0], 1);
    let only = |keep: &[Exercise]| {
        let groups = whole.groups.iter().filter(|g| keep.contains(&g.exercise)).cloned().collect();
        profile(&WarmUp { groups, scale_from_card: false, slips_counted: false }, "x")
    };
    let efforts = only(&[Exercise::Effort]).expect("efforts suffice");
    assert!(efforts.hysteresis.is_none() && efforts.position_noise_um.is_none() && efforts.diagonal_wobble.is_none() && efforts.pressure_noise.is_some());
    let ramps = only(&[Exercise::Ramp]).expect("ramps suffice");
    assert!(ramps.hysteresis.is_some() && ramps.suggested_smoothing.is_none());
    assert!(only(&[Exercise::Ruled]).is_err());
    let changed = |f: &dyn Fn(usize, &mut Sample)| {
        let mut w = whole.clone();
        for (i, p) in w.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| s.samples.iter_mut().enumerate()) {
            f(i, p);
        }
        profile(&w, "x")
    };
    // Constant pressure, and pressure that falls as the effort rises: no response, and the sentence says what to do.
    assert!(changed(&|_, p| p.pressure = Some(0.4)).expect_err("flat").to_string().contains("press from feather to hardest"));
    assert!(changed(&|_, p| p.pressure = p.pressure.map(|v| 1.0 - v)).is_err());
    // Time that stands still or runs backward tells no rate.
    assert!(changed(&|_, p| p.t_ms = 0.0).expect_err("no time").to_string().contains("times"));
    assert!(changed(&|_, p| p.t_ms = -p.t_ms).expect_err("backward").to_string().contains("times"));
    // Twenty reports a second are said to be few; noise above 15 Hz cannot be seen in them.
    let slow = Tablet { rate_hz: 20.0, ..TABLETS[0] };
    let p = profile(&warmup(&HANDS[0], &slow, 1), "x").expect("a profile");
    assert!((p.report_rate_hz - 20.0).abs() < 0.4 && p.pressure_noise.is_none());
    assert!(p.advice.iter().any(|a| a.contains("only 20 reports a second")), "{:?}", p.advice);
}
