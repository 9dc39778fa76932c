//! What a person says of a picture: it stands, whatever the file says.

use eddymist_measure::source::{Kind, Origin};
use serde::{Deserialize, Serialize};

use crate::{ReadError, light::Stated};

/// What was said of a picture; what was not is found in its file, measured or assumed.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Given {
    pub kind: Option<Kind>,
    /// Across and down.
    pub dpi: Option<[f64; 2]>,
    /// An ICC profile, in the place of whatever light the file states. Of PNG, TIFF and JPEG alone: layers and vectors are in sRGB.
    pub icc: Option<Vec<u8>>,
}

impl Given {
    pub fn dpi(dpi: Option<[f64; 2]>) -> Self {
        Self { dpi, ..Self::default() }
    }

    /// A profile that can be used; the error says why one cannot.
    pub fn profile(bytes: Vec<u8>) -> Result<Vec<u8>, ReadError> {
        Stated::icc(&bytes, Origin::Stated).map(|_| bytes)
    }

    pub fn kind(kind: Option<Kind>) -> Self {
        Self { kind, ..Self::default() }
    }
}
