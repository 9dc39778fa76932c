//! Drift: an artist's lines growing heavier or thinner over the drawings, in the order drawn (methods.md, section 6).
//!
//! The slope is Theil and Sen's (H. Theil 1950; P. K. Sen, J. Am. Stat. Assoc. 63, 1968): the median of all pairs' slopes. Whether
//! there is one at all is Mann and Kendall's test with the variance corrected for autocorrelation (K. H. Hamed and A. R. Rao,
//! J. Hydrol. 204, 1998), and for how many artists and roles were tried (S. Holm, Scand. J. Stat. 6, 1979).

use std::collections::BTreeMap;

use eddymist_measure::stats::{mean_sd, median};
use statrs::distribution::{ContinuousCDF, Normal};

use crate::{
    document::{DrawingCheck, FindingKind, Manifest, SequenceFinding, Verdict},
    guide::{LineGuide, Weight},
    summary::Summary,
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

/// The weights of one artist's lines of one role, over their drawings in the order drawn, px of the page.
#[derive(Debug, Clone, PartialEq)]
pub struct Series {
    pub artist: String,
    pub role: String,
    pub weight: Weight,
    pub files: Vec<String>,
    pub means: Vec<f64>,
}

/// All series of some drawings, which come in the order drawn; where the manifest says when each was drawn, by that.
pub fn series(guide: &LineGuide, drawings: &[DrawingCheck]) -> Vec<Series> {
    let mut by_artist: BTreeMap<&str, Vec<&DrawingCheck>> = BTreeMap::new();
    for d in drawings {
        if let Some(artist) = d.manifest.get("artist").filter(|a| !a.is_empty()) {
            by_artist.entry(artist).or_default().push(d);
        }
    }
    let mut out = Vec::new();
    for (artist, mut own) in by_artist {
        if own.iter().all(|d| d.manifest.contains_key("drawn_at")) {
            own.sort_by_key(|d| d.manifest.get("drawn_at").cloned());
        }
        for role in guide.roles.iter().filter(|r| r.judge) {
            let Some(weight) = role.weight_px else { continue };
            let (files, means) = own
                .iter()
                .filter_map(|d| {
                    let found = d.roles.iter().find(|r| r.role == role.name && r.verdict != Some(Verdict::NotChecked))?;
                    Some((d.file.clone(), found.weight_px?.mean / (d.scale * d.shot_factor)))
                })
                .unzip();
            out.push(Series { artist: artist.into(), role: role.name.clone(), weight, files, means });
        }
    }
    out
}

/// The same of drawings in short, as a page has them: by their medians.
pub fn of_summaries<'a>(guide: &LineGuide, drawings: impl Iterator<Item = (&'a str, &'a Manifest, &'a Summary)>) -> Vec<Series> {
    if guide.off.contains(&FindingKind::Drift) {
        return Vec::new();
    }
    let mut found: BTreeMap<(&str, usize), Series> = BTreeMap::new();
    for (file, manifest, summary) in drawings {
        let Some(artist) = manifest.get("artist").filter(|a| !a.is_empty()) else { continue };
        for lane in summary.lanes.iter().filter(|l| l.verdict.is_some_and(|v| v != Verdict::NotChecked)) {
            let Some((role, weight)) = guide.roles.get(lane.role).filter(|r| r.judge).and_then(|r| Some((r, r.weight_px?))) else { continue };
            let empty = || Series { artist: artist.clone(), role: role.name.clone(), weight, files: Vec::new(), means: Vec::new() };
            let own = found.entry((artist, lane.role)).or_insert_with(empty);
            own.files.push(file.into());
            own.means.push(lane.median);
        }
    }
    found.into_values().collect()
}

