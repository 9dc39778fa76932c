//! The width along a stroke: effort, smoothing, the nib at every sample, tapers, and the outline of it all.
//!
//! How: `w(s) = weight(effort) · pace(speed) · lead_in(s) · lead_out(L − s) · chance(s)` (methods.md, section 1), one nib a sample, swept by the room
//! of its stroke kind. Limits: a stroke whose box has a diagonal under 2 mm has no tapers; there are as many samples out as came in.

use std::sync::Arc;

use crate::{
    InkedSample, Inker,
    brush::Taper,
    dynamics::{Dynamics, Motion, Waypoint},
    edge::{Rough, rough_envelope, roughened},
    envelope::{NibPlacement, envelope},
    kinds::{Distortion, Grid, Laying, Rail, Stamping, squares},
    lift,
    outline::Outline,
    polygon::Shape,
    smoothing::finished,
    stroke::{Sample, Stroke, along},
};

/// A stroke has landed after this time: its speed there is the lead-in's.
const LANDING_MS: f64 = 80.0;
/// Under this diagonal, in mm, a stroke is a dot or a tick and has no tapers.
const TAPERED_FROM_MM: f64 = 2.0;

/// A stroke with its ink: the same number of samples as it came with.
#[derive(Debug, Clone)]
pub struct InkedStroke {
    pub samples: Vec<InkedSample>,
    shape: Option<Arc<Shape>>,
    rough: Option<Rough>,
    softness_mm: f64,
    laying: Laying,
    reversed: bool,
    px_per_mm: f64,
}

impl Inker {
    /// Inks a finished stroke. A pixel lay has its place smoothed, and no other effect.
    pub fn ink(&self, stroke: &Stroke) -> InkedStroke {
        let smoothing = &self.brush.smoothing;
        let raw_way = stroke.lengths_mm();
        let raw_total = raw_way.last().copied().unwrap_or(0.0).max(f64::MIN_POSITIVE);
        let raw: Vec<[f64; 1]> = stroke.samples.iter().zip(&raw_way).map(|(s, way)| [self.effort(s, way / raw_total)]).collect();
        let efforts = finished(&smoothing.effort, stroke, &raw);
        let places = finished(&smoothing.position, stroke, &stroke.samples.iter().map(|s| [s.x, s.y]).collect::<Vec<_>>());
        let kept = lift::kept(stroke, smoothing.lift_guard_ms);
        let mut motion = Motion::default();
        let mut way: Vec<Waypoint> = stroke.samples.iter().zip(&places).take(kept).map(|(s, p)| motion.push(*p, s.t_ms, stroke.zoom, stroke.timed)).collect();
        // Of a first sample the second tells speed and direction.
        if let [first, second, ..] = &mut way[..] {
            (first.speed, first.direction) = (second.speed, second.direction);
        }
        let mut dynamics = Dynamics::new(self, stroke.samples.first().map_or([0.0; 2], |s| [s.x, s.y]));
        let mut samples: Vec<InkedSample> = Vec::with_capacity(stroke.samples.len());
        for ((s, place), effort) in stroke.samples.iter().zip(&way).zip(&efforts) {
            let nib = dynamics.push(self, place, effort[0], s, stroke.timed);
            let [x, y] = place.at;
            samples.push(InkedSample {
                x,
                y,
                effort: effort[0],
                speed_mm_s: if stroke.timed { place.speed } else { 0.0 },
                opacity: self.brush.opacity.opacity(effort[0]),
                nib_mm: nib.nib_mm,
                breadth_mm: nib.breadth_mm,
                nib_angle: nib.angle,
                width_mm: 0.0,
            });
        }
        // A closed line has no ends that could taper.
        if stroke.diagonal_mm() >= TAPERED_FROM_MM && !closes(&stroke.samples) {
            self.taper(&mut samples, &way);
        }
        for (inked, direction) in directions(&samples).into_iter().enumerate() {
            let s = &mut samples[inked];
            s.width_mm = self.across(s, direction);
        }
        // What the lift guard cut stays where the line ends, so that there are as many samples as there were.
        if let Some(last) = samples.last().copied() {
            samples.resize(stroke.samples.len(), last);
        }
        InkedStroke {
            samples,
            shape: self.shape.clone(),
            rough: self.rough(stroke.samples.first().map_or([0.0; 2], |s| [s.x, s.y])),
            softness_mm: if matches!(self.laying, Laying::Pixel) { 0.0 } else { self.brush.edge.softness_mm },
            laying: self.laying.clone(),
            reversed: self.brush.reversed,
            px_per_mm: self.px_per_mm,
        }
    }

