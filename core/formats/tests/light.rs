//! The light of a file: what tests/light/make_light.py made, against LittleCMS (through Pillow 13.0.0) and the standards' formulas; axes of
//! unlike resolution; pictures that lie on their side.

use eddymist_formats::{
    Given, LIMITS, drawings,
    images::{self, PngKind, write_png},
};
use eddymist_ink::{Outline, raster::rasterise};
use eddymist_measure::{
    colour::{encode, linear},
    scan::measure,
    source::{Kind, Light, Origin},
};
use serde_json::Value;

fn file(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/../../tests/light/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap_or_else(|e| panic!("{name}: {e}"))
}

#[test]
fn every_light_is_brought_to_srgb() {
    let all: Value = serde_json::from_slice(&file("expected.json")).expect("JSON");
    for (name, pixels) in all.as_object().expect("files") {
        let p = images::rgba(&file(name), &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}"));
        // JPEG's decoders differ by a step or two, which a profile may stretch; the darkest steps of a table are coarse.
        let within = if name.ends_with(".jpg") { 6.0 } else { 1.6 };
        for v in pixels.as_array().expect("pixels") {
            let v: Vec<f64> = v.as_array().expect("five").iter().map(|v| v.as_f64().expect("a number")).collect();
            let at = 4 * (v[1] as usize * p.width + v[0] as usize);
            for k in 0..3 {
                assert!((f64::from(p.data[at + k]) - v[2 + k]).abs() <= within, "{name} at {}, {}: {:?} for {:?}", v[0], v[1], &p.data[at..at + 3], &v[2..]);
            }
        }
    }
}

#[test]
fn a_drawing_says_which_light_it_was_given_in() {
    for (name, light, from) in [
        ("grey-18.png", Light::Icc, Origin::File),
        ("wide-22.tif", Light::Icc, Origin::File),
        ("gama-18.png", Light::Gamma, Origin::File),
        ("gama-of-srgb.png", Light::Srgb, Origin::File),
        ("code-points-linear.png", Light::Cicp, Origin::File),
        ("turned.jpg", Light::Srgb, Origin::Assumed),
    ] {
        let source = drawings::read(&file(name), false, &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}")).source;
        assert_eq!((source.light, source.from.light), (light, from), "{name}");
        assert_eq!(source.assumed.iter().any(|a| a.contains("sRGB")), from == Origin::Assumed, "{name}: {:?}", source.assumed);
    }
}

/// Sixteen bits of linear light are the light itself, to a part in ten thousand.
#[test]
fn linear_light_is_measured_as_it_is() {
    for name in ["linear-16-gama.png", "linear-16-profile.png"] {
        let s = images::scan(&file(name), Some(300.0), &LIMITS).unwrap_or_else(|e| panic!("{name}: {e}"));
        for (x, l) in s.data[..s.width].iter().enumerate() {
            let want = x as f64 / (s.width - 1) as f64;
            assert!((f64::from(*l) - want).abs() < 2e-3, "{name} at {x}: {l} for {want}");
        }
    }
}

#[test]
fn profiles_that_cannot_be_used_are_refused_in_a_sentence() {
    let with = |profile: &[u8]| {
        let mut out = Vec::new();
        let mut info = png::Info::with_size(4, 4);
        (info.color_type, info.bit_depth) = (png::ColorType::Grayscale, png::BitDepth::Eight);
        info.icc_profile = Some(profile.to_vec().into());
        let e = png::Encoder::with_info(&mut out, info).expect("a header");
        e.write_header().and_then(|mut w| w.write_image_data(&[128; 16])).expect("it is written");
        out
    };
    let said = images::rgba(&with(b"no profile at all"), &LIMITS).expect_err("it is refused").to_string();
    assert!(said.contains("its colour profile cannot be used") && said.contains("sRGB"), "{said}");
}

