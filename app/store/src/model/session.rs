//! Who is signed in, their productions, and what waits for them.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

use super::Returned;

use super::{Member, MemberAccess};

#[derive(Serialize, JsonSchema)]
pub struct Session {
    pub member: Option<Member>,
    pub productions: Vec<ProductionView>,
    /// No member exists yet: the first one is made now.
    pub first: bool,
    /// Only where the demo is loaded.
    pub demo_sign_ins: Vec<DemoSignIn>,
}

#[derive(Clone, Serialize, JsonSchema)]
pub struct DemoSignIn {
    pub name: String,
    pub email: String,
    pub password: String,
    pub part: MemberAccess,
}

#[derive(Serialize, JsonSchema)]
pub struct ProductionView {
    pub id: Uuid,
    pub name: String,
    pub part: MemberAccess,
    /// Others are in it, or draw for it: there is a team to look at.
    pub team: bool,
    /// It is over: looked at, and not changed, until a lead restores it.
    pub archived: bool,
}

#[derive(Deserialize, JsonSchema)]
pub struct FirstMember {
    /// What the console printed when Eddymist was started.
    pub setup_code: String,
    pub name: String,
    pub email: String,
    pub password: String,
    pub production: String,
}

#[derive(Serialize, JsonSchema)]
pub struct Created {
    pub id: Uuid,
}

#[derive(Serialize, JsonSchema)]
pub struct DeskItem {
    pub text: String,
    pub next: String,
    /// Path of the page that the next step is on.
    pub to: String,
    /// The drawings that it is about, where they were returned to whom the desk is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub returned: Vec<Returned>,
}
