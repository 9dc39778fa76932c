//! The command line word by word: what is printed where, what each option does, which status comes back.

mod common;

use std::fs;

use common::{Folder, document, eddymist, refused};
use eddymist_formats::{LIMITS, images, inkml, inkml::write_warmup};
use eddymist_sim::{
    osk::Pose,
    pens::PENS,
    production::{line_guide, pen_scan, render, sheet_scan},
    stylus::{HANDS, TABLETS, warmup},
};
use serde_json::{Value, json};

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

const PLAIN: &str = r#"{"format":"eddymist/brush","version":1,"name":"plain","nib":{"shape":"round"},"weight":[[0.0,0.2],[1.0,1.0]]}"#;

#[test]
fn without_json_a_table_is_read_by_people() {
    let f = Folder::new("tables");
    let scan = f.put("pen.png", pen_scan(&PENS[0], 600.0, 4).0);
    let out = eddymist(&["measure", "line", &scan]);
    let lines = text(&out.stdout);
    assert!(out.status.success() && lines.lines().count() == 22, "{lines}");
    assert!(lines.lines().next().is_some_and(|l| l.contains("width ± sd") && l.contains("ragged")) && lines.contains("nearest standard width: 0.35 mm"));
    let strokes = f.put("w.inkml", write_warmup(&warmup(&HANDS[2], &TABLETS[2], 2)));
    let profile = text(&eddymist(&["tablet", &strokes]).stdout);
    for what in ["pressure noise", "µm every 5.1 mm", "activation", "full point", "pressure steps", "report rate", "response", "→", "reached early"] {
        assert!(profile.contains(what), "{what}: {profile}");
    }
    let card = f.put("card.json", &eddymist(&["measure", "line", &scan, "--json"]).stdout);
    let fitted = text(&eddymist(&["fit", "--pen", &card]).stdout);
    assert!(fitted.contains("weight") && fitted.contains("too few lines to say") && fitted.contains("assumed"), "{fitted}");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    let drawing = f.put("d.png", render(&Pose::in_phase(0.0), 1.0, |role, _| if role == 0 { 1.2 } else { 1.0 }, 5));
    let checked = text(&eddymist(&["check", "--guide", &guide, &drawing]).stdout);
    assert!(checked.contains("contour") && checked.to_lowercase().contains("heavy") && checked.contains("d.png"), "{checked}");
}

/// A photo needs no resolution, is known by its perspective, and gives no edges; what it cannot tell is said where people look for it.
#[test]
fn a_photographed_sheet_comes_back_as_a_card() {
    let f = Folder::new("photo");
    let bytes = include_bytes!("../../../tests/reference/photo.jpg");
    let photo = f.put("photo.jpg", bytes);
    let card = document(&eddymist(&["measure", "sheet", &photo, "--json"]), "pen-card");
    assert_eq!((&card["source"]["kind"], &card["source"]["from"]["kind"]), (&json!("photo"), &json!("measured")));
    assert_eq!(card["source"]["from"]["resolution"], json!("measured"));
    assert!(card["edge"].is_null() && card["strip_png"].is_null() && card["widths_by_effort"].as_array().is_some_and(|w| w.len() == 5));
    let warnings: Vec<&str> = card["warnings"].as_array().expect("warnings").iter().filter_map(Value::as_str).collect();
    for what in ["not measurable from this photo", "taken as printed at full size"] {
        assert!(warnings.iter().any(|w| w.contains(what)), "{what}: {warnings:?}");
    }
    let out = eddymist(&["measure", "sheet", &photo]);
    let (table, said) = (text(&out.stdout), text(&out.stderr));
    assert!(table.contains("a photo of 7.5 px to the mm, at least 7.0; printed bars: ") && said.contains("lay a bank card beside it"), "{table}{said}");
    // What is given is kept to: a scan needs its resolution, and with it is told to be no scan.
    refused(&["measure", "sheet", &photo, "--kind", "scan"], "no scanner’s resolution is in the file");
    let scan = text(&eddymist(&["measure", "sheet", &photo, "--kind", "scan", "--dpi", "190"]).stderr);
    assert!(scan.contains("looks like a photo"), "{scan}");
    // No sheet is in it, or only half of one.
    let no_sheet = f.put("pen.png", pen_scan(&PENS[0], 300.0, 4).0);
    refused(&["measure", "sheet", &no_sheet, "--kind", "photo"], "no corner mark of a sampler sheet was found");
    let whole = images::rgba(bytes, &LIMITS).expect("a picture");
    let half: Vec<u8> = whole.data[..whole.data.len() / 8 * 4].to_vec();
    let half = images::write_png(whole.width, whole.height / 2, images::PngKind::Rgba, &half, None).expect("a PNG");
    refused(&["measure", "sheet", &f.put("half.png", half), "--kind", "photo"], "2 of the four corner marks could be found");
}

