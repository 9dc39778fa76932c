//! One drawing checked against the guide: measured, each role's weight and verdict, what is pinned, and what that suggests.
//!
//! How: `plan` says what to look for, `core/measure` measures, `weights` and `verdict` judge roles, `stretches` and `faults` lines; `words` says it.
//! Limits: a drawing without ink, or without ink of any role's colour, is refused.

use std::collections::BTreeMap;

use eddymist_measure::drawing::{self, DrawingLines, End, Line, Look, RoleLines};

use crate::{
    NamedLayer, WeighedDrawing, WeighedLine,
    document::{DrawingCheck, Finding, FindingKind, MOST_FINDINGS, Manifest, RoleCheck, Tapers},
    faults::Judged,
    guide::{LineGuide, Role, Weight},
    hand_on,
    plan::{layers_by_role, plan},
    print::losses,
    stretches::{Standing, outside, standings},
    verdict::verdict,
    weights::{body, weigh},
    words,
};

/// Why a drawing could not be judged.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum CheckError {
    #[error("the guide has no shot size “{size}”; it knows {known}")]
    ShotSize { size: String, known: String },
    #[error("no ink of any role's colour is in this drawing; give the guide its colours, or a role for the rest")]
    NoRole,
    #[error("this drawing is empty: there is no ink on it")]
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
    let weights: Vec<Option<Weight>> = guide.roles.iter().map(|r| r.weight_px.map(|w| w.scaled(factor))).collect();
    let limits = guide.limits.scaled(scale);
    let look = Look {
        gap_px: limits.gap_px * oversampled,
        roles: guide.roles.iter().map(|r| r.judge).collect(),
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
    let mut check = DrawingCheck {
        file: file.into(),
        width_px: w.round() as u32,
        height_px: h.round() as u32,
        scale,
        shot_factor,
        source: None,
        hand_on: None,
        manifest: manifest.clone(),
        roles: Vec::new(),
        findings: Vec::new(),
        masked: std::mem::take(&mut lines.masked),
        print: Vec::new(),
        pins: Vec::new(),
        not_listed: BTreeMap::new(),
    };
    let mut view = Vec::new();
    for (i, ((role, weight), found)) in guide.roles.iter().zip(&weights).zip(&lines.roles).enumerate() {
        if found.lines.is_empty() {
            continue;
        }
        let judged = weight.filter(|_| role.judge);
        let standing: Vec<Vec<(f64, Standing)>> =
            found.lines.iter().map(|l| judged.map_or_else(|| vec![(0.0, Standing::Unmeasured); l.points.len()], |w| standings(l, &w))).collect();
        check.roles.push(role_check(role, judged.as_ref(), found, &standing));
        if let Some(w) = &judged {
            for (line, s) in found.lines.iter().zip(&standing) {
                for stretch in outside(line, s, w, guide.finish) {
                    let kind = if stretch.heavy { FindingKind::Heavy } else { FindingKind::Thin };
                    if !guide.off.contains(&kind) {
                        check.findings.push(finding(guide, role, w, line, kind, &stretch));
                    }
                }
            }
        }
        if let Some(weight) = judged {
            let judged = Judged { lines: &found.lines, weight, ends: role.ends, finish: guide.finish, limits, page: [w, h] };
            check.findings.extend(judged.faults().into_iter().map(|f| words::of_line(guide, role, f)));
        }
        view.extend(found.lines.iter().zip(&standing).map(|(l, s)| weighed(i, l, s)));
    }
    if let (Some(print), Some(px_per_mm)) = (&guide.print, guide.page.px_per_mm) {
        let named: Vec<(&str, &Line)> =
            guide.roles.iter().zip(&lines.roles).filter(|(r, _)| r.judge).flat_map(|(r, l)| l.lines.iter().map(|l| (r.name.as_str(), l))).collect();
        check.print = losses(print, px_per_mm * scale, &named);
    }
    check.findings.extend(words::of_islands(guide, &limits, &islands, oversampled));
    check.findings.retain(|f| !guide.off.contains(&f.kind));
    check.findings.sort_by(|a, b| {
        let off = |f: &Finding| (f.value.max(1e-3) / f.limit.max(1e-3)).ln().abs() * f.length_px.unwrap_or(1.0);
        b.must_mend.cmp(&a.must_mend).then(off(b).total_cmp(&off(a)))
    });
    check.hand_on = hand_on(guide, &check.findings);
    if islands.gaps_left > 0 {
        check.not_listed.insert(FindingKind::Gap, islands.gaps_left);
    }
    for f in check.findings.drain(MOST_FINDINGS.min(check.findings.len())..) {
        *check.not_listed.entry(f.kind).or_default() += 1;
    }
    Ok(WeighedDrawing { check, lines: view })
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

fn role_check(role: &Role, weight: Option<&Weight>, found: &RoleLines, standing: &[Vec<(f64, Standing)>]) -> RoleCheck {
    let length_px: f64 = found.lines.iter().map(Line::length_px).sum();
    let places = found.lines.iter().map(|l| l.points.len()).sum::<usize>().max(1);
    let mut widths: Vec<f64> = body(&found.lines).collect();
    let measured_share = widths.len() as f64 / places as f64;
    let stats = weigh(&mut widths, &found.lines);
    let tapers: Vec<f64> = found
        .lines
        .iter()
        .flat_map(|l| l.ends)
        .filter_map(|e| match e {
            End::Free { taper_px, tapered: true } => Some(taper_px),
            _ => None,
        })
        .collect();
    let counts = standing.iter().flatten().fold([0usize; 3], |mut c, s| {
        match s.1 {
            Standing::Thin => c[0] += 1,
            Standing::Within => c[1] += 1,
            Standing::Heavy => c[2] += 1,
            Standing::Unmeasured => {}
        }
        c
    });
    let total = counts.iter().sum::<usize>();
    RoleCheck {
        role: role.name.clone(),
        length_px,
        measured_share,
        share_within: (total > 0).then(|| counts[1] as f64 / total as f64),
        verdict: weight.zip(stats.as_ref()).map(|(w, s)| verdict(w, s, &widths)),
        weight_px: stats,
        tapers_px: eddymist_measure::stats::median(&tapers).map(|median| Tapers { median, ends: tapers.len() as u32 }),
    }
}

fn finding(guide: &LineGuide, role: &Role, weight: &Weight, line: &Line, kind: FindingKind, s: &crate::stretches::Stretch) -> Finding {
    let middle = &line.points[(s.first + s.last) / 2];
    let [lo, hi] = weight.living();
    let limit = if s.heavy { hi } else { lo };
    let length = (s.last - s.first + 1) as f64 * line.step_px;
    Finding {
        kind,
        role: Some(role.name.clone()),
        x: f64::from(middle.x),
        y: f64::from(middle.y),
        length_px: Some(length),
        value: s.value,
        limit,
        must_mend: guide.must_mend.contains(&kind),
        message: words::off_weight(&role.name, s.heavy, s.value, length, limit),
        points: None,
        region: None,
        dismissed: None,
    }
}

pub(crate) fn weighed(role: usize, line: &Line, standing: &[(f64, Standing)]) -> WeighedLine {
    let mut places = Vec::new();
    let mut letters = String::new();
    let n = line.points.len();
    for i in (0..n).step_by(2).chain(n.is_multiple_of(2).then(|| n - 1)) {
        let p = &line.points[i];
        places.extend([p.x, p.y, p.width].map(|v| (v * 10.0).round() as i32));
        letters.push(match standing[i].1 {
            Standing::Unmeasured => '-',
            Standing::Thin => 't',
            Standing::Within => 'w',
            Standing::Heavy => 'h',
        });
    }
    WeighedLine { role, closed: line.closed, places, standing: letters }
}
