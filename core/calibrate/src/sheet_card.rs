//! From a read sampler sheet to the pen card.
//!
//! How: means and spreads of each cell's lines; tapers, nib and edge by their own rooms; a part that the sheet does not show is absent.
//! Limits: what is true of the sheet's scan only (light, resolution) stands in the card's warnings.

use eddymist_measure::{
    scan::nearest_standard,
    sheet::{CellReading, SheetReading, StrokeReading, layout::CellKind},
    stats::{mean_sd, median, quantile_sorted},
};

use crate::{
    nib::{self, Seen},
    pen_card::{CardEdge, CardPooling, FORMAT, LineEdge, Note, PenCard, RampPoint, WidthAtEffort, WidthAtPace, rounded},
    tapers::{self, Flick},
};

/// Places along a ramp's guide at which its width is given.
const RAMP_PLACES: usize = 21;

impl PenCard {
    /// The card of a sheet, but for the cells in `left_out` (by their ids).
    pub fn from_sheet(name: &str, sheet: &SheetReading, left_out: &[String], note: Note) -> Self {
        let cells: Vec<&CellReading> = sheet.cells.iter().filter(|c| !left_out.contains(&c.id)).collect();
        let of = |kind: CellKind| cells.iter().copied().filter(move |c| c.kind == kind);
        let plan = |id: &str| sheet.plan.cells.iter().find(|c| c.id == id);
        let mut warnings = sheet.warnings.clone();
        let bodies = |c: &CellReading| c.strokes.iter().filter_map(|s| s.body).map(|b| b.width_mm).collect::<Vec<f64>>();
        let widths: Vec<WidthAtEffort> = of(CellKind::Effort)
            .filter_map(|c| {
                let w = bodies(c);
                let (width_mm, sd) = mean_sd(&w)?;
                Some(WidthAtEffort {
                    effort: plan(&c.id)?.effort?,
                    width_mm,
                    sd_mm: (w.len() > 1).then_some(sd),
                    lines: w.len() as u32,
                    each_mm: Some(rounded(w, 1e4)),
                    force_n: None,
                })
            })
            .collect();
        let normal = widths.iter().find(|w| w.effort == 0.5).cloned();
        let paces: Vec<WidthAtPace> = of(CellKind::Pace)
            .filter_map(|c| {
                let p = plan(&c.id)?;
                let (w, slot) = (bodies(c), p.strokes.first()?);
                let (width_mm, sd_mm) = mean_sd(&w)?;
                let length = (slot.to[0] - slot.from[0]) * sheet.printed_scale[0];
                Some(WidthAtPace {
                    pace: p.pace.clone()?,
                    speed_mm_s: length / p.seconds?,
                    width_mm,
                    sd_mm,
                    lines: w.len() as u32,
                    each_mm: Some(rounded(w, 1e4)),
                })
            })
            .collect();
        let ramps: Vec<&StrokeReading> = of(CellKind::Ramp).flat_map(|c| &c.strokes).collect();
        let lane = of(CellKind::Ramp).next().and_then(|c| plan(&c.id)).and_then(|c| c.strokes.first()).map(|s| s.to[0] - s.from[0]);
        let ramp = lane.map(|l| ramp(&ramps, l * sheet.printed_scale[0])).filter(|r| r.len() > 4);
        let flicks = |kind: CellKind| -> Vec<Flick> { of(kind).flat_map(|c| &c.strokes).map(|s| Flick::of_reading(s, kind == CellKind::FlickOut)).collect() };
        let rays = of(CellKind::Fan)
            .flat_map(|c| &c.strokes)
            .filter_map(|s| Some([(s.direction_deg * 100.0).round() / 100.0, (s.body?.width_mm * 1e4).round() / 1e4]));
        let rays: Vec<[f64; 2]> = rays.collect();
        let nib = nib::law(&seen(&cells, normal.as_ref())).map(|(nib, says)| {
            warnings.extend(says);
            nib.with_rays(rays)
        });
        let dots: Vec<f64> = of(CellKind::Dot).flat_map(|c| &c.strokes).filter_map(|s| s.dot_mm).collect();
        let held_s = of(CellKind::Dot).next().and_then(|c| plan(&c.id)?.seconds);
        let pooling = normal.as_ref().zip(held_s).and_then(|(n, held_s)| CardPooling::of(&dots, n.width_mm, Some(held_s)));
        let ruled = || of(CellKind::Effort).flat_map(|c| &c.strokes).filter_map(|s| s.body);
        let edges: Vec<LineEdge> = ruled()
            .filter_map(|b| {
                let i = b.intervals_um?;
                Some(LineEdge {
                    raggedness_um: b.raggedness_um,
                    raggedness_interval_um: Some(i.raggedness),
                    correlation_um: b.raggedness_correlation_um,
                    wander_um: b.wander_um,
                    blurriness_um: b.blurriness_um,
                    blurriness_interval_um: Some(i.blurriness),
                    from_mm: b.from_mm,
                })
            })
            .collect();
        for c in &cells {
            let title = plan(&c.id).map_or("", |p| &p.title);
            warnings.extend(c.says.iter().map(|s| format!("{title}: {s}")));
        }
        Self {
            format: FORMAT.into(),
            version: 1,
            name: name.into(),
            resolution_dpi: sheet.resolution_dpi,
            nearest_standard_width_mm: normal.clone().or_else(|| widths.get(widths.len() / 2).cloned()).and_then(|w| nearest_standard(w.width_mm)),
            widths_by_effort: (!widths.is_empty()).then_some(widths),
            ramp,
            nib,
            lead_in: tapers::taper(&flicks(CellKind::FlickIn)),
            lead_out: tapers::taper(&flicks(CellKind::FlickOut)),
            widths_by_pace: (!paces.is_empty()).then_some(paces),
            pooling,
            edge: CardEdge::from_lines(&edges),
            darkness: Some(sheet.darkness),
            hatching: of(CellKind::Hatching).find_map(|c| c.coarseness),
            free_line: free_line(&of(CellKind::Signature).flat_map(|c| &c.free).flat_map(|l| l.width_mm.iter().copied()).collect::<Vec<f64>>()),
            note,
            strip_png: None,
            source: None,
            warnings,
        }
    }
}

