//! Pressure and ink of the same strokes, end to end from the hand to the pairs, on laws that neither the registration nor the fit knows; and what
//! people bring instead of that. The bounds are methods.md's, section 8; `eddymist-bench pairs N` has the figures over many seeds.

use eddymist_calibrate::{
    Part, PressurePairs, Verdict, fit_by,
    pairs::{Drawn, Nudge, PairError, Way, pair},
    profile,
};
use eddymist_ink::{Curve, Inker, Sample, Stroke};
use eddymist_measure::inked::{InkedLine, InkedPage};
use eddymist_sim::paired::{PairedPage, trial::Trial};
use proptest::prelude::*;

fn trial(seed: u64, pen: &str) -> Trial {
    Trial::by_seed(seed, pen).expect("a pen that ships")
}

/// The page and its lines, and the strokes on it.
fn drawn(t: &Trial, way: Way) -> (PairedPage, InkedPage) {
    let page = t.page(way);
    let lines = t.lines(way, &page.ink).expect("lines");
    (page, lines)
}

fn paired(t: &Trial, way: Way, strokes: &[Stroke], lines: &InkedPage) -> Result<PressurePairs, PairError> {
    pair(lines, t.scanner.dpi, &Drawn { strokes: strokes.iter().collect(), efforts: Vec::new(), scale_from_card: false, start: None }, way, None)
}

#[test]
fn paper_over_the_tablet_tells_widths_pace_and_nib() {
    for (seed, pen) in [(5, "steel-nib"), (9, "chisel")] {
        let t = trial(seed, pen);
        let (page, lines) = drawn(&t, Way::Paper);
        let pairs = t.pairs(Way::Paper, &page, &lines).expect("pairs");
        let off = t.off(Way::Paper, &page, &pairs).expect("figures");
        assert!(off.width[0] < 0.035 && off.pace.expect("a pace") < 0.045, "{pen} {off:?}");
        assert!(off.place_mm[0] < 0.1 && off.angle_deg.is_none_or(|a| a < 3.0), "{pen} {off:?}");
        assert!(off.five[0] > 3.0 * off.width[0] || pen == "chisel", "{pen} {off:?}");
        // What was written is what is read.
        let text = serde_json::to_string(&pairs).expect("JSON");
        assert_eq!(PressurePairs::from_json(&text).expect("a document"), pairs);
    }
}

/// Strokes that somebody moved a little fall back to where they lay; moved to another place of the page they are said to be of another sheet.
#[test]
fn strokes_moved_by_hand_are_laid_from_there() {
    let t = trial(5, "steel-nib");
    let (page, lines) = drawn(&t, Way::Paper);
    let found = t.pairs(Way::Paper, &page, &lines).expect("pairs");
    let from = |turn_deg: f64, dx_mm: f64, dy_mm: f64| {
        let start = Some(Nudge { placement: found.placement, turn_deg, dx_mm, dy_mm }.laid(lines.size_mm));
        pair(&lines, t.scanner.dpi, &Drawn { strokes: page.strokes.iter().collect(), efforts: Vec::new(), scale_from_card: false, start }, Way::Paper, None)
    };
    let at = |p: &PressurePairs, x: f64, y: f64| {
        [p.placement[0] * x + p.placement[1] * y + p.placement[2], p.placement[3] * x + p.placement[4] * y + p.placement[5]]
    };
    for (turn, dx, dy) in [(0.0, 0.0, 0.0), (0.5, 1.0, -0.8), (-0.7, -0.9, 1.1)] {
        let again = from(turn, dx, dy).expect("pairs");
        for (x, y) in [(20.0, 20.0), (180.0, 30.0), (100.0, 200.0)] {
            let (a, b) = (at(&found, x, y), at(&again, x, y));
            assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 0.3, "{turn} {dx} {dy}: {a:?} {b:?}");
        }
        assert!(again.registration_mm.median < 0.1, "{turn} {dx} {dy}");
    }
    assert!(matches!(from(90.0, 40.0, 0.0), Err(PairError::AnotherSheet { .. } | PairError::TooFew(_))));
}

proptest! {
    /// A nudge keeps every distance, turns the page's middle onto itself and moves it; the nudge back undoes it.
    #[test]
    fn a_nudge_is_a_rigid_motion(turn in -180.0f64..180.0, d in prop::array::uniform2(-50.0f64..50.0), p in prop::array::uniform4(0.0f64..200.0)) {
        let (size, still) = ([210.0, 297.0], [1.0, 0.0, 0.0, 0.0, 1.0, 0.0]);
        let by = |m: [f64; 6], x: f64, y: f64| [m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5]];
        let map = Nudge { placement: still, turn_deg: turn, dx_mm: d[0], dy_mm: d[1] }.laid(size);
        let (a, b) = (by(map, p[0], p[1]), by(map, p[2], p[3]));
        prop_assert!(((a[0] - b[0]).hypot(a[1] - b[1]) - (p[0] - p[2]).hypot(p[1] - p[3])).abs() < 1e-9);
        let middle = by(map, 105.0, 148.5);
        prop_assert!((middle[0] - 105.0 - d[0]).abs() < 1e-9 && (middle[1] - 148.5 - d[1]).abs() < 1e-9);
        // Turned clockwise as the page is seen: what lay right of the middle lies below it.
        let right = by(map, 115.0, 148.5);
        prop_assert!((right[1] - middle[1] - 10.0 * turn.to_radians().sin()).abs() < 1e-9);
        // Moved back first, then turned back.
        let moved = Nudge { placement: map, turn_deg: 0.0, dx_mm: -d[0], dy_mm: -d[1] }.laid(size);
        let back = by(Nudge { placement: moved, turn_deg: -turn, dx_mm: 0.0, dy_mm: 0.0 }.laid(size), p[0], p[1]);
        prop_assert!((back[0] - p[0]).hypot(back[1] - p[1]) < 1e-9);
    }
}

