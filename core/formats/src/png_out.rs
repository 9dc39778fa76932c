//! PNG files out, whole or from top to bottom, with their resolution.

use std::io::Write;

use crate::ReadError;

/// The kinds of pixel that PNG files are written in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PngKind {
    Grey,
    GreyAlpha,
    Rgb,
    Rgba,
}

/// Writes a PNG; `px_per_mm` goes into the file as its resolution.
pub fn write_png(width: usize, height: usize, kind: PngKind, data: &[u8], px_per_mm: Option<f64>) -> Result<Vec<u8>, ReadError> {
    let mut out = Vec::new();
    let mut writer = png_header(&mut out, width, height, kind, px_per_mm)?;
    writer.write_image_data(data).map_err(unwritten)?;
    writer.finish().map_err(unwritten)?;
    Ok(out)
}

/// Pixels of a picture that are made at once, where it is written from top to bottom.
const BAND_PIXELS: usize = 8 << 20;

/// Writes a PNG of which `band` makes some rows at a time: a large picture is never held whole.
pub fn write_png_in_bands(
    width: usize,
    height: usize,
    kind: PngKind,
    px_per_mm: Option<f64>,
    mut band: impl FnMut(std::ops::Range<usize>) -> Vec<u8>,
) -> Result<Vec<u8>, ReadError> {
    let mut out = Vec::new();
    let mut writer = png_header(&mut out, width, height, kind, px_per_mm)?;
    let mut stream = writer.stream_writer().map_err(unwritten)?;
    let rows = (BAND_PIXELS / width.max(1)).max(1);
    for from in (0..height).step_by(rows) {
        stream.write_all(&band(from..(from + rows).min(height))).map_err(|e| ReadError::Damaged(e.to_string()))?;
    }
    stream.finish().map_err(unwritten)?;
    writer.finish().map_err(unwritten)?;
    Ok(out)
}

fn unwritten(e: png::EncodingError) -> ReadError {
    ReadError::Damaged(e.to_string())
}

fn png_header(out: &mut Vec<u8>, width: usize, height: usize, kind: PngKind, px_per_mm: Option<f64>) -> Result<png::Writer<&mut Vec<u8>>, ReadError> {
    let mut encoder = png::Encoder::new(out, width as u32, height as u32);
    encoder.set_color(match kind {
        PngKind::Grey => png::ColorType::Grayscale,
        PngKind::GreyAlpha => png::ColorType::GrayscaleAlpha,
        PngKind::Rgb => png::ColorType::Rgb,
        PngKind::Rgba => png::ColorType::Rgba,
    });
    encoder.set_depth(png::BitDepth::Eight);
    encoder.set_compression(png::Compression::Fast);
    if let Some(r) = px_per_mm {
        let ppu = (r * 1000.0).round() as u32;
        encoder.set_pixel_dims(Some(png::PixelDimensions { xppu: ppu, yppu: ppu, unit: png::Unit::Meter }));
    }
    encoder.write_header().map_err(unwritten)
}
