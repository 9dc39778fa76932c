//! The sampler sheet: its plan, and what a scan of it tells of the pen.
//!
//! `scanned` reads a scan; `photo` lays a photo flat and has it read; `alone` reads one stroke on clean paper; `reading` is what both tell.

pub mod alone;
pub mod beside;
mod blots;
mod cells;
mod lane;
pub mod layout;
pub mod marks;
mod patches;
mod photo;
mod reading;
mod scanned;
mod window;
pub(crate) mod words;

pub use photo::{is_photo, lay_flat, read_photo};
pub use reading::{BarsSeen, Body, CellReading, EdgeIntervals, FreeLine, Marked, PhotoReading, SheetError, SheetReading, StrokeReading, Widths};
pub use scanned::read;
