//! Tone: paper as dots in a lattice, in tones darker than half, and where tone lies beside lines.
//!
//! How: short gaps between runs of ink that hang together above sides and meet no open paper are holes; where they repeat in two directions and leave
//! less paper than ink (`screen`), what lies between them is a tone. A line within a screen's pitch of its dots has dots grown on it, or may have:
//! its width is not the pen's there. Common practice, no source. Limits: hatching crossed so closely that half the paper is gone is a tone too; a
//! screen that is coarser than twice the widest line is taken for a drawn thing, and only its dots are masked.

use std::collections::HashMap;

use petgraph::unionfind::UnionFind;

use super::{
    Line, Place,
    ink::Run,
    islands::{Island, Islands},
    pieces::Piece,
    screen::{self, Cell, Dot, Screen},
};
use crate::stats::median;

/// Paper's share of a dark tone is no more than this.
const PAPER: f64 = 0.55;

/// A diamond fills half its box, and some of its pixels are lost.
const FILLS: f64 = 0.42;

/// Compact holes in the ink, no larger than `most`.
pub(super) fn holes(runs: &[Run], width: u32, most: f64) -> Vec<Dot> {
    /// Paper between ink, in one row.
    struct Gap {
        y: u32,
        x0: u32,
        x1: u32,
        open: bool,
    }
    let mut gaps: Vec<Gap> = Vec::new();
    let mut last = None;
    let mut x = 0;
    for r in runs {
        if last != Some(r.y) {
            if let Some(y) = last {
                gaps.push(Gap { y, x0: x, x1: width, open: true });
                // Rows without ink are open.
                gaps.extend((y + 1..r.y).map(|y| Gap { y, x0: 0, x1: width, open: true }));
            }
            (last, x) = (Some(r.y), 0);
        }
        if r.x0 > x {
            gaps.push(Gap { y: r.y, x0: x, x1: r.x0, open: x == 0 || f64::from(r.x0 - x) > most });
        }
        x = r.x1;
    }
    if let Some(y) = last {
        gaps.push(Gap { y, x0: x, x1: width, open: true });
    }
    let mut sets = UnionFind::<u32>::new(gaps.len());
    let (mut above, mut start, mut k) = (0..0, 0, 0);
    for (i, g) in gaps.iter().enumerate() {
        if i == 0 || gaps[i - 1].y != g.y {
            (above, start) = (start..i, i);
            k = above.start;
        }
        while k < above.end && gaps[k].x1 <= g.x0 {
            k += 1;
        }
        for (j, a) in gaps.iter().enumerate().take(above.end).skip(k) {
            if a.x0 >= g.x1 {
                break;
            }
            if a.x1 > g.x0 {
                sets.union(i as u32, j as u32);
            }
        }
    }
    let label = sets.into_labeling();
    let mut number: Vec<u32> = vec![u32::MAX; gaps.len()];
    // Box and pixels; those that are open, or on the first and the last row of ink, are none.
    let mut found: Vec<([u32; 2], [u32; 2], u32)> = Vec::new();
    let ends = [gaps.first().map(|g| g.y), gaps.last().map(|g| g.y)];
    for (i, g) in gaps.iter().enumerate() {
        let n = &mut number[label[i] as usize];
        if *n == u32::MAX {
            *n = found.len() as u32;
            found.push(([g.x0, g.x1], [g.y, g.y + 1], 0));
        }
        let (x, y, pixels) = &mut found[*n as usize];
        let open = g.open || *pixels == u32::MAX || ends.contains(&Some(g.y));
        (*x, *y, *pixels) = ([x[0].min(g.x0), x[1].max(g.x1)], [y[0], g.y + 1], if open { u32::MAX } else { *pixels + g.x1 - g.x0 });
    }
    found.into_iter().filter(|f| f.2 < u32::MAX).filter_map(|(x, y, pixels)| Dot::of(x, y, pixels, most, FILLS)).collect()
}

/// The screens of paper that leave less paper than ink.
pub(super) fn dark(holes: &[Dot]) -> Vec<Screen> {
    let paper = |s: &Screen| median(&s.cells.iter().map(|c| holes[c.dot].pixels / c.area()).collect::<Vec<_>>());
    screen::find(holes).into_iter().filter(|s| paper(s).is_some_and(|p| p <= PAPER)).collect()
}

