//! Files that ask for more than they are worth: refused by what they say of themselves, before anything is decoded. The larger set,
//! through the program and with limits on memory and time, is the command's (`app/cli/tests/attacks.rs`).

use std::{fs, path::Path};

use eddymist_formats::{LIMITS, Limits, archive, drawings, images, svg_paths};

fn hostile(name: &str) -> Vec<u8> {
    fs::read(Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/hostile").join(name)).expect(name)
}

fn refused(name: &str, by_group: bool) -> String {
    drawings::read(&hostile(name), by_group, &LIMITS).expect_err(name).to_string()
}

#[test]
fn a_file_that_needs_too_much_is_refused_with_what_is_allowed() {
    for (name, by_group, says) in [
        ("six-layers-of-one-picture.ora", false, "6 layers of 10900×10900 px are 712 megapixels together; up to 300"),
        ("a-thousand-layers.ora", false, "1000 layers"),
        ("opacity-in-opacity.svg", false, "drawn apart at once"),
        ("hundreds-of-groups.svg", true, "400 named groups"),
        ("raster-of-900-megapixels.svg", false, "30000×30000 px; up to 120 megapixels"),
        ("use-of-use.svg", false, "repeats by reference"),
        ("deep.svg", false, "more than 256 deep"),
        ("entities.svg", false, "entities come to too much"),
        ("size-of-a-continent.svg", false, "1000000000×1000000000 px; up to 120"),
        ("head-of-a-giant.png", false, "100000×100000 px; up to 120"),
        ("ends-early.png", false, "damaged or cut short"),
    ] {
        let said = refused(name, by_group);
        assert!(said.contains(says), "{name}: {said}");
    }
    for name in ["use-of-use.svg", "deep.svg", "entities.svg", "raster-of-900-megapixels.svg"] {
        let text = String::from_utf8(hostile(name)).expect("text");
        assert!(svg_paths::read(&text, &LIMITS).is_err(), "{name} as lines to be inked");
    }
}

#[test]
fn an_archive_tells_what_it_holds_before_it_is_unpacked() {
    let names = |name: &str| archive::names(std::io::Cursor::new(hostile(name)), &LIMITS);
    assert!(names("says-a-million.zip").expect_err("too many").to_string().contains("1000000 entries; up to 20000"));
    assert!(names("zeros-named-often.zip").expect_err("too much").to_string().contains("8000 MB together, unpacked; up to 2048"));
    // Within the limits, an entry at a time: none is held when the next is read.
    let (mut seen, mut most) = (0, 0);
    archive::entries(std::io::Cursor::new(hostile("zeros.zip")), &LIMITS, |_, data| {
        let data = data.expect("unpacked");
        (seen, most) = (seen + 1, most.max(data.len()));
        assert!(images::dimensions(&data, &LIMITS).is_err());
        true
    })
    .expect("an archive");
    assert_eq!((seen, most), (4, 200 << 20));
    let small = Limits { bytes: 1 << 20, ..LIMITS };
    archive::entries(std::io::Cursor::new(hostile("zeros.zip")), &small, |_, data| {
        assert!(data.expect_err("too large").to_string().contains("larger than 1 MB"));
        true
    })
    .expect("an archive");
}

/// What many programs write into their files: declarations, entities for names, groups in groups, pictures beside the lines.
#[test]
fn ordinary_files_are_not_taken_for_hostile_ones() {
    let svg = r##"<?xml version="1.0"?><!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "svg11.dtd" [<!ENTITY ns_x "an address">]>
        <svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:x="&ns_x;" width="640" height="480">
        <!-- a comment with <g> and > in it --><style><![CDATA[ .a > .b { stroke: #000 } ]]></style>
        <defs><path id="tick" d="M0 0l4 4" stroke="#000"/><clipPath id="c"><path d="M0 0h640v480H0z"/></clipPath></defs>
        <g id="contour" clip-path="url(#c)" opacity="0.9"><g><g><path title="a>b" d="M10 240H630" stroke="#000" stroke-width="6"/></g></g></g>
        <g id="ticks"><use xlink:href="#tick" x="5"/><use xlink:href="#tick" x="25"/></g></svg>"##;
    let read = drawings::read(svg.as_bytes(), true, &LIMITS).expect("it is read");
    assert_eq!((read.layers.len(), read.oversampled), (2, 3.0));
    assert!(svg_paths::read(svg, &LIMITS).expect("lines").strokes.len() == 3);
    // Forty named groups of a drawing can be held.
    let groups: String = (0..40).map(|i| format!("<g id=\"g{i}\"><path d=\"M9 {}h900\" stroke=\"#000\"/></g>", 9 + 9 * i)).collect();
    let many = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"1280\" height=\"720\">{groups}</svg>");
    let read = drawings::read(many.as_bytes(), true, &LIMITS).expect("it is read");
    assert_eq!((read.layers.len(), read.oversampled), (40, 2.0));
    // A drawing of 4000×3000 px is held as a picture of its size is.
    let large = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"4000\" height=\"3000\"><path d=\"M9 9h900\" stroke=\"#000\"/></svg>";
    let read = drawings::read(large.as_bytes(), false, &LIMITS).expect("it is read");
    assert_eq!((read.oversampled, read.layers[0].1.width, read.layers[0].1.height), (1.0, 4000, 3000));
}
