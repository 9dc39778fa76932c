//! One scanned drawing laid on another: no two scans of a sheet lie alike, and nobody's hand moved between them.
//!
//! How: by the marks that are there for it where both have them (a role of hole, peg or registration marks, else the sheet's own peg holes,
//! `holes`), else by all lines: directions and
//! places vote for a turn and a shift, which is then refined by moving every place onto the nearest line that runs its way, those far off with
//! no weight (iterated closest points, P. J. Besl and N. D. McKay, IEEE PAMI 14, 1992; Tukey's biweight). Limits: turns up to 4°, shifts up to
//! a tenth of the page; less than a quarter of the places in common is no fit.

use std::collections::HashMap;

use eddymist_measure::stats::{median, solve};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{WeighedLine, guide::LineGuide, holes::Holes};

/// How a drawing is to be moved to lie on another: turned about the middle of the page, then shifted, px.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Move {
    pub shift_px: [f64; 2],
    pub turn_deg: f64,
    /// What it is turned about.
    pub about: [f64; 2],
    /// Whether marks for it were there; else it is the best fit of the lines.
    pub by_marks: bool,
}

impl Move {
    pub fn of(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let (s, c) = self.turn_deg.to_radians().sin_cos();
        let (dx, dy) = (x - self.about[0], y - self.about[1]);
        [self.about[0] + dx * c - dy * s + self.shift_px[0], self.about[1] + dx * s + dy * c + self.shift_px[1]]
    }

    /// Lines moved.
    pub fn lines(&self, lines: &[WeighedLine]) -> Vec<WeighedLine> {
        let place = |p: &[i32; 3]| {
            let [x, y] = self.of([f64::from(p[0]) / 10.0, f64::from(p[1]) / 10.0]);
            [(x * 10.0).round() as i32, (y * 10.0).round() as i32, p[2]]
        };
        lines.iter().map(|l| WeighedLine { places: l.places.as_chunks::<3>().0.iter().flat_map(place).collect(), ..l.clone() }).collect()
    }
}

/// A scanned sheet as it lies.
#[derive(Clone, Copy)]
pub struct Sheet<'a> {
    pub lines: &'a [WeighedLine],
    pub holes: &'a Holes,
    /// Width and height, px.
    pub size: [f64; 2],
}

/// A place of a line with its direction.
#[derive(Clone, Copy)]
struct Place {
    at: [f64; 2],
    along: [f64; 2],
    role: usize,
}

/// Most places of a drawing that vote, and that are fitted.
const VOTES: usize = 900;
const FITTED: usize = 4000;
/// Turns that are tried, degrees, and how far a shift may go, as a share of the page's width.
const MOST_TURN: f64 = 4.0;
const TURN_STEP: f64 = 0.5;
const MOST_SHIFT: f64 = 0.1;
/// Bins of votes, px.
const BIN: f64 = 6.0;
/// Directions of matched places differ by less than this, as a cosine.
const ALIKE: f64 = 0.94;
/// The share of places that must lie on the other drawing's lines, within so many px.
const LEAST_COMMON: f64 = 0.25;
const COMMON_PX: f64 = 2.5;
const LEAST_PLACES: usize = 40;