/// Every artist and role whose weight drifts by more than half the tolerance.
pub fn drifts(guide: &LineGuide, drawings: &[DrawingCheck]) -> Vec<SequenceFinding> {
    if guide.off.contains(&FindingKind::Drift) {
        return Vec::new();
    }
    let tried = series(guide, drawings);
    let held = hold(&tried.iter().map(|t| (t.weight, t.means.as_slice())).collect::<Vec<_>>());
    tried
        .into_iter()
        .zip(held)
        .filter_map(|(t, change)| {
            let change = change?;
            let limit = limit(&t.weight);
            let word = if change > 0.0 { "heavier" } else { "thinner" };
            Some(SequenceFinding {
                kind: FindingKind::Drift,
                message: format!("{}: {} drifts {:.2} px {word} over {} drawings (limit {limit:.2} px)", t.artist, t.role, change.abs(), t.means.len()),
                role: t.role,
                artist: Some(t.artist),
                drawings: t.files,
                value: change.abs(),
                limit,
            })
        })
        .collect()
}

/// What cannot be said of drift: too few drawings of an artist to see a drift of the whole tolerance, and drawings whose artist is not known.
pub fn unsaid(tried: &[Series]) -> Vec<String> {
    let held = hold(&tried.iter().map(|t| (t.weight, t.means.as_slice())).collect::<Vec<_>>());
    let tries = tried.iter().filter(|t| t.means.len() >= LEAST).count().max(1);
    let mut by_artist: BTreeMap<&str, (usize, usize, Vec<&str>)> = BTreeMap::new();
    for (t, _) in tried.iter().zip(held).filter(|(t, found)| found.is_none() && !t.means.is_empty()) {
        let Some(needed) = needed(t, tries) else { continue };
        let entry = by_artist.entry(&t.artist).or_default();
        (entry.0, entry.1) = (entry.0.max(t.means.len()), entry.1.max(needed));
        entry.2.push(&t.role);
    }
    let says = |(artist, (n, needed, roles)): (&str, (usize, usize, Vec<&str>))| {
        let drawings = if n == 1 { "1 drawing is".into() } else { format!("{n} drawings are") };
        let enough = if needed > MOST_NEEDED { "their weights vary too much".into() } else { format!("about {needed} would do") };
        let which = if roles.len() > 2 { format!("any of {} roles", roles.len()) } else { roles.join(" or ") };
        format!("{artist}: {drawings} too few to say whether {which} drifts by the whole tolerance ({enough})")
    };
    by_artist.into_iter().map(says).collect()
}

/// How many drawings a series needs for a drift of the whole tolerance to be found four times in five, where it has fewer.
///
/// The expected sum of signs over a straight drift with independent noise of the series' own spread about its trend, against what the test
/// with its correction asks.
fn needed(t: &Series, tries: usize) -> Option<usize> {
    let drift = t.weight.tolerance * t.weight.target;
    let spread = about_trend(&t.means).max(0.005 * t.weight.target);
    let normal = Normal::new(0.0, 1.0).ok()?;
    let asked = normal.inverse_cdf(1.0 - 0.5 * P / tries as f64) + normal.inverse_cdf(POWER);
    let tells = |n: usize| {
        let each = |gap: usize| 2.0 * normal.cdf(gap as f64 / (n - 1) as f64 * drift / spread / 2f64.sqrt()) - 1.0;
        let signs: f64 = (1..n).map(|gap| (n - gap) as f64 * each(gap)).sum();
        let m = n as f64;
        (signs - 1.0) / (m * (m - 1.0) * (2.0 * m + 5.0) / 18.0).sqrt() >= asked
    };
    let n = t.means.len();
    if n >= LEAST && tells(n) {
        return None;
    }
    Some((n.max(LEAST)..=MOST_NEEDED).find(|n| tells(*n)).unwrap_or(MOST_NEEDED + 1))
}

/// A drift is found so often where a series is called long enough.
const POWER: f64 = 0.8;
const MOST_NEEDED: usize = 60;

/// The standard deviation about a series' trend; 0 of fewer than three values.
fn about_trend(y: &[f64]) -> f64 {
    let slope = trend(y).map_or(0.0, |t| t.slope);
    let left: Vec<f64> = y.iter().enumerate().map(|(i, v)| v - slope * i as f64).collect();
    mean_sd(&left).map_or(0.0, |m| m.1)
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
