//! Takes held against one another, what is marked as intended, and what a manifest leaves out.

use common::{INK, Sheet, guide, role};
use eddymist_check::{
    DrawingCheck, FindingKind, HandOn, LineGuide, Manifest, WeighedDrawing,
    missing::missing,
    register::Move,
    summary::{DrawingState, Summary, sentences},
    takes::{Became, Compared, Dismissal, Take, carried, compare, dismiss, pins},
};
use eddymist_measure::source::{Kind, Source};
use proptest::prelude::*;

mod common;

/// Heavy and thin must fix.
fn strict() -> LineGuide {
    LineGuide { must_mend: vec![FindingKind::Heavy, FindingKind::Thin], ..guide(vec![role("line", "#1b1e24", 6.0, 0.1)]) }
}

/// Five lines; those named are drawn at these widths.
fn drawn(widths: [f64; 5], shift: f64) -> WeighedDrawing {
    let sheet = widths.iter().enumerate().fold(Sheet::new(), |s, (k, w)| {
        let y = 80.0 + 100.0 * k as f64 + shift;
        s.line([100.0, y], [700.0, y + 20.0], &[[0.0, *w]], INK)
    });
    sheet.check(&strict())
}

fn take(d: &WeighedDrawing) -> Take<'_> {
    Take { check: &d.check, lines: &d.lines }
}

fn compared(a: &WeighedDrawing, b: &WeighedDrawing) -> Compared {
    compare(&strict(), &take(a), &take(b))
}

#[test]
fn what_was_mended_is_told_from_what_stands_and_what_is_new() {
    let (first, second) = (drawn([6.0, 8.0, 8.0, 6.0, 4.0], 0.0), drawn([6.0, 6.0, 8.0, 8.0, 4.0], 0.0));
    let c = compared(&first, &second);
    let (before, after) = (first.check, second.check);
    let of = |check: &DrawingCheck, i: usize| (check.findings[i].kind, (check.findings[i].y / 100.0).floor() as i32);
    assert_eq!(c.mended.iter().map(|i| of(&before, *i)).collect::<Vec<_>>(), [(FindingKind::Heavy, 1)]);
    assert_eq!(c.new.iter().map(|i| of(&after, *i)).collect::<Vec<_>>(), [(FindingKind::Heavy, 3)]);
    let mut stands: Vec<_> = c.stands.iter().map(|[i, j]| (of(&before, *i), of(&after, *j))).collect();
    stands.sort_by_key(|s| s.0.1);
    assert_eq!(stands, [((FindingKind::Heavy, 2), (FindingKind::Heavy, 2)), ((FindingKind::Thin, 4), (FindingKind::Thin, 4))]);
}

fn meant(check: &DrawingCheck, kind: FindingKind) -> Dismissal {
    let finding = check.findings.iter().find(|f| f.kind == kind).expect("it is found").clone();
    Dismissal { finding, by: "Ilse".into(), why: "a shadow line".into() }
}

#[test]
fn what_is_meant_no_longer_sends_back_and_stays_so_where_the_line_is_the_same() {
    let first = drawn([6.0, 8.0, 6.0, 6.0, 6.0], 0.0);
    let one = meant(&first.check, FindingKind::Heavy);
    let mut check = first.check.clone();
    assert_eq!(check.hand_on, Some(HandOn::Return));
    assert_eq!(dismiss(&strict(), &mut check, std::slice::from_ref(&one)), [Some(0)]);
    assert_eq!((check.hand_on, check.findings[0].dismissed.as_ref().map(|d| d.why.as_str())), (Some(HandOn::Ready), Some("a shadow line")));
    assert_eq!((Summary::new(&strict(), &check).findings, Summary::new(&strict(), &first.check).must_mend), (0, 1));
    // Another line mended meanwhile: this one is the same, and it holds.
    let again = drawn([5.0, 8.0, 6.0, 6.0, 6.0], 0.0);
    assert_eq!(carried(&strict(), std::slice::from_ref(&one), &take(&first), &take(&again)).len(), 1);
    // Redrawn three px further down, or another 0.8 px heavier: it is another line, and must be decided on anew.
    for other in [drawn([6.0, 8.0, 6.0, 6.0, 6.0], 3.0), drawn([6.0, 8.8, 6.0, 6.0, 6.0], 0.0), drawn([6.0; 5], 0.0)] {
        assert!(carried(&strict(), std::slice::from_ref(&one), &take(&first), &take(&other)).is_empty());
    }
    // Something new drawn over it: no longer the same either.
    let sheet = [6.0, 8.0, 6.0, 6.0, 6.0].iter().enumerate().fold(Sheet::new(), |s, (k, w)| {
        let y = 80.0 + 100.0 * k as f64;
        s.line([100.0, y], [700.0, y + 20.0], &[[0.0, *w]], INK)
    });
    let crossed = sheet.line([400.0, 150.0], [400.0, 230.0], &[[0.0, 6.0]], INK).check(&strict());
    assert!(carried(&strict(), &[one], &take(&first), &take(&crossed)).is_empty());
}

