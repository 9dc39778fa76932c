//! Drift: an artist's lines growing heavier or thinner over the drawings, in the order drawn (methods.md, section 6).
//!
//! The slope is Theil and Sen's (H. Theil 1950; P. K. Sen, J. Am. Stat. Assoc. 63, 1968): the median of all pairs' slopes. Whether
//! there is one at all is Mann and Kendall's test with the variance corrected for autocorrelation (K. H. Hamed and A. R. Rao,
//! J. Hydrol. 204, 1998), and for how many artists and roles were tried (S. Holm, Scand. J. Stat. 6, 1979).

use std::collections::BTreeMap;

use eddymist_measure::stats::median;
use statrs::distribution::{ContinuousCDF, Normal};

use crate::{
    document::{DrawingCheck, FindingKind, SequenceFinding},
    guide::{LineGuide, Weight},
    team::inference::holm,
};

/// Fewer drawings say nothing of a drift.
const LEAST: usize = 6;
/// Surer than this.
const P: f64 = 0.01;
/// Autocorrelations beyond this level are taken as there.
const LAGS: f64 = 0.05;

/// A trend over equal steps: slope a step, and the probability of one as strong where there is none.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Trend {
    pub slope: f64,
    pub p: f64,
}

/// The trend of a series; none where it is too short.
pub fn trend(y: &[f64]) -> Option<Trend> {
    let n = y.len();
    if n < 4 || y.iter().any(|v| !v.is_finite()) {
        return None;
    }
    let pairs = || (0..n).flat_map(|i| (i + 1..n).map(move |j| (i, j)));
    let slope = median(&pairs().map(|(i, j)| (y[j] - y[i]) / (j - i) as f64).collect::<Vec<_>>())?;
    let s: f64 = pairs().map(|(i, j)| sign(y[j] - y[i])).sum();
    let m = n as f64;
    // Equal values take from the variance.
    let mut sorted = y.to_vec();
    sorted.sort_by(f64::total_cmp);
    let ties: f64 = sorted.chunk_by(|a, b| a == b).map(|c| c.len() as f64).map(|t| t * (t - 1.0) * (2.0 * t + 5.0)).sum();
    let variance = (m * (m - 1.0) * (2.0 * m + 5.0) - ties) / 18.0;
    // What is left without the trend, by ranks.
    let left = ranks(&y.iter().enumerate().map(|(i, v)| v - slope * (i as f64 + 1.0)).collect::<Vec<_>>());
    let normal = Normal::new(0.0, 1.0).ok()?;
    let counts = normal.inverse_cdf(1.0 - 0.5 * LAGS) / m.sqrt();
    let lags: f64 =
        (1..n).map(|k| (k as f64, autocorrelation(&left, k))).filter(|(_, r)| r.abs() > counts).map(|(k, r)| (m - k) * (m - k - 1.0) * (m - k - 2.0) * r).sum();
    let corrected = variance * (1.0 + 2.0 / (m * (m - 1.0) * (m - 2.0)) * lags);
    let z = if s == 0.0 || corrected <= 0.0 { 0.0 } else { (s - s.signum()) / corrected.sqrt() };
    Some(Trend { slope, p: 2.0 * normal.sf(z.abs()) })
}

fn sign(v: f64) -> f64 {
    if v == 0.0 { 0.0 } else { v.signum() }
}

/// Ranks from 1; equal values share their mean rank.
fn ranks(v: &[f64]) -> Vec<f64> {
    let below = |x: f64| v.iter().filter(|o| **o < x).count() as f64;
    let equal = |x: f64| v.iter().filter(|o| **o == x).count() as f64;
    v.iter().map(|x| below(*x) + 0.5 * (equal(*x) + 1.0)).collect()
}

fn autocorrelation(v: &[f64], lag: usize) -> f64 {
    let mean = v.iter().sum::<f64>() / v.len() as f64;
    let square: f64 = v.iter().map(|x| (x - mean).powi(2)).sum();
    if square > 0.0 { v.iter().zip(&v[lag..]).map(|(a, b)| (a - mean) * (b - mean)).sum::<f64>() / square } else { 0.0 }
}

/// Every artist and role whose weight drifts by more than half the tolerance. Drawings come in the order drawn; where the manifest
/// says when each was drawn, by that.
pub fn drifts(guide: &LineGuide, drawings: &[DrawingCheck]) -> Vec<SequenceFinding> {
    if guide.off.contains(&FindingKind::Drift) {
        return Vec::new();
    }
    let mut by_artist: BTreeMap<&str, Vec<&DrawingCheck>> = BTreeMap::new();
    for d in drawings {
        if let Some(artist) = d.manifest.get("artist").filter(|a| !a.is_empty()) {
            by_artist.entry(artist).or_default().push(d);
        }
    }
    let mut tried = Vec::new();
    for (artist, mut own) in by_artist {
        if own.iter().all(|d| d.manifest.contains_key("drawn_at")) {
            own.sort_by_key(|d| d.manifest.get("drawn_at").cloned());
        }
        for role in guide.roles.iter().filter(|r| r.judge) {
            let Some(weight) = role.weight_px else { continue };
            let (files, y): (Vec<String>, Vec<f64>) = own
                .iter()
                .filter_map(|d| {
                    let w = d.roles.iter().find(|r| r.role == role.name)?.weight_px?;
                    Some((d.file.clone(), w.mean / (d.scale * d.shot_factor)))
                })
                .unzip();
            tried.push((artist, role, weight, files, y));
        }
    }
    let held = hold(&tried.iter().map(|t| (t.2, t.4.as_slice())).collect::<Vec<_>>());
    tried
        .into_iter()
        .zip(held)
        .filter_map(|((artist, role, weight, files, y), change)| {
            let change = change?;
            let limit = limit(&weight);
            let word = if change > 0.0 { "heavier" } else { "thinner" };
            Some(SequenceFinding {
                kind: FindingKind::Drift,
                role: role.name.clone(),
                artist: Some(artist.to_string()),
                message: format!("{artist}: {} drifts {:.2} px {word} over {} drawings, more than {limit:.2}", role.name, change.abs(), y.len()),
                drawings: files,
                value: change.abs(),
                limit,
            })
        })
        .collect()
}

/// A drift counts from half the tolerance on.
fn limit(weight: &Weight) -> f64 {
    0.5 * weight.tolerance * weight.target
}

/// What each series has drifted by over its length, px; none where it does not drift. All series tried are given together, since the
/// test is corrected for their number (Holm).
pub fn hold(series: &[(Weight, &[f64])]) -> Vec<Option<f64>> {
    let trends: Vec<Option<Trend>> = series.iter().map(|(_, y)| if y.len() < LEAST { None } else { trend(y) }).collect();
    let tried: Vec<usize> = (0..series.len()).filter(|k| trends[*k].is_some()).collect();
    let sure = holm(&tried.iter().filter_map(|k| trends[*k].map(|t| t.p)).collect::<Vec<_>>());
    let mut out = vec![None; series.len()];
    for (k, p) in tried.into_iter().zip(sure) {
        let change = trends[k].map_or(0.0, |t| t.slope * (series[k].1.len() - 1) as f64);
        out[k] = (p < P && change.abs() > limit(&series[k].0)).then_some(change);
    }
    out
}
