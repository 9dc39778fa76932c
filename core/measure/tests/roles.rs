//! Whose ink is whose: colours, ways of mixing, clear grounds, layers and scans, and what holds whatever is drawn.

use eddymist_measure::{
    Picture,
    colour::{delta_e, encode, lab_of, linear, linear_of, parse_hex},
    drawing::{Blend, DrawingLines, End, Layer, Place, Plan, Source, measure},
};
use proptest::prelude::*;

const W: usize = 420;
const H: usize = 300;

/// Exact coverage of a level bar, its ends square, on whole rows and parts of rows.
fn bar(x0: f64, x1: f64, y: f64, width: f64) -> Vec<f64> {
    let span = |low: f64, high: f64, i: usize| (high.min(i as f64 + 1.0) - low.max(i as f64)).clamp(0.0, 1.0);
    let mut out = vec![0.0; W * H];
    for v in 0..H {
        let across = span(y - 0.5 * width, y + 0.5 * width, v);
        if across > 0.0 {
            for u in 0..W {
                out[v * W + u] = across * span(x0, x1, u);
            }
        }
    }
    out
}

struct Sheet {
    rgba: Vec<u8>,
}

impl Sheet {
    fn paper(rgb: [u8; 3]) -> Self {
        Self { rgba: [rgb[0], rgb[1], rgb[2], 255].repeat(W * H) }
    }

    fn clear() -> Self {
        Self { rgba: vec![0; 4 * W * H] }
    }

    /// Lays ink over what is there, mixed in encoded values or in linear light.
    fn ink(mut self, cover: &[f64], rgb: [u8; 3], blend: Blend) -> Self {
        for (p, c) in self.rgba.chunks_exact_mut(4).zip(cover) {
            for k in 0..3 {
                let (below, ink) = (f64::from(p[k]), f64::from(rgb[k]));
                let mixed = match blend {
                    Blend::Encoded => below + (ink - below) * c,
                    Blend::Linear => {
                        let l = |v: f64| f64::from(linear((v / 255.0) as f32));
                        255.0 * f64::from(encode((l(below) + (l(ink) - l(below)) * c) as f32))
                    }
                };
                p[k] = mixed.round() as u8;
            }
        }
        self
    }

    /// Ink on a clear ground: colour as it is, coverage as alpha.
    fn on_clear(mut self, cover: &[f64], rgb: [u8; 3]) -> Self {
        for (p, c) in self.rgba.chunks_exact_mut(4).zip(cover).filter(|(_, c)| **c > 0.0) {
            p.copy_from_slice(&[rgb[0], rgb[1], rgb[2], (c * 255.0).round() as u8]);
        }
        self
    }

    fn measured(&self, roles: &[Source]) -> DrawingLines {
        let picture = Picture::new(W, H, &self.rgba).expect("a picture");
        measure(&[Layer { picture, role: None }], &Plan { roles: roles.to_vec(), widest_px: 30.0 })
    }
}

fn colour(hex: &str) -> Source {
    Source::Colour { rgb: parse_hex(hex).expect(hex), tolerance: 8.0 }
}

/// Mean width of each role's body; none where it has no line.
fn means(found: &DrawingLines) -> Vec<Option<f64>> {
    let mean = |w: Vec<f64>| (!w.is_empty()).then(|| w.iter().sum::<f64>() / w.len() as f64);
    found.roles.iter().map(|r| mean(r.lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect())).collect()
}

fn near(got: Option<f64>, want: f64) -> bool {
    got.is_some_and(|g| (g - want).abs() < 0.02)
}

const COLOURS: [&str; 5] = ["#1b1e24", "#7a4326", "#4b2f7a", "#c02020", "#e0209a"];

#[test]
fn each_colour_is_its_own_role_whatever_the_paper() {
    for paper in [[255, 255, 255], [245, 240, 225], [200, 215, 230]] {
        let mut sheet = Sheet::paper(paper);
        for (k, hex) in COLOURS.iter().enumerate() {
            let y = 30.3 + 55.0 * k as f64;
            sheet = sheet.ink(&bar(30.0, 390.0, y, 3.0 + k as f64), parse_hex(hex).expect(hex), Blend::Encoded);
        }
        let found = sheet.measured(&COLOURS.map(colour));
        for (k, m) in means(&found).into_iter().enumerate() {
            assert!(near(m, 3.0 + k as f64), "{} on {paper:?}: {m:?}", COLOURS[k]);
            assert_eq!(found.roles[k].lines.len(), 1);
            assert!((found.roles[k].ink_px2 / (360.0 * (3.0 + k as f64)) - 1.0).abs() < 0.01);
        }
        assert_eq!((found.blend, found.masked.len()), (Blend::Encoded, 0));
        assert!(found.off_palette_px2 < 1.0, "{}", found.off_palette_px2);
    }
}

