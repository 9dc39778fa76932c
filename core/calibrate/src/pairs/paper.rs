//! Paper taped over the tablet: the strokes laid over the scan of what they drew, and the width of the line under each report.
//!
//! How: the best of several starts (`placement`), or where somebody laid them, turned, sheared and bent (`registration`). Limits: where other ink lies on the same place, by another
//! stroke or the same one coming back, there is no pair.

use super::{
    document::{Found, Pair, PairError},
    lines::{Ink, Report, STEP_MM, distance, dot, thinned},
    placement,
    registration::{self, Laid},
};

/// Places of a stroke that are laid over the lines are so far apart, mm.
const APART_MM: f64 = 0.8;
/// A stroke lies on a line within this, mm.
const ON_MM: f64 = 1.0;
/// Of the strokes' length this share must lie on lines, and the nearer half of it so near their middle, mm.
const FITS: f64 = 0.6;
const NEAR_MM: f64 = 0.35;
/// Nothing further off a line's middle is a pair, mm.
const PAIR_MM: f64 = 0.6;
/// The same place reached after more than this, mm of the way, is drawn over.
const BACK_MM: f64 = 4.0;

pub(super) fn pairs(ink: &Ink, strokes: &[Vec<Report>], dpi: f64, sized: bool, start: Option<[f64; 6]>) -> Result<Found, PairError> {
    let all: Vec<Report> = strokes.iter().flat_map(|s| thinned(s, APART_MM)).collect();
    let scales = scales(ink, &all, sized);
    let starts = |strokes: &[Report]| placement::starts(ink, strokes, &scales).iter().map(|s| s.map).collect::<Vec<_>>();
    let (rough, fits) = laid(ink, &all, start.map_or_else(|| starts(&all), |s| vec![s]), sized);
    if fits.0 < FITS || fits.1 > NEAR_MM {
        let over: Vec<Report> = all.iter().map(|r| Report { at: [-r.at[0], r.at[1]], along: [-r.along[0], r.along[1]], ..*r }).collect();
        let mirrored = laid(ink, &over, starts(&over), sized).1;
        if mirrored.0 >= FITS && mirrored.1 <= NEAR_MM {
            return Err(PairError::Mirrored(100.0 * mirrored.0));
        }
        let worst = worst(ink, &all, &rough).map_or(String::new(), |(k, share)| format!(" (of stroke {} only {:.0} %)", k + 1, 100.0 * share));
        return Err(PairError::AnotherSheet { fits: 100.0 * fits.0, worst, dpi });
    }
    let laid = registration::fine(ink, &all, &rough);
    let mut warnings = said(&laid);
    // Strokes that lie on no line: drawn elsewhere.
    let astray: Vec<usize> = strokes.iter().filter(|s| share(ink, &thinned(s, APART_MM), &laid) < 0.5).map(|s| s[0].stroke).collect();
    if !astray.is_empty() {
        let names: Vec<String> = astray.iter().take(6).map(|k| (k + 1).to_string()).collect();
        let more = if astray.len() > 6 { format!(" and {} more", astray.len() - 6) } else { String::new() };
        warnings.push(format!("stroke {}{more}: under half of it lies on a line of the scan, so it is left out", names.join(", ")));
    }
    let mut found = under(ink, strokes.iter().filter(|s| !astray.contains(&s[0].stroke)), &laid);
    if found.not_gone_over > 0.3 {
        warnings.push(format!("{:.0} % of the page's lines have no stroke: they were drawn without the tablet, or are printed", 100.0 * found.not_gone_over));
    }
    found.warnings = warnings;
    Ok(found)
}

/// Sizes that are tried: as it is, and where the strokes' millimetres are assumed, as their length and their extent have it.
fn scales(ink: &Ink, strokes: &[Report], sized: bool) -> Vec<f64> {
    let mut out = vec![1.0];
    if sized {
        return out;
    }
    let extent = |at: &dyn Fn(usize) -> [f64; 2], n: usize| {
        let (l, h) = (0..n).map(at).fold(([f64::MAX; 2], [f64::MIN; 2]), |(l, h), p| ([0, 1].map(|k| l[k].min(p[k])), [0, 1].map(|k| h[k].max(p[k]))));
        (h[0] - l[0]).hypot(h[1] - l[1])
    };
    let wide = extent(&|i| ink.places[i].at, ink.places.len()) / extent(&|i| strokes[i].at, strokes.len()).max(1e-6);
    let long = ink.length() / (strokes.len() as f64 * APART_MM).max(1e-6);
    for s in [wide, long] {
        if (0.3..3.0).contains(&s) && out.iter().all(|o: &f64| (o / s - 1.0).abs() > 0.03) {
            out.push(s);
        }
    }
    out
}

