//! What a picture file says before it is decoded: what it is, its sides, its resolution, which way up it lies, and what wrote it.
//!
//! Sources: W3C PNG (pHYs), TIFF 6.0, ITU-T T.871 (JFIF) and T.81 (JPEG's frame header), EXIF 2.32.

use std::io::Cursor;

use image::{ImageDecoder, ImageFormat, ImageReader, metadata::Orientation};

use crate::{Limits, ReadError, kind::FileSigns, limits::told, tiff_in};

/// What a file is, by its first bytes.
pub(crate) fn format(bytes: &[u8]) -> Result<ImageFormat, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if tiff_in::is_tiff(bytes) {
        return Ok(ImageFormat::Tiff);
    }
    match image::guess_format(bytes) {
        Ok(f @ (ImageFormat::Png | ImageFormat::Jpeg)) => Ok(f),
        _ => Err(ReadError::Kind("this is no picture that can be read; PNG, TIFF and JPEG are".into())),
    }
}

/// Width and height from the header alone; refused where they are over the limit.
pub fn dimensions(bytes: &[u8], limits: &Limits) -> Result<(u32, u32), ReadError> {
    let f = format(bytes)?;
    limits.file(bytes.len() as u64)?;
    let (w, h) = match f {
        ImageFormat::Tiff => tiff_in::dimensions(bytes)?,
        _ => ImageReader::with_format(Cursor::new(bytes), f).into_dimensions().map_err(unread)?,
    };
    limits.picture(w.into(), h.into())?;
    Ok((w, h))
}

/// Why a picture was not read: a kind that is not read is no damage.
pub(crate) fn unread(e: image::ImageError) -> ReadError {
    match e {
        image::ImageError::Unsupported(e) => {
            ReadError::Kind(format!("this kind of picture is not read ({}); save it as grey or RGB with 8 or 16 bits", told(e)))
        }
        e => ReadError::Damaged(told(e)),
    }
}

/// What wrote a file, by its EXIF data: a camera states its exposure, a scanner only its name.
pub(crate) fn camera(bytes: &[u8]) -> FileSigns {
    let Ok(exif) = exif::Reader::new().read_from_container(&mut Cursor::new(bytes)) else { return FileSigns::default() };
    let has = |tag| exif.get_field(tag, exif::In::PRIMARY).is_some();
    let camera = has(exif::Tag::ExposureTime) || has(exif::Tag::FNumber) || has(exif::Tag::FocalLength);
    FileSigns { camera, scanner: !camera && (has(exif::Tag::Make) || has(exif::Tag::Model)), ..FileSigns::default() }
}

/// A JPEG's marker segments up to its picture: marker, and what stands in it (ITU-T T.81, B.1.1).
fn jpeg_segments(b: &[u8]) -> impl Iterator<Item = (u8, &[u8])> {
    const PICTURE: u8 = 0xDA;
    let mut i = 2;
    std::iter::from_fn(move || {
        loop {
            let marker = *b.get(i + 1).filter(|_| b[i] == 0xFF)?;
            if marker == PICTURE {
                return None;
            }
            // Padding, and markers that hold nothing.
            if marker == 0xFF || marker == 0x01 || (0xD0..=0xD9).contains(&marker) {
                i += 1 + usize::from(marker != 0xFF);
                continue;
            }
            let length = usize::from(u16::from_be_bytes([*b.get(i + 2)?, *b.get(i + 3)?])).max(2);
            let held = b.get(i + 4..i + 2 + length)?;
            i += 2 + length;
            return Some((marker, held));
        }
    })
}

/// How many components a JPEG has, by its frame header (ITU-T T.81, B.2.2).
pub(crate) fn jpeg_components(b: &[u8]) -> Option<u8> {
    let frame = |m: &u8| (0xC0..=0xCF).contains(m) && ![0xC4, 0xC8, 0xCC].contains(m);
    jpeg_segments(b).find(|(m, _)| frame(m)).and_then(|(_, held)| held.get(5).copied())
}

/// The quality that a JPEG was saved with, 1 to 100, by how coarse its first quantisation table is beside the example table of ITU-T T.81
/// (Annex K, table K.1) as it is commonly scaled (common practice, no source). Within 2 from 30 up; what is coarser reads higher.
pub(crate) fn jpeg_quality(b: &[u8]) -> Option<f64> {
    const TABLES: u8 = 0xDB;
    /// The sum of table K.1.
    const EXAMPLE: f64 = 3688.0;
    let (_, held) = jpeg_segments(b).find(|(m, held)| *m == TABLES && held.len() > 64)?;
    let sum: f64 = match held[0] >> 4 {
        0 => held[1..65].iter().map(|v| f64::from(*v)).sum(),
        _ => held.get(1..129)?.as_chunks::<2>().0.iter().map(|v| f64::from(u16::from_be_bytes(*v))).sum(),
    };
    let scale = 100.0 * sum / EXAMPLE;
    Some(if scale <= 100.0 { 100.0 - scale / 2.0 } else { 5000.0 / scale }.clamp(1.0, 100.0))
}

