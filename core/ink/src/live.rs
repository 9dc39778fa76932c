//! Live ink: each new sample adds convex pieces, so its cost does not grow with the stroke.
//!
//! How: the hull of each nib with the one before it, as finished ink unites them. Limits: what only the lift tells (lead-out, tapers' shares, a
//! centred average, fairing) is not in it.

use crate::{
    dynamics::{Dynamics, Motion, Waypoint},
    edge::{Rough, rough_hull},
    envelope::{NibPlacement, hull},
    inked::InkedSample,
    inker::Inker,
    inking::taper_factor,
    kinds::{Laying, LiveBundle, squares},
    outline::Path,
    smoothing::Smoother,
    stroke::{Sample, Stroke},
};

/// Further from a stroke's beginning than any lead-in reaches, and the pace at which it is come to.
const FAR_MM: f64 = 1000.0;
const STEADY_MM_S: f64 = 60.0;

/// A stroke while it is drawn. What the brush says changes at the lift (lead-out, the tapers' shares and speed limits, a
/// centred average, faired, the lift guard) comes with [`LiveStroke::finish`], and so does what a lay can only tell then: a bent
/// shape and a capped run are swept until then, a stamped tip is its hull, and rough edges of drawn nibs are smooth.
#[derive(Debug, Clone)]
pub struct LiveStroke {
    inker: Inker,
    position: Smoother<2>,
    effort: Smoother<1>,
    motion: Motion,
    dynamics: Option<Dynamics>,
    /// A first sample that waits for the second to tell its speed or direction.
    waits: Option<(Waypoint, f64, Sample)>,
    stroke: Stroke,
    last: Option<(NibPlacement, f64)>,
    rough: Option<Rough>,
    bundle: Option<LiveBundle>,
    /// Way at which a tip is next set down.
    next_print: f64,
    tolerance_mm: f64,
}

impl LiveStroke {
    /// Begins a stroke at a view zoom.
    pub fn new(inker: Inker, zoom: f64, tolerance_mm: f64) -> Self {
        let s = &inker.brush().smoothing;
        let (position, effort) = (Smoother::new(&s.position, true), Smoother::new(&s.effort, true));
        let stroke = Stroke { samples: Vec::new(), zoom, timed: true };
        Self {
            inker,
            position,
            effort,
            motion: Motion::default(),
            dynamics: None,
            waits: None,
            stroke,
            last: None,
            rough: None,
            bundle: None,
            next_print: 0.0,
            tolerance_mm,
        }
    }

    /// Takes one sample and returns the polygons in mm that it adds to the picture.
    pub fn push(&mut self, sample: Sample) -> Vec<Path> {
        let dt_s = self.stroke.samples.last().map_or(0.0, |l| (sample.t_ms - l.t_ms) / 1000.0);
        let zoom = self.stroke.zoom;
        let [effort] = self.effort.push([self.inker.effort(&sample, 0.0)], sample.t_ms, dt_s, 1.0);
        let at = self.position.push([sample.x, sample.y], sample.t_ms, dt_s, zoom);
        let place = self.motion.push(at, sample.t_ms, zoom, true);
        let first = self.stroke.samples.is_empty();
        self.stroke.samples.push(sample);
        if first {
            self.rough = self.inker.rough([sample.x, sample.y]);
        }
        if first && self.inker.looks_ahead() {
            self.waits = Some((place, effort, sample));
            return Vec::new();
        }
        if let Some((before, effort, sample)) = self.waits.take() {
            let before = Waypoint { speed: place.speed, direction: place.direction, ..before };
            self.last = Some((self.nib(&before, effort, &sample), before.way));
        }
        let nib = self.nib(&place, effort, &sample);
        let (before, from) = self.last.replace((nib, place.way)).unwrap_or((nib, place.way));
        if let Some(pieces) = self.laid(&before, &nib, [from, place.way], effort, place.speed) {
            return pieces;
        }
        if let Some(shape) = self.inker.shape() {
            return shape.hulls(&before, &nib);
        }
        let rough = self.rough.as_mut().and_then(|r| rough_hull(&before, &nib, [from, place.way], self.tolerance_mm, r));
        vec![rough.unwrap_or_else(|| hull(&before, &nib, self.tolerance_mm))]
    }

