//! The response: raw pressure to effort, from efforts and ramps together.
//!
//! How: ramps are read at nine efforts by local lines, joined with the five efforts' means, and pooled where out of order (isotonic
//! regression, `isotonic`); at most nine knots. Limits: above the full point the device says nothing, those efforts are one knot; that
//! effort on paper is effort on the tablet is a convention (`quantiles` does without it).

use eddymist_ink::Stroke;
use eddymist_measure::stats::median;

use super::{ProfileError, device::steady};
use crate::{
    isotonic,
    warmup::{Exercise, WarmUp},
};

/// Knots of the response, and the effort at which the full point is first reached, where ramps show it.
pub(super) fn response(warmup: &WarmUp, full: Option<f64>) -> Result<(Vec<[f64; 2]>, Option<f64>), ProfileError> {
    let mut points: Vec<(f64, f64, f64)> = Vec::new();
    for (effort, raws) in by_effort(warmup) {
        let kept: Vec<f64> = raws.iter().enumerate().filter(|(i, _)| warmup.slips_counted || slip(&raws, *i).is_none()).map(|r| *r.1).collect();
        let mean = kept.iter().sum::<f64>() / kept.len() as f64;
        points.push((effort, mean, 2.0 * kept.len() as f64));
    }
    let rising: Vec<Vec<(f64, f64)>> = warmup.strokes(Exercise::Ramp).map(rising_branch).filter(|r| r.len() >= 12).collect();
    let onset = full.and_then(|full| {
        let seen: Vec<f64> = rising.iter().filter_map(|r| r.iter().find(|p| p.1 >= full - 1e-9).map(|p| p.0)).collect();
        median(&seen)
    });
    for k in 0..9 {
        let effort = f64::from(k) / 8.0;
        for ramp in &rising {
            if let Some(raw) = local_line(ramp, effort) {
                points.push((effort, raw, 1.0));
            }
        }
    }
    // Above the full point the device says nothing: those efforts become one knot, where the ramps reached it.
    if let Some(full) = full {
        let limit = full - 1e-6;
        let saturated: Vec<f64> = points.iter().filter(|p| p.1 >= limit || onset.is_some_and(|o| p.0 > o)).map(|p| p.0).collect();
        points.retain(|p| p.1 < limit && onset.is_none_or(|o| p.0 <= o));
        if let Some(effort) = onset.or_else(|| (!saturated.is_empty()).then(|| saturated.iter().sum::<f64>() / saturated.len() as f64)) {
            points.push((effort, full, 4.0));
        }
    }
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut merged: Vec<(f64, f64, f64)> = Vec::new();
    for p in points {
        match merged.last_mut() {
            Some(m) if (m.0 - p.0).abs() < 0.02 => {
                let w = m.2 + p.2;
                *m = ((m.0 * m.2 + p.0 * p.2) / w, (m.1 * m.2 + p.1 * p.2) / w, w);
            }
            _ => merged.push(p),
        }
    }
    let mut blocks = isotonic::blocks(&merged);
    while blocks.len() > 9 {
        // Two neighbours that say nearly the same become one knot.
        let k = (1..blocks.len() - 1).min_by(|a, b| (blocks[a + 1].y - blocks[a - 1].y).total_cmp(&(blocks[b + 1].y - blocks[b - 1].y))).unwrap_or(1);
        blocks.remove(k);
    }
    let mut knots: Vec<[f64; 2]> = blocks.iter().map(|b| [round6(b.y), round6(b.x)]).collect();
    // What differs by less than is written is one knot.
    knots.dedup_by(|b, a| b[0] <= a[0] || b[1] <= a[1]);
    if knots.len() < 2 {
        return Err(ProfileError::Flat(knots.first().map_or(0.0, |k| k[0])));
    }
    Ok((knots, onset))
}

/// A stroke of an effort is a slip where it lies further than this from the others, and than five times their spread.
const SLIP: f64 = 0.15;

/// The raw pressures of each effort's strokes, in the order drawn.
fn by_effort(warmup: &WarmUp) -> Vec<(f64, Vec<f64>)> {
    let mut groups: std::collections::BTreeMap<i64, Vec<f64>> = Default::default();
    for (effort, stroke) in warmup.efforts() {
        if let Some(raw) = median(&steady(stroke)) {
            groups.entry((effort * 1000.0).round() as i64).or_default().push(raw);
        }
    }
    groups.into_iter().map(|(effort, raws)| (effort as f64 / 1000.0, raws)).collect()
}

/// What the other strokes were pressed at, where this one is a slip: of three or more, the others' median, and their median distance from it
/// (1.4826 of it is a normal distribution's deviation).
fn slip(raws: &[f64], i: usize) -> Option<f64> {
    if raws.len() < 3 {
        return None;
    }
    let others: Vec<f64> = raws.iter().enumerate().filter(|(k, _)| *k != i).map(|r| *r.1).collect();
    let middle = median(&others)?;
    let spread = 1.4826 * median(&others.iter().map(|r| (r - middle).abs()).collect::<Vec<_>>())?;
    ((raws[i] - middle).abs() > SLIP.max(5.0 * spread)).then_some(middle)
}

/// A stroke of the warm-up that was left out: its effort, its number in its exercise, what it was pressed at, and the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Slip {
    pub effort: f64,
    pub stroke: usize,
    pub raw: f64,
    pub others: f64,
}

/// What looks like a slip in a warm-up.
pub(super) fn slips(warmup: &WarmUp) -> Vec<Slip> {
    let of = |(effort, raws): (f64, Vec<f64>)| {
        let found = (0..raws.len()).filter_map(move |i| Some(Slip { effort, stroke: i + 1, raw: raws[i], others: slip(&raws, i)? }));
        found.collect::<Vec<_>>()
    };
    by_effort(warmup).into_iter().flat_map(of).collect()
}

pub(super) fn round6(v: f64) -> f64 {
    (v * 1e6).round() / 1e6
}

/// `(effort, raw)` on the way up: effort is linear in the way along the guide, hardest at its middle.
pub(super) fn rising_branch(s: &Stroke) -> Vec<(f64, f64)> {
    let (Some(a), Some(b)) = (s.samples.first(), s.samples.last()) else {
        return Vec::new();
    };
    let (dx, dy) = (b.x - a.x, b.y - a.y);
    let square = dx * dx + dy * dy;
    s.samples
        .iter()
        .filter_map(|p| {
            let u = ((p.x - a.x) * dx + (p.y - a.y) * dy) / square;
            (u <= 0.5).then_some((2.0 * u, p.pressure?))
        })
        .collect()
}

/// The value at `effort` of a straight line through the samples near it; none where they do not reach it.
pub(super) fn local_line(ramp: &[(f64, f64)], effort: f64) -> Option<f64> {
    let near: Vec<(f64, f64)> = ramp.iter().copied().filter(|p| (p.0 - effort).abs() <= 0.05).collect();
    let n = near.len() as f64;
    if near.len() < 4 {
        return None;
    }
    let (sx, sy) = near.iter().fold((0.0, 0.0), |a, p| (a.0 + p.0 - effort, a.1 + p.1));
    let (sxx, sxy) = near.iter().fold((0.0, 0.0), |a, p| (a.0 + (p.0 - effort).powi(2), a.1 + (p.0 - effort) * p.1));
    let det = n * sxx - sx * sx;
    let raw = if det > 1e-9 { (sy * sxx - sx * sxy) / det } else { sy / n };
    // At either end a steep line leads past what a device can say.
    Some(raw.clamp(0.0, 1.0))
}
