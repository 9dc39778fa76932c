//! Simulated hands on simulated tablets.

use eddymist_calibrate::{
    Exercise, Group, WarmUp,
    warmup::{EFFORTS, Pace},
};
use eddymist_ink::{Sample, Stroke};
use serde::Serialize;

use crate::{normal, rng, wander};

/// A hand: how its effort becomes force, and how steady it is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Hand {
    pub id: &'static str,
    pub name: &'static str,
    /// Force in newtons at feather and at hardest.
    pub force_n: [f64; 2],
    /// How late the force comes as effort rises; 0 is straight.
    pub reserve: f64,
    /// Relative unsteadiness of the force.
    pub unsteady: f64,
    pub tremor_mm: f64,
    pub speed_mm_s: f64,
    /// Effort that it adds where it pulls, and takes away where it pushes, over a circle.
    pub pull: f64,
}

/// A device: how force becomes raw pressure, and its faults.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Tablet {
    pub id: &'static str,
    pub name: &'static str,
    pub steps: u32,
    pub rate_hz: f64,
    /// Newtons at which contact ink is first reported, and at which the raw value reaches 1.
    pub force_n: [f64; 2],
    /// Bend of the law: over 1 starts soft.
    pub bend: f64,
    /// The raw value beyond which it reports no more.
    pub full_point: f64,
    pub position_noise_mm: f64,
    /// Amplitude and period of the wobble on diagonals, mm.
    pub wobble_mm: [f64; 2],
    /// Standard deviation of the raw pressure's own noise.
    pub pressure_noise: f64,
    /// How much higher the raw value stays while the force falls.
    pub hysteresis: f64,
    /// Whether it loses a report now and then (about one in five hundred).
    pub dropouts: bool,
    pub tilt: bool,
}

/// The hands that ship with the program.
pub const HANDS: [Hand; 3] = [
    Hand { id: "steady", name: "steady hand", force_n: [0.18, 3.4], reserve: 1.3, unsteady: 0.006, tremor_mm: 0.02, speed_mm_s: 70.0, pull: 0.0 },
    Hand { id: "light", name: "light hand", force_n: [0.12, 2.1], reserve: 0.8, unsteady: 0.012, tremor_mm: 0.03, speed_mm_s: 90.0, pull: 0.0 },
    Hand { id: "heavy", name: "heavy hand", force_n: [0.35, 5.2], reserve: 1.8, unsteady: 0.016, tremor_mm: 0.04, speed_mm_s: 55.0, pull: 0.0 },
];

/// The tablets that ship with the program.
pub const TABLETS: [Tablet; 4] = [
    Tablet {
        id: "display-16",
        name: "16-inch pen display",
        steps: 8192,
        rate_hz: 200.0,
        force_n: [0.08, 4.6],
        bend: 1.25,
        full_point: 1.0,
        position_noise_mm: 0.012,
        wobble_mm: [0.0, 1.0],
        pressure_noise: 0.003,
        hysteresis: 0.0,
        dropouts: false,
        tilt: true,
    },
    Tablet {
        id: "large-slate",
        name: "large pen tablet",
        steps: 8192,
        rate_hz: 133.0,
        force_n: [0.05, 5.4],
        bend: 0.8,
        full_point: 1.0,
        position_noise_mm: 0.015,
        wobble_mm: [0.0, 1.0],
        pressure_noise: 0.002,
        hysteresis: 0.0,
        dropouts: false,
        tilt: true,
    },
    Tablet {
        id: "old-slate",
        name: "old pen tablet",
        steps: 1024,
        rate_hz: 100.0,
        force_n: [0.16, 3.1],
        bend: 0.7,
        full_point: 0.94,
        position_noise_mm: 0.02,
        wobble_mm: [0.06, 5.1],
        pressure_noise: 0.006,
        hysteresis: 0.02,
        dropouts: true,
        tilt: true,
    },
    Tablet {
        id: "travel",
        name: "travel tablet",
        steps: 4096,
        rate_hz: 120.0,
        force_n: [0.2, 4.0],
        bend: 1.0,
        full_point: 1.0,
        position_noise_mm: 0.025,
        wobble_mm: [0.0, 1.0],
        pressure_noise: 0.004,
        hysteresis: 0.01,
        dropouts: false,
        tilt: false,
    },
];

