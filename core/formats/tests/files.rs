//! Pictures, drawings, archives, manifests and SVG: what the formats say is read so, and what is broken is refused in a sentence.

use std::io::{Cursor, Write};

use eddymist_formats::{
    LIMITS, ReadError, archive, drawings,
    images::{self, PngKind, write_png},
    ink_out, manifest,
    preview::preview,
    svg_paths,
};
use eddymist_ink::{Brush, Inker, Sample, Stroke};
use image::{DynamicImage, GrayImage, ImageFormat, Luma, Rgb, RgbImage};
use proptest::prelude::*;

fn encoded(picture: &DynamicImage, format: ImageFormat) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    picture.write_to(&mut out, format).expect("written");
    out.into_inner()
}

fn grey(w: u32, h: u32) -> DynamicImage {
    DynamicImage::ImageLuma8(GrayImage::from_fn(w, h, |x, y| Luma([(x * 7 + y * 13) as u8])))
}

/// A baseline JPEG whose JFIF header states `x` by `unit`: 0 none, 1 dpi, 2 per cm (ITU-T T.871).
fn jpeg(unit: u8, x: u16) -> Vec<u8> {
    let mut bytes = encoded(&grey(32, 16), ImageFormat::Jpeg);
    assert_eq!(&bytes[6..11], b"JFIF\0");
    bytes[13] = unit;
    bytes[14..16].copy_from_slice(&x.to_be_bytes());
    bytes[16..18].copy_from_slice(&x.to_be_bytes());
    bytes
}

/// A TIFF with a resolution by unit: 1 none, 2 inch, 3 cm (TIFF 6.0).
fn tiff(unit: u16, x: u32) -> Vec<u8> {
    use tiff::{
        encoder::{Rational, TiffEncoder, colortype::Gray8},
        tags::ResolutionUnit,
    };
    let mut out = Cursor::new(Vec::new());
    let mut encoder = TiffEncoder::new(&mut out).expect("an encoder");
    let mut picture = encoder.new_image::<Gray8>(32, 16).expect("a picture");
    picture.resolution(ResolutionUnit::from_u16(unit).expect("a unit"), Rational { n: x, d: 1 });
    picture.write_data(&[200u8; 512]).expect("written");
    out.into_inner()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// What a JPEG lost is said by the quality that another library saved it with; cut anywhere, its head is read without a panic.
    #[test]
    fn a_jpeg_is_said_to_be_one_with_its_quality(quality in 30u8..=97, grey in any::<bool>(), cut in 0usize..700) {
        let picture = RgbImage::from_fn(64, 48, |x, y| if (y + x / 9) % 16 < 3 { Rgb([27, 30, 36]) } else { Rgb([255, 255, 255]) });
        let picture = if grey { DynamicImage::ImageRgb8(picture).to_luma8().into() } else { DynamicImage::ImageRgb8(picture) };
        let mut bytes = Vec::new();
        image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, quality).encode_image(&picture).expect("written");
        let drawing = drawings::read(&bytes, false, &LIMITS).expect("a drawing");
        let said = drawing.source.assumed.iter().find_map(|a| a.strip_prefix("saved as a JPEG of quality ")).expect("said");
        let told: f64 = said.split(':').next().expect("a number").parse().expect("a number");
        prop_assert!((told - f64::from(quality)).abs() <= 2.0, "{told} of {quality}");
        prop_assert!(drawings::read(&bytes[..cut.min(bytes.len() - 1)], false, &LIMITS).is_err() || cut > 600);
    }
}

