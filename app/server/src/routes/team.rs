//! The team: who differs, the working behind it, trims, and the report.

use axum::{
    extract::{Path, Query, State as Extract},
    http::StatusCode,
    response::Response,
};
use eddymist_check::team::{By, look, working};
use eddymist_ink::Brush;
use uuid::Uuid;

use super::bodies::{Made, file};
use crate::{
    access::Lead,
    access::lead_only,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::brushes::version,
    work::report::report,
    work::team::{carries, computed, known, looked, may_answer, profiles, seen, trims},
};
use eddymist_store::{
    model::{Access, *},
    store::{self},
};

pub async fn read(Extract(state): Extract<State>, access: Access, Query(ask): Query<TeamAsk>) -> Answer<Json<TeamView>> {
    let guides = store::guides::list(&state.pool, access.production).await?;
    let guides: Vec<TeamGuide> = guides.into_iter().map(|g| TeamGuide { id: g.id, name: g.guide.name, version: g.version }).collect();
    let Some(found) = seen(&state, &access, &ask).await? else {
        return Ok(Json(TeamView { guide: None, guides, deliveries: Vec::new(), shots: Vec::new(), days: None, look: None, trims: Vec::new() }));
    };
    let l = &found.looked;
    let mut shots: Vec<String> = l.all.iter().filter_map(|e| e.known("shot")).map(str::to_string).collect();
    shots.sort_by(|a, b| natord::compare(a, b));
    shots.dedup();
    let days = l.all.iter().map(|e| e.day().to_string()).min().zip(l.all.iter().map(|e| e.day().to_string()).max()).map(|(a, b)| [a, b]);
    let deliveries = store::deliveries::list(&state.pool, access.production).await?;
    Ok(Json(TeamView {
        deliveries: deliveries.into_iter().map(|d| NamedRef { id: d.id, name: d.name }).collect(),
        shots,
        days,
        trims: trims(&state, &access).await?,
        look: Some(found.look.clone()),
        guide: Some(TeamGuide { id: l.guide.id, name: l.guide.guide.name.clone(), version: l.guide.version }),
        guides,
    }))
}

pub async fn behind(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, name, role)): Path<(Uuid, String, String)>,
    Query(ask): Query<TeamAsk>,
) -> Answer<Json<WorkingView>> {
    let missing = || Problem::new(StatusCode::NOT_FOUND, format!("no drawing of {name} shows {role} among those looked at"));
    let found = seen(&state, &access, &ask).await?.ok_or_else(missing)?;
    let profiles = profiles(&state, &access).await?;
    let (s, known, n, r) = (found.clone(), known(&profiles), name.clone(), role.clone());
    let worked = computed(move || working(&s.looked.guide.guide, &s.look, &s.looked.entries, &known, &n, &r)).await?.ok_or_else(missing)?;
    let l = &found.looked;
    let sequence = match l.by {
        By::Artist => store::deliveries::sequence_of(&state.pool, access.production, l.guide.id, &name, &role).await?,
        _ => Vec::new(),
    };
    let sequence = sequence.into_iter().filter(|s| ask.delivery.is_none_or(|d| d == s.delivery)).collect();
    let (carries, no_carry) = match &worked.trim {
        Some(trim) => match carries(&state, &access, l, &profiles, &name, &role, trim).await? {
            Ok(c) => (c, None),
            Err(why) => (Vec::new(), Some(why)),
        },
        None => (Vec::new(), None),
    };
    Ok(Json(WorkingView { working: worked, sequence, carries, no_carry }))
}

pub async fn offer(Extract(state): Extract<State>, Lead(access): Lead, Json(ask): Json<OfferTrim>) -> Answer<Made> {
    let l = looked(&state, &access, &TeamAsk { by: Some(By::Artist), ..ask.of })
        .await?
        .ok_or_else(|| Problem::input("there is no measured drawing to correct by"))?;
    let profiles = profiles(&state, &access).await?;
    let (guide, entries, known, n, r) = (l.guide.guide.clone(), l.entries.clone(), known(&profiles), ask.artist.clone(), ask.role.clone());
    let found = computed(move || {
        let team = look(&guide, &entries, By::Artist);
        let says = team.sentences.iter().find(|s| s.name == n).map(|s| s.says.clone());
        working(&guide, &team, &entries, &known, &n, &r).map(|w| (w, says))
    })
    .await?;
    let (Some(trim), says) = found.map_or((None, None), |(w, s)| (w.trim, s)) else {
        return Err(Problem::input(format!("{} is neither heavy nor thin in {} over these drawings: there is nothing to correct", ask.artist, ask.role)));
    };
    let carries = carries(&state, &access, &l, &profiles, &ask.artist, &ask.role, &trim).await?.map_err(Problem::input)?;
    let Some(c) = carries.iter().find(|c| c.onto == ask.onto) else {
        return Err(Problem::input(format!("{} has no profile on that tablet, or its brush does not change with effort: offer it for the brush", ask.artist)));
    };
    let says = says.unwrap_or_default();
    let offer = store::team::Offer {
        artist: &ask.artist,
        role: &ask.role,
        guide: l.guide.id,
        trim: &trim,
        onto: c.onto,
        brush: (c.brush_id, c.brush_version),
        profile: c.profile_id,
        curve: &c.after,
        says: &says,
    };
    let mut tx = state.pool.begin().await?;
    let id = store::team::offer(&mut tx, &access, &offer).await?.ok_or_else(|| {
        Problem::new(
            StatusCode::CONFLICT,
            format!("a weight correction of {} for {} waits already; it must be answered or withdrawn first", ask.role, ask.artist),
        )
    })?;
    store::audit::log(&mut tx, &access, "weight correction offered", &format!("{} of {}, onto the {}", ask.role, ask.artist, c.onto.name())).await?;
    tx.commit().await?;
    Ok(Made::new(&access, "trims", id))
}

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<TrimView>>> {
    Ok(Json(trims(&state, &access).await?))
}

