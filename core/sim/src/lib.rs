//! Stand-ins for the outside: stylus and hand, tablets, pens, scanner, camera, and the demo production.
//!
//! They make the same data that the real ones would, and go in through the same doors. Their laws are not those that
//! the fits assume, or they would prove nothing. Everything follows from a seed.

pub mod beside;
pub mod camera;
pub mod card;
mod figures;
pub mod handed_in;
pub mod nuisance;
pub mod osk;
pub mod paired;
pub mod pens;
pub mod planted;
pub mod production;
pub mod scanner;
pub mod sheet;
pub mod stylus;

use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, StandardNormal};

/// A generator for a seed and what it is for.
pub(crate) fn rng(seed: u64, purpose: u64) -> ChaCha8Rng {
    ChaCha8Rng::seed_from_u64(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ purpose)
}

/// A standard normal value.
pub(crate) fn normal(rng: &mut ChaCha8Rng) -> f64 {
    StandardNormal.sample(rng)
}

/// A stationary series with standard deviation 1 and exponential correlation over `length` steps.
pub(crate) fn wander(rng: &mut ChaCha8Rng, n: usize, length: f64) -> Vec<f64> {
    let keep = (-1.0 / length.max(1e-6)).exp();
    let fresh = (1.0 - keep * keep).sqrt();
    let mut v = normal(rng);
    (0..n)
        .map(|_| {
            let out = v;
            v = keep * v + fresh * normal(rng);
            out
        })
        .collect()
}
