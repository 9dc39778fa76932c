//! Inked strokes out: SVG outlines in mm, and PNG with coverage as alpha.

use eddymist_ink::{Inker, Outline, Stroke, fitting::fit_outline, raster::rasterise};

use crate::{
    ReadError,
    images::{PngKind, write_png},
};

/// Arcs and curves are within this of the ink, mm.
pub const TOLERANCE_MM: f64 = 0.002;
/// Largest side of a PNG out, px.
const MAX_SIDE: f64 = 20_000.0;

/// Outlines of all strokes.
pub fn outlines(inker: &Inker, strokes: &[Stroke]) -> Vec<Outline> {
    strokes.iter().map(|s| inker.ink(s).outline(0.25 * TOLERANCE_MM)).collect()
}

fn bounds(outlines: &[Outline]) -> Option<[f64; 4]> {
    outlines.iter().filter_map(Outline::bounds).reduce(|a, b| [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])])
}

/// One path a stroke, user units of mm, in the strokes' coordinates.
pub fn svg(outlines: &[Outline], colour: &str) -> String {
    let [l, t, r, b] = bounds(outlines).unwrap_or([0.0, 0.0, 1.0, 1.0]);
    let (w, h) = (r - l, b - t);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.4}mm\" height=\"{h:.4}mm\" viewBox=\"{l:.4} {t:.4} {w:.4} {h:.4}\">\n<g fill=\"{colour}\" fill-rule=\"nonzero\">\n"
    );
    for o in outlines {
        let d: String = fit_outline(o, TOLERANCE_MM).iter().map(|p| p.svg()).collect();
        if !d.is_empty() {
            out.push_str(&format!("<path d=\"{d}\"/>\n"));
        }
    }
    out.push_str("</g>\n</svg>\n");
    out
}

/// Black coverage as alpha at `dpi`, cut to the ink with a margin of two px.
pub fn png(outlines: &[Outline], dpi: f64) -> Result<Vec<u8>, ReadError> {
    let [l, t, r, b] = bounds(outlines).ok_or_else(|| ReadError::InkMl("there is no ink to draw: no stroke has a sample".into()))?;
    let px_per_mm = dpi / 25.4;
    let (x0, y0) = ((l * px_per_mm).floor() - 2.0, (t * px_per_mm).floor() - 2.0);
    let (w, h) = ((r * px_per_mm).ceil() + 2.0 - x0, (b * px_per_mm).ceil() + 2.0 - y0);
    if w > MAX_SIDE || h > MAX_SIDE {
        return Err(ReadError::TooLarge { width: w as u64, height: h as u64 });
    }
    let (w, h) = (w as usize, h as usize);
    let mut data = vec![0u8; w * h * 2];
    for o in outlines {
        let c = rasterise(o, px_per_mm, [x0 / px_per_mm, y0 / px_per_mm], w, h);
        // Strokes lie over one another: coverage builds up as 1 − Π(1 − α).
        for (p, a) in data.chunks_exact_mut(2).zip(&c.data) {
            let below = f32::from(p[1]) / 255.0;
            p[1] = ((1.0 - (1.0 - below) * (1.0 - a)) * 255.0).round() as u8;
        }
    }
    write_png(w, h, PngKind::GreyAlpha, &data, Some(px_per_mm))
}
