//! What goes with the pointer: ink that is foretold, and the nib as it stands.

use std::f64::consts::PI;

use eddymist_ink::{
    Brush, Inker, LiveStroke, Sample,
    brush::{AngleFrom, Nib, NibShape, Taper},
    outline::signed_area,
};
use proptest::prelude::*;

fn sample(i: usize, x: f64, y: f64, pressure: f64) -> Sample {
    Sample { t_ms: 5.0 * i as f64, x, y, pressure: Some(pressure), ..Sample::default() }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// What is foretold is what would be added were it true, and leaves the stroke as it is.
    #[test]
    fn foretold_ink_is_what_would_come(course in prop::collection::vec((0.0f64..3.0, -1.0f64..1.0, 0.05f64..1.0), 4..24), taken in 2usize..20, ellipse in any::<bool>(), tapered in any::<bool>()) {
        let mut brush = Brush::plain("any", 0.8);
        if ellipse {
            brush.nib = Nib { shape: NibShape::Ellipse, breadth: Some(0.4), angle_deg: 30.0, angle_from: AngleFrom::Page, ..Nib::round() };
        }
        brush.lead_in = tapered.then_some(Taper { length_mm: 4.0, share: 1.0, tip_width_mm: 0.1, shape: 0.8, over_mm_s: 0.0 });
        let mut at = [0.0, 0.0];
        let samples: Vec<Sample> = course.iter().enumerate().map(|(i, (dx, dy, p))| { at = [at[0] + dx, at[1] + dy]; sample(i, at[0], at[1], *p) }).collect();
        let (now, next) = samples.split_at(taken.min(samples.len() - 1));
        let mut live = LiveStroke::new(Inker::new(&brush, None, None).expect("inkable"), 1.0, 0.002);
        now.iter().for_each(|s| { live.push(*s); });
        let foretold = live.ahead(next);
        prop_assert_eq!(&foretold, &live.ahead(next));
        let come: Vec<_> = next.iter().flat_map(|s| live.push(*s)).collect();
        prop_assert_eq!(foretold, come);
        prop_assert_eq!(live.finish().samples, samples);
    }

    /// The nib stands about the pointer as wide as the weight at that press, whatever tapers a stroke has, and turned as the brush holds it.
    #[test]
    fn the_nib_is_as_large_as_the_weight(press in 0.0f64..1.0, breadth in 0.2f64..1.0, angle in -80.0f64..80.0) {
        let nib = Nib { shape: NibShape::Ellipse, breadth: Some(breadth), angle_deg: angle, angle_from: AngleFrom::Page, ..Nib::round() };
        let taper = Taper { length_mm: 9.0, share: 1.0, tip_width_mm: 0.0, shape: 0.6, over_mm_s: 0.0 };
        let brush = Brush { nib, weight: vec![[0.0, 0.4], [1.0, 2.0]], lead_in: Some(taper), lead_out: Some(taper), ..Brush::plain("flat", 1.0) };
        let inker = Inker::new(&brush, None, None).expect("inkable");
        let outline = LiveStroke::nib_outline(&inker, &sample(0, 7.0, 9.0, press), 0.0005);
        let [ring] = &outline[..] else { panic!("{} rings", outline.len()) };
        let long = inker.weight_mm(press, None);
        prop_assert!((signed_area(ring).abs() / (0.25 * PI * long * long * breadth) - 1.0).abs() < 0.01);
        let mean = ring.iter().fold([0.0, 0.0], |m, p| [m[0] + p[0] / ring.len() as f64, m[1] + p[1] / ring.len() as f64]);
        prop_assert!(mean[0].hypot(mean[1]) < 0.02 * long, "{mean:?}");
        // Its furthest point lies along its length.
        let far = ring.iter().max_by(|a, b| a[0].hypot(a[1]).total_cmp(&b[0].hypot(b[1]))).expect("a point");
        let off = ((-far[1]).atan2(far[0]).to_degrees() - angle).rem_euclid(180.0);
        prop_assert!(breadth > 0.9 || off.min(180.0 - off) < 6.0, "{off}");
    }
}
