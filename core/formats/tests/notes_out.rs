//! Notes as PDF: a page for each drawing, whatever was written, drawn and pinned; a ZIP with one for every artist.

use std::io::Cursor;

use eddymist_check::{Finding, FindingKind};
use eddymist_formats::{
    notes_out::{Heading, Note, causes, pdf, zip},
    printed::Paper,
};
use proptest::prelude::*;

fn heading(artist: &str) -> Heading {
    Heading { production: "Night Tram".into(), delivery: "Shot 012".into(), artist: artist.into(), made: "2026-11-29".into() }
}

fn picture() -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    image::DynamicImage::ImageLuma8(image::GrayImage::from_fn(96, 54, |x, y| image::Luma([if x == y { 0 } else { 255 }])))
        .write_to(&mut out, image::ImageFormat::Png)
        .expect("a picture");
    out.into_inner()
}

fn note(text: &str, fixes: usize) -> Note {
    Note {
        title: "Shot 012, drawing 007".into(),
        file: "012_dov_007.png".into(),
        picture: Some((picture(), [1920.0, 1080.0])),
        by: "Ilse".into(),
        text: text.into(),
        strokes: vec![vec![[10.0, 10.0], [400.0, 300.0], [400.0, 300.0]]],
        pins: vec![([980.0, 330.0], "the cap slips".into())],
        fix: (0..fixes).map(|k| (vec![[20.0 * k as f64, 500.0]; 1 + k % 3], format!("contour heavy: number {k}"))).collect(),
    }
}

fn pages(bytes: &[u8]) -> usize {
    let text = String::from_utf8_lossy(bytes);
    text.matches("/Type /Page").count() + text.matches("/Type/Page").count() - text.matches("/Type /Pages").count() - text.matches("/Type/Pages").count()
}

#[test]
fn every_drawing_begins_a_page_and_every_artist_has_a_file() {
    let three = [note("heavier", 3), note("", 80), Note { picture: None, ..note("a PNG, please", 0) }];
    for paper in [Paper::A4, Paper::Letter] {
        assert_eq!(pages(&pdf(&heading("dov"), &three, paper).expect("notes")), 3);
    }
    // Two names that are one without their signs, and one in other letters.
    let all: Vec<_> = ["a/b", "a\\b", "Zoë"].iter().map(|a| (heading(a), three[..1].to_vec())).collect();
    let mut read = zip::ZipArchive::new(Cursor::new(zip(&all, Paper::A4).expect("a ZIP"))).expect("it reads");
    let names: Vec<String> = (0..read.len()).map(|k| read.by_index(k).expect("an entry").name().expect("a name").to_string()).collect();
    assert_eq!(names, ["notes-a-b.pdf", "notes-a-b-2.pdf", "notes-Zoë.pdf"]);
}

#[test]
fn many_of_one_cause_are_one() {
    let finding = |kind, role: &str, x| Finding { role: Some(role.into()), ..Finding::new(kind, [x, 1.0], 7.0, 6.6, format!("{kind:?} {role} {x}")) };
    let all: Vec<Finding> = (0..5).map(|k| finding(FindingKind::Heavy, "contour", f64::from(k))).chain([finding(FindingKind::Gap, "stripe", 9.0)]).collect();
    let found = causes(&all.iter().collect::<Vec<_>>());
    assert_eq!(found.len(), 2);
    assert_eq!((found[0].0.len(), found[0].1.as_str()), (5, "5 places; at worst Heavy contour 0"));
    assert_eq!(found[1], (vec![[9.0, 1.0]], "Gap stripe 9".to_string()));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Whatever is written, and wherever something was drawn.
    #[test]
    fn any_note_is_printed(text in "\\PC{0,400}", at in prop::collection::vec((-1e5f64..1e5, -1e5f64..1e5), 0..9), fixes in 0usize..60) {
        let strokes = vec![at.iter().map(|(x, y)| [*x, *y]).collect(), Vec::new()];
        let pins = at.iter().map(|(x, y)| ([*x, *y], text.clone())).collect();
        let bytes = pdf(&heading(&text), &[Note { strokes, pins, ..note(&text, fixes) }], Paper::A4).expect("notes");
        prop_assert!(bytes.starts_with(b"%PDF-") && pages(&bytes) >= 1);
    }
}
