//! Any warm-up through profile and fit: the profile is one that is read again, the brush one that loads.
#![no_main]

use eddymist_calibrate::{fit, profile, Exercise, PenCard, TabletProfile};
use eddymist_formats::{inkml, LIMITS};
use libfuzzer_sys::arbitrary::{self, Arbitrary};

#[derive(Arbitrary, Debug)]
struct Group {
    exercise: u8,
    effort: u8,
    pace: u8,
    strokes: Vec<Vec<(i8, i8, u8, u8)>>,
}

#[derive(Arbitrary, Debug)]
struct WarmUp {
    groups: Vec<Group>,
    efforts: Vec<(u8, u8)>,
}

libfuzzer_sys::fuzz_target!(|w: WarmUp| {
    if w.groups.iter().flat_map(|g| &g.strokes).map(Vec::len).sum::<usize>() > 600 {
        return;
    }
    let groups: String = w
        .groups
        .iter()
        .map(|g| {
            let (name, effort) = (Exercise::ALL[usize::from(g.exercise) % Exercise::ALL.len()].1, f64::from(g.effort % 5) / 4.0);
            let pace = ["slow", "normal", "fast"].get(usize::from(g.pace % 4)).map_or(String::new(), |p| format!("<annotation type=\"pace\">{p}</annotation>"));
            let strokes: String = g
                .strokes
                .iter()
                .map(|s| {
                    // A walk, as a hand's.
                    let (mut x, mut y, mut t) = (0.0, 0.0, 0.0);
                    let points: Vec<String> = s
                        .iter()
                        .map(|(dx, dy, f, dt)| {
                            (x, y, t) = (x + f64::from(*dx) / 20.0, y + f64::from(*dy) / 20.0, t + f64::from(*dt));
                            format!("{x} {y} {} {t}", f64::from(*f) / 255.0)
                        })
                        .collect();
                    format!("<trace>{}</trace>", points.join(","))
                })
                .collect();
            format!("<traceGroup><annotation type=\"exercise\">{name}</annotation><annotation type=\"effort\">{effort}</annotation>{pace}{strokes}</traceGroup>")
        })
        .collect();
    let channels = ["X", "Y", "F", "T"].map(|c| format!("<channel name=\"{c}\"/>")).concat();
    let text = format!("<ink><traceFormat>{channels}</traceFormat>{groups}</ink>");
    let Ok(warmup) = inkml::read(&text, &LIMITS).and_then(|f| f.warmup()) else { return };
    let Ok(p) = profile(&warmup, "any") else { return };
    let again = TabletProfile::from_json(&serde_json::to_string(&p).expect("written")).expect("read again");
    assert_eq!(again, p);
    let widths: Vec<_> = w.efforts.iter().take(5).enumerate().map(|(i, (v, n))| serde_json::json!({"effort": i as f64 / 4.0, "width_mm": 0.05 + f64::from(*v) / 100.0, "sd_mm": 0.01, "lines": 1 + n % 6})).collect();
    let card = serde_json::json!({"format": "eddymist/pen-card", "version": 1, "name": "any", "resolution_dpi": 600.0, "widths_by_effort": widths});
    let Ok(card) = PenCard::from_json(&card.to_string()) else { return };
    if let Ok(m) = fit(&card, Some(&warmup), Some(&p), None, &[]) {
        m.brush.validate().expect("a brush that loads");
    }
});
