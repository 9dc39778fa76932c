//! The monotone cubic through knots that joins every curve of a brush and a tablet profile's response.
//!
//! Source: F. N. Fritsch and J. Butland, "A method for constructing local monotone piecewise cubic interpolants",
//! SIAM J. Sci. Stat. Comput. 5 (1984), with the three-point end slopes that SciPy's `PchipInterpolator` uses.

/// Why knots do not make a curve.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum CurveError {
    #[error("needs at least one knot")]
    Empty,
    #[error("knot {index} is not a finite number")]
    NotFinite { index: usize },
    #[error("knot {index} does not lie to the right of the one before it")]
    NotAscending { index: usize },
}

/// A piecewise cubic through strictly ascending knots; between them it never overshoots, outside it is clamped.
#[derive(Debug, Clone, PartialEq)]
pub struct Curve {
    x: Vec<f64>,
    y: Vec<f64>,
    slope: Vec<f64>,
}

impl Curve {
    /// A curve through `[x, y]` knots. One knot makes a constant.
    pub fn new(knots: &[[f64; 2]]) -> Result<Self, CurveError> {
        if knots.is_empty() {
            return Err(CurveError::Empty);
        }
        for (index, k) in knots.iter().enumerate() {
            if !k[0].is_finite() || !k[1].is_finite() {
                return Err(CurveError::NotFinite { index });
            }
            if index > 0 && k[0] <= knots[index - 1][0] {
                return Err(CurveError::NotAscending { index });
            }
        }
        let x: Vec<f64> = knots.iter().map(|k| k[0]).collect();
        let y: Vec<f64> = knots.iter().map(|k| k[1]).collect();
        let slope = slopes(&x, &y);
        Ok(Self { x, y, slope })
    }

    /// The value at `x`, clamped to the first and last knot outside them.
    pub fn value(&self, x: f64) -> f64 {
        let n = self.x.len();
        // NaN falls to the first knot: nothing outside the knots may escape them.
        if n == 1 || x.is_nan() || x <= self.x[0] {
            return self.y[0];
        }
        if x >= self.x[n - 1] {
            return self.y[n - 1];
        }
        let i = self.x.partition_point(|&k| k <= x) - 1;
        let h = self.x[i + 1] - self.x[i];
        let t = (x - self.x[i]) / h;
        let (t2, t3) = (t * t, t * t * t);
        self.y[i] * (2.0 * t3 - 3.0 * t2 + 1.0)
            + self.slope[i] * h * (t3 - 2.0 * t2 + t)
            + self.y[i + 1] * (3.0 * t2 - 2.0 * t3)
            + self.slope[i + 1] * h * (t3 - t2)
    }

    /// The `x` at which a never-falling curve reaches `y`, clamped to its ends (bisection).
    pub fn inverse(&self, y: f64) -> f64 {
        let (mut lo, mut hi) = (self.x[0], self.x[self.x.len() - 1]);
        for _ in 0..60 {
            let mid = 0.5 * (lo + hi);
            if self.value(mid) < y { lo = mid } else { hi = mid }
        }
        0.5 * (lo + hi)
    }

    /// The knots as `[x, y]`.
    pub fn knots(&self) -> Vec<[f64; 2]> {
        self.x.iter().zip(&self.y).map(|(&x, &y)| [x, y]).collect()
    }
}

fn slopes(x: &[f64], y: &[f64]) -> Vec<f64> {
    let n = x.len();
    if n == 1 {
        return vec![0.0];
    }
    let h: Vec<f64> = x.windows(2).map(|w| w[1] - w[0]).collect();
    let d: Vec<f64> = y.windows(2).zip(&h).map(|(w, h)| (w[1] - w[0]) / h).collect();
    if n == 2 {
        return vec![d[0], d[0]];
    }
    let mut m = vec![0.0; n];
    for i in 1..n - 1 {
        if d[i - 1] * d[i] > 0.0 {
            let (w1, w2) = (2.0 * h[i] + h[i - 1], h[i] + 2.0 * h[i - 1]);
            m[i] = (w1 + w2) / (w1 / d[i - 1] + w2 / d[i]);
        }
    }
    m[0] = end_slope(h[0], h[1], d[0], d[1]);
    m[n - 1] = end_slope(h[n - 2], h[n - 3], d[n - 2], d[n - 3]);
    m
}

/// The one-sided three-point slope, limited so that the curve keeps its shape.
fn end_slope(h0: f64, h1: f64, d0: f64, d1: f64) -> f64 {
    let m = ((2.0 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    if m * d0 <= 0.0 {
        0.0
    } else if d0 * d1 <= 0.0 && m.abs() > 3.0 * d0.abs() {
        3.0 * d0
    } else {
        m
    }
}
