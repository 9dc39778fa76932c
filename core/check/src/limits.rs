//! What a guide allows before something is a finding, and its regions in which nothing is one.
//!
//! Lengths and areas are px of the guide's page, except an edge's softness, which is the drawing's own. Limits: all are 0 or more.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Limits {
    pub gap_px: f64,
    /// A gap counts where so much would leak.
    pub gap_region_px2: f64,
    pub speck_px2: f64,
    /// Ink smaller than this is no speck.
    pub speck_least_px2: f64,
    pub pinhole_px2: f64,
    /// Paper smaller than this is no pinhole.
    pub pinhole_least_px2: f64,
    pub hook_px: f64,
    pub uneven: f64,
    pub boil: f64,
    /// The 10–90 % width of an edge over which it is soft, in the drawing's own pixels: never scaled.
    pub soft_px: f64,
    /// A role of which a smaller share could be measured is not checked.
    pub least_measured: f64,
}

impl Default for Limits {
    fn default() -> Self {
        Self {
            gap_px: 6.0,
            gap_region_px2: 16.0,
            speck_px2: 12.0,
            speck_least_px2: 1.0,
            pinhole_px2: 8.0,
            pinhole_least_px2: 1.0,
            hook_px: 10.0,
            uneven: 0.2,
            boil: 0.08,
            soft_px: 1.5,
            least_measured: 0.6,
        }
    }
}

impl Limits {
    /// The same for a drawing of another size: lengths by its scale, areas by its square.
    pub fn scaled(&self, scale: f64) -> Self {
        let area = scale * scale;
        Self {
            gap_px: self.gap_px * scale,
            gap_region_px2: self.gap_region_px2 * area,
            speck_px2: self.speck_px2 * area,
            speck_least_px2: self.speck_least_px2 * area,
            pinhole_px2: self.pinhole_px2 * area,
            pinhole_least_px2: self.pinhole_least_px2 * area,
            hook_px: self.hook_px * scale,
            ..*self
        }
    }

    /// What limits must fulfil on a page that is so long.
    pub(crate) fn validate(&self, page_px: f64) -> Result<(), String> {
        let areas = [self.gap_region_px2, self.speck_px2, self.speck_least_px2, self.pinhole_px2, self.pinhole_least_px2];
        let others = [self.gap_px, self.hook_px, self.uneven, self.boil, self.soft_px];
        if !areas.into_iter().chain(others).all(from_0) {
            return Err("limits: all must be 0 or more, and no more than a million".into());
        }
        if [self.gap_px, self.hook_px].into_iter().any(|v| v > page_px) {
            return Err("limits: gap_px and hook_px must be no more than the page is long".into());
        }
        if !(0.0..=1.0).contains(&self.least_measured) {
            return Err("limits: least_measured is a share, 0 to 1".into());
        }
        Ok(())
    }
}

pub(crate) fn from_0(v: f64) -> bool {
    (0.0..=1e6).contains(&v)
}

/// A region in which nothing is measured or found: a slate, lettering, a logo.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LeftOut {
    pub name: String,
    /// On the drawings of this shot only; on every drawing where it is absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shot: Option<String>,
    /// Its corners in order, px: of the page in a guide, of the drawing in a check.
    pub points: Vec<[f64; 2]>,
}

/// A region has so many corners, and a guide so many regions.
const MOST_CORNERS: usize = 1000;
pub(crate) const MOST_REGIONS: usize = 200;

impl LeftOut {
    /// Whether it lies on a drawing of this shot, or of none that is known.
    pub fn on(&self, shot: Option<&String>) -> bool {
        self.shot.is_none() || self.shot.as_ref() == shot
    }

    /// The same on a drawing of another size.
    pub fn scaled(&self, scale: f64) -> Self {
        Self { points: self.points.iter().map(|p| p.map(|v| v * scale)).collect(), ..self.clone() }
    }

    /// Whether a place lies in it, by the even-odd rule.
    pub fn holds(&self, x: f64, y: f64) -> bool {
        let n = self.points.len();
        (0..n).fold(false, |inside, i| {
            let ([ax, ay], [bx, by]) = (self.points[i], self.points[(i + 1) % n]);
            let crosses = (ay > y) != (by > y) && x < ax + (y - ay) / (by - ay) * (bx - ax);
            inside != crosses
        })
    }

    /// What a region must be; the error says what to change.
    pub fn validate(&self) -> Result<(), String> {
        if self.name.trim().is_empty() {
            return Err("left_out: a region needs a name".into());
        }
        if !(3..=MOST_CORNERS).contains(&self.points.len()) {
            return Err(format!("left_out “{}”: a region has 3 to {MOST_CORNERS} corners", self.name));
        }
        if !self.points.iter().flatten().all(|v| v.abs() <= 1e6) {
            return Err(format!("left_out “{}”: corners are px of the page", self.name));
        }
        Ok(())
    }
}
