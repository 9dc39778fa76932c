//! Who is said to differ, what it is said to fit, and what the correction would do, on teams whose truth is known.

use eddymist_check::{
    LineGuide, Manifest, Verdict,
    team::{
        By, Entry, Measured, Span, TeamLook,
        fits::{FitKind, ProfileKnown},
        look,
        measured::{MeasuredRole, SHARES},
        trim::{Outcome, on_response, on_weight, outcome, trim},
        working,
    },
};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

fn guide() -> LineGuide {
    let text = r##"{"format":"eddymist/line-guide","version":1,"name":"the guide","page":{"width_px":800,"height_px":600,"px_per_mm":6.0},
        "roles":[{"name":"contour","from":{"colour":"#1b1e24"},"weight_px":{"target":6.0,"tolerance":0.1}},
                 {"name":"inner","from":{"colour":"#7a4326"},"weight_px":{"target":3.5,"tolerance":0.12,"swell":[2.4,4.8]}}]}"##;
    LineGuide::from_json(text).expect("a guide")
}

/// A drawing whose contour lies about `mean`, its widths evenly within ± 12 % of it, cut at `widest`.
fn entry(artist: &str, k: usize, mean: f64, widest: f64, columns: &[(&str, &str)]) -> Entry {
    let mut r = ChaCha8Rng::seed_from_u64(k as u64 * 31 + artist.len() as u64);
    let drawn = mean * (1.0 + r.random_range(-0.01..0.01));
    let widths: Vec<f64> = (0..SHARES).map(|i| (drawn * (0.88 + 0.24 * i as f64 / (SHARES - 1) as f64)).min(widest)).collect();
    let lines = (0..8).map(|_| drawn * (1.0 + r.random_range(-0.02..0.02))).collect();
    let mean_px = widths.iter().sum::<f64>() / widths.len() as f64;
    let inner = MeasuredRole { role: "inner".into(), mean_px: 3.5, lines_px: vec![3.4, 3.6], widths_px: vec![3.4, 3.5, 3.6] };
    let mut manifest = Manifest::from([("artist".to_string(), artist.to_string())]);
    manifest.extend(columns.iter().map(|(c, v)| (c.to_string(), v.to_string())));
    Entry {
        id: format!("{artist}-{k}"),
        file: format!("7_{artist}_{k}.png"),
        delivery: "shot 7".into(),
        manifest,
        added_at: "2026-11-25T10:00:00Z".into(),
        measured: Measured { roles: vec![MeasuredRole { role: "contour".into(), mean_px, lines_px: lines, widths_px: widths }, inner] },
    }
}

const SLATE: [(&str, &str); 2] = [("tablet", "large pen tablet"), ("brush", "fineliner")];

/// Three steady artists, and Dov, whose lines pile up at 6.9 px since he draws on the old pen tablet.
fn team() -> Vec<Entry> {
    let mut out = Vec::new();
    for artist in ["ilse", "pia", "juno"] {
        out.extend((0..9).map(|k| entry(artist, k, 6.0, 99.0, &SLATE)));
    }
    for k in 0..10 {
        let day = format!("2026-11-{:02}", 18 + k);
        out.push(match k {
            0..4 => entry("dov", k, 6.0, 99.0, &[("tablet", "large pen tablet"), ("brush", "fineliner"), ("drawn_at", &day)]),
            _ => entry("dov", k, 7.0, 6.9, &[("tablet", "old pen tablet"), ("brush", "fineliner"), ("drawn_at", &day)]),
        });
    }
    out
}

fn standing<'a>(t: &'a TeamLook, name: &str) -> &'a eddymist_check::team::standing::GroupWeight {
    t.roles[0].standings.iter().find(|s| s.name == name).expect("a standing")
}

