//! What could not be measured is not passed: roles and drawings that are not checked, regions left out, what is said first, and what is one
//! finding. Definitions: docs/methods.md, "Judging".

use common::{H, INK, RED, Sheet, W, guide, role};
use eddymist_check::{
    FindingKind, HandOn, LineGuide, Manifest, NamedLayer, Unread, Verdict, check_lines,
    guide::RoleSource,
    limits::{LeftOut, Limits},
    takes::{Dismissal, dismiss},
};
use eddymist_measure::Picture;
use proptest::prelude::*;

mod common;

/// Lines of the first role with a bar of the second's ink close along some of each: there it cannot be measured.
fn leaning(share: f64) -> Sheet {
    (0..5).fold(Sheet::new(), |s, k| {
        let y = 60.3 + 100.0 * f64::from(k);
        s.line([60.0, y], [740.0, y + 9.0], &[[0.0, 6.0]], INK).line([60.0, y + 7.0], [60.0 + 680.0 * share, y + 7.0 + 9.0 * share], &[[0.0, 9.0]], RED)
    })
}

fn two() -> LineGuide {
    let mut bar = role("bar", "#c02020", 9.0, 0.2);
    bar.judge = false;
    guide(vec![role("line", "#1b1e24", 6.0, 0.1), bar])
}

#[test]
fn a_role_of_which_too_little_could_be_read_is_not_checked_and_never_passes() {
    let g = two();
    for share in [0.1, 0.25, 0.55, 0.8] {
        let check = leaning(share).check(&g).check;
        let line = &check.roles[0];
        let unread = line.unread_px.get(&Unread::Leans).copied().unwrap_or(0.0);
        assert!((unread / (5.0 * 680.0) - share).abs() < 0.03, "{share}: {unread} of {}", line.length_px);
        let not = share > 0.4;
        assert_eq!(line.verdict, Some(if not { Verdict::NotChecked } else { Verdict::Within }), "{share}");
        assert_eq!(check.hand_on, Some(if not { HandOn::NotChecked } else { HandOn::Ready }));
        assert_eq!(check.why.as_ref().is_some_and(|w| w.contains("of line could be measured") && w.contains("line layer alone")), not, "{:?}", check.why);
        // What it says, it says in a schema that is read again.
        let text = serde_json::to_string(&check).expect("a document");
        assert_eq!(serde_json::from_str::<eddymist_check::DrawingCheck>(&text).expect("read"), check);
    }
    // The guide's share decides; a must-fix finding goes first, and once it is intended the drawing is not checked again.
    let mut g = two();
    g.limits.least_measured = 0.3;
    assert_eq!(leaning(0.55).check(&g).check.hand_on, Some(HandOn::Ready));
    let mut g = two();
    g.must_mend = vec![FindingKind::Heavy];
    g.roles[0].weight_px.as_mut().expect("a weight").target = 4.0;
    let mut check = leaning(0.55).check(&g).check;
    assert_eq!((check.hand_on, check.why.is_some()), (Some(HandOn::Return), true));
    let all: Vec<Dismissal> =
        check.findings.iter().filter(|f| f.must_mend).map(|f| Dismissal { finding: f.clone(), by: "Ilse".into(), why: "meant".into() }).collect();
    dismiss(&g, &mut check, &all);
    assert_eq!(check.hand_on, Some(HandOn::NotChecked));
    // A small part of the checked length makes no drawing unread.
    let mut g = two();
    g.roles[1].judge = true;
    let small = Sheet::new().lines(6.0, INK).line([60.0, 585.0], [120.0, 585.0], &[[0.0, 9.0]], RED).line([60.0, 577.5], [120.0, 577.5], &[[0.0, 6.0]], INK);
    assert_eq!(small.check(&g).check.hand_on, Some(HandOn::Ready));
}

#[test]
fn a_drawing_of_solid_shapes_alone_is_not_checked() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let check = Sheet::new().line([200.0, 300.0], [600.0, 300.0], &[[0.0, 90.0]], INK).check(&g).check;
    assert_eq!(check.hand_on, Some(HandOn::NotChecked));
    assert!(check.why.expect("why").contains("solid shapes"));
}

