//! Inked strokes out: SVG outlines in mm, and PNG with coverage as alpha.

use std::ops::Range;

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_ink::{Inked, Inker, Stroke};
use rayon::prelude::*;

use crate::{
    Limits, ReadError,
    images::{PngKind, write_png, write_png_in_bands},
};

/// Arcs and curves are within this of the ink, mm.
pub const TOLERANCE_MM: f64 = 0.002;
/// Largest side of a PNG out, px.
const MAX_SIDE: f64 = 20_000.0;
/// Pixels of a stamped stroke in an SVG.
const MOST_PIXELS: f64 = 16e6;

/// The ink of all strokes.
pub fn ink(inker: &Inker, strokes: &[Stroke]) -> Vec<Inked> {
    strokes.par_iter().map(|s| inker.ink(s).inked(0.25 * TOLERANCE_MM)).collect()
}

fn bounds(strokes: &[Inked]) -> Option<[f64; 4]> {
    strokes.iter().filter_map(Inked::bounds).reduce(|a, b| [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])])
}

/// One path a stroke (several where its opacity varies), user units of mm, in the strokes' coordinates. A soft edge is a
/// Gaussian blur. A stamped stroke is a picture of 600 px to the inch (less where it is very large): it has no outline.
pub fn svg(strokes: &[Inked], colour: &str) -> String {
    let [l, t, r, b] = bounds(strokes).unwrap_or([0.0, 0.0, 1.0, 1.0]);
    let (w, h) = (r - l, b - t);
    let mut out = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.4}mm\" height=\"{h:.4}mm\" viewBox=\"{l:.4} {t:.4} {w:.4} {h:.4}\">\n");
    out.push_str(&svg_strokes(strokes, colour));
    out.push_str("</svg>\n");
    out
}

/// The strokes alone, as a group, with the filter that softens their edges.
pub fn svg_strokes(strokes: &[Inked], colour: &str) -> String {
    let [l, t, r, b] = bounds(strokes).unwrap_or([0.0, 0.0, 1.0, 1.0]);
    let (w, h) = (r - l, b - t);
    let soft = strokes.iter().map(Inked::blur_mm).fold(0.0, f64::max);
    let mut out = String::new();
    // The name tells filters of one file apart by where they lie.
    let id = format!("soft-{:.0}-{:.0}-{:.0}", soft * 1e5, l * 1e3, t * 1e3);
    if soft > 0.0 {
        out.push_str(&format!(
            "<filter id=\"{id}\" filterUnits=\"userSpaceOnUse\" x=\"{l:.4}\" y=\"{t:.4}\" width=\"{w:.4}\" height=\"{h:.4}\"><feGaussianBlur stdDeviation=\"{soft:.5}\"/></filter>\n"
        ));
    }
    out.push_str(&format!("<g fill=\"{colour}\" fill-rule=\"nonzero\">\n"));
    let one = |s: &Inked| {
        let mut out = String::new();
        if let Some(image) = picture(s, colour) {
            return image;
        }
        let paths = s.svg_paths(TOLERANCE_MM);
        let grouped = paths.len() > 1 || soft > 0.0;
        if grouped {
            out.push_str(&if soft > 0.0 { format!("<g filter=\"url(#{id})\">\n") } else { "<g>\n".into() });
        }
        for (d, alpha) in paths {
            let opacity = if alpha < 1.0 { format!(" fill-opacity=\"{alpha:.4}\"") } else { String::new() };
            out.push_str(&format!("<path d=\"{d}\"{opacity}/>\n"));
        }
        if grouped {
            out.push_str("</g>\n");
        }
        out
    };
    strokes.par_iter().map(one).collect::<Vec<_>>().iter().for_each(|s| out.push_str(s));
    out.push_str("</g>\n");
    out
}

/// A colour `#rrggbb` as bytes.
pub(crate) fn rgb_of(colour: &str) -> [u8; 3] {
    let [_, r, g, b] = u32::from_str_radix(colour.trim_start_matches('#'), 16).unwrap_or(0).to_be_bytes();
    [r, g, b]
}

/// A stamped stroke as an SVG image; none of other lays.
fn picture(s: &Inked, colour: &str) -> Option<String> {
    s.stamping.as_ref()?;
    let (bytes, [x, y, w, h]) = coloured_png(s, colour)?;
    Some(format!("<image x=\"{x:.4}\" y=\"{y:.4}\" width=\"{w:.4}\" height=\"{h:.4}\" href=\"data:image/png;base64,{}\"/>\n", STANDARD.encode(bytes)))
}

