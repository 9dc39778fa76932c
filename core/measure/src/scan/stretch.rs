//! A blurred edge after a scanner's levels: paper's light brought to white or over it, an encoded value made black.
//!
//! How: a Gaussian edge in light, its levels stretched on encoded values and cut at both ends; what is seen of it is how the step
//! from pixel to pixel depends on the level. Limits: one stretch, one blur. Common practice, no source.

use crate::{
    colour::{encode_f64, linear},
    stats::{phi, quantile},
};

/// Light that is white.
pub const WHITE: f64 = 0.9995;

/// The share of light that may be gone.
const MOST: f64 = 0.6;
/// The root of the mean square by which steps may differ from the curve, as a share of the steepest.
const FITS: f64 = 0.05;
/// A step across the pixels of an edge within 20° of their direction, px: the mean cosine.
const STEP: f64 = 0.98;

/// Levels that were stretched, and the blur of the edges, px.
#[derive(Debug, Clone, Copy)]
pub struct Stretch {
    /// The paper's light before, of which 1 was made white.
    pub paper: f64,
    /// The encoded value that was made black.
    pub black: f64,
    pub sigma_px: f64,
}

/// What is seen of it: the light of paper and of ink.
#[derive(Debug, Clone, Copy)]
pub struct Seen {
    pub paper: f64,
    pub ink: f64,
}

/// Light that black ink on paper leaves, of the paper's, where it is not seen.
pub const BLACK_INK: f64 = 0.045;

/// A Gaussian edge whose levels were stretched.
pub struct Curve {
    pub of: Stretch,
    ink: f64,
    seen: Seen,
    /// Places in deviations, from paper to ink, and the levels there, 0 to 1 of what is left.
    table: Vec<(f64, f64)>,
    /// Between which places nothing is cut.
    pub left: [f64; 2],
}

impl Seen {
    pub fn level(self) -> f64 {
        1.0 - self.ink / self.paper
    }

    /// Whether paper was cut to white.
    pub fn white(self) -> bool {
        self.paper >= WHITE
    }

    /// Whether ink was cut to black.
    pub fn black(self) -> bool {
        self.ink <= 0.0
    }
}

impl Curve {
    pub fn new(of: Stretch, seen: Seen) -> Self {
        // Back through the levels, where nothing was cut there.
        let before = |light: f64| decode(of.black + (1.0 - of.black) * encode_f64(light));
        let paper = if seen.white() { of.paper } else { before(seen.paper) };
        let ink = if !seen.black() { before(seen.ink) } else { (BLACK_INK * paper).min(before(0.0)) };
        let mut out = Self { of: Stretch { paper, ..of }, ink, seen, table: Vec::new(), left: [0.0; 2] };
        out.table = (-160..=160).map(|k| f64::from(k) / 40.0).map(|u| (u, out.level(u))).collect();
        out.left = [out.place(1e-3), out.place(1.0 - 1e-3)];
        out
    }

    fn level(&self, u: f64) -> f64 {
        let light = self.of.paper + (self.ink - self.of.paper) * phi(u);
        let cut = ((encode_f64(light) - self.of.black) / (1.0 - self.of.black)).clamp(0.0, 1.0);
        ((1.0 - decode(cut) / self.seen.paper) / self.seen.level()).clamp(0.0, 1.0)
    }

    /// Where on the edge a level is, deviations.
    pub fn place(&self, r: f64) -> f64 {
        let i = self.table.partition_point(|t| t.1 < r).clamp(1, self.table.len() - 1);
        let (a, b) = (self.table[i - 1], self.table[i]);
        a.0 + (b.0 - a.0) * ((r - a.1) / (b.1 - a.1).max(1e-9)).clamp(0.0, 1.0)
    }

    /// Half the difference between the pixels on both sides of one of this level.
    pub fn step(&self, r: f64) -> f64 {
        let (u, d) = (self.place(r), STEP / self.of.sigma_px);
        0.5 * (self.level(u + d) - self.level(u - d))
    }
}

fn decode(v: f64) -> f64 {
    f64::from(linear(v as f32))
}

/// The stretch and the blur whose curve the steps follow; none where they follow none.
pub fn fit(classes: &[(f64, f64)], seen: Seen, paper: Option<f64>) -> Option<Stretch> {
    let steepest = quantile(&classes.iter().map(|c| c.1).collect::<Vec<_>>(), 0.9)?;
    let off = |c: &Curve| (classes.iter().map(|(r, d)| (c.step(*r) - d).powi(2)).sum::<f64>() / classes.len() as f64).sqrt() / steepest;
    // Where ink shows its own level black was not cut; from what was cut at both ends neither can be told.
    let of = |about: f64, by: f64, on: bool, range: std::ops::Range<f64>, otherwise: f64| -> Vec<f64> {
        if on { (-5..=5).map(|k| about + by * f64::from(k)).filter(|v| range.contains(v)).collect() } else { vec![otherwise] }
    };
    let mut best = (f64::INFINITY, Stretch { paper: 1.2, black: 0.2, sigma_px: 1.2 });
    // A grid, and three finer ones about the best.
    for (by, factor) in [(0.05f64, 1.2f64), (0.015, 1.06), (0.005, 1.02), (0.0015, 1.006)] {
        let about = best.1;
        for black in of(about.black, by, seen.black(), 0.0..MOST, 0.0) {
            let free = paper.is_none() && seen.white();
            for paper in of(about.paper, by, free, 1.0..1.0 + MOST, paper.unwrap_or(seen.paper)) {
                let mut curve = Curve::new(Stretch { paper, black, sigma_px: 1.0 }, seen);
                for k in -8..=8 {
                    curve.of.sigma_px = about.sigma_px * factor.powi(k);
                    let o = off(&curve);
                    if o < best.0 {
                        best = (o, curve.of);
                    }
                }
            }
        }
    }
    (best.0 < FITS && best.1.sigma_px > 0.33).then_some(best.1)
}

/// What is said of it, and of whether all but hundredths is made good.
pub fn said(seen: Seen, restored: bool) -> &'static str {
    match (seen.white(), seen.black(), restored) {
        (true, true, _) => {
            "the paper is clipped to white and the ink to black, which moves every edge: widths may be some hundredths off; scan again with less contrast"
        }
        (true, _, true) => {
            "the paper is clipped to white, which takes the faint feet of every edge: they were made good from what is left of the edges; scan again with less contrast to be sure of the last hundredth"
        }
        (true, ..) => {
            "the paper is clipped to white, which takes the faint feet of every edge: widths may be some hundredths too thin, and those of lines of a few pixels are not to be relied on; scan again with less contrast"
        }
        (_, _, true) => {
            "the ink is clipped to black, which moves every edge outward: they were put back by what is left of the edges; scan again with less contrast to be sure of the last hundredth"
        }
        _ => {
            "the ink is clipped to black, which moves every edge outward: widths may be some hundredths too heavy, and those of lines of a few pixels are not to be relied on; scan again with less contrast"
        }
    }
}
