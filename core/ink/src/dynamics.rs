//! The nib along a stroke: its length, breadth and angle at every place, from effort, speed, dwelling, tilt and direction.
//!
//! How: one step a sample and nothing of what is to come, so that live and finished ink agree; pooling is the exact step of its equation.
//! Limits: speed is over 80 ms, so that a jerk shorter than that is smoothed. Common practice, no source.

use std::collections::VecDeque;

use crate::{
    brush::{AngleFrom, Driver, NibShape},
    inker::Inker,
    noise::{Wander, seed},
    stroke::Sample,
};

/// Speed is the way of the hand over this time.
const SPEED_MS: f64 = 80.0;
/// Leaving a place is told over this time.
const LEAVING_MS: f64 = 24.0;
/// Direction is toward the place this far back, or further where samples lie further apart, page mm: no noise turns it.
const DIRECTION_MM: f64 = 0.2;
/// Under this speed of the hand, mm/s, a pen begins to dwell (common practice, no source).
const DWELL_MM_S: f64 = 5.0;
/// Elevations between which a lowered stylus widens the nib, degrees.
const TILT_DEG: [f64; 2] = [60.0, 20.0];
/// The nib's random turn wanders over this way, mm.
const TURN_MM: f64 = 1.0;

/// A place of the smoothed stroke.
#[derive(Debug, Clone, Copy)]
pub struct Waypoint {
    pub at: [f64; 2],
    pub t_ms: f64,
    /// Speed of the hand, mm/s.
    pub speed: f64,
    /// Speed on the page over a shorter time, mm/s: whether the pen has left where it was.
    pub leaving: f64,
    /// Direction of travel, radians in page axes (y down).
    pub direction: f64,
    /// Way from the start, page mm.
    pub way: f64,
}

/// Where a stroke has been of late: speed and direction.
#[derive(Debug, Clone, Default)]
pub struct Motion {
    /// Time, place and way.
    late: VecDeque<(f64, [f64; 2], f64)>,
    direction: Option<f64>,
}

impl Motion {
    /// Takes the next place. Of the first one neither speed nor direction is known: both are 0.
    pub fn push(&mut self, at: [f64; 2], t_ms: f64, zoom: f64, timed: bool) -> Waypoint {
        let way = self.late.back().map_or(0.0, |(_, p, w)| w + (at[0] - p[0]).hypot(at[1] - p[1]));
        self.late.push_back((t_ms, at, way));
        // As much is kept as either needs, and one before.
        while self.late.len() > 2 && self.late[1].0 <= t_ms - SPEED_MS && self.late[1].2 <= way - DIRECTION_MM {
            self.late.pop_front();
        }
        let [speed, leaving] = if timed { [SPEED_MS, LEAVING_MS].map(|span| self.speed(at, t_ms, span)) } else { [0.0; 2] };
        let behind = self.late.iter().rev().find(|(_, _, w)| *w <= way - DIRECTION_MM).or_else(|| self.late.front());
        if let Some((_, p, _)) = behind {
            let (dx, dy) = (at[0] - p[0], at[1] - p[1]);
            if dx != 0.0 || dy != 0.0 {
                self.direction = Some(dy.atan2(dx));
            }
        }
        Waypoint { at, t_ms, speed: speed * zoom, leaving, direction: self.direction.unwrap_or(0.0), way }
    }

    /// Page mm a second between now and some time ago; over less where the stroke is younger.
    fn speed(&self, at: [f64; 2], t_ms: f64, span_ms: f64) -> f64 {
        let then = t_ms - span_ms;
        let i = self.late.iter().rposition(|l| l.0 <= then).unwrap_or(0);
        let (t0, p0, _) = self.late[i];
        let (from, since) = match self.late.get(i + 1) {
            Some((t1, p1, _)) if t0 < then && *t1 > t0 => {
                let u = (then - t0) / (t1 - t0);
                ([p0[0] + (p1[0] - p0[0]) * u, p0[1] + (p1[1] - p0[1]) * u], then)
            }
            _ => (p0, t0),
        };
        let s = (t_ms - since) / 1000.0;
        if s > 0.0 { (at[0] - from[0]).hypot(at[1] - from[1]) / s } else { 0.0 }
    }
}

/// A nib before the tapers: length, breadth (mm) and direction (radians in page axes).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NibAt {
    pub nib_mm: f64,
    pub breadth_mm: f64,
    pub angle: f64,
}

