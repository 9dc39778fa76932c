//! The course of a stroke as a rail that shapes are bent along: a place across it for every way and offset.
//!
//! How: offsets along the normals, arcs round the outside of corners; distortion is half the width over the bend's radius. Limits: inside a
//! bend tighter than the shape is thick it folds over itself.

use std::f64::consts::PI;

use crate::{inked::InkedSample, outline::Path, stroke::along};

/// Places nearer than this to one another are one, mm.
const APART_MM: f64 = 1e-4;
/// Steps of the course as a share of the offsets from it.
const STEP: f64 = 0.08;
/// Arcs round the outside of a corner turn by at most this from point to point, radians.
const ARC: f64 = 0.15;

/// A course without repeated places; `nib` is the nib's length at each.
#[derive(Debug, Clone, Default)]
pub(crate) struct Rail {
    at: Vec<[f64; 2]>,
    way: Vec<f64>,
    nib: Vec<f64>,
    /// Direction of each step, radians.
    course: Vec<f64>,
}

/// How much the bends of a stroke distort a shape that is bent along it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Distortion {
    /// Half width over the bend's radius, 95th percentile along the stroke: 0.2 is stretched by a fifth outside and pressed
    /// together by a fifth inside.
    pub share: f64,
    /// The share of the stroke on whose inside the shape folds over.
    pub folded: f64,
}

impl Rail {
    pub fn new(samples: &[InkedSample]) -> Self {
        let mut rail = Self::default();
        for s in samples {
            match rail.at.last() {
                Some(l) if (s.x - l[0]).hypot(s.y - l[1]) < APART_MM => {
                    // Of a place where the pen rested the widest counts.
                    if let Some(n) = rail.nib.last_mut() {
                        *n = n.max(s.nib_mm);
                    }
                }
                _ => {
                    rail.at.push([s.x, s.y]);
                    rail.nib.push(s.nib_mm);
                }
            }
        }
        rail.finished()
    }

    fn finished(mut self) -> Self {
        self.way = along(self.at.iter().map(|p| (p[0], p[1])));
        self.course = self.at.windows(2).map(|w| (w[1][1] - w[0][1]).atan2(w[1][0] - w[0][0])).collect();
        self
    }

    pub fn length(&self) -> f64 {
        self.way.last().copied().unwrap_or(0.0)
    }

    /// Mean of the nib's length along the way.
    pub fn mean_nib(&self) -> f64 {
        if self.length() <= 0.0 {
            return self.nib.first().copied().unwrap_or(0.0);
        }
        let sum: f64 = (1..self.at.len()).map(|i| 0.5 * (self.nib[i] + self.nib[i - 1]) * (self.way[i] - self.way[i - 1])).sum();
        sum / self.length()
    }

    /// The first place, and the nib there: what is left of a stroke without a length.
    pub fn spot(&self) -> Option<([f64; 2], f64)> {
        Some((*self.at.first()?, *self.nib.first()?))
    }

    /// Without places nearer to one another than a small part of the offsets that will be laid, `half` mm: what a bend of so
    /// small a step changes of a shape so thick is under a thousandth of its thickness.
    pub fn for_offsets(&self, half: f64) -> Self {
        let step = STEP * half;
        let last = self.at.len().saturating_sub(1);
        let mut kept = Self::default();
        let mut from = f64::NEG_INFINITY;
        for k in 0..self.at.len() {
            if k == last || (self.way[k] - from >= step && self.way[last] - self.way[k] >= step) || k == 0 {
                from = self.way[k];
                kept.at.push(self.at[k]);
                kept.nib.push(self.nib[k]);
            }
        }
        kept.finished()
    }

    fn bend(&self, k: usize) -> f64 {
        (self.course[k] - self.course[k - 1] + PI).rem_euclid(2.0 * PI) - PI
    }

    /// Parted where the course turns by more than `over` within two mean nib lengths.
    pub fn broken(&self, over: f64) -> Vec<Self> {
        let mut out = Vec::new();
        let mut from = 0;
        let reach = self.mean_nib().max(0.05);
        let mut k = 1;
        while k + 1 < self.at.len() {
            // The turn over the short stretch about here; it breaks where it turns most.
            let end = (k..self.at.len() - 1).take_while(|j| self.way[*j] - self.way[k] <= reach).last().unwrap_or(k);
            let turned: f64 = (k..=end).map(|j| self.bend(j)).sum();
            if turned.abs() > over {
                let at = (k..=end).max_by(|a, b| self.bend(*a).abs().total_cmp(&self.bend(*b).abs())).unwrap_or(k);
                out.push(self.part(from, at));
                from = at;
                k = end;
            }
            k += 1;
        }
        out.push(self.part(from, self.at.len().saturating_sub(1)));
        out
    }

