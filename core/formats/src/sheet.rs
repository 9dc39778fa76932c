//! The sampler sheet, drawn: as SVG and PDF to print, as PNG and OpenRaster to be inked in any program.
//!
//! Everything on it is a black outline in mm, words too, so that all four look alike. Nothing is printed where ink is
//! to be measured.

use std::io::{Cursor, Write};

use eddymist_ink::{Outline, digits::push_polygon, outline::Path, raster::rasterise};
use eddymist_measure::sheet::layout::{BLOCK_MM, Cell, CellKind, HEAD_MM, MARK_MM, MarkText, RAY_MM, RAYS, RING_MM, SOLID_MM, SheetPlan};
use qrcode::{Color, EcLevel, QrCode, Version};

use crate::{
    ReadError,
    images::{PngKind, write_png},
    lettering::{length, words},
    pdf::{Mark, pages},
};

/// A hair line on the sheet, mm.
pub(crate) const HAIR: f64 = 0.12;

/// Everything printed, in mm from the page's top left corner.
pub fn drawing(plan: &SheetPlan) -> Vec<Outline> {
    let mut out: Vec<Outline> = plan.marks.iter().enumerate().flat_map(|(i, at)| mark(plan, i, *at)).collect();
    out.extend(frame(plan));
    plan.cells.iter().for_each(|c| out.extend(cell(c)));
    out.extend(plan.bars.iter().map(|b| bar(b.from[0], b.from[1] - 0.5 * b.width_mm, b.to[0] - b.from[0], b.width_mm)));
    out
}

fn bar(x: f64, y: f64, w: f64, h: f64) -> Outline {
    Outline { paths: vec![vec![[x, y], [x + w, y], [x + w, y + h], [x, y + h]]] }
}

/// A straight hair line or tick.
pub(crate) fn tick(a: [f64; 2], b: [f64; 2], width: f64) -> Outline {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let n = dx.hypot(dy).max(1e-9);
    let (u, v) = (-dy / n * 0.5 * width, dx / n * 0.5 * width);
    Outline { paths: vec![vec![[a[0] + u, a[1] + v], [b[0] + u, b[1] + v], [b[0] - u, b[1] - v], [a[0] - u, a[1] - v]]] }
}

