//! A scan whose contrast was stretched until paper is clipped to white, or ink to black: the feet of its edges, made good.
//!
//! How: what blurs an edge blurs it evenly to both sides, so that the step toward ink at one level is the step toward paper at
//! its mirror image about the middle of what was there; which middle fits the edges that run level or upright, between clear paper
//! and full ink, says how much white took (for black, and where few levels are left, a Gaussian edge's steps do: `stretch`). Levels
//! are then put back where they were, and beyond the last that is left a Gaussian's foot is laid. Where lines are too thin to show full ink, or edges
//! too sharp to have steps, the shapes of the lines' cuts tell it (`cuts`). Limits: lines hardly wider than the blur, a scan without enough edges, and
//! one cut at both ends keep what they have, which is said. Common practice, no source.

use rayon::prelude::*;

use super::{
    cuts,
    shown::Shown,
    stretch::{Curve, Seen, Stretch, WHITE, fit},
};
use crate::stats::{median, phi, solve};

/// Classes of levels.
const CLASSES: usize = 48;
/// Edge pixels that a class needs, and classes that are needed.
const LEAST: usize = 25;
const LEAST_CLASSES: usize = 28;
/// Paper and full ink are looked for so far from an edge's pixel, px.
const REACH: usize = 8;
/// Full ink is so thick at least, px: a thin line's other edge flattens this one's.
const THICK: isize = 4;
/// No pixel is asked nearer to the border than this.
const MARGIN: usize = REACH + 4;
/// The light over the page is fitted to about so many steps, so often.
const STEPS: usize = 20_000;
const ROUNDS: u8 = 6;
/// Tabled by the paper's light from 1 on, so far apart, and by the level.
const LIGHTS: usize = 33;
const LIGHT: f64 = 0.02;
const LEVELS: usize = 49;
/// A step further off than this is no edge's.
const OUTLIER: f64 = 0.15;
/// How far the foot is laid, in deviations of the blur, and at most, px.
const FOOT: f64 = 3.5;
const FOOT_PX: f64 = 8.0;
/// Entries of its table for one deviation.
const FEET: usize = 256;
/// Edges sharper than this, px, have so few steps that what they show of the paper's light must agree with what the lines' cuts show, by so much.
const SHARP: f64 = 0.75;
const AGREE: f64 = 0.05;

/// One edge pixel: its level between paper and ink, the steps to the next pixels toward ink and toward paper, and its place from the middle of the page (−1 to 1).
struct Step {
    level: f64,
    up: f64,
    down: f64,
    place: [f64; 2],
}

/// How the levels were stretched, over the page.
pub struct Stretched {
    curves: Vec<Option<Curve>>,
    seen: Seen,
    width: usize,
    /// Whether all but hundredths is made good.
    pub whole: bool,
}

/// Sides of the pieces of a page that are taken for evenly lit, px.
const PIECE: usize = 64;

/// How the levels were stretched; none where that cannot be told. In: absorptance, the light that was scanned, and what is seen of it.
pub fn find(data: &[f32], light: &[f32], w: usize, h: usize, seen: Seen) -> Option<Stretched> {
    if w < PIECE || h < PIECE {
        return None;
    }
    let cuts = if seen.white() { cuts::shown(data, w, h, 0.0, true, &|_| true).filter(Shown::is_sure_of_cut) } else { None };
    let cut = pieces(data, light, w, seen);
    let steps = steps(data, &cut, w, h, seen.level() as f32);
    let classes = classes(&steps, |s| 0.5 * (s.up + s.down));
    let many = classes.len() >= LEAST_CLASSES;
    let by_steps = || {
        let paper = seen.white().then(|| mirrored(&steps, seen)).flatten();
        fit(&classes, seen, paper)
    };
    let (seen, of, whole) = match (many.then(by_steps).flatten(), cuts) {
        (Some(of), Some(c)) if of.sigma_px > SHARP || (of.paper - 1.0 - c.cut).abs() < 3.0 * c.cut_sure + AGREE => (seen, of, true),
        (_, Some(c)) => (Seen { ink: 1.0 - c.darkest(), ..seen }, Stretch { paper: 1.0 + c.cut, black: 0.0, sigma_px: c.blur_px() }, c.tells_all()),
        (Some(of), None) => (seen, of, true),
        (None, None) => return None,
    };
    let light = if seen.white() && many { over_page(&steps, of, seen) } else { [of.paper, 0.0, 0.0] };
    let across = w.div_ceil(PIECE);
    let curves = cut.par_iter().enumerate().map(|(k, cut)| {
        let at = place((k % across) * PIECE + PIECE / 2, (k / across) * PIECE + PIECE / 2, w, h);
        let paper = light[0] + light[1] * at[0] + light[2] * at[1];
        cut.then(|| Curve::new(Stretch { paper: if seen.white() { paper.max(1.0) } else { paper }, ..of }, seen))
    });
    Some(Stretched { curves: curves.collect(), seen, width: w, whole })
}

