//! The verdict on a role's weight.
//!
//! It keeps a guard band (ISO 14253-1, JCGM 106): within or outside only when the interval of the mean is; else too close to say.

use crate::{
    document::{Verdict, WeightStats},
    guide::Weight,
};

pub(crate) fn verdict(weight: &Weight, s: &WeightStats, sorted: &[f64]) -> Verdict {
    let [lo, hi] = weight.band();
    let half = s.interval[1] - s.mean;
    let (mut heavy, mut thin) = (s.interval[0] > hi, s.interval[1] < lo);
    if let Some([least, most]) = weight.swell {
        heavy |= s.p90 - half > most;
        thin |= s.p10 + half < least;
        if heavy && thin {
            return Verdict::Mixed;
        }
    }
    if heavy {
        return Verdict::Heavy;
    }
    if thin {
        return Verdict::Thin;
    }
    if s.interval[0] >= lo && s.interval[1] <= hi {
        let [living_lo, living_hi] = weight.living();
        let n = sorted.len() as f64;
        let under = sorted.partition_point(|w| *w < living_lo) as f64 / n;
        let over = 1.0 - sorted.partition_point(|w| *w <= living_hi) as f64 / n;
        return if under > 0.1 && over > 0.1 { Verdict::Mixed } else { Verdict::Within };
    }
    Verdict::TooClose
}