/// The best place of the strokes from these starts, and how they fit there.
fn laid(ink: &Ink, strokes: &[Report], starts: Vec<[f64; 6]>, sized: bool) -> (Laid, (f64, f64)) {
    let mut best: Option<(Laid, (f64, f64))> = None;
    let still: Vec<Laid> = starts.into_iter().map(|s| registration::rigid(ink, strokes, s, sized.then_some(1.0))).collect();
    // Millimetres that are assumed may not even be square.
    let more: Vec<Laid> = if sized { Vec::new() } else { still.iter().filter_map(|l| registration::stretched(ink, strokes, l)).collect() };
    for laid in still.into_iter().chain(more) {
        let fits = registration::fits(ink, strokes, &laid, ON_MM);
        // A size that shrinks the strokes to nothing fits anywhere.
        let sane = (0.25..4.0).contains(&laid.scale());
        if sane && best.as_ref().is_none_or(|b| fits.0 - fits.1.min(1.0) > b.1.0 - b.1.1.min(1.0)) {
            best = Some((laid, fits));
        }
    }
    best.unwrap_or((Laid::by([1.0, 0.0, 0.0, 0.0, 1.0, 0.0]), (0.0, f64::MAX)))
}

fn share(ink: &Ink, strokes: &[Report], laid: &Laid) -> f64 {
    registration::fits(ink, strokes, laid, ON_MM).0
}

/// The stroke of which the least lies on a line.
fn worst(ink: &Ink, strokes: &[Report], laid: &Laid) -> Option<(usize, f64)> {
    let by = strokes.chunk_by(|a, b| a.stroke == b.stroke).map(|s| (s[0].stroke, share(ink, s, laid)));
    by.min_by(|a, b| a.1.total_cmp(&b.1))
}

/// What is said of where the page lay.
fn said(laid: &Laid) -> Vec<String> {
    let mut out = Vec::new();
    let turn = laid.turn_deg();
    if turn.abs() > 135.0 {
        out.push("the page lies upside down on the scan: it was turned".into());
    } else if turn.abs() > 45.0 {
        out.push(format!("the page lies on its side on the scan: it was turned by {:.0}°", turn));
    }
    let scale = laid.scale();
    if (scale - 1.0).abs() > 0.02 {
        out.push(format!(
            "the strokes' millimetres are {:.3} of the scan's, which is believed: trace a card in the warm-up so that speeds and lengths are right elsewhere too",
            1.0 / scale
        ));
    }
    out
}

/// The pairs of strokes that were laid over the ink.
fn under<'a>(ink: &Ink, strokes: impl Iterator<Item = &'a Vec<Report>> + Clone, laid: &Laid) -> Found {
    let scale = laid.scale();
    let mut visits: Vec<Vec<(usize, f64)>> = vec![Vec::new(); ink.places.len()];
    let mut on = Vec::new();
    for s in strokes.clone() {
        for r in s {
            let at = laid.place(r.at);
            let k = ink.nearest(at, laid.turned(r.along), PAIR_MM);
            if let Some(k) = k
                && visits[k].last().is_none_or(|v| v.0 != r.stroke || r.way - v.1 > 0.5)
            {
                visits[k].push((r.stroke, r.way));
            }
            on.push((r, at, k));
        }
    }
    let alone = |k: usize, r: &Report| {
        let about = k.saturating_sub(3)..(k + 4).min(ink.places.len());
        about.filter(|j| ink.places[*j].line == ink.places[k].line).flat_map(|j| &visits[j]).all(|v| v.0 == r.stroke && (v.1 - r.way).abs() * scale < BACK_MM)
    };
    let mut pairs = Vec::new();
    let mut off_mm = Vec::new();
    for (r, at, k) in on {
        let Some(k) = k else { continue };
        let p = ink.places[k];
        off_mm.push(dot([at[0] - p.at[0], at[1] - p.at[1]], [-p.along[1], p.along[0]]).abs());
        if r.raw <= 0.0 || !alone(k, r) {
            continue;
        }
        // Between the place and the one before or behind it.
        let t = dot([at[0] - p.at[0], at[1] - p.at[1]], p.along) / STEP_MM;
        let next = if t >= 0.0 { (k + 1).min(ink.places.len() - 1) } else { k.saturating_sub(1) };
        let q = if ink.places[next].line == p.line { ink.places[next] } else { p };
        let Some((a, b)) = p.width.zip(q.width) else { continue };
        let along = laid.turned(r.along);
        pairs.push(Pair::new(r, r.raw, r.speed * scale, along, a + t.abs().min(1.0) * (b - a), at));
    }
    let seen = |k: usize| {
        let about = k.saturating_sub(4)..(k + 5).min(ink.places.len());
        about.filter(|j| ink.places[*j].line == ink.places[k].line && distance(ink.places[*j].at, ink.places[k].at) < 2.0).any(|j| !visits[j].is_empty())
    };
    let bare = (0..ink.places.len()).filter(|k| !seen(*k)).count();
    Found { pairs, off_mm, lag_ms: 0.0, placement: laid.map, not_gone_over: bare as f64 / ink.places.len().max(1) as f64, warnings: Vec::new() }
}
