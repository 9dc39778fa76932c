//! Faults of lines on either side of their limits, drawn from the definitions alone: what is over is found once, with its figure and its
//! place; what is under is not. Definitions: docs/methods.md, "Faults"; edges by ISO/IEC 13660's 10 to 90 % distance.

use common::{H, INK, Sheet, W, guide, role};
use eddymist_check::{
    Finding, FindingKind, LineGuide,
    guide::{Ends, Finish},
};
use proptest::prelude::*;

mod common;

fn plain(target: f64) -> LineGuide {
    guide(vec![role("line", "#1b1e24", target, 0.1)])
}

fn found(sheet: &Sheet, guide: &LineGuide, kind: FindingKind) -> Vec<Finding> {
    sheet.check(guide).check.findings.into_iter().filter(|f| f.kind == kind).collect()
}

/// A point turned about the middle of the page.
fn turned([x, y]: [f64; 2], degrees: f64) -> [f64; 2] {
    let (s, c) = degrees.to_radians().sin_cos();
    [400.0 + x * c - y * s, 300.0 + x * s + y * c]
}

/// A line of one width along itself, its middle `aside` of the page's middle, turned about it.
fn ruled(sheet: Sheet, long: f64, aside: f64, width: f64, degrees: f64) -> Sheet {
    sheet.line(turned([-0.5 * long, aside], degrees), turned([0.5 * long, aside], degrees), &[[0.0, width]], INK)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    /// Clear paper narrower than the thinner line, for over four widths: a double, told once, with the paper between.
    #[test]
    fn two_lines_with_less_paper_between_them_than_they_are_wide_are_a_double(
        clear in prop_oneof![2.1f64..5.4, 6.6f64..12.0],
        long in prop_oneof![8.0f64..18.0, 60.0f64..400.0],
        thinner in 4.0f64..6.0,
        degrees in 0.0f64..180.0,
    ) {
        let clear = clear * thinner / 6.0;
        let apart = clear + 0.5 * (6.0 + thinner);
        // The second is as long as it is asked; the first goes on.
        let sheet = ruled(ruled(Sheet::new(), 440.0, 0.0, 6.0, degrees), long, apart, thinner, degrees);
        let doubles = found(&sheet, &plain(6.0), FindingKind::Double);
        let is = clear < thinner && long > 24.0;
        prop_assert_eq!(doubles.len(), usize::from(is), "{:.1} px of paper for {:.0} px, {:.1} px wide: {:?}", clear, long, thinner, doubles);
        if let Some(d) = doubles.first() {
            // Under two pixels the edges on either side share pixels.
            prop_assert!((d.value - clear).abs() < if clear < 2.2 { 0.4 } else { 0.25 }, "{} px of {clear}", d.value);
            let [x, y] = [d.x - 400.0, d.y - 300.0];
            let (s, c) = degrees.to_radians().sin_cos();
            prop_assert!((x * c + y * s).abs() < 0.5 * long && (y * c - x * s - 0.5 * apart).abs() < 0.5 * apart + 4.0, "at {}, {}", d.x, d.y);
        }
    }

    /// Two lines that part at a small angle are one fork, however long they stay near one another.
    #[test]
    fn a_fork_is_no_double(degrees in 4.0f64..13.0, turn in 0.0f64..180.0) {
        let tip = [-200.0, 0.0];
        let end = |a: f64| [tip[0] + 380.0 * a.to_radians().cos(), tip[1] + 380.0 * a.to_radians().sin()];
        let sheet = [0.0, degrees].into_iter().fold(Sheet::new(), |s, a| s.line(turned(tip, turn), turned(end(a), turn), &[[0.0, 6.0]], INK));
        prop_assert_eq!(found(&sheet, &plain(6.0), FindingKind::Double), Vec::new());
    }

    /// Widths in a wave of an amplitude a about their mean spread by a / √2.
    #[test]
    fn a_line_whose_widths_spread_more_than_the_limit_is_uneven(amplitude in prop_oneof![0.05f64..0.2, 0.34f64..0.45]) {
        let wave: Vec<[f64; 2]> = (0..=48).map(|i| [f64::from(i) / 48.0, 8.0 * (1.0 + amplitude * (f64::from(i) * std::f64::consts::PI / 4.0).sin())]).collect();
        let sheet = Sheet::new().line([60.0, 300.0], [740.0, 310.0], &wave, INK);
        let uneven = found(&sheet, &plain(8.0), FindingKind::Uneven);
        prop_assert_eq!(uneven.len(), usize::from(amplitude > 0.3), "{}: {:?}", amplitude, uneven);
        if let Some(f) = uneven.first() {
            prop_assert!((f.value - amplitude / 2f64.sqrt()).abs() < 0.04 && f.limit == 0.2, "{f:?}");
        }
    }

    /// Ink alone and paper inside ink, under their limits of area (12 and 8 px²) and over.
    #[test]
    fn islands_under_the_limit_are_specks_and_pinholes(radius in prop_oneof![1.0f64..1.5, 1.72f64..1.84, 2.15f64..3.5], (dx, dy) in (0.0f64..1.0, 0.0f64..1.0)) {
        let area = std::f64::consts::PI * radius * radius;
        let dot = |mut s: Sheet, cx: f64, cy: f64, ink: bool| {
            for (i, p) in s.rgba.chunks_exact_mut(4).enumerate() {
                let d = ((i % W) as f64 + 0.5 - cx).hypot((i / W) as f64 + 0.5 - cy);
                let cover = (radius + 0.5 - d).clamp(0.0, 1.0);
                for (v, to) in p.iter_mut().zip(if ink { INK } else { [255; 3] }) {
                    *v = (f64::from(*v) + (f64::from(to) - f64::from(*v)) * cover).round() as u8;
                }
            }
            s
        };
        let line = || Sheet::new().line([60.0, 100.0], [740.0, 100.0], &[[0.0, 14.0]], INK);
        let specks = found(&dot(line(), 400.0 + dx, 300.0 + dy, true), &plain(14.0), FindingKind::Speck);
        prop_assert_eq!(specks.len(), usize::from(area < 12.0), "{:.1} px²: {:?}", area, specks);
        prop_assert!(specks.iter().all(|f| (f.value - area).abs() < 0.15 * area + 0.3 && (f.x - 400.0 - dx).abs() < 0.3 && (f.y - 300.0 - dy).abs() < 0.3), "{specks:?}");
        let pinholes = found(&dot(line(), 400.0 + dx, 100.0, false), &plain(14.0), FindingKind::Pinhole);
        prop_assert_eq!(pinholes.len(), usize::from(area < 8.0), "{:.1} px²: {:?}", area, pinholes);
    }

    /// A box with an opening: narrower than the limit paint leaks out of it, wider it is meant.
    #[test]
    fn an_opening_under_the_limit_that_closes_a_region_is_a_gap(opening in prop_oneof![1.5f64..5.5, 7.0f64..16.0], side in 40.0f64..160.0, degrees in 0.0f64..90.0) {
        let gaps = found(&open_box(side, degrees, 4.0, opening), &plain(4.0), FindingKind::Gap);
        prop_assert_eq!(gaps.len(), usize::from(opening < 6.0), "{:.1} px: {:?}", opening, gaps);
        if let Some(g) = gaps.first() {
            prop_assert!((g.value - opening).abs() < 0.6 && g.points.is_some() && g.region.as_ref().is_some_and(|r| r.len() > 3), "{g:?}");
        }
    }
}

