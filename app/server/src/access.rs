//! Who may do what: the one place where every read and write is checked against membership.

use std::sync::LazyLock;

use argon2::{
    Argon2,
    password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash},
};
use axum::{
    extract::{FromRequestParts, Path},
    http::{Method, StatusCode, request::Parts},
};
use axum_login::{AuthSession, AuthUser, AuthnBackend};
use uuid::Uuid;

use crate::{problem::Problem, state::State};
use eddymist_store::{
    model::{Access, Credentials, Member, MemberAccess},
    store,
};

impl AuthnBackend for State {
    type User = SessionMember;
    type Credentials = Credentials;
    type Error = sqlx::Error;

    async fn authenticate(&self, c: Credentials) -> Result<Option<SessionMember>, sqlx::Error> {
        let member = store::members::by_email(&self.pool, &c.email).await?;
        // An address that nobody has costs what a wrong password costs: it is held against a hash that nothing fits.
        let hash = member.as_ref().map_or_else(|| NOBODYS.clone(), |m| m.hash.clone());
        let fits =
            tokio::task::spawn_blocking(move || PasswordHash::new(&hash).is_ok_and(|h| Argon2::default().verify_password(c.password.as_bytes(), &h).is_ok()))
                .await
                .unwrap_or(false);
        Ok(member.filter(|_| fits).map(SessionMember))
    }

    async fn get_user(&self, id: &Uuid) -> Result<Option<SessionMember>, sqlx::Error> {
        Ok(store::members::by_id(&self.pool, *id).await?.map(SessionMember))
    }
}

/// The hash of a password that nobody knows.
static NOBODYS: LazyLock<String> = LazyLock::new(|| hash_password(&Uuid::new_v4().to_string()).unwrap_or_default());

pub type Auth = AuthSession<State>;

/// An argon2id hash of a password.
pub fn hash_password(password: &str) -> Result<String, String> {
    Argon2::default().hash_password(password.as_bytes()).map(|h| h.to_string()).map_err(|e| e.to_string())
}

/// A signed-in member, in whatever production.
pub struct SignedIn(pub Member);

impl FromRequestParts<State> for SignedIn {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &State) -> Result<Self, Problem> {
        let signed_out = || Problem::new(StatusCode::UNAUTHORIZED, "you are signed out; sign in and try again");
        let auth = Auth::from_request_parts(parts, state).await.map_err(|_| signed_out())?;
        auth.user.map(|u| Self(u.0)).ok_or_else(signed_out)
    }
}

/// A member of a production about their own membership: a viewer may leave too.
pub struct OwnAccess(pub Access);

impl FromRequestParts<State> for OwnAccess {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &State) -> Result<Self, Problem> {
        let SignedIn(member) = SignedIn::from_request_parts(parts, state).await?;
        let path = Path::<std::collections::HashMap<String, String>>::from_request_parts(parts, state).await.map_err(|_| Problem::not_found("the page"))?;
        let production = path.get("production").and_then(|p| p.parse::<Uuid>().ok()).ok_or_else(|| Problem::not_found("the production"))?;
        // To one who is no member, a production is not there.
        let part = store::members::part(&state.pool, production, member.id).await?.ok_or_else(|| Problem::not_found("the production"))?;
        Ok(Self(Access { member, production, part }))
    }
}

/// A lead acting in the production that the path names: told before anything else of the request is read.
pub struct Lead(pub Access);

impl FromRequestParts<State> for Lead {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &State) -> Result<Self, Problem> {
        let access = Access::from_request_parts(parts, state).await?;
        lead_only(&access)?;
        Ok(Self(access))
    }
}

/// The member of a session.
#[derive(Debug, Clone)]
pub struct SessionMember(pub Member);

impl std::ops::Deref for SessionMember {
    type Target = Member;
    fn deref(&self) -> &Member {
        &self.0
    }
}

impl AuthUser for SessionMember {
    type Id = Uuid;
    fn id(&self) -> Uuid {
        self.0.id
    }
    fn session_auth_hash(&self) -> &[u8] {
        self.0.stamp.as_bytes()
    }
}

/// What is said to who would change an archived production.
pub const ARCHIVED: &str = "this production is archived: it can be looked at, not changed; a lead restores it";

/// Only a lead may go on.
pub fn lead_only(access: &Access) -> Result<(), Problem> {
    if access.part == MemberAccess::Lead { Ok(()) } else { Err(Problem::new(StatusCode::FORBIDDEN, "only a lead of this production may change this")) }
}

impl FromRequestParts<State> for Access {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut Parts, state: &State) -> Result<Self, Problem> {
        let OwnAccess(access) = OwnAccess::from_request_parts(parts, state).await?;
        let reads = matches!(parts.method, Method::GET | Method::HEAD);
        if !reads && access.part == MemberAccess::Viewer {
            return Err(Problem::new(StatusCode::FORBIDDEN, "you are a viewer of this production: you may look at all of it and change nothing"));
        }
        if !reads && store::members::is_archived(&state.pool, access.production).await? {
            return Err(Problem::conflict(ARCHIVED));
        }
        Ok(access)
    }
}
