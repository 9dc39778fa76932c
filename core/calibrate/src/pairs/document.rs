//! Pairs of raw pressure and the pen's width of one and the same stroke, as a document, and why none could be made.

use eddymist_ink::{DocumentError, check_document};
use eddymist_measure::source::Source;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{pen_card::CardNib, profile::is_response};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/pressure-pairs";

/// How pressure and ink came together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Way {
    /// The artist's own scanned line, gone over with the stylus.
    Over,
    /// Paper taped over the tablet, drawn on once.
    Paper,
}

impl Way {
    /// In a sentence.
    pub fn words(self) -> &'static str {
        match self {
            Self::Over => "lines that were gone over",
            Self::Paper => "paper over the tablet",
        }
    }
}

/// Pressure and ink of the same strokes, and what they say of pen and tablet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PressurePairs {
    /// Always `eddymist/pressure-pairs`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub way: Way,
    pub pairs: Vec<Pair>,
    /// How late the hand presses after its eye; 0 on paper over the tablet.
    pub lag_ms: f64,
    /// How far the strokes lie from the lines' middle once they are laid over them.
    pub registration_mm: Registration,
    /// Raw pressure to effort on the pen's own scale; empty where the pen's width hardly goes by pressure.
    pub response: Vec<[f64; 2]>,
    /// What is 0 and 1 on that scale.
    pub scale: EffortScale,
    /// Raw pressure to the pen's width, mm, at the pairs' median speed, over all directions.
    pub widths: Vec<[f64; 2]>,
    /// Factors on the width by the hand's speed, mm/s; from paper over the tablet alone, absent where the width does not go by it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pace: Option<Vec<[f64; 2]>>,
    /// Absent where too few directions were drawn.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nib: Option<CardNib>,
    /// What is left of the width once all of it is taken out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub left_over: Option<LeftOver>,
    /// How well strokes that the fit has not seen are foretold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unseen: Option<Unseen>,
    /// By how much the strokes' own named efforts are off that scale, `[effort, off]`; empty where none were drawn.
    pub efforts_off: Vec<[f64; 2]>,
    /// From the strokes' mm to the scan's: `x' = a·x + b·y + c`, `y' = d·x + e·y + f` as `[a, b, c, d, e, f]`.
    pub placement: [f64; 6],
    /// Share of the page's line length that no stroke lies on.
    pub not_gone_over: f64,
    /// Reports missing inside strokes.
    pub dropouts: u32,
    /// What the scan was, and how much of that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Source>,
    pub warnings: Vec<String>,
}

/// A sample of a stroke with the pen's width there.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Pair {
    /// Which of the strokes, from 0.
    pub stroke: u32,
    /// From the strokes' file.
    pub t_s: f64,
    pub raw: f64,
    /// Over 80 ms.
    pub speed_mm_s: f64,
    /// Of travel on the scan, counter-clockwise as seen.
    pub direction_deg: f64,
    pub width_mm: f64,
    /// On the scan.
    pub x_mm: f64,
    pub y_mm: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Registration {
    pub median: f64,
    pub p95: f64,
}

/// Where the scale of effort comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum EffortScale {
    /// The widths by effort of the pen's card.
    Card,
    /// From the thinnest to the widest of the pairs, evenly by width.
    Widths,
}

/// The width's own unsteadiness.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LeftOver {
    /// Standard deviation as a share of the width.
    pub spread: f64,
    /// Over which its autocorrelation falls to 1/e, mm.
    pub correlation_mm: f64,
}

/// Errors of the width, each as a share of the pairs' mean width, on strokes left out one fold at a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Unseen {
    pub median: f64,
    pub p95: f64,
    pub strokes: u32,
}

