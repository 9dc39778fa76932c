//! From samples to a line: strokes, smoothing, brush, outline, raster.
//!
//! Geometry is in page millimetres with y down the page; angles are in degrees, counter-clockwise as seen on the page,
//! 0 along +x. Speed is of the hand. The crate is pure computation and also compiles to WebAssembly.

pub mod brush;
pub mod course;
pub mod curve;
pub mod digits;
mod document;
pub mod dynamics;
pub mod edge;
pub mod envelope;
mod fairing;
pub mod fitting;
pub mod inking;
pub mod lay;
pub mod layers;
mod lift;
pub mod live;
pub mod noise;
pub mod outline;
pub mod picture;
pub mod polygon;
pub mod proof;
pub mod raster;
pub mod repair;
pub mod smoothing;
pub mod strip;
pub mod stroke;
pub mod traced;
mod validate;

pub use brush::Brush;
pub use course::Course;
pub use curve::Curve;
pub use document::{DocumentError, check_document};
pub use inking::{InkedSample, InkedStroke, Inker};
pub use layers::Inked;
pub use live::LiveStroke;
pub use outline::{Outline, Path};
pub use stroke::{Sample, Stroke};

/// Why a stroke cannot be inked.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum InkError {
    /// A value of the brush is outside what it may be.
    #[error("{field}: {problem}")]
    BadBrush { field: String, problem: String },
    /// A nib's shape is not usable.
    #[error("nib.points: {0}")]
    Shape(#[from] polygon::ShapeError),
    /// A strip is not usable.
    #[error("edge.strip_png: {0}")]
    Strip(#[from] strip::StripError),
    /// A shape to be bent along a stroke is not usable.
    #[error("lay.shape_path: {0}")]
    LevelShape(#[from] lay::LevelShapeError),
    /// A tip or a tooth is not usable.
    #[error("{field}: {problem}")]
    Tip { field: &'static str, problem: lay::TipError },
    /// A curve's knots are not usable.
    #[error("curve: {0}")]
    Curve(#[from] curve::CurveError),
}
