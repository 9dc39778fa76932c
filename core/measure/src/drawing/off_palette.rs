//! Patches of ink of no role's colour.
//!
//! How: connected pixels of such ink and what is pale beside it; a patch's own colour is the one that most of it has; what is as thin as an edge
//! and between two colours beside it is where one ink lies on another. Limits: none where a role takes all the rest.

use std::collections::{HashMap, HashSet};

use petgraph::unionfind::UnionFind;

use super::{
    Plan, Source,
    ink::{INK_FROM, Ink, OFF},
};
use crate::{
    Picture,
    colour::{delta_e, lab_of},
};

/// Ink of no role's colour that hangs together.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OffPalette {
    pub x: f64,
    pub y: f64,
    pub area_px2: f64,
    /// CIEDE2000 from the role's colour that is nearest, and that role's tolerance.
    pub delta_e: f64,
    pub tolerance: f64,
    pub rgb: [u8; 3],
}

/// Patches of ink of no role's colour; edges between two inks are mixtures of all sorts and make no patch.
pub(super) fn find(ink: &Ink, picture: &Picture, plan: &Plan) -> Vec<OffPalette> {
    let roles: Vec<_> =
        plan.roles.iter().filter_map(|r| if let Source::Colour { rgb, tolerance } = r { Some((lab_of(*rgb), *tolerance)) } else { None }).collect();
    // Where a role takes all the rest, no ink is off.
    if roles.is_empty() || plan.roles.iter().any(|r| matches!(r, Source::Rest | Source::Outline)) {
        return Vec::new();
    }
    let mut out = Vec::new();
    for patch in patches(ink) {
        // Its own colour is the one that most of it has, near enough.
        let mut colours: std::collections::BTreeMap<[u8; 3], (u32, [u8; 3])> = Default::default();
        for &i in &patch {
            let p = picture.pixel(i as usize);
            let entry = colours.entry([p[0] / 6, p[1] / 6, p[2] / 6]).or_insert((0, [p[0], p[1], p[2]]));
            entry.0 += 1;
        }
        let Some((alike, rgb)) = colours.into_values().max_by_key(|c| c.0) else { continue };
        if alike < LEAST_ALIKE {
            continue;
        }
        let own = lab_of(rgb);
        let Some((far, tolerance)) = roles.iter().map(|(c, t)| (delta_e(own, *c), *t)).min_by(|a, b| (a.0 - a.1).total_cmp(&(b.0 - b.1))) else { continue };
        if far <= tolerance {
            continue;
        }
        let odd = patch.iter().filter(|i| ink.pixels[**i as usize].role == OFF).count();
        if 2 * odd > patch.len() && shared_edge(ink, picture, &patch, rgb) {
            continue;
        }
        let n = patch.len() as f64;
        let middle = patch.iter().fold((0.0, 0.0), |m, i| (m.0 + f64::from(i % ink.width as u32) + 0.5, m.1 + f64::from(i / ink.width as u32) + 0.5));
        out.push(OffPalette { x: middle.0 / n, y: middle.1 / n, area_px2: n, delta_e: f64::from(far), tolerance: f64::from(tolerance), rgb });
    }
    out
}

