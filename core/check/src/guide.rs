//! The line guide: the document `eddymist/line-guide`, a production's standard of line weights.
//!
//! Every px is the page's, except an edge's softness. Limits: refused unless sides and targets are over 0, swells ascend and all numbers are finite.

use std::collections::BTreeMap;

use eddymist_ink::{DocumentError, check_document};
use eddymist_measure::{colour::parse_hex, source::Kind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    document::FindingKind,
    limits::{LeftOut, MOST_REGIONS, from_0},
};

pub use crate::limits::Limits;

/// The document's `format`.
pub const FORMAT: &str = "eddymist/line-guide";

/// A production's standard. Every px is the page's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LineGuide {
    /// Always `eddymist/line-guide`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub name: String,
    pub page: Page,
    #[serde(default)]
    pub finish: Finish,
    /// A pixel belongs to the first among those by layer, then by colour, then outline, then rest.
    pub roles: Vec<Role>,
    /// Factor on the targets by the shot's size.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub scale_by_shot: BTreeMap<String, f64>,
    #[serde(default)]
    pub limits: Limits,
    #[serde(default)]
    pub must_mend: Vec<FindingKind>,
    /// Kinds of finding not looked for.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub off: Vec<FindingKind>,
    /// Regions in which nothing is measured or found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub left_out: Vec<LeftOut>,
    /// What the drawings are, where nothing nearer to them says so: drawings of a program, scans or photos. Told from the pictures if left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picture_kind: Option<Kind>,
    /// How drawings come out in print; it needs the page's px_per_mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub print: Option<Print>,
}

/// From the drawn page to the printed one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Print {
    /// Printed size over drawn size.
    pub reduction: f64,
    /// How much wider a line gets on the paper, both edges together.
    #[serde(default)]
    pub ink_gain_mm: f64,
    /// The thinnest line that can be printed.
    pub thinnest_mm: f64,
    /// White this narrow closes.
    #[serde(default)]
    pub closes_mm: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Page {
    pub width_px: f64,
    pub height_px: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub px_per_mm: Option<f64>,
    /// Exposures in a second, for playback; 24 if left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate_fps: Option<f64>,
}

/// Smooth is anti-aliased, hard is aliased, for flood painting.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Finish {
    #[default]
    Smooth,
    Hard,
}

/// Lines that must weigh the same, or marks that are not judged.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Role {
    pub name: String,
    pub from: RoleSource,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weight_px: Option<Weight>,
    #[serde(default)]
    pub ends: Ends,
    #[serde(default = "yes", skip_serializing_if = "is_true")]
    pub judge: bool,
    /// The widest gap in this role's lines, where it is another than the guide's; 0: none is looked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap_px: Option<f64>,
}

/// How the role's ink is told: one of the fields.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct RoleSource {
    /// `#rrggbb`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
    /// CIEDE2000 about the colour.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<f64>,
    /// A layer's name, `*` for any characters.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub layer: Option<String>,
    /// Lines that border the outside.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub outline: bool,
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub rest: bool,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Weight {
    pub target: f64,
    /// A share of the target.
    pub tolerance: f64,
    /// The widths between which a line may live.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub swell: Option<[f64; 2]>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Ends {
    #[default]
    Any,
    Tapered,
    Blunt,
}

fn yes() -> bool {
    true
}
fn is_true(v: &bool) -> bool {
    *v
}

impl Weight {
    /// The least and the greatest mean width.
    pub fn band(&self) -> [f64; 2] {
        [self.target * (1.0 - self.tolerance), self.target * (1.0 + self.tolerance)]
    }

    /// The widths between which a line may live: the swell, or the tolerance where there is none.
    pub fn living(&self) -> [f64; 2] {
        self.swell.unwrap_or(self.band())
    }

    /// The same at another scale.
    pub fn scaled(&self, factor: f64) -> Self {
        Self { target: self.target * factor, tolerance: self.tolerance, swell: self.swell.map(|s| s.map(|v| v * factor)) }
    }
}

/// Sides of a page.
const PAGE_PX: std::ops::RangeInclusive<f64> = 1.0..=1e5;

