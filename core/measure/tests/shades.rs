//! Lines over soft shades: airbrushed colour, a glow, a cast shadow; on paper and on nothing. Whatever its colour and its softness, a shade is ground.
//!
//! The shade is a Gaussian of the distance from a disc, laid over the paper and under the lines in encoded values; no renderer's filter.

use eddymist_measure::{
    Picture,
    drawing::{Layer, Plan, Source, measure},
};
use proptest::prelude::*;

const SIDES: [usize; 2] = [420, 300];
const WIDE: f64 = 6.0;

/// How much of a pixel one of two slanted lines covers, from the distance to its middle.
fn line(x: f64, y: f64) -> f64 {
    let near = |slope: f64, at: f64| {
        let beyond = (40.0 - x).max(x - 380.0).max(0.0);
        let d = ((y - at - slope * (x - 210.0)) / slope.hypot(1.0)).hypot(beyond);
        (0.5 + WIDE / 2.0 - d).clamp(0.0, 1.0)
    };
    near(0.23, 150.0).max(near(-0.31, 70.0))
}

fn drawn(shade: [u8; 3], opacity: f64, sigma: f64, radius: f64, clear: bool) -> Vec<u8> {
    let mut out = Vec::with_capacity(4 * SIDES[0] * SIDES[1]);
    for i in 0..SIDES[0] * SIDES[1] {
        let (x, y) = ((i % SIDES[0]) as f64 + 0.5, (i / SIDES[0]) as f64 + 0.5);
        let far = ((x - 190.0).hypot(y - 160.0) - radius).max(0.0);
        let a = opacity * (-0.5 * (far / sigma).powi(2)).exp();
        let ink = line(x, y);
        // Premultiplied: the paper, the shade over it, black over both.
        let paper = if clear { 0.0 } else { 1.0 };
        let alpha = (paper * (1.0 - a) + a) * (1.0 - ink) + ink;
        let colour = shade.map(|c| (255.0 * paper * (1.0 - a) + f64::from(c) * a) * (1.0 - ink));
        out.extend(colour.map(|c| (c / alpha.max(1e-9)).round().clamp(0.0, 255.0) as u8));
        out.push((255.0 * alpha).round() as u8);
    }
    out
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn a_soft_shade_is_no_ink(
        shade in prop::array::uniform3(40u8..=255), opacity in 0.3f64..1.0, sigma in 22.0f64..90.0, radius in 0.0f64..70.0, clear in any::<bool>(),
    ) {
        let rgba = drawn(shade, opacity, sigma, radius, clear);
        let picture = Picture::new(SIDES[0], SIDES[1], &rgba).expect("a picture");
        let found = measure(&[Layer { picture, role: None }], &Plan { roles: vec![Source::Rest], widest_px: 9.0 });
        let lines = &found.roles[0].lines;
        let length: f64 = lines.iter().map(|l| l.length_px()).sum();
        let meant = 340.0 * (0.23f64.hypot(1.0) + 0.31f64.hypot(1.0));
        prop_assert!((length / meant - 1.0).abs() < 0.05, "{length:.0} px of {meant:.0}");
        let body: Vec<f64> = lines.iter().flat_map(|l| &l.points).filter(|p| p.place == eddymist_measure::drawing::Place::Body).map(|p| f64::from(p.width)).collect();
        let mean = body.iter().sum::<f64>() / body.len() as f64;
        prop_assert!((mean - WIDE).abs() < 0.06 && body.len() as f64 > 0.75 * meant, "{mean:.3} px over {} of {meant:.0}", body.len());
    }
}

