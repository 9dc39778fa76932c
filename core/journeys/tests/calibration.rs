//! Profiles and fits against devices, hands and pens whose truth is known, and what they refuse.

use eddymist_calibrate::{
    Exercise, Group, PenCard, TabletProfile, Verdict, WarmUp, fit, isotonic,
    matching::{FitError, Part},
    pen_card::{Note, WidthAtEffort},
    profile,
    profile::ProfileError,
};
use eddymist_ink::{Brush, Sample, Stroke, brush::Taper};
use eddymist_measure::scan::{self, Scan};
use eddymist_sim::stylus::{HANDS, Hand, TABLETS, Tablet, draw, warmup};
use proptest::prelude::*;

/// A device without faults whose raw pressure is its force over 4 N, and a hand that presses evenly up to 4 N.
const PLAIN: Tablet = Tablet {
    id: "plain",
    name: "plain",
    steps: 4001,
    rate_hz: 125.0,
    force_n: [0.0, 4.0],
    bend: 1.0,
    full_point: 1.0,
    position_noise_mm: 0.0,
    wobble_mm: [0.0, 1.0],
    pressure_noise: 0.0,
    hysteresis: 0.0,
    dropouts: false,
    tilt: true,
};
const EVEN: Hand = Hand { id: "even", name: "even", force_n: [0.2, 4.0], reserve: 0.0, unsteady: 0.0, tremor_mm: 0.0, speed_mm_s: 70.0, pull: 0.0 };

fn efforts(raw: impl Fn(f64, usize) -> f64) -> WarmUp {
    let groups = [0.0, 0.25, 0.5, 0.75, 1.0].map(|e| Group {
        exercise: Exercise::Effort,
        effort: Some(e),
        pace: None,
        strokes: (0..4)
            .map(|k| {
                Stroke::new(
                    (0..60)
                        .map(|i| Sample { t_ms: 8.0 * i as f64, x: i as f64, y: k as f64, pressure: Some(raw(e, 60 * k + i)), ..Sample::default() })
                        .collect(),
                )
            })
            .collect(),
    });
    WarmUp { groups: groups.to_vec(), scale_from_card: true, slips_counted: false }
}

fn read(w: &WarmUp) -> TabletProfile {
    profile(w, "here").expect("a profile")
}

#[test]
fn an_even_hand_on_a_plain_device_gives_its_own_law_back() {
    let p = read(&warmup(&EVEN, &PLAIN, 1));
    // Raw pressure at effort e by the simulated device's own law.
    for e in [0.05, 0.2, 0.35, 0.5, 0.65, 0.8, 0.95] {
        let raw = PLAIN.raw(EVEN.force(e));
        assert!((p.curve().expect("a curve").value(raw) - e).abs() < 0.02, "effort {e}");
    }
    assert!((p.report_rate_hz - 125.0).abs() < 0.5 && p.dropouts == 0 && p.tilt);
}

#[test]
fn every_response_is_strictly_increasing_in_at_most_nine_knots() {
    for (h, hand) in HANDS.iter().enumerate() {
        for (t, tablet) in TABLETS.iter().enumerate() {
            for seed in 0..3 {
                let p = read(&warmup(hand, tablet, 100 * seed + 10 * h as u64 + t as u64));
                assert!((2..=9).contains(&p.response.len()), "{:?}", p.response);
                assert!(p.response.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] > w[0][1]), "{:?}", p.response);
                assert!(p.activation <= p.response[0][0] + 0.02 && p.full_point >= p.response[p.response.len() - 1][0] - 0.02);
            }
        }
    }
}

#[test]
fn full_point_is_a_plateau_or_said_not_to_be_seen() {
    let cut = read(&efforts(|e, i| (0.1 + e + 0.01 * ((i * 7) as f64).sin()).min(0.72)));
    assert!(cut.full_point_seen && (cut.full_point - 0.72).abs() < 1e-9);
    let open = read(&efforts(|e, i| 0.1 + 0.8 * e + 0.01 * ((i * 7) as f64).sin()));
    assert!(!open.full_point_seen && (open.full_point - 0.9).abs() < 0.02);
    assert!(open.advice.iter().any(|a| a.contains("no plateau")), "{:?}", open.advice);
    assert!(!cut.advice.iter().any(|a| a.contains("no plateau")));
}