#[test]
fn a_sheet_is_written_in_four_kinds_and_comes_back_as_a_card() {
    let f = Folder::new("sheet");
    let plan = document(&eddymist(&["sheet", "--paper", "letter", "--number", "ABC234", "--json"]), "sampler-sheet");
    assert_eq!((plan["number"].as_str(), plan["cells"].as_array().map(Vec::len), plan["size_mm"][0].as_f64()), (Some("ABC234"), Some(17), Some(215.9)));
    for (name, start) in [("s.pdf", &b"%PDF"[..]), ("s.svg", b"<svg"), ("s.png", b"\x89PNG"), ("s.ora", b"PK")] {
        let out = f.path(name);
        assert!(eddymist(&["sheet", "--paper", "a4", "--out", &out, "--dpi", "150"]).status.success());
        assert!(fs::read(&out).expect("read").starts_with(start), "{name}");
    }
    // The printed page is the paper's size, in points.
    assert!(text(&fs::read(f.path("s.pdf")).expect("read")).contains("595.2"));
    let inked = f.put("inked.png", sheet_scan(&PENS[2], 300.0, 3));
    let card = document(&eddymist(&["measure", "sheet", &inked, "--json"]), "pen-card");
    assert_eq!((card["widths_by_effort"].as_array().map(Vec::len), card["nib"]["law"].as_str()), (Some(5), Some("spring")));
    // Raw figures stand beside their means.
    let count = |v: &Value| v.as_array().map_or(0, Vec::len);
    assert!(count(&card["nib"]["rays"]) >= 20 && count(&card["widths_by_effort"][2]["each_mm"]) >= 5 && count(&card["lead_out"]["each_90_mm"]) >= 8);
    assert!(count(&card["widths_by_pace"][0]["each_mm"]) >= 2 && count(&card["edge"]["each_um"]) >= 20);
    assert!(card["strip_png"].as_str().is_some_and(|s| s.starts_with("data:image/png")) && card["lead_out"]["flicks"].as_u64() >= Some(9));
    // What was given is said in the card.
    let said = document(&eddymist(&["measure", "sheet", &inked, "--kind", "photo", "--json"]), "pen-card");
    let from = |card: &Value| {
        [&card["source"]["kind"], &card["source"]["from"]["kind"], &card["source"]["from"]["resolution"]].map(|v| v.as_str().unwrap_or_default().to_string())
    };
    assert_eq!((from(&card), from(&said)), (["scan", "assumed", "file"].map(String::from), ["photo", "stated", "measured"].map(String::from)));
    assert!(said["edge"].is_null() && said["strip_png"].is_null());
    refused(&["measure", "sheet", &inked, "--kind", "painting"], "drawing, scan or photo");
    refused(&["measure", "sheet", &inked, "--icc", &f.put("no.icc", "no profile")], "colour profile cannot be used");
    let table = text(&eddymist(&["measure", "sheet", &inked]).stdout);
    for what in ["printed at 98.5 %", "hardest", "lead-out", "spring", "mm/s"] {
        assert!(table.contains(what), "{what}: {table}");
    }
    // A card from a sheet fits a brush like any other.
    let card = f.put("card.json", serde_json::to_vec(&card).expect("JSON"));
    document(&eddymist(&["fit", "--pen", &card, "--json"]), "match");
    refused(&["sheet", "--paper", "a5"], "a4 and letter");
    refused(&["sheet", "--paper", "a4", "--out", &f.path("s.doc")], ".pdf, .svg, .png or .ora");
    refused(&["sheet", "--paper", "a4", "--out", &f.path("s.png"), "--dpi", "10"], "between 150 and 1200");
    refused(&["sheet", "--paper", "a4", "--number", "abc"], "six capitals");
    refused(&["measure", "sheet", &inked, "--dpi", "600", "--json"], "about 295 would fit");
    refused(&["measure", "sheet", &f.put("lines.png", pen_scan(&PENS[0], 300.0, 4).0), "--json"], "no corner mark");
}

