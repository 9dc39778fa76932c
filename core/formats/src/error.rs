//! Why a file could not be read: what is wrong, and what would be accepted.

/// Why a file could not be read: what is wrong, and what would be accepted.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ReadError {
    #[error("the file is empty")]
    Empty,
    #[error("{0}")]
    Kind(String),
    #[error("the picture says it is {width}×{height} px; up to {max} megapixels are read", max = most / 1_000_000)]
    TooLarge { width: u64, height: u64, most: u64 },
    /// Over another limit, which the sentence names.
    #[error("{0}")]
    TooMuch(String),
    #[error("the picture is damaged or cut short: {0}")]
    Damaged(String),
    #[error("no scanner’s resolution is in the file; give it in dpi")]
    NoResolution,
    #[error("InkML: {0}")]
    InkMl(String),
    #[error("SVG: {0}")]
    Svg(String),
    #[error("OpenRaster: {0}")]
    Ora(String),
    #[error("archive: {0}")]
    Archive(String),
    #[error("manifest: {0}")]
    Manifest(String),
}
