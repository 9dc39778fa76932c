//! What another version of the guide would change on a drawing: the suggestion, and why.
//!
//! How: the drawing is measured by both; roles whose verdict differs and kinds of which another number must be fixed are told in words, the
//! roles first.

use std::collections::BTreeMap;

use crate::{
    document::{DrawingCheck, Finding, RoleCheck, Verdict},
    guide::LineGuide,
};

/// The roles' verdicts, by role.
fn verdicts(check: &DrawingCheck) -> BTreeMap<&str, (&RoleCheck, Option<Verdict>)> {
    check.roles.iter().map(|r| (r.role.as_str(), (r, r.verdict))).collect()
}

/// How many findings of a kind and a role must be fixed.
fn must(check: &DrawingCheck) -> BTreeMap<String, usize> {
    let mut out = BTreeMap::new();
    let name = |f: &Finding| {
        let kind = serde_json::to_value(f.kind).ok().and_then(|k| k.as_str().map(String::from)).unwrap_or_default();
        f.role.as_ref().map_or(kind.clone(), |r| format!("{kind} {r}"))
    };
    for f in check.findings.iter().filter(|f| f.must_mend && f.dismissed.is_none()) {
        *out.entry(name(f)).or_insert(0) += 1;
    }
    out
}

/// What differs between two checks of one drawing, in words; nothing where neither a verdict nor what must be fixed does.
pub fn would_change(guide: &LineGuide, before: &DrawingCheck, after: &DrawingCheck) -> Vec<String> {
    let says = |v: Option<Verdict>| v.map_or("no verdict", Verdict::says);
    let (was, is) = (verdicts(before), verdicts(after));
    let mut out = Vec::new();
    for (role, (_, old)) in &was {
        match is.get(role) {
            None => out.push(format!("{role}: {} → no line of this role", says(*old))),
            Some((now, new)) if old != new => {
                let asked = guide.roles.iter().find(|r| r.name == *role).and_then(|r| r.weight_px.as_ref());
                let k = after.scale * after.shot_factor;
                let weight = now.weight_px.zip(asked).map(|(w, a)| format!(", {:.1} px ({:.1} ± {:.0} %)", w.mean, k * a.target, 100.0 * a.tolerance));
                out.push(format!("{role}: {} → {}{}", says(*old), says(*new), weight.unwrap_or_default()));
            }
            Some(_) => {}
        }
    }
    out.extend(is.iter().filter(|(role, _)| !was.contains_key(*role)).map(|(role, (_, new))| format!("{role}: no line of this role → {}", says(*new))));
    let (had, has) = (must(before), must(after));
    let kinds: std::collections::BTreeSet<&String> = had.keys().chain(has.keys()).collect();
    for kind in kinds {
        let [a, b] = [&had, &has].map(|m| m.get(kind).copied().unwrap_or(0));
        if a != b {
            out.push(format!("{kind}: {a} → {b} to fix"));
        }
    }
    out
}
