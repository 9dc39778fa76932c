//! Pictures: PNG, TIFF and JPEG in, PNG out, with their resolution.

use std::io::{Cursor, Write};

use eddymist_measure::{colour::linear, scan::Scan};
use image::{DynamicImage, ImageFormat, ImageReader};

use crate::{Limits, ReadError, limits::told};

/// A picture of 8-bit sRGB with straight alpha.
#[derive(Debug, Clone, PartialEq)]
pub struct Rgba {
    pub width: usize,
    pub height: usize,
    pub data: Vec<u8>,
}

/// A layer: its name, where it has one, and its picture.
pub type NamedPicture = (Option<String>, Rgba);

/// What a file is, by its first bytes.
fn format(bytes: &[u8]) -> Result<ImageFormat, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    match image::guess_format(bytes) {
        Ok(f @ (ImageFormat::Png | ImageFormat::Tiff | ImageFormat::Jpeg)) => Ok(f),
        _ => Err(ReadError::Kind("this is no picture that can be read; PNG, TIFF and JPEG are".into())),
    }
}

/// Width and height from the header alone; refused where they are over the limit.
pub fn dimensions(bytes: &[u8], limits: &Limits) -> Result<(u32, u32), ReadError> {
    let f = format(bytes)?;
    limits.file(bytes.len() as u64)?;
    let (w, h) = ImageReader::with_format(Cursor::new(bytes), f).into_dimensions().map_err(unread)?;
    limits.picture(w.into(), h.into())?;
    Ok((w, h))
}

pub(crate) fn decode(bytes: &[u8], limits: &Limits) -> Result<DynamicImage, ReadError> {
    let (w, h) = dimensions(bytes, limits)?;
    let mut reader = ImageReader::with_format(Cursor::new(bytes), format(bytes)?);
    let mut allowed = image::Limits::default();
    // Four channels of 16 bits, and what a decoder needs beside them.
    allowed.max_alloc = Some(u64::from(w) * u64::from(h) * 8 + (1 << 26));
    reader.limits(allowed);
    reader.decode().map_err(unread)
}

/// Why a picture was not read: a kind that is not read is no damage.
fn unread(e: image::ImageError) -> ReadError {
    match e {
        image::ImageError::Unsupported(e) => {
            ReadError::Kind(format!("this kind of picture is not read ({}); save it as grey, RGB or CMYK with 8 or 16 bits", told(e)))
        }
        e => ReadError::Damaged(told(e)),
    }
}

/// Decodes to 8-bit RGBA.
pub fn rgba(bytes: &[u8], limits: &Limits) -> Result<Rgba, ReadError> {
    let picture = decode(bytes, limits)?.into_rgba8();
    Ok(Rgba { width: picture.width() as usize, height: picture.height() as usize, data: picture.into_raw() })
}

/// The picture's pixels as a PNG: of a TIFF, which browsers do not show.
pub fn as_png(bytes: &[u8], limits: &Limits) -> Result<Vec<u8>, ReadError> {
    let p = rgba(bytes, limits)?;
    write_png(p.width, p.height, PngKind::Rgba, &p.data, None)
}

/// Decodes to linear-light luminance at the file's resolution, or at `dpi` where given.
pub fn scan(bytes: &[u8], dpi: Option<f64>, limits: &Limits) -> Result<Scan, ReadError> {
    format(bytes)?;
    let dpi = match dpi {
        Some(d) => d,
        None => {
            dimensions(bytes, limits)?;
            resolution(bytes).ok_or(ReadError::NoResolution)?
        }
    };
    let picture = decode(bytes, limits)?;
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    let table: Vec<f32> = (0..256).map(|v| linear(v as f32 / 255.0)).collect();
    let data = match picture {
        DynamicImage::ImageLuma8(p) => p.into_raw().into_iter().map(|v| table[v as usize]).collect(),
        DynamicImage::ImageLuma16(p) => p.into_raw().into_iter().map(|v| linear(f32::from(v) / 65535.0)).collect(),
        DynamicImage::ImageRgb8(p) => {
            p.pixels().map(|p| 0.2126 * table[p[0] as usize] + 0.7152 * table[p[1] as usize] + 0.0722 * table[p[2] as usize]).collect()
        }
        // Rec. 709 luminance of linear light; where the picture is clear, paper shows through.
        p => p
            .into_rgba8()
            .pixels()
            .map(|p| {
                let y = 0.2126 * table[p[0] as usize] + 0.7152 * table[p[1] as usize] + 0.0722 * table[p[2] as usize];
                let a = f32::from(p[3]) / 255.0;
                y * a + 1.0 - a
            })
            .collect(),
    };
    Ok(Scan { width, height, data, dpi })
}

