//! Words as outlines in mm, so that a sheet looks alike in every program: Barlow (SIL Open Font License), kept in `fonts/`.

use eddymist_ink::{Outline, outline::Path};
use ttf_parser::{Face, OutlineBuilder};

pub(crate) const REGULAR: &[u8] = include_bytes!("../fonts/barlow-400.ttf");
pub(crate) const BOLD: &[u8] = include_bytes!("../fonts/barlow-600.ttf");

/// Words from `at` (their base line's left end), `size` mm to the em; a character that the font lacks is left out.
pub fn words(text: &str, at: [f64; 2], size: f64, bold: bool) -> Outline {
    let mut out = Outline::default();
    let Ok(face) = Face::parse(if bold { BOLD } else { REGULAR }, 0) else { return out };
    let scale = size / f64::from(face.units_per_em());
    let mut x = at[0];
    for c in text.chars() {
        let Some(glyph) = face.glyph_index(c) else { continue };
        let mut pen = Pen { paths: Vec::new(), scale, origin: [x, at[1]], last: [0.0; 2] };
        face.outline_glyph(glyph, &mut pen);
        out.paths.extend(pen.paths.into_iter().filter(|p| p.len() > 2));
        x += scale * f64::from(face.glyph_hor_advance(glyph).unwrap_or(0));
    }
    out
}

/// How far the words run, mm.
pub fn length(text: &str, size: f64, bold: bool) -> f64 {
    let Ok(face) = Face::parse(if bold { BOLD } else { REGULAR }, 0) else { return 0.0 };
    let units: u32 = text.chars().filter_map(|c| face.glyph_index(c)).map(|g| u32::from(face.glyph_hor_advance(g).unwrap_or(0))).sum();
    f64::from(units) * size / f64::from(face.units_per_em())
}

struct Pen {
    paths: Vec<Path>,
    scale: f64,
    origin: [f64; 2],
    last: [f64; 2],
}

impl Pen {
    fn place(&self, x: f32, y: f32) -> [f64; 2] {
        [self.origin[0] + self.scale * f64::from(x), self.origin[1] - self.scale * f64::from(y)]
    }

    fn push(&mut self, p: [f64; 2]) {
        if let Some(path) = self.paths.last_mut() {
            path.push(p);
        }
        self.last = p;
    }
}

impl OutlineBuilder for Pen {
    fn move_to(&mut self, x: f32, y: f32) {
        self.paths.push(Vec::new());
        self.push(self.place(x, y));
    }

    fn line_to(&mut self, x: f32, y: f32) {
        self.push(self.place(x, y));
    }

    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        let (a, b, c) = (self.last, self.place(x1, y1), self.place(x, y));
        for i in 1..=6 {
            let t = f64::from(i) / 6.0;
            let w = [(1.0 - t) * (1.0 - t), 2.0 * t * (1.0 - t), t * t];
            self.push([w[0] * a[0] + w[1] * b[0] + w[2] * c[0], w[0] * a[1] + w[1] * b[1] + w[2] * c[1]]);
        }
    }

    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let p = [self.last, self.place(x1, y1), self.place(x2, y2), self.place(x, y)];
        for i in 1..=8 {
            let t = f64::from(i) / 8.0;
            let v = 1.0 - t;
            let w = [v * v * v, 3.0 * t * v * v, 3.0 * t * t * v, t * t * t];
            self.push([0, 1].map(|k| (0..4).map(|j| w[j] * p[j][k]).sum()));
        }
    }

    fn close(&mut self) {}
}
