//! A scan whose contrast was stretched until paper is clipped to white, or ink to black: the feet of its edges, made good.
//!
//! How: what blurs an edge blurs it evenly to both sides, so that the step from pixel to pixel depends on the level as the
//! slope of a Gaussian edge does; a clipped one has lost its end of that curve. The shares that are gone and the blur are fitted to
//! the steps of all edges that run level or upright, between clear paper and full ink. Levels are then put back where they were,
//! and beyond the last that is left the Gaussian's own foot is laid. Limits: a blur that is far from a Gaussian's, edges sharper
//! than a third of a pixel, lines too thin to show full ink, and a scan without enough edges keep what they have, which is said.
//! Common practice, no source.

use rayon::prelude::*;

use super::profile::phi;
use crate::{
    colour::{encode_f64, linear},
    stats::{median, quantile, solve},
};

/// Light that is white.
pub const WHITE: f64 = 0.9995;

/// Classes of levels.
const CLASSES: usize = 24;
/// Edge pixels that a class needs, and classes that are needed.
const LEAST: usize = 25;
const LEAST_CLASSES: usize = 14;
/// Paper and full ink are looked for so far from an edge's pixel, px.
const REACH: usize = 8;
/// The share of light that may be gone.
const MOST: f64 = 0.6;
/// The root of the mean square by which steps may differ from the curve, as a share of the steepest.
const FITS: f64 = 0.05;
/// A step further off than this is no edge's.
const OUTLIER: f64 = 0.15;
/// How far the foot is laid, in deviations of the blur, and at most, px.
const FOOT: f64 = 3.5;
const FOOT_PX: f64 = 8.0;
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

/// What is said of it.
pub fn said(seen: Seen, restored: bool) -> &'static str {
    match (seen.white(), seen.black(), restored) {
        (true, true, _) => {
            "the paper is clipped to white and the ink to black, which moves every edge: widths may be some hundredths off; scan again with less contrast"
        }
        (true, _, true) => {
            "the paper is clipped to white, which takes the faint feet of every edge: they were made good from what is left of the edges; scan again with less contrast to be sure of the last hundredth"
        }
        (true, ..) => {
            "the paper is clipped to white, which takes the faint feet of every edge: widths may be some hundredths too thin; scan again with less contrast"
        }
        (_, _, true) => {
            "the ink is clipped to black, which moves every edge outward: they were put back by what is left of the edges; scan again with less contrast to be sure of the last hundredth"
        }
        _ => "the ink is clipped to black, which moves every edge outward: widths may be some hundredths too heavy; scan again with less contrast",
    }
}

/// Light that black ink leaves, of the paper's, where black was cut.
const BLACK_INK: f64 = 0.045;

/// One edge pixel: its level between paper and ink, the step from pixel to pixel there, and its place from the middle of the page (−1 to 1).
struct Step {
    level: f64,
    step: f64,
    place: [f64; 2],
}

/// How the levels were stretched, over the page.
pub struct Stretched {
    curves: Vec<Option<Curve>>,
    seen: Seen,
    width: usize,
}

/// Sides of the pieces of a page that are taken for evenly lit, px.
const PIECE: usize = 64;

/// How the levels were stretched; none where that cannot be told. In: absorptance, the light that was scanned, and what is seen of it.
pub fn find(data: &[f32], light: &[f32], w: usize, h: usize, seen: Seen) -> Option<Stretched> {
    if w < PIECE || h < PIECE {
        return None;
    }
    let cut = pieces(data, light, w, seen);
    let steps = steps(data, &cut, w, h, seen.level() as f32);
    let mut by_class = vec![Vec::new(); CLASSES];
    steps.iter().for_each(|s| by_class[((s.level * CLASSES as f64) as usize).min(CLASSES - 1)].push(s.step));
    let classes: Vec<(f64, f64)> =
        by_class.iter().enumerate().filter(|(_, s)| s.len() >= LEAST).filter_map(|(k, s)| Some(((k as f64 + 0.5) / CLASSES as f64, median(s)?))).collect();
    if classes.len() < LEAST_CLASSES {
        return None;
    }
    let of = fit(&classes, seen)?;
    let slope = if seen.white() { slope(&steps, of, seen) } else { [0.0; 3] };
    let across = w.div_ceil(PIECE);
    let curves = cut.par_iter().enumerate().map(|(k, cut)| {
        let at = place((k % across) * PIECE + PIECE / 2, (k / across) * PIECE + PIECE / 2, w, h);
        cut.then(|| Curve::new(Stretch { paper: (of.paper + slope[0] + slope[1] * at[0] + slope[2] * at[1]).max(1.0), ..of }, seen))
    });
    Some(Stretched { curves: curves.collect(), seen, width: w })
}

