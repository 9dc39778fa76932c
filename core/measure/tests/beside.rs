//! What lies beside a sheet, on small made scans: a card of any lie and lightness gives both axes their scale, and nothing else is
//! taken for one. Size and corners of the card are ISO/IEC 7810's (ID-1).

use eddymist_measure::{
    scan::Scan,
    sheet::beside::{Axes, BesideKind, CARD_MM, find},
};
use proptest::prelude::*;

const DPI: f64 = 150.0;
/// The page takes the left 60 mm; the rest of the bed is the lid.
const PAGE_MM: f64 = 60.0;
const BED_MM: [f64; 2] = [200.0, 130.0];

/// A scan whose axes are stretched apart: px to the mm across and down.
fn bed(px_mm: [f64; 2], lid: f32, thing: impl Fn(f64, f64) -> Option<f32>) -> (Scan, [[f64; 2]; 4]) {
    let (width, height) = ((BED_MM[0] * px_mm[0]) as usize, (BED_MM[1] * px_mm[1]) as usize);
    let mut data = Vec::with_capacity(width * height);
    for y in 0..height {
        for x in 0..width {
            // Sixteen looks at every pixel, and a little grain.
            let look = |k: usize| {
                let (u, v) = ((x as f64 + ((k % 4) as f64 + 0.5) / 4.0) / px_mm[0], (y as f64 + ((k / 4) as f64 + 0.5) / 4.0) / px_mm[1]);
                if u < PAGE_MM { 0.8 } else { thing(u, v).unwrap_or(lid) }
            };
            let grain = ((x * 31 + y * 17) % 7) as f32 * 0.002 - 0.006;
            data.push((0..16).map(look).sum::<f32>() / 16.0 + grain);
        }
    }
    let [w, h] = [PAGE_MM * px_mm[0], height as f64];
    (Scan { width, height, data, dpi: DPI }, [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]])
}

/// A rectangle with round corners about a middle, turned.
fn rectangle(mid: [f64; 2], size: [f64; 2], turn: f64, level: f32) -> impl Fn(f64, f64) -> Option<f32> {
    let (s, c) = turn.sin_cos();
    move |x, y| {
        let (dx, dy) = (x - mid[0], y - mid[1]);
        let (u, v) = (c * dx + s * dy, c * dy - s * dx);
        let out = (u.abs() - 0.5 * size[0] + 3.18).max(0.0).hypot((v.abs() - 0.5 * size[1] + 3.18).max(0.0));
        (out <= 3.18).then_some(level)
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(10))]

    #[test]
    fn a_card_of_any_lie_gives_both_axes_their_scale(
        x in 118.0f64..142.0, y in 58.0f64..72.0, turn in -0.35f64..0.35, upright in any::<bool>(), level in prop_oneof![0.1f32..0.6, 0.75f32..0.8],
        across in 0.985f64..1.015, down in 0.985f64..1.015,
    ) {
        let px_mm = [across * DPI / 25.4, down * DPI / 25.4];
        let turn = if upright { turn + std::f64::consts::FRAC_PI_2 } else { turn };
        let (scan, page) = bed(px_mm, 0.9, rectangle([x, y], CARD_MM, turn, level));
        let found = find(&scan, &page).expect("a card");
        prop_assert_eq!(found.kind, BesideKind::Card);
        for (got, want) in found.dpi.iter().zip([across, down]) {
            prop_assert!((got / DPI / want - 1.0).abs() < 0.002, "{:?} for {} {}", found.dpi, across, down);
        }
        // Its corners are where it lies: the middle of them is the card's.
        let mid = [0, 1].map(|k| found.corners_px.iter().map(|c| c[k]).sum::<f64>() / 4.0);
        prop_assert!((mid[0] / px_mm[0] - x).abs() < 0.2 && (mid[1] / px_mm[1] - y).abs() < 0.2, "{:?}", mid);
    }

    /// Neither another format, nor a blot, nor an empty lid is a card.
    #[test]
    fn nothing_else_is_taken_for_a_card(long in 30.0f64..110.0, broad in 20.0f64..70.0, level in 0.1f32..0.6) {
        prop_assume!((long.max(broad) / CARD_MM[0] - 1.0).abs() > 0.08 || (long.min(broad) / CARD_MM[1] - 1.0).abs() > 0.08);
        let (scan, page) = bed([DPI / 25.4; 2], 0.9, rectangle([130.0, 65.0], [long, broad], 0.1, level));
        prop_assert!(find(&scan, &page).is_none());
    }
}

#[test]
fn a_rule_tells_of_its_own_axis_and_a_bare_lid_of_none() {
    let px_mm = [1.01 * DPI / 25.4, 0.99 * DPI / 25.4];
    let rule = |x: f64, y: f64| -> Option<f32> {
        let (u, v) = (y - 8.0, x - 100.0);
        if !(0.0..110.0).contains(&u) || !(0.0..18.0).contains(&v) {
            return None;
        }
        let long = if u.round() as i64 % 10 == 0 { 7.0 } else { 4.0 };
        Some(if (u - u.round()).abs() < 0.12 && v < long { 0.05 } else { 0.5 })
    };
    let (scan, page) = bed(px_mm, 0.9, rule);
    let found = find(&scan, &page).expect("a rule");
    assert_eq!(found.kind, BesideKind::Rule);
    assert!((found.dpi[1] / (0.99 * DPI) - 1.0).abs() < 0.002 && found.dpi[0] == DPI, "{:?}", found.dpi);
    let (bare, page) = bed(px_mm, 0.9, |_, _| None);
    assert!(find(&bare, &page).is_none());
    // The whole scan is page: there is no room for anything.
    let (w, h) = (bare.width as f64, bare.height as f64);
    assert!(find(&bare, &[[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]]).is_none());
}

#[test]
fn lengths_go_by_the_axes_that_they_cross() {
    let axes = Axes::new([254.0, 508.0]);
    assert!((axes.mm([10.0, 0.0]) - 1.0).abs() < 1e-12 && (axes.mm([0.0, 10.0]) - 0.5).abs() < 1e-12 && (axes.mm([30.0, 80.0]) - 5.0).abs() < 1e-12);
    // Across a level line lies the scan's height, across an upright one its width.
    assert!((axes.dpi_across([1.0, 0.0]) - 508.0).abs() < 1e-9 && (axes.dpi_across([0.0, 1.0]) - 254.0).abs() < 1e-9);
    assert!((axes.dpi_mean() - 254.0 * 2f64.sqrt()).abs() < 1e-9);
}
