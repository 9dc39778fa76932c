//! The lift guard: the last moments of a stroke in which pressure falls and direction jumps are the hand leaving.
//!
//! How: within the last so many milliseconds, from the first turn of over 45° against the course on, after which pressure falls. Limits: 0 cuts nothing; the
//! setting is the artist's. Common practice, no source.

use crate::stroke::Stroke;

/// A turn against the stroke's own course over this is a jump, degrees (common practice, no source).
const JUMP_DEG: f64 = 45.0;
/// The course before the guarded part is taken over this way, page mm.
const COURSE_MM: f64 = 1.0;

/// How many samples are kept: all but those from the first jump on, within the last `guard_ms`, after which pressure has fallen.
pub fn kept(stroke: &Stroke, guard_ms: f64) -> usize {
    let s = &stroke.samples;
    let n = s.len();
    let Some(last) = s.last().filter(|_| stroke.timed && guard_ms > 0.0 && n > 3) else { return n };
    let start = s.partition_point(|v| v.t_ms < last.t_ms - guard_ms).max(2);
    if start >= n {
        return n;
    }
    // The course as the guarded part begins.
    let way = stroke.lengths_mm();
    let behind = (0..start).rev().find(|i| way[start] - way[*i] >= COURSE_MM).unwrap_or(0);
    let course = (s[start].y - s[behind].y, s[start].x - s[behind].x);
    if course == (0.0, 0.0) {
        return n;
    }
    let course = course.0.atan2(course.1);
    let falls = |i: usize| match (s[i - 1].pressure, last.pressure) {
        (Some(before), Some(end)) => end < before && s[i - 1..].windows(2).all(|w| w[1].pressure <= w[0].pressure.map(|p| p + 0.02)),
        _ => false,
    };
    let jumps = |i: usize| {
        let (dx, dy) = (s[i].x - s[i - 1].x, s[i].y - s[i - 1].y);
        let turn = (dy.atan2(dx) - course + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU) - std::f64::consts::PI;
        (dx != 0.0 || dy != 0.0) && turn.abs().to_degrees() > JUMP_DEG
    };
    (start..n).find(|i| jumps(*i) && falls(*i)).unwrap_or(n)
}
