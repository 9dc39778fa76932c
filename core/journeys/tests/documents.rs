//! Every document that is read, with every one of its values spoilt in turn: the reader refuses in a sentence, or what it lets in can be
//! written, read again and worked with, and gives finite numbers. Nothing panics.

use std::sync::LazyLock;

use eddymist_calibrate::{PenCard, PressurePairs, TabletProfile, fit, fit_by, profile};
use eddymist_check::{LineGuide, Manifest, NamedLayer, check_lines};
use eddymist_formats::{LIMITS, inkml, library::BrushLibrary};
use eddymist_ink::{Brush, Curve, Inker, Sample, Stroke};
use eddymist_measure::Picture;
use eddymist_sim::{
    production::line_guide,
    stylus::{HANDS, TABLETS, warmup},
};
use proptest::prelude::*;
use serde_json::{Value, json};

/// What a value is spoilt with; none takes it out.
fn spoils() -> Vec<Option<Value>> {
    let texts = ["", "x", "\u{0}", "=1+1", "#12345", "../..", "eddymist/other"];
    let numbers = [-1.0, 0.0, 1e-300, 0.5, 1.5, 360.5, 1e9, 1e300, -1e300];
    let mut out = vec![None, Some(Value::Null), Some(json!(true)), Some(json!([])), Some(json!({})), Some(json!([[0.0, 1.0]])), Some(json!(u64::MAX))];
    out.extend(texts.iter().map(|t| Some(json!(t))));
    out.extend(numbers.iter().map(|n| Some(json!(n))));
    out
}

/// JSON pointers of every value in a document, the document itself left out.
fn places(v: &Value, at: String, out: &mut Vec<String>) {
    if !at.is_empty() {
        out.push(at.clone());
    }
    match v {
        Value::Object(o) => o.iter().for_each(|(k, v)| places(v, format!("{at}/{}", k.replace('~', "~0").replace('/', "~1")), out)),
        Value::Array(a) => a.iter().enumerate().for_each(|(i, v)| places(v, format!("{at}/{i}"), out)),
        _ => {}
    }
}

fn spoilt(document: &Value, place: &str, with: &Option<Value>) -> Value {
    let mut out = document.clone();
    match with {
        Some(v) => *out.pointer_mut(place).expect("a place of the document") = v.clone(),
        None => {
            let (parent, key) = place.rsplit_once('/').expect("a pointer");
            match out.pointer_mut(parent).expect("its parent") {
                Value::Object(o) => drop(o.remove(&key.replace("~1", "/").replace("~0", "~"))),
                Value::Array(a) => drop(a.remove(key.parse::<usize>().expect("an index"))),
                _ => unreachable!("only objects and arrays hold values"),
            }
        }
    }
    out
}

/// A sentence that a person can act on: some words, no page of them, nothing that a terminal would run.
fn is_sentence(e: &str) -> Result<(), TestCaseError> {
    prop_assert!(e.chars().filter(|c| c.is_alphabetic()).count() > 6, "{e:?}");
    prop_assert!(e.len() < 2000 && !e.chars().any(char::is_control), "{e:?}");
    Ok(())
}

fn curl() -> Stroke {
    let at = |u: f64| (20.0 + 40.0 * u, 30.0 + 9.0 * (6.0 * u).sin());
    let sample = |i: usize| {
        let u = i as f64 / 59.0;
        Sample { t_ms: 8.0 * i as f64, x: at(u).0, y: at(u).1, pressure: Some(0.1 + 0.8 * (3.0 * u).sin().abs()), ..Sample::default() }
    };
    Stroke::new((0..60).map(sample).collect())
}

/// A brush with every part.
fn brush() -> Value {
    json!({"format":"eddymist/brush","version":1,"name":"all of it","nib":{"shape":"ellipse","breadth":0.4,"angle_deg":-20.0,"angle_from":"page","turn_range_deg":10.0},
        "weight":[[0.0,0.1],[0.5,0.4],[1.0,1.1]],"floor_mm":0.08,"driver":"both",
        "lead_in":{"length_mm":1.0,"share":0.2,"tip_width_mm":0.1,"shape":1.0,"over_mm_s":0.0},
        "lead_out":{"length_mm":6.0,"share":0.35,"tip_width_mm":0.05,"shape":0.8,"over_mm_s":0.0},
        "pace":[[0.0,1.0],[200.0,0.8]],"pooling":{"ratio":1.3,"time_s":0.4},
        "smoothing":{"position":{"kind":"adaptive","min_cutoff_hz":1.0,"speed_coefficient":0.01},"effort":{"kind":"average","span_ms":20.0},"lift_guard_ms":12.0},
        "opacity":{"floor":0.3,"full":1.0},"edge":{"softness_mm":0.02,"raggedness_um":6.0,"correlation_um":140.0},
        "chance":{"spread":0.02,"correlation_mm":2.0},"colour":"#1b1e24","seed":1})
}