#[test]
fn a_late_start_few_steps_and_missing_reports_are_found_and_said() {
    let late = read(&efforts(|e, i| 0.12 + 0.8 * e + 0.01 * ((i * 7) as f64).sin()));
    assert!((late.activation - 0.12).abs() < 0.02 && late.advice.iter().any(|a| a.contains("late")), "{:?}", late.advice);
    let coarse = read(&efforts(|e, i| ((0.05 + 0.9 * e + 0.02 * ((i * 7) as f64).sin()) * 255.0).round() / 255.0));
    assert_eq!(coarse.pressure_steps, Some(256));
    assert!(coarse.advice.iter().any(|a| a.contains("few steps")));
    // Every tenth report is lost: the rate stays the device's, and the losses are counted.
    let mut gappy = efforts(|e, i| 0.05 + 0.9 * e + 0.01 * ((i * 7) as f64).sin());
    let mut lost = 0;
    for s in gappy.groups.iter_mut().flat_map(|g| &mut g.strokes) {
        let whole = s.samples.len();
        let mut i = 0;
        s.samples.retain(|_| {
            i += 1;
            i % 10 != 5
        });
        lost += whole - s.samples.len();
    }
    let p = read(&gappy);
    assert!((p.report_rate_hz - 125.0).abs() < 0.1, "{}", p.report_rate_hz);
    assert_eq!(p.dropouts as usize, lost);
    assert!(p.advice.iter().any(|a| a.contains("missing")));
}

#[test]
fn efforts_out_of_order_are_pooled_into_one_knot() {
    // Light came out heavier than normal: both become one knot at their mean, and the response still rises.
    let p = read(&efforts(|e, i| match (e * 4.0) as usize { 1 => 0.5, 2 => 0.4, n => 0.1 + 0.2 * n as f64 } + 0.004 * ((i * 7) as f64).sin()));
    let pooled = p.response.iter().filter(|k| (k[0] - 0.45).abs() < 0.02).collect::<Vec<_>>();
    assert!(pooled.len() == 1 && (pooled[0][1] - 0.375).abs() < 0.02, "{:?}", p.response);
    assert!(p.response.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] > w[0][1]));
}

#[test]
fn a_warm_up_that_shows_nothing_says_what_to_draw() {
    let none = WarmUp { groups: Vec::new(), scale_from_card: false, slips_counted: false };
    assert_eq!(profile(&none, "x"), Err(ProfileError::NoExercise));
    let mut mouse = efforts(|_, _| 0.5);
    mouse.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples).for_each(|s| s.pressure = None);
    assert!(profile(&mouse, "x").expect_err("a mouse").to_string().contains("no pressure"));
    assert!(profile(&efforts(|_, _| 0.5), "x").expect_err("flat").to_string().contains("did not rise"));
    let mut frozen = efforts(|e, i| 0.1 + 0.8 * e + 0.001 * i as f64 / 60.0);
    frozen.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples).for_each(|s| s.t_ms = 0.0);
    assert_eq!(profile(&frozen, "x"), Err(ProfileError::NoTime));
}

#[test]
fn a_profile_document_is_read_back_and_held_to_its_rules() {
    let p = read(&warmup(&HANDS[0], &TABLETS[2], 4));
    let text = serde_json::to_string(&p).expect("JSON");
    assert_eq!(TabletProfile::from_json(&text).expect("it reads"), p);
    let spoil = |at: &str, value: serde_json::Value| {
        let mut v: serde_json::Value = serde_json::from_str(&text).expect("JSON");
        *v.pointer_mut(at).expect(at) = value;
        TabletProfile::from_json(&v.to_string()).expect_err(at).to_string()
    };
    assert!(spoil("/format", "eddymist/brush".into()).contains("eddymist/tablet-profile"));
    assert!(spoil("/version", 9.into()).contains("version 9"));
    assert!(spoil("/response", serde_json::json!([[0.5, 0.2], [0.4, 0.9]])).contains("response"));
    assert!(spoil("/response", serde_json::json!([])).contains("response"));
    assert!(spoil("/scale", "guessed".into()).contains("guessed"));
}

