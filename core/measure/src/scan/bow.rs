//! Where a ruled line really runs: the straight line through its ink's middle, and how far the hand bows off it.
//!
//! How: least squares through the middles of the columns' ink; the bow is the smooth middle of the ink that hangs together, followed from the
//! line's middle to both ends. Limits: between lines that nearly touch no bow is told. Common practice, no source.

use super::{find::Candidate, paper::Flat, sampled::sample};

/// The middle of the ink across a candidate, `s` px along from its own middle; none where there is too little.
fn middle(flat: &Flat, c: &Candidate, s: f64, reach: f64) -> Option<f64> {
    let (mut m, mut mn) = (0.0, 0.0);
    let mut n = -reach;
    while n <= reach {
        let a = f64::from(sample(flat, c.x + c.dx * s - c.dy * n, c.y + c.dy * s + c.dx * n));
        if a > INKED {
            m += a;
            mn += a * n;
        }
        n += 0.5;
    }
    (m > 0.3).then(|| mn / m)
}

/// The ink that hangs together across a line.
struct Across {
    middle: f64,
    half: f64,
    /// Whether there is paper on both sides of it.
    alone: bool,
}

/// The ink that hangs together across a line at `s`, about a place `near` px across; none where there is none.
fn across(flat: &Flat, c: &Candidate, s: f64, near: f64, margin: f64) -> Option<Across> {
    let ink = |n: f64| f64::from(sample(flat, c.x + c.dx * s - c.dy * n, c.y + c.dy * s + c.dx * n));
    let reach = 1.3 * c.half_width + 0.5 * margin;
    let walk = |way: f64| {
        let mut n = near;
        while ink(n + way) > INKED && (n - near).abs() < reach {
            n += way;
        }
        n
    };
    if ink(near) <= INKED {
        return None;
    }
    let (low, high) = (walk(-0.5), walk(0.5));
    // As far as the line may be wide: what goes on is another's.
    ((high - near).max(near - low) < reach).then(|| {
        let steps = ((high - low) / 0.5) as usize;
        let (m, mn) = (0..=steps).map(|k| low + 0.5 * k as f64).fold((0.0, 0.0), |t, n| (t.0 + ink(n), t.1 + ink(n) * n));
        let beside = (0.6 * c.half_width.min(0.5 * (high - low))).max(3.0);
        let alone = [low - beside, low - 0.5 * beside, high + 0.5 * beside, high + beside].iter().all(|n| ink(*n) < INKED);
        Across { middle: mn / m, half: 0.5 * (high - low), alone }
    })
}

/// Absorptance from which a place counts as the line's.
const INKED: f64 = 0.15;
/// A line bows where its smooth middle is further off than this share of its half width, and this much, px.
const BOWS: f64 = 0.35;
const BOWS_PX: f64 = 1.5;
/// The middle of all ink within reach is off by this share of the half width where another line's is among it.
const BESIDE: f64 = 0.3;
/// The middle is averaged over this length, mm: what is shorter is the edges'.
const BOW_MM: f64 = 2.0;

/// How the hand bows a line off a straight one.
pub(super) struct Bow {
    /// Px across by columns of a strip; 0 throughout where the line is straight.
    pub off: Vec<f64>,
    /// Half the line's own width, px: of one that bows its second moment tells too much.
    pub half_width: f64,
}

/// The middles of a line's own ink, followed from place to place.
struct Followed {
    /// Px across every `every` px along, from `start` on; NaN where there is none.
    raw: Vec<f64>,
    every: usize,
    halves: Vec<f64>,
}

/// Follows a line's ink from `start` px along on over `length` px; none where it is nowhere seen, or lies so near to others that it is not told from
/// them.
fn follow(flat: &Flat, c: &Candidate, start: f64, length: usize, px_mm: f64, margin: f64) -> Option<Followed> {
    let every = ((0.1 / px_mm) as usize).max(1);
    let mut raw = vec![f64::NAN; length.div_ceil(every)];
    let at = |i: usize, near: f64| across(flat, c, start + (i * every) as f64 + 0.5, near, margin);
    let half = raw.len() / 2;
    // From where its ink is known to be, or where it crosses the straight line, as near to the middle as it does, to both ends, each place beginning
    // where the last one was: a neighbour's ink is not this line's.
    let known = c.on.and_then(|p| {
        let (x, y) = (p[0] - c.x, p[1] - c.y);
        let (i, near) = ((x * c.dx + y * c.dy - start) / every as f64, y * c.dx - x * c.dy);
        (i >= 0.0 && (i as usize) < raw.len() && at(i as usize, near).is_some()).then_some((i as usize, near))
    });
    let crosses = || (0..=half).flat_map(|d| [half + d, half - d]).find(|i| *i < raw.len() && at(*i, 0.0).is_some()).map(|i| (i, 0.0));
    let (first, near) = known.or_else(crosses)?;
    let (mut crowded, mut halves) = (0, Vec::new());
    let mut walk = |near: f64, way: &mut dyn Iterator<Item = usize>| {
        let mut near = near;
        for i in way {
            if let Some(a) = at(i, near) {
                (raw[i], near) = (a.middle, a.middle);
                crowded += usize::from(!a.alone);
                halves.push(a.half);
            }
        }
    };
    walk(near, &mut (first..length.div_ceil(every)));
    walk(near, &mut (0..first).rev());
    (crowded * 10 <= raw.len()).then_some(Followed { raw, every, halves })
}