#[test]
fn a_pin_follows_to_the_next_take() {
    let (first, second) = (drawn([6.0, 8.0, 8.0, 6.0, 6.0], 0.0), drawn([6.0, 6.0, 8.0, 7.5, 6.0], 0.0));
    let c = compared(&first, &second);
    let heavy = |k: usize| first.check.findings.iter().find(|f| (f.y / 100.0).floor() as usize == k).map(|f| [f.x, f.y]).expect("it is heavy");
    // At a heavy line that was mended, at one that was not, at one that was redrawn, at one nobody touched, and where nothing is drawn.
    let at = [[heavy(1)[0] - 150.0, heavy(1)[1] - 5.0], heavy(2), [400.0, 390.0], [400.0, 490.0], [400.0, 340.0]];
    let became: Vec<Became> = pins(&at, &take(&first), &take(&second), &c).into_iter().map(|p| p.1).collect();
    assert_eq!(became, [Became::Fixed, Became::StillThere, Became::LookAgain, Became::StillThere, Became::StillThere]);
    let same = pins(&at, &take(&first), &take(&first), &compared(&first, &first));
    assert!(same.iter().zip(at).all(|((now, b), p)| *now == p && *b == Became::StillThere), "{same:?}");
}

/// The same take as it lies on the scanner another time.
fn lying(d: &WeighedDrawing, m: &Move) -> WeighedDrawing {
    let mut check = d.check.clone();
    check.source = Some(Source { kind: Kind::Scan, ..Source::default() });
    for f in &mut check.findings {
        [f.x, f.y] = m.of([f.x, f.y]);
    }
    WeighedDrawing { check, lines: m.lines(&d.lines) }
}

#[test]
fn two_scans_are_laid_on_one_another_before_they_are_compared() {
    let still = Move { shift_px: [0.0; 2], turn_deg: 0.0, about: [400.0, 300.0], by_marks: false };
    let lies = Move { shift_px: [17.0, -9.0], turn_deg: 1.2, ..still };
    let g = strict();
    // Lines of several directions, or nothing would hold the sheet along them.
    let sheet = |w: f64| {
        let lines = [6.0, 8.0, 6.0, w, 6.0].iter().enumerate().fold(Sheet::new(), |s, (k, w)| {
            let y = 80.0 + 100.0 * k as f64;
            s.line([150.0, y], [600.0, y + 20.0], &[[0.0, *w]], INK)
        });
        lines.line([660.0, 120.0], [640.0, 480.0], &[[0.0, 6.0]], INK).check(&g)
    };
    let (first, second) = (lying(&sheet(8.0), &still), lying(&sheet(6.0), &lies));
    let c = compare(&g, &take(&first), &take(&second));
    assert_eq!((c.mended.len(), c.stands.len(), c.new.len()), (1, 1, 0), "{c:?}");
    let laid = c.laid.expect("laid on one another");
    for p in [[150.0, 80.0], [640.0, 480.0]] {
        let (a, b) = (laid.of(p), lies.of(p));
        assert!((a[0] - b[0]).hypot(a[1] - b[1]) < 0.5, "{a:?} {b:?}");
    }
    // What was meant stays meant where the line is the same, however the sheet lies.
    let all: Vec<Dismissal> = first.check.findings.iter().map(|f| Dismissal { finding: f.clone(), by: "Ilse".into(), why: "meant".into() }).collect();
    assert_eq!((all.len(), carried(&g, &all, &take(&first), &take(&second)).len()), (2, 1));
    // Drawings made by a program lie as they were made.
    let drawn = |d: &WeighedDrawing| WeighedDrawing { check: DrawingCheck { source: None, ..d.check.clone() }, lines: d.lines.clone() };
    assert_eq!(compare(&g, &take(&drawn(&first)), &take(&drawn(&second))).laid, None);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// Every finding of either take is in one of the three lists, once; a take against itself has nothing new and nothing mended.
    #[test]
    fn every_finding_is_accounted_for_once(a in prop::array::uniform5(3.0f64..9.0), b in prop::array::uniform5(3.0f64..9.0)) {
        let (before, after) = (drawn(a, 0.0), drawn(b, 0.0));
        let c = compared(&before, &after);
        let mut earlier: Vec<usize> = c.mended.iter().copied().chain(c.stands.iter().map(|s| s[0])).collect();
        let mut later: Vec<usize> = c.new.iter().copied().chain(c.stands.iter().map(|s| s[1])).collect();
        earlier.sort_unstable();
        later.sort_unstable();
        prop_assert_eq!(earlier, (0..before.check.findings.len()).collect::<Vec<_>>());
        prop_assert_eq!(later, (0..after.check.findings.len()).collect::<Vec<_>>());
        let same = compared(&before, &before);
        prop_assert!(same.mended.is_empty() && same.new.is_empty());
        prop_assert_eq!(compared(&after, &before).mended.len(), c.new.len());
    }

    /// Dismissing all that must fix makes a drawing ready; taking one of them away sends it back.
    #[test]
    fn every_must_mend_finding_counts(widths in prop::array::uniform5(7.5f64..9.0), left in 0usize..5) {
        let first = drawn(widths, 0.0).check;
        let mut all: Vec<Dismissal> =
            first.findings.iter().map(|f| Dismissal { finding: f.clone(), by: "Ilse".into(), why: "meant".into() }).collect();
        let mut check = first.clone();
        dismiss(&strict(), &mut check, &all);
        prop_assert_eq!(check.hand_on, Some(HandOn::Ready));
        all.remove(left % all.len());
        let mut check = first;
        dismiss(&strict(), &mut check, &all);
        prop_assert_eq!(check.hand_on, Some(HandOn::Return));
    }
}