    /// Width of the line across the direction of travel.
    fn across(&self, s: &InkedSample, direction: f64) -> f64 {
        let angle = direction - s.nib_angle;
        let shape = match &self.laying {
            Laying::Pixel => return 1.0 / self.px_per_mm,
            // A shape's height is the nib's length, whichever way it goes.
            Laying::Bent { .. } | Laying::Capped { .. } => return s.nib_mm,
            Laying::Stamped(stamper) => Some(&stamper.hull),
            Laying::Swept | Laying::DryBrush(_) => self.shape.as_deref(),
        };
        match shape {
            Some(shape) => s.nib_mm * shape.across(angle, s.breadth_mm / s.nib_mm.max(f64::MIN_POSITIVE)),
            None => (s.nib_mm * angle.sin()).hypot(s.breadth_mm * angle.cos()),
        }
    }

    fn taper(&self, samples: &mut [InkedSample], way: &[Waypoint]) {
        let length = along(samples.iter().map(|s| (s.x, s.y)));
        let total = length.last().copied().unwrap_or(0.0);
        // Speed as the stroke leaves its start, and as it comes to its end.
        let begins = way.first().map_or(0.0, |f| f.t_ms + LANDING_MS);
        let landing = way.iter().find(|p| p.t_ms >= begins).or(way.last()).map_or(0.0, |p| p.speed);
        let leaving = way.last().map_or(0.0, |p| p.speed);
        let applies = |t: &Option<Taper>, speed: f64| t.filter(|t| t.over_mm_s <= 0.0 || speed >= t.over_mm_s);
        let (lead_in, lead_out) = (applies(&self.brush.lead_in, landing), applies(&self.brush.lead_out, leaving));
        for (s, d) in samples.iter_mut().zip(&length) {
            let there = s.nib_mm;
            let mut factor = lead_in.map_or(1.0, |t| taper_factor(&t, there, *d, total));
            factor *= lead_out.map_or(1.0, |t| taper_factor(&t, there, total - d, total));
            s.nib_mm *= factor;
            s.breadth_mm *= factor;
        }
    }
}