#[test]
fn an_area_of_a_scan_is_measured_alone() {
    let f = Folder::new("area");
    let scan = f.put("pen.png", pen_scan(&PENS[1], 300.0, 4).0);
    let all = document(&eddymist(&["measure", "line", &scan, "--json"]), "line-measurement");
    let (w, h) = images::dimensions(&fs::read(&scan).expect("read"), &LIMITS).expect("a picture");
    let upper = document(&eddymist(&["measure", "line", &scan, "--area", &format!("0,0,{w},{}", h / 2), "--json"]), "line-measurement");
    let count = |v: &Value| v["lines"].as_array().map_or(0, Vec::len);
    assert!(count(&upper) >= 9 && count(&upper) <= 11 && count(&all) == 20, "{} of {}", count(&upper), count(&all));
    for k in 0..9 {
        let (a, b) = (&all["lines"][k]["width_mm"]["mean"], &upper["lines"][k]["width_mm"]["mean"]);
        assert!((a.as_f64().expect("a width") - b.as_f64().expect("a width")).abs() < 0.006, "line {k}: {a} and {b}");
    }
    for (area, says) in [("0,0,10", "X,Y,W,H"), ("0,0,ten,10", "X,Y,W,H"), ("0,0,99999,10", "outside the scan"), ("5,5,0,10", "outside the scan")] {
        refused(&["measure", "line", &scan, "--area", area, "--json"], says);
    }
    refused(&["measure", "line", &scan, "--dpi", "20", "--json"], "between 50 and 10000");
    // What is typed overrules the file.
    let doubled = document(&eddymist(&["measure", "line", &scan, "--dpi", "600", "--json"]), "line-measurement");
    assert_eq!(doubled["resolution_dpi"], 600.0);
    let ratio = all["lines"][8]["width_mm"]["mean"].as_f64().expect("a width") / doubled["lines"][8]["width_mm"]["mean"].as_f64().expect("a width");
    assert!((ratio - 2.0).abs() < 0.02, "{ratio}");
}

#[test]
fn a_fit_takes_its_response_from_the_warm_up_or_says_that_it_assumes_one() {
    let f = Folder::new("fit");
    let card = f.put(
        "card.json",
        r#"{"format":"eddymist/pen-card","version":1,"name":"p","resolution_dpi":600,"widths_by_effort":[
            {"effort":0.0,"width_mm":0.2,"sd_mm":0.01,"lines":6},{"effort":0.25,"width_mm":0.3,"sd_mm":0.01,"lines":6},{"effort":0.5,"width_mm":0.4,"sd_mm":0.01,"lines":6},
            {"effort":0.75,"width_mm":0.6,"sd_mm":0.01,"lines":6},{"effort":1.0,"width_mm":0.9,"sd_mm":0.01,"lines":6}]}"#,
    );
    let strokes = f.put("w.inkml", write_warmup(&warmup(&HANDS[0], &TABLETS[0], 2)));
    let tablet = f.put("t.json", &eddymist(&["tablet", &strokes, "--json"]).stdout);
    let fit = |more: &[&str]| document(&eddymist(&[&["fit", "--pen", &card, "--json"], more].concat()), "match");
    let assumed = |v: &Value| v["assumed"].to_string();
    let bare = fit(&[]);
    assert!(assumed(&bare).contains("no warm-up") && assumed(&bare).contains("no tablet profile"), "{bare}");
    assert_eq!(bare["parts"][0]["verdict"], "too-few");
    // The warm-up alone and with its own profile are the same thing.
    let (alone, both) = (fit(&["--warmup", &strokes]), fit(&["--warmup", &strokes, "--tablet", &tablet]));
    assert!(!assumed(&alone).contains("no tablet profile"), "{alone}");
    assert_eq!(alone["brush"]["weight"], both["brush"]["weight"]);
    assert_eq!(both["parts"][0]["verdict"], "alike", "{both}");
    let start = f.put("start.json", PLAIN);
    let locked = fit(&["--warmup", &strokes, "--brush", &start, "--lock", "weight, nib"]);
    assert_eq!((&locked["brush"]["weight"], &locked["parts"][0]["verdict"]), (&json!([[0.0, 0.2], [1.0, 1.0]]), &json!("differs")));
    refused(&["fit", "--pen", &card, "--lock", "handle", "--json"], "“handle” is no part; weight, nib");
    refused(&["fit", "--pen", &card, "--tablet", &start, "--json"], "eddymist/tablet-profile");
    refused(&["fit", "--pen", &card, "--warmup", &f.put("w.json", "{}"), "--json"], "XML");
}

