//! Warm-ups read, profiles kept, stand-ins.

use axum::{
    extract::{Path, Query, State as Extract},
    http::header,
    response::{IntoResponse, Response},
};
use eddymist_calibrate::{
    TabletProfile,
    quantiles::{self, SecondEstimate},
    steadiness::{self, Evidence},
    transfer::{self, Recheck, transfer},
};
use eddymist_check::team::fits::same_name;
use eddymist_formats::{LIMITS, inkml};
use eddymist_sim::{
    pens::PENS,
    stylus::{self, HANDS, Hand, TABLETS, Tablet},
};
use uuid::Uuid;

use super::{archive::part, bodies::Made, pens::new_name};
use crate::{
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::{
        brushes::WARM_UP_BYTES,
        tablets::{from_page, keep_profile, reading},
    },
};
use eddymist_store::{
    model::{
        Access, DrawnWarmUp, Kind, NewName, NewProfile, PageAsk, Part, ProfileReading, ProfileView, ScaleReadings, SimulatedWarmUp, StandIn, StandIns,
        TransferProfile, TransferView, WarmUpText,
    },
    store,
};

pub async fn stand_ins(_: Access) -> Json<StandIns> {
    let named = |id: &str, name: &str| StandIn { id: id.into(), name: name.into() };
    Json(StandIns {
        hands: HANDS.iter().map(|h| named(h.id, h.name)).collect(),
        tablets: TABLETS.iter().map(|t| named(t.id, t.name)).collect(),
        pens: PENS.iter().map(|p| named(p.id, p.name)).collect(),
    })
}

pub async fn simulated(Extract(state): Extract<State>, _: Access, Json(ask): Json<SimulatedWarmUp>) -> Answer<Json<ProfileReading>> {
    let hand = Hand::by_id(&ask.hand).ok_or_else(|| Problem::not_found("the simulated hand"))?;
    let tablet = Tablet::by_id(&ask.tablet).ok_or_else(|| Problem::not_found("the simulated tablet"))?;
    state.heavy.work(WARM_UP_BYTES, move || reading(&inkml::write_warmup(&stylus::warmup(hand, tablet, 5)), tablet.name, None)).await.map(Json)
}

pub async fn read(Extract(state): Extract<State>, _: Access, Json(ask): Json<WarmUpText>) -> Answer<Json<ProfileReading>> {
    state.heavy.work(WARM_UP_BYTES, move || reading(&ask.inkml, &ask.label, ask.slips_counted)).await.map(Json)
}

pub async fn drawn(Extract(state): Extract<State>, _: Access, Json(ask): Json<DrawnWarmUp>) -> Answer<Json<ProfileReading>> {
    state.heavy.work(WARM_UP_BYTES, move || reading(&inkml::write_warmup(&from_page(ask.groups)?), &ask.label, None)).await.map(Json)
}

/// The newest profile of each artist on each tablet, and the same intended strokes on all of them.
pub async fn transferred(Extract(state): Extract<State>, access: Access) -> Answer<Json<TransferView>> {
    let mut all = store::profiles::list(&state.pool, access.production, Part::WHOLE).await?;
    all.reverse();
    let mut newest: Vec<ProfileView> = Vec::new();
    for p in all {
        if !newest.iter().any(|n| n.artist == p.artist && n.tablet == p.tablet) {
            newest.push(p);
        }
    }
    newest.reverse();
    let documents: Vec<TabletProfile> = newest.iter().map(|p| p.profile.clone()).collect();
    // A plain pen that goes from a tenth of a millimetre to one.
    let strokes = state.heavy.work(WARM_UP_BYTES, move || transfer(&documents, &[[0.0, 0.1], [1.0, 1.0]]).map_err(Problem::input)).await?;
    Ok(Json(TransferView { profiles: newest.into_iter().map(|p| TransferProfile { id: p.id, artist: p.artist, tablet: p.tablet }).collect(), strokes }))
}

pub(super) async fn kept(state: &State, access: &Access, id: Uuid) -> Answer<(ProfileView, String)> {
    store::profiles::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the profile"))
}

