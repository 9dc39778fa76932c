//! Boil: lines that flicker from drawing to drawing though each drawing alone is well (methods.md, section 6).
//!
//! A line of a drawing is matched to one of the drawing before and one of the drawing after, by role, place and direction. Second
//! differences over time are held against the limit, as a share of the role's target:
//!
//! - of the line's weight, its mean width over the places that all three drawings have;
//! - of its shape, the way across it once each neighbour's shift and turn as a whole are taken out, root mean square over stretches;
//! - of its place, the shift as a whole. A line that moves on shifts too, to one side before and to the other after: its second
//!   difference is small beside its steps. Where steps are as from chance the sum of the squared second differences is one and a half
//!   times that of the steps (von Neumann's ratio, Ann. Math. Stat. 12, 1941); nearer to that than to none it is no movement.
//!
//! A role boils when more of its lines are over than a binomial with p = 0.05 allows at 1 %, and more than when, at every place, the
//! three drawings' values are dealt out anew (a permutation within blocks; E. S. Edgington, Randomization Tests, 1980): what differs
//! from place to place only, or goes steadily on, does not boil.

use std::collections::{BTreeMap, HashMap, VecDeque};

use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use statrs::distribution::{Binomial, DiscreteCDF};

use crate::{
    document::{DrawingCheck, FindingKind, SequenceFinding},
    guide::LineGuide,
    judge::WeighedLine,
};

/// Fewer matched lines say nothing.
const LEAST_LINES: usize = 5;
/// So many places of a line make a stretch, and a line shorter than two of them is not matched.
const STRETCH: usize = 6;
/// A line is looked at in no more places than this.
const MOST_PLACES: usize = 72;
/// Directions of matched places differ by less than this.
const DIRECTION_COS: f64 = 0.82;
/// A matched line has this share of its places in the one line it is matched to.
const SHARE: f64 = 0.6;
/// Squared second differences over squared steps: 1.5 where steps are by chance, about 0.3 and less for a movement of eight drawings a
/// turn and more.
const TO_AND_FRO: f64 = 1.1;
const DEALS: usize = 200;
const BY_CHANCE: f64 = 0.05;
const P: f64 = 0.01;

/// Takes drawings one by one in their sequence, and says at the end what boils. It holds three drawings at a time.
pub struct Boil<'a> {
    guide: &'a LineGuide,
    held: VecDeque<Held>,
    groups: BTreeMap<(usize, Option<String>), Vec<Matched>>,
}

/// A drawing's lines at the page's scale.
struct Held {
    file: String,
    who: [Option<String>; 4],
    /// How many exposures it is held for.
    exposures: f64,
    strips: Vec<Strip>,
    cells: HashMap<(i32, i32), Vec<(u32, u32)>>,
}

struct Strip {
    role: usize,
    /// x, y, width.
    places: Vec<[f64; 3]>,
    weighed: Vec<bool>,
}

/// A line found in three neighbouring drawings: at each place the three widths, and the three places across the line.
struct Matched {
    file: String,
    target: f64,
    /// The middle drawing's share of the way from the one before to the one after.
    share: f64,
    widths: Vec<[f32; 3]>,
    across: Vec<[f32; 3]>,
    /// The shift across the line as a whole, to the drawings before and after.
    shift: [f64; 2],
}

/// What is looked at of a matched line.
#[derive(Clone, Copy)]
enum Look {
    Weight,
    Shape,
}

const CELL: f64 = 40.0;

fn cell(x: f64, y: f64) -> (i32, i32) {
    ((x / CELL).floor() as i32, (y / CELL).floor() as i32)
}

