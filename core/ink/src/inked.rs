//! One sample of an inked stroke: what the ways of laying ink take and what is read off it.

/// One sample of an inked stroke.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InkedSample {
    /// Smoothed place in page mm.
    pub x: f64,
    pub y: f64,
    pub effort: f64,
    /// Speed of the hand; 0 where there are no times.
    pub speed_mm_s: f64,
    /// 0 is clear, 1 covers.
    pub opacity: f64,
    /// The nib's length in mm, tapers included, and its breadth.
    pub nib_mm: f64,
    pub breadth_mm: f64,
    /// The nib's direction in radians, in page axes (y down).
    pub nib_angle: f64,
    /// The line's width across the direction of travel, mm.
    pub width_mm: f64,
}
