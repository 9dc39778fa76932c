//! The pen card: what a real pen does, as far as it was measured.

use eddymist_measure::{
    course::Coarseness,
    source::Source,
    stats::{mean_sd, median, pooled_sd},
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/pen-card";

/// A part that was not shown is absent, never zero.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PenCard {
    /// Always `eddymist/pen-card`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub name: String,
    pub resolution_dpi: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub widths_by_effort: Option<Vec<WidthAtEffort>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ramp: Option<Vec<RampPoint>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nib: Option<CardNib>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_in: Option<CardTaper>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_out: Option<CardTaper>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub widths_by_pace: Option<Vec<WidthAtPace>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pooling: Option<CardPooling>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge: Option<CardEdge>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub darkness: Option<f64>,
    /// Of the hatched patch, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hatching: Option<Coarseness>,
    /// Widths of the free line by the share of its length that is thinner, `[share, mm]`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub free_line: Option<Vec<[f64; 2]>>,
    #[serde(default, skip_serializing_if = "Note::is_empty")]
    pub note: Note,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub strip_png: Option<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nearest_standard_width_mm: Option<f64>,
    /// What its picture was, and how much of that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Source>,
    #[serde(default)]
    pub warnings: Vec<String>,
}

/// Ruled horizontally at normal pace.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WidthAtEffort {
    pub effort: f64,
    pub width_mm: f64,
    /// Between lines; absent for a single one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sd_mm: Option<f64>,
    pub lines: u32,
    /// Of each line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each_mm: Option<Vec<f64>>,
    /// Force on the paper in newtons, where a kitchen scale under the sheet told it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub force_n: Option<f64>,
}

/// Position 0 to 1 along the ramp's guide.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RampPoint {
    pub position: f64,
    pub width_mm: f64,
}

/// Lengths at effort 0.5.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "law", rename_all = "lowercase", deny_unknown_fields)]
pub enum CardNib {
    Round {
        length_mm: f64,
        residual_mm: f64,
        /// Each ray's direction of travel, degrees, and width, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        rays: Option<Vec<[f64; 2]>>,
    },
    Ellipse {
        length_mm: f64,
        breadth_mm: f64,
        angle_deg: f64,
        residual_mm: f64,
        /// Each ray's direction of travel, degrees, and width, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        rays: Option<Vec<[f64; 2]>>,
    },
    /// `length_mm` is the closed width, `opening_mm` the opening at effort 1.
    Spring {
        length_mm: f64,
        opening_mm: f64,
        pull_deg: f64,
        residual_mm: f64,
        /// Each ray's direction of travel, degrees, and width, mm.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        rays: Option<Vec<[f64; 2]>>,
    },
}

impl CardNib {
    pub fn residual_mm(&self) -> f64 {
        match *self {
            Self::Round { residual_mm, .. } | Self::Ellipse { residual_mm, .. } | Self::Spring { residual_mm, .. } => residual_mm,
        }
    }

    /// The rays that it was read off, `[degrees, mm]`.
    pub fn rays(&self) -> Option<&[[f64; 2]]> {
        let (Self::Round { rays, .. } | Self::Ellipse { rays, .. } | Self::Spring { rays, .. }) = self;
        rays.as_deref()
    }

    /// The same with the rays that it was read off.
    pub(crate) fn with_rays(mut self, seen: Vec<[f64; 2]>) -> Self {
        let (Self::Round { rays, .. } | Self::Ellipse { rays, .. } | Self::Spring { rays, .. }) = &mut self;
        *rays = (!seen.is_empty()).then_some(seen);
        self
    }

    /// The width across a direction of travel, degrees counter-clockwise; of a spring at effort 0.5.
    pub fn width_toward(&self, direction_deg: f64) -> f64 {
        match *self {
            Self::Round { length_mm, .. } => length_mm,
            Self::Ellipse { length_mm, breadth_mm, angle_deg, .. } => {
                let t = (direction_deg - angle_deg).to_radians();
                (length_mm * t.sin()).hypot(breadth_mm * t.cos())
            }
            Self::Spring { length_mm, opening_mm, pull_deg, .. } => length_mm + 0.5 * opening_mm * (direction_deg - pull_deg).to_radians().cos().max(0.0),
        }
    }
}

/// A taper as seen, and its law `tip + (1 − tip)·(d/L)^shape` of the body's width.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CardTaper {
    pub at_50_mm: f64,
    pub at_90_mm: f64,
    /// Of `at_90_mm` between flicks; absent for a single one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sd_mm: Option<f64>,
    pub tip_width_mm: f64,
    pub body_mm: f64,
    pub length_mm: f64,
    pub shape: f64,
    pub flicks: u32,
    /// Nine tenths of each flick, mm; 0 where it ends blunt.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each_90_mm: Option<Vec<f64>>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WidthAtPace {
    pub pace: String,
    pub speed_mm_s: f64,
    pub width_mm: f64,
    pub sd_mm: f64,
    pub lines: u32,
    /// Of each line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each_mm: Option<Vec<f64>>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CardPooling {
    pub dot_mm: f64,
    pub ratio: f64,
    /// Absent where it is not known how long the pen was held.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub held_s: Option<f64>,
    /// Of the dots between one another, and how many they are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sd_mm: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dots: Option<u32>,
    /// The diameter of each dot.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each_mm: Option<Vec<f64>>,
}