#[test]
fn ink_comes_out_as_svg_png_and_inkml_of_one_line() {
    let f = Folder::new("ink");
    let brush = f.put("b.json", PLAIN);
    let strokes = f.put(
        "s.inkml",
        "<ink><traceFormat><channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\"/></traceFormat><trace>10 5 0.5, 20 5 0.5, 30 5 0.5</trace><trace>10 9 1, 30 9 1</trace></ink>",
    );
    let out = |name: &str, more: &[&str]| {
        let path = f.path(name);
        let done = eddymist(&[&["ink", "--brush", &brush, "--strokes", &strokes, "--out", &path], more].concat());
        assert!(done.status.success() && done.stdout.is_empty(), "{}", text(&done.stderr));
        fs::read(path).expect("written")
    };
    // Without a tablet the force is the effort: 0.6 and 1 mm wide, where the strokes lie.
    let svg = text(&out("o.svg", &[]));
    assert!(svg.contains("mm\"") && svg.contains("viewBox=\"9.49") && svg.matches("<path").count() == 2, "{svg}");
    let inked = inkml::read(&text(&out("o.inkml", &[])), &LIMITS).expect("it reads");
    assert_eq!(inked.strokes().map(|s| s.samples.len()).collect::<Vec<_>>(), [3, 2]);
    assert!(text(&out("o.inkml", &[])).contains("10 5 0.5 0.6,") && text(&out("o.inkml", &[])).contains("name=\"W\""));
    let png = out("o.png", &[]);
    assert_eq!(images::resolution(&png), Some(600.0));
    assert_eq!(images::resolution(&out("p.png", &["--dpi", "300"])), Some(300.0));
    let p = images::rgba(&png, &LIMITS).expect("a picture");
    let area = p.data.chunks(4).map(|c| f64::from(c[3]) / 255.0).sum::<f64>() * (25.4f64 / 600.0).powi(2);
    let want = 20.0 * 0.6 + std::f64::consts::PI * 0.09 + 20.0 + std::f64::consts::PI * 0.25;
    assert!((area / want - 1.0).abs() < 3e-3, "{area} and {want}");
    // A course overrules the stylus; paths without units are px, and standard error says so.
    assert!(text(&out("c.inkml", &["--course", "[[0,0],[1,1]]"])).contains("20 5 0.5 0.6,"));
    let paths = f.put("p.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"96\" height=\"96\"><path d=\"M0 48H96\" stroke=\"red\"/></svg>");
    let done = eddymist(&["ink", "--brush", &brush, "--paths", &paths, "--course", "even", "--out", &f.path("q.inkml")]);
    assert!(done.status.success() && text(&done.stderr).contains("96 px to the inch"));
    let q = text(&fs::read(f.path("q.inkml")).expect("written"));
    assert!(q.contains("25.4 12.7") && q.contains(" 0.6,") && !q.contains("name=\"T\""), "{q}");
    refused(&["ink", "--brush", &brush, "--strokes", &f.put("none.inkml", "<ink/>"), "--out", &f.path("x.svg")], "no stroke");
    refused(&["ink", "--brush", &brush, "--strokes", &strokes, "--dpi", "3", "--out", &f.path("x.png")], "between 10 and 10000");
}

