//! An inked stroke as the scanner of the card would show it, read by the code that read the pen.
//!
//! How: the ink is laid level, rastered at the card's resolution, blurred by what its edges were blurred by, and read as a sheet's cell is
//! (`eddymist_measure::sheet::alone`); a mean width, a dot, a ring need no more than eight px across, a flick no more than 300 dots to the inch, an
//! edge no more than 600, and they get no more. Limits: no grain and no paper; a stroke that a sheet's lane would not be read from gives nothing.

use eddymist_ink::{
    InkedSample, InkedStroke, Inker, Stroke,
    envelope::{NibPlacement, hull},
    layers::blur_of,
    outline::Outline,
    raster::{Coverage, rasterise},
    stroke::along,
};
use eddymist_measure::sheet::{StrokeReading, alone::Alone, layout::CellKind};
use rayon::prelude::*;

use super::flick::Tip;
use crate::{pen_card::PenCard, tapers::Flick};

/// What the pen was scanned with.
#[derive(Debug, Clone, Copy)]
pub(super) struct CardScanner {
    dpi: f64,
    /// 10–90 % distance that the scanner adds to an edge, mm.
    softness_mm: f64,
}

/// Resolutions at which a stroke is drawn, whatever a card says.
const DPI: (f64, f64) = (150.0, 1200.0);
/// So many px of ink tell its mean width.
const WIDTH_PX: f64 = 8.0;
/// A flick is averaged over a quarter of a millimetre before it is asked where it reaches nine tenths: three px of these.
const FLICK_DPI: f64 = 300.0;
/// An edge's raggedness goes over a tenth of a millimetre and more: two px of these and more.
const EDGE_DPI: f64 = 600.0;
/// So near the ends of a ring, in degrees of it, it is not read.
const RING_ENDS_DEG: f64 = 8.0;
/// Clean paper to either side of the ink, mm.
const MARGIN_MM: f64 = 0.9;

/// A stroke's picture, with its chord level in it.
struct Picture {
    alone: Alone,
    from: [f64; 2],
    to: [f64; 2],
    /// From the chord to the picture's nearer border, mm.
    reach: f64,
}

impl CardScanner {
    pub fn of(card: &PenCard) -> Self {
        let dpi = card.resolution_dpi.clamp(DPI.0, DPI.1);
        // A pixel of even sensitivity is part of the blur, and the raster has it already: 1/12 of its square.
        let px = blur_px(dpi);
        let blur = card.edge.as_ref().map_or(0.0, |e| blur_of(0.001 * e.blurriness_um));
        let softness_mm = (blur * blur - px * px).max(0.0).sqrt() / blur_of(1.0);
        Self { dpi, softness_mm }
    }

    /// No finer than a mean width needs: where the ink is so wide, a coarser picture with the same blur reads the same.
    fn coarse(&self, inked: &InkedStroke) -> Self {
        let widest = inked.samples.iter().map(|s| s.width_mm).fold(0.0, f64::max);
        let enough = WIDTH_PX * 25.4 / widest.max(0.01);
        let dpi = self.dpi.min(enough.max(DPI.0));
        Self { dpi, ..*self }
    }

    /// At no more dots to the inch than so many.
    fn at_most(&self, dpi: f64) -> Self {
        Self { dpi: self.dpi.min(dpi), ..*self }
    }

    /// The picture of a stroke with its chord level, or as it lies.
    fn picture(&self, inked: &InkedStroke, level: bool) -> Option<Picture> {
        let (first, last) = (inked.samples.first()?, inked.samples.last()?);
        let mut ink = inked.inked(0.1 * 25.4 / self.dpi);
        ink.softness_mm = ink.softness_mm.hypot(self.softness_mm);
        let (dx, dy) = (last.x - first.x, last.y - first.y);
        let long = dx.hypot(dy);
        // What is no outline stays as it lies.
        let turns = level && long > 0.0 && ink.stamping.is_none() && ink.pixels.is_none();
        let (c, s) = if turns { (dx / long, dy / long) } else { (1.0, 0.0) };
        let laid = |p: [f64; 2]| [c * p[0] + s * p[1], c * p[1] - s * p[0]];
        if turns {
            ink.layers.iter_mut().flat_map(|l| &mut l.outline.paths).flatten().for_each(|p| *p = laid(*p));
        }
        let [left, top, right, bottom] = ink.bounds()?;
        let (from, to) = (laid([first.x, first.y]), laid([last.x, last.y]));
        // A lane's two borders are equally far from its chord.
        let reach = MARGIN_MM + (from[1] - top).max(bottom - from[1]).max(to[1] - top).max(bottom - to[1]);
        let origin = if level { [left - MARGIN_MM, from[1].min(to[1]) - reach] } else { [left - MARGIN_MM, top - MARGIN_MM] };
        let low = if level { from[1].max(to[1]) + reach } else { bottom + MARGIN_MM };
        let px = self.dpi / 25.4;
        let size = |mm: f64| (mm * px).ceil() as usize + 1;
        let (width, height) = (size(right + MARGIN_MM - origin[0]), size(low - origin[1]));
        if width * height > MOST_PX {
            return None;
        }
        let full = inked.samples.iter().map(|p| p.opacity).fold(0.0, f64::max).clamp(0.05, 1.0);
        let coverage = ink.raster(px, origin, width, height);
        let at = |p: [f64; 2]| [p[0] - origin[0], p[1] - origin[1]];
        Some(Picture { alone: Alone::new(width, coverage.data, self.dpi, full), from: at(from), to: at(to), reach: reach - 2.0 / px })
    }

