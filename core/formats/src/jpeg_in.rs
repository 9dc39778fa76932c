//! The pixels of a JPEG, all of them: a file that was cut short or whose data are damaged is refused, where most decoders fill up what is missing
//! with grey.
//!
//! Limits: damage that happens to be code again is not seen; bytes that stand between the headers are passed over if the file has its end.
//! Source: ITU-T T.81, B.1.1 (markers).

use image::{DynamicImage, GrayImage, RgbImage};
use zune_jpeg::{
    JpegDecoder,
    errors::DecodeErrors,
    zune_core::{bytestream::ZCursor, colorspace::ColorSpace, options::DecoderOptions},
};

use crate::{ReadError, heads::jpeg_components, limits::told};

pub(crate) fn read(bytes: &[u8], width: u32, height: u32) -> Result<DynamicImage, ReadError> {
    let grey = jpeg_components(bytes) == Some(1);
    let decoded = |strict: bool| -> Result<Vec<u8>, DecodeErrors> {
        let options = DecoderOptions::default().set_strict_mode(strict).set_max_width(width as usize).set_max_height(height as usize);
        let options = options.jpeg_set_out_colorspace(if grey { ColorSpace::Luma } else { ColorSpace::RGB });
        JpegDecoder::new_with_options(ZCursor::new(bytes), options).decode()
    };
    if !ends(bytes) {
        return Err(ReadError::Damaged(NO_END.into()));
    }
    let data = decoded(true).or_else(|e| if untidy(&e) { decoded(false) } else { Err(e) });
    let data = data.map_err(|e| ReadError::Damaged(told(plain(&e))))?;
    let picture = if grey {
        GrayImage::from_raw(width, height, data).map(DynamicImage::ImageLuma8)
    } else {
        RgbImage::from_raw(width, height, data).map(DynamicImage::ImageRgb8)
    };
    picture.ok_or_else(|| ReadError::Damaged("it has fewer pixels than its sides say".into()))
}

const NO_END: &str = "its end is missing; copy or save it again";

/// What is untidy, but no damage.
fn untidy(e: &DecodeErrors) -> bool {
    e.to_string().contains("Extra bytes between headers")
}

fn plain(e: &DecodeErrors) -> String {
    match e {
        DecodeErrors::ExhaustedData => NO_END.into(),
        e => e.to_string().trim_matches('"').to_string(),
    }
}

/// Whether the marker of its end stands after its last data begin: a small picture within the headers has its own.
fn ends(b: &[u8]) -> bool {
    let is = |marker: u8| move |w: &[u8]| w == [0xFF, marker];
    b.windows(2).rposition(is(0xDA)).is_some_and(|i| b[i..].windows(2).any(is(0xD9)))
}
