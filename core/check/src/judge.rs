//! One drawing checked against the guide: measured, each role's weight and verdict, what is pinned, and what that suggests.
//!
//! How: `plan` says what to look for, `core/measure` measures, `weights` and `verdict` judge roles, `stretches` and `faults` lines; `words` says it.
//! Limits: a drawing without ink, or without ink of any role's colour, is refused.

use std::collections::BTreeMap;

use eddymist_measure::{
    drawing::{self, DrawingLines, End, Line, LinePoint, Look, Place, edge_px},
    source::Kind,
    stats::median,
};

use crate::{
    NamedLayer, WeighedDrawing, WeighedLine,
    around::Around,
    document::{DrawingCheck, Finding, FindingKind, MOST_FINDINGS, Manifest},
    faults::Judged,
    guide::{Finish, LineGuide, Weight},
    hand_on::suggest,
    limits::LeftOut,
    one_cause,
    plan::{layers_by_role, plan},
    print::losses,
    roles::InDrawing,
    stretches::{Standing, standings},
    weights::Own,
    words,
};

/// Why a drawing could not be judged.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum CheckError {
    #[error("the guide has no shot size “{size}”; it knows {known}")]
    ShotSize { size: String, known: String },
    #[error("no ink of any role's colour is in this drawing; give the guide its colours, or a role for the rest")]
    NoRole,
    #[error("no ink was found: the drawing is empty, or all of it is flat colour")]
    Empty,
}

/// Holds one drawing against the guide. `scale` is vector drawings' own: px of the picture for one px of the drawing.
pub fn check_lines(guide: &LineGuide, file: &str, layers: &[NamedLayer], oversampled: f64, manifest: &Manifest) -> Result<WeighedDrawing, CheckError> {
    let (w, h) = layers.first().map_or((0.0, 0.0), |l| (l.picture.width as f64 / oversampled, l.picture.height as f64 / oversampled));
    let scale = w / guide.page.width_px;
    let shot_factor = match manifest.get("shot_size").filter(|s| !s.is_empty()) {
        None => 1.0,
        Some(size) => *guide
            .scale_by_shot
            .get(size)
            .ok_or_else(|| CheckError::ShotSize { size: size.clone(), known: guide.scale_by_shot.keys().cloned().collect::<Vec<_>>().join(", ") })?,
    };
    let factor = scale * shot_factor;
    let own = Own::new(layers.first().map(|l| &l.picture), guide.finish);
    let weights: Vec<Option<Weight>> = guide.roles.iter().map(|r| r.weight_px.map(|w| w.scaled(factor))).collect();
    let limits = guide.limits.scaled(scale);
    let least_paper = if guide.finish == Finish::Hard { 1.0 } else { 0.5 };
    let look = Look {
        gaps_px: guide.roles.iter().map(|r| if r.judge { r.gap_px.map_or(limits.gap_px, |g| g * scale) * oversampled } else { 0.0 }).collect(),
        region_px2: limits.gap_region_px2 * oversampled * oversampled,
        least_paper_px: least_paper * oversampled,
        off_palette: !guide.off.contains(&FindingKind::OffPalette),
    };
    let (mut lines, islands) = drawing::measure_all(&layers_by_role(guide, layers), &plan(guide, factor * oversampled), &look);
    rescale(&mut lines, oversampled);
    let ink: f64 = lines.roles.iter().map(|r| r.ink_px2).sum();
    let masked: f64 = lines.masked.iter().map(|m| m.ink_px2).sum();
    if ink + masked + lines.off_palette_px2 < 1.0 {
        return Err(CheckError::Empty);
    }
    if lines.roles.iter().all(|r| r.lines.is_empty()) && ink + masked <= lines.off_palette_px2 {
        return Err(CheckError::NoRole);
    }
    let left_out: Vec<LeftOut> = guide.left_out.iter().filter(|r| r.on(manifest.get("shot"))).map(|r| r.scaled(scale)).collect();
    leave_out(&mut lines, &left_out);
    lines.roles.iter_mut().flat_map(|r| &mut r.lines).for_each(soften);
    // Of a photo one thing is said, and nothing judged.
    let photo = layers.first().is_some_and(|l| l.picture.kind == Kind::Photo);
    let mut check = DrawingCheck {
        file: file.into(),
        width_px: w.round() as u32,
        height_px: h.round() as u32,
        scale,
        shot_factor,
        source: None,
        hand_on: None,
        why: None,
        warnings: words::of_page([w, h], [guide.page.width_px, guide.page.height_px]).into_iter().filter(|_| !photo).collect(),
        left_out,
        manifest: manifest.clone(),
        roles: Vec::new(),
        findings: Vec::new(),
        masked: std::mem::take(&mut lines.masked),
        print: Vec::new(),
        pins: Vec::new(),
        not_listed: BTreeMap::new(),
    };
    if lines.beside && !photo {
        check.warnings.push("The sheet does not fill the picture: what lies about it was passed over".into());
    }
    check.warnings.extend(lines.clipped.filter(|_| !photo).map(words::sentence));
    let mut view = Vec::new();
    let around = Around::new(&lines);
    for (i, ((role, weight), found)) in guide.roles.iter().zip(&weights).zip(&lines.roles).enumerate() {
        if found.lines.is_empty() {
            continue;
        }
        let checked = weight.filter(|_| role.judge);
        let judged = checked.filter(|_| !photo);
        let standing: Vec<Vec<(f64, Standing)>> =
            found.lines.iter().map(|l| judged.map_or_else(|| vec![(0.0, Standing::Unmeasured); l.points.len()], |w| standings(l, &w))).collect();
        let here = InDrawing { guide, role, weight: checked, own, photo };
        check.roles.push(here.check(found, &standing));
        check.warnings.extend(judged.and_then(|_| words::of_opacity(&role.name, found.opacity)));
        for (line, s) in found.lines.iter().zip(&standing) {
            check.findings.extend(here.off_weight(line, s));
        }
        if let Some(weight) = judged {
            let judged = Judged { lines: &found.lines, weight, ends: role.ends, finish: guide.finish, limits, page: [w, h], role: i, around: &around };
            check.findings.extend(judged.faults().into_iter().map(|f| words::of_line(guide, role, f)));
        }
        view.extend(found.lines.iter().zip(&standing).map(|(l, s)| weighed(i, l, s)));
    }
    if let (Some(print), Some(px_per_mm)) = (guide.print.as_ref().filter(|_| !photo), guide.page.px_per_mm) {
        let named: Vec<(&str, &Line)> =
            guide.roles.iter().zip(&lines.roles).filter(|(r, _)| r.judge).flat_map(|(r, l)| l.lines.iter().map(|l| (r.name.as_str(), l))).collect();
        check.print = losses(print, px_per_mm * scale, &named);
    }
    one_cause::merge(guide, &mut check);
    if !photo {
        check.findings.extend(words::of_islands(guide, &limits, &islands, oversampled));
    }
    check.findings.retain(|f| !guide.off.contains(&f.kind) && !check.left_out.iter().any(|r| r.holds(f.x, f.y)));
    check.findings.sort_by(|a, b| {
        let off = |f: &Finding| (f.value.max(1e-3) / f.limit.max(1e-3)).ln().abs() * f.length_px.unwrap_or(1.0);
        b.must_mend.cmp(&a.must_mend).then(off(b).total_cmp(&off(a)))
    });
    suggest(guide, &mut check);
    if islands.gaps_left > 0 && !photo {
        check.not_listed.insert(FindingKind::Gap, islands.gaps_left);
    }
    for f in check.findings.drain(MOST_FINDINGS.min(check.findings.len())..) {
        *check.not_listed.entry(f.kind).or_default() += 1;
    }
    Ok(WeighedDrawing { check, lines: view })
}