#[test]
fn a_check_reads_manifest_folder_and_archive_and_its_status_says_the_worst() {
    let f = Folder::new("check");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    fs::create_dir_all(f.0.join("in/b")).expect("folders");
    let (good, heavy) = (render(&Pose::in_phase(0.1), 0.5, |_, _| 1.0, 3), render(&Pose::in_phase(0.1), 0.5, |_, _| 1.3, 3));
    f.put("in/d10.png", &good);
    f.put("in/d9.png", &good);
    f.put("in/b/d1.png", &good);
    f.put("in/readme.txt", "not a drawing");
    let manifest = f.put("m.csv", "file,artist,shot_size\nd9.png,pia,medium\nd10.png,dov,wide\n");
    let check = |more: &[&str]| eddymist(&[&["check", "--guide", &guide, "--json"], more].concat());
    let out = document(&check(&[&f.path("in"), "--manifest", &manifest, "--overlay", &f.path("over")]), "line-check");
    let files: Vec<&str> = out["drawings"].as_array().expect("drawings").iter().filter_map(|d| d["file"].as_str()?.rsplit_once("/in/")).map(|n| n.1).collect();
    assert_eq!(files, ["b/d1.png", "d9.png", "d10.png"], "the natural order of the names");
    assert_eq!((&out["drawings"][1]["manifest"]["artist"], &out["drawings"][2]["shot_factor"]), (&json!("pia"), &json!(0.8)));
    assert_eq!((&out["drawings"][0]["scale"], &out["sequence"]), (&json!(0.5), &json!([])));
    // Against a guide for a wide shot the same drawing is heavy.
    assert_eq!(out["drawings"][2]["roles"][0]["verdict"], "heavy");
    let overlays: Vec<String> = fs::read_dir(f.0.join("over")).expect("overlays").flatten().map(|e| e.file_name().to_string_lossy().into_owned()).collect();
    assert!(overlays.len() == 3 && overlays.iter().any(|n| n.ends_with("_in_b_d1.png.png")), "{overlays:?}");
    // 0 when all is well, 3 when it is strict and something is outside, 2 above them all.
    let code = |more: &[&str]| check(more).status.code();
    let (fine, bad) = (f.path("in/d9.png"), f.put("heavy.png", &heavy));
    assert_eq!((code(&[&fine]), code(&[&bad]), code(&[&fine, "--strict"]), code(&[&bad, "--strict"])), (Some(0), Some(0), Some(0), Some(3)));
    let broken = f.put("broken.png", &good[..500]);
    assert_eq!(code(&[&bad, &broken, "--strict"]), Some(2));
    // Where nothing at all could be read there is no JSON.
    let none = check(&[&broken]);
    assert!(none.status.code() == Some(2) && none.stdout.is_empty() && text(&none.stderr).contains("broken.png"), "{}", text(&none.stderr));
    let odd = check(&[&fine, "--manifest", &f.put("odd.csv", "file,shot_size\nd9.png,huge\n")]);
    assert!(odd.status.code() == Some(2) && text(&odd.stderr).contains("huge") && text(&odd.stderr).contains("wide"), "{}", text(&odd.stderr));
    refused(&["check", "--guide", &guide, &fine, "--names", "{drawer}", "--json"], "drawer");
    refused(&["check", "--guide", &guide, &fine, "--manifest", &f.put("x.csv", "a,b\n1,2\n"), "--json"], "“file” column");
}

#[test]
fn arguments_that_are_none_end_with_2() {
    for args in [&["measure"][..], &["ink", "--out", "x.svg"], &["check"], &["paint"], &["fit"], &[]] {
        let out = eddymist(args);
        assert!(out.status.code() == Some(2) && out.stdout.is_empty() && !out.stderr.is_empty(), "{args:?}");
    }
    // Without a database the commands that need one say which variable names it.
    for command in ["serve", "worker", "migrate", "demo"] {
        refused(&[command], "DATABASE_URL");
    }
    let help = eddymist(&["--help"]);
    assert!(
        help.status.success()
            && ["measure", "tablet", "fit", "ink", "check", "serve", "worker", "watch", "migrate", "demo"].iter().all(|c| text(&help.stdout).contains(c))
    );
}
