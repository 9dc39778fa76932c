//! The command as a script would call it: the whole chain on simulated data, and what it refuses and how.

mod common;

use std::{collections::BTreeMap, fs, path::Path};

use common::{Folder, document, eddymist, refused};
use eddymist_formats::{LIMITS, inkml::write_warmup};
use eddymist_sim::{
    osk::Pose,
    pens::PENS,
    production::{DELIVERIES, drawing, line_guide, pen_scan, render},
    stylus::{HANDS, TABLETS, warmup},
};
use serde_json::json;

#[test]
fn a_scan_a_warm_up_and_a_delivery_go_through() {
    let f = Folder::new("chain");
    let scan = f.put("pen.png", pen_scan(&PENS[0], 600.0, 4).0);
    let line = eddymist(&["measure", "line", &scan, "--json"]);
    let measured = document(&line, "line-measurement");
    assert_eq!(measured["nearest_standard_width_mm"], 0.35);
    let card = f.put("card.json", &line.stdout);
    let strokes = f.put("warmup.inkml", write_warmup(&warmup(&HANDS[0], &TABLETS[1], 2)));
    let profile = eddymist(&["tablet", &strokes, "--json"]);
    document(&profile, "tablet-profile");
    let tablet = f.put("tablet.json", &profile.stdout);
    let brush = f.path("brush.json");
    let fitted = document(&eddymist(&["fit", "--pen", &card, "--warmup", &strokes, "--tablet", &tablet, "--out", &brush, "--json"]), "match");
    assert!((fitted["brush"]["weight"][0][1].as_f64().expect("a width") - 0.35).abs() < 0.02);
    for out in ["line.svg", "line.png", "line.inkml"] {
        let done = eddymist(&["ink", "--brush", &brush, "--strokes", &strokes, "--tablet", &tablet, "--out", &f.path(out)]);
        assert!(done.status.success() && done.stdout.is_empty(), "{}", String::from_utf8_lossy(&done.stderr));
        // The same seed, the same bytes.
        let first = fs::read(f.path(out)).expect("written");
        eddymist(&["ink", "--brush", &brush, "--strokes", &strokes, "--tablet", &tablet, "--out", &f.path(out)]);
        assert_eq!(first, fs::read(f.path(out)).expect("written"));
    }
    let inked = eddymist_formats::inkml::read(&fs::read_to_string(f.path("line.inkml")).expect("text"), &LIMITS).expect("it reads again");
    // One line a stroke of the warm-up.
    let drawn = eddymist_formats::inkml::read(&fs::read_to_string(&strokes).expect("text"), &LIMITS).expect("a warm-up");
    assert_eq!(inked.strokes().count(), drawn.strokes().count());
    let paths = f.put("p.svg", r#"<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="10mm" viewBox="0 0 40 10"><path d="M2 5C12 0 28 10 38 5" stroke="red" fill="none"/></svg>"#);
    assert!(eddymist(&["ink", "--brush", &brush, "--paths", &paths, "--course", "swell", "--out", &f.path("p-out.svg")]).status.success());

    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    fs::create_dir_all(f.0.join("shot")).expect("a folder");
    for n in [7, 2, 3] {
        let d = drawing(&DELIVERIES[0], n, 12);
        f.put(&format!("shot/{}", d.file), d.png);
    }
    let args = ["check", "--guide", &guide, &f.path("shot"), "--names", "{shot}_{artist}_{drawing}", "--overlay", &f.path("over"), "--json"];
    let out = eddymist(&args);
    assert_eq!(out.status.code(), Some(0));
    let check = document(&out, "line-check");
    let verdict = |i: usize| check["drawings"][i]["roles"][0]["verdict"].clone();
    assert_eq!((verdict(0), verdict(1)), (json!("heavy"), json!("within")));
    // In the natural order of the names, which begin with shot and artist.
    let artists: Vec<&str> = (0..3).filter_map(|i| check["drawings"][i]["manifest"]["artist"].as_str()).collect();
    assert_eq!(artists, ["dov", "ilse", "pia"]);
    assert_eq!(fs::read_dir(f.0.join("over")).expect("overlays").count(), 3);
    assert_eq!(eddymist(&[&args[..], &["--strict"]].concat()).status.code(), Some(3));
    // A bad file among good ones does not stop them.
    f.put("shot/bad.png", b"\x89PNG\r\n\x1a\nshort");
    let mixed = eddymist(&args);
    assert_eq!(mixed.status.code(), Some(2));
    assert_eq!(document(&mixed, "line-check")["failed"].as_array().map(Vec::len), Some(1));
}

#[test]
fn a_drawing_of_half_the_size_weighs_the_same_against_its_guide() {
    let f = Folder::new("half");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    let mean = |scale: f64| -> BTreeMap<String, f64> {
        let file = f.put(&format!("d{scale}.png"), render(&Pose::in_phase(0.2), scale, |_, _| 1.0, 5));
        let check = document(&eddymist(&["check", "--guide", &guide, &file, "--json"]), "line-check");
        let roles = check["drawings"][0]["roles"].as_array().expect("roles").clone();
        roles.iter().filter_map(|r| Some((r["role"].as_str()?.to_string(), r["weight_px"]["mean"].as_f64()? / scale))).collect()
    };
    let (whole, half) = (mean(1.0), mean(0.5));
    for (role, w) in whole.iter().filter(|r| r.0 != "hole mark") {
        assert!((half[role] / w - 1.0).abs() < 0.02, "{role}: {w} and {}", half[role]);
    }
}

#[test]
fn unusable_input_is_refused_in_one_line() {
    let f = Folder::new("bad");
    let empty = f.put("empty.png", b"");
    let short = f.put("short.png", &pen_scan(&PENS[0], 300.0, 1).0[..2000]);
    let bare = f.put("bare.png", render(&Pose::in_phase(0.0), 0.2, |_, _| 1.0, 1));
    let ink = |body: &str| f.put("s.inkml", format!("<ink xmlns=\"http://www.w3.org/2003/InkML\">{body}</ink>"));
    let plain = f.put("plain.json", r#"{"format":"eddymist/brush","version":1,"name":"plain 0.5","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]]}"#);
    let shapeless = f.put(
        "shapeless.json",
        r#"{"format":"eddymist/brush","version":1,"name":"p","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]],"lay":{"kind":"bent","shape_path":"M0 0"}}"#,
    );
    let good = f.put("good.inkml", "<ink><trace>0 0, 5 5</trace></ink>");
    let out = f.path("o.svg");
    refused(&["measure", "line", &empty, "--json"], "empty");
    refused(&["measure", "line", &short, "--json"], "damaged");
    refused(&["measure", "line", &bare, "--json"], "--dpi");
    refused(&["measure", "line", &f.path("none.png"), "--json"], "none.png");
    refused(&["tablet", &ink("<trace>0 0, 1 1</trace>"), "--json"], "exercise");
    refused(&["tablet", &ink("<trace>0 NaN</trace>"), "--json"], "no number");
    refused(&["tablet", &ink("<traceFormat><channel name=\"X\" units=\"furlong\"/><channel name=\"Y\"/></traceFormat>"), "--json"], "furlong");
    refused(&["ink", "--brush", &shapeless, "--strokes", &good, "--out", &out], "stroke.shape_path");
    refused(&["ink", "--brush", &plain, "--strokes", &good, "--out", &f.path("o.gif")], ".svg");
    refused(&["ink", "--brush", &plain, "--strokes", &good, "--course", "[[0,2]]", "--out", &out], "course");
    refused(&["fit", "--pen", &plain, "--json"], "eddymist/pen-card");
    refused(&["check", "--guide", &plain, &bare, "--json"], "eddymist/line-guide");
    let mut guide = serde_json::to_value(line_guide()).expect("JSON");
    guide["roles"][0]["weight_px"]["target"] = json!(0);
    refused(&["check", "--guide", &f.put("g.json", guide.to_string()), &bare, "--json"], "over 0");
    assert!(!Path::new(&out).exists());
}