impl Hand {
    /// The hand of this id.
    pub fn by_id(id: &str) -> Option<&'static Self> {
        HANDS.iter().find(|h| h.id == id)
    }

    /// Newtons at an effort: a law of growth, neither a power nor a spline.
    pub fn force(&self, effort: f64) -> f64 {
        let e = effort.clamp(0.0, 1.0);
        let share = if self.reserve.abs() < 1e-9 { e } else { ((self.reserve * e).exp() - 1.0) / (self.reserve.exp() - 1.0) };
        self.force_n[0] + (self.force_n[1] - self.force_n[0]) * share
    }
}

impl Tablet {
    /// The tablet of this id.
    pub fn by_id(id: &str) -> Option<&'static Self> {
        TABLETS.iter().find(|t| t.id == id)
    }

    /// Raw pressure at a force, before it is cut into steps; 0 below activation.
    pub fn raw(&self, force_n: f64) -> f64 {
        let x = ((force_n - self.force_n[0]) / (self.force_n[1] - self.force_n[0])).clamp(0.0, 1.0);
        if x <= 0.0 {
            return 0.0;
        }
        let p = x.powf(self.bend);
        (p / (p + 0.8 * (1.0 - x).powf(self.bend))).clamp(0.0, self.full_point)
    }

    fn report(&self, raw: f64) -> f64 {
        let n = f64::from(self.steps - 1);
        ((raw * n).round() / n).min(self.full_point)
    }
}

/// How far a hand's pull goes toward a direction, degrees counter-clockwise: most down the page and a little to the left, by a law that is no cosine.
pub fn pull_of(direction_deg: f64) -> f64 {
    let c = (direction_deg - 255.0).to_radians().cos();
    c.signum() * c.abs().powf(1.4)
}

