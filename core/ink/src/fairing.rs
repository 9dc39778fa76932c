//! Fairing: a stroke moved onto smooth cubics that lie within a tolerance of it, once the pen has lifted.
//!
//! Source: P. J. Schneider, "An Algorithm for Automatically Fitting Digitized Curves", Graphics Gems (1990), for the splitting
//! and the parameters. Its ends and joints pass through samples, noise and all; here every cubic is first fitted with all four
//! points free, the joints are where two neighbours agree, and the cubics are fitted once more between them.

use crate::fitting::{bezier_point, chord_parameters, generate_between, lerp, max_error, norm, reparameterise, sub, unit};

const MAX_DEPTH: usize = 20;
/// Rounds of settling the parameters of one cubic, at most.
const ROUNDS: usize = 24;
/// A run of fewer samples is not split.
const FEWEST: usize = 16;

/// One cubic and the samples it is for.
struct Piece {
    from: usize,
    to: usize,
    cubic: [[f64; 2]; 4],
    u: Vec<f64>,
}

/// The points of an open course moved onto cubics, each at its own parameter and by no more than `tolerance`: there are as many
/// points as before.
pub fn faired(points: &[[f64; 2]], tolerance: f64) -> Vec<[f64; 2]> {
    // Points on the same spot have no direction: they go where the last one goes.
    let mut place: Vec<usize> = Vec::with_capacity(points.len());
    let mut course: Vec<[f64; 2]> = Vec::with_capacity(points.len());
    for p in points {
        if course.last() != Some(p) {
            course.push(*p);
        }
        place.push(course.len().saturating_sub(1));
    }
    if course.len() < 4 {
        return points.to_vec();
    }
    let mut pieces = Vec::new();
    // Joining moves a cubic a little: what is left of the tolerance is for that.
    split(&course, 0, course.len() - 1, 0.7 * tolerance, 0, &mut pieces);
    let joined = join(&course, &mut pieces);
    let moved: Vec<[f64; 2]> = course
        .iter()
        .zip(joined)
        .map(|(p, q)| {
            let off = norm(sub(q, *p));
            if off <= tolerance { q } else { lerp(*p, q, tolerance / off) }
        })
        .collect();
    place.into_iter().map(|i| moved[i]).collect()
}

/// Splits at the worst sample until every cubic lies within the tolerance.
fn split(course: &[[f64; 2]], from: usize, to: usize, tolerance: f64, depth: usize, out: &mut Vec<Piece>) {
    let p = &course[from..=to];
    let mut u = chord_parameters(p);
    let mut cubic = free(p, &u);
    let (mut worst, mut at_worst) = max_error(p, &cubic, &u);
    // The parameters settle slowly; as long as a round still gains something, another is worth more than a joint.
    for _ in 0..ROUNDS {
        if worst <= tolerance || worst > 60.0 * tolerance {
            break;
        }
        let before = worst;
        reparameterise(p, &cubic, &mut u);
        cubic = free(p, &u);
        (worst, at_worst) = max_error(p, &cubic, &u);
        if worst > 0.98 * before {
            break;
        }
    }
    if worst <= tolerance || p.len() < FEWEST || depth > MAX_DEPTH {
        out.push(Piece { from, to, cubic, u });
        return;
    }
    // Short pieces know their direction from noise alone: neither half gets under a quarter.
    let middle = from + at_worst.clamp(p.len() / 4, 3 * p.len() / 4);
    split(course, from, middle, tolerance, depth + 1, out);
    split(course, middle, to, tolerance, depth + 1, out);
}

/// Where the samples lie on cubics that meet, in place and direction, where neighbours agree.
fn join(course: &[[f64; 2]], pieces: &mut [Piece]) -> Vec<[f64; 2]> {
    let ends: Vec<[[f64; 2]; 2]> = (0..=pieces.len())
        .map(|k| {
            let before = k.checked_sub(1).map(|i| pieces[i].cubic);
            let after = pieces.get(k).map(|p| p.cubic);
            match (before, after) {
                (Some(b), Some(a)) => {
                    let (out, into) = (unit(sub(b[3], b[2])), unit(sub(a[1], a[0])));
                    [lerp(b[3], a[0], 0.5), unit([out[0] + into[0], out[1] + into[1]])]
                }
                (Some(b), None) => [b[3], unit(sub(b[3], b[2]))],
                (None, Some(a)) => [a[0], unit(sub(a[1], a[0]))],
                (None, None) => [course[0], [1.0, 0.0]],
            }
        })
        .collect();
    let mut out = course.to_vec();
    for (k, piece) in pieces.iter_mut().enumerate() {
        let p = &course[piece.from..=piece.to];
        let ([start, t0], [end, t1]) = (ends[k], ends[k + 1]);
        let mut cubic = piece.cubic;
        if ends.len() > 2 {
            for _ in 0..4 {
                cubic = generate_between(p, &piece.u, [start, end], t0, [-t1[0], -t1[1]]);
                reparameterise(p, &cubic, &mut piece.u);
            }
        }
        for (o, u) in out[piece.from..=piece.to].iter_mut().zip(&piece.u) {
            *o = bezier_point(&cubic, *u);
        }
    }
    out
}

/// All four points of a cubic by least squares.
fn free(p: &[[f64; 2]], u: &[f64]) -> [[f64; 2]; 4] {
    let (mut a, mut b) = ([[0.0; 4]; 4], [[0.0; 2]; 4]);
    for (q, u) in p.iter().zip(u) {
        let v = 1.0 - u;
        let w = [v * v * v, 3.0 * u * v * v, 3.0 * u * u * v, u * u * u];
        for i in 0..4 {
            for j in 0..4 {
                a[i][j] += w[i] * w[j];
            }
            b[i] = [b[i][0] + w[i] * q[0], b[i][1] + w[i] * q[1]];
        }
    }
    // A little toward the chord keeps few samples from swinging.
    let (first, last) = (p[0], p[p.len() - 1]);
    let hold = 1e-6 * p.len() as f64;
    for (i, row) in a.iter_mut().enumerate() {
        let chord = lerp(first, last, i as f64 / 3.0);
        row[i] += hold;
        b[i] = [b[i][0] + hold * chord[0], b[i][1] + hold * chord[1]];
    }
    // Gauss without exchange: the matrix is symmetric and positive. By hand, since nalgebra's Cholesky gives the same to 1e-15, takes 1.4 times as long
    // (`eddymist-bench replaced`) and would be loaded by every browser.
    for i in 0..4 {
        for j in i + 1..4 {
            let (f, pivot) = (a[j][i] / a[i][i], a[i]);
            a[j].iter_mut().zip(pivot).skip(i).for_each(|(v, p)| *v -= f * p);
            b[j] = [b[j][0] - f * b[i][0], b[j][1] - f * b[i][1]];
        }
    }
    let mut out = [[0.0; 2]; 4];
    for i in (0..4).rev() {
        for c in 0..2 {
            let known: f64 = (i + 1..4).map(|k| a[i][k] * out[k][c]).sum();
            out[i][c] = (b[i][c] - known) / a[i][i];
        }
    }
    out
}
