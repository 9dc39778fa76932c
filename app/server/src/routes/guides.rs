//! Line guides.

use axum::{
    Json,
    extract::{Path, State as Extract},
};
use eddymist_check::LineGuide;
use uuid::Uuid;

use crate::{
    access::Access,
    problem::{Answer, Problem},
    state::State,
    store,
    views::{Created, GuideView, SaveGuide},
};

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<GuideView>>> {
    Ok(Json(store::guides::list(&state.pool, access.production).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(guide): Json<LineGuide>) -> Answer<Json<Created>> {
    access.lead()?;
    guide.validate().map_err(Problem::input)?;
    let id = store::guides::create(&state.pool, &access, &guide).await?;
    store::audit::log(&state.pool, &access, "guide made", &guide.name).await?;
    Ok(Json(Created { id }))
}

pub async fn save(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(s): Json<SaveGuide>) -> Answer<Json<Created>> {
    access.lead()?;
    s.guide.validate().map_err(Problem::input)?;
    let now = store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    match store::guides::save(&state.pool, &access, id, s.from_version, &s.guide).await? {
        Ok(version) => {
            store::audit::log(&state.pool, &access, "guide saved", &format!("{}, version {version} from {}", s.guide.name, s.from_version)).await?;
            Ok(Json(Created { id }))
        }
        Err(current) => Err(Problem::stale("this guide", s.from_version, current, serde_json::to_value(now)?)),
    }
}

pub async fn versions(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<Vec<GuideView>>> {
    Ok(Json(store::guides::versions(&state.pool, access.production, id).await?))
}
