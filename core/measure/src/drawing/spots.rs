//! Spotted blacks: ink whose inscribed width is over twice the widest line's. It is masked, not weighed.

use super::classify::{HALF, Ink, Run};

/// The class of masked ink.
pub const SPOT: u8 = 253;

/// Masks spotted blacks and returns their ink in px². What is left is measured anew.
pub fn mask(ink: &mut Ink, widest_px: f64) -> f64 {
    if widest_px <= 0.0 {
        return 0.0;
    }
    let limit = (widest_px * widest_px).min(65534.0) as u16;
    let w = ink.width;
    let mut front: Vec<u32> = Vec::new();
    for run in &ink.runs {
        let row = run.y as usize * w;
        front.extend((row + run.x0 as usize..row + run.x1 as usize).filter(|&i| ink.distance2[i] > limit).map(|i| i as u32));
    }
    if front.is_empty() {
        return 0.0;
    }
    let mut masked = 0.0;
    let take = |ink: &mut Ink, i: usize| {
        let px2 = f64::from(ink.coverage[i]) / 255.0;
        ink.role_px2[ink.role[i] as usize] -= px2;
        ink.role[i] = SPOT;
        px2
    };
    for &i in &front {
        masked += take(ink, i as usize);
    }
    // The core lies inside the black by the widest width: grown by as much, it covers the black and spares its lines.
    for _ in 0..(widest_px.ceil() as usize + 1) {
        let mut next = Vec::new();
        for &i in &front {
            let (x, y) = (i as usize % w, i as usize / w);
            for (nx, ny) in [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)] {
                if nx < w && ny < ink.height {
                    let j = ny * w + nx;
                    if ink.role[j] < SPOT {
                        masked += take(ink, j);
                        next.push(j as u32);
                    }
                }
            }
        }
        front = next;
    }
    ink.runs = remaining(ink);
    ink.distance2.fill(0);
    super::distance::measure(ink);
    masked
}

fn remaining(ink: &Ink) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::with_capacity(ink.runs.len());
    for run in &ink.runs {
        let row = run.y as usize * ink.width;
        let mut from = None;
        for x in run.x0..=run.x1 {
            let i = row + x as usize;
            let inside = x < run.x1 && ink.role[i] == run.role && ink.coverage[i] >= HALF;
            match (inside, from) {
                (true, None) => from = Some(x),
                (false, Some(x0)) => {
                    out.push(Run { x0, x1: x, ..*run });
                    from = None;
                }
                _ => {}
            }
        }
    }
    out
}
