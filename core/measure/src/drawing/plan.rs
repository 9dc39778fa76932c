//! What is checked in a drawing: the roles, how each is told from the rest, and the layers that are given.

use crate::{Picture, colour::Rgb};

/// How a role's ink is told from the rest.
#[derive(Debug, Clone, PartialEq)]
pub enum Source {
    /// Ink of this colour, within a CIEDE2000 tolerance.
    Colour { rgb: Rgb, tolerance: f32 },
    /// Ink on layers that the caller has matched by name.
    Layer,
    /// Lines that border the outside of the drawing.
    Outline,
    /// All other ink.
    Rest,
}

/// What to look for: the roles in the guide's order.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    pub roles: Vec<Source>,
    /// The widest width in px that a line of any role may have: wider ink is a spotted black.
    pub widest_px: f64,
}

/// A flat picture, or one layer of a drawing, with the role that its name gave it.
#[derive(Debug, Clone, Copy)]
pub struct Layer<'a> {
    pub picture: Picture<'a>,
    /// Index of the role by layer, or none where roles by colour, outline and rest apply.
    pub role: Option<usize>,
}

/// What is checked beside the lines.
#[derive(Debug, Clone, PartialEq)]
pub struct Look {
    /// The widest gap in each role's lines, px of the picture; 0: none is looked for.
    pub gaps_px: Vec<f64>,
    /// The least region that a gap lets leak, px².
    pub region_px2: f64,
    /// Less paper than this is an edge's own, no gap, px.
    pub least_paper_px: f64,
    /// Whether ink of no role's colour is looked for.
    pub off_palette: bool,
}
