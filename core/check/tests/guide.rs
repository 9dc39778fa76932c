//! The line guide: what is read and refused, weights at other scales, names of files and layers.

mod common;

use eddymist_check::{
    LineGuide, NamePattern,
    guide::{Ends, Finish, Weight},
    plan::fits,
};
use proptest::prelude::*;
use serde_json::{Value, json};

/// The example of the contract.
fn example() -> Value {
    json!({"format":"eddymist/line-guide","version":1,"name":"Night Tram",
     "page":{"width_px":1920,"height_px":1080,"px_per_mm":6.3},
     "finish":"smooth",
     "roles":[
      {"name":"contour","from":{"colour":"#1b1e24","tolerance":6.0},"weight_px":{"target":6.0,"tolerance":0.10},"ends":"any"},
      {"name":"inner line","from":{"layer":"inner*"},"weight_px":{"target":3.5,"tolerance":0.12,"swell":[2.0,5.5]},"ends":"tapered"},
      {"name":"hole mark","from":{"colour":"#d02090","tolerance":10.0},"judge":false}],
     "scale_by_shot":{"wide":0.8,"medium":1.0,"close":1.25},
     "limits":{"gap_px":6.0,"speck_px2":12.0,"pinhole_px2":8.0,"hook_px":10.0,"uneven":0.20,"boil":0.08},
     "must_mend":["heavy","gap","pinhole","off-palette"],"off":[]})
}

#[test]
fn the_example_loads_with_what_it_leaves_out() {
    let guide = LineGuide::from_json(&example().to_string()).expect("the contract's example");
    assert_eq!((guide.finish, guide.limits.soft_px, guide.roles[1].ends), (Finish::Smooth, 1.5, Ends::Tapered));
    assert!(guide.roles[0].judge && !guide.roles[2].judge && guide.roles[2].weight_px.is_none());
    assert_eq!(LineGuide::from_json(&serde_json::to_string(&guide).expect("JSON")).expect("again"), guide);
    let bare = json!({"format":"eddymist/line-guide","version":1,"name":"x","page":{"width_px":10,"height_px":10},
        "roles":[{"name":"line","from":{"rest":true},"weight_px":{"target":2,"tolerance":0}}]});
    let bare = LineGuide::from_json(&bare.to_string()).expect("the least guide");
    assert_eq!((bare.finish, bare.must_mend.len(), bare.off.len(), bare.limits.gap_px), (Finish::Smooth, 0, 0, 6.0));
}

#[test]
fn a_guide_that_cannot_be_held_against_is_refused_by_what_is_wrong() {
    let wrong: [(&str, &str, Value); 25] = [
        ("/format", "eddymist/line-guide is needed", json!("eddymist/brush")),
        ("/version", "version 3", json!(3)),
        ("/page/width_px", "sides", json!(0)),
        ("/page/height_px", "sides", json!(-1080)),
        ("/page/px_per_mm", "px_per_mm", json!(0)),
        ("/roles", "at least one", json!([])),
        ("/roles/0/name", "needs a name", json!(" ")),
        ("/roles/1/name", "already", json!("contour")),
        ("/roles/0/from", "one of colour", json!({})),
        ("/roles/0/from", "one of colour", json!({"colour":"#000000","rest":true})),
        ("/roles/0/from/colour", "#rrggbb", json!("black")),
        ("/roles/0/from/tolerance", "0 or more", json!(-1)),
        ("/roles/1/from", "needs a colour", json!({"layer":"inner*","tolerance":3})),
        ("/roles/0/weight_px", "weight_px", json!(null)),
        ("/roles/0/weight_px/target", "over 0", json!(0)),
        ("/roles/0/weight_px/tolerance", "0 or more", json!(-0.1)),
        ("/roles/1/weight_px/swell", "ascend", json!([5.5, 2.0])),
        ("/roles/1/weight_px/swell", "ascend", json!([2.0, 2.0])),
        ("/roles/0/ends", "rounded", json!("rounded")),
        ("/limits/gap_px", "limits", json!(-6)),
        ("/limits/boil", "invalid type", json!("high")),
        ("/scale_by_shot/wide", "wide", json!(0)),
        ("/must_mend/0", "ugly", json!("ugly")),
        ("/off", "invalid type", json!("heavy")),
        ("/page", "invalid type", json!("A4")),
    ];
    for (at, says, value) in wrong {
        let mut guide = example();
        *guide.pointer_mut(at).expect(at) = value.clone();
        let said = LineGuide::from_json(&guide.to_string()).expect_err(at).to_string();
        assert!(said.contains(says), "{at} = {value}: {said}");
    }
    let mut more = example();
    more["colour_space"] = json!("sRGB");
    assert!(LineGuide::from_json(&more.to_string()).expect_err("unknown").to_string().contains("colour_space"));
}

#[test]
fn a_weight_keeps_its_shares_at_any_scale() {
    let w = Weight { target: 4.0, tolerance: 0.25, swell: Some([2.0, 5.0]) };
    assert_eq!((w.band(), w.living()), ([3.0, 5.0], [2.0, 5.0]));
    let half = w.scaled(0.5);
    assert_eq!((half.target, half.band(), half.living()), (2.0, [1.5, 2.5], [1.0, 2.5]));
    assert_eq!(Weight { swell: None, ..w }.living(), [3.0, 5.0]);
}

