//! Warm-up to tablet profile; pen card and warm-up to brush.

pub mod blind;
mod card_limits;
pub mod compare;
pub mod exercises;
pub mod figures;
mod grid;
pub mod isotonic;
pub mod lanes;
pub mod matching;
pub mod my_page;
pub mod nib;
pub mod pairs;
pub mod pen_card;
pub mod profile;
pub mod quantiles;
pub mod recipe;
mod ruled_card;
pub mod sheet_card;
pub mod smoothing;
pub mod steadiness;
pub mod tapers;
pub mod transfer;
pub mod warmup;

pub use matching::{Match, Part, Verdict, fit, fit_by};
pub use pairs::PressurePairs;
pub use pen_card::PenCard;
pub use profile::{TabletProfile, is_response, profile};
pub use warmup::{Exercise, Group, WarmUp};