fn card(widths: &[(f64, f64, Option<f64>, u32)]) -> PenCard {
    let widths: Vec<WidthAtEffort> =
        widths.iter().map(|w| WidthAtEffort { effort: w.0, width_mm: w.1, sd_mm: w.2, lines: w.3, each_mm: None, force_n: None }).collect();
    let text = serde_json::json!({"format":"eddymist/pen-card","version":1,"name":"pen","resolution_dpi":600.0,"widths_by_effort":widths});
    PenCard::from_json(&text.to_string()).expect("a card")
}

fn five(spread: f64) -> PenCard {
    card(&[(0.0, 0.2, Some(spread), 6), (0.25, 0.3, Some(spread), 6), (0.5, 0.45, Some(spread), 6), (0.75, 0.7, Some(spread), 6), (1.0, 1.0, Some(spread), 6)])
}

#[test]
fn the_fitted_curve_draws_the_pens_widths_on_this_tablet() {
    let (w, profile) = (warmup(&EVEN, &PLAIN, 1), read(&warmup(&EVEN, &PLAIN, 1)));
    let m = fit(&five(0.02), Some(&w), Some(&profile), None, &[]).expect("a fit");
    let weight = m.parts.iter().find(|p| p.part == Part::Weight).expect("the weight");
    assert_eq!(weight.verdict, Verdict::Alike, "{}", weight.says);
    // An even hand's lines are more even than any pen's: the brush's chance makes up for it.
    let steadiness = m.parts.iter().find(|p| p.part == Part::Steadiness).expect("steadiness");
    assert!(weight.difference.expect("a difference").abs() < 0.2 && steadiness.verdict == Verdict::Alike, "{}", steadiness.says);
    let even = Brush { chance: None, ..m.brush.clone() };
    for (effort, width) in [(0.0, 0.2), (0.25, 0.3), (0.5, 0.45), (0.75, 0.7), (1.0, 1.0)] {
        // A stroke that neither profile nor fit has seen.
        let unseen = draw(&EVEN, &PLAIN, &[[0.0, 0.0], [60.0, 25.0]], |_| effort, 1.3, 0.0, 77);
        let inker = eddymist_ink::Inker::new(&even, Some(profile.curve().expect("a curve")), None).expect("inkable");
        let inked = inker.ink(&unseen).samples;
        let mean = inked.iter().map(|s| s.width_mm).sum::<f64>() / inked.len() as f64;
        assert!((mean / width - 1.0).abs() < 0.03, "effort {effort}: {mean} for {width}");
    }
}

#[test]
fn verdicts_say_alike_differs_or_too_few() {
    let (w, profile) = (warmup(&EVEN, &PLAIN, 1), read(&warmup(&EVEN, &PLAIN, 1)));
    let with = |card: &PenCard, brush: Option<&Brush>, lock: &[Part]| {
        fit(card, Some(&w), Some(&profile), brush, lock).expect("a fit").parts.into_iter().find(|p| p.part == Part::Weight).expect("the weight")
    };
    // A locked curve a fifth too heavy differs, and says where and by how much.
    let heavy = Brush { weight: vec![[0.0, 0.24], [0.25, 0.36], [0.5, 0.54], [0.75, 0.84], [1.0, 1.2]], ..Brush::plain("heavy", 0.5) };
    let part = with(&five(0.02), Some(&heavy), &[Part::Weight]);
    assert_eq!(part.verdict, Verdict::Differs);
    assert!(part.difference.expect("by") > 5.0 && part.says.contains("too heavy") && part.says.contains("hardest"), "{}", part.says);
    let [a, b] = part.interval.expect("an interval");
    assert!(a < part.difference.expect("by") && part.difference.expect("by") < b);
    // The same curve against a pen that spreads by as much is no longer told apart for sure.
    assert_ne!(with(&five(0.2), Some(&heavy), &[Part::Weight]).verdict, Verdict::Differs);
    // A single line has no spread; two lines an effort are too few.
    let single = with(&card(&[(0.5, 0.45, None, 1)]), None, &[]);
    assert!(single.verdict == Verdict::TooFew && single.says.contains("single lines"), "{}", single.says);
    assert_eq!(with(&card(&[(0.25, 0.3, Some(0.02), 2), (0.75, 0.7, Some(0.02), 2)]), None, &[]).verdict, Verdict::TooFew);
}