impl CardPooling {
    /// Of dots beside a line of normal effort, mm; none of no dot.
    pub(crate) fn of(dots: &[f64], line_mm: f64, held_s: Option<f64>) -> Option<Self> {
        let dot_mm = median(dots)?;
        let sd_mm = mean_sd(dots).map(|m| m.1).filter(|_| dots.len() > 1);
        Some(Self { dot_mm, ratio: dot_mm / line_mm, held_s, sd_mm, dots: Some(dots.len() as u32), each_mm: Some(rounded(dots.to_vec(), 1e4)) })
    }
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CardEdge {
    pub raggedness_um: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_correlation_um: Option<f64>,
    pub blurriness_um: f64,
    /// The hand's: a line's smooth middle about a straight line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wander_um: Option<f64>,
    /// 95 %.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_interval_um: Option<[f64; 2]>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blurriness_interval_um: Option<[f64; 2]>,
    /// Length of line that the figures came from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from_mm: Option<f64>,
    /// Of the raggedness between lines, and how many they are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sd_um: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lines: Option<u32>,
    /// Raggedness of each line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub each_um: Option<Vec<f64>>,
}

/// One line's edge: its figures with their own intervals, and its length.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LineEdge {
    pub raggedness_um: f64,
    pub raggedness_interval_um: Option<[f64; 2]>,
    pub correlation_um: Option<f64>,
    pub wander_um: Option<f64>,
    pub blurriness_um: f64,
    pub blurriness_interval_um: Option<[f64; 2]>,
    pub from_mm: f64,
}

impl CardEdge {
    /// Of several lines the median, with the interval of their mean; of a single one its own figures.
    pub fn from_lines(lines: &[LineEdge]) -> Option<Self> {
        let of = |f: &dyn Fn(&LineEdge) -> f64| lines.iter().map(f).collect::<Vec<f64>>();
        let both = |f: &dyn Fn(&LineEdge) -> f64, own: &dyn Fn(&LineEdge) -> Option<[f64; 2]>| {
            let v = of(f);
            let middle = median(&v)?;
            let interval = if v.len() > 1 { interval_of_mean(mean_sd(&v)?.1, v.len()).map(|h| [(middle - h).max(0.0), middle + h]) } else { own(&lines[0]) };
            Some((middle, interval))
        };
        let (raggedness_um, raggedness_interval_um) = both(&|l| l.raggedness_um, &|l| l.raggedness_interval_um)?;
        let (blurriness_um, blurriness_interval_um) = both(&|l| l.blurriness_um, &|l| l.blurriness_interval_um)?;
        let correlation: Vec<f64> = lines.iter().filter_map(|l| l.correlation_um).collect();
        Some(Self {
            raggedness_um,
            raggedness_correlation_um: median(&correlation),
            blurriness_um,
            wander_um: median(&lines.iter().filter_map(|l| l.wander_um).collect::<Vec<f64>>()),
            raggedness_interval_um,
            blurriness_interval_um,
            from_mm: Some(lines.iter().map(|l| l.from_mm).sum()),
            sd_um: mean_sd(&of(&|l| l.raggedness_um)).map(|m| m.1).filter(|_| lines.len() > 1),
            lines: Some(lines.len() as u32),
            each_um: (lines.len() > 1).then(|| rounded(of(&|l| l.raggedness_um), 100.0)),
        })
    }
}

/// Raw figures, to so many parts of their unit.
pub(crate) fn rounded(values: Vec<f64>, parts: f64) -> Vec<f64> {
    values.into_iter().map(|v| (v * parts).round() / parts).collect()
}

/// Half of the 95 % interval of a mean of `n` values, by Student's t; none of a single value.
pub fn interval_of_mean(sd: f64, n: usize) -> Option<f64> {
    let t = (n > 1).then(|| StudentsT::new(0.0, 1.0, (n - 1) as f64).ok()).flatten()?.inverse_cdf(0.975);
    Some(t * sd / (n as f64).sqrt())
}

/// The artist's own words.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Note {
    pub paper: String,
    pub ink: String,
    pub wear: String,
    #[serde(rename = "use")]
    pub usage: String,
}

impl Note {
    fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

impl PenCard {
    /// Notes the weights that a kitchen scale under the sheet showed, `[effort, grams]`.
    pub fn weigh(&mut self, grams: &[[f64; 2]]) {
        // Standard gravity (CGPM 1901).
        const N_PER_GRAM: f64 = 9.806_65e-3;
        for w in self.widths_by_effort.iter_mut().flatten() {
            w.force_n = grams.iter().find(|g| (g[0] - w.effort).abs() < 1e-9).map(|g| g[1] * N_PER_GRAM);
        }
    }

    /// The standard deviation of a width within one effort, pooled over the efforts, mm; none where no effort has two lines.
    pub fn pooled_spread_mm(&self) -> Option<f64> {
        let groups = self.widths_by_effort.iter().flatten().filter_map(|w| Some((w.sd_mm?, f64::from(w.lines))));
        pooled_sd(groups).map(|(sd, _)| sd)
    }
}
