//! Ink and paper that stand alone: specks, pinholes, and ink of no role's colour.
//!
//! How: connected runs (`spans`), their area by coverage, their role by the ink in and beside them. Limits: what touches the border is no island;
//! an edge's own unevenness, under half a pixel at its most, is none.

use std::collections::{HashMap, HashSet};

use petgraph::unionfind::UnionFind;

use super::{
    Look, Plan, RoleLines, Source,
    gaps::{self, Gap},
    ink::{HALF, Ink, MASKED, OFF, Pixel, TEXTURE},
    spans::{Span, Spans},
};
use crate::{
    Picture,
    colour::{delta_e, lab_of},
};

/// Ink with paper all round, or paper with ink all round.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Island {
    /// Its middle, px.
    pub x: f64,
    pub y: f64,
    pub area_px2: f64,
    /// The role of most of its ink, or of the ink beside it; none for ink of no role, or masked ink.
    pub role: Option<usize>,
    /// Whether it is, or lies in, a spotted black, and tone or lettering.
    pub black: bool,
    pub texture: bool,
    /// Whether more of its kind hangs on by faint pixels: a taper's faint tip, the last pixel of an open wedge.
    pub open: bool,
}

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

/// All that was found beside the lines.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Islands {
    pub ink: Vec<Island>,
    pub paper: Vec<Island>,
    pub off: Vec<OffPalette>,
    pub gaps: Vec<Gap>,
    /// Places that may be gaps and were not looked at: there are too many.
    pub gaps_left: u32,
}

/// Coverage from which ink hangs together, and up to which paper does, in 255ths: faint specks and holes are seen too.
const INK_FROM: u8 = 64;
const PAPER_TO: u8 = 192;

