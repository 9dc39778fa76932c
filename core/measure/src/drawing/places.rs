//! Which places of a line are body: not where the normal meets other ink, nor within one width of a corner.
//!
//! How: a corner is a turn over 30° between chords half a width to a width before and after; about a blocked place half a width goes with it.
//! Limits: bends are told from corners by what they turn within one width (methods.md, section 5).

use super::{Line, Place};

/// The cosine of 30°, between chords that lie half a width to a whole width before and after a place. Of a corner's turn
/// smoothing leaves four fifths there; of a bend's they see five quarters of what it turns within one width.
pub(super) const CORNER_COS: f32 = 0.866;

/// About a blocked place the neighbours are disturbed too: half a width on either side is left out with it.
pub(super) fn mark_blocked(line: &mut Line, radius: f64) {
    let spread = (radius / line.step_px).ceil() as usize;
    let hidden: Vec<(usize, Place)> = line.points.iter().map(|p| p.place).enumerate().filter(|(_, p)| p.is_hidden()).collect();
    for (i, place) in hidden {
        let to = (i + spread + 1).min(line.points.len());
        for p in line.points[i.saturating_sub(spread)..to].iter_mut().filter(|p| p.place != Place::Blocked) {
            p.place = place;
        }
    }
}

pub(super) fn mark_corners(line: &mut Line, radius: f64) {
    let n = line.points.len();
    let half = ((radius / line.step_px).round() as usize).max(2);
    let spread = 2 * half;
    if n < 4 * half {
        return;
    }
    let chord = |i: usize, j: usize| {
        let (a, b) = (&line.points[i], &line.points[j]);
        (b.x - a.x, b.y - a.y)
    };
    let mut corners = Vec::new();
    let (near, far) = (half.div_ceil(2), 2 * half);
    let range = if line.closed { 0..n } else { far..n - far };
    for i in range {
        let (a, b) = (chord((i + n - far) % n, (i + n - near) % n), chord((i + near) % n, (i + far) % n));
        let (dot, squares) = (a.0 * b.0 + a.1 * b.1, (a.0 * a.0 + a.1 * a.1) * (b.0 * b.0 + b.1 * b.1));
        if dot < CORNER_COS * squares.sqrt() {
            corners.push(i);
        }
    }
    for i in corners {
        for k in 0..=2 * spread {
            let j = i + k;
            let at = if line.closed { Some((j + n - spread) % n) } else { j.checked_sub(spread).filter(|j| *j < n) };
            if let Some(p) = at.map(|j| &mut line.points[j])
                && p.place == Place::Body
            {
                p.place = Place::Corner;
            }
        }
    }
}
