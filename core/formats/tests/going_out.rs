//! What of ink goes out and comes in: path data, proof sheets, existing paths, tips, libraries; read back by other readers.

use eddymist_formats::{
    LIMITS,
    images::{PngKind, tip, write_png},
    ink_out,
    library::{BrushLibrary, LibraryBrush, RollEntry},
    path_ink::{PathInkError, PathPen, PathToInk},
    proof_sheet::{self, Proof},
    svg_paths,
};
use eddymist_ink::{
    Brush, Inker,
    brush::{Edge, Stamped, StrokeKind},
    digits,
    outline::signed_area,
    proof::{PROOF_MM, figures},
};
use proptest::prelude::*;
use resvg::usvg;

fn dot() -> String {
    let data: Vec<u8> = (0..32 * 32).map(|i: i32| if f64::from(i % 32 - 16).hypot(f64::from(i / 32 - 16)) < 15.0 { 0 } else { 255 }).collect();
    let png = write_png(32, 32, PngKind::Grey, &data, None).expect("a PNG");
    format!("data:image/png;base64,{}", base64::Engine::encode(&base64::engine::general_purpose::STANDARD, png))
}

fn stamped() -> Brush {
    let stamped = Stamped {
        tip_png: dot(),
        spacing: 0.2,
        size_range: 0.0,
        angle_range_deg: 0.0,
        spacing_range: 0.0,
        stray: 0.0,
        second_tip_png: None,
        paper_png: None,
        paper_high_is_light: false,
    };
    Brush { stroke: StrokeKind::Stamped(stamped), colour: "#204060".into(), ..Brush::plain("stamped", 0.8) }
}

#[test]
fn the_proof_sheet_is_of_true_size_and_shows_every_brush_on_every_figure() {
    let soft = Brush { edge: Edge { softness_mm: 0.2, ..Edge::default() }, ..Brush::plain("soft", 0.6) };
    let brushes = [Brush::plain("plain", 0.5), soft, stamped(), Brush { stroke: StrokeKind::Pixel, ..Brush::plain("pixel", 0.5) }];
    let proofs: Vec<Proof> = brushes.iter().map(|brush| Proof { brush, says: "version 1".into() }).collect();
    let svg = proof_sheet::svg(&proofs).expect("inked");
    let tree = usvg::Tree::from_str(&svg, &usvg::Options::default()).expect("another reader reads it");
    // 297 mm at 96 px to the inch.
    assert!((f64::from(tree.size().width()) - 297.0 * 96.0 / 25.4).abs() < 0.1);
    let strokes = figures().iter().map(|f| f.strokes.len()).sum::<usize>();
    assert_eq!(svg.matches("<image ").count(), strokes);
    // Every figure lies within its own box, and the boxes within the sheet.
    for f in figures() {
        for p in f.strokes.iter().flat_map(|s| &s.samples) {
            assert!((0.0..=f.size[0]).contains(&p.x) && (0.0..=f.size[1]).contains(&p.y), "{}: {} {}", f.name, p.x, p.y);
        }
        assert!(f.at[0] + f.size[0] <= PROOF_MM[0] && f.at[1] + f.size[1] <= PROOF_MM[1], "{}", f.name);
    }
    // Four brushes are two pages of A4 on its side (841.89 × 595.28 pt).
    let pdf = proof_sheet::pdf(&proofs).expect("written");
    let text = String::from_utf8_lossy(&pdf);
    assert!(text.starts_with("%PDF-") && text.contains("/Count 2"), "{}", text.len());
    assert!(text.contains("841.88") || text.contains("841.89"));
}

#[test]
fn lines_of_an_svg_come_with_their_colour_and_layer_and_nothing_from_outside() {
    let svg = r##"<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="50mm" height="50mm" viewBox="0 0 50 50">
      <script>document.title = 'no'</script><image href="/etc/hostname" width="10" height="10"/><image href="https://elsewhere.example/x.png" width="9" height="9"/>
      <g id="coat" fill="none" stroke="#aabbcc"><path d="M0 0 H10"/><g><path d="M0 5 H10" stroke="#001122"/></g></g>
      <path id="no layer" d="M0 20 L10 20 L5 30 Z" fill="#ff0000"/><text x="3" y="3">words</text></svg>"##;
    let found = svg_paths::read(svg, &LIMITS).expect("read");
    let said: Vec<(&str, &str)> = found.marks.iter().map(|m| (m.colour.as_str(), m.layer.as_str())).collect();
    assert_eq!(said, [("#aabbcc", "coat"), ("#001122", "coat"), ("#ff0000", "")]);
    assert_eq!(found.strokes.len(), 3);
    let line = "M0 0 H900000 ";
    let many = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"9e5mm\" height=\"10mm\" viewBox=\"0 0 900000 10\"><path stroke=\"#000\" d=\"{}\"/></svg>",
        line.repeat(600)
    );
    assert!(svg_paths::read(&many, &LIMITS).expect_err("too many").to_string().contains("points once sampled"));
}

