//! Live ink: each new sample adds one convex piece, so its cost does not grow with the stroke.

use crate::{
    envelope::{NibPlacement, hull},
    inking::{Inker, taper_factor},
    outline::Path,
    smoothing::Smoother,
    stroke::{Sample, Stroke},
};

/// A stroke while it is drawn. What the brush says changes at the lift (lead-out, the tapers' shares) comes with
/// [`LiveStroke::finish`].
#[derive(Debug, Clone)]
pub struct LiveStroke {
    inker: Inker,
    smoothers: [Smoother; 3],
    stroke: Stroke,
    last: Option<(NibPlacement, f64)>,
    way_mm: f64,
    tolerance_mm: f64,
}

impl LiveStroke {
    /// Begins a stroke at a view zoom.
    pub fn new(inker: Inker, zoom: f64, tolerance_mm: f64) -> Self {
        let smoothers = inker.smoothers(true);
        let stroke = Stroke { samples: Vec::new(), zoom, timed: true };
        Self { inker, smoothers, stroke, last: None, way_mm: 0.0, tolerance_mm }
    }

    /// Takes one sample and returns the polygon in mm that it adds to the picture.
    pub fn push(&mut self, sample: Sample) -> Path {
        let dt_s = self.stroke.samples.last().map_or(0.0, |l| (sample.t_ms - l.t_ms) / 1000.0);
        let zoom = self.stroke.zoom;
        let effort = self.smoothers[2].push(self.inker.effort(&sample, 0.0), dt_s, 1.0);
        let (x, y) = (self.smoothers[0].push(sample.x, dt_s, zoom), self.smoothers[1].push(sample.y, dt_s, zoom));
        self.stroke.samples.push(sample);
        let direction = match &self.last {
            Some((l, held)) => {
                let (dx, dy) = (x - l.x, y - l.y);
                self.way_mm += dx.hypot(dy);
                if dx == 0.0 && dy == 0.0 { *held } else { dy.atan2(dx) }
            }
            None => 0.0,
        };
        let mut nib_mm = self.inker.weight_mm(effort);
        if let Some(t) = &self.inker.brush().lead_in {
            nib_mm *= taper_factor(t, nib_mm, self.way_mm, f64::INFINITY);
        }
        let a = 0.5 * nib_mm;
        let nib = NibPlacement { x, y, a, b: a * self.inker.brush().nib.ratio(), angle: self.inker.nib_angle(&sample, direction) };
        let before = self.last.replace((nib, direction)).map_or(nib, |l| l.0);
        hull(&before, &nib, self.tolerance_mm)
    }

    /// The samples so far, as a stroke to be inked whole.
    pub fn finish(self) -> Stroke {
        self.stroke
    }
}
