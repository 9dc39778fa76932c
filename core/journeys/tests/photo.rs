//! Sampler sheets that were photographed: by simulated telephones whose laws are not those of the fit, and by OpenCV. The bounds are those of
//! methods.md, section 2.6 (5 % or 20 µm); `eddymist-bench photos 60` gives the whole table.

use std::collections::BTreeMap;

use eddymist_calibrate::{PenCard, pen_card::Note};
use eddymist_formats::{Given, LIMITS, ReadError, pen_sheet};
use eddymist_measure::{
    scan::Scan,
    sheet::{
        SheetError, SheetReading, is_photo,
        layout::{Paper, SheetPlan, plan, plan_without_bars},
        read_photo,
    },
    source::{Kind, Origin},
};
use eddymist_sim::{
    camera::{Camera, Focus, Tone, compressed, photograph},
    pens::{PENS, Pen},
    scanner::{GreyScan, Scanner},
    sheet::{Truth, inked},
};

use eddymist_journeys::{NUMBER, light, scanned};
use proptest::prelude::*;

fn taken(pen: &Pen, plan: &SheetPlan, camera: &Camera, seed: u64) -> (GreyScan, Truth) {
    let (ink, truth) = inked(pen, plan, 1.0, seed);
    (photograph(camera, &ink, plan.size_mm, seed), truth)
}

/// The worst mean width of an effort or a pace, over 5 % of it or 20 µm; and how many were read.
fn worst(reading: &SheetReading, truth: &Truth) -> (f64, usize) {
    let (mut worst, mut read) = (0.0f64, 0);
    for cell in reading.cells.iter().filter(|c| c.id.starts_with("effort") || c.id.starts_with("pace")) {
        let pairs = cell.strokes.iter().filter_map(|s| {
            let b = s.body?;
            let (.., widths) = truth.bodies.iter().find(|t| t.0 == cell.id && t.1 == s.slot as usize)?;
            Some((b.width_mm, Truth::middle(widths, b.from_mm)))
        });
        let (n, got, want) = pairs.fold((0.0, 0.0, 0.0), |s, p| (s.0 + 1.0, s.1 + p.0, s.2 + p.1));
        if n > 0.0 {
            read += 1;
            worst = worst.max(((got - want) / n).abs() / (0.05 * want / n).max(0.02));
        }
    }
    (worst, read)
}

#[test]
fn widths_in_a_photo_are_the_pens() {
    for seed in [2, 7, 13] {
        let pen = &PENS[seed as usize % 5];
        let sheet = plan(if seed % 2 == 0 { Paper::Letter } else { Paper::A4 }, NUMBER);
        let (g, truth) = taken(pen, &sheet, &Camera { px: [2268, 3024], ..Camera::by_chance(seed) }, seed);
        let (r, _) = read_photo(&light(&g, 72.0), &[]).unwrap_or_else(|e| panic!("{seed}: {e}"));
        let (off, read) = worst(&r, &truth);
        assert!(off < 0.6 && read >= 7, "{seed}: {off:.2} of the bound, {read} cells");
        // The bars did it: without them the same widths are further off.
        let bars = r.photo.as_ref().and_then(|p| p.widths.clone()).expect("bars");
        assert!(bars.bars.iter().all(|b| b.bars == 10), "{bars:?}");
        // What a photo cannot show is not given.
        let card = PenCard::from_sheet(pen.name, &r, &[], Note::default());
        assert!(card.edge.is_none() && card.warnings.iter().any(|w| w.contains("not measurable from this photo")), "{:?}", card.warnings);
    }
}

/// By OpenCV's camera, whose tangential terms the fit does not have (see `tests/reference/make_photo.py`): known by its perspective alone.
#[test]
fn a_photo_by_another_program_is_read() {
    let found = pen_sheet::read(include_bytes!("../../../tests/reference/photo.jpg"), &Given::default(), &[], &LIMITS).expect("a sheet");
    assert_eq!((found.source.kind, found.source.from.kind), (Kind::Photo, Origin::Measured));
    let known: BTreeMap<String, f64> = serde_json::from_str(include_str!("../../../tests/reference/photo.json")).expect("widths");
    let card = PenCard::from_sheet("x", &found.reading, &[], Note::default());
    for w in card.widths_by_effort.expect("efforts") {
        let want = known.iter().find(|(e, _)| e.parse() == Ok(w.effort)).expect("an effort").1;
        assert!((w.width_mm / want - 1.0).abs() < 0.006 && w.lines == 6, "{} for {want}", w.width_mm);
    }
    // The frames lie where a flat sheet's do, within what the tangential terms move.
    assert!(found.reading.photo.expect("a photo").frames_off_mm < 0.05);
}

