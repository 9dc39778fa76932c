//! The parts of a role's variance: artist, drawing within artist, line within drawing; nested and unbalanced, by restricted maximum
//! likelihood (H. D. Patterson and R. Thompson, Biometrika 58, 1971; S. R. Searle, G. Casella, C. E. McCulloch, Variance Components,
//! 1992). Intervals are of the profile likelihood: few artists give wide ones.
//!
//! For given variances the likelihood of a nested table is closed: each drawing counts by its number of lines, its mean and the squares
//! within it, so that one look at it costs a step a drawing.

use schemars::JsonSchema;
use serde::Serialize;

/// 95 % of χ² with one degree of freedom.
const CHI2_95: f64 = 3.841_458_820_694_124;
/// An upper end further than this many times the whole spread is none.
const FAR: f64 = 60.0;

/// A standard deviation with its interval; the upper end is absent where the drawings do not bound it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, JsonSchema)]
#[schemars(rename = "VariancePart")]
pub struct Component {
    pub sd_px: f64,
    pub low_px: f64,
    pub high_px: Option<f64>,
}

/// The parts of a role's variance.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Variance {
    pub mean_px: f64,
    pub artist: Component,
    pub drawing: Component,
    pub line: Component,
    /// A line's whole spread as it is, and as it would be if all artists' means were the same.
    pub whole_px: f64,
    pub calibrated_px: f64,
    pub artists: usize,
    pub drawings: usize,
    pub lines: usize,
}

/// The drawings of every artist; drawings of as many lines weigh the same, so that what goes by it is worked out once.
struct Table {
    counts: Vec<f64>,
    artists: Vec<Vec<Cell>>,
}

/// A drawing's lines as the likelihood needs them.
#[derive(Debug, Clone, Copy)]
struct Cell {
    /// Place of its number of lines.
    count: usize,
    mean: f64,
    /// Squares about the mean.
    within: f64,
}

