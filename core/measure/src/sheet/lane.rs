//! One stroke of a sheet, found in its lane and straightened.
//!
//! How: columns with ink along the lane, a line through their middles, then the ruled line's own measure. Limits: what strays out of the lane, is
//! stained or short is told and not read.

use super::{
    Body, EdgeIntervals, StrokeReading,
    beside::Axes,
    blots::blotted,
    layout::{CellKind, SheetPlan, Slot},
    marks::Placement,
};
use crate::{
    scan::{
        RepeatingStrip, bow, edges,
        find::Candidate,
        levels::{self, InkLevel},
        paper::Flat,
        profile::{self, Straight},
        sampled::sample,
    },
    stats::{median, moving_mean, quantile},
};

/// Why a stroke could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unread {
    Empty,
    Outside,
    Strays,
    Stained,
    /// A drop of ink lies on it.
    Blotted,
    Short,
}

impl Unread {
    pub const ALL: [Self; 6] = [Self::Empty, Self::Outside, Self::Strays, Self::Stained, Self::Blotted, Self::Short];
}

/// The stroke's place in its lane: a candidate in scan px, and the columns with ink along the lane, px from its start.
struct FoundStroke {
    candidate: Candidate,
    first: f64,
    last: f64,
    length: f64,
    /// The lane's borders from the line, px to the left (negative) and right of its direction.
    free: [f64; 2],
}

impl FoundStroke {
    fn dpi(&self, axes: &Axes) -> f64 {
        axes.dpi_across([self.candidate.dx, self.candidate.dy])
    }

    /// Straightened as a ruled line.
    fn ruled(&self, flat: &Flat, axes: &Axes) -> Result<Straight, Unread> {
        straighten(self, flat, self.dpi(axes), 1.0)
    }
}

/// Walks a lane and fits a line through its ink.
fn find(slot: &Slot, kind: CellKind, place: &Placement, flat: &Flat) -> Result<FoundStroke, Unread> {
    let (a, b) = (place.px(slot.from), place.px(slot.to));
    let length = (b[0] - a[0]).hypot(b[1] - a[1]);
    let (dx, dy) = ((b[0] - a[0]) / length, (b[1] - a[1]) / length);
    // The lane's own width in px goes with the scan's scale.
    let reach = slot.reach * length / (slot.to[0] - slot.from[0]).hypot(slot.to[1] - slot.from[1]);
    for p in [a, b] {
        if p[0] < 0.0 || p[1] < 0.0 || p[0] > flat.width as f64 || p[1] > flat.height as f64 {
            return Err(Unread::Outside);
        }
    }
    let step = (reach / 40.0).max(1.0);
    let rows = (2.0 * reach / step) as usize;
    let columns = (length / step) as usize;
    let at = |k: usize, r: usize| {
        let (s, n) = ((k as f64 + 0.5) * step, (r as f64 + 0.5) * step - reach);
        f64::from(sample(flat, a[0] + dx * s - dy * n, a[1] + dy * s + dx * n))
    };
    let threshold = (5.0 * flat.grain).clamp(0.12, 0.35);
    let (mut points, mut stained, mut strays): (Vec<(f64, f64, f64)>, usize, usize) = (Vec::new(), 0, 0);
    let mut values = vec![0.0; rows];
    for k in 0..columns {
        (0..rows).for_each(|r| values[r] = at(k, r));
        // Paper is what most of the lane shows; a stain darkens it.
        let paper = quantile(&values, if kind == CellKind::Fan { 0.05 } else { 0.12 }).unwrap_or(0.0);
        if paper > 0.06 {
            stained += 1;
        }
        let (mut mass, mut moment, mut deep) = (0.0, 0.0, 0.0f64);
        for (r, v) in values.iter().enumerate() {
            if *v > threshold {
                mass += v * step;
                moment += v * step * ((r as f64 + 0.5) * step - reach);
                deep = deep.max(*v);
            }
        }
        let edge = rows / 40 + 1;
        if values[..edge].iter().chain(&values[rows - edge..]).any(|v| *v > 0.3) {
            strays += 1;
        }
        if mass > 0.0 && deep > 0.2 {
            points.push(((k as f64 + 0.5) * step, moment / mass, mass));
        }
    }
    if points.len() * 12 < columns || points.len() < 8 {
        return Err(Unread::Empty);
    }
    if stained * 10 > columns {
        return Err(Unread::Stained);
    }
    if strays * if kind == CellKind::Fan { 12 } else { 50 } > columns {
        return Err(Unread::Strays);
    }
    let (mut slope, mut shift) = (0.0, median(&points.iter().map(|p| p.1).collect::<Vec<_>>()).unwrap_or(0.0));
    let mut near = reach;
    for _ in 0..4 {
        let (mut w, mut s, mut n, mut ss, mut sn) = (0.0, 0.0, 0.0, 0.0, 0.0);
        for p in points.iter().filter(|p| (p.1 - shift - slope * p.0).abs() < near) {
            w += 1.0;
            s += p.0;
            n += p.1;
            ss += p.0 * p.0;
            sn += p.0 * p.1;
        }
        let det = w * ss - s * s;
        if w < 6.0 || det <= 0.0 {
            return Err(Unread::Short);
        }
        slope = (w * sn - s * n) / det;
        shift = (n - slope * s) / w;
        near = (near * 0.5).max(0.06 * reach);
    }
    let masses: Vec<f64> = points.iter().map(|p| p.2).collect();
    let (first, last) = (points[0].0 - 0.5 * step, points[points.len() - 1].0 + 0.5 * step);
    let mid = 0.5 * (first + last);
    let unit = 1f64.hypot(slope);
    let off = shift + slope * mid;
    let candidate = Candidate {
        x: a[0] + dx * mid - dy * off,
        y: a[1] + dy * mid + dx * off,
        dx: (dx - slope * dy) / unit,
        dy: (dy + slope * dx) / unit,
        half: 0.5 * (last - first),
        half_width: 0.5 * quantile(&masses, 0.9).unwrap_or(1.0).max(1.0),
        on: None,
    };
    // The lane's borders run aslant to the line: what is free of guides and neighbours at both its ends.
    let aslant = 0.5 * (last - first) * slope.abs();
    let free = [(-reach - off + aslant).min(-1.0), (reach - off - aslant).max(1.0)];
    // Ink that would be cut off with what lies beyond the lane is not all of the line.
    if free.iter().any(|f| f.abs() < candidate.half_width + 2.5) {
        return Err(Unread::Strays);
    }
    Ok(FoundStroke { candidate, first, last, length, free })
}

