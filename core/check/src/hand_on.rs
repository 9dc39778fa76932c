//! What a drawing's findings suggest: it passes, or needs fixes (methods.md, section 6). A lead decides.

use crate::{
    HandOn,
    document::{Finding, FindingKind},
    guide::LineGuide,
};

/// Kinds that this check does not look for.
pub fn not_looked_for(guide: &LineGuide) -> Vec<FindingKind> {
    let mut out: Vec<FindingKind> = guide.off.clone();
    out.sort();
    out.dedup();
    out
}

/// How a drawing with these findings is handed on.
pub fn hand_on(guide: &LineGuide, findings: &[Finding]) -> Option<HandOn> {
    if findings.iter().any(|f| f.must_mend && f.dismissed.is_none()) {
        return Some(HandOn::Return);
    }
    let missing = not_looked_for(guide);
    (!guide.must_mend.iter().any(|k| missing.contains(k))).then_some(HandOn::Ready)
}