fn manifest(of: &[(&str, &str)]) -> Manifest {
    of.iter().map(|(k, v)| (k.to_string(), v.to_string())).collect()
}

#[test]
fn what_a_manifest_leaves_out_is_said_with_what_it_costs() {
    let known = |n: u32| manifest(&[("shot", "012"), ("artist", "pia"), ("drawing", &format!("{n:03}"))]);
    let said = |numbers: &[u32]| {
        let all: Vec<Manifest> = numbers.iter().map(|n| known(*n)).collect();
        missing(&all.iter().map(|m| ("f.png", m)).collect::<Vec<_>>())
    };
    assert!(said(&[1, 2, 3, 4]).is_empty());
    // Drawn on twos: the odd numbers are not missing; one even one is.
    assert!(said(&[1, 3, 5, 7, 9]).is_empty());
    let one = said(&[1, 3, 7, 9, 11]);
    assert!(one.len() == 1 && one[0].starts_with("drawing 5 of shot 012 is not there"), "{one:?}");
    let twice = said(&[1, 2, 2, 3]);
    assert!(twice.len() == 1 && twice[0].contains("drawing 2 of shot 012 came in more than one file"), "{twice:?}");
    let many = said(&[1, 2, 3, 4, 20]);
    assert!(many[0].contains("5, 6, 7, 8, 9, 10 and 9 more"), "{many:?}");
    let nothing = Manifest::new();
    let bare = missing(&[("a.png", &nothing), ("b.png", &nothing)]);
    assert!(bare.len() == 3 && bare[0].starts_with("artist is not known: who differs"), "{bare:?}");
    let half = manifest(&[("artist", "pia"), ("shot", "1"), ("drawing", "1")]);
    assert!(missing(&[("a.png", &half), ("b.png", &nothing)])[0].starts_with("artist is not known of 1 of 2"));
}

#[test]
fn a_delivery_says_what_is_left_to_do() {
    use DrawingState::*;
    let says = |of: &[DrawingState]| sentences(&of.iter().map(|s| (*s, None)).collect::<Vec<_>>());
    assert_eq!(says(&[]).0, "No drawings yet");
    assert_eq!(says(&[Waiting, GoesBack]).0, "1 drawing still to measure");
    assert_eq!(says(&[GoesBack, GoesBack, MayGoOn]), ("2 drawings need fixes".into(), "1 passed".into()));
    assert_eq!(says(&[MayGoOn, Open, Returned]).0, "2 drawings to decide on, none needs fixes");
    assert_eq!(says(&[HandedOn, Returned, Failed]), ("All decided: 1 returned".into(), "1 marked as ready · 1 returned · 1 could not be read".into()));
    assert_eq!(says(&[HandedOn]).0, "All marked as ready");
}