/// Medians by classes of levels.
fn classes(steps: &[Step], of: impl Fn(&Step) -> f64) -> Vec<(f64, f64)> {
    let mut by_class = vec![Vec::new(); CLASSES];
    steps.iter().for_each(|s| by_class[((s.level * CLASSES as f64) as usize).min(CLASSES - 1)].push(of(s)));
    let each = by_class.iter().enumerate().filter(|(_, s)| s.len() >= LEAST);
    each.filter_map(|(k, s)| Some(((k as f64 + 0.5) / CLASSES as f64, median(s)?))).collect()
}

/// The paper's light, whatever the blur's law: an even blur's step toward ink at one level is its step toward paper at the level mirrored about
/// the middle of what was there before; which middle fits, says how much is gone. None where too few levels tell: then the Gaussian's own curve does.
fn mirrored(steps: &[Step], seen: Seen) -> Option<f64> {
    let (up, down) = (classes(steps, |s| s.up), classes(steps, |s| s.down));
    let at = |of: &[(f64, f64)], r: f64| {
        let i = of.partition_point(|c| c.0 < r);
        let (a, b) = (of.get(i.checked_sub(1)?)?, of.get(i)?);
        (b.0 - a.0 < 4.5 / CLASSES as f64).then(|| a.1 + (b.1 - a.1) * (r - a.0) / (b.0 - a.0))
    };
    let off = |gone: f64| -> Option<f64> {
        let about = (1.0 - 2.0 * gone) / (1.0 - gone);
        let pairs: Vec<(f64, f64)> = up.iter().filter(|(r, u)| about - r - u > 0.01).filter_map(|(r, u)| Some((*u, at(&down, about - r)?))).collect();
        (pairs.len() >= 3).then(|| pairs.iter().map(|(u, d)| (u - d).abs()).sum::<f64>() / pairs.len() as f64)
    };
    let all: Vec<(f64, f64)> = (0..=450).map(|k| f64::from(k) * 1e-3).map_while(|c| Some((off(c)?, c))).collect();
    let best = all.iter().min_by(|a, b| a.0.total_cmp(&b.0))?;
    // The least of all has to lie among them, not where they end.
    if all.last().is_none_or(|last| last.1 - best.1 < 0.005) {
        return None;
    }
    Some((1.0 - best.1 * seen.ink) / (1.0 - best.1))
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

/// How the paper's light runs over the page, `[in its middle, by x, by y]`: by Gauss and Newton on the steps themselves, its light in the middle
/// and the blur let go along, so that they do not pull at the slope.
fn over_page(steps: &[Step], of: Stretch, seen: Seen) -> [f64; 3] {
    let every = steps.len().div_ceil(STEPS).max(1);
    let mut at = [of.paper, 0.0, 0.0, of.sigma_px];
    for round in 0..ROUNDS {
        let tables = [at[3], at[3] * 1.02].map(|sigma| Steps::new(sigma, seen));
        let (mut a, mut b) = ([[0.0; 4]; 4], [0.0; 4]);
        for s in steps.iter().step_by(every) {
            let paper = at[0] + at[1] * s.place[0] + at[2] * s.place[1];
            let [here, blurred] = tables.each_ref().map(|t| t.step(paper, s.level));
            let off = 0.5 * (s.up + s.down) - here;
            // Steps of no edge are outliers, more surely so the nearer the fit.
            if off.abs() < OUTLIER / (1.0 + f64::from(round)) + 0.02 {
                let per = (tables[0].step(paper + 0.02, s.level) - tables[0].step(paper - 0.02, s.level)) / 0.04;
                let row = [per, per * s.place[0], per * s.place[1], (blurred - here) / (0.02 * at[3])];
                for i in 0..4 {
                    b[i] += row[i] * off;
                    (0..4).for_each(|j| a[i][j] += row[i] * row[j]);
                }
            }
        }
        // Where lines lie on one side of the page alone its slope is hardly seen: little is supposed.
        let light = a[0][0];
        [1, 2].into_iter().for_each(|k| a[k][k] += 1e-3 * light);
        let Some(by) = solve(a, b) else { break };
        at.iter_mut().zip(by).for_each(|(v, by)| *v += by.clamp(-0.1, 0.1));
        at[3] = at[3].clamp(0.2, 6.0);
    }
    [of.paper, at[1], at[2]]
}

/// Steps of one blur by the paper's light and the level, tabled.
struct Steps(Vec<[f64; LEVELS]>);

impl Steps {
    fn new(sigma_px: f64, seen: Seen) -> Self {
        let curve = |k: usize| Curve::new(Stretch { paper: 1.0 + k as f64 * LIGHT, black: 0.0, sigma_px }, seen);
        Self((0..LIGHTS).map(curve).map(|c| std::array::from_fn(|r| c.step(r as f64 / (LEVELS - 1) as f64))).collect())
    }

    fn step(&self, paper: f64, level: f64) -> f64 {
        let within = |v: f64, n: usize| {
            let v = v.clamp(0.0, (n - 1) as f64 - 1e-9);
            (v as usize, v.fract())
        };
        let ((i, t), (r, u)) = (within((paper - 1.0) / LIGHT, LIGHTS), within(level * (LEVELS - 1) as f64, LEVELS));
        let at = |i: usize| self.0[i][r] * (1.0 - u) + self.0[i][r + 1] * u;
        at(i) * (1.0 - t) + at(i + 1) * t
    }
}

/// Steps at edges between paper and full ink, level or upright.
fn steps(data: &[f32], cut: &[bool], w: usize, h: usize, level: f32) -> Vec<Step> {
    let across = w.div_ceil(PIECE);
    let rows: Vec<Vec<Step>> = (MARGIN..h - MARGIN)
        .into_par_iter()
        .map(|y| {
            let mut out = Vec::new();
            for x in MARGIN..w - MARGIN {
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
                let rises = (1..REACH as isize).take_while(|k| at(*k) >= at(k - 1) - 0.02).any(|k| (0..THICK).all(|t| at(k + t) > 0.985));
                let falls = (1..REACH as isize).take_while(|k| at(-k) <= at(1 - k) + 0.02).any(|k| (0..3).all(|t| at(-k - t) < 0.012));
                if rises && falls {
                    out.push(Step { level: f64::from(r), up: f64::from(at(1) - r), down: f64::from(r - at(-1)), place: place(x, y, w, h) });
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
    // On paper's side, an edge's, or on ink's.
    let mut side: Vec<u8> = data.par_iter().with_min_len(1 << 16).map(|a| if *a > 0.5 * level { 2 } else { 0 }).collect();
    for (i, place) in &edges {
        side[*i as usize] = 1;
        data[*i as usize] = level * phi(f64::from(*place)) as f32;
    }
    // From paper's side out onto paper, or from ink's side in.
    let out = if of.seen.white() { -1.0f32 } else { 1.0 };
    let reach = FOOT_PX as isize;
    let about: Vec<(isize, isize, f32)> =
        (-reach..=reach).flat_map(|v| (-reach..=reach).map(move |u| (u, v, ((u * u + v * v) as f32).sqrt()))).filter(|a| a.2 > 0.0).collect();
    let feet: Vec<f32> = (0..=FEET * 6).map(|k| 1.0 - phi(k as f64 / FEET as f64) as f32).collect();
    for (i, place) in edges.iter().filter(|e| e.1 * out > -0.5) {
        let i = *i as usize;
        let Some(curve) = of.at(i) else { continue };
        let (sigma, least) = (curve.of.sigma_px as f32, (if out < 0.0 { -curve.left[0] } else { curve.left[1] }) as f32);
        let (x, y) = ((i % w) as isize, (i / w) as isize);
        let free = |u: isize, v: isize| inside(x + u, y + v, w, h).filter(|j| side[*j] == if out < 0.0 { 0 } else { 2 });
        // The last of an edge alone: what lies within is nearer to none.
        if !(-1..=1).any(|v| (-1..=1).any(|u| free(u, v).is_some())) {
            continue;
        }
        let far = (FOOT * curve.of.sigma_px).min(FOOT_PX) as f32;
        for (u, v, d) in about.iter().filter(|a| a.2 <= far) {
            let Some(j) = free(*u, *v) else { continue };
            // The nearest place on the edge says how far out this one is.
            let at = (place * out + d / sigma).max(least);
            let foot = level * feet[((at * FEET as f32) as usize).min(feet.len() - 1)];
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
