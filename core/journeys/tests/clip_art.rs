//! Line drawings by many hands whose files say how wide their strokes are, on white and on nothing, some with white fills that peek out beside
//! their lines: every stated width against ours.
//!
//! Outside reference: tests/reference/clip_art (make_clip_art.py): Debian's openclipart, drawn by cairo, read by svgelements.

use eddymist_check::{FindingKind, HandOn, LineGuide, Manifest};
use eddymist_formats::{LIMITS, drawings, images};

#[test]
fn stated_stroke_widths_are_ours() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../tests/reference/clip_art");
    let read = |name: &str| std::fs::read(format!("{folder}/{name}")).expect("a file");
    let widths: std::collections::BTreeMap<String, f64> = serde_json::from_slice(&read("widths.json")).expect("widths");
    assert_eq!(widths.len(), 7);
    for (name, px) in widths {
        let png = read(&format!("{name}.png"));
        let (w, h) = images::dimensions(&png, &LIMITS).expect("a picture");
        let guide: LineGuide = serde_json::from_str(&format!(
            r#"{{"format":"eddymist/line-guide","version":1,"name":"x","page":{{"width_px":{w},"height_px":{h}}},
            "roles":[{{"name":"line","from":{{"rest":true}},"weight_px":{{"target":{px},"tolerance":0.3}}}}]}}"#
        ))
        .expect("a guide");
        for (kind, bytes) in [("png", png), ("svg", read(&format!("{name}.svg")))] {
            let check = drawings::weigh(&guide, "x", &bytes, &Manifest::new(), &LIMITS).expect("weighed").check;
            let weight = check.roles[0].weight_px.as_ref().expect("a weight");
            assert!((weight.median / px - 1.0).abs() < 0.002 && (weight.mean / px - 1.0).abs() < 0.004, "{name}.{kind}: {weight:?} for {px}");
            assert_eq!(check.hand_on, Some(HandOn::Ready), "{name}.{kind}");
            // Strokes of one width: a place is heavy where two of them run together.
            let off = check.findings.iter().filter(|f| matches!(f.kind, FindingKind::Heavy | FindingKind::Thin)).count();
            assert!(off <= 1, "{name}.{kind}: {off} heavy or thin");
        }
    }
}
