//! Drawings in their sequence, and what only the sequence shows: drift and boil, one drawing at a time.
//!
//! How: shot by shot, character by character, by number where one is known, else by name with numbers as numbers. Limits: little is kept of each
//! drawing, so that a sequence may have any length.

use std::cmp::Ordering;

use crate::{
    LineGuide, WeighedLine,
    boil::Boil,
    document::{DrawingCheck, FindingKind, Manifest, SequenceFinding},
    drift::{drifts, series, unsaid},
};

/// The order of a sequence: shot by shot and character by character, by drawing number where the manifest has one, else by name;
/// numbers within names count as numbers.
pub fn order(a: (&str, &Manifest), b: (&str, &Manifest)) -> Ordering {
    let field = |m: &Manifest, c: &str| m.get(c).cloned().unwrap_or_default();
    let key = |d: (&str, &Manifest)| d.1.get("drawing").cloned().unwrap_or_else(|| d.0.to_string());
    natord::compare(&field(a.1, "shot"), &field(b.1, "shot"))
        .then_with(|| natord::compare(&field(a.1, "character"), &field(b.1, "character")))
        .then_with(|| natord::compare(&key(a), &key(b)))
        .then_with(|| natord::compare(a.0, b.0))
}

/// Drift and boil of drawings that come one by one in their order: only what is needed of each is kept.
pub struct Sequence<'a> {
    guide: &'a LineGuide,
    boil: Boil<'a>,
    /// Without their findings.
    checks: Vec<DrawingCheck>,
}

impl<'a> Sequence<'a> {
    pub fn new(guide: &'a LineGuide) -> Self {
        Self { guide, boil: Boil::new(guide), checks: Vec::new() }
    }

    /// The next drawing.
    pub fn push(&mut self, check: &DrawingCheck, lines: &[WeighedLine]) {
        self.boil.push(check, lines);
        self.checks.push(DrawingCheck { findings: Vec::new(), masked: Vec::new(), print: Vec::new(), pins: Vec::new(), ..check.clone() });
    }

    /// What cannot be said of it: whose drift, for too few drawings, and of whom nothing is known.
    pub fn unsaid(&self) -> Vec<String> {
        let mut out = self.boil.laid();
        if self.guide.off.contains(&FindingKind::Drift) {
            return out;
        }
        out.extend(unsaid(&series(self.guide, &self.checks)));
        let nobody = self.checks.iter().filter(|c| c.manifest.get("artist").is_none_or(|a| a.is_empty())).count();
        if nobody > 0 {
            out.push(format!("the artist of {nobody} of {} drawings is not known: whether those drift cannot be said", self.checks.len()));
        }
        out
    }

    /// What only the drawings together show.
    pub fn finish(self) -> Vec<SequenceFinding> {
        let mut out = drifts(self.guide, &self.checks);
        out.extend(self.boil.finish());
        out
    }
}
