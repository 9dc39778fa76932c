//! Possible causes of a difference: evidence that drawings can carry, worded as what it fits and what would settle it. Nothing here says
//! what a cause *is*.
//!
//! How: a pile-up at the widest, a weight that goes with tablet or brush, the artist's own profile, a lean that all share. Limits: hand, tablet
//! and brush that never vary apart are said to be confounded. Thresholds are common practice, set on simulated hands, no source.

use std::collections::BTreeSet;

use schemars::JsonSchema;
use serde::Serialize;

use super::{
    entries::{By, Entry},
    inference::{holm, mean_of, welch},
    standing::{RoleLook, TeamLook, at_share, grouped, listed, series},
};
use crate::{document::Verdict, guide::LineGuide};

/// Widths within this share of the widest lie at the widest.
const AT_THE_WIDEST: f64 = 0.03;
/// This share of the length at the widest is a pile-up, where the thin side spreads this many times further than the wide side.
const PILE_UP: f64 = 0.25;
const LOPSIDED: f64 = 3.0;
/// A tablet that answers nothing above this share of its range is full early.
const EARLY: f64 = 0.85;

/// What a tablet profile says here.
#[derive(Debug, Clone, PartialEq)]
pub struct ProfileKnown {
    pub artist: String,
    pub tablet: String,
    pub full_point: f64,
    /// A plateau was seen; else the hardest strokes stand in.
    pub seen: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FitKind {
    /// An offset that all share.
    Guide,
    Tablet,
    Brush,
    PileUp,
    /// Others with the same tablet or brush are within.
    Hand,
    Profile,
    /// A steady drift.
    Drift,
    Confounded,
    NotKnown,
}

/// One thing that a difference fits.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
pub struct Fit {
    pub kind: FitKind,
    /// The evidence, with its numbers.
    pub says: String,
    /// What would settle it.
    pub settle: String,
}

/// Whether a manifest's name and a member's or profile's name are of the same: the whole name, or the first of several.
pub fn same_name(a: &str, b: &str) -> bool {
    let plain = |s: &str| s.trim().to_lowercase().replace(['-', '_'], " ");
    let (a, b) = (plain(a), plain(b));
    a == b || a.split(' ').next() == Some(b.as_str()) || b.split(' ').next() == Some(a.as_str())
}

/// Everything that an artist's difference in a role fits, the strongest first.
pub fn fits(guide: &LineGuide, team: &TeamLook, entries: &[Entry], profiles: &[ProfileKnown], name: &str, role: &str) -> Vec<Fit> {
    let groups = grouped(entries, By::Artist);
    let (Some(own), Some(look)) = (groups.get(name), team.roles.iter().find(|r| r.role == role)) else { return Vec::new() };
    let (seen, y) = series(own, role);
    let mut out = Vec::new();
    out.extend(of_the_guide(guide, look, name));
    let parted = ["tablet", "brush"].map(|column| by_column(&seen, &y, column));
    let together = always_together(&seen);
    for (k, found) in parted.iter().enumerate() {
        if let Some((says, least)) = found {
            let column = ["tablet", "brush"][k];
            let (kind, settle) = match (k, together) {
                (_, true) => {
                    (FitKind::Confounded, "Tablet and brush changed together: three drawings with the old one of either would tell which it is".to_string())
                }
                (0, _) => (FitKind::Tablet, format!("Warm up on the tablet again, or ink three drawings of the same shot on {least}")),
                _ => (FitKind::Brush, format!("Ink three drawings of the same shot with {least}")),
            };
            out.push(Fit { kind, says: format!("It goes with the {column}: {says}"), settle });
            if together {
                break;
            }
        }
    }
    for (column, _) in ["tablet", "brush"].iter().zip(&parted).filter(|p| p.1.is_none()) {
        out.extend(others_on_the_same(look, entries, name, column));
    }
    out.extend(pile_up(&seen, role, own));
    out.extend(of_the_profile(&seen, profiles, name));
    if let Some(change) = look.standings.iter().find(|s| s.name == name).and_then(|s| s.drift_px) {
        let way = if change > 0.0 { "heavier" } else { "thinner" };
        out.push(Fit {
            kind: FitKind::Drift,
            says: format!("{} grew {way} little by little, {:.2} px over {} drawings: a nib tip that wears, or a hand that tires, does that; a new tablet or brush does not", role, change.abs(), y.len()),
            settle: "Change the stylus tip and check the tablet's profile again; then look at the next ten drawings".into(),
        });
    }
    out.extend(what_never_varies(&seen, entries, name, &parted, together));
    out
}

/// All, or all but those within, off on the same side: three artists at least.
fn of_the_guide(guide: &LineGuide, look: &RoleLook, name: &str) -> Option<Fit> {
    let own = look.standings.iter().find(|s| s.name == name)?.verdict?;
    let said: Vec<_> = look.standings.iter().filter(|s| s.verdict.is_some()).collect();
    let same = said.iter().filter(|s| s.verdict == Some(own)).count();
    if !matches!(own, Verdict::Heavy | Verdict::Thin) || said.len() < 3 || same < said.len() {
        return None;
    }
    let all = mean_of(&said.iter().map(|s| s.now_px).collect::<Vec<_>>())?;
    let word = if own == Verdict::Heavy { "heavy" } else { "thin" };
    Some(Fit {
        kind: FitKind::Guide,
        says: format!(
            "All {same} artists are {word} in {}, at {:.2} px on average where {} asks for {:.2}",
            look.role, all.mean, guide.name, look.weight.target
        ),
        settle: "Compare the guide's target with an approved model sheet before anybody changes a brush".into(),
    })
}

/// Whether the weight goes with a column: what to say, and the value whose drawings lie nearest to the rest of the team.
fn by_column(seen: &[&Entry], y: &[f64], column: &str) -> Option<(String, String)> {
    let values: BTreeSet<&str> = seen.iter().filter_map(|e| e.known(column)).collect();
    let of = |v: &str| seen.iter().zip(y).filter(|(e, _)| e.known(column) == Some(v)).map(|(_, y)| *y).collect::<Vec<_>>();
    let groups: Vec<(&str, Vec<f64>)> = values.into_iter().map(|v| (v, of(v))).filter(|g| g.1.len() > 1).collect();
    let mut tried = Vec::new();
    for (i, a) in groups.iter().enumerate() {
        for b in &groups[i + 1..] {
            tried.extend(welch(&a.1, &b.1).map(|w| (a, b, w)));
        }
    }
    let p = holm(&tried.iter().map(|t| t.2.2).collect::<Vec<_>>());
    let ((a, b, (d, _, _)), p) = tried.into_iter().zip(p).min_by(|a, b| a.1.total_cmp(&b.1))?;
    if p >= 0.05 {
        return None;
    }
    let (heavy, light) = if d > 0.0 { (a, b) } else { (b, a) };
    let said = |g: &(&str, Vec<f64>)| format!("{:.2} px in {} drawings with {}", mean_of(&g.1).map_or(0.0, |m| m.mean), g.1.len(), g.0);
    Some((format!("{}, {}", said(heavy), said(light)), light.0.to_string()))
}

/// Tablet and brush both vary, and never apart.
fn always_together(seen: &[&Entry]) -> bool {
    let pairs: BTreeSet<(Option<&str>, Option<&str>)> = seen.iter().map(|e| (e.known("tablet"), e.known("brush"))).collect();
    let tablets: BTreeSet<_> = pairs.iter().map(|p| p.0).collect();
    let brushes: BTreeSet<_> = pairs.iter().map(|p| p.1).collect();
    tablets.len() > 1 && pairs.len() == tablets.len() && pairs.len() == brushes.len()
}

/// A pile-up at the brush's widest, in the drawings where most of the length lies there.
fn pile_up(seen: &[&Entry], role: &str, own: &[&Entry]) -> Option<Fit> {
    let mut piled = Vec::new();
    for e in seen {
        let w = &e.role(role)?.widths_px;
        let [thin, middle, wide, widest] = [0.05, 0.5, 0.95, 0.975].map(|q| at_share(w, q).unwrap_or(0.0));
        let at = w.iter().filter(|v| **v >= widest * (1.0 - AT_THE_WIDEST)).count() as f64 / w.len().max(1) as f64;
        if at >= PILE_UP && middle - thin >= LOPSIDED * (wide - middle).max(0.02 * middle) {
            piled.push((at, widest, e.file.as_str()));
        }
    }
    if piled.len() < 2 || 5 * piled.len() < own.len() {
        return None;
    }
    let share = mean_of(&piled.iter().map(|p| p.0).collect::<Vec<_>>())?.mean;
    let widest = mean_of(&piled.iter().map(|p| p.1).collect::<Vec<_>>())?.mean;
    Some(Fit {
        kind: FitKind::PileUp,
        says: format!(
            "{:.0} % of the length lies at the widest, {widest:.2} px, in {} of {} drawings ({} the first): the pressure reached the tablet's full point, or the brush its widest",
            100.0 * share,
            piled.len(),
            seen.len(),
            piled[0].2
        ),
        settle: "Warm up on that tablet: its profile shows the full point".into(),
    })
}

/// What the artist's own profiles say of the tablets that were used.
fn of_the_profile(seen: &[&Entry], profiles: &[ProfileKnown], name: &str) -> Vec<Fit> {
    let tablets: BTreeSet<&str> = seen.iter().filter_map(|e| e.known("tablet")).collect();
    let mut out = Vec::new();
    for tablet in tablets {
        match profiles.iter().rev().find(|p| same_name(&p.artist, name) && same_name(&p.tablet, tablet)) {
            Some(p) if p.seen && p.full_point < EARLY => out.push(Fit {
                kind: FitKind::Profile,
                says: format!(
                    "{}’s profile of {} reaches its full point at {:.2} of the range: pressing harder changes nothing from there on",
                    p.artist, p.tablet, p.full_point
                ),
                settle: "Accept the correction, or let the tablet ask for more pressure in its own settings and warm up again".into(),
            }),
            Some(_) => {}
            None => out.push(Fit {
                kind: FitKind::NotKnown,
                says: format!("There is no profile of {name} on {tablet}: what the tablet does to the pressure is not known"),
                settle: "Four minutes of warm-up on it".into(),
            }),
        }
    }
    out
}

/// What cannot be told apart, and what is not known at all.
fn what_never_varies(seen: &[&Entry], entries: &[Entry], name: &str, parted: &[Option<(String, String)>; 2], together: bool) -> Option<Fit> {
    let values = |column: &str| seen.iter().map(|e| e.known(column)).collect::<BTreeSet<_>>();
    let (tablets, brushes) = (values("tablet"), values("brush"));
    let unknown: Vec<&str> = [("tablet", &tablets), ("brush", &brushes)].into_iter().filter(|(_, v)| v.iter().all(Option::is_none)).map(|v| v.0).collect();
    if !unknown.is_empty() {
        return Some(Fit {
            kind: FitKind::NotKnown,
            says: format!("The manifest does not say which {} {name} used: hand, tablet and brush cannot be told apart", unknown.join(" or which ")),
            settle: format!("Give the manifest the column{} {}", if unknown.len() > 1 { "s" } else { "" }, unknown.join(" and ")),
        });
    }
    if parted.iter().any(Option::is_some) || together {
        return None;
    }
    let shared = |column: &str, own: &BTreeSet<Option<&str>>| {
        entries.iter().any(|e| e.known("artist").is_some_and(|a| a != name) && own.contains(&e.known(column)) && e.known(column).is_some())
    };
    let others = [("tablet", shared("tablet", &tablets)), ("brush", shared("brush", &brushes))];
    let alone: Vec<&str> = others.iter().filter(|o| !o.1).map(|o| o.0).collect();
    (tablets.len() == 1 && brushes.len() == 1 && !alone.is_empty()).then(|| Fit {
        kind: FitKind::Confounded,
        says: format!(
            "{name} always drew with the same tablet and brush, and nobody else used the {}: what is theirs cannot be told from the hand",
            alone.join(" or the ")
        ),
        settle: format!("Three drawings of {name} with another {0}, or three of somebody else with this {0}", alone[0]),
    })
}

/// Whether others with the same tablet or brush are within: then it is not that alone.
fn others_on_the_same(look: &RoleLook, entries: &[Entry], name: &str, column: &str) -> Option<Fit> {
    let own: BTreeSet<&str> = entries.iter().filter(|e| e.known("artist") == Some(name)).filter_map(|e| e.known(column)).collect();
    let others: BTreeSet<&str> =
        entries.iter().filter(|e| e.known(column).is_some_and(|v| own.contains(v))).filter_map(|e| e.known("artist")).filter(|a| *a != name).collect();
    let within: Vec<&str> = others.into_iter().filter(|o| look.standings.iter().any(|s| s.name == *o && s.verdict == Some(Verdict::Within))).collect();
    (!within.is_empty()).then(|| Fit {
        kind: FitKind::Hand,
        says: format!(
            "{} drew with the same {column} and {} within: it is not the {column} alone",
            listed(&within),
            if within.len() == 1 { "is" } else { "are" }
        ),
        settle: format!("A warm-up of {name} beside theirs shows whether the hand presses harder on it"),
    })
}
