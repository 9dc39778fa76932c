//! The working behind one group's weight in one role: its drawings in their order, the charts, capability, possible causes, the correction.
//!
//! Nothing is computed here: each part is its own room's, put together for one page.

use schemars::JsonSchema;
use serde::Serialize;

use super::{
    capability::{Capability, capability},
    chart::{Chart, chart},
    entries::{By, Entry},
    fits::{Fit, ProfileKnown, fits},
    standing::{GroupWeight, TeamLook, grouped, series},
    trim::{Trim, trim},
};
use crate::{
    document::Verdict,
    guide::{LineGuide, Weight},
};

/// One drawing on the charts.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Point {
    pub id: String,
    pub file: String,
    pub delivery: String,
    pub day: String,
    pub tablet: Option<String>,
    pub brush: Option<String>,
    pub mean_px: f64,
    pub p10_px: f64,
    pub p90_px: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Working {
    pub name: String,
    pub role: String,
    pub weight: Weight,
    pub standing: GroupWeight,
    pub points: Vec<Point>,
    /// Of all drawings; where the series changes, on both sides of the change.
    pub charts: Vec<ChartSide>,
    pub capability: Option<Capability>,
    /// Of artists only.
    pub fits: Vec<Fit>,
    /// Where an artist is heavy or thin.
    pub trim: Option<Trim>,
}

/// The charts of drawings between which nothing changes: each side has its own middle and limits.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct ChartSide {
    /// The place of its first drawing among all, and how many it has.
    pub from: usize,
    pub drawings: usize,
    /// Absent with fewer than five drawings, or where they are all the same.
    pub chart: Option<Chart>,
}

/// The working of a group in a role; none where it never drew that role.
pub fn working(guide: &LineGuide, team: &TeamLook, entries: &[Entry], profiles: &[ProfileKnown], name: &str, role: &str) -> Option<Working> {
    let look = team.roles.iter().find(|r| r.role == role)?;
    let standing = look.standings.iter().find(|s| s.name == name)?.clone();
    let groups = grouped(entries, team.by);
    let (seen, y) = series(groups.get(name)?, role);
    let points = seen.iter().filter_map(|e| {
        let r = e.role(role)?;
        let at = |q: f64| super::standing::at_share(&r.widths_px, q).unwrap_or(r.mean_px);
        Some(Point {
            id: e.id.clone(),
            file: e.file.clone(),
            delivery: e.delivery.clone(),
            day: e.day().to_string(),
            tablet: e.known("tablet").map(str::to_string),
            brush: e.known("brush").map(str::to_string),
            mean_px: r.mean_px,
            p10_px: at(0.1),
            p90_px: at(0.9),
        })
    });
    let of_an_artist = team.by == By::Artist;
    let off = matches!(standing.verdict, Some(Verdict::Heavy | Verdict::Thin)) || standing.drift_px.is_some();
    // Capability and trim are of the drawings since the last change; the correction's shape of the others who are within.
    let since = standing.since.as_ref().map_or(0, |s| seen.iter().position(|e| e.id == s.id).unwrap_or(0));
    let within: Vec<&Entry> = look
        .standings
        .iter()
        .filter(|s| s.name != name && s.verdict == Some(Verdict::Within) && s.drift_px.is_none() && s.since.is_none())
        .filter_map(|s| groups.get(s.name.as_str()))
        .flatten()
        .copied()
        .collect();
    Some(Working {
        name: name.into(),
        role: role.into(),
        weight: look.weight,
        points: points.collect(),
        charts: [(0, since), (since, y.len())]
            .into_iter()
            .filter(|(from, to)| to > from)
            .map(|(from, to)| ChartSide { from, drawings: to - from, chart: chart(&y[from..to]) })
            .collect(),
        capability: capability(&y[since..], look.weight.band()),
        fits: if of_an_artist && off { fits(guide, team, entries, profiles, name, role) } else { Vec::new() },
        trim: if of_an_artist && off { trim(&look.weight, role, &seen[since..], &within) } else { None },
        standing,
    })
}
