//! The warm-up: guided strokes in groups that say what they show.

use eddymist_ink::Stroke;

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
}

/// The five efforts and their names.
pub const EFFORTS: [(f64, &str); 5] = [(0.0, "feather"), (0.25, "light"), (0.5, "normal"), (0.75, "firm"), (1.0, "hardest")];

impl Exercise {
    pub const ALL: [(Exercise, &'static str); 9] = [
        (Self::Effort, "effort"),
        (Self::Ramp, "ramp"),
        (Self::Circle, "circle"),
        (Self::Ruled, "ruled"),
        (Self::Flick, "flick"),
        (Self::Dot, "dot"),
        (Self::Diagonal, "diagonal"),
        (Self::Freehand, "freehand"),
        (Self::Card, "card"),
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