/// A box of lines whose last side stops short of the first corner, by so much paper: ends are round caps.
fn open_box(side: f64, degrees: f64, width: f64, opening: f64) -> Sheet {
    let corner = |x: f64, y: f64| turned([x * side, y * side], degrees);
    let ring = [corner(-1.0, -1.0), corner(1.0, -1.0), corner(1.0, 1.0), corner(-1.0, 1.0)];
    let sheet = (0..3).fold(Sheet::new(), |s, k| s.line(ring[k], ring[k + 1], &[[0.0, width]], INK));
    let [a, b] = [ring[3], ring[0]];
    let share = 1.0 - (opening + width) / (2.0 * side);
    sheet.line(a, [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share], &[[0.0, width]], INK)
}

/// The slants and openings at which a fault is not found just once, of a width at a time.
fn missed(kind: FindingKind, widths: [f64; 3], openings: &[f64], sheet: impl Fn(f64, f64, f64) -> Sheet + Sync) -> Vec<[f64; 3]> {
    let of_width = |width: f64| -> Vec<[f64; 3]> {
        let all = (0..12).flat_map(|k| openings.iter().map(move |o| [width, 8.0 * f64::from(k) + 0.4, *o]));
        all.filter(|[width, degrees, opening]| found(&sheet(*width, *degrees, *opening), &plain(*width), kind).len() != 1).collect()
    };
    std::thread::scope(|s| widths.map(|w| s.spawn(move || of_width(w))).into_iter().flat_map(|t| t.join().expect("checked")).collect())
}

