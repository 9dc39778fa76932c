//! Scans of drawings whose lines are all thin, of two inks, by formula: a band blurred by a Gaussian in light, without the squareness of pixels, in
//! channels of its own ink, as it is and with paper clipped to white. Mean widths within 1.2 %, clipped 5 %: they were up to 10 % heavy, 17 % thin.

use eddymist_measure::{
    Picture,
    colour::encode,
    drawing::{self, Layer, Place, Plan, Source},
    source::Kind,
    stats::phi,
};
use proptest::prelude::*;

const SIDE: usize = 900;
const BLACK: [f64; 3] = [0.04, 0.045, 0.05];
const RED: [f64; 3] = [0.55, 0.08, 0.1];

/// Ten lines, every other one red, nearly level or nearly upright. In: the widths of both inks and the blur, px; the encoded value that is made white.
fn page([black, red]: [f64; 2], sigma: f64, white: f64, turn: f64, seed: u32) -> Vec<u8> {
    let mut noise = seed;
    let mut grain = move || {
        (0..4)
            .map(|_| {
                noise = noise.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
                f64::from(noise >> 8) / f64::from(1 << 24) - 0.5
            })
            .sum::<f64>()
            * 0.012
    };
    let half = SIDE as f64 / 2.0;
    let mut out = vec![255u8; 4 * SIDE * SIDE];
    for (i, p) in out.as_chunks_mut::<4>().0.iter_mut().enumerate() {
        let (x, y) = ((i % SIDE) as f64 + 0.5, (i / SIDE) as f64 + 0.5);
        let mut light = [0.82f64; 3];
        for k in 0..10 {
            let slope = turn + 0.03 * f64::from(k % 5);
            let (along, across) = if k < 5 { (x - half, y - 110.0 - 80.0 * f64::from(k)) } else { (y - 720.0, x - 110.0 - 170.0 * f64::from(k - 5)) };
            let (c, s) = (slope.cos(), slope.sin());
            let (along, d) = (along * c + across * s, across * c - along * s);
            let reach = if k < 5 { 380.0 } else { 110.0 };
            let ends = phi((reach - along.abs()) / sigma);
            let (width, ink) = if k % 2 == 0 { (black, BLACK) } else { (red, RED) };
            let inked = ends * (phi((d + 0.5 * width) / sigma) - phi((d - 0.5 * width) / sigma));
            light.iter_mut().zip(ink).for_each(|(l, i)| *l *= 1.0 - (1.0 - i) * inked);
        }
        for (v, l) in p.iter_mut().zip(light) {
            let seen = f64::from(encode(l as f32)) + grain();
            *v = (seen / white * 255.0).round().clamp(0.0, 255.0) as u8;
        }
    }
    out
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 6, ..ProptestConfig::default() })]

    #[test]
    fn thin_lines_of_two_inks_are_weighed(black in 4.0..7.0f64, red in 4.0..7.0f64, sigma in 0.6..1.1f64, turn in -0.1..0.1f64, seed in 1u32..1000, clip in any::<bool>()) {
        let white = if clip { 0.87 } else { 1.0 };
        let rgba = page([black, red], sigma, white, turn, seed);
        let picture = Picture::new(SIDE, SIDE, &rgba).expect("a picture").of_kind(Kind::Scan);
        let encoded = |ink: [f64; 3]| ink.map(|v| (encode(v as f32) * 255.0).round() as u8);
        let role = |ink| Source::Colour { rgb: encoded(ink), tolerance: 12.0 };
        let found = drawing::measure(&[Layer { picture, role: None }], &Plan { roles: vec![role(BLACK), role(RED)], widest_px: 20.0 });
        prop_assert_eq!(found.clipped.is_some(), clip);
        for (of, width) in found.roles.iter().zip([black, red]) {
            let points = of.lines.iter().filter(|l| l.length_px() > 100.0).flat_map(|l| &l.points);
            let widths: Vec<f64> = points.filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
            prop_assert!(widths.len() > 500, "{} places", widths.len());
            let mean = widths.iter().sum::<f64>() / widths.len() as f64;
            println!("{width:.3} px, blur {sigma:.2}, clipped {clip}: {mean:.3}, {:+.2} %", 100.0 * (mean / width - 1.0));
            let limit = if clip { 0.05 } else { 0.012 };
            prop_assert!((mean / width - 1.0).abs() < limit, "{} px, blur {}, clipped {}: {}", width, sigma, clip, mean);
        }
    }
}

#[test]
fn a_scan_of_black_and_white_is_said_to_be_one() {
    let mut rgba = page([5.0, 5.0], 0.8, 1.0, 0.02, 1);
    rgba.iter_mut().for_each(|v| *v = if *v < 150 { 0 } else { 255 });
    let picture = Picture::new(SIDE, SIDE, &rgba).expect("a picture").of_kind(Kind::Scan);
    let found = drawing::measure(&[Layer { picture, role: None }], &Plan { roles: vec![Source::Rest], widest_px: 20.0 });
    assert!(found.clipped.is_some_and(|c| c.contains("one-bit")), "{:?}", found.clipped);
}