impl Held {
    fn new(check: &DrawingCheck, lines: &[WeighedLine]) -> Self {
        let (place, width) = (10.0 * check.scale, 10.0 * check.scale * check.shot_factor);
        let known = |c: &str| check.manifest.get(c).filter(|v| !v.is_empty()).cloned();
        let strips: Vec<Strip> = lines
            .iter()
            .map(|l| Strip {
                role: l.role,
                places: l.places.as_chunks::<3>().0.iter().map(|p| [f64::from(p[0]) / place, f64::from(p[1]) / place, f64::from(p[2]) / width]).collect(),
                weighed: l.standing.chars().map(|c| c != '-').collect(),
            })
            .collect();
        let mut cells: HashMap<(i32, i32), Vec<(u32, u32)>> = HashMap::new();
        for (k, s) in strips.iter().enumerate() {
            for (i, p) in s.places.iter().enumerate() {
                cells.entry(cell(p[0], p[1])).or_default().push((k as u32, i as u32));
            }
        }
        let exposures = known("exposure").and_then(|e| e.parse::<f64>().ok()).filter(|e| *e >= 1.0 && *e <= 1000.0).unwrap_or(1.0);
        Self { file: check.file.clone(), who: ["artist", "shot", "character", "shot_size"].map(known), exposures, strips, cells }
    }

    /// The nearest place to `at` of a line of the role that runs the same way.
    fn nearest(&self, role: usize, at: [f64; 2], along: [f64; 2], reach: f64) -> Option<(usize, usize)> {
        let (x, y) = cell(at[0], at[1]);
        let around = (reach / CELL).ceil() as i32;
        let mut best = (reach * reach, None);
        for cx in x - around..=x + around {
            for cy in y - around..=y + around {
                for (k, i) in self.cells.get(&(cx, cy)).into_iter().flatten().map(|(k, i)| (*k as usize, *i as usize)) {
                    let strip = &self.strips[k];
                    let p = strip.places[i];
                    let d = (p[0] - at[0]).powi(2) + (p[1] - at[1]).powi(2);
                    if strip.role == role && d < best.0 && strip.along(i).is_some_and(|u| (u[0] * along[0] + u[1] * along[1]).abs() > DIRECTION_COS) {
                        best = (d, Some((k, i)));
                    }
                }
            }
        }
        best.1
    }
}

impl Strip {
    /// The unit vector along the line at a place.
    fn along(&self, i: usize) -> Option<[f64; 2]> {
        let (a, b) = (self.places.get(i.saturating_sub(2))?, self.places.get((i + 2).min(self.places.len() - 1))?);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let d = dx.hypot(dy);
        (d > 0.0).then(|| [dx / d, dy / d])
    }
}

impl<'a> Boil<'a> {
    pub fn new(guide: &'a LineGuide) -> Self {
        Self { guide, held: VecDeque::new(), groups: BTreeMap::new() }
    }

    /// The next drawing of the sequence.
    pub fn push(&mut self, check: &DrawingCheck, lines: &[WeighedLine]) {
        if self.guide.off.contains(&FindingKind::Boil) {
            return;
        }
        self.held.push_back(Held::new(check, lines));
        if self.held.len() > 3 {
            self.held.pop_front();
        }
        let [before, now, after] = [0, 1, 2].map(|i| self.held.get(i));
        let (Some(before), Some(now), Some(after)) = (before, now, after) else { return };
        let same = |k: usize| before.who[k] == now.who[k] && now.who[k] == after.who[k];
        if !(same(1) && same(2) && same(3)) {
            return;
        }
        let artist = now.who[0].clone().filter(|_| same(0));
        let share = before.exposures / (before.exposures + now.exposures);
        for strip in &now.strips {
            let Some(role) = self.guide.roles.get(strip.role).filter(|r| r.judge) else { continue };
            let Some(weight) = role.weight_px else { continue };
            if let Some(m) = matched(strip, before, after, weight.target, share, &now.file) {
                self.groups.entry((strip.role, artist.clone())).or_default().push(m);
            }
        }
    }

