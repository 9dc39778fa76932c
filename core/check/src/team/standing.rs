//! Who stands where: each artist's (tablet's, brush's) weight by role with its interval, since when, and the sentences that come of it.
//!
//! How: one-sided tests against the tolerance's sides, and the swell's, corrected over all that was tried (Holm). Limits: fewer than three drawings
//! say nothing of an artist; a steady drift is said as a drift, not as a change.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::Serialize;

use super::{
    change::change,
    entries::{By, Entry, in_order},
    inference::{Mean, holm, mean_of, t_above, welch},
    variance::{Variance, variance},
};
use crate::{
    document::Verdict,
    drift,
    guide::{LineGuide, Weight},
};

/// How sure a sentence is, over all groups and roles together (Holm).
const P: f64 = 0.05;
/// How sure a change is before it is said.
const CHANGE_P: f64 = 0.05;
/// Roles said with their figures in a sentence; the others are named.
const SAID: usize = 2;
/// Fewer drawings say nothing of an artist.
const FEW: usize = 3;
/// Pairs that are shown at most, the surest first.
const PAIRS: usize = 40;

/// A team's drawings by one of their columns, role by role.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct TeamLook {
    pub by: By,
    pub drawings: usize,
    /// Drawings that do not say who, on what, or with what.
    pub not_known: usize,
    pub groups: Vec<String>,
    pub sentences: Vec<Sentence>,
    pub roles: Vec<RoleLook>,
}

/// One who differs, in a sentence.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Sentence {
    pub name: String,
    pub says: String,
    /// The roles that it is of, the worst first.
    pub roles: Vec<String>,
}

#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct RoleLook {
    pub role: String,
    pub weight: Weight,
    pub standings: Vec<GroupWeight>,
    /// Pairs whose means differ, corrected for all pairs of the role (Holm), p < 0.05.
    pub pairs: Vec<Pair>,
    pub pairs_tried: usize,
    pub variance: Option<Variance>,
    /// Why the variance is not parted.
    pub no_variance: Option<String>,
}

/// One group in one role, px at the page's size.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
#[schemars(rename = "TeamStanding")]
pub struct GroupWeight {
    pub name: String,
    pub drawings: usize,
    /// Over all drawings.
    pub mean_px: f64,
    pub interval_px: Option<[f64; 2]>,
    /// Over the drawings since the last change; the same as above where there is none.
    pub now_px: f64,
    pub now_interval_px: Option<[f64; 2]>,
    /// Absent where there are too few drawings to say.
    pub verdict: Option<Verdict>,
    pub since: Option<Since>,
    /// What the weight has grown by over the drawings, where it drifts.
    pub drift_px: Option<f64>,
}

/// A change of the mean along the drawings.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Since {
    /// The first drawing after it.
    pub id: String,
    pub file: String,
    pub day: String,
    pub drawings: usize,
    pub before_px: f64,
    pub p: f64,
    /// What the drawings since have in common that those before had not: the tablet or the brush.
    pub with: Option<String>,
}

/// Two groups whose means differ.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Pair {
    pub a: String,
    pub b: String,
    /// a − b.
    pub difference_px: f64,
    pub interval_px: [f64; 2],
    /// Corrected.
    pub p: f64,
}

/// The drawings of every group, each in the order drawn.
pub fn grouped(entries: &[Entry], by: By) -> BTreeMap<&str, Vec<&Entry>> {
    let mut out: BTreeMap<&str, Vec<&Entry>> = BTreeMap::new();
    for e in entries {
        if let Some(name) = e.known(by.name()) {
            out.entry(name).or_default().push(e);
        }
    }
    out.values_mut().for_each(|g| in_order(g));
    out
}

/// A group's drawings that show a role, and its weight in each.
pub fn series<'a>(group: &[&'a Entry], role: &str) -> (Vec<&'a Entry>, Vec<f64>) {
    group.iter().filter_map(|e| e.role(role).map(|r| (*e, r.mean_px))).unzip()
}