#[test]
fn resolution_is_what_the_file_says_in_its_own_unit() {
    let png = |per_mm: Option<f64>| write_png(4, 4, PngKind::Grey, &[0; 16], per_mm).expect("a PNG");
    let near = |bytes: &[u8], dpi: f64| assert!((images::resolution(bytes).expect("a resolution") - dpi).abs() < 0.05, "{dpi}");
    near(&png(Some(600.0 / 25.4)), 600.0);
    near(&png(Some(300.0 / 25.4)), 300.0);
    near(&jpeg(1, 400), 400.0);
    near(&jpeg(2, 236), 599.44);
    near(&tiff(2, 1200), 1200.0);
    near(&tiff(3, 118), 299.72);
    // Nothing stated, no unit, or what programs write without knowing.
    for bytes in [png(None), jpeg(0, 1), jpeg(1, 72), tiff(1, 300), encoded(&grey(4, 4), ImageFormat::Png)] {
        assert_eq!(images::resolution(&bytes), None);
        assert_eq!(images::scan(&bytes, None, &LIMITS).expect_err("none"), ReadError::NoResolution);
        assert_eq!(images::scan(&bytes, Some(600.0), &LIMITS).expect("given").dpi, 600.0);
    }
}

#[test]
fn scans_are_linear_light_of_whatever_kind_of_pixel() {
    // IEC 61966-2-1: 188 is half the light of 255, near enough; 0 and 255 are exact.
    let of = |p: DynamicImage, f: ImageFormat| images::scan(&encoded(&p, f), Some(300.0), &LIMITS).expect("a scan").data[0];
    let l8 = |v: u8| DynamicImage::ImageLuma8(GrayImage::from_pixel(2, 2, Luma([v])));
    let l16 = |v: u16| DynamicImage::ImageLuma16(image::ImageBuffer::from_pixel(2, 2, Luma([v])));
    for f in [ImageFormat::Png, ImageFormat::Tiff] {
        assert_eq!((of(l8(0), f), of(l8(255), f)), (0.0, 1.0));
        assert!((of(l8(188), f) - 0.5).abs() < 0.005);
        assert!((of(l16(188 * 257), f) - of(l8(188), f)).abs() < 1e-6);
    }
    // Rec. 709 luminance of linear light.
    let rgb = |c: [u8; 3]| of(DynamicImage::ImageRgb8(RgbImage::from_pixel(2, 2, Rgb(c))), ImageFormat::Png);
    assert!((rgb([255, 0, 0]) - 0.2126).abs() < 1e-4 && (rgb([0, 255, 0]) - 0.7152).abs() < 1e-4 && (rgb([0, 0, 255]) - 0.0722).abs() < 1e-4);
    // What is clear is paper.
    let clear = DynamicImage::ImageRgba8(image::RgbaImage::from_pixel(2, 2, image::Rgba([0, 0, 0, 0])));
    assert_eq!(of(clear, ImageFormat::Png), 1.0);
}

#[test]
fn broken_pictures_are_refused_before_they_cost_anything() {
    let png = encoded(&grey(64, 64), ImageFormat::Png);
    let said = |bytes: &[u8]| images::rgba(bytes, &LIMITS).expect_err("refused").to_string();
    assert!(said(b"").contains("empty"));
    assert!(said(b"GIF89a............").contains("PNG, TIFF and JPEG"));
    assert!(said(&png[..png.len() / 2]).contains("damaged or cut short"));
    assert!(said(&png[..20]).contains("damaged or cut short"));
    assert!(said(&tiff(2, 300)[..40]).contains("damaged"));
    assert!(said(&jpeg(1, 300)[..200]).contains("damaged"));
    // A PNG's header that claims 100,000 by 100,000 px.
    let mut huge = encoded(&grey(8, 8), ImageFormat::Png);
    huge[16..24].copy_from_slice(&[0, 1, 0x86, 0xA0, 0, 1, 0x86, 0xA0]);
    let crc = crc32(&huge[12..29]);
    huge[29..33].copy_from_slice(&crc.to_be_bytes());
    assert_eq!(images::dimensions(&huge, &LIMITS).expect_err("too large"), ReadError::TooLarge { width: 100_000, height: 100_000, most: LIMITS.pixels });
    assert!(said(&huge).contains("120 megapixels"));
}

