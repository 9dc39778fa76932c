//! Pressure and ink of the same strokes from files to a brush: `pair`, `tablet --pairs`, `fit --pairs`.

mod common;

use common::{Folder, document, eddymist, refused};
use eddymist_calibrate::{Exercise, Group, WarmUp, pairs::Way};
use eddymist_formats::{images, inkml::write_warmup};
use eddymist_sim::paired::trial::Trial;
use serde_json::Value;

/// The scan and the recording of a trial; the recording has the hand's five efforts too.
fn files(f: &Folder, t: &Trial, way: Way, dpi: bool) -> (String, String) {
    let page = t.page(way);
    let scan = t.scan(way, &page.ink);
    let grey: Vec<u8> = scan.data.iter().map(|v| (eddymist_measure::colour::encode(*v) * 255.0).round() as u8).collect();
    let png = images::write_png(scan.width, scan.height, images::PngKind::Grey, &grey, dpi.then_some(scan.dpi / 25.4)).expect("a PNG");
    let exercise = if way == Way::Over { Exercise::Over } else { Exercise::Paper };
    let mut groups = t.efforts().groups;
    groups.push(Group { exercise, effort: None, pace: None, strokes: page.strokes.into_iter().filter(|s| !s.samples.is_empty()).collect() });
    let recording = write_warmup(&WarmUp { groups, scale_from_card: false, slips_counted: false });
    (f.put(&format!("{}.png", exercise.name()), png), f.put(&format!("{}.inkml", exercise.name()), recording))
}

#[test]
fn pairs_go_from_scan_and_recording_to_profile_and_brush() {
    let f = Folder::new("pairing");
    let t = Trial::by_seed(2, "steel-nib").expect("a trial");
    let (scan, strokes) = files(&f, &t, Way::Over, true);
    let out = eddymist(&["pair", "--scan", &scan, "--strokes", &strokes, "--over", "--json"]);
    let pairs = document(&out, "pressure-pairs");
    assert!(pairs["pairs"].as_array().is_some_and(|p| p.len() > 1000) && pairs["way"] == "over" && pairs["source"]["kind"] == "scan");
    assert!((pairs["lag_ms"].as_f64().expect("a lag") - t.goes.lag_ms).abs() < 25.0, "{}", pairs["lag_ms"]);
    // The named efforts are off as this hand names them, on a scale that goes evenly by width.
    assert_eq!(pairs["efforts_off"].as_array().map(Vec::len), Some(5));
    let file = f.put("pairs.json", &out.stdout);
    let card = f.put("card.json", serde_json::to_vec(&t.card()).expect("JSON"));
    let profile = document(&eddymist(&["tablet", &strokes, "--pairs", &file, "--pen", &card, "--json"]), "tablet-profile");
    assert_eq!(profile["response_from"], "over");
    let plain = document(&eddymist(&["tablet", &strokes, "--json"]), "tablet-profile");
    assert!(plain.get("response_from").is_none() && plain["response"] != profile["response"]);
    let found = document(&eddymist(&["fit", "--pen", &card, "--pairs", &file, "--json"]), "match");
    let of = |part: &str| found["parts"].as_array().and_then(|p| p.iter().find(|p| p["part"] == part)).cloned().unwrap_or(Value::Null);
    assert!(of("weight")["verdict"] != "differs" && found["assumed"].to_string().contains("pairs of lines that were gone over"), "{found}");
    let table = String::from_utf8_lossy(&eddymist(&["pair", "--scan", &scan, "--strokes", &strokes, "--over"]).stdout).into_owned();
    for what in ["off the lines", "lag ", "→", "unseen strokes", "effort 0.25"] {
        assert!(table.contains(what), "{what}: {table}");
    }
}

#[test]
fn a_page_over_the_tablet_needs_a_resolution_and_its_own_strokes() {
    let f = Folder::new("paper");
    let t = Trial::by_seed(9, "chisel").expect("a trial");
    let (scan, strokes) = files(&f, &t, Way::Paper, false);
    refused(&["pair", "--scan", &scan, "--strokes", &strokes], "--dpi");
    let pairs = document(&eddymist(&["pair", "--scan", &scan, "--strokes", &strokes, "--dpi", "300", "--json"]), "pressure-pairs");
    assert!(pairs["registration_mm"]["median"].as_f64().is_some_and(|m| m < 0.1) && pairs["nib"]["law"] == "ellipse" && pairs["lag_ms"] == 0.0);
    // Where the tablet has them is not where the scan has them.
    refused(&["pair", "--scan", &scan, "--strokes", &strokes, "--dpi", "300", "--over"], "lie on");
    refused(&["pair", "--scan", &scan, "--strokes", &f.path("none.inkml"), "--dpi", "300"], "none.inkml");
    let blank = f.put("blank.png", images::write_png(900, 900, images::PngKind::Grey, &vec![250; 810_000], Some(300.0 / 25.4)).expect("a PNG"));
    refused(&["pair", "--scan", &blank, "--strokes", &strokes], "no ink");
}
