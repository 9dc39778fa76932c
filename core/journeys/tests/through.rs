//! Files with structure, well-formed and wild, all the way *through*: strokes through profile, fit and ink, drawings through the check. What a
//! reader lets in never panics, never runs away, and gives finite numbers.

use eddymist_calibrate::{Exercise, TabletProfile, fit, profile};
use eddymist_check::{LineGuide, Manifest, NamedLayer, check_lines};
use eddymist_formats::{LIMITS, drawings, inkml, trial};
use eddymist_ink::{Brush, Inker};
use eddymist_measure::Picture;
use eddymist_sim::pens::PENS;
use proptest::prelude::*;
use serde_json::json;

/// A number as somebody might write it: small, at a limit, odd in form, or none at all.
fn number() -> impl Strategy<Value = String> {
    prop_oneof![
        16 => (-80.0f64..80.0).prop_map(|v| format!("{v:.2}")),
        1 => prop_oneof![Just(999.9), Just(-999.9), Just(0.0), Just(1e-9)].prop_map(|v| v.to_string()),
        1 => prop_oneof![Just("?"), Just("*"), Just("'3"), Just("\"-1"), Just("!7"), Just("#1F"), Just("1e2"), Just("+4")].prop_map(String::from),
    ]
}

/// A trace of X, Y, F and T: a walk, with jumps, stops and times that stand still or run back.
fn trace() -> impl Strategy<Value = String> {
    let force = prop_oneof![6 => (0.0f64..=1.0).prop_map(|f| format!("{f:.3}")), 1 => Just("?".to_string())];
    let time = prop_oneof![6 => Just("'5".to_string()), 1 => Just("*".into()), 1 => Just("?".into()), 1 => Just("'-3".into()), 1 => Just("'1e7".into())];
    prop::collection::vec((number(), number(), force, time), 0..24).prop_map(|points| {
        let points: Vec<String> = points.into_iter().map(|(x, y, f, t)| format!("{x} {y} {f} {t}")).collect();
        format!("<trace>{}</trace>", points.join(","))
    })
}

/// A warm-up whose exercises, efforts and paces are any, its traces wild.
fn warm_up() -> impl Strategy<Value = String> {
    let exercise = prop::sample::select(Exercise::ALL.iter().map(|e| e.1).collect::<Vec<_>>());
    let effort = prop::sample::select(vec!["0", "0.25", "0.5", "0.75", "1"]);
    let pace = prop::sample::select(vec!["", "slow", "normal", "fast"]);
    let group = (exercise, effort, pace, prop::collection::vec(trace(), 1..6)).prop_map(|(e, f, p, traces)| {
        let pace = if p.is_empty() { String::new() } else { format!("<annotation type=\"pace\">{p}</annotation>") };
        format!("<traceGroup><annotation type=\"exercise\">{e}</annotation><annotation type=\"effort\">{f}</annotation>{pace}{}</traceGroup>", traces.concat())
    });
    prop::collection::vec(group, 1..12).prop_map(|groups| {
        let channels = ["X", "Y", "F", "T"].map(|c| format!("<channel name=\"{c}\"/>")).concat();
        format!("<ink><traceFormat>{channels}</traceFormat>{}</ink>", groups.concat())
    })
}

/// A brush with any of its parts on, each anywhere in its range.
fn brush() -> impl Strategy<Value = Brush> {
    let unit = 0.0f64..1.0;
    (prop::array::uniform8(unit), 0usize..6, any::<u32>()).prop_map(|(u, kind, seed)| {
        let nib = match kind {
            0 => json!({"shape": "round"}),
            1 => json!({"shape": "ellipse", "breadth": 0.05 + 0.9 * u[0], "angle_deg": 360.0 * u[1], "turn_range_deg": 90.0 * u[2]}),
            2 => json!({"shape": "spring", "opening_mm": 2.0 * u[0], "pull_deg": 360.0 * u[1]}),
            _ => json!({"shape": "ellipse", "breadth": 1.0, "angle_from": "travel"}),
        };
        let position = if kind % 2 == 0 { json!({"kind": "none"}) } else { json!({"kind": "faired", "tolerance_mm": 0.001 + u[5]}) };
        let document = json!({
            "format": "eddymist/brush", "version": 1, "name": "any", "nib": nib, "weight": [[0.0, 3.0 * u[3]], [1.0, 3.0 * u[3] + 5.0 * u[4]]],
            "floor_mm": 0.3 * u[5], "lead_in": {"length_mm": 20.0 * u[6], "share": u[7]}, "lead_out": {"length_mm": 20.0 * u[0], "share": u[1]},
            "pace": [[0.0, 1.0 + u[2]], [200.0, 0.2 + u[2]]], "pooling": {"ratio": 1.0 + u[3], "time_s": 0.01 + u[4]},
            "smoothing": {"position": position},
            "opacity": {"floor": u[6], "full": 1.0}, "edge": {"softness_mm": 0.2 * u[7], "raggedness_um": 30.0 * u[0], "correlation_um": 20.0 + 300.0 * u[1]},
            "colour": "#1b1e24", "seed": seed
        });
        Brush::from_json(&document.to_string()).unwrap_or_else(|e| panic!("{e}: {document}"))
    })
}

