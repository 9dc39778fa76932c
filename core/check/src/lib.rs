//! A line guide, and drawings checked against it.

mod around;
mod beside;
pub mod boil;
pub mod document;
mod doubles;
pub mod drift;
mod edges;
mod fault;
mod faults;
pub mod guide;
mod hand_on;
mod hooks;
pub mod judge;
pub mod limits;
pub mod missing;
pub mod model;
pub mod names;
mod one_cause;
pub mod plan;
pub mod print;
pub mod register;
mod roles;
pub mod sequence;
mod stretches;
pub mod summary;
pub mod takes;
pub mod team;
mod verdict;
mod weights;
mod words;

pub use document::{DrawingCheck, Finding, FindingKind, HandOn, LineCheck, Manifest, RoleCheck, Unread, Verdict, WeighedDrawing, WeighedLine};
pub use guide::{LineGuide, Role, RoleSource};
pub use hand_on::{not_looked_for, suggest};
pub use judge::{CheckError, check_lines};
pub use names::NamePattern;
pub use plan::NamedLayer;