/// CRC-32 as PNG has it (ISO/IEC 15948, annex D).
fn crc32(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0u32, |mut c, b| {
        c ^= u32::from(*b);
        (0..8).for_each(|_| c = if c & 1 == 1 { 0xEDB8_8320 ^ (c >> 1) } else { c >> 1 });
        c
    })
}

fn zip(entries: &[(&str, &[u8])]) -> Vec<u8> {
    let mut z = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, data) in entries {
        z.start_file(*name, zip::write::SimpleFileOptions::default()).expect("an entry");
        z.write_all(data).expect("written");
    }
    z.finish().expect("closed").into_inner()
}

fn rgba(w: u32, h: u32, ink: impl Fn(u32, u32) -> bool) -> Vec<u8> {
    encoded(&DynamicImage::ImageRgba8(image::RgbaImage::from_fn(w, h, |x, y| image::Rgba([0, 0, 0, if ink(x, y) { 255 } else { 0 }]))), ImageFormat::Png)
}

#[test]
fn an_archive_gives_its_drawings_and_nothing_from_outside_it() {
    let bytes = zip(&[
        ("012/b.png", b"1"),
        ("012/notes.txt", b"2"),
        ("../evil.png", b"3"),
        ("/etc/x.png", b"4"),
        ("012/a.TIF", b"5"),
        ("c.svg", b""),
        ("__MACOSX/012/._b.png", b"6"),
        ("012/.thumbs/b.png", b"7"),
    ]);
    let plain = |b: &[u8]| archive::is_plain_zip(&mut Cursor::new(b), &LIMITS);
    let mut seen = Vec::new();
    archive::entries(Cursor::new(&bytes), &LIMITS, |name, data| {
        seen.push((name, data.expect("read").len()));
        true
    })
    .expect("an archive");
    // A name from the root is taken inside the archive; one that climbs out is not taken at all.
    assert!(seen.iter().all(|(n, _)| !n.contains("..") && !n.starts_with('/')), "{seen:?}");
    assert_eq!(seen.iter().filter(|(n, _)| ["012/b.png", "012/a.TIF", "c.svg"].contains(&n.as_str())).count(), 3);
    assert!(plain(&bytes) && !plain(b"no archive") && !plain(&zip(&[("stack.xml", b"<image/>")])));
    assert!(archive::entries(Cursor::new(&bytes[..bytes.len() - 30]), &LIMITS, |_, _| true).expect_err("cut short").to_string().contains("archive"));
}

#[test]
fn open_raster_gives_its_layers_from_below_where_they_lie() {
    let stack = r#"<image w="40" h="30"><stack><layer name="notes" src="data/n.png" visibility="hidden"/><stack name="cleanup"><layer name="inner" src="data/i.png" x="10" y="5"/><layer name="contour" src="data/c.png"/></stack></stack></image>"#;
    let (inner, contour) = (rgba(8, 8, |_, _| true), rgba(40, 30, |x, _| x == 3));
    let bytes = zip(&[("mimetype", b"image/openraster"), ("stack.xml", stack.as_bytes()), ("data/i.png", &inner), ("data/c.png", &contour)]);
    let d = drawings::read(&bytes, true, &LIMITS).expect("it reads");
    assert_eq!(d.layers.iter().map(|l| l.0.as_deref().unwrap_or("-")).collect::<Vec<_>>(), ["cleanup/contour", "cleanup/inner"]);
    let alpha = |l: usize, x: usize, y: usize| d.layers[l].1.data[4 * (y * 40 + x) + 3];
    assert_eq!((alpha(0, 3, 20), alpha(0, 4, 20), alpha(1, 10, 5), alpha(1, 17, 12), alpha(1, 18, 12), alpha(1, 9, 5)), (255, 0, 255, 255, 0, 0));
    // Opacities of a layer and of its stacks go into its alpha; a layer may stand out over the drawing on any side.
    let faint = r#"<image w="40" h="30"><stack opacity="0.5"><stack opacity="0.8"><layer src="i.png" x="-4" y="-3" opacity="0.5"/></stack><layer src="c.png" x="39" y="29"/></stack></image>"#;
    let d = drawings::read(&zip(&[("stack.xml", faint.as_bytes()), ("i.png", &inner), ("c.png", &contour)]), true, &LIMITS).expect("it reads");
    let alpha = |l: usize, x: usize, y: usize| d.layers[l].1.data[4 * (y * 40 + x) + 3];
    assert_eq!([alpha(1, 0, 0), alpha(1, 3, 4), alpha(1, 4, 0), alpha(1, 0, 5), alpha(0, 39, 29)], [51, 51, 0, 0, 0]);
    for (stack, says) in [
        ("<image w=\"40\" h=\"30\"><stack/></image>", "no layer"),
        ("<image><stack/></image>", "no size"),
        ("<image w=\"40\"", "stack.xml"),
        ("<image w=\"40\" h=\"30\"><stack><layer src=\"gone.png\"/></stack></image>", "gone.png"),
        ("<image w=\"400000\" h=\"300000\"><stack/></image>", "megapixels"),
    ] {
        let said = drawings::read(&zip(&[("stack.xml", stack.as_bytes())]), false, &LIMITS).expect_err(stack).to_string();
        assert!(said.contains(says), "{stack}: {said}");
    }
}

