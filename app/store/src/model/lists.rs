//! How a long list is asked for: a page at a time.

use schemars::JsonSchema;
use serde::Deserialize;
use uuid::Uuid;

/// So many rows of a list are answered at a time; a page that has fewer is the last one.
pub const PAGE: usize = 200;

#[derive(Debug, Default, Clone, Copy, Deserialize, JsonSchema)]
#[serde(default)]
pub struct PageAsk {
    /// What follows on this one, the last of the page before; without it the list from its beginning.
    pub after: Option<Uuid>,
}

/// The same of versions, the newest first.
#[derive(Debug, Default, Clone, Copy, Deserialize, JsonSchema)]
#[serde(default)]
pub struct VersionsAsk {
    /// What is older than this version; without it the newest.
    pub before: Option<i32>,
}

/// Which part of a list is read.
#[derive(Debug, Default, Clone, Copy)]
pub struct Part {
    pub after: Option<Uuid>,
    /// None: all that follow.
    pub most: Option<i64>,
}

impl Part {
    /// All of it.
    pub const WHOLE: Self = Self { after: None, most: None };
}

impl From<PageAsk> for Part {
    fn from(ask: PageAsk) -> Self {
        Self { after: ask.after, most: Some(PAGE as i64) }
    }
}