/// Down to this and up to this coverage ink and paper are seen at all.
const FAINT_FROM: u8 = 10;
const FAINT_TO: u8 = 235;
/// Neighbours, those above sides first.
const AROUND: [(i64, i64); 8] = [(-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];
/// The last of a wedge or of a tip is no larger than this, px²; larger ones have walls of their own, however thin, but along a sliver.
const LAST: f64 = 2.6;
/// Larger ones are no sliver's end.
const SLIVER: f64 = 24.0;
/// A sliver is so many times as long as it is wide, and goes on within so much of its own direction (a cosine).
const LONG: f64 = 1.9;
const AHEAD: f64 = 0.8;

/// Says of every island whether it is joined to others of its kind by faint pixels.
fn told_open(islands: Vec<(Island, u32)>, pieces: &Spans, width: usize, pixels: &[Pixel], faint: impl Fn(u8) -> bool) -> Vec<Island> {
    let height = pixels.len() / width.max(1);
    // Spans of each small island.
    let mut spans: HashMap<u32, Vec<Span>> = islands.iter().filter(|i| i.0.area_px2 < SLIVER).map(|i| (i.1, Vec::new())).collect();
    for (s, n) in pieces.spans.iter().zip(&pieces.number) {
        if let Some(own) = spans.get_mut(n) {
            own.push(*s);
        }
    }
    let joined = |island: &Island, n: u32| {
        let Some(own) = spans.get(&n) else { return false };
        let mut seen: HashSet<(i64, i64)> = own.iter().flat_map(|s| (s.x0..s.x1).map(|x| (i64::from(x), i64::from(s.y)))).collect();
        let direction = if island.area_px2 < LAST { None } else { Some(axis(&seen)) };
        let ahead = |x: i64, y: i64| {
            let Some((way, long)) = direction else { return true };
            let d = [x as f64 + 0.5 - island.x, y as f64 + 0.5 - island.y];
            long >= LONG && (d[0] * way[0] + d[1] * way[1]).abs() >= AHEAD * d[0].hypot(d[1])
        };
        let mut front: Vec<(i64, i64)> = seen.iter().copied().collect();
        // Two faint pixels and then the other: what is further away is not joined.
        for _ in 0..3 {
            let mut next = Vec::new();
            for (x, y) in front.drain(..) {
                for (k, (nx, ny)) in AROUND.iter().map(|(dx, dy)| (x + dx, y + dy)).enumerate() {
                    if nx < 0 || ny < 0 || nx >= width as i64 || ny >= height as i64 || seen.contains(&(nx, ny)) || !ahead(nx, ny) {
                        continue;
                    }
                    if pieces.piece(nx, ny).is_some_and(|p| p != n) {
                        return true;
                    }
                    // Over a corner only what is of the kind itself joins: a wall of two pixels has faint ones on either side.
                    if k < 4 && faint(pixels[ny as usize * width + nx as usize].coverage) {
                        seen.insert((nx, ny));
                        next.push((nx, ny));
                    }
                }
            }
            front = next;
        }
        false
    };
    islands.into_iter().map(|(i, n)| Island { open: joined(&i, n), ..i }).collect()
}

/// The direction in which some pixels lie, and how many times as long as wide they are.
fn axis(pixels: &HashSet<(i64, i64)>) -> ([f64; 2], f64) {
    let n = pixels.len().max(1) as f64;
    let (mx, my) = pixels.iter().fold((0.0, 0.0), |m, p| (m.0 + p.0 as f64 / n, m.1 + p.1 as f64 / n));
    // A pixel has an extent of its own.
    let (mut xx, mut xy, mut yy) = (1.0 / 12.0, 0.0, 1.0 / 12.0);
    for p in pixels {
        let (dx, dy) = (p.0 as f64 - mx, p.1 as f64 - my);
        (xx, xy, yy) = (xx + dx * dx / n, xy + dx * dy / n, yy + dy * dy / n);
    }
    let (half, root) = (0.5 * (xx + yy), (0.25 * (xx - yy).powi(2) + xy * xy).sqrt());
    let turn = 0.5 * (2.0 * xy).atan2(xx - yy);
    ([turn.cos(), turn.sin()], ((half + root) / (half - root).max(1e-6)).sqrt())
}

/// Specks, pinholes and gaps of a whole drawing.
pub(super) fn find(out: &mut Islands, width: usize, pixels: &[Pixel], roles: &[RoleLines], look: &Look) {
    let height = pixels.len() / width.max(1);
    let ink = Spans::new(width, pixels, |c| c >= INK_FROM, true);
    let (islands, borders) = islands(&ink, width, height, pixels, |p| f64::from(p.coverage) / 255.0, roles.len());
    out.ink = told_open(islands, &ink, width, pixels, |c| c >= FAINT_FROM);
    let paper = Spans::new(width, pixels, |c| c < PAPER_TO, false);
    let holes = self::islands(&paper, width, height, pixels, |p| 1.0 - f64::from(p.coverage) / 255.0, roles.len()).0;
    out.paper = told_open(holes, &paper, width, pixels, |c| c <= FAINT_TO);
    (out.gaps, out.gaps_left) = gaps::find(width, pixels, &ink, &borders, roles, look);
}

/// The pieces that do not touch the border, with their numbers, and which do.
fn islands(pieces: &Spans, width: usize, height: usize, pixels: &[Pixel], amount: impl Fn(Pixel) -> f64, roles: usize) -> (Vec<(Island, u32)>, Vec<bool>) {
    #[derive(Clone)]
    struct Sum {
        area: f64,
        /// The most that one of its pixels has: an edge's own unevenness is no island.
        most: f64,
        x: f64,
        y: f64,
        votes: [u32; 4],
        role: [u8; 4],
        black: bool,
        texture: bool,
    }
    let mut sums = vec![Sum { area: 0.0, most: 0.0, x: 0.0, y: 0.0, votes: [0; 4], role: [OFF; 4], black: false, texture: false }; pieces.count];
    let mut border = vec![false; pieces.count];
    for (s, n) in pieces.spans.iter().zip(&pieces.number) {
        border[*n as usize] |= s.x0 == 0 || s.x1 as usize == width || s.y == 0 || s.y as usize + 1 == height;
    }
    for (s, n) in pieces.spans.iter().zip(&pieces.number) {
        let (row, n) = (s.y as usize * width, *n as usize);
        if border[n] {
            continue;
        }
        let sum = &mut sums[n];
        for (x, p) in (s.x0..).zip(&pixels[row + s.x0 as usize..row + s.x1 as usize]) {
            let a = amount(*p);
            sum.most = sum.most.max(a);
            (sum.area, sum.x, sum.y) = (sum.area + a, sum.x + a * (f64::from(x) + 0.5), sum.y + a * (f64::from(s.y) + 0.5));
        }
        // Whose it is: the ink within it and right beside it votes.
        for p in &pixels[row + (s.x0 as usize).saturating_sub(1)..(row + s.x1 as usize + 1).min(pixels.len())] {
            sum.black |= p.role == MASKED;
            sum.texture |= p.role == TEXTURE;
            if p.coverage >= HALF {
                let k = (0..4).find(|k| sum.role[*k] == p.role || sum.votes[*k] == 0).unwrap_or(3);
                (sum.role[k], sum.votes[k]) = (p.role, sum.votes[k] + 1);
            }
        }
    }
    let islands = sums
        .iter()
        .zip(&border)
        .zip(0..)
        .filter(|((s, border), _)| !**border && s.most >= 0.5)
        .map(|((s, _), n)| {
            let role = (0..4).max_by_key(|k| s.votes[*k]).map(|k| usize::from(s.role[k])).filter(|r| *r < roles);
            (Island { x: s.x / s.area, y: s.y / s.area, area_px2: s.area, role, black: s.black, texture: s.texture, open: false }, n)
        })
        .collect();
    (islands, border)
}

/// Patches of ink of no role's colour; edges between two inks are mixtures of all sorts and make no patch.
pub(super) fn off_palette(ink: &Ink, picture: &Picture, plan: &Plan) -> Vec<OffPalette> {
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
