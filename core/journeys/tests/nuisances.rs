//! Profile and match under what befalls hands and tablets by laws that nothing here fits.

use eddymist_calibrate::{PenCard, Verdict, fit, matching::Part, pen_card::Note, profile};
use eddymist_sim::{
    nuisance::{all, befallen},
    pens::PENS,
    scanner::Scanner,
    stylus::{HANDS, TABLETS, warmup},
};

use eddymist_journeys::{reading, scanned};

/// Whatever befalls it, a warm-up gives the response that it gives without, within a few hundredths of effort, and a match tells no part from the pen
/// that is not off because of it: what it cannot know it says.
#[test]
fn a_warm_up_stands_what_befalls_it() {
    let clean = warmup(&HANDS[0], &TABLETS[0], 21);
    let plain = profile(&clean, "clean").expect("a profile").curve().expect("a curve");
    let (g, _) = scanned(&PENS[3], 1.0, &Scanner::fair(300.0), 31);
    let card = PenCard::from_sheet(PENS[3].name, &reading(&g, 300.0), &[], Note::default());
    for what in all() {
        let w = befallen(&clean, what.as_ref(), 5);
        assert_ne!(w, clean, "{}", what.name());
        let p = profile(&w, "befallen").unwrap_or_else(|e| panic!("{}: {e}", what.name()));
        let curve = p.curve().expect("a curve");
        let off: Vec<f64> = (2..=18).map(|k| 0.05 * f64::from(k)).map(|e| (curve.value(plain.inverse(e)) - e).abs()).collect();
        let worst = off.iter().copied().fold(0.0, f64::max);
        let m = fit(&card, Some(&w), Some(&p), None, &[]).expect("a fit");
        let told: Vec<String> = m.parts.iter().filter(|p| p.verdict == Verdict::Differs).map(|p| format!("{:?}: {}", p.part, p.says)).collect();
        println!("{}: response off by {worst:.3}, full point {} (seen {}), told {told:?}", what.name(), p.full_point, p.full_point_seen);
        assert!(worst < 0.06, "{}: the response is off by {worst:.3}", what.name());
        assert!(told.is_empty(), "{}: {told:?}", what.name());
        let weight = m.parts.iter().find(|p| p.part == Part::Weight).expect("the weight");
        assert!(weight.difference.is_some_and(|d| d.abs() < 0.5), "{}: {}", what.name(), weight.says);
    }
}

/// A tablet that reports no more from some press on is seen to, whatever befalls it: its full point stays within two hundredths.
#[test]
fn a_plateau_is_a_plateau() {
    let clean = warmup(&HANDS[2], &TABLETS[2], 4);
    let plain = profile(&clean, "clean").expect("a profile");
    assert!(plain.full_point_seen && (plain.full_point - TABLETS[2].full_point).abs() < 0.01, "{}", plain.full_point);
    // A hand that tires presses the plateau no longer, and coloured noise makes it one no more.
    for what in all().into_iter().filter(|w| !["a hand that tires", "noise that is coloured"].contains(&w.name())) {
        let p = profile(&befallen(&clean, what.as_ref(), 6), "befallen").unwrap_or_else(|e| panic!("{}: {e}", what.name()));
        println!("{}: full point {} (seen {})", what.name(), p.full_point, p.full_point_seen);
        assert!(p.full_point_seen, "{}", what.name());
        assert!((p.full_point - plain.full_point).abs() < 0.02, "{}: full point {}", what.name(), p.full_point);
    }
}