#[test]
fn layers_are_matched_by_their_patterns() {
    for (pattern, name, fit) in [
        ("inner*", "inner lines", true),
        ("inner*", "the inner lines", false),
        ("*inner*", "the inner lines", true),
        ("contour", "contour", true),
        ("contour", "contour 2", false),
        ("*", "", true),
        ("a*b*c", "a-long-b-way-c", true),
        ("a*b*c", "a-c-b", false),
        ("a*a", "a", false),
        ("", "x", false),
    ] {
        assert_eq!(fits(pattern, name), fit, "{pattern} on {name}");
    }
}

#[test]
fn names_are_read_by_a_pattern_or_not_at_all() {
    let read = |pattern: &str, file: &str| {
        NamePattern::parse(pattern).expect(pattern).read(file).map(|m| m.into_iter().map(|(k, v)| format!("{k}={v}")).collect::<Vec<_>>().join(" "))
    };
    let all = Some("artist=dov drawing=027 shot=012".to_string());
    assert_eq!(read("{shot}_{artist}_{drawing}", "012_dov_027.png"), all);
    assert_eq!(read("{shot}_{artist}_{drawing}", "in/late/012_dov_027.v2.png").map(|m| m.contains("drawing=027.v2")), Some(true));
    assert_eq!(read("sh{shot}-{artist}-d{drawing}", "sh012-dov-d027.tif"), all);
    assert_eq!(read("{shot}_{artist}_{drawing}", "C:\\scans\\012_dov_027.png"), all);
    for miss in ["012_dov.png", "012-dov-027.png", "_dov_027.png", "012_dov_.png", "", ".png"] {
        assert_eq!(read("{shot}_{artist}_{drawing}", miss), None, "{miss}");
    }
    // The last field takes the rest; a text at the end must be there.
    assert_eq!(read("{artist} {drawing}", "dov 12 of 30.png"), Some("artist=dov drawing=12 of 30".into()));
    assert_eq!(read("{drawing}_clean", "27_rough.png"), None);
    assert_eq!(read("{drawing}_clean", "27_clean.png"), Some("drawing=27".into()));
}

#[test]
fn a_pattern_that_cannot_work_says_why() {
    for (pattern, says) in [
        ("", "no field"),
        ("drawing.png", "no field"),
        ("{shot", "not closed"),
        ("{painter}_{drawing}", "painter"),
        ("{shot}{drawing}", "side by side"),
        ("{shot}_{shot}", "twice"),
    ] {
        assert!(NamePattern::parse(pattern).expect_err(pattern).to_string().contains(says), "{pattern}");
    }
}

proptest! {
    /// What a pattern wrote, it reads.
    #[test]
    fn fields_come_back(shot in "[0-9a-z]{1,6}", artist in "[a-z]{1,9}", drawing in "[0-9]{1,4}") {
        let read = NamePattern::parse("{shot}_{artist}_{drawing}").expect("a pattern").read(&format!("x/{shot}_{artist}_{drawing}.png")).expect("it fits");
        prop_assert_eq!([&read["shot"], &read["artist"], &read["drawing"]], [&shot, &artist, &drawing]);
    }

    /// No pattern and no name make the reader fall over.
    #[test]
    fn any_pattern_and_any_name_are_read_or_refused(pattern in "[{}a-z_/.é]{0,30}", name in "\\PC{0,30}") {
        if let Ok(p) = NamePattern::parse(&pattern) {
            let _ = p.read(&name);
        }
        let _ = fits(&pattern, &name);
    }

    /// Scaling a guide's weight and back is nothing.
    #[test]
    fn scales_undo(target in 0.1f64..50.0, tolerance in 0.0f64..1.0, k in 0.1f64..8.0) {
        let w = Weight { target, tolerance, swell: Some([0.5 * target, 2.0 * target]) };
        let back = w.scaled(k).scaled(1.0 / k);
        prop_assert!((back.target - target).abs() < 1e-9 && (back.living()[1] - 2.0 * target).abs() < 1e-9);
    }
}

/// Lengths that no search would end for: no line is wider, no gap and no hook longer than the page is.
#[test]
fn no_length_of_a_guide_is_longer_than_its_page() {
    let with = |f: &dyn Fn(&mut LineGuide)| {
        let mut g = common::guide(vec![common::role("line", "#1b1e24", 6.0, 0.1)]);
        f(&mut g);
        g.validate()
    };
    assert!(with(&|g| g.limits.gap_px = 800.0).is_ok() && with(&|g| g.limits.hook_px = 800.0).is_ok());
    for (says, spoilt) in [
        ("gap_px and hook_px", with(&|g| g.limits.gap_px = 801.0)),
        ("gap_px and hook_px", with(&|g| g.limits.hook_px = 1e6)),
        ("no more than a million", with(&|g| g.limits.gap_px = 1e9)),
        ("no more than a million", with(&|g| g.limits.speck_px2 = f64::INFINITY)),
        ("no more than the page is long", with(&|g| g.roles[0].weight_px.as_mut().expect("a weight").target = 1e9)),
    ] {
        let said = spoilt.expect_err(says);
        assert!(said.contains(says), "{said}");
    }
}
