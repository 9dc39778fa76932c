//! Line guides.

use std::{
    collections::HashMap,
    time::{Duration, Instant},
};

use axum::extract::{Multipart, Path, Query, State as Extract};
use eddymist_check::{
    LineGuide, model,
    sequence::order,
    takes::{self, Dismissal},
    would::would_change,
};
use eddymist_reader::reading;
use uuid::Uuid;

use super::bodies::{Made, uploaded};
use crate::{
    access::Lead,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{
        intake,
        pens::{keep_picture, media_type},
        picture_bytes,
    },
};
use eddymist_store::{
    model::{Access, GuideTried, GuideView, ModelSheetView, RoleFromLines, SaveGuide, TryGuide, VersionsAsk, WouldChange},
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
    let note = s.note.trim();
    if note.chars().count() > 1000 {
        return Err(Problem::input("a version's note has up to 1000 characters"));
    }
    store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    let mut tx = state.pool.begin().await?;
    match store::guides::save(&mut tx, &access, id, s.from_version, &s.guide, note).await? {
        Ok(version) => {
            store::audit::versions(&mut tx, &access, "guide saved", &s.guide.name, None, [Some(s.from_version), Some(version)]).await?;
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

/// Drawings are tried for so long before the page hears of them.
const TRIED_FOR: Duration = Duration::from_secs(2);

/// What a guide that is not saved would change on a delivery, some drawings at a time; nothing is saved.
pub async fn try_it(
    Extract(state): Extract<State>,
    Lead(access): Lead,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Json(ask): Json<TryGuide>,
) -> Answer<Json<GuideTried>> {
    ask.guide.validate().map_err(Problem::input)?;
    store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    let on = match ask.delivery {
        Some(named) => Some((named, intake::own(&state, &access, named).await?.name)),
        None => store::guides::newest_delivery(&state.pool, access.production, id).await?,
    };
    let Some((delivery, delivery_name)) = on else {
        return Ok(Json(GuideTried { delivery: None, delivery_name: String::new(), done: 0, of: 0, changed: Vec::new() }));
    };
    let mut all: Vec<_> = store::drawings::checks(&state.pool, delivery).await?.into_iter().filter(|d| d.check.is_some()).collect();
    all.sort_by(|a, b| order((&a.file, &a.manifest), (&b.file, &b.manifest)));
    let mut meant = store::decisions::dismissals_of(&state.pool, delivery).await?;
    let (of, begun) = (all.len(), Instant::now());
    let (mut done, mut changed) = (ask.done.min(of), Vec::new());
    for d in all.into_iter().skip(done) {
        if let Some(found) = tried(&state, &access, &ask.guide, d, &mut meant).await? {
            changed.push(found);
        }
        done += 1;
        if begun.elapsed() > TRIED_FOR {
            break;
        }
    }
    Ok(Json(GuideTried { delivery: Some(delivery), delivery_name, done, of, changed }))
}

/// What the guide would change on one drawing.
async fn tried(
    state: &State,
    access: &Access,
    guide: &LineGuide,
    drawing: store::drawings::Checked,
    meant: &mut HashMap<Uuid, Vec<Dismissal>>,
) -> Answer<Option<WouldChange>> {
    let (Some(mut before), Some(stored)) = (drawing.check, store::drawings::one(&state.pool, access.production, drawing.id).await?) else { return Ok(None) };
    let Some((_, bytes)) = store::images::read(&state.pictures, access.production, &stored.sha256).await? else { return Ok(None) };
    let intended = meant.remove(&drawing.id).unwrap_or_default();
    let room = picture_bytes(&bytes);
    let (mut guide, file, manifest) = (guide.clone(), drawing.file.clone(), drawing.manifest);
    guide.left_out.extend(store::regions::of(&state.pool, drawing.id).await?.into_iter().map(|r| r.region));
    let work = move || {
        takes::dismiss(&stored.guide, &mut before, &intended);
        // What cannot be read with the new guide is said like any other change.
        Ok(match reading::weigh(&guide, &file, &bytes, &manifest) {
            Ok(mut weighed) => {
                takes::dismiss(&guide, &mut weighed.check, &intended);
                let why = would_change(&guide, &before, &weighed.check);
                (before.hand_on, weighed.check.hand_on, why)
            }
            Err(e) => (before.hand_on, None, vec![e.to_string()]),
        })
    };
    let (was, is, why) = state.heavy.work(room, work).await?;
    Ok((was != is || !why.is_empty()).then_some(WouldChange { id: drawing.id, file: drawing.file, was, is, why }))
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
) -> Answer<Json<model::RoleRead>> {
    let (_, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the model sheet"))?;
    state.heavy.work(picture_bytes(&bytes), move || Ok(Json(reading::role(&bytes, &ask.page, &ask.name, &ask.lines)?))).await
}
