//! A sampler sheet inked by a simulated pen: the printed sheet, what the hand put into its cells, and the truth.

use eddymist_formats::sheet::drawing;
use eddymist_ink::{Outline, outline::Path};
use eddymist_measure::sheet::layout::{CellKind, HUB_MM, RAY_MM, RING_MM, SOLID_MM, SheetPlan, Slot};

use crate::{
    normal,
    pens::{Pen, rule},
    rng,
    stylus::pull_of,
    wander,
};

/// What a pen does beyond its width by effort. None of it is a law that is fitted.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ways {
    /// Breadth over length of the nib, and where its long side lies, degrees.
    pub flat: f64,
    pub angle_deg: f64,
    /// What the pull opens it by, over its width, and the direction that opens it most.
    pub opens: f64,
    pub pull_deg: f64,
    /// Width at slow and fast pace over that at normal pace.
    pub pace: [f64; 2],
    /// A held dot over the line.
    pub dot: f64,
    /// Length over which a flick runs out, and in, mm; 0 is blunt.
    pub flick_mm: [f64; 2],
}

/// The ways of a pen that ships with the program.
pub fn ways(pen: &Pen) -> Ways {
    let round = Ways { flat: 1.0, angle_deg: 0.0, opens: 0.0, pull_deg: 0.0, pace: [1.0, 1.0], dot: 1.2, flick_mm: [0.0, 0.0] };
    match pen.id {
        "fineliner-05" => Ways { pace: [1.04, 0.96], dot: 1.45, flick_mm: [1.6, 0.0], ..round },
        "steel-nib" => Ways { opens: 0.55, pull_deg: 265.0, pace: [1.06, 0.9], dot: 1.6, flick_mm: [6.5, 2.2], ..round },
        "brush-pen" => Ways { pace: [1.1, 0.88], dot: 1.5, flick_mm: [11.0, 4.5], ..round },
        "chisel" => Ways { flat: 0.3, angle_deg: 38.0, pace: [1.02, 0.97], dot: 1.1, ..round },
        _ => round,
    }
}

impl Truth {
    /// Mean width over the middle `mm` of a stroke.
    pub fn middle(widths: &[f64], mm: f64) -> f64 {
        let keep = ((mm / 0.02) as usize).clamp(1, widths.len());
        let from = (widths.len() - keep) / 2;
        widths[from..from + keep].iter().sum::<f64>() / keep as f64
    }
}

impl Ways {
    /// Width drawn toward a direction (degrees, counter-clockwise) over that drawn to the right. The chisel's corners are
    /// rounder than an ellipse's would be, and the spring opens more suddenly than a cosine.
    pub fn toward(&self, direction_deg: f64) -> f64 {
        self.shape(direction_deg) / self.shape(0.0)
    }

    fn shape(&self, direction_deg: f64) -> f64 {
        let t = (direction_deg - self.angle_deg).to_radians();
        let p = 2.15;
        let nib = (t.sin().abs().powf(p) + (self.flat * t.cos().abs()).powf(p)).powf(1.0 / p);
        let pull = (direction_deg - self.pull_deg).to_radians().cos().max(0.0).powf(1.1);
        nib * (1.0 + self.opens * pull)
    }

    /// Where the nib's long side lies; none for a round one.
    pub fn nib_angle_deg(&self) -> Option<f64> {
        (self.flat < 0.9).then_some(self.angle_deg)
    }

    /// Share of the width at distance `d` from a flick's tip, of one that runs out over `length`.
    fn run(d: f64, length: f64) -> f64 {
        if d >= length || length <= 0.0 { 1.0 } else { 0.04 + 0.96 * (std::f64::consts::FRAC_PI_2 * d / length).sin().powf(0.75) }
    }
}