/// The parts of the variance of artists' drawings' lines' widths; the error says what is missing.
pub fn variance(artists: &[Vec<Vec<f64>>]) -> Result<Variance, &'static str> {
    let all: Vec<f64> = artists.iter().flatten().flatten().copied().collect();
    let n = all.len() as f64;
    let artists: Vec<Vec<&Vec<f64>>> = artists.iter().map(|a| a.iter().filter(|d| !d.is_empty()).collect::<Vec<_>>()).filter(|a| !a.is_empty()).collect();
    if artists.len() < 2 {
        return Err("it takes two artists at least to tell them from their drawings");
    }
    if artists.iter().all(|a| a.len() < 2) {
        return Err("no artist has two drawings: artist and drawing cannot be told apart");
    }
    if artists.iter().flatten().all(|d| d.len() < 2) {
        return Err("no drawing has two lines of this role: drawing and line cannot be told apart");
    }
    let origin = all.iter().sum::<f64>() / n;
    let scale = (all.iter().map(|v| (v - origin).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    if scale < 1e-9 {
        return Err("all lines weigh the same: there is no variance to divide");
    }
    let mut counts: Vec<usize> = artists.iter().flatten().map(|d| d.len()).collect();
    counts.sort_unstable();
    counts.dedup();
    let cell = |d: &&Vec<f64>| {
        let v: Vec<f64> = d.iter().map(|v| (v - origin) / scale).collect();
        let mean = v.iter().sum::<f64>() / v.len() as f64;
        Cell { count: counts.partition_point(|n| *n < v.len()), mean, within: v.iter().map(|x| (x - mean).powi(2)).sum() }
    };
    let cells = artists.iter().map(|a| a.iter().map(cell).collect()).collect();
    let table = Table { artists: cells, counts: counts.iter().map(|n| *n as f64).collect() };
    let whole = |s: [f64; 3]| deviance(&table, s).0;
    let (best, least) = minimise(&|s: &[f64]| whole([s[0], s[1], s[2]]), &[0.5, 0.4, 0.7]);
    let sds: Vec<f64> = best.iter().map(|s| s.abs()).collect();
    let parts: Vec<Component> = (0..3)
        .map(|k| {
            let above = |s: f64| {
                let others: Vec<f64> = (0..3).filter(|j| *j != k).map(|j| sds[j].max(0.05)).collect();
                let fixed = |o: &[f64]| {
                    whole(match k {
                        0 => [s, o[0], o[1]],
                        1 => [o[0], s, o[1]],
                        _ => [o[0], o[1], s],
                    })
                };
                minimise(&fixed, &others).1 - least - CHI2_95
            };
            let low = if above(1e-6) <= 0.0 { 0.0 } else { crossing(&above, sds[k], 1e-6) };
            let mut far = sds[k].max(0.05);
            while far < FAR && above(far) <= 0.0 {
                far *= 1.6;
            }
            let high = (far < FAR).then(|| crossing(&above, sds[k], far));
            Component { sd_px: sds[k] * scale, low_px: low * scale, high_px: high.map(|h| h * scale) }
        })
        .collect();
    let square = |p: Component| p.sd_px * p.sd_px;
    Ok(Variance {
        mean_px: origin + scale * deviance(&table, [sds[0], sds[1], sds[2]]).1,
        artist: parts[0],
        drawing: parts[1],
        line: parts[2],
        whole_px: parts.iter().map(|p| square(*p)).sum::<f64>().sqrt(),
        calibrated_px: (square(parts[1]) + square(parts[2])).sqrt(),
        artists: table.artists.len(),
        drawings: table.artists.iter().map(Vec::len).sum(),
        lines: all.len(),
    })
}

/// For given standard deviations: what each number of lines weighs, and its share of the deviance.
fn precisions(counts: &[f64], [_, b, e]: [f64; 3]) -> Vec<(f64, f64)> {
    let (vb, ve) = (b * b, (e * e).max(1e-12));
    counts.iter().map(|n| (n / (ve + n * vb), (n - 1.0) * ve.ln() + (ve + n * vb).ln())).collect()
}

/// Precision of an artist's mean and the mean itself, with what the artist adds to the deviance.
fn artist(cells: &[Cell], of: &[(f64, f64)], [a, _, e]: [f64; 3]) -> (f64, f64, f64) {
    let (va, ve) = (a * a, (e * e).max(1e-12));
    let (mut sum, mut of_mean, mut of_square, mut dev, mut within) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for c in cells {
        let (precision, share) = of[c.count];
        sum += precision;
        of_mean += precision * c.mean;
        of_square += precision * c.mean * c.mean;
        dev += share;
        within += c.within;
    }
    let mean = of_mean / sum;
    dev += within / ve + (of_square - mean * of_mean) + (1.0 + va * sum).ln();
    (sum / (1.0 + va * sum), mean, dev)
}

/// −2 times the restricted log-likelihood, but for a constant, and the general mean.
fn deviance(table: &Table, s: [f64; 3]) -> (f64, f64) {
    let of = precisions(&table.counts, s);
    let all: Vec<(f64, f64, f64)> = table.artists.iter().map(|c| artist(c, &of, s)).collect();
    let weight: f64 = all.iter().map(|a| a.0).sum();
    let middle = all.iter().map(|a| a.0 * a.1).sum::<f64>() / weight;
    (all.iter().map(|a| a.2 + a.0 * (a.1 - middle).powi(2)).sum::<f64>() + weight.ln(), middle)
}

/// Where a function that rises away from `inside` (where it is below 0) crosses 0 towards `outside`.
fn crossing(f: &impl Fn(f64) -> f64, inside: f64, outside: f64) -> f64 {
    let (mut a, mut b) = (inside, outside);
    for _ in 0..18 {
        let middle = 0.5 * (a + b);
        if f(middle) <= 0.0 { a = middle } else { b = middle }
    }
    0.5 * (a + b)
}

/// The least value of a function and where, by a simplex (J. A. Nelder and R. Mead, Computer Journal 7, 1965) that is begun anew once
/// from where it came to rest.
fn minimise(f: &dyn Fn(&[f64]) -> f64, start: &[f64]) -> (Vec<f64>, f64) {
    let mut from = start.to_vec();
    let mut least = f64::INFINITY;
    for step in [0.35, 0.08] {
        (from, least) = simplex(f, &from, step);
    }
    (from, least)
}

fn simplex(f: &dyn Fn(&[f64]) -> f64, start: &[f64], step: f64) -> (Vec<f64>, f64) {
    let n = start.len();
    let mut at: Vec<(Vec<f64>, f64)> = (0..=n)
        .map(|k| {
            let mut p = start.to_vec();
            if k > 0 {
                p[k - 1] += step;
            }
            let v = f(&p);
            (p, v)
        })
        .collect();
    for _ in 0..400 {
        at.sort_by(|a, b| a.1.total_cmp(&b.1));
        let size = at[1..].iter().flat_map(|p| p.0.iter().zip(&at[0].0).map(|(a, b)| (a - b).abs())).fold(0.0, f64::max);
        if at[n].1 - at[0].1 < 1e-10 && size < 1e-6 {
            break;
        }
        let centre: Vec<f64> = (0..n).map(|k| at[..n].iter().map(|p| p.0[k]).sum::<f64>() / n as f64).collect();
        let along = |t: f64| {
            let p: Vec<f64> = centre.iter().zip(&at[n].0).map(|(c, w)| c + t * (w - c)).collect();
            let v = f(&p);
            (p, v)
        };
        let mirrored = along(-1.0);
        let new = if mirrored.1 < at[0].1 {
            let further = along(-2.0);
            if further.1 < mirrored.1 { further } else { mirrored }
        } else if mirrored.1 < at[n - 1].1 {
            mirrored
        } else {
            let nearer = along(if mirrored.1 < at[n].1 { -0.5 } else { 0.5 });
            if nearer.1 < at[n].1.min(mirrored.1) {
                nearer
            } else {
                let best = at[0].0.clone();
                for p in &mut at[1..] {
                    p.0.iter_mut().zip(&best).for_each(|(v, b)| *v = 0.5 * (*v + b));
                    p.1 = f(&p.0);
                }
                continue;
            }
        };
        at[n] = new;
    }
    at.sort_by(|a, b| a.1.total_cmp(&b.1));
    at.swap_remove(0)
}