impl LineGuide {
    /// A guide of which all that may be left out is.
    pub fn new(name: &str, page: Page, roles: Vec<Role>) -> Self {
        Self {
            format: FORMAT.into(),
            version: 1,
            name: name.into(),
            page,
            finish: Finish::default(),
            roles,
            scale_by_shot: BTreeMap::new(),
            limits: Limits::default(),
            must_mend: Vec::new(),
            off: Vec::new(),
            left_out: Vec::new(),
            picture_kind: None,
            print: None,
        }
    }

    /// Reads and validates a guide document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        check_document(&value, FORMAT)?;
        let guide: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        guide.validate().map_err(malformed)?;
        Ok(guide)
    }

    /// What a guide must fulfil; the error says what to change.
    pub fn validate(&self) -> Result<(), String> {
        if self.format != FORMAT || self.version != 1 {
            return Err(format!("this is {} version {}, and {FORMAT} version 1 is needed", self.format, self.version));
        }
        let factor = |v: f64| (0.01..=100.0).contains(&v);
        let sides = [self.page.width_px, self.page.height_px];
        if sides.iter().any(|s| !PAGE_PX.contains(s)) || !self.page.px_per_mm.is_none_or(|v| (0.01..=1e4).contains(&v)) {
            return Err("page: the sides must be 1 to 100000 px, and px_per_mm, if given, 0.01 to 10000".into());
        }
        // No line is wider than its page is long.
        let over_0 = |v: f64| v > 0.0 && v <= sides[0].max(sides[1]);
        if !self.page.rate_fps.is_none_or(|r| (1.0..=240.0).contains(&r)) {
            return Err("page: the frame rate (rate_fps) must be 1 to 240 fps".into());
        }
        if let Some(p) = &self.print {
            if self.page.px_per_mm.is_none() {
                return Err("print: the page needs px_per_mm, or nothing of it is known in mm".into());
            }
            if !factor(p.reduction) || ![p.ink_gain_mm, p.thinnest_mm, p.closes_mm].iter().all(|v| (0.0..=100.0).contains(v)) {
                return Err("print: the reduction must be 0.01 to 100, and ink gain, thinnest and closing widths 0 to 100 mm".into());
            }
        }
        if self.roles.is_empty() {
            return Err("roles: at least one line role is needed".into());
        }
        for (i, role) in self.roles.iter().enumerate() {
            let at = |problem: &str| Err(format!("role “{}”: {problem}", role.name));
            if role.name.trim().is_empty() {
                return Err(format!("role {}: it needs a name", i + 1));
            }
            if self.roles[..i].iter().any(|r| r.name == role.name) {
                return at("another role has this name already");
            }
            let f = &role.from;
            if usize::from(f.colour.is_some()) + usize::from(f.layer.is_some()) + usize::from(f.outline) + usize::from(f.rest) != 1 {
                return at("from must be one of colour, layer, outline or rest");
            }
            if let Some(c) = &f.colour
                && parse_hex(c).is_none()
            {
                return at("the colour is written #rrggbb");
            }
            if f.tolerance.is_some() && f.colour.is_none() {
                return at("a colour tolerance needs a colour");
            }
            if !f.tolerance.is_none_or(from_0) {
                return at("the colour's tolerance must be 0 or more");
            }
            if !role.gap_px.is_none_or(|g| from_0(g) && g <= sides[0].max(sides[1])) {
                return at("gap_px must be 0 or more, and no more than the page is long");
            }
            match &role.weight_px {
                None if role.judge => {
                    return at("a role that is checked needs weight_px; or set judge to false");
                }
                None => {}
                Some(w) => {
                    if !over_0(w.target) {
                        return at("the target must be over 0, and no more than the page is long");
                    }
                    if !from_0(w.tolerance) {
                        return at("the tolerance must be 0 or more");
                    }
                    if let Some([lo, hi]) = w.swell
                        && !(from_0(lo) && over_0(hi) && lo < hi)
                    {
                        return at("the swell must ascend, such as [2.0, 5.5]");
                    }
                }
            }
        }
        self.limits.validate(sides[0].max(sides[1]))?;
        if self.left_out.len() > MOST_REGIONS {
            return Err(format!("left_out: there are more than {MOST_REGIONS} regions"));
        }
        self.left_out.iter().try_for_each(LeftOut::validate)?;
        if let Some((size, _)) = self.scale_by_shot.iter().find(|(_, f)| !factor(**f)) {
            return Err(format!("scale_by_shot: the factor of “{size}” must be 0.01 to 100"));
        }
        Ok(())
    }
}
