//! What lies beside a sheet: a table about it, a lid left open on one side; and what does not: lines that run off, blacks inside, an even page.

use eddymist_measure::scan::{self, Scan, beside::Beside};
use proptest::prelude::*;

const W: usize = 640;
const H: usize = 480;

/// A sheet of light paper whose corners are these, on a ground of another light, with grain; `ink` lies on it.
fn seen(corners: [[f64; 2]; 4], ground: f32, ink: impl Fn(f64, f64) -> bool) -> Vec<f32> {
    let inside = |x: f64, y: f64| {
        (0..4).all(|k| {
            let ([ax, ay], [bx, by]) = (corners[k], corners[(k + 1) % 4]);
            (bx - ax) * (y - ay) - (by - ay) * (x - ax) >= 0.0
        })
    };
    let pixel = |i: usize| {
        let (x, y) = ((i % W) as f64 + 0.5, (i / W) as f64 + 0.5);
        // Grain that is no random number: it is the same in every run.
        let grain = 0.02 * ((i * 2_654_435_761) % 997) as f32 / 997.0;
        (if !inside(x, y) {
            ground
        } else if ink(x, y) {
            0.05
        } else {
            0.8
        }) + grain
    };
    (0..W * H).map(pixel).collect()
}

const WHOLE: [[f64; 2]; 4] = [[0.0, 0.0], [W as f64, 0.0], [W as f64, H as f64], [0.0, H as f64]];
const LINE: fn(f64, f64) -> bool = |x, y| (y - 200.0).abs() < 4.0 && x > 90.0 && x < 500.0;

#[test]
fn lines_that_run_off_and_blacks_inside_are_the_sheets_own() {
    let find = |ink: fn(f64, f64) -> bool| {
        let light = seen(WHOLE, 0.1, ink);
        Beside::find(|i| light[i], W, H).is_some()
    };
    assert!(!find(|_, _| false));
    assert!(!find(|_, y| (y - 240.0).abs() < 5.0));
    // A grid whose lines all run off, and a black in the middle of a third of the sheet.
    assert!(!find(|x, y| x % 40.0 < 5.0 || y % 40.0 < 5.0));
    assert!(!find(|x, y| (100.0..500.0).contains(&x) && (80.0..400.0).contains(&y)));
    // Too small a picture to say.
    assert!(Beside::find(|_| 0.1, 20, 20).is_none());
}

#[test]
fn a_lid_left_open_lies_on_its_sides_only() {
    let light = seen([[0.0, 0.0], [500.0, 0.0], [500.0, 380.0], [0.0, 380.0]], 0.2, LINE);
    let found = Beside::find(|i| light[i], W, H).expect("a lid");
    assert!(!found.all_round && found.holds(600, 100) && found.holds(100, 450) && !found.holds(200, 200) && !found.holds(4, 4));
}

/// Ruled lines of 4, 6 and 9 px at 300 dpi on a sheet that ends at `right`, beyond it a lid; the last line runs off the sheet.
fn ruled(right: f64, lid: f32) -> Scan {
    const SIDES: [usize; 2] = [1400, 700];
    let pixel = |i: usize| {
        let (x, y) = ((i % SIDES[0]) as f64 + 0.5, (i / SIDES[0]) as f64 + 0.5);
        let covered =
            |top: f64, width: f64, to: f64| if x > 100.0 && x < to { (y + 0.5 - top).clamp(0.0, 1.0).min(top + width - y + 0.5).clamp(0.0, 1.0) } else { 0.0 };
        let ink = covered(150.3, 4.0, 900.0) + covered(330.6, 6.0, 900.0) + covered(520.1, 9.0, 5000.0);
        let grain = 0.012 * ((i * 2_654_435_761) % 997) as f32 / 997.0;
        (if x > right { lid } else { 0.8 - 0.75 * ink.clamp(0.0, 1.0) as f32 }) + grain
    };
    Scan { width: SIDES[0], height: SIDES[1], data: (0..SIDES[0] * SIDES[1]).map(pixel).collect(), dpi: 300.0 }
}

