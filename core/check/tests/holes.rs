//! Scanned sheets that lie by their peg holes: a figure that moves as a whole between two drawings is no shift of the sheet. From pixels, with a
//! scanner's grain; the truth is the move that was made.

use common::role;
use eddymist_check::{
    LineGuide, Manifest, NamedLayer, WeighedDrawing, check_lines,
    guide::{Page, RoleSource},
    holes::Holes,
    takes::{Take, laid},
};
use eddymist_measure::{Picture, drawing::MaskKind, drawing::Masked, source::Kind};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

mod common;

const SIZE: [usize; 2] = [1600, 1100];

fn line_guide() -> LineGuide {
    let mut line = role("line", "#000000", 6.0, 0.2);
    line.from = RoleSource { rest: true, ..RoleSource::default() };
    LineGuide::new("g", Page { width_px: SIZE[0] as f64, height_px: SIZE[1] as f64, px_per_mm: None, rate_fps: None }, vec![line])
}

/// Distance to a stretch, px.
fn from_stretch([x, y]: [f64; 2], [a, b]: [[f64; 2]; 2]) -> f64 {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let t = (((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy)).clamp(0.0, 1.0);
    (x - a[0] - t * dx).hypot(y - a[1] - t * dy)
}

/// A scan of a sheet that lies so, its figure drawn so far from where it was; its three holes show the dark lid, if any does.
fn scanned(lies: impl Fn([f64; 2]) -> [f64; 2], figure: [f64; 2], lid: bool, seed: u64) -> WeighedDrawing {
    let mut r = ChaCha8Rng::seed_from_u64(seed);
    let figure_lines: Vec<[[f64; 2]; 2]> = [
        [500.0, 300.0, 900.0, 360.0],
        [900.0, 360.0, 1080.0, 700.0],
        [560.0, 420.0, 620.0, 800.0],
        [620.0, 800.0, 1000.0, 860.0],
        [700.0, 480.0, 860.0, 620.0],
    ]
    .map(|[x, y, z, w]| [[x + figure[0], y + figure[1]], [z + figure[0], w + figure[1]]])
    .to_vec();
    // Discs of 21 px and slots of 60 by 20 px with round ends.
    let holes = [([[340.0, 60.0], [380.0, 60.0]], 10.0), ([[800.0, 60.0], [800.1, 60.0]], 21.0), ([[1220.0, 60.0], [1260.0, 60.0]], 10.0)];
    let mut rgba = Vec::with_capacity(4 * SIZE[0] * SIZE[1]);
    for y in 0..SIZE[1] {
        for x in 0..SIZE[0] {
            let p = lies([x as f64 + 0.5, y as f64 + 0.5]);
            let cover = |d: f64, half: f64| (half + 0.7 - d).clamp(0.0, 1.4) / 1.4;
            let line = figure_lines.iter().map(|s| cover(from_stretch(p, *s), 3.0)).fold(0.0, f64::max);
            let hole = if lid { holes.iter().map(|(s, r)| cover(from_stretch(p, *s), *r)).fold(0.0, f64::max) } else { 0.0 };
            let light = 236.0 - 200.0 * line.max(hole) + r.random_range(-5.0..5.0);
            rgba.extend([light as u8, light as u8, light as u8, 255]);
        }
    }
    let picture = Picture::new(SIZE[0], SIZE[1], &rgba).expect("a picture").of_kind(Kind::Scan);
    let mut out = check_lines(&line_guide(), "d.png", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).expect("checked");
    out.check.source = Some(eddymist_measure::source::Source { kind: Kind::Scan, ..Default::default() });
    out
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 3, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_sheet_lies_by_its_holes_whatever_moves_on_it(seed in 0u64..500, dx in -30.0f64..30.0, dy in -25.0f64..25.0, turn in -1.5f64..1.5, fx in 20.0f64..90.0, fy in -60.0f64..60.0) {
        let (s, c) = turn.to_radians().sin_cos();
        // From a place of the scan to the sheet's own.
        let lies = move |[x, y]: [f64; 2]| { let (x, y) = (x - 800.0 - dx, y - 550.0 - dy); [800.0 + x * c + y * s, 550.0 - x * s + y * c] };
        let (first, second) = (scanned(|p| p, [0.0; 2], true, seed), scanned(lies, [fx, fy], true, seed + 1));
        let take = |d: &WeighedDrawing| (d.check.clone(), d.lines.clone());
        let ((a, b), (e, f)) = (take(&first), take(&second));
        let m = laid(&line_guide(), &Take { check: &e, lines: &f }, &Take { check: &a, lines: &b });
        let Some(m) = m else { return Err(TestCaseError::fail(format!("not laid: {:?} {:?}", a.masked, e.masked))) };
        prop_assert!(m.by_marks, "{:?}", m);
        for p in [[100.0, 100.0], [1500.0, 100.0], [1500.0, 1000.0], [100.0, 1000.0]] {
            let (found, truth) = (m.of(p), lies(p));
            prop_assert!((found[0] - truth[0]).hypot(found[1] - truth[1]) < 1.5, "{:?} for {:?}: {:?}", found, truth, m);
        }
    }

    /// What is no row of holes of one form on both sheets moves nothing.
    #[test]
    fn other_blacks_are_no_holes(at in prop::collection::vec((0.0f64..1600.0, 0.0f64..1100.0, 8.0f64..200.0, 8.0f64..200.0, 0.1f64..1.0), 0..8), other in 30.0f64..200.0) {
        let blacks: Vec<Masked> = at.iter().map(|(x, y, w, h, fill)| Masked { kind: MaskKind::SpottedBlack, x: *x, y: *y, width: *w, height: *h, ink_px2: w * h * fill }).collect();
        let page = [1600.0, 1100.0];
        let own = Holes::new(&blacks, page);
        let same = own.onto(&own, [800.0, 550.0]);
        prop_assert!(same.is_none_or(|(turn, shift)| turn.abs() < 1e-9 && shift[0].hypot(shift[1]) < 1e-9));
        // One more in between, or none: the rows differ.
        let disc = |x: f64| Masked { kind: MaskKind::SpottedBlack, x, y: 40.0, width: 42.0, height: 42.0, ink_px2: 1385.0 };
        let two = Holes::new(&[disc(300.0), disc(900.0)], page);
        let apart = Holes::new(&[disc(300.0), disc(900.0 + other)], page);
        prop_assert!(two.onto(&apart, [800.0, 550.0]).is_none() && two.onto(&Holes::default(), [800.0, 550.0]).is_none());
        prop_assert!(two.onto(&two, [800.0, 550.0]).is_some());
    }
}

/// Under a white lid there are no holes to be seen: the lines say how the sheet lies.
#[test]
fn without_a_dark_lid_the_lines_say_how_a_sheet_lies() {
    let lies = |[x, y]: [f64; 2]| [x - 7.0, y + 4.0];
    let (first, second) = (scanned(|p| p, [0.0; 2], false, 3), scanned(lies, [0.0; 2], false, 4));
    let m = laid(&line_guide(), &Take { check: &second.check, lines: &second.lines }, &Take { check: &first.check, lines: &first.lines }).expect("laid");
    assert!(!m.by_marks && (m.shift_px[0] + 7.0).abs() < 0.5 && (m.shift_px[1] - 4.0).abs() < 0.5, "{m:?}");
}