#[test]
fn nothing_is_measured_or_found_in_regions_left_out() {
    // A hooked line, and a heavy one, in the upper half; a line as it should be in the lower.
    let sheet = Sheet::new().line([60.0, 100.0], [700.0, 110.0], &[[0.0, 9.0]], INK).line([60.0, 400.0], [740.0, 410.0], &[[0.0, 6.0]], INK);
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    assert!(sheet.check(&g).check.findings.iter().any(|f| f.kind == FindingKind::Heavy));
    let half = vec![[0.0, 0.0], [800.0, 0.0], [800.0, 200.0], [0.0, 200.0]];
    g.left_out = vec![LeftOut { name: "slate".into(), shot: Some("012".into()), points: half.clone() }];
    // Of another shot, or of none that is known, it is another drawing's.
    for (shot, out) in [(Some("012"), true), (Some("013"), false), (None, false)] {
        let manifest: Manifest = shot.map(|s| ("shot".to_string(), s.to_string())).into_iter().collect();
        let check = sheet.check_with(&g, &manifest).expect("checked").check;
        assert_eq!((check.findings.is_empty(), check.left_out.len()), (out, usize::from(out)), "{shot:?}");
        let r = &check.roles[0];
        assert!((r.length_px - if out { 686.0 } else { 1334.0 }).abs() < 8.0, "{}", r.length_px);
        assert!(!out || (r.weight_px.expect("weighed").mean - 6.0).abs() < 0.03);
    }
    // It goes with the drawing's size.
    g.left_out[0].shot = None;
    g.page.width_px = 1600.0;
    g.page.height_px = 1200.0;
    assert_eq!(sheet.check(&g).check.left_out[0].points[2], [400.0, 100.0]);
    let with = |points: Vec<[f64; 2]>, name: &str| {
        let mut g = g.clone();
        g.left_out = vec![LeftOut { name: name.into(), shot: None, points }];
        g.validate()
    };
    assert!(with(half.clone(), "slate").is_ok());
    assert!(with(half[..2].to_vec(), "slate").is_err_and(|e| e.contains("corners")) && with(half, " ").is_err_and(|e| e.contains("name")));
}

#[test]
fn other_proportions_than_the_pages_are_said_before_their_consequences() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    assert!(Sheet::new().lines(6.0, INK).check(&g).check.warnings.is_empty());
    let mut wide = g.clone();
    wide.page.width_px = 1920.0;
    wide.page.height_px = 1080.0;
    let said = Sheet::new().lines(6.0, INK).check(&wide).check.warnings;
    assert!(said.len() == 1 && said[0].contains("800 × 600 px") && said[0].contains("1920 × 1080"), "{said:?}");
}

/// Soft by a blur of three pixels along both axes, several times.
fn blurred(mut rgba: Vec<u8>, times: usize) -> Vec<u8> {
    for k in 0..times {
        let step = if k % 2 == 0 { 4 } else { 4 * W };
        let from = rgba.clone();
        for i in step..rgba.len() - step {
            rgba[i] = ((u32::from(from[i - step]) + u32::from(from[i]) + u32::from(from[i + step])) / 3) as u8;
        }
    }
    rgba
}

#[test]
fn a_soft_export_is_one_finding_and_one_soft_line_is_its_own() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let sharp = Sheet::new().lines(6.0, INK);
    assert!(sharp.check(&g).check.findings.is_empty());
    let soft = Sheet { rgba: blurred(sharp.rgba.clone(), 6) }.check(&g).check;
    let edges: Vec<_> = soft.findings.iter().filter(|f| f.kind == FindingKind::SoftEdge).collect();
    assert!(edges.len() == 1 && edges[0].stretches.len() == 8 && edges[0].message.contains("nearly all over"), "{edges:?}");
    // Two of ten lines: two findings.
    let mut some = sharp.rgba.clone();
    some[..4 * W * 150].copy_from_slice(&blurred(sharp.rgba.clone(), 6)[..4 * W * 150]);
    let found = Sheet { rgba: some }.check(&g).check.findings;
    assert_eq!(found.iter().filter(|f| f.kind == FindingKind::SoftEdge).count(), 2, "{found:?}");
}

