//! A tip image set down every so many per cent of its size.
//!
//! How: spacing, size, angle and stray by chance from the seed; coverage builds up as `1 − Π(1 − a)`, a second tip and a paper tooth multiply it.
//! Limits: there is no outline, its ink is a picture. Common practice, no source.

use crate::{
    InkError,
    brush::Stamped,
    inked::InkedSample,
    kinds::tip::{Tip, Tooth},
    noise::{even, seed},
    outline::{Outline, Path},
    polygon::Shape,
    raster::Coverage,
    stroke::along,
};

/// A tip is set down at most so often in one stroke.
const MOST: usize = 400_000;
/// What is covered as much as this takes no more.
const FULL: f32 = 0.9995;
/// And never nearer than this to the last, mm.
const NEAREST_MM: f64 = 0.002;

/// One tip set down: its middle in page mm, the length and breadth of its image in mm, its direction in radians (y down).
#[derive(Debug, Clone, Copy, PartialEq)]
struct Stamp {
    at: [f64; 2],
    long_mm: f64,
    broad_mm: f64,
    angle: f64,
    opacity: f64,
    effort: f64,
}

/// Tips, paper and ranges made ready.
#[derive(Debug, Clone)]
pub(crate) struct Stamper {
    lay: Stamped,
    tip: Tip,
    second: Option<Tip>,
    tooth: Option<Tooth>,
    /// The hull of the tip, for outlines and widths.
    pub hull: Shape,
    seed: u64,
}

/// A stamped stroke: what is set down, and where. It has no clean outline: its ink is a picture.
#[derive(Debug, Clone)]
pub struct Stamping {
    stamper: std::sync::Arc<Stamper>,
    prints: Vec<Stamp>,
    second: Vec<Stamp>,
}

impl PartialEq for Stamping {
    fn eq(&self, other: &Self) -> bool {
        self.prints == other.prints && self.second == other.second && self.stamper.lay == other.stamper.lay
    }
}

impl Stamper {
    pub fn new(lay: &Stamped, seed: u64) -> Result<Self, InkError> {
        let tip = |field: &'static str, uri: &String| Tip::read(uri).map_err(|problem| InkError::Tip { field, problem });
        let first = tip("stroke.tip_png", &lay.tip_png)?;
        Ok(Self {
            hull: Shape::new(&[first.hull()])?,
            tip: first,
            second: lay.second_tip_png.as_ref().map(|u| tip("stroke.second_tip_png", u)).transpose()?,
            tooth: lay
                .paper_png
                .as_ref()
                .map(|u| Tooth::read(u, lay.paper_high_is_light).map_err(|problem| InkError::Tip { field: "stroke.paper_png", problem }))
                .transpose()?,
            lay: lay.clone(),
            seed,
        })
    }

    /// From one print to the next where the nib has a length, mm.
    pub fn spacing_mm(&self, nib_mm: f64) -> f64 {
        (self.lay.spacing * nib_mm).max(NEAREST_MM)
    }

    /// Where tips are set down along samples.
    fn prints(&self, tip: &Tip, samples: &[InkedSample], purpose: u64) -> Vec<Stamp> {
        let Some(first) = samples.first() else { return Vec::new() };
        let mut state = seed(self.seed, [first.x, first.y], purpose);
        let way = along(samples.iter().map(|s| (s.x, s.y)));
        let [long, broad] = tip.proportions();
        let l = &self.lay;
        let mut out = Vec::new();
        let (mut next, mut i) = (0.0, 0);
        let total = way.last().copied().unwrap_or(0.0);
        while next <= total && out.len() < MOST {
            while i + 2 < samples.len() && way[i + 1] <= next {
                i += 1;
            }
            let (p, q) = (&samples[i], &samples[(i + 1).min(samples.len() - 1)]);
            let span = way[(i + 1).min(way.len() - 1)] - way[i];
            let t = if span > 0.0 { ((next - way[i]) / span).clamp(0.0, 1.0) } else { 0.0 };
            let mix = |a: f64, b: f64| a + (b - a) * t;
            let mut around = |range: f64| range * (even(&mut state) - 0.5);
            let size = (1.0 + around(l.size_range)).max(0.02);
            let angle = p.nib_angle + around(l.angle_range_deg).to_radians();
            let stray = around(l.stray) * mix(p.nib_mm, q.nib_mm);
            let course = (q.y - p.y).atan2(q.x - p.x);
            let spacing = l.spacing * (1.0 + around(l.spacing_range)).max(0.05);
            let nib = mix(p.nib_mm, q.nib_mm);
            out.push(Stamp {
                at: [mix(p.x, q.x) - stray * course.sin(), mix(p.y, q.y) + stray * course.cos()],
                long_mm: nib * long * size,
                broad_mm: mix(p.breadth_mm, q.breadth_mm) * broad * size,
                angle,
                opacity: mix(p.opacity, q.opacity),
                effort: mix(p.effort, q.effort),
            });
            next += (spacing * nib).max(NEAREST_MM);
        }
        out
    }

    pub fn stamp(self: &std::sync::Arc<Self>, samples: &[InkedSample]) -> Stamping {
        let second = self.second.as_ref().map_or_else(Vec::new, |t| self.prints(t, samples, 22));
        Stamping { prints: self.prints(&self.tip, samples, 21), second, stamper: self.clone() }
    }
}

