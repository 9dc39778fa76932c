//! What has one cause is one finding: a drawing that is soft, or hard, nearly all over.
//!
//! How: where edges of one kind are found on most of the length that is checked, they are told once, with the lines as its stretches. Limits: a
//! single soft line stays a finding of that line.

use crate::{
    document::{DrawingCheck, Finding, FindingKind, RoleCheck, StretchPlace, Unread},
    guide::LineGuide,
};

/// Nearly all over: so much of the checked length, on at least so many lines.
const SHARE: f64 = 0.6;
const LINES: usize = 4;
/// So many stretches of it are listed, the longest first.
const MOST: usize = 200;

pub(crate) fn merge(guide: &LineGuide, check: &mut DrawingCheck) {
    let seen = |r: &RoleCheck| r.length_px * r.measured_share + r.unread_px.get(&Unread::Soft).copied().unwrap_or(0.0);
    let length: f64 = check.roles.iter().filter(|r| guide.roles.iter().any(|g| g.judge && g.name == r.role)).map(seen).sum();
    for kind in [FindingKind::SoftEdge, FindingKind::HardEdge] {
        let own: Vec<&Finding> = check.findings.iter().filter(|f| f.kind == kind).collect();
        let long = |f: &Finding| f.length_px.unwrap_or(0.0);
        let whole: f64 = own.iter().map(|f| long(f)).sum();
        if own.len() < LINES || whole < SHARE * length {
            continue;
        }
        let value = own.iter().map(|f| f.value * long(f)).sum::<f64>() / whole.max(1e-9);
        let limit = own[0].limit;
        let mut stretches: Vec<StretchPlace> = own.iter().map(|f| StretchPlace { x: f.x, y: f.y, length_px: long(f) }).collect();
        stretches.sort_by(|a, b| b.length_px.total_cmp(&a.length_px));
        let says = if kind == FindingKind::SoftEdge {
            format!("soft edges nearly all over, {value:.1} px from paper to ink (limit {limit:.1} px): enlarged, or exported soft? {} lines", own.len())
        } else {
            format!("hard edges nearly all over: exported without smoothing? {} lines", own.len())
        };
        let at = stretches[0];
        stretches.truncate(MOST);
        let one =
            Finding { length_px: Some(whole), must_mend: guide.must_mend.contains(&kind), stretches, ..Finding::new(kind, [at.x, at.y], value, limit, says) };
        check.findings.retain(|f| f.kind != kind);
        check.findings.push(one);
    }
}
