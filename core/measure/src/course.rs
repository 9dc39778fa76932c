//! Lines of any course in a patch of coverage: their widths along the way, and how coarse or fine they make a drawing.
//!
//! How: the drawing's own measure on a patch cut out of a scan; coarseness is width over clear distance to the next ink. Limits: ink over
//! twenty widths away is no neighbour.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    Picture,
    bilinear::inside,
    drawing::{Layer, Line, Place, Plan, Source, measure},
    source::Kind,
    stats::{median, quantile},
};

/// Coverage 0…1 row by row, on pixels of one size.
#[derive(Debug, Clone, PartialEq)]
pub struct Patch {
    pub width: usize,
    pub height: usize,
    pub coverage: Vec<f32>,
}

/// How close lines lie to one another for their width.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Coarseness {
    /// Width over the clear distance to the neighbouring line (its 10th percentile): 1 where the tightest paper is as wide as
    /// the lines are.
    pub coarseness: f64,
    /// Median width, and the clear distance's 10th percentile, in the patch's unit.
    pub width: f64,
    pub clear: f64,
    /// Share of the patch that is ink.
    pub tone: f64,
}

/// Nothing further off than this many widths is a neighbour.
const NEIGHBOUR_WIDTHS: f64 = 20.0;

impl Patch {
    /// All lines, measured as those of a drawing are (methods.md, section 5). Grain on paper and on ink is taken off first.
    pub fn lines(&self) -> Vec<Line> {
        let level = |c: f32| {
            if c < 0.08 {
                0.0
            } else if c > 0.92 {
                1.0
            } else {
                c
            }
        };
        // Ink with its coverage as alpha: nothing is left to be unmixed.
        let rgba: Vec<u8> = self.coverage.iter().flat_map(|c| [0, 0, 0, (255.0 * level(*c)).round() as u8]).collect();
        let Some(picture) = Picture::new(self.width, self.height, &rgba) else { return Vec::new() };
        let plan = Plan { roles: vec![Source::Colour { rgb: [0; 3], tolerance: 12.0 }], widest_px: self.width.max(self.height) as f64 };
        // Of a scan, as its grain says, and all of it the one role's.
        measure(&[Layer { picture: picture.of_kind(Kind::Scan), role: Some(0) }], &plan).roles.swap_remove(0).lines
    }

    /// Share that is ink.
    pub fn tone(&self) -> f64 {
        self.coverage.iter().map(|c| f64::from(*c)).sum::<f64>() / self.coverage.len().max(1) as f64
    }

    fn sample(&self, x: f64, y: f64) -> Option<f64> {
        inside(&self.coverage, self.width, self.height, [x, y])
    }

    /// Paper from the line's edge along a direction to the next ink; none where there is none near.
    fn clear(&self, from: [f64; 2], way: [f64; 2], half: f64) -> Option<f64> {
        let mut last = None;
        let mut d = half + 0.5;
        // The ink that it starts from ends first.
        while self.sample(from[0] + way[0] * d, from[1] + way[1] * d)? > 0.5 {
            d += 0.5;
            if d > 2.0 * half + 2.0 {
                return None;
            }
        }
        while d < NEIGHBOUR_WIDTHS * 2.0 * half {
            let c = self.sample(from[0] + way[0] * d, from[1] + way[1] * d)?;
            if c > 0.5 {
                let before: f64 = last.unwrap_or(0.0);
                let cross = d - 0.5 * (c - 0.5) / (c - before).max(1e-9);
                return Some((cross - half).max(0.0));
            }
            last = Some(c);
            d += 0.5;
        }
        None
    }

    /// The coarseness of what is drawn; none where no line has a neighbour. `unit` is the size of a pixel.
    pub fn coarseness(&self, lines: &[Line], unit: f64) -> Option<Coarseness> {
        let (mut widths, mut clear) = (Vec::new(), Vec::new());
        for line in lines {
            for (a, b) in line.points.iter().zip(line.points.iter().skip(2)) {
                if a.place != Place::Body {
                    continue;
                }
                let (dx, dy) = (f64::from(b.x - a.x), f64::from(b.y - a.y));
                let n = dx.hypot(dy).max(1e-9);
                let half = 0.5 * f64::from(a.width);
                widths.push(2.0 * half);
                for way in [[-dy / n, dx / n], [dy / n, -dx / n]] {
                    clear.extend(self.clear([f64::from(a.x), f64::from(a.y)], way, half));
                }
            }
        }
        let (width, clear) = (median(&widths)?, quantile(&clear, 0.1)?);
        Some(Coarseness { coarseness: width / clear.max(1e-3), width: width * unit, clear: clear * unit, tone: self.tone() })
    }
}
