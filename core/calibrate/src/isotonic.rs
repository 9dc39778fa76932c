//! Weighted isotonic regression by pooling adjacent violators.
//!
//! Source: R. E. Barlow, D. J. Bartholomew, J. M. Bremner, H. D. Brunk, "Statistical Inference under Order Restrictions"
//! (1972), section 1.2.

/// A block of pooled points.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Block {
    /// Weighted mean of the points' abscissae.
    pub x: f64,
    /// Their common value.
    pub y: f64,
    pub weight: f64,
    pub count: usize,
}

/// Pools `(x, y, weight)` points, sorted by x, into blocks whose values strictly rise.
pub fn blocks(points: &[(f64, f64, f64)]) -> Vec<Block> {
    let mut out: Vec<Block> = Vec::new();
    for &(x, y, weight) in points {
        out.push(Block { x, y, weight, count: 1 });
        while let [.., a, b] = out[..] {
            if a.y < b.y {
                break;
            }
            let weight = a.weight + b.weight;
            let merged =
                Block { x: (a.x * a.weight + b.x * b.weight) / weight, y: (a.y * a.weight + b.y * b.weight) / weight, weight, count: a.count + b.count };
            out.truncate(out.len() - 2);
            out.push(merged);
        }
    }
    out
}

/// The fitted value of every point, never falling.
pub fn regression(points: &[(f64, f64, f64)]) -> Vec<f64> {
    blocks(points).iter().flat_map(|b| std::iter::repeat_n(b.y, b.count)).collect()
}
