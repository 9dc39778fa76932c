//! Ruled lines photographed beside a card: by simulated telephones and cards whose laws are not those of the fit, and by OpenCV. The bounds are
//! those of methods.md, section 2.6 (5 % or 20 µm), or what is stated where that is more; `eddymist-bench carded 40` gives the whole table.

use eddymist_calibrate::{PenCard, pen_card::Note};
use eddymist_formats::{
    Given, LIMITS, ReadError, images,
    ruled::{self, RuledError},
};
use eddymist_measure::{
    carded::{CardedError, has_card, lay_flat, measure},
    scan::Scan,
    source::{Kind, Origin},
};
use eddymist_sim::{
    beside::{Beside, beside_lines},
    camera::{Camera, compressed, photograph, photograph_beside},
    card::{Card, Print},
    pens::PENS,
    scanner::GreyScan,
};

use eddymist_journeys::light;
use proptest::prelude::*;

#[test]
fn lines_beside_a_card_are_the_pens() {
    for seed in [3, 21, 34] {
        let scene = beside_lines(&PENS[seed as usize % 5], seed);
        let (document, views, _) = measure(&light(&scene.photo, 72.0)).unwrap_or_else(|e| panic!("{seed}: {e}"));
        assert_eq!(document.lines.len(), scene.lines.len(), "{seed}");
        let photo = document.photo.as_ref().expect("a photo");
        for (got, want) in document.lines.iter().zip(&scene.lines) {
            let off = (got.width_mm.mean - want.width_mm).abs();
            assert!(off < (0.05 * want.width_mm).max(0.02).max(photo.sure_mm), "{seed}: {} for {}", got.width_mm.mean, want.width_mm);
            assert!((got.length_mm / want.length_mm - 1.0).abs() < 0.015, "{seed}: {} for {} mm", got.length_mm, want.length_mm);
        }
        // What a photo cannot show is not given.
        let card = PenCard::from_lines("x", &document, &vec![Some(0.5); document.lines.len()], Note::default());
        assert!(
            card.edge.is_none() && views.iter().all(|v| v.repeating.is_none()) && card.warnings.iter().any(|w| w.contains("not measurable from this photo"))
        );
    }
}

/// By OpenCV's camera, whose tangential terms the fit does not have, beside a card with a lettering and a fade (`make_card_photo.py`).
#[test]
fn lines_photographed_by_another_program_are_read() {
    let file = include_bytes!("../../../tests/reference/card_photo.jpg");
    let found = ruled::read(file, &Given::default(), None, &LIMITS).expect("lines");
    let (document, _) = found.measured.expect("lines");
    let known: Vec<f64> = serde_json::from_str(include_str!("../../../tests/reference/card_photo.json")).expect("widths");
    assert_eq!(document.lines.len(), known.len());
    for (l, want) in document.lines.iter().zip(&known) {
        assert!((l.width_mm.mean / want - 1.0).abs() < 0.01, "{} for {want}", l.width_mm.mean);
        // Drawn 100 mm long, with square ends.
        assert!((l.length_mm / 100.0 - 1.0).abs() < 0.01, "{} mm", l.length_mm);
    }
    // It says nothing of itself, and is told by the card.
    let source = document.source.expect("a source");
    assert_eq!((source.kind, source.from.kind, source.from.resolution), (Kind::Photo, Origin::Measured, Some(Origin::Measured)));
    // Places are px of what is shown for it.
    let shown = images::scan(&ruled::laid_flat(file, &LIMITS).expect("a PNG"), None, &LIMITS).expect("a scan");
    assert_eq!((shown.width, shown.height), (found.width_px, found.height_px));
    // Said to be a scan it lacks a resolution; with one it is a scan. An area is a scan's.
    let scan = Given { kind: Some(Kind::Scan), ..Given::default() };
    assert!(matches!(ruled::read(file, &scan, None, &LIMITS), Err(RuledError::File(ReadError::NoResolution))));
    let (as_scan, _) = ruled::read(file, &Given::dpi(Some([300.0; 2])), None, &LIMITS).expect("a scan").measured.expect("lines");
    assert!(as_scan.photo.is_none() && as_scan.lines.iter().all(|l| l.raggedness_um.is_some()));
    assert!(matches!(ruled::read(file, &Given::default(), Some([0, 0, 90, 90]), &LIMITS), Err(RuledError::Area)));
}

