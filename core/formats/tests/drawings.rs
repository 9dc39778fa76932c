//! Drawings as they come: every kind of pixel, odd contents, and what is taken out of their check.

use std::io::Cursor;

use eddymist_check::{
    LineCheck, LineGuide, Manifest, WeighedDrawing,
    document::{Dismissed, FORMAT, Failed, Pin, SequenceFinding},
};
use eddymist_formats::{
    LIMITS,
    check_out::{Overlay, Overlays, findings_csv, overlay, overlay_name},
    drawings::{across, model_sheet, weigh},
    images::rgba,
};
use image::{DynamicImage, ImageBuffer, ImageFormat, Luma, LumaA, Rgb, Rgba};

const W: u32 = 400;
const H: u32 = 300;

fn guide() -> LineGuide {
    let text = r##"{"format":"eddymist/line-guide","version":1,"name":"g","page":{"width_px":400,"height_px":300},"off":["hard-edge"],
        "roles":[{"name":"line","from":{"colour":"#101010","tolerance":10},"weight_px":{"target":6.0,"tolerance":0.1}}],"must_mend":["heavy"]}"##;
    LineGuide::from_json(text).expect("a guide")
}

/// A level line 6 px wide.
fn on(x: u32, y: u32) -> bool {
    (40..360).contains(&x) && (147..153).contains(&y)
}

fn encoded(picture: impl Into<DynamicImage>, format: ImageFormat) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    picture.into().write_to(&mut out, format).expect("it is written");
    out.into_inner()
}

fn weighed(bytes: &[u8]) -> Result<WeighedDrawing, String> {
    weigh(&guide(), "d", bytes, &Manifest::new(), &LIMITS).map_err(|e| e.to_string())
}

fn mean(bytes: &[u8]) -> f64 {
    weighed(bytes).expect("it is weighed").check.roles[0].weight_px.expect("weighed").mean
}

/// An indexed PNG written by hand: paper and ink in a palette, a byte a pixel.
fn indexed() -> Vec<u8> {
    let mut out = Vec::new();
    let mut e = png::Encoder::new(&mut out, W, H);
    e.set_color(png::ColorType::Indexed);
    e.set_depth(png::BitDepth::Eight);
    e.set_palette(vec![255, 255, 255, 16, 16, 16]);
    let data: Vec<u8> = (0..W * H).map(|i| u8::from(on(i % W, i / W))).collect();
    e.write_header().and_then(|mut w| w.write_image_data(&data)).expect("it is written");
    out
}

/// A CMYK TIFF: ink in all four plates.
fn cmyk() -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    let data: Vec<u8> = (0..W * H).flat_map(|i| if on(i % W, i / W) { [0, 0, 0, 239] } else { [0; 4] }).collect();
    let mut e = tiff::encoder::TiffEncoder::new(&mut out).expect("a TIFF");
    e.write_image::<tiff::encoder::colortype::CMYK8>(W, H, &data).expect("it is written");
    out.into_inner()
}

#[test]
fn a_line_weighs_the_same_in_every_kind_of_pixel() {
    let ink = |x, y| if on(x, y) { 16u8 } else { 255 };
    let grey = ImageBuffer::from_fn(W, H, |x, y| Luma([ink(x, y)]));
    let deep = ImageBuffer::from_fn(W, H, |x, y| Luma([u16::from(ink(x, y)) * 257]));
    let colour = ImageBuffer::from_fn(W, H, |x, y| Rgb([ink(x, y); 3]));
    let deep_colour = ImageBuffer::from_fn(W, H, |x, y| Rgb([u16::from(ink(x, y)) * 257; 3]));
    // All black, only its alpha says where ink is; and ink on clear ground that is white underneath.
    let alpha = ImageBuffer::from_fn(W, H, |x, y| LumaA([16u8, if on(x, y) { 255 } else { 0 }]));
    let clear = ImageBuffer::from_fn(W, H, |x, y| if on(x, y) { Rgba([16u8, 16, 16, 255]) } else { Rgba([255, 255, 255, 0]) });
    for (what, bytes) in [
        ("grey PNG", encoded(grey.clone(), ImageFormat::Png)),
        ("grey TIFF", encoded(grey, ImageFormat::Tiff)),
        ("16-bit grey", encoded(deep, ImageFormat::Png)),
        ("RGB", encoded(colour.clone(), ImageFormat::Png)),
        ("RGB TIFF", encoded(colour, ImageFormat::Tiff)),
        ("16-bit RGB", encoded(deep_colour, ImageFormat::Png)),
        ("alpha only", encoded(alpha, ImageFormat::Png)),
        ("clear ground", encoded(clear, ImageFormat::Png)),
        ("indexed", indexed()),
    ] {
        assert!((mean(&bytes) - 6.0).abs() < 0.01, "{what}: {}", mean(&bytes));
    }
    // What is meant for a press has no colours of its own.
    let said = eddymist_formats::drawings::read(&cmyk(), false, &LIMITS).expect_err("CMYK").to_string();
    assert!(said.contains("CMYK") && said.contains("save it as RGB or grey"), "{said}");
}