/// Strokes of the warm-up that show each figure.
pub async fn evidence(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<Evidence>> {
    let (_, text) = kept(&state, &access, id).await?;
    let read = move || {
        let warmup = inkml::read(&text, &LIMITS).and_then(|f| f.warmup()).map_err(Problem::input)?;
        Ok(steadiness::evidence(&warmup))
    };
    state.heavy.work(WARM_UP_BYTES, read).await.map(Json)
}

/// The response once more, by the quantiles of free drawing with a pen and on the tablet.
pub async fn second_estimate(Extract(state): Extract<State>, access: Access, Path((_, id, pen)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<SecondEstimate>> {
    let (p, text) = kept(&state, &access, id).await?;
    let pen = store::pens::one(&state.pool, access.production, pen).await?.ok_or_else(|| Problem::not_found("the pen"))?;
    let estimated = move || {
        let warmup = inkml::read(&text, &LIMITS).and_then(|f| f.warmup()).map_err(Problem::input)?;
        quantiles::second_estimate(&pen.card, &p.profile, &warmup).map_err(Problem::input)
    };
    state.heavy.work(WARM_UP_BYTES, estimated).await.map(Json)
}

/// Whether a profile still holds; nothing is saved.
pub async fn recheck(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<DrawnWarmUp>) -> Answer<Json<Recheck>> {
    let (p, _) = kept(&state, &access, id).await?;
    let ask = sent.read().await?;
    let checked = move || {
        let fresh = from_page(ask.groups)?.scaled_by_card().ok_or_else(|| Problem::input("a re-check needs no card; leave it out"))?;
        transfer::recheck(&p.profile, &fresh).map_err(Problem::input)
    };
    state.heavy.work(WARM_UP_BYTES, checked).await.map(Json)
}

/// Keeps the profile anew, with the force curve of a kitchen scale.
pub async fn hand_scale(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<ScaleReadings>) -> Answer<Made> {
    let (p, inkml) = kept(&state, &access, id).await?;
    let scale = transfer::hand_scale(&ask.readings).map_err(Problem::input)?;
    let new = NewProfile { artist: p.artist, tablet: p.tablet, inkml };
    let mut reading = ProfileReading { profile: p.profile, used: p.used, inkml: new.inkml.clone(), slips_counted: None };
    reading.profile.hysteresis = scale.hysteresis.or(reading.profile.hysteresis);
    reading.profile.force_n = Some(scale.force_n);
    let pairs = store::profiles::pairs(&state.pool, access.production, id).await?;
    let mut tx = state.pool.begin().await?;
    let id = store::profiles::keep(&mut tx, &access, &new, &reading, pairs.as_ref().map(|p| (&p.0, p.1))).await?;
    store::audit::log(&mut tx, &access, "force measured", &reading.profile.label).await?;
    tx.commit().await?;
    Ok(Made::new(&access, "profiles", id))
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Json(new): Json<NewProfile>) -> Answer<Made> {
    keep_profile(&state, &access, new).await.map(|id| Made::new(&access, "profiles", id))
}

pub async fn rename(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(new): Json<NewName>) -> Answer<Json<()>> {
    let name = new_name(&new)?;
    let mut tx = state.pool.begin().await?;
    let before = store::profiles::rename(&mut tx, access.production, id, name).await?.ok_or_else(|| Problem::not_found("the profile"))?;
    store::audit::log(&mut tx, &access, "tablet renamed", &format!("{before} to {name}")).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn list(Extract(state): Extract<State>, access: Access, Query(ask): Query<PageAsk>) -> Answer<Json<Vec<ProfileView>>> {
    let mut all = store::profiles::list(&state.pool, access.production, part(&state, &access, Kind::Profiles, ask).await?).await?;
    all.iter_mut().for_each(|p| p.mine = same_name(&p.artist, &access.member.name));
    Ok(Json(all))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<ProfileView>> {
    kept(&state, &access, id).await.map(|p| Json(p.0))
}

pub async fn warmup(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Response> {
    let (_, text) = kept(&state, &access, id).await?;
    Ok(([(header::CONTENT_TYPE, "application/inkml+xml"), (header::CONTENT_DISPOSITION, "attachment; filename=\"warm-up.inkml\"")], text).into_response())
}
