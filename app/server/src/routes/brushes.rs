//! The rack and the bench.

use axum::extract::{Path, Query, State as Extract};
use uuid::Uuid;

use super::{archive::part, bodies::Made};
use crate::{
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::brushes::{WARM_UP_BYTES, against, create_brush, laid_out, version},
};
use eddymist_store::{
    model::{Access, Bench, BenchRequest, BrushSummary, BrushVersion, BrushView, Draft, GoBack, Kind, NewBrush, PageAsk, SaveBrush, Subject, VersionsAsk},
    store,
};

pub async fn list(Extract(state): Extract<State>, access: Access, Query(ask): Query<PageAsk>) -> Answer<Json<Vec<BrushSummary>>> {
    Ok(Json(store::brushes::list(&state.pool, access.production, access.member.id, part(&state, &access, Kind::Brushes, ask).await?).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(new): Json<NewBrush>) -> Answer<Made> {
    create_brush(&state, &access, new).await.map(|id| Made::new(&access, "brushes", id))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<BrushView>> {
    store::brushes::one(&state.pool, access.production, access.member.id, id).await?.map(Json).ok_or_else(|| Problem::not_found("the brush"))
}

/// Its versions, the newest first, 200 at a time.
pub async fn versions(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Query(ask): Query<VersionsAsk>,
) -> Answer<Json<Vec<BrushVersion>>> {
    there(&state, &access, id).await?;
    Ok(Json(store::brushes::versions(&state.pool, access.production, id, ask.before).await?))
}

pub async fn draft(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<Draft>) -> Answer<Json<()>> {
    there(&state, &access, id).await?;
    let draft = sent.read().await?;
    if let Some(b) = &draft.brush {
        b.validate().map_err(Problem::brush)?;
    }
    if store::brushes::set_draft(&state.pool, &access, id, draft.from_version, draft.brush.as_ref()).await? {
        Ok(Json(()))
    } else {
        Err(Problem::not_found("the brush"))
    }
}

async fn there(state: &State, access: &Access, id: Uuid) -> Answer<()> {
    if store::brushes::held(&state.pool, access.production, &[id]).await? == 1 { Ok(()) } else { Err(Problem::not_found("the brush")) }
}

async fn stale(state: &State, access: &Access, id: Uuid, from: i32, current: i32) -> Problem {
    match store::brushes::version(&state.pool, access.production, id, current).await {
        Ok(Some(now)) => Problem::stale("this brush", from, current, serde_json::to_value(now).unwrap_or_default()),
        Ok(None) => Problem::not_found("the brush"),
        Err(e) => e.into(),
    }
}

pub async fn save(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<SaveBrush>) -> Answer<Made> {
    there(&state, &access, id).await?;
    let s = sent.read().await?;
    s.brush.validate().map_err(Problem::brush)?;
    let mut tx = state.pool.begin().await?;
    match store::brushes::save(&mut tx, &access, id, s.from_version, &s.brush, &s.says).await? {
        Ok(version) => {
            store::audit::versions(&mut tx, &access, "brush saved", &s.brush.name, Some((Subject::Brush, &[id])), [Some(s.from_version), Some(version)])
                .await?;
            tx.commit().await?;
            Ok(Made::new(&access, "brushes", id))
        }
        Err(current) => Err(stale(&state, &access, id, s.from_version, current).await),
    }
}

pub async fn go_back(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(g): Json<GoBack>) -> Answer<Json<()>> {
    let then = version(&state, &access, id, g.version).await?;
    let mut tx = state.pool.begin().await?;
    match store::brushes::go_back(&mut tx, &access, id, g.from_version, g.version).await? {
        Ok(()) => {
            store::audit::versions(
                &mut tx,
                &access,
                "brush went back",
                &then.brush.name,
                Some((Subject::Brush, &[id])),
                [Some(g.from_version), Some(g.version)],
            )
            .await?;
            tx.commit().await?;
            Ok(Json(()))
        }
        Err(current) => Err(stale(&state, &access, id, g.from_version, current).await),
    }
}

pub async fn bench(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<BenchRequest>) -> Answer<Json<Bench>> {
    let view = store::brushes::one(&state.pool, access.production, access.member.id, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    let ask = sent.read().await?;
    ask.brush.validate().map_err(Problem::brush)?;
    let under = match ask.under {
        Some(n) => Some(version(&state, &access, id, n).await?.brush),
        None => None,
    };
    let a = against(&state, &access, view.pen.map(|p| p.id), ask.profile.or(view.profile.map(|p| p.id))).await?;
    store::roll::used(&state.pool, access.production, &[id]).await?;
    state.heavy.work(WARM_UP_BYTES, move || laid_out(&a.read()?, &ask, under.as_ref())).await.map(Json)
}