#[test]
fn what_is_no_drawing_of_lines_says_so() {
    let flat = |v: u8| encoded(ImageBuffer::from_pixel(W, H, Luma([v])), ImageFormat::Png);
    assert!(weighed(&flat(255)).expect_err("paper alone").contains("no ink"));
    // All ink: it is one spotted black, and no line.
    match weighed(&flat(16)) {
        Ok(w) => assert!(w.check.roles.iter().all(|r| r.weight_px.is_none()) && w.lines.is_empty(), "{:?}", w.check),
        Err(e) => assert!(e.contains("no ink") || e.contains("role"), "{e}"),
    }
    for (bytes, says) in [(&b""[..], "empty"), (b"words", "PNG"), (b"<svg", "SVG"), (b"PK\x03\x04broken", "OpenRaster"), (&indexed()[..90], "damaged")] {
        assert!(weighed(bytes).expect_err("it is refused").to_lowercase().contains(&says.to_lowercase()), "{says}");
    }
    // A kind of TIFF that is not read is told from a damaged one.
    let mut lab = encoded(ImageBuffer::from_pixel(8, 8, Rgb([9u8; 3])), ImageFormat::Tiff);
    let tag = lab.windows(4).position(|w| w == [0x06, 0x01, 3, 0]).expect("the colour space's tag");
    lab[tag + 8] = 8;
    let says = weighed(&lab).expect_err("CIE L*a*b*");
    assert!(says.contains("CIELab, which is not read") && says.contains("RGB"), "{says}");
    // A vector drawing that reaches out for a picture is drawn without it.
    let out = format!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="{W}" height="{H}">
        <image xlink:href="file:///etc/hostname" width="400" height="300"/><image xlink:href="http://localhost:1/x.png" width="400" height="300"/>
        <path d="M40 150H360" stroke="#101010" stroke-width="6"/></svg>"##
    );
    assert!((mean(out.as_bytes()) - 6.0).abs() < 0.02);
    // A hatched page is weighed like any other, and is no heap of doubles.
    let hatched = ImageBuffer::from_fn(W, H, |x, y| Luma([if (20..380).contains(&x) && y % 20 < 6 && y > 10 && y < 290 { 16u8 } else { 255 }]));
    let w = weighed(&encoded(hatched, ImageFormat::Png)).expect("it is weighed");
    assert!((w.check.roles[0].weight_px.expect("weighed").mean - 6.0).abs() < 0.05 && w.check.findings.is_empty(), "{:?}", w.check.findings);
}

#[test]
fn an_unknown_shot_size_names_those_that_are_known() {
    let mut g = guide();
    g.scale_by_shot = [("close".to_string(), 1.25), ("wide".to_string(), 0.8)].into();
    let held = weigh(&g, "d", &indexed(), &Manifest::from([("shot_size".into(), "far".into())]), &LIMITS).expect_err("unknown").to_string();
    assert!(held.contains("“far”") && held.contains("close, wide"), "{held}");
}

#[test]
fn the_ink_across_a_line_adds_up_to_its_width_whichever_way_it_is_cut() {
    for deg in [0.0f64, 30.0, 45.0, 75.0, 90.0] {
        // An even line through the middle whose normal points `deg` from +x.
        let (s, c) = deg.to_radians().sin_cos();
        let svg = format!(
            r##"<svg xmlns="http://www.w3.org/2000/svg" width="{W}" height="{H}"><path d="M{} {}L{} {}" stroke="#101010" stroke-width="5.3"/></svg>"##,
            200.0 - 120.0 * s,
            150.0 + 120.0 * c,
            200.0 + 120.0 * s,
            150.0 - 120.0 * c
        );
        let a = across(&guide(), svg.as_bytes(), [200.0, 150.0], deg, &LIMITS).expect("it is read");
        let width = a.coverage.iter().map(|v| f64::from(*v)).sum::<f64>() * a.step_px;
        assert!((width - 5.3).abs() < 0.06, "{deg}°: {width}");
        // The place is in the middle: as much on either side.
        let half = a.coverage.len() / 2;
        let side = |r: &[f32]| r.iter().map(|v| f64::from(*v)).sum::<f64>() * a.step_px;
        assert!((side(&a.coverage[..half]) - side(&a.coverage[half + 1..])).abs() < 0.3);
    }
    // Off the picture there is nothing, and no fault.
    assert!(across(&guide(), &indexed(), [9e9, -5.0], 12.0, &LIMITS).expect("it is read").coverage.iter().all(|v| *v == 0.0));
}

