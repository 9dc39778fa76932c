//! The brush: the document `eddymist/brush`, with every part of it, inked yet or not.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{InkError, curve::Curve, document::DocumentError};

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
    pub jitter: Option<Jitter>,
    #[serde(default, skip_serializing_if = "Lay::is_swept")]
    pub lay: Lay,
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
    /// Corners `[x, y]` of a polygon or drawn shape in units of the nib's length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub points: Option<Vec<[f64; 2]>>,
    /// Opening in mm at effort 1 along the pull (spring).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub opening_mm: Option<f64>,
    /// Direction of the pull, degrees (spring).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pull_deg: Option<f64>,
    /// Factor on the nib's breadth when the stylus lies flat; 1 is off.
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
    /// A moving window.
    Average { window_ms: f64 },
    /// The nib moves only when the stylus leaves a circle about it.
    Tow { radius_mm: f64 },
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
pub struct Jitter {
    /// Standard deviation as a share of the width.
    pub spread: f64,
    pub correlation_mm: f64,
}

/// How ink is laid along the stroke.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "kebab-case", deny_unknown_fields)]
pub enum Lay {
    #[default]
    Swept,
    /// A drawn shape bent along the whole stroke once.
    Bent {
        shape_svg: String,
        #[serde(default)]
        reversed: bool,
    },
    /// The shape's ends keep their length and the middle repeats.
    CappedRun {
        shape_svg: String,
        caps: [f64; 2],
        #[serde(default)]
        break_over_deg: Option<f64>,
        #[serde(default)]
        reversed: bool,
    },
    /// A bundle of hairs.
    Bristled { hairs: u32, spread: f64, stiffness: f64, load: f64 },
    /// A tip image set down every `spacing` of its size.
    Stamped {
        tip_png: String,
        spacing: f64,
        #[serde(default)]
        size_range: f64,
        #[serde(default)]
        angle_range_deg: f64,
        #[serde(default)]
        spacing_range: f64,
        #[serde(default)]
        scatter: f64,
        #[serde(default)]
        second_tip_png: Option<String>,
        #[serde(default)]
        tooth_png: Option<String>,
        #[serde(default)]
        tooth_high_is_light: bool,
    },
    /// One pixel of the drawing, aliased, no dynamics.
    Pixel,
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
    fn is_full(&self) -> bool {
        *self == Self::default()
    }
}
impl Edge {
    fn is_sharp(&self) -> bool {
        *self == Self::default()
    }
}
impl Lay {
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
            jitter: None,
            lay: Lay::Swept,
            colour: black(),
            seed: 0,
        }
    }

    /// Reads and validates a brush document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        crate::check_document(&value, FORMAT)?;
        let brush: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        brush.validate().map_err(|e| malformed(e.to_string()))?;
        Ok(brush)
    }

    /// What drives the width, with the document's rule for a driver left out.
    pub fn driver(&self) -> Driver {
        self.driver.unwrap_or(if self.pace.is_some() { Driver::Both } else { Driver::Effort })
    }

    /// Checks every number of the brush; the error names the field and what it may be.
    pub fn validate(&self) -> Result<(), InkError> {
        let bad = |field: &str, problem: &str| Err(InkError::BadBrush { field: field.into(), problem: problem.into() });
        if self.format != FORMAT || self.version != 1 {
            return bad("format", "must be eddymist/brush, version 1");
        }
        if self.name.trim().is_empty() {
            return bad("name", "a brush needs a name");
        }
        let weight = Curve::new(&self.weight).map_err(|e| InkError::BadBrush { field: "weight".into(), problem: e.to_string() })?;
        let knots = weight.knots();
        if knots.iter().any(|k| !(0.0..=1.0).contains(&k[0])) {
            return bad("weight", "efforts lie between 0 and 1");
        }
        if knots.iter().any(|k| !(0.001..=100.0).contains(&k[1])) {
            return bad("weight", "widths lie between 0.001 and 100 mm");
        }
        if knots.windows(2).any(|w| w[1][1] < w[0][1]) {
            return bad("weight", "the width may not fall as effort rises");
        }
        if let Some(b) = self.nib.breadth
            && !(b > 0.0 && b <= 1.0)
        {
            return bad("nib.breadth", "the breadth is a share of the length, over 0 and up to 1");
        }
        if !self.nib.angle_deg.is_finite() {
            return bad("nib.angle_deg", "must be a number of degrees");
        }
        if !(0.0..=100.0).contains(&self.floor_mm) {
            return bad("floor_mm", "lies between 0 and 100 mm");
        }
        for (name, taper) in [("lead_in", &self.lead_in), ("lead_out", &self.lead_out)] {
            let Some(t) = taper else { continue };
            let fine = (0.0..=1000.0).contains(&t.length_mm)
                && (0.0..=1.0).contains(&t.share)
                && (0.0..=100.0).contains(&t.tip_width_mm)
                && t.shape > 0.0
                && t.shape <= 10.0
                && (0.0..=1e5).contains(&t.over_mm_s);
            if !fine {
                return bad(name, "length 0 to 1000 mm, share 0 to 1, tip 0 to 100 mm, shape over 0 up to 10, speed 0 or more");
            }
        }
        if let Some(p) = &self.pace {
            let pace = Curve::new(p).map_err(|e| InkError::BadBrush { field: "pace".into(), problem: e.to_string() })?.knots();
            let rises = pace.windows(2).all(|w| w[1][1] >= w[0][1]);
            let falls = pace.windows(2).all(|w| w[1][1] <= w[0][1]);
            if !(rises || falls) || pace.iter().any(|k| k[0] < 0.0 || k[1] <= 0.0) {
                return bad("pace", "factors over 0 that only rise or only fall with the speed");
            }
        }
        for (field, kind) in [("smoothing.position", &self.smoothing.position), ("smoothing.effort", &self.smoothing.effort)] {
            let fine = match kind {
                SmoothingKind::None => true,
                SmoothingKind::Adaptive { min_cutoff_hz, speed_coefficient } => {
                    *min_cutoff_hz > 0.0 && min_cutoff_hz.is_finite() && *speed_coefficient >= 0.0 && speed_coefficient.is_finite()
                }
                SmoothingKind::Average { window_ms: v } | SmoothingKind::Tow { radius_mm: v } | SmoothingKind::Faired { tolerance_mm: v } => {
                    *v >= 0.0 && v.is_finite()
                }
            };
            if !fine {
                return bad(field, "a cut-off over 0 Hz, all else 0 or more");
            }
        }
        if !(0.0..=1.0).contains(&self.opacity.floor) || !(0.0..=1.0).contains(&self.opacity.full) {
            return bad("opacity", "lies between 0 and 1");
        }
        if [self.edge.softness_mm, self.edge.raggedness_um, self.edge.correlation_um].iter().any(|v| !(0.0..=1e5).contains(v)) {
            return bad("edge", "softness, raggedness and correlation are 0 or more");
        }
        let hex = self.colour.strip_prefix('#').unwrap_or("");
        if hex.len() != 6 || !hex.chars().all(|c| c.is_ascii_hexdigit()) {
            return bad("colour", "is written #rrggbb");
        }
        Ok(())
    }

    /// Names the first part that is given and cannot be inked, so that nothing is inked without it in silence.
    pub fn inkable(&self) -> Result<(), InkError> {
        let not = |part: &'static str| Err(InkError::PartNotInked { part });
        match self.nib.shape {
            NibShape::Round | NibShape::Ellipse => {}
            NibShape::Polygon => return not("a polygon nib (nib.shape)"),
            NibShape::Drawn => return not("a drawn nib (nib.shape)"),
            NibShape::Spring => return not("a spring nib (nib.shape)"),
        }
        if self.nib.turn_range_deg != 0.0 {
            return not("a nib angle that varies at random (nib.turn_range_deg)");
        }
        if self.nib.widen_by_tilt.is_some_and(|w| w != 1.0) {
            return not("a nib widened by tilt (nib.widen_by_tilt)");
        }
        if self.pace.is_some() && matches!(self.driver(), Driver::Speed | Driver::Both) {
            return not("a pace (pace)");
        }
        if self.pooling.is_some_and(|p| p.ratio != 1.0) {
            return not("pooling (pooling)");
        }
        for kind in [&self.smoothing.position, &self.smoothing.effort] {
            match kind {
                SmoothingKind::None | SmoothingKind::Adaptive { .. } => {}
                SmoothingKind::Average { .. } => return not("average smoothing (smoothing)"),
                SmoothingKind::Tow { .. } => return not("tow smoothing (smoothing)"),
                SmoothingKind::Faired { .. } => return not("faired smoothing (smoothing)"),
            }
        }
        if self.smoothing.lift_guard_ms != 0.0 {
            return not("a lift guard (smoothing.lift_guard_ms)");
        }
        for taper in [&self.lead_in, &self.lead_out].into_iter().flatten() {
            if taper.over_mm_s != 0.0 {
                return not("a taper with a speed limit (over_mm_s)");
            }
        }
        if self.opacity != Opacity::default() {
            return not("an opacity under 1 (opacity)");
        }
        if self.edge.softness_mm != 0.0 {
            return not("a soft edge (edge.softness_mm)");
        }
        if self.edge.raggedness_um != 0.0 {
            return not("a ragged edge (edge.raggedness_um)");
        }
        if self.edge.strip_png.is_some() {
            return not("a strip (edge.strip_png)");
        }
        if self.jitter.is_some_and(|j| j.spread != 0.0) {
            return not("jitter (jitter)");
        }
        match self.lay {
            Lay::Swept => Ok(()),
            Lay::Bent { .. } => not("a bent lay (lay)"),
            Lay::CappedRun { .. } => not("a capped run (lay)"),
            Lay::Bristled { .. } => not("a bristled lay (lay)"),
            Lay::Stamped { .. } => not("a stamped lay (lay)"),
            Lay::Pixel => not("a pixel lay (lay)"),
        }
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
            opening_mm: None,
            pull_deg: None,
            widen_by_tilt: None,
        }
    }

    /// Breadth over length: 1 for a round nib.
    pub fn ratio(&self) -> f64 {
        if self.shape == NibShape::Ellipse { self.breadth.unwrap_or(1.0) } else { 1.0 }
    }
}
