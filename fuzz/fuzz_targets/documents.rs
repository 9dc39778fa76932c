//! JSON documents: brushes, libraries, guides, cards, profiles. What is read can be written and read again.
#![no_main]

libfuzzer_sys::fuzz_target!(|text: &str| {
    if let Ok(brush) = eddymist_ink::Brush::from_json(text) {
        let again = serde_json::to_string(&brush).expect("a brush is written");
        assert_eq!(eddymist_ink::Brush::from_json(&again).expect("and read again"), brush);
    }
    if let Ok(guide) = eddymist_check::LineGuide::from_json(text) {
        let again = serde_json::to_string(&guide).expect("a guide is written");
        assert_eq!(eddymist_check::LineGuide::from_json(&again).expect("and read again"), guide);
    }
    let _ = eddymist_formats::library::BrushLibrary::from_json(text);
    let _ = eddymist_calibrate::pen_card::PenCard::from_json(text);
    let _ = eddymist_calibrate::profile::TabletProfile::from_json(text);
});