#[test]
fn what_such_a_photo_lacks_is_said() {
    let Beside { lines, card, camera, size_mm, .. } = beside_lines(&PENS[1], 6);
    let fair = Camera { px: [2016, 1512], quality: None, sharpen: 0.2, exposure: 0.6, ..camera };
    let ink: Vec<_> = lines.iter().map(|l| l.outline.clone()).collect();
    let of = |camera: &Camera, card: Option<&Card>| photograph_beside(camera, &ink, card, size_mm, 6);
    let told = |g: &GreyScan| measure(&light(g, 72.0));
    assert!(has_card(&light(&of(&fair, Some(&card)), 72.0)));
    // The paper is a rectangle too, and no card.
    let without = photograph(&fair, &ink, size_mm, 6);
    assert!(matches!(told(&without), Err(CardedError::NoCard)));
    let file = compressed(&without, 90).expect("a JPEG");
    assert!(matches!(ruled::read(&file, &Given::default(), None, &LIMITS), Err(RuledError::File(ReadError::NoResolution))));
    let said = Given { kind: Some(Kind::Photo), ..Given::default() };
    let e = ruled::read(&file, &said, None, &LIMITS).err().expect("an error").to_string();
    assert!(e.contains("bank card") && e.contains("or scan the lines"), "{e}");
    // Too far for this pen: the px that it has are said.
    let far = told(&of(&Camera { px: [1008, 756], ..fair }, Some(&card)));
    assert!(matches!(far, Err(CardedError::Thin { has, .. }) if has > 1.5 && has < 4.0) || matches!(far, Err(CardedError::NoCard)), "{:?}", far.err());
    assert!(matches!(told(&of(&Camera { exposure: 0.02, noise: 0.002, ..fair }, Some(&card))), Err(CardedError::Dark | CardedError::NoCard)));
    // A card that is half out of the picture.
    let out = Card { at_mm: [size_mm[0] + 20.0, 90.0], ..card };
    assert!(matches!(told(&of(&fair, Some(&out))), Err(CardedError::NoCard)));
    // A print of a card's proportions, whose corners are sharp, is none.
    let board = |r: f64, dark: &dyn Fn(f64, [f64; 2]) -> bool| {
        let of = |i: usize| {
            let q = [(i % 900) as f64 - 450.0, (i / 900) as f64 - 300.0].map(f64::abs);
            let (p, q) = (q[0] - 342.4 + r, q[1] - 215.9 + r);
            let off = p.max(0.0).hypot(q.max(0.0)) + p.max(q).min(0.0) - r;
            if dark(off, [p, q]) { 0.2f32 } else { 0.8 }
        };
        Scan { width: 900, height: 600, data: (0..900 * 600).map(of).collect(), dpi: 200.0 }
    };
    assert!(has_card(&board(25.4, &|off, _| off <= 0.0)) && !has_card(&board(0.0, &|off, _| off <= 0.0)));
    // Nor is a frame ruled on paper that ends at its corners: along its sides the paper goes on.
    let frame = |off: f64, [p, q]: [f64; 2]| off.abs() < 2.4 || off > 0.0 && p.max(-60.0) + q.max(-60.0) > -20.0;
    assert!(!has_card(&board(25.4, &frame)));
    // A dark stripe on it, or waves, are no sides of it.
    for print in [Print::Stripe, Print::Waves] {
        let g = of(&fair, Some(&Card { print, reflectance: 0.4, ..card }));
        let laid = lay_flat(&light(&g, 72.0)).expect("a card");
        let c = laid.photo.card_px;
        let ratio = (c[1][0] - c[0][0]) / (c[3][1] - c[0][1]);
        assert!((ratio - 85.6 / 53.98).abs() < 1e-6 && (laid.photo.px_per_mm / 11.0 - 1.0).abs() < 0.2, "{:?}", laid.photo);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Rectangles of a card's proportions anywhere, of any light, and whatever else: read or refused, never fallen over.
    #[test]
    fn boards_anywhere_are_read_or_refused(boards in prop::collection::vec((0.0f64..300.0, 0.0f64..300.0, 40.0f64..300.0, -0.8f64..0.8, 0.0f64..1.0, 0.4f64..0.9), 1..6)) {
        let side = 400;
        let mut data = vec![0.8f32; side * side];
        for (x, y, long, turn, light, ratio) in boards {
            let (s, c) = turn.sin_cos();
            for (i, v) in data.iter_mut().enumerate() {
                let (dx, dy) = ((i % side) as f64 - x, (i / side) as f64 - y);
                let (p, q) = ((c * dx + s * dy).abs() - 0.5 * long, (c * dy - s * dx).abs() - 0.5 * ratio * long);
                let r = 0.037 * long;
                if (p + r).max(0.0).hypot((q + r).max(0.0)) < r { *v = light as f32 }
            }
        }
        if let Ok((document, _, flat)) = measure(&Scan { width: side, height: side, data, dpi: 300.0 }) {
            prop_assert!(document.lines.iter().all(|l| l.width_mm.mean.is_finite() && l.width_mm.mean > 0.0));
            prop_assert!(flat.width * flat.height < 40_000_000);
        }
    }
}