fn card() -> Value {
    json!({"format":"eddymist/pen-card","version":1,"name":"a pen","resolution_dpi":600.0,
        "widths_by_effort":[{"effort":0.0,"width_mm":0.3,"sd_mm":0.02,"lines":6,"each_mm":[0.28,0.3,0.32]},{"effort":0.5,"width_mm":0.5,"sd_mm":0.03,"lines":6},{"effort":1.0,"width_mm":0.9,"sd_mm":0.04,"lines":6}],
        "ramp":[{"position":0.1,"width_mm":0.22}],"nib":{"law":"ellipse","length_mm":0.8,"breadth_mm":0.3,"angle_deg":35.0,"residual_mm":0.01,"rays":[[0.0,0.5],[90.0,0.7]]},
        "lead_out":{"at_50_mm":2.1,"at_90_mm":5.4,"sd_mm":0.9,"tip_width_mm":0.05,"body_mm":0.62,"length_mm":6.5,"shape":0.8,"flicks":9,"each_90_mm":[5.0,5.8]},
        "widths_by_pace":[{"pace":"slow","speed_mm_s":20.0,"width_mm":0.5,"sd_mm":0.02,"lines":3},{"pace":"normal","speed_mm_s":60.0,"width_mm":0.49,"sd_mm":0.02,"lines":3}],
        "pooling":{"dot_mm":0.7,"ratio":1.35,"held_s":2.0,"each_mm":[0.66,0.7,0.74]},"edge":{"raggedness_um":6.0,"raggedness_correlation_um":150.0,"blurriness_um":60.0,"each_um":[5.0,7.0]},
        "darkness":1.2,"nearest_standard_width_mm":0.5,"warnings":[]})
}

/// Pressure and ink of three strokes.
fn pressure_pairs() -> Value {
    let pair = |k: usize| {
        let raw = 0.1 + 0.02 * (k % 40) as f64;
        json!({"stroke":k / 40,"t_s":0.01 * k as f64,"raw":raw,"speed_mm_s":60.0,"direction_deg":12.0,"width_mm":0.2 + raw,"x_mm":k,"y_mm":20.0})
    };
    json!({"format":"eddymist/pressure-pairs","version":1,"way":"paper","pairs":(0..120).map(pair).collect::<Vec<_>>(),"lag_ms":0.0,
        "registration_mm":{"median":0.03,"p95":0.1},"response":[[0.1,0.0],[0.5,0.6],[0.88,1.0]],"scale":"widths","widths":[[0.1,0.3],[0.5,0.7],[0.88,1.08]],
        "pace":[[20.0,1.05],[120.0,0.9]],"nib":{"law":"round","length_mm":0.6,"residual_mm":0.01},"left_over":{"spread":0.03,"correlation_mm":2.0},
        "unseen":{"median":0.01,"p95":0.05,"strokes":3},"efforts_off":[[0.25,0.06]],"placement":[1.0,0.0,3.0,0.0,1.0,4.0],"not_gone_over":0.1,"dropouts":2,"warnings":[]})
}

/// Fitted once: it takes as long as all that is done with it.
fn tablet_profile() -> Value {
    static FITTED: LazyLock<Value> =
        LazyLock::new(|| serde_json::to_value(profile(&warmup(&HANDS[0], &TABLETS[0], 1), "a tablet").expect("a profile")).expect("JSON"));
    FITTED.clone()
}

fn guide() -> Value {
    let mut g = serde_json::to_value(line_guide()).expect("JSON");
    g["print"] = json!({"reduction":0.5,"ink_gain_mm":0.02,"thinnest_mm":0.1,"closes_mm":0.1});
    g
}

fn library() -> Value {
    json!({"format":"eddymist/brush-library","version":1,"brushes":[{"brush":brush(),"tags":["line"]}],
        "roll":[{"role":"contour","brush":"all of it","colour":"#1b1e24","weight_factor":1.0}]})
}

/// Inks a stroke and says whether all that came of it are numbers.
fn inks(b: &Brush) -> Result<(), TestCaseError> {
    let inked = Inker::new(b, None, None).expect("a valid brush inks").ink(&curl());
    prop_assert!(inked.samples.iter().all(|s| [s.x, s.y, s.width_mm, s.nib_mm, s.opacity].iter().all(|v| v.is_finite())), "{b:?}");
    let outline = inked.outline(0.01);
    prop_assert!(outline.paths.iter().flatten().flatten().all(|v| v.is_finite()), "{b:?}");
    Ok(())
}