/// The same pixels with their profile beside them instead of in the file: a person's word stands, over the file's own too.
#[test]
fn a_given_profile_is_the_files_own() {
    let tagged = file("linear-16-profile.png");
    let mut reader = png::Decoder::new(std::io::Cursor::new(&tagged)).read_info().expect("a PNG");
    let profile = reader.info().icc_profile.clone().expect("a profile").to_vec();
    let mut pixels = vec![0; reader.output_buffer_size().expect("a size")];
    let frame = reader.next_frame(&mut pixels).expect("pixels");
    let bare = |gamma: Option<f32>| {
        let mut out = Vec::new();
        let mut info = png::Info::with_size(frame.width, frame.height);
        (info.color_type, info.bit_depth) = (frame.color_type, frame.bit_depth);
        let mut e = png::Encoder::with_info(&mut out, info).expect("a header");
        gamma.into_iter().for_each(|g| e.set_source_gamma(png::ScaledFloat::new(g)));
        e.write_header().and_then(|mut w| w.write_image_data(&pixels)).expect("it is written");
        out
    };
    let given = Given { icc: Some(profile), dpi: Some([300.0; 2]), kind: Some(Kind::Photo) };
    let own = images::scan(&tagged, Some(300.0), &LIMITS).expect("a scan");
    for bytes in [bare(None), bare(Some(0.3))] {
        assert_ne!(images::scan(&bytes, Some(300.0), &LIMITS).expect("a scan").data, own.data);
        assert_eq!(images::scan_of(&bytes, &given, &LIMITS).expect("a scan").data, own.data);
        let source = images::scan_source(&bytes, &given, &LIMITS).expect("a source");
        assert_eq!((source.kind, source.light, source.assumed.as_slice()), (Kind::Photo, Light::Icc, &[][..]));
        assert_eq!((source.from.kind, source.from.light, source.from.resolution), (Origin::Stated, Origin::Stated, Some(Origin::Stated)));
        let drawing = drawings::read_as(&bytes, false, &given, &LIMITS).expect("a drawing").source;
        assert_eq!((drawing.light, drawing.from.light), (Light::Icc, Origin::Stated));
    }
    let wrong = Given { icc: Some(b"no profile".to_vec()), ..given };
    assert!(images::scan_of(&tagged, &wrong, &LIMITS).expect_err("it is refused").to_string().contains("colour profile cannot be used"));
}

/// A cross of lines of 1 mm, scanned with half the rows or half the columns.
#[test]
fn unlike_axes_give_one_width() {
    for dpi in [[600.0, 300.0], [300.0, 600.0]] {
        let (w, h) = ((40.0 * dpi[0] / 25.4) as usize, (40.0 * dpi[1] / 25.4) as usize);
        let bar = |x0: f64, y0: f64, x1: f64, y1: f64| {
            let k = [dpi[0] / 600.0, dpi[1] / 600.0];
            Outline::united(vec![[[x0, y0], [x1, y0], [x1, y1], [x0, y1]].map(|p: [f64; 2]| [p[0] * k[0], p[1] * k[1]]).to_vec()])
        };
        let lines = [bar(4.0, 6.0, 36.0, 7.0), bar(10.0, 10.0, 11.0, 37.0)];
        // Ink covers light, not its encoded value.
        let mut light = vec![linear(0.92); w * h];
        for l in &lines {
            for (g, c) in light.iter_mut().zip(rasterise(l, 600.0 / 25.4, [0.0; 2], w, h).data) {
                *g = *g * (1.0 - c) + linear(0.12) * c;
            }
        }
        let grey: Vec<u8> = light.iter().map(|l| (255.0 * encode(*l)).round() as u8).collect();
        let mut out = Vec::new();
        let mut e = png::Encoder::new(&mut out, w as u32, h as u32);
        e.set_color(png::ColorType::Grayscale);
        let ppm = dpi.map(|d: f64| (d / 0.0254).round() as u32);
        e.set_pixel_dims(Some(png::PixelDimensions { xppu: ppm[0], yppu: ppm[1], unit: png::Unit::Meter }));
        e.write_header().and_then(|mut w| w.write_image_data(&grey)).expect("it is written");
        // From the file, and with the finer axis's typed.
        for typed in [None, Some(600.0)] {
            let s = images::scan(&out, typed, &LIMITS).expect("a scan");
            assert_eq!(s.dpi.round(), 600.0);
            let (found, _) = measure(&s).expect("lines");
            assert_eq!(found.lines.len(), 2, "{dpi:?}");
            for l in &found.lines {
                assert!((l.width_mm.mean - 1.0).abs() < 0.01, "{dpi:?}: {:.4} mm at {:.0}°", l.width_mm.mean, l.angle_deg);
            }
        }
    }
}

/// A file may say of its axes what it likes: a picture that would have to be made too large is refused.
#[test]
fn axes_that_are_far_apart_are_refused_before_they_take_memory() {
    let bytes = write_png(2000, 2000, PngKind::Grey, &vec![200u8; 4_000_000], None).expect("a PNG");
    let said = images::scan_of(&bytes, &Given::dpi(Some([50.0, 10_000.0])), &LIMITS).expect_err("it is refused").to_string();
    assert!(said.contains("400000×2000") && said.contains("megapixels"), "{said}");
}

#[test]
fn what_lies_on_its_side_is_turned() {
    let p = images::rgba(&file("turned.jpg"), &LIMITS).expect("it reads");
    assert_eq!((p.width, p.height), (4, 32));
    let plain = write_png(4, 32, PngKind::Rgba, &p.data, None).expect("a PNG");
    assert_eq!(images::dimensions(&plain, &LIMITS).expect("sides"), (4, 32));
}
