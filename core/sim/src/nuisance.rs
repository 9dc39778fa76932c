//! What befalls strokes besides the laws of `stylus`: for every nuisance of a hand or a tablet a second law, which resembles nothing that is fitted.
//!
//! How: each is a [`Nuisance`] that changes the samples of one stroke after they were drawn, so that a stand-in of one's own is one type in one
//! file. Limits: each by itself; what two of them do together is not tried.

use eddymist_calibrate::{Exercise, WarmUp};
use eddymist_ink::{Sample, Stroke};
use rand::Rng;
use rand_chacha::ChaCha8Rng;

use crate::{normal, rng};

/// A stroke's place in its warm-up.
#[derive(Debug, Clone, Copy)]
pub struct Place {
    pub exercise: Exercise,
    /// Which of all strokes, from 0.
    pub nth: usize,
}

/// Something that befalls a stroke.
pub trait Nuisance: Sync {
    /// What it is, in a few words.
    fn name(&self) -> &'static str;
    /// Changes the stroke's samples as they would have been reported.
    fn befall(&self, samples: &mut [Sample], place: Place, rng: &mut ChaCha8Rng);
}

/// A wrist that swings about the elbow: the line bows by so many mm, to one side in half of the strokes.
pub struct Bow(pub f64);

/// A hand that tires: every stroke is pressed by this share less than the one before, down to two thirds of the whole.
pub struct Tires(pub f64);

/// Effort that slips where the way turns: the press gives way by up to this share, and comes back late.
pub struct SlipsAtTurns(pub f64);

/// A converter whose last step flickers: every value is one step of so many off, up or down, as often as not.
pub struct Flickers(pub u32);

/// Single reports that leap to the top, so many of a thousand.
pub struct Spikes(pub f64);

/// Noise that is coloured: a first-order autoregression of this deviation, each report keeping nine tenths of the one before.
pub struct Coloured(pub f64);

/// A way that turns by less, radians, is straight: what is left is the tablet's noise.
const LEAST_TURN: f64 = 0.1;

fn press(s: &mut Sample, f: impl FnOnce(f64) -> f64) {
    // What is not pressed is not reported.
    s.pressure = s.pressure.map(|p| f(p).clamp(1e-4, 1.0));
}

impl Nuisance for Bow {
    fn name(&self) -> &'static str {
        "a line that bows"
    }

    fn befall(&self, samples: &mut [Sample], place: Place, _: &mut ChaCha8Rng) {
        let (Some(a), Some(b)) = (samples.first().copied(), samples.last().copied()) else { return };
        let (dx, dy) = (b.x - a.x, b.y - a.y);
        let long = dx.hypot(dy);
        // A circle is bowed already, and a traced card is a card.
        if long < 5.0 || matches!(place.exercise, Exercise::Circle | Exercise::Card | Exercise::Dot) {
            return;
        }
        let side = if place.nth.is_multiple_of(2) { self.0 } else { -self.0 };
        for s in samples {
            let u = ((s.x - a.x) * dx + (s.y - a.y) * dy) / (long * long);
            let off = side * 4.0 * u * (1.0 - u);
            (s.x, s.y) = (s.x - dy / long * off, s.y + dx / long * off);
        }
    }
}

impl Nuisance for Tires {
    fn name(&self) -> &'static str {
        "a hand that tires"
    }

    fn befall(&self, samples: &mut [Sample], place: Place, _: &mut ChaCha8Rng) {
        let left = (1.0 - self.0).powi(place.nth as i32).max(2.0 / 3.0);
        samples.iter_mut().for_each(|s| press(s, |p| p * left));
    }
}

impl Nuisance for SlipsAtTurns {
    fn name(&self) -> &'static str {
        "effort that slips at turns"
    }

    fn befall(&self, samples: &mut [Sample], _: Place, _: &mut ChaCha8Rng) {
        // How sharply the way turns over a dozen reports; the press follows it late.
        let turn = |i: usize| {
            let (a, b, c) = (&samples[i.saturating_sub(6)], &samples[i], &samples[(i + 6).min(samples.len() - 1)]);
            let way = |p: &Sample, q: &Sample| (q.y - p.y).atan2(q.x - p.x);
            let d = (way(b, c) - way(a, b) + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU) - std::f64::consts::PI;
            if (b.x - a.x).hypot(b.y - a.y) > 0.5 && (c.x - b.x).hypot(c.y - b.y) > 0.5 && d.abs() > LEAST_TURN { d.abs().min(1.0) } else { 0.0 }
        };
        let turns: Vec<f64> = (0..samples.len()).map(turn).collect();
        let mut held = 0.0;
        for (s, turn) in samples.iter_mut().zip(turns) {
            held += 0.2 * (turn - held);
            press(s, |p| p * (1.0 - self.0 * held));
        }
    }
}

impl Nuisance for Flickers {
    fn name(&self) -> &'static str {
        "a last step that flickers"
    }

    fn befall(&self, samples: &mut [Sample], _: Place, rng: &mut ChaCha8Rng) {
        let step = 1.0 / f64::from(self.0 - 1);
        for s in samples {
            let up = if rng.random_bool(0.5) { step } else { -step };
            press(s, |p| ((p / step).round() * step + up).min(1.0));
        }
    }
}

impl Nuisance for Spikes {
    fn name(&self) -> &'static str {
        "reports that leap to the top"
    }

    fn befall(&self, samples: &mut [Sample], _: Place, rng: &mut ChaCha8Rng) {
        for s in samples {
            if rng.random_bool(self.0 / 1000.0) {
                press(s, |_| 1.0);
            }
        }
    }
}

impl Nuisance for Coloured {
    fn name(&self) -> &'static str {
        "noise that is coloured"
    }

    fn befall(&self, samples: &mut [Sample], _: Place, rng: &mut ChaCha8Rng) {
        let (keep, mut v) = (0.9f64, 0.0);
        for s in samples {
            v = keep * v + (1.0 - keep * keep).sqrt() * normal(rng);
            press(s, |p| p + self.0 * v);
        }
    }
}

/// A warm-up that something befell.
pub fn befallen(warmup: &WarmUp, what: &dyn Nuisance, seed: u64) -> WarmUp {
    let mut out = warmup.clone();
    let mut nth = 0;
    for g in &mut out.groups {
        let exercise = g.exercise;
        for s in &mut g.strokes {
            let Stroke { samples, .. } = s;
            what.befall(samples, Place { exercise, nth }, &mut rng(seed, 0xBEF + nth as u64));
            nth += 1;
        }
    }
    out
}

/// Each of them, about as strong as it is met.
pub fn all() -> Vec<Box<dyn Nuisance>> {
    vec![Box::new(Bow(0.6)), Box::new(Tires(0.002)), Box::new(SlipsAtTurns(0.15)), Box::new(Flickers(1024)), Box::new(Spikes(2.0)), Box::new(Coloured(0.006))]
}