/// Reads a spoilt document; what is let in reads again as itself, and `works` tries it.
fn holds<T: serde::Serialize + PartialEq + std::fmt::Debug, E: std::fmt::Display>(
    document: &Value,
    read: impl Fn(&str) -> Result<T, E>,
    works: impl Fn(&T) -> Result<(), TestCaseError>,
) -> Result<(), TestCaseError> {
    match read(&document.to_string()) {
        Err(e) => is_sentence(&e.to_string()),
        Ok(it) => {
            let again = serde_json::to_string(&it).expect("it is written");
            let back = read(&again).map_err(|e| TestCaseError::fail(format!("what was let in is refused when read again: {e}")))?;
            prop_assert_eq!(&back, &it);
            works(&it)
        }
    }
}

/// A place and what it is spoilt with, of all that there are.
fn any_spoil(document: &Value) -> impl Strategy<Value = (String, Option<Value>)> + use<> {
    let mut all = Vec::new();
    places(document, String::new(), &mut all);
    (prop::sample::select(all), prop::sample::select(spoils()))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn a_spoilt_brush_is_refused_or_inks((place, with) in any_spoil(&brush())) {
        holds(&spoilt(&brush(), &place, &with), Brush::from_json, inks)?;
    }

    #[test]
    fn a_spoilt_library_is_refused_or_its_brushes_ink((place, with) in any_spoil(&library())) {
        holds(&spoilt(&library(), &place, &with), BrushLibrary::from_json, |l| l.brushes.iter().try_for_each(|b| inks(&b.brush)))?;
    }

    #[test]
    fn a_spoilt_profile_is_refused_or_maps_pressure_to_effort((place, with) in any_spoil(&tablet_profile())) {
        holds(&spoilt(&tablet_profile(), &place, &with), TabletProfile::from_json, |p| {
            let curve = p.curve().expect("a valid profile has its curve");
            let efforts: Vec<f64> = (0..=50).map(|k| curve.value(f64::from(k) / 50.0)).collect();
            prop_assert!(efforts.iter().all(|e| (0.0..=1.0).contains(e)) && efforts.windows(2).all(|w| w[1] >= w[0]), "{efforts:?}");
            Ok(())
        })?;
    }

    #[test]
    fn a_spoilt_card_is_refused_or_fitted((place, with) in any_spoil(&card())) {
        holds(&spoilt(&card(), &place, &with), PenCard::from_json, |c| {
            match fit(c, None, None, None, &[]) {
                Err(e) => is_sentence(&e.to_string()),
                Ok(m) => {
                    m.brush.validate().map_err(|e| TestCaseError::fail(format!("the fitted brush is none: {e}")))?;
                    inks(&m.brush)
                }
            }
        })?;
    }

    #[test]
    fn a_spoilt_guide_is_refused_or_checks((place, with) in any_spoil(&guide())) {
        // A page with two strokes: enough for every room of the check, small enough for every case.
        let (w, h) = (160, 90);
        let rgba: Vec<u8> = (0..w * h).flat_map(|i| if (30..36).contains(&(i / w)) && i % w > 20 && i % w < 140 { [0x1b, 0x1e, 0x24, 255] } else { [255; 4] }).collect();
        holds(&spoilt(&guide(), &place, &with), LineGuide::from_json, |g| {
            let picture = Picture::new(w, h, &rgba).expect("a picture");
            match check_lines(g, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()) {
                Err(e) => is_sentence(&e.to_string()),
                Ok(found) => {
                    for f in &found.check.findings {
                        prop_assert!([f.x, f.y, f.value, f.limit].iter().all(|v| v.is_finite()), "{f:?}");
                        is_sentence(&f.message)?;
                    }
                    Ok(())
                }
            }
        })?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]

    #[test]
    fn spoilt_pairs_are_refused_or_matched((place, with) in any_spoil(&pressure_pairs())) {
        let (card, tablet) = (PenCard::from_json(&card().to_string()).expect("a card"), TabletProfile::from_json(&tablet_profile().to_string()).expect("a profile"));
        holds(&spoilt(&pressure_pairs(), &place, &with), PressurePairs::from_json, |p| {
            if let Some(by) = tablet.by_pairs(p, Some(&card)) {
                prop_assert!(by.curve().is_ok() && TabletProfile::from_json(&serde_json::to_string(&by).expect("JSON")).is_ok());
            }
            match fit_by(&card, None, Some(&tablet), None, &[], Some(p)) {
                Err(e) => is_sentence(&e.to_string()),
                Ok(m) => {
                    m.brush.validate().map_err(|e| TestCaseError::fail(format!("the fitted brush is none: {e}")))?;
                    inks(&m.brush)
                }
            }
        })?;
    }
}