#[test]
fn the_files_own_edges_tell_how_ink_was_mixed() {
    // Lines at many sub-pixel places: their edges' coverage is uniform for the true way of mixing.
    for blend in [Blend::Encoded, Blend::Linear] {
        let sheet = (0..9).fold(Sheet::paper([255; 3]), |s, k| s.ink(&bar(20.0, 400.0, 25.0 + 30.111 * f64::from(k), 5.0), [0x1b, 0x1e, 0x24], blend));
        let found = sheet.measured(&[colour("#1b1e24")]);
        assert_eq!(found.blend, blend);
        // The wrong choice would be off by up to 0.4 px.
        assert!(near(means(&found)[0], 5.0), "{blend:?}: {:?}", means(&found));
    }
}

/// Level and upright lines at a few places, crossing: their edges' phases are those of a few lines, and the corners' not
/// uniform at all. Such drawings were taken for mixed in linear light, half a pixel too wide.
fn few_places(spans: &[(f64, f64)], level: bool, sheet: Sheet) -> Sheet {
    spans.iter().enumerate().fold(sheet, |s, (k, (at, width))| {
        let place = 18.0 + 24.0 * k as f64 + at;
        let turned = |b: Vec<f64>| (0..W * H).map(|i| if i % W < H { b[(i % W) * W + i / W] } else { 0.0 }).collect();
        let cover = if level { bar(12.0, 400.0, place, *width) } else { turned(bar(12.3, 288.4, place, *width)) };
        s.ink(&cover, [0x1b, 0x1e, 0x24], Blend::Encoded)
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    #[test]
    fn lines_along_the_pixels_do_not_change_the_way_of_mixing(
        level in prop::collection::vec((0.0..1.0, 2.0..7.0), 1..11),
        upright in prop::collection::vec((0.0..1.0, 2.0..7.0), 0..11),
        equal in prop::option::of(2.0f64..7.0),
    ) {
        let spans = |s: &[(f64, f64)]| s.iter().map(|(at, w)| (*at, equal.unwrap_or(*w))).collect::<Vec<_>>();
        let sheet = few_places(&spans(&upright), false, few_places(&spans(&level), true, Sheet::paper([255; 3])));
        prop_assert_eq!(sheet.measured(&[colour("#1b1e24")]).blend, Blend::Encoded);
    }
}

#[test]
fn alpha_is_coverage_on_a_clear_ground() {
    let sheet = Sheet::clear().on_clear(&bar(30.0, 390.0, 80.37, 5.0), [0x1b, 0x1e, 0x24]).on_clear(&bar(30.0, 390.0, 180.6, 7.0), [0xc0, 0x20, 0x20]);
    let found = sheet.measured(&[colour("#1b1e24"), colour("#c02020")]);
    assert!(near(means(&found)[0], 5.0) && near(means(&found)[1], 7.0), "{:?}", means(&found));
}

#[test]
fn ink_of_no_roles_colour_is_no_ones_and_the_rest_takes_it_where_there_is_one() {
    let sheet = Sheet::paper([255; 3]).ink(&bar(30.0, 390.0, 80.4, 6.0), [0x1b, 0x1e, 0x24], Blend::Encoded).ink(
        &bar(30.0, 390.0, 180.4, 6.0),
        [0x20, 0xa0, 0x50],
        Blend::Encoded,
    );
    let found = sheet.measured(&[colour("#1b1e24")]);
    assert!(near(means(&found)[0], 6.0) && found.roles[0].lines.len() == 1);
    assert!((found.off_palette_px2 / 2160.0 - 1.0).abs() < 0.35, "{}", found.off_palette_px2);
    let found = sheet.measured(&[colour("#1b1e24"), Source::Rest]);
    assert!(near(means(&found)[0], 6.0) && near(means(&found)[1], 6.0), "{:?}", means(&found));
    assert!(found.off_palette_px2 < 1.0);
}

#[test]
fn two_inks_that_touch_do_not_weigh_one_another() {
    // A red line laid along a black one with no paper between: neither side is clear there, and nothing is measured.
    let sheet = Sheet::paper([255; 3]).ink(&bar(30.0, 390.0, 100.0, 6.0), [0x1b, 0x1e, 0x24], Blend::Encoded).ink(
        &bar(150.0, 270.0, 106.0, 6.0),
        [0xc0, 0x20, 0x20],
        Blend::Encoded,
    );
    let found = sheet.measured(&[colour("#1b1e24"), colour("#c02020")]);
    assert!(near(means(&found)[0], 6.0), "{:?}", means(&found));
    let black = &found.roles[0].lines[0];
    let beside = black.points.iter().filter(|p| (160.0..260.0).contains(&p.x)).collect::<Vec<_>>();
    assert!(!beside.is_empty() && beside.iter().all(|p| p.place == Place::Blocked), "{beside:?}");
}

#[test]
fn a_layers_role_takes_all_its_ink_and_the_others_theirs() {
    let (a, b) =
        (Sheet::clear().on_clear(&bar(30.0, 390.0, 80.4, 4.0), [0xff, 0x00, 0xff]), Sheet::clear().on_clear(&bar(30.0, 390.0, 82.4, 7.0), [0x00, 0xff, 0x00]));
    let layer = |s: &Sheet, role| Layer { picture: Picture::new(W, H, Box::leak(s.rgba.clone().into_boxed_slice())).expect("a picture"), role };
    let plan = Plan { roles: vec![Source::Layer, Source::Layer], widest_px: 30.0 };
    // They overlap on the page; on layers of their own each keeps its weight.
    let found = measure(&[layer(&a, Some(0)), layer(&b, Some(1)), layer(&a, None)], &plan);
    assert!(near(means(&found)[0], 4.0) && near(means(&found)[1], 7.0), "{:?}", means(&found));
}

#[test]
fn ends_are_blunt_or_tapered_with_the_length_of_it() {
    let found = Sheet::paper([255; 3]).ink(&bar(60.0, 360.0, 100.4, 8.0), [0; 3], Blend::Encoded).measured(&[colour("#000000")]);
    let line = &found.roles[0].lines[0];
    assert!((line.length_px() - 300.0).abs() < 6.0 && !line.closed);
    assert!(line.ends.iter().all(|e| matches!(e, End::Free { tapered: false, taper_px } if *taper_px < 4.0)), "{:?}", line.ends);
    // A wedge that falls from 10 px to nothing over 120 px: 90 % is reached 108 px from its tip.
    let wedge: Vec<f64> = (0..W * H)
        .map(|i| {
            let (x, y) = ((i % W) as f64 + 0.5, (i / W) as f64);
            let half = if x < 240.0 { 5.0 } else { (5.0 * (360.0 - x) / 120.0).max(0.0) };
            let inside = x > 30.0 && x < 360.0;
            if inside { ((150.4 + half).min(y + 1.0) - (150.4 - half).max(y)).clamp(0.0, 1.0) } else { 0.0 }
        })
        .collect();
    let found = Sheet::paper([255; 3]).ink(&wedge, [0; 3], Blend::Encoded).measured(&[colour("#000000")]);
    let line = &found.roles[0].lines[0];
    let tapers: Vec<f64> = line.ends.iter().filter_map(|e| if let End::Free { tapered: true, taper_px } = e { Some(*taper_px) } else { None }).collect();
    assert!(tapers.len() == 1 && (tapers[0] / 108.0 - 1.0).abs() < 0.08, "{:?}", line.ends);
    // The tapers' last tenth, from 9 to 10 px, belongs to the body.
    assert!((means(&found)[0].expect("a body") - 9.97).abs() < 0.02, "{:?}", means(&found));
}

#[test]
fn a_ring_is_one_closed_line_of_its_own_length() {
    let ring: Vec<f64> = (0..W * H)
        .map(|i| {
            // Sixteen by sixteen looks at each pixel.
            let inside = |s: usize| {
                let (x, y) = ((i % W) as f64 + ((s % 16) as f64 + 0.5) / 16.0, (i / W) as f64 + ((s / 16) as f64 + 0.5) / 16.0);
                ((x - 210.0).hypot(y - 150.0) - 100.0).abs() < 3.0
            };
            (0..256).filter(|s| inside(*s)).count() as f64 / 256.0
        })
        .collect();
    let found = Sheet::paper([255; 3]).ink(&ring, [0; 3], Blend::Encoded).measured(&[colour("#000000")]);
    let [line] = &found.roles[0].lines[..] else { panic!("{} lines", found.roles[0].lines.len()) };
    assert!(line.closed && (line.length_px() / (200.0 * std::f64::consts::PI) - 1.0).abs() < 0.01, "{}", line.length_px());
    assert!(near(means(&found)[0], 6.0) && line.points.iter().all(|p| p.place == Place::Body));
    // The centre line lies on the circle.
    let off = line.points.iter().map(|p| ((f64::from(p.x) - 210.0).hypot(f64::from(p.y) - 150.0) - 100.0).abs()).fold(0.0, f64::max);
    assert!(off < 0.1, "{off}");
}

#[test]
fn empty_and_tiny_pictures_have_no_lines() {
    let none = |rgba: &[u8], w, h| {
        let found = measure(
            &[Layer { picture: Picture::new(w, h, rgba).expect("a picture"), role: None }],
            &Plan { roles: vec![colour("#000000"), Source::Rest], widest_px: 9.0 },
        );
        found.roles.iter().map(|r| r.lines.len()).sum::<usize>()
    };
    assert_eq!(none(&[255; 4], 1, 1) + none(&[0; 4], 1, 1) + none(&[0, 0, 0, 255], 1, 1), 0);
    assert_eq!(none(&vec![255; 4 * 300], 300, 1) + none(&vec![255; 4 * 300], 1, 300), 0);
    assert!(Picture::new(0, 3, &[]).is_none() && Picture::new(2, 2, &[0; 15]).is_none());
}

#[test]
fn colours_are_read_and_turned_as_their_standards_say() {
    assert_eq!((parse_hex("#1b1e24"), parse_hex("#FFFFFF")), (Some([0x1b, 0x1e, 0x24]), Some([255; 3])));
    for wrong in ["1b1e24", "#1b1e2", "#1b1e244", "#gggggg", "", "#", "#é1e24"] {
        assert_eq!(parse_hex(wrong), None, "{wrong}");
    }
    // IEC 61966-2-1: mid grey 119 is 0.1845 of the light; and CIE L* of it 50.03.
    assert!((linear_of(119) - 0.1845).abs() < 1e-4 && (lab_of([119; 3]).l - 50.03).abs() < 0.02);
    for v in 0..=255u8 {
        assert!((255.0 * encode(linear_of(v)) - f32::from(v)).abs() < 0.01);
    }
    assert!(delta_e(lab_of([255, 0, 0]), lab_of([255, 0, 0])) < 1e-3);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// A level line of any width at any place, on the page or running off it, weighs what it is.
    #[test]
    fn a_line_weighs_the_same_wherever_it_lies(y in 20.0f64..280.0, width in 1.5f64..20.0, x0 in -40.0f64..60.0, x1 in 300.0f64..460.0) {
        let found = Sheet::paper([255; 3]).ink(&bar(x0, x1, y, width), [0; 3], Blend::Encoded).measured(&[colour("#000000")]);
        prop_assert_eq!(found.roles[0].lines.len(), 1);
        prop_assert!((means(&found)[0].expect("a body") - width).abs() < 0.03, "{:?} of {}", means(&found)[0], width);
        prop_assert!(found.masked.is_empty());
    }

    /// Any scribble of pixels is measured without a fall, and no line weighs more than the ink there is.
    #[test]
    fn any_pixels_are_measured(seed in prop::collection::vec((0usize..120, 0usize..90, 1usize..40, 1usize..12, 0u8..3), 0..30), alpha in any::<bool>()) {
        let (w, h) = (120, 90);
        let mut rgba = if alpha { vec![0u8; 4 * w * h] } else { vec![255u8; 4 * w * h] };
        for (x, y, dx, dy, ink) in seed {
            let rgb = [[0u8, 0, 0], [0xc0, 0x20, 0x20], [0x10, 0x80, 0xf0]][ink as usize];
            for v in y..(y + dy).min(h) {
                for u in x..(x + dx).min(w) {
                    rgba[4 * (v * w + u)..4 * (v * w + u) + 4].copy_from_slice(&[rgb[0], rgb[1], rgb[2], 255]);
                }
            }
        }
        let roles = vec![colour("#000000"), colour("#c02020"), Source::Outline, Source::Rest];
        let found = measure(&[Layer { picture: Picture::new(w, h, &rgba).expect("a picture"), role: None }], &Plan { roles, widest_px: 6.0 });
        for p in found.roles.iter().flat_map(|r| &r.lines).flat_map(|l| &l.points) {
            prop_assert!(p.x.is_finite() && p.y.is_finite() && p.width >= 0.0 && p.width < 200.0);
            prop_assert!(p.x > -3.0 && p.y > -3.0 && p.x < w as f32 + 3.0 && p.y < h as f32 + 3.0);
        }
        let ink: f64 = found.roles.iter().map(|r| r.ink_px2).sum::<f64>() + found.masked.iter().map(|m| m.ink_px2).sum::<f64>() + found.off_palette_px2;
        prop_assert!(ink <= (w * h) as f64 + 1e-6);
    }
}
