//! Drawings made from the definitions alone, held against a guide: verdicts with their guard band, stretches, what is left
//! out, and what hands on.

use common::{H, INK, RED, Sheet, W, guide, role};
use eddymist_check::{
    CheckError, HandOn, LineGuide, Manifest, NamedLayer, Verdict, check_lines,
    document::{Finding, FindingKind},
    guide::{Finish, RoleSource},
    not_looked_for,
};
use eddymist_measure::{Picture, drawing::MaskKind};

mod common;

fn verdict(width: f64, target: f64, tolerance: f64) -> Option<Verdict> {
    Sheet::new().lines(width, INK).check(&guide(vec![role("line", "#1b1e24", target, tolerance)])).check.roles[0].verdict
}

#[test]
fn verdicts_keep_a_guard_band() {
    // Target 6 ± 10 %: 5.4 to 6.6. The measure itself may be off by 0.02 px, so 0.04 px about a limit are too close to say.
    for (width, says) in [
        (6.0, Verdict::Within),
        (6.5, Verdict::Within),
        (5.5, Verdict::Within),
        (6.61, Verdict::TooClose),
        (6.59, Verdict::TooClose),
        (5.4, Verdict::TooClose),
        (6.8, Verdict::Heavy),
        (9.0, Verdict::Heavy),
        (5.2, Verdict::Thin),
        (2.0, Verdict::Thin),
    ] {
        assert_eq!(verdict(width, 6.0, 0.1), Some(says), "{width} px");
    }
    // No tolerance at all can never be surely kept.
    assert_eq!(verdict(6.0, 6.0, 0.0), Some(Verdict::TooClose));
}

#[test]
fn weights_are_the_inks_with_their_spread() {
    let page = Sheet::new().lines(6.0, INK).lines(3.0, RED);
    // Red lies over black here: only a page of its own tells their weights; side by side they are two roles.
    let side = (0..4).fold(Sheet::new(), |p, k| {
        let y = 60.0 + 120.0 * f64::from(k);
        p.line([60.0, y], [740.0, y + 9.0], &[[0.0, 6.0]], INK).line([60.0, y + 50.0], [740.0, y + 59.0], &[[0.0, 3.0]], RED)
    });
    let g = guide(vec![role("black", "#1b1e24", 6.0, 0.1), role("red", "#c02020", 3.0, 0.1)]);
    let check = side.check(&g).check;
    for (r, width) in check.roles.iter().zip([6.0, 3.0]) {
        let w = r.weight_px.expect("weighed");
        assert!((w.mean - width).abs() < 0.02 && (w.median - width).abs() < 0.03 && w.sd < 0.05, "{r:?}");
        assert!(w.interval[0] < width && width < w.interval[1] && w.p10 <= w.median && w.median <= w.p90);
        assert!((r.length_px - 4.0 * 680.0).abs() < 40.0 && r.measured_share > 0.95 && r.share_within == Some(1.0), "{r:?}");
    }
    assert!(page.check(&g).check.roles.iter().all(|r| r.measured_share < 0.99));
}

/// A line of 6 px that swells to 8 between two shares of its way.
fn swollen(from: f64, to: f64) -> Sheet {
    Sheet::new().line([60.0, 300.0], [740.0, 310.0], &[[0.0, 6.0], [from - 0.02, 6.0], [from, 8.0], [to, 8.0], [to + 0.02, 6.0], [1.0, 6.0]], INK)
}

