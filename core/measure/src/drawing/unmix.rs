//! How much ink is in a pixel that two or three colours are mixed in.
//!
//! How: least squares in premultiplied red, green, blue and alpha; shares are from 0 to 1 and sum to 1, so that what lies outside of a triangle
//! is held against its sides. Limits: of three colours on one line the middle one is not told from the ends.

pub(super) type Vector = [f32; 4];

pub(super) fn less(a: Vector, b: Vector) -> Vector {
    [0, 1, 2, 3].map(|k| a[k] - b[k])
}

pub(super) fn product(a: Vector, b: Vector) -> f32 {
    a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]
}

pub(super) fn length(a: Vector) -> f32 {
    product(a, a).sqrt()
}

/// A pixel's colour as a mixture: the shares of the second and the third colour, and how far the mixture lies off, in levels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Mixture {
    pub second: f32,
    pub third: f32,
    pub off: f32,
}

/// Of two colours.
pub(super) fn of_two(c: Vector, a: Vector, b: Vector) -> Mixture {
    let (d, e) = (less(b, a), less(c, a));
    let t = (product(e, d) / product(d, d).max(1e-6)).clamp(0.0, 1.0);
    Mixture { second: t, third: 0.0, off: length([0, 1, 2, 3].map(|k| e[k] - t * d[k])) }
}

/// Of three colours.
pub(super) fn of_three(c: Vector, a: Vector, b: Vector, i: Vector) -> Mixture {
    let (d, f, e) = (less(b, a), less(i, a), less(c, a));
    let (dd, df, ff) = (product(d, d), product(d, f), product(f, f));
    let det = dd * ff - df * df;
    if det > 1e-3 * dd * ff {
        let (ed, ef) = (product(e, d), product(e, f));
        let (s, t) = ((ed * ff - ef * df) / det, (ef * dd - ed * df) / det);
        if s >= 0.0 && t >= 0.0 && s + t <= 1.0 {
            return Mixture { second: s, third: t, off: length([0, 1, 2, 3].map(|k| e[k] - s * d[k] - t * f[k])) };
        }
    }
    let (ab, ai, bi) = (of_two(c, a, b), of_two(c, a, i), of_two(c, b, i));
    let sides = [ab, Mixture { second: 0.0, third: ai.second, off: ai.off }, Mixture { second: 1.0 - bi.second, third: bi.second, off: bi.off }];
    sides.into_iter().fold(ab, |best, m| if m.off < best.off { m } else { best })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::{of_three, of_two};

    proptest! {
        #[test]
        fn what_was_mixed_is_told_apart(c in prop::array::uniform3(prop::array::uniform4(0f32..255.0)), s in 0f32..1.0, t in 0f32..1.0) {
            let (s, t) = if s + t > 1.0 { (1.0 - s, 1.0 - t) } else { (s, t) };
            let two = [0, 1, 2, 3].map(|k| c[0][k] + t * (c[1][k] - c[0][k]));
            let found = of_two(two, c[0], c[1]);
            let apart = c[0].iter().zip(c[1]).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            prop_assert!(found.off < 0.01 && (apart < 1.0 || (found.second - t).abs() < 0.01));
            let three = [0, 1, 2, 3].map(|k| c[0][k] + s * (c[1][k] - c[0][k]) + t * (c[2][k] - c[0][k]));
            prop_assert!(of_three(three, c[0], c[1], c[2]).off < 0.5);
        }
    }
}
