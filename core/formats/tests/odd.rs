//! Small odd files that are in order, and small broken ones: pixels as Pillow decodes them (`tests/odd/make_odd.py`), refusals in a sentence.

use std::{fs, io::Cursor, path::Path};

use eddymist_formats::{Given, LIMITS, archive, drawings, images, inkml, svg_paths};
use serde_json::Value;

fn odd(name: &str) -> Vec<u8> {
    fs::read(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/odd").join(name)).expect(name)
}

fn expected(what: &str) -> Vec<(String, Value)> {
    let all: Value = serde_json::from_slice(&odd("expected.json")).expect("JSON");
    all[what].as_object().expect("files by name").iter().map(|(k, v)| (k.clone(), v.clone())).collect()
}

/// Pillow 13.0.0. A JPEG's decoders may differ by a few steps; all else is the same.
#[test]
fn pictures_have_the_pixels_that_another_decoder_gives() {
    let all = expected("pictures");
    assert!(all.len() > 25);
    for (name, want) in all {
        let got = images::rgba(&odd(&name), &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!((got.width as u64, got.height as u64), (want["width"].as_u64().expect("w"), want["height"].as_u64().expect("h")), "{name}");
        let within = if name.ends_with(".jpg") { 6 } else { 1 };
        for p in want["pixels"].as_array().expect("pixels") {
            let v: Vec<i64> = p.as_array().expect("six").iter().map(|v| v.as_i64().expect("a number")).collect();
            let at = 4 * (v[1] as usize * got.width + v[0] as usize);
            // What is clear has no colour.
            let channels = if v[5] == 0 { 3..4 } else { 0..4 };
            for k in channels {
                assert!((i64::from(got.data[at + k]) - v[2 + k]).abs() <= within, "{name} at {}, {}: {:?} for {v:?}", v[0], v[1], &got.data[at..at + 4]);
            }
        }
        assert!(images::scan(&odd(&name), Some(300.0), &LIMITS).is_ok(), "{name} as a scan");
    }
}

#[test]
fn of_several_pages_the_first_is_read_and_that_is_said() {
    for name in ["tiff-two-pages.tif", "tiff-grey.tif", "tiff-large.tif"] {
        let drawn = drawings::read(&odd(name), true, &LIMITS).expect(name).source;
        let scanned = images::scan_source(&odd(name), &Given::dpi(Some([300.0; 2])), &LIMITS).expect(name);
        for source in [drawn, scanned] {
            assert_eq!(source.assumed.iter().any(|a| a.contains("the first of its 2 pages")), name == "tiff-two-pages.tif", "{name}: {:?}", source.assumed);
        }
    }
}

#[test]
fn broken_files_are_refused_in_a_sentence() {
    for (name, word) in expected("refused") {
        let bytes = odd(&name);
        let said = match name.ends_with(".jpg") {
            true => images::rgba(&bytes, &LIMITS).map(|_| ()),
            false => drawings::read(&bytes, true, &LIMITS).map(|_| ()),
        };
        let said = said.expect_err(&name).to_string();
        assert!(said.contains(word.as_str().expect("a word")) && said.chars().filter(|c| c.is_alphabetic()).count() > 10, "{name}: {said}");
        assert!(!said.chars().any(char::is_control), "{name}: {said:?}");
    }
}

/// A line of four px, whatever is written about it.
#[test]
fn vector_drawings_have_their_line_however_they_are_written() {
    for (name, size) in expected("vectors") {
        let d = drawings::read(&odd(&name), false, &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}"));
        let p = &d.layers[0].1;
        let (w, h) = (p.width as f64 / d.oversampled, p.height as f64 / d.oversampled);
        assert!((w - size["width"].as_f64().expect("w")).abs() < 0.1 && (h - size["height"].as_f64().expect("h")).abs() < 0.1, "{name}: {w}×{h}");
        let column = |x: usize| (0..p.height).map(|y| f64::from(p.data[4 * (y * p.width + x) + 3]) / 255.0).sum::<f64>() / d.oversampled;
        assert!((column(p.width / 2) - 4.0).abs() < 0.05, "{name}: {}", column(p.width / 2));
        // Paths to be inked come as text already.
        let Ok(text) = String::from_utf8(odd(&name)) else { continue };
        assert_eq!(svg_paths::read(&text, &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}")).strokes.len(), 1, "{name}");
    }
}

#[test]
fn strokes_and_archives_are_read_however_they_are_written() {
    for (name, samples) in expected("strokes") {
        let file = inkml::read(&String::from_utf8(odd(&name)).expect("text"), &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!(file.strokes().map(|s| s.samples.len()).sum::<usize>() as u64, samples.as_u64().expect("a number"), "{name}");
    }
    for (name, drawn) in expected("archives") {
        let mut seen = Vec::new();
        let bytes = odd(&name);
        assert!(archive::is_plain_zip(&mut Cursor::new(&bytes), &LIMITS), "{name}");
        archive::entries(Cursor::new(&bytes), &LIMITS, |entry, data| {
            seen.push((entry, images::dimensions(&data.expect("read"), &LIMITS).expect("a picture")));
            true
        })
        .unwrap_or_else(|e| panic!("{name}: {e}"));
        assert_eq!(seen.len() as u64, drawn.as_u64().expect("a number"), "{name}: {seen:?}");
        assert!(seen.iter().all(|(n, size)| *size == (24, 17) && !n.chars().any(char::is_control)), "{seen:?}");
    }
}