#[test]
fn what_a_photo_lacks_is_said() {
    let sheet = plan(Paper::A4, NUMBER);
    let fair = Camera { px: [1512, 2016], quality: None, sharpen: 0.2, ..Camera::fair() };
    let of = |camera: Camera, sheet: &SheetPlan| taken(&PENS[3], sheet, &camera, 3).0;
    let told = |g: &GreyScan| read_photo(&light(g, 72.0), &[]);
    let good = of(fair, &sheet);
    assert!(is_photo(&light(&good, 72.0)));
    assert!(!is_photo(&light(&scanned(&PENS[3], 1.0, &Scanner::fair(150.0), 3).0, 150.0)));
    // A telephone's JPEG of no resolution, and the same when it is said to be a scan.
    let file = compressed(&good, 92).expect("a JPEG");
    assert!(pen_sheet::read(&file, &Given::default(), &[], &LIMITS).is_ok());
    let scan = pen_sheet::read(&file, &Given { kind: Some(Kind::Scan), ..Given::default() }, &[], &LIMITS);
    assert!(matches!(scan, Err(pen_sheet::PenSheetError::File(ReadError::NoResolution))), "{scan:?}");
    // Places are px of what is shown for it.
    let shown = eddymist_formats::images::scan(&pen_sheet::laid_flat(&file, &LIMITS).expect("a PNG"), None, &LIMITS).expect("a scan");
    let read = pen_sheet::read(&file, &Given::default(), &[], &LIMITS).expect("a sheet");
    assert_eq!((shown.width, shown.height), (read.width_px, read.height_px));
    assert!((shown.dpi - read.reading.resolution_dpi).abs() < 0.1);
    // A sheet of the first kind is read, and said to lack what corrects its widths.
    let (first, _) = told(&of(fair, &plan_without_bars(Paper::A4, NUMBER))).expect("a sheet");
    assert!(first.photo.expect("a photo").widths.is_none() && first.warnings.iter().any(|w| w.contains("no printed bars")));
    assert!(matches!(told(&of(Camera { exposure: 0.03, ..fair }, &sheet)), Err(SheetError::Dark | SheetError::NoMarks | SheetError::PhotoMarks(_))));
    let soft = told(&of(Camera { px: [2268, 3024], focus: Focus::Gauss(3.2), sharpen: 0.0, tone: Tone::Plain, ..fair }, &sheet));
    assert!(matches!(soft, Err(SheetError::Soft(_) | SheetError::NoMarks | SheetError::PhotoMarks(_))), "{soft:?}");
    // A front camera's mirror, of the photo and of a scan.
    let mirror = |g: &GreyScan| GreyScan { data: g.data.chunks(g.width).flat_map(|row| row.iter().rev().copied()).collect(), ..g.clone() };
    assert!(matches!(told(&mirror(&good)), Err(SheetError::Mirrored)), "{:?}", told(&mirror(&good)));
    let scan = scanned(&PENS[3], 1.0, &Scanner::fair(150.0), 3).0;
    assert!(matches!(eddymist_measure::sheet::read(&light(&mirror(&scan), 150.0), &[]), Err(SheetError::Mirrored)));
    // Half of it out of the picture: fewer than three marks.
    let cut = GreyScan { height: 1000, data: good.data[..1000 * good.width].to_vec(), ..good.clone() };
    assert!(matches!(told(&cut), Err(SheetError::PhotoMarks(2))), "{:?}", told(&cut));
    // A line of too few px is not read, and the others are.
    let (far, _) = taken(&PENS[2], &sheet, &fair, 3);
    let (r, _) = told(&far).expect("a sheet");
    let feather = r.cells.iter().find(|c| c.id == "effort-0").expect("a cell");
    assert!(feather.strokes.is_empty() && feather.says.iter().any(|s| s.contains("too thin for this photo")), "{:?}", feather.says);
    assert_eq!(r.cells.iter().find(|c| c.id == "effort-1").map(|c| c.strokes.len()), Some(6));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Corner marks pasted anywhere, and turned: a plane that no camera saw is read or refused, never fallen over.
    #[test]
    fn marks_anywhere_are_read_or_refused(places in prop::collection::vec((0usize..700, 0usize..700, 0u8..4), 1..6)) {
        let sheet = plan(Paper::A4, NUMBER);
        let page = eddymist_formats::images::scan(&eddymist_formats::sheet::png(&sheet, 200.0).expect("a PNG"), None, &LIMITS).expect("a scan");
        let (side, long, k) = (900, 150, 200.0 / 25.4);
        let mut data = vec![0.9f32; side * side];
        for (i, (x, y, turn)) in places.iter().enumerate() {
            let [mx, my] = sheet.marks[i % 4].map(|v| (v * k) as usize - 12);
            for (b, a) in (0..long).flat_map(|b| (0..long).map(move |a| (b, a))) {
                let (u, v) = match turn { 0 => (a, b), 1 => (long - 1 - b, a), 2 => (long - 1 - a, long - 1 - b), _ => (b, long - 1 - a) };
                data[(y + b) * side + x + a] = page.data[(my + v) * page.width + mx + u];
            }
        }
        let picture = Scan { width: side, height: side, data, dpi: 200.0 };
        let _ = is_photo(&picture);
        if let Ok((r, sides)) = read_photo(&picture, &[]) {
            prop_assert!(r.cells.iter().flat_map(|c| &c.strokes).flat_map(|s| &s.width_mm).all(|w| w.is_finite() && *w >= 0.0));
            prop_assert!(sides.iter().all(|s| *s > 0 && *s < 12_000));
        }
    }
}
