//! Scans of drawings laid on one another: a known turn and shift is found again though a part of the lines moved, and a sequence of steady
//! scanned drawings does not boil. Check: the inverse of the move that was made.

use common::{INK, Sheet, guide, role};
use eddymist_check::{
    DrawingCheck, LineGuide, Manifest, WeighedLine,
    holes::Holes,
    register::{self, Move, register},
    sequence::Sequence,
};
use eddymist_measure::source::{Kind, Source};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

mod common;

const WIDTH: f64 = 1600.0;

fn line_guide() -> LineGuide {
    let mut holes = role("peg holes", "#c02020", 8.0, 0.2);
    (holes.judge, holes.weight_px) = (false, None);
    guide(vec![role("line", "#1b1e24", 6.0, 0.1), holes])
}

/// A wavy line from a place, turned.
fn wavy(role: usize, at: [f64; 2], turn: f64, long: f64, bend: f64) -> WeighedLine {
    let n = (long / 2.0) as usize;
    let (s, c) = turn.sin_cos();
    let places = (0..n).flat_map(|i| {
        let (u, v) = (2.0 * i as f64, bend * (0.02 * i as f64).sin());
        [at[0] + u * c - v * s, at[1] + u * s + v * c, 6.0].map(|v| (10.0 * v).round() as i32)
    });
    WeighedLine { role, closed: false, places: places.collect(), standing: "w".repeat(n) }
}

fn drawing(r: &mut ChaCha8Rng, lines: usize) -> Vec<WeighedLine> {
    (0..lines)
        .map(|_| {
            let at = [r.random_range(150.0..1300.0), r.random_range(120.0..800.0)];
            wavy(0, at, r.random_range(0.0..std::f64::consts::TAU), r.random_range(120.0..320.0), r.random_range(-25.0..25.0))
        })
        .collect()
}

static NONE: std::sync::LazyLock<Holes> = std::sync::LazyLock::new(Holes::default);

fn sheet(lines: &[WeighedLine]) -> register::Sheet<'_> {
    register::Sheet { lines, holes: &NONE, size: [WIDTH, 900.0] }
}

fn off(a: &Move, b: &Move) -> f64 {
    [[100.0, 100.0], [1500.0, 100.0], [1500.0, 800.0], [100.0, 800.0]]
        .iter()
        .map(|p| {
            let back = b.of(a.of(*p));
            (back[0] - p[0]).hypot(back[1] - p[1])
        })
        .fold(0.0, f64::max)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 10, failure_persistence: None, ..ProptestConfig::default() })]

    /// Up to half of the lines moved elsewhere, as a figure does between two drawings; the rest says how the sheet lies.
    #[test]
    fn a_sheet_is_laid_back_though_lines_moved(seed in 0u64..500, dx in -90.0f64..90.0, dy in -90.0f64..90.0, turn in -2.5f64..2.5, moving in 0usize..8, marks in any::<bool>()) {
        let mut r = ChaCha8Rng::seed_from_u64(seed);
        let mut first = drawing(&mut r, 18);
        if marks {
            first.extend([200.0, 800.0, 1400.0].map(|x| wavy(1, [x, 860.0], 0.3, 90.0, 30.0)));
        }
        let lies = Move { shift_px: [dx, dy], turn_deg: turn, about: [800.0, 450.0], by_marks: false };
        let mut second = first.clone();
        for line in second.iter_mut().take(moving) {
            // Each its own way.
            let by = [r.random_range(-40.0..40.0), r.random_range(-40.0..40.0)].map(|v: f64| (10.0 * v) as i32);
            line.places.as_chunks_mut::<3>().0.iter_mut().for_each(|p| (p[0], p[1]) = (p[0] + by[0], p[1] + by[1]));
        }
        let found = register(&line_guide(), &sheet(&lies.lines(&second)), &sheet(&first));
        let Some(m) = found else { return Err(TestCaseError::fail("nothing in common")) };
        prop_assert_eq!(m.by_marks, marks);
        // Places stand at tenths of a pixel; marks lie at one edge, so that a turn moves the other.
        prop_assert!(off(&lies, &m) < if marks { 1.2 } else { 0.5 }, "{:?} for {:?}: {} px", m, lies, off(&lies, &m));
    }
}

#[test]
fn drawings_with_nothing_in_common_are_not_laid_on_one_another() {
    let [mut a, mut b] = [1, 2].map(ChaCha8Rng::seed_from_u64);
    let none = register(&line_guide(), &sheet(&drawing(&mut a, 6)), &sheet(&drawing(&mut b, 6)));
    assert!(none.is_none(), "{none:?}");
    assert!(register(&line_guide(), &sheet(&[]), &sheet(&drawing(&mut a, 6))).is_none());
}

#[test]
fn steady_lines_on_sheets_that_lie_otherwise_do_not_boil_and_the_shift_is_said() {
    let g = line_guide();
    let mut r = ChaCha8Rng::seed_from_u64(7);
    let lines = drawing(&mut r, 18);
    let run = |kind: Kind| {
        let mut r = ChaCha8Rng::seed_from_u64(11);
        let mut sequence = Sequence::new(&g);
        for k in 0..8 {
            // To and fro, as sheets lie on a scanner.
            let side = if k % 2 == 0 { 1.0 } else { -1.0 };
            let shift_px = [side * r.random_range(2.0..5.0), side * r.random_range(2.0..5.0)];
            let lies = Move { shift_px, turn_deg: 0.1 * side, about: [800.0, 450.0], by_marks: false };
            let manifest = Manifest::from([("artist".to_string(), "juno".to_string()), ("drawing".to_string(), k.to_string())]);
            let plain = Sheet::new().lines(6.0, INK).check_with(&g, &manifest).expect("checked").check;
            let source = Source { kind, ..Source::default() };
            let check = DrawingCheck { file: format!("{k}.png"), width_px: WIDTH as u32, scale: 1.0, source: Some(source), findings: Vec::new(), ..plain };
            sequence.push(&check, &lies.lines(&lines));
        }
        (sequence.unsaid(), sequence.finish())
    };
    let (_, drawn) = run(Kind::Drawing);
    assert!(drawn.iter().any(|f| f.message.contains("boils")), "what jumps so in drawings boils: {drawn:?}");
    let (said, scanned) = run(Kind::Scan);
    assert!(scanned.is_empty(), "{scanned:?}");
    assert!(said.iter().any(|s| s.contains("laid on one another by the best fit")), "{said:?}");
}
