//! The brush document: what is read, kept and refused, field by field.

use eddymist_ink::{
    Brush, Inker,
    brush::{AngleFrom, Chance, Driver, Edge, Nib, NibShape, Opacity, Pooling, Smoothing, SmoothingKind, StrokeKind, Taper},
};
use proptest::prelude::*;

/// The example of the contract, every part of it given.
const WHOLE: &str = r##"{"format":"eddymist/brush","version":1,"name":"whole",
 "nib":{"shape":"ellipse","breadth":0.4,"angle_deg":-20.0,"angle_from":"page","turn_range_deg":0.0},
 "weight":[[0.0,0.1],[0.5,0.4],[1.0,1.1]],"floor_mm":0.08,"driver":"effort",
 "lead_in":{"length_mm":1.0,"share":0.2,"tip_width_mm":0.1,"shape":1.0,"over_mm_s":0.0},
 "lead_out":{"length_mm":6.0,"share":0.35,"tip_width_mm":0.05,"shape":0.8,"over_mm_s":0.0},
 "pace":[[0.0,1.0],[200.0,0.8]],"pooling":{"ratio":1.3,"time_s":0.4},
 "smoothing":{"position":{"kind":"adaptive","min_cutoff_hz":1.0,"speed_coefficient":0.01},"effort":{"kind":"average","span_ms":20.0},"lift_guard_ms":0.0},
 "opacity":{"floor":1.0,"full":1.0},"edge":{"softness_mm":0.0,"raggedness_um":6.0,"correlation_um":140.0},
 "chance":{"spread":0.02,"correlation_mm":2.0},"stroke":{"kind":"swept"},"colour":"#1b1e24","seed":1}"##;

type Change = fn(&mut Brush);

fn taper() -> Taper {
    Taper { length_mm: 5.0, share: 0.3, tip_width_mm: 0.1, shape: 1.0, over_mm_s: 0.0 }
}

#[test]
fn the_whole_example_loads_and_is_written_as_it_was() {
    let brush = Brush::from_json(WHOLE).expect("the contract's example");
    assert_eq!(brush.driver(), Driver::Effort);
    assert_eq!(brush.nib.ratio(), 0.4);
    assert_eq!(brush.lead_out.expect("a lead-out").share, 0.35);
    let again = Brush::from_json(&serde_json::to_string(&brush).expect("JSON")).expect("it loads again");
    assert_eq!(again, brush);
    // With the driver on effort the pace stays in the file and does nothing.
    Inker::new(&brush, None, None).expect("inkable");
}

#[test]
fn what_is_left_out_is_off() {
    let least = r#"{"format":"eddymist/brush","version":1,"name":"plain 0.5","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]]}"#;
    let brush = Brush::from_json(least).expect("the least brush");
    assert_eq!(brush, Brush::plain("plain 0.5", 0.5));
    assert_eq!((brush.lead_in, brush.lead_out, brush.chance, brush.pooling), (None, None, None, None));
    assert_eq!((brush.smoothing.clone(), brush.edge.clone(), brush.stroke.clone()), (Smoothing::default(), Edge::default(), StrokeKind::Swept));
    assert_eq!((brush.driver(), brush.opacity, brush.colour.as_str()), (Driver::Effort, Opacity { floor: 1.0, full: 1.0 }, "#000000"));
    // A taper's own fields that are left out are its plain ones.
    let tapered = least.replace("\"weight\"", "\"lead_out\":{\"length_mm\":4},\"weight\"");
    assert_eq!(
        Brush::from_json(&tapered).expect("a taper").lead_out,
        Some(Taper { length_mm: 4.0, share: 1.0, tip_width_mm: 0.0, shape: 1.0, over_mm_s: 0.0 })
    );
    // A pace alone makes the driver both.
    let paced = least.replace("\"weight\"", "\"pace\":[[0,1],[100,0.5]],\"weight\"");
    assert_eq!(Brush::from_json(&paced).expect("a pace").driver(), Driver::Both);
}

