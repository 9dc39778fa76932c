//! Pressure and ink of the same strokes, simulated: a page drawn on over the tablet, or the pen's own lines gone over, with the truth beside it.
//!
//! The sheet lies askew and stretched, the hand lags, misses the line and names its efforts unevenly; each of these has two laws, neither of which
//! the registration or the fit assumes.

pub mod trial;

use eddymist_ink::{
    Outline,
    outline::Path,
    stroke::{Stroke, along},
};

use crate::{
    normal,
    pens::Pen,
    rng,
    sheet::{Ways, ways},
    stylus::{Hand, Tablet, draw},
    wander,
};

/// The page's size, mm.
pub const PAGE_MM: [f64; 2] = [210.0, 148.0];
/// What the pen's pace is told at, mm/s: slow and fast of [`Ways::pace`].
const SLOW: f64 = 25.0;
const FAST: f64 = 140.0;

/// A line of the page: its course in mm, its effort over the share of its way, and its pace.
pub struct Course {
    pub path: Vec<[f64; 2]>,
    bumps: [f64; 4],
    law: usize,
    pub pace: f64,
}

impl Course {
    /// Effort at a share of the way: two laws, swelling waves and a slope with a plateau.
    pub fn effort(&self, u: f64) -> f64 {
        let [a, b, c, d] = self.bumps;
        let e = if self.law == 0 {
            0.5 + 0.42 * a * (std::f64::consts::TAU * (0.4 + b) * u + 6.0 * c).sin() + 0.1 * d * (23.0 * u).sin()
        } else {
            let (from, to, knee) = (0.5 - 0.45 * a, 0.5 + 0.45 * b, 0.25 + 0.5 * c);
            if u < knee { from + (to - from) * u / knee } else { to - 0.8 * d * (u - knee) }
        };
        e.clamp(0.03, 0.97)
    }
}

/// The lines of a page: long ones that swell, arcs in every direction, short ones.
pub fn courses(seed: u64) -> Vec<Course> {
    let mut r = rng(seed, 0xC0);
    let mut out = Vec::new();
    let mut put = |path: Vec<[f64; 2]>, r: &mut rand_chacha::ChaCha8Rng, law: usize| {
        let mut share = || 0.5 + 0.5 * (normal(r) / 1.2).tanh();
        let bumps = [share(), share(), share(), share()];
        let pace = 0.45 + 1.3 * share();
        out.push(Course { path, bumps, law, pace });
    };
    for k in 0..5 {
        let (y, h, f) = (16.0 + 13.0 * f64::from(k), 3.0 * normal(&mut r).clamp(-1.5, 1.5), 4.0 + 3.0 * normal(&mut r).abs());
        put((0..=160).map(|i| f64::from(i) / 160.0).map(|u| [14.0 + 112.0 * u, y + h * (f * u).sin()]).collect(), &mut r, k as usize % 2);
    }
    for k in 0..6 {
        let (cx, cy) = (149.0 + 36.0 * f64::from(k % 2), 25.0 + 40.0 * f64::from(k / 2));
        let (radius, from, turn) = (12.0 + 2.0 * normal(&mut r).tanh(), 6.3 * f64::from(k) / 6.0, if k % 3 == 0 { -5.6 } else { 5.6 });
        put((0..=140).map(|i| from + turn * f64::from(i) / 140.0).map(|a| [cx + radius * a.cos(), cy + radius * a.sin()]).collect(), &mut r, k as usize % 2);
    }
    for k in 0..14 {
        let (x, y, a) = (18.0 + 17.0 * f64::from(k % 7), 96.0 + 26.0 * f64::from(k / 7), 0.45 * f64::from(k) + 0.3 * normal(&mut r));
        let long = 11.0 + normal(&mut r).tanh();
        put(
            (0..=40)
                .map(|i| long * f64::from(i) / 40.0)
                .map(|s| [x + s * a.cos() - 0.012 * s * s * a.sin(), y + s * a.sin() + 0.012 * s * s * a.cos() - 5.0])
                .collect(),
            &mut r,
            k as usize % 2,
        );
    }
    out
}

/// A pen as it is on paper: its width by effort, speed and direction.
#[derive(Clone, Copy)]
pub struct OnPaper {
    pub pen: Pen,
    pub ways: Ways,
}

impl OnPaper {
    pub fn new(pen: &Pen) -> Self {
        Self { pen: *pen, ways: ways(pen) }
    }

    /// Over the width at normal pace; a law of saturation, no line through three points.
    pub fn pace(&self, speed: f64) -> f64 {
        let middle = (SLOW * FAST).sqrt();
        let x = (speed / middle).ln() / (FAST / middle).ln();
        let [slow, fast] = self.ways.pace;
        let (low, high) = (slow - 1.0, fast - 1.0);
        1.0 + if x < 0.0 { low * (-1.3 * x).tanh() / 1.3f64.tanh() } else { high * (1.3 * x).tanh() / 1.3f64.tanh() }
    }

