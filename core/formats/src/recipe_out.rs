//! A recipe for a brush of another program as files: its tip as PNG, its numbers as CSV, all of it as one page of PDF, and a ZIP of these.
//!
//! The page is A4; its lines are as wide as the brush is to draw them, at true size.

use std::io::{Cursor, Write};

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::recipe::Recipe;
use eddymist_ink::outline::Path;

use crate::{
    ReadError,
    images::{PngKind, write_png},
    lettering::length,
    pdf::{Mark, pages},
    table::Table,
};

const PAGE_MM: [f64; 2] = [210.0, 297.0];
const MARGIN: f64 = 20.0;
const INK: [u8; 3] = [0x1b, 0x1e, 0x24];
const SOFT: [u8; 3] = [0x5b, 0x60, 0x6a];
/// Side of a tip's picture, px.
const TIP_PX: usize = 256;

/// A recipe and whom it is for.
pub struct RecipeSheet<'a> {
    pub pen: &'a str,
    /// The card of the other brush, where one came in.
    pub there: Option<&'a str>,
    /// Whose tablet's response it goes through.
    pub profile: Option<&'a str>,
    pub recipe: &'a Recipe,
    /// A strip of the pen's edge, a PNG as a data URI.
    pub strip_png: Option<&'a str>,
}

/// An elliptical tip, black on clear.
pub fn tip_png(recipe: &Recipe) -> Result<Vec<u8>, ReadError> {
    let half = TIP_PX as f64 / 2.0;
    let (s, c) = (-recipe.angle_deg).to_radians().sin_cos();
    let inside = |x: f64, y: f64| {
        let (u, v) = (c * (x - half) + s * (y - half), c * (y - half) - s * (x - half));
        u.hypot(v / recipe.roundness.max(0.01)) <= half - 1.0
    };
    let data: Vec<u8> = (0..TIP_PX * TIP_PX)
        .flat_map(|i| {
            let (x, y) = ((i % TIP_PX) as f64, (i / TIP_PX) as f64);
            let hits = (0..16).filter(|k| inside(x + 0.125 + 0.25 * f64::from(k % 4), y + 0.125 + 0.25 * f64::from(k / 4))).count();
            [0, (hits * 255 / 16) as u8]
        })
        .collect();
    write_png(TIP_PX, TIP_PX, PngKind::GreyAlpha, &data, None)
}

impl RecipeSheet<'_> {
    /// What it was worked out from.
    fn from(&self) -> String {
        let of_brush = self.there.map_or("not yet tried with that brush".into(), |t| format!("and the sheet inked with that brush, “{t}”"));
        let of_tablet = self.profile.map_or(String::new(), |p| format!(", through the tablet profile {p}"));
        format!("Worked out from the pen's card{of_tablet}, {of_brush}.")
    }

    /// Names, values and units of what is typed in.
    fn numbers(&self) -> Vec<(&'static str, String, &'static str)> {
        let r = self.recipe;
        let mut all = vec![("size", format!("{:.2}", r.size_mm), "mm")];
        if !r.assumed {
            all.push(("size, against the sheet's", format!("{:.2}", r.size_factor), "times"));
        }
        all.extend([
            ("least size", format!("{:.0}", 100.0 * r.least_size), "% of the size"),
            ("roundness", format!("{:.0}", 100.0 * r.roundness), "%"),
            ("angle", format!("{:.0}", r.angle_deg), "degrees"),
            ("spacing", format!("{:.0}", 100.0 * r.spacing), "% of the size"),
        ]);
        all
    }

    /// A row each: name, value, unit; then the correction: pressure, what it becomes, the width there and how sure the pen's is.
    pub fn csv(&self) -> String {
        let mut out = Table::new();
        out.row(&["name", "value", "unit"]);
        for (name, value, unit) in self.numbers() {
            out.row(&[name, &value, unit]);
        }
        out.row(&["at most left between the points", &format!("{:.3}", self.recipe.left_mm), "mm"]);
        let mut points = Table::new();
        points.row(&["pressure in %", "becomes in %", "width in mm", "width is sure within mm"]);
        for ((p, width), sure) in self.recipe.correction.iter().zip(&self.recipe.widths_mm).zip(&self.recipe.sure_mm) {
            let cells = [100.0 * p[0], 100.0 * p[1]].map(|v| format!("{v:.1}"));
            points.row(&[&cells[0], &cells[1], &format!("{width:.3}"), &sure.map_or(String::new(), |s| format!("{s:.3}"))]);
        }
        format!("{}\r\n{}", out.finish(), points.finish())
    }

    /// One page: the correction with its curve, the numbers with the tip, what was assumed, and lines to hold a trial against.
    pub fn pdf(&self) -> Result<Vec<u8>, ReadError> {
        let r = self.recipe;
        let mut page = Page::default();
        let title = format!("{}, drawn by a brush of another program", self.pen);
        let fits = (PAGE_MM[0] - 2.0 * MARGIN) / length(&title, 1.0, true).max(1e-9);
        page.words(MARGIN, 26.0, fits.min(6.0), true, INK, &title);
        page.y = 30.0;
        page.paragraph(&self.from());
        page.head("Correction of the pressure");
        let top = page.y;
        for (k, name) in ["pressure", "becomes", "width"].iter().enumerate() {
            page.words(MARGIN + 22.0 * k as f64, top + 4.0, 3.4, false, SOFT, name);
        }
        for (i, p) in r.correction.iter().enumerate() {
            let y = top + 10.0 + 6.0 * i as f64;
            page.words(MARGIN, y, 3.8, false, INK, &format!("{:.1} %", 100.0 * p[0]));
            page.words(MARGIN + 22.0, y, 3.8, true, INK, &format!("{:.1} %", 100.0 * p[1]));
            let sure = r.sure_mm.get(i).copied().flatten().map_or(String::new(), |s| format!(" ± {s:.3}"));
            page.words(MARGIN + 44.0, y, 3.8, false, INK, &format!("{:.3}{sure} mm", r.widths_mm[i]));
        }
        page.curve(&r.correction, [128.0, top, 46.0]);
        page.y = top + 52.0;
        page.paragraph(&format!("Between the points, joined straight, at most {:.3} mm are left.", r.left_mm));
        page.head("Tip and numbers");
        let top = page.y;
        page.marks.push(Mark::Png { bytes: tip_png(r)?, area: [128.0, top, 30.0, 30.0] });
        for (i, (name, value, unit)) in self.numbers().into_iter().enumerate() {
            let y = top + 5.0 + 6.0 * i as f64;
            page.words(MARGIN, y, 3.8, false, SOFT, name);
            page.words(MARGIN + 50.0, y, 3.8, true, INK, &format!("{value} {unit}"));
        }
        page.y = top + 40.0;
        for says in &r.says {
            page.paragraph(says);
        }
        page.head("So wide it draws, at true size");
        for (p, width) in r.correction.iter().zip(&r.widths_mm) {
            let high = width.max(3.0);
            page.y += 0.5 * high + 2.0;
            page.words(MARGIN, page.y + 1.2, 3.4, false, SOFT, &format!("at {:.0} %", 100.0 * p[0]));
            page.rectangle([MARGIN + 22.0, page.y - 0.5 * width, 120.0, *width], INK);
            page.y += 0.5 * high + 1.0;
        }
        pages(PAGE_MM, &format!("Recipe: {}", self.pen), &[page.marks])
    }

    /// Page, numbers, tip and, where the pen has one, the strip of its edge.
    pub fn zip(&self) -> Result<Vec<u8>, ReadError> {
        let bad = |e: &dyn std::fmt::Display| ReadError::Archive(e.to_string());
        let mut files = vec![("recipe.pdf", self.pdf()?), ("recipe.csv", self.csv().into_bytes()), ("tip.png", tip_png(self.recipe)?)];
        if let Some(strip) = self.strip_png.and_then(|uri| STANDARD.decode(uri.split_once(',')?.1).ok()) {
            files.push(("strip.png", strip));
        }
        let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
        for (name, bytes) in files {
            zip.start_file(name, zip::write::SimpleFileOptions::default()).map_err(|e| bad(&e))?;
            zip.write_all(&bytes).map_err(|e| bad(&e))?;
        }
        Ok(zip.finish().map_err(|e| bad(&e))?.into_inner())
    }
}