/// At every slant and of every width: how the pixels lie under a round cap turns no gap away.
#[test]
fn no_slant_hides_a_gap() {
    assert_eq!(missed(FindingKind::Gap, [2.5, 4.0, 9.0], &[0.8, 1.55, 2.05, 4.55], |w, d, o| open_box(40.0, d, w, o)), Vec::<[f64; 3]>::new());
}

/// Where less than a pixel of paper lies between two lines, the pixels across it are all partly ink; they are two lines, told once.
#[test]
fn no_slant_hides_a_double() {
    let two = |width: f64, degrees: f64, clear: f64| {
        let rule = |s: Sheet, x: f64, y: f64| s.line(turned([-x, y], degrees), turned([x, y], degrees), &[[0.0, width]], INK);
        rule(rule(Sheet::new(), 220.0, 0.0), 60.0, width + clear)
    };
    assert_eq!(missed(FindingKind::Double, [3.0, 5.0, 8.0], &[0.65, 0.8, 1.1], two), Vec::<[f64; 3]>::new());
}

#[test]
fn an_opening_that_closes_nothing_is_no_gap() {
    let sheet = Sheet::new().line([100.0, 300.0], [390.0, 300.0], &[[0.0, 4.0]], INK).line([398.0, 300.0], [700.0, 300.0], &[[0.0, 4.0]], INK);
    assert_eq!(found(&sheet, &plain(4.0), FindingKind::Gap), Vec::new());
}

#[test]
fn ends_are_held_against_the_roles_rule_where_they_are_drawn() {
    let blunt = Sheet::new().line([100.0, 200.0], [700.0, 205.0], &[[0.0, 8.0]], INK);
    let tapered = Sheet::new().line([100.0, 200.0], [700.0, 205.0], &[[0.0, 1.0], [0.2, 8.0], [0.8, 8.0], [1.0, 1.0]], INK);
    // One that is cut by the page's border has no end there.
    let cut = Sheet::new().line([-50.0, 200.0], [850.0, 205.0], &[[0.0, 8.0]], INK);
    for (sheet, ends, kind, n) in [
        (&blunt, Ends::Tapered, FindingKind::BluntEnd, 2),
        (&blunt, Ends::Blunt, FindingKind::TaperedEnd, 0),
        (&tapered, Ends::Tapered, FindingKind::BluntEnd, 0),
        (&tapered, Ends::Blunt, FindingKind::TaperedEnd, 2),
        (&blunt, Ends::Any, FindingKind::BluntEnd, 0),
        (&cut, Ends::Tapered, FindingKind::BluntEnd, 0),
    ] {
        let mut g = plain(8.0);
        g.roles[0].ends = ends;
        let seen = found(sheet, &g, kind);
        assert_eq!(seen.len(), n, "{kind:?} under {ends:?}: {seen:?}");
        assert!(seen.iter().all(|f| (f.x - 100.0).abs() < 6.0 || (f.x - 700.0).abs() < 6.0), "{seen:?}");
    }
}

/// A line that the page cuts off has no end there; one that stops before the page's border has, on every side.
#[test]
fn an_end_at_the_pages_border_is_none() {
    let width = 8.0;
    let mut asked = plain(width);
    asked.roles[0].ends = Ends::Tapered;
    let (w, h) = (W as f64, H as f64);
    for (what, from, inward) in
        [("left", [0.0, 0.5 * h], [1.0, 0.0]), ("right", [w, 0.5 * h], [-1.0, 0.0]), ("top", [0.5 * w, 0.0], [0.0, 1.0]), ("bottom", [0.5 * w, h], [0.0, -1.0])]
    {
        let ends = |away: f64| {
            let at = |d: f64| [from[0] + d * inward[0], from[1] + d * inward[1]];
            // Its other end lies far within.
            let sheet = Sheet::new().line(at(away), at(0.45 * h), &[[0.0, width]], INK);
            found(&sheet, &asked, FindingKind::BluntEnd).len()
        };
        assert_eq!((ends(-40.0), ends(4.0), ends(25.0)), (1, 1, 2), "{what}");
    }
}

