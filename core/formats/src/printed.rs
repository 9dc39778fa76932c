//! Pages of text and pictures for print: paragraphs that fill a page from its top, on A4 or Letter.

use eddymist_ink::Outline;

use crate::{
    ReadError,
    lettering::length,
    pdf::{Mark, pages},
};

/// The papers that are printed on, mm.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Paper {
    A4,
    Letter,
}

impl Paper {
    /// By its name; none of another.
    pub fn by_name(name: &str) -> Option<Self> {
        match name.to_lowercase().as_str() {
            "a4" => Some(Self::A4),
            "letter" => Some(Self::Letter),
            _ => None,
        }
    }

    pub fn size_mm(self) -> [f64; 2] {
        match self {
            Self::A4 => [210.0, 297.0],
            Self::Letter => [215.9, 279.4],
        }
    }
}

pub const MARGIN: f64 = 16.0;
pub const INK: [u8; 3] = [0x16, 0x20, 0x2b];
pub const SOFT: [u8; 3] = [0x55, 0x63, 0x6e];
pub const HEAVY: [u8; 3] = [0xa8, 0x40, 0x0f];
pub const THIN: [u8; 3] = [0x28, 0x66, 0xb1];
const HAIR_MM: f64 = 0.12;

/// Pages that fill from the top.
pub struct Pages {
    pub size: [f64; 2],
    /// How far the page is filled, mm.
    pub y: f64,
    done: Vec<Vec<Mark>>,
}

impl Pages {
    pub fn new(size: [f64; 2]) -> Self {
        Self { size, y: MARGIN, done: vec![Vec::new()] }
    }

    pub fn width(&self) -> f64 {
        self.size[0] - 2.0 * MARGIN
    }

    /// Room for so many mm, on a new page if need be.
    pub fn room(&mut self, mm: f64) {
        if self.y + mm > self.size[1] - MARGIN {
            self.done.push(Vec::new());
            self.y = MARGIN;
        }
    }

    pub fn push(&mut self, outline: Outline, rgb: [u8; 3]) {
        if let Some(page) = self.done.last_mut() {
            page.push(Mark::Paths { paths: outline.paths, rgb, alpha: 1.0 });
        }
    }

    pub fn word(&mut self, text: &str, x: f64, size: f64, bold: bool, rgb: [u8; 3]) {
        self.word_at(text, [MARGIN + x, self.y], size, bold, rgb);
    }

    pub fn bar(&mut self, [x, y, w, h]: [f64; 4], rgb: [u8; 3]) {
        let path = vec![[x, y], [x + w, y], [x + w, y + h], [x, y + h]];
        self.push(Outline { paths: vec![path] }, rgb);
    }

    pub fn rule(&mut self) {
        self.bar([MARGIN, self.y, self.width(), HAIR_MM], SOFT);
    }

    /// A paragraph, broken between words; moves on.
    pub fn text(&mut self, text: &str, size: f64, bold: bool, rgb: [u8; 3]) {
        let mut line = String::new();
        let mut lines = Vec::new();
        for word in text.split_whitespace() {
            let longer = if line.is_empty() { word.to_string() } else { format!("{line} {word}") };
            if length(&longer, size, bold) > self.width() && !line.is_empty() {
                lines.push(std::mem::replace(&mut line, word.to_string()));
            } else {
                line = longer;
            }
        }
        lines.push(line);
        for l in lines {
            self.room(1.4 * size);
            self.y += 1.1 * size;
            self.word(&l, 0.0, size, bold, rgb);
            self.y += 0.3 * size;
        }
    }

    pub fn heading(&mut self, text: &str) {
        self.room(14.0);
        self.y += 4.0;
        self.text(text, 4.2, true, INK);
        self.y += 1.0;
    }

    /// The left edge of what is printed, mm.
    pub fn left(&self) -> f64 {
        MARGIN
    }

    /// Words at a place of the page.
    pub fn word_at(&mut self, text: &str, at: [f64; 2], size: f64, bold: bool, rgb: [u8; 3]) {
        if let Some(page) = self.done.last_mut() {
            page.push(Mark::Words { text: text.into(), at, size, bold, rgb });
        }
    }

    /// A PNG at a place of the page.
    pub fn picture(&mut self, bytes: Vec<u8>, area: [f64; 4]) {
        if let Some(page) = self.done.last_mut() {
            page.push(Mark::Png { bytes, area });
        }
    }

    /// What follows begins on a new page, unless this one is empty.
    pub fn new_page(&mut self) {
        if self.y > MARGIN {
            self.done.push(Vec::new());
            self.y = MARGIN;
        }
    }

    /// The pages as PDF, each with its number.
    pub fn finish(mut self, title: &str) -> Result<Vec<u8>, ReadError> {
        let (size, count) = (self.size, self.done.len());
        for (k, page) in self.done.iter_mut().enumerate() {
            let at = [size[0] - MARGIN - 12.0, size[1] - 8.0];
            page.push(Mark::Words { text: format!("{} of {count}", k + 1), at, size: 2.6, bold: false, rgb: SOFT });
        }
        pages(size, title, &self.done)
    }
}
