//! What a lane shows of a drawing, and a delivery in a sentence.
//!
//! Weights are at the page's size. A person's decision goes before what the check suggests.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    document::{DrawingCheck, HandOn, Verdict},
    guide::LineGuide,
};

/// A drawing in short; weights are at the page's size.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Summary {
    pub width_px: u32,
    pub height_px: u32,
    pub hand_on: Option<HandOn>,
    /// Findings that are not dismissed, and those of them that must fix.
    pub findings: u32,
    pub must_mend: u32,
    pub lanes: Vec<LaneBlock>,
}

/// A role's block in its lane.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct LaneBlock {
    /// The role's place in the guide.
    pub role: usize,
    pub verdict: Option<Verdict>,
    pub p10: f64,
    pub median: f64,
    pub p90: f64,
}

impl Summary {
    pub fn new(guide: &LineGuide, check: &DrawingCheck) -> Self {
        let factor = check.scale * check.shot_factor;
        let round = |v: f64| (v / factor * 1000.0).round() / 1000.0;
        let lanes = check
            .roles
            .iter()
            .filter_map(|r| {
                let w = r.weight_px?;
                let role = guide.roles.iter().position(|g| g.name == r.role)?;
                Some(LaneBlock { role, verdict: r.verdict, p10: round(w.p10), median: round(w.median), p90: round(w.p90) })
            })
            .collect();
        let standing = || check.findings.iter().filter(|f| f.dismissed.is_none());
        Self {
            width_px: check.width_px,
            height_px: check.height_px,
            hand_on: check.hand_on,
            findings: standing().count() as u32,
            must_mend: standing().filter(|f| f.must_mend).count() as u32,
            lanes,
        }
    }
}

/// Where a drawing of a delivery stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DrawingState {
    Waiting,
    Failed,
    /// Returned by a lead.
    Returned,
    /// Handed on by a lead.
    HandedOn,
    /// Weighed and not decided: a finding that must fix stands.
    GoesBack,
    /// Weighed and not decided: nothing stands that must fix.
    MayGoOn,
    /// Measured and not decided: too little of it could be measured to say.
    NotChecked,
    /// Weighed and not decided: a kind that must fix was not looked for.
    Open,
}

fn plural(n: usize, one: &str, many: &str) -> String {
    format!("{n} {}", if n == 1 { one } else { many })
}

/// A delivery's headline and the line below it.
pub fn sentences(drawings: &[(DrawingState, Option<&Summary>)]) -> (String, String) {
    let count = |s: DrawingState| drawings.iter().filter(|d| d.0 == s).count();
    let (back, waiting, returned) = (count(DrawingState::GoesBack), count(DrawingState::Waiting), count(DrawingState::Returned));
    let outside = |v: Verdict| drawings.iter().filter(|d| d.1.iter().flat_map(|s| &s.lanes).any(|l| l.verdict == Some(v))).count();
    let unread = count(DrawingState::NotChecked);
    let undecided = back + unread + count(DrawingState::MayGoOn) + count(DrawingState::Open);
    let headline = if drawings.is_empty() {
        "No drawings yet".into()
    } else if waiting > 0 {
        format!("{} still to measure", plural(waiting, "drawing", "drawings"))
    } else if back > 0 {
        plural(back, "drawing needs fixes", "drawings need fixes")
    } else if unread > 0 {
        format!("{} not checked: too little could be measured", plural(unread, "drawing", "drawings"))
    } else if undecided > 0 {
        format!("{} to decide on, none needs fixes", plural(undecided, "drawing", "drawings"))
    } else if returned > 0 {
        format!("All decided: {} returned", returned)
    } else {
        "All marked as ready".into()
    };
    let mut parts = Vec::new();
    let mut say = |n: usize, text: &str| {
        if n > 0 {
            parts.push(format!("{n} {text}"));
        }
    };
    say(outside(Verdict::Heavy), "heavy in a role");
    say(outside(Verdict::Thin), "thin in a role");
    say(count(DrawingState::MayGoOn), "passed");
    say(unread, "not checked");
    say(count(DrawingState::HandedOn), "marked as ready");
    say(returned, "returned");
    say(count(DrawingState::Failed), "could not be read");
    (headline, parts.join(" · "))
}