/// Softened by a Gaussian of deviation s an edge's 10 to 90 % distance is 2.563 s (from the normal distribution's quantiles), with what a pixel
/// adds of its own.
fn softened(sheet: &Sheet, s: f64) -> Sheet {
    let reach = (4.0 * s).ceil() as i64;
    let kernel: Vec<f64> = (-reach..=reach).map(|k| (-0.5 * (k as f64 / s).powi(2)).exp()).collect();
    let sum: f64 = kernel.iter().sum();
    let mut from: Vec<f64> = sheet.rgba.iter().map(|v| f64::from(*v)).collect();
    for (step, across) in [(4i64, true), (4 * W as i64, false)] {
        let mut to = from.clone();
        for (i, v) in to.iter_mut().enumerate().filter(|(i, _)| i % 4 < 3) {
            let place = if across { (i / 4 % W) as i64 } else { (i / 4 / W) as i64 };
            let most = if across { W as i64 } else { H as i64 };
            *v = kernel
                .iter()
                .enumerate()
                .map(|(j, w)| w * from[(i as i64 + ((place + j as i64 - reach).clamp(0, most - 1) - place) * step) as usize])
                .sum::<f64>()
                / sum;
        }
        from = to;
    }
    Sheet { rgba: from.into_iter().map(|v| v.round() as u8).collect() }
}

#[test]
fn edges_are_held_against_the_finish() {
    let smooth = Sheet::new().line([60.0, 200.0], [740.0, 262.0], &[[0.0, 8.0]], INK);
    let hard = Sheet { rgba: smooth.rgba.chunks(4).flat_map(|p| if p[0] < 140 { [INK[0], INK[1], INK[2], 255] } else { [255; 4] }).collect() };
    let mut aliased = plain(8.0);
    aliased.finish = Finish::Hard;
    assert_eq!((found(&smooth, &plain(8.0), FindingKind::SoftEdge).len(), found(&smooth, &plain(8.0), FindingKind::HardEdge).len()), (0, 0));
    assert_eq!(found(&hard, &plain(8.0), FindingKind::HardEdge).len(), 1);
    assert_eq!((found(&hard, &aliased, FindingKind::SoftEdge).len(), found(&smooth, &aliased, FindingKind::SoftEdge).len()), (0, 1));
    for (s, soft) in [(0.3, false), (0.9, true), (1.4, true)] {
        let seen = found(&softened(&smooth, s), &plain(8.0), FindingKind::SoftEdge);
        assert_eq!(!seen.is_empty(), soft, "{s} px: {seen:?}");
        assert!(seen.iter().all(|f| (f.value / (2.563 * s) - 1.0).abs() < 0.25), "{s} px: {seen:?}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    /// Short strokes side by side are hatching wherever they lie: narrow paper between them is no double, and their ends have no hooks. Two of
    /// them alone are no hatching, and are one.
    #[test]
    fn hatching_is_no_double_wherever_it_lies(
        (x, y) in (-280.0f64..100.0, -200.0f64..100.0),
        degrees in 0.0f64..180.0,
        clear in 2.0f64..3.0,
        strokes in 6usize..16,
    ) {
        let (width, pitch, long) = (4.0, 4.0 + clear, 48.0);
        let hatch = |n: usize| {
            (0..n).fold(Sheet::new(), |s, k| {
                // As a hand does it: no stroke is quite like the next.
                let (aside, ahead) = (pitch * k as f64, 2.0 * ((k * 7) % 3) as f64);
                let (sin, cos) = degrees.to_radians().sin_cos();
                let place = |along: f64| [400.0 + 0.5 * x + along * cos - aside * sin, 300.0 + 0.5 * y + along * sin + aside * cos];
                s.line(place(ahead), place(ahead + long), &[[0.0, width]], INK)
            })
        };
        let kinds = [FindingKind::Double, FindingKind::Hook];
        for kind in kinds {
            prop_assert_eq!(found(&hatch(strokes), &plain(width), kind), Vec::new());
        }
        prop_assert_eq!(found(&hatch(2), &plain(width), FindingKind::Double).len(), 1);
        // It is told to be hatching, every stroke once and as long as it is.
        let told = |n: usize| hatch(n).check(&plain(width)).check.roles[0].hatching;
        let all = told(strokes).expect("hatching");
        prop_assert_eq!(all.strokes as usize, strokes);
        prop_assert!((all.length_px / (strokes as f64 * long) - 1.0).abs() < 0.12, "{}", all.length_px);
        prop_assert_eq!(told(2), None);
    }
}