/// The resolution that the file states, dpi.
pub fn resolution(bytes: &[u8]) -> Option<f64> {
    let dpi = match format(bytes).ok()? {
        ImageFormat::Png => {
            let reader = png::Decoder::new(Cursor::new(bytes)).read_info().ok()?;
            let dims = reader.info().pixel_dims?;
            (dims.unit == png::Unit::Meter).then(|| f64::from(dims.xppu) * 0.0254)?
        }
        ImageFormat::Tiff => {
            let mut d = tiff::decoder::Decoder::new(Cursor::new(bytes)).ok()?;
            let value = d.get_tag(tiff::tags::Tag::XResolution).ok()?;
            let x = match value {
                tiff::decoder::ifd::Value::Rational(n, m) => f64::from(n) / f64::from(m.max(1)),
                other => other.into_u32().ok().map(f64::from)?,
            };
            match d.find_tag_unsigned::<u16>(tiff::tags::Tag::ResolutionUnit).ok().flatten().unwrap_or(2) {
                3 => x * 2.54,
                2 => x,
                _ => return None,
            }
        }
        _ => jfif_density(bytes)?,
    };
    // 0, 1 or 72 by default say nothing of a scanner, and no scanner is as fine as some say.
    (DPI.contains(&dpi) && (dpi - 72.0).abs() > 0.1).then(|| (dpi * 100.0).round() / 100.0)
}

/// Resolutions that a scanner may have, dpi.
const DPI: std::ops::RangeInclusive<f64> = 50.0..=10_000.0;

/// The density of a JFIF header (ITU-T T.871).
fn jfif_density(b: &[u8]) -> Option<f64> {
    let mut i = 2;
    while i + 18 <= b.len() && b[i] == 0xFF {
        let length = usize::from(u16::from_be_bytes([b[i + 2], b[i + 3]]));
        if b[i + 1] == 0xE0 && &b[i + 4..i + 9] == b"JFIF\0" {
            let x = f64::from(u16::from_be_bytes([b[i + 12], b[i + 13]]));
            return match b[i + 11] {
                1 => Some(x),
                2 => Some(x * 2.54),
                _ => None,
            };
        }
        i += 2 + length;
    }
    None
}

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

/// The longest side of a tip, px.
const TIP_SIDE: u32 = 512;
/// What is covered by less than this is paper.
const GRAIN: f32 = 0.08;

/// A tip from a picture: coverage by its alpha where it has any, else by how far it is from its paper toward its ink (both
/// robust: the 95th and the 2nd percentile of its light); laid level. Gives it with by how much it was turned, degrees
/// counter-clockwise.
pub fn tip(bytes: &[u8], limits: &Limits) -> Result<(eddymist_ink::picture::Picture, f64), ReadError> {
    let picture = decode(bytes, limits)?;
    let small = if picture.width().max(picture.height()) > TIP_SIDE { picture.thumbnail(TIP_SIDE, TIP_SIDE) } else { picture };
    let small = small.into_rgba8();
    let (width, height) = (small.width() as usize, small.height() as usize);
    let clear = small.pixels().any(|p| p[3] < 255);
    let coverage: Vec<f32> = if clear {
        small.pixels().map(|p| f32::from(p[3]) / 255.0).collect()
    } else {
        let light: Vec<f32> = small.pixels().map(|p| p.0[..3].iter().map(|v| f32::from(*v)).sum::<f32>() / 765.0).collect();
        let mut sorted = light.clone();
        sorted.sort_by(f32::total_cmp);
        let at = |q: f64| sorted[((sorted.len() - 1) as f64 * q) as usize];
        let (ink, paper) = (at(0.02), at(0.95));
        if paper - ink < 0.1 {
            return Err(ReadError::Kind("no tip is to be seen: dark on light is needed, or coverage as alpha".into()));
        }
        light.iter().map(|v| ((paper - v) / (paper - ink)).clamp(0.0, 1.0)).map(|c| if c < GRAIN { 0.0 } else { c }).collect()
    };
    if coverage.iter().all(|c| *c < GRAIN) {
        return Err(ReadError::Kind("the picture is clear throughout: no tip is to be seen".into()));
    }
    Ok(eddymist_ink::kinds::level::picture(&eddymist_ink::picture::Picture { width, height, coverage, px_mm: None }))
}