#[test]
fn going_over_finds_the_lag_and_the_widths() {
    for (seed, pen) in [(5, "brush-pen"), (4, "chisel")] {
        let t = trial(seed, pen);
        let (page, lines) = drawn(&t, Way::Over);
        let pairs = t.pairs(Way::Over, &page, &lines).expect("pairs");
        let off = t.off(Way::Over, &page, &pairs).expect("figures");
        assert!(off.width[0] < 0.05 && off.lag_ms.abs() < 25.0, "{pen} {off:?}");
        assert!(off.angle_deg.is_none_or(|a| a < 3.0) && pairs.pace.is_none(), "{pen} {off:?}");
    }
}

#[test]
fn a_brush_matched_by_pairs_draws_the_pen_where_five_uneven_efforts_do_not() {
    let t = trial(2, "steel-nib");
    let (page, lines) = drawn(&t, Way::Over);
    let pairs = t.pairs(Way::Over, &page, &lines).expect("pairs");
    let (warmup, card) = (t.efforts(), t.card());
    let p = profile(&warmup, "").expect("a profile");
    let by_pairs = p.by_pairs(&pairs, Some(&card)).expect("a response");
    // The worst of a response's knots hangs on one page's luck: of three pages the middle one.
    let mut off = vec![t.response_off(&pairs).expect("a response")];
    for t in [3, 5].map(|seed| trial(seed, "steel-nib")) {
        let (page, lines) = drawn(&t, Way::Over);
        off.push(t.response_off(&t.pairs(Way::Over, &page, &lines).expect("pairs")).expect("a response"));
    }
    off.sort_by(f64::total_cmp);
    assert!(off[1] < 0.06 && off[2] < 0.065, "{off:?}");
    let plain = fit_by(&card, Some(&warmup), Some(&p), None, &[], None).expect("a match");
    let better = fit_by(&card, Some(&warmup), Some(&p), None, &[], Some(&pairs)).expect("a match");
    // Level lines at true efforts: each brush through its own profile.
    let off = |brush: &eddymist_ink::Brush, response: &Curve| {
        let bare = eddymist_ink::Brush { chance: None, ..brush.clone() };
        let inker = Inker::new(&bare, Some(response.clone()), None).expect("an inker");
        let worst = (1..10).map(|k| f64::from(k) / 10.0).map(|e| {
            let raw = t.tablet.raw(t.hand.force(e));
            let line = (0..100).map(|i| Sample { t_ms: 10.0 * f64::from(i), x: 0.6 * f64::from(i), pressure: Some(raw), ..Sample::default() });
            let width = inker.ink(&Stroke::new(line.collect())).samples[50].width_mm;
            (width / t.pen.pen.width(e) - 1.0).abs()
        });
        worst.fold(0.0, f64::max)
    };
    let (before, after) = (off(&plain.brush, &p.curve().expect("a curve")), off(&better.brush, &by_pairs.curve().expect("a curve")));
    assert!(after < 0.08 && before > 2.0 * after, "{before} by efforts, {after} by pairs");
    let weight = better.parts.iter().find(|p| p.part == Part::Weight).expect("a weight");
    assert!(weight.verdict != Verdict::Differs, "{weight:?}");
    assert!(better.assumed.iter().any(|a| a.contains("pairs of lines that were gone over")), "{:?}", better.assumed);
}