#[test]
fn a_line_that_is_heavy_in_places_is_one_finding_with_its_stretches() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let widths: Vec<[f64; 2]> = [0.0, 0.1, 0.12, 0.2, 0.22, 0.5, 0.52, 0.7, 0.72, 1.0]
        .into_iter()
        .zip([6.0, 6.0, 7.6, 7.6, 6.0, 6.0, 8.2, 8.2, 6.0, 6.0])
        .map(|(u, w)| [u, w])
        .collect();
    let found = Sheet::new().line([60.0, 300.0], [740.0, 310.0], &widths, INK).check(&g).check.findings;
    let [f] = &found[..] else { panic!("{found:?}") };
    assert!(f.stretches.len() == 2 && f.message.contains("2 stretches"), "{f:?}");
    // It lies where it is worst, and is as long as all of it.
    assert!((f.x - (60.0 + 680.0 * 0.61)).abs() < 12.0 && (f.value - 8.2).abs() < 0.2, "{f:?}");
    assert!((f.length_px.expect("long") - f.stretches.iter().map(|s| s.length_px).sum::<f64>()).abs() < 1e-6);
    // Nothing of it where its stretches are those of another guide's tolerance.
    let mut wide = g.clone();
    wide.roles[0].weight_px.as_mut().expect("a weight").tolerance = 0.4;
    assert!(Sheet::new().line([60.0, 300.0], [740.0, 310.0], &widths, INK).check(&wide).check.findings.is_empty());
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, failure_persistence: None, ..ProptestConfig::default() })]

    /// A drawing drawn large before it is measured has the intervals that the same drawing has as it is: widths count, not places.
    #[test]
    fn intervals_do_not_depend_on_how_large_a_vector_is_drawn(waver in 0.05f64..0.2, turn in -0.4f64..0.4) {
        let widths: Vec<[f64; 2]> = (0..=40).map(|i| [f64::from(i) / 40.0, 6.0 * (1.0 + waver * (f64::from(i) * 1.7).sin())]).collect();
        let line = |k: f64| {
            let at = |x: f64| [x / k, (300.0 + turn * (x - 400.0)) / k];
            Sheet::new().line(at(80.0), at(720.0), &widths.iter().map(|w| [w[0], w[1] / k]).collect::<Vec<_>>(), INK)
        };
        let g = guide(vec![role("line", "#1b1e24", 6.0, 0.3)]);
        let half = |oversampled: f64| {
            let mut g = g.clone();
            (g.page.width_px, g.page.height_px) = (W as f64 / oversampled, H as f64 / oversampled);
            g.roles[0].weight_px.as_mut().expect("a weight").target = 6.0 / oversampled;
            let sheet = line(1.0);
            let layer = NamedLayer { name: None, picture: Picture::new(W, H, &sheet.rgba).expect("a picture") };
            let w = check_lines(&g, "v.svg", &[layer], oversampled, &Manifest::new()).expect("checked").check.roles[0].weight_px.expect("weighed");
            (w.interval[1] - w.mean) * oversampled
        };
        let [plain, large] = [half(1.0), half(4.0)];
        // What the measure itself may be off by is a pixel's share, and the pixels are smaller.
        let own = 1.96 * 0.02;
        let (a, b) = ((plain * plain - own * own).max(0.0).sqrt(), (large * large - (4.0 * own).powi(2)).max(0.0).sqrt());
        prop_assert!((a - b).abs() < 0.25 * a.max(b) + 0.03, "{} as it is, {} drawn four times as large", a, b);
    }

    /// Limits go with the drawing's size but an edge's softness, which is a property of its pixels.
    #[test]
    fn a_soft_edge_is_not_scaled(scale in 0.2f64..4.0) {
        let l = Limits::default();
        let s = l.scaled(scale);
        prop_assert_eq!((s.soft_px, s.uneven, s.least_measured), (l.soft_px, l.uneven, l.least_measured));
        prop_assert!((s.gap_px - 6.0 * scale).abs() < 1e-9 && (s.gap_region_px2 - 16.0 * scale * scale).abs() < 1e-9);
        prop_assert!((s.speck_least_px2 - scale * scale).abs() < 1e-9 && (s.pinhole_px2 - 8.0 * scale * scale).abs() < 1e-9);
    }
}

#[test]
fn a_role_may_have_gaps_of_its_own_or_none() {
    // A frame that is open by four pixels.
    let w = &[[0.0, 6.0]];
    let frame = || {
        Sheet::new()
            .line([200.0, 150.0], [600.0, 150.0], w, INK)
            .line([600.0, 150.0], [600.0, 450.0], w, INK)
            .line([600.0, 450.0], [200.0, 450.0], w, INK)
            .line([200.0, 450.0], [200.0, 310.0], w, INK)
            .line([200.0, 300.0], [200.0, 150.0], w, INK)
    };
    let of = |gap_px: Option<f64>| {
        let mut r = role("line", "#1b1e24", 6.0, 0.1);
        (r.gap_px, r.from) = (gap_px, RoleSource { colour: Some("#1b1e24".into()), tolerance: Some(8.0), ..RoleSource::default() });
        frame().check(&guide(vec![r])).check.findings.into_iter().filter(|f| f.kind == FindingKind::Gap).count()
    };
    assert_eq!([of(None), of(Some(0.0)), of(Some(3.0)), of(Some(8.0))], [1, 0, 0, 1]);
}
