//! Files: InkML, SVG, OpenRaster, images, archives. Bytes come in and go out; nothing here opens a path.

pub mod archive;
pub mod check_out;
pub mod drawings;
mod error;
mod given;
mod heads;
pub mod images;
pub mod ink_out;
pub mod inkml;
mod kind;
pub mod lettering;
pub mod library;
mod light;
pub mod limits;
pub mod manifest;
pub mod notes_out;
pub mod openraster;
pub mod path_ink;
pub mod pdf;
pub mod pen_out;
pub mod pen_sheet;
mod png_out;
pub mod preview;
pub mod printed;
pub mod proof_sheet;
pub mod recipe_out;
pub mod sheet;
mod svg_drawing;
pub mod svg_paths;
mod table;
pub mod team_report;
pub mod trial;
mod xml;

pub use error::ReadError;
pub use given::Given;
pub use limits::{LIMITS, Limits};