#[test]
fn drawings_are_known_by_their_content() {
    assert_eq!(drawings::read(&rgba(20, 10, |_, _| false), false, &LIMITS).expect("PNG").layers.len(), 1);
    assert_eq!(drawings::read(&tiff(2, 300), false, &LIMITS).expect("TIFF").oversampled, 1.0);
    assert_eq!(drawings::read(&jpeg(1, 300), false, &LIMITS).expect("JPEG").layers.len(), 1);
    let svg = b"<?xml version=\"1.0\"?><svg xmlns=\"http://www.w3.org/2000/svg\" width=\"400\" height=\"20\"><path d=\"M0 10H400\" stroke=\"#000\" stroke-width=\"4\"/></svg>";
    let d = drawings::read(svg, false, &LIMITS).expect("SVG");
    assert_eq!((d.oversampled, d.layers[0].1.width, d.layers[0].1.height), (4.0, 1600, 80));
    let ink: usize = d.layers[0].1.data.chunks(4).filter(|p| p[3] > 127).count();
    assert_eq!(ink, 1600 * 16);
    for (bytes, says) in
        [(&b""[..], "empty"), (b"%PDF-1.7", "SVG and OpenRaster"), (b"<svg", "SVG"), (b"PK\x03\x04junk", "OpenRaster"), (&b"GIF89a......"[..], "no drawing")]
    {
        assert!(drawings::read(bytes, false, &LIMITS).expect_err(says).to_string().contains(says));
    }
}