    /// Degrees counter-clockwise.
    pub fn width(&self, effort: f64, speed: f64, direction_deg: f64) -> f64 {
        self.pen.width(effort) * self.pace(speed) * self.ways.toward(direction_deg)
    }
}

/// The effort behind a raw value.
pub fn effort_of(hand: &Hand, tablet: &Tablet, raw: f64) -> f64 {
    let (mut low, mut high) = (0.0, 1.0);
    for _ in 0..50 {
        let mid = 0.5 * (low + high);
        if tablet.raw(hand.force(mid)) < raw { low = mid } else { high = mid }
    }
    0.5 * (low + high)
}

/// The same tablet without its faults.
fn clean(tablet: &Tablet) -> Tablet {
    Tablet { steps: 1 << 24, position_noise_mm: 0.0, wobble_mm: [0.0, 1.0], pressure_noise: 0.0, hysteresis: 0.0, dropouts: false, ..*tablet }
}

/// What a stroke truly was at each of its reports: time, place, effort, speed, direction.
pub struct Moment {
    pub t_ms: f64,
    pub at: [f64; 2],
    pub effort: f64,
    pub speed: f64,
    pub direction_deg: f64,
}

fn moments(hand: &Hand, tablet: &Tablet, s: &Stroke) -> Vec<Moment> {
    let n = s.samples.len();
    (0..n)
        .map(|i| {
            let (a, b) = (&s.samples[i.saturating_sub(4)], &s.samples[(i + 4).min(n - 1)]);
            let (dx, dy) = (b.x - a.x, b.y - a.y);
            let p = &s.samples[i];
            Moment {
                t_ms: p.t_ms,
                at: [p.x, p.y],
                effort: effort_of(hand, tablet, p.pressure.unwrap_or(0.0)),
                speed: dx.hypot(dy) / ((b.t_ms - a.t_ms) / 1000.0).max(1e-6),
                direction_deg: (-dy).atan2(dx).to_degrees(),
            }
        })
        .collect()
}

/// The line that a pen leaves along moments, its edges as ragged as the pen's.
fn ink(pen: &OnPaper, moments: &[Moment], seed: u64) -> Outline {
    const STEP: f64 = 0.04;
    let way = along(moments.iter().map(|m| (m.at[0], m.at[1])));
    let Some(total) = way.last().copied().filter(|t| *t > STEP) else { return Outline { paths: Vec::new() } };
    let n = (total / STEP) as usize;
    let mut r = rng(seed, 0x1A);
    let whole = 1.0 + 0.3 * pen.pen.spread * normal(&mut r);
    let slow = wander(&mut r, n, 4.0 / STEP);
    let edges = [0, 1].map(|_| wander(&mut r, n, pen.pen.correlation_um / 1000.0 / STEP));
    let (mut left, mut right): (Path, Path) = (Path::new(), Path::new());
    let mut k = 0;
    for i in 0..n {
        let s = i as f64 * STEP;
        while k + 2 < way.len() && way[k + 1] < s {
            k += 1;
        }
        let f = ((s - way[k]) / (way[k + 1] - way[k]).max(1e-9)).clamp(0.0, 1.0);
        let mix = |g: &dyn Fn(&Moment) -> f64| g(&moments[k]) + f * (g(&moments[k + 1]) - g(&moments[k]));
        let direction = moments[k].direction_deg;
        let w = pen.width(mix(&|m| m.effort), mix(&|m| m.speed), direction) * whole * (1.0 + pen.pen.waver * slow[i]);
        let (sin, cos) = direction.to_radians().sin_cos();
        let at = [mix(&|m| m.at[0]), mix(&|m| m.at[1])];
        let rag = pen.pen.raggedness_um / 1000.0;
        let (a, b) = (0.5 * w + rag * edges[0][i], 0.5 * w + rag * edges[1][i]);
        left.push([at[0] - a * sin, at[1] - a * cos]);
        right.push([at[0] + b * sin, at[1] + b * cos]);
    }
    right.reverse();
    left.extend(right);
    Outline { paths: vec![left] }
}

/// How the sheet lay over the tablet.
#[derive(Debug, Clone, Copy)]
pub struct Askew {
    pub turn_deg: f64,
    pub shift_mm: [f64; 2],
    pub stretch: [f64; 2],
    /// How far the tablet's own place is bent, mm: by one slow wave, or by its corners.
    pub bend_mm: f64,
    pub corners: bool,
}

impl Askew {
    /// A place of the page as the tablet reports it.
    pub fn reported(&self, at: [f64; 2]) -> [f64; 2] {
        let [x, y] = [0, 1].map(|k| self.stretch[k] * (at[k] - 0.5 * PAGE_MM[k]));
        let (u, v) = (2.0 * x / PAGE_MM[0], 2.0 * y / PAGE_MM[1]);
        let b = if self.corners { [u * v * v, u * u * v] } else { [(2.1 * v + 0.4).sin(), (1.7 * u - 0.3).cos()] };
        let (x, y) = (x + self.bend_mm * b[0], y + self.bend_mm * b[1]);
        let (s, c) = (-self.turn_deg.to_radians()).sin_cos();
        [c * x - s * y + 0.5 * PAGE_MM[0] + self.shift_mm[0], s * x + c * y + 0.5 * PAGE_MM[1] + self.shift_mm[1]]
    }
}

