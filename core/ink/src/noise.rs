//! Chance that is the same every time: a wandering value along a way, from a seed.
//!
//! How: an exponentially correlated Gaussian value, stepped exactly; the seed is of the brush and the place where the stroke begins. Source: the Ornstein-Uhlenbeck
//! process; splitmix64 (Steele, Lea, Flood, OOPSLA 2014).

/// splitmix64 (Steele, Lea, Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014).
pub(crate) fn mix(state: &mut u64) -> u64 {
    *state = state.wrapping_add(0x9E37_79B9_7F4A_7C15);
    let mut z = *state;
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

/// Evenly between 0 and 1.
pub fn even(state: &mut u64) -> f64 {
    (mix(state) >> 11) as f64 / (1u64 << 53) as f64
}

/// Normally distributed with deviation 1 (Box and Muller 1958).
pub(crate) fn normal(state: &mut u64) -> f64 {
    let (u, v) = (1.0 - even(state), even(state));
    (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

/// A seed for one purpose of one stroke.
///
/// The stroke's own part is the place of its first sample to a micrometre: the same stroke always gives the same edge, and
/// two strokes have two.
pub(crate) fn seed(brush: u64, first: [f64; 2], purpose: u64) -> u64 {
    let mut s = brush ^ purpose.wrapping_mul(0xA076_1D64_78BD_642F);
    for v in first {
        s = mix(&mut s) ^ ((v * 1000.0).round() as i64 as u64);
    }
    mix(&mut s)
}

/// Places to one correlation length.
const FINE: f64 = 16.0;

/// A stationary value of deviation 1 along a way whose autocorrelation falls exponentially, to 1/e over a length.
#[derive(Debug, Clone)]
pub struct Wander {
    state: u64,
    step: f64,
    values: Vec<f64>,
}

impl Wander {
    /// A fresh one; `length` is in the unit of the way.
    pub fn new(seed: u64, length: f64) -> Self {
        Self { state: seed, step: (length / FINE).max(1e-6), values: Vec::new() }
    }

    /// The value at a place of the way. Asked in whatever order, a place always has the same value.
    pub fn value(&mut self, way: f64) -> f64 {
        let keep = (-1.0 / FINE).exp();
        let at = (way.max(0.0) / self.step).min(4e6);
        let i = at as usize;
        while self.values.len() < i + 2 {
            let fresh = normal(&mut self.state);
            let next = self.values.last().map_or(fresh, |v| keep * v + (1.0 - keep * keep).sqrt() * fresh);
            self.values.push(next);
        }
        let t = at - i as f64;
        // Straight lines between the places take a little off the deviation: (2 + keep)/3 of the variance is left on average.
        (self.values[i] * (1.0 - t) + self.values[i + 1] * t) / ((2.0 + keep) / 3.0).sqrt()
    }
}
