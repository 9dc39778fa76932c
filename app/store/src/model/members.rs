//! Members, invitations, accounts, the log, and what is archived.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::MemberAccess;

#[derive(Serialize, JsonSchema)]
pub struct MembersView {
    pub members: Vec<MemberView>,
    /// Those that wait for an answer; shown to leads only.
    pub invitations: Vec<InvitationView>,
    /// What the production's pictures take of the disk.
    pub space: Space,
}

/// A production's share of the disk.
#[derive(Serialize, JsonSchema)]
pub struct Space {
    pub used_bytes: i64,
    pub quota_bytes: i64,
    pub pictures: i64,
}

/// An artist of the manifests and the member who they are.
#[derive(Serialize, JsonSchema)]
pub struct ArtistLink {
    pub artist: String,
    pub member: Option<Uuid>,
    /// A member whose name fits, where nobody is linked: a lead may link them.
    pub fits: Option<Uuid>,
}

#[derive(Deserialize, JsonSchema)]
pub struct LinkArtist {
    pub artist: String,
    /// None: the artist is no member.
    pub member: Option<Uuid>,
}

#[derive(Serialize, JsonSchema)]
pub struct MemberView {
    pub id: Uuid,
    pub name: String,
    /// Subject to leads and to oneself only.
    pub email: Option<String>,
    pub part: MemberAccess,
    pub you: bool,
    /// Their account is shut; shown to leads only.
    pub disabled: bool,
}

/// Subject this once; only the hash of its secret is kept.
#[derive(Serialize, JsonSchema)]
pub struct ResetLink {
    /// Path of the page on which the member chooses a password.
    pub link: String,
}

#[derive(Serialize, JsonSchema)]
pub struct ResetOpened {
    pub name: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewPassword {
    pub password: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct NewProduction {
    pub name: String,
    /// It begins with the line guides of this one.
    #[serde(default)]
    pub guides_of: Option<Uuid>,
}

#[derive(Serialize, JsonSchema)]
pub struct InvitationView {
    pub id: Uuid,
    pub email: String,
    pub part: MemberAccess,
    pub by: String,
    pub at: String,
    pub expires_at: String,
    pub expired: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct Invite {
    pub email: String,
    pub part: MemberAccess,
}

/// The link is shown this once; only its hash is kept.
#[derive(Serialize, JsonSchema)]
pub struct Invited {
    pub id: Uuid,
    /// Path of the page that the invited open.
    pub link: String,
}

/// What an invitation says to the one who opens it.
#[derive(Serialize, JsonSchema)]
pub struct InvitationOpened {
    pub production: String,
    pub email: String,
    pub part: MemberAccess,
    pub by: String,
    /// The address has an account: they sign in instead of making one.
    pub has_account: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct Join {
    /// Of a new account; not needed by one who is signed in.
    #[serde(default)]
    pub name: String,
    #[serde(default)]
    pub password: String,
}

#[derive(Deserialize, JsonSchema)]
pub struct ChangePart {
    pub part: MemberAccess,
    /// The part that it was when it was looked at.
    pub from: MemberAccess,
}

#[derive(Serialize, JsonSchema)]
pub struct SignInView {
    pub id: Uuid,
    pub at: String,
    pub seen_at: String,
    /// What the browser calls itself.
    pub agent: String,
    pub this: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct ChangePassword {
    pub current: String,
    pub new: String,
}

#[derive(Serialize, JsonSchema)]
pub struct LogRow {
    pub id: i64,
    pub at: String,
    pub by: String,
    pub action: String,
    pub subject: String,
    pub from_version: Option<i32>,
    pub to_version: Option<i32>,
    pub shows: Option<Shows>,
}

/// What a row of the log is a picture of.
#[derive(Serialize, JsonSchema)]
pub struct Shows {
    pub what: Subject,
    pub ids: Vec<Uuid>,
    /// Of drawings, their pictures' SHA-256.
    pub pictures: Vec<String>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Subject {
    Drawing,
    Pen,
    Brush,
}

impl Subject {
    const ALL: [(Self, &str); 3] = [(Self::Drawing, "drawing"), (Self::Pen, "pen"), (Self::Brush, "brush")];

    pub fn name(self) -> &'static str {
        Self::ALL.iter().find(|a| a.0 == self).map_or("", |a| a.1)
    }

    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|a| a.1 == name).map(|a| a.0)
    }
}

#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(default)]
pub struct LogAsk {
    /// Rows before this one.
    pub before: Option<i64>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    Pens,
    Profiles,
    Brushes,
    Guides,
    Deliveries,
    Trials,
}

#[derive(Serialize, JsonSchema)]
pub struct Archived {
    pub kind: Kind,
    pub id: Uuid,
    pub name: String,
    pub at: String,
}

/// What would go with a removal.
#[derive(Debug, Serialize, JsonSchema)]
pub struct Removal {
    /// Rows of each kind: “32 drawings”.
    pub goes: Vec<String>,
    /// All of them together: it is given with the removal, so that nothing goes that was not counted.
    pub count: i64,
    /// Why it cannot be removed.
    pub held_by: Option<String>,
}

#[derive(Debug, Default, Deserialize, JsonSchema)]
#[serde(default)]
pub struct RemovalAsk {
    pub count: Option<i64>,
}