/// A closed box of hair lines.
fn boxed([x, y, w, h]: [f64; 4]) -> Vec<Outline> {
    let c = [[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
    (0..4).map(|i| tick(c[i], c[(i + 1) % 4], HAIR)).collect()
}

/// A QR mark: the runs of dark modules in each row.
fn mark(plan: &SheetPlan, corner: usize, at: [f64; 2]) -> Vec<Outline> {
    let text = MarkText { bars: !plan.bars.is_empty(), paper: plan.paper, number: plan.number.clone(), corner }.encode();
    let Ok(code) = QrCode::with_version(text, Version::Normal(1), EcLevel::M) else { return Vec::new() };
    let n = code.width();
    let m = MARK_MM / n as f64;
    let colours = code.to_colors();
    let mut out = Vec::new();
    for (r, row) in colours.chunks(n).enumerate() {
        let mut x = 0;
        for run in row.chunk_by(|a, b| a == b) {
            if run[0] == Color::Dark {
                out.push(bar(at[0] + m * x as f64, at[1] + m * r as f64, m * run.len() as f64, m));
            }
            x += run.len();
        }
    }
    out
}

/// Title, number, room for notes, and the rule that shows the printed scale.
fn frame(plan: &SheetPlan) -> Vec<Outline> {
    let o = [0.5 * (plan.size_mm[0] - BLOCK_MM[0]), 0.5 * (plan.size_mm[1] - BLOCK_MM[1])];
    let at = |x: f64, y: f64| [o[0] + x, o[1] + y];
    let mut out = vec![words("Sampler sheet", at(21.0, 5.0), 5.4, true)];
    let number = format!("no. {}", plan.number);
    out.push(words(&number, at(169.0 - length(&number, 4.0, true), 5.0), 4.0, true));
    for (i, what) in ["pen", "ink", "paper"].into_iter().enumerate() {
        let x = 21.0 + 50.0 * i as f64;
        out.push(words(what, at(x, 13.5), 2.8, false));
        out.push(tick(at(x + 9.0, 14.2), at(x + 46.0, 14.2), HAIR));
    }
    let (x, y) = (45.0, 255.5);
    out.push(tick(at(x, y), at(x + 100.0, y), 0.25));
    for mm in 0..=10 {
        let long = if mm % 5 == 0 { 2.6 } else { 1.6 };
        out.push(tick(at(x + 10.0 * f64::from(mm), y), at(x + 10.0 * f64::from(mm), y - long), 0.25));
    }
    out.push(words("100 mm when printed at full size", at(x, y + 3.6), 2.6, false));
    out.push(words("Scan in grey at 600 dpi, without sharpening, all four corner marks in view.", at(21.0, 247.6), 2.8, false));
    if !plan.bars.is_empty() {
        out.push(words("No scanner? Photograph it from straight above, sharp, in even light, filling the picture.", at(21.0, 251.4), 2.8, false));
    }
    out
}

/// A cell's frame, words, example and marks.
fn cell(c: &Cell) -> Vec<Outline> {
    let [x, y, w, _] = c.area;
    let mut out = boxed(c.area);
    out.push(words(&c.title, [x + 1.5, y + 3.5], 3.1, true));
    out.push(words(&c.instruction, [x + 3.0 + length(&c.title, 3.1, true), y + 3.5], 2.6, false));
    out.extend(example(c.kind, c.effort, [x + w - 7.0, y + 2.6]));
    let small = 0.2;
    for (i, s) in c.strokes.iter().enumerate() {
        match c.kind {
            CellKind::Effort | CellKind::Pace | CellKind::Ramp => {
                out.push(tick([s.from[0] - 2.6, s.from[1]], [s.from[0] - 1.2, s.from[1]], small));
                out.push(tick([s.to[0] + 1.2, s.to[1]], [s.to[0] + 2.6, s.to[1]], small));
                if c.kind == CellKind::Ramp {
                    let mid = 0.5 * (s.from[0] + s.to[0]);
                    let reach = s.reach - 0.1;
                    out.push(tick([mid, s.from[1] - reach], [mid, s.from[1] - reach + 1.2], small));
                    out.push(tick([mid, s.from[1] + reach - 1.2], [mid, s.from[1] + reach], small));
                }
            }
            CellKind::FlickOut => out.push(tick([s.from[0] - 2.4, s.from[1]], [s.from[0] - 1.0, s.from[1]], small)),
            CellKind::FlickIn => out.push(tick([s.to[0] + 1.0, s.to[1]], [s.to[0] + 2.4, s.to[1]], small)),
            CellKind::Fan => {
                let a = std::f64::consts::TAU * i as f64 / RAYS as f64;
                let mid = [s.from[0] - RAY_MM[0] * a.cos(), s.from[1] + RAY_MM[0] * a.sin()];
                let at = |r: f64| [mid[0] + r * a.cos(), mid[1] - r * a.sin()];
                out.push(tick(at(4.4), at(5.6), small));
            }
            CellKind::Circle => {
                for k in 0..8 {
                    let a = std::f64::consts::TAU * f64::from(k) / 8.0;
                    let at = |r: f64| [s.from[0] + r * a.cos(), s.from[1] - r * a.sin()];
                    out.push(tick(at(RING_MM + 4.0), at(RING_MM + 5.6), small));
                }
            }
            CellKind::Dot => out.push(tick([s.from[0], y + HEAD_MM], [s.from[0], y + HEAD_MM + 1.6], small)),
            CellKind::Hatching => out.extend(corners([s.from[0], s.from[1] - s.reach, s.to[0] - s.from[0], 2.0 * s.reach])),
            CellKind::Solid => out.extend(corners([s.from[0] - 1.0, s.from[1] - s.reach - 1.0, SOLID_MM + 2.0, SOLID_MM + 2.0])),
            CellKind::Signature => {}
        }
    }
    out
}

/// Corner angles outside of a field.
fn corners([x, y, w, h]: [f64; 4]) -> Vec<Outline> {
    [(x, y, 1.0, 1.0), (x + w, y, -1.0, 1.0), (x + w, y + h, -1.0, -1.0), (x, y + h, 1.0, -1.0)]
        .into_iter()
        .flat_map(|(x, y, u, v)| [tick([x, y], [x + 2.2 * u, y], 0.2), tick([x, y], [x, y + 2.2 * v], 0.2)])
        .collect()
}

/// A small drawn example, centred on `at`, within 11 × 4 mm: what a stroke in this cell looks like.
fn example(kind: CellKind, effort: Option<f64>, at: [f64; 2]) -> Vec<Outline> {
    // A band along x from −5 to 5 whose width goes by the share of the way.
    let band = |half: &dyn Fn(f64) -> f64| {
        let p = |u: f64, side: f64| [at[0] + 10.0 * (u - 0.5), at[1] + side * half(u)];
        let mut path: Path = (0..=20).map(|i| p(f64::from(i) / 20.0, -1.0)).collect();
        path.extend((0..=20).rev().map(|i| p(f64::from(i) / 20.0, 1.0)));
        vec![Outline { paths: vec![path] }]
    };
    let disc = |x: f64, r: f64| Outline {
        paths: vec![
            (0..24)
                .map(|i| {
                    let a = std::f64::consts::TAU * f64::from(i) / 24.0;
                    [at[0] + x + r * a.cos(), at[1] + r * a.sin()]
                })
                .collect(),
        ],
    };
    match kind {
        CellKind::Effort => band(&|_| 0.08 + 0.45 * effort.unwrap_or(0.5)),
        CellKind::Pace => band(&|_| 0.22),
        CellKind::Ramp => band(&|u| 0.06 + 0.6 * (1.0 - (2.0 * u - 1.0).abs())),
        CellKind::FlickOut => band(&|u| 0.02 + 0.45 * (1.0 - u).sqrt()),
        CellKind::FlickIn => band(&|u| 0.02 + 0.45 * u.sqrt()),
        CellKind::Fan => (0..12)
            .map(|k| {
                let a = std::f64::consts::TAU * f64::from(k) / 12.0;
                let p = |r: f64| [at[0] + r * a.cos(), at[1] + r * a.sin()];
                tick(p(0.7), p(2.0), 0.18)
            })
            .collect(),
        CellKind::Circle => (0..24)
            .map(|k| {
                let p = |k: i32| {
                    let a = std::f64::consts::TAU * f64::from(k) / 24.0;
                    [at[0] + 1.7 * a.cos(), at[1] + 1.7 * a.sin()]
                };
                tick(p(k), p(k + 1), 0.22)
            })
            .collect(),
        CellKind::Dot => vec![disc(-3.0, 0.5), disc(0.0, 0.5), disc(3.0, 0.5)],
        CellKind::Hatching => (0..9).map(|k| tick([at[0] - 4.0 + f64::from(k), at[1] + 1.6], [at[0] - 3.0 + f64::from(k), at[1] - 1.6], 0.2)).collect(),
        CellKind::Solid => vec![bar(at[0] - 1.6, at[1] - 1.6, 3.2, 3.2)],
        CellKind::Signature => (0..30)
            .map(|k| {
                let p = |k: i32| {
                    let u = f64::from(k) / 30.0;
                    [at[0] - 5.0 + 10.0 * u, at[1] - 1.2 * (9.0 * u).sin() * (1.0 - 0.5 * u)]
                };
                tick(p(k), p(k + 1), 0.15 + 0.4 * (0.5 - (f64::from(k) / 30.0 - 0.5).abs()))
            })
            .collect(),
    }
}

/// SVG in mm, of the page's size.
pub fn svg(plan: &SheetPlan) -> String {
    let [w, h] = plan.size_mm;
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}mm\" height=\"{h}mm\" viewBox=\"0 0 {w} {h}\">\n<title>Sampler sheet {}</title>\n<path fill=\"#000\" d=\"",
        plan.number
    );
    for path in drawing(plan).iter().flat_map(|o| &o.paths) {
        push_polygon(&mut out, path, 3);
    }
    out.push_str("\"/>\n</svg>\n");
    out
}