async fn open(state: &State, access: &Access, id: Uuid) -> Answer<TrimView> {
    let t = store::team::trims(&state.pool, access.production)
        .await?
        .into_iter()
        .find(|t| t.id == id)
        .ok_or_else(|| Problem::not_found("this weight correction"))?;
    if t.state != "offered" {
        return Err(answered(&t));
    }
    Ok(t)
}

fn answered(t: &TrimView) -> Problem {
    let by = t.answered_by.as_deref().unwrap_or("somebody");
    Problem::new(StatusCode::CONFLICT, format!("this weight correction was {} by {by} meanwhile; nothing was changed", t.state))
}

/// Takes a trim: a brush of the artist's own, or their profile anew. What was there stays as it is.
pub async fn take(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<Created>> {
    let t = open(&state, &access, id).await?;
    if !may_answer(&state, &access, &t.artist).await? {
        return Err(Problem::new(StatusCode::FORBIDDEN, format!("this weight correction is offered to {}, who accepts or declines", t.artist)));
    }
    let says = format!("weight correction of {} by {}, from version {}: {}", t.role, t.by, t.brush_version, t.says);
    let mut tx = state.pool.begin().await?;
    let (made, what) = match (t.onto, t.profile_id) {
        (Onto::Profile, Some(profile)) => {
            let advice = format!("Corrected for {}: {}", t.role, t.says);
            let id = store::team::trimmed_profile(&mut tx, &access, profile, &t.curve, &advice).await?;
            (id.ok_or_else(|| Problem::not_found("the profile"))?, "profile saved".to_string())
        }
        _ => {
            let from =
                store::brushes::one(&state.pool, access.production, access.member.id, t.brush_id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
            let brush = version(&state, &access, t.brush_id, t.brush_version).await?.brush;
            let name = if from.name.ends_with(&format!("for {}", t.artist)) { from.name } else { format!("{} for {}", from.name, t.artist) };
            let brush = Brush { name: name.clone(), weight: t.curve.clone(), ..brush };
            let own = store::team::own_brush(&state.pool, access.production, &name).await?;
            let id = store::brushes::keep_trimmed(&mut tx, &access, &brush, own, t.profile_id, &says).await?;
            (id, format!("{name} made"))
        }
    };
    if !store::team::answer(&mut tx, &access, id, "taken", Some(made)).await? {
        // Somebody answered between: the transaction is dropped with what was made.
        drop(tx);
        return Err(answered(&store::team::trims(&state.pool, access.production).await?.into_iter().find(|x| x.id == id).unwrap_or(t)));
    }
    store::audit::log(&mut tx, &access, "weight correction accepted", &format!("{} of {}: {what}", t.role, t.artist)).await?;
    tx.commit().await?;
    Ok(Json(Created { id: made }))
}

/// Leaves a trim: the artist declines it, or a lead withdraws it.
pub async fn leave(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let t = open(&state, &access, id).await?;
    let own = may_answer(&state, &access, &t.artist).await?;
    if !own {
        lead_only(&access)?;
    }
    let (answer, action) = if own { ("declined", "weight correction declined") } else { ("withdrawn", "weight correction withdrawn") };
    let mut tx = state.pool.begin().await?;
    if !store::team::answer(&mut tx, &access, id, answer, None).await? {
        return Err(Problem::new(StatusCode::CONFLICT, "this weight correction was answered meanwhile; nothing was changed"));
    }
    store::audit::log(&mut tx, &access, action, &format!("{} of {}", t.role, t.artist)).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn take_report(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, kind)): Path<(Uuid, String)>,
    Query(ask): Query<TeamAsk>,
) -> Answer<Response> {
    let production = store::members::production_name(&state.pool, access.production).await?;
    let (media, bytes) = report(&state, &access, &production, &kind, &ask).await?;
    Ok(file(format!("team-lines.{kind}"), media, bytes))
}
