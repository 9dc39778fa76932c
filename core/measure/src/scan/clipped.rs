//! A scan whose contrast was stretched until paper is clipped to white, or ink to black: the feet of its edges, made good.
//!
//! How: what blurs an edge blurs it evenly to both sides, so that the step from pixel to pixel depends on the level as the
//! slope of a Gaussian edge does; a clipped one has lost its end of that curve. The shares that are gone and the blur are fitted to
//! the steps of all edges that run level or upright, between clear paper and full ink. Levels are then put back where they were,
//! and beyond the last that is left the Gaussian's own foot is laid. Limits: a blur that is far from a Gaussian's, edges sharper
//! than a third of a pixel, lines too thin to show full ink, and a scan without enough edges keep what they have, which is said.
//! Common practice, no source.

use rayon::prelude::*;

use super::stretch::{Curve, Seen, Stretch, WHITE, fit};
use crate::stats::{median, phi, solve};

/// Classes of levels.
const CLASSES: usize = 24;
/// Edge pixels that a class needs, and classes that are needed.
const LEAST: usize = 25;
const LEAST_CLASSES: usize = 14;
/// Paper and full ink are looked for so far from an edge's pixel, px.
const REACH: usize = 8;
/// A step further off than this is no edge's.
const OUTLIER: f64 = 0.15;
/// How far the foot is laid, in deviations of the blur, and at most, px.
const FOOT: f64 = 3.5;
const FOOT_PX: f64 = 8.0;
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

/// Puts the levels back, and lays the feet of edges that are gone. Left as it is where edges are everywhere.
pub fn restore(data: &mut [f32], w: usize, h: usize, of: &Stretched) {
    let level = of.seen.level() as f32;
    // Edges of real ink alone: what is no more than a speck of paper's noise has no foot.
    let was: &[f32] = data;
    let near = |x: usize, y: usize| (-2..=2).any(|v| (-2..=2).any(|u| inside(x as isize + u, y as isize + v, w, h).is_some_and(|j| was[j] > 0.4 * level)));
    let edges: Vec<(u32, f32)> = (0..h)
        .into_par_iter()
        .flat_map_iter(|y| {
            let on = move |x: &usize| (0.004..0.996).contains(&(was[y * w + x] / level)) && near(*x, y);
            (0..w).filter(on).filter_map(move |x| Some(((y * w + x) as u32, of.at(y * w + x)?.place(f64::from(was[y * w + x] / level)) as f32)))
        })
        .collect();
    if edges.len() * 4 > data.len() {
        return;
    }
    let mut is_edge = vec![false; data.len()];
    for (i, place) in &edges {
        is_edge[*i as usize] = true;
        data[*i as usize] = level * phi(f64::from(*place)) as f32;
    }
    // From paper's side out onto paper, or from ink's side in.
    let out = if of.seen.white() { -1.0f32 } else { 1.0 };
    for (i, place) in edges.iter().filter(|e| e.1 * out > -0.5) {
        let i = *i as usize;
        let Some(curve) = of.at(i) else { continue };
        let (sigma, least) = (curve.of.sigma_px as f32, if out < 0.0 { -curve.left[0] } else { curve.left[1] });
        let reach = (FOOT * curve.of.sigma_px).min(FOOT_PX).ceil() as isize;
        let (x, y) = ((i % w) as isize, (i / w) as isize);
        for (u, v) in (-reach..=reach).flat_map(|v| (-reach..=reach).map(move |u| (u, v))) {
            let Some(j) = inside(x + u, y + v, w, h).filter(|j| !is_edge[*j] && (data[*j] > 0.5 * level) == (out > 0.0)) else { continue };
            // The nearest place on the edge says how far out this one is.
            let far = place * out + ((u * u + v * v) as f32).sqrt() / sigma;
            let foot = level * (1.0 - phi(f64::from(far).max(least))) as f32;
            data[j] = if out < 0.0 { data[j].max(foot) } else { data[j].min(level - foot) };
        }
    }
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
