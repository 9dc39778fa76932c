//! A brush made ready: its curves built, its pictures read, and what one sample asks of it.
//!
//! How: effort through the response or the course, weight and pace by monotone cubics (`curve`), the floor below their product. Limits: a brush
//! whose numbers are out of range is refused here, before any stroke.

use std::sync::Arc;

use crate::{
    Brush, Course, Curve, InkError, Sample,
    brush::Driver,
    edge::Rough,
    kinds::{Grid, Laying},
    polygon::Shape,
    strip::Strip,
};

/// A brush made ready to ink: its curves built, its parts checked.
#[derive(Debug, Clone)]
pub struct Inker {
    pub(crate) brush: Brush,
    pub(crate) weight: Curve,
    pub(crate) pace: Option<Curve>,
    pub(crate) shape: Option<Arc<Shape>>,
    pub(crate) strip: Option<Arc<Strip>>,
    pub(crate) response: Option<Curve>,
    pub(crate) course: Option<Course>,
    pub(crate) laying: Laying,
    pub(crate) px_per_mm: f64,
}

/// A pixel of the drawing where no one says how large it is: 600 to the inch.
const USUAL_PX_PER_MM: f64 = 600.0 / 25.4;

impl Inker {
    /// Prepares a brush. `response` maps raw pressure to effort; without it raw pressure is taken as effort.
    pub fn new(brush: &Brush, response: Option<Curve>, course: Option<Course>) -> Result<Self, InkError> {
        brush.validate()?;
        let pace = brush.pace.as_deref().map(Curve::new).transpose()?;
        let shape = brush.nib.rings().map(|r| Shape::new(&r)).transpose()?.map(Arc::new);
        let strip = brush.edge.strip_png.as_deref().map(Strip::read).transpose()?.map(Arc::new);
        let weight = Curve::new(&brush.weight)?;
        let laying = Laying::new(brush, weight.value(0.5).max(brush.floor_mm))?;
        Ok(Self { weight, pace, shape, strip, brush: brush.clone(), response, course, laying, px_per_mm: USUAL_PX_PER_MM })
    }

    /// The same for a drawing of so many pixels to the mm: a pixel lay is one of them.
    pub fn at_px_per_mm(self, px_per_mm: f64) -> Self {
        Self { px_per_mm, ..self }
    }

    pub(crate) fn laying(&self) -> &Laying {
        &self.laying
    }

    pub(crate) fn grid(&self) -> Grid {
        Grid { px_per_mm: self.px_per_mm, origin_mm: [0.0; 2] }
    }

    /// The same with effort by a course along the stroke, whatever the pressure.
    pub fn with_course(self, course: Course) -> Self {
        Self { course: Some(course), ..self }
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
            (Some(raw), Some(response)) => response.value(raw),
            (Some(raw), None) => raw,
            (None, _) => 0.5,
        }
        .clamp(0.0, 1.0)
    }

    /// The effort that drives the width.
    pub fn driving_effort(&self, effort: f64) -> f64 {
        match self.brush.driver() {
            Driver::Effort | Driver::Both => effort,
            Driver::Speed | Driver::None => 0.5,
        }
    }

    /// The nib's length in mm at an effort and, where it has one, a speed of the hand in mm/s, before tapers.
    pub fn weight_mm(&self, effort: f64, speed: Option<f64>) -> f64 {
        let pace = match (self.brush.driver(), &self.pace, speed) {
            (Driver::Speed | Driver::Both, Some(pace), Some(v)) => pace.value(v),
            _ => 1.0,
        };
        (self.weight.value(self.driving_effort(effort)) * pace).max(self.brush.floor_mm)
    }

    /// The nib's own shape, where it is no ellipse.
    pub fn shape(&self) -> Option<&Shape> {
        self.shape.as_deref()
    }

    /// What roughens the edges of a stroke that begins at a place.
    pub(crate) fn rough(&self, first: [f64; 2]) -> Option<Rough> {
        Rough::new(&self.brush, self.strip.as_deref(), first)
    }
}
