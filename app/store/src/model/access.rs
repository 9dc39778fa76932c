//! A member, their access in a production, and a member acting in one.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A member of Eddymist.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
pub struct Member {
    pub id: Uuid,
    pub name: String,
    pub email: String,
    #[serde(skip)]
    #[schemars(skip)]
    pub hash: String,
    /// Changes with the password, and with it every session ends.
    #[serde(skip)]
    #[schemars(skip)]
    pub stamp: Uuid,
}

/// A member's part in a production.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum MemberAccess {
    Lead,
    Artist,
    Viewer,
}

impl MemberAccess {
    pub fn from_name(name: &str) -> Self {
        match name {
            "lead" => Self::Lead,
            "artist" => Self::Artist,
            _ => Self::Viewer,
        }
    }

    pub fn name(self) -> &'static str {
        match self {
            Self::Lead => "lead",
            Self::Artist => "artist",
            Self::Viewer => "viewer",
        }
    }
}

/// What a member signs in with.
#[derive(Debug, Clone, Deserialize, JsonSchema)]
pub struct Credentials {
    pub email: String,
    pub password: String,
}

/// A signed-in member acting in the production that the path names.
#[derive(Debug, Clone)]
pub struct Access {
    pub member: Member,
    pub production: Uuid,
    pub part: MemberAccess,
}
