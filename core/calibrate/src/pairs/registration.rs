//! Strokes laid over the lines that they drew: turned and moved, then sheared, then bent by less than half a millimetre.
//!
//! How: iterated closest points along the lines' normals, with the lines' free ends, far ones left out more strictly each time; the bend is a
//! cubic in the place, kept small by a ridge. Limits: strokes on straight lines of one direction hold each other along it by their ends alone.
//! Source: Chen and Medioni, "Object modelling by registration of multiple range images" (1992), on the point-to-line distance.

use eddymist_measure::stats::{median, solve};

use super::lines::{Ink, Report, distance, dot};

/// The strokes' places on the scan.
#[derive(Debug, Clone)]
pub(super) struct Laid {
    pub map: [f64; 6],
    /// Of both axes, over [`TERMS`] of the place.
    bend: [[f64; TERMS]; 2],
    middle: [f64; 2],
    half: f64,
}

/// 1, x, y, … y³.
const TERMS: usize = 10;
/// No place is bent by more, mm.
const MOST_BEND_MM: f64 = 0.5;
/// An end of a line weighs as much as so many places along it.
const END_WEIGHT: f64 = 4.0;

impl Laid {
    pub fn by(map: [f64; 6]) -> Self {
        Self { map, bend: [[0.0; TERMS]; 2], middle: [0.0; 2], half: 1.0 }
    }

    fn plain(&self, at: [f64; 2]) -> [f64; 2] {
        let m = self.map;
        [m[0] * at[0] + m[1] * at[1] + m[2], m[3] * at[0] + m[4] * at[1] + m[5]]
    }

    /// A place of the strokes on the scan.
    pub fn place(&self, at: [f64; 2]) -> [f64; 2] {
        let p = self.plain(at);
        let t = self.terms(p);
        let mut d = [0, 1].map(|k| self.bend[k].iter().zip(t).map(|(b, t)| b * t).sum::<f64>());
        let long = d[0].hypot(d[1]);
        if long > MOST_BEND_MM {
            d = d.map(|v| v * MOST_BEND_MM / long);
        }
        [p[0] + d[0], p[1] + d[1]]
    }

    /// A direction of the strokes on the scan.
    pub fn turned(&self, along: [f64; 2]) -> [f64; 2] {
        let m = self.map;
        let v = [m[0] * along[0] + m[1] * along[1], m[3] * along[0] + m[4] * along[1]];
        let d = v[0].hypot(v[1]).max(1e-9);
        v.map(|c| c / d)
    }

    /// How many mm of the scan one of the strokes is.
    pub fn scale(&self) -> f64 {
        (self.map[0] * self.map[4] - self.map[1] * self.map[3]).abs().sqrt()
    }

    /// By how much the strokes are turned, degrees counter-clockwise as seen.
    pub fn turn_deg(&self) -> f64 {
        -(self.map[3] - self.map[1]).atan2(self.map[0] + self.map[4]).to_degrees()
    }

    fn terms(&self, p: [f64; 2]) -> [f64; TERMS] {
        let [x, y] = [0, 1].map(|k| ((p[k] - self.middle[k]) / self.half).clamp(-1.5, 1.5));
        [1.0, x, y, x * x, x * y, y * y, x * x * x, x * x * y, x * y * y, y * y * y]
    }
}

/// A place of a stroke, and what it is to lie on.
struct Hold {
    from: [f64; 2],
    to: [f64; 2],
    /// Unit vector along which it is held.
    normal: [f64; 2],
    weight: f64,
}

/// What is held where, nothing further than `reach`; by the distances that there are, far ones count less (Tukey's biweight).
fn holds(ink: &Ink, strokes: &[Report], laid: &Laid, reach: f64) -> Vec<Hold> {
    let mut out = Vec::new();
    for (i, r) in strokes.iter().enumerate() {
        let at = laid.place(r.at);
        let begins = i == 0 || strokes[i - 1].stroke != r.stroke;
        let ends = i + 1 == strokes.len() || strokes[i + 1].stroke != r.stroke;
        if begins || ends {
            let tip = ink.tips.iter().map(|t| ink.places[*t]).filter(|p| distance(p.at, at) < reach && dot(p.along, laid.turned(r.along)).abs() > 0.766);
            if let Some(p) = tip.min_by(|a, b| distance(a.at, at).total_cmp(&distance(b.at, at))) {
                out.push(Hold { from: r.at, to: p.at, normal: p.along, weight: END_WEIGHT });
            }
        }
        if let Some(k) = ink.nearest(at, laid.turned(r.along), reach) {
            let p = ink.places[k];
            out.push(Hold { from: r.at, to: p.at, normal: [-p.along[1], p.along[0]], weight: 1.0 });
        }
    }
    let off = |h: &Hold| {
        let at = laid.place(h.from);
        dot([at[0] - h.to[0], at[1] - h.to[1]], h.normal).abs()
    };
    let spread = (4.685 * 1.4826 * median(&out.iter().map(off).collect::<Vec<_>>()).unwrap_or(reach)).clamp(0.02, reach);
    out.iter_mut().for_each(|h| h.weight *= (1.0 - (off(h) / spread).powi(2)).max(0.0).powi(2));
    out.retain(|h| h.weight > 0.0);
    out
}

