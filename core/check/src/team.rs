//! A first look at the team: each artist's mean weight by role over the drawings given, and who stands outside.

use std::collections::BTreeMap;

use eddymist_measure::stats::mean_sd;
use schemars::JsonSchema;
use serde::Serialize;

use crate::{document::DrawingCheck, guide::LineGuide};

/// One artist in one role: the mean of their drawings' means, at the page's scale.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Standing {
    pub artist: String,
    pub role: String,
    pub drawings: usize,
    pub mean_px: f64,
    /// 95 % over the drawings; absent for fewer than three.
    pub interval: Option<[f64; 2]>,
}

/// Standings of all artists, by artist and in the guide's order of roles.
pub fn standings(guide: &LineGuide, drawings: &[DrawingCheck]) -> Vec<Standing> {
    let mut means: BTreeMap<(String, usize), Vec<f64>> = BTreeMap::new();
    for d in drawings {
        let Some(artist) = d.manifest.get("artist") else {
            continue;
        };
        for (k, role) in guide.roles.iter().enumerate().filter(|(_, r)| r.judge) {
            if let Some(w) = d.roles.iter().find(|r| r.role == role.name).and_then(|r| r.weight_px) {
                means.entry((artist.clone(), k)).or_default().push(w.mean / (d.scale * d.shot_factor));
            }
        }
    }
    means
        .into_iter()
        .filter_map(|((artist, k), m)| {
            let (mean, sd) = mean_sd(&m)?;
            let n = m.len() as f64;
            let t =
                statrs::distribution::StudentsT::new(0.0, 1.0, (n - 1.0).max(1.0)).map(|t| statrs::distribution::ContinuousCDF::inverse_cdf(&t, 0.975)).ok()?;
            let half = t * sd / n.sqrt();
            Some(Standing {
                artist,
                role: guide.roles[k].name.clone(),
                drawings: m.len(),
                mean_px: mean,
                interval: (m.len() >= 3).then_some([mean - half, mean + half]),
            })
        })
        .collect()
}

/// A sentence for each artist whose interval lies outside the tolerance in some role.
pub fn sentences(guide: &LineGuide, standings: &[Standing]) -> Vec<String> {
    let mut out: Vec<(&str, [Vec<String>; 2], usize)> = Vec::new();
    for s in standings {
        let (Some(weight), Some([a, b])) = (guide.roles.iter().find(|r| r.name == s.role).and_then(|r| r.weight_px), s.interval) else { continue };
        let [lo, hi] = weight.band();
        if a <= hi && b >= lo {
            continue;
        }
        if out.last().is_none_or(|o| o.0 != s.artist) {
            out.push((&s.artist, Default::default(), 0));
        }
        if let Some((_, sides, drawings)) = out.last_mut() {
            sides[usize::from(a <= hi)].push(format!("{} {:.1} px", s.role, (s.mean_px - weight.target).abs()));
            *drawings = s.drawings.max(*drawings);
        }
    }
    out.into_iter()
        .map(|(artist, sides, drawings)| {
            let said: Vec<String> =
                sides.iter().zip(["heavy", "thin"]).filter(|(s, _)| !s.is_empty()).map(|(s, side)| format!("{} {side}", listed(s))).collect();
            format!("{artist}: {} over {drawings} drawings", said.join("; "))
        })
        .collect()
}

fn listed(parts: &[String]) -> String {
    match parts {
        [first @ .., last] if !first.is_empty() => format!("{} and {last}", first.join(", ")),
        _ => parts.concat(),
    }
}
