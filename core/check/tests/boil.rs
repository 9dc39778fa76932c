//! Sequences of lines made from the definition of boil: steady lines, moving lines and lines that grow do not boil; lines that jump
//! from drawing to drawing by more than the limit do.

use eddymist_check::{
    DrawingCheck, FindingKind, LineGuide, Manifest, WeighedLine,
    boil::Boil,
    document::SequenceFinding,
    sequence::{Sequence, order},
};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

const TARGET: f64 = 6.0;
const LINES: usize = 12;

fn guide() -> LineGuide {
    let text = r##"{"format":"eddymist/line-guide","version":1,"name":"g","page":{"width_px":1920,"height_px":1080},
        "roles":[{"name":"contour","from":{"colour":"#1b1e24"},"weight_px":{"target":6.0,"tolerance":0.1}},
                 {"name":"hole mark","from":{"colour":"#e0209a"},"judge":false}]}"##;
    LineGuide::from_json(text).expect("a guide")
}

fn check(number: usize, artist: &str, exposure: usize) -> DrawingCheck {
    DrawingCheck {
        file: format!("{artist}_{number:03}.png"),
        width_px: 1920,
        height_px: 1080,
        scale: 1.0,
        shot_factor: 1.0,
        source: None,
        hand_on: None,
        why: None,
        warnings: Vec::new(),
        left_out: Vec::new(),
        manifest: Manifest::from([("artist".into(), artist.into()), ("drawing".into(), number.to_string()), ("exposure".into(), exposure.to_string())]),
        roles: Vec::new(),
        findings: Vec::new(),
        masked: Vec::new(),
        print: Vec::new(),
        pins: Vec::new(),
        not_listed: Default::default(),
    }
}

/// A bowed line 300 px long; the width and the shift across it by the share of its length.
fn line(role: usize, at: [f64; 2], width: impl Fn(f64) -> f64, shift: impl Fn(f64) -> f64) -> WeighedLine {
    let n = 150;
    let places = (0..n)
        .flat_map(|i| {
            let u = i as f64 / (n - 1) as f64;
            [at[0] + 300.0 * u, at[1] + 30.0 * (3.1 * u).sin() + shift(u), width(u)].map(|v| (10.0 * v).round() as i32)
        })
        .collect();
    WeighedLine { role, closed: false, places, standing: "w".repeat(n) }
}

fn places(k: usize) -> [f64; 2] {
    [80.0 + 420.0 * (k % 4) as f64, 120.0 + 260.0 * (k / 4) as f64]
}

/// A sequence in which each drawing's lines are made by `lines(drawing, line)`.
fn found(drawings: usize, artist: impl Fn(usize) -> String, lines: impl Fn(usize, usize) -> WeighedLine) -> Vec<SequenceFinding> {
    let guide = guide();
    let mut boil = Boil::new(&guide);
    for d in 0..drawings {
        let all: Vec<WeighedLine> = (0..LINES).map(|k| lines(d, k)).collect();
        boil.push(&check(d, &artist(d), 1), &all);
    }
    boil.finish()
}

fn one(_: usize) -> String {
    "juno".into()
}

#[test]
fn lines_that_jump_boil_and_say_by_how_much() {
    // ±5 % of the width, turn by turn: the second difference is 4 · 5 % = 20 % of the target.
    let f = found(8, one, |d, k| line(0, places(k), |_| TARGET * if d % 2 == 0 { 1.05 } else { 0.95 }, |_| 0.0));
    let [f] = f.as_slice() else { panic!("{f:?}") };
    assert_eq!((f.kind, f.role.as_str(), f.artist.as_deref()), (FindingKind::Boil, "contour", Some("juno")));
    assert!((f.value - 0.2).abs() < 0.01 && f.limit == 0.08, "{f:?}");
    assert!(f.message.contains("boils in weight") && f.message.contains("72 of 72") && f.drawings.len() == 6, "{f:?}");
    // The same of its shape: wavy along it, it is no shift of the line as a whole.
    let f = found(8, one, |d, k| line(0, places(k), |_| TARGET, |u| if d % 2 == 0 { 0.5 } else { -0.5 } * (12.0 * u).sin()));
    assert!(f.len() == 1 && f[0].message.contains("boils in shape"), "{f:?}");
}

