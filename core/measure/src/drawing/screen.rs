//! Screens: dots of one size, of ink or of paper, each with three of its like about it, a dozen or more together; and whether they stand in a lattice.
//!
//! A printed tone's dots repeat in two directions: for nearly every dot the place opposite its neighbour holds a dot too. What a hand
//! stipples, and lines that fell into pieces, do not. Common practice, no source. Limits: where dots and paper are both of one piece (a photo's
//! shadows) there is no screen to be seen.

use petgraph::unionfind::UnionFind;

use super::octaves::Octaves;
use crate::stats::median;

/// A small, compact piece of ink or of paper.
#[derive(Debug, Clone, Copy)]
pub(super) struct Dot {
    /// The middle of its box, px.
    pub middle: (f64, f64),
    /// The longer side of its box, px.
    pub size: f64,
    pub pixels: f64,
}

impl Dot {
    /// A dot by its box and its pixels, if it is no larger than `most` and fills its box by more than a share of it.
    pub fn of(x: [u32; 2], y: [u32; 2], pixels: u32, most: f64, fills: f64) -> Option<Self> {
        let (w, h) = (f64::from(x[1] - x[0]), f64::from(y[1] - y[0]));
        let (size, pixels) = (w.max(h), f64::from(pixels));
        let middle = (0.5 * f64::from(x[0] + x[1]), 0.5 * f64::from(y[0] + y[1]));
        (size <= most && size < 2.0 * w.min(h) && pixels > fills * w * h).then_some(Self { middle, size, pixels })
    }

    fn alike(&self, o: &Self) -> bool {
        self.pixels < 2.0 * o.pixels && o.pixels < 2.0 * self.pixels
    }

    fn apart(&self, o: &Self) -> f64 {
        (self.middle.0 - o.middle.0).hypot(self.middle.1 - o.middle.1)
    }
}

/// Dots that belong together.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Screen {
    /// Their numbers.
    pub dots: Vec<usize>,
    /// How far each one's nearest is, px, in the same order.
    pub pitch: Vec<f64>,
    /// The dots of a lattice's inside, each with the two steps that repeat there, px; of none where it is no lattice.
    pub cells: Vec<Cell>,
}

impl Screen {
    /// Whether it is a lattice, and so fine that it is a printed tone's rather than a row of windows.
    pub fn is_fine(&self, widest_px: f64) -> bool {
        !self.cells.is_empty() && median(&self.pitch).is_some_and(|p| p <= 2.0 * widest_px)
    }
}

/// A dot within a lattice.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Cell {
    pub dot: usize,
    pub steps: [[f64; 2]; 2],
}

impl Cell {
    /// The area that one dot has to itself, px².
    pub fn area(&self) -> f64 {
        let [a, b] = self.steps;
        (a[0] * b[1] - a[1] * b[0]).abs()
    }
}

/// Fewer dots are no screen.
const FEWEST: usize = 12;
/// So much of a lattice's dots at least lie inside of it: those of a strip three dots wide are a third.
const INSIDE: f64 = 0.2;

/// The screens among some dots, in the order of their leftmost.
pub(super) fn find(dots: &[Dot]) -> Vec<Screen> {
    if dots.len() < FEWEST {
        return Vec::new();
    }
    let mut sorted: Vec<usize> = (0..dots.len()).collect();
    sorted.sort_by(|a, b| dots[*a].middle.0.total_cmp(&dots[*b].middle.0).then(a.cmp(b)));
    let places: Vec<((f64, f64), f64)> = dots.iter().map(|d| (d.middle, d.pixels)).collect();
    let grid = Octaves::new(&places, |k| 4.0 * dots[k].size);
    let around = |i: usize, reach: f64| grid.near(dots[i].middle, dots[i].pixels, reach).filter(move |&j| j != i && dots[i].alike(&dots[j]));
    // How far the nearest dot of the same size is, if three stand about as far.
    let mut of_screen = vec![0.0; dots.len()];
    for (i, d) in dots.iter().enumerate() {
        let mut near = [f64::INFINITY; 3];
        for far in around(i, 4.0 * d.size).map(|j| d.apart(&dots[j])).filter(|far| *far <= 4.0 * d.size) {
            let at = near.partition_point(|n| *n <= far);
            if at < 3 {
                near[at..].rotate_right(1);
                near[at] = far;
            }
        }
        if near[2].is_finite() && near[2] <= 1.6 * near[0] {
            of_screen[i] = near[0];
        }
    }
    // A screen's corner has its third neighbour farther than the rest: what is alike and as near to the screen as its own dots are is of it.
    let mut pitch = of_screen.clone();
    for i in (0..dots.len()).filter(|&i| of_screen[i] == 0.0) {
        let near = around(i, 6.4 * dots[i].size).filter(|&j| dots[i].apart(&dots[j]) <= 1.6 * of_screen[j]);
        pitch[i] = near.map(|j| of_screen[j]).fold(0.0, f64::max);
    }
    let mut sets = UnionFind::<usize>::new(dots.len());
    for i in (0..dots.len()).filter(|&i| pitch[i] > 0.0) {
        for j in around(i, 1.6 * pitch[i]).filter(|&j| j > i && dots[i].apart(&dots[j]) <= 1.6 * pitch[i].min(pitch[j])) {
            sets.union(i, j);
        }
    }
    let label = sets.into_labeling();
    let mut number = vec![usize::MAX; dots.len()];
    let mut out: Vec<Vec<usize>> = Vec::new();
    for i in sorted.into_iter().filter(|&i| pitch[i] > 0.0) {
        let k = &mut number[label[i]];
        if *k == usize::MAX {
            *k = out.len();
            out.push(Vec::new());
        }
        out[*k].push(i);
    }
    out.retain(|g| g.len() >= FEWEST);
    let cell = |i: usize| cell(dots, i, pitch[i], around(i, 1.7 * pitch[i]));
    let screen = |g: Vec<usize>| {
        let mut cells: Vec<Cell> = g.iter().filter_map(|&i| cell(i)).collect();
        if (cells.len() as f64) < INSIDE * g.len() as f64 {
            cells.clear();
        }
        Screen { pitch: g.iter().map(|&i| pitch[i]).collect(), dots: g, cells }
    };
    out.into_iter().map(screen).collect()
}

/// The two steps from a dot after which the dots about it repeat, if they do.
fn cell(dots: &[Dot], i: usize, pitch: f64, around: impl Iterator<Item = usize>) -> Option<Cell> {
    /// Sine of the least angle between two steps.
    const ASIDE: f64 = 0.5;
    /// How near to its place a dot must be, in pitches.
    const NEAR: f64 = 0.25;
    let (x, y) = dots[i].middle;
    let mut steps: Vec<[f64; 2]> = around.map(|j| [dots[j].middle.0 - x, dots[j].middle.1 - y]).collect();
    let far = |s: &[f64; 2]| s[0].hypot(s[1]);
    steps.sort_by(|a, b| far(a).total_cmp(&far(b)).then(a[0].total_cmp(&b[0])).then(a[1].total_cmp(&b[1])));
    let repeats = |s: &[f64; 2]| steps.iter().any(|o| (o[0] + s[0]).hypot(o[1] + s[1]) <= NEAR * pitch);
    let first = *steps.first()?;
    let second = *steps.iter().find(|s| (s[0] * first[1] - s[1] * first[0]).abs() > ASIDE * far(s) * far(&first))?;
    (repeats(&first) && repeats(&second)).then_some(Cell { dot: i, steps: [first, second] })
}
