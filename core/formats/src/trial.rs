//! A trial page taken elsewhere: passes as groups or layers, every stroke in its colour; at the page's own pixels, smooth or hard.

use std::io::{Cursor, Write};

use eddymist_ink::{Inked, Outline, fitting::fit_outline};

use crate::{
    LIMITS, ReadError,
    images::{PngKind, write_png_in_bands},
    ink_out::{TOLERANCE_MM, rgb_of, svg_strokes, window},
};

/// One stroke's ink, and the pass that it belongs to.
pub struct TrialInk {
    pub pass: String,
    pub colour: String,
    pub inked: Inked,
}

/// The page, px.
#[derive(Debug, Clone, Copy)]
pub struct PageSize {
    pub width_px: usize,
    pub height_px: usize,
    pub px_per_mm: f64,
}

impl PageSize {
    fn mm(&self) -> [f64; 2] {
        [self.width_px as f64 / self.px_per_mm, self.height_px as f64 / self.px_per_mm]
    }
}

/// Passes in the order in which they come.
fn passes(ink: &[TrialInk]) -> Vec<(&str, Vec<&TrialInk>)> {
    let mut out: Vec<(&str, Vec<&TrialInk>)> = Vec::new();
    for i in ink {
        match out.iter_mut().find(|p| p.0 == i.pass) {
            Some(p) => p.1.push(i),
            None => out.push((&i.pass, vec![i])),
        }
    }
    out
}

pub(crate) fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('"', "&quot;")
}

/// SVG of the page's size in mm, a group for each pass. Merged, the strokes of one pass and colour become one outline.
pub fn svg(page: &PageSize, ink: &[TrialInk], merged: bool) -> String {
    let [w, h] = page.mm();
    let mut out = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.4}mm\" height=\"{h:.4}mm\" viewBox=\"0 0 {w:.4} {h:.4}\">\n");
    for (pass, strokes) in passes(ink) {
        out.push_str(&format!("<g id=\"{}\">\n", escaped(pass)));
        for part in strokes.chunk_by(|a, b| a.colour == b.colour) {
            // What is soft, see-through or set down has no one outline: it stays as it is.
            let plain = |i: &TrialInk| i.inked.stamping.is_none() && i.inked.softness_mm == 0.0 && i.inked.layers.iter().all(|l| l.alpha >= 1.0);
            if merged && part.iter().all(|i| plain(i)) {
                let one = Outline::merged(part.iter().flat_map(|i| i.inked.layers.iter().map(|l| l.outline.clone())));
                let d: String = fit_outline(&one, TOLERANCE_MM).iter().map(|p| p.svg()).collect();
                out.push_str(&format!("<path fill=\"{}\" d=\"{d}\"/>\n", part[0].colour));
            } else {
                let all: Vec<Inked> = part.iter().map(|i| i.inked.clone()).collect();
                out.push_str(&svg_strokes(&all, &part[0].colour));
            }
        }
        out.push_str("</g>\n");
    }
    out.push_str("</svg>\n");
    out
}

/// Strokes at the page's pixels as a PNG with straight alpha. A hard finish has no pixel between ink and paper.
fn picture(page: &PageSize, ink: &[&TrialInk], hard: bool) -> Result<Vec<u8>, ReadError> {
    let (w, h, k) = (page.width_px, page.height_px, page.px_per_mm);
    let windows: Vec<_> = ink.iter().filter_map(|i| Some((i, window(&i.inked, k, [0.0, 0.0], [w, h])?))).collect();
    write_png_in_bands(w, h, PngKind::Rgba, Some(k), |rows| {
        // Premultiplied while strokes are laid over one another.
        let mut data = vec![0.0f32; 4 * w * rows.len()];
        for (i, own) in &windows {
            let rgb = rgb_of(&i.colour).map(|v| f32::from(v) / 255.0);
            own.each_row(&i.inked, k, [0.0, 0.0], &rows, |y, x, coverage| {
                let at = 4 * ((y - rows.start) * w + x);
                for (a, p) in coverage.iter().zip(data[at..].chunks_exact_mut(4)) {
                    let a = if hard { f32::from(u8::from(*a >= 0.5)) } else { *a };
                    if a > 0.0 {
                        for (p, v) in p.iter_mut().zip(rgb) {
                            *p = *p * (1.0 - a) + v * a;
                        }
                        p[3] = p[3] * (1.0 - a) + a;
                    }
                }
            });
        }
        let straight = |p: &[f32]| {
            let a = p[3].max(1e-6);
            [p[0] / a, p[1] / a, p[2] / a, p[3]].map(|v| (255.0 * v).round().clamp(0.0, 255.0) as u8)
        };
        data.chunks_exact(4).flat_map(straight).collect()
    })
}

/// PNG of the page's pixels, ink on nothing.
pub fn png(page: &PageSize, ink: &[TrialInk], hard: bool) -> Result<Vec<u8>, ReadError> {
    picture(page, &ink.iter().collect::<Vec<_>>(), hard)
}

/// OpenRaster (draft 0.0.6): a layer for each pass, the last on top, and the rough under them where there is one (a PNG).
pub fn ora(page: &PageSize, ink: &[TrialInk], hard: bool, rough: Option<Vec<u8>>) -> Result<Vec<u8>, ReadError> {
    let bad = |e: &dyn std::fmt::Display| ReadError::Ora(format!("the page could not be written: {e}"));
    let (w, h) = (page.width_px, page.height_px);
    LIMITS.layers(passes(ink).len() as u64, w as u64, h as u64)?;
    let mut files = Vec::new();
    let mut layers = String::new();
    for (k, (pass, strokes)) in passes(ink).into_iter().enumerate() {
        let name = format!("data/pass{k}.png");
        layers.insert_str(0, &format!("  <layer name=\"{}\" src=\"{name}\"/>\n", escaped(pass)));
        files.push((name, picture(page, &strokes, hard)?));
    }
    if let Some(rough) = rough {
        layers.push_str("  <layer name=\"rough\" src=\"data/rough.png\" opacity=\"0.4\"/>\n");
        files.push(("data/rough.png".into(), rough));
    }
    files.push(("mergedimage.png".into(), png(page, ink, hard)?));
    let stack = format!("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<image version=\"0.0.6\" w=\"{w}\" h=\"{h}\">\n <stack>\n{layers} </stack>\n</image>\n");
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    let head = [("mimetype".to_string(), b"image/openraster".to_vec()), ("stack.xml".into(), stack.into_bytes())];
    for (name, data) in head.into_iter().chain(files) {
        zip.start_file(name, stored).map_err(|e| bad(&e))?;
        zip.write_all(&data).map_err(|e| bad(&e))?;
    }
    Ok(zip.finish().map_err(|e| bad(&e))?.into_inner())
}