#[test]
fn a_brush_with_a_wrong_number_is_refused_by_the_field_that_has_it() {
    let wrong: [(&str, Change); 27] = [
        ("name", |b| b.name = "  ".into()),
        ("weight", |b| b.weight.clear()),
        ("weight", |b| b.weight = vec![[0.0, f64::NAN]]),
        ("weight", |b| b.weight = vec![[0.5, 0.2], [0.5, 0.4]]),
        ("weight", |b| b.weight = vec![[0.0, 0.2], [1.2, 0.4]]),
        ("weight", |b| b.weight = vec![[0.0, 0.0], [1.0, 0.4]]),
        ("weight", |b| b.weight = vec![[0.0, 0.4], [1.0, 101.0]]),
        ("fall", |b| b.weight = vec![[0.0, 0.4], [1.0, 0.39]]),
        ("nib.breadth", |b| b.nib.breadth = Some(0.0)),
        ("nib.breadth", |b| b.nib.breadth = Some(1.01)),
        ("nib.angle_deg", |b| b.nib.angle_deg = f64::INFINITY),
        ("floor_mm", |b| b.floor_mm = -0.1),
        ("lead_in", |b| b.lead_in = Some(Taper { length_mm: -1.0, ..taper() })),
        ("lead_in", |b| b.lead_in = Some(Taper { share: 1.1, ..taper() })),
        ("lead_out", |b| b.lead_out = Some(Taper { shape: 0.0, ..taper() })),
        ("lead_out", |b| b.lead_out = Some(Taper { tip_width_mm: f64::NAN, ..taper() })),
        ("lead_out", |b| b.lead_out = Some(Taper { over_mm_s: -2.0, ..taper() })),
        ("pace", |b| b.pace = Some(vec![[0.0, 1.0], [100.0, 0.7], [200.0, 0.9]])),
        ("pace", |b| b.pace = Some(vec![[0.0, 0.0]])),
        ("pace", |b| b.pace = Some(vec![[-5.0, 1.0]])),
        ("smoothing.position", |b| b.smoothing.position = SmoothingKind::Adaptive { min_cutoff_hz: 0.0, speed_coefficient: 0.1 }),
        ("smoothing.effort", |b| b.smoothing.effort = SmoothingKind::Average { span_ms: -1.0 }),
        ("smoothing.position", |b| b.smoothing.position = SmoothingKind::Tow { slack_mm: f64::INFINITY }),
        ("opacity", |b| b.opacity.floor = 1.5),
        ("edge", |b| b.edge.raggedness_um = -6.0),
        ("colour", |b| b.colour = "1b1e24".into()),
        ("colour", |b| b.colour = "#1b1e2g".into()),
    ];
    for (field, spoil) in wrong {
        let mut brush = Brush::plain("b", 0.5);
        spoil(&mut brush);
        let said = brush.validate().expect_err(field).to_string();
        assert!(said.contains(field), "{field}: {said}");
    }
}

