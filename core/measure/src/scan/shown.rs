//! What the shapes of cuts through thin lines show: of each class of lines its ink, of all the blur and what was clipped; and when that is sure.
//!
//! How: `cuts` makes the classes, `band` fits them. Limits: what is sure is common practice, no source, held by the tests of scans of nothing but
//! thin lines.

use crate::stats::median;

/// Widths may be off so far from the model's, px, and the level and the cut be so unsure.
const FITS_PX: f64 = 0.13;
const CUT_FITS_PX: f64 = 0.07;
const SURE: f64 = 0.0125;
const CUT_SURE: f64 = 0.06;
/// Ink takes no more of the paper's light than this: a fit that says more has lost its way.
const BLACKEST: f64 = 0.985;
/// Of thinner lines than so many px, or so many of the blur, what was cut is not told.
const LEAST_PX: f64 = 3.4;
const BLURS: f64 = 3.2;
/// Cut away less than this, of lines wider than so many of the blur, widths are right but for hundredths.
const CUT_HARD: f64 = 0.35;
const WELL_OVER: f64 = 4.0;
/// Lines thinner than so many blurs do not tell their ink's level from the blur; above this one it may be black ink's.
const HARDLY: f64 = 3.2;
const BLACKISH: f64 = 0.7;

/// Lines of about one width.
pub struct Class {
    /// Levels and the widths there, px.
    pub widths: Vec<(f64, f64)>,
    /// Ink above the last of these levels, px, of what that level lacks to `top`.
    pub above: f64,
    /// Ink across the line, px.
    pub ink_px: f64,
    /// About the highest level that is reached.
    pub top: f64,
    pub count: usize,
}

/// What one class of lines shows of its ink.
#[derive(Debug, Clone, Copy)]
pub struct Ink {
    /// The ink's own level, as it is seen where a line is wide.
    pub level: f64,
    /// How far it lies below paper in what was there before levels were cut.
    pub deep: f64,
    pub width_px: f64,
    /// The deviation of `deep` if every width were off by a fiftieth of a pixel.
    pub sure: f64,
}

/// What the cuts show.
#[derive(Debug, Clone)]
pub struct Shown {
    /// What was cut away from the paper's light, 0 where nothing was; and its deviation, as `Ink::sure`.
    pub cut: f64,
    pub cut_sure: f64,
    /// The blur's deviation, px, the pixels' own squareness apart.
    pub sigma_px: f64,
    /// The root of the mean square by which widths differ from the model's, px.
    pub off_px: f64,
    pub inks: Vec<Ink>,
}

impl Shown {
    /// The ink's own level, where it is told surely: the median of what the classes of lines show.
    pub fn level(&self) -> Option<f64> {
        let sure: Vec<f64> = self.inks.iter().filter(|i| i.sure < SURE && !self.is_lost(i)).map(|i| i.level).collect();
        if self.off_px < FITS_PX { median(&sure) } else { None }
    }

    /// The darkest ink's level.
    pub fn darkest(&self) -> f64 {
        self.inks.iter().map(|i| i.level).fold(0.0, f64::max)
    }

    /// Whether lines are hardly wider than the blur, and about as dark as black ink's then are.
    pub fn is_hardly_wider(&self) -> bool {
        self.mean_px() < HARDLY * self.blur_px() && median(&self.inks.iter().map(|i| i.level).collect::<Vec<_>>()).is_some_and(|l| l > BLACKISH)
    }

    /// Whether it says surely what was cut.
    pub fn is_sure_of_cut(&self) -> bool {
        let lost = self.inks.iter().all(|i| self.is_lost(i));
        self.off_px < CUT_FITS_PX && self.cut_sure < CUT_SURE && !lost && self.widest_px() > LEAST_PX.max(BLURS * self.blur_px())
    }

    /// Whether, once that is made good, widths are right but for hundredths.
    pub fn tells_all(&self) -> bool {
        self.cut < CUT_HARD && self.widest_px() > WELL_OVER * self.blur_px()
    }

    /// Whether the lines are so thin that their middle does not show their ink.
    pub fn is_thin(&self) -> bool {
        self.mean_px() < 5.2 * self.blur_px() + 1.0
    }

    /// The blur's deviation with the pixels' own squareness, px.
    pub fn blur_px(&self) -> f64 {
        self.sigma_px.hypot((1.0f64 / 12.0).sqrt())
    }

    fn is_lost(&self, ink: &Ink) -> bool {
        ink.deep > BLACKEST * (1.0 + self.cut)
    }

    fn widest_px(&self) -> f64 {
        self.inks.iter().map(|i| i.width_px).fold(0.0, f64::max)
    }

    fn mean_px(&self) -> f64 {
        self.inks.iter().map(|i| i.width_px).sum::<f64>() / self.inks.len().max(1) as f64
    }
}