/// A page that fills from the top, mm.
#[derive(Default)]
struct Page {
    marks: Vec<Mark>,
    y: f64,
}

impl Page {
    fn words(&mut self, x: f64, y: f64, size: f64, bold: bool, rgb: [u8; 3], text: &str) {
        self.marks.push(Mark::Words { text: text.into(), at: [x, y], size, bold, rgb });
    }

    fn head(&mut self, text: &str) {
        self.y += 9.0;
        self.words(MARGIN, self.y, 4.6, true, INK, text);
        self.y += 3.0;
    }

    /// Words in lines as long as the page.
    fn paragraph(&mut self, text: &str) {
        let mut line = String::new();
        for word in text.split_whitespace() {
            let longer = if line.is_empty() { word.to_string() } else { format!("{line} {word}") };
            if length(&longer, 3.6, false) > PAGE_MM[0] - 2.0 * MARGIN && !line.is_empty() {
                self.y += 5.0;
                self.words(MARGIN, self.y, 3.6, false, INK, &line);
                line = word.into();
            } else {
                line = longer;
            }
        }
        self.y += 5.0;
        self.words(MARGIN, self.y, 3.6, false, INK, &line);
    }

    fn rectangle(&mut self, [x, y, w, h]: [f64; 4], rgb: [u8; 3]) {
        self.marks.push(Mark::Paths { paths: vec![vec![[x, y], [x + w, y], [x + w, y + h], [x, y + h]]], rgb, alpha: 1.0 });
    }

    /// The correction as a line from corner to corner of a square `[left, top, side]`.
    fn curve(&mut self, points: &[[f64; 2]], [left, top, side]: [f64; 3]) {
        self.rectangle([left, top, 0.2, side], SOFT);
        self.rectangle([left, top + side, side, 0.2], SOFT);
        let at = |p: [f64; 2]| [left + side * p[0], top + side * (1.0 - p[1])];
        let strokes = points.windows(2).map(|w| bar(at(w[0]), at(w[1]), 0.5)).collect();
        self.marks.push(Mark::Paths { paths: strokes, rgb: INK, alpha: 1.0 });
        for p in points {
            let [x, y] = at(*p);
            self.rectangle([x - 0.9, y - 0.9, 1.8, 1.8], INK);
        }
        self.words(left, top + side + 4.5, 3.0, false, SOFT, "pressure from the tablet across, for the brush upward");
    }
}

/// A straight bar between two points.
fn bar(a: [f64; 2], b: [f64; 2], width: f64) -> Path {
    let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
    let k = 0.5 * width / dx.hypot(dy).max(1e-9);
    let (x, y) = (-dy * k, dx * k);
    vec![[a[0] + x, a[1] + y], [b[0] + x, b[1] + y], [b[0] - x, b[1] - y], [a[0] - x, a[1] - y]]
}
