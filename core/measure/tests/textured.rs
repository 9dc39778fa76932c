//! Lines of brushes with a texture of their own: grain as a toothed paper gives it, and small spots with less ink. Whatever the texture, a line is one
//! line, about as wide as its outline.
//!
//! The grain is a sum of waves in random directions, the spots are discs: neither is known to the measure.

use eddymist_measure::{
    Picture,
    drawing::{Layer, Place, Plan, Source, measure},
};
use proptest::prelude::*;

const SIDES: [usize; 2] = [700, 300];
const WIDE: f64 = 7.0;
/// What a guide asks for at least, where it says nothing else.
const LEAST: f64 = 0.6;

/// How far a place is from the middle of the nearest of three bowed lines.
fn beside(x: f64, y: f64) -> f64 {
    let one = |k: f64| (y - 70.0 - 80.0 * k - 12.0 * (x / 90.0 + k).sin()).abs() / (12.0 / 90.0 * (x / 90.0 + k).cos()).hypot(1.0);
    let beyond = (40.0 - x).max(x - 660.0).max(0.0);
    (0..3).map(|k| one(f64::from(k)).hypot(beyond)).fold(f64::INFINITY, f64::min)
}

/// A number between 0 and 1 for a seed and a place in a row of such.
fn chance(seed: u64, k: u64) -> f64 {
    let mut z = seed.wrapping_mul(0x2545_F491_4F6C_DD1D) ^ k.wrapping_mul(0x9E37_79B9_7F4A_7C15);
    z = (z ^ (z >> 29)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    (z ^ (z >> 32)) as f64 / u64::MAX as f64
}

/// Grain of deviation 1 whose waves are 4 to 9 px long.
fn grain(seed: u64) -> impl Fn(f64, f64) -> f64 {
    let waves: Vec<[f64; 3]> = (0..40)
        .map(|k| {
            let (turn, long) = (std::f64::consts::TAU * chance(seed, 3 * k), 4.0 + 5.0 * chance(seed, 3 * k + 1));
            let n = std::f64::consts::TAU / long;
            [n * turn.cos(), n * turn.sin(), std::f64::consts::TAU * chance(seed, 3 * k + 2)]
        })
        .collect();
    move |x, y| waves.iter().map(|w| (w[0] * x + w[1] * y + w[2]).sin()).sum::<f64>() / 20f64.sqrt()
}

fn drawn(texture: impl Fn(f64, f64) -> f64, clear: bool) -> Vec<u8> {
    lines(beside, texture, clear)
}

fn lines(beside: impl Fn(f64, f64) -> f64, texture: impl Fn(f64, f64) -> f64, clear: bool) -> Vec<u8> {
    let mut out = Vec::with_capacity(4 * SIDES[0] * SIDES[1]);
    for i in 0..SIDES[0] * SIDES[1] {
        let (x, y) = ((i % SIDES[0]) as f64 + 0.5, (i / SIDES[0]) as f64 + 0.5);
        let line = (0.5 + WIDE / 2.0 - beside(x, y)).clamp(0.0, 1.0);
        let ink = if line > 0.0 { line * texture(x, y).clamp(0.0, 1.0) } else { 0.0 };
        let grey = if clear { 20 } else { (255.0 - 235.0 * ink).round() as u8 };
        out.extend([grey, grey, grey, if clear { (255.0 * ink).round() as u8 } else { 255 }]);
    }
    out
}

/// Share of the lines' length that is read as their bodies, and the mean width there.
fn read(rgba: &[u8], of: Source) -> (f64, f64) {
    let picture = Picture::new(SIDES[0], SIDES[1], rgba).expect("a picture");
    let found = measure(&[Layer { picture, role: None }], &Plan { roles: vec![of], widest_px: 9.0 });
    let body: Vec<f64> = found.roles[0].lines.iter().flat_map(|l| l.points.iter().filter(|p| p.place == Place::Body).map(|p| f64::from(p.width))).collect();
    let step = found.roles[0].lines.first().map_or(1.0, |l| l.step_px);
    (body.len() as f64 * step / (3.0 * 630.0), body.iter().sum::<f64>() / body.len().max(1) as f64)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]
    #[test]
    fn a_grainy_line_is_a_line(seed in any::<u64>(), full in 0.85f64..1.0, deep in 0.12f64..0.22, clear in any::<bool>(), by_colour in any::<bool>()) {
        let noise = grain(seed);
        let rgba = drawn(|x, y| full + deep * noise(x, y), clear);
        let of = if by_colour { Source::Colour { rgb: [20; 3], tolerance: 15.0 } } else { Source::Rest };
        let (share, mean) = read(&rgba, of);
        prop_assert!(share > LEAST && (mean / WIDE - 1.0).abs() < 0.06, "{:.0} % read, {mean:.3} px", 100.0 * share);
    }

    #[test]
    fn spots_with_less_ink_are_no_edges(seed in any::<u64>(), each in 2usize..5, depth in 0.25f64..0.45, clear in any::<bool>()) {
        // Spots of a radius of a pixel and less, so many in a square of eight.
        let spots: Vec<[f64; 3]> = (0..(SIDES[0] * SIDES[1] / 64 * each) as u64)
            .map(|k| [chance(seed, 3 * k) * SIDES[0] as f64, chance(seed, 3 * k + 1) * SIDES[1] as f64, 0.5 + 0.6 * chance(seed, 3 * k + 2)])
            .collect();
        let mut rows: Vec<Vec<[f64; 3]>> = vec![Vec::new(); SIDES[1] + 4];
        spots.iter().for_each(|s| (0..4).for_each(|k| rows[s[1] as usize + k].push(*s)));
        let spared = |x: f64, y: f64| rows[y as usize + 1].iter().chain(&rows[y as usize + 2]).map(|s| (s[2] + 0.5 - (x - s[0]).hypot(y - s[1])).clamp(0.0, 1.0)).fold(0.0, f64::max);
        let (share, mean) = read(&drawn(|x, y| 1.0 - depth * spared(x, y), clear), Source::Rest);
        prop_assert!(share > LEAST && (mean / WIDE - 1.0).abs() < 0.08, "{:.0} % read, {mean:.3} px", 100.0 * share);
    }

    /// Paper between two lines is no hole of their texture, however they slant.
    #[test]
    fn grainy_lines_side_by_side_stay_apart(seed in any::<u64>(), paper in 3.0f64..7.0, slope in -0.4f64..0.4, deep in 0.12f64..0.2) {
        let noise = grain(seed);
        let pair = |x: f64, y: f64| {
            let across = (y - 150.0 - slope * (x - 350.0)) / slope.hypot(1.0);
            let beyond = (40.0 - x).max(x - 660.0).max(0.0);
            let apart = 0.5 * (WIDE + paper);
            (across - apart).abs().min((across + apart).abs()).hypot(beyond)
        };
        let (share, mean) = read(&lines(pair, |x, y| 0.95 + deep * noise(x, y), false), Source::Rest);
        prop_assert!(share * 3.0 / 2.0 > LEAST && (mean / WIDE - 1.0).abs() < 0.08, "{:.0} % read, {mean:.3} px", 150.0 * share);
    }
}
