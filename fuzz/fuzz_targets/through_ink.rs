//! Any strokes inked by any brush: finite, as many samples as came, drawn into a picture.
#![no_main]

use eddymist_formats::{inkml, trial, LIMITS};
use eddymist_ink::{Brush, Inker};
use libfuzzer_sys::arbitrary::{self, Arbitrary};

#[derive(Arbitrary, Debug)]
enum Value {
    Small(i16),
    Tenths(i8),
    Far(i32),
    Missing,
    Repeated,
    Differs(i8),
    Bends(i8),
}

impl Value {
    fn text(&self, divide: f64) -> String {
        match self {
            Self::Small(v) => format!("{}", f64::from(*v) / divide),
            Self::Tenths(v) => format!("{}", f64::from(*v) / 10.0 / divide),
            Self::Far(v) => format!("{}", f64::from(*v) / 1e3),
            Self::Missing => "?".into(),
            Self::Repeated => "*".into(),
            Self::Differs(v) => format!("'{v}"),
            Self::Bends(v) => format!("\"{v}"),
        }
    }
}

#[derive(Arbitrary, Debug)]
struct Drawn {
    traces: Vec<Vec<(Value, Value, u8, Value)>>,
    nib: u8,
    parts: [u8; 10],
    zoom: u8,
}

libfuzzer_sys::fuzz_target!(|d: Drawn| {
    if d.traces.iter().map(Vec::len).sum::<usize>() > 400 {
        return;
    }
    let traces: String = d
        .traces
        .iter()
        .map(|t| {
            let points: Vec<String> = t.iter().map(|(x, y, f, t)| format!("{} {} {} {}", x.text(100.0), y.text(100.0), f64::from(*f) / 255.0, t.text(1.0))).collect();
            format!("<trace>{}</trace>", points.join(","))
        })
        .collect();
    let channels = ["X", "Y", "F", "T"].map(|c| format!("<channel name=\"{c}\"/>")).concat();
    let zoom = 1.0 + f64::from(d.zoom) / 32.0;
    let text = format!("<ink><traceFormat>{channels}</traceFormat><traceGroup><annotation type=\"zoom\">{zoom}</annotation>{traces}</traceGroup></ink>");
    let Ok(file) = inkml::read(&text, &LIMITS) else { return };
    let u = d.parts.map(|v| f64::from(v) / 255.0);
    let nib = match d.nib % 4 {
        0 => serde_json::json!({"shape": "round"}),
        1 => serde_json::json!({"shape": "ellipse", "breadth": 0.02 + 0.98 * u[0], "angle_deg": 360.0 * u[1], "turn_range_deg": 180.0 * u[2]}),
        2 => serde_json::json!({"shape": "spring", "opening_mm": u[0], "pull_deg": 360.0 * u[1]}),
        _ => serde_json::json!({"shape": "ellipse", "breadth": u[0].max(0.05), "angle_from": "travel"}),
    };
    let brush = serde_json::json!({
        "format": "eddymist/brush", "version": 1, "name": "any", "nib": nib, "weight": [[0.0, u[3]], [1.0, u[3] + 4.0 * u[4]]], "floor_mm": 0.2 * u[5],
        "lead_in": {"length_mm": 9.0 * u[6], "share": u[7]}, "lead_out": {"length_mm": 9.0 * u[8], "share": u[9]},
        "edge": {"softness_mm": 0.1 * u[0], "raggedness_um": 20.0 * u[1], "correlation_um": 200.0 * u[2]}, "opacity": {"floor": u[3], "full": 1.0},
        "colour": "#1b1e24", "seed": d.nib
    });
    let Ok(brush) = Brush::from_json(&brush.to_string()) else { return };
    let Ok(inker) = Inker::new(&brush, None, None) else { return };
    let mut ink = Vec::new();
    for s in file.strokes() {
        let inked = inker.ink(s);
        assert_eq!(inked.samples.len(), s.samples.len());
        assert!(inked.samples.iter().all(|p| p.width_mm.is_finite() && p.width_mm >= 0.0));
        ink.push(trial::TrialInk { pass: "line".into(), colour: "#000000".into(), inked: inked.inked(0.002) });
    }
    let page = trial::PageSize { width_px: 64, height_px: 48, px_per_mm: 1.0 };
    trial::png(&page, &ink, d.nib > 127).expect("a picture");
});
