//! The team (methods.md, section 7): who differs from the guide and from one another, by how much, how surely, what it fits, and what
//! would bring them back.
//!
//! `measured` is what a drawing keeps for it, `entries` the drawings that are looked at, `standing` each artist's weight with its
//! interval and the sentences, `variance` its parts, `chart`, `capability` and `change` the working along one artist's drawings,
//! `fits` what a difference fits, `trim` the correction offered.

pub mod capability;
pub mod change;
pub mod chart;
pub mod entries;
pub mod fits;
pub mod inference;
pub mod measured;
pub mod standing;
pub mod trim;
pub mod variance;
pub mod working;

pub use entries::{By, Entry, Span};
pub use measured::Measured;
pub use standing::{Sentence, TeamLook, look};
pub use working::{Working, working};
