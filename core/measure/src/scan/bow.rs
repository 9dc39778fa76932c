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

/// The middle of the ink that hangs together across a line at `s`, about a place `near` px across, and whether there is paper on both sides of
/// it; none where there is none.
fn own_middle(flat: &Flat, c: &Candidate, s: f64, near: f64, margin: f64) -> Option<(f64, bool)> {
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
        let beside = (0.6 * c.half_width).max(3.0);
        let alone = [low - beside, low - 0.5 * beside, high + 0.5 * beside, high + beside].iter().all(|n| ink(*n) < INKED);
        (mn / m, alone)
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

/// The hand's bow by columns of a strip; 0 throughout where the line is straight.
pub(super) fn bow(flat: &Flat, c: &Candidate, from: [f64; 2], columns: usize, px_mm: f64, margin: f64) -> Vec<f64> {
    let start = (from[0] - c.x) * c.dx + (from[1] - c.y) * c.dy;
    let every = ((0.1 / px_mm) as usize).max(1);
    let mut raw = vec![f64::NAN; columns.div_ceil(every)];
    // From the middle to both ends, each place beginning where the last one was: a neighbour's ink is not this line's.
    let half = raw.len() / 2;
    let mut crowded = 0;
    for way in [(half..raw.len()).collect::<Vec<usize>>(), (0..half).rev().collect()] {
        let mut at = 0.0;
        for i in way {
            if let Some((middle, alone)) = own_middle(flat, c, start + (i * every) as f64 + 0.5, at, margin) {
                (raw[i], at) = (middle, middle);
                crowded += usize::from(!alone);
            }
        }
    }
    // Between near lines it is not told from theirs.
    if crowded * 10 > raw.len() {
        return vec![0.0; columns];
    }
    let (Some(first), Some(last)) = (raw.iter().position(|v| v.is_finite()), raw.iter().rposition(|v| v.is_finite())) else { return vec![0.0; columns] };
    // Beyond its ends, and where ink is missing, it goes on as it was.
    let (head, tail) = (raw[first], raw[last]);
    raw[..first].fill(head);
    raw[last..].fill(tail);
    for i in 1..raw.len() {
        if !raw[i].is_finite() {
            raw[i] = raw[i - 1];
        }
    }
    let window = ((BOW_MM / px_mm) as usize / every).max(1);
    let smooth = crate::stats::moving_mean(&crate::stats::moving_mean(&raw, window), window);
    let off = smooth[first..=last].iter().map(|v| v.abs()).fold(0.0, f64::max);
    if off < BOWS_PX.max(BOWS * c.half_width) {
        return vec![0.0; columns];
    }
    (0..columns)
        .map(|k| {
            let (i, t) = (k / every, (k % every) as f64 / every as f64);
            smooth[i] + (smooth[(i + 1).min(smooth.len() - 1)] - smooth[i]) * t
        })
        .collect()
}

/// A line through the middles of the columns' ink, by weighted least squares.
pub(crate) fn refine(flat: &Flat, c: &Candidate, margin: f64) -> Option<Candidate> {
    let reach = c.half_width * 2.2 + margin;
    let parts = (2.0 * c.half).ceil() as usize;
    let (mut sw, mut ss, mut sn, mut sss, mut ssn) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for k in 0..parts {
        let s = k as f64 + 0.5 - parts as f64 * 0.5;
        // Where another line's ink lies within reach, what hangs together is this one's.
        let own = own_middle(flat, c, s, 0.0, margin).map(|o| o.0);
        let mid = middle(flat, c, s, reach).map(|m| own.filter(|o| (m - o).abs() > BESIDE * c.half_width).unwrap_or(m));
        if let Some(mid) = mid {
            sw += 1.0;
            ss += s;
            sn += mid;
            sss += s * s;
            ssn += s * mid;
        }
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
