//! Ink and paper that stand alone: specks and pinholes.
//!
//! How: connected runs (`spans`), their area by coverage, their role by the ink in and beside them. Limits: what touches the border is no island;
//! an edge's own unevenness, under half a pixel at its most, is none.

use std::collections::{HashMap, HashSet};

pub use super::off_palette::OffPalette;
use super::{
    Look, RoleLines,
    gaps::{self, Gap},
    ink::{HALF, INK_FROM, MASKED, OFF, Pixel, TEXTURE},
    spans::{Span, Spans},
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

/// Coverage up to which paper hangs together, in 255ths: faint holes are seen too.
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
