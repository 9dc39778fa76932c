//! The ink's own level in a scan: how much light solid ink takes, from lines wide enough to show it, else fitted with the blur.
//!
//! How: the robust mode of the core of wide lines; where there is none, a blurred band is fitted to the lines' cuts along the scan's pixels (`cuts`),
//! where that is not sure to the mean profile of each. Limits: a scan without a wide line says so in a warning; of lines hardly wider than the blur,
//! and where white took their feet, ink that may be black is taken for black. Sharpening is told by overshoot beside the line.

use super::{profile::Straight, shown::Shown, stretch::BLACK_INK};
use crate::stats::median;

/// What is said of a sharpened scan.
pub const SHARPENED: &str = "the scan is sharpened: edges are drawn harder than they are, and widths shift; scan again with sharpening off";

/// Fainter than this share of the ink's level it is no line of that ink, or too thin to measure.
pub const FAINT: f64 = 0.5;

const FITTED: &str =
    "no line is wide enough to show the ink's own level; it was fitted together with the blur. A solid patch or a wider line beside it would settle it";
const SUPPOSED: &str =
    "no line is wide enough to show the ink's own level; it is taken for black ink's. A solid patch or a wider line beside it would settle it";

/// Whether an overshoot, over the ink's level, is more than grain and rounding leave.
pub fn is_sharpened(overshoot: f64) -> bool {
    overshoot > 0.03
}

/// The solid ink's absorptance, and the blur of the scan.
pub struct InkLevel {
    pub absorptance: f64,
    pub grain: f64,
}

/// From the widest strokes' middle where one is wide enough to show it; else fitted with the blur. `lost`: white took the feet of edges.
pub fn ink(lines: &[Straight], lost: bool, cuts: impl FnOnce() -> Option<Shown>, warnings: &mut Vec<String>) -> InkLevel {
    let grain = lines.first().map_or(0.0, |l| l.grain);
    let fits: Vec<super::profile::BlurFit> = lines.iter().map(super::profile::fit_blur).collect();
    let shown: Vec<f64> = lines.iter().zip(&fits).filter(|(_, f)| f.width_px > 5.2 * f.sigma_px + 1.0).map(|(l, _)| l.core_level()).collect();
    let absorptance = match median(&shown) {
        Some(a) => a,
        None => {
            let cuts = cuts();
            // Of lines hardly wider than the blur, and where white took their edges' feet, what may be black ink is taken for it.
            let may_be = lines.iter().all(|l| l.mean_profile().iter().copied().fold(0.0, f64::max) > FAINT * (1.0 - BLACK_INK));
            let black = lost && may_be || cuts.as_ref().is_some_and(Shown::is_hardly_wider);
            let (level, says) = match cuts.as_ref().and_then(Shown::level).filter(|_| !(lost && may_be)) {
                None if black => (1.0 - BLACK_INK, SUPPOSED),
                told => (told.or_else(|| median(&fits.iter().map(|f| f.level).collect::<Vec<_>>())).unwrap_or(1.0), FITTED),
            };
            warnings.push(says.into());
            level
        }
    };
    let overshoot: Vec<f64> = lines.iter().map(|l| l.overshoot() / absorptance.max(0.05)).collect();
    if median(&overshoot).is_some_and(is_sharpened) {
        warnings.push(SHARPENED.into());
    }
    InkLevel { absorptance: absorptance.clamp(0.05, 1.0), grain }
}
