//! A bundle of hairs: each lays a streak of its own. Pressed and slow they close into one line; light or fast they part.
//!
//! How hairs touch, trail and run dry is common practice, no source.

use std::f64::consts::TAU;

use crate::{
    envelope::{NibPlacement, Run, hull, runs, trace},
    inked::InkedSample,
    noise::{Wander, even, seed},
    outline::{Outline, Path},
    polygon::thinned,
};

/// Speed of the hand at which a hair's flow has halved, mm/s.
const DRIES_MM_S: f64 = 150.0;
/// A hair with less than this share of its full flow leaves nothing.
const LEAST_FLOW: f64 = 0.3;
/// How much of its flow is a hair's own chance, and the way over which that wanders, mm.
const CHANCE: f64 = 0.35;
const CHANCE_MM: f64 = 4.0;
/// At full flow the hairs overlap so much that no paper shows between them.
const CLOSED: f64 = 1.6;
/// The share of the hairs that stands within the bundle's rim.
const INNER: f64 = 0.7;
/// A hair's own placements are left out where straight steps pass them within this share of its width.
const STRAIGHT: f64 = 0.2;
/// The most of them that one straight step passes.
const LONGEST: usize = 12;

#[derive(Debug, Clone, Copy)]
struct Hair {
    /// Place in the bundle, in a unit disk.
    u: f64,
    v: f64,
    /// 0 is the longest hair, which touches first; 1 the shortest.
    rank: f64,
}

/// The hairs, and how they behave.
#[derive(Debug, Clone)]
pub(crate) struct Bundle {
    hairs: Vec<Hair>,
    spread: f64,
    stiffness: f64,
    load: f64,
    seed: u64,
}

/// What the hairs remember along one stroke.
#[derive(Debug, Clone)]
pub(crate) struct LiveBundle {
    tips: Vec<Option<[f64; 2]>>,
    chance: Vec<Wander>,
    way: f64,
    last: Option<[f64; 2]>,
    before: Vec<Option<NibPlacement>>,
}

impl Bundle {
    pub fn new(hairs: u32, spread: f64, stiffness: f64, load: f64, brush: u64) -> Self {
        let mut state = seed(brush, [0.0; 2], 11);
        let n = hairs.max(1);
        // Evenly over the disk, by the golden angle (Vogel, "A better way to construct the sunflower head", 1979), the outermost
        // on its rim, so that the line is as wide as its weight.
        let hairs = (0..n)
            .map(|k| {
                let (r, turn) = (((f64::from(k) + 0.5) / (INNER * f64::from(n))).sqrt().min(1.0), f64::from(k) * TAU * 0.381_966_011_250_105);
                Hair { u: r * turn.cos(), v: r * turn.sin(), rank: even(&mut state) }
            })
            .collect();
        Self { hairs, spread, stiffness, load, seed: brush }
    }

    pub fn begin(&self, first: [f64; 2]) -> LiveBundle {
        let n = self.hairs.len();
        let chance = (0..n).map(|k| Wander::new(seed(self.seed, first, 100 + k as u64), CHANCE_MM)).collect();
        LiveBundle { tips: vec![None; n], chance, way: 0.0, last: None, before: vec![None; n] }
    }

