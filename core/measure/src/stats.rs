//! Small robust statistics shared by the measures.

use nalgebra::{Const, DimMin, SMatrix, SVector};

/// The value at share `q` (0…1) of the sorted values, linear between neighbours; none of nothing.
pub fn quantile(values: &[f64], q: f64) -> Option<f64> {
    let mut v: Vec<f64> = values.iter().copied().filter(|x| x.is_finite()).collect();
    v.sort_by(f64::total_cmp);
    quantile_sorted(&v, q)
}

/// The same of values already sorted.
pub fn quantile_sorted(v: &[f64], q: f64) -> Option<f64> {
    let last = v.len().checked_sub(1)?;
    let at = q.clamp(0.0, 1.0) * last as f64;
    let i = at as usize;
    let next = v[(i + 1).min(last)];
    Some(v[i] + (next - v[i]) * (at - i as f64))
}

/// The median; none of nothing.
pub fn median(values: &[f64]) -> Option<f64> {
    quantile(values, 0.5)
}

/// Mean and standard deviation (n − 1); the deviation of a single value is 0.
pub fn mean_sd(values: &[f64]) -> Option<(f64, f64)> {
    let n = values.len();
    if n == 0 {
        return None;
    }
    let mean = values.iter().sum::<f64>() / n as f64;
    let ss: f64 = values.iter().map(|v| (v - mean).powi(2)).sum();
    Some((mean, if n > 1 { (ss / (n - 1) as f64).sqrt() } else { 0.0 }))
}

/// Standard deviations of groups of so many values, pooled, with the degrees of freedom behind them; a group of one says nothing.
pub fn pooled_sd(groups: impl Iterator<Item = (f64, f64)>) -> Option<(f64, f64)> {
    let (ss, df) = groups.filter(|g| g.1 > 1.0).fold((0.0, 0.0), |a, (sd, n)| (a.0 + sd * sd * (n - 1.0), a.1 + n - 1.0));
    (df >= 1.0).then(|| ((ss / df).sqrt(), df))
}

/// A moving mean over `window` values about each.
pub fn moving_mean(values: &[f64], window: usize) -> Vec<f64> {
    let half = window / 2;
    let mut sums = Vec::with_capacity(values.len() + 1);
    sums.push(0.0);
    for v in values {
        sums.push(sums[sums.len() - 1] + v);
    }
    (0..values.len())
        .map(|i| {
            let (a, b) = (i.saturating_sub(half), (i + half + 1).min(values.len()));
            (sums[b] - sums[a]) / (b - a) as f64
        })
        .collect()
}

/// Solves `a·x = b` by LU decomposition with row exchange (nalgebra's); none where it has no single solution.
pub fn solve<const N: usize>(a: [[f64; N]; N], b: [f64; N]) -> Option<[f64; N]>
where
    Const<N>: DimMin<Const<N>, Output = Const<N>>,
{
    let lu = SMatrix::<f64, N, N>::from_fn(|i, j| a[i][j]).lu();
    if lu.u().diagonal().iter().any(|d| d.abs() < 1e-12) {
        return None;
    }
    lu.solve(&SVector::from(b)).map(Into::into)
}

/// The normal distribution.
pub fn phi(z: f64) -> f64 {
    0.5 * libm::erfc(-z * std::f64::consts::FRAC_1_SQRT_2)
}
