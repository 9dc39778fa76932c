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

impl InkError {
    /// The field of the brush that is wrong: `edge`, of `edge.strip_png`; none where it is no field of a brush.
    pub fn field(&self) -> Option<&str> {
        let path = match self {
            Self::BadBrush { field, .. } => field.as_str(),
            Self::Tip { field, .. } => field,
            Self::Shape(_) => "nib",
            Self::Strip(_) => "edge",
            Self::LevelShape(_) => "stroke",
            Self::Curve(_) => return None,
        };
        path.split('.').next()
    }
}
