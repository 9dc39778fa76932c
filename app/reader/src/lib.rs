//! Pictures are read in a child process: the same binary, one picture in, one result out. What a picture does to its reader (too much
//! memory, too much time, a fault of ours), nothing else feels.
//!
//! [`reading`] is the parent's side, a function for each thing that can be asked of a picture; [`child`] is what the hidden command
//! `eddymist read` runs.

mod ask;
mod child;
mod confine;
mod parent;
pub mod reading;

pub use child::child;
pub use parent::Unread;