    /// What boils.
    pub fn finish(self) -> Vec<SequenceFinding> {
        let limit = self.guide.limits.boil;
        let mut out = Vec::new();
        for ((role, artist), lines) in &self.groups {
            let said: Vec<(Vec<(usize, f64)>, &str)> =
                [(over(lines, Look::Weight, limit), "weight"), (over(lines, Look::Shape, limit), "shape"), (shifted(lines, limit), "place")]
                    .into_iter()
                    .filter_map(|(o, word)| Some((o?, word)))
                    .collect();
            let Some((worst, _)) = said.iter().max_by_key(|s| s.0.len()) else { continue };
            let name = &self.guide.roles[*role].name;
            let value = worst.iter().map(|w| w.1).sum::<f64>() / worst.len() as f64;
            let mut drawings: Vec<String> = worst.iter().map(|w| lines[w.0].file.clone()).collect();
            drawings.dedup();
            let who = artist.as_ref().map_or("Between artists".to_string(), Clone::clone);
            let what = said.iter().map(|s| s.1).collect::<Vec<_>>().join(" and ");
            out.push(SequenceFinding {
                kind: FindingKind::Boil,
                role: name.clone(),
                artist: artist.clone(),
                value,
                limit,
                message: format!(
                    "{who}: {name} boils in {what}, {} of {} lines jump from drawing to drawing by {:.0} % of their weight, at most {:.0} % may",
                    worst.len(),
                    lines.len(),
                    100.0 * value,
                    100.0 * limit
                ),
                drawings,
            });
        }
        // Those of one artist first: between artists it is the artists that differ.
        out.sort_by_key(|f| f.artist.is_none());
        out
    }
}

/// A place of a line: its partners before and after, the three widths, and the three places across.
type Row = (usize, usize, [f32; 3], [f32; 3]);

/// A strip with its partners in the drawings before and after.
fn matched(strip: &Strip, before: &Held, after: &Held, target: f64, share: f64, file: &str) -> Option<Matched> {
    let length: f64 = strip.places.windows(2).map(|w| (w[1][0] - w[0][0]).hypot(w[1][1] - w[0][1])).sum();
    let step = target.max(length / MOST_PLACES as f64);
    let reach = (5.0 * target).max(30.0);
    let mut rows: Vec<Row> = Vec::new();
    let mut looked = 0usize;
    let mut way = step;
    for i in 0..strip.places.len() {
        if i > 0 {
            way += (strip.places[i][0] - strip.places[i - 1][0]).hypot(strip.places[i][1] - strip.places[i - 1][1]);
        }
        if way < step || !strip.weighed[i] {
            continue;
        }
        way = 0.0;
        looked += 1;
        let [x, y, w] = strip.places[i];
        let Some(u) = strip.along(i) else { continue };
        let found = [before, after].map(|d| {
            let (k, j) = d.nearest(strip.role, [x, y], u, reach)?;
            let p = d.strips[k].places[j];
            // Across this line: from its place to the other's, along the normal.
            d.strips[k].weighed[j].then(|| (k, p[2], (p[0] - x) * -u[1] + (p[1] - y) * u[0]))
        });
        if let [Some(b), Some(a)] = found {
            rows.push((b.0, a.0, [b.1 as f32, w as f32, a.1 as f32], [b.2 as f32, 0.0, a.2 as f32]));
        }
    }
    let most = |of: fn(&Row) -> usize| {
        let mut counts: HashMap<usize, usize> = HashMap::new();
        rows.iter().for_each(|r| *counts.entry(of(r)).or_default() += 1);
        counts.into_iter().max_by_key(|(k, n)| (*n, usize::MAX - k)).map(|c| c.0)
    };
    let (b, a) = (most(|r| r.0)?, most(|r| r.1)?);
    rows.retain(|r| r.0 == b && r.1 == a);
    if rows.len() < 2 * STRETCH || (rows.len() as f64) < SHARE * looked as f64 {
        return None;
    }
    let mut across: Vec<[f32; 3]> = rows.iter().map(|r| r.3).collect();
    let shift = [0, 2].map(|k| across.iter().map(|r| f64::from(r[k])).sum::<f64>() / across.len() as f64);
    for k in [0, 2] {
        level(&mut across, k);
    }
    Some(Matched { file: file.into(), target, share, widths: rows.iter().map(|r| r.2).collect(), across, shift })
}