#[test]
fn what_is_not_shown_is_assumed_and_said() {
    let flat = fit(&card(&[(0.5, 0.35, None, 1)]), None, None, None, &[]).expect("a fit");
    assert_eq!(flat.brush.weight, [[0.0, 0.35], [1.0, 0.35]]);
    let all = flat.assumed.join("; ");
    assert!(all.contains("no tablet profile") && all.contains("no warm-up") && all.contains("one effort only") && all.contains("lead-out"), "{all}");
    // A starting brush keeps all that nothing here shows, and a locked weight stays as it is.
    let start = Brush {
        lead_out: Some(Taper { length_mm: 5.0, share: 0.2, tip_width_mm: 0.1, shape: 1.0, over_mm_s: 0.0 }),
        colour: "#402010".into(),
        ..Brush::plain("start", 2.0)
    };
    let kept = fit(&five(0.02), None, None, Some(&start), &[Part::Weight]).expect("a fit").brush;
    assert_eq!(kept, start);
    let fitted = fit(&five(0.02), None, None, Some(&start), &[]).expect("a fit").brush;
    assert_eq!((fitted.lead_out, fitted.colour.as_str(), fitted.weight.len()), (start.lead_out, "#402010", 5));
    // A pen whose widths fall with effort makes a curve that does not.
    let falling = fit(&card(&[(0.0, 0.5, Some(0.01), 6), (0.5, 0.4, Some(0.01), 6), (1.0, 0.9, Some(0.01), 6)]), None, None, None, &[]).expect("a fit").brush;
    assert!(falling.weight.windows(2).all(|w| w[1][1] >= w[0][1]) && (falling.weight[0][1] - 0.45).abs() < 1e-9);
    let empty = PenCard::from_json(r#"{"format":"eddymist/pen-card","version":1,"name":"p","resolution_dpi":600}"#).expect("a card");
    assert_eq!(fit(&empty, None, None, None, &[]).expect_err("nothing to fit"), FitError::NoWidths);
}

/// ISO 9175-1's widths, ruled by tiny-skia, measured as scans: each within its limit and named.
#[test]
fn the_standard_widths_are_measured_and_named() {
    use tiny_skia::{Color, Paint, PathBuilder, Pixmap, Transform};
    for (dpi, limit_mm) in [(600.0, 0.002), (1200.0, 0.002), (300.0, 0.004)] {
        let px = dpi / 25.4;
        for width in scan::STANDARD_WIDTHS_MM {
            let mut map = Pixmap::new((46.0 * px) as u32, (16.0 * px) as u32).expect("sides over 0");
            map.fill(Color::WHITE);
            let mut paint = Paint { anti_alias: true, ..Paint::default() };
            paint.set_color_rgba8(20, 20, 20, 255);
            // A wide bar shows the ink's level; the ruled lines lie a little aslant, so that their edges meet all phases.
            for (y, w) in [(4.0, width), (11.0, 2.0)] {
                let mut path = PathBuilder::new();
                path.move_to(3.0 * px as f32, (y * px) as f32);
                path.line_to(43.0 * px as f32, ((y + 0.7) * px) as f32);
                let stroke = tiny_skia::Stroke { width: (w * px) as f32, ..tiny_skia::Stroke::default() };
                let outline = path.finish().expect("a path").stroke(&stroke, 1.0).expect("an outline");
                map.fill_path(&outline, &paint, tiny_skia::FillRule::Winding, Transform::identity(), None);
            }
            // The rasteriser mixes what a scanner would see: coverage is light.
            let ink = f32::from(20u8) / 255.0;
            let data = map.data().chunks(4).map(|p| 0.03 + 0.8 * (f32::from(p[0]) / 255.0 - ink) / (1.0 - ink)).collect();
            let (m, views) = scan::measure(&Scan { width: map.width() as usize, height: map.height() as usize, data, dpi }).expect("lines");
            let line = views.iter().min_by(|a, b| a.from[1].total_cmp(&b.from[1])).expect("the upper line");
            let off = (line.figures.width_mm.mean - width).abs();
            assert!(off <= (0.005 * width).max(limit_mm), "{width} mm at {dpi} dpi: {} mm off", off);
            assert_eq!(scan::nearest_standard(line.figures.width_mm.mean), Some(width));
            assert!((line.figures.angle_deg.abs() - (0.7f64 / 40.0).atan().to_degrees()).abs() < 0.05, "{}", line.figures.angle_deg);
            assert_eq!(m.lines.len(), 2);
        }
    }
    assert_eq!((scan::nearest_standard(0.42), scan::nearest_standard(5.0)), (None, None));
    let names = |mm: f64| PenCard::from_lines("p", &scan_of(mm), &[Some(0.5)], Note::default()).nearest_standard_width_mm;
    assert_eq!((names(0.36), names(0.6)), (Some(0.35), None));
}

/// A measurement document with one line of this width.
fn scan_of(mm: f64) -> scan::LineMeasurement {
    let text = serde_json::json!({"format":"eddymist/line-measurement","version":1,"resolution_dpi":600.0,"lines":[{"length_mm":60.0,"angle_deg":0.0,
        "width_mm":{"mean":mm,"sd":0.006,"min":mm,"max":mm},"width_60_mm":mm,"raggedness_um":5.0,"blurriness_um":60.0,"darkness":1.2,"from_mm":58.0,
        "start":{"taper_mm":0.0,"dot_ratio":1.0},"end":{"taper_mm":0.0,"dot_ratio":1.0}}],"warnings":[]});
    let mut m: scan::LineMeasurement = serde_json::from_value(text).expect("a measurement");
    m.nearest_standard_width_mm = scan::nearest_standard(mm);
    m
}

proptest! {
    /// Pooling never breaks order, keeps the weighted sum and leaves what is in order alone.
    #[test]
    fn pooling_keeps_sum_and_order(points in prop::collection::vec((0.0f64..1.0, 0.1f64..5.0), 1..40)) {
        let points: Vec<(f64, f64, f64)> = points.iter().enumerate().map(|(i, p)| (i as f64, p.0, p.1)).collect();
        let fitted = isotonic::regression(&points);
        prop_assert!(fitted.windows(2).all(|w| w[1] >= w[0] - 1e-12));
        let sum = |v: &mut dyn Iterator<Item = f64>| v.sum::<f64>();
        let (a, b) = (sum(&mut points.iter().map(|p| p.1 * p.2)), sum(&mut points.iter().zip(&fitted).map(|(p, y)| p.2 * y)));
        prop_assert!((a - b).abs() < 1e-9 * a.abs().max(1.0));
        let mut sorted = points.clone();
        sorted.sort_by(|a, b| a.1.total_cmp(&b.1));
        let sorted: Vec<(f64, f64, f64)> = sorted.iter().enumerate().map(|(i, p)| (i as f64, p.1, p.2)).collect();
        prop_assert!(isotonic::regression(&sorted).iter().zip(&sorted).all(|(y, p)| (y - p.1).abs() < 1e-12));
    }

    /// The same seed gives the same strokes to the last bit, another seed others.
    #[test]
    fn stand_ins_are_their_seeds(seed in 0u64..1000, hand in 0usize..3, tablet in 0usize..4) {
        let one = |s| warmup(&HANDS[hand], &TABLETS[tablet], s);
        prop_assert_eq!(one(seed), one(seed));
        prop_assert_ne!(one(seed), one(seed + 1));
    }
}