#[test]
fn lines_that_shift_to_and_fro_boil_and_lines_that_swing_do_not() {
    let mut rng = ChaCha8Rng::seed_from_u64(5);
    let chance: Vec<f64> = (0..12 * LINES).map(|_| rng.random_range(-1.5..1.5)).collect();
    let f = found(12, one, |d, k| line(0, places(k), |_| TARGET, |_| chance[d * LINES + k]));
    assert!(f.len() == 1 && f[0].message.contains("boils in place"), "{f:?}");
    // A swing of ten drawings to and fro, 12 px wide, each line at another point of it: its second differences are over a px, and it moves.
    let f = found(20, one, |d, k| line(0, places(k), |_| TARGET, |_| 6.0 * (0.628 * d as f64 + k as f64).sin()));
    assert!(f.is_empty(), "{f:?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// Each drawing another weight by 4 % (one standard deviation) and more: found, every time.
    #[test]
    fn redrawn_lines_boil(seed in 0u64..1_000_000, sd in 0.04f64..0.12) {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let jumps: Vec<f64> = (0..10 * LINES).map(|_| 1.0 + sd * 3f64.sqrt() * rng.random_range(-1.0..1.0)).collect();
        let f = found(10, one, |d, k| line(0, places(k), |_| TARGET * jumps[d * LINES + k], |_| 0.0));
        prop_assert!(f.len() == 1 && f[0].value > 0.08, "{f:?}");
    }

    /// Lines that keep their weight but for what a steady hand does, move, turn, grow evenly and swell along themselves: none boils.
    #[test]
    fn steady_and_moving_lines_do_not(seed in 0u64..1_000_000, dx in -6.0f64..6.0, dy in -6.0f64..6.0, grow in -0.01f64..0.01, turn in -2.0f64..2.0) {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let hand: Vec<f64> = (0..10 * LINES).map(|_| 1.0 + 0.01 * rng.random_range(-1.0..1.0)).collect();
        let f = found(10, one, |d, k| {
            let [x, y] = places(k);
            let t = d as f64;
            let swell = |u: f64| TARGET * (1.0 + grow * t) * (0.8 + 0.4 * (3.1 * u).sin()) * hand[d * LINES + k];
            line(0, [x + dx * t, y + dy * t], swell, |u| turn * t * (u - 0.5))
        });
        prop_assert!(f.is_empty(), "{f:?}");
    }

    /// Whatever is not judged, not matched or switched off is not told, and the drawing's size changes nothing.
    #[test]
    fn what_cannot_be_said_is_not_said(seed in 0u64..1000, scale in 0.5f64..2.0) {
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let jumps: Vec<f64> = (0..10).map(|_| 1.0 + 0.2 * rng.random_range(-1.0..1.0)).collect();
        prop_assert!(found(10, one, |d, k| line(1, places(k), |_| TARGET * jumps[d], |_| 0.0)).is_empty());
        // Other places altogether, turn by turn: no line has a partner.
        prop_assert!(found(10, one, |d, k| line(0, [places(k)[0], places(k)[1] + 130.0 * (d % 2) as f64], |_| TARGET * jumps[d], |_| 0.0)).is_empty());
        let off = LineGuide { off: vec![FindingKind::Boil], ..guide() };
        let guide = guide();
        let (mut none, mut plain, mut scaled) = (Boil::new(&off), Boil::new(&guide), Boil::new(&guide));
        for d in 0..10 {
            let jump = if d % 2 == 0 { 1.05 } else { 0.95 };
            let of = |s: f64| -> Vec<WeighedLine> {
                let bigger = |l: WeighedLine| WeighedLine { places: l.places.iter().map(|v| (f64::from(*v) * s).round() as i32).collect(), ..l };
                (0..LINES).map(|k| bigger(line(0, places(k), |_| TARGET * jump, |_| 0.0))).collect()
            };
            none.push(&check(d, "juno", 1), &of(1.0));
            plain.push(&check(d, "juno", 1), &of(1.0));
            scaled.push(&DrawingCheck { scale, ..check(d, "juno", 1) }, &of(scale));
        }
        prop_assert!(none.finish().is_empty());
        // Widths are in tenths of a px: at half the size a step is 3 % of the target, and a second difference has up to two of them.
        let (a, b) = (plain.finish(), scaled.finish());
        prop_assert_eq!((a.len(), b.len()), (1, 1));
        prop_assert!((a[0].value - 0.2).abs() < 0.01 && (b[0].value - 0.2).abs() < 0.065, "{} {}", a[0].value, b[0].value);
    }
}

#[test]
fn a_line_that_grows_evenly_in_time_does_not_boil_however_long_drawings_are_held() {
    // Held for 1 and 5 exposures in turn, growing by 3 % an exposure: by drawings it is uneven, by time it is not.
    let guide = guide();
    let grown = |by_time: bool| {
        let mut boil = Boil::new(&guide);
        let mut t = 0;
        for d in 0..10 {
            let held = if d % 2 == 0 { 1 } else { 5 };
            let width = TARGET * (1.0 + 0.03 * f64::from(t));
            let all: Vec<WeighedLine> = (0..LINES).map(|k| line(0, places(k), |_| width, |_| 0.0)).collect();
            boil.push(&check(d, "pia", if by_time { held as usize } else { 1 }), &all);
            t += held;
        }
        boil.finish()
    };
    assert!(grown(true).is_empty(), "{:?}", grown(true));
    assert_eq!(grown(false).len(), 1);
}

#[test]
fn artists_and_shots_are_told_apart() {
    // Two artists in turn, one 8 % heavier: neither boils, what lies between them does.
    let f = found(12, |d| ["ilse", "dov"][d % 2].into(), |d, k| line(0, places(k), |_| TARGET * if d % 2 == 0 { 1.0 } else { 1.08 }, |_| 0.0));
    assert!(f.len() == 1 && f[0].artist.is_none() && f[0].message.starts_with("Between artists"), "{f:?}");
    // Another shot for every drawing: there are no neighbours.
    let guide = guide();
    let mut boil = Boil::new(&guide);
    for d in 0..12 {
        let mut c = check(d, "juno", 1);
        c.manifest.insert("shot".into(), d.to_string());
        boil.push(&c, &(0..LINES).map(|k| line(0, places(k), |_| TARGET * (1.0 + 0.1 * (d % 2) as f64), |_| 0.0)).collect::<Vec<_>>());
    }
    assert!(boil.finish().is_empty());
    // Nor is a drawing of another size of shot one, whose weights the guide scales.
    let mut boil = Boil::new(&guide);
    for d in 0..12 {
        let mut c = DrawingCheck { shot_factor: if d % 2 == 0 { 1.0 } else { 0.8 }, ..check(d, "juno", 1) };
        c.manifest.insert("shot_size".into(), ["medium", "wide"][d % 2].into());
        boil.push(&c, &(0..LINES).map(|k| line(0, places(k), |_| TARGET, |_| 0.0)).collect::<Vec<_>>());
    }
    assert!(boil.finish().is_empty());
}

#[test]
fn a_sequence_has_both_its_findings_and_comes_in_the_order_of_numbers() {
    let mut files = ["b_10.png", "b_9.png", "a_2.png", "b_100.png"];
    let none = Manifest::new();
    files.sort_by(|a, b| order((a, &none), (b, &none)));
    assert_eq!(files, ["a_2.png", "b_9.png", "b_10.png", "b_100.png"]);
    let m = |shot: &str, n: &str| Manifest::from([("shot".into(), shot.into()), ("drawing".into(), n.into())]);
    assert_eq!(order(("z", &m("2", "7")), ("a", &m("10", "1"))), std::cmp::Ordering::Less);
    assert_eq!(order(("z", &m("2", "11")), ("a", &m("2", "9"))), std::cmp::Ordering::Greater);
    let guide = guide();
    let mut sequence = Sequence::new(&guide);
    for d in 0..8 {
        sequence.push(&check(d, "juno", 1), &(0..LINES).map(|k| line(0, places(k), |_| TARGET * (1.0 + 0.1 * (d % 2) as f64), |_| 0.0)).collect::<Vec<_>>());
    }
    assert_eq!(sequence.finish().len(), 1);
}