/// The resolution that the file states, dpi; that of the finer axis where they differ.
pub fn resolution(bytes: &[u8]) -> Option<f64> {
    resolutions(bytes).map(|[x, y]| x.max(y))
}

/// The resolution that the file states along both axes, dpi.
pub fn resolutions(bytes: &[u8]) -> Option<[f64; 2]> {
    let dpi = match format(bytes).ok()? {
        ImageFormat::Png => {
            let reader = png::Decoder::new(Cursor::new(bytes)).read_info().ok()?;
            let dims = reader.info().pixel_dims?;
            (dims.unit == png::Unit::Meter).then(|| [dims.xppu, dims.yppu].map(|v| f64::from(v) * 0.0254))?
        }
        ImageFormat::Tiff => {
            let mut d = tiff::decoder::Decoder::new(Cursor::new(bytes)).ok()?;
            let mut axis = |tag| match d.get_tag(tag).ok()? {
                tiff::decoder::ifd::Value::Rational(n, m) => Some(f64::from(n) / f64::from(m.max(1))),
                other => other.into_u32().ok().map(f64::from),
            };
            let x = axis(tiff::tags::Tag::XResolution)?;
            let y = axis(tiff::tags::Tag::YResolution).unwrap_or(x);
            match d.find_tag_unsigned::<u16>(tiff::tags::Tag::ResolutionUnit).ok().flatten().unwrap_or(2) {
                3 => [x, y].map(|v| v * 2.54),
                2 => [x, y],
                _ => return None,
            }
        }
        _ => jfif_density(bytes).or_else(|| exif_resolution(bytes))?,
    };
    let dpi = if turned(bytes) { [dpi[1], dpi[0]] } else { dpi };
    // 0 and 1 say nothing of a scanner, nor do 72 and 96, which programs write where they know of none; and no scanner is as fine as some say.
    let fits = |d: f64| DPI.contains(&d) && [72.0, 96.0].iter().all(|unknown| (d - unknown).abs() > 0.1);
    (fits(dpi[0]) && fits(dpi[1])).then(|| dpi.map(|d| (d * 100.0).round() / 100.0))
}

/// Whether the file's rows are to be seen as columns.
fn turned(bytes: &[u8]) -> bool {
    use Orientation::{Rotate90, Rotate90FlipH, Rotate270, Rotate270FlipH};
    let turn = match format(bytes) {
        Ok(ImageFormat::Tiff) => Some(tiff_in::turn(bytes)),
        Ok(f) => ImageReader::with_format(Cursor::new(bytes), f).into_decoder().ok().and_then(|mut d| d.orientation().ok()),
        Err(_) => None,
    };
    turn.is_some_and(|o| matches!(o, Rotate90 | Rotate270 | Rotate90FlipH | Rotate270FlipH))
}

/// The resolution in a JPEG's EXIF data.
fn exif_resolution(bytes: &[u8]) -> Option<[f64; 2]> {
    let exif = exif::Reader::new().read_from_container(&mut Cursor::new(bytes)).ok()?;
    let field = |tag| exif.get_field(tag, exif::In::PRIMARY);
    let axis = |tag| match &field(tag)?.value {
        exif::Value::Rational(v) => v.first().map(|r| r.to_f64()),
        _ => None,
    };
    let (x, y) = (axis(exif::Tag::XResolution)?, axis(exif::Tag::YResolution)?);
    let unit = field(exif::Tag::ResolutionUnit).and_then(|f| f.value.get_uint(0)).unwrap_or(2);
    Some(if unit == 3 { [x, y].map(|v| v * 2.54) } else { [x, y] })
}

/// Resolutions that a scanner may have, dpi.
const DPI: std::ops::RangeInclusive<f64> = 50.0..=10_000.0;

/// The density of a JFIF header (ITU-T T.871).
fn jfif_density(b: &[u8]) -> Option<[f64; 2]> {
    let mut i = 2;
    while i + 18 <= b.len() && b[i] == 0xFF {
        let length = usize::from(u16::from_be_bytes([b[i + 2], b[i + 3]]));
        if b[i + 1] == 0xE0 && &b[i + 4..i + 9] == b"JFIF\0" {
            let axes = [12, 14].map(|k| f64::from(u16::from_be_bytes([b[i + k], b[i + k + 1]])));
            return match b[i + 11] {
                1 => Some(axes),
                2 => Some(axes.map(|v| v * 2.54)),
                _ => None,
            };
        }
        i += 2 + length;
    }
    None
}
