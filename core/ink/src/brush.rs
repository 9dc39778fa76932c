//! The brush: the document `eddymist/brush`, with every part of it, inked yet or not.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{document::DocumentError, older};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/brush";

/// A brush, independent of any device: it starts from effort. What is left out is off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Brush {
    /// Always `eddymist/brush`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub name: String,
    pub nib: Nib,
    /// Nib length in mm by effort: `[effort, mm]` knots, joined by a monotone cubic; it never falls.
    pub weight: Vec<[f64; 2]>,
    /// The least width in mm before the tapers narrow it.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub floor_mm: f64,
    /// What drives the width; left out it is `both` where there is a pace, else `effort`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub driver: Option<Driver>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_in: Option<Taper>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_out: Option<Taper>,
    /// Factor on the width by speed of the hand: `[mm/s, factor]` knots.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pace: Option<Vec<[f64; 2]>>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pooling: Option<Pooling>,
    #[serde(default, skip_serializing_if = "Smoothing::is_off")]
    pub smoothing: Smoothing,
    #[serde(default, skip_serializing_if = "Opacity::is_full")]
    pub opacity: Opacity,
    #[serde(default, skip_serializing_if = "Edge::is_sharp")]
    pub edge: Edge,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub chance: Option<Chance>,
    #[serde(default, skip_serializing_if = "StrokeKind::is_swept")]
    pub stroke: StrokeKind,
    /// The ink runs from the stroke's end to its start.
    #[serde(default, skip_serializing_if = "is_false")]
    pub reversed: bool,
    /// `#rrggbb`, sRGB.
    #[serde(default = "black")]
    pub colour: String,
    #[serde(default)]
    pub seed: u64,
}

/// The nib's shape and how it is held.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Nib {
    pub shape: NibShape,
    /// Breadth over length, 0…1 (ellipse).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub breadth: Option<f64>,
    /// Direction of the nib's length, degrees.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub angle_deg: f64,
    #[serde(default, skip_serializing_if = "AngleFrom::is_page")]
    pub angle_from: AngleFrom,
    /// The angle varies at random within ± half of this range, degrees.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub turn_range_deg: f64,
    /// Corners `[x, y]` of a polygon or drawn shape in units of the nib's length; y down.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub points: Option<Vec<[f64; 2]>>,
    /// Further pieces of a drawn shape.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pieces: Vec<Vec<[f64; 2]>>,
    /// Opening in mm at effort 1 along the pull (spring).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub opening_mm: Option<f64>,
    /// Direction of the pull, degrees (spring).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pull_deg: Option<f64>,
    /// Factor on the nib's breadth when the stylus lies flat (elevation 20° and under; none from 60° up); 1 is off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub widen_by_tilt: Option<f64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum NibShape {
    Round,
    Ellipse,
    Polygon,
    Drawn,
    Spring,
}

/// What the nib's angle is fixed to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum AngleFrom {
    #[default]
    Page,
    Stylus,
    Travel,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Driver {
    Effort,
    Speed,
    Both,
    None,
}

/// A taper multiplies the width by `t + (1 − t)·(d/L)^shape`, `t = min(1, tip_width_mm / width there)`,
/// `L = min(length_mm, share × stroke)`, d the distance from the end.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Taper {
    pub length_mm: f64,
    /// The share of the stroke that it may take at most, 0…1.
    #[serde(default = "one")]
    pub share: f64,
    #[serde(default)]
    pub tip_width_mm: f64,
    #[serde(default = "one")]
    pub shape: f64,
    /// Under this speed of the hand the taper does not apply; 0 is always.
    #[serde(default)]
    pub over_mm_s: f64,
}

/// How long one stroke's tapers are where it has its own, mm: 0 is a blunt end; none, and its brush's serves.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct OwnTapers {
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lead_in_mm: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lead_out_mm: Option<f64>,
}

impl OwnTapers {
    /// Whether the stroke has none: its brush's serve at both ends.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }
}

/// While the pen dwells the width grows toward `ratio` with time constant `time_s`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Pooling {
    pub ratio: f64,
    pub time_s: f64,
}

