//! A rising curve through points that scatter.
//!
//! How: knots even along the way of the isotonic regression, their heights by least squares through the monotone cubic, kept from falling by pooling.
//! Limits: twice as many points as knots; the outermost five hundredth of the points lie beyond the ends.

use eddymist_ink::Curve;
use eddymist_measure::stats::{quantile, solve};

use crate::isotonic;

/// A rising curve through `N` knots by least squares, as many as there is something to say between them.
///
/// Knots lie evenly along the way of the isotonic regression, both axes taken from 0 to 1: close where it is steep.
pub(super) fn rising<const N: usize>(points: &mut [(f64, f64, f64)]) -> Option<Vec<[f64; 2]>>
where
    nalgebra::Const<N>: nalgebra::DimMin<nalgebra::Const<N>, Output = nalgebra::Const<N>>,
{
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let xs: Vec<f64> = points.iter().map(|p| p.0).collect();
    let (low, high) = (quantile(&xs, 0.002)?, quantile(&xs, 0.998)?);
    if high - low < 1e-6 || points.len() < 2 * N {
        return None;
    }
    let steps = isotonic::regression(points);
    let range = (steps[steps.len() - 1] - steps[0]).max(1e-9);
    let way = |i: usize| ((points[i].0 - low) / (high - low)).clamp(0.0, 1.0) + (steps[i] - steps[0]) / range;
    let (first, last) = (way(0), way(points.len() - 1));
    let mut at = [0.0; N];
    for (k, a) in at.iter_mut().enumerate() {
        let wish = first + (last - first) * k as f64 / (N - 1) as f64;
        let (mut l, mut h) = (0, points.len() - 1);
        while l < h {
            let m = (l + h) / 2;
            if way(m) < wish { l = m + 1 } else { h = m }
        }
        *a = points[l].0.clamp(low, high);
    }
    (at[0], at[N - 1]) = (low, high);
    // Knots that fall together are set apart by a thousandth of the range.
    for k in 1..N {
        at[k] = at[k].max(at[k - 1] + 1e-3 * (high - low));
    }
    if at[N - 1] > high {
        let k = (high - low) / (at[N - 1] - low);
        at.iter_mut().for_each(|a| *a = low + (*a - low) * k);
    }
    let mut y = [0.0; N];
    let mean = points.iter().map(|p| p.1 * p.2).sum::<f64>() / points.iter().map(|p| p.2).sum::<f64>().max(1e-9);
    y.fill(mean);
    for _ in 0..5 {
        let knots: Vec<[f64; 2]> = at.iter().zip(&y).map(|(a, y)| [*a, *y]).collect();
        let curve = Curve::new(&knots).ok()?;
        let (mut m, mut r) = ([[0.0; N]; N], [0.0; N]);
        for p in points.iter() {
            let k = at.partition_point(|a| *a <= p.0).clamp(1, N - 1) - 1;
            let f = ((p.0 - at[k]) / (at[k + 1] - at[k])).clamp(0.0, 1.0);
            let off = p.1 - curve.value(p.0);
            for (i, a) in [(k, 1.0 - f), (k + 1, f)] {
                r[i] += p.2 * a * off;
                for (j, b) in [(k, 1.0 - f), (k + 1, f)] {
                    m[i][j] += p.2 * a * b;
                }
            }
        }
        // Where nothing is between two knots, they bend as little as may be.
        let stiff = 1e-4 * points.len() as f64;
        for k in 1..N - 1 {
            for (i, a) in [(k - 1, 1.0), (k, -2.0), (k + 1, 1.0)] {
                r[i] -= stiff * a * (y[k - 1] - 2.0 * y[k] + y[k + 1]);
                for (j, b) in [(k - 1, 1.0), (k, -2.0), (k + 1, 1.0)] {
                    m[i][j] += stiff * a * b;
                }
            }
        }
        for (k, row) in m.iter_mut().enumerate() {
            row[k] += 1e-6;
        }
        let step = solve(m, r)?;
        y.iter_mut().zip(step).for_each(|(y, s)| *y += s);
        let pooled: Vec<(f64, f64, f64)> = (0..N).map(|k| (at[k], y[k], (m[k][k]).max(1e-6))).collect();
        y.iter_mut().zip(isotonic::regression(&pooled)).for_each(|(y, p)| *y = p);
    }
    Some(at.iter().zip(y).map(|(a, y)| [*a, y]).collect())
}

#[cfg(test)]
mod tests {
    use serde::Deserialize;

    use super::*;

    #[derive(Deserialize)]
    struct Case {
        points: Vec<[f64; 2]>,
        isotonic_rms: f64,
        at: Vec<f64>,
        spline: Vec<f64>,
    }

    /// The rising curve leaves at most a seventh more than SciPy's isotonic regression, which no rising function can better and which follows the noise, and lies where SciPy's least-squares
    /// spline lies (`make_pairs.py`).
    #[test]
    fn a_rising_curve_is_where_scipy_has_it() {
        let cases: Vec<Case> = serde_json::from_str(include_str!("../../../../tests/reference/rising.json")).expect("golden");
        for c in cases {
            let mut points: Vec<(f64, f64, f64)> = c.points.iter().map(|p| (p[0], p[1], 1.0)).collect();
            let curve = Curve::new(&rising::<9>(&mut points).expect("a curve")).expect("knots");
            let rms = (points.iter().map(|p| (p.1 - curve.value(p.0)).powi(2)).sum::<f64>() / points.len() as f64).sqrt();
            assert!(rms < 1.15 * c.isotonic_rms, "{rms} and {}", c.isotonic_rms);
            for (x, y) in c.at.iter().zip(&c.spline) {
                assert!((curve.value(*x) - y).abs() < 0.03, "{x}: {} and {y}", curve.value(*x));
            }
        }
    }
}
