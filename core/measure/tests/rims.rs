//! A fill that was laid a little wider than its line: its rim peeks out on the far side, on nothing or over another fill. A rim is no ink.
//!
//! A ring of black on a disc whose radius goes in and out; coverage from the distance to the edge, laid over one another in encoded values.

use eddymist_measure::{
    Picture,
    drawing::{Layer, Place, Plan, Source, measure},
};
use proptest::prelude::*;

const SIDE: usize = 340;
const RADIUS: f64 = 110.0;

/// Premultiplied, `over` so far covered by a colour.
fn laid(under: [f64; 4], colour: [u8; 3], cover: f64) -> [f64; 4] {
    let over = [f64::from(colour[0]), f64::from(colour[1]), f64::from(colour[2]), 255.0];
    [0, 1, 2, 3].map(|k| under[k] * (1.0 - cover) + over[k] * cover)
}

fn drawn(fill: [u8; 3], beyond: Option<[u8; 3]>, wide: f64, out: impl Fn(f64) -> f64) -> Vec<u8> {
    let mut data = Vec::with_capacity(4 * SIDE * SIDE);
    for i in 0..SIDE * SIDE {
        let (x, y) = ((i % SIDE) as f64 + 0.5 - 0.5 * SIDE as f64, (i / SIDE) as f64 + 0.5 - 0.5 * SIDE as f64);
        let (r, turn) = (x.hypot(y), y.atan2(x));
        let mut p = [0.0; 4];
        if let Some(colour) = beyond {
            p = laid(p, colour, 1.0);
        }
        p = laid(p, fill, (RADIUS + 0.5 * wide + out(turn) - r + 0.5).clamp(0.0, 1.0));
        p = laid(p, [0; 3], (0.5 * wide - (r - RADIUS).abs() + 0.5).clamp(0.0, 1.0));
        data.extend([0, 1, 2].map(|k| (255.0 * p[k] / p[3].max(1e-9)).round().clamp(0.0, 255.0) as u8));
        data.push(p[3].round() as u8);
    }
    data
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn a_fill_that_peeks_out_beyond_its_line_makes_it_no_wider(
        fill in prop_oneof![Just([255u8; 3]), prop::array::uniform3(150u8..=255)], other in prop::option::of(prop::array::uniform3(150u8..=255)),
        wide in 1.5f64..9.0, most in 0.3f64..2.2, waves in 1u8..6, phase in 0.0f64..6.0,
    ) {
        let rgba = drawn(fill, other, wide, |turn| most * (f64::from(waves) * turn + phase).sin());
        let picture = Picture::new(SIDE, SIDE, &rgba).expect("a picture");
        let found = measure(&[Layer { picture, role: None }], &Plan { roles: vec![Source::Rest], widest_px: 12.0 });
        let body: Vec<f64> =
            found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
        let mean = body.iter().sum::<f64>() / body.len() as f64;
        prop_assert!((mean - wide).abs() < 0.08, "{mean:.3} px for {wide:.3}");
        // Nowhere a third wider, which would be told as heavy ink; and nearly all of it is read.
        let heavy = body.iter().filter(|w| **w > 1.2 * wide + 0.1).count();
        prop_assert!(heavy * 100 <= body.len(), "{heavy} of {} places", body.len());
        let step = found.roles[0].lines.first().map_or(1.0, |l| l.step_px);
        prop_assert!(body.len() as f64 * step > 0.9 * std::f64::consts::TAU * RADIUS, "{} of {:.0} px", body.len() as f64 * step, std::f64::consts::TAU * RADIUS);
    }
}