#[test]
fn what_people_bring_is_said() {
    let t = trial(3, "brush-pen");
    let (page, lines) = drawn(&t, Way::Paper);
    // The page on its head is found; mirrored it is told.
    let moved = |f: &dyn Fn(f64, f64) -> [f64; 2]| InkedPage {
        lines: lines
            .lines
            .iter()
            .map(|l| {
                let place = |p: &eddymist_measure::inked::InkedPlace| {
                    let [x_mm, y_mm] = f(p.x_mm, p.y_mm);
                    eddymist_measure::inked::InkedPlace { x_mm, y_mm, ..*p }
                };
                InkedLine { places: l.places.iter().map(place).collect(), ..l.clone() }
            })
            .collect(),
        ..lines.clone()
    };
    let [w, h] = lines.size_mm;
    let turned = paired(&t, Way::Paper, &page.strokes, &moved(&|x, y| [w - x, h - y])).expect("turned");
    assert!(turned.warnings.iter().any(|m| m.contains("upside down")), "{:?}", turned.warnings);
    assert!(turned.registration_mm.median < 0.1);
    let mirrored = paired(&t, Way::Paper, &page.strokes, &moved(&|x, y| [w - x, y]));
    assert!(matches!(mirrored, Err(PairError::Mirrored(share)) if share > 60.0), "{mirrored:?}");
    // Another page, and a part of this one.
    let other = paired(&t, Way::Paper, &trial(400, "brush-pen").page(Way::Paper).strokes, &moved(&|x, y| [0.6 * y + 0.2 * x, 0.5 * x]));
    assert!(matches!(other, Err(PairError::AnotherSheet { .. })), "{other:?}");
    let half = paired(&t, Way::Paper, &page.strokes[..5], &lines).expect("a part of it");
    assert!(half.not_gone_over > 0.2, "{}", half.not_gone_over);
    // A tenth of the reports lost: as good, and said.
    let lossy: Vec<Stroke> = page
        .strokes
        .iter()
        .map(|s| Stroke { samples: s.samples.iter().enumerate().filter(|(i, _)| (i * 7919) % 10 != 3).map(|(_, p)| *p).collect(), ..s.clone() })
        .collect();
    let lost = paired(&t, Way::Paper, &lossy, &lines).expect("with losses");
    assert!(lost.dropouts > 100 && lost.warnings.iter().any(|m| m.contains("reports were missing")), "{:?}", lost.warnings);
    assert!(lost.registration_mm.median < 0.1);
    // A tablet that is stretched onto a screen of another shape, by a tenth and in other millimetres.
    let wide = page.strokes.iter().map(|s| Stroke { samples: s.samples.iter().map(|p| Sample { x: 1.43 * p.x, y: 1.3 * p.y, ..*p }).collect(), ..s.clone() });
    let stretched = paired(&t, Way::Paper, &wide.collect::<Vec<_>>(), &lines).expect("a stretched recording");
    assert!(stretched.registration_mm.median < 0.1 && stretched.warnings.iter().any(|m| m.contains("trace a card")), "{:?}", stretched.warnings);
    // Gone over a page that lies the other way round, and from the other end.
    let (gone, own) = drawn(&t, Way::Over);
    let [w, h] = own.size_mm;
    let about: Vec<Stroke> =
        gone.strokes.iter().map(|s| Stroke { samples: s.samples.iter().map(|p| Sample { x: w - p.x, y: h - p.y, ..*p }).collect(), ..s.clone() }).collect();
    let wrong = paired(&t, Way::Over, &about, &own);
    assert!(matches!(wrong, Err(PairError::Turned { turn, .. }) if turn.abs() > 170.0), "{wrong:?}");
    // No pressure, no times, a dot.
    let bare =
        |f: &dyn Fn(&Sample) -> Sample| page.strokes.iter().map(|s| Stroke { samples: s.samples.iter().map(f).collect(), ..s.clone() }).collect::<Vec<_>>();
    assert_eq!(paired(&t, Way::Paper, &bare(&|p| Sample { pressure: None, ..*p }), &lines), Err(PairError::NoPressure));
    let untimed: Vec<Stroke> = page.strokes.iter().map(|s| Stroke { timed: false, ..s.clone() }).collect();
    assert_eq!(paired(&t, Way::Paper, &untimed, &lines), Err(PairError::NoTime));
    assert_eq!(paired(&t, Way::Paper, &bare(&|p| Sample { x: 1.0, y: 1.0, ..*p }), &lines), Err(PairError::TooShort));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]
    /// Strokes of any kind on any page: pairs or a sentence, never an end.
    #[test]
    fn nothing_breaks(points in prop::collection::vec((-1e4f64..1e4, -1e4f64..1e4, 0.0f64..1.0, -10.0f64..100.0), 0..80), n in 1usize..4, over in any::<bool>(), line in prop::collection::vec((0.0f64..200.0, 0.0f64..140.0, prop::option::of(0.0f64..5.0)), 0..40)) {
        let mut t_ms = 0.0;
        let samples: Vec<Sample> = points.iter().map(|p| { t_ms += p.3; Sample { t_ms, x: p.0, y: p.1, pressure: Some(p.2), ..Sample::default() } }).collect();
        let strokes = vec![Stroke::new(samples); n];
        let places = line.iter().map(|p| eddymist_measure::inked::InkedPlace { x_mm: p.0, y_mm: p.1, width_mm: p.2 }).collect();
        let page = InkedPage { size_mm: [210.0, 148.0], lines: vec![InkedLine { places, free: [true; 2] }], warnings: Vec::new() };
        let way = if over { Way::Over } else { Way::Paper };
        if let Ok(p) = pair(&page, 300.0, &Drawn { strokes: strokes.iter().collect(), efforts: Vec::new(), scale_from_card: false, start: None }, way, None) {
            let text = serde_json::to_string(&p).expect("JSON");
            prop_assert!(PressurePairs::from_json(&text).is_ok(), "{text}");
        }
    }
}