impl Stamp {
    fn corners(&self) -> [[f64; 2]; 4] {
        let (s, c) = self.angle.sin_cos();
        [[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]].map(|[u, v]| {
            let (u, v) = (u * self.long_mm, v * self.broad_mm);
            [self.at[0] + c * u - s * v, self.at[1] + s * u + c * v]
        })
    }
}

impl Stamping {
    /// `[left, top, right, bottom]` in mm.
    pub fn bounds(&self) -> Option<[f64; 4]> {
        let mut corners = self.prints.iter().flat_map(Stamp::corners);
        let first = corners.next()?;
        Some(corners.fold([first[0], first[1], first[0], first[1]], |b, p| [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]))
    }

    /// How often the tip was set down.
    pub fn prints(&self) -> usize {
        self.prints.len()
    }

    /// The union of the hulls of all tips set down: as near to an outline as a stamped stroke comes.
    pub fn hulls(&self) -> Outline {
        let s = &self.stamper;
        let of = |p: &Stamp| {
            let [long, broad] = s.tip.proportions();
            let (a, b) = (0.5 * p.long_mm / long, 0.5 * p.broad_mm / broad);
            s.hull.hulls_at(p.at, a, b, p.angle)
        };
        Outline::united(self.prints.iter().flat_map(of).collect::<Vec<Path>>())
    }

    /// Ink at `px_per_mm`, the page point `origin_mm` at the top left corner. A tip covers over another as `1 − Π(1 − α)`:
    /// tighter spacing is darker.
    pub fn raster(&self, px_per_mm: f64, origin_mm: [f64; 2], width: usize, height: usize) -> Coverage {
        let s = &self.stamper;
        let mut out = Coverage { width, height, data: vec![0.0; width * height] };
        self.lay_down(&s.tip, &self.prints, true, px_per_mm, origin_mm, &mut out);
        if let Some(tip) = &s.second {
            let mut over = Coverage { width, height, data: vec![0.0; width * height] };
            self.lay_down(tip, &self.second, false, px_per_mm, origin_mm, &mut over);
            out.data.iter_mut().zip(&over.data).for_each(|(o, c)| *o *= c);
        }
        out
    }

    fn lay_down(&self, tip: &Tip, prints: &[Stamp], inked: bool, px_per_mm: f64, origin_mm: [f64; 2], out: &mut Coverage) {
        let tooth = self.stamper.tooth.as_ref().filter(|_| inked);
        // The paper's heights once, where anything comes to lie.
        let mut heights = vec![f32::NAN; if tooth.is_some() { out.data.len() } else { 0 }];
        for p in prints {
            let corners = p.corners().map(|c| [(c[0] - origin_mm[0]) * px_per_mm, (c[1] - origin_mm[1]) * px_per_mm]);
            let range = |k: usize, most: usize| {
                let (low, high) = corners.iter().fold((f64::MAX, f64::MIN), |m, c| (m.0.min(c[k]), m.1.max(c[k])));
                ((low - 1.0).floor().max(0.0) as usize).min(most)..((high + 2.0).ceil().max(0.0) as usize).min(most)
            };
            let (columns, rows) = (range(0, out.width), range(1, out.height));
            let (sin, cos) = p.angle.sin_cos();
            let (long, broad) = (p.long_mm * px_per_mm, p.broad_mm * px_per_mm);
            if long <= 0.0 || broad <= 0.0 {
                continue;
            }
            // A tip smaller than a pixel covers as much of it as its area.
            let (w, h) = (long.max(1.0), broad.max(1.0));
            let share = ((long / w) * (broad / h) * if inked { p.opacity } else { 1.0 }) as f32;
            let level = tip.level(tip.width_px() / w);
            let middle = [(p.at[0] - origin_mm[0]) * px_per_mm, (p.at[1] - origin_mm[1]) * px_per_mm];
            let tip = tip.at_level(level);
            // A pixel's middle beyond this lies off the image with all of its between-pixels.
            let (most_u, most_v) = (tip.reach[0], tip.reach[1]);
            for y in rows {
                let dy = y as f64 + 0.5 - middle[1];
                for x in columns.clone() {
                    let i = y * out.width + x;
                    let dx = x as f64 + 0.5 - middle[0];
                    let (u, v) = ((cos * dx + sin * dy) / w, (cos * dy - sin * dx) / h);
                    if out.data[i] >= FULL || u.abs() > most_u || v.abs() > most_v {
                        continue;
                    }
                    let mut c = tip.coverage(u, v) * share;
                    if c <= 0.0 {
                        continue;
                    }
                    if let Some(tooth) = tooth {
                        if heights[i].is_nan() {
                            let at = |k: usize, v: usize| origin_mm[k] + (v as f64 + 0.5) / px_per_mm;
                            heights[i] = tooth.height(at(0, x), at(1, y)) as f32;
                        }
                        c *= Tooth::takes(f64::from(heights[i]), p.effort) as f32;
                    }
                    out.data[i] = 1.0 - (1.0 - out.data[i]) * (1.0 - c);
                }
            }
        }
    }
}