/// What is true of an inked sheet.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Truth {
    /// By cell and stroke: the width between the edges every 0.02 mm of the way, mm.
    pub bodies: Vec<(String, usize, Vec<f64>)>,
    /// Distances at which each flick had reached 90 % of its width, mm: out, in.
    pub at_90: [Vec<f64>; 2],
    pub dots_mm: Vec<f64>,
}

/// The ink of all cells; `pull` is the effort that the hand adds where it pulls.
pub fn ink(pen: &Pen, plan: &SheetPlan, pull: f64, seed: u64) -> (Vec<Outline>, Truth) {
    let ways = ways(pen);
    let mut r = rng(seed, 0x5EE7);
    let mut out = Vec::new();
    let mut truth = Truth::default();
    // A hand is off its guide by some tenths of a millimetre.
    let blunt = Pen { lead_out_mm: 0.0, ..*pen };
    let straight = |slot: &Slot, width: f64, waver: f64, r: &mut rand_chacha::ChaCha8Rng, id: u64| {
        let (dx, dy) = (slot.to[0] - slot.from[0], slot.to[1] - slot.from[1]);
        let tilt = (0.3 * normal(r)).to_radians();
        let off = 0.2 * normal(r);
        let one = Pen { width_mm: [width, 0.0], waver, ..blunt };
        let line = rule(&one, 0.5, [0.0, 0.0], dx.hypot(dy), seed.wrapping_mul(131).wrapping_add(id));
        let path = &line.outline.paths[0];
        let widths = (0..path.len() / 2).map(|i| path[path.len() - 1 - i][1] - path[i][1]).collect::<Vec<f64>>();
        (turned(&line.outline, slot.from, dy.atan2(dx), tilt, off), widths)
    };
    let mut id = 0;
    for cell in &plan.cells {
        for (i, slot) in cell.strokes.iter().enumerate() {
            id += 1;
            let normal_width = pen.width(0.5);
            match cell.kind {
                CellKind::Effort | CellKind::Pace => {
                    let factor = match cell.pace.as_deref() {
                        Some("slow") => ways.pace[0],
                        Some("fast") => ways.pace[1],
                        _ => 1.0,
                    };
                    let (o, w) = straight(slot, pen.width(cell.effort.unwrap_or(0.5)) * factor, pen.waver, &mut r, id);
                    truth.bodies.push((cell.id.clone(), i, w));
                    out.push(o);
                }
                CellKind::Fan => {
                    let a = (slot.from[1] - slot.to[1]).atan2(slot.to[0] - slot.from[0]).to_degrees();
                    let back = (RAY_MM[0] - HUB_MM) / (RAY_MM[1] - RAY_MM[0]);
                    let hub = [0, 1].map(|k| slot.from[k] - back * (slot.to[k] - slot.from[k]));
                    let pulled = pen.width(0.5 + pull * pull_of(a));
                    let (o, w) = straight(&Slot { from: hub, ..*slot }, pulled * ways.toward(a), 0.0, &mut r, id);
                    truth.bodies.push((cell.id.clone(), i, w));
                    out.push(o);
                }
                CellKind::Ramp => out.push(band(slot, &|u| pen.width(1.0 - (2.0 * u - 1.0).abs()), slot.to[0] - slot.from[0], pen, seed + id)),
                CellKind::FlickOut | CellKind::FlickIn => {
                    let way = usize::from(cell.kind == CellKind::FlickIn);
                    let full = pen.width(0.6) * (1.0 + pen.spread * normal(&mut r));
                    let length = ways.flick_mm[way] * (1.0 + 0.08 * normal(&mut r));
                    let long = 17.0 + 1.2 * normal(&mut r);
                    let near = |u: f64| if way == 0 { (1.0 - u) * long } else { u * long };
                    let slot = if way == 0 { *slot } else { Slot { from: [slot.to[0] - long, slot.to[1]], ..*slot } };
                    out.push(band(&slot, &|u| full * Ways::run(near(u), length), long, pen, seed + id));
                    let at = (0..4000).map(|k| 0.005 * f64::from(k)).find(|d| Ways::run(*d, length) >= 0.9).unwrap_or(0.0);
                    truth.at_90[way].push(at);
                }
                CellKind::Dot => {
                    let d = normal_width * ways.dot * (1.0 + pen.spread * normal(&mut r));
                    // A hand slides by a fifth of a millimetre while it holds still, on paper as on a tablet.
                    let (slide, r0) = (0.2 + 0.03 * normal(&mut r), 0.5 * d);
                    truth.dots_mm.push(2.0 * (r0 * r0 + 2.0 * r0 * slide.abs() / std::f64::consts::PI).sqrt());
                    let at = [slot.from[0] + 0.2 * normal(&mut r), slot.from[1] + 0.2 * normal(&mut r)];
                    out.push(stadium(at, slide.abs(), r0));
                }
                CellKind::Circle => out.push(ring(slot, &|a| pen.width(0.5 + pull * pull_of(a)) * ways.toward(a), seed)),
                CellKind::Hatching => {
                    for k in 0..26 {
                        let x = slot.from[0] + 2.0 + 1.6 * f64::from(k);
                        let one = Slot { from: [x, slot.from[1] + 9.0], to: [x + 2.4, slot.from[1] - 9.0], reach: 0.0 };
                        out.push(straight(&one, 0.7 * normal_width, pen.waver, &mut r, 1000 + k as u64).0);
                    }
                }
                CellKind::Solid => {
                    let (x, y, s) = (slot.from[0], slot.from[1] - slot.reach, SOLID_MM);
                    out.push(Outline { paths: vec![vec![[x, y], [x + s, y], [x + s, y + s], [x, y + s]]] });
                }
                CellKind::Signature => {
                    let n = 120;
                    let at = |k: usize| {
                        let u = k as f64 / n as f64;
                        [slot.from[0] + u * (slot.to[0] - slot.from[0]), slot.from[1] - 7.0 * (11.0 * u).sin() * (1.0 - 0.6 * u)]
                    };
                    // As free as on a tablet.
                    let way = eddymist_ink::stroke::along((0..=n).map(|k| (at(k)[0], at(k)[1])));
                    for k in 0..n {
                        let (a, b) = (at(k), at(k + 1));
                        let w = 0.5 * pen.width(0.45 + 0.3 * (7.0 * way[k] / way[n]).sin());
                        let d = (b[0] - a[0]).hypot(b[1] - a[1]).max(1e-9);
                        let (u, v) = (-(b[1] - a[1]) / d * w, (b[0] - a[0]) / d * w);
                        out.push(Outline { paths: vec![vec![[a[0] + u, a[1] + v], [b[0] + u, b[1] + v], [b[0] - u, b[1] - v], [a[0] - u, a[1] - v]]] });
                    }
                }
            }
        }
    }
    (out, truth)
}