/// Turned, moved and enlarged alike; where the size is known it stays.
fn alike(laid: &Laid, holds: &[Hold], sized: Option<f64>) -> Option<Laid> {
    let rows = holds.iter().map(|h| {
        let ([x, y], [u, v]) = (h.from, h.normal);
        ([u * x + v * y, v * x - u * y, u, v], dot(h.to, h.normal), h.weight)
    });
    let m = laid.map;
    let [a, b, c, f] = least([0.5 * (m[0] + m[4]), 0.5 * (m[3] - m[1]), m[2], m[5]], rows, [1e-3; 4])?;
    let (mut a, mut b, mut c, mut f) = (a, b, c, f);
    if let Some(scale) = sized {
        // About the strokes' middle, so that the size is changed in place.
        let n = holds.len().max(1) as f64;
        let mid = [0, 1].map(|k| holds.iter().map(|h| h.from[k]).sum::<f64>() / n);
        let k = scale / a.hypot(b).max(1e-9);
        (c, f) = (c + (1.0 - k) * (a * mid[0] - b * mid[1]), f + (1.0 - k) * (b * mid[0] + a * mid[1]));
        (a, b) = (a * k, b * k);
    }
    Some(Laid::by([a, -b, c, b, a, f]))
}

fn sheared(laid: &Laid, holds: &[Hold]) -> Option<Laid> {
    let rows = holds.iter().map(|h| {
        let ([x, y], [u, v]) = (h.from, h.normal);
        ([u * x, u * y, u, v * x, v * y, v], dot(h.to, h.normal), h.weight)
    });
    least(laid.map, rows, [10.0, 10.0, 1e-3, 10.0, 10.0, 1e-3]).map(Laid::by)
}

fn bent(laid: &Laid, holds: &[Hold]) -> Option<Laid> {
    let rows = holds.iter().map(|h| {
        let at = laid.plain(h.from);
        let t = laid.terms(at);
        let mut row = [0.0; 2 * TERMS];
        for k in 0..TERMS {
            (row[k], row[TERMS + k]) = (h.normal[0] * t[k], h.normal[1] * t[k]);
        }
        (row, dot([h.to[0] - at[0], h.to[1] - at[1]], h.normal), h.weight)
    });
    let x = least([0.0; 2 * TERMS], rows, [0.02 * holds.len() as f64 / 20.0; 2 * TERMS])?;
    let half = |from: usize| std::array::from_fn(|k| x[from + k]);
    Some(Laid { bend: [half(0), half(TERMS)], ..laid.clone() })
}

/// Weighted least squares near a start, held to it by a ridge.
fn least<const N: usize>(start: [f64; N], rows: impl Iterator<Item = ([f64; N], f64, f64)>, ridge: [f64; N]) -> Option<[f64; N]>
where
    nalgebra::Const<N>: nalgebra::DimMin<nalgebra::Const<N>, Output = nalgebra::Const<N>>,
{
    let (mut m, mut r) = ([[0.0; N]; N], [0.0; N]);
    for (row, value, weight) in rows {
        let off = value - row.iter().zip(start).map(|(a, b)| a * b).sum::<f64>();
        for i in 0..N {
            for j in 0..N {
                m[i][j] += weight * row[i] * row[j];
            }
            r[i] += weight * row[i] * off;
        }
    }
    for i in 0..N {
        m[i][i] += ridge[i];
    }
    let step = solve(m, r)?;
    Some(std::array::from_fn(|i| start[i] + step[i]))
}

/// Turned and moved from a start until it lies still.
pub(super) fn rigid(ink: &Ink, strokes: &[Report], start: [f64; 6], sized: Option<f64>) -> Laid {
    let mut laid = Laid::by(start);
    for reach in [8.0, 6.0, 5.0, 4.0, 3.0, 3.0, 2.0, 2.0, 1.5, 1.5] {
        if let Some(next) = alike(&laid, &holds(ink, strokes, &laid, reach), sized) {
            laid = next;
        }
    }
    laid
}

/// Sheared from a start that lies still and does not fit: a tablet that is stretched onto a screen of another shape. None where it is stretched by
/// more than a fourth.
pub(super) fn stretched(ink: &Ink, strokes: &[Report], start: &Laid) -> Option<Laid> {
    let mut laid = start.clone();
    for reach in [10.0, 8.0, 6.0, 5.0, 4.0, 3.0, 2.5, 2.0, 1.5, 1.5] {
        laid = sheared(&laid, &holds(ink, strokes, &laid, reach))?;
    }
    let m = laid.map;
    let (along, down) = (m[0].hypot(m[3]), m[1].hypot(m[4]));
    let skew = (m[0] * m[1] + m[3] * m[4]) / (along * down).max(1e-9);
    ((0.8..1.25).contains(&(along / down.max(1e-9))) && skew.abs() < 0.1).then_some(laid)
}