#[test]
fn a_heavy_stretch_is_pinned_where_it_is() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let findings = swollen(0.4, 0.6).check(&g).check.findings;
    let [f] = &findings[..] else { panic!("{findings:?}") };
    assert_eq!((f.kind, f.role.as_deref(), f.must_mend), (FindingKind::Heavy, Some("line"), false));
    // Its middle is at half the way; it is as long as the line is over 6.6 px.
    assert!((f.x - 400.0).abs() < 6.0 && (f.y - 305.0).abs() < 2.0, "{f:?}");
    assert!((f.length_px.expect("a length") - 680.0 * 0.227).abs() < 12.0 && (f.value - 7.9).abs() < 0.2 && (f.limit - 6.6).abs() < 1e-9, "{f:?}");
    assert!(f.message.contains("heavy line") && f.message.contains("(6.0 ± 10 %)"), "{}", f.message);
    // Three target widths and no more is no finding.
    let short = Sheet::new().line([60.0, 300.0], [740.0, 310.0], &[[0.0, 6.0], [0.49, 6.0], [0.5, 7.5], [0.51, 6.0], [1.0, 6.0]], INK);
    assert!(short.check(&g).check.findings.is_empty());
    // A thin one likewise.
    let thin = Sheet::new().line([60.0, 300.0], [740.0, 310.0], &[[0.0, 6.0], [0.38, 6.0], [0.4, 4.0], [0.6, 4.0], [0.62, 6.0], [1.0, 6.0]], INK);
    let findings = thin.check(&g).check.findings;
    assert!(findings.len() == 1 && findings[0].kind == FindingKind::Thin && (findings[0].limit - 5.4).abs() < 1e-9, "{findings:?}");
}

#[test]
fn a_swell_is_room_to_live_in_and_has_its_own_ends() {
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.2)]);
    let kinds = |p: &Sheet, g: &LineGuide| (p.check(g).check.roles[0].verdict, p.check(g).check.findings.iter().map(|f| f.kind).collect::<Vec<_>>());
    g.roles[0].weight_px.as_mut().expect("a weight").swell = Some([4.0, 8.5]);
    assert_eq!(kinds(&swollen(0.4, 0.6), &g), (Some(Verdict::Within), vec![]));
    g.roles[0].weight_px.as_mut().expect("a weight").swell = Some([4.0, 7.0]);
    assert_eq!(kinds(&swollen(0.4, 0.6), &g), (Some(Verdict::Heavy), vec![FindingKind::Heavy]), "the 90th percentile passes the swell");
    // A mean within, and over a tenth of the length outside on each side: mixed.
    let both = Sheet::new().line(
        [60.0, 300.0],
        [740.0, 310.0],
        &[[0.0, 6.0], [0.1, 6.0], [0.12, 8.2], [0.4, 8.2], [0.42, 3.8], [0.7, 3.8], [0.72, 6.0], [1.0, 6.0]],
        INK,
    );
    g.roles[0].weight_px.as_mut().expect("a weight").swell = None;
    assert_eq!(kinds(&both, &g).0, Some(Verdict::Mixed));
    g.roles[0].weight_px.as_mut().expect("a weight").swell = Some([4.5, 7.5]);
    assert_eq!(kinds(&both, &g).0, Some(Verdict::Mixed));
}

#[test]
fn a_hard_finish_gives_half_a_pixel_more() {
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let page = Sheet::new().line([60.0, 300.0], [740.0, 310.0], &[[0.0, 6.0], [0.38, 6.0], [0.4, 6.9], [0.6, 6.9], [0.62, 6.0], [1.0, 6.0]], INK);
    assert_eq!(page.check(&g).check.findings.len(), 1);
    g.finish = Finish::Hard;
    assert!(page.check(&g).check.findings.is_empty());
}

#[test]
fn scale_and_shot_move_the_guide_and_not_the_drawing() {
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let shot = |size: &str| [("shot_size".to_string(), size.to_string())].into();
    let half = Sheet::new().lines(3.0, INK);
    let wide = half.check_with(&g, &shot("wide")).expect("weighed").check;
    assert_eq!((wide.shot_factor, wide.roles[0].verdict), (0.5, Some(Verdict::Within)));
    assert_eq!(half.check(&g).check.roles[0].verdict, Some(Verdict::Thin));
    let said = half.check_with(&g, &shot("huge")).expect_err("no such size").to_string();
    assert!(said.contains("huge") && said.contains("wide"), "{said}");
    // A drawing half as wide as the page has its guide halved.
    g.page.width_px = 2.0 * W as f64;
    let small = half.check(&g).check;
    assert_eq!((small.scale, small.roles[0].verdict), (0.5, Some(Verdict::Within)));
}

