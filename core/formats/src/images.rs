//! Pictures: PNG, TIFF and JPEG in, PNG out, with their resolution; in sRGB, the right way up.

use std::io::Cursor;

use eddymist_measure::{
    colour::linear,
    scan::Scan,
    source::{Kind, Light, Origin, Origins, Source},
};
use image::{DynamicImage, ExtendedColorType, ImageDecoder, ImageFormat, ImageReader, metadata::Orientation};

use crate::{
    Given, Limits, ReadError,
    heads::{self, camera, format, jpeg_components},
    jpeg_in,
    kind::FileSigns,
    light::Stated,
    tiff_in,
};
pub use crate::{
    heads::{dimensions, resolution, resolutions},
    png_out::{PngKind, write_png, write_png_in_bands},
};

/// A picture of 8-bit sRGB with straight alpha.
#[derive(Debug, Clone, PartialEq)]
pub struct Rgba {
    pub width: usize,
    pub height: usize,
    pub data: Vec<u8>,
}

/// A layer: its name, where it has one, and its picture.
pub type NamedPicture = (Option<String>, Rgba);

/// A picture as its file has it: in sRGB, the right way up.
pub(crate) struct Opened {
    pub picture: DynamicImage,
    pub light: Light,
    pub light_from: Origin,
    pub signs: FileSigns,
}

/// Decodes a picture, turns it as its EXIF data says and brings it to sRGB by the profile that was given, else by the light that it states.
pub(crate) fn open(bytes: &[u8], icc: Option<&[u8]>, limits: &Limits) -> Result<Opened, ReadError> {
    let (w, h) = dimensions(bytes, limits)?;
    let kind = format(bytes)?;
    let turned = Some(bytes).filter(|_| kind == ImageFormat::Tiff).and_then(tiff_in::bits_turned);
    let bytes = turned.as_deref().unwrap_or(bytes);
    let signs = FileSigns { jpeg: kind == ImageFormat::Jpeg, resolution: resolution(bytes).is_some_and(|d| d >= LEAST_SCAN_DPI), ..camera(bytes) };
    let brought = |stated: Stated, mut picture: DynamicImage, turn: Orientation| -> Result<Opened, ReadError> {
        picture.apply_orientation(turn);
        if kind == ImageFormat::Tiff {
            tiff_in::straight_alpha(bytes, &mut picture);
        }
        Ok(Opened { picture: stated.srgb(picture)?, light: stated.light, light_from: stated.from, signs })
    };
    if kind == ImageFormat::Tiff
        && let Some(picture) = tiff_in::read(bytes, limits)?
    {
        return brought(stated_light(kind, bytes, icc, || None)?, picture, tiff_in::turn(bytes));
    }
    let unread = |e| Some(bytes).filter(|_| kind == ImageFormat::Tiff).and_then(tiff_in::why).unwrap_or_else(|| heads::unread(e));
    let mut reader = ImageReader::with_format(Cursor::new(bytes), kind);
    let mut allowed = image::Limits::default();
    // Four channels of 16 bits, and what a decoder needs beside them.
    allowed.max_alloc = Some(u64::from(w) * u64::from(h) * 8 + (1 << 26));
    reader.limits(allowed);
    let mut decoder = reader.into_decoder().map_err(unread)?;
    if matches!(decoder.original_color_type(), ExtendedColorType::Cmyk8 | ExtendedColorType::Cmyk16)
        || kind == ImageFormat::Jpeg && jpeg_components(bytes) == Some(4)
    {
        return Err(ReadError::Kind("this picture is in CMYK, for a press; save it as RGB or grey".into()));
    }
    let stated = stated_light(kind, bytes, icc, || decoder.icc_profile().ok().flatten())?;
    let turn = decoder.orientation().unwrap_or(Orientation::NoTransforms);
    let picture = match kind {
        ImageFormat::Jpeg => jpeg_in::read(bytes, w, h)?,
        _ => DynamicImage::from_decoder(decoder).map_err(unread)?,
    };
    brought(stated, picture, turn)
}

