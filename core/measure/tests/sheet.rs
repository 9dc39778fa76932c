//! Sheets against outside libraries and closed forms: where the marks put the page, where edges lie.

use eddymist_measure::{
    scan::{self, Scan},
    sheet::{
        beside::Axes,
        layout::{MarkText, Paper, SheetPlan, number_from, plan},
        marks::{FoundMark, place},
    },
};
use proptest::prelude::*;
use serde::Deserialize;
use statrs::distribution::{ContinuousCDF, Normal};

const NUMBER: &str = "7K2M9Q";

fn marks(plan: &SheetPlan, px: &[[f64; 2]]) -> Vec<FoundMark> {
    px.chunks_exact(3)
        .enumerate()
        .map(|(corner, f)| FoundMark { text: MarkText { bars: true, paper: plan.paper, number: NUMBER.into(), corner }, finders: [f[0], f[1], f[2]] })
        .collect()
}

#[derive(Deserialize)]
struct Homography {
    noise: f64,
    px: Vec<[f64; 2]>,
    at: Vec<[f64; 2]>,
    mapped: Vec<[f64; 2]>,
}

/// scikit-image's `ProjectiveTransform` (tests/reference/make_pens.py): exact where the points are, and as good as its own
/// where they are off by 0.3 px.
#[test]
fn the_page_lies_where_another_library_puts_it() {
    let cases: Vec<Homography> = serde_json::from_str(include_str!("../../../tests/reference/homography.json")).expect("golden values");
    let plan = plan(Paper::A4, NUMBER);
    for c in cases {
        let found = place(&plan, &marks(&plan, &c.px)).expect("four marks");
        for (mm, want) in c.at.iter().zip(&c.mapped) {
            let got = found.px(*mm);
            let off = (got[0] - want[0]).hypot(got[1] - want[1]);
            assert!(off < if c.noise > 0.0 { 0.15 } else { 1e-6 }, "{off} at a noise of {}", c.noise);
        }
    }
}

#[derive(Deserialize)]
struct Edges {
    width: f64,
    sigma: f64,
    level: f64,
    at_60: f64,
}

/// A blurred straight line whose figures follow from formulas: the integrated width is the true one whatever the blur, the
/// edges at 60 % lie where `Φ` says and where scikit-image's `find_contours` finds them, and the 10–90 % distance of a
/// Gaussian edge is 2.563 σ (definitions of ISO/IEC 13660, from memory).
#[test]
fn blurred_edges_lie_where_formulas_and_another_library_say() {
    let cases: Vec<Edges> = serde_json::from_str(include_str!("../../../tests/reference/edges.json")).expect("golden values");
    let phi = Normal::new(0.0, 1.0).expect("a distribution");
    for c in &cases {
        let (w, h) = (400, 60);
        let at = |x: f64, y: f64| {
            let d = y - 30.0 - 0.01 * (x - 200.0);
            1.0 - c.level * (phi.cdf((d + 0.5 * c.width) / c.sigma) - phi.cdf((d - 0.5 * c.width) / c.sigma))
        };
        let data = (0..w * h).map(|i| at((i % w) as f64 + 0.5, (i / w) as f64 + 0.5) as f32).collect();
        let dpi = 254.0;
        let (m, _) = scan::measure(&Scan { width: w, height: h, data, dpi }).expect("a line");
        let px = |mm: f64| mm * dpi / 25.4;
        let line = &m.lines[0];
        assert!((px(line.width_mm.mean) - c.width).abs() < 0.03, "{} for {}", px(line.width_mm.mean), c.width);
        assert!((px(line.width_60_mm) - c.at_60).abs() < 0.05, "{} for {}", px(line.width_60_mm), c.at_60);
        // Reading between pixels blurs a little more.
        let blur = px(line.blurriness_um.expect("a scan") / 1000.0) / (2.563 * c.sigma);
        assert!((0.97..1.15).contains(&blur), "{blur}");
        assert!(line.raggedness_um.is_some_and(|r| r < 3.0), "{:?}", line.raggedness_um);
        assert!((line.angle_deg + 0.01f64.atan().to_degrees()).abs() < 0.05, "{}", line.angle_deg);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    /// Two marks suffice for a scan, whichever they are; the scale and the turn come back.
    #[test]
    fn two_marks_tell_where_a_sheet_lies(turn in -3.1f64..3.1, k in 8.0f64..30.0, x in -500.0f64..500.0, a in 0usize..4, b in 0usize..4) {
        prop_assume!(a != b);
        let plan = plan(Paper::Letter, NUMBER);
        let (s, c) = turn.sin_cos();
        let to = |p: [f64; 2]| [x + k * (c * p[0] - s * p[1]), 40.0 + k * (s * p[0] + c * p[1])];
        let all: Vec<[f64; 2]> = plan.marks.iter().flat_map(|m| [[2.625, 2.625], [13.125, 2.625], [2.625, 13.125]].map(|f| to([m[0] + f[0], m[1] + f[1]]))).collect();
        let some: Vec<FoundMark> = marks(&plan, &all).into_iter().filter(|m| m.text.corner == a || m.text.corner == b).collect();
        let found = place(&plan, &some).expect("two marks");
        let (got, want) = (found.px([100.0, 200.0]), to([100.0, 200.0]));
        prop_assert!((got[0] - want[0]).hypot(got[1] - want[1]) < 1e-6);
        prop_assert!(found.scale(&plan, &Axes::new([25.4; 2])).iter().all(|v| (v - k).abs() < 1e-6) && found.keystone(&plan) < 1e-9);
        let off = (found.turn_deg(&plan) + turn.to_degrees()).rem_euclid(360.0);
        prop_assert!(off.min(360.0 - off) < 1e-6);
        prop_assert!(place(&plan, &some[..1]).is_none() && place(&plan, &[]).is_none());
    }

    /// A sheet's number is one that its marks can carry, and neighbouring seeds give other ones.
    #[test]
    fn numbers_are_carried_by_marks(seed in any::<u64>()) {
        let n = number_from(seed);
        let mark = MarkText { bars: true, paper: Paper::A4, number: n.clone(), corner: 2 };
        prop_assert_eq!(MarkText::decode(&mark.encode()), Some(mark.clone()));
        prop_assert!(mark.encode().len() <= 20, "a mark of this size holds twenty characters");
        prop_assert!(n != number_from(seed.wrapping_add(1)));
    }

    /// Any picture at all is read or refused, never fallen over.
    #[test]
    fn any_picture_is_read_or_refused(w in 1usize..300, h in 1usize..300, seed in any::<u32>(), dpi in 20.0f64..3000.0) {
        let data = (0..w * h).map(|i| ((i as u32).wrapping_mul(2_654_435_761).wrapping_add(seed) >> 16 & 0xFF) as f32 / 255.0).collect();
        let picture = Scan { width: w, height: h, data, dpi };
        prop_assert!(eddymist_measure::sheet::read(&picture, &[]).is_err());
        prop_assert!(!eddymist_measure::sheet::is_photo(&picture) && eddymist_measure::sheet::read_photo(&picture, &[]).is_err());
    }
}