/// Everything about a team's drawings against a guide.
pub fn look(guide: &LineGuide, entries: &[Entry], by: By) -> TeamLook {
    let groups = grouped(entries, by);
    let judged: Vec<(&str, Weight)> = guide.roles.iter().filter(|r| r.judge).filter_map(|r| Some((r.name.as_str(), r.weight_px?))).collect();
    let mut tried: Vec<Tried> = Vec::new();
    for (role, (name, weight)) in judged.iter().enumerate() {
        for (group, own) in &groups {
            let (seen, y) = series(own, name);
            if let Some(all) = mean_of(&y) {
                tried.push(Tried::new(role, group, (name, weight), &seen, y, all));
            }
        }
    }
    let p: Vec<f64> = tried.iter().map(|t| t.p.map_or(1.0, |p| p.1)).collect();
    let sure = holm(&p);
    let drifts = drift::hold(&tried.iter().map(|t| (judged[t.role].1, t.y.as_slice())).collect::<Vec<_>>());
    let mut roles: Vec<RoleLook> = judged
        .iter()
        .map(|(name, weight)| {
            let (pairs, pairs_tried) = pairs(&groups, name);
            let parted = variance(&groups.values().map(|g| g.iter().filter_map(|e| e.role(name)).map(|r| r.lines_px.clone()).collect()).collect::<Vec<_>>());
            let (variance, why) = parted.map_or_else(|e| (None, Some(e.to_string())), |v| (Some(v), None));
            RoleLook { role: (*name).into(), weight: *weight, standings: Vec::new(), pairs, pairs_tried, variance, no_variance: why }
        })
        .collect();
    for ((t, sure), drift) in tried.into_iter().zip(sure).zip(drifts) {
        let role = t.role;
        roles[role].standings.push(t.standing(sure, drift));
    }
    let sentences = sentences(&groups, &roles);
    let known: usize = groups.values().map(Vec::len).sum();
    TeamLook { by, drawings: entries.len(), not_known: entries.len() - known, groups: groups.keys().map(|g| (*g).to_string()).collect(), sentences, roles }
}

/// A group in a role before all are corrected for one another.
struct Tried<'a> {
    role: usize,
    name: &'a str,
    weight: Weight,
    y: Vec<f64>,
    all: Mean,
    now: Mean,
    since: Option<Since>,
    /// On which side of the tolerance it lies, and the chance of lying as far out from within.
    p: Option<(Verdict, f64)>,
}

impl<'a> Tried<'a> {
    fn new(role: usize, name: &'a str, (role_name, weight): (&str, &Weight), seen: &[&Entry], y: Vec<f64>, all: Mean) -> Self {
        let found = change(&y).filter(|c| c.p < CHANGE_P && (c.after - c.before).abs() > 0.25 * weight.tolerance * weight.target);
        let from = found.map_or(0, |c| c.at);
        let now = mean_of(&y[from..]).unwrap_or(all);
        let since = found.map(|c| Since {
            id: seen[c.at].id.clone(),
            file: seen[c.at].file.clone(),
            day: seen[c.at].day().to_string(),
            drawings: y.len() - c.at,
            before_px: c.before,
            p: c.p,
            with: ["tablet", "brush"].into_iter().find_map(|column| only_since(seen, c.at, column)),
        });
        let p = outside(weight, &seen[from..], role_name, &now);
        Self { role, name, weight: *weight, y, all, now, since, p }
    }

    fn standing(self, sure: f64, drift_px: Option<f64>) -> GroupWeight {
        let [low, high] = self.weight.band();
        let verdict = self.p.map(|(side, _)| match self.now.interval {
            _ if sure < P => side,
            Some([a, b]) if a >= low && b <= high => Verdict::Within,
            _ => Verdict::TooClose,
        });
        GroupWeight {
            name: self.name.into(),
            drawings: self.all.n,
            mean_px: self.all.mean,
            interval_px: self.all.interval,
            now_px: self.now.mean,
            now_interval_px: self.now.interval,
            verdict,
            // A steady drift has a strongest change too: it is said as what it is.
            since: self.since.filter(|_| drift_px.is_none()),
            drift_px,
        }
    }
}

/// The side of the tolerance that a mean lies on, with the one-sided p of lying so far beyond it; by Student. Where the role may swell,
/// its 90th percentile against the swell's top and its 10th against its bottom too, each of the two tries at half the weight.
fn outside(weight: &Weight, seen: &[&Entry], role: &str, now: &Mean) -> Option<(Verdict, f64)> {
    if now.n < FEW {
        return None;
    }
    let beyond = |m: &Mean, limit: f64, side: f64| t_above(side * (m.mean - limit) / (m.sd / (m.n as f64).sqrt()), m.n as f64 - 1.0);
    let [low, high] = weight.band();
    let mut p = [(Verdict::Heavy, beyond(now, high, 1.0)), (Verdict::Thin, beyond(now, low, -1.0))];
    if let Some([thin, wide]) = weight.swell {
        let share = |q: f64| mean_of(&seen.iter().filter_map(|e| at_share(&e.role(role)?.widths_px, q)).collect::<Vec<_>>());
        for ((_, p), (q, limit, side)) in p.iter_mut().zip([(0.9, wide, 1.0), (0.1, thin, -1.0)]) {
            *p = share(q).map_or(*p, |m| (2.0 * p.min(beyond(&m, limit, side))).min(1.0));
        }
    }
    p.into_iter().min_by(|a, b| a.1.total_cmp(&b.1))
}

/// A width at a share of the length.
pub fn at_share(widths: &[f64], q: f64) -> Option<f64> {
    eddymist_measure::stats::quantile_sorted(widths, q)
}