/// How the lines of one drawing are moved onto another's of the same size; none where they have too little in common.
pub fn register(guide: &LineGuide, from: &Sheet, onto: &Sheet) -> Option<Move> {
    let [width_px, height_px] = onto.size;
    let mark = |l: &&WeighedLine| {
        let name = guide.roles.get(l.role).map(|r| r.name.to_lowercase()).unwrap_or_default();
        ["hole", "peg", "registration"].iter().any(|w| name.contains(w))
    };
    let marks = [places(from.lines.iter().filter(mark)), places(onto.lines.iter().filter(mark))];
    let by_marks = marks.iter().all(|m| m.len() >= LEAST_PLACES);
    let about = [0.5 * width_px, 0.5 * height_px];
    if !by_marks && let Some((turn_deg, shift_px)) = from.holes.onto(onto.holes, about) {
        return Some(Move { shift_px, turn_deg, about, by_marks: true });
    }
    let [from, onto] = if by_marks { marks } else { [places(from.lines.iter()), places(onto.lines.iter())] };
    if from.len() < LEAST_PLACES || onto.len() < LEAST_PLACES {
        return None;
    }
    let middle = |k: usize| median(&onto.iter().map(|p| p.at[k]).collect::<Vec<_>>()).unwrap_or(0.0);
    let start = Move { about: [middle(0), middle(1)], by_marks, shift_px: [0.0; 2], turn_deg: 0.0 };
    let grid = Grid::new(&onto);
    let voted = vote(&thinned(&from, VOTES), &thinned(&onto, VOTES), start, MOST_SHIFT * width_px);
    // What lies as it should already is asked first.
    [start, voted]
        .into_iter()
        .map(|m| refined(&thinned(&from, FITTED), &grid, m))
        .max_by(|a, b| a.1.total_cmp(&b.1))
        .filter(|m| m.1 >= LEAST_COMMON)
        .map(|m| m.0)
}

fn places<'a>(lines: impl Iterator<Item = &'a WeighedLine>) -> Vec<Place> {
    let mut out = Vec::new();
    for line in lines {
        let at: Vec<[f64; 2]> = line.places.as_chunks::<3>().0.iter().map(|p| [f64::from(p[0]) / 10.0, f64::from(p[1]) / 10.0]).collect();
        for i in 0..at.len() {
            let (a, b) = (at[i.saturating_sub(2)], at[(i + 2).min(at.len() - 1)]);
            let d = (b[0] - a[0]).hypot(b[1] - a[1]);
            if d > 0.0 {
                out.push(Place { at: at[i], along: [(b[0] - a[0]) / d, (b[1] - a[1]) / d], role: line.role });
            }
        }
    }
    out
}

/// At most so many of them, evenly.
fn thinned(all: &[Place], most: usize) -> Vec<Place> {
    let every = all.len().div_ceil(most).max(1);
    all.iter().step_by(every).copied().collect()
}

fn moved(p: &Place, m: &Move) -> Place {
    let (s, c) = m.turn_deg.to_radians().sin_cos();
    Place { at: m.of(p.at), along: [p.along[0] * c - p.along[1] * s, p.along[0] * s + p.along[1] * c], ..*p }
}

fn alike(a: &Place, b: &Place) -> bool {
    a.role == b.role && (a.along[0] * b.along[0] + a.along[1] * b.along[1]).abs() > ALIKE
}

/// The turn and the shift that most pairs of places agree on.
fn vote(from: &[Place], onto: &[Place], start: Move, reach: f64) -> Move {
    let turns = (2.0 * MOST_TURN / TURN_STEP) as i32;
    let mut best = (0u32, start);
    for k in 0..=turns {
        let turned = Move { turn_deg: -MOST_TURN + TURN_STEP * f64::from(k), ..start };
        let mut votes: HashMap<(i32, i32), u32> = HashMap::new();
        for a in from.iter().map(|p| moved(p, &turned)) {
            for b in onto.iter().filter(|b| alike(&a, b)) {
                let d = [b.at[0] - a.at[0], b.at[1] - a.at[1]];
                if d[0].abs() < reach && d[1].abs() < reach {
                    *votes.entry(((d[0] / BIN).round() as i32, (d[1] / BIN).round() as i32)).or_default() += 1;
                }
            }
        }
        // A bin with its neighbours, so that no peak falls between two.
        let least = best.0 / 16;
        for (&(x, y), _) in votes.iter().filter(|v| *v.1 > least) {
            let sum: u32 = (-1..=1).flat_map(|i| (-1..=1).map(move |j| (x + i, y + j))).filter_map(|c| votes.get(&c)).sum();
            let here = Move { shift_px: [f64::from(x) * BIN, f64::from(y) * BIN], ..turned };
            // Of as many, the smaller move.
            let size = |m: &Move| m.shift_px[0].abs() + m.shift_px[1].abs() + 20.0 * m.turn_deg.abs();
            if sum > best.0 || sum == best.0 && size(&here) < size(&best.1) {
                best = (sum, here);
            }
        }
    }
    best.1
}

