//! A whole brush by the command: every part of the contract's example inked, a sheet and a warm-up fitted part by part, and what
//! a brush with an impossible part is told.

mod common;

use std::fs;

use common::{Folder, document, eddymist, refused};
use eddymist_formats::{LIMITS, images, inkml, inkml::write_warmup};
use eddymist_sim::{
    pens::PENS,
    production::sheet_scan,
    stylus::{HANDS, TABLETS, warmup},
};
use serde_json::{Value, json};

/// Every part that a brush of the contract can be given, but for the stroke kinds.
fn whole() -> Value {
    json!({
        "format": "eddymist/brush", "version": 1, "name": "whole",
        "nib": {"shape": "ellipse", "breadth": 0.4, "angle_deg": -20.0, "angle_from": "page", "turn_range_deg": 12.0, "widen_by_tilt": 1.5},
        "weight": [[0.0, 0.1], [0.5, 0.4], [1.0, 1.1]], "floor_mm": 0.08, "driver": "both",
        "lead_in": {"length_mm": 1.0, "share": 0.2, "tip_width_mm": 0.1, "shape": 1.0, "over_mm_s": 0.0},
        "lead_out": {"length_mm": 6.0, "share": 0.35, "tip_width_mm": 0.05, "shape": 0.8, "over_mm_s": 10.0},
        "pace": [[0.0, 1.0], [200.0, 0.8]], "pooling": {"ratio": 1.3, "time_s": 0.4},
        "smoothing": {"position": {"kind": "adaptive", "min_cutoff_hz": 1.0, "speed_coefficient": 0.01},
                      "effort": {"kind": "average", "span_ms": 20.0}, "lift_guard_ms": 15.0},
        "opacity": {"floor": 0.6, "full": 1.0}, "edge": {"softness_mm": 0.05, "raggedness_um": 6.0, "correlation_um": 140.0},
        "chance": {"spread": 0.02, "correlation_mm": 2.0}, "stroke": {"kind": "swept"}, "colour": "#1b1e24", "seed": 1
    })
}

#[test]
fn every_part_of_a_brush_is_inked_and_the_strokes_keep_their_samples() {
    let f = Folder::new("whole");
    let brush = f.put("brush.json", whole().to_string());
    let strokes = f.put("w.inkml", write_warmup(&warmup(&HANDS[1], &TABLETS[0], 5)));
    for out in ["o.svg", "o.png", "o.inkml"] {
        let done = eddymist(&["ink", "--brush", &brush, "--strokes", &strokes, "--out", &f.path(out)]);
        assert!(done.status.success(), "{out}: {}", String::from_utf8_lossy(&done.stderr));
    }
    // Opacity and softness are in the files: steps of opacity, a blur, coverage between nothing and all.
    let svg = fs::read_to_string(f.path("o.svg")).expect("an SVG");
    assert!(svg.contains("fill-opacity") && svg.contains("feGaussianBlur"));
    let picture = images::rgba(&fs::read(f.path("o.png")).expect("a PNG"), &LIMITS).expect("it reads");
    let between = picture.data.chunks(4).filter(|p| (1..255).contains(&p[3])).count();
    assert!(between * 3 > picture.data.chunks(4).filter(|p| p[3] > 0).count());
    // One trace for each pen-down trace, in order, with the same samples and times, and a width at each.
    let text = fs::read_to_string(f.path("o.inkml")).expect("InkML");
    assert!(text.contains("name=\"W\""));
    let (drawn, inked) =
        (inkml::read(&fs::read_to_string(&strokes).expect("text"), &LIMITS).expect("strokes"), inkml::read(&text, &LIMITS).expect("inked strokes"));
    for (a, b) in drawn.strokes().zip(inked.strokes()) {
        assert_eq!(a.samples.len(), b.samples.len());
        assert!(a.samples.iter().zip(&b.samples).all(|(p, q)| (p.t_ms - a.samples[0].t_ms - (q.t_ms - b.samples[0].t_ms)).abs() < 0.06));
    }
    // Another seed, another edge; the same seed, the same bytes.
    let mut other = whole();
    other["seed"] = 2.into();
    let reseeded = f.put("other.json", other.to_string());
    eddymist(&["ink", "--brush", &reseeded, "--strokes", &strokes, "--out", &f.path("p.svg")]);
    eddymist(&["ink", "--brush", &brush, "--strokes", &strokes, "--out", &f.path("q.svg")]);
    assert_ne!(svg, fs::read_to_string(f.path("p.svg")).expect("an SVG"));
    assert_eq!(svg, fs::read_to_string(f.path("q.svg")).expect("an SVG"));
}

