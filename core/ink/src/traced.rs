//! The borders of a picture's ink, traced where its coverage crosses a half.

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