    fn part(&self, from: usize, to: usize) -> Self {
        if self.at.is_empty() {
            return Self::default();
        }
        Self { at: self.at[from..=to].to_vec(), nib: self.nib[from..=to].to_vec(), ..Self::default() }.finished()
    }

    fn index(&self, way: f64) -> usize {
        self.way.partition_point(|w| *w <= way).clamp(1, self.at.len() - 1) - 1
    }

    fn place(&self, i: usize, way: f64, y: f64, course: f64) -> [f64; 2] {
        let span = self.way[i + 1] - self.way[i];
        let t = if span > 0.0 { ((way - self.way[i]) / span).clamp(0.0, 1.0) } else { 0.0 };
        let mix = |a: f64, b: f64| a + (b - a) * t;
        let off = y * mix(self.nib[i], self.nib[i + 1]);
        let (s, c) = course.sin_cos();
        [mix(self.at[i][0], self.at[i + 1][0]) - s * off, mix(self.at[i][1], self.at[i + 1][1]) + c * off]
    }

    /// A ring of `[way mm, offset in nib lengths]` laid along the rail. Round the outside of a corner it goes in an arc, on
    /// the inside through the corner itself, so that its winding number is nowhere under that of the ring.
    pub fn lay(&self, ring: &[[f64; 2]]) -> Path {
        let mut out = Path::with_capacity(ring.len() * 2);
        if self.at.len() < 2 {
            return out;
        }
        for (k, p) in ring.iter().enumerate() {
            let q = ring[(k + 1) % ring.len()];
            let i = self.index(p[0]);
            out.push(self.place(i, p[0], p[1], self.course[i]));
            let j = self.index(q[0]);
            let y = |way: f64| p[1] + (q[1] - p[1]) * ((way - p[0]) / (q[0] - p[0])).clamp(0.0, 1.0);
            if j > i {
                (i + 1..=j).for_each(|v| self.pass(v, y(self.way[v]), [v - 1, v], &mut out));
            } else {
                (j + 1..=i).rev().for_each(|v| self.pass(v, y(self.way[v]), [v, v - 1], &mut out));
            }
        }
        out
    }

    /// Passes the corner `v` at an offset, from one step's side to the other's.
    fn pass(&self, v: usize, y: f64, [from, to]: [usize; 2], out: &mut Path) {
        let forward = to > from;
        let bend = if forward { self.bend(v) } else { -self.bend(v) };
        let off = y * self.nib[v];
        let room = (self.way[v] - self.way[v - 1]).min(self.way[v + 1] - self.way[v]);
        let place_at = |course: f64, off: f64| {
            let (s, c) = course.sin_cos();
            [self.at[v][0] - s * off, self.at[v][1] + c * off]
        };
        let place = |course: f64| place_at(course, off);
        let start = self.course[from];
        // The centre of the turn lies on this side.
        let inside = (self.bend(v) > 0.0) == (off > 0.0);
        // Where both flanks are longer than what their meeting takes off them, they meet in one point.
        let taken = off.abs() * (0.5 * bend.abs()).tan();
        if bend.abs() < 1.0 && taken < if inside { 0.48 } else { 0.12 } * room {
            out.push(place_at(start + 0.5 * bend, off / (0.5 * bend).cos()));
        } else if inside {
            out.extend([place(start), self.at[v], place(start + bend)]);
        } else {
            let parts = (bend.abs() / ARC).ceil().max(1.0) as usize;
            out.extend((0..=parts).map(|k| place(start + bend * k as f64 / parts as f64)));
        }
    }

    /// How much its bends distort a shape of height `high` nib lengths.
    pub fn distortion(&self, high: f64) -> Option<Distortion> {
        if self.at.len() < 3 {
            return None;
        }
        let mut bends: Vec<(f64, f64)> = (1..self.at.len() - 1)
            .map(|k| {
                let span = 0.5 * (self.way[k + 1] - self.way[k - 1]);
                (0.5 * high * self.nib[k] * self.bend(k).abs() / span, span)
            })
            .collect();
        let total: f64 = bends.iter().map(|b| b.1).sum();
        let folded = bends.iter().filter(|b| b.0 > 1.0).map(|b| b.1).sum::<f64>() / total;
        bends.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut seen = 0.0;
        let share = bends.iter().find(|b| (seen += b.1, seen >= 0.95 * total).1).or(bends.last())?.0;
        Some(Distortion { share, folded })
    }
}
