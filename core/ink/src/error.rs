//! Why a stroke cannot be inked, whichever part of the brush it is.

use crate::{
    curve::CurveError,
    kinds::{LevelShapeError, TipError},
    polygon::ShapeError,
    strip::StripError,
};

/// Why a stroke cannot be inked.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum InkError {
    /// A value of the brush is outside what it may be.
    #[error("{field}: {problem}")]
    BadBrush { field: String, problem: String },
    /// A nib's shape is not usable.
    #[error("nib.points: {0}")]
    Shape(#[from] ShapeError),
    /// A strip is not usable.
    #[error("edge.strip_png: {0}")]
    Strip(#[from] StripError),
    /// A shape to be bent along a stroke is not usable.
    #[error("stroke.shape_path: {0}")]
    LevelShape(#[from] LevelShapeError),
    /// A tip or a tooth is not usable.
    #[error("{field}: {problem}")]
    Tip { field: &'static str, problem: TipError },
    /// A curve's knots are not usable.
    #[error("curve: {0}")]
    Curve(#[from] CurveError),
}