fn card() -> &'static eddymist_calibrate::PenCard {
    static CARD: std::sync::OnceLock<eddymist_calibrate::PenCard> = std::sync::OnceLock::new();
    CARD.get_or_init(ruled_card)
}

fn ruled_card() -> eddymist_calibrate::PenCard {
    let lines = eddymist_sim::production::pen_scan(&PENS[0], 300.0, 3).0;
    let scan = eddymist_formats::images::scan(&lines, Some(300.0), &LIMITS).expect("a scan");
    let (measured, _) = eddymist_measure::scan::measure(&scan).expect("lines");
    let efforts: Vec<Option<f64>> = (0..measured.lines.len()).map(|i| Some(0.25 * (i % 5) as f64)).collect();
    eddymist_calibrate::PenCard::from_lines("any", &measured, &efforts, Default::default())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    #[test]
    fn a_wild_warm_up_goes_through_profile_and_fit(text in warm_up()) {
        let Ok(warmup) = inkml::read(&text, &LIMITS).and_then(|f| f.warmup()) else { return Ok(()) };
        let Ok(p) = profile(&warmup, "any") else { return Ok(()) };
        let text = serde_json::to_string(&p).expect("it is written");
        prop_assert!(TabletProfile::from_json(&text).is_ok_and(|again| again == p), "{text}");
        // What is written is read as the same.
        let again = inkml::read(&inkml::write_warmup(&warmup), &LIMITS).and_then(|f| f.warmup()).expect("it reads back");
        prop_assert_eq!(again.groups.len(), warmup.groups.len());
        if let Ok(m) = fit(card(), Some(&warmup), Some(&p), None, &[]) {
            prop_assert!(m.brush.validate().is_ok(), "{:?}", m.brush.validate());
        }
    }

    #[test]
    fn wild_strokes_are_inked_by_any_brush(traces in prop::collection::vec(trace(), 1..4), brush in brush()) {
        let channels = ["X", "Y", "F", "T"].map(|c| format!("<channel name=\"{c}\"/>")).concat();
        let Ok(file) = inkml::read(&format!("<ink><traceFormat>{channels}</traceFormat>{}</ink>", traces.concat()), &LIMITS) else { return Ok(()) };
        let inker = Inker::new(&brush, None, None).expect("a brush that was read");
        let mut ink = Vec::new();
        for s in file.strokes() {
            let inked = inker.ink(s);
            prop_assert_eq!(inked.samples.len(), s.samples.len());
            prop_assert!(inked.samples.iter().all(|p| p.x.is_finite() && p.y.is_finite() && p.width_mm.is_finite() && p.width_mm >= 0.0));
            let outline = inked.inked(0.002);
            prop_assert!(outline.layers.iter().flat_map(|l| l.outline.paths.iter().flatten().flatten()).all(|v| v.is_finite()));
            ink.push(trial::TrialInk { pass: "line".into(), colour: "#1b1e24".into(), inked: outline });
        }
        let page = trial::PageSize { width_px: 300, height_px: 200, px_per_mm: 2.0 };
        prop_assert!(trial::png(&page, &ink, false).is_ok() && trial::svg(&page, &ink, true).ends_with("</svg>\n"));
    }

    /// Rectangles, dots and slants of any colours on any ground, and a guide of any limits.
    #[test]
    fn a_wild_drawing_goes_through_the_check(
        (w, h) in (1usize..90, 1usize..90),
        ground in any::<[u8; 4]>(),
        marks in prop::collection::vec((any::<[u8; 4]>(), 0usize..90, 0usize..90, 0usize..60, 0usize..60, any::<bool>()), 0..14),
        (gap, hook, target, tolerance) in (0.0f64..90.0, 0.0f64..90.0, 0.1f64..60.0, 0.0f64..2.0),
        (hard, from) in (any::<bool>(), 0usize..4),
    ) {
        let mut data: Vec<u8> = ground.iter().copied().cycle().take(4 * w * h).collect();
        for (colour, x, y, a, b, slant) in marks {
            for k in 0..=a.max(b) {
                for t in 0..if slant { 3 } else { b.min(a) + 1 } {
                    let (px, py) = if slant { (x + k.min(a) + t, y + k.min(b)) } else { (x + k.min(a), y + t) };
                    if px < w && py < h {
                        data[4 * (py * w + px)..4 * (py * w + px) + 4].copy_from_slice(&colour);
                    }
                }
            }
        }
        let from = [json!({"rest": true}), json!({"outline": true}), json!({"colour": "#1b1e24", "tolerance": 30.0}), json!({"layer": "*"})][from].clone();
        let guide = json!({"format": "eddymist/line-guide", "version": 1, "name": "any", "page": {"width_px": 90, "height_px": 90},
            "finish": if hard { "hard" } else { "smooth" }, "roles": [{"name": "a", "from": from, "weight_px": {"target": target, "tolerance": tolerance}, "ends": "tapered"}],
            "limits": {"gap_px": gap, "speck_px2": 12.0, "pinhole_px2": 8.0, "hook_px": hook, "uneven": 0.1, "boil": 0.1}});
        let guide = LineGuide::from_json(&guide.to_string()).expect("a guide");
        let layer = NamedLayer { name: Some("ink"), picture: Picture::new(w, h, &data).expect("a picture") };
        let Ok(found) = check_lines(&guide, "any.png", &[layer], 1.0, &Manifest::new()) else { return Ok(()) };
        // A number that is none would be written as null, and not read again.
        let text = serde_json::to_string(&found.check).expect("it is written");
        let again: eddymist_check::DrawingCheck = serde_json::from_str(&text).expect("it is read");
        prop_assert_eq!(serde_json::to_string(&again).expect("written again"), text);
    }

    /// Elements in elements, named, repeated by reference, with opacity, masks and clips: any SVG that is well-formed.
    #[test]
    fn a_wild_vector_drawing_is_read_or_refused(
        nodes in prop::collection::vec((0usize..9, 0usize..9, 0.0f64..1.0, -50.0f64..150.0), 1..30),
        (w, h) in (prop_oneof![Just("100"), Just("0"), Just("-5"), Just("1e4"), Just("3mm"), Just("100%")], prop_oneof![Just("80"), Just("1e-3"), Just("2in")]),
        by_group in any::<bool>(),
    ) {
        let (mut body, mut open) = (String::new(), 0);
        for (i, (kind, other, u, v)) in nodes.iter().enumerate() {
            let id = format!("n{}", i % 9);
            body += &match kind {
                0 | 1 => { open += 1; format!("<g id=\"{id}\" opacity=\"{u}\">") }
                2 if open > 0 => { open -= 1; "</g>".to_string() }
                3 => format!("<use href=\"#n{other}\" x=\"{v}\"/>"),
                4 => format!("<mask id=\"{id}\"><path d=\"M{v} 0L9 {u}z\" mask=\"url(#n{other})\"/></mask>"),
                5 => format!("<clipPath id=\"{id}\"><path d=\"M0 0H{v}V{u}z\"/></clipPath>"),
                6 => format!("<path id=\"{id}\" d=\"M{v} {u}C1 2 {u} {v} 50 {other}\" stroke=\"#000\" stroke-width=\"{other}\" clip-path=\"url(#n{other})\"/>"),
                7 => format!("<pattern id=\"{id}\" width=\"{u}\" height=\"{u}\"><path d=\"M0 0H9\" fill=\"url(#n{other})\"/></pattern>"),
                _ => format!("<path d=\"M{v} 5H{}\" stroke=\"url(#n{other})\" stroke-width=\"2\" mask=\"url(#n{other})\"/>", 90.0 * u),
            };
        }
        let svg = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\">{body}{}</svg>", "</g>".repeat(open));
        if let Ok(d) = drawings::read(svg.as_bytes(), by_group, &eddymist_formats::Limits { layer_pixels: 8_000_000, ..LIMITS }) {
            prop_assert!(d.layers.iter().all(|(_, p)| p.data.len() == 4 * p.width * p.height && p.width > 0));
            let held: usize = d.layers.iter().map(|(_, p)| p.width * p.height).sum();
            prop_assert!(held <= 8_000_000, "{held}");
        }
    }
}