impl Followed {
    /// The smooth middle, which beyond the line's ends and where ink is missing goes on as it was, and the most that it is off the straight line.
    fn smooth(&self, px_mm: f64) -> Option<(Vec<f64>, f64)> {
        let mut raw = self.raw.clone();
        let (first, last) = (raw.iter().position(|v| v.is_finite())?, raw.iter().rposition(|v| v.is_finite())?);
        let (head, tail) = (raw[first], raw[last]);
        raw[..first].fill(head);
        raw[last..].fill(tail);
        for i in 1..raw.len() {
            if !raw[i].is_finite() {
                raw[i] = raw[i - 1];
            }
        }
        let window = ((BOW_MM / px_mm) as usize / self.every).max(1);
        let smooth = crate::stats::moving_mean(&crate::stats::moving_mean(&raw, window), window);
        let off = smooth[first..=last].iter().map(|v| v.abs()).fold(0.0, f64::max);
        Some((smooth, off))
    }

    fn half_width(&self, c: &Candidate) -> f64 {
        crate::stats::median(&self.halves).unwrap_or(c.half_width).min(c.half_width)
    }
}

/// The hand's bow in a strip from a place on.
pub(super) fn bow(flat: &Flat, c: &Candidate, from: [f64; 2], columns: usize, px_mm: f64, margin: f64) -> Bow {
    let start = (from[0] - c.x) * c.dx + (from[1] - c.y) * c.dy;
    let bows = || {
        let f = follow(flat, c, start, columns, px_mm, margin)?;
        let half_width = f.half_width(c);
        let (smooth, off) = f.smooth(px_mm)?;
        let at = |k: usize| {
            let (i, t) = (k / f.every, (k % f.every) as f64 / f.every as f64);
            smooth[i] + (smooth[(i + 1).min(smooth.len() - 1)] - smooth[i]) * t
        };
        (off >= BOWS_PX.max(BOWS * half_width)).then(|| Bow { off: (0..columns).map(at).collect(), half_width })
    };
    bows().unwrap_or_else(|| Bow { off: vec![0.0; columns], half_width: c.half_width })
}

/// The straight line through the middles of a line that bows, and its own width; none where it does not, or is not seen over most of its length.
pub(super) fn through(flat: &Flat, c: &Candidate, px_mm: f64, margin: f64) -> Option<Candidate> {
    let f = follow(flat, c, -c.half, (2.0 * c.half) as usize, px_mm, margin)?;
    let half_width = f.half_width(c);
    let places = f.raw.iter().enumerate().filter(|(_, v)| v.is_finite()).map(|(i, v)| (i as f64 * f.every as f64 + 0.5 - c.half, *v));
    if places.clone().count() * 10 < f.raw.len() * 8 {
        return None;
    }
    let out = Candidate { half_width, ..fitted(c, places)? };
    let (_, off) = follow(flat, &out, -c.half, (2.0 * c.half) as usize, px_mm, margin)?.smooth(px_mm)?;
    (off >= BOWS_PX.max(BOWS * half_width)).then_some(out)
}

/// The candidate moved and turned onto the straight line through places along and across it, by least squares.
fn fitted(c: &Candidate, places: impl Iterator<Item = (f64, f64)>) -> Option<Candidate> {
    let (mut sw, mut ss, mut sn, mut sss, mut ssn) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for (s, n) in places {
        sw += 1.0;
        ss += s;
        sn += n;
        sss += s * s;
        ssn += s * n;
    }
    let det = sw * sss - ss * ss;
    if sw < 8.0 || det <= 0.0 {
        return None;
    }
    let slope = (sw * ssn - ss * sn) / det;
    let shift = (sn - slope * ss) / sw;
    let len = 1f64.hypot(slope);
    let (dx, dy) = ((c.dx - slope * c.dy) / len, (c.dy + slope * c.dx) / len);
    Some(Candidate { x: c.x - c.dy * shift, y: c.y + c.dx * shift, dx, dy, ..*c })
}

/// A line through the middles of the columns' ink.
pub(crate) fn refine(flat: &Flat, c: &Candidate, margin: f64) -> Option<Candidate> {
    let reach = c.half_width * 2.2 + margin;
    let parts = (2.0 * c.half).ceil() as usize;
    let at = |k: usize| {
        let s = k as f64 + 0.5 - parts as f64 * 0.5;
        // Where another line's ink lies within reach, what hangs together is this one's.
        let own = across(flat, c, s, 0.0, margin).map(|a| a.middle);
        let mid = middle(flat, c, s, reach).map(|m| own.filter(|o| (m - o).abs() > BESIDE * c.half_width).unwrap_or(m));
        mid.map(|m| (s, m))
    };
    fitted(c, (0..parts).filter_map(at))
}