/// What a document does not know is an error, wherever it stands.
#[test]
fn an_unknown_field_is_refused_and_named_in_every_object() {
    fn refuse<T, E: std::fmt::Display>(name: &str, document: &Value, read: impl Fn(&str) -> Result<T, E>) {
        let mut all = vec![String::new()];
        places(document, String::new(), &mut all);
        for place in all {
            let mut with = document.clone();
            let Some(o) = with.pointer_mut(&place).and_then(Value::as_object_mut) else { continue };
            // Names of a person's own: shots, not fields.
            if place.ends_with("scale_by_shot") {
                continue;
            }
            o.insert("zeal".into(), json!(1));
            let said = read(&with.to_string()).err().unwrap_or_else(|| panic!("{name}{place} takes a field that it does not know")).to_string();
            assert!(said.contains("zeal"), "{name}{place}: {said}");
        }
    }
    refuse("brush", &brush(), Brush::from_json);
    refuse("library", &library(), BrushLibrary::from_json);
    refuse("profile", &tablet_profile(), TabletProfile::from_json);
    refuse("card", &card(), PenCard::from_json);
    refuse("pairs", &pressure_pairs(), PressurePairs::from_json);
    refuse("guide", &guide(), LineGuide::from_json);
}

#[test]
fn another_format_and_a_newer_version_are_named() {
    for (document, format) in [
        (brush(), "eddymist/brush"),
        (card(), "eddymist/pen-card"),
        (guide(), "eddymist/line-guide"),
        (tablet_profile(), "eddymist/tablet-profile"),
        (pressure_pairs(), "eddymist/pressure-pairs"),
    ] {
        let read = |v: &Value| -> String {
            let t = v.to_string();
            let e = match format {
                "eddymist/brush" => Brush::from_json(&t).map(drop).map_err(|e| e.to_string()),
                "eddymist/pen-card" => PenCard::from_json(&t).map(drop).map_err(|e| e.to_string()),
                "eddymist/pressure-pairs" => PressurePairs::from_json(&t).map(drop).map_err(|e| e.to_string()),
                "eddymist/line-guide" => LineGuide::from_json(&t).map(drop).map_err(|e| e.to_string()),
                _ => TabletProfile::from_json(&t).map(drop).map_err(|e| e.to_string()),
            };
            e.expect_err("it is refused")
        };
        let newer = read(&spoilt(&document, "/version", &Some(json!(7))));
        assert!(newer.contains('7') && newer.contains(format), "{newer}");
        let other = read(&spoilt(&document, "/format", &Some(json!("eddymist/other"))));
        assert!(other.contains("eddymist/other") && other.contains(format), "{other}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Strokes of any numbers come back from InkML as they were, to the digits written.
    #[test]
    fn strokes_come_back_from_inkml(samples in prop::collection::vec((0.0f64..200.0, 0.0f64..200.0, 0.0f64..=1.0), 2..40), zoom in 0.25f64..4.0) {
        let stroke = Stroke {
            zoom,
            ..Stroke::new(samples.iter().enumerate().map(|(i, (x, y, p))| Sample { t_ms: 5.0 * i as f64, x: *x, y: *y, pressure: Some(*p), ..Sample::default() }).collect())
        };
        let text = inkml::write_strokes(std::slice::from_ref(&stroke), None);
        let file = inkml::read(&text, &LIMITS).expect("what we write is read");
        let back: Vec<&Stroke> = file.strokes().collect();
        prop_assert_eq!(back.len(), 1);
        for (a, b) in stroke.samples.iter().zip(&back[0].samples) {
            prop_assert!((a.x - b.x).abs() < 1e-4 && (a.y - b.y).abs() < 1e-4 && (a.t_ms - b.t_ms).abs() < 1e-2);
            prop_assert!((a.pressure.unwrap_or(9.0) - b.pressure.unwrap_or(-9.0)).abs() < 1e-4);
        }
    }

    /// A curve through any rising knots never falls and stays between its ends.
    #[test]
    fn a_curve_stays_between_its_knots(steps in prop::collection::vec((0.01f64..0.4, 0.0f64..2.0), 1..8)) {
        let mut knots = vec![[0.0, 0.2]];
        for (dx, dy) in steps {
            let [x, y] = knots[knots.len() - 1];
            knots.push([x + dx, y + dy]);
        }
        let curve = Curve::new(&knots).expect("rising knots");
        let (first, last) = (knots[0], knots[knots.len() - 1]);
        let values: Vec<f64> = (0..=200).map(|k| curve.value(first[0] + (last[0] - first[0]) * f64::from(k) / 200.0)).collect();
        prop_assert!(values.windows(2).all(|w| w[1] >= w[0] - 1e-12));
        prop_assert!((values[0] - first[1]).abs() < 1e-12 && (values[200] - last[1]).abs() < 1e-9);
        for k in &knots {
            prop_assert!((curve.value(k[0]) - k[1]).abs() < 1e-9);
        }
    }
}
