//! The course: effort along a stroke where no stylus gave one, or where the artist wants their own.
//!
//! How: over the share u of the length *even* is 0.5, *rise* u, *fall* 1 − u, *swell* sin(πu); or a curve through knots. Limits: it says nothing
//! of speed, so that pace needs times of its own.

use crate::curve::{Curve, CurveError};

/// Effort 0…1 over the share u of the stroke's length.
#[derive(Debug, Clone, PartialEq)]
pub enum Course {
    /// Effort 0.5 throughout.
    Even,
    /// Effort u.
    Rise,
    /// Effort 1 − u.
    Fall,
    /// Effort sin(πu).
    Swell,
    /// A monotone cubic through knots `[u, effort]`.
    Drawn(Curve),
}

/// Why a course cannot be used.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum CourseError {
    #[error("a course is rise, swell, fall, even, or JSON knots such as [[0,0.2],[1,1]]; “{0}” is none of them")]
    Unknown(String),
    #[error("the course's knots: {0}")]
    Knots(#[from] CurveError),
    #[error("the course's knots must lie between 0 and 1, share and effort both")]
    Range,
}

impl Course {
    /// Reads a named course or JSON knots.
    pub fn parse(text: &str) -> Result<Self, CourseError> {
        match text.trim() {
            "even" => Ok(Self::Even),
            "rise" => Ok(Self::Rise),
            "fall" => Ok(Self::Fall),
            "swell" => Ok(Self::Swell),
            other => {
                let knots: Vec<[f64; 2]> = serde_json::from_str(other).map_err(|_| CourseError::Unknown(other.to_string()))?;
                if knots.iter().flatten().any(|v| !(0.0..=1.0).contains(v)) {
                    return Err(CourseError::Range);
                }
                Ok(Self::Drawn(Curve::new(&knots)?))
            }
        }
    }

    /// Effort at the share `u` of the length.
    pub fn effort(&self, u: f64) -> f64 {
        match self {
            Self::Even => 0.5,
            Self::Rise => u,
            Self::Fall => 1.0 - u,
            Self::Swell => (std::f64::consts::PI * u).sin().max(0.0),
            Self::Drawn(c) => c.value(u),
        }
    }
}