/// The printed sheet with its ink, `scale` times its full size about the page's middle: what a scanner is given.
pub fn inked(pen: &Pen, plan: &SheetPlan, scale: f64, seed: u64) -> (Vec<Outline>, Truth) {
    inked_by(pen, plan, scale, 0.0, seed)
}

/// The same by a hand that adds so much effort where it pulls.
pub fn inked_by(pen: &Pen, plan: &SheetPlan, scale: f64, pull: f64, seed: u64) -> (Vec<Outline>, Truth) {
    let (ink, truth) = ink(pen, plan, pull, seed);
    let mid = [0.5 * plan.size_mm[0], 0.5 * plan.size_mm[1]];
    // A printer scales the guides; the pen's own width is what it is.
    let mut out: Vec<Outline> = drawing(plan);
    for path in out.iter_mut().flat_map(|o| &mut o.paths).flatten() {
        *path = [0, 1].map(|k| mid[k] + scale * (path[k] - mid[k]));
    }
    for o in &ink {
        let Some([l, t, r, b]) = o.bounds() else { continue };
        let c = [0.5 * (l + r), 0.5 * (t + b)];
        let shift = [0, 1].map(|k| (scale - 1.0) * (c[k] - mid[k]));
        out.push(Outline { paths: o.paths.iter().map(|p| p.iter().map(|q| [q[0] + shift[0], q[1] + shift[1]]).collect()).collect() });
    }
    (out, truth)
}

