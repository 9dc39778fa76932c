//! The light that a picture file's values stand for, brought to sRGB.
//!
//! How: an ICC profile (RGB or grey, by moxcms), else PNG's code points (ITU-T H.273), its sRGB mark, or its exponent with its primaries; else
//! sRGB, which is assumed. 16 bits are kept. Limits: CMYK is refused, and profiles over [`PROFILE_BYTES`].

use std::io::Cursor;

use eddymist_measure::source::{Light, Origin};
use image::{DynamicImage, ImageBuffer};
use moxcms::{
    Chromaticity, CicpColorPrimaries, CicpProfile, ColorPrimaries, ColorProfile, DataColorSpace, Layout, MatrixCoefficients, RenderingIntent, ToneReprCurve,
    TransferCharacteristics, TransformOptions, XyY,
};

use crate::{ReadError, limits::told};

/// A profile may have so many bytes: tables for printing presses have two million.
const PROFILE_BYTES: usize = 8 << 20;

fn unusable(why: &str) -> ReadError {
    ReadError::Kind(format!("its colour profile cannot be used ({}); save the picture in sRGB", told(why)))
}

/// The light that a file states, and where that is from.
pub(crate) struct Stated {
    profile: Option<ColorProfile>,
    pub light: Light,
    pub from: Origin,
}

impl Stated {
    pub(crate) const SRGB: Self = Self { profile: None, light: Light::Srgb, from: Origin::Assumed };

    /// By an ICC profile.
    pub(crate) fn icc(bytes: &[u8], from: Origin) -> Result<Self, ReadError> {
        if bytes.len() > PROFILE_BYTES {
            return Err(unusable("it is too large"));
        }
        let mut profile = ColorProfile::new_from_slice(bytes).map_err(|_| unusable("it is damaged"))?;
        // Where there is no table for the colours as they are measured, the first is for all purposes (ICC.1:2010, 9.1); scanners' profiles have it alone.
        if profile.lut_a_to_b_colorimetric.is_none() {
            profile.lut_a_to_b_colorimetric = profile.lut_a_to_b_perceptual.clone();
        }
        match profile.color_space {
            DataColorSpace::Rgb | DataColorSpace::Gray => Ok(Self { profile: Some(profile), light: Light::Icc, from }),
            DataColorSpace::Cmyk => Err(ReadError::Kind("this picture is in CMYK, for a press; save it as RGB or grey".into())),
            _ => Err(unusable("it is neither for RGB nor for grey")),
        }
    }

    /// By what a PNG says beside a profile.
    pub(crate) fn png(bytes: &[u8]) -> Self {
        let Ok(reader) = png::Decoder::new(Cursor::new(bytes)).read_info() else { return Self::SRGB };
        let info = reader.info();
        if let Some(p) = info.coding_independent_code_points.as_ref().and_then(|c| {
            let cicp = CicpProfile {
                color_primaries: CicpColorPrimaries::try_from(c.color_primaries).ok()?,
                transfer_characteristics: TransferCharacteristics::try_from(c.transfer_function).ok()?,
                matrix_coefficients: MatrixCoefficients::Bt709,
                full_range: true,
            };
            // Code points that say nothing give a profile without curves.
            Some(ColorProfile::new_from_cicp(cicp)).filter(|p| p.red_trc.is_some())
        }) {
            return Self { profile: Some(p), light: Light::Cicp, from: Origin::File };
        }
        if info.srgb.is_some() {
            return Self { from: Origin::File, ..Self::SRGB };
        }
        // As W3C PNG has it: the encoding's exponent, about 1/2.2 in nearly every file, where sRGB is meant.
        let Some(gamma) = info.gama_chunk.map(|g| g.into_value()).filter(|g| (0.1..=2.0).contains(g)) else { return Self::SRGB };
        let primaries = info.chrm_chunk;
        if (gamma - 0.45455).abs() < 0.005
            && primaries.is_none_or(|p| (p.green.0.into_value() - 0.3).abs() < 0.01 && (p.red.0.into_value() - 0.64).abs() < 0.01)
        {
            return Self { from: Origin::File, ..Self::SRGB };
        }
        let mut p = ColorProfile::new_srgb();
        p.cicp = None;
        if let Some(c) = primaries {
            let at = |(x, y): (png::ScaledFloat, png::ScaledFloat)| Chromaticity { x: x.into_value(), y: y.into_value() };
            let (x, y) = (f64::from(c.white.0.into_value()), f64::from(c.white.1.into_value()));
            p.update_rgb_colorimetry(XyY { x, y, yb: 1.0 }, ColorPrimaries { red: at(c.red), green: at(c.green), blue: at(c.blue) });
        }
        let curve = ToneReprCurve::Parametric(vec![1.0 / gamma]);
        (p.red_trc, p.green_trc, p.blue_trc) = (Some(curve.clone()), Some(curve.clone()), Some(curve));
        Self { profile: Some(p), light: Light::Gamma, from: Origin::File }
    }

