//! The demo production through the same doors as real data: its drawings are found to be what they were drawn to be.

use std::collections::BTreeMap;

use eddymist_check::{DrawingCheck, FindingKind, HandOn, NamePattern, Verdict, sequence::Sequence, team};
use eddymist_formats::{LIMITS, drawings::weigh, images};
use eddymist_sim::{
    osk::{Pose, ROLES, strokes},
    pens::PENS,
    production::{ARTISTS, COLOURS, DELIVERIES, Delivery, drawing, line_guide, manifest, pen_scan, render},
};

const SEED: u64 = 12;

fn checked(d: &Delivery, number: usize) -> DrawingCheck {
    let one = drawing(d, number, SEED);
    let manifest = NamePattern::parse("{shot}_{artist}_{drawing}").expect("a pattern").read(&one.file).expect("the name fits");
    weigh(&line_guide(), &one.file, &one.png, &manifest, &LIMITS).expect("it is weighed").check
}

#[test]
fn known_deviations_are_found_and_nothing_else() {
    let shot = &DELIVERIES[0];
    for number in [1, 2, 3, 7, 12, 19, 20] {
        let check = checked(shot, number);
        let by: BTreeMap<&str, Option<Verdict>> = check.roles.iter().map(|r| (r.role.as_str(), r.verdict)).collect();
        let artist = check.manifest["artist"].as_str();
        // Dov's contour is heavy on the old pen tablet, and his inner lines are thin in drawing 19.
        let heavy = artist == "dov" && (number == 7 || number >= 13);
        assert_eq!(by["contour"] == Some(Verdict::Heavy), heavy, "{number} by {artist}: {by:?}");
        assert_eq!(by["inner line"] == Some(Verdict::Thin), number == 19, "{number} by {artist}: {by:?}");
        for role in ["lash line", "stripe", "prop line"] {
            assert_eq!(by[role], Some(Verdict::Within), "{number} {role}");
        }
        // The mark for holes is found and not judged.
        assert_eq!(by["hole mark"], None);
        assert_eq!(check.hand_on == Some(HandOn::Return), check.findings.iter().any(|f| f.must_mend));
        if heavy {
            assert!(check.hand_on == Some(HandOn::Return) && check.findings[0].role.as_deref() == Some("contour"));
        }
    }
}

#[test]
fn only_the_artist_whose_lines_boil_is_said_to() {
    let (shot, guide) = (&DELIVERIES[1], line_guide());
    let mut sequence = Sequence::new(&guide);
    for number in 1..=shot.drawings {
        let one = drawing(shot, number, SEED);
        let manifest = NamePattern::parse("{shot}_{artist}_{drawing}").expect("a pattern").read(&one.file).expect("the name fits");
        let w = weigh(&guide, &one.file, &one.png, &manifest, &LIMITS).expect("it is weighed");
        sequence.push(&w.check, &w.lines);
    }
    let found = sequence.finish();
    let boils = |artist: &str| found.iter().filter(|f| f.kind == FindingKind::Boil && f.artist.as_deref() == Some(artist)).count();
    assert!(boils("juno") >= 3 && boils("teo") == 0, "{found:?}");
    assert!(found.iter().filter(|f| f.artist.as_deref() == Some("juno")).all(|f| f.value > f.limit && f.drawings.iter().all(|d| d.contains("juno"))));
}

#[test]
fn an_artist_who_drifts_thinner_ends_thin() {
    let shot = &DELIVERIES[1];
    let all: Vec<DrawingCheck> = (1..=shot.drawings).map(|n| checked(shot, n)).collect();
    let contour = |d: &DrawingCheck| d.roles.iter().find(|r| r.role == "contour").and_then(|r| r.weight_px).expect("weighed").mean;
    let teos: Vec<f64> = all.iter().filter(|d| d.manifest["artist"] == "teo").map(contour).collect();
    assert!(teos.len() >= 6 && teos.windows(2).all(|w| w[1] < w[0]), "{teos:?}");
}