/// The free line's widths at every twentieth of its length; none of a line too short to tell.
fn free_line(widths: &[f64]) -> Option<Vec<[f64; 2]>> {
    let mut v = widths.to_vec();
    v.sort_by(f64::total_cmp);
    (v.len() >= 100).then(|| (1..20).filter_map(|k| Some([0.05 * f64::from(k), quantile_sorted(&v, 0.05 * f64::from(k))?])).collect())
}

/// Widths by direction: the fan's rays, the circle, and the lines ruled to the right at normal effort.
fn seen(cells: &[&CellReading], normal: Option<&WidthAtEffort>) -> Vec<Seen> {
    let rays = cells
        .iter()
        .filter(|c| c.kind == CellKind::Fan)
        .flat_map(|c| &c.strokes)
        .filter_map(|s| Some(Seen { direction_deg: s.direction_deg, width_mm: s.body?.width_mm, weight: 1.0 }));
    // Neighbours on the ring are one line: fifteen degrees of it count as one ray.
    let mut bins: Vec<Vec<f64>> = vec![Vec::new(); 24];
    for [d, w] in cells.iter().filter(|c| c.kind == CellKind::Circle).flat_map(|c| &c.by_direction) {
        bins[((d / 15.0) as usize).min(23)].push(*w);
    }
    let ring = bins.iter().enumerate().filter_map(|(i, b)| Some(Seen { direction_deg: 15.0 * i as f64 + 7.5, width_mm: median(b)?, weight: 0.5 }));
    let ruled = normal.map(|n| Seen { direction_deg: 0.0, width_mm: n.width_mm, weight: f64::from(n.lines.min(3)) });
    rays.chain(ring).chain(ruled).collect()
}

/// Mean width of all ramps at even places along the guide; none at places that fewer than half of them reach.
fn ramp(ramps: &[&StrokeReading], lane_mm: f64) -> Vec<RampPoint> {
    (0..RAMP_PLACES)
        .filter_map(|k| {
            let position = k as f64 / (RAMP_PLACES - 1) as f64;
            let at: Vec<f64> = ramps
                .iter()
                .filter_map(|r| {
                    let i = (position * lane_mm - r.begins_mm) / r.step_mm;
                    (i >= 0.0).then(|| r.width_mm.get(i as usize).copied()).flatten()
                })
                .collect();
            let (width_mm, _) = mean_sd(&at)?;
            (at.len() * 2 >= ramps.len()).then_some(RampPoint { position, width_mm })
        })
        .collect()
}