#[test]
fn a_model_sheet_is_read_from_any_kind_of_file() {
    let svg = format!(r##"<svg xmlns="http://www.w3.org/2000/svg" width="{W}" height="{H}"><path d="M40 150H360" stroke="#7a4326" stroke-width="4"/></svg>"##);
    let sheet = model_sheet(svg.as_bytes(), &LIMITS).expect("it is read");
    assert_eq!((sheet.width_px, sheet.height_px, sheet.colours.as_slice()), (W, H, &["#7a4326".to_string()][..]));
    assert!((sheet.lines[0].mean_px - 4.0).abs() < 0.02 && (sheet.lines[0].length_px - 320.0).abs() < 4.0);
    assert!(model_sheet(b"words", &LIMITS).is_err());
}

/// A check of one drawing with a heavy line, one pinned thing, a sequence finding and a failed file.
fn document() -> (LineCheck, WeighedDrawing) {
    let thick = ImageBuffer::from_fn(W, H, |x, y| Luma([if (40..360).contains(&x) && (145..154).contains(&y) { 16u8 } else { 255 }]));
    let mut w = weighed(&encoded(thick, ImageFormat::Png)).expect("it is weighed");
    w.check.file = "shot, 012/\"a\".png".into();
    w.check.findings[0].dismissed = Some(Dismissed { by: "Ilse".into(), why: "meant, as it is".into() });
    w.check.pins.push(Pin { x: 10.0, y: 20.0, text: "a\nnew line".into(), by: "Ilse".into() });
    let sequence = SequenceFinding {
        kind: eddymist_check::FindingKind::Boil,
        role: "line".into(),
        artist: Some("pia".into()),
        drawings: vec!["a".into(), "b".into()],
        value: 0.11,
        limit: 0.08,
        message: "pia: line boils".into(),
    };
    let failed = vec![Failed { file: "b.png".into(), message: "damaged".into() }];
    let all = LineCheck {
        format: FORMAT.into(),
        version: 1,
        guide: "g".into(),
        not_looked_for: Vec::new(),
        drawings: vec![w.check.clone()],
        sequence: vec![sequence],
        warnings: Vec::new(),
        failed,
    };
    (all, w)
}

#[test]
fn findings_go_out_as_a_table_that_reads_back() {
    let (all, w) = document();
    let text = findings_csv(&all);
    let mut table = csv::Reader::from_reader(text.as_bytes());
    let head = table.headers().expect("a header").clone();
    let column = |r: &csv::StringRecord, name: &str| r[head.iter().position(|h| h == name).expect("a column")].to_string();
    let rows: Vec<csv::StringRecord> = table.records().collect::<Result<_, _>>().expect("every row has as many fields");
    assert_eq!(rows.len(), w.check.findings.len() + 3);
    assert_eq!((column(&rows[0], "file"), column(&rows[0], "kind")), ("shot, 012/\"a\".png".into(), "heavy".into()));
    assert_eq!((column(&rows[0], "meant"), column(&rows[0], "must_mend")), ("Ilse: meant, as it is".into(), "true".into()));
    assert!((column(&rows[0], "value").parse::<f64>().expect("a number") - w.check.findings[0].value).abs() < 1e-3);
    let last: Vec<String> = rows[rows.len() - 3..].iter().map(|r| column(r, "kind")).collect();
    assert_eq!(last, ["pinned", "boil", "not read"]);
    assert_eq!(column(&rows[rows.len() - 3], "says"), "a\nnew line");
}

#[test]
fn overlays_are_pictures_of_the_drawings_size_with_its_lines_and_pins() {
    let (all, w) = document();
    let check = &all.drawings[0];
    let png = rgba(&overlay(Overlay::Png, check, &w.lines).expect("a picture"), &LIMITS).expect("it reads back");
    assert_eq!((png.width, png.height), (W as usize, H as usize));
    let at = |x: usize, y: usize| png.data[4 * (y * png.width + x)..][..4].to_vec();
    // Heavy in the heavy colour where the line's body is, clear off it.
    assert_eq!((at(200, 149), at(200, 100)), (vec![0xa8, 0x40, 0x0f, 255], vec![0, 0, 0, 0]));
    let svg = String::from_utf8(overlay(Overlay::Svg, check, &w.lines).expect("a picture")).expect("text");
    let tree = resvg::usvg::Tree::from_str(&svg, &Default::default()).expect("it reads back");
    assert_eq!((tree.size().width(), tree.size().height()), (W as f32, H as f32));
    // What is meant has no pin; what a person pinned has.
    assert!(svg.contains("#a8400f") && svg.contains("Ilse: a\nnew line") && !svg.contains("at most"), "{svg}");
    assert_eq!(overlay_name("/in/a.zip/b\\c.png", Overlay::Svg), "in_a.zip_b_c.png.svg");
    let mut all = Overlays::new(Overlay::Svg);
    all.add(check, &w.lines).expect("it is added");
    let bytes = all.finish().expect("a ZIP");
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).expect("it reads back");
    assert_eq!(zip.by_index(0).expect("an entry").name().expect("a name"), "shot, 012_\"a\".png.svg");
}
