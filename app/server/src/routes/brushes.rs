//! The rack and the bench.

use axum::{
    Json,
    extract::{Path, State as Extract},
};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
    work::{
        brushes::{against, create_brush, laid_out},
        off_thread,
    },
};
use eddymist_store::{
    model::{Access, Bench, BenchRequest, BrushSummary, BrushView, Created, Draft, GoBack, NewBrush, SaveBrush},
    store,
};

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<BrushSummary>>> {
    Ok(Json(store::brushes::list(&state.pool, access.production).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(new): Json<NewBrush>) -> Answer<Json<Created>> {
    create_brush(&state, &access, new).await.map(|id| Json(Created { id }))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<BrushView>> {
    store::brushes::one(&state.pool, access.production, id).await?.map(Json).ok_or_else(|| Problem::not_found("the brush"))
}

pub async fn draft(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(draft): Json<Draft>) -> Answer<Json<()>> {
    if let Some(b) = &draft.brush {
        b.validate().map_err(Problem::input)?;
    }
    if store::brushes::set_draft(&state.pool, access.production, id, draft.brush.as_ref()).await? { Ok(Json(())) } else { Err(Problem::not_found("the brush")) }
}

async fn stale(state: &State, access: &Access, id: Uuid, from: i32, current: i32) -> Problem {
    match store::brushes::one(&state.pool, access.production, id).await {
        Ok(Some(b)) => {
            let now = b.versions.into_iter().find(|v| v.version == current).and_then(|v| serde_json::to_value(v).ok()).unwrap_or_default();
            Problem::stale("this brush", from, current, now)
        }
        Ok(None) => Problem::not_found("the brush"),
        Err(e) => e.into(),
    }
}

pub async fn save(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(s): Json<SaveBrush>) -> Answer<Json<Created>> {
    s.brush.validate().map_err(Problem::input)?;
    store::brushes::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    match store::brushes::save(&state.pool, &access, id, s.from_version, &s.brush, &s.says).await? {
        Ok(version) => {
            store::audit::versions(&state.pool, &access, "brush saved", &s.brush.name, Some(s.from_version), Some(version)).await?;
            Ok(Json(Created { id }))
        }
        Err(current) => Err(stale(&state, &access, id, s.from_version, current).await),
    }
}

pub async fn go_back(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(g): Json<GoBack>) -> Answer<Json<()>> {
    let brush = store::brushes::one(&state.pool, access.production, id)
        .await?
        .filter(|b| b.versions.iter().any(|v| v.version == g.version))
        .ok_or_else(|| Problem::not_found("the version"))?;
    match store::brushes::go_back(&state.pool, access.production, id, g.from_version, g.version).await? {
        Ok(()) => {
            store::audit::versions(&state.pool, &access, "brush went back", &brush.name, Some(g.from_version), Some(g.version)).await?;
            Ok(Json(()))
        }
        Err(current) => Err(stale(&state, &access, id, g.from_version, current).await),
    }
}

pub async fn bench(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<BenchRequest>) -> Answer<Json<Bench>> {
    ask.brush.validate().map_err(Problem::input)?;
    let view = store::brushes::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    let under = match ask.under {
        Some(n) => Some(view.versions.iter().find(|v| v.version == n).map(|v| v.brush.clone()).ok_or_else(|| Problem::not_found("the version"))?),
        None => None,
    };
    let a = against(&state, &access, view.pen.map(|p| p.id), view.profile.map(|p| p.id)).await?;
    store::roll::used(&state.pool, access.production, id).await?;
    off_thread(move || laid_out(&a, &ask, under.as_ref())).await.map(Json)
}
