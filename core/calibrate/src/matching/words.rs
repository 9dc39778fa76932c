//! What is said of a match: each part's difference, and why it cannot be told or reached.

use eddymist_ink::brush::SmoothingKind;

use super::{document::Steadied, flick::Tip};
use crate::{smoothing::in_words, warmup::effort_name};

/// A difference in words, with the word for more and that for less; none where it would be written as nought.
fn difference(d: f64, least: f64, unit: &str, digits: usize, [more, less]: [&str; 2]) -> Option<String> {
    (d.abs() >= least).then(|| format!("{:.digits$} {unit} {}", d.abs(), if d > 0.0 { more } else { less }))
}

pub(super) const NOT_SHOWN: &str = "the warm-up has no strokes that show it";
pub(super) const NO_STROKES: &str = "there are no strokes of your hand to compare with the pen; warm up on this tablet first";
pub(super) const NO_EFFORTS: &str = "the warm-up has no strokes at the pen's efforts; draw the five efforts";
pub(super) const SINGLE_LINES: &str = "the pen's own spread is not known from single lines; three lines at each effort would do";

/// A warm-up without the strokes that show a taper.
pub(super) fn no_strokes(tip: Tip) -> &'static str {
    match tip {
        Tip::In => "lead-in: the warm-up has no stroke that lands while moving, so the pen's own shape is used",
        Tip::Out => "lead-out: the warm-up has no flicks, so the pen's own shape is used, as if the hand lifted at full effort",
    }
}

/// A hand that is already narrower than the pen.
pub(super) fn hand_runs(tip: Tip) -> &'static str {
    match tip {
        Tip::In => "your hand alone already lands longer than the pen does: a brush can only narrow it further",
        Tip::Out => "your hand alone already runs out longer than the pen does: a brush can only narrow it further",
    }
}

/// A difference of which nobody knows whether it is much.
pub(super) fn without_spread(says: &str) -> String {
    format!("{says}; the pen's own spread is not known, so how much that is cannot be said")
}

/// Too few lines: what they say, and how many would do.
pub(super) fn so_far(says: &str, needed: f64) -> String {
    format!("{says} so far; about {:.0} of them would tell", needed.ceil().min(99.0))
}

pub(super) fn nib(share: f64) -> String {
    if share < 5e-4 { "widths by direction go as the pen's do".into() } else { format!("widths by direction are off by {:.1} % of the width", 100.0 * share) }
}

/// A hand that presses harder toward a direction.
pub(super) fn pulls(share: f64, toward_deg: f64) -> String {
    format!(
        "nib: on its circles your hand presses harder toward {toward_deg:.0}°, which makes the line {:.0} % wider there; it is taken to do so on paper too, and the nib does not do it again",
        100.0 * share
    )
}

/// A nib that no law fits well.
pub(super) fn nib_nearly(left: f64) -> String {
    format!("nib: no shape fits the pen's widths by direction closely; the brush has the one that fits best, and it leaves {:.0} % of the width", 100.0 * left)
}

/// What the nib was compared on.
pub(super) fn nib_from(rays: usize, circles: usize) -> String {
    if rays > 0 { format!("{rays} rays of the pen, {circles} circles of the hand") } else { format!("the pen's own law, {circles} circles of the hand") }
}

/// What the edge was compared on.
pub(super) fn edge_from(lines: u32, of_brush: usize, by_hand: bool) -> String {
    format!("{lines} lines of the pen, {of_brush} {}", if by_hand { "of the hand" } else { "ruled by the brush" })
}

/// A hand whose lines are rougher on its tablet than the pen's before the brush adds anything.
pub(super) fn edge_of_hand(hand_um: f64, pen_um: f64, steadied: bool) -> String {
    let end = if steadied { "with all the smoothing that ink can have and still follow your hand" } else { "more smoothing would steady it" };
    let alone = if steadied { "" } else { " alone" };
    format!("on this tablet your hand's line{alone} is rough by {hand_um:.1} µm, and the pen's by {pen_um:.1} µm: {end}")
}

/// The smoothing that was matched, what it costs, and what it is for.
pub(super) fn smoothed(kind: &SmoothingKind, lag_ms: f64, edge_um: Option<Steadied>, dot: Option<Steadied>) -> String {
    let edge = edge_um.map(|e| format!("your lines are rough by {:.1} µm instead of {:.1} (the pen's: {:.1})", e.left, e.hand, e.pen));
    let dot = dot.map(|d| {
        let [left, hand, pen] = [d.left, d.hand, d.pen].map(|v| 100.0 * v);
        format!("a held dot is {left:.0} % wider than a line instead of {hand:.0} % before any ink pools (the pen's: {pen:.0} %)")
    });
    let with = edge.into_iter().chain(dot).collect::<Vec<_>>().join(", and ");
    format!("Matched: {}, {lag_ms:.0} ms behind. On this tablet {with}.", in_words(kind))
}

