//! What a picture is: drawings on any ground are drawings, scans under any light are scans, and a drawing on a photographed paper is one too.
//!
//! The families of grounds and lights are `handed_in`'s and `scanner`'s; neither shares anything with the signs.

use eddymist_formats::{
    Given, LIMITS,
    drawings::read_as,
    images::{PngKind, write_png},
};
use eddymist_ink::Outline;
use eddymist_measure::source::{Kind, Origin};
use eddymist_sim::{
    handed_in::{Ground, made},
    pens::{PENS, rule},
    scanner::{Lamp, Scanner, scan},
};

fn kind(what: &str, png: &[u8]) -> Kind {
    let d = read_as(png, false, &Given::default(), &LIMITS).unwrap_or_else(|e| panic!("{what}: {e}"));
    assert_eq!(d.source.from.kind, Origin::Measured, "{what}");
    d.source.kind
}

fn png(w: usize, h: usize, kind: PngKind, data: &[u8], px_per_mm: Option<f64>) -> Vec<u8> {
    write_png(w, h, kind, data, px_per_mm).expect("a PNG")
}

#[test]
fn drawings_on_any_ground_are_drawings() {
    for ground in Ground::ALL {
        let p = made(ground, 3).picture();
        // Some programs write their page's resolution into the file, which says nothing of a scanner.
        for px_per_mm in [None, Some(300.0 / 25.4)] {
            assert_eq!(kind(&format!("{ground:?}"), &png(p.width, p.height, PngKind::Rgba, &p.data, px_per_mm)), Kind::Drawing, "{ground:?} {px_per_mm:?}");
        }
    }
}

/// Ink of a soft brush is even nowhere, and smooth along its lines: on white that no grain is in, that is no lens's.
#[test]
fn a_soft_brush_is_no_scanner() {
    for seed in [3, 8] {
        let p = made(Ground::White, seed).picture();
        let mut grey: Vec<f32> = p.data.chunks(4).map(|c| f32::from(c[0])).collect();
        // Means of three, along rows and columns: a deviation of 0.8 px.
        for by in [1, p.width] {
            grey = (0..grey.len()).map(|i| (grey[i.saturating_sub(by)] + grey[i] + grey[(i + by).min(grey.len() - 1)]) / 3.0).collect();
        }
        let data: Vec<u8> = grey.iter().map(|v| v.round() as u8).collect();
        assert_eq!(kind(&format!("soft, {seed}"), &png(p.width, p.height, PngKind::Grey, &data, None)), Kind::Drawing);
    }
}

#[test]
fn scans_under_any_light_are_scans() {
    let fair = Scanner::fair(300.0);
    for (what, s) in [
        ("fair", fair),
        ("even", Scanner { shading: 0.0, ..fair }),
        ("even and fine", Scanner { shading: 0.0, grain: 0.004, noise: 0.002, ..fair }),
        ("clipped", Scanner { clip: Some(0.93), ..fair }),
        ("clipped and coarse", Scanner { clip: Some(0.93), blur_px: 0.6, ..Scanner::fair(150.0) }),
        ("under an open lid", Scanner { lamp: Lamp::Lid(0.45), ..fair }),
        ("in bands", Scanner { lamp: Lamp::Bands(0.12), ..fair }),
        ("flecked", Scanner { flecks: 40.0, ..fair }),
        ("kraft", Scanner { paper: 0.36, grain: 0.03, ..fair }),
        ("pencil", Scanner { ink: 0.42, ..fair }),
        ("at 600 dpi", Scanner::fair(600.0)),
    ] {
        let lines: Vec<Outline> = (0..5).map(|k| rule(&PENS[k], 0.5, [6.0, 6.0 + 7.0 * k as f64], 50.0, k as u64).outline).collect();
        let g = scan(&Scanner { turn_deg: 0.7, ..s }, &lines, [62.0, 42.0], 9);
        assert_eq!(kind(what, &png(g.width, g.height, PngKind::Grey, &g.data, Some(s.dpi / 25.4))), Kind::Scan, "{what}");
        // Of a grain of 0.4 % strong compression leaves nothing; a coarse scan without any is no longer told from a drawing whose edges ring.
        let qualities: &[u8] = match what {
            "even and fine" => &[92],
            "clipped and coarse" => &[],
            _ => &[92, 80],
        };
        for &quality in qualities {
            assert_eq!(kind(what, &jpeg(g.width, g.height, &g.data, quality)), Kind::Scan, "{what}, JPEG {quality}");
        }
    }
}