#[test]
fn text_that_is_no_brush_is_refused_in_a_sentence() {
    for (text, says) in [
        ("", "not a readable eddymist/brush"),
        ("[1,2", "not a readable"),
        ("{}", "eddymist/brush is needed"),
        (r#"{"format":"eddymist/brush"}"#, "version"),
        (r#"{"format":"eddymist/brush","version":1}"#, "name"),
        (r#"{"format":"eddymist/brush","version":1,"name":"x","nib":{"shape":"square"},"weight":[[0,1]]}"#, "square"),
        (r#"{"format":"eddymist/brush","version":1,"name":"x","nib":{"shape":"round","edge":2},"weight":[[0,1]]}"#, "edge"),
        (r#"{"format":"eddymist/brush","version":1,"name":"x","nib":{"shape":"round"},"weight":[[0]]}"#, "invalid length"),
        (r#"{"format":"eddymist/brush","version":1,"name":"x","nib":{"shape":"round"},"weight":"0.5 mm"}"#, "0.5 mm"),
        (r#"{"format":"eddymist/brush","version":1,"name":"x","nib":{"shape":"round"},"weight":[[0,1e999]]}"#, "number out of range"),
    ] {
        let said = Brush::from_json(text).expect_err(text).to_string();
        assert!(said.contains(says), "{text}: {said}");
    }
}

#[test]
fn parts_set_to_do_nothing_are_no_hindrance() {
    let mut brush = Brush::plain("quiet", 0.5);
    brush.pooling = Some(Pooling { ratio: 1.0, time_s: 0.3 });
    brush.chance = Some(Chance { spread: 0.0, correlation_mm: 2.0 });
    brush.nib.widen_by_tilt = Some(1.0);
    brush.pace = Some(vec![[0.0, 1.0], [200.0, 0.8]]);
    brush.driver = Some(Driver::Effort);
    brush.edge.correlation_um = 140.0;
    brush.driver = Some(Driver::None);
    Inker::new(&brush, None, None).expect("no pace without a driver");
}

fn any_taper() -> impl Strategy<Value = Taper> {
    (0.0f64..50.0, 0.0f64..=1.0, 0.0f64..2.0, 0.1f64..5.0, 0.0f64..200.0).prop_map(|(length_mm, share, tip_width_mm, shape, over_mm_s)| Taper {
        length_mm,
        share,
        tip_width_mm,
        shape,
        over_mm_s,
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Whatever brush is written is read as the same brush, whether its parts can be inked or not.
    #[test]
    fn writing_and_reading_gives_the_same_brush(
        name in "[a-z][a-z ]{0,20}",
        rises in prop::collection::vec((0.01f64..0.2, 0.0f64..2.0), 1..5),
        breadth in prop::option::of(0.01f64..=1.0),
        angle in -360.0f64..360.0,
        from in 0usize..3,
        lead_in in prop::option::of(any_taper()),
        lead_out in prop::option::of(any_taper()),
        kind in 0usize..5,
        value in 0.01f64..30.0,
        rgb in 0u32..0x100_0000,
        seed in any::<u64>(),
    ) {
        let mut at = [0.0, 0.05];
        let mut brush = Brush::plain(&name, 0.5);
        brush.weight = rises.iter().map(|r| { at = [at[0] + r.0, at[1] + r.1]; at }).collect();
        brush.nib = Nib { shape: NibShape::Ellipse, breadth, angle_deg: angle, angle_from: [AngleFrom::Page, AngleFrom::Stylus, AngleFrom::Travel][from], ..Nib::round() };
        (brush.lead_in, brush.lead_out, brush.seed) = (lead_in, lead_out, seed);
        brush.smoothing.position = match kind {
            0 => SmoothingKind::None,
            1 => SmoothingKind::Adaptive { min_cutoff_hz: value, speed_coefficient: 0.1 * value },
            2 => SmoothingKind::Average { span_ms: value },
            3 => SmoothingKind::Tow { slack_mm: value },
            _ => SmoothingKind::Faired { tolerance_mm: value },
        };
        brush.colour = format!("#{rgb:06x}");
        brush.validate().expect("good");
        prop_assert_eq!(Brush::from_json(&serde_json::to_string(&brush).expect("JSON")).expect("read"), brush);
    }

    /// No text makes the reader fall over.
    #[test]
    fn any_text_is_read_or_refused(text in "\\PC{0,200}", cut in 0usize..900, with in "[\\[\\]{}\",:0-9a-z-]{0,6}") {
        let _ = Brush::from_json(&text);
        let at = (0..=cut.min(WHOLE.len())).rev().find(|i| WHOLE.is_char_boundary(*i)).unwrap_or(0);
        let _ = Brush::from_json(&format!("{}{with}{}", &WHOLE[..at], &WHOLE[at..]));
    }
}