/// Draws along a path of points in mm with an effort over its share; times start at `start_ms`.
pub fn draw(hand: &Hand, tablet: &Tablet, path: &[[f64; 2]], effort: impl Fn(f64) -> f64, pace: f64, start_ms: f64, seed: u64) -> Stroke {
    let mut r = rng(seed, 0x57);
    let way = eddymist_ink::stroke::along(path.iter().map(|p| (p[0], p[1])));
    let total = way.last().copied().unwrap_or(0.0);
    let period = 1.0 / tablet.rate_hz;
    let seconds = (total / (hand.speed_mm_s * pace)).max(4.0 * period);
    let n = (seconds / period).ceil() as usize + 1;
    let tremor: [Vec<f64>; 2] = [wander(&mut r, n, 0.03 / period), wander(&mut r, n, 0.03 / period)];
    let force_drift = wander(&mut r, n, 0.15 / period);
    let mut held = 0.0f64;
    let mut lost = rng(seed, 0xD0);
    let mut samples = Vec::with_capacity(n);
    let mut k = 0;
    for i in 0..n {
        // The hand gathers speed and slows down: minimum jerk between rest and rest, half mixed with an even pace.
        let t = i as f64 / (n - 1) as f64;
        let u = 0.6 * t + 0.4 * (t * t * t * (10.0 - 15.0 * t + 6.0 * t * t));
        let s = u * total;
        while k + 2 < way.len() && way[k + 1] < s {
            k += 1;
        }
        let (a, b) = (path[k], path[(k + 1).min(path.len() - 1)]);
        let f = if way.len() > 1 { ((s - way[k]) / (way[k + 1] - way[k]).max(1e-9)).clamp(0.0, 1.0) } else { 0.0 };
        let force = hand.force(effort(u)) * (1.0 + hand.unsteady * force_drift[i]);
        let clean = tablet.raw(force);
        // Play: the value follows at once on the way up, and on the way down only once it is off by as much.
        held = held.min(clean + tablet.hysteresis).max(clean);
        let noise = if tablet.pressure_noise > 0.0 { tablet.pressure_noise * normal(&mut lost) } else { 0.0 };
        // Where the device reports its end, it reports nothing else.
        let raw = tablet.report(if clean <= 0.0 || clean >= tablet.full_point { clean } else { (held + noise).clamp(0.0, tablet.full_point) });
        if raw <= 0.0 || (tablet.dropouts && normal(&mut lost) > 2.9 && i > 2 && i + 2 < n) {
            continue;
        }
        let (mut x, mut y) = (a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let len = dx.hypot(dy).max(1e-9);
        // The grid's wobble shows on diagonals and vanishes along its wires.
        let slant = 2.0 * (dx * dy / (len * len)).abs();
        let wobble = tablet.wobble_mm[0] * slant * (std::f64::consts::TAU * s / tablet.wobble_mm[1]).sin();
        x += -dy / len * wobble + hand.tremor_mm * tremor[0][i] + tablet.position_noise_mm * normal(&mut r);
        y += dx / len * wobble + hand.tremor_mm * tremor[1][i] + tablet.position_noise_mm * normal(&mut r);
        samples.push(Sample {
            t_ms: ((start_ms + i as f64 * period * 1000.0) * 10.0).round() / 10.0,
            x,
            y,
            pressure: Some(raw),
            azimuth_deg: tablet.tilt.then(|| 48.0 + 3.0 * tremor[0][i]),
            elevation_deg: tablet.tilt.then(|| 56.0 + 2.0 * tremor[1][i]),
        });
    }
    Stroke::new(samples)
}

/// A whole warm-up: efforts and ramps, then what shows the device: ruled lines, diagonals at two paces, flicks, dots, circles,
/// a free line.
pub fn warmup(hand: &Hand, tablet: &Tablet, seed: u64) -> WarmUp {
    let mut clock = 0.0;
    let mut groups = Vec::new();
    let mut stroke = |course: &[[f64; 2]], effort: &dyn Fn(f64) -> f64, id: u64| {
        let s = draw(hand, tablet, course, effort, 1.0, clock, seed.wrapping_mul(1000).wrapping_add(id));
        clock = s.samples.last().map_or(clock, |l| l.t_ms) + 400.0;
        s
    };
    for (i, (effort, _)) in EFFORTS.into_iter().enumerate() {
        let strokes = (0..6)
            .map(|k| {
                let y = 12.0 + 6.0 * f64::from(k);
                // Hands repeat an effort within a few hundredths of it.
                let mut r = rng(seed, 0xEF + 16 * i as u64 + k as u64);
                let meant = (effort + 1.2 * hand.unsteady * normal(&mut r)).clamp(0.0, 1.0);
                stroke(&[[20.0, y], [100.0, y]], &move |_| meant, (10 * i) as u64 + k as u64)
            })
            .collect();
        groups.push(Group { exercise: Exercise::Effort, effort: Some(effort), pace: Some(Pace::Normal), strokes });
    }
    let strokes = (0..4)
        .map(|k| {
            let y = 20.0 + 12.0 * f64::from(k);
            stroke(&[[20.0, y], [140.0, y]], &|u| 1.0 - (2.0 * u - 1.0).abs(), 100 + k as u64)
        })
        .collect();
    groups.push(Group { exercise: Exercise::Ramp, effort: None, pace: Some(Pace::Slow), strokes });
    // Along a straight edge the hand cannot tremble across it: what is left is the device.
    let ruled = Hand { tremor_mm: 0.0, ..*hand };
    let mut more = |exercise, pace, hand: &Hand, paths: Vec<Vec<[f64; 2]>>, effort: &dyn Fn(f64) -> f64, speed: f64, id: u64| {
        let strokes = paths
            .iter()
            .enumerate()
            .map(|(k, path)| {
                let s = draw(hand, tablet, path, effort, speed, clock, seed.wrapping_mul(1000).wrapping_add(id + k as u64));
                clock = s.samples.last().map_or(clock, |l| l.t_ms) + 400.0;
                s
            })
            .collect();
        groups.push(Group { exercise, effort: None, pace: Some(pace), strokes });
    };
    let level = |n: usize| (0..n).map(|k| vec![[20.0, 20.0 + 14.0 * k as f64], [140.0, 20.0 + 14.0 * k as f64]]).collect::<Vec<_>>();
    let slant = |n: usize| (0..n).map(|k| vec![[20.0 + 12.0 * k as f64, 20.0], [100.0 + 12.0 * k as f64, 100.0]]).collect::<Vec<_>>();
    let arc = |turns: f64, r: f64| {
        (0..=160).map(|i| f64::from(i) / 160.0 * turns * std::f64::consts::TAU).map(|a| [70.0 + r * a.cos(), 60.0 + r * a.sin()]).collect::<Vec<_>>()
    };
    let wave = |h: f64| (0..=200).map(|i| f64::from(i) / 200.0).map(|u| [20.0 + 110.0 * u, 60.0 + h * (9.0 * u).sin() * (1.0 - 0.4 * u)]).collect::<Vec<_>>();
    more(Exercise::Ruled, Pace::Slow, &ruled, level(4), &|_| 0.5, 0.5, 200);
    more(Exercise::Diagonal, Pace::Slow, &ruled, slant(3), &|_| 0.5, 0.4, 220);
    more(Exercise::Diagonal, Pace::Fast, &ruled, slant(3), &|_| 0.5, 1.1, 230);
    more(
        Exercise::Flick,
        Pace::Fast,
        hand,
        (0..6).map(|k| vec![[20.0, 20.0 + 8.0 * f64::from(k)], [50.0, 17.0 + 8.0 * f64::from(k)]]).collect(),
        // The hand lifts over the last 5 mm.
        &|u| 0.6 * ((1.0 - u) / 0.16).min(1.0).powf(0.7),
        2.5,
        240,
    );
    more(
        Exercise::Dot,
        Pace::Slow,
        hand,
        (0..4).map(|k| vec![[20.0 + 12.0 * f64::from(k), 20.0], [20.2 + 12.0 * f64::from(k), 20.1]]).collect(),
        &|_| 0.5,
        0.0016,
        250,
    );
    // Down the page, clockwise from the right: the way turns as it goes.
    let pulled = |u: f64| 0.5 + hand.pull * pull_of(-90.0 - 360.0 * u);
    more(Exercise::Circle, Pace::Normal, hand, vec![arc(1.0, 24.0), arc(1.0, 16.0)], &pulled, 1.0, 260);
    more(Exercise::Freehand, Pace::Normal, hand, vec![wave(22.0), wave(14.0)], &|u| 0.45 + 0.3 * (7.0 * u).sin(), 1.0, 270);
    more(
        Exercise::Landing,
        Pace::Fast,
        hand,
        (0..6).map(|k| vec![[20.0, 20.0 + 8.0 * f64::from(k)], [50.0, 23.0 + 8.0 * f64::from(k)]]).collect(),
        // The hand comes down over the first 1.5 mm, later than a root and sooner than a straight line.
        &|u| 0.6 * (std::f64::consts::FRAC_PI_2 * (u / 0.05).min(1.0)).sin().powf(0.8),
        2.0,
        280,
    );
    // A press too light for the tablet never touches it: there is no stroke.
    for g in &mut groups {
        g.strokes.retain(|s| !s.samples.is_empty());
    }
    groups.retain(|g| !g.strokes.is_empty());
    WarmUp { groups, scale_from_card: false, slips_counted: false }
}