/// How far the ink about a dot of paper reaches, in pitches: to the middle between four dots, and a third more.
pub(super) fn reach(screen: &Screen) -> f64 {
    let far = |c: &Cell| {
        let [a, b] = c.steps.map(|s| s[0].hypot(s[1]));
        0.5 * a.hypot(b) / a.min(b)
    };
    1.33 * median(&screen.cells.iter().map(far).collect::<Vec<_>>()).unwrap_or(0.7)
}

/// Where the dots of tones lie.
#[derive(Default)]
pub struct Toned {
    cells: HashMap<(i32, i32), Vec<Near>>,
    /// The farthest that one reaches.
    most: f32,
}

/// A dot of a tone.
struct Near {
    x: f32,
    y: f32,
    /// How far from it the tone may go on, px.
    reach: f32,
    /// The longer side of what may be cut off it or off the ink about it, px.
    bit: f32,
}

/// Side of a cell, px.
const CELL: f32 = 32.0;

impl Toned {
    /// Adds the dots of a screen of ink.
    pub(super) fn light(&mut self, screen: &Screen, dot: impl Fn(usize) -> Dot) {
        // Two of them may have run into one.
        self.add(screen, dot, 1.0, |dot, _| 2.2 * dot.size);
    }

    /// Adds the dots of a screen of paper. In its last row they are open, and the ink between them is cut off in teeth.
    pub(super) fn dark(&mut self, screen: &Screen, dot: impl Fn(usize) -> Dot) {
        self.add(screen, dot, 1.5, |_, pitch| 1.5 * pitch);
    }

    fn add(&mut self, screen: &Screen, dot: impl Fn(usize) -> Dot, pitches: f64, bit: impl Fn(Dot, f64) -> f64) {
        for (d, pitch) in screen.dots.iter().zip(&screen.pitch) {
            let dot = dot(*d);
            let (x, y) = (dot.middle.0 as f32, dot.middle.1 as f32);
            let reach = (pitches * pitch + 0.5 * dot.size) as f32;
            self.most = self.most.max(reach);
            self.cells.entry(((x / CELL) as i32, (y / CELL) as i32)).or_default().push(Near { x, y, reach, bit: bit(dot, *pitch) as f32 });
        }
    }

    pub(super) fn is_empty(&self) -> bool {
        self.cells.is_empty()
    }

    /// Says of a line's places which lie in tone.
    pub(super) fn mark(&self, line: &mut Line) {
        for p in line.points.iter_mut().filter(|p| p.place == Place::Body) {
            if self.about([p.x, p.y], 0.5 * p.width, 1.0, |_| true) > 0 {
                p.place = Place::Toned;
            }
        }
    }

    /// How many dots, such as are asked for, stand within so many pitches of a disc: none, one, or more.
    fn about(&self, [x, y]: [f32; 2], radius: f32, pitches: f32, such: impl Fn(&Near) -> bool) -> usize {
        let far = radius + pitches * self.most;
        let cells = |v: f32| ((v - far) / CELL).floor() as i32..=((v + far) / CELL).floor() as i32;
        let near = |n: &&Near| (n.x - x).powi(2) + (n.y - y).powi(2) <= (radius + pitches * n.reach).powi(2) && such(n);
        let dots = cells(x).flat_map(|x| cells(y).map(move |y| (x, y))).filter_map(|c| self.cells.get(&c)).flatten().filter(near);
        dots.take(2).count()
    }

    /// Whether a piece of ink is so small, and so near to dots, that it may be one of them that a line or the tone's border has cut.
    pub(super) fn holds(&self, p: &Piece) -> bool {
        let long = p.width().max(p.height()) as f32;
        self.about([0.5 * (p.x0 + p.x1) as f32, 0.5 * (p.y0 + p.y1) as f32], 0.0, ASLANT, |n| long <= n.bit) > 1
    }

    /// Takes out of what was found what may be of a tone: its dots where lines cut them, the paper between them and what they grew on.
    pub(super) fn leave_out(&self, found: &mut Islands) {
        let speck = |i: &Island| self.about([i.x as f32, i.y as f32], 0.0, ASLANT, |n| i.area_px2 as f32 <= n.reach * n.reach) < 2;
        found.ink.retain(speck);
        found.paper.retain(speck);
        found.gaps.retain(|g| g.points.iter().all(|p| self.about([p[0] as f32, p[1] as f32], 0.0, ASLANT, |_| true) < 2));
    }
}

/// A dot that the tone's border cuts has the next row's two aslant before it: they are so many pitches away.
const ASLANT: f32 = 1.5;
