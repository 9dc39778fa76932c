//! What a drawing's findings suggest: it passes, needs fixes, or was not checked (methods.md, section 6). A lead decides.
//!
//! How: a finding that must be fixed goes first; then a role of a tenth or more of the checked length of which too little could be measured.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    HandOn,
    document::{DrawingCheck, Finding, FindingKind, RoleCheck, Unread, Verdict},
    guide::LineGuide,
    words,
};

/// A role that has so much of the checked length makes the drawing not checked.
const TELLING: f64 = 0.1;

/// Kinds that this check does not look for.
pub fn not_looked_for(guide: &LineGuide) -> Vec<FindingKind> {
    let mut out: Vec<FindingKind> = guide.off.clone();
    out.sort();
    out.dedup();
    out
}

/// Says how a drawing is handed on, by its roles and the findings that stand.
pub fn suggest(guide: &LineGuide, check: &mut DrawingCheck) {
    (check.hand_on, check.why) = if check.findings.iter().any(|f: &Finding| f.must_mend && f.dismissed.is_none()) {
        (Some(HandOn::Return), not_checked(guide, check))
    } else if let Some(why) = not_checked(guide, check) {
        (Some(HandOn::NotChecked), Some(why))
    } else {
        let missing = not_looked_for(guide);
        ((!guide.must_mend.iter().any(|k| missing.contains(k))).then_some(HandOn::Ready), None)
    };
}

/// Why a drawing is not checked, and what to do; none where enough of it could be measured.
fn not_checked(guide: &LineGuide, check: &DrawingCheck) -> Option<String> {
    let judged = |r: &&RoleCheck| guide.roles.iter().any(|g| g.judge && g.name == r.role);
    let roles: Vec<&RoleCheck> = check.roles.iter().filter(judged).collect();
    let whole: f64 = roles.iter().map(|r| r.length_px).sum();
    if roles.iter().any(|r| r.unread_px.contains_key(&Unread::Photo)) {
        return Some(words::PHOTO.into());
    }
    if roles.iter().all(|r| r.weight_px.is_none()) {
        if !guide.roles.iter().any(|g| g.judge) {
            return None;
        }
        if let Some(worst) = most_unread(roles.iter().copied().filter(|r| r.length_px > 0.0 && !r.unread_px.is_empty())) {
            return Some(says(worst, guide.limits.least_measured));
        }
        return Some(if check.masked.is_empty() {
            "No line of a checked role could be measured. Compare the guide’s roles with this drawing’s colours and layers.".into()
        } else {
            "No line could be measured: the ink is solid shapes or tone. Hand in the line layer alone.".into()
        });
    }
    let worst = most_unread(roles.iter().copied().filter(|r| r.verdict == Some(Verdict::NotChecked) && r.length_px >= TELLING * whole))?;
    Some(says(worst, guide.limits.least_measured))
}

fn most_unread<'a>(roles: impl Iterator<Item = &'a RoleCheck>) -> Option<&'a RoleCheck> {
    let unread = |r: &RoleCheck| r.unread_px.values().sum::<f64>();
    roles.max_by(|a, b| unread(a).total_cmp(&unread(b)))
}

/// What share of what should be measured was.
pub(crate) fn share(measured_px: f64, unread: impl Iterator<Item = f64>) -> f64 {
    let all = measured_px + unread.sum::<f64>();
    if all > 0.0 { measured_px / all } else { 0.0 }
}

fn says(r: &RoleCheck, least: f64) -> String {
    let measured = r.measured_share * r.length_px;
    let percent = 100.0 * share(measured, r.unread_px.values().copied());
    let Some((reason, px)) = r.unread_px.iter().max_by(|a, b| a.1.total_cmp(b.1)) else {
        return format!("None of {} could be measured: its lines are no longer than their ends.", r.role);
    };
    let because = match reason {
        Unread::Leans => "leans on blacks, on other ink or nearly on other lines; hand in the line layer alone",
        Unread::Soft => "is too soft to measure; export it again at full size",
        Unread::Masked => "lies in tone; hand in the line layer alone",
        Unread::Photo => "is a photo’s; scan the drawing",
        Unread::Ground => "lies on a ground that could not be told from it; hand in the line layer alone",
    };
    format!("Only {percent:.0} % of {} could be measured (at least {:.0} %): {px:.0} px of it {because}, or leave the region out.", r.role, 100.0 * least)
}

/// What must be fixed of a returned drawing: findings of a kind, of a role where it is said, at one place or wherever.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Fix {
    pub kind: FindingKind,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub role: Option<String>,
    /// In px of the drawing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<[f64; 2]>,
}

/// Whether a finding must be fixed, by what a lead chose: nothing chosen is all that the guide says must be.
pub fn must_fix(chosen: Option<&[Fix]>, f: &Finding) -> bool {
    /// Findings this near to the place that was named are the one that was, px.
    const NEAR_PX: f64 = 10.0;
    let names = |x: &Fix| {
        x.kind == f.kind && x.role.as_ref().is_none_or(|r| f.role.as_ref() == Some(r)) && x.at.is_none_or(|[x, y]| (f.x - x).hypot(f.y - y) <= NEAR_PX)
    };
    f.dismissed.is_none() && chosen.map_or(f.must_mend, |c| c.iter().any(names))
}
