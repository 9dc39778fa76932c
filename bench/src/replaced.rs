//! What a kept crate does now, beside the hand-written form that stood there before: time of each on the size that the program asks of it,
//! and the worst relative difference between their answers.

use std::{f64::consts::TAU, hint::black_box};

use eddymist_measure::{sheet::marks::homography, stats::solve};
use nalgebra::SMatrix;
use petgraph::unionfind::UnionFind;
use rustfft::{FftPlanner, num_complex::Complex};

use crate::median_ms;

/// One row: µs of so many in one timing, before and now, their ratio, and how far apart the answers are.
fn row<T>(what: &str, each: usize, before: impl Fn() -> T, now: impl Fn() -> T, apart: f64) {
    let us = |f: &dyn Fn() -> T| median_ms(31, || (0..each).for_each(|_| drop(black_box(f())))) * 1000.0 / each as f64;
    let (b, n) = (us(&before), us(&now));
    println!("{what}\tµs before, now, ratio, apart\t{b:.3}, {n:.3}, {:.2}, {apart:.1e}", n / b);
}

fn apart<'a>(a: impl IntoIterator<Item = &'a f64>, b: impl IntoIterator<Item = &'a f64>) -> f64 {
    a.into_iter().zip(b).map(|(x, y)| (x - y).abs() / x.abs().max(y.abs()).max(1e-300)).fold(0.0, f64::max)
}

/// Numbers without a pattern, −1 to 1.
fn numbers(n: usize) -> Vec<f64> {
    let mut state = 0x9E37_79B9_7F4A_7C15_u64;
    let next = |_| {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        (state >> 11) as f64 / (1u64 << 52) as f64 - 1.0
    };
    (0..n).map(next).collect()
}

/// Gaussian elimination with row exchange.
fn eliminated<const N: usize>(mut a: [[f64; N]; N], mut b: [f64; N]) -> Option<[f64; N]> {
    for i in 0..N {
        let p = (i..N).max_by(|x, y| a[*x][i].abs().total_cmp(&a[*y][i].abs()))?;
        a.swap(i, p);
        b.swap(i, p);
        if a[i][i].abs() < 1e-12 {
            return None;
        }
        let (pivot, right) = (a[i], b[i]);
        for j in (0..N).filter(|j| *j != i) {
            let f = a[j][i] / pivot[i];
            a[j].iter_mut().zip(&pivot).skip(i).for_each(|(v, p)| *v -= f * p);
            b[j] -= f * right;
        }
    }
    Some(std::array::from_fn(|i| b[i] / a[i][i]))
}

