//! The warm-up: guided strokes in groups that say what they show.
//!
//! How: the exercise is the group's annotation; millimetres come from a traced card (ISO/IEC 7810 ID-1) or are assumed. Limits: sides whose
//! ratio is off a card's by over 4 % are no card.

use eddymist_ink::Stroke;
use eddymist_measure::sheet::beside;

/// What a group of strokes shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Exercise {
    Effort,
    Ramp,
    Circle,
    Ruled,
    Flick,
    Dot,
    Diagonal,
    Freehand,
    Card,
    /// Touches down while it moves, and ends at rest.
    Landing,
    /// The artist's own line gone over, in mm of the scan from its top left corner.
    Over,
    /// Drawn on paper that is taped over the tablet.
    Paper,
}

/// How fast it was drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Pace {
    Slow,
    Normal,
    Fast,
}

/// Strokes of one exercise.
#[derive(Debug, Clone, PartialEq)]
pub struct Group {
    pub exercise: Exercise,
    /// For `Effort`: 0, 0.25, 0.5, 0.75 or 1.
    pub effort: Option<f64>,
    pub pace: Option<Pace>,
    pub strokes: Vec<Stroke>,
}

/// One artist's warm-up on one tablet.
#[derive(Debug, Clone, PartialEq)]
pub struct WarmUp {
    pub groups: Vec<Group>,
    /// Whether the millimetres come from a traced card.
    pub scale_from_card: bool,
    /// Strokes that look like slips were meant: they count as the others do.
    pub slips_counted: bool,
}

/// The five efforts and their names.
pub const EFFORTS: [(f64, &str); 5] = [(0.0, "feather"), (0.25, "light"), (0.5, "normal"), (0.75, "firm"), (1.0, "hardest")];

/// The name of the nearest of the five efforts.
pub fn effort_name(effort: f64) -> &'static str {
    EFFORTS.iter().min_by(|a, b| (a.0 - effort).abs().total_cmp(&(b.0 - effort).abs())).map_or("normal", |e| e.1)
}

impl Exercise {
    pub const ALL: [(Exercise, &'static str); 12] = [
        (Self::Effort, "effort"),
        (Self::Ramp, "ramp"),
        (Self::Circle, "circle"),
        (Self::Ruled, "ruled"),
        (Self::Flick, "flick"),
        (Self::Dot, "dot"),
        (Self::Diagonal, "diagonal"),
        (Self::Freehand, "freehand"),
        (Self::Card, "card"),
        (Self::Landing, "landing"),
        (Self::Over, "over"),
        (Self::Paper, "paper"),
    ];

    /// The exercise of this name in a file.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|e| e.1 == name).map(|e| e.0)
    }

    /// Its name in a file.
    pub fn name(self) -> &'static str {
        Self::ALL.iter().find(|e| e.0 == self).map_or("freehand", |e| e.1)
    }
}

impl Pace {
    pub const ALL: [(Pace, &'static str); 3] = [(Self::Slow, "slow"), (Self::Normal, "normal"), (Self::Fast, "fast")];

    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|e| e.1 == name).map(|e| e.0)
    }

    pub fn name(self) -> &'static str {
        Self::ALL.iter().find(|e| e.0 == self).map_or("normal", |e| e.1)
    }
}

impl WarmUp {
    /// All strokes of one exercise.
    pub fn strokes(&self, exercise: Exercise) -> impl Iterator<Item = &Stroke> {
        self.groups.iter().filter(move |g| g.exercise == exercise).flat_map(|g| &g.strokes)
    }

    /// Strokes of the effort exercise with their effort.
    pub fn efforts(&self) -> impl Iterator<Item = (f64, &Stroke)> {
        self.groups
            .iter()
            .filter(|g| g.exercise == Exercise::Effort)
            .filter_map(|g| g.effort.map(|e| (e, g)))
            .flat_map(|(e, g)| g.strokes.iter().map(move |s| (e, s)))
    }
}

impl WarmUp {
    /// Straight lines of the hand at a pace, lying level as the pen's are: ruled ones, else diagonals, else at a normal pace those of normal effort.
    pub fn at_pace(&self, pace: Pace) -> Vec<Stroke> {
        let group = |e: Exercise| self.groups.iter().find(|g| g.exercise == e && g.pace == Some(pace)).map(|g| g.strokes.iter().collect::<Vec<_>>());
        let of_effort = || self.efforts().filter(|(e, _)| pace == Pace::Normal && (e - 0.5).abs() < 1e-6).map(|(_, s)| s).collect();
        group(Exercise::Ruled).or_else(|| group(Exercise::Diagonal)).unwrap_or_else(of_effort).into_iter().map(levelled).collect()
    }

    /// The warm-up in true millimetres where a card was traced along its long and its short side; as it is otherwise. None of
    /// a trace that is no card: sides whose ratio is off by over 4 %.
    pub fn scaled_by_card(self) -> Option<Self> {
        let mut sides: Vec<f64> =
            self.strokes(Exercise::Card).filter_map(|s| Some((s.samples.first()?, s.samples.last()?))).map(|(a, b)| (b.x - a.x).hypot(b.y - a.y)).collect();
        if self.scale_from_card || sides.is_empty() {
            return Some(self);
        }
        sides.sort_by(f64::total_cmp);
        let (short, long) = (sides[0], sides[sides.len() - 1]);
        if sides.len() < 2 || short <= 0.0 || (long / short / (beside::CARD_MM[0] / beside::CARD_MM[1]) - 1.0).abs() > 0.04 {
            return None;
        }
        let scale = 0.5 * (beside::CARD_MM[0] / long + beside::CARD_MM[1] / short);
        let mut groups = self.groups;
        for p in groups.iter_mut().flat_map(|g| &mut g.strokes).flat_map(|s| &mut s.samples) {
            p.x *= scale;
            p.y *= scale;
        }
        Some(Self { groups, scale_from_card: true, slips_counted: self.slips_counted })
    }
}

/// A stroke turned about its first sample so that its chord lies level, from left to right.
fn levelled(stroke: &Stroke) -> Stroke {
    let mut level = stroke.clone();
    let (Some(first), Some(last)) = (stroke.samples.first(), stroke.samples.last()) else { return level };
    let chord = (last.x - first.x).hypot(last.y - first.y);
    if chord > 0.0 {
        let (c, s) = ((last.x - first.x) / chord, (last.y - first.y) / chord);
        for p in &mut level.samples {
            let (x, y) = (p.x - first.x, p.y - first.y);
            (p.x, p.y) = (first.x + c * x + s * y, first.y - s * x + c * y);
        }
    }
    level
}