fn path(long: f64, y: f64) -> PathToInk {
    PathToInk {
        points: (0..=80).map(|k| [long * f64::from(k) / 80.0, y]).collect(),
        course: "even".into(),
        reversed: false,
        weight_factor: 1.0,
        ..PathToInk::default()
    }
}

#[test]
fn paths_are_inked_each_in_its_own_way() {
    let brush = Brush { weight: vec![[0.0, 0.2], [0.5, 0.6], [1.0, 1.0]], ..Brush::plain("rising", 0.5) };
    let pen = |scale: f64, weight_scales: bool| PathPen { brushes: std::slice::from_ref(&brush), scale, weight_scales };
    let area = |p: &PathPen, paths: &[PathToInk]| p.ink(paths).expect("inked")[0].layers[0].outline.area_mm2();
    let band = |w: f64, long: f64| w * long + std::f64::consts::PI * w * w / 4.0;
    let even = area(&pen(1.0, false), &[path(40.0, 0.0)]);
    assert!((even / band(0.6, 40.0) - 1.0).abs() < 1e-3);
    // The weight stays when the picture grows, or grows with it.
    assert!((area(&pen(2.0, false), &[path(40.0, 0.0)]) / band(0.6, 80.0) - 1.0).abs() < 1e-3);
    assert!((area(&pen(2.0, true), &[path(40.0, 0.0)]) / band(1.2, 80.0) - 1.0).abs() < 1e-3);
    assert!((area(&pen(1.0, false), &[PathToInk { weight_factor: 3.0, ..path(40.0, 0.0) }]) / band(1.8, 40.0) - 1.0).abs() < 1e-3);
    // Rising one way is falling the other.
    let (rise, fall) = (PathToInk { course: "rise".into(), reversed: true, ..path(40.0, 0.0) }, PathToInk { course: "fall".into(), ..path(40.0, 0.0) });
    let (strokes, inked) = pen(1.0, false).inked_strokes(&[rise, fall]).expect("inked");
    assert_eq!(strokes.len(), 2);
    for (a, b) in inked[0].iter().rev().zip(&inked[1]) {
        assert!((a.width_mm - b.width_mm).abs() < 1e-9 && (a.x - b.x).abs() < 1e-9);
    }
    for (wrong, says) in [
        (PathToInk { weight_factor: 0.0, ..path(9.0, 0.0) }, "line 1: the weight factor"),
        (PathToInk { course: "sideways".into(), ..path(9.0, 0.0) }, "sideways"),
        (PathToInk { points: vec![[0.0, 0.0]], ..path(9.0, 0.0) }, "two points"),
        (PathToInk { points: vec![[0.0, f64::NAN], [1.0, 1.0]], ..path(9.0, 0.0) }, "each a number"),
    ] {
        assert!(pen(1.0, false).ink(&[wrong]).expect_err(says).to_string().contains(says), "{says}");
    }
    assert_eq!(pen(0.0, false).ink(&[path(1.0, 0.0)]), Err(PathInkError::Scale));
    // A page goes out as it came: its box, layers, names and colours; each line by its own brush.
    let two = [Brush::plain("thin", 0.2), Brush { colour: "#445566".into(), ..Brush::plain("thick", 2.0) }];
    let pen = PathPen { brushes: &two, scale: 2.0, weight_scales: false };
    let placed = |y: f64, brush: usize, layer: &str, name: &str, colour: &str| PathToInk {
        brush,
        layer: layer.into(),
        name: name.into(),
        colour: colour.into(),
        ..path(20.0, y)
    };
    let lines = [placed(5.0, 0, "coat", "hem", "#aa0000"), placed(10.0, 1, "coat", "", ""), placed(15.0, 0, "a \"bell\"", "", "#00aa00")];
    let svg = pen.svg(&lines, [60.0, 40.0]).expect("inked");
    let again = svg_paths::read(&svg, &LIMITS).expect("readable");
    assert_eq!(again.page_mm.map(|v| (v * 100.0).round() / 100.0), [120.0, 80.0]);
    let said: Vec<(&str, &str)> = again.marks.iter().map(|m| (m.layer.as_str(), m.colour.as_str())).collect();
    assert_eq!(said, [("hem", "#aa0000"), ("coat", "#445566"), ("a \"bell\"", "#00aa00")]);
    assert!(svg.contains("<g id=\"coat\">\n<g id=\"hem\">"));
    let tall = |k: usize| {
        let ys: Vec<f64> = again.strokes[k].samples.iter().map(|s| s.y).collect();
        ys.iter().fold(f64::MIN, |a, b| a.max(*b)) - ys.iter().fold(f64::MAX, |a, b| a.min(*b))
    };
    assert!((tall(0) - 0.2).abs() < 0.01 && (tall(1) - 2.0).abs() < 0.01);
    assert!(pen.svg(&[placed(5.0, 2, "", "", "")], [60.0, 40.0]).expect_err("no third").to_string().contains("no brush 2"));
    // A stamped stroke goes out as a picture in the brush's colour, where it lies.
    let brush = stamped();
    let inker = Inker::new(&brush, None, None).expect("inkable");
    let svg = ink_out::svg(&ink_out::ink(&inker, &figures()[0].placed()), &brush.colour);
    assert!(svg.contains("<image ") && !svg.contains("<path ") && usvg::Tree::from_str(&svg, &usvg::Options::default()).is_ok());
}

