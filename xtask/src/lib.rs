//! What the project checks of itself: where its code lives.

pub mod house;