#[test]
fn paths_are_sampled_where_they_are_drawn_in_mm() {
    let svg = r#"<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 200 100"><g transform="translate(20 0)"><path d="M0 20H40 M0 40L40 40" stroke="red" fill="none"/></g><circle cx="100" cy="50" r="20" fill="none" stroke="red"/></svg>"#;
    let read = svg_paths::read(svg, &LIMITS).expect("it reads");
    assert!(read.in_mm && read.strokes.len() == 3 && read.strokes.iter().all(|s| !s.timed));
    let ends = |s: &Stroke| (s.samples[0], s.samples[s.samples.len() - 1]);
    let (a, b) = ends(&read.strokes[0]);
    assert!((a.x - 10.0).abs() < 1e-4 && (b.x - 30.0).abs() < 1e-4 && (a.y - 10.0).abs() < 1e-4, "{a:?} {b:?}");
    // The circle is 10 mm in radius: its way round by its formula, its samples no further apart than they should be.
    let way = read.strokes[2].lengths_mm();
    assert!((way[way.len() - 1] / (20.0 * std::f64::consts::PI) - 1.0).abs() < 1e-3);
    assert!(way.windows(2).all(|w| w[1] - w[0] < 0.3));
    // Without a physical size, 96 px to the inch.
    let px =
        svg_paths::read(r#"<svg xmlns="http://www.w3.org/2000/svg" width="96" height="96"><path d="M0 0H96" stroke="red"/></svg>"#, &LIMITS).expect("it reads");
    assert!(!px.in_mm && (ends(&px.strokes[0]).1.x - 25.4).abs() < 1e-4);
    for (text, says) in
        [("", "empty"), ("<svg", "XML"), ("<html/>", "<html>"), ("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\"/>", "no path")]
    {
        assert!(svg_paths::read(text, &LIMITS).expect_err(says).to_string().contains(says), "{text}");
    }
}

#[test]
fn ink_goes_out_where_it_lies_in_true_size() {
    let stroke = Stroke::new((0..50).map(|i| Sample { x: 20.0 + 0.5 * f64::from(i), y: -7.0, pressure: Some(0.5), ..Sample::default() }).collect());
    let inker = Inker::new(&Brush::plain("b", 2.0), None, None).expect("inkable");
    let outlines = ink_out::ink(&inker, &[stroke]);
    // Read back by another library: one shape, as large as the line, where the stroke was.
    let svg = ink_out::svg(&outlines, "#1b1e24");
    let tree = resvg::usvg::Tree::from_str(&svg, &resvg::usvg::Options::default()).expect("an SVG");
    assert!((f64::from(tree.size().width()) * 25.4 / 96.0 - 26.5).abs() < 0.01);
    let corner: Vec<f64> = svg.split("viewBox=\"").nth(1).expect("a viewBox").split([' ', '"']).take(2).filter_map(|v| v.parse().ok()).collect();
    assert!((corner[0] - 19.0).abs() < 0.003 && (corner[1] + 8.0).abs() < 0.003, "{corner:?}");
    let png = ink_out::png(&outlines, 254.0, &LIMITS).expect("a PNG");
    assert_eq!(images::resolution(&png), Some(254.0));
    let p = images::rgba(&png, &LIMITS).expect("it reads");
    let area: f64 = p.data.chunks(4).map(|c| f64::from(c[3]) / 255.0).sum::<f64>() / 100.0;
    assert!((area / (24.5 * 2.0 + std::f64::consts::PI) - 1.0).abs() < 2e-3, "{area}");
    assert!(p.data.chunks(4).all(|c| c[..3] == [0, 0, 0]));
    // Two strokes over one another: half covered twice is three quarters covered.
    let none = ink_out::ink(&inker, &[]);
    assert!(ink_out::png(&none, 600.0, &LIMITS).is_err() && ink_out::svg(&none, "#000000").contains("<svg"));
    assert!(matches!(ink_out::png(&outlines, 1e6, &LIMITS), Err(ReadError::TooLarge { .. })));
}

#[test]
fn a_manifest_is_read_by_its_header() {
    let m = manifest::read("file, artist ,drawing,tablet\n a.png,dov,27,\nb.png,\"Lunde, Pia\",28,travel\n").expect("it reads");
    assert_eq!(m["a.png"].iter().map(|(k, v)| format!("{k}={v}")).collect::<Vec<_>>(), ["artist=dov", "drawing=27"]);
    assert_eq!((m["b.png"]["artist"].as_str(), m["b.png"]["tablet"].as_str()), ("Lunde, Pia", "travel"));
    // As spreadsheets write it: semicolons or tabs, a mark in front, heads in their own case, an empty column and row.
    let as_written = "File;Artist;Shot size;\r\na.png;José;wide;\r\n;;;\r\n";
    let utf16: Vec<u8> = [0xff, 0xfe].into_iter().chain(as_written.replace(';', "\t").encode_utf16().flat_map(u16::to_le_bytes)).collect();
    let latin: Vec<u8> = as_written.chars().map(|c| c as u8).collect();
    for bytes in [format!("\u{feff}{as_written}").into_bytes(), utf16, latin] {
        let m = manifest::read(&manifest::text(&bytes)).expect("it reads");
        assert_eq!((m.len(), m["a.png"]["artist"].as_str(), m["a.png"]["shot_size"].as_str()), (1, "José", "wide"));
    }
    for (text, says) in [("", "file"), ("artist\ndov\n", "“file”"), ("file,painter\na.png,dov\n", "painter"), ("file,artist\na.png\n", "manifest")] {
        assert!(manifest::read(text).expect_err(text).to_string().contains(says), "{text}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Bytes that begin like a picture and go on as they like never make a reader fall over.
    #[test]
    fn spoilt_files_are_read_or_refused(kind in 0usize..5, at in 0usize..400, with in prop::collection::vec(any::<u8>(), 0..12), cut in 0usize..400) {
        let mut bytes = match kind {
            0 => encoded(&grey(16, 16), ImageFormat::Png),
            1 => tiff(2, 300),
            2 => jpeg(1, 300),
            3 => zip(&[("stack.xml", b"<image w=\"4\" h=\"4\"><stack><layer src=\"a.png\"/></stack></image>"), ("a.png", &rgba(4, 4, |_, _| true))]),
            _ => b"<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9\" height=\"9\"><path d=\"M0 0H9\"/></svg>".to_vec(),
        };
        let at = at.min(bytes.len());
        let end = (at + with.len()).min(bytes.len());
        bytes.splice(at..end, with);
        bytes.truncate(bytes.len() - cut.min(bytes.len()));
        let _ = images::rgba(&bytes, &LIMITS);
        let _ = images::resolution(&bytes);
        let _ = drawings::read(&bytes, true, &LIMITS);
        let _ = archive::entries(Cursor::new(&bytes), &LIMITS, |_, _| true);
    }
}

/// A page whose light falls by a fifth toward one corner, with a line on it: flat, its paper is white everywhere and its ink as
/// dark as it was against the paper.
#[test]
fn a_flat_preview_has_no_shading_left() {
    let (w, h) = (900, 600);
    let at = |x: usize, y: usize| {
        let shade = 1.0 - 0.1 * (x as f32 / w as f32) - 0.1 * (y as f32 / h as f32);
        let light = shade * if (290..300).contains(&y) && (100..800).contains(&x) { 0.05 } else { 0.8 };
        (255.0 * if light <= 0.003_130_8 { 12.92 * light } else { 1.055 * light.powf(1.0 / 2.4) - 0.055 }).round() as u8
    };
    let grey: Vec<u8> = (0..w * h).map(|i| at(i % w, i / w)).collect();
    let png = write_png(w, h, PngKind::Grey, &grey, Some(11.8)).expect("a PNG");
    let level = |flat: bool, side: u32| {
        let p = images::rgba(&preview(&png, side, flat, &LIMITS).expect("a preview"), &LIMITS).expect("it reads");
        let k = p.width as f64 / w as f64;
        let at = move |x: f64, y: f64| f64::from(p.data[4 * ((y * k) as usize * p.width + (x * k) as usize)]);
        (at(20.0, 20.0), at(880.0, 580.0), at(450.0, 295.0), k)
    };
    let (light, dark, _, k) = level(false, 1600);
    assert!(light - dark > 15.0 && k == 1.0, "{light} {dark}");
    let (light, dark, ink, _) = level(true, 1600);
    assert!((light - 255.0).abs() < 3.0 && (dark - 255.0).abs() < 3.0, "{light} {dark}");
    // 0.05 over 0.8 of linear light is 0.0625: 0.277 encoded.
    assert!((ink / 255.0 - 0.277).abs() < 0.02, "{ink}");
    assert!((level(true, 450).3 - 0.5).abs() < 0.01);
}