    fn stroke(&self, inked: &InkedStroke, kind: CellKind) -> Option<StrokeReading> {
        let p = self.picture(inked, true)?;
        p.alone.stroke(kind, p.from, p.to, p.reach)
    }

    /// A line as one that is ruled on a sheet.
    pub fn line(&self, inked: &InkedStroke) -> Option<StrokeReading> {
        self.at_most(EDGE_DPI).stroke(inked, CellKind::Effort)
    }

    /// The mean width of a line's body, mm: as read, or where a sheet's lane would not read it, the ink's own over its middle.
    pub fn width_mm(&self, inked: &InkedStroke) -> f64 {
        self.coarse(inked).picture(inked, true).and_then(|p| p.alone.width_mm(p.from, p.to, p.reach)).unwrap_or_else(|| own_width(inked))
    }

    /// The same of several strokes, as this brush inks them.
    pub fn widths_mm(&self, inker: &Inker, strokes: &[&Stroke]) -> Vec<f64> {
        strokes.par_iter().map(|s| self.width_mm(&inker.ink(s))).collect()
    }

    /// A flick or a landing, its free tip first.
    pub fn flick(&self, inked: &InkedStroke, tip: Tip) -> Option<Flick> {
        let read = self.at_most(FLICK_DPI).stroke(inked, if tip == Tip::In { CellKind::FlickIn } else { CellKind::FlickOut })?;
        Some(Flick::of_reading(&read, tip == Tip::Out))
    }

    /// The diameter of a held dot by its ink's area, mm. Its many reports lie over one another: each hull of two of them is drawn by itself, so
    /// finely that what they share does not matter.
    pub fn dot_mm(&self, inked: &InkedStroke) -> Option<f64> {
        const FINE: usize = 3;
        let dpi = self.coarse(inked).dpi;
        let (nibs, px) = (inked.placements(), dpi / 25.4);
        let about = |f: fn(&NibPlacement) -> f64, sign: f64| {
            nibs.iter().map(|n| f(n) + sign * n.a.max(n.b)).fold(-sign * f64::INFINITY, if sign > 0.0 { f64::max } else { f64::min })
        };
        let (left, top) = (about(|n| n.x, -1.0) - MARGIN_MM, about(|n| n.y, -1.0) - MARGIN_MM);
        let size = |mm: f64| ((mm + MARGIN_MM) * px).ceil() as usize + 1;
        let (width, height) = (size(about(|n| n.x, 1.0) - left), size(about(|n| n.y, 1.0) - top));
        // A dot that is stamped is the picture of its stamps.
        if inked.stamping().is_some() {
            let p = self.picture(inked, false)?;
            return p.alone.dot_mm([0.5 * (p.from[0] + p.to[0]), 0.5 * (p.from[1] + p.to[1])], p.reach);
        }
        if nibs.is_empty() || width * height > MOST_PX / (FINE * FINE) {
            return None;
        }
        let (wide, fine) = (FINE * width, FINE as f64 * px);
        let mut covered = vec![0.0f32; wide * FINE * height];
        for pair in nibs.windows(2) {
            let path = hull(&pair[0], &pair[1], 0.1 / px);
            let [l, t, r, b] = Outline { paths: vec![path.clone()] }.bounds()?;
            // Whole pixels of the picture, the hull inside.
            let (x, y) = (((l - left) * fine) as usize, ((t - top) * fine) as usize);
            let (w, h) = (((r - l) * fine) as usize + 3, ((b - t) * fine) as usize + 3);
            let one = rasterise(&Outline { paths: vec![path] }, fine, [left + x as f64 / fine, top + y as f64 / fine], w, h);
            for (k, row) in one.data.chunks_exact(w).enumerate() {
                let at = (y + k) * wide + x;
                covered[at..at + w].iter_mut().zip(row).for_each(|(c, v)| *c = c.max(*v));
            }
        }
        let mean = |i: usize| {
            let (x, y) = (FINE * (i % width), FINE * (i / width));
            (0..FINE).flat_map(|k| &covered[(y + k) * wide + x..(y + k) * wide + x + FINE]).sum::<f32>() / (FINE * FINE) as f32
        };
        let mut picture = Coverage { width, height, data: (0..width * height).map(mean).collect() };
        let blur = blur_of(self.softness_mm) * px;
        if blur > 0.05 {
            picture.blur(blur);
        }
        let [x, y] = [0, 1].map(|k| nibs.iter().map(|n| if k == 0 { n.x - left } else { n.y - top }).sum::<f64>() / nibs.len() as f64);
        let reach = x.max(y).max(width as f64 / px - x).max(height as f64 / px - y);
        Alone::new(width, picture.data, dpi, 1.0).dot_mm([x, y], reach)
    }

