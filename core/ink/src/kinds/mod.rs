//! How ink goes down along a stroke where the nib is not swept: a shape along it, a bundle of hairs, a tip
//! set down again and again, or one pixel of the drawing.

mod dry_brush;
pub mod level;
mod pixel;
mod rail;
mod shape;
mod stamped;
mod tip;

use std::sync::Arc;

pub use rail::Distortion;
pub use shape::{LevelShape, LevelShapeError};
pub use stamped::Stamping;
pub use tip::{Tip, TipError, Tooth};

pub(crate) use dry_brush::{Bundle, LiveBundle};
pub(crate) use pixel::{Grid, squares};
pub(crate) use rail::Rail;
pub(crate) use stamped::Stamper;

use crate::{
    InkError,
    brush::{Brush, Ends, Shaped, StrokeKind},
    inked::InkedSample,
    outline::Outline,
};

/// A stroke kind made ready: its pictures read, its shape levelled.
#[derive(Debug, Clone)]
pub(crate) enum Laying {
    Swept,
    Bent { shape: Arc<LevelShape>, usual_mm: f64 },
    Capped { shape: Arc<LevelShape>, caps: [f64; 2], break_over_deg: Option<f64> },
    DryBrush(Arc<Bundle>),
    Stamped(Arc<Stamper>),
    Pixel,
}

impl Laying {
    /// Of a brush; `usual_mm` is its nib's length at effort 0.5.
    pub fn new(brush: &Brush, usual_mm: f64) -> Result<Self, InkError> {
        Ok(match &brush.stroke {
            StrokeKind::Swept => Self::Swept,
            StrokeKind::Shaped(Shaped { shape_path, ends: Ends::Stretch, .. }) => Self::Bent { shape: Arc::new(LevelShape::read(shape_path)?), usual_mm },
            StrokeKind::Shaped(Shaped { shape_path, ends: Ends::Keep, caps, break_over_deg }) => {
                let caps = caps.unwrap_or([0.0; 2]);
                Self::Capped { shape: Arc::new(LevelShape::read(shape_path)?.in_one_piece()?), caps, break_over_deg: *break_over_deg }
            }
            StrokeKind::DryBrush { hairs, spread, snap, ink_held } => Self::DryBrush(Arc::new(Bundle::new(*hairs, *spread, *snap, *ink_held, brush.seed))),
            StrokeKind::Stamped(stamped) => Self::Stamped(Arc::new(Stamper::new(stamped, brush.seed)?)),
            StrokeKind::Pixel => Self::Pixel,
        })
    }

    /// The outline of a shape laid along samples; none for what is no shape.
    pub fn shape_outline(&self, samples: &[InkedSample], reversed: bool, tolerance: f64) -> Option<Outline> {
        let (shape, runs) = match self {
            Self::Bent { shape, .. } => (shape, vec![Rail::new(samples)]),
            Self::Capped { shape, break_over_deg, .. } => {
                let rail = Rail::new(samples);
                (shape, break_over_deg.map_or_else(|| vec![rail.clone()], |deg| rail.broken(deg.to_radians())))
            }
            _ => return None,
        };
        let mut paths = Vec::new();
        for rail in runs {
            match self {
                Self::Bent { usual_mm, .. } => shape.bend(&rail, *usual_mm, reversed, &mut paths, tolerance),
                Self::Capped { caps, .. } => shape.run(&rail, *caps, reversed, &mut paths, tolerance),
                _ => {}
            }
        }
        Some(Outline::united(paths))
    }
}