#[test]
fn what_hands_on_is_what_must_be_mended() {
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let hand = |p: &Sheet, g: &LineGuide| p.check(g).check.hand_on;
    let heavy = Sheet::new().lines(8.0, INK);
    // Verdicts alone never decide it.
    assert_eq!((hand(&heavy, &g), heavy.check(&g).check.roles[0].verdict), (Some(HandOn::Ready), Some(Verdict::Heavy)));
    g.must_mend = vec![FindingKind::Heavy];
    assert_eq!(hand(&heavy, &g), Some(HandOn::Return));
    assert!(heavy.check(&g).check.findings.iter().all(|f| f.must_mend));
    assert_eq!(hand(&Sheet::new().lines(6.0, INK), &g), Some(HandOn::Ready));
    // While a kind that must fix is not looked for, nothing is ready; what stands still goes back.
    g.must_mend.push(FindingKind::Boil);
    g.off = vec![FindingKind::Boil];
    assert!(not_looked_for(&g).contains(&FindingKind::Boil));
    assert_eq!((hand(&Sheet::new().lines(6.0, INK), &g), hand(&heavy, &g)), (None, Some(HandOn::Return)));
    // A kind that is switched off is not looked for, and said so.
    g.must_mend = Vec::new();
    g.off = vec![FindingKind::Heavy];
    assert!(heavy.check(&g).check.findings.is_empty() && not_looked_for(&g).contains(&FindingKind::Heavy));
}

#[test]
fn drawings_in_no_roles_colour_and_empty_ones_say_so() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    assert_eq!(Sheet::new().check_with(&g, &Manifest::new()), Err(CheckError::Empty));
    let green = Sheet::new().lines(6.0, [0x20, 0xb0, 0x40]).check_with(&g, &Manifest::new());
    assert_eq!(green, Err(CheckError::NoRole));
    assert!(CheckError::NoRole.to_string().contains("role for the rest"));
    // Off-palette ink is in no role's weight.
    let mixed = Sheet::new().line([60.0, 100.0], [740.0, 120.0], &[[0.0, 6.0]], INK).line([60.0, 300.0], [740.0, 320.0], &[[0.0, 12.0]], [0x20, 0xb0, 0x40]);
    let roles = mixed.check(&g).check.roles;
    assert!(roles.len() == 1 && (roles[0].weight_px.expect("weighed").mean - 6.0).abs() < 0.02);
}

#[test]
fn roles_not_judged_are_taken_out_and_the_rest_is_a_role() {
    let mut mark = role("hole mark", "#c02020", 3.0, 0.1);
    (mark.judge, mark.weight_px) = (false, None);
    let mut rest = role("line", "#000000", 6.0, 0.1);
    rest.from = RoleSource { rest: true, ..RoleSource::default() };
    let page = Sheet::new().line([60.0, 100.0], [740.0, 120.0], &[[0.0, 6.0]], INK).line([60.0, 300.0], [740.0, 320.0], &[[0.0, 9.0]], RED);
    let check = page.check(&guide(vec![mark, rest])).check;
    assert_eq!(check.roles.iter().map(|r| (r.role.as_str(), r.verdict)).collect::<Vec<_>>(), [("hole mark", None), ("line", Some(Verdict::Within))]);
    assert!(check.findings.is_empty());
}

#[test]
fn outline_is_what_borders_the_outside() {
    let mut outline = role("contour", "#000000", 6.0, 0.1);
    outline.from = RoleSource { outline: true, ..RoleSource::default() };
    let mut inner = role("inner", "#000000", 3.0, 0.1);
    inner.from = RoleSource { rest: true, ..RoleSource::default() };
    let w = &[[0.0, 6.0]];
    let page = Sheet::new()
        .line([200.0, 150.0], [600.0, 150.0], w, INK)
        .line([600.0, 150.0], [600.0, 450.0], w, INK)
        .line([600.0, 450.0], [200.0, 450.0], w, INK)
        .line([200.0, 450.0], [200.0, 150.0], w, INK)
        .line([300.0, 300.0], [500.0, 310.0], &[[0.0, 3.0]], INK);
    let roles = page.check(&guide(vec![outline, inner])).check.roles;
    let means: Vec<(&str, f64)> = roles.iter().map(|r| (r.role.as_str(), r.weight_px.expect("weighed").mean)).collect();
    assert!(means.len() == 2 && (means[0].1 - 6.0).abs() < 0.02 && (means[1].1 - 3.0).abs() < 0.02, "{means:?}");
}

