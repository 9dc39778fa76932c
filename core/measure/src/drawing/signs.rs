//! What a picture's pixels say of its being drawn by a program or seen by a lens: grain in its paper and in its ink, and how sharp its edges are.
//!
//! How: at places spread over the picture, a place is even where its eight neighbours differ little from it; grain is that they differ at all.
//! None of the signs decides alone (methods.md, section 0): a drawing may lie on a grainy ground, a scan may be clipped to white. Common
//! practice, no source.

use std::collections::HashMap;

use crate::Picture;

/// Signs from the pixels; shares are 0…1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Signs {
    /// Any of it is clear: no lens sees that.
    pub clear: bool,
    /// The share of even places in the lighter half that have grain.
    pub paper_grain: f64,
    /// The same in the darker half; none where there are too few such places.
    pub ink_grain: Option<f64>,
    /// The share of places where all nine are exactly alike, and of another colour than the commonest such one or nearly.
    pub paints: f64,
    /// Of such places that have the commonest colour or nearly, the share that has it not quite.
    pub shades: f64,
    /// Pixels that an edge takes from light to dark, the median; none where there are too few edges.
    pub edge_px: Option<f64>,
}

/// Places that are looked at.
const PLACES: usize = 60_000;
/// A place is even where the brightest and the darkest of the nine are no further apart, levels; it has grain where they are further than
/// [`GRAIN`]: a gradient's steps and rounding are not.
const EVEN: i32 = 26;
const GRAIN: i32 = 2;
/// A colour so near to another, in levels, is a shade of it.
const SHADE: u8 = 12;
/// Paper that was drawn has no more of them, after compression as before.
const SHADES: f64 = 0.02;
/// So far from an edge a place of the paper is looked at, px, where it is as light as this.
const BESIDE: usize = 8;
const LIGHT: i32 = 128;
/// Paper of which less than this has grain has none; ink of which less is rough is smooth.
const CLEAN: f64 = 0.02;
const SMOOTH: f64 = 0.08;
const LEAST_INK: usize = 40;
const LEAST_EDGES: usize = 40;

