//! What a lead does for the accounts of their people: a way in for who forgot their password, an account shut or erased; and new
//! productions. An account that works elsewhere too, for others, is not one lead's to touch.

use axum::{
    extract::{Path, State as Extract},
    http::{HeaderMap, StatusCode},
};
use uuid::Uuid;

use super::{
    bodies::Made,
    members::secret,
    session::{check_password, enter, hashed, session},
};
use crate::{
    access::{Auth, Lead, OwnAccess, SignedIn, lead_only},
    plain::Json,
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, Created, MemberAccess, NewName, NewPassword, NewProduction, ResetLink, ResetOpened, Session},
    store,
};

/// The name of a member of the production whose account is this lead's to touch.
async fn own(state: &State, access: &Access, id: Uuid) -> Answer<String> {
    let missing = || Problem::not_found("this member");
    store::members::part(&state.pool, access.production, id).await?.ok_or_else(missing)?;
    if id == access.member.id {
        return Err(Problem::conflict("this is your own account: its page has your password and your sign-ins"));
    }
    if !store::members::governs(&state.pool, access.member.id, id).await? {
        let said = "they work in a production that you do not lead: remove them from yours, or ask whoever keeps the server (eddymist member)";
        return Err(Problem::new(StatusCode::FORBIDDEN, said));
    }
    store::members::name(&state.pool, id).await?.ok_or_else(missing)
}

/// A link by which a member chooses a new password: shown this once, for a day.
pub async fn reset(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<ResetLink>> {
    let name = own(&state, &access, id).await?;
    let (secret, hash) = secret();
    let mut tx = state.pool.begin().await?;
    store::members::add_reset(&mut tx, id, access.member.id, &hash).await?;
    store::audit::log(&mut tx, &access, "password link made", &name).await?;
    tx.commit().await?;
    Ok(Json(ResetLink { link: format!("/reset/{secret}") }))
}

/// Shuts an account: who has it signs in no more.
pub async fn disable(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    set_disabled(&state, &access, id, true).await
}

/// Opens it again.
pub async fn enable(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    set_disabled(&state, &access, id, false).await
}

async fn set_disabled(state: &State, access: &Access, id: Uuid, disabled: bool) -> Answer<Json<()>> {
    let name = own(state, access, id).await?;
    let mut tx = state.pool.begin().await?;
    store::members::disable(&mut tx, id, disabled).await?;
    if disabled {
        store::sign_ins::end_others(&mut *tx, id, None).await?;
    }
    store::audit::log(&mut tx, access, if disabled { "account disabled" } else { "account reopened" }, &name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// Erases an account: name, address, password and memberships. What its owner did stays, as a former member's.
pub async fn erase(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    // All of their productions are led by the one who asks: none is left without a lead.
    store::members::erase(&mut tx, id).await?;
    store::audit::log(&mut tx, &access, "account erased", "a former member").await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// A production's name, or what it must be.
fn named(name: &str) -> Answer<&str> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > 200 { Err(Problem::input("a production needs a name of up to 200 characters")) } else { Ok(name) }
}

/// Gives the production another name.
pub async fn rename_production(Extract(state): Extract<State>, Lead(access): Lead, Json(new): Json<NewName>) -> Answer<Json<()>> {
    let name = named(&new.name)?;
    let mut tx = state.pool.begin().await?;
    store::members::rename_production(&mut tx, access.production, name).await?;
    store::audit::log(&mut tx, &access, "production renamed", name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// Archives the production: it can be looked at, and nothing in it changes until a lead restores it.
pub async fn archive_production(extract: Extract<State>, own: OwnAccess) -> Answer<Json<()>> {
    set_archived(extract, own, true).await
}

/// Restores the production.
pub async fn restore_production(extract: Extract<State>, own: OwnAccess) -> Answer<Json<()>> {
    set_archived(extract, own, false).await
}

async fn set_archived(Extract(state): Extract<State>, OwnAccess(access): OwnAccess, archived: bool) -> Answer<Json<()>> {
    lead_only(&access)?;
    let name = store::members::production_name(&state.pool, access.production).await?;
    let mut tx = state.pool.begin().await?;
    if !store::members::archive_production(&mut tx, access.production, archived).await? {
        return Err(Problem::conflict(format!("{name} is {}", if archived { "archived already" } else { "not archived" })));
    }
    store::audit::log(&mut tx, &access, if archived { "production archived" } else { "production restored" }, &name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// A production of one's own: who leads one may begin another.
pub async fn add_production(Extract(state): Extract<State>, SignedIn(member): SignedIn, Json(new): Json<NewProduction>) -> Answer<Made> {
    let name = named(&new.name)?;
    let own = store::members::productions(&state.pool, member.id).await?;
    if own.iter().all(|p| p.part != MemberAccess::Lead) {
        return Err(Problem::new(StatusCode::FORBIDDEN, "who leads a production may begin another; ask a lead of yours"));
    }
    let guides = match new.guides_of {
        Some(of) => {
            store::members::part(&state.pool, of, member.id).await?.ok_or_else(|| Problem::not_found("the production whose line guides are copied"))?;
            store::guides::list(&state.pool, of).await?
        }
        None => Vec::new(),
    };
    let mut tx = state.pool.begin().await?;
    let id = store::members::found_production(&mut tx, name, member.id).await?;
    let access = Access { member, production: id, part: MemberAccess::Lead };
    store::audit::log(&mut tx, &access, "production made", name).await?;
    for g in &guides {
        store::guides::create(&mut tx, &access, &g.guide).await?;
        store::audit::log(&mut tx, &access, "guide made", &g.guide.name).await?;
    }
    tx.commit().await?;
    Ok(Made { at: format!("/api/v1/productions/{id}"), made: Created { id } })
}

async fn opened(state: &State, secret: &str) -> Answer<(Uuid, String)> {
    let found = store::members::reset_of(&state.pool, &store::sha256(secret.as_bytes())).await?;
    found.ok_or_else(|| Problem::new(StatusCode::NOT_FOUND, "this link was used, or is older than a day; ask a lead for a new one"))
}

pub async fn open_reset(Extract(state): Extract<State>, Path(secret): Path<String>) -> Answer<Json<ResetOpened>> {
    Ok(Json(ResetOpened { name: opened(&state, &secret).await?.1 }))
}

/// Chooses a new password by a link; every sign-in of before ends.
pub async fn use_reset(
    Extract(state): Extract<State>,
    Path(secret): Path<String>,
    mut auth: Auth,
    kept: tower_sessions::Session,
    headers: HeaderMap,
    Json(new): Json<NewPassword>,
) -> Answer<Json<Session>> {
    let (id, _) = opened(&state, &secret).await?;
    check_password(&new.password)?;
    let hash = hashed(&state, new.password).await?;
    let mut tx = state.pool.begin().await?;
    if !store::members::take_reset(&mut tx, &store::sha256(secret.as_bytes())).await? {
        return Err(Problem::conflict("this link was used meanwhile; ask a lead for a new one"));
    }
    store::members::set_password(&mut tx, id, &hash).await?;
    store::sign_ins::end_others(&mut *tx, id, None).await?;
    tx.commit().await?;
    let member = store::members::by_id(&state.pool, id).await?;
    if let Some(m) = &member {
        store::attempts::forget_all(&mut *state.pool.acquire().await?, &m.email).await?;
        enter(&state, &mut auth, &kept, &headers, m).await?;
    }
    session(&state, member).await
}