#[test]
fn a_lid_beside_ruled_lines_is_no_line_and_changes_none() {
    let widths = |s: &Scan| {
        let m = scan::measure(s).expect("lines").0;
        let beside = m.warnings.iter().any(|w| w.contains("beside the sheet"));
        (m.lines.iter().map(|l| l.width_mm.mean * 300.0 / 25.4).collect::<Vec<f64>>(), beside)
    };
    let (alone, said) = widths(&ruled(5000.0, 0.8));
    assert!(!said && alone.len() == 3, "{alone:?}");
    for lid in [0.03, 0.15, 0.35] {
        let (with, said) = widths(&ruled(1200.0, lid));
        assert!(said && with.len() == 3, "{lid}: {with:?}");
        for ((w, a), drawn) in with.iter().zip(&alone).zip([4.0, 6.0, 9.0]) {
            assert!((w - a).abs() < 0.02 && (w - drawn).abs() < 0.1, "{lid}: {with:?} beside {alone:?}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// A black that bleeds off the sheet is the sheet's own: a blob at a side or in a corner, a band across, a floor with an uneven edge;
    /// with nothing beside the sheet, and with a lid left open at its left, which is still seen.
    #[test]
    fn a_black_that_bleeds_off_is_ink(kind in 0..4, at in 0.1f64..0.9, size in 60.0f64..150.0, side in 0..4usize, lid in any::<bool>(), turn in -0.03f64..0.03) {
        let (w, h) = (W as f64, H as f64);
        let middle = [[w * at, 0.0], [w, h * at], [w * at, h], [0.0, h * at]][side];
        let corner = [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]][side];
        let ink = |x: f64, y: f64| match kind {
            0 => (x - middle[0]).hypot(y - middle[1]) < size,
            1 => (x - corner[0]).hypot(y - corner[1]) < 1.5 * size,
            2 => (y - h * (0.2 + 0.6 * at)).abs() < size / 2.0,
            _ => y > h - size - 0.3 * size * (x / 60.0 + 6.0 * at).sin(),
        };
        let edge = |y: f64| if lid { 60.0 + turn * (y - h / 2.0) } else { 0.0 };
        let light = seen([[edge(0.0), 0.0], [w, 0.0], [w, h], [edge(h), h]], 0.2, ink);
        let found = Beside::find(|i| light[i], W, H);
        prop_assert_eq!(found.is_some(), lid);
        if let Some(found) = found {
            for y in (4..H - 4).step_by(9) {
                prop_assert!(found.holds(20, y), "the lid at {y}");
                for x in (132..W).step_by(9) {
                    prop_assert!(!found.holds(x, y), "{x} {y}");
                }
            }
        }
    }

    /// A sheet on a darker table, seen askew: all of the table is beside it, and of the sheet no more than its edge.
    #[test]
    fn a_table_lies_all_round(d in prop::array::uniform8(26.0f64..70.0), ground in 0.04f32..0.36) {
        let (w, h) = (W as f64, H as f64);
        let corners = [[d[0], d[1]], [w - d[2], d[3]], [w - d[4], h - d[5]], [d[6], h - d[7]]];
        let light = seen(corners, ground, LINE);
        let found = Beside::find(|i| light[i], W, H).expect("a table");
        prop_assert!(found.all_round);
        for (k, v) in light.iter().enumerate() {
            let (x, y) = (k % W, k / W);
            let deep = corners.iter().zip(corners.iter().cycle().skip(1)).map(|(a, b)| {
                ((b[0] - a[0]) * (y as f64 - a[1]) - (b[1] - a[1]) * (x as f64 - a[0])) / (b[0] - a[0]).hypot(b[1] - a[1])
            }).fold(f64::MAX, f64::min);
            prop_assert!(found.holds(x, y) == (deep < 0.0) || (-8.0..36.0).contains(&deep), "{x} {y} {v} {deep}");
        }
    }
}