#[test]
fn a_sheet_and_a_warm_up_are_fitted_part_by_part() {
    let f = Folder::new("parts");
    let scan = f.put("sheet.png", sheet_scan(&PENS[4], 300.0, 31));
    let measured = eddymist(&["measure", "sheet", &scan, "--json"]);
    let card = document(&measured, "pen-card");
    assert!(card["hatching"]["coarseness"].as_f64().is_some_and(|c| c > 0.3) && card["free_line"].as_array().is_some_and(|q| q.len() == 19));
    assert!(card["edge"]["raggedness_interval_um"][0].as_f64() < card["edge"]["raggedness_um"].as_f64());
    let card = f.put("card.json", &measured.stdout);
    let strokes = f.put("w.inkml", write_warmup(&warmup(&HANDS[0], &TABLETS[0], 5)));
    let profile = f.put("t.json", &eddymist(&["tablet", &strokes, "--json"]).stdout);
    let all = ["fit", "--pen", &card, "--warmup", &strokes, "--tablet", &profile, "--json"];
    let m = document(&eddymist(&all), "match");
    let parts: Vec<&str> = m["parts"].as_array().expect("parts").iter().filter_map(|p| p["part"].as_str()).collect();
    for part in ["weight", "nib", "pace", "pooling", "lead-in", "lead-out", "edge", "steadiness"] {
        assert!(parts.contains(&part), "{part} of {parts:?}");
    }
    let nib = &m["brush"]["nib"];
    assert!(nib["shape"] == "ellipse" && (nib["angle_deg"].as_f64().expect("an angle") - 38.0).abs() < 2.0, "{nib}");
    // A locked part stays as the starting brush has it.
    let start =
        f.put("start.json", json!({"format":"eddymist/brush","version":1,"name":"s","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]]}).to_string());
    let locked = [&all[..7], &["--brush", &start, "--lock", "nib,edge", "--json"]].concat();
    let m = document(&eddymist(&locked), "match");
    assert!(m["brush"]["nib"]["shape"] == "round" && m["brush"]["edge"].is_null() && m["brush"]["pooling"].is_object());
    let differs = m["parts"].as_array().expect("parts").iter().any(|p| p["part"] == "nib" && p["verdict"] == "differs");
    assert!(differs, "a round nib is no chisel");
}

#[test]
fn a_brush_that_cannot_be_is_refused_by_its_field() {
    let f = Folder::new("bad-brush");
    let strokes = f.put("w.inkml", write_warmup(&warmup(&HANDS[0], &TABLETS[0], 5)));
    let wrong: [(&str, Value, &str); 11] = [
        ("/nib", json!({"shape": "polygon"}), "corners"),
        ("/nib", json!({"shape": "drawn", "points": [[0, 0], [1, 1], [2, 2]]}), "no area"),
        ("/nib", json!({"shape": "spring", "opening_mm": -1}), "nib.opening_mm"),
        ("/nib", json!({"shape": "ellipse", "breadth": 0.0}), "nib.breadth"),
        ("/weight", json!([[0.0, 0.5], [1.0, 0.2]]), "fall"),
        ("/weight", json!([[0.0, -0.5], [1.0, 0.2]]), "widths"),
        ("/pace", json!([[0.0, 1.0], [100.0, 0.5], [200.0, 0.9]]), "only rise or only fall"),
        ("/pooling", json!({"ratio": 1.2, "time_s": 0.0}), "pooling"),
        ("/smoothing/effort", json!({"kind": "tow", "radius_mm": 1.0}), "smoothing.effort"),
        ("/edge/strip_png", json!("data:image/png;base64,AAAA"), "no readable PNG"),
        ("/stroke", json!({"kind": "shaped", "shape_path": "M0 0", "ends": "stretch"}), "stroke.shape_path"),
    ];
    for (at, value, says) in wrong {
        let mut b = whole();
        if at == "/edge/strip_png" {
            b["edge"]["strip_png"] = value;
        } else {
            *b.pointer_mut(at).expect(at) = value;
        }
        let brush = f.put("b.json", b.to_string());
        refused(&["ink", "--brush", &brush, "--strokes", &strokes, "--out", &f.path("o.svg")], says);
        assert!(!f.0.join("o.svg").exists(), "{at}: nothing is written");
    }
}

/// Every stroke kind by the command: outlines, pictures and strokes out, each as the kind says.
#[test]
fn every_stroke_kind_is_inked_by_the_command() {
    let f = Folder::new("kinds");
    let some = &warmup(&HANDS[0], &TABLETS[0], 3).groups[2].strokes[..2];
    let strokes = f.put("w.inkml", inkml::write_strokes(some, None));
    let leaf = "M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z";
    let dot = images::write_png(8, 8, images::PngKind::Grey, &[0; 64], None).expect("a PNG");
    let tip = format!("data:image/png;base64,{}", base64::Engine::encode(&base64::engine::general_purpose::STANDARD, dot));
    for stroke in [
        json!({"kind": "shaped", "shape_path": leaf, "ends": "stretch"}),
        json!({"kind": "shaped", "shape_path": leaf, "ends": "keep", "caps": [0.3, 0.3], "break_over_deg": 60.0}),
        json!({"kind": "dry-brush", "hairs": 9, "spread": 0.4, "snap": 0.5, "ink_held": 1.5}),
        json!({"kind": "stamped", "tip_png": tip, "spacing": 0.2, "stray": 0.3}),
        json!({"kind": "pixel"}),
    ] {
        let kind = stroke["kind"].as_str().expect("a kind").to_string();
        let text =
            json!({"format": "eddymist/brush", "version": 1, "name": kind, "nib": {"shape": "round"}, "weight": [[0.0, 0.2], [1.0, 0.8]], "stroke": stroke})
                .to_string();
        let brush = f.put("b.json", &text);
        for out in ["o.svg", "o.png", "o.inkml"] {
            let done = eddymist(&["ink", "--brush", &brush, "--strokes", &strokes, "--dpi", "150", "--out", &f.path(out)]);
            assert!(done.status.success(), "{kind}, {out}: {}", String::from_utf8_lossy(&done.stderr));
        }
        let svg = fs::read_to_string(f.path("o.svg")).expect("an SVG");
        // What is set down has no outline: it goes out as pictures.
        assert_eq!((svg.contains("<image "), svg.contains("<path ")), (kind == "stamped", kind != "stamped"), "{kind}");
        let picture = images::rgba(&fs::read(f.path("o.png")).expect("a PNG"), &LIMITS).expect("it reads");
        let alphas: Vec<u8> = picture.data.chunks(4).map(|p| p[3]).collect();
        assert!(alphas.iter().any(|a| *a > 200), "{kind}");
        // One pixel is hard; all else has pixels between ink and paper.
        assert_eq!(alphas.iter().any(|a| (1..255).contains(a)), kind != "pixel", "{kind}");
    }
    let shapeless = json!({"format": "eddymist/brush", "version": 1, "name": "x", "nib": {"shape": "round"}, "weight": [[0.0, 0.2], [1.0, 0.8]], "stroke": {"kind": "stamped", "tip_png": "", "spacing": 0.2}});
    let brush = f.put("missing.json", shapeless.to_string());
    refused(&["ink", "--brush", &brush, "--strokes", &strokes, "--out", &f.path("n.svg")], "stroke.tip_png: the picture is missing");
}