    /// A circle's widths by direction of travel, degrees and mm; none of what is no ring about its middle.
    pub fn ring(&self, inked: &InkedStroke) -> Option<Vec<[f64; 2]>> {
        let p = self.coarse(inked).picture(inked, false)?;
        let way = along(inked.samples.iter().map(|s| (s.x, s.y)));
        let total = way.last().copied().filter(|t| *t > 0.0)?;
        // The middle by length, so that where reports crowd does not count more.
        let mean = |f: &dyn Fn(usize) -> f64| way.windows(2).enumerate().map(|(i, w)| (w[1] - w[0]) * 0.5 * (f(i) + f(i + 1))).sum::<f64>() / total;
        let shift = [p.from[0] - inked.samples[0].x, p.from[1] - inked.samples[0].y];
        let middle = [mean(&|i| inked.samples[i].x), mean(&|i| inked.samples[i].y)];
        let away = |i: usize| (inked.samples[i].x - middle[0]).hypot(inked.samples[i].y - middle[1]);
        let radius = mean(&away);
        let off = (0..inked.samples.len()).map(|i| (away(i) - radius).abs()).fold(0.0, f64::max);
        let half = 0.5 * inked.samples.iter().map(|s| s.width_mm).fold(0.0, f64::max);
        let reach = off + half + 0.5 * MARGIN_MM;
        if reach > 0.8 * radius {
            return None;
        }
        let widths = p.alone.ring([middle[0] + shift[0], middle[1] + shift[1]], radius, reach)?;
        // A ring is read as if it were drawn counter-clockwise.
        let turn: f64 = inked.samples.windows(2).map(|w| (w[0].x - middle[0]) * (w[1].y - middle[1]) - (w[1].x - middle[0]) * (w[0].y - middle[1])).sum();
        let drawn = |d: f64| if turn > 0.0 { (d + 180.0).rem_euclid(360.0) } else { d };
        // Where it was begun and ended the hand lands and lifts, and what is smoothed does not close.
        let place = |s: &InkedSample| (middle[1] - s.y).atan2(s.x - middle[0]).to_degrees();
        let ends = [place(&inked.samples[0]), place(&inked.samples[inked.samples.len() - 1])];
        let near = RING_ENDS_DEG.max(3.0 * half / radius * 180.0 / std::f64::consts::PI);
        // A ring that is read counter-clockwise goes a quarter turn ahead of its place.
        let in_between = |d: f64| ends.iter().all(|e| ((d - 90.0 - e + 180.0).rem_euclid(360.0) - 180.0).abs() > near);
        Some(widths.into_iter().filter(|[d, _]| in_between(*d)).map(|[d, w]| [drawn(d), w]).collect())
    }
}

/// More pixels than this are no stroke of a warm-up.
const MOST_PX: usize = 40_000_000;

/// Deviation of an even pixel, mm.
fn blur_px(dpi: f64) -> f64 {
    25.4 / dpi / 12f64.sqrt()
}

/// Mean width of a stroke's middle three fifths, as inked.
pub(super) fn own_width(inked: &InkedStroke) -> f64 {
    let n = inked.samples.len();
    let (mut sum, mut length) = (0.0, 0.0);
    for w in inked.samples[n / 5..n - n / 5].windows(2) {
        let ds = (w[1].x - w[0].x).hypot(w[1].y - w[0].y);
        sum += ds * 0.5 * (w[0].width_mm + w[1].width_mm);
        length += ds;
    }
    if length > 0.0 { sum / length } else { inked.samples[n / 2].width_mm }
}
