//! A hand on a tablet that is less steady than the pen: the smoothing that a match asks for, and when it asks for none. And a nib that no law fits
//! closely.

use eddymist_calibrate::{
    Match, PenCard, Verdict, WarmUp, fit,
    matching::Part,
    pen_card::{CardNib, Note},
    profile,
};
use eddymist_ink::{
    Brush,
    brush::{NibShape, SmoothingKind},
};
use eddymist_journeys::{reading, scanned};
use eddymist_sim::{
    pens::PENS,
    scanner::Scanner,
    stylus::{HANDS, TABLETS, Tablet, warmup},
};

fn card(pen: usize) -> PenCard {
    let (g, _) = scanned(&PENS[pen], 1.0, &Scanner::fair(600.0), 60 + pen as u64);
    PenCard::from_sheet(PENS[pen].name, &reading(&g, 600.0), &[], Note::default())
}

fn matched(card: &PenCard, w: &WarmUp, locked: &[Part], start: Option<&Brush>) -> Match {
    fit(card, Some(w), Some(&profile(w, "x").expect("a profile")), start, locked).expect("a fit")
}

fn verdict(m: &Match, part: Part) -> (Verdict, &str) {
    m.parts.iter().find(|p| p.part == part).map(|p| (p.verdict, p.says.as_str())).expect("the part")
}

/// A tablet that reports places in steps of a coarse grid: noise that is neither white nor Gaussian.
fn on_a_grid(mut w: WarmUp, step_mm: f64) -> WarmUp {
    let snap = |v: f64| (v / step_mm).round() * step_mm;
    w.groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples).for_each(|p| (p.x, p.y) = (snap(p.x), snap(p.y)));
    w
}

/// Two kinds of noise under a thin pen: without smoothing its edge, or its dots, cannot be matched; with what is matched both can, ink is hardly behind,
/// and a second match finds nothing more to do. Locked it stays as it is.
#[test]
fn a_noisy_tablet_is_steadied_to_the_pen() {
    let pen = card(0);
    let quiet = Tablet { position_noise_mm: 0.004, wobble_mm: [0.0, 1.0], ..TABLETS[0] };
    for (name, w) in [("noise", warmup(&HANDS[0], &TABLETS[3], 5)), ("a grid", on_a_grid(warmup(&HANDS[0], &quiet, 5), 0.07))] {
        let without = matched(&pen, &w, &[Part::Smoothing], None);
        assert_eq!(without.brush.smoothing.position, SmoothingKind::None);
        let (edge, says) = verdict(&without, Part::Edge);
        assert!(edge == Verdict::CannotBeMatched && says.contains("more smoothing"), "{name}: {says}");
        let m = matched(&pen, &w, &[], None);
        let s = m.smoothing.as_ref().unwrap_or_else(|| panic!("{name} is not smoothed"));
        println!("{name}: {}", s.says);
        let e = s.edge_um.expect("the edge");
        assert!(e.left < e.pen && e.pen < e.hand && s.lag_ms <= 40.0, "{name}: {s:?}");
        assert!(s.dot.is_none_or(|d| d.left < d.pen && d.pen < d.hand), "{name}: {s:?}");
        for part in [Part::Edge, Part::Pooling, Part::Weight, Part::LeadOut] {
            let (v, says) = verdict(&m, part);
            assert!(v != Verdict::CannotBeMatched && v != Verdict::Differs, "{name}: {part:?} {says}");
        }
        let again = matched(&pen, &w, &[], Some(&m.brush));
        assert!(again.smoothing.is_none() && again.brush.smoothing == m.brush.smoothing, "{name}: {:?}", again.smoothing);
    }
}

/// A steady hand under a ragged pen asks for nothing.
#[test]
fn a_hand_that_is_steadier_than_the_pen_is_left_alone() {
    let quiet = Tablet { position_noise_mm: 0.003, wobble_mm: [0.0, 1.0], ..TABLETS[0] };
    for pen in [3, 4] {
        let m = matched(&card(pen), &warmup(&HANDS[0], &quiet, 7), &[], None);
        assert!(m.smoothing.is_none() && m.brush.smoothing.position == SmoothingKind::None, "{}: {:?}", PENS[pen].name, m.smoothing);
    }
}

/// Rays that scatter more than a card allows a law to leave: the brush has the law that is nearest all the same, and that is said. Rays that go by no
/// direction at all leave it round.
#[test]
fn a_nib_that_no_law_fits_closely_has_the_nearest() {
    let steel = card(2);
    let w = warmup(&HANDS[0], &TABLETS[0], 3);
    let scattered = |opens: f64| {
        let width = |k: usize| {
            let pull = (15.0 * k as f64 - 265.0).to_radians().cos().max(0.0);
            0.55 * (1.0 + opens * pull.powi(2)) * (1.0 + 0.09 * ((k * 7 % 24) as f64 / 12.0 - 1.0))
        };
        let rays: Vec<[f64; 2]> = (0..24).map(|k| [15.0 * k as f64, width(k)]).collect();
        let mean = rays.iter().map(|r| r[1]).sum::<f64>() / 24.0;
        let nib = CardNib::Round { length_mm: mean, residual_mm: 0.2, rays: Some(rays) };
        matched(&PenCard { nib: Some(nib), ..steel.clone() }, &w, &[], None)
    };
    let m = scattered(0.9);
    assert!(m.brush.nib.shape == NibShape::Spring && m.assumed.iter().any(|a| a.contains("fits best")), "{:?} {:?}", m.brush.nib, m.assumed);
    let (v, says) = verdict(&m, Part::Nib);
    assert!(v != Verdict::Differs, "{says}");
    assert_eq!(scattered(0.0).brush.nib.shape, NibShape::Round);
}
