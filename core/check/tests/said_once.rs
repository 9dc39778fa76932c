//! What cannot be judged is said once, with its reason: a photo, lines softer than they are wide, a ground that could not be told; and a rough
//! under the ink is one finding. Definitions: docs/methods.md, "Judging".

use common::{H, INK, Sheet, W, guide, role};
use eddymist_check::{FindingKind, HandOn, LineGuide, Manifest, NamedLayer, Unread, check_lines};
use eddymist_measure::{Picture, source::Kind};
use proptest::prelude::*;

mod common;

fn plain(target: f64) -> LineGuide {
    guide(vec![role("line", "#1b1e24", target, 0.1)])
}

fn unread(check: &eddymist_check::DrawingCheck, reason: Unread) -> f64 {
    check.roles[0].unread_px.get(&reason).copied().unwrap_or(0.0) / check.roles[0].length_px
}

#[test]
fn of_a_photo_one_thing_is_said_and_nothing_is_judged() {
    // Heavy lines, a speck, a double: what would be a list.
    let sheet = Sheet::new().lines(8.0, INK).line([100.0, 570.0], [103.0, 570.0], &[[0.0, 2.5]], INK);
    let g = plain(6.0);
    let of = |kind: Kind| {
        let picture = Picture::new(W, H, &sheet.rgba).expect("a picture").of_kind(kind);
        check_lines(&g, "p.jpg", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).expect("checked").check
    };
    assert!(of(Kind::Drawing).findings.len() > 5);
    let photo = of(Kind::Photo);
    assert_eq!((photo.findings.len(), photo.hand_on, photo.warnings.len()), (0, Some(HandOn::NotChecked), 0));
    assert!(photo.why.as_ref().is_some_and(|w| w.contains("photo") && w.contains("Scan") && w.contains("weights are not checked")));
    assert!(photo.roles[0].weight_px.is_none() && unread(&photo, Unread::Photo) > 0.8, "{:?}", photo.roles[0]);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 8, failure_persistence: None, ..ProptestConfig::default() })]

    /// A Gaussian edge is 2.563 σ from 10 to 90 %: lines are measured up to where that is their width, and beyond it they are not.
    #[test]
    fn a_line_is_read_until_its_edges_are_wider_than_it_is(width in 3.0f64..5.0, share in prop_oneof![0.35f64..0.75, 1.35f64..1.5]) {
        let sigma = share * width / 2.563;
        let mut sheet = Sheet::new().lines(width, INK);
        soften(&mut sheet, 25..H - 25, sigma);
        let check = sheet.check(&plain(width)).check;
        let soft = unread(&check, Unread::Soft);
        prop_assert!(if share > 1.0 { soft > 0.9 } else { soft < 0.05 }, "{soft} of it, edges {share} of the width");
        if share > 1.0 {
            prop_assert_eq!(check.hand_on, Some(HandOn::NotChecked));
            prop_assert!(check.why.as_ref().is_some_and(|w| w.contains("too soft")), "{:?}", check.why);
        } else {
            let w = check.roles[0].weight_px.expect("weighed").mean;
            prop_assert!((w - width).abs() < 0.06, "{w} of {width}");
        }
    }
}

/// The places of a sheet blurred by a Gaussian, from one row to another.
fn soften(sheet: &mut Sheet, rows: std::ops::Range<usize>, sigma: f64) {
    let kernel: Vec<f64> = (-24..=24).map(|k| (-0.5 * (f64::from(k) / sigma).powi(2)).exp()).collect();
    let sum: f64 = kernel.iter().sum();
    for step in [4, 4 * W] {
        let from = sheet.rgba.clone();
        for i in 4 * W * rows.start..4 * W * rows.end {
            let mean: f64 = kernel.iter().enumerate().map(|(k, w)| w * f64::from(from[i + k * step - 24 * step])).sum::<f64>() / sum;
            sheet.rgba[i] = mean.round() as u8;
        }
    }
}

/// What is too soft to be measured is a soft edge still: one such line of eight is found, though enough of the role is read.
#[test]
fn a_line_too_soft_to_be_measured_is_a_soft_edge() {
    let mut sheet = Sheet::new().lines(4.0, INK);
    soften(&mut sheet, 210..280, 1.4 * 4.0 / 2.563);
    let check = sheet.check(&plain(4.0)).check;
    let soft: Vec<_> = check.findings.iter().filter(|f| f.kind == FindingKind::SoftEdge).collect();
    assert!(unread(&check, Unread::Soft) > 0.08 && check.hand_on != Some(HandOn::NotChecked), "{:?}", check.roles[0]);
    assert!(soft.len() == 1 && (210.0..280.0).contains(&soft[0].y), "{soft:?}");
}

#[test]
fn ink_that_fades_away_beside_a_line_is_said_to_be_its_ground() {
    // From the line's edge down the ink fades over seventy pixels, as a wash or a worn sponge does.
    let fades = |deep: f64| {
        let mut sheet = Sheet::new();
        for k in 0..4 {
            let y0 = 90 + 140 * k;
            sheet = sheet.line([60.0, y0 as f64 + 0.5], [740.0, y0 as f64 + 0.5], &[[0.0, 6.0]], INK);
            for y in y0..y0 + 80 {
                let c = deep * (1.0 - (y - y0) as f64 / 80.0);
                for x in 60..740 {
                    for (b, ink) in INK.iter().enumerate() {
                        let v = &mut sheet.rgba[4 * (y * W + x) + b];
                        *v = (*v).min((255.0 - c * (255.0 - f64::from(*ink))).round() as u8);
                    }
                }
            }
        }
        sheet.check(&plain(6.0)).check
    };
    let check = fades(0.5);
    assert!(unread(&check, Unread::Ground) > 0.6, "{:?}", check.roles[0]);
    assert_eq!(check.hand_on, Some(HandOn::NotChecked));
    assert!(check.why.as_ref().is_some_and(|w| w.contains("ground")), "{:?}", check.why);
    assert_eq!(unread(&fades(0.0), Unread::Ground), 0.0);
}

#[test]
fn a_rough_in_another_colour_is_one_finding_with_its_places() {
    let rough = |n: usize| {
        (0..n).fold(Sheet::new().lines(6.0, INK), |s, k| {
            let (x, y) = (80.0 + 45.0 * (k % 14) as f64, 90.0 + 120.0 * (k / 14) as f64);
            s.line([x, y], [x + 30.0, y + 6.0], &[[0.0, 4.0]], [0x30, 0x70, 0xd8])
        })
    };
    let of = |n: usize| -> Vec<_> { rough(n).check(&plain(6.0)).check.findings.into_iter().filter(|f| f.kind == FindingKind::OffPalette).collect() };
    assert_eq!(of(3).len(), 3);
    let many = of(26);
    assert!(many.len() == 1 && many[0].stretches.len() == 26 && many[0].message.contains("26 places"), "{many:?}");
}
