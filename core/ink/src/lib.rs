//! From samples to a line: strokes, smoothing, brush, outline, raster.
//!
//! Geometry is in page millimetres with y down the page; angles are in degrees, counter-clockwise as seen on the page,
//! 0 along +x. Speed is of the hand. The crate is pure computation and also compiles to WebAssembly.

mod bilinear;
pub mod brush;
pub mod course;
pub mod curve;
pub mod digits;
mod document;
pub mod dynamics;
pub mod edge;
pub mod envelope;
mod error;
mod fairing;
pub mod fitting;
pub mod gone_over;
mod inked;
mod inker;
pub mod inking;
pub mod kinds;
pub mod layers;
mod lift;
pub mod live;
pub mod noise;
pub mod older;
pub mod outline;
pub mod picture;
pub mod points;
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
pub use error::InkError;
pub use inked::InkedSample;
pub use inker::Inker;
pub use inking::InkedStroke;
pub use layers::Inked;
pub use live::LiveStroke;
pub use outline::{Outline, Path};
pub use stroke::{Sample, Stroke};
