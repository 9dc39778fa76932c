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

impl InkedSample {
    /// What lies a share of the way to another sample; the nib turns the shorter way.
    pub(crate) fn towards(&self, to: &Self, share: f64) -> Self {
        let between = |a: f64, b: f64| a + share * (b - a);
        let half_turn = std::f64::consts::PI;
        let turn = (to.nib_angle - self.nib_angle + half_turn).rem_euclid(2.0 * half_turn) - half_turn;
        Self {
            x: between(self.x, to.x),
            y: between(self.y, to.y),
            effort: between(self.effort, to.effort),
            speed_mm_s: between(self.speed_mm_s, to.speed_mm_s),
            opacity: between(self.opacity, to.opacity),
            nib_mm: between(self.nib_mm, to.nib_mm),
            breadth_mm: between(self.breadth_mm, to.breadth_mm),
            nib_angle: self.nib_angle + share * turn,
            width_mm: between(self.width_mm, to.width_mm),
        }
    }
}