/// An outline along +x laid from a place toward an angle (y down), off to the side and tilted about its middle.
fn turned(o: &Outline, from: [f64; 2], angle: f64, tilt: f64, off: f64) -> Outline {
    let long = o.bounds().map_or(0.0, |b| b[2]);
    let (s, c) = angle.sin_cos();
    let (st, ct) = tilt.sin_cos();
    let place = |p: &[f64; 2]| {
        let (x, y) = (p[0] - 0.5 * long, p[1]);
        let (x, y) = (ct * x - st * y + 0.5 * long, st * x + ct * y + off);
        [from[0] + c * x - s * y, from[1] + s * x + c * y]
    };
    Outline { paths: o.paths.iter().map(|p| p.iter().map(place).collect()).collect() }
}

/// A level band from a slot's start whose width goes by the share of the way, its edges as ragged as the pen's.
fn band(slot: &Slot, width: &dyn Fn(f64) -> f64, long: f64, pen: &Pen, seed: u64) -> Outline {
    let step = 0.02;
    let n = (long / step) as usize;
    let mut r = rng(seed, 0xBA);
    let edges = [0, 1].map(|_| wander(&mut r, n, pen.correlation_um / 1000.0 / step));
    let rag = pen.raggedness_um / 1000.0;
    let off = 0.15 * normal(&mut r);
    let p = |i: usize, side: usize| {
        let w = width(i as f64 / n as f64);
        let sign = if side == 0 { -1.0 } else { 1.0 };
        [slot.from[0] + i as f64 * step, slot.from[1] + off + sign * (0.5 * w + rag * edges[side][i] * (w / pen.width(0.5)).min(1.0))]
    };
    let mut path: Path = (0..n).map(|i| p(i, 0)).collect();
    path.extend((0..n).rev().map(|i| p(i, 1)));
    Outline { paths: vec![path] }
}

/// A disc that slides level by `long` about its middle.
fn stadium(mid: [f64; 2], long: f64, r: f64) -> Outline {
    let n = 160;
    let k = (std::f64::consts::TAU / f64::from(n) / (std::f64::consts::TAU / f64::from(n)).sin()).sqrt();
    Outline {
        paths: vec![
            (0..n)
                .map(|i| {
                    let a = std::f64::consts::TAU * f64::from(i) / f64::from(n);
                    [mid[0] + k * r * a.cos() + 0.5 * long * a.cos().signum(), mid[1] + k * r * a.sin()]
                })
                .collect(),
        ],
    }
}

/// The ring, a little out of round, as pieces of a band.
fn ring(slot: &Slot, width: &dyn Fn(f64) -> f64, seed: u64) -> Outline {
    let mut r = rng(seed, 0xC1C);
    let (a, b) = (0.25 * normal(&mut r), 0.2 * normal(&mut r));
    let n = 720;
    let at = |k: usize, side: f64| {
        let t = std::f64::consts::TAU * k as f64 / n as f64;
        let radius = RING_MM + a * (2.0 * t).cos() + b * (3.0 * t).sin();
        let w = width(t.to_degrees() + 90.0);
        let d = radius + side * 0.5 * w;
        [slot.from[0] + d * t.cos(), slot.from[1] - d * t.sin()]
    };
    let outer: Path = (0..n).map(|k| at(k, 1.0)).collect();
    let inner: Path = (0..n).rev().map(|k| at(k, -1.0)).collect();
    Outline { paths: vec![outer, inner] }
}