/// One stroke's ink in a colour as a PNG, and where it lies: `[left, top, width, height]` in mm.
pub(crate) fn coloured_png(s: &Inked, colour: &str) -> Option<(Vec<u8>, [f64; 4])> {
    let [l, t, r, b] = s.bounds()?;
    let px_per_mm = (600.0 / 25.4f64).min(MAX_SIDE / (r - l).max(b - t)).min((MOST_PIXELS / ((r - l) * (b - t)).max(1e-9)).sqrt());
    let (w, h) = (((r - l) * px_per_mm).ceil().max(1.0), ((b - t) * px_per_mm).ceil().max(1.0));
    let c = s.raster(px_per_mm, [l, t], w as usize, h as usize);
    let [red, green, blue] = rgb_of(colour);
    let data: Vec<u8> = c.data.iter().flat_map(|a| [red, green, blue, (a * 255.0).round() as u8]).collect();
    let bytes = write_png(w as usize, h as usize, PngKind::Rgba, &data, Some(px_per_mm)).ok()?;
    Some((bytes, [l, t, w / px_per_mm, h / px_per_mm]))
}

/// Black coverage as alpha at `dpi`, cut to the ink with a margin of two px.
pub fn png(strokes: &[Inked], dpi: f64, limits: &Limits) -> Result<Vec<u8>, ReadError> {
    let [l, t, r, b] = bounds(strokes).ok_or_else(|| ReadError::InkMl("there is no ink to draw: no stroke has a sample".into()))?;
    let px_per_mm = dpi / 25.4;
    let (x0, y0) = ((l * px_per_mm).floor() - 2.0, (t * px_per_mm).floor() - 2.0);
    let (w, h) = ((r * px_per_mm).ceil() + 2.0 - x0, (b * px_per_mm).ceil() + 2.0 - y0);
    limits.picture(w as u64, h as u64)?;
    let (w, h) = (w as usize, h as usize);
    let windows: Vec<_> = strokes.iter().filter_map(|s| Some((s, window(s, px_per_mm, [x0, y0], [w, h])?))).collect();
    write_png_in_bands(w, h, PngKind::GreyAlpha, Some(px_per_mm), |rows| {
        let mut ink = vec![0.0f32; w * rows.len()];
        for (s, own) in &windows {
            // Strokes lie over one another: coverage builds up as 1 − Π(1 − α).
            own.each_row(s, px_per_mm, [x0, y0], &rows, |y, x, coverage| {
                let at = (y - rows.start) * w + x;
                ink[at..at + coverage.len()].iter_mut().zip(coverage).for_each(|(i, a)| *i = 1.0 - (1.0 - *i) * (1.0 - a));
            });
        }
        ink.iter().flat_map(|a| [0, (a * 255.0).round() as u8]).collect()
    })
}

/// Where a stroke lies in a picture, px: from left and top to right and bottom.
pub(crate) struct Window {
    left: usize,
    top: usize,
    right: usize,
    bottom: usize,
    /// So far its softness reaches, px.
    reach: usize,
}

/// The window of a stroke in a picture of `size` whose corner lies at `origin`, px; none where it lies outside.
pub(crate) fn window(s: &Inked, px_per_mm: f64, origin: [f64; 2], size: [usize; 2]) -> Option<Window> {
    let [l, t, r, b] = s.bounds()?;
    let clip = |v: f64, most: usize| v.clamp(0.0, most as f64) as usize;
    let (left, right) = (clip((l * px_per_mm - origin[0]).floor() - 1.0, size[0]), clip((r * px_per_mm - origin[0]).ceil() + 1.0, size[0]));
    let (top, bottom) = (clip((t * px_per_mm - origin[1]).floor() - 1.0, size[1]), clip((b * px_per_mm - origin[1]).ceil() + 1.0, size[1]));
    (left < right && top < bottom).then_some(Window { left, top, right, bottom, reach: 1 + (4.0 * s.blur_mm() * px_per_mm).ceil() as usize })
}

impl Window {
    /// Calls `each` with row, first column and coverage of what of a stroke lies in some rows of the picture.
    pub(crate) fn each_row(&self, s: &Inked, px_per_mm: f64, origin: [f64; 2], rows: &Range<usize>, mut each: impl FnMut(usize, usize, &[f32])) {
        // What lies above and below the rows is softened into them.
        let (top, bottom) = (self.top.max(rows.start.saturating_sub(self.reach)), self.bottom.min(rows.end + self.reach));
        if top >= bottom {
            return;
        }
        let corner = [(origin[0] + self.left as f64) / px_per_mm, (origin[1] + top as f64) / px_per_mm];
        let c = s.raster(px_per_mm, corner, self.right - self.left, bottom - top);
        for (y, row) in (top..bottom).zip(c.data.chunks(self.right - self.left)).filter(|(y, _)| rows.contains(y)) {
            each(y, self.left, row);
        }
    }
}
