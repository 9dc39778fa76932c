//! One drawing held against the guide: each role's weight with its uncertainty and verdict, and what is pinned.
//!
//! The verdict keeps a guard band (ISO 14253-1, JCGM 106): within or outside only when the interval of the mean is.

use eddymist_measure::{
    Picture,
    colour::parse_hex,
    drawing::{self, DrawingLines, End, Layer, Line, Place, Plan, RoleLines, Source, islands::Look},
    stats::quantile_sorted,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    document::{DrawingCheck, Finding, FindingKind, Manifest, RoleCheck, Tapers, Verdict, WeightStats},
    faults::Judged,
    guide::{LineGuide, Role, Weight},
    print::losses,
    said,
    stretches::{Standing, outside, standings},
    takes::hand_on,
};

/// What the measure itself may be off by on clean lines, px, as a standard uncertainty (methods.md, section 5).
const MEASURE_PX: f64 = 0.02;
/// Blocks of this many widths are taken as independent of one another.
const BLOCK_WIDTHS: f64 = 6.0;

/// A layer of a drawing, named after the groups that it lies in with `/` between; a flat picture is one without a name.
#[derive(Debug, Clone, Copy)]
pub struct NamedLayer<'a> {
    pub name: Option<&'a str>,
    pub picture: Picture<'a>,
}

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

/// A judged drawing, with its lines for the eye.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighedDrawing {
    pub check: DrawingCheck,
    pub lines: Vec<WeighedLine>,
}

/// A line as it is drawn over the drawing: every other place of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WeighedLine {
    pub role: usize,
    pub closed: bool,
    /// x, y, width in tenths of a px, three numbers a place.
    pub places: Vec<i32>,
    /// One letter a place: `-` not measured, `t` thin, `w` within, `h` heavy.
    pub standing: String,
}

/// Kinds that this check does not look for.
pub fn not_looked_for(guide: &LineGuide) -> Vec<FindingKind> {
    let mut out: Vec<FindingKind> = guide.off.clone();
    out.sort();
    out.dedup();
    out
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
    let look = Look { gap_px: limits.gap_px * oversampled, roles: guide.roles.iter().map(|r| r.judge).collect() };
    let (mut lines, islands) = drawing::measure_all(&matched(guide, layers), &plan(guide, factor * oversampled), &look);
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
        hand_on: None,
        manifest: manifest.clone(),
        roles: Vec::new(),
        findings: Vec::new(),
        masked: std::mem::take(&mut lines.masked),
        print: Vec::new(),
        pins: Vec::new(),
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
            check.findings.extend(judged.faults().into_iter().map(|f| said::of_line(guide, role, f)));
        }
        view.extend(found.lines.iter().zip(&standing).map(|(l, s)| weighed(i, l, s)));
    }
    if let (Some(print), Some(px_per_mm)) = (&guide.print, guide.page.px_per_mm) {
        let named: Vec<(&str, &Line)> =
            guide.roles.iter().zip(&lines.roles).filter(|(r, _)| r.judge).flat_map(|(r, l)| l.lines.iter().map(|l| (r.name.as_str(), l))).collect();
        check.print = losses(print, px_per_mm * scale, &named);
    }
    check.findings.extend(said::of_islands(guide, &limits, &islands, oversampled));
    check.findings.retain(|f| !guide.off.contains(&f.kind));
    check.findings.sort_by(|a, b| {
        let off = |f: &Finding| (f.value.max(1e-3) / f.limit.max(1e-3)).ln().abs() * f.length_px.unwrap_or(1.0);
        b.must_mend.cmp(&a.must_mend).then(off(b).total_cmp(&off(a)))
    });
    check.hand_on = hand_on(guide, &check.findings);
    Ok(WeighedDrawing { check, lines: view })
}

/// The ink across a line, as the check sees it.
#[derive(Debug, Clone, PartialEq)]
pub struct Across {
    /// One number a step, 0…1, the place in the middle.
    pub coverage: Vec<f32>,
    pub step_px: f64,
}

/// The ink across a line at a place in px of the drawing, over five of the widest target's widths; the normal in degrees.
pub fn across(guide: &LineGuide, layers: &[NamedLayer], oversampled: f64, at: [f64; 2], normal_deg: f64) -> Across {
    let scale = layers.first().map_or(1.0, |l| l.picture.width as f64 / guide.page.width_px);
    let plan = plan(guide, scale);
    let (s, c) = normal_deg.to_radians().sin_cos();
    let half = (2.5 * plan.widest_px).clamp(4.0 * oversampled, 400.0);
    let coverage = drawing::across::across(&matched(guide, layers), &plan, at.map(|v| v * oversampled), [c, s], half);
    Across { coverage, step_px: drawing::across::STEP_PX / oversampled }
}

