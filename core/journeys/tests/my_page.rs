//! One's own inked page, scanned, beside a trial page inked with the brush: what is the same is the same, and what differs is told, by how much.
//!
//! The pages are inked by a brush, so that the truth is its own; the scan has the simulated scanner's grain, lamp and blur, the trial page none.

use eddymist_calibrate::my_page::{PagesBeside, beside};
use eddymist_calibrate::pairs::Way;
use eddymist_formats::{LIMITS, images, ink_out};
use eddymist_ink::{Brush, Inked, Inker, Stroke};
use eddymist_measure::inked::page;
use eddymist_sim::{paired::trial::Trial, stylus::draw};
use serde_json::json;

fn brush(weight: f64, lead_out_mm: f64) -> Brush {
    let document = json!({
        "format": "eddymist/brush", "version": 1, "name": "page", "nib": {"shape": "round"}, "weight": [[0.0, 0.3 * weight], [1.0, 1.1 * weight]],
        "floor_mm": 0.0, "lead_in": {"length_mm": 0.0, "share": 0.0}, "lead_out": {"length_mm": lead_out_mm, "share": 0.4},
        "smoothing": {"position": {"kind": "none"}}, "opacity": {"floor": 1.0, "full": 1.0},
        "edge": {"softness_mm": 0.0, "raggedness_um": 0.0, "correlation_um": 0.0}, "colour": "#000000", "seed": 1
    });
    Brush::from_json(&document.to_string()).expect("a brush")
}

/// Bowed lines over the page, by a hand that presses now harder, now less.
fn strokes(trial: &Trial, seed: u64) -> Vec<Stroke> {
    let one = |k: usize| {
        let (left, top) = (14.0 + 48.0 * (k % 2) as f64, 12.0 + 4.5 * (k / 2) as f64);
        let path: Vec<[f64; 2]> = (0..=200).map(|i| f64::from(i) / 200.0).map(|u| [left + 40.0 * u, top + 1.2 * (3.0 * u + k as f64).sin()]).collect();
        draw(&trial.hand, &trial.tablet, &path, |u| 0.35 + 0.3 * (5.0 * u + 0.7 * k as f64).sin().powi(2), 1.0, 0.0, seed + k as u64)
    };
    (0..24).map(one).collect()
}

fn inked(brush: &Brush, strokes: &[Stroke]) -> Vec<Inked> {
    let inker = Inker::new(brush, None, None).expect("an inker");
    strokes.iter().map(|s| inker.ink(s).inked(0.001)).collect()
}

fn beside_each_other(pen: &Brush, brush: &Brush, seed: u64) -> PagesBeside {
    let trial = Trial::by_seed(seed, "steel-nib").expect("a trial");
    let outlines: Vec<_> = inked(pen, &strokes(&trial, 100 * seed)).into_iter().flat_map(|i| i.layers).map(|l| l.outline).collect();
    let mine = trial.lines(Way::Over, &outlines).expect("lines");
    // The same drawing once more, by the same hand.
    let drawn = ink_out::png(&inked(brush, &strokes(&trial, 100 * seed + 50)), trial.scanner.dpi, &LIMITS).expect("a picture");
    let own = page(&images::scan(&drawn, Some(trial.scanner.dpi), &LIMITS).expect("a scan")).expect("lines");
    beside(&mine, &own)
}

/// A figure of both pages, and whether it changed.
fn figure(of: &PagesBeside, name: &str) -> (f64, f64, bool) {
    let c = of.changes.iter().find(|c| c.figure == name).unwrap_or_else(|| panic!("no {name} in {:?}", of.changes));
    (c.before, c.after, c.changed.unwrap_or_else(|| panic!("no interval of {name}")))
}

#[test]
fn other_ink_is_told_by_how_much_and_the_same_is_alike() {
    let (mut said, mut asked) = (0, 0);
    for seed in 1..7 {
        let alike = beside_each_other(&brush(1.0, 7.0), &brush(1.0, 7.0), seed);
        for name in ["width, thinnest tenth", "width, middle", "width, widest tenth", "taper, to 90 %", "share of ends that taper"] {
            asked += 1;
            said += u32::from(figure(&alike, name).2);
        }
        let (before, after, _) = figure(&alike, "width, middle");
        assert!((after / before - 1.0).abs() < 0.02, "{seed}: {before:.3} and {after:.3} mm");
        assert_eq!(alike.mine.lines, 24);

        let heavy = beside_each_other(&brush(1.0, 7.0), &brush(1.1, 7.0), seed);
        for name in ["width, middle", "width, widest tenth"] {
            let (before, after, changed) = figure(&heavy, name);
            assert!(changed && (after / before - 1.1).abs() < 0.025, "{seed}: {name} {before:.3} and {after:.3} mm");
        }

        let short = beside_each_other(&brush(1.0, 7.0), &brush(1.0, 3.0), seed);
        let (before, after, _) = figure(&short, "taper, to 90 %");
        assert!(after < 0.75 * before, "{seed}: tapers of {before:.2} and {after:.2} mm");
        let (before, after, _) = figure(&short, "width, widest tenth");
        assert!((after / before - 1.0).abs() < 0.02, "{seed}: {before:.3} and {after:.3} mm");
        assert!(!short.mine.taper.is_empty() && short.mine.widths.iter().is_sorted_by(|a, b| a[1] <= b[1]));
    }
    // Of intervals at 95 % a few leave out what is the same.
    assert!(said <= 2, "{said} of {asked} figures of the same ink are said to differ");
}

#[test]
fn a_page_of_other_length_is_said() {
    let one = beside_each_other(&brush(1.0, 7.0), &brush(1.0, 7.0), 2);
    assert!(one.warnings.iter().all(|w| !w.contains("three times")), "{:?}", one.warnings);
    let trial = Trial::by_seed(2, "steel-nib").expect("a trial");
    let outlines: Vec<_> = inked(&brush(1.0, 7.0), &strokes(&trial, 7)).into_iter().flat_map(|i| i.layers).map(|l| l.outline).collect();
    let whole = trial.lines(Way::Over, &outlines).expect("lines");
    let part = trial.lines(Way::Over, &outlines[..4]).expect("lines");
    let few = beside(&whole, &part);
    assert!(few.warnings.iter().any(|w| w.contains("three times")), "{:?}", few.warnings);
    assert!(few.changes.iter().all(|c| !c.figure.starts_with("width") || c.interval.is_none()), "four lines have no interval: {:?}", few.changes);
}