    /// The picture in sRGB; with 16 bits where its values had to be changed.
    pub(crate) fn srgb(&self, picture: DynamicImage) -> Result<DynamicImage, ReadError> {
        let Some(profile) = &self.profile else { return Ok(picture) };
        let grey = profile.color_space == DataColorSpace::Gray;
        // A grey profile says nothing of colours: some programs leave it behind.
        if grey && picture.color().has_color() {
            return Ok(picture);
        }
        let alpha = picture.color().has_alpha();
        let to = ColorProfile::new_srgb();
        let options = TransformOptions { rendering_intent: RenderingIntent::RelativeColorimetric, allow_use_cicp_transfer: false, ..Default::default() };
        let (w, h) = (picture.width(), picture.height());
        let transform = |from: Layout, into: Layout, data: Vec<u16>, channels: usize| -> Result<Vec<u16>, ReadError> {
            let t = profile.create_transform_16bit(from, &to, into, options).map_err(|e| unusable(&e.to_string()))?;
            let pixels = data.len() / channels;
            let mut out = vec![0u16; pixels * if alpha { 4 } else { 3 }];
            // By rows, so that no transform holds the whole once more.
            let (a, b) = (channels * w as usize, out.len() / h.max(1) as usize);
            for (src, dst) in data.chunks(a).zip(out.chunks_mut(b)) {
                t.transform(src, dst).map_err(|e| unusable(&e.to_string()))?;
            }
            Ok(out)
        };
        if !grey && is_srgb(profile, &to, options)? {
            return Ok(picture);
        }
        let data = match (grey, alpha) {
            (true, false) => transform(Layout::Gray, Layout::Rgb, picture.into_luma16().into_raw(), 1)?,
            (true, true) => transform(Layout::GrayAlpha, Layout::Rgba, picture.into_luma_alpha16().into_raw(), 2)?,
            (false, false) => transform(Layout::Rgb, Layout::Rgb, picture.into_rgb16().into_raw(), 3)?,
            (false, true) => transform(Layout::Rgba, Layout::Rgba, picture.into_rgba16().into_raw(), 4)?,
        };
        let made = if alpha {
            ImageBuffer::from_raw(w, h, data).map(DynamicImage::ImageRgba16)
        } else {
            ImageBuffer::from_raw(w, h, data).map(DynamicImage::ImageRgb16)
        };
        made.ok_or_else(|| ReadError::Damaged("its rows do not fit its sides".into()))
    }
}

/// Whether a profile says sRGB, to half a level of 8 bits: most do, and nothing is to be changed.
fn is_srgb(profile: &ColorProfile, to: &ColorProfile, options: TransformOptions) -> Result<bool, ReadError> {
    let t = profile.create_transform_16bit(Layout::Rgb, to, Layout::Rgb, options).map_err(|e| unusable(&e.to_string()))?;
    let levels = [0u16, 2570, 8000, 20000, 32768, 45000, 60000, 65535];
    let src: Vec<u16> = levels.iter().flat_map(|a| levels.iter().flat_map(move |b| levels.map(|c| [*a, *b, c]))).flatten().collect();
    let mut dst = vec![0u16; src.len()];
    t.transform(&src, &mut dst).map_err(|e| unusable(&e.to_string()))?;
    Ok(src.iter().zip(&dst).all(|(a, b)| a.abs_diff(*b) <= 140))
}
