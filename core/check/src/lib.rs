//! A line guide, and drawings checked against it.

mod beside;
pub mod boil;
pub mod document;
pub mod drift;
mod faults;
pub mod guide;
mod hand_on;
mod hatching;
pub mod judge;
pub mod missing;
pub mod model;
pub mod names;
pub mod plan;
pub mod print;
pub mod sequence;
mod stretches;
pub mod summary;
pub mod takes;
pub mod team;
mod verdict;
mod weights;
mod words;

pub use document::{DrawingCheck, Finding, FindingKind, HandOn, LineCheck, Manifest, RoleCheck, Verdict, WeighedDrawing, WeighedLine};
pub use guide::{LineGuide, Role, RoleSource};
pub use hand_on::{hand_on, not_looked_for};
pub use judge::{CheckError, check_lines};
pub use names::NamePattern;
pub use plan::NamedLayer;