#[test]
fn a_tip_from_a_picture_is_laid_level_and_loses_its_colour() {
    for (deg, red) in [(0.0f64, 0u8), (25.0, 120), (-40.0, 30), (80.0, 200)] {
        let (s, c) = deg.to_radians().sin_cos();
        let inside = |x: f64, y: f64| (c * x - s * y).abs() < 70.0 && (s * x + c * y).abs() < 14.0;
        let data: Vec<u8> =
            (0..200 * 200).flat_map(|i| if inside(f64::from(i % 200) - 99.5, f64::from(i / 200) - 99.5) { [red, 10, 10] } else { [250, 248, 240] }).collect();
        let (p, turned) = tip(&write_png(200, 200, PngKind::Rgb, &data, None).expect("a PNG"), &LIMITS).expect("a tip");
        // Counter-clockwise as seen on the page: the picture's y runs down, so that the bar rises to the right by `deg`.
        assert!((turned.abs() - deg.abs()).abs() < 0.3, "{deg}: {turned}");
        let cut = eddymist_ink::kinds::Tip::from_picture(&p).expect("covered");
        let [long, broad] = cut.proportions();
        assert!(long == 1.0 && (broad - 0.2).abs() < 0.03, "{deg}: {broad}");
        assert!(p.coverage.iter().copied().fold(0.0, f32::max) > 0.99);
    }
    let blank = write_png(20, 20, PngKind::Grey, &[200; 400], None).expect("a PNG");
    assert!(tip(&blank, &LIMITS).expect_err("nothing").to_string().contains("no tip"));
}

#[test]
fn a_library_holds_brushes_and_roll_and_says_what_is_wrong() {
    let entry = |role: &str, brush: &str| RollEntry { role: role.into(), brush: brush.into(), colour: Some("#102030".into()), weight_factor: 1.2 };
    let brushes = vec![
        LibraryBrush { brush: stamped(), of_version: Some(3), tags: vec!["wet".into()] },
        LibraryBrush { brush: Brush::plain("plain", 0.5), of_version: None, tags: Vec::new() },
    ];
    let library = BrushLibrary::new(brushes, vec![entry("contour", "plain"), entry("lash line", "stamped")]);
    let text = serde_json::to_string(&library).expect("JSON");
    assert_eq!(BrushLibrary::from_json(&text).expect("read"), library);
    for (from, to, says) in [
        ("\"format\":\"eddymist/brush-library\",\"version\":1", "\"format\":\"eddymist/brush-library\",\"version\":4", "version 4"),
        ("brush-library", "line-guide", "line-guide"),
        ("\"name\":\"plain\"", "\"name\":\"stamped\"", "two brushes are called"),
        ("\"role\":\"lash line\"", "\"role\":\"contour\"", "twice"),
        ("\"brush\":\"plain\"", "\"brush\":\"gone\"", "no brush of the file is called “gone”"),
        ("#102030", "blue", "#rrggbb"),
        ("1.2", "0", "weight factor"),
        ("data:image/png;base64,", "", "stroke.tip_png"),
    ] {
        assert!(text.contains(from), "{from}");
        let said = BrushLibrary::from_json(&text.replacen(from, to, 1)).expect_err(says).to_string();
        assert!(said.contains(says), "{says}: {said}");
    }
}