/// Smoothing of position and of effort, separately.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Smoothing {
    pub position: SmoothingKind,
    pub effort: SmoothingKind,
    /// The last milliseconds in which pressure falls and direction jumps are cut; 0 is off.
    pub lift_guard_ms: f64,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "lowercase", deny_unknown_fields)]
pub enum SmoothingKind {
    #[default]
    None,
    /// The 1€ filter (Casiez, Roussel, Vogel, CHI 2012).
    Adaptive { min_cutoff_hz: f64, speed_coefficient: f64 },
    /// A moving mean.
    Average { span_ms: f64 },
    /// The nib moves only when the stylus leaves a circle about it.
    Tow { slack_mm: f64 },
    /// A least-squares curve within a tolerance, once the pen lifts.
    Faired { tolerance_mm: f64 },
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Opacity {
    pub floor: f64,
    pub full: f64,
}

#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Edge {
    /// 10–90 % distance of the edge, mm; 0 is sharp.
    pub softness_mm: f64,
    /// Standard deviation of each edge about its line, µm.
    pub raggedness_um: f64,
    /// Distance at which the edge's autocorrelation has fallen to 1/e, µm.
    pub correlation_um: f64,
    /// The levelled scan of a real line as a data URI.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub strip_png: Option<String>,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Chance {
    /// Standard deviation as a share of the width.
    pub spread: f64,
    pub correlation_mm: f64,
}

/// How ink goes down along the stroke.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum StrokeKind {
    /// The nib, swept along the stroke.
    #[default]
    Swept,
    /// A drawn shape laid along the stroke.
    Shaped(Shaped),
    /// A bundle of hairs.
    DryBrush {
        hairs: u32,
        /// How unlike in length the hairs are: the shortest touches from this effort on, 0…1.
        spread: f64,
        /// 1: the bundle keeps its shape; 0: its hairs trail by half its length.
        snap: f64,
        /// How much ink the hairs hold: 0 none, 1 enough for a firm and slow stroke, more is wetter.
        ink_held: f64,
    },
    /// A tip image set down every so often.
    Stamped(Stamped),
    /// One pixel of the drawing, aliased, no dynamics.
    Pixel,
}

/// A drawn shape along the stroke.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Shaped {
    /// SVG path data: x runs along the stroke, y down; any unit. Its height is the nib's length; with `keep` it is in one piece.
    pub shape_path: String,
    pub ends: Ends,
    /// Shares of the shape's length that its start and its end take, where they are kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub caps: Option<[f64; 2]>,
    /// Broken and capped where the stroke turns by more than this within a nib's length, degrees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub break_over_deg: Option<f64>,
}

/// What becomes of a shape's ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Ends {
    /// The shape is stretched along the whole stroke once. It keeps its proportions: the longer the stroke, the thicker.
    Stretch,
    /// They keep their length and the middle repeats: a long stroke is as thick as a short one.
    Keep,
}

/// A tip image set down every `spacing` of the nib's length.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stamped {
    /// PNG in a data URI: coverage alone, its longer side is the nib's length.
    pub tip_png: String,
    pub spacing: f64,
    /// Ranges within which chance varies: of size and spacing as shares, of the angle in degrees, sideways in nib lengths.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub size_range: f64,
    #[serde(default, skip_serializing_if = "is_zero")]
    pub angle_range_deg: f64,
    #[serde(default, skip_serializing_if = "is_zero")]
    pub spacing_range: f64,
    #[serde(default, skip_serializing_if = "is_zero")]
    pub stray: f64,
    /// A second tip that must also cover.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub second_tip_png: Option<String>,
    /// Heights of the paper with their resolution; they repeat over the page.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paper_png: Option<String>,
    /// Whether light pixels of the paper are its high fibres, or dark ones.
    #[serde(default, skip_serializing_if = "is_false")]
    pub paper_high_is_light: bool,
}

impl Default for Opacity {
    fn default() -> Self {
        Self { floor: 1.0, full: 1.0 }
    }
}