    /// Where every hair stands at the next sample; none where it leaves nothing.
    fn step(&self, live: &mut LiveBundle, s: &InkedSample) -> Vec<Option<NibPlacement>> {
        let at = [s.x, s.y];
        live.way += live.last.map_or(0.0, |l| (at[0] - l[0]).hypot(at[1] - l[1]));
        live.last = Some(at);
        let full = CLOSED * 0.5 * s.nib_mm / (self.hairs.len() as f64).powf(0.75);
        // A hair's width is within the bundle's.
        let hair_mm = full.min(0.5 * s.breadth_mm);
        let reach = [0.5 * s.nib_mm - hair_mm, 0.5 * s.breadth_mm - hair_mm].map(|r| r.max(0.0));
        let rope = (1.0 - self.stiffness) * 0.5 * s.nib_mm;
        let (sin, cos) = s.nib_angle.sin_cos();
        let flow = self.load * (0.35 + 0.65 * s.effort) / (1.0 + s.speed_mm_s / DRIES_MM_S);
        let mut middle = [0.0; 2];
        for (h, tip) in self.hairs.iter().zip(&mut live.tips) {
            let (a, b) = (h.u * reach[0], h.v * reach[1]);
            let hold = [at[0] + cos * a - sin * b, at[1] + sin * a + cos * b];
            // A soft hair is dragged: its tip follows at the end of a rope.
            let p = tip.get_or_insert(hold);
            let (dx, dy) = (hold[0] - p[0], hold[1] - p[1]);
            let d = dx.hypot(dy);
            if d > rope {
                let k = (d - rope) / d;
                *p = [p[0] + dx * k, p[1] + dy * k];
            }
            middle = [middle[0] + p[0], middle[1] + p[1]];
        }
        // The bundle as a whole stays under the pen: only its shape is dragged.
        let n = self.hairs.len() as f64;
        let lag = [at[0] - middle[0] / n, at[1] - middle[1] / n];
        let way = live.way;
        self.hairs
            .iter()
            .zip(&live.tips)
            .zip(&mut live.chance)
            .map(|((h, tip), chance)| {
                let flow = (flow * (1.0 + CHANCE * chance.value(way))).min(1.0);
                let touches = s.effort >= self.spread * h.rank;
                let r = hair_mm * flow;
                (touches && flow >= LEAST_FLOW && r > 0.0).then_some(())?;
                let [x, y] = (*tip)?;
                Some(NibPlacement { x: x + lag[0], y: y + lag[1], a: r, b: r, angle: 0.0 })
            })
            .collect()
    }

    /// The pieces that one more sample adds.
    pub fn push(&self, live: &mut LiveBundle, s: &InkedSample, tolerance: f64) -> Vec<Path> {
        let now = self.step(live, s);
        let before = std::mem::replace(&mut live.before, now);
        let pairs = before.iter().zip(&live.before);
        pairs.filter_map(|(b, n)| n.as_ref().map(|n| hull(b.as_ref().unwrap_or(n), n, tolerance))).collect()
    }

    /// The outline of the streaks over a part of the samples.
    pub fn outline(&self, samples: &[InkedSample], range: std::ops::Range<usize>, tolerance: f64) -> Outline {
        let Some(first) = samples.first() else { return Outline::default() };
        let mut live = self.begin([first.x, first.y]);
        let mut streaks: Vec<Vec<Option<NibPlacement>>> = vec![Vec::with_capacity(range.len()); self.hairs.len()];
        for (k, s) in samples.iter().enumerate().take(range.end) {
            let now = self.step(&mut live, s);
            if k >= range.start {
                now.into_iter().zip(&mut streaks).for_each(|(n, streak)| streak.push(n));
            }
        }
        Outline::united(streaks.iter().flat_map(|s| swept(s, tolerance)).collect())
    }
}

/// The paths of one hair.
fn swept(streak: &[Option<NibPlacement>], tolerance: f64) -> Vec<Path> {
    let mut paths = Vec::new();
    for part in streak.split(Option::is_none) {
        let nibs: Vec<NibPlacement> = part.iter().flatten().copied().collect();
        let width = nibs.iter().map(|n| n.a).fold(0.0, f64::max);
        let fine = (STRAIGHT * width).max(tolerance);
        runs(
            &thinned(&nibs, fine, LONGEST),
            |run| match run {
                Run::Traced(stretch) => {
                    let mut out = Path::new();
                    trace(&mut out, stretch, fine);
                    paths.push(out);
                }
                Run::Alone(path) => paths.push(path),
            },
            fine,
        );
    }
    paths
}