impl Signs {
    /// Reads the signs of a picture.
    pub fn of(picture: &Picture) -> Self {
        let (w, h) = (picture.width, picture.height);
        let light = |i: usize| {
            let p = picture.pixel(i);
            (2 * i32::from(p[0]) + 5 * i32::from(p[1]) + i32::from(p[2])) / 8
        };
        let mut out = Self { clear: false, paper_grain: 0.0, ink_grain: None, paints: 0.0, shades: 0.0, edge_px: None };
        if w < 3 || h < 3 {
            return out;
        }
        let n = w * h;
        let step = (n / PLACES).max(1);
        let step = if w.is_multiple_of(step) { step + 1 } else { step };
        let mut even: Vec<(i32, bool, bool)> = Vec::new();
        let mut range = [255, 0];
        let mut exact: HashMap<[u8; 4], usize> = HashMap::new();
        let mut looked = 0usize;
        for i in (0..n).step_by(step) {
            if picture.pixel(i)[3] < 255 {
                out.clear = true;
                return out;
            }
            let (x, y) = (i % w, i / w);
            range = [range[0].min(light(i)), range[1].max(light(i))];
            if x == 0 || y == 0 || x + 1 == w || y + 1 == h {
                continue;
            }
            let around = [i - w - 1, i - w, i - w + 1, i - 1, i, i + 1, i + w - 1, i + w, i + w + 1].map(light);
            let (low, high) = around.iter().fold((255, 0), |r, v| (r.0.min(*v), r.1.max(*v)));
            looked += 1;
            if high == low && [i - 1, i + 1, i - w, i + w].iter().all(|j| picture.pixel(*j) == picture.pixel(i)) {
                *exact.entry(picture.pixel(i)).or_default() += 1;
            }
            // About an edge compression and resampling ring: that is no grain of the paper.
            let lone = || {
                [1, w].iter().all(|by| {
                    let at = if *by == 1 { [x, w - 1 - x] } else { [y, h - 1 - y] };
                    (2..=BESIDE)
                        .all(|k| (at[0] < k || (light(i - k * by) - around[4]).abs() <= EVEN) && (at[1] < k || (light(i + k * by) - around[4]).abs() <= EVEN))
                })
            };
            if high - low <= EVEN && (around[4] < LIGHT || lone()) {
                // A soft line's middle is a ridge: along it, it is smooth. Grain is rough whichever way one goes.
                let rough = [[3, 5], [1, 7], [0, 8], [2, 6]].iter().all(|[a, b]| (around[*a] + around[*b] - 2 * around[4]).abs() > GRAIN);
                even.push((light(i), high - low > GRAIN, rough));
            }
        }
        if let Some((commonest, most)) = exact.iter().max_by_key(|(c, n)| (**n, **c)) {
            let near = |c: &[u8; 4]| (0..3).all(|k| c[k].abs_diff(commonest[k]) <= SHADE);
            let (other, shades) = exact.iter().fold((0, 0), |s, (c, n)| if near(c) { (s.0, s.1 + n) } else { (s.0 + n, s.1) });
            out.paints = other as f64 / looked.max(1) as f64;
            out.shades = (shades - most) as f64 / shades.max(1) as f64;
        }
        let middle = (range[0] + range[1]) / 2;
        let share = |of: &dyn Fn(i32) -> bool, grain: &dyn Fn(&(i32, bool, bool)) -> bool| {
            let (all, grain) = even.iter().filter(|e| of(e.0)).fold((0usize, 0usize), |s, e| (s.0 + 1, s.1 + usize::from(grain(e))));
            (all, grain as f64 / all.max(1) as f64)
        };
        out.paper_grain = share(&|v| v >= middle, &|e| e.1).1;
        let (dark, grain) = share(&|v| v < middle, &|e| e.1);
        // On paper that has no grain at all, ink that is rough nowhere is a soft brush's.
        let (_, rough) = share(&|v| v < middle, &|e| e.2);
        let grain = if out.paper_grain < CLEAN && !out.has_shades() && rough < SMOOTH { 0.0 } else { grain };
        out.ink_grain = (dark >= LEAST_INK).then_some(grain);
        out.edge_px = edge_px(picture, &light, range);
        out
    }
}

impl Signs {
    /// Whether its paper has many shades, each of which is exactly so over a place: that is how compression leaves a fine grain.
    pub fn has_shades(&self) -> bool {
        self.shades > SHADES
    }
}

/// The median number of pixels between a fifth and four fifths of the way from dark to light.
fn edge_px(picture: &Picture, light: &dyn Fn(usize) -> i32, range: [i32; 2]) -> Option<f64> {
    let (w, h) = (picture.width, picture.height);
    let [low, high] = [range[0] + (range[1] - range[0]) / 5, range[1] - (range[1] - range[0]) / 5];
    if high - low < 40 {
        return None;
    }
    let mut widths: Vec<u32> = Vec::new();
    // Along rows and along columns, each where it goes more nearly across the edge.
    for [along, across, count, lanes] in [[1, w, w, h], [w, 1, h, w]] {
        for lane in (0..lanes).step_by((lanes / 400).max(1)) {
            // Since the last pixel that was dark or light, and which it was.
            let (mut since, mut last) = (0u32, 0i8);
            for k in 0..count {
                let v = light(lane * across + k * along);
                let now = if v <= low { -1 } else { i8::from(v >= high) };
                if now == 0 {
                    since += 1;
                    continue;
                }
                if last != 0 && now != last && since < 12 && lane > 0 && lane + 1 < lanes {
                    let at = lane * across + (k - (since as usize).div_ceil(2)) * along;
                    let steep = |by: usize| (light((at + by).min(w * h - 1)) - light(at.saturating_sub(by))).abs();
                    if steep(along) >= steep(across) {
                        widths.push(since);
                    }
                }
                (since, last) = (0, now);
            }
        }
    }
    widths.sort_unstable();
    (widths.len() >= LEAST_EDGES).then(|| f64::from(widths[widths.len() / 2]))
}
