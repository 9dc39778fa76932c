//! What is read at most. The limits come in from the door (the server, the command) as one value, and are checked before
//! anything is decoded or allocated; what is over them gets a sentence with the limit in it.

use crate::ReadError;

/// What is read at most.
#[derive(Debug, Clone, PartialEq)]
pub struct Limits {
    /// Bytes of one file, and of one entry of an archive.
    pub bytes: u64,
    /// Pixels of one picture.
    pub pixels: u64,
    /// Pixels of all layers of a drawing together, as they are held at once.
    pub layer_pixels: u64,
    /// Elements of an XML file, those that are drawn again by reference counted again.
    pub elements: u64,
    /// Levels of elements that lie within one another.
    pub depth: usize,
    /// Levels of an InkML file.
    pub ink_depth: usize,
    /// Entries of an archive.
    pub entries: u64,
    /// Bytes of all entries of an archive, unpacked.
    pub entries_bytes: u64,
    /// Strokes of a file.
    pub strokes: usize,
    /// Samples of one stroke, and of all strokes of a file.
    pub stroke_samples: usize,
    pub samples: usize,
    /// A sample lies at most so far from the corner of the page, mm.
    pub coordinate_mm: f64,
}

/// The limits of the program.
pub const LIMITS: Limits = Limits {
    bytes: 256 << 20,
    pixels: 120_000_000,
    layer_pixels: 300_000_000,
    elements: 1_000_000,
    depth: 256,
    ink_depth: 64,
    entries: 20_000,
    entries_bytes: 2 << 30,
    strokes: 200_000,
    stroke_samples: 500_000,
    samples: 5_000_000,
    coordinate_mm: 10_000.0,
};

impl Limits {
    /// Whether a picture of these sides may be decoded.
    pub fn picture(&self, width: u64, height: u64) -> Result<(), ReadError> {
        if width.saturating_mul(height) > self.pixels { Err(ReadError::TooLarge { width, height, most: self.pixels }) } else { Ok(()) }
    }

    /// Whether a file of so many bytes may be read.
    pub fn file(&self, bytes: u64) -> Result<(), ReadError> {
        if bytes > self.bytes { Err(ReadError::TooMuch(format!("the file has {} MB; up to {} MB are read", bytes >> 20, self.bytes >> 20))) } else { Ok(()) }
    }

    /// Whether so many layers of these sides may be held at once.
    pub fn layers(&self, layers: u64, width: u64, height: u64) -> Result<(), ReadError> {
        self.picture(width, height)?;
        if layers.saturating_mul(width * height) > self.layer_pixels {
            let (held, most) = (layers.saturating_mul(width * height) / 1_000_000, self.layer_pixels / 1_000_000);
            return Err(ReadError::TooMuch(format!(
                "its {layers} layers of {width}×{height} px are {held} megapixels together; up to {most} are read: merge layers that are checked alike"
            )));
        }
        Ok(())
    }
}

/// What a message quotes of a file: its start, without control characters.
pub(crate) fn quoted(text: &str) -> String {
    cut(text, 40)
}

/// What a reader of somebody else's says of a file: it may quote it too.
pub(crate) fn told(e: impl std::fmt::Display) -> String {
    cut(e.to_string().trim(), 240)
}

fn cut(text: &str, most: usize) -> String {
    let plain = |c: char| if c.is_control() { ' ' } else { c };
    let mut out: String = text.chars().take(most).map(plain).collect();
    if text.chars().nth(most).is_some() {
        out.push('…');
    }
    out
}
