//! A line guide, and drawings held against it.

mod beside;
pub mod boil;
pub mod document;
pub mod drift;
mod faults;
pub mod guide;
pub mod judge;
pub mod model;
pub mod names;
pub mod print;
mod said;
pub mod sequence;
mod stretches;
pub mod summary;
pub mod takes;
pub mod team;

pub use document::{DrawingCheck, Finding, FindingKind, HandOn, LineCheck, Manifest, RoleCheck, Verdict};
pub use guide::{LineGuide, Role, RoleSource};
pub use judge::{CheckError, NamedLayer, WeighedDrawing, WeighedLine, check_lines};
pub use names::NamePattern;