fn place(x: usize, y: usize, w: usize, h: usize) -> [f64; 2] {
    [2.0 * x as f64 / w as f64 - 1.0, 2.0 * y as f64 / h as f64 - 1.0]
}

/// Of every piece of the page whether levels were cut there: paper that is darker than white, as in a shadow, was not.
fn pieces(data: &[f32], light: &[f32], w: usize, seen: Seen) -> Vec<bool> {
    let (across, down) = (w.div_ceil(PIECE), (data.len() / w).div_ceil(PIECE));
    (0..across * down)
        .into_par_iter()
        .map(|k| {
            let (mut paper, mut white) = (0, 0);
            for y in (k / across * PIECE..((k / across + 1) * PIECE).min(data.len() / w)).step_by(3) {
                for i in (k % across * PIECE..((k % across + 1) * PIECE).min(w)).step_by(3).map(|x| y * w + x) {
                    paper += usize::from(data[i].abs() < 0.25);
                    white += usize::from(f64::from(light[i]) >= WHITE);
                }
            }
            !seen.white() || 2 * white > paper
        })
        .collect()
}

/// The stretch and the blur whose curve the steps follow; none where they follow none.
fn fit(classes: &[(f64, f64)], seen: Seen) -> Option<Stretch> {
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
            for paper in of(about.paper, by, seen.white(), 1.0..1.0 + MOST, seen.paper) {
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

/// How the paper's light runs over the page, from the one that fits it as a whole: constant, and by place. One step of Gauss and Newton.
fn slope(steps: &[Step], of: Stretch, seen: Seen) -> [f64; 3] {
    const BY: f64 = 0.01;
    let curves = [-BY, BY].map(|d| Curve::new(Stretch { paper: (of.paper + d).max(1.0), ..of }, seen));
    let (mut a, mut b) = ([[0.0; 3]; 3], [0.0; 3]);
    for s in steps {
        let [low, high] = curves.each_ref().map(|c| c.step(s.level));
        let (off, per) = (s.step - 0.5 * (low + high), (high - low) / (curves[1].of.paper - curves[0].of.paper));
        if off.abs() < OUTLIER {
            let row = [per, per * s.place[0], per * s.place[1]];
            for i in 0..3 {
                b[i] += row[i] * off;
                (0..3).for_each(|j| a[i][j] += row[i] * row[j]);
            }
        }
    }
    // Where lines lie on one side of the page alone, its slope is not seen: none is supposed.
    (0..3).for_each(|k| a[k][k] *= 1.0 + 1e-3);
    solve(a, b).filter(|s| s.iter().map(|v| v.abs()).sum::<f64>() < 0.5).map_or([0.0; 3], |s| [0.0, s[1], s[2]])
}

/// Steps at edges between paper and full ink, level or upright.
fn steps(data: &[f32], cut: &[bool], w: usize, h: usize, level: f32) -> Vec<Step> {
    let across = w.div_ceil(PIECE);
    let rows: Vec<Vec<Step>> = (REACH..h - REACH)
        .into_par_iter()
        .map(|y| {
            let mut out = Vec::new();
            for x in REACH..w - REACH {
                let i = y * w + x;
                let r = data[i] / level;
                if !(0.01..0.99).contains(&r) || !cut[y / PIECE * across + x / PIECE] {
                    continue;
                }
                let over = |s: usize| (data[i + s] - data[i - s]) / (2.0 * level);
                let (u, v) = (over(1), over(w));
                let (step, d, other) = if u.abs() > v.abs() { (1, u, v) } else { (w, v, u) };
                if other.abs() > 0.36 * d.abs() {
                    continue;
                }
                let at = |k: isize| data[(i as isize + k * step as isize * if d > 0.0 { 1 } else { -1 }) as usize] / level;
                let rises = (1..REACH as isize).take_while(|k| at(*k) >= at(k - 1) - 0.02).any(|k| at(k) > 0.97 && at(k + 1) > 0.97);
                let falls = (1..REACH as isize).take_while(|k| at(-k) <= at(1 - k) + 0.02).any(|k| at(-k) < 0.012 && at(-k - 1) < 0.012);
                if rises && falls {
                    out.push(Step { level: f64::from(r), step: f64::from(d.abs()), place: place(x, y, w, h) });
                }
            }
            out
        })
        .collect();
    rows.into_iter().flatten().collect()
}

/// A Gaussian edge whose levels were stretched.
pub struct Curve {
    of: Stretch,
    ink: f64,
    seen: Seen,
    /// Places in deviations, from paper to ink, and the levels there, 0 to 1 of what is left.
    table: Vec<(f64, f64)>,
    /// Between which places nothing is cut.
    left: [f64; 2],
}

impl Seen {
    fn level(self) -> f64 {
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
    fn new(of: Stretch, seen: Seen) -> Self {
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
    fn place(&self, r: f64) -> f64 {
        let i = self.table.partition_point(|t| t.1 < r).clamp(1, self.table.len() - 1);
        let (a, b) = (self.table[i - 1], self.table[i]);
        a.0 + (b.0 - a.0) * ((r - a.1) / (b.1 - a.1).max(1e-9)).clamp(0.0, 1.0)
    }

    /// Half the difference between the pixels on both sides of one of this level.
    fn step(&self, r: f64) -> f64 {
        let (u, d) = (self.place(r), STEP / self.of.sigma_px);
        0.5 * (self.level(u + d) - self.level(u - d))
    }
}

fn decode(v: f64) -> f64 {
    f64::from(linear(v as f32))
}

/// Puts the levels back, and lays the feet of edges that are gone.
pub fn restore(data: &mut [f32], w: usize, h: usize, of: &Stretched) {
    let level = of.seen.level();
    let was: Vec<f32> = data.iter().map(|a| a / level as f32).collect();
    // Edges of real ink alone: what is no more than a speck of paper's noise has no foot.
    let near = |i: usize| -> bool {
        let (x, y) = ((i % w) as isize, (i / w) as isize);
        (-2..=2).any(|v| (-2..=2).any(|u| inside(x + u, y + v, w, h).is_some_and(|j| was[j] > 0.4)))
    };
    let edges: Vec<bool> = was.par_iter().enumerate().with_min_len(1 << 14).map(|(i, r)| (0.004..0.996).contains(r) && near(i)).collect();
    let places: Vec<f32> =
        was.par_iter().enumerate().with_min_len(1 << 14).map(|(i, r)| of.at(i).filter(|_| edges[i]).map_or(0.0, |c| c.place(f64::from(*r)) as f32)).collect();
    data.par_chunks_mut(w).enumerate().for_each(|(y, row)| {
        for (x, out) in row.iter_mut().enumerate() {
            let i = y * w + x;
            let Some(curve) = of.at(i) else { continue };
            let sigma = curve.of.sigma_px;
            let reach = (FOOT * sigma).min(FOOT_PX).ceil() as isize;
            let put = |share: f64| (share * level) as f32;
            if edges[i] {
                *out = put(phi(f64::from(places[i])));
                continue;
            }
            let (foot, cut) = if was[i] <= 0.5 { (-1.0f32, of.seen.white()) } else { (1.0, of.seen.black()) };
            if !cut {
                continue;
            }
            // The nearest place on the edge says how far out this one is.
            let mut far = f32::INFINITY;
            for v in -reach..=reach {
                for u in -reach..=reach {
                    if let Some(j) = inside(x as isize + u, y as isize + v, w, h)
                        && edges[j]
                        && places[j] * foot > -0.5
                    {
                        far = far.min(places[j] * foot + ((u * u + v * v) as f32).sqrt() / sigma as f32);
                    }
                }
            }
            let least = if foot < 0.0 { -curve.left[0] } else { curve.left[1] };
            if far.is_finite() {
                let share = 1.0 - phi(f64::from(far).max(least));
                *out = put(if foot < 0.0 { share } else { 1.0 - share });
            }
        }
    });
}

impl Stretched {
    fn at(&self, i: usize) -> Option<&Curve> {
        let (x, y) = (i % self.width, i / self.width);
        self.curves[y / PIECE * self.width.div_ceil(PIECE) + x / PIECE].as_ref()
    }
}

fn inside(x: isize, y: isize, w: usize, h: usize) -> Option<usize> {
    (x >= 0 && y >= 0 && (x as usize) < w && (y as usize) < h).then(|| y as usize * w + x as usize)
}