/// A black line along which its opacity runs, as pressure on opacity draws it: on paper or on nothing, beside a painted fill.
fn of_opacity(opacity: impl Fn(f64) -> f64, slope: f64, clear: bool) -> Vec<u8> {
    let mut out = Vec::with_capacity(4 * LONG[0] * LONG[1]);
    for i in 0..LONG[0] * LONG[1] {
        let (x, y) = ((i % LONG[0]) as f64 + 0.5, (i / LONG[0]) as f64 + 0.5);
        let d = (y - 120.0 - slope * (x - 450.0)).abs() / slope.hypot(1.0);
        let ends = (x - 49.5).clamp(0.0, 1.0) * (850.5 - x).clamp(0.0, 1.0);
        let ink = (0.5 + WIDE / 2.0 - d).clamp(0.0, 1.0) * ends * opacity(x);
        let fill = (100.0..300.0).contains(&x) && y > 220.0;
        let (paper, ground) = if fill { (1.0, [200.0, 220.0, 255.0]) } else { (if clear { 0.0 } else { 1.0 }, [255.0; 3]) };
        let alpha: f64 = paper * (1.0 - ink) + ink;
        out.extend(ground.map(|c: f64| (c * paper * (1.0 - ink) / alpha.max(1e-9)).round().clamp(0.0, 255.0) as u8));
        out.push((255.0 * alpha).round() as u8);
    }
    out
}

const LONG: [usize; 2] = [900, 300];

/// Length of what is found, the mean width of its bodies and their length, px.
fn found(rgba: &[u8], of: Source) -> [f64; 3] {
    let picture = Picture::new(LONG[0], LONG[1], rgba).expect("a picture");
    let found = measure(&[Layer { picture, role: None }], &Plan { roles: vec![of], widest_px: 9.0 });
    let lines = &found.roles[0].lines;
    let body: Vec<f64> =
        lines.iter().flat_map(|l| &l.points).filter(|p| p.place == eddymist_measure::drawing::Place::Body).map(|p| f64::from(p.width)).collect();
    [lines.iter().map(|l| l.length_px()).sum(), body.iter().sum::<f64>() / body.len() as f64, body.len() as f64]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// A line that fades to nothing is measured as far as it has half its ink, and longer; the fainter rest may be left.
    #[test]
    fn a_line_that_fades_is_a_line(from in 250.0f64..440.0, over in 60.0f64..400.0, bend in 0.6f64..1.8, slope in -0.12f64..0.12, clear in any::<bool>()) {
        let [length, mean, body] = found(&of_opacity(|x| (1.0 - ((x - from) / over).clamp(0.0, 1.0)).powf(bend), slope, clear), Source::Rest);
        prop_assert!((mean - WIDE).abs() < 0.1 && body > 0.9 * (from - 50.0), "{mean:.3} px over {body} of {from}");
        let strong = from + over * (1.0 - 0.5f64.powf(1.0 / bend)) - 50.0;
        prop_assert!(length > 0.94 * strong && length < from + over - 50.0 + WIDE, "{length:.0} px of {strong:.0}");
    }

    /// One that is darker here and lighter there, by up to six levels from pixel to pixel, is one line, and as wide as it is.
    #[test]
    fn opacity_is_no_width(least in 0.25f64..0.95, steep in 0.5f64..6.0, at in 0.0f64..6.0, slope in -0.12f64..0.12, clear in any::<bool>()) {
        let half = (1.0 - least) / 2.0;
        let per = (255.0 * half / steep).max(12.0);
        let [length, mean, body] = found(&of_opacity(|x| 1.0 - half + half * (at + x / per).sin(), slope, clear), Source::Rest);
        prop_assert!((length / (801.0 * slope.hypot(1.0)) - 1.0).abs() < 0.02, "{length:.0} px");
        prop_assert!((mean - WIDE).abs() < 0.06 && body > 0.9 * 800.0, "{mean:.3} px over {body}");
    }
}

/// A gradient that is hardly wider than lines are, between two blacks: there is no line in it.
#[test]
fn a_narrow_gradient_is_ground() {
    for corridor in 13..20 {
        let mut rgba = Vec::new();
        for y in 0..300usize {
            for x in 0..900usize {
                let away = (y as i32 - 150).unsigned_abs() as usize;
                let grey = if away <= corridor / 2 { 255 - x / 6 } else { usize::from(away > corridor / 2 + 60) * 255 };
                rgba.extend([grey as u8, grey as u8, grey as u8, 255]);
            }
        }
        let [length, ..] = found(&rgba, Source::Rest);
        assert!(length < 20.0, "{length:.0} px of line in a corridor of {corridor} px");
    }
}