/// What stays by hand (`core/ink/src/fairing.rs`): four unknowns, two right sides, without exchange.
fn positive(mut a: [[f64; 4]; 4], mut b: [[f64; 2]; 4]) -> [[f64; 2]; 4] {
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

fn cholesky(a: [[f64; 4]; 4], b: [[f64; 2]; 4]) -> [[f64; 2]; 4] {
    let right = SMatrix::<f64, 4, 2>::from_fn(|i, j| b[i][j]);
    let found = SMatrix::<f64, 4, 4>::from_fn(|i, j| a[i][j]).cholesky().map_or(right, |c| c.solve(&right));
    std::array::from_fn(|i| [found[(i, 0)], found[(i, 1)]])
}

/// The sheet's place by the normal equations.
fn normal_equations(pairs: &[([f64; 2], [f64; 2])]) -> Option<[f64; 9]> {
    let (mm, px) = (200.0, 4000.0);
    let (mut a, mut b) = ([[0.0; 8]; 8], [0.0; 8]);
    for (m, p) in pairs {
        let (x, y, u, v) = (m[0] / mm, m[1] / mm, p[0] / px, p[1] / px);
        for (row, right) in [([x, y, 1.0, 0.0, 0.0, 0.0, -u * x, -u * y], u), ([0.0, 0.0, 0.0, x, y, 1.0, -v * x, -v * y], v)] {
            for i in 0..8 {
                (0..8).for_each(|j| a[i][j] += row[i] * row[j]);
                b[i] += row[i] * right;
            }
        }
    }
    let s = eliminated(a, b)?;
    Some([s[0] * px / mm, s[1] * px / mm, s[2] * px, s[3] * px / mm, s[4] * px / mm, s[5] * px, s[6] / mm, s[7] / mm, 1.0])
}

/// The normal distribution by a polynomial (Abramowitz and Stegun 7.1.26, error under 1.5e-7).
fn polynomial_phi(z: f64) -> f64 {
    let x = z.abs() / std::f64::consts::SQRT_2;
    let t = 1.0 / (1.0 + 0.327_591_1 * x);
    let poly = t * (0.254_829_592 + t * (-0.284_496_736 + t * (1.421_413_741 + t * (-1.453_152_027 + t * 1.061_405_429))));
    let erf = 1.0 - poly * (-x * x).exp();
    if z < 0.0 { 0.5 * (1.0 - erf) } else { 0.5 * (1.0 + erf) }
}

/// Power of each bin by the sum that defines it.
fn summed_spectrum(v: &[f64]) -> Vec<f64> {
    let n = v.len();
    let bin = |k: usize| {
        let (re, im) = v.iter().enumerate().fold((0.0, 0.0), |a, (i, x)| {
            let (s, c) = (TAU * (k * i % n) as f64 / n as f64).sin_cos();
            (a.0 + x * c, a.1 - x * s)
        });
        re * re + im * im
    };
    (1..=(n - 1) / 2).map(bin).collect()
}

fn fast_spectrum(v: &[f64]) -> Vec<f64> {
    let mut bins: Vec<Complex<f64>> = v.iter().map(|x| Complex::new(*x, 0.0)).collect();
    FftPlanner::new().plan_fft_forward(v.len()).process(&mut bins);
    bins[1..=(v.len() - 1) / 2].iter().map(Complex::norm_sqr).collect()
}

/// Groups by hand: the lower number leads, paths halved on the way.
fn halved_groups(n: usize, joins: &[(u32, u32)]) -> usize {
    fn root(parent: &mut [u32], mut i: u32) -> u32 {
        while parent[i as usize] != i {
            parent[i as usize] = parent[parent[i as usize] as usize];
            i = parent[i as usize];
        }
        i
    }
    let mut parent: Vec<u32> = (0..n as u32).collect();
    for (a, b) in joins {
        let (p, q) = (root(&mut parent, *a), root(&mut parent, *b));
        parent[p.max(q) as usize] = p.min(q);
    }
    (0..n as u32).filter(|i| root(&mut parent, *i) == *i).count()
}

fn crate_groups(n: usize, joins: &[(u32, u32)]) -> usize {
    let mut joined = UnionFind::<u32>::new(n);
    for (a, b) in joins {
        joined.union(*a, *b);
    }
    (0..n as u32).filter(|i| joined.find_mut(*i) == *i).count()
}

/// A password's address decoded by hand.
fn unescaped(text: &str) -> String {
    let bytes = text.as_bytes();
    let (mut out, mut i) = (Vec::new(), 0);
    while i < bytes.len() {
        let code = (bytes[i] == b'%').then(|| text.get(i + 1..i + 3).and_then(|h| u8::from_str_radix(h, 16).ok())).flatten();
        out.push(code.unwrap_or(bytes[i]));
        i += if code.is_some() { 3 } else { 1 };
    }
    String::from_utf8_lossy(&out).into_owned()
}

pub fn run() {
    let v = numbers(4096);
    let mut a: [[f64; 8]; 8] = std::array::from_fn(|i| std::array::from_fn(|j| v[8 * i + j]));
    (0..8).for_each(|i| a[i][i] += 8.0);
    let b: [f64; 8] = std::array::from_fn(|i| v[100 + i]);
    let far = apart(&eliminated(a, b).unwrap_or_default(), &solve(a, b).unwrap_or_default());
    row("eight unknowns (nalgebra)", 1000, || eliminated(black_box(a), black_box(b)), || solve(black_box(a), black_box(b)), far);

    // A cubic's normal equations over 40 samples.
    let mut four = [[0.0; 4]; 4];
    for u in (0..40).map(|k| f64::from(k) / 39.0) {
        let w = [(1.0 - u).powi(3), 3.0 * u * (1.0 - u).powi(2), 3.0 * u * u * (1.0 - u), u.powi(3)];
        (0..16).for_each(|k| four[k / 4][k % 4] += w[k / 4] * w[k % 4]);
    }
    let two: [[f64; 2]; 4] = std::array::from_fn(|i| [v[200 + i], v[210 + i]]);
    let far = apart(positive(four, two).as_flattened(), cholesky(four, two).as_flattened());
    row("stays by hand: a cubic's four points (nalgebra, Cholesky)", 1000, || positive(black_box(four), two), || cholesky(black_box(four), two), far);

    // A sheet's twelve finder squares, seen askew at 600 dpi.
    let seen = |x: f64, y: f64| {
        let w = 1.0 + 2e-5 * x - 1e-5 * y;
        [(23.6 * x + 0.4 * y + 120.0) / w, (-0.3 * x + 23.7 * y + 90.0) / w]
    };
    let pairs: Vec<([f64; 2], [f64; 2])> = (0..12)
        .map(|k| {
            let (x, y) = (if k % 4 < 2 { 8.0 } else { 190.0 } + f64::from(k / 4) * 7.0, if k % 2 == 0 { 9.0 } else { 280.0 } + f64::from(k % 3) * 5.0);
            ([x, y], seen(x, y))
        })
        .collect();
    let far = match (normal_equations(&pairs), homography(&pairs, true)) {
        (Some(n), Some(h)) => apart(&n, &h.h),
        _ => f64::NAN,
    };
    row("the sheet's place from 12 squares (nalgebra, singular values)", 100, || normal_equations(&pairs), || homography(&pairs, true).map(|p| p.h), far);

    let z: Vec<f64> = v.iter().map(|x| 5.0 * x).collect();
    let phi = |z: f64| 0.5 * libm::erfc(-z * std::f64::consts::FRAC_1_SQRT_2);
    let far = z.iter().map(|z| (polynomial_phi(*z) - phi(*z)).abs()).fold(0.0, f64::max);
    let sum = |f: &dyn Fn(f64) -> f64| z.iter().map(|z| f(*z)).sum::<f64>();
    row("4,096 of the normal distribution (libm; apart absolute)", 10, || sum(&polynomial_phi), || sum(&phi), far);

    for n in [200, 1000] {
        let part = &v[..n];
        let far = apart(&summed_spectrum(part), &fast_spectrum(part));
        row(&format!("the spectrum of {n} pressures (rustfft)"), 3, || summed_spectrum(part), || fast_spectrum(part), far);
    }

    // As many spans as a busy page of line art has, joined to the row above and now and then across.
    let n = 200_000u32;
    let joins: Vec<(u32, u32)> = (400..n).filter(|i| i % 7 != 0).flat_map(|i| [(i, i - 400), (i, if i % 5 == 0 { i - 1 } else { i - 400 })]).collect();
    let far = (halved_groups(n as usize, &joins) as f64 - crate_groups(n as usize, &joins) as f64).abs();
    row("200,000 spans into pieces (petgraph)", 1, || halved_groups(n as usize, &joins), || crate_groups(n as usize, &joins), far);

    let secret = "p%40ss%2Fw%6Frd-%C3%A4%20".repeat(4);
    let decoded = |s: &str| percent_encoding::percent_decode_str(s).decode_utf8_lossy().into_owned();
    let far = f64::from(u8::from(unescaped(&secret) != decoded(&secret)));
    row("a password of 100 letters (percent-encoding)", 100, || unescaped(&secret), || decoded(&secret), far);
}