/// A hand whose held dots are larger than the pen's before any ink pools.
pub(super) fn dots_slide(ratio: f64, steadied: bool) -> String {
    let with = if steadied { "with all the smoothing that ink can have and still follow your hand" } else { "even without pooling" };
    format!("on this tablet a dot that you hold strays: {with} it is {ratio:.2} of the line larger than the pen's")
}

/// What the paces were compared on.
pub(super) fn pace_from(lines: f64, paces: usize, strokes: usize) -> String {
    format!("{lines:.0} lines of the pen at {paces} paces, {strokes} strokes of the hand")
}

/// How far what speed makes of the width is apart, as a share, and how much heavier than the pen the brush is when fast than when slow.
pub(super) fn pace(apart: f64, fast: f64) -> String {
    if apart < 5e-4 {
        return "changes with speed as the pen does".into();
    }
    let side = if fast.abs() < 0.5 * apart {
        ""
    } else if fast > 0.0 {
        ", too heavy when fast"
    } else {
        ", too thin when fast"
    };
    format!("changes with speed {:.1} % otherwise than the pen{side}", 100.0 * apart)
}

pub(super) fn pooling(ratio: f64) -> String {
    match difference(ratio, 0.005, "of the line", 2, ["larger", "smaller"]) {
        Some(words) => format!("a held dot is {words} than the pen's"),
        None => "a held dot is as large as the pen's".into(),
    }
}

/// On `flicks` or `landings`.
pub(super) fn taper(mm: f64, on: &str) -> String {
    match difference(mm, 0.05, "mm", 1, ["too far from its tip", "too near its tip"]) {
        Some(words) => format!("reaches nine tenths {words}, on {on}"),
        None => format!("reaches nine tenths where the pen does, on {on}"),
    }
}

/// Reports that lie further apart, mm, than the pen's taper is long.
pub(super) fn reports_apart(mm: f64, tip: Tip) -> String {
    let on = if tip == Tip::In { "landings" } else { "flicks" };
    format!("on your {on} this tablet reports every {mm:.1} mm, and between two reports ink runs straight: nothing shorter shows")
}

pub(super) fn edge(um: f64) -> String {
    format!("{:.1} µm {} than the pen's edge", um.abs(), if um >= 0.0 { "rougher" } else { "smoother" })
}

pub(super) fn steadiness(ratio: f64) -> String {
    if ratio < 0.5 {
        format!("too even: your lines with it vary {ratio:.2} times as much as the pen's")
    } else if ratio > 2.0 {
        format!("unsteady: your lines with it vary {ratio:.1} times as much as the pen's")
    } else {
        format!("your lines with it vary {ratio:.1} times as much as the pen's")
    }
}

/// What the weight was compared on.
pub(super) fn weight_from(lines: f64, efforts: usize, strokes: usize) -> String {
    format!("{lines:.0} lines of the pen at {efforts} efforts, {strokes} strokes of the hand")
}

/// A weight that is alike: the greatest share that it is off by at any effort.
pub(super) fn alike_everywhere(share: f64) -> String {
    format!("within {:.1} % at every effort, on strokes that were left out of the match", (100.0 * share).max(0.1))
}

/// By how much the weight is off at one effort.
pub(super) struct WeightOff {
    pub by_mm: f64,
    pub width_mm: f64,
    pub effort: f64,
}

impl WeightOff {
    /// In per cent of the pen's width.
    fn share(&self) -> f64 {
        (100.0 * self.by_mm / self.width_mm).abs()
    }

    fn side(&self) -> &'static str {
        if self.by_mm >= 0.0 { "heavy" } else { "thin" }
    }

    pub fn past_full_point(&self, reach: f64, alike_below: bool) -> String {
        let rest = if alike_below { "alike below that" } else { "too few lines to say below that" };
        format!(
            "this tablet reaches its full point at {:.0} % of the effort and harder presses look the same to it: {:.1} % {} at {} effort, {rest}",
            100.0 * reach,
            self.share(),
            self.side(),
            effort_name(self.effort)
        )
    }

    pub fn differs(&self) -> String {
        format!("{:.0} µm too {} at {} effort ({:.1} %)", (self.by_mm * 1000.0).abs(), self.side(), effort_name(self.effort), self.share())
    }

    pub fn so_far(&self, needed: f64) -> String {
        let needed = needed.ceil().min(99.0);
        format!("{:.1} % {} at {} effort so far; about {needed:.0} lines at each effort would tell", self.share(), self.side(), effort_name(self.effort))
    }
}