/// What a stroke remembers of itself.
#[derive(Debug, Clone)]
pub struct Dynamics {
    pool: f64,
    last_ms: Option<f64>,
    chance: Option<(f64, Wander)>,
    turn: Option<(f64, Wander)>,
}

impl Dynamics {
    /// For a stroke that begins at a place.
    pub fn new(inker: &Inker, first: [f64; 2]) -> Self {
        let b = inker.brush();
        let wander = |purpose: u64, length: f64| Wander::new(seed(b.seed, first, purpose), length);
        Self {
            pool: 1.0,
            last_ms: None,
            chance: b.chance.filter(|j| j.spread > 0.0).map(|j| (j.spread, wander(1, j.correlation_mm.max(0.01)))),
            turn: (b.nib.turn_range_deg > 0.0).then(|| (b.nib.turn_range_deg.to_radians(), wander(2, TURN_MM))),
        }
    }

    /// The nib at the next place.
    pub fn push(&mut self, inker: &Inker, place: &Waypoint, effort: f64, sample: &Sample, timed: bool) -> NibAt {
        let b = inker.brush();
        let mut nib_mm = inker.weight_mm(effort, if timed { Some(place.speed) } else { None });
        if b.nib.shape == NibShape::Spring {
            let pull = -b.nib.pull_deg.unwrap_or(0.0).to_radians();
            nib_mm += b.nib.opening_mm.unwrap_or(0.0) * inker.driving_effort(effort) * (place.direction - pull).cos().max(0.0);
        }
        if timed {
            nib_mm *= self.pooled(inker, place, nib_mm);
        }
        if let Some((spread, wander)) = &mut self.chance {
            nib_mm *= (1.0 + *spread * wander.value(place.way)).max(0.05);
        }
        let mut angle = self.angle(inker, place, sample);
        if let Some((range, wander)) = &mut self.turn {
            // Evenly over the range: the normal value by its own distribution (logistic approximation, within 0.01).
            angle += *range * (1.0 / (1.0 + (-1.702 * wander.value(place.way)).exp()) - 0.5);
        }
        let lowered = sample.elevation_deg.map_or(0.0, |e| ((TILT_DEG[0] - e) / (TILT_DEG[0] - TILT_DEG[1])).clamp(0.0, 1.0));
        let widened = 1.0 + (b.nib.widen_by_tilt.unwrap_or(1.0) - 1.0) * lowered;
        NibAt { nib_mm, breadth_mm: nib_mm * b.nib.ratio() * widened, angle }
    }

    /// While the pen rests the width held dotward the ratio with its time constant; moving on, it is left behind within half a
    /// width: `dp/dt = (ratio − p)/τ·rest − (p − 1)·v/(w/2)·min(1, v/5)²`, stepped exactly. The square keeps noise at rest from
    /// counting as a way.
    fn pooled(&mut self, inker: &Inker, place: &Waypoint, nib_mm: f64) -> f64 {
        let Some(p) = inker.brush().pooling.filter(|p| p.ratio != 1.0) else { return 1.0 };
        let dt = ((place.t_ms - self.last_ms.replace(place.t_ms).unwrap_or(place.t_ms)) / 1000.0).max(0.0);
        let fill = (1.0 - place.speed / DWELL_MM_S).max(0.0) / p.time_s.max(1e-3);
        let leave = place.leaving * (place.leaving / DWELL_MM_S).min(1.0).powi(2) / (0.5 * nib_mm).max(0.01);
        if fill + leave > 0.0 {
            let toward = (p.ratio * fill + leave) / (fill + leave);
            self.pool = toward + (self.pool - toward) * (-(fill + leave) * dt).exp();
        }
        self.pool
    }

    /// The nib's direction. Files count counter-clockwise as seen on the page, the page's axes clockwise: hence the signs.
    fn angle(&self, inker: &Inker, place: &Waypoint, sample: &Sample) -> f64 {
        let nib = &inker.brush().nib;
        let own = -nib.angle_deg.to_radians();
        match nib.angle_from {
            AngleFrom::Page => own,
            AngleFrom::Stylus => own - sample.azimuth_deg.unwrap_or(0.0).to_radians(),
            AngleFrom::Travel => own + place.direction,
        }
    }
}

impl Inker {
    /// Whether the first sample must wait for the second to tell its speed or direction.
    pub(crate) fn looks_ahead(&self) -> bool {
        let b = self.brush();
        let paced = b.pace.is_some() && matches!(b.driver(), Driver::Speed | Driver::Both);
        paced || b.nib.shape == NibShape::Spring || b.nib.angle_from == AngleFrom::Travel
    }
}
