//! The artist's own lines gone over with the stylus: each stroke followed along its line, and how late the hand answers.
//!
//! How: the strokes' courses (`along`), once more after what all are off by; the lag is where raw pressure goes best with the width that the line had so
//! long before. Limits: lags from -60 to 240 ms; going over says nothing of pace.

use eddymist_ink::Curve;
use eddymist_measure::stats::median;

use super::{
    along::{NODE_MM, SeenLine, Track, course},
    document::{Found, Pair, PairError},
    lines::{Ink, Report, distance, thinned},
    placement, registration,
};
use crate::isotonic;

/// Of the strokes' nodes this share must be on a line.
const FITS: f64 = 0.5;
/// Half of them are nearer to it than this, mm: a stroke laid anywhere on lines that lie close is off by 1.5 in the median, hands by 0.2 to 0.7
/// (tests/reference/make_recorded.py).
const MISSES_MM: f64 = 1.2;
/// Lags that are tried, ms.
const LAGS: std::ops::RangeInclusive<i32> = -12..=48;
const LAG_MS: f64 = 5.0;
/// The hand is off all lines together by less than this, mm, or it is not asked.
const LEAST_SHIFT_MM: f64 = 0.2;

/// A stroke and where it was along the lines.
struct Followed<'a> {
    reports: &'a [Report],
    track: Track,
}

/// The strokes as they were followed.
pub(super) struct Courses<'a> {
    tracks: Vec<Followed<'a>>,
    off_mm: Vec<f64>,
    shift: [f64; 2],
    not_gone_over: f64,
}

pub(super) fn courses<'a>(ink: &Ink, strokes: &'a [Vec<Report>], dpi: f64) -> Result<Courses<'a>, PairError> {
    let mut shift = [0.0; 2];
    let mut follow = followed(ink, strokes, shift);
    let all = |k: usize, off: &[[f64; 2]]| median(&off.iter().map(|o| o[k]).collect::<Vec<_>>()).unwrap_or(0.0);
    let mean = [0, 1].map(|k| all(k, &follow.1));
    if mean[0].hypot(mean[1]) > LEAST_SHIFT_MM {
        shift = mean;
        follow = followed(ink, strokes, shift);
    }
    let (tracks, off, share, seen) = follow;
    if share < FITS {
        return Err(elsewhere(ink, strokes, share, dpi));
    }
    let off_mm: Vec<f64> = off.iter().map(|o| (o[0] - shift[0]).hypot(o[1] - shift[1])).collect();
    if median(&off_mm).is_some_and(|m| m > MISSES_MM) {
        let near = off_mm.iter().filter(|d| **d <= MISSES_MM).count() as f64 / off_mm.len() as f64;
        return Err(elsewhere(ink, strokes, share * near, dpi));
    }
    Ok(Courses { tracks, off_mm, shift, not_gone_over: seen.iter().filter(|s| !**s).count() as f64 / seen.len().max(1) as f64 })
}

/// The pairs at the lag at which raw pressure goes best with the width, once what the nib makes of a direction (the logarithm of its factor, by
/// degrees) is taken out of it.
pub(super) fn pairs(ink: &Ink, courses: &Courses, nib: &dyn Fn(f64) -> f64) -> Found {
    let lag_ms = lag(ink, &courses.tracks, nib);
    let mut pairs = Vec::new();
    for f in &courses.tracks {
        for r in f.reports.iter().filter(|r| r.raw > 0.0) {
            if let Some(s) = f.track.seen(ink, r.t_ms - lag_ms) {
                // The pen drew the line in the direction that it has there, not in the hand's of now.
                pairs.push(Pair::new(r, r.raw, r.speed, s.along, s.width, s.at));
            }
        }
    }
    let mut warnings = Vec::new();
    if courses.not_gone_over > 0.3 {
        warnings.push(format!("{:.0} % of the page's lines were not gone over: what they show of the pen is left out", 100.0 * courses.not_gone_over));
    }
    let placement = [1.0, 0.0, courses.shift[0], 0.0, 1.0, courses.shift[1]];
    Found { pairs, off_mm: courses.off_mm.clone(), lag_ms, placement, not_gone_over: courses.not_gone_over, warnings }
}