/// Sheared, then bent.
pub(super) fn fine(ink: &Ink, strokes: &[Report], rough: &Laid) -> Laid {
    let mut laid = rough.clone();
    for reach in [1.5, 1.2, 1.0, 0.8, 0.8] {
        if let Some(next) = sheared(&laid, &holds(ink, strokes, &laid, reach)) {
            laid = next;
        }
    }
    (laid.middle, laid.half) = ([0.5 * ink.size[0], 0.5 * ink.size[1]], 0.5 * ink.size[0].max(ink.size[1]));
    for _ in 0..4 {
        if let Some(next) = bent(&laid, &holds(ink, strokes, &laid, 0.8)) {
            laid = next;
        }
    }
    laid
}

/// The share of the strokes' places that lie on a line, and how far from its middle the nearer half of them lie, mm.
pub(super) fn fits(ink: &Ink, strokes: &[Report], laid: &Laid, within: f64) -> (f64, f64) {
    let off: Vec<f64> = strokes.iter().filter_map(|r| off(ink, laid, r, within)).collect();
    (off.len() as f64 / strokes.len().max(1) as f64, median(&off).unwrap_or(f64::MAX))
}

/// How far a place lies from the middle of the line that it is on, mm.
pub(super) fn off(ink: &Ink, laid: &Laid, r: &Report, within: f64) -> Option<f64> {
    let at = laid.place(r.at);
    let p = ink.places[ink.nearest(at, laid.turned(r.along), within)?];
    Some(dot([at[0] - p.at[0], at[1] - p.at[1]], [-p.along[1], p.along[0]]).abs())
}

#[cfg(test)]
mod tests {
    use eddymist_ink::{Sample, Stroke};
    use eddymist_measure::inked::{InkedLine, InkedPage, InkedPlace};
    use proptest::prelude::*;

    use super::*;
    use crate::pairs::lines::{reports, thinned};

    /// Waves and circles of a page, mm.
    fn courses() -> Vec<Vec<[f64; 2]>> {
        let wave = |k: usize| (0..300).map(move |i| 0.4 * i as f64).map(move |x| [20.0 + x, 20.0 + 14.0 * k as f64 + 3.0 * (0.05 * (k + 2) as f64 * x).sin()]);
        let ring = |k: usize| (0..300).map(move |i| 0.019 * i as f64).map(move |a| [165.0 + 14.0 * a.cos(), 30.0 + 38.0 * k as f64 + 14.0 * a.sin()]);
        (0..6).map(|k| wave(k).collect()).chain((0..3).map(|k| ring(k).collect())).collect()
    }

    fn page() -> Ink {
        let line =
            |c: Vec<[f64; 2]>| InkedLine { places: c.iter().map(|p| InkedPlace { x_mm: p[0], y_mm: p[1], width_mm: Some(0.6) }).collect(), free: [true; 2] };
        Ink::new(&InkedPage { size_mm: [200.0, 140.0], lines: courses().into_iter().map(line).collect(), warnings: Vec::new() })
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(16))]
        /// A page that lay askew, stretched and bent is laid back to where it was drawn; the turn and the size are told.
        #[test]
        fn strokes_are_laid_back_over_their_lines(turn in -0.25f64..0.25, dx in -30.0f64..30.0, dy in -30.0f64..30.0, stretch in 0.99f64..1.01, bend in 0.0f64..0.4, phase in 0.0f64..6.0) {
            let reported = |[x, y]: [f64; 2]| {
                let (x, y) = (stretch * x + bend * (0.03 * y + phase).sin(), y + bend * (0.025 * x - phase).cos());
                [turn.cos() * x - turn.sin() * y + dx, turn.sin() * x + turn.cos() * y + dy]
            };
            let ink = page();
            let strokes: Vec<Report> = courses()
                .iter()
                .enumerate()
                .flat_map(|(k, c)| {
                    let sample = |(i, p): (usize, &[f64; 2])| { let [x, y] = reported(*p); Sample { t_ms: 7.0 * i as f64, x, y, pressure: Some(0.5), ..Sample::default() } };
                    thinned(&reports(k, &Stroke::new(c.iter().enumerate().map(sample).collect())).expect("a stroke"), 0.8)
                })
                .collect();
            let start = crate::pairs::placement::starts(&ink, &strokes, &[1.0]);
            let laid = fine(&ink, &strokes, &rigid(&ink, &strokes, start[0].map, None));
            let (share, off) = fits(&ink, &strokes, &laid, 1.0);
            prop_assert!(share > 0.98 && off < 0.05, "{share} within, {off} mm off");
            prop_assert!((laid.turn_deg() - turn.to_degrees()).abs() < 0.6 && (laid.scale() - 1.0 / stretch.sqrt()).abs() < 0.01, "{} {}", laid.turn_deg(), laid.scale());
            // Each place comes back to where it was drawn, along its line too.
            let back: Vec<f64> = courses().iter().flatten().step_by(7).map(|p| distance(laid.place(reported(*p)), *p)).collect();
            prop_assert!(median(&back).expect("places") < 0.12, "{:?}", median(&back));
        }
    }
}