#[test]
fn who_differs_since_when_and_what_it_fits() {
    let (guide, entries) = (guide(), team());
    let t = look(&guide, &entries, By::Artist);
    assert_eq!(t.sentences.len(), 1, "{:?}", t.sentences);
    assert!(
        t.sentences[0].says.starts_with("dov: contour 0.7") && t.sentences[0].says.ends_with("px heavy since 22 November, old pen tablet"),
        "{:?}",
        t.sentences
    );
    assert_eq!(standing(&t, "dov").verdict, Some(Verdict::Heavy));
    assert!(["ilse", "pia", "juno"].iter().all(|n| standing(&t, n).verdict == Some(Verdict::Within) && standing(&t, n).since.is_none()));
    // Dov differs from each of the three, and they from nobody.
    assert!(t.roles[0].pairs.iter().all(|p| p.a == "dov" || p.b == "dov") && t.roles[0].pairs_tried == 6 && t.roles[1].pairs.is_empty());
    let profile = ProfileKnown { artist: "Dov Tarrant".into(), tablet: "Old pen tablet".into(), full_point: 0.7, seen: true };
    let w = working(&guide, &t, &entries, &[profile], "dov", "contour").expect("a working");
    let kinds: Vec<FitKind> = w.fits.iter().map(|f| f.kind).collect();
    assert_eq!(kinds[0], FitKind::Tablet);
    assert!(kinds.contains(&FitKind::PileUp) && kinds.contains(&FitKind::Profile) && !kinds.contains(&FitKind::Guide), "{:?}", w.fits);
    assert!(w.fits[0].says.contains("6 drawings with old pen tablet") && w.fits[0].settle.contains("large pen tablet"));
    // Each side of the change by itself, and none breaks a rule for the change alone.
    assert_eq!((w.charts.len(), w.charts.iter().map(|c| c.drawings).sum::<usize>(), w.points.len()), (2, 10, 10));
    assert!(w.charts.iter().all(|c| c.chart.is_some() == (c.drawings >= 5)));
    let trim = w.trim.expect("a trim");
    assert!(trim.before.drawings == 6 && (trim.after.mean_px - 6.0).abs() < 0.05 && trim.after.within > trim.before.within + 0.3, "{trim:?}");
    assert!(!trim.limits.is_empty(), "what piled up cannot be parted again");
    // By tablet it is the old pen tablet that differs.
    let by = look(&guide, &entries, By::Tablet);
    assert!(by.sentences.len() == 1 && by.sentences[0].name == "old pen tablet");
    // Nothing is said of those who are within.
    assert!(working(&guide, &t, &entries, &[], "pia", "contour").is_some_and(|w| w.fits.is_empty() && w.trim.is_none()));
}

#[test]
fn an_offset_that_all_share_points_at_the_guide() {
    let entries: Vec<Entry> = ["a", "b", "c"].iter().flat_map(|n| (0..7).map(|k| entry(n, k, 7.1, 99.0, &SLATE))).collect();
    let guide = guide();
    let t = look(&guide, &entries, By::Artist);
    let w = working(&guide, &t, &entries, &[], "b", "contour").expect("a working");
    assert!(t.sentences.len() == 3 && w.fits[0].kind == FitKind::Guide && w.fits[0].says.contains("All 3"), "{:?}", w.fits);
}

#[test]
fn what_cannot_be_told_apart_is_said_to_be() {
    let guide = guide();
    let with = |columns: &[(&str, &str)]| {
        let mut e: Vec<Entry> = (0..7).map(|k| entry("pia", k, 6.0, 99.0, &SLATE)).collect();
        e.extend((0..7).map(|k| entry("teo", k, 7.0, 99.0, columns)));
        let t = look(&guide, &e, By::Artist);
        working(&guide, &t, &e, &[], "teo", "contour").expect("a working").fits
    };
    let fits = with(&[("tablet", "travel tablet"), ("brush", "fineliner")]);
    assert!(fits.iter().any(|f| f.kind == FitKind::Confounded && f.says.contains("nobody else used the tablet")), "{fits:?}");
    assert!(fits.iter().any(|f| f.kind == FitKind::Hand && f.says.contains("the same brush")), "{fits:?}");
    let fits = with(&[]);
    assert!(fits.len() == 1 && fits[0].kind == FitKind::NotKnown && fits[0].settle.contains("columns tablet and brush"), "{fits:?}");
}