/// A grey picture, compressed with losses.
fn jpeg(w: usize, h: usize, grey: &[u8], quality: u8) -> Vec<u8> {
    let mut out = Vec::new();
    let encoder = &mut image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, quality);
    encoder.encode(grey, w as u32, h as u32, image::ExtendedColorType::L8).expect("a JPEG");
    out
}

/// Long lines that hardly rise: their edges are sharp across, however slowly a row of pixels goes over them. Compression and resampling ring
/// about them, and that is no grain.
#[test]
fn compressed_and_enlarged_drawings_are_drawings() {
    let (w, h) = (1200usize, 900usize);
    for (rise, dark) in [(0.0, 0.0), (0.03, 0.0), (0.03, 60.0), (0.4, 0.0)] {
        let line = |x: f64, y: f64, k: usize| (3.5 - (y - 80.0 - 90.0 * k as f64 - rise * x - 14.0 * (x / 160.0 + k as f64).sin()).abs()).clamp(0.0, 1.0);
        let cover = |i: usize| (0..9).map(|k| line((i % w) as f64, (i / w) as f64, k)).fold(0.0, f64::max);
        let grey: Vec<u8> = (0..w * h).map(|i| (255.0 - (255.0 - dark) * cover(i)).round() as u8).collect();
        for quality in [95, 90, 80, 70, 60, 50] {
            assert_eq!(kind("compressed", &jpeg(w, h, &grey, quality)), Kind::Drawing, "JPEG {quality}, rise {rise}, dark {dark}");
        }
        let small = image::GrayImage::from_raw(w as u32, h as u32, grey).expect("a picture");
        let twice = image::imageops::resize(&small, 2 * w as u32, 2 * h as u32, image::imageops::FilterType::CatmullRom);
        assert_eq!(kind("enlarged", &png(2 * w, 2 * h, PngKind::Grey, &twice, None)), Kind::Drawing, "enlarged, rise {rise}, dark {dark}");
    }
}

/// Ink of a program on paper that was photographed: the paper has grain, the ink has none.
#[test]
fn a_drawing_on_photographed_paper_is_a_drawing() {
    let paper = scan(&Scanner { shading: 0.03, ..Scanner::fair(300.0) }, &[], [102.0, 77.0], 4);
    let d = made(Ground::HalfTransparent, 6);
    let ink = eddymist_sim::handed_in::HandedIn { sheets: d.sheets.into_iter().map(|s| eddymist_sim::handed_in::Sheet { opacity: 1.0, ..s }).collect(), ..d }
        .picture();
    let mut data = Vec::with_capacity(3 * ink.width * ink.height);
    for y in 0..ink.height {
        for x in 0..ink.width {
            let p = &ink.data[4 * (y * ink.width + x)..][..4];
            let (under, a) = (f32::from(paper.data[y * paper.width + x]), f32::from(p[3]) / 255.0);
            data.extend((0..3).map(|k| (f32::from(p[k]) * a + under * (1.0 - a)).round() as u8));
        }
    }
    assert_eq!(kind("photographed paper", &png(ink.width, ink.height, PngKind::Rgb, &data, None)), Kind::Drawing);
}

/// A person's word stands, whatever the pixels say.
#[test]
fn what_a_person_says_stands() {
    let p = made(Ground::White, 3).picture();
    let d = read_as(&png(p.width, p.height, PngKind::Rgba, &p.data, None), false, &Given::kind(Some(Kind::Scan)), &LIMITS).expect("it reads");
    assert_eq!((d.source.kind, d.source.from.kind), (Kind::Scan, Origin::Stated));
}