/// Straightens what was found. A ruled line keeps `inset` px away from its ends, where the guides are.
fn straighten(found: &FoundStroke, flat: &Flat, dpi: f64, inset: f64) -> Result<Straight, Unread> {
    let px_mm = 25.4 / dpi;
    let margin = (0.3 / px_mm).max(6.0);
    let mut c = found.candidate;
    let lead = (2.0 * c.half_width + 0.6 / px_mm).ceil();
    if inset > 0.0 {
        c.half -= inset.max(lead);
    }
    if c.half < 8.0 {
        return Err(Unread::Short);
    }
    let c = bow::refine(flat, &c, margin).ok_or(Unread::Short)?;
    let mut s = profile::cut(flat, &c, px_mm, margin);
    s.clear_outside(found.free);
    Ok(s)
}

/// Reads one stroke.
pub fn stroke(index: usize, slot: &Slot, kind: CellKind, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Result<StrokeReading, Unread> {
    let found = find(slot, kind, place, flat)?;
    let dpi = found.dpi(axes);
    let px = 25.4 / dpi;
    let ruled = matches!(kind, CellKind::Effort | CellKind::Pace);
    let s = straighten(&found, flat, dpi, if ruled { 1.0 } else { 0.0 })?;
    let mut autocorrelation = Vec::new();
    let body = match kind {
        CellKind::Effort | CellKind::Pace => {
            let line = edges::line(&s, ink).ok_or(Unread::Short)?;
            if blotted(&line.width_mm, line.step_mm) {
                return Err(Unread::Blotted);
            }
            autocorrelation = line.autocorrelation;
            let f = line.figures;
            Some(Body {
                width_mm: f.width_mm.mean,
                sd_mm: f.width_mm.sd,
                raggedness_um: f.raggedness_um.unwrap_or(0.0),
                raggedness_correlation_um: f.raggedness_correlation_um,
                wander_um: f.wander_um,
                blurriness_um: f.blurriness_um.unwrap_or(0.0),
                intervals_um: f.raggedness_interval_um.zip(f.blurriness_interval_um).map(|(raggedness, blurriness)| EdgeIntervals { raggedness, blurriness }),
                overshoot: s.overshoot() / ink.absorptance,
                from_mm: f.from_mm,
            })
        }
        _ => None,
    };
    // Columns with ink, and for a free tip what lies a little beyond it, where the width comes down to nothing.
    let lead = 0.5 * (s.columns as f64) - found.candidate.half;
    let (first, last) = if ruled { s.span } else { ((lead.floor().max(0.0)) as usize, ((s.columns as f64 - lead).ceil() as usize).min(s.columns)) };
    if last < first + 8 {
        return Err(Unread::Short);
    }
    let areas = s.areas();
    let widths: Vec<f64> = areas[first..last].iter().map(|a| (a / ink.absorptance * px).max(0.0)).collect();
    let fine = moving_mean(&widths, ((0.1 / px).round() as usize).max(1));
    let body = body.or_else(|| (kind == CellKind::Fan).then(|| ray_body(&widths, px)).flatten());
    let stride = (((last - first) as f64 / 400.0).ceil() as usize).max(1);
    // Numbers to 0.1 µm.
    let fine_digits = |v: f64| (v * 1e4).round() / 1e4;
    let [left, right] = [false, true].map(|side| {
        let e = edges::edge(&s, ink, side);
        e[first..last].iter().step_by(stride).map(|v| if v.is_finite() { fine_digits(v * px) } else { 0.0 }).collect::<Vec<f64>>()
    });
    let bow: Vec<f64> = s.bow[first..last].iter().step_by(stride).map(|b| fine_digits(b * px)).collect();
    let at = |k: usize| [s.from[0] + s.direction[0] * k as f64, s.from[1] + s.direction[1] * k as f64];
    let (dx, dy) = (slot.to[0] - slot.from[0], slot.to[1] - slot.from[1]);
    let own = dy.atan2(dx) + angle_between(place, slot, s.direction);
    Ok(StrokeReading {
        slot: index as u32,
        from: at(first),
        to: at(last),
        direction_deg: (-own.to_degrees()).rem_euclid(360.0),
        begins_mm: found.first / found.length * dx.hypot(dy),
        length_mm: (found.last - found.first) * px,
        step_mm: px * stride as f64,
        width_mm: fine.iter().step_by(stride).map(|w| fine_digits(*w)).collect(),
        left_mm: left,
        right_mm: right,
        bow_mm: if bow.iter().any(|b| *b != 0.0) { bow } else { Vec::new() },
        autocorrelation,
        body,
        dot_mm: None,
    })
}

/// The mean width of a ruled stroke's body alone, mm.
pub fn width_mm(slot: &Slot, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Result<f64, Unread> {
    edges::width_mm(&find(slot, CellKind::Effort, place, flat)?.ruled(flat, axes)?, ink).ok_or(Unread::Short)
}

/// The turn of the drawn line against its slot, radians.
fn angle_between(place: &Placement, slot: &Slot, direction: [f64; 2]) -> f64 {
    let (a, b) = (place.px(slot.from), place.px(slot.to));
    let meant = (b[1] - a[1]).atan2(b[0] - a[0]);
    let drawn = direction[1].atan2(direction[0]);
    (drawn - meant + std::f64::consts::PI).rem_euclid(std::f64::consts::TAU) - std::f64::consts::PI
}

/// A ray's body: its middle, away from the hub where rays crowd and from the tip where it runs out.
fn ray_body(widths: &[f64], px: f64) -> Option<Body> {
    let n = widths.len();
    let part = &widths[n / 5..n - n / 5];
    let (mean, sd) = crate::stats::mean_sd(part)?;
    Some(Body {
        width_mm: mean,
        sd_mm: sd,
        raggedness_um: 0.0,
        raggedness_correlation_um: None,
        wander_um: None,
        blurriness_um: 0.0,
        intervals_um: None,
        overshoot: 0.0,
        from_mm: part.len() as f64 * px,
    })
}

/// The strip of the first line at normal effort that can be read.
pub fn strip(plan: &SheetPlan, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Option<RepeatingStrip> {
    let cell = plan.cells.iter().find(|c| c.kind == CellKind::Effort && c.effort == Some(0.5))?;
    cell.strokes.iter().find_map(|s| edges::line(&find(s, CellKind::Effort, place, flat).ok()?.ruled(flat, axes).ok()?, ink)?.repeating)
}

/// The ink's level from the widest ruled lines, where no solid patch shows it; none where there is no line at all.
pub fn fitted_level(plan: &SheetPlan, place: &Placement, flat: &Flat, axes: &Axes, warnings: &mut Vec<String>) -> Option<f64> {
    let lines: Vec<Straight> = plan
        .cells
        .iter()
        .filter(|c| c.kind == CellKind::Effort)
        .flat_map(|c| &c.strokes)
        .filter_map(|s| find(s, CellKind::Effort, place, flat).ok()?.ruled(flat, axes).ok())
        .collect();
    (!lines.is_empty()).then(|| levels::ink(&lines, false, || None, warnings).absorptance)
}