/// What was recorded, what lies on the page, and what is true.
pub struct PairedPage {
    pub strokes: Vec<Stroke>,
    pub ink: Vec<Outline>,
    pub moments: Vec<Vec<Moment>>,
}

/// Paper over the tablet: every line drawn once.
pub fn paper(hand: &Hand, tablet: &Tablet, pen: &OnPaper, askew: &Askew, seed: u64) -> PairedPage {
    let mut out = PairedPage { strokes: Vec::new(), ink: Vec::new(), moments: Vec::new() };
    let mut clock = 0.0;
    for (k, course) in courses(seed).iter().enumerate() {
        let id = seed.wrapping_mul(1000).wrapping_add(k as u64);
        let drawn = |t: &Tablet| draw(hand, t, &course.path, |u| course.effort(u), course.pace, clock, id);
        let (truth, mut stroke) = (drawn(&clean(tablet)), drawn(tablet));
        clock = stroke.samples.last().map_or(clock, |l| l.t_ms) + 350.0;
        let truth = moments(hand, tablet, &truth);
        out.ink.push(ink(pen, &truth, id));
        for p in &mut stroke.samples {
            [p.x, p.y] = askew.reported([p.x, p.y]);
        }
        out.moments.push(truth);
        out.strokes.push(stroke);
    }
    out
}

/// How a hand goes over a line.
#[derive(Debug, Clone, Copy)]
pub struct GoesOver {
    pub lag_ms: f64,
    /// How far it strays from the line: slowly along it, or by as much all along.
    pub miss_mm: f64,
    pub even: bool,
    pub times: usize,
}

/// The pen's own lines, each gone over so many times; strokes in mm of the page from its top left corner.
pub fn over(hand: &Hand, tablet: &Tablet, pen: &OnPaper, goes: &GoesOver, seed: u64) -> PairedPage {
    let mut out = PairedPage { strokes: Vec::new(), ink: Vec::new(), moments: Vec::new() };
    let mut clock = 0.0;
    let mut r = rng(seed, 0x0E);
    for (k, course) in courses(seed).iter().enumerate() {
        let id = seed.wrapping_mul(1000).wrapping_add(k as u64);
        // Drawn at an even pace: going over says nothing of it.
        let own = moments(hand, tablet, &draw(hand, &clean(tablet), &course.path, |u| course.effort(u), 0.8, 0.0, id));
        let even: Vec<Moment> = own.into_iter().map(|m| Moment { speed: (SLOW * FAST).sqrt(), ..m }).collect();
        out.ink.push(ink(pen, &even, id));
        for time in 0..goes.times {
            let n = course.path.len();
            let slow = [0, 1].map(|_| wander(&mut r, n, 0.35 * n as f64));
            let all = [normal(&mut r), normal(&mut r)];
            let path: Vec<[f64; 2]> = course
                .path
                .iter()
                .enumerate()
                .map(|(i, p)| [0, 1].map(|c| p[c] + 0.7 * goes.miss_mm * if goes.even { 0.8 * all[c].clamp(-1.5, 1.5) } else { slow[c][i] }))
                .collect();
            let long = along(path.iter().map(|p| (p[0], p[1]))).last().copied().unwrap_or(1.0);
            let seconds = long / (hand.speed_mm_s * course.pace.min(1.1));
            // What the eye saw so long before: the hand's own way in time, turned round.
            let share = |t: f64| 0.6 * t + 0.4 * (t * t * t * (10.0 - 15.0 * t + 6.0 * t * t));
            let seen = |u: f64| {
                let (mut low, mut high) = (0.0, 1.0);
                for _ in 0..40 {
                    let mid = 0.5 * (low + high);
                    if share(mid) < u { low = mid } else { high = mid }
                }
                course.effort(share((low - goes.lag_ms / 1000.0 / seconds).max(0.0)))
            };
            let id = id.wrapping_add(500 + 97 * time as u64);
            let stroke = draw(hand, tablet, &path, seen, course.pace.min(1.1), clock, id);
            clock = stroke.samples.last().map_or(clock, |l| l.t_ms) + 350.0;
            out.moments.push(moments(hand, tablet, &draw(hand, &clean(tablet), &path, seen, course.pace.min(1.1), 0.0, id)));
            out.strokes.push(stroke);
        }
    }
    out
}

/// The effort that a hand draws when it means one of the five: off by up to `most`, none at either end.
pub fn uneven(meant: f64, most: f64, law: usize) -> f64 {
    let bump = if law == 0 { (std::f64::consts::PI * meant).sin() } else { 4.0 * meant * (1.0 - meant) * (1.4 - 0.8 * meant) };
    (meant + most * bump).clamp(0.0, 1.0)
}
