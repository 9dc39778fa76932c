//! Line roles read off a model sheet: an approved drawing whose lines are pointed at.
//!
//! How: the mean by length of the chosen lines, a tolerance of twice their spread between 5 and 30 %, a swell where widths vary by more than
//! 35 %. A line of which more is taper than body is read over both, but for one width at its tips, and always comes with a swell.
//! Limits: what lies at crossings, corners and masks is read by nobody; the share that was read is told. Common practice, no source.

use eddymist_measure::{
    Picture,
    colour::parse_hex,
    drawing::{self, End, Layer, Line, Place, Plan, Source, palette},
    stats::{mean_sd, moving_mean, quantile_sorted},
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    NamedLayer, WeighedLine,
    guide::{Ends, Page, Role, RoleSource, Weight},
    judge::{rescale, weighed},
    stretches::Standing,
};

/// Ink wider than this share of the page's width is a spotted black.
const WIDEST: f64 = 0.03;
/// CIEDE2000 within which ink has a role's colour.
const COLOUR_TOLERANCE: f64 = 8.0;
/// The least tolerance that is offered, and the most.
const TOLERANCE: [f64; 2] = [0.05, 0.3];
/// Widths that vary more than this share of their mean, from the 2.5th to the 97.5th percentile, swell.
const SWELLS: f64 = 0.35;

/// A measured line of a model sheet; widths are px of the sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct ModelLine {
    /// x, y, width of its places, and which of the sheet's colours it has (as `role`).
    pub line: WeighedLine,
    pub length_px: f64,
    pub mean_px: f64,
    /// Averaged over one width, 2.5th and 97.5th percentile.
    pub least_px: f64,
    pub greatest_px: f64,
    /// Free ends that are tapered, and that are blunt.
    pub tapered: u32,
    pub blunt: u32,
    /// More of it is taper than body: it swells from end to end.
    pub mostly_taper: bool,
    /// Of its length, what its widths were read from.
    pub measured_share: f64,
    /// Widths along what was read, averaged over one width, for what is made of several lines.
    #[serde(skip)]
    widths: Vec<f64>,
}

/// A model sheet's lines.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct ModelSheet {
    pub width_px: u32,
    pub height_px: u32,
    /// `#rrggbb`, the most used first.
    pub colours: Vec<String>,
    pub lines: Vec<ModelLine>,
}

/// A role made of lines of a sheet, and what it was read from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct RoleRead {
    pub role: Role,
    /// The chosen lines' length, px of the sheet, and the share of it that their widths were read from.
    pub length_px: f64,
    pub measured_share: f64,
    /// Of the chosen lines, those that are mostly taper.
    pub mostly_taper: u32,
}

/// Why nothing could be read off a model sheet.
#[derive(Debug, thiserror::Error, Clone, PartialEq, Eq)]
pub enum ModelError {
    #[error("no ink of one solid colour is on this sheet; a model sheet is clean lines on plain paper")]
    NoInk,
    #[error("point at a line first: a role is made of the lines that are chosen")]
    NoLine,
    #[error("line {0} is not on this sheet")]
    Line(usize),
    #[error("the lines chosen have {0}; choose lines of one colour for a role")]
    Colours(String),
}

/// Measures every line of a sheet, by the colours that are found on it.
pub fn read(layers: &[NamedLayer], oversampled: f64) -> Result<ModelSheet, ModelError> {
    let Some(first) = layers.first() else { return Err(ModelError::NoInk) };
    let mut colours: Vec<[u8; 3]> = Vec::new();
    for layer in layers {
        for c in palette::inks(&layer.picture) {
            if !colours.contains(&c) {
                colours.push(c);
            }
        }
    }
    if colours.is_empty() {
        return Err(ModelError::NoInk);
    }
    let (w, h) = (first.picture.width, first.picture.height);
    let roles = colours.iter().map(|c| Source::Colour { rgb: *c, tolerance: COLOUR_TOLERANCE as f32 }).collect();
    let plain: Vec<Layer> = layers.iter().map(|l| Layer { picture: Picture { ..l.picture }, role: None }).collect();
    let mut found = drawing::measure(&plain, &Plan { roles, widest_px: WIDEST * w as f64 });
    rescale(&mut found, oversampled);
    let lines = found.roles.iter().enumerate().flat_map(|(role, r)| r.lines.iter().filter_map(move |l| model_line(role, l))).collect();
    let side = |v: usize| (v as f64 / oversampled).round() as u32;
    let colours = colours.iter().map(|[r, g, b]| format!("#{r:02x}{g:02x}{b:02x}")).collect();
    Ok(ModelSheet { width_px: side(w), height_px: side(h), colours, lines })
}