/// The whole way from pixels to the team's sentences, and to the correction that would bring Dov back.
#[test]
fn the_team_is_told_of_dov_since_the_old_slate_and_of_teo_who_drifts() {
    let guide = line_guide();
    let entries: Vec<team::Entry> = DELIVERIES.iter().flat_map(|d| entries(d, &guide)).collect();
    let look = team::look(&guide, &entries, team::By::Artist);
    let said: Vec<&str> = look.sentences.iter().map(|s| s.says.as_str()).collect();
    assert!(said.iter().any(|s| s.starts_with("dov: contour") && s.contains("heavy since 21 November, old pen tablet")), "{said:?}");
    assert!(said.iter().any(|s| s.starts_with("teo:") && s.contains("thinner over 12 drawings")), "{said:?}");
    assert!(!said.iter().any(|s| s.starts_with("ilse") || s.starts_with("pia")), "{said:?}");
    let w = team::working(&guide, &look, &entries, &[], "dov", "contour").expect("a working");
    let kinds: Vec<team::fits::FitKind> = w.fits.iter().map(|f| f.kind).collect();
    assert!(kinds[0] == team::fits::FitKind::Tablet && kinds.contains(&team::fits::FitKind::PileUp), "{:?}", w.fits);
    assert!(w.trim.is_some_and(|t| (t.after.mean_px - 6.0).abs() < 0.01 && t.after.within > 0.8 && t.before.within < 0.4));
}

fn entries(d: &Delivery, guide: &eddymist_check::LineGuide) -> Vec<team::Entry> {
    let rows = eddymist_formats::manifest::read(&manifest(d)).expect("a manifest");
    let one = |n: usize| {
        let drawn = drawing(d, n, SEED);
        let mut known = NamePattern::parse("{shot}_{artist}_{drawing}").expect("a pattern").read(&drawn.file).expect("the name fits");
        known.extend(rows[&drawn.file].clone());
        let w = weigh(guide, &drawn.file, &drawn.png, &known, &LIMITS).expect("it is weighed");
        let measured = team::Measured::new(guide, &w.check, &w.lines);
        let mean = w.check.roles[0].weight_px.expect("weighed").mean;
        assert!((measured.role("contour").expect("a role").mean_px - mean).abs() < 1e-3);
        team::Entry { id: drawn.file.clone(), file: drawn.file, delivery: d.name.into(), manifest: known, added_at: "2026-11-25T12:00:00Z".into(), measured }
    };
    (1..=d.drawings).map(one).collect()
}

#[test]
fn every_pose_has_every_role_and_stays_on_the_page() {
    for k in 0..24 {
        let pose = Pose::in_phase(f64::from(k) / 24.0);
        let all = strokes(&pose);
        for (role, name) in ROLES.iter().enumerate() {
            assert!(all.iter().any(|s| s.0 == role), "{name} at {k}");
        }
        for p in all.iter().flat_map(|s| &s.1) {
            assert!((0.0..1920.0).contains(&p[0]) && (0.0..1080.0).contains(&p[1]), "{p:?} at {k}");
        }
    }
    // It moves a little from drawing to drawing, and far over the shot.
    let far = |a: f64, b: f64| {
        let (a, b) = (strokes(&Pose::in_phase(a)), strokes(&Pose::in_phase(b)));
        a.iter().zip(&b).flat_map(|(s, t)| s.1.iter().zip(&t.1)).map(|(p, q)| (p[0] - q[0]).hypot(p[1] - q[1])).fold(0.0, f64::max)
    };
    assert!(far(0.0, 1.0 / 32.0) < 12.0 && far(0.0, 0.5) > 3.0, "{} {}", far(0.0, 1.0 / 32.0), far(0.0, 0.5));
}

#[test]
fn the_same_seed_draws_the_same_bytes_and_another_other_ones() {
    let png = |seed| drawing(&DELIVERIES[0], 5, seed).png;
    assert_eq!(png(1), png(1));
    assert_ne!(png(1), png(2));
    assert_eq!(pen_scan(&PENS[2], 300.0, 3), pen_scan(&PENS[2], 300.0, 3));
    let p = images::rgba(&png(1), &LIMITS).expect("a picture");
    assert_eq!((p.width, p.height), (1920, 1080));
    let half = images::rgba(&render(&Pose::in_phase(0.0), 0.5, |_, _| 1.0, 1), &LIMITS).expect("a picture");
    assert_eq!((half.width, half.height), (960, 540));
}

#[test]
fn its_people_tools_and_colours_are_told_apart() {
    let distinct = |v: &[&str]| v.iter().collect::<std::collections::BTreeSet<_>>().len() == v.len();
    assert!(distinct(&ARTISTS.map(|a| a.id)) && distinct(&COLOURS) && distinct(&PENS.map(|p| p.id)));
    assert!(DELIVERIES.iter().flat_map(|d| d.artists).all(|a| ARTISTS.iter().any(|x| x.id == *a)));
    for a in ARTISTS {
        assert!(eddymist_sim::stylus::Tablet::by_id(a.tablet).is_some() && eddymist_sim::stylus::Hand::by_id(a.hand).is_some(), "{}", a.name);
    }
    line_guide().validate().expect("its guide is a good one");
}
