//! The borders of a picture's ink, traced where its coverage crosses a half.
//!
//! How: marching squares with linear crossings. Limits: where four pixels cross over, their mean decides. Source: W. E. Lorensen and H. E. Cline, SIGGRAPH 1987,
//! in the plane.

use std::collections::HashMap;

use crate::{envelope::thinned, outline::Path, outline::signed_area, picture::Picture};

/// Place of a crossing: column and row of the pixel it comes after, and whether it lies beside (true) or below it.
type Crossing = (usize, usize, bool);

/// Closed borders of what is covered by half or more, in pixels, thinned to `tolerance_px`; the border of a hole runs the other
/// way round. Between two pixels' middles coverage is taken as straight; where four pixels cross over, their mean decides
/// (marching squares: Lorensen and Cline, SIGGRAPH 1987, in the plane). Pieces under `least_px2` are left out.
pub fn borders(p: &Picture, tolerance_px: f64, least_px2: f64) -> Vec<Path> {
    // One row and column of nothing about it closes every border.
    let (w, h) = (p.width + 2, p.height + 2);
    let at = |x: usize, y: usize| {
        let inside = x > 0 && y > 0 && x <= p.width && y <= p.height;
        if inside { f64::from(p.coverage[(y - 1) * p.width + x - 1]) } else { 0.0 }
    };
    let mut starts: Vec<Crossing> = Vec::new();
    let mut next: HashMap<Crossing, Crossing> = HashMap::new();
    for y in 0..h - 1 {
        for x in 0..w - 1 {
            let corners = [at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)];
            let sides: [Crossing; 4] = [(x, y, true), (x + 1, y, false), (x, y + 1, true), (x, y, false)];
            // Round the cell clockwise: where its border comes into the ink, and where it goes out of it.
            let (mut enters, mut exits) = (Vec::new(), Vec::new());
            for k in 0..4 {
                match (corners[k] >= 0.5, corners[(k + 1) % 4] >= 0.5) {
                    (false, true) => enters.push((k, sides[k])),
                    (true, false) => exits.push((k, sides[k])),
                    _ => {}
                }
            }
            let joined = exits.len() == 2 && corners.iter().sum::<f64>() >= 2.0;
            for (exit_at, exit) in &exits {
                // The entry before this exit, on the way round; across a joined crossing the one after it.
                let way = |enter: usize| if joined { (enter + 4 - exit_at) % 4 } else { (exit_at + 4 - enter) % 4 };
                if let Some((_, enter)) = enters.iter().min_by_key(|e| way(e.0)) {
                    starts.push(*exit);
                    next.insert(*exit, *enter);
                }
            }
        }
    }
    let place = |(x, y, beside): Crossing| {
        let (a, b) = (at(x, y), if beside { at(x + 1, y) } else { at(x, y + 1) });
        let t = if (b - a).abs() > 1e-12 { ((0.5 - a) / (b - a)).clamp(0.0, 1.0) } else { 0.5 };
        // Pixel (1, 1) here is the picture's first, whose middle lies at half a pixel.
        let (x, y) = (x as f64 - 0.5, y as f64 - 0.5);
        if beside { [x + t, y] } else { [x, y + t] }
    };
    let mut out = Vec::new();
    for start in starts {
        let mut path = Path::new();
        let mut here = start;
        while let Some(to) = next.remove(&here) {
            path.push(place(here));
            here = to;
        }
        if path.len() > 2 && signed_area(&path).abs() >= least_px2 {
            out.push(thinned(&path, tolerance_px));
        }
    }
    out.retain(|r| r.len() > 2);
    out
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::outline::Outline;

    /// Against skimage.measure.find_contours (golden: tests/reference/make_check.py), which leaves the mean of four pixels that
    /// cross over to a rule of its own: pictures are smooth, so that none do.
    #[test]
    fn borders_enclose_what_the_reference_says() {
        let cases: Vec<serde_json::Value> = serde_json::from_str(include_str!("../../../tests/reference/borders.json")).expect("golden values");
        assert_eq!(cases.len(), 9);
        for case in cases {
            let width = case["width"].as_u64().expect("a width") as usize;
            let coverage: Vec<f32> =
                case["coverage"].as_array().expect("coverage").iter().filter_map(serde_json::Value::as_f64).map(|v| (v / 255.0) as f32).collect();
            let p = Picture { width, height: coverage.len() / width, px_mm: None, coverage };
            let mut own: Vec<f64> = borders(&p, 1e-9, 0.0).iter().map(|r| signed_area(r).abs()).collect();
            own.sort_by(f64::total_cmp);
            let want: Vec<f64> = case["areas"].as_array().expect("areas").iter().filter_map(serde_json::Value::as_f64).collect();
            assert_eq!(own.len(), want.len());
            assert!(own.iter().zip(&want).all(|(a, b)| (a - b).abs() < 1e-3 * b.max(1.0)), "{own:?} {want:?}");
        }
    }

    proptest! {
        /// A shape drawn as a picture and traced again is the shape (Pappus' area of a ring; common practice, no source).
        #[test]
        fn a_drawn_ring_is_traced(x in 20.0..24.0f64, y in 20.0..24.0f64, outer in 8.0..18.0f64, share in 0.3..0.7f64) {
            let (n, inner) = (44, outer * share);
            let coverage = |r: f64| (r + 0.5).clamp(0.0, 1.0) as f32;
            let p = Picture {
                width: n,
                height: n,
                px_mm: None,
                coverage: (0..n * n)
                    .map(|i| {
                        let d = (((i % n) as f64) + 0.5 - x).hypot(((i / n) as f64) + 0.5 - y);
                        coverage(outer - d).min(coverage(d - inner))
                    })
                    .collect(),
            };
            let rings = borders(&p, 0.05, 1.0);
            prop_assert_eq!(rings.len(), 2);
            prop_assert!(signed_area(&rings[0]) * signed_area(&rings[1]) < 0.0);
            let area = Outline { paths: rings }.area_mm2();
            let truth = std::f64::consts::PI * (outer * outer - inner * inner);
            prop_assert!((area / truth - 1.0).abs() < 0.02, "{} {}", area, truth);
        }

        /// A border's own area does not depend on where the picture's edge is.
        #[test]
        fn more_paper_about_a_picture_changes_no_border(bits in prop::collection::vec(0u8..=255, 48), margin in 1usize..4) {
            let coverage: Vec<f32> = bits.iter().map(|b| f32::from(*b) / 255.0).collect();
            let p = Picture { width: 8, height: 6, px_mm: None, coverage };
            let (w, h) = (8 + 2 * margin, 6 + 2 * margin);
            let inside = |x: usize, y: usize| (margin..margin + 8).contains(&x) && (margin..margin + 6).contains(&y);
            let wide = Picture {
                width: w,
                height: h,
                px_mm: None,
                coverage: (0..w * h)
                    .map(|i| if inside(i % w, i / w) { p.coverage[(i / w - margin) * 8 + i % w - margin] } else { 0.0 })
                    .collect(),
            };
            let areas = |p: &Picture| -> Vec<i64> {
                let mut all: Vec<i64> = borders(p, 1e-9, 0.0).iter().map(|r| (signed_area(r) * 1e6).round() as i64).collect();
                all.sort_unstable();
                all
            };
            let (a, b) = (areas(&p), areas(&wide));
            prop_assert_eq!(a.len(), b.len());
            prop_assert!(a.iter().zip(&b).all(|(a, b)| (a - b).abs() <= 2));
        }

        /// Whatever the picture, every border is closed and none is lost: their areas sum to the covered pixels' within a border's width.
        #[test]
        fn any_picture_is_traced(bits in prop::collection::vec(any::<bool>(), 64)) {
            let p = Picture { width: 8, height: 8, px_mm: None, coverage: bits.iter().map(|b| f32::from(u8::from(*b))).collect() };
            let area: f64 = borders(&p, 1e-6, 0.0).iter().map(|r| signed_area(r)).sum::<f64>().abs();
            let covered = bits.iter().filter(|b| **b).count() as f64;
            // Each lone corner is cut by an eighth of a pixel, each inner corner filled by as much.
            prop_assert!((area - covered).abs() <= 0.5 * covered + 1e-9);
        }
    }
}