/// The light of a given profile, else that a file states: its own profile's, else what a PNG says beside one.
fn stated_light(kind: ImageFormat, bytes: &[u8], icc: Option<&[u8]>, own: impl FnOnce() -> Option<Vec<u8>>) -> Result<Stated, ReadError> {
    if let Some(profile) = icc {
        return Stated::icc(profile, Origin::Stated);
    }
    let profile = match kind {
        // Written as bytes or as data of no type: both are read here.
        ImageFormat::Tiff => tiff::decoder::Decoder::new(Cursor::new(bytes)).ok().and_then(|mut d| d.get_tag_u8_vec(tiff::tags::Tag::IccProfile).ok()),
        _ => own(),
    };
    match profile.filter(|p| !p.is_empty()) {
        Some(profile) => Stated::icc(&profile, Origin::File),
        None if kind == ImageFormat::Png => Ok(Stated::png(bytes)),
        None => Ok(Stated::SRGB),
    }
}

pub(crate) fn decode(bytes: &[u8], limits: &Limits) -> Result<DynamicImage, ReadError> {
    open(bytes, None, limits).map(|o| o.picture)
}

/// A file that states at least this may be a scanner's.
const LEAST_SCAN_DPI: f64 = 100.0;

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
    scan_of(bytes, &Given::dpi(dpi.map(|d| [d; 2])), limits)
}

/// The same with all that can be given, the dpi of both axes with it; where one number is given for both, the file says how they differ. A picture whose axes differ is
/// brought to the finer one's resolution.
pub fn scan_of(bytes: &[u8], given: &Given, limits: &Limits) -> Result<Scan, ReadError> {
    format(bytes)?;
    dimensions(bytes, limits)?;
    let own = resolutions(bytes);
    let dpi = match (given.dpi, own) {
        (Some([a, b]), Some([x, y])) if a == b => [a * x / x.max(y), a * y / x.max(y)],
        (Some(d), _) => d,
        (None, own) => own.ok_or(ReadError::NoResolution)?,
    };
    let picture = open(bytes, given.icc.as_deref(), limits)?.picture;
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    // Axes that are far apart would make a picture many times as large.
    let [w, h] = even_sides([width, height], dpi);
    limits.picture(w as u64, h as u64)?;
    // Rec. 709 luminance of linear light; where the picture is clear, paper shows through.
    let table: Vec<f32> = (0..256).map(|v| linear(v as f32 / 255.0)).collect();
    let fine: Vec<f32> = if picture.as_rgb16().is_some() || picture.as_rgba16().is_some() || picture.as_luma16().is_some() {
        (0..=65535).map(|v| linear(v as f32 / 65535.0)).collect()
    } else {
        Vec::new()
    };
    let light = |r: f32, g: f32, b: f32| 0.2126 * r + 0.7152 * g + 0.0722 * b;
    let over = |y: f32, a: f32| y * a + 1.0 - a;
    let data = match picture {
        DynamicImage::ImageLuma8(p) => p.into_raw().into_iter().map(|v| table[v as usize]).collect(),
        DynamicImage::ImageLuma16(p) => p.into_raw().into_iter().map(|v| fine[v as usize]).collect(),
        DynamicImage::ImageRgb8(p) => p.pixels().map(|p| light(table[p[0] as usize], table[p[1] as usize], table[p[2] as usize])).collect(),
        DynamicImage::ImageRgb16(p) => p.pixels().map(|p| light(fine[p[0] as usize], fine[p[1] as usize], fine[p[2] as usize])).collect(),
        DynamicImage::ImageRgba16(p) => {
            p.pixels().map(|p| over(light(fine[p[0] as usize], fine[p[1] as usize], fine[p[2] as usize]), f32::from(p[3]) / 65535.0)).collect()
        }
        p => p.into_rgba8().pixels().map(|p| over(light(table[p[0] as usize], table[p[1] as usize], table[p[2] as usize]), f32::from(p[3]) / 255.0)).collect(),
    };
    Ok(even_axes(Scan { width, height, data, dpi: dpi[0].max(dpi[1]) }, dpi))
}