proptest! {
    /// A number written is the number read, to its last decimal, and never longer than it needs to be.
    #[test]
    fn digits_are_read_back(v in -1e6f64..1e6, decimals in 0u32..=6) {
        let mut text = String::new();
        digits::push(&mut text, v, decimals);
        let unit = 10f64.powi(decimals as i32);
        prop_assert!((text.parse::<f64>().expect("a number") - v).abs() <= 0.5 / unit + 1e-9, "{v} as {text}");
        prop_assert!(!text.contains('.') || !text.ends_with(['0', '.']), "{text}");
    }

    /// Polygons laid level keep their area, and their longest way lies along x.
    #[test]
    fn rings_are_laid_level(deg in -89.0f64..89.0, long in 2.0f64..20.0, broad in 0.2f64..1.5) {
        let (s, c) = deg.to_radians().sin_cos();
        let ring: Vec<[f64; 2]> = [[0.0, 0.0], [long, 0.0], [long, broad], [0.0, broad]].iter().map(|[x, y]| [c * x - s * y + 7.0, s * x + c * y - 3.0]).collect();
        let (level, turned) = eddymist_ink::kinds::level::rings(&[ring]);
        prop_assert!((turned - deg).abs() < 0.01, "{turned}");
        prop_assert!((level.iter().map(|r| signed_area(r)).sum::<f64>().abs() / (long * broad) - 1.0).abs() < 1e-6);
        let high = level[0].iter().map(|p| p[1]).fold(f64::MIN, f64::max) - level[0].iter().map(|p| p[1]).fold(f64::MAX, f64::min);
        prop_assert!((high - broad).abs() < 1e-3 * long);
    }
}

#[test]
fn a_trial_page_goes_out_at_its_own_pixels_pass_by_pass() {
    use eddymist_formats::{
        drawings, images,
        trial::{self, PageSize, TrialInk},
    };
    let page = PageSize { width_px: 400, height_px: 120, px_per_mm: 8.0 };
    let inker = Inker::new(&Brush::plain("plain", 1.0), None, None).expect("inkable");
    let line = |pass: &str, colour: &str, y: f64| TrialInk {
        pass: pass.into(),
        colour: colour.into(),
        inked: inker
            .ink(&eddymist_ink::Stroke::new((0..60).map(|k| eddymist_ink::Sample { x: 5.0 + 0.6 * f64::from(k), y, ..Default::default() }).collect()))
            .inked(0.0005),
    };
    // Two strokes of one pass that cover one another by half, and one of another.
    let ink = [line("contour", "#112233", 4.0), line("inner & line", "#a05030", 10.0), line("contour", "#112233", 4.5)];
    let (apart, merged) = (trial::svg(&page, &ink, false), trial::svg(&page, &ink, true));
    for (svg, paths) in [(&apart, 3), (&merged, 2)] {
        let tree = usvg::Tree::from_str(svg, &usvg::Options::default()).expect("another reader reads it");
        assert!((f64::from(tree.size().width()) - 50.0 * 96.0 / 25.4).abs() < 0.1);
        assert_eq!(svg.matches("<path ").count(), paths);
        assert!(svg.contains("id=\"contour\"") && svg.contains("id=\"inner &amp; line\""));
    }
    let smooth = images::rgba(&trial::png(&page, &ink, false).expect("a PNG"), &LIMITS).expect("read");
    assert_eq!((smooth.width, smooth.height), (400, 120));
    // At 8 px to the mm the 1 mm line covers rows 76 to 83 whole.
    assert_eq!(smooth.data[4 * (80 * 400 + 200)..][..4], [0xa0, 0x50, 0x30, 255]);
    let hard = images::rgba(&trial::png(&page, &ink, true).expect("a PNG"), &LIMITS).expect("read");
    assert!(hard.data.chunks_exact(4).all(|p| p[3] == 0 || p[3] == 255) && smooth.data.chunks_exact(4).any(|p| p[3] > 0 && p[3] < 255));
    // Our own reader of OpenRaster finds the passes as layers, the first at the bottom.
    let ora = trial::ora(&page, &ink, false, None).expect("written");
    let drawing = drawings::read(&ora, false, &LIMITS).expect("read");
    assert_eq!(drawing.layers.iter().filter_map(|l| l.0.as_deref()).collect::<Vec<_>>(), ["contour", "inner & line"]);
}