#[test]
fn layers_give_their_ink_to_their_roles() {
    let mut contour = role("contour", "#000000", 6.0, 0.1);
    contour.from = RoleSource { layer: Some("con*".into()), ..RoleSource::default() };
    let mut inner = role("inner", "#000000", 3.0, 0.1);
    inner.from = RoleSource { layer: Some("inner".into()), ..RoleSource::default() };
    let g = guide(vec![contour, inner]);
    let (a, b) = (Sheet::new().lines(6.0, INK), Sheet::new().lines(3.0, RED));
    let layer =
        |name, p: &'_ Sheet| NamedLayer { name: Some(name), picture: Picture::new(W, H, Box::leak(p.rgba.clone().into_boxed_slice())).expect("a picture") };
    let check = check_lines(&g, "d.ora", &[layer("cleanup/contour", &a), layer("cleanup/inner", &b), layer("rough", &a)], 1.0, &Manifest::new())
        .expect("weighed")
        .check;
    let means: Vec<f64> = check.roles.iter().map(|r| r.weight_px.expect("weighed").mean).collect();
    assert!((means[0] - 6.0).abs() < 0.02 && (means[1] - 3.0).abs() < 0.02, "{means:?}");
    // A role by layer finds nothing in a flat picture.
    assert_eq!(a.check_with(&g, &Manifest::new()), Err(CheckError::NoRole));
}

#[test]
fn blacks_are_masked_and_shown_and_leave_the_weights_alone() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    let page = Sheet::new().lines(6.0, INK).line([300.0, 560.0], [420.0, 560.0], &[[0.0, 60.0]], INK);
    let check = page.check(&g).check;
    let [m] = &check.masked[..] else { panic!("{:?}", check.masked) };
    assert!(m.kind == MaskKind::SpottedBlack && (m.x - 270.0).abs() < 3.0 && (m.width - 180.0).abs() < 6.0, "{m:?}");
    assert!((check.roles[0].weight_px.expect("weighed").mean - 6.0).abs() < 0.02);
}

#[test]
fn lines_go_to_the_page_with_how_they_stand() {
    let found = swollen(0.4, 0.6).check(&guide(vec![role("line", "#1b1e24", 6.0, 0.1)]));
    let [line] = &found.lines[..] else { panic!("one line") };
    assert_eq!(line.places.len(), 3 * line.standing.len());
    let count = |c: char| line.standing.chars().filter(|x| *x == c).count() as f64 / line.standing.len() as f64;
    assert!((count('h') - 0.227).abs() < 0.02 && count('w') > 0.7 && count('t') == 0.0 && count('-') < 0.05, "{}", line.standing);
}

#[test]
fn findings_come_worst_first_and_what_must_be_mended_before_all() {
    let mut g = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    g.must_mend = vec![FindingKind::Thin];
    let page = Sheet::new()
        .line([60.0, 100.0], [740.0, 110.0], &[[0.0, 6.0], [0.28, 6.0], [0.3, 9.0], [0.7, 9.0], [0.72, 6.0], [1.0, 6.0]], INK)
        .line([60.0, 300.0], [740.0, 310.0], &[[0.0, 6.0], [0.48, 6.0], [0.5, 7.2], [0.6, 7.2], [0.62, 6.0], [1.0, 6.0]], INK)
        .line([60.0, 500.0], [740.0, 510.0], &[[0.0, 6.0], [0.48, 6.0], [0.5, 5.0], [0.6, 5.0], [0.62, 6.0], [1.0, 6.0]], INK);
    let order: Vec<(FindingKind, bool)> = page.check(&g).check.findings.iter().map(|f: &Finding| (f.kind, f.y < 200.0)).collect();
    assert_eq!(order, [(FindingKind::Thin, false), (FindingKind::Heavy, true), (FindingKind::Heavy, false)]);
}
