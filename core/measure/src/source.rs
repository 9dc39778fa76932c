//! What a picture is and how much of that is known: its kind, its light and its resolution, each with where it is from.
//!
//! Made where the file is read (`core/formats`); nothing that measures guesses it again.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a picture is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// Made by a program.
    #[default]
    Drawing,
    Scan,
    Photo,
}

impl Kind {
    /// By its name, as manifests and guides have it.
    pub fn by_name(name: &str) -> Option<Self> {
        match name.trim() {
            "drawing" => Some(Self::Drawing),
            "scan" => Some(Self::Scan),
            "photo" => Some(Self::Photo),
            _ => None,
        }
    }
}

/// How a file's values stand for light.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Light {
    /// By its ICC profile.
    Icc,
    /// By its code points (ITU-T H.273).
    Cicp,
    /// By its exponent, and its primaries where it has them.
    Gamma,
    #[default]
    Srgb,
}

/// Where a fact is from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Origin {
    File,
    /// From the pixels.
    Measured,
    /// By a person.
    Stated,
    #[default]
    Assumed,
}

/// Where the facts of a source are from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Origins {
    pub kind: Origin,
    pub light: Origin,
    /// Absent where no resolution is known, and none is needed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resolution: Option<Origin>,
}

/// What was given.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Source {
    pub kind: Kind,
    pub light: Light,
    pub from: Origins,
    /// What was assumed, in words.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub assumed: Vec<String>,
}