const CELL: f64 = 12.0;

/// Places by cells.
struct Grid<'a> {
    places: &'a [Place],
    cells: HashMap<(i32, i32), Vec<u32>>,
}

fn cell(at: [f64; 2]) -> (i32, i32) {
    ((at[0] / CELL).floor() as i32, (at[1] / CELL).floor() as i32)
}

impl<'a> Grid<'a> {
    fn new(places: &'a [Place]) -> Self {
        let mut cells: HashMap<(i32, i32), Vec<u32>> = HashMap::new();
        places.iter().enumerate().for_each(|(k, p)| cells.entry(cell(p.at)).or_default().push(k as u32));
        Self { places, cells }
    }

    /// The nearest place of the role that runs the same way.
    fn nearest(&self, p: &Place, reach: f64) -> Option<&Place> {
        let n = (reach / CELL).ceil() as i32;
        let (x, y) = cell(p.at);
        let far = |q: &Place| (q.at[0] - p.at[0]).hypot(q.at[1] - p.at[1]);
        let cells = (x - n..=x + n).flat_map(|x| (y - n..=y + n).map(move |y| (x, y)));
        let all = cells.filter_map(|c| self.cells.get(&c)).flatten().map(|k| &self.places[*k as usize]);
        all.filter(|q| alike(p, q)).map(|q| (far(q), q)).filter(|f| f.0 <= reach).min_by(|a, b| a.0.total_cmp(&b.0)).map(|f| f.1)
    }
}

/// A move made better step by step, and the share of places that then lie on the other's lines.
fn refined(from: &[Place], onto: &Grid, mut m: Move) -> (Move, f64) {
    for round in 0..24 {
        let reach = if round < 8 { 18.0 } else { 8.0 };
        // Far off the line it says nothing: what moved between the two drawings is no shift of the sheet.
        let width = [12.0, 4.0, 1.5][(round / 8).min(2)];
        let (mut a, mut b) = ([[0.0; 3]; 3], [0.0; 3]);
        for p in from.iter().map(|p| moved(p, &m)) {
            let Some(q) = onto.nearest(&p, reach) else { continue };
            // Across the line only: along it a place may slide.
            let n = [-q.along[1], q.along[0]];
            let off = (q.at[0] - p.at[0]) * n[0] + (q.at[1] - p.at[1]) * n[1];
            let w = (1.0 - (off / width).powi(2)).max(0.0).powi(2);
            let lever = [p.at[0] - m.about[0] - m.shift_px[0], p.at[1] - m.about[1] - m.shift_px[1]];
            let row = [n[0], n[1], lever[0] * n[1] - lever[1] * n[0]];
            for i in 0..3 {
                for j in 0..3 {
                    a[i][j] += w * row[i] * row[j];
                }
                b[i] += w * row[i] * off;
            }
        }
        // Lines that all run one way hold nothing along themselves.
        let held = a[0][0] + a[1][1];
        (0..2).for_each(|i| a[i][i] += 1e-4 * held + 1e-9);
        a[2][2] += 1e-6 * a[2][2] + 1e-9;
        let Some(step) = solve(a, b) else { break };
        m.shift_px = [m.shift_px[0] + step[0], m.shift_px[1] + step[1]];
        m.turn_deg += step[2].to_degrees();
        if round > 17 && step[0].hypot(step[1]) < 1e-3 && step[2].abs() < 1e-6 {
            break;
        }
    }
    let common = from.iter().map(|p| moved(p, &m)).filter(|p| onto.nearest(p, COMMON_PX).is_some()).count();
    (m, common as f64 / from.len().max(1) as f64)
}
