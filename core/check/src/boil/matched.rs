//! Lines of a drawing matched to those of its two neighbours, by role, place and direction.
//!
//! How: at places a width apart the nearest line of the role that runs the same way; the neighbour that most places have is the partner.
//! Limits: what moves further than five widths or 30 px is not matched, nor a line with less than three fifths of its places in one partner.

use std::collections::HashMap;

use crate::{WeighedLine, document::DrawingCheck};

/// So many places of a line make a stretch, and a line shorter than two of them is not matched.
pub(super) const STRETCH: usize = 6;

/// A line is looked at in no more places than this.
pub(super) const MOST_PLACES: usize = 72;

/// Directions of matched places differ by less than this.
pub(super) const DIRECTION_COS: f64 = 0.82;

/// A matched line has this share of its places in the one line it is matched to.
pub(super) const SHARE: f64 = 0.6;

/// A drawing's lines at the page's scale.
pub(super) struct PageDrawing {
    pub(super) file: String,
    pub(super) who: [Option<String>; 4],
    /// How many exposures it is held for.
    pub(super) exposures: f64,
    pub(super) strips: Vec<PageLine>,
    pub(super) cells: HashMap<(i32, i32), Vec<(u32, u32)>>,
}

pub(super) struct PageLine {
    pub(super) role: usize,
    /// x, y, width.
    pub(super) places: Vec<[f64; 3]>,
    pub(super) weighed: Vec<bool>,
}

/// A line found in three neighbouring drawings: at each place the three widths, and the three places across the line.
pub(super) struct Matched {
    pub(super) file: String,
    pub(super) target: f64,
    /// The middle drawing's share of the way from the one before to the one after.
    pub(super) share: f64,
    pub(super) widths: Vec<[f32; 3]>,
    pub(super) across: Vec<[f32; 3]>,
    /// The shift across the line as a whole, to the drawings before and after.
    pub(super) shift: [f64; 2],
}

pub(super) const CELL: f64 = 40.0;

pub(super) fn cell(x: f64, y: f64) -> (i32, i32) {
    ((x / CELL).floor() as i32, (y / CELL).floor() as i32)
}

impl PageDrawing {
    /// `moved` says how a scan is moved onto the drawing before it.
    pub(super) fn new(check: &DrawingCheck, lines: &[WeighedLine]) -> Self {
        let (place, width) = (10.0 * check.scale, 10.0 * check.scale * check.shot_factor);
        let known = |c: &str| check.manifest.get(c).filter(|v| !v.is_empty()).cloned();
        let strips: Vec<PageLine> = lines
            .iter()
            .map(|l| PageLine {
                role: l.role,
                places: l.places.as_chunks::<3>().0.iter().map(|p| [f64::from(p[0]) / place, f64::from(p[1]) / place, f64::from(p[2]) / width]).collect(),
                weighed: l.standing.chars().map(|c| c != '-').collect(),
            })
            .collect();
        let mut cells: HashMap<(i32, i32), Vec<(u32, u32)>> = HashMap::new();
        for (k, s) in strips.iter().enumerate() {
            for (i, p) in s.places.iter().enumerate() {
                cells.entry(cell(p[0], p[1])).or_default().push((k as u32, i as u32));
            }
        }
        let exposures = known("exposure").and_then(|e| e.parse::<f64>().ok()).filter(|e| *e >= 1.0 && *e <= 1000.0).unwrap_or(1.0);
        Self { file: check.file.clone(), who: ["artist", "shot", "character", "shot_size"].map(known), exposures, strips, cells }
    }

    /// The nearest place to `at` of a line of the role that runs the same way.
    pub(super) fn nearest(&self, role: usize, at: [f64; 2], along: [f64; 2], reach: f64) -> Option<(usize, usize)> {
        let (x, y) = cell(at[0], at[1]);
        let around = (reach / CELL).ceil() as i32;
        let mut best = (reach * reach, None);
        for cx in x - around..=x + around {
            for cy in y - around..=y + around {
                for (k, i) in self.cells.get(&(cx, cy)).into_iter().flatten().map(|(k, i)| (*k as usize, *i as usize)) {
                    let strip = &self.strips[k];
                    let p = strip.places[i];
                    let d = (p[0] - at[0]).powi(2) + (p[1] - at[1]).powi(2);
                    if strip.role == role && d < best.0 && strip.along(i).is_some_and(|u| (u[0] * along[0] + u[1] * along[1]).abs() > DIRECTION_COS) {
                        best = (d, Some((k, i)));
                    }
                }
            }
        }
        best.1
    }
}

