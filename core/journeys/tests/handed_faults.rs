//! Faults on drawings as they are handed in: far from their limits they are found, short of them they are not, and clean drawings have none.
//!
//! Sources: the definitions in docs/methods.md, "Faults"; the drawings are made from them alone. The whole table, with the curve between, is
//! `eddymist-bench handed-in faults 32`.

use eddymist_check::{DrawingCheck, Finding, FindingKind, Manifest, NamedLayer, check_lines};
use eddymist_measure::Picture;
use eddymist_sim::{
    handed_in::{
        Ground,
        planted::{Fault, Planted, can_be, planted},
    },
    planted::KINDS,
};

fn checked(p: &Planted) -> DrawingCheck {
    let rgba = p.handed.picture();
    let picture = Picture::new(rgba.width, rgba.height, &rgba.data).expect("a picture");
    check_lines(&p.handed.guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).expect("a check").check
}

fn findings(p: &Planted) -> Vec<Finding> {
    checked(p).findings
}

#[test]
fn planted_faults_are_found_far_from_their_limits_and_not_short_of_them() {
    let (mut asked, mut missed, mut early, mut elsewhere) = (0, Vec::new(), Vec::new(), Vec::new());
    for kind in KINDS {
        let grounds: Vec<Ground> = Ground::ALL.into_iter().filter(|g| can_be(kind, *g)).collect();
        for (severity, count) in [(2.5, 4), (0.7, 2)] {
            for k in 0..count {
                let seed = 40_000 + 100 * kind as u64 + k;
                let ground = grounds[(seed as usize * 5 + kind as usize) % grounds.len()];
                let p = planted(ground, Some(Fault { kind, severity }), seed);
                let [l, t, r, b] = p.at.expect("a place");
                let (here, others): (Vec<Finding>, Vec<Finding>) = findings(&p).into_iter().partition(|f| f.x > l && f.x < r && f.y > t && f.y < b);
                let found = here.iter().filter(|f| f.kind == kind).count();
                asked += usize::from(severity > 1.0);
                if severity > 1.0 && found == 0 {
                    missed.push((kind, ground, seed));
                }
                if severity < 1.0 && found > 0 {
                    early.push((kind, ground, seed));
                }
                // Each once: what is one on the drawing is one in the list.
                assert!(found <= 1 || kind == FindingKind::Thin || kind == FindingKind::Heavy, "{kind:?} {ground:?} {seed}: {here:?}");
                elsewhere.extend(others.into_iter().map(|f| (ground, seed, f.message)));
            }
        }
    }
    assert!(missed.len() * 20 <= asked, "{missed:?}");
    assert!(early.len() <= 1, "{early:?}");
    assert!(elsewhere.len() <= 2, "{elsewhere:?}");
}

/// What a file of few colours or a lossy one does to a line's edges hides neither its ends nor its faults.
#[test]
fn ends_are_told_in_a_palette_and_a_lossy_file() {
    let ends = [FindingKind::BluntEnd, FindingKind::TaperedEnd];
    let all = ends
        .into_iter()
        .flat_map(|kind| [Ground::Palette, Ground::Jpeg].map(|g| (kind, g)))
        .flat_map(|(kind, g)| (0..6u64).map(move |k| (kind, g, 70_000 + k)));
    let missed: Vec<_> = all
        .filter(|(kind, ground, seed)| {
            let p = planted(*ground, Some(Fault { kind: *kind, severity: 2.0 }), *seed);
            let [l, t, r, b] = p.at.expect("a place");
            !findings(&p).iter().any(|f| f.kind == *kind && f.x > l && f.x < r && f.y > t && f.y < b)
        })
        .collect();
    assert!(missed.len() <= 1, "{missed:?}");
}

#[test]
fn clean_drawings_have_at_most_one_finding_in_fifty() {
    let wrong: Vec<_> =
        (0..32u64).flat_map(|k| findings(&planted(Ground::ALL[k as usize % 16], None, 300 + k)).into_iter().map(move |f| (k, f.message))).collect();
    assert!(wrong.len() <= 1, "{wrong:?}");
}

/// Ink that shows what is beneath it is said once, and is neither soft nor off the palette.
#[test]
fn half_transparent_ink_is_said_and_is_no_finding() {
    for ground in [Ground::HalfTransparent, Ground::White, Ground::PaintedFills, Ground::RoughOnClear] {
        let check = checked(&planted(ground, None, 500));
        let said = check.warnings.iter().filter(|w| w.contains("60 % opaque")).count();
        assert_eq!(
            (said > 0, check.warnings.len() - said, check.findings.len()),
            (ground == Ground::HalfTransparent, 0, 0),
            "{ground:?}: {:?} {:?}",
            check.warnings,
            check.findings
        );
    }
}