fn model_line(role: usize, line: &Line) -> Option<ModelLine> {
    let number = |place: Place| line.points.iter().filter(|p| p.place == place).count();
    let ends = |is: bool| line.ends.iter().filter(|e| matches!(e, End::Free { tapered, .. } if *tapered == is)).count() as u32;
    // A short blunt line has more end than body too.
    let mostly_taper = ends(true) > 0 && ends(false) == 0 && number(Place::End) > number(Place::Body);
    let widest = line.points.iter().map(|p| f64::from(p.width)).fold(0.0, f64::max);
    // A tip says how it runs out, not how the line swells.
    let tip = if mostly_taper { (widest / line.step_px).ceil() as usize } else { 0 };
    let inner = line.points.get(tip..line.points.len().saturating_sub(tip)).unwrap_or_default();
    let read = |p: Place| p == Place::Body || (mostly_taper && p == Place::End);
    let body: Vec<f64> = inner.iter().filter(|p| read(p.place)).map(|p| f64::from(p.width)).collect();
    let (mean, _) = mean_sd(&body)?;
    let widths = moving_mean(&body, ((mean / line.step_px) as usize).max(1));
    let mut sorted = widths.clone();
    sorted.sort_by(f64::total_cmp);
    let standing: Vec<(f64, Standing)> =
        line.points.iter().map(|p| (0.0, if p.place == Place::Body { Standing::Within } else { Standing::Unmeasured })).collect();
    Some(ModelLine {
        line: weighed(role, line, &standing),
        length_px: line.length_px(),
        mean_px: mean,
        least_px: quantile_sorted(&sorted, 0.025)?,
        greatest_px: quantile_sorted(&sorted, 0.975)?,
        tapered: ends(true),
        blunt: ends(false),
        mostly_taper,
        measured_share: body.len() as f64 / line.points.len() as f64,
        widths,
    })
}

/// A role made of chosen lines, in the page's px: their mean weight by length, a tolerance of twice their spread, a swell where
/// they swell, and the rule for ends that they all but keep.
pub fn role(sheet: &ModelSheet, page: &Page, name: &str, chosen: &[usize]) -> Result<RoleRead, ModelError> {
    let lines: Vec<&ModelLine> = chosen.iter().map(|i| sheet.lines.get(*i).ok_or(ModelError::Line(*i))).collect::<Result<_, _>>()?;
    let Some(first) = lines.first() else { return Err(ModelError::NoLine) };
    let mut colours: Vec<&str> = lines.iter().filter_map(|l| sheet.colours.get(l.line.role)).map(String::as_str).collect();
    colours.sort_unstable();
    colours.dedup();
    if colours.len() > 1 {
        return Err(ModelError::Colours(colours.join(" and ")));
    }
    let k = page.width_px / f64::from(sheet.width_px.max(1));
    let mut widths: Vec<f64> = lines.iter().flat_map(|l| l.widths.iter().map(|w| w * k)).collect();
    widths.sort_by(f64::total_cmp);
    let (mean, sd) = mean_sd(&widths).ok_or(ModelError::NoLine)?;
    let [lo, hi] = [0.025, 0.975].map(|q| quantile_sorted(&widths, q).unwrap_or(mean));
    let mostly_taper = lines.iter().filter(|l| l.mostly_taper).count();
    let swells = (hi - lo) / mean > SWELLS || 2 * mostly_taper > lines.len();
    // What a line's mean may be off by; where lines swell, their widths along themselves say nothing of that.
    let spread = if swells { mean_sd(&lines.iter().map(|l| l.mean_px * k).collect::<Vec<_>>()).map_or(0.0, |m| m.1) } else { sd };
    let tenth = |v: f64| (v * 10.0).round() / 10.0;
    let tolerance = (2.0 * spread / mean).clamp(TOLERANCE[0], TOLERANCE[1]);
    let (tapered, blunt) = lines.iter().fold((0, 0), |(t, b), l| (t + l.tapered, b + l.blunt));
    let ends = match (tapered, blunt) {
        (t, b) if t + b < 4 => Ends::Any,
        (t, b) if t >= 9 * b => Ends::Tapered,
        (t, b) if b >= 9 * t => Ends::Blunt,
        _ => Ends::Any,
    };
    let colour = sheet.colours.get(first.line.role).filter(|c| parse_hex(c).is_some()).cloned();
    let length_px: f64 = lines.iter().map(|l| l.length_px).sum();
    let measured_px: f64 = lines.iter().map(|l| l.length_px * l.measured_share).sum();
    let role = Role {
        name: name.trim().into(),
        from: RoleSource { colour, tolerance: Some(COLOUR_TOLERANCE), ..RoleSource::default() },
        weight_px: Some(Weight {
            target: (mean * 100.0).round() / 100.0,
            tolerance: (tolerance * 100.0).ceil() / 100.0,
            swell: (swells && tenth(lo) < tenth(hi)).then(|| [tenth(lo), tenth(hi)]),
        }),
        ends,
        judge: true,
        gap_px: None,
    };
    Ok(RoleRead { role, length_px, measured_share: measured_px / length_px.max(1e-9), mostly_taper: mostly_taper as u32 })
}