fn one() -> f64 {
    1.0
}
fn black() -> String {
    "#000000".into()
}
fn is_false(v: &bool) -> bool {
    !v
}
fn is_zero(v: &f64) -> bool {
    *v == 0.0
}
impl AngleFrom {
    fn is_page(&self) -> bool {
        *self == Self::Page
    }
}
impl Smoothing {
    fn is_off(&self) -> bool {
        *self == Self::default()
    }
}
impl Opacity {
    /// The opacity at an effort.
    pub fn opacity(&self, effort: f64) -> f64 {
        self.floor + (self.full - self.floor) * effort.clamp(0.0, 1.0)
    }

    fn is_full(&self) -> bool {
        *self == Self::default()
    }
}
impl Edge {
    fn is_sharp(&self) -> bool {
        *self == Self::default()
    }
}
impl StrokeKind {
    fn is_swept(&self) -> bool {
        *self == Self::Swept
    }
}

impl Brush {
    /// A round brush of one width, in mm.
    pub fn plain(name: &str, width_mm: f64) -> Self {
        Self {
            format: FORMAT.into(),
            version: 1,
            name: name.into(),
            nib: Nib::round(),
            weight: vec![[0.0, width_mm], [1.0, width_mm]],
            floor_mm: 0.0,
            driver: None,
            lead_in: None,
            lead_out: None,
            pace: None,
            pooling: None,
            smoothing: Smoothing::default(),
            opacity: Opacity::default(),
            edge: Edge::default(),
            chance: None,
            stroke: StrokeKind::Swept,
            reversed: false,
            colour: black(),
            seed: 0,
        }
    }

    /// Reads and validates a brush document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let mut value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        crate::check_document(&value, FORMAT)?;
        older::renamed(&mut value);
        let brush: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        brush.validate().map_err(|e| malformed(e.to_string()))?;
        Ok(brush)
    }

    /// A brush so many times as heavy: widths, floor, tips and opening.
    pub fn weighed(&self, factor: f64) -> Self {
        let mut b = self.clone();
        b.weight.iter_mut().for_each(|w| w[1] *= factor);
        b.floor_mm *= factor;
        b.nib.opening_mm = b.nib.opening_mm.map(|o| o * factor);
        for t in [&mut b.lead_in, &mut b.lead_out].into_iter().flatten() {
            t.tip_width_mm *= factor;
        }
        b
    }

    /// The brush for a stroke with tapers of its own: they have their length whatever share of the stroke that is and however fast the hand
    /// was, and the tip and shape of the brush's.
    pub fn tapered(&self, own: OwnTapers) -> Self {
        let of = |brush: Option<Taper>, own: Option<f64>| match own {
            None => brush,
            Some(mm) if mm <= 0.0 => None,
            Some(length_mm) => {
                let (tip_width_mm, shape) = brush.map_or((0.0, 1.0), |t| (t.tip_width_mm, t.shape));
                Some(Taper { length_mm, share: 1.0, tip_width_mm, shape, over_mm_s: 0.0 })
            }
        };
        Self { lead_in: of(self.lead_in, own.lead_in_mm), lead_out: of(self.lead_out, own.lead_out_mm), ..self.clone() }
    }

    /// What drives the width, with the document's rule for a driver left out.
    pub fn driver(&self) -> Driver {
        self.driver.unwrap_or(if self.pace.is_some() { Driver::Both } else { Driver::Effort })
    }
}

impl Nib {
    /// A round nib.
    pub fn round() -> Self {
        Self {
            shape: NibShape::Round,
            breadth: None,
            angle_deg: 0.0,
            angle_from: AngleFrom::Page,
            turn_range_deg: 0.0,
            points: None,
            pieces: Vec::new(),
            opening_mm: None,
            pull_deg: None,
            widen_by_tilt: None,
        }
    }

    /// Breadth over length: 1 for a round nib; of a shape, how much broader or narrower than drawn.
    pub fn ratio(&self) -> f64 {
        if matches!(self.shape, NibShape::Round | NibShape::Spring) { 1.0 } else { self.breadth.unwrap_or(1.0) }
    }

    /// The rings of a polygon or drawn shape; none for other nibs, or where they are missing.
    pub fn rings(&self) -> Option<Vec<Vec<[f64; 2]>>> {
        matches!(self.shape, NibShape::Polygon | NibShape::Drawn).then_some(())?;
        let rings: Vec<_> = self.points.iter().chain(&self.pieces).cloned().collect();
        (!rings.is_empty()).then_some(rings)
    }
}
