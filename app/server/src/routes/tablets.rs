//! Warm-ups read, profiles kept, stand-ins.

use axum::{
    Json,
    extract::{Path, State as Extract},
    http::header,
    response::{IntoResponse, Response},
};
use eddymist_calibrate::{
    Exercise, Group, WarmUp,
    profile::{profile, used_histogram},
};
use eddymist_formats::inkml;
use eddymist_ink::{Sample, Stroke};
use eddymist_sim::{
    pens::PENS,
    stylus::{self, HANDS, Hand, TABLETS, Tablet},
};
use uuid::Uuid;

use crate::{
    access::Access,
    problem::{Answer, Problem},
    state::State,
    store,
    views::{Created, DrawnWarmUp, NewProfile, ProfileReading, ProfileView, SimulatedWarmUp, StandIn, StandIns, WarmUpText},
};

const BINS: usize = 40;

/// Reads a warm-up and what it tells.
pub fn reading(text: &str, label: &str) -> Answer<ProfileReading> {
    let warmup = inkml::read(text).and_then(|f| f.warmup()).map_err(Problem::input)?;
    let profile = profile(&warmup, label).map_err(Problem::input)?;
    Ok(ProfileReading { used: used_histogram(&warmup, BINS), profile, inkml: text.into() })
}

pub async fn stand_ins(_: Access) -> Json<StandIns> {
    let named = |id: &str, name: &str| StandIn { id: id.into(), name: name.into() };
    Json(StandIns {
        hands: HANDS.iter().map(|h| named(h.id, h.name)).collect(),
        tablets: TABLETS.iter().map(|t| named(t.id, t.name)).collect(),
        pens: PENS.iter().map(|p| named(p.id, p.name)).collect(),
    })
}

pub async fn simulated(_: Access, Json(ask): Json<SimulatedWarmUp>) -> Answer<Json<ProfileReading>> {
    let hand = Hand::by_id(&ask.hand).ok_or_else(|| Problem::not_found("the simulated hand"))?;
    let tablet = Tablet::by_id(&ask.tablet).ok_or_else(|| Problem::not_found("the simulated tablet"))?;
    reading(&inkml::write_warmup(&stylus::warmup(hand, tablet, 5)), tablet.name).map(Json)
}

pub async fn read(_: Access, Json(ask): Json<WarmUpText>) -> Answer<Json<ProfileReading>> {
    reading(&ask.inkml, &ask.label).map(Json)
}

pub async fn drawn(_: Access, Json(ask): Json<DrawnWarmUp>) -> Answer<Json<ProfileReading>> {
    let mut groups = Vec::new();
    for g in ask.groups {
        let exercise = Exercise::from_name(&g.exercise).ok_or_else(|| Problem::input(format!("the exercise “{}” is not known", g.exercise)))?;
        let strokes = g
            .strokes
            .iter()
            .map(|s| {
                let samples = s.chunks_exact(6).filter_map(|v| {
                    Some(Sample { t_ms: v[0]?, x: v[1]?, y: v[2]?, pressure: v[3].map(|p| p.clamp(0.0, 1.0)), azimuth_deg: v[4], elevation_deg: v[5] })
                });
                Stroke::new(samples.collect())
            })
            .collect();
        groups.push(Group { exercise, effort: g.effort, pace: None, strokes });
    }
    let text = inkml::write_warmup(&WarmUp { groups, scale_from_card: false });
    reading(&text, &ask.label).map(Json)
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Json(new): Json<NewProfile>) -> Answer<Json<Created>> {
    keep_profile(&state, &access, new).await.map(|id| Json(Created { id }))
}

/// Keeps the profile of a warm-up.
pub async fn keep_profile(state: &State, access: &Access, new: NewProfile) -> Answer<Uuid> {
    if new.artist.trim().is_empty() || new.tablet.trim().is_empty() {
        return Err(Problem::input("say whose hand it was and on which tablet"));
    }
    let label = format!("{} on the {}", new.artist.trim(), new.tablet.trim());
    let reading = reading(&new.inkml, &label)?;
    let id = store::profiles::keep(&state.pool, access, &new, &reading).await?;
    store::audit::log(&state.pool, access, "profile kept", &label).await?;
    Ok(id)
}

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<ProfileView>>> {
    Ok(Json(store::profiles::list(&state.pool, access.production).await?))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<ProfileView>> {
    store::profiles::one(&state.pool, access.production, id).await?.map(|p| Json(p.0)).ok_or_else(|| Problem::not_found("the profile"))
}

pub async fn warmup(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Response> {
    let (_, text) = store::profiles::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the profile"))?;
    Ok(([(header::CONTENT_TYPE, "application/inkml+xml"), (header::CONTENT_DISPOSITION, "attachment; filename=\"warm-up.inkml\"")], text).into_response())
}