/// What is known of a scan: its light as the file has it, and where its resolution is from.
pub fn scan_source(bytes: &[u8], given: &Given, limits: &Limits) -> Result<Source, ReadError> {
    dimensions(bytes, limits)?;
    let format = format(bytes)?;
    let own = || ImageReader::with_format(Cursor::new(bytes), format).into_decoder().ok()?.icc_profile().ok().flatten();
    let light = stated_light(format, bytes, given.icc.as_deref(), own)?;
    let mut source = Source {
        kind: if camera(bytes).camera { Kind::Photo } else { Kind::Scan },
        light: light.light,
        from: Origins { kind: Origin::Assumed, light: light.from, resolution: Some(if given.dpi.is_some() { Origin::Stated } else { Origin::File }) },
        assumed: vec!["taken for a scan: that is what is asked for here".into()],
    };
    if let Some(kind) = given.kind {
        (source.kind, source.from.kind, source.assumed) = (kind, Origin::Stated, Vec::new());
    } else if source.kind == Kind::Photo {
        (source.from.kind, source.assumed) = (Origin::File, Vec::new());
    }
    if source.from.light == Origin::Assumed {
        source.assumed.push(ASSUMED_SRGB.into());
    }
    source.assumed.extend(further(bytes));
    Ok(source)
}

/// What is said of a file that holds more than the one picture that is read.
pub(crate) fn further(bytes: &[u8]) -> Option<String> {
    Some(bytes).filter(|b| tiff_in::is_tiff(b)).and_then(tiff_in::further)
}

/// Said where a file does not state its light.
pub(crate) const ASSUMED_SRGB: &str = "its light is taken as sRGB: the file does not say";

/// Axes that differ by less than this are the same but for rounding.
const SAME_AXES: f64 = 0.003;

/// The sides of a scan whose axes have the finer one's resolution.
fn even_sides(sides: [usize; 2], dpi: [f64; 2]) -> [usize; 2] {
    let finer = dpi[0].max(dpi[1]);
    [0, 1].map(|k| (sides[k] as f64 * finer / dpi[k]).round().max(1.0) as usize)
}

/// A scan whose axes have one resolution: the coarser is read between its pixels, which keeps the ink that a line has across.
fn even_axes(s: Scan, dpi: [f64; 2]) -> Scan {
    let finer = dpi[0].max(dpi[1]);
    let [w, h] = even_sides([s.width, s.height], dpi);
    if (dpi[0] - dpi[1]).abs() < SAME_AXES * finer {
        return s;
    }
    // Pixel centres lie at .5 in either.
    let between = |n: usize, of: usize| -> Vec<(usize, usize, f32)> {
        (0..n)
            .map(|i| {
                let at = ((i as f64 + 0.5) * of as f64 / n as f64 - 0.5).clamp(0.0, (of - 1) as f64);
                let k = at as usize;
                (k, (k + 1).min(of - 1), (at - k as f64) as f32)
            })
            .collect()
    };
    let (columns, rows) = (between(w, s.width), between(h, s.height));
    let mut data = Vec::with_capacity(w * h);
    for (a, b, t) in rows {
        let (above, below) = (&s.data[a * s.width..(a + 1) * s.width], &s.data[b * s.width..(b + 1) * s.width]);
        data.extend(columns.iter().map(|(l, r, u)| {
            let (top, low) = (above[*l] + u * (above[*r] - above[*l]), below[*l] + u * (below[*r] - below[*l]));
            top + t * (low - top)
        }));
    }
    Scan { width: w, height: h, data, dpi: finer }
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
            return Err(ReadError::Kind("no tip can be seen: dark on light is needed, or coverage as alpha".into()));
        }
        light.iter().map(|v| ((paper - v) / (paper - ink)).clamp(0.0, 1.0)).map(|c| if c < GRAIN { 0.0 } else { c }).collect()
    };
    if coverage.iter().all(|c| *c < GRAIN) {
        return Err(ReadError::Kind("the picture is clear throughout: no tip can be seen".into()));
    }
    Ok(eddymist_ink::kinds::level::picture(&eddymist_ink::picture::Picture { width, height, coverage, px_mm: None }))
}