/// PDF of one page at true size.
pub fn pdf(plan: &SheetPlan) -> Result<Vec<u8>, ReadError> {
    let paths = drawing(plan).into_iter().flat_map(|o| o.paths).collect();
    pages(plan.size_mm, &format!("Sampler sheet {}", plan.number), &[vec![Mark::Paths { paths, rgb: [0; 3], alpha: 1.0 }]])
}

/// Coverage of what is printed, as grey on white.
fn pixels(plan: &SheetPlan, dpi: f64) -> (usize, usize, Vec<u8>) {
    let k = dpi / 25.4;
    let (w, h) = ((plan.size_mm[0] * k).round() as usize, (plan.size_mm[1] * k).round() as usize);
    let mut cover = vec![0u8; w * h];
    for o in drawing(plan) {
        let Some([l, t, r, b]) = o.bounds() else { continue };
        let (x0, y0) = ((l * k).floor().max(0.0) as usize, (t * k).floor().max(0.0) as usize);
        let (x1, y1) = (((r * k).ceil() as usize + 1).min(w), ((b * k).ceil() as usize + 1).min(h));
        if x1 <= x0 || y1 <= y0 {
            continue;
        }
        let part = rasterise(&o, k, [x0 as f64 / k, y0 as f64 / k], x1 - x0, y1 - y0);
        for y in y0..y1 {
            for x in x0..x1 {
                let c = &mut cover[y * w + x];
                *c = c.saturating_add((part.data[(y - y0) * (x1 - x0) + x - x0] * 255.0).round() as u8);
            }
        }
    }
    (w, h, cover)
}