/// Whether a line comes back to where it began; a hand never does so to a micrometre.
fn closes(samples: &[Sample]) -> bool {
    let ends = samples.first().zip(samples.last());
    samples.len() > 3 && ends.is_some_and(|(a, b)| (a.x - b.x).hypot(a.y - b.y) < 1e-3)
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
        self.samples.iter().map(|s| NibPlacement { x: s.x, y: s.y, a: 0.5 * s.nib_mm, b: 0.5 * s.breadth_mm, angle: s.nib_angle }).collect()
    }

    pub(crate) fn softness_mm(&self) -> f64 {
        self.softness_mm
    }

    /// Whether a part of its samples can be laid by itself: a shape that is bent along all of it cannot.
    pub(crate) fn parts(&self) -> bool {
        matches!(self.laying, Laying::Swept | Laying::DryBrush(_))
    }

    /// What is set down where the lay is stamped.
    pub fn stamping(&self) -> Option<Stamping> {
        let Laying::Stamped(stamper) = &self.laying else { return None };
        Some(if self.reversed {
            let turned = |s: &InkedSample| InkedSample { nib_angle: s.nib_angle + std::f64::consts::PI, ..*s };
            stamper.stamp(&self.samples.iter().rev().map(turned).collect::<Vec<_>>())
        } else {
            stamper.stamp(&self.samples)
        })
    }

    pub(crate) fn is_rough(&self) -> bool {
        self.rough.is_some()
    }

    pub(crate) fn is_pixel(&self) -> bool {
        matches!(self.laying, Laying::Pixel)
    }

    /// How much the stroke's bends distort the shape that is bent along it; none for other lays.
    pub fn distortion(&self) -> Option<Distortion> {
        let rail = Rail::new(&self.samples);
        match &self.laying {
            Laying::Bent { shape, usual_mm } => rail.distortion(rail.length() / shape.long / usual_mm),
            Laying::Capped { .. } => rail.distortion(1.0),
            _ => None,
        }
    }

    /// The outline of some of the samples.
    pub(crate) fn part(&self, range: std::ops::Range<usize>, tolerance_mm: f64) -> Outline {
        match &self.laying {
            Laying::Swept => {
                let mut way = along(self.samples.iter().map(|s| (s.x, s.y)));
                if self.reversed {
                    let total = way.last().copied().unwrap_or(0.0);
                    way.iter_mut().for_each(|w| *w = total - *w);
                }
                self.swept(&self.placements()[range.clone()], &way[range], tolerance_mm)
            }
            Laying::DryBrush(bundle) => self.rough_about(bundle.outline(&self.laid(), self.range(range), tolerance_mm)),
            Laying::Bent { .. } | Laying::Capped { .. } => {
                let outline = self.laying.shape_outline(&self.samples, self.reversed, tolerance_mm);
                self.rough_about(outline.unwrap_or_default())
            }
            Laying::Stamped(_) => self.stamping().map(|s| s.hulls()).unwrap_or_default(),
            Laying::Pixel => {
                let grid = Grid { px_per_mm: self.px_per_mm, origin_mm: [0.0; 2] };
                squares(&grid, &grid.course(self.samples.iter().map(|s| [s.x, s.y])))
            }
        }
    }

    /// The same ink of a nib or of hairs with samples between those that differ in opacity by more than a step.
    pub(crate) fn denser(&self, step: f64) -> Self {
        let mut dense = self.clone();
        if self.parts() {
            dense.samples.clear();
            for pair in self.samples.windows(2) {
                let parts = ((pair[1].opacity - pair[0].opacity).abs() / step).ceil().max(1.0) as usize;
                dense.samples.extend((0..parts).map(|k| pair[0].towards(&pair[1], k as f64 / parts as f64)));
            }
            dense.samples.extend(self.samples.last());
        }
        dense
    }

    /// The samples in the order in which they are laid.
    fn laid(&self) -> Vec<InkedSample> {
        if self.reversed { self.samples.iter().rev().copied().collect() } else { self.samples.clone() }
    }

    fn range(&self, range: std::ops::Range<usize>) -> std::ops::Range<usize> {
        let n = self.samples.len();
        if self.reversed { n - range.end..n - range.start } else { range }
    }

    /// An outline with its contours roughened where the brush has rough edges.
    fn rough_about(&self, outline: Outline) -> Outline {
        let half = 0.5 * self.samples.iter().map(|s| s.breadth_mm).sum::<f64>() / self.samples.len().max(1) as f64;
        match &self.rough {
            Some(rough) => roughened(&outline, half, &mut rough.clone()),
            None => outline,
        }
    }

    fn swept(&self, nibs: &[NibPlacement], way: &[f64], tolerance_mm: f64) -> Outline {
        match (&self.shape, &self.rough) {
            (Some(shape), _) => self.rough_about(shape.sweep(nibs, tolerance_mm)),
            (None, None) => envelope(nibs, tolerance_mm),
            (None, Some(rough)) => rough_envelope(nibs, way, tolerance_mm, &mut rough.clone()),
        }
    }

    /// The polygonal outline: the union of the hulls of neighbouring nib placements, within `tolerance_mm`; of another lay,
    /// the outline of what it lays.
    pub fn outline(&self, tolerance_mm: f64) -> Outline {
        self.part(0..self.samples.len(), tolerance_mm)
    }
}