/// Takes the straight line of least squares out of one column: the shift and the turn of the line as a whole.
fn level(rows: &mut [[f32; 3]], k: usize) {
    let n = rows.len() as f64;
    let (mut sy, mut sxy, mut sxx) = (0.0, 0.0, 0.0);
    for (i, r) in rows.iter().enumerate() {
        let x = i as f64 - 0.5 * (n - 1.0);
        sy += f64::from(r[k]);
        sxy += x * f64::from(r[k]);
        sxx += x * x;
    }
    let (mean, slope) = (sy / n, if sxx > 0.0 { sxy / sxx } else { 0.0 });
    for (i, r) in rows.iter_mut().enumerate() {
        r[k] -= (mean + slope * (i as f64 - 0.5 * (n - 1.0))) as f32;
    }
}

/// The second difference of a line as a share of its target: of its mean weight, or root mean square over stretches of its shape.
/// `deal` says whose value stands where, at each place.
fn second_difference(m: &Matched, look: Look, mut deal: impl FnMut() -> [usize; 3]) -> f64 {
    let (before, after) = (1.0 - m.share, m.share);
    let (rows, long) = match look {
        Look::Weight => (&m.widths, m.widths.len()),
        Look::Shape => (&m.across, STRETCH),
    };
    let (mut sum, mut n) = (0.0, 0.0);
    for stretch in rows.chunks(long).filter(|c| c.len() == long) {
        let mean = stretch
            .iter()
            .map(|r| {
                let d = deal();
                before * f64::from(r[d[0]]) + after * f64::from(r[d[2]]) - f64::from(r[d[1]])
            })
            .sum::<f64>()
            / long as f64;
        sum += (2.0 * mean / m.target).powi(2);
        n += 1.0;
    }
    if n > 0.0 { f64::sqrt(sum / n) } else { 0.0 }
}

/// Whether so many of all are more than chance allows.
fn many(over: usize, all: usize) -> bool {
    over > 0 && Binomial::new(BY_CHANCE, all as u64).is_ok_and(|b| b.sf(over as u64 - 1) < P)
}

/// The lines that shift to and fro by more than the limit, unless they move.
fn shifted(lines: &[Matched], limit: f64) -> Option<Vec<(usize, f64)>> {
    let second = |m: &Matched| 2.0 * ((1.0 - m.share) * m.shift[0] + m.share * m.shift[1]);
    let steps: f64 = lines.iter().map(|m| m.shift[0].powi(2) + m.shift[1].powi(2)).sum();
    let seconds: f64 = lines.iter().map(|m| second(m).powi(2)).sum();
    let out: Vec<(usize, f64)> = lines.iter().enumerate().map(|(i, m)| (i, second(m).abs() / m.target)).filter(|(_, v)| *v > limit).collect();
    (lines.len() >= LEAST_LINES && many(out.len(), lines.len()) && seconds > TO_AND_FRO * steps).then_some(out)
}

/// The lines over the limit with their figures, where there are more than chance gives.
fn over(lines: &[Matched], look: Look, limit: f64) -> Option<Vec<(usize, f64)>> {
    if lines.len() < LEAST_LINES {
        return None;
    }
    let out: Vec<(usize, f64)> = lines.iter().enumerate().map(|(i, m)| (i, second_difference(m, look, || [0, 1, 2]))).filter(|(_, v)| *v > limit).collect();
    if !many(out.len(), lines.len()) {
        return None;
    }
    const ORDERS: [[usize; 3]; 6] = [[0, 1, 2], [0, 2, 1], [1, 0, 2], [1, 2, 0], [2, 0, 1], [2, 1, 0]];
    let mut rng = ChaCha8Rng::seed_from_u64(lines.len() as u64);
    let as_many = (0..DEALS)
        .filter(|_| lines.iter().filter(|m| second_difference(m, look, || ORDERS[rng.random_range(0..ORDERS.len())]) > limit).count() >= out.len())
        .count();
    ((as_many + 1) as f64 <= P * (DEALS + 1) as f64).then_some(out)
}
