//! The width along a stroke: effort, smoothing, weight, floor, tapers and the nib's place at every sample.

use crate::{
    InkError,
    brush::{AngleFrom, Brush, Driver, Taper},
    course::Course,
    curve::Curve,
    envelope::NibPlacement,
    outline::Outline,
    smoothing::Smoother,
    stroke::{Sample, Stroke, along},
};

/// Under this diagonal, in mm, a stroke is a dot or a tick and has no tapers.
const TAPERED_FROM_MM: f64 = 2.0;

/// A brush made ready to ink: its curves built, its parts checked.
#[derive(Debug, Clone)]
pub struct Inker {
    brush: Brush,
    weight: Curve,
    response: Option<Curve>,
    course: Option<Course>,
}

/// One sample of an inked stroke.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct InkedSample {
    /// Smoothed place in page mm.
    pub x: f64,
    pub y: f64,
    pub effort: f64,
    /// The nib's length in mm, tapers included.
    pub nib_mm: f64,
    /// The nib's direction in radians, in page axes (y down).
    pub nib_angle: f64,
    /// The line's width across the direction of travel, mm.
    pub width_mm: f64,
}

/// A stroke with its ink: the same number of samples as it came with.
#[derive(Debug, Clone)]
pub struct InkedStroke {
    pub samples: Vec<InkedSample>,
    ratio: f64,
}

impl Inker {
    /// Prepares a brush. `response` maps raw pressure to effort; without it raw pressure is taken as effort.
    pub fn new(brush: &Brush, response: Option<Curve>, course: Option<Course>) -> Result<Self, InkError> {
        brush.validate()?;
        brush.inkable()?;
        Ok(Self { weight: Curve::new(&brush.weight)?, brush: brush.clone(), response, course })
    }

    /// The brush that is inked with.
    pub fn brush(&self) -> &Brush {
        &self.brush
    }

    /// Effort of a sample before smoothing, at the share `u` of the stroke.
    pub fn effort(&self, sample: &Sample, u: f64) -> f64 {
        if let Some(course) = &self.course {
            return course.effort(u);
        }
        match (sample.pressure, &self.response) {
            (Some(raw), Some(response)) => response.at(raw),
            (Some(raw), None) => raw,
            (None, _) => 0.5,
        }
        .clamp(0.0, 1.0)
    }

    /// The nib's length in mm at an effort, before tapers.
    pub fn weight_mm(&self, effort: f64) -> f64 {
        let effort = match self.brush.driver() {
            Driver::Effort | Driver::Both => effort,
            Driver::Speed | Driver::None => 0.5,
        };
        self.weight.at(effort).max(self.brush.floor_mm)
    }

    /// Smoothers for x, y and effort of one stroke.
    pub(crate) fn smoothers(&self, timed: bool) -> [Smoother; 3] {
        let s = &self.brush.smoothing;
        [Smoother::new(&s.position, timed), Smoother::new(&s.position, timed), Smoother::new(&s.effort, timed)]
    }

    /// The nib's direction in radians in page axes (y down) for a sample that travels in `direction` (radians).
    pub(crate) fn nib_angle(&self, sample: &Sample, direction: f64) -> f64 {
        // Files count counter-clockwise as seen on the page, the page's axes clockwise: hence the sign.
        let own = -self.brush.nib.angle_deg.to_radians();
        match self.brush.nib.angle_from {
            AngleFrom::Page => own,
            AngleFrom::Stylus => own - sample.azimuth_deg.unwrap_or(0.0).to_radians(),
            AngleFrom::Travel => own + direction,
        }
    }

