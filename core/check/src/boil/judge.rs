//! Whether matched lines jump to and fro more than chance allows.
//!
//! How: second differences over time over the limit, more of them than a binomial with p = 0.05 allows at 1 %, and more than when the three
//! drawings' values are dealt out anew. Limits: five matched lines at least; a cycle of four drawings passes for chance. Sources: the
//! head of `boil`.

use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use statrs::distribution::{Binomial, DiscreteCDF};

use super::matched::{Matched, STRETCH};

/// Fewer matched lines say nothing.
pub(super) const LEAST_LINES: usize = 5;

/// Squared second differences over squared steps: 1.5 where steps are by chance, about 0.3 and less for a movement of eight drawings a
/// turn and more.
pub(super) const TO_AND_FRO: f64 = 1.1;

pub(super) const DEALS: usize = 200;

pub(super) const BY_CHANCE: f64 = 0.05;

pub(super) const P: f64 = 0.01;

/// What is looked at of a matched line.
#[derive(Clone, Copy)]
pub(super) enum Change {
    Weight,
    Shape,
}

/// The second difference of a line as a share of its target: of its mean weight, or root mean square over stretches of its shape.
/// `deal` says whose value stands where, at each place.
pub(super) fn second_difference(m: &Matched, look: Change, mut deal: impl FnMut() -> [usize; 3]) -> f64 {
    let (before, after) = (1.0 - m.share, m.share);
    let (rows, long) = match look {
        Change::Weight => (&m.widths, m.widths.len()),
        Change::Shape => (&m.across, STRETCH),
    };
    let (mut sum, mut n) = (0.0, 0.0);
    for stretch in rows.chunks(long).filter(|c| c.len() == long) {
        let mean = stretch
            .iter()
            .map(|r| {
                let d = deal();
                before * f64::from(r[d[0]]) + after * f64::from(r[d[2]]) - f64::from(r[d[1]])
            })
            .sum::<f64>()
            / long as f64;
        sum += (2.0 * mean / m.target).powi(2);
        n += 1.0;
    }
    if n > 0.0 { f64::sqrt(sum / n) } else { 0.0 }
}

/// Whether so many of all are more than chance allows.
pub(super) fn many(over: usize, all: usize) -> bool {
    over > 0 && Binomial::new(BY_CHANCE, all as u64).is_ok_and(|b| b.sf(over as u64 - 1) < P)
}

/// The lines that shift to and fro by more than the limit, unless they move.
pub(super) fn shifted(lines: &[Matched], limit: f64) -> Option<Vec<(usize, f64)>> {
    let second = |m: &Matched| 2.0 * ((1.0 - m.share) * m.shift[0] + m.share * m.shift[1]);
    let steps: f64 = lines.iter().map(|m| m.shift[0].powi(2) + m.shift[1].powi(2)).sum();
    let seconds: f64 = lines.iter().map(|m| second(m).powi(2)).sum();
    let out: Vec<(usize, f64)> = lines.iter().enumerate().map(|(i, m)| (i, second(m).abs() / m.target)).filter(|(_, v)| *v > limit).collect();
    (lines.len() >= LEAST_LINES && many(out.len(), lines.len()) && seconds > TO_AND_FRO * steps).then_some(out)
}

/// The lines over the limit with their figures, where there are more than chance gives.
pub(super) fn over(lines: &[Matched], look: Change, limit: f64) -> Option<Vec<(usize, f64)>> {
    if lines.len() < LEAST_LINES {
        return None;
    }
    let out: Vec<(usize, f64)> = lines.iter().enumerate().map(|(i, m)| (i, second_difference(m, look, || [0, 1, 2]))).filter(|(_, v)| *v > limit).collect();
    if !many(out.len(), lines.len()) {
        return None;
    }
    const ORDERS: [[usize; 3]; 6] = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]];
    let mut rng = ChaCha8Rng::seed_from_u64(lines.len() as u64);
    let as_many = (0..DEALS)
        .filter(|_| lines.iter().filter(|m| second_difference(m, look, || ORDERS[rng.random_range(0..ORDERS.len())]) > limit).count() >= out.len())
        .count();
    ((as_many + 1) as f64 <= P * (DEALS + 1) as f64).then_some(out)
}