/// What the measure looks for; `factor` takes the guide's px to the picture's.
pub fn plan(guide: &LineGuide, factor: f64) -> Plan {
    let roles = guide
        .roles
        .iter()
        .map(|r| match (&r.from.colour, &r.from.layer) {
            (Some(c), _) => Source::Colour { rgb: parse_hex(c).unwrap_or([0; 3]), tolerance: r.from.tolerance.unwrap_or(6.0) as f32 },
            (_, Some(_)) => Source::Layer,
            _ if r.from.outline => Source::Outline,
            _ => Source::Rest,
        })
        .collect();
    let widest = guide.roles.iter().filter_map(|r| r.weight_px).map(|w| w.living()[1].max(w.band()[1])).fold(0.0, f64::max);
    Plan { roles, widest_px: widest * factor }
}

/// Gives each named layer to the first role by layer whose pattern fits its name, one of its groups' names, or both with
/// `/` between.
fn matched<'a>(guide: &LineGuide, layers: &[NamedLayer<'a>]) -> Vec<Layer<'a>> {
    layers
        .iter()
        .map(|l| Layer {
            picture: l.picture,
            role: l
                .name
                .and_then(|n| guide.roles.iter().position(|r| r.from.layer.as_ref().is_some_and(|p| fits(p, n) || n.split('/').any(|part| fits(p, part))))),
        })
        .collect()
}

/// Whether a name fits a pattern in which `*` stands for any characters.
pub fn fits(pattern: &str, name: &str) -> bool {
    let parts: Vec<&str> = pattern.split('*').collect();
    let [first, middle @ .., last] = parts.as_slice() else {
        return pattern == name;
    };
    let Some(mut rest) = name.strip_prefix(first) else {
        return false;
    };
    for part in middle {
        let Some(at) = rest.find(part) else {
            return false;
        };
        rest = &rest[at + part.len()..];
    }
    rest.ends_with(last)
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

fn body(lines: &[Line]) -> impl Iterator<Item = f64> {
    lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width))
}

/// Mean and percentiles over the body; leaves `widths` sorted.
fn weigh(widths: &mut [f64], lines: &[Line]) -> Option<WeightStats> {
    let n = widths.len();
    if n < 4 {
        return None;
    }
    let mean = widths.iter().sum::<f64>() / n as f64;
    let sd = (widths.iter().map(|w| (w - mean).powi(2)).sum::<f64>() / (n - 1) as f64).sqrt();
    // The mean's uncertainty from blocks long enough to be independent.
    let block = ((BLOCK_WIDTHS * mean) as usize).max(8);
    let mut blocks: Vec<(f64, f64)> = Vec::new();
    for line in lines {
        let line_widths: Vec<f64> = body(std::slice::from_ref(line)).collect();
        blocks.extend(line_widths.chunks(block).map(|c| (c.iter().sum::<f64>() / c.len() as f64, c.len() as f64)));
    }
    let total: f64 = blocks.iter().map(|b| b.1).sum();
    let variance: f64 = blocks.iter().map(|b| b.1 * b.1 * (b.0 - mean).powi(2)).sum::<f64>() / (total * total);
    let few = blocks.len() as f64 / (blocks.len() as f64 - 1.0).max(0.5);
    let u = (variance * few + MEASURE_PX * MEASURE_PX).sqrt();
    widths.sort_by(f64::total_cmp);
    let q = |p: f64| quantile_sorted(widths, p).unwrap_or(mean);
    Some(WeightStats { mean, interval: [mean - 1.96 * u, mean + 1.96 * u], median: q(0.5), p10: q(0.1), p90: q(0.9), sd })
}

fn verdict(weight: &Weight, s: &WeightStats, sorted: &[f64]) -> Verdict {
    let [lo, hi] = weight.band();
    let half = s.interval[1] - s.mean;
    let (mut heavy, mut thin) = (s.interval[0] > hi, s.interval[1] < lo);
    if let Some([least, most]) = weight.swell {
        heavy |= s.p90 - half > most;
        thin |= s.p10 + half < least;
        if heavy && thin {
            return Verdict::Mixed;
        }
    }
    if heavy {
        return Verdict::Heavy;
    }
    if thin {
        return Verdict::Thin;
    }
    if s.interval[0] >= lo && s.interval[1] <= hi {
        let [living_lo, living_hi] = weight.living();
        let n = sorted.len() as f64;
        let under = sorted.partition_point(|w| *w < living_lo) as f64 / n;
        let over = 1.0 - sorted.partition_point(|w| *w <= living_hi) as f64 / n;
        return if under > 0.1 && over > 0.1 { Verdict::Mixed } else { Verdict::Within };
    }
    Verdict::TooClose
}

fn finding(guide: &LineGuide, role: &Role, weight: &Weight, line: &Line, kind: FindingKind, s: &crate::stretches::Stretch) -> Finding {
    let middle = &line.points[(s.first + s.last) / 2];
    let [lo, hi] = weight.living();
    let limit = if s.heavy { hi } else { lo };
    let length = (s.last - s.first + 1) as f64 * line.step_px;
    let (word, bound) = if s.heavy { ("heavy", "at most") } else { ("thin", "at least") };
    Finding {
        kind,
        role: Some(role.name.clone()),
        x: f64::from(middle.x),
        y: f64::from(middle.y),
        length_px: Some(length),
        value: s.value,
        limit,
        must_mend: guide.must_mend.contains(&kind),
        message: format!("{word} {}: {:.1} px wide for {length:.0} px, {bound} {limit:.1}", role.name, s.value),
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
