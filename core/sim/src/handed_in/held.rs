//! What was read of a handed-in drawing, held against what its strokes were meant to be.
//!
//! How: every place of a line's body is held against the nearest place of a stroke of its role. Limits: what is further than two pixels from
//! any stroke was measured where nothing was drawn.

use std::collections::{BTreeMap, HashMap};

use eddymist_check::plan::plan;
use eddymist_formats::images::Rgba;
use eddymist_measure::{
    Picture,
    drawing::{Layer, Look, Place, measure_all},
};

use super::{Drawn, HandedIn};

/// What was read.
#[derive(Debug, Clone, Default)]
pub struct Held {
    /// Measured less meant, px, at every place of a body.
    pub off: Vec<f64>,
    /// A role's mean, measured less meant, px.
    pub means: Vec<f64>,
    /// Length meant and read, px, by what the strokes are.
    pub length: BTreeMap<Drawn, [f64; 2]>,
    /// Length measured where nothing was drawn, px.
    pub beside: f64,
    /// Patches that were called off-palette.
    pub patches: usize,
}

impl Held {
    /// The share of the length that was read.
    pub fn share(&self) -> f64 {
        let [meant, read] = self.length.values().fold([0.0; 2], |s, l| [s[0] + l[0], s[1] + l[1]]);
        read / meant.max(1.0)
    }

    /// A quantile of how far places are off, px.
    pub fn off_at(&self, quantile: f64) -> f64 {
        let mut off: Vec<f64> = self.off.iter().map(|o| o.abs()).collect();
        off.sort_by(f64::total_cmp);
        off.get(((off.len().max(1) - 1) as f64 * quantile) as usize).copied().unwrap_or(f64::NAN)
    }

    /// How far the worst role's mean is off, px.
    pub fn worst_mean(&self) -> f64 {
        self.means.iter().map(|m| m.abs()).fold(0.0, f64::max)
    }

    /// Several drawings together.
    pub fn together(all: impl IntoIterator<Item = Self>) -> Self {
        all.into_iter().fold(Self::default(), |mut sum, one| {
            sum.off.extend(one.off);
            sum.means.extend(one.means);
            for (drawn, l) in one.length {
                let s = sum.length.entry(drawn).or_default();
                *s = [s[0] + l[0], s[1] + l[1]];
            }
            Self { beside: sum.beside + one.beside, patches: sum.patches + one.patches, ..sum }
        })
    }
}

const CELL: f64 = 8.0;
/// A role of which so few places were read has no mean.
const LEAST_PLACES: f64 = 200.0;

/// Measures a picture of a drawing and holds it against the drawing's strokes; none where it is no picture.
pub fn held(d: &HandedIn, p: &Rgba) -> Option<Held> {
    let picture = Picture::new(p.width, p.height, &p.data)?;
    let plan = plan(&d.guide, 1.0);
    let look = Look { gaps_px: Vec::new(), region_px2: 0.0, least_paper_px: 0.5, off_palette: true };
    let (lines, islands) = measure_all(&[Layer { picture, role: None }], &plan, &look);
    let mut out = Held { patches: islands.off.len(), ..Held::default() };
    let cell = |x: f64, y: f64| ((x / CELL) as i32, (y / CELL) as i32);
    let mut meant: HashMap<(i32, i32), Vec<(usize, usize)>> = HashMap::new();
    for (s, stroke) in d.strokes.iter().enumerate() {
        for (i, q) in stroke.points.iter().enumerate() {
            meant.entry(cell(q[0], q[1])).or_default().push((s, i));
        }
    }
    let mut seen: Vec<Vec<bool>> = d.strokes.iter().map(|s| vec![false; s.points.len()]).collect();
    for (role, found) in lines.roles.iter().enumerate() {
        let (mut sum, mut n) = (0.0, 0.0);
        for line in &found.lines {
            for q in line.points.iter().filter(|q| q.place == Place::Body) {
                let (x, y) = (f64::from(q.x), f64::from(q.y));
                let (cx, cy) = cell(x, y);
                let near = (cx - 1..=cx + 1).flat_map(|a| (cy - 1..=cy + 1).map(move |b| (a, b))).filter_map(|c| meant.get(&c)).flatten();
                let best = near
                    .filter(|(s, _)| d.strokes[*s].role == role)
                    .map(|&(s, i)| ((d.strokes[s].points[i][0] - x).hypot(d.strokes[s].points[i][1] - y), s, i))
                    .min_by(|a, b| a.0.total_cmp(&b.0));
                let Some((_, s, i)) = best.filter(|b| b.0 < 2.0) else {
                    out.beside += line.step_px;
                    continue;
                };
                let off = f64::from(q.width) - d.strokes[s].widths[i];
                out.off.push(off);
                (sum, n) = (sum + off, n + 1.0);
                let last = d.strokes[s].points.len() - 1;
                seen[s][i.saturating_sub(1)..=(i + 1).min(last)].fill(true);
            }
        }
        if n > LEAST_PLACES {
            out.means.push(sum / n);
        }
    }
    for (stroke, seen) in d.strokes.iter().zip(&seen) {
        let length = out.length.entry(stroke.drawn).or_default();
        length[0] += seen.len() as f64;
        length[1] += seen.iter().filter(|s| **s).count() as f64;
    }
    Some(out)
}

/// In the order in which they are printed.
pub const KINDS: [Drawn; 5] = [Drawn::Even, Drawn::RunOut, Drawn::Taper, Drawn::Hatching, Drawn::Tick];
