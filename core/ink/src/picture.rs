//! Pictures that a brush carries: PNG in a data URI, taken as coverage alone.

use base64::{Engine, engine::general_purpose::STANDARD};

/// Coverage 0…1 row by row.
#[derive(Debug, Clone, PartialEq)]
pub struct Picture {
    pub width: usize,
    pub height: usize,
    pub coverage: Vec<f32>,
    /// Size of a pixel, where the file states its resolution.
    pub px_mm: Option<f64>,
}

/// Why a picture cannot be read.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum PictureError {
    #[error("the picture is missing: a PNG in a data URI (data:image/png;base64,…) is needed")]
    Missing,
    #[error("the picture is no readable PNG: {0}")]
    Png(String),
    #[error("the picture has {0} pixels; at most 4 million are read")]
    TooLarge(u64),
}

const MOST_PIXELS: u64 = 4_000_000;

impl Picture {
    /// Reads a PNG: coverage is its alpha where it has any that is not full, else how dark it is; colour does not count.
    pub fn read(uri: &str) -> Result<Self, PictureError> {
        let text = uri.strip_prefix("data:image/png;base64,").ok_or(PictureError::Missing)?;
        let bytes = STANDARD.decode(text.trim()).map_err(|e| PictureError::Png(e.to_string()))?;
        let bad = |e: png::DecodingError| PictureError::Png(e.to_string());
        let mut decoder = png::Decoder::new(std::io::Cursor::new(bytes));
        decoder.set_transformations(png::Transformations::normalize_to_color8() | png::Transformations::ALPHA);
        let mut reader = decoder.read_info().map_err(bad)?;
        let (width, height) = (reader.info().width as usize, reader.info().height as usize);
        let pixels = width as u64 * height as u64;
        if pixels > MOST_PIXELS {
            return Err(PictureError::TooLarge(pixels));
        }
        let px_mm = reader.info().pixel_dims.filter(|d| d.unit == png::Unit::Meter && d.xppu > 0).map(|d| 1000.0 / f64::from(d.xppu));
        let mut data = vec![0; reader.output_buffer_size().ok_or_else(|| PictureError::Png("its size overflows".into()))?];
        let frame = reader.next_frame(&mut data).map_err(bad)?;
        let channels = frame.color_type.samples();
        let data = &data[..frame.buffer_size()];
        let by_alpha = data.chunks_exact(channels).any(|p| p[channels - 1] < 255);
        let dark = |p: &[u8]| 1.0 - p[..channels - 1].iter().map(|v| f32::from(*v)).sum::<f32>() / (255.0 * (channels - 1).max(1) as f32);
        let coverage = data.chunks_exact(channels).map(|p| if by_alpha { f32::from(p[channels - 1]) / 255.0 } else { dark(p) }).collect();
        Ok(Self { width, height, coverage, px_mm })
    }

    /// A grey PNG in a data URI, dark where it is covered, its resolution in it where it is known.
    pub fn write(&self) -> Result<String, PictureError> {
        let bad = |e: png::EncodingError| PictureError::Png(e.to_string());
        let mut bytes = Vec::new();
        let mut encoder = png::Encoder::new(&mut bytes, self.width as u32, self.height as u32);
        encoder.set_color(png::ColorType::Grayscale);
        if let Some(px_mm) = self.px_mm {
            let xppu = (1000.0 / px_mm).round() as u32;
            encoder.set_pixel_dims(Some(png::PixelDimensions { xppu, yppu: xppu, unit: png::Unit::Meter }));
        }
        let data: Vec<u8> = self.coverage.iter().map(|c| (255.0 * (1.0 - c)).round() as u8).collect();
        let mut writer = encoder.write_header().map_err(bad)?;
        writer.write_image_data(&data).map_err(bad)?;
        writer.finish().map_err(bad)?;
        Ok(format!("data:image/png;base64,{}", STANDARD.encode(bytes)))
    }
}
