//! TIFFs that scanners and programs write and `image` does not read: colours by a table, 2 and 4 bits of grey, grey with alpha, JPEG with its
//! colours as it has them within. And in words why others are not read.
//!
//! How: `tiff` unpacks the samples, a table's as if they were grey. Limits: in strips or tiles whose rows end on bytes; no alpha beside a table.
//! Sources: TIFF 6.0 (sections 5, 21), ITU-T T.871 (YCbCr to RGB).

use std::io::Cursor;

use image::{DynamicImage, GrayImage, ImageBuffer, RgbImage, RgbaImage, metadata::Orientation};
use tiff::{ColorType, decoder::Decoder, tags::Tag};

use crate::{Limits, ReadError, limits::told};

const BLACK_IS_ZERO: u16 = 1;
const TABLE: u16 = 3;
const PLANES: u16 = 2;

/// Whether these are a TIFF's first bytes, of either size of its numbers.
pub(crate) fn is_tiff(b: &[u8]) -> bool {
    [b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"].iter().any(|m| b.starts_with(*m))
}

/// A tag's number of the first picture.
fn number(bytes: &[u8], tag: Tag) -> Option<u32> {
    Decoder::new(Cursor::new(bytes)).ok()?.find_tag_unsigned::<u32>(tag).ok()?
}

/// Width and height.
pub(crate) fn dimensions(bytes: &[u8]) -> Result<(u32, u32), ReadError> {
    Decoder::new(Cursor::new(bytes)).and_then(|mut d| d.dimensions()).map_err(|e| match e {
        tiff::TiffError::UnsupportedError(_) => ReadError::Kind("this kind of TIFF is not read; save it as grey or RGB with 8 or 16 bits".into()),
        e => ReadError::Damaged(told(e)),
    })
}

/// Pages are counted as far as this.
const PAGES: usize = 1_000;

/// What is said of one that has further pages; a smaller copy of the first is none.
pub(crate) fn further(bytes: &[u8]) -> Option<String> {
    let mut d = Decoder::new(Cursor::new(bytes)).ok()?;
    let mut pages = 1;
    for _ in 0..PAGES {
        if !d.more_images() || d.next_image().is_err() {
            break;
        }
        let subfile = d.find_tag_unsigned::<u32>(Tag::NewSubfileType).ok().flatten().unwrap_or(0);
        pages += usize::from(subfile & 1 == 0);
    }
    (pages > 1).then(|| format!("the first of its {pages} pages was read, and no other: save each as a file of its own"))
}

/// Which way up it lies.
pub(crate) fn turn(bytes: &[u8]) -> Orientation {
    let said = number(bytes, Tag::Orientation).and_then(|n| Orientation::from_exif(n as u8));
    said.unwrap_or(Orientation::NoTransforms)
}

/// The picture of a TIFF that is read here; none of one that `image` reads.
pub(crate) fn read(bytes: &[u8], limits: &Limits) -> Result<Option<DynamicImage>, ReadError> {
    let (width, height) = dimensions(bytes)?;
    limits.picture(width.into(), height.into())?;
    let tag = |t| number(bytes, t).unwrap_or(0) as u16;
    let table = tag(Tag::PhotometricInterpretation) == TABLE;
    if tag(Tag::PlanarConfiguration) == PLANES && tag(Tag::TileWidth) > 0 {
        return Err(ReadError::Kind("its colour planes are stored apart, in tiles, which is not read; save it with interleaved channels".into()));
    }
    let as_grey;
    let bytes = if table {
        let of = Some(bytes).filter(|_| number(bytes, Tag::SamplesPerPixel).unwrap_or(1) == 1).and_then(grey_of);
        as_grey = of.ok_or_else(|| ReadError::Kind("it has indexed colours with alpha, or in a BigTIFF, which is not read; save it as grey or RGB".into()))?;
        &as_grey
    } else {
        bytes
    };
    let broken = |e: tiff::TiffError| why(bytes).unwrap_or_else(|| ReadError::Damaged(told(e)));
    let mut allowed = tiff::decoder::Limits::default();
    allowed.decoding_buffer_size = width as usize * height as usize * 4 + (1 << 16);
    let mut d = Decoder::new(Cursor::new(bytes)).map_err(broken)?.with_limits(allowed);
    let Ok(colour) = d.colortype() else { return Ok(None) };
    let samples = |d: &mut Decoder<_>, row: usize| {
        let mut data = vec![0u8; row * height as usize];
        d.read_image_bytes(&mut data).map(|()| data).map_err(broken)
    };
    let (w, damaged) = (width as usize, || ReadError::Damaged("its rows are too short".into()));
    Ok(Some(match colour {
        ColorType::Gray(bits @ (1 | 2 | 4 | 8)) if table || bits == 2 || bits == 4 => {
            let n = usize::from(bits);
            let row = (w * n).div_ceil(8);
            let packed = samples(&mut d, row)?;
            let most = (1u16 << bits) - 1;
            let values = packed.chunks_exact(row).flat_map(|r| (0..w).map(move |x| (u16::from(r[x * n / 8]) >> (8 - n - x * n % 8)) & most));
            if table {
                let colours = d.get_tag_u16_vec(Tag::ColorMap).map_err(broken)?;
                let size = usize::from(most) + 1;
                if colours.len() < 3 * size {
                    return Err(ReadError::Damaged("its colour table is too short".into()));
                }
                let data = values.flat_map(|v| [0, 1, 2].map(|k| (colours[k * size + usize::from(v)] >> 8) as u8)).collect();
                DynamicImage::ImageRgb8(RgbImage::from_raw(width, height, data).ok_or_else(damaged)?)
            } else {
                // Where white is nought the decoder has turned them over already, as bytes: so are the bits.
                let data = values.map(|v| (v * 255 / most) as u8).collect();
                DynamicImage::ImageLuma8(GrayImage::from_raw(width, height, data).ok_or_else(damaged)?)
            }
        }
        // Grey with alpha: as colours, so that alpha that is multiplied into them is taken out of them like theirs.
        ColorType::GrayA(bits @ (8 | 16)) | ColorType::Multiband { bit_depth: bits @ (8 | 16), num_samples: 2 }
            if tag(Tag::PhotometricInterpretation) == BLACK_IS_ZERO =>
        {
            let data = samples(&mut d, 2 * w * usize::from(bits / 8))?;
            if bits == 8 {
                let data = data.as_chunks::<2>().0.iter().flat_map(|[v, a]| [*v, *v, *v, *a]).collect();
                DynamicImage::ImageRgba8(RgbaImage::from_raw(width, height, data).ok_or_else(damaged)?)
            } else {
                let wide = |b: [u8; 2]| u16::from_ne_bytes(b);
                let data = data.as_chunks::<4>().0.iter().map(|[v, w, a, b]| (wide([*v, *w]), wide([*a, *b]))).flat_map(|(v, a)| [v, v, v, a]).collect();
                DynamicImage::ImageRgba16(ImageBuffer::from_raw(width, height, data).ok_or_else(damaged)?)
            }
        }
        ColorType::YCbCr(8) => {
            let mut data = samples(&mut d, 3 * w)?;
            data.as_chunks_mut::<3>().0.iter_mut().for_each(|p| *p = rgb(*p));
            DynamicImage::ImageRgb8(RgbImage::from_raw(width, height, data).ok_or_else(damaged)?)
        }
        _ => return Ok(None),
    }))
}

/// ITU-T T.871, section 7.
fn rgb([y, cb, cr]: [u8; 3]) -> [u8; 3] {
    let (y, cb, cr) = (f32::from(y), f32::from(cb) - 128.0, f32::from(cr) - 128.0);
    [y + 1.402 * cr, y - 0.344_136 * cb - 0.714_136 * cr, y + 1.772 * cb].map(|v| v.round().clamp(0.0, 255.0) as u8)
}

/// A file whose first picture's directory is known, to be changed in place. Classic TIFF only: BigTIFF has none.
struct Patched {
    bytes: Vec<u8>,
    little: bool,
    entries: Vec<usize>,
}

impl Patched {
    fn new(bytes: &[u8]) -> Option<Self> {
        let mut out = Self { bytes: bytes.to_vec(), little: bytes.starts_with(b"II"), entries: Vec::new() };
        let directory = out.u32_at(4).filter(|_| out.u16_at(2) == Some(42))? as usize;
        out.entries = (0..usize::from(out.u16_at(directory)?)).map(|k| directory + 2 + 12 * k).collect();
        Some(out)
    }

    fn u16_at(&self, i: usize) -> Option<u16> {
        let b = <[u8; 2]>::try_from(self.bytes.get(i..i + 2)?).ok()?;
        Some(if self.little { u16::from_le_bytes(b) } else { u16::from_be_bytes(b) })
    }

    fn u32_at(&self, i: usize) -> Option<u32> {
        let b = <[u8; 4]>::try_from(self.bytes.get(i..i + 4)?).ok()?;
        Some(if self.little { u32::from_le_bytes(b) } else { u32::from_be_bytes(b) })
    }

    /// Gives a tag of one short number another value; none where the tag is not there.
    fn set(&mut self, tag: Tag, value: u16) -> Option<()> {
        let entry = self.entries.iter().copied().find(|e| self.u16_at(*e) == Some(tag.to_u16()))?;
        let value = if self.little { value.to_le_bytes() } else { value.to_be_bytes() };
        self.bytes.get_mut(entry + 8..entry + 10)?.copy_from_slice(&value);
        Some(())
    }
}

/// The same file with its first picture's colours called grey instead of a table's; none where that is not found.
fn grey_of(bytes: &[u8]) -> Option<Vec<u8>> {
    let mut out = Patched::new(bytes)?;
    out.set(Tag::PhotometricInterpretation, BLACK_IS_ZERO)?;
    Some(out.bytes)
}

/// The same file with the bits of its first picture's bytes the usual way round, where it has them the other (as faxes do), which `tiff` does not
/// ask; none where they are, or are a JPEG's, or where they lie is not found.
pub(crate) fn bits_turned(bytes: &[u8]) -> Option<Vec<u8>> {
    const LOWEST_FIRST: u32 = 2;
    const JPEG: u32 = 7;
    if number(bytes, Tag::FillOrder) != Some(LOWEST_FIRST) || number(bytes, Tag::Compression) == Some(JPEG) {
        return None;
    }
    let mut d = Decoder::new(Cursor::new(bytes)).ok()?;
    let mut all = |tag| d.find_tag_unsigned_vec::<u64>(tag).ok().flatten();
    let places = all(Tag::StripOffsets).zip(all(Tag::StripByteCounts)).or_else(|| all(Tag::TileOffsets).zip(all(Tag::TileByteCounts)));
    let (starts, lengths) = places?;
    let mut out = Patched::new(bytes)?;
    out.set(Tag::FillOrder, 1)?;
    let end = |start: u64, length: u64| Some((usize::try_from(start).ok()?, usize::try_from(start.checked_add(length)?).ok()?.min(bytes.len())));
    let mut parts: Vec<(usize, usize)> = starts.into_iter().zip(lengths).map(|(s, l)| end(s, l)).collect::<Option<_>>()?;
    parts.sort_unstable();
    // Pieces that lie on one another are turned once.
    let mut done = 0;
    for (start, end) in parts {
        out.bytes.get_mut(start.max(done)..end).into_iter().flatten().for_each(|b| *b = b.reverse_bits());
        done = done.max(end);
    }
    Some(out.bytes)
}

/// Takes the alpha that was multiplied into a picture's colours out of them again, where the file says that it was.
pub(crate) fn straight_alpha(bytes: &[u8], picture: &mut DynamicImage) {
    const ASSOCIATED: u16 = 1;
    let first = || Decoder::new(Cursor::new(bytes)).ok()?.find_tag_unsigned_vec::<u16>(Tag::ExtraSamples).ok()??.first().copied();
    if first() != Some(ASSOCIATED) {
        return;
    }
    match picture {
        DynamicImage::ImageRgba8(p) => p.pixels_mut().for_each(|p| {
            let a = u32::from(p[3]).max(1);
            (0..3).for_each(|k| p[k] = ((u32::from(p[k]) * 255 + a / 2) / a).min(255) as u8);
        }),
        DynamicImage::ImageRgba16(p) => p.pixels_mut().for_each(|p| {
            let a = u64::from(p[3]).max(1);
            (0..3).for_each(|k| p[k] = ((u64::from(p[k]) * 65535 + a / 2) / a).min(65535) as u16);
        }),
        _ => {}
    }
}

/// In words why a TIFF is of no kind that is read; none where nothing of it says so.
pub(crate) fn why(bytes: &[u8]) -> Option<ReadError> {
    let tag = |t| number(bytes, t);
    let compression = match tag(Tag::Compression)? {
        2 | 3 => "fax, group 3",
        6 => "old-style JPEG",
        34712 => "JPEG 2000",
        34925 => "LZMA",
        50000 => "Zstandard",
        50001 => "WebP",
        _ => "",
    };
    if !compression.is_empty() {
        return Some(ReadError::Kind(format!("its compression ({compression}) is not read; save it with LZW or none, or as PNG")));
    }
    if matches!(tag(Tag::PhotometricInterpretation)?, 8..=10) {
        return Some(ReadError::Kind("its colours are in CIELab, which is not read; save it as grey or RGB".into()));
    }
    let mut d = Decoder::new(Cursor::new(bytes)).ok()?;
    let all = |d: &mut Decoder<_>, t, otherwise| d.find_tag_unsigned_vec::<u16>(t).ok().flatten().unwrap_or(vec![otherwise]);
    if all(&mut d, Tag::SampleFormat, 1).iter().any(|f| *f != 1) {
        return Some(ReadError::Kind("its pixels are signed or fractional numbers, which is not read; save it with 8 or 16 bits".into()));
    }
    let bits = all(&mut d, Tag::BitsPerSample, 1);
    let odd = bits.iter().find(|b| !matches!(**b, 1 | 2 | 4 | 8 | 16))?;
    Some(ReadError::Kind(format!("it has {odd} bits a channel, which is not read; save it with 8 or 16")))
}
