//! Boil: lines that flicker from drawing to drawing though each drawing alone is well (methods.md, section 6).
//!
//! A line of a drawing is matched to one of the drawing before and one of the drawing after, by role, place and direction. Second
//! differences over time are held against the limit, as a share of the role's target:
//!
//! - of the line's weight, its mean width over the places that all three drawings have;
//! - of its shape, the way across it once each neighbour's shift and turn as a whole are taken out, root mean square over stretches;
//! - of its place, the shift as a whole. A line that moves on shifts too, to one side before and to the other after: its second
//!   difference is small beside its steps. Where steps are as from chance the sum of the squared second differences is one and a half
//!   times that of the steps (von Neumann's ratio, Ann. Math. Stat. 12, 1941); nearer to that than to none it is no movement.
//!
//! A role boils when more of its lines are over than a binomial with p = 0.05 allows at 1 %, and more than when, at every place, the
//! three drawings' values are dealt out anew (a permutation within blocks; E. S. Edgington, Randomization Tests, 1980): what differs
//! from place to place only, or goes steadily on, does not boil.

mod judge;
mod matched;

use std::collections::{BTreeMap, VecDeque};

use eddymist_measure::source::Kind;

use crate::{
    WeighedLine,
    boil::{
        judge::{Change, over, shifted},
        matched::{Matched, PageDrawing, matched},
    },
    document::{DrawingCheck, FindingKind, SequenceFinding},
    guide::LineGuide,
    holes::Holes,
    register::{Move, Sheet, register},
    words,
};

/// Takes drawings one by one in their sequence, and says at the end what boils. It holds three drawings at a time.
pub struct Boil<'a> {
    guide: &'a LineGuide,
    held: VecDeque<PageDrawing>,
    /// The scan before, as it was laid on the one before it, and its width.
    laid: Option<(Vec<WeighedLine>, Holes, u32)>,
    moves: Vec<Move>,
    /// Scans that could not be laid on the one before.
    apart: Vec<String>,
    groups: BTreeMap<(usize, Option<String>), Vec<Matched>>,
}

impl<'a> Boil<'a> {
    pub fn new(guide: &'a LineGuide) -> Self {
        Self { guide, held: VecDeque::new(), laid: None, moves: Vec::new(), apart: Vec::new(), groups: BTreeMap::new() }
    }

    /// The next drawing of the sequence.
    pub fn push(&mut self, check: &DrawingCheck, lines: &[WeighedLine]) {
        if self.guide.off.contains(&FindingKind::Boil) {
            return;
        }
        let laid = self.lay(check, lines);
        self.held.push_back(PageDrawing::new(check, laid.as_deref().unwrap_or(lines)));
        if self.held.len() > 3 {
            self.held.pop_front();
        }
        let [before, now, after] = [0, 1, 2].map(|i| self.held.get(i));
        let (Some(before), Some(now), Some(after)) = (before, now, after) else { return };
        let same = |k: usize| before.who[k] == now.who[k] && now.who[k] == after.who[k];
        if !(same(1) && same(2) && same(3)) {
            return;
        }
        let artist = now.who[0].clone().filter(|_| same(0));
        let share = before.exposures / (before.exposures + now.exposures);
        for strip in &now.strips {
            let Some(role) = self.guide.roles.get(strip.role).filter(|r| r.judge) else { continue };
            let Some(weight) = role.weight_px else { continue };
            if let Some(m) = matched(strip, before, after, weight.target, share, &now.file) {
                self.groups.entry((strip.role, artist.clone())).or_default().push(m);
            }
        }
    }

    /// A scan's lines laid on those of the scan before; none of a drawing that was drawn in a program: that lies as it lies.
    fn lay(&mut self, check: &DrawingCheck, lines: &[WeighedLine]) -> Option<Vec<WeighedLine>> {
        if check.source.as_ref().is_none_or(|s| s.kind == Kind::Drawing) {
            self.laid = None;
            return None;
        }
        let own = Holes::seen(check);
        let here = Sheet { lines, holes: &own, size: [f64::from(check.width_px), f64::from(check.height_px)] };
        let before = self.laid.as_ref().filter(|l| l.2 == check.width_px).map(|(lines, holes, _)| Sheet { lines, holes, ..here });
        let found = before.map(|before| register(self.guide, &here, &before));
        let laid = match found {
            Some(Some(m)) => {
                self.moves.push(m);
                (m.lines(lines), own.moved(|p| m.of(p)))
            }
            None => (lines.to_vec(), own),
            Some(None) => {
                // Nothing in common: what lies beside what cannot be said.
                self.apart.push(check.file.clone());
                self.held.clear();
                (lines.to_vec(), own)
            }
        };
        self.laid = Some((laid.0.clone(), laid.1, check.width_px));
        Some(laid.0)
    }

    /// How scans were laid on one another, and which could not be.
    pub fn laid(&self) -> Vec<String> {
        let most = |of: fn(&Move) -> f64| self.moves.iter().map(of).fold(0.0, f64::max);
        let mut out = Vec::new();
        if !self.moves.is_empty() {
            let by = if self.moves.iter().all(|m| m.by_marks) { "by their marks" } else { "by the best fit of their lines" };
            let (shift, turn) = (most(|m| m.shift_px[0].hypot(m.shift_px[1])), most(|m| m.turn_deg.abs()));
            out.push(format!("scans were laid on one another {by}, moved by up to {shift:.1} px and {turn:.2}°"));
        }
        if !self.apart.is_empty() {
            let some: Vec<&str> = self.apart.iter().take(3).map(String::as_str).collect();
            let more = if self.apart.len() > 3 { format!(" and {} more", self.apart.len() - 3) } else { String::new() };
            out.push(format!("{}{more} could not be laid on the scan before: whether lines boil there cannot be said", some.join(", ")));
        }
        out
    }

    /// What boils.
    pub fn finish(self) -> Vec<SequenceFinding> {
        let limit = self.guide.limits.boil;
        let mut out = Vec::new();
        for ((role, artist), lines) in &self.groups {
            let seen: Vec<(Vec<(usize, f64)>, &str)> =
                [(over(lines, Change::Weight, limit), "weight"), (over(lines, Change::Shape, limit), "shape"), (shifted(lines, limit), "place")]
                    .into_iter()
                    .filter_map(|(o, word)| Some((o?, word)))
                    .collect();
            let Some((worst, _)) = seen.iter().max_by_key(|s| s.0.len()) else { continue };
            let name = &self.guide.roles[*role].name;
            let value = worst.iter().map(|w| w.1).sum::<f64>() / worst.len() as f64;
            let mut drawings: Vec<String> = worst.iter().map(|w| lines[w.0].file.clone()).collect();
            drawings.dedup();
            out.push(SequenceFinding {
                kind: FindingKind::Boil,
                role: name.clone(),
                artist: artist.clone(),
                value,
                limit,
                message: words::boils(artist.as_deref(), name, &seen.iter().map(|s| s.1).collect::<Vec<_>>(), [worst.len(), lines.len()], value, limit),
                drawings,
            });
        }
        // Those of one artist first: between artists it is the artists that differ.
        out.sort_by_key(|f| f.artist.is_none());
        out
    }
}