#[test]
fn a_steady_drift_is_said_as_one() {
    let mut entries: Vec<Entry> = (0..12).map(|k| entry("teo", k, 6.0 - 0.05 * k as f64, 99.0, &SLATE)).collect();
    entries.extend((0..9).map(|k| entry("pia", k, 6.0, 99.0, &SLATE)));
    let t = look(&guide(), &entries, By::Artist);
    let teo = standing(&t, "teo");
    assert!(teo.since.is_none() && teo.drift_px.is_some_and(|d| (-0.65..-0.4).contains(&d)), "{teo:?}");
    assert!(t.sentences.len() == 1 && t.sentences[0].says.contains("px thinner over 12 drawings"), "{:?}", t.sentences);
}

/// One artist, one drawing each, a role that one never drew, all the same value, no artists, dates out of order, no drawing at all.
#[test]
fn little_and_odd_data_say_little_and_nothing_breaks() {
    let guide = guide();
    let none = look(&guide, &[], By::Artist);
    assert!(none.groups.is_empty() && none.sentences.is_empty() && none.roles.len() == 2);
    let alone: Vec<Entry> = (0..6).map(|k| entry("ilse", k, 6.0, 99.0, &SLATE)).collect();
    let t = look(&guide, &alone, By::Artist);
    assert!(t.roles[0].variance.is_none() && t.roles[0].no_variance.as_deref().is_some_and(|w| w.contains("two artists")));
    let one_each: Vec<Entry> = ["a", "b", "c"].iter().map(|n| entry(n, 1, 9.0, 99.0, &[])).collect();
    let t = look(&guide, &one_each, By::Artist);
    assert!(t.sentences.is_empty() && t.roles[0].standings.iter().all(|s| s.verdict.is_none() && s.interval_px.is_none()));
    assert!(working(&guide, &t, &one_each, &[], "a", "contour").is_some_and(|w| w.charts.iter().all(|c| c.chart.is_none()) && w.capability.is_none()));
    let mut never = team();
    never.iter_mut().filter(|e| e.file.contains("juno")).for_each(|e| e.measured.roles.retain(|r| r.role != "contour"));
    let t = look(&guide, &never, By::Artist);
    assert!(
        t.roles[0].standings.len() == 3
            && working(&guide, &t, &never, &[], "juno", "contour").is_none()
            && working(&guide, &t, &never, &[], "nobody", "contour").is_none()
    );
    // All the same, and all too heavy: sure, without a spread.
    let same: Vec<Entry> = (0..6)
        .map(|k| {
            let mut e = entry("a", k, 7.0, 99.0, &SLATE);
            e.measured.roles[0] = MeasuredRole { role: "contour".into(), mean_px: 7.0, lines_px: vec![7.0; 3], widths_px: vec![7.0; SHARES] };
            e
        })
        .collect();
    let t = look(&guide, &same, By::Artist);
    assert!(
        standing(&t, "a").verdict == Some(Verdict::Heavy)
            && working(&guide, &t, &same, &[], "a", "contour").is_some_and(|w| w.charts.iter().all(|c| c.chart.is_none()))
    );
    // Drawings that name nobody are counted.
    let mut nameless = team();
    nameless.iter_mut().for_each(|e| drop(e.manifest.remove("artist")));
    assert_eq!(look(&guide, &nameless, By::Artist).not_known, nameless.len());
    // Files in any order, by their dates.
    let mut shuffled = team();
    shuffled.reverse();
    assert_eq!(standing(&look(&guide, &shuffled, By::Artist), "dov").since, standing(&look(&guide, &team(), By::Artist), "dov").since);
    assert!(Span { from: Some("yesterday".into()), ..Span::default() }.validate().is_err());
    assert!(Span { from: Some("2026-11-25".into()), to: Some("2026-11-24".into()), shot: None }.validate().is_err());
    let day = Span { from: Some("2026-11-20".into()), to: Some("2026-11-21".into()), shot: None };
    assert_eq!(team().iter().filter(|e| day.holds(e)).count(), 2);
}