/// The one value of a column that all drawings from `at` on have, and none before.
fn only_since(seen: &[&Entry], at: usize, column: &str) -> Option<String> {
    let value = seen[at].known(column)?;
    (seen[at..].iter().all(|e| e.known(column) == Some(value)) && seen[..at].iter().all(|e| e.known(column).is_some_and(|v| v != value)))
        .then(|| value.to_string())
}

/// All pairs of groups in a role, those that differ, and how many were tried.
fn pairs(groups: &BTreeMap<&str, Vec<&Entry>>, role: &str) -> (Vec<Pair>, usize) {
    let means: Vec<(&str, Vec<f64>)> = groups.iter().map(|(n, g)| (*n, series(g, role).1)).filter(|g| g.1.len() > 1).collect();
    let mut all = Vec::new();
    for (i, a) in means.iter().enumerate() {
        for b in &means[i + 1..] {
            if let Some((d, interval, p)) = welch(&a.1, &b.1) {
                all.push((a.0, b.0, d, interval, p));
            }
        }
    }
    let p = holm(&all.iter().map(|a| a.4).collect::<Vec<_>>());
    let tried = all.len();
    let mut out: Vec<Pair> = all
        .into_iter()
        .zip(p)
        .filter(|(_, p)| *p < P)
        .map(|((a, b, d, interval, _), p)| Pair { a: a.into(), b: b.into(), difference_px: d, interval_px: interval, p })
        .collect();
    out.sort_by(|a, b| a.p.total_cmp(&b.p));
    out.truncate(PAIRS);
    (out, tried)
}

/// A day as it is said: 24 November.
pub fn said_day(day: &str) -> String {
    const MONTHS: [&str; 12] = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
    let month = day.get(5..7).and_then(|m| m.parse::<usize>().ok()).and_then(|m| MONTHS.get(m.wrapping_sub(1)));
    match (month, day.get(8..10).and_then(|d| d.parse::<u32>().ok())) {
        (Some(month), Some(d)) => format!("{d} {month}"),
        _ => day.into(),
    }
}

/// A sentence for each group that differs in some role.
fn sentences(groups: &BTreeMap<&str, Vec<&Entry>>, roles: &[RoleLook]) -> Vec<Sentence> {
    let mut out = Vec::new();
    for name in groups.keys() {
        let mut parts: Vec<(f64, &str, String)> = Vec::new();
        for r in roles {
            let Some(s) = r.standings.iter().find(|s| s.name == *name) else { continue };
            let off = s.now_px - r.weight.target;
            let side = match s.verdict {
                Some(Verdict::Heavy) => Some("heavy"),
                Some(Verdict::Thin) => Some("thin"),
                _ => None,
            };
            let said = match (side, s.drift_px) {
                (side, Some(change)) => {
                    let way = if change > 0.0 { "heavier" } else { "thinner" };
                    let stands = side.map_or_else(String::new, |w| format!("{:.2} px {w}, and ", off.abs()));
                    format!("{} {stands}{:.2} px {way} over {} drawings", r.role, change.abs(), s.drawings)
                }
                // Where the mean is right and only the swell is passed, a difference of means would say nothing.
                (Some(word), None) if (off > 0.0) != (word == "heavy") => format!("{} swells too {}", r.role, if word == "heavy" { "wide" } else { "thin" }),
                (Some(word), None) => format!("{} {:.2} px {word}", r.role, off.abs()),
                (None, None) => continue,
            };
            let since = s
                .since
                .as_ref()
                .filter(|_| side.is_some())
                .map_or_else(String::new, |c| format!(" since {}{}", said_day(&c.day), c.with.as_ref().map_or_else(String::new, |w| format!(", {w}"))));
            parts.push((off.abs() / r.weight.target, &r.role, said + &since));
        }
        if parts.is_empty() {
            continue;
        }
        parts.sort_by(|a, b| b.0.total_cmp(&a.0));
        let mut said: Vec<String> = parts.iter().take(SAID).map(|p| p.2.clone()).collect();
        if parts.len() > SAID {
            said.push(format!("{} too", listed(&parts[SAID..].iter().map(|p| p.1).collect::<Vec<_>>())));
        }
        let says = format!("{name}: {}", said.join("; "));
        out.push((parts[0].0, Sentence { name: (*name).into(), says, roles: parts.iter().map(|p| p.1.to_string()).collect() }));
    }
    out.sort_by(|a, b| b.0.total_cmp(&a.0));
    out.into_iter().map(|s| s.1).collect()
}

/// Names as they are said: a, b and c.
pub fn listed(names: &[&str]) -> String {
    match names {
        [first @ .., last] if !first.is_empty() => format!("{} and {last}", first.join(", ")),
        _ => names.concat(),
    }
}