/// Takes the places of lines that lie in regions left out.
fn leave_out(lines: &mut DrawingLines, regions: &[LeftOut]) {
    if regions.is_empty() {
        return;
    }
    for p in lines.roles.iter_mut().flat_map(|r| &mut r.lines).flat_map(|l| &mut l.points) {
        if regions.iter().any(|r| r.holds(f64::from(p.x), f64::from(p.y))) {
            p.place = Place::LeftOut;
        }
    }
}

/// Takes the places of a line whose edges are wider than it is: of its width nothing can be said that its colour does not decide.
fn soften(line: &mut Line) {
    let own = |p: &LinePoint| matches!(p.place, Place::Body | Place::Unclear);
    let body = || line.points.iter().filter(|p| own(p));
    let of = |what: fn(&LinePoint) -> f64| median(&body().map(what).collect::<Vec<_>>());
    if let (Some(edge), Some(width)) = (of(|p| edge_px(f64::from(p.edge))), of(|p| f64::from(p.width)))
        && edge > width
    {
        line.points.iter_mut().filter(|p| own(p)).for_each(|p| p.place = Place::Soft);
    }
}

pub(crate) fn rescale(lines: &mut DrawingLines, oversampled: f64) {
    if oversampled == 1.0 {
        return;
    }
    let k = oversampled as f32;
    for m in &mut lines.masked {
        (m.x, m.y, m.width, m.height) = (m.x / oversampled, m.y / oversampled, m.width / oversampled, m.height / oversampled);
        m.ink_px2 /= oversampled * oversampled;
    }
    for role in &mut lines.roles {
        role.ink_px2 /= oversampled * oversampled;
        role.toned_px2 /= oversampled * oversampled;
        for line in &mut role.lines {
            line.step_px /= oversampled;
            for p in &mut line.points {
                (p.x, p.y, p.width, p.edge) = (p.x / k, p.y / k, p.width / k, p.edge / k);
            }
            for end in &mut line.ends {
                if let End::Free { taper_px, .. } = end {
                    *taper_px /= oversampled;
                }
            }
        }
    }
}

pub(crate) fn weighed(role: usize, line: &Line, standing: &[(f64, Standing)]) -> WeighedLine {
    let mut places = Vec::new();
    let mut letters = String::new();
    let n = line.points.len();
    // Where nothing could be measured the overlay is no wider than the line beside it.
    let widths = line.known_widths(|p| p.is_hidden() || p == Place::Junction);
    for i in (0..n).step_by(2).chain(n.is_multiple_of(2).then(|| n - 1)) {
        let p = &line.points[i];
        places.extend([p.x, p.y, p.width.min(widths[i] as f32)].map(|v| (v * 10.0).round() as i32));
        letters.push(match standing[i].1 {
            Standing::Unmeasured => '-',
            Standing::Thin => 't',
            Standing::Within => 'w',
            Standing::Heavy => 'h',
        });
    }
    WeighedLine { role, closed: line.closed, places, standing: letters }
}