/// Blank pixels to be inked with any brush, grey on white, with their resolution.
pub fn png(plan: &SheetPlan, dpi: f64) -> Result<Vec<u8>, ReadError> {
    let (w, h, mut data) = pixels(plan, dpi);
    data.iter_mut().for_each(|v| *v = 255 - *v);
    write_png(w, h, PngKind::Grey, &data, Some(dpi / 25.4))
}

/// The same as OpenRaster (draft 0.0.6): paper, guides and an empty layer to ink on.
pub fn ora(plan: &SheetPlan, dpi: f64) -> Result<Vec<u8>, ReadError> {
    let (w, h, cover) = pixels(plan, dpi);
    let bad = |e: &dyn std::fmt::Display| ReadError::Ora(format!("the sheet could not be written: {e}"));
    let per_mm = Some(dpi / 25.4);
    let guides: Vec<u8> = cover.iter().flat_map(|c| [0, *c]).collect();
    let merged: Vec<u8> = cover.iter().map(|c| 255 - c).collect();
    let white = write_png(w, h, PngKind::Grey, &vec![255; w * h], per_mm)?;
    let layers = [
        ("data/ink.png", write_png(w, h, PngKind::GreyAlpha, &vec![0; 2 * w * h], per_mm)?),
        ("data/guides.png", write_png(w, h, PngKind::GreyAlpha, &guides, per_mm)?),
        ("data/paper.png", white),
        ("mergedimage.png", write_png(w, h, PngKind::Grey, &merged, per_mm)?),
        ("Thumbnails/thumbnail.png", thumbnail(w, h, &merged)?),
    ];
    let stack = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<image version=\"0.0.6\" w=\"{w}\" h=\"{h}\" xres=\"{dpi:.0}\" yres=\"{dpi:.0}\">\n <stack>\n  <layer name=\"ink here\" src=\"data/ink.png\"/>\n  <layer name=\"guides\" src=\"data/guides.png\"/>\n  <layer name=\"paper\" src=\"data/paper.png\"/>\n </stack>\n</image>\n"
    );
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    let stored = zip::write::SimpleFileOptions::default().compression_method(zip::CompressionMethod::Stored);
    let parts = [("mimetype", b"image/openraster".to_vec()), ("stack.xml", stack.into_bytes())];
    for (name, data) in parts.into_iter().chain(layers) {
        zip.start_file(name, stored).map_err(|e| bad(&e))?;
        zip.write_all(&data).map_err(|e| bad(&e))?;
    }
    Ok(zip.finish().map_err(|e| bad(&e))?.into_inner())
}

/// At most 256 px to a side, every pixel the mean of those that it stands for.
fn thumbnail(w: usize, h: usize, grey: &[u8]) -> Result<Vec<u8>, ReadError> {
    let f = w.max(h).div_ceil(256).max(1);
    let (tw, th) = (w / f, h / f);
    let data: Vec<u8> = (0..tw * th)
        .map(|i| {
            let (x, y) = (i % tw * f, i / tw * f);
            let sum: usize = (y..y + f).map(|r| grey[r * w + x..r * w + x + f].iter().map(|v| usize::from(*v)).sum::<usize>()).sum();
            (sum / (f * f)) as u8
        })
        .collect();
    write_png(tw, th, PngKind::Grey, &data, None)
}