/// Whether a patch is as thin as an edge and its colour lies between two that lie beside it: where one ink lies along or across another.
fn shared_edge(ink: &Ink, picture: &Picture, patch: &[u32], rgb: [u8; 3]) -> bool {
    let (w, h) = (ink.width as i64, (picture.rgba.len() / 4 / ink.width.max(1)) as i64);
    let own: HashSet<u32> = patch.iter().copied().collect();
    let at = |i: u32, dx: i64, dy: i64| {
        let (x, y) = (i64::from(i) % w + dx, i64::from(i) / w + dy);
        (x >= 0 && y >= 0 && x < w && y < h).then(|| (y * w + x) as u32)
    };
    let within = |i: &&u32| (-1..=1).all(|dy| (-1..=1).all(|dx| at(**i, dx, dy).is_some_and(|j| own.contains(&j))));
    // A patch that is three pixels wide in more than a place or two is no edge.
    if patch.iter().filter(within).count() * 8 > patch.len() {
        return false;
    }
    let mut beside: Vec<[f32; 3]> = Vec::new();
    for j in patch.iter().flat_map(|i| (-2..=2).flat_map(move |dy| (-2..=2).filter_map(move |dx| at(*i, dx, dy)))).filter(|j| !own.contains(j)) {
        let p = picture.pixel(j as usize);
        let c = [0, 1, 2].map(|k| f32::from(p[k]) * f32::from(p[3]) / 255.0 + 255.0 - f32::from(p[3]));
        if beside.len() < MOST_BESIDE && beside.iter().all(|b| (0..3).any(|k| (b[k] - c[k]).abs() > 12.0)) {
            beside.push(c);
        }
    }
    let c = rgb.map(f32::from);
    beside.iter().enumerate().any(|(k, a)| {
        beside[..k].iter().any(|b| {
            let (d, e): ([f32; 3], [f32; 3]) = ([0, 1, 2].map(|k| b[k] - a[k]), [0, 1, 2].map(|k| c[k] - a[k]));
            let long = d.iter().map(|v| v * v).sum::<f32>();
            let t = d.iter().zip(&e).map(|(x, y)| x * y).sum::<f32>() / long.max(1.0);
            (-0.03..0.97).contains(&t) && (0..3).map(|k| (e[k] - t * d[k]).powi(2)).sum::<f32>() < 14.0 * 14.0
        })
    })
}

/// So many colours beside a patch are told apart.
const MOST_BESIDE: usize = 24;

/// Pixels of no role's ink that hang together, over corners too.
fn patches(ink: &Ink) -> Vec<Vec<u32>> {
    let w = ink.width as u32;
    let odd = |i: &u32| ink.pixels[*i as usize].role == OFF && ink.pixels[*i as usize].coverage >= INK_FROM || pale(ink, *i as usize);
    // Runs of them, row by row.
    let mut runs: Vec<[u32; 3]> = Vec::new();
    for i in ink.touched.iter().filter(|i| odd(i)) {
        let (x, y) = (i % w, i / w);
        match runs.last_mut() {
            Some(r) if r[0] == y && r[2] == x => r[2] += 1,
            _ => runs.push([y, x, x + 1]),
        }
    }
    let mut sets = UnionFind::<u32>::new(runs.len());
    let (mut above, mut row) = (0..0, 0);
    let mut k = 0;
    for i in 0..runs.len() {
        if i == 0 || runs[i][0] != runs[i - 1][0] {
            above = if i > 0 && runs[i - 1][0] + 1 == runs[i][0] { row..i } else { i..i };
            (row, k) = (i, above.start);
        }
        while k < above.end && runs[k][2] < runs[i][1] {
            k += 1;
        }
        for j in (k..above.end).take_while(|j| runs[*j][1] <= runs[i][2]) {
            sets.union(i as u32, j as u32);
        }
    }
    let mut number: HashMap<u32, usize> = HashMap::new();
    let mut out: Vec<Vec<u32>> = Vec::new();
    for (i, r) in runs.iter().enumerate() {
        let next = out.len();
        let n = *number.entry(sets.find_mut(i as u32)).or_insert(next);
        if n == next {
            out.push(Vec::new());
        }
        out[n].extend(r[0] * w + r[1]..r[0] * w + r[2]);
    }
    out
}

/// Whether a pixel lies in an even patch of what could be a mixture of a role's ink with paper: an edge is never even, so that
/// this is ink of a paler colour.
fn pale(ink: &Ink, i: usize) -> bool {
    let c = ink.pixels[i].coverage;
    if !(INK_FROM..PALE_TO).contains(&c) || i < ink.width + 1 || i + ink.width + 1 >= ink.pixels.len() {
        return false;
    }
    let even = |row: usize| ink.pixels[row - 1..row + 2].iter().all(|p| p.coverage.abs_diff(c) <= EVEN);
    even(i - ink.width) && even(i) && even(i + ink.width)
}

/// Ink is pale up to this coverage, and even where its neighbours are as near as this, in 255ths.
const PALE_TO: u8 = 236;
const EVEN: u8 = 5;

/// A patch has at least so many pixels of nearly one colour.
const LEAST_ALIKE: u32 = 8;
