//! Files: InkML, SVG, OpenRaster, images, archives. Bytes come in and go out; nothing here opens a path.

pub mod archive;
pub mod check_out;
pub mod drawings;
pub mod images;
pub mod ink_out;
pub mod inkml;
pub mod lettering;
pub mod library;
pub mod manifest;
pub mod path_ink;
pub mod pdf;
pub mod pen_out;
pub mod pen_sheet;
pub mod proof_sheet;
pub mod sheet;
pub mod svg_paths;
pub mod team_report;
pub mod trial;

/// Why a file could not be read: what is wrong, and what would be accepted.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum ReadError {
    #[error("the file is empty")]
    Empty,
    #[error("{0}")]
    Kind(String),
    #[error("the picture says it is {width}×{height} px; up to {max} megapixels are read", max = images::MAX_PIXELS / 1_000_000)]
    TooLarge { width: u64, height: u64 },
    #[error("the picture is damaged or cut short: {0}")]
    Damaged(String),
    #[error("no resolution is in the file; give it in dpi")]
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
