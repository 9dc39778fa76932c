//! Checks and everything heavy: what the routes, the demo, the worker and the watched folder do alike.

pub mod brushes;
pub mod checks;
pub mod inked;
pub mod intake;
pub mod notes;
pub mod pairs;
pub mod pens;
pub mod report;
pub mod sheets;
pub mod tablets;
pub mod team;
pub mod trials;
pub mod watch;

pub use crate::heavy::{busy, off_thread, picture_bytes};
