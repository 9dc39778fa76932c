//! Archiving, bringing back and removal for good, with what goes with it.

use axum::{
    extract::{Path, Query, State as Extract},
    http::StatusCode,
};
use uuid::Uuid;

use crate::{
    access::Lead,
    access::lead_only,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, *},
    store::{self},
};

pub async fn archived(Extract(state): Extract<State>, access: Access, Query(ask): Query<PageAsk>) -> Answer<Json<Vec<Archived>>> {
    store::archive::list(&state.pool, access.production, ask.into()).await?.map(Json).ok_or_else(changed)
}

/// A page of a list that follows on a row which is there no more.
pub fn changed() -> Problem {
    Problem::new(StatusCode::CONFLICT, "this list was changed meanwhile: ask for it from its beginning")
}

/// Which part of a list of this kind is asked for.
pub async fn part(state: &State, access: &Access, kind: Kind, ask: PageAsk) -> Answer<Part> {
    if let Some(after) = ask.after
        && store::archive::name(&state.pool, access.production, kind, after).await?.is_none()
    {
        return Err(changed());
    }
    Ok(ask.into())
}

/// Guides and deliveries are the lead's.
fn may(access: &Access, kind: Kind) -> Answer<()> {
    if matches!(kind, Kind::Guides | Kind::Deliveries) { lead_only(access) } else { Ok(()) }
}

async fn known(state: &State, access: &Access, kind: Kind, id: Uuid) -> Answer<(String, bool)> {
    let found = store::archive::name(&state.pool, access.production, kind, id).await?;
    found.ok_or_else(|| Problem::not_found(&format!("this {}", kind.one())))
}

pub async fn archive(Extract(state): Extract<State>, access: Access, Path((_, kind, id)): Path<(Uuid, Kind, Uuid)>) -> Answer<Json<()>> {
    may(&access, kind)?;
    let (name, _) = known(&state, &access, kind, id).await?;
    if let Some(held) = store::archive::held_by(&state.pool, kind, id).await? {
        return Err(Problem::new(StatusCode::CONFLICT, format!("{name} cannot be archived now: {held}")));
    }
    let mut tx = state.pool.begin().await?;
    if !store::archive::set(&mut tx, access.production, kind, id, true).await? {
        return Err(Problem::new(StatusCode::CONFLICT, format!("{name} is archived already")));
    }
    store::audit::log(&mut tx, &access, &format!("{} archived", kind.one()), &name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn unarchive(Extract(state): Extract<State>, access: Access, Path((_, kind, id)): Path<(Uuid, Kind, Uuid)>) -> Answer<Json<()>> {
    may(&access, kind)?;
    let (name, _) = known(&state, &access, kind, id).await?;
    let mut tx = state.pool.begin().await?;
    if !store::archive::set(&mut tx, access.production, kind, id, false).await? {
        return Err(Problem::new(StatusCode::CONFLICT, format!("{name} is not archived")));
    }
    store::audit::log(&mut tx, &access, &format!("{} restored", kind.one()), &name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn removal(Extract(state): Extract<State>, access: Access, Path((_, kind, id)): Path<(Uuid, Kind, Uuid)>) -> Answer<Json<Removal>> {
    known(&state, &access, kind, id).await?;
    Ok(Json(store::archive::removal(&mut *state.pool.acquire().await?, kind, id).await?))
}

/// Really removes what is archived: a lead's act, with the count that they were shown.
pub async fn remove(
    Extract(state): Extract<State>,
    Lead(access): Lead,
    Path((_, kind, id)): Path<(Uuid, Kind, Uuid)>,
    Query(ask): Query<RemovalAsk>,
) -> Answer<Json<()>> {
    let (name, archived) = known(&state, &access, kind, id).await?;
    if !archived {
        return Err(Problem::new(StatusCode::CONFLICT, format!("{name} is not archived: only what is in the archive can be deleted")));
    }
    let mut tx = state.pool.begin().await?;
    let r = match store::archive::remove(&mut tx, access.production, kind, id, ask.count).await? {
        Ok(gone) => gone,
        Err(Removal { held_by: Some(held), .. }) => return Err(Problem::new(StatusCode::CONFLICT, format!("{name} cannot be deleted: {held}"))),
        Err(r) => {
            let goes = r.goes.join(", ");
            return Err(Problem::new(StatusCode::CONFLICT, format!("with {name} would go {goes}: {} in all. Give that count to delete it", r.count)));
        }
    };
    store::audit::log(&mut tx, &access, &format!("{} removed", kind.one()), &format!("{name}: {}", r.goes.join(", "))).await?;
    tx.commit().await?;
    Ok(Json(()))
}
