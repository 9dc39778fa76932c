//! What is kept and shown: rows, views, who may do what. Types only: no SQL, no Axum, and nothing is computed.

mod access;
mod brushes;
mod deliveries;
mod drawings;
mod guides;
mod inked;
mod lists;
mod members;
mod pens;
mod session;
mod tablets;
mod team;
mod trials;

pub use access::*;
pub use brushes::*;
pub use deliveries::*;
pub use drawings::*;
pub use guides::*;
pub use inked::*;
pub use lists::*;
pub use members::*;
pub use pens::*;
pub use session::*;
pub use tablets::*;
pub use team::*;
pub use trials::*;
