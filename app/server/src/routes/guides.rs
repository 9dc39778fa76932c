//! Line guides.

use axum::extract::{Multipart, Path, Query, State as Extract};
use eddymist_check::{LineGuide, Role, model};
use eddymist_reader::reading;
use uuid::Uuid;

use super::bodies::{Made, uploaded};
use crate::{
    access::Lead,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{
        pens::{keep_picture, media_type},
        picture_bytes,
    },
};
use eddymist_store::{
    model::{Access, GuideView, ModelSheetView, RoleFromLines, SaveGuide, VersionsAsk},
    store,
};

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<GuideView>>> {
    Ok(Json(store::guides::list(&state.pool, access.production).await?))
}

pub async fn create(Extract(state): Extract<State>, Lead(access): Lead, Json(guide): Json<LineGuide>) -> Answer<Made> {
    guide.validate().map_err(Problem::input)?;
    let mut tx = state.pool.begin().await?;
    let id = store::guides::create(&mut tx, &access, &guide).await?;
    store::audit::log(&mut tx, &access, "guide made", &guide.name).await?;
    tx.commit().await?;
    Ok(Made::new(&access, "guides", id))
}

pub async fn save(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(s): Json<SaveGuide>) -> Answer<Made> {
    s.guide.validate().map_err(Problem::input)?;
    store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    let mut tx = state.pool.begin().await?;
    match store::guides::save(&mut tx, &access, id, s.from_version, &s.guide).await? {
        Ok(version) => {
            store::audit::versions(&mut tx, &access, "guide saved", &s.guide.name, Some(s.from_version), Some(version)).await?;
            tx.commit().await?;
            Ok(Made::new(&access, "guides", id))
        }
        Err(current) => {
            drop(tx);
            let now = store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
            Err(Problem::stale("this guide", s.from_version, current, serde_json::to_value(now)?))
        }
    }
}

pub async fn versions(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Query(ask): Query<VersionsAsk>,
) -> Answer<Json<Vec<GuideView>>> {
    let all = store::guides::versions(&state.pool, access.production, id, ask.before).await?;
    // A guide has at least the version that made it.
    if all.is_empty() && ask.before.is_none() { Err(Problem::not_found("the line guide")) } else { Ok(Json(all)) }
}

async fn sheet(state: &State, bytes: Vec<u8>) -> Answer<model::ModelSheet> {
    state.heavy.work(picture_bytes(&bytes), move || Ok(reading::model_sheet(&bytes)?)).await
}

/// Keeps an approved drawing and measures its lines.
pub async fn model_sheet(Extract(state): Extract<State>, access: Access, body: Multipart) -> Answer<Json<ModelSheetView>> {
    let Some((_, bytes)) = uploaded(body).await?.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let sha256 = keep_picture(&state, access.production, media_type(&bytes), &bytes).await?;
    Ok(Json(ModelSheetView { sha256, sheet: sheet(&state, bytes).await? }))
}

/// A role made of lines of a model sheet; nothing is saved.
pub async fn role_from_lines(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, sha)): Path<(Uuid, String)>,
    Json(ask): Json<RoleFromLines>,
) -> Answer<Json<Role>> {
    let (_, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the model sheet"))?;
    state.heavy.work(picture_bytes(&bytes), move || Ok(Json(reading::role(&bytes, &ask.page, &ask.name, &ask.lines)?))).await
}