impl PressurePairs {
    /// Reads and validates a document.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        check_document(&value, FORMAT)?;
        let read: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        if !is_response(&read.response) || read.response.len() == 1 {
            return Err(malformed("response: none, or two to nine knots between 0 and 1, both numbers strictly rising".into()));
        }
        if read.pairs.is_empty() || !read.pairs.iter().all(|p| (0.0..=1.0).contains(&p.raw) && p.width_mm > 0.0 && p.width_mm < 100.0) {
            return Err(malformed("pairs: at least one, raw between 0 and 1, width_mm over 0 and under 100".into()));
        }
        let rises = read.widths.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] >= w[0][1]);
        if !rises || read.widths.is_empty() || !read.widths.iter().all(|k| (0.0..=1.0).contains(&k[0]) && k[1] > 0.0 && k[1] < 100.0) {
            return Err(malformed("widths: at least one knot, raw between 0 and 1 and rising, the width over 0 mm and never falling".into()));
        }
        let paced = |k: &[[f64; 2]]| !k.is_empty() && k.windows(2).all(|w| w[1][0] > w[0][0]) && k.iter().all(|k| k[0] >= 0.0 && (0.05..20.0).contains(&k[1]));
        if !read.pace.as_deref().is_none_or(paced) {
            return Err(malformed("pace: speeds rising from 0 or more, factors between 0.05 and 20".into()));
        }
        Ok(read)
    }
}

/// What the two ways of laying strokes over ink give.
pub(super) struct Found {
    pub pairs: Vec<Pair>,
    pub off_mm: Vec<f64>,
    pub lag_ms: f64,
    pub placement: [f64; 6],
    pub not_gone_over: f64,
    pub warnings: Vec<String>,
}

/// Strokes that were laid over a scan, moved by hand.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Nudge {
    /// Where they lay, as [`PressurePairs::placement`] has it.
    pub placement: [f64; 6],
    /// Turned about the page's middle first (clockwise as the page is seen), then moved, mm of the scan.
    pub turn_deg: f64,
    pub dx_mm: f64,
    pub dy_mm: f64,
}

impl Nudge {
    /// Where they lie then, on a page of this size in mm.
    pub fn laid(&self, size_mm: [f64; 2]) -> [f64; 6] {
        let [a, b, c, d, e, f] = self.placement;
        let (s, k) = self.turn_deg.to_radians().sin_cos();
        let (mx, my) = (size_mm[0] / 2.0, size_mm[1] / 2.0);
        let (x, y) = (c - mx, f - my);
        [k * a - s * d, k * b - s * e, k * x - s * y + mx + self.dx_mm, s * a + k * d, s * b + k * e, s * x + k * y + my + self.dy_mm]
    }
}

/// Why strokes and ink give no pairs.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum PairError {
    #[error("the strokes have no pressure (a mouse reports none); draw them with a stylus")]
    NoPressure,
    #[error("the strokes have no times; record them anew with the time of each report")]
    NoTime,
    #[error("no stroke is as long as 2 mm; draw longer ones")]
    TooShort,
    #[error("the page has no line whose width could be measured; scan it at 300 dpi or more, its lines apart from one another")]
    NoLines,
    #[error(
        "the strokes do not lie on the lines of this scan: {fits:.0} % of their length does{worst}. Is it the scan of another sheet, or at another resolution than {dpi:.0} dpi?"
    )]
    AnotherSheet { fits: f64, worst: String, dpi: f64 },
    #[error(
        "the scan is mirrored: turned over, {0:.0} % of the strokes' length lies on its lines. Scan the side that was drawn on, or mirror the picture back"
    )]
    Mirrored(f64),
    #[error(
        "the strokes do not lie on the lines where the scan has them: {fits:.0} % of their length does, but turned by {turn:.0}° {turned:.0} % would. Turn the scan back to how it lay under the stylus, or add it as paper over the tablet"
    )]
    Turned { fits: f64, turn: f64, turned: f64 },
    #[error("only {0} places of the strokes lie on a line that can be measured, and 60 are needed; draw more, away from other lines")]
    TooFew(usize),
}