    /// Inks a finished stroke.
    pub fn ink(&self, stroke: &Stroke) -> InkedStroke {
        let ratio = self.brush.nib.ratio();
        let raw_way = stroke.lengths_mm();
        let raw_total = raw_way.last().copied().unwrap_or(0.0).max(f64::MIN_POSITIVE);
        let [mut fx, mut fy, mut fe] = self.smoothers(stroke.timed);
        let mut last_t = None;
        let mut samples: Vec<InkedSample> = Vec::with_capacity(stroke.samples.len());
        for (s, way) in stroke.samples.iter().zip(&raw_way) {
            let dt_s = last_t.map_or(0.0, |t| (s.t_ms - t) / 1000.0);
            last_t = Some(s.t_ms);
            let effort = fe.push(self.effort(s, way / raw_total), dt_s, 1.0);
            samples.push(InkedSample {
                x: fx.push(s.x, dt_s, stroke.zoom),
                y: fy.push(s.y, dt_s, stroke.zoom),
                effort,
                nib_mm: self.weight_mm(effort),
                nib_angle: 0.0,
                width_mm: 0.0,
            });
        }
        if stroke.diagonal_mm() >= TAPERED_FROM_MM {
            self.taper(&mut samples);
        }
        let directions = directions(&samples);
        for ((inked, s), direction) in samples.iter_mut().zip(&stroke.samples).zip(directions) {
            inked.nib_angle = self.nib_angle(s, direction);
            inked.width_mm = across(inked.nib_mm, ratio, direction - inked.nib_angle);
        }
        InkedStroke { samples, ratio }
    }

    fn taper(&self, samples: &mut [InkedSample]) {
        let way = along(samples.iter().map(|s| (s.x, s.y)));
        let total = way.last().copied().unwrap_or(0.0);
        for (s, d) in samples.iter_mut().zip(&way) {
            let there = s.nib_mm;
            if let Some(t) = &self.brush.lead_in {
                s.nib_mm *= taper_factor(t, there, *d, total);
            }
            if let Some(t) = &self.brush.lead_out {
                s.nib_mm *= taper_factor(t, there, total - d, total);
            }
        }
    }
}

/// The factor of a taper at distance `d` from its end, on a stroke of length `total`, both mm, where the width is `there`.
pub fn taper_factor(t: &Taper, there: f64, d: f64, total: f64) -> f64 {
    let length = t.length_mm.min(t.share * total);
    if d >= length || length <= 0.0 {
        return 1.0;
    }
    let tip = if there > 0.0 { (t.tip_width_mm / there).min(1.0) } else { 1.0 };
    tip + (1.0 - tip) * (d / length).max(0.0).powf(t.shape)
}

/// Width across the direction of travel of a nib with length `nib_mm` and breadth `ratio` of it, turned by `angle` against it.
pub fn across(nib_mm: f64, ratio: f64, angle: f64) -> f64 {
    nib_mm * angle.sin().hypot(ratio * angle.cos())
}

/// Direction of travel at every sample, radians in page axes; where the pen rests, the last one holds.
fn directions(samples: &[InkedSample]) -> Vec<f64> {
    let n = samples.len();
    let mut out = vec![0.0; n];
    let mut last = None;
    for i in 0..n {
        let (a, b) = (&samples[i.saturating_sub(1)], &samples[(i + 1).min(n - 1)]);
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        if dx != 0.0 || dy != 0.0 {
            let d = dy.atan2(dx);
            if last.is_none() {
                out[..i].fill(d);
            }
            last = Some(d);
        }
        out[i] = last.unwrap_or(0.0);
    }
    out
}

impl InkedStroke {
    /// Where the nib stands at every sample.
    pub fn placements(&self) -> Vec<NibPlacement> {
        self.samples.iter().map(|s| NibPlacement { x: s.x, y: s.y, a: 0.5 * s.nib_mm, b: 0.5 * s.nib_mm * self.ratio, angle: s.nib_angle }).collect()
    }

    /// The polygonal outline: the exact union of the hulls of neighbouring nib placements, arcs within `tolerance_mm`.
    pub fn outline(&self, tolerance_mm: f64) -> Outline {
        crate::envelope::envelope(&self.placements(), tolerance_mm)
    }
}
