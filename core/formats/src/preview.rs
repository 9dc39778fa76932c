//! A picture small enough for a page: of any kind that is read, with its paper's shading divided out where that is wanted.

use eddymist_measure::{
    colour::{encode, linear},
    scan::{Scan, without_shading},
};

use crate::{
    Limits, ReadError,
    images::{PngKind, decode, write_png},
    openraster,
};

/// The picture as PNG with at most `side` px to a side, of an OpenRaster file its merged picture; with its paper's shading
/// divided out where that is wanted.
pub fn preview(bytes: &[u8], side: u32, flat: bool, limits: &Limits) -> Result<Vec<u8>, ReadError> {
    let merged = if bytes.starts_with(b"PK") { Some(openraster::merged(bytes, limits)?.0) } else { None };
    let picture = decode(merged.as_deref().unwrap_or(bytes), limits)?;
    let small = if picture.width().max(picture.height()) > side { picture.thumbnail(side, side) } else { picture }.into_luma8();
    let (width, height) = (small.width() as usize, small.height() as usize);
    if !flat {
        return write_png(width, height, PngKind::Grey, small.as_raw(), None);
    }
    let data = small.as_raw().iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
    let light = without_shading(&Scan { width, height, data, dpi: 96.0 });
    let grey: Vec<u8> = light.into_iter().map(|v| (255.0 * encode(v)).round() as u8).collect();
    write_png(width, height, PngKind::Grey, &grey, None)
}