/// Each stroke's track, how far its nodes are from their places, the share that is on a line, and which places were gone over.
fn followed<'a>(ink: &Ink, strokes: &'a [Vec<Report>], shift: [f64; 2]) -> (Vec<Followed<'a>>, Vec<[f64; 2]>, f64, Vec<bool>) {
    let (mut tracks, mut off, mut nodes_in_all) = (Vec::new(), Vec::new(), 0);
    let mut seen = vec![false; ink.places.len()];
    for s in strokes {
        let nodes = thinned(s, NODE_MM);
        let on = course(ink, &nodes, shift);
        nodes_in_all += nodes.len();
        for (r, o) in nodes.iter().zip(&on) {
            let Some(o) = o else { continue };
            off.push([0, 1].map(|k| ink.places[o.place].at[k] - r.at[k]));
            let about = o.place.saturating_sub(4)..(o.place + 5).min(seen.len());
            about.filter(|j| distance(ink.places[*j].at, ink.places[o.place].at) < 1.2).for_each(|j| seen[j] = true);
        }
        tracks.push(Followed { reports: s, track: Track::new(ink, &nodes, &on) });
    }
    let share = off.len() as f64 / nodes_in_all.max(1) as f64;
    (tracks, off, share, seen)
}

/// Why the strokes lie on no lines: turned, mirrored, or of another sheet.
fn elsewhere(ink: &Ink, strokes: &[Vec<Report>], share: f64, dpi: f64) -> PairError {
    let all: Vec<Report> = strokes.iter().flat_map(|s| thinned(s, 1.0)).collect();
    let best = |strokes: &[Report]| {
        let laid = placement::starts(ink, strokes, &[1.0]).into_iter().map(|s| registration::rigid(ink, strokes, s.map, Some(1.0)));
        laid.map(|l| (registration::fits(ink, strokes, &l, 2.0).0, l.turn_deg())).max_by(|a, b| a.0.total_cmp(&b.0)).unwrap_or((0.0, 0.0))
    };
    let (turned, turn) = best(&all);
    if turned > 0.7 {
        return PairError::Turned { fits: 100.0 * share, turn, turned: 100.0 * turned };
    }
    let over: Vec<Report> = all.iter().map(|r| Report { at: [ink.size[0] - r.at[0], r.at[1]], along: [-r.along[0], r.along[1]], ..*r }).collect();
    let mirrored = best(&over).0;
    if mirrored > 0.7 { PairError::Mirrored(100.0 * mirrored) } else { PairError::AnotherSheet { fits: 100.0 * share, worst: String::new(), dpi } }
}

/// How late the hand answers: the lag at which raw pressure is left with the least variance over the width.
fn lag(ink: &Ink, tracks: &[Followed], nib: &dyn Fn(f64) -> f64) -> f64 {
    let stride = (tracks.iter().map(|f| f.reports.len()).sum::<usize>() / 4000).max(1);
    let left = |ms: f64| {
        let seen = tracks.iter().flat_map(|f| f.reports.iter().filter(|r| r.raw > 0.0).map(|r| (r.raw, f.track.seen(ink, r.t_ms - ms))));
        let plain = |s: SeenLine| s.width.ln() - nib((-s.along[1]).atan2(s.along[0]).to_degrees());
        let mut points: Vec<(f64, f64, f64)> = seen.step_by(stride).filter_map(|(raw, s)| Some((plain(s?), raw, 1.0))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        let fitted = isotonic::regression(&points);
        let mean = points.iter().map(|p| p.1).sum::<f64>() / points.len().max(1) as f64;
        let (mut rest, mut total) = (0.0, 0.0);
        for (p, f) in points.iter().zip(fitted) {
            rest += (p.1 - f).powi(2);
            total += (p.1 - mean).powi(2);
        }
        if points.len() < 20 || total <= 0.0 { 1.0 } else { rest / total }
    };
    let tried: Vec<[f64; 2]> = LAGS.map(|k| [LAG_MS * f64::from(k), left(LAG_MS * f64::from(k))]).collect();
    let Some(k) = (0..tried.len()).min_by(|a, b| tried[*a][1].total_cmp(&tried[*b][1])) else { return 0.0 };
    // Pressure that says nothing of the width says nothing of the lag.
    if tried[k][1] > 0.95 || Curve::new(&tried).is_err() {
        return 0.0;
    }
    // The lowest point of the parabola through the best and what is 15 ms to either side.
    let (a, b) = (k.saturating_sub(3), (k + 3).min(tried.len() - 1));
    let (l, m, h) = (tried[a][1], tried[k][1], tried[b][1]);
    let bow = l - 2.0 * m + h;
    let step = if b - a == 6 && bow > 1e-12 { (0.5 * (l - h) / bow).clamp(-1.0, 1.0) } else { 0.0 };
    tried[k][0] + 3.0 * LAG_MS * step
}