    /// The pieces of a lay that is not swept.
    fn laid(&mut self, before: &NibPlacement, nib: &NibPlacement, [from, to]: [f64; 2], effort: f64, speed: f64) -> Option<Vec<Path>> {
        match self.inker.laying() {
            Laying::Swept | Laying::Bent { .. } | Laying::Capped { .. } => None,
            Laying::DryBrush(bundle) => {
                let live = self.bundle.get_or_insert_with(|| bundle.begin([nib.x, nib.y]));
                let s = InkedSample {
                    x: nib.x,
                    y: nib.y,
                    effort,
                    speed_mm_s: speed,
                    opacity: 1.0,
                    nib_mm: 2.0 * nib.a,
                    breadth_mm: 2.0 * nib.b,
                    nib_angle: nib.angle,
                    width_mm: 0.0,
                };
                Some(bundle.push(live, &s, self.tolerance_mm))
            }
            Laying::Stamped(stamper) => {
                let mut out = Vec::new();
                while self.next_print <= to && out.len() < 1000 {
                    let t = if to > from { ((self.next_print - from) / (to - from)).clamp(0.0, 1.0) } else { 0.0 };
                    let mix = |p: f64, q: f64| p + (q - p) * t;
                    let at = [mix(before.x, nib.x), mix(before.y, nib.y)];
                    out.extend(stamper.hull.hulls_at(at, mix(before.a, nib.a), mix(before.b, nib.b), nib.angle));
                    self.next_print += stamper.spacing_mm(2.0 * mix(before.a, nib.a));
                }
                Some(out)
            }
            Laying::Pixel => {
                let grid = self.inker.grid();
                Some(squares(&grid, &grid.course([[before.x, before.y], [nib.x, nib.y]].into_iter())).paths)
            }
        }
    }

    fn nib(&mut self, place: &Waypoint, effort: f64, sample: &Sample) -> NibPlacement {
        let first = self.stroke.samples.first().map_or(place.at, |s| [s.x, s.y]);
        let inker = &self.inker;
        let n = self.dynamics.get_or_insert_with(|| Dynamics::new(inker, first)).push(inker, place, effort, sample, true);
        let lead_in = self.inker.brush().lead_in.filter(|t| t.over_mm_s <= 0.0);
        let k = lead_in.map_or(1.0, |t| taper_factor(&t, n.nib_mm, place.way, f64::INFINITY));
        NibPlacement { x: place.at[0], y: place.at[1], a: 0.5 * k * n.nib_mm, b: 0.5 * k * n.breadth_mm, angle: n.angle }
    }

    /// What samples that are only foretold would add, in polygons in mm: the stroke itself stays as it is.
    pub fn ahead(&self, samples: &[Sample]) -> Vec<Path> {
        let mut foretold = self.clone();
        samples.iter().flat_map(|s| foretold.push(*s)).collect()
    }

    /// The nib as this brush has it at a sample, far from a stroke's ends and drawn to the right at a steady pace, about the origin, mm.
    pub fn nib_outline(inker: &Inker, sample: &Sample, tolerance_mm: f64) -> Vec<Path> {
        let mut far = Self::new(inker.clone(), 1.0, tolerance_mm);
        for x in [0.0, 0.5 * FAR_MM, FAR_MM] {
            far.push(Sample { x, y: 0.0, t_ms: 1000.0 * x / STEADY_MM_S, ..*sample });
        }
        let Some((nib, _)) = far.last else { return Vec::new() };
        let nib = NibPlacement { x: 0.0, y: 0.0, ..nib };
        match (inker.shape(), inker.laying()) {
            (Some(shape), _) => shape.hulls(&nib, &nib),
            (None, Laying::Stamped(stamper)) => stamper.hull.hulls_at([0.0; 2], nib.a, nib.b, nib.angle),
            _ => vec![hull(&nib, &nib, tolerance_mm)],
        }
    }

    /// The samples so far, as a stroke to be inked whole.
    pub fn finish(self) -> Stroke {
        self.stroke
    }
}