#[test]
fn hundreds_of_artists_are_no_trouble_and_chance_names_hardly_anyone() {
    let mut r = ChaCha8Rng::seed_from_u64(9);
    // Means about the upper limit itself: half lie over it by chance, and none can be said to.
    let entries: Vec<Entry> = (0..300)
        .flat_map(|a| (0..5).map(move |k| (a, k)))
        .map(|(a, k)| entry(&format!("artist {a}"), k, 6.6 * (1.0 + r.random_range(-0.03..0.03)), 99.0, &SLATE))
        .collect();
    let t = look(&guide(), &entries, By::Artist);
    assert!(t.groups.len() == 300 && t.sentences.len() <= 2, "{:?}", t.sentences);
    assert!(t.roles[0].variance.is_some());
}

#[test]
fn whether_a_trim_worked_is_said_by_the_next_drawings() {
    let weight = guide().roles[0].weight_px.expect("a weight");
    let said = |since: &[f64]| outcome(&weight, "contour", 6.9, since).0;
    assert_eq!(said(&[6.0, 6.0]), Outcome::Waiting);
    assert_eq!(said(&[6.0, 6.05, 5.95, 6.02]), Outcome::Worked);
    assert_eq!(said(&[6.2, 6.8, 6.0, 6.3]), Outcome::Nearer);
    assert_eq!(said(&[6.9, 6.85, 6.95]), Outcome::DidNot);
}

proptest! {
    /// The trim never falls, brings the mean to the target where one factor is asked for, and, carried onto a weight curve or a
    /// response, leaves both what they have to be.
    #[test]
    fn a_trim_is_carried_as_it_is(mean in 4.5f64..8.5, low in 0.05f64..0.5, high in 0.8f64..2.0, bend in 0.2f64..0.8) {
        let weight = guide().roles[0].weight_px.expect("a weight");
        let own: Vec<Entry> = (0..5).map(|k| entry("dov", k, mean, 99.0, &SLATE)).collect();
        let own: Vec<&Entry> = own.iter().collect();
        let t = trim(&weight, "contour", &own, &[]).expect("a trim");
        prop_assert!(t.knots.windows(2).all(|w| w[0][0] < w[1][0] && w[0][1] <= w[1][1]));
        prop_assert!((t.after.mean_px - 6.0).abs() < 0.02, "{:?}", t);
        let curve = [[0.0, low], [0.5, low + (high - low) * bend], [1.0, high]];
        let trimmed = on_weight(&t, &curve, Some(6.0));
        prop_assert!(trimmed.windows(2).all(|w| w[0][1] <= w[1][1]) && trimmed.len() == curve.len());
        let response = [[0.03, 0.0], [0.4, 0.5], [0.9, 1.0]];
        let carried = on_response(&t, &response, &curve, Some(6.0)).expect("a response");
        prop_assert!(carried.windows(2).all(|w| w[0][1] < w[1][1]) && carried[0][1] == 0.0 && carried[2][1] <= 1.0);
        // What the response can reach weighs as the correction asks.
        let drawn = eddymist_ink::Curve::new(&curve).expect("a curve");
        let asked = t.corrected(drawn.value(0.5) * 6.0) / 6.0;
        if asked > low * 1.02 && asked < high * 0.98 && carried[1][1] > 0.01 && carried[1][1] < carried[2][1] - 0.01 {
            prop_assert!((drawn.value(carried[1][1]) - asked).abs() < 0.01, "{:?}", carried);
        }
        prop_assert!(on_response(&t, &response, &[[0.0, 0.5], [1.0, 0.5]], Some(6.0)).is_err());
    }
}
