//! The drawings that a team is looked at by: who drew them with what, when, and what they weigh.
//!
//! How: in the order drawn, by dates where all have one, else by the day they came in on and their names. Limits: a date is told from its
//! form, not looked up.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::measured::{Measured, MeasuredRole};
use crate::document::Manifest;

/// One weighed drawing, its current take.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    pub id: String,
    pub file: String,
    pub delivery: String,
    pub manifest: Manifest,
    /// When it came in, ISO 8601.
    pub added_at: String,
    pub measured: Measured,
}

/// What drawings are group by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum By {
    #[default]
    Artist,
    Tablet,
    Brush,
}

impl By {
    pub fn name(self) -> &'static str {
        match self {
            Self::Artist => "artist",
            Self::Tablet => "tablet",
            Self::Brush => "brush",
        }
    }
}

impl Entry {
    /// A column of its manifest, where it says something.
    pub fn known(&self, column: &str) -> Option<&str> {
        self.manifest.get(column).map(|v| v.trim()).filter(|v| !v.is_empty())
    }

    /// When it was drawn, where the manifest gives a date (`2026-11-24`, with a time after it or without).
    pub fn drawn_at(&self) -> Option<&str> {
        self.known("drawn_at").filter(|d| is_date(d))
    }

    /// The day of the drawing, else the day on which it came in.
    pub fn day(&self) -> &str {
        let at = self.drawn_at().unwrap_or(&self.added_at);
        at.get(..10).unwrap_or(at)
    }

    pub fn role(&self, role: &str) -> Option<&MeasuredRole> {
        self.measured.role(role)
    }
}

/// Whether a text starts with a date that the calendar has.
pub fn is_date(text: &str) -> bool {
    let Some(d) = text.get(..10).map(str::as_bytes) else { return false };
    let digits = |r: std::ops::Range<usize>| d[r].iter().try_fold(0u32, |n, c| c.is_ascii_digit().then(|| n * 10 + u32::from(c - b'0')));
    let (Some(year), Some(month), Some(day)) = (digits(0..4), digits(5..7), digits(8..10)) else { return false };
    let leap = year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
    let most = match month {
        1 | 3 | 5 | 7 | 8 | 10 | 12 => 31,
        4 | 6 | 9 | 11 => 30,
        2 => 28 + u32::from(leap),
        _ => 0,
    };
    d[4] == b'-' && d[7] == b'-' && (1..=most).contains(&day)
}

/// Puts drawings into the order drawn: by their dates where all have one; else by the day they came in on and their names.
pub fn in_order(entries: &mut [&Entry]) {
    if entries.iter().all(|e| e.drawn_at().is_some()) {
        entries.sort_by(|a, b| a.drawn_at().cmp(&b.drawn_at()).then_with(|| natord::compare(&a.file, &b.file)));
    } else {
        entries.sort_by(|a, b| (a.added_at.get(..10), &a.delivery).cmp(&(b.added_at.get(..10), &b.delivery)).then_with(|| natord::compare(&a.file, &b.file)));
    }
}

/// Which drawings are looked at. What is absent holds back none.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub struct Span {
    pub shot: Option<String>,
    /// First and last day, `2026-11-24`.
    pub from: Option<String>,
    pub to: Option<String>,
}

impl Span {
    /// Says what is wrong with the days.
    pub fn validate(&self) -> Result<(), String> {
        for d in [&self.from, &self.to].into_iter().flatten() {
            if !is_date(d) || d.len() != 10 {
                return Err(format!("“{d}” is no day; write it as 2026-11-24"));
            }
        }
        match (&self.from, &self.to) {
            (Some(a), Some(b)) if a > b => Err(format!("the span ends on {b}, before it begins on {a}; exchange the two")),
            _ => Ok(()),
        }
    }

    pub fn holds(&self, e: &Entry) -> bool {
        self.shot.as_ref().is_none_or(|s| e.known("shot") == Some(s.as_str()))
            && self.from.as_ref().is_none_or(|d| e.day() >= d.as_str())
            && self.to.as_ref().is_none_or(|d| e.day() <= d.as_str())
    }
}