impl PageLine {
    /// The unit vector along the line at a place.
    pub(super) fn along(&self, i: usize) -> Option<[f64; 2]> {
        let (a, b) = (self.places.get(i.saturating_sub(2))?, self.places.get((i + 2).min(self.places.len() - 1))?);
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let d = dx.hypot(dy);
        (d > 0.0).then(|| [dx / d, dy / d])
    }
}

/// A place of a line: its partners before and after, the three widths, and the three places across.
pub(super) type Row = (usize, usize, [f32; 3], [f32; 3]);

/// A strip with its partners in the drawings before and after.
pub(super) fn matched(strip: &PageLine, before: &PageDrawing, after: &PageDrawing, target: f64, share: f64, file: &str) -> Option<Matched> {
    let length: f64 = strip.places.windows(2).map(|w| (w[1][0] - w[0][0]).hypot(w[1][1] - w[0][1])).sum();
    let step = target.max(length / MOST_PLACES as f64);
    let reach = (5.0 * target).max(30.0);
    let mut rows: Vec<Row> = Vec::new();
    let mut looked = 0usize;
    let mut way = step;
    for i in 0..strip.places.len() {
        if i > 0 {
            way += (strip.places[i][0] - strip.places[i - 1][0]).hypot(strip.places[i][1] - strip.places[i - 1][1]);
        }
        if way < step || !strip.weighed[i] {
            continue;
        }
        way = 0.0;
        looked += 1;
        let [x, y, w] = strip.places[i];
        let Some(u) = strip.along(i) else { continue };
        let found = [before, after].map(|d| {
            let (k, j) = d.nearest(strip.role, [x, y], u, reach)?;
            let p = d.strips[k].places[j];
            // Across this line: from its place to the other's, along the normal.
            d.strips[k].weighed[j].then(|| (k, p[2], (p[0] - x) * -u[1] + (p[1] - y) * u[0]))
        });
        if let [Some(b), Some(a)] = found {
            rows.push((b.0, a.0, [b.1 as f32, w as f32, a.1 as f32], [b.2 as f32, 0.0, a.2 as f32]));
        }
    }
    let most = |of: fn(&Row) -> usize| {
        let mut counts: HashMap<usize, usize> = HashMap::new();
        rows.iter().for_each(|r| *counts.entry(of(r)).or_default() += 1);
        counts.into_iter().max_by_key(|(k, n)| (*n, usize::MAX - k)).map(|c| c.0)
    };
    let (b, a) = (most(|r| r.0)?, most(|r| r.1)?);
    rows.retain(|r| r.0 == b && r.1 == a);
    if rows.len() < 2 * STRETCH || (rows.len() as f64) < SHARE * looked as f64 {
        return None;
    }
    let mut across: Vec<[f32; 3]> = rows.iter().map(|r| r.3).collect();
    let shift = [0, 2].map(|k| across.iter().map(|r| f64::from(r[k])).sum::<f64>() / across.len() as f64);
    for k in [0, 2] {
        level(&mut across, k);
    }
    Some(Matched { file: file.into(), target, share, widths: rows.iter().map(|r| r.2).collect(), across, shift })
}

/// Takes the straight line of least squares out of one column: the shift and the turn of the line as a whole.
pub(super) fn level(rows: &mut [[f32; 3]], k: usize) {
    let n = rows.len() as f64;
    let (mut sy, mut sxy, mut sxx) = (0.0, 0.0, 0.0);
    for (i, r) in rows.iter().enumerate() {
        let x = i as f64 - 0.5 * (n - 1.0);
        sy += f64::from(r[k]);
        sxy += x * f64::from(r[k]);
        sxx += x * x;
    }
    let (mean, slope) = (sy / n, if sxx > 0.0 { sxy / sxx } else { 0.0 });
    for (i, r) in rows.iter_mut().enumerate() {
        r[k] -= (mean + slope * (i as f64 - 0.5 * (n - 1.0))) as f32;
    }
}
