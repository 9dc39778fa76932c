//! Vector drawings as programs write them: any encoding, any page, groups by their labels, one within the other.

use eddymist_check::Manifest;
use eddymist_formats::{
    LIMITS, archive,
    drawings::{self, weigh},
};
use eddymist_sim::planted::planted_guide;

const LINE: &str = r##"<path d="M20 40H380" stroke="#1b1e24" stroke-width="6"/>"##;

fn mean(bytes: &[u8]) -> f64 {
    let mut guide = planted_guide();
    (guide.page.width_px, guide.page.height_px) = (400.0, 80.0);
    let w = weigh(&guide, "d", bytes, &Manifest::new(), &LIMITS).unwrap_or_else(|e| panic!("{e}"));
    w.check.roles[0].weight_px.expect("a weight").mean / w.check.scale
}

fn svg(head: &str, attributes: &str, body: &str) -> String {
    format!("{head}<svg xmlns=\"http://www.w3.org/2000/svg\" {attributes}>{body}</svg>")
}

#[test]
fn a_line_weighs_the_same_however_its_file_is_written() {
    let page = r#"width="400" height="80""#;
    let plain = svg("", page, LINE);
    let wide = |order: fn(u16) -> [u8; 2], mark: bool, text: &str| -> Vec<u8> {
        let units = mark.then_some(0xFEFF).into_iter().chain(text.encode_utf16());
        units.flat_map(order).collect()
    };
    let latin = svg("<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><!-- trambahn-gr\u{FC}n -->", page, LINE);
    for (what, bytes) in [
        ("plain", plain.clone().into_bytes()),
        ("with its mark", [b"\xEF\xBB\xBF", plain.as_bytes()].concat()),
        ("UTF-16, little end first", wide(u16::to_le_bytes, true, &plain)),
        ("UTF-16, big end first", wide(u16::to_be_bytes, true, &plain)),
        ("UTF-16 without its mark", wide(u16::to_le_bytes, false, &plain)),
        ("Latin-1", latin.chars().map(|c| c as u8).collect()),
        (
            "with a document type",
            svg(
                "<?xml version=\"1.0\"?>\n<!DOCTYPE svg PUBLIC \"-//W3C//DTD SVG 1.1//EN\" \"http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd\">\n",
                page,
                LINE,
            )
            .into_bytes(),
        ),
        ("after a long comment", svg(&format!("<?xml version=\"1.0\"?><!--{}-->", " made by a plotter ".repeat(400)), page, LINE).into_bytes()),
        ("in mm", svg("", r#"width="100mm" height="20mm" viewBox="0 0 400 80""#, LINE).into_bytes()),
        ("in hundredths of a px", svg("", r#"width="40000" height="8000" viewBox="0 0 400 80""#, LINE).into_bytes()),
        ("by reference", svg("", page, &format!("<defs><g id=\"l\">{LINE}</g></defs><use href=\"#l\"/>")).into_bytes()),
        (
            "clipped beside it",
            svg("", page, &format!("<clipPath id=\"c\"><rect width=\"400\" height=\"80\"/></clipPath><g clip-path=\"url(#c)\">{LINE}</g>")).into_bytes(),
        ),
        ("over a white fill", svg("", page, &format!("<rect width=\"400\" height=\"80\" fill=\"#fff\"/>{LINE}")).into_bytes()),
        (
            "between two fills",
            svg("", page, &format!("<rect width=\"400\" height=\"40\" fill=\"#cfe3ef\"/><rect y=\"40\" width=\"400\" height=\"40\" fill=\"#a99c7c\"/>{LINE}"))
                .into_bytes(),
        ),
    ] {
        let found = mean(&bytes);
        assert!((found - 6.0).abs() < 0.05, "{what}: {found}");
    }
}

/// A large page is held as a picture of its size is, one of more px than a picture may have as large as can be.
#[test]
fn large_pages_are_held_as_pictures_of_their_size() {
    let of = |w: u32, h: u32| {
        let text = svg("", &format!(r#"width="{w}" height="{h}""#), "");
        drawings::read(text.as_bytes(), false, &LIMITS).unwrap_or_else(|e| panic!("{w}×{h}: {e}")).oversampled
    };
    assert_eq!([of(320, 180), of(960, 540), of(1920, 1080), of(3840, 2160), of(7680, 4320)], [4.0, 2.0, 1.0, 1.0, 1.0]);
    let fine = of(192_000, 108_000);
    assert!(fine < 0.05 && fine * fine * 192_000.0 * 108_000.0 > 10e6, "{fine}");
}

#[test]
fn groups_go_by_their_labels_one_within_the_other() {
    let row = |y: u32| format!(r##"<path d="M10 {y}H290" stroke="#000"/>"##);
    let body = format!(
        r##"<g id="g1" p:label="figure"><g id="g2" p:label="contour">{}</g><g id="g3" label="inner">{}<use href="#later"/></g>{}</g><g id="props"><g id="later">{}</g></g>"##,
        row(5),
        row(15),
        row(25),
        row(35)
    );
    let text = svg("", r#"xmlns:p="urn:example:labels" width="300" height="40""#, &body);
    let d = drawings::read(text.as_bytes(), true, &LIMITS).expect("it reads");
    let seen: Vec<(Option<&str>, Vec<usize>)> = d
        .layers
        .iter()
        .map(|(name, l)| {
            let rows = l.data.chunks(4).enumerate().filter(|p| p.1[3] > 128).map(|p| p.0 / l.width / 4).collect::<std::collections::BTreeSet<_>>();
            (name.as_deref(), rows.into_iter().collect())
        })
        .collect();
    assert_eq!(
        seen,
        [
            (Some("figure"), vec![24, 25]),
            (Some("figure/contour"), vec![4, 5]),
            (Some("figure/inner"), vec![14, 15, 34, 35]),
            (Some("props/later"), vec![34, 35]),
        ]
    );
}

#[test]
fn a_photo_of_a_drawing_may_be_jpeg_in_an_archive_too() {
    assert!(archive::is_drawing_name("012_ilse_007.JPG") && archive::is_drawing_name("a.jpeg") && !archive::is_drawing_name("a.txt"));
}

/// Bands are drawn one by one: what they come to is what the whole, drawn at once by the same renderer four times as fine, comes to.
#[test]
fn bands_join_without_a_seam() {
    let rings: String = (0..12).map(|i| format!(r##"<circle cx="700" cy="500" r="{}" fill="none" stroke="#234" stroke-width="3.3"/>"##, 25 + 38 * i)).collect();
    let faded = format!(r##"<g opacity="0.6"><path d="M30 40L1370 960" stroke="#a31" stroke-width="9"/>{rings}</g>"##);
    let text = svg("", r#"width="1400" height="1000""#, &faded);
    let banded = drawings::read(text.as_bytes(), false, &LIMITS).expect("it reads");
    let (fine, p) = (drawings::drawn(&text, 4.0, &LIMITS).expect("it is drawn"), &banded.layers[0].1);
    assert_eq!((banded.oversampled, fine.width, fine.height), (1.0, 4 * p.width, 4 * p.height));
    let off = |i: usize| {
        let (x, y) = (i % p.width, i / p.width);
        let sum: u32 = (0..16).map(|k| u32::from(fine.data[4 * ((4 * y + k / 4) * fine.width + 4 * x + k % 4) + 3])).sum();
        (f64::from(p.data[4 * i + 3]) - f64::from(sum) / 16.0).abs()
    };
    let all: Vec<f64> = (0..p.width * p.height).map(off).collect();
    let most = all.iter().copied().fold(0.0, f64::max);
    // A curve is cut where a band ends, and what is left of it flattened anew.
    let more = all.iter().filter(|o| **o > 1.0).count();
    assert!(most < 8.0 && 1000 * more < all.len(), "{most}, {more}");
}
