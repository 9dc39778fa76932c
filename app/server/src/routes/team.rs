//! The team: who differs, the working behind it, trims, and the report.

use std::collections::{HashMap, hash_map::Entry as Slot};

use axum::{
    Json,
    extract::{Path, Query, State as Extract},
    http::StatusCode,
    response::Response,
};
use eddymist_check::{
    LineGuide,
    team::{
        By, Entry, Span, TeamLook, entries,
        fits::{ProfileKnown, same_name},
        look,
        trim::{Trim, on_response, on_weight, outcome},
        working,
    },
};
use eddymist_formats::team_report::{Heading, Paper, csv, pdf};
use eddymist_ink::Brush;
use uuid::Uuid;

use super::sheets::file;
use crate::{
    access::{Access, Lead, PartIn},
    problem::{Answer, Problem},
    state::State,
    store::{self, team::Takes},
    views::*,
};

/// The drawings that were asked for, with their guide.
pub struct Looked {
    pub guide: GuideView,
    pub entries: Vec<Entry>,
    pub by: By,
    all: Vec<Entry>,
}

/// The guide that holds the newest delivery, or the one asked for.
async fn guide_of(state: &State, access: &Access, asked: Option<Uuid>) -> Answer<Option<GuideView>> {
    let guides = store::guides::list(&state.pool, access.production).await?;
    match asked {
        Some(id) => guides.into_iter().find(|g| g.id == id).map(Some).ok_or_else(|| Problem::not_found("this guide")),
        None => {
            let newest = store::deliveries::newest_guide(&state.pool, access.production).await?;
            Ok(guides.into_iter().find(|g| Some(g.id) == newest))
        }
    }
}

async fn looked(state: &State, access: &Access, ask: &TeamAsk) -> Answer<Option<Looked>> {
    let some = |v: &Option<String>| v.clone().filter(|s| !s.trim().is_empty());
    let span = Span { shot: some(&ask.shot), from: some(&ask.from), to: some(&ask.to) };
    span.validate().map_err(Problem::input)?;
    if let Some(d) = ask.delivery {
        store::deliveries::one(&state.pool, access.production, d).await?.ok_or_else(|| Problem::not_found("this delivery"))?;
    }
    let Some(guide) = guide_of(state, access, ask.guide).await? else { return Ok(None) };
    // A delivery is looked at as it is; all of them together by how each drawing came first.
    let takes = if ask.delivery.is_some() { Takes::Current } else { Takes::First };
    let all = store::team::entries(&state.pool, access.production, guide.id, ask.delivery, takes).await?;
    let entries = all.iter().filter(|e| span.holds(e)).cloned().collect();
    Ok(Some(Looked { guide, entries, by: ask.by.unwrap_or_default(), all }))
}

/// Statistics off the threads that serve.
async fn computed<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Answer<T> {
    tokio::task::spawn_blocking(work).await.map_err(|e| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, format!("the team could not be reckoned: {e}")))
}

async fn look_of(l: &Looked) -> Answer<TeamLook> {
    let (guide, entries, by) = (l.guide.guide.clone(), l.entries.clone(), l.by);
    computed(move || look(&guide, &entries, by)).await
}

async fn profiles(state: &State, access: &Access) -> Answer<Vec<ProfileView>> {
    Ok(store::profiles::list(&state.pool, access.production).await?)
}

fn known(profiles: &[ProfileView]) -> Vec<ProfileKnown> {
    profiles
        .iter()
        .map(|p| ProfileKnown { artist: p.artist.clone(), tablet: p.tablet.clone(), full_point: p.profile.full_point, seen: p.profile.full_point_seen })
        .collect()
}

pub async fn read(Extract(state): Extract<State>, access: Access, Query(ask): Query<TeamAsk>) -> Answer<Json<TeamView>> {
    let guides = store::guides::list(&state.pool, access.production).await?;
    let guides: Vec<TeamGuide> = guides.into_iter().map(|g| TeamGuide { id: g.id, name: g.guide.name, version: g.version }).collect();
    let Some(l) = looked(&state, &access, &ask).await? else {
        return Ok(Json(TeamView { guide: None, guides, deliveries: Vec::new(), shots: Vec::new(), days: None, look: None, trims: Vec::new() }));
    };
    let look = look_of(&l).await?;
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
        look: Some(look),
        guide: Some(TeamGuide { id: l.guide.id, name: l.guide.guide.name, version: l.guide.version }),
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
    let l = looked(&state, &access, &ask).await?.ok_or_else(missing)?;
    let profiles = profiles(&state, &access).await?;
    let (guide, entries, by, known, n, r) = (l.guide.guide.clone(), l.entries.clone(), l.by, known(&profiles), name.clone(), role.clone());
    let found = computed(move || working(&guide, &look(&guide, &entries, by), &entries, &known, &n, &r)).await?.ok_or_else(missing)?;
    let sequence = match l.by {
        By::Artist => store::deliveries::sequence_of(&state.pool, access.production, l.guide.id, &name, &role).await?,
        _ => Vec::new(),
    };
    let sequence = sequence.into_iter().filter(|s| ask.delivery.is_none_or(|d| d == s.delivery)).collect();
    let (carries, no_carry) = match &found.trim {
        Some(trim) => match carries(&state, &access, &l, &profiles, &name, &role, trim).await? {
            Ok(c) => (c, None),
            Err(why) => (Vec::new(), Some(why)),
        },
        None => (Vec::new(), None),
    };
    Ok(Json(WorkingView { working: found, sequence, carries, no_carry }))
}

/// What a trim can be carried onto: the brush that the role is drawn with, and the profile of the tablet it is drawn on.
async fn carries(
    state: &State,
    access: &Access,
    l: &Looked,
    profiles: &[ProfileView],
    artist: &str,
    role: &str,
    trim: &Trim,
) -> Answer<Result<Vec<Carry>, String>> {
    let mut own: Vec<&Entry> = l.entries.iter().filter(|e| e.known("artist") == Some(artist)).collect();
    entries::in_order(&mut own);
    // What was used last is what is in the artist's hand now.
    let last = |column: &str| own.iter().rev().find_map(|e| e.known(column));
    let rack = store::brushes::list(&state.pool, access.production).await?;
    let roll = store::roll::read(&state.pool, access.production).await?;
    let on_roll = roll.iter().find(|r| r.role == role);
    let named = last("brush").and_then(|b| rack.iter().find(|x| same_name(&x.name, b)));
    let Some(brush) = named.or_else(|| on_roll.and_then(|r| rack.iter().find(|b| b.id == r.brush_id))) else {
        return Ok(Err(format!("no brush is known for {role}: put one on the pen roll for it, or name it in the manifest's column brush")));
    };
    let factor = on_roll.filter(|r| r.brush_id == brush.id).map_or(1.0, |r| r.weight_factor);
    let px_per_mm = l.guide.guide.page.px_per_mm.map(|p| p * factor);
    let weight = on_weight(trim, &brush.brush.weight, px_per_mm);
    let after = Brush { weight: weight.clone(), ..brush.brush.clone() };
    let carry = |onto: Onto, name: String, why: String, profile_id: Option<Uuid>, before: Vec<[f64; 2]>, curve: Vec<[f64; 2]>| Carry {
        onto,
        name,
        why,
        brush_id: brush.id,
        brush_version: brush.current_version,
        profile_id,
        before,
        after: curve,
        brush: brush.brush.clone(),
        brush_after: after.clone(),
    };
    let mut out = vec![carry(
        Onto::Brush,
        brush.name.clone(),
        format!("a brush of their own, from {}: {role} alone changes", brush.name),
        None,
        brush.brush.weight.clone(),
        weight,
    )];
    let tablet = last("tablet");
    let profile = profiles.iter().rev().find(|p| same_name(&p.artist, artist) && tablet.is_none_or(|t| same_name(&p.tablet, t)));
    if let Some(p) = profile
        && let Ok(curve) = on_response(trim, &p.profile.response, &brush.brush.weight, px_per_mm)
    {
        let why = format!("the response of {}: every brush on this tablet follows", p.tablet);
        out.push(carry(Onto::Profile, p.profile.label.clone(), why, Some(p.id), p.profile.response.clone(), curve));
    }
    Ok(Ok(out))
}

pub async fn offer(Extract(state): Extract<State>, Lead(access): Lead, Json(ask): Json<OfferTrim>) -> Answer<Json<Created>> {
    let l =
        looked(&state, &access, &TeamAsk { by: Some(By::Artist), ..ask.of }).await?.ok_or_else(|| Problem::input("there is no weighed drawing to trim by"))?;
    let profiles = profiles(&state, &access).await?;
    let (guide, entries, known, n, r) = (l.guide.guide.clone(), l.entries.clone(), known(&profiles), ask.artist.clone(), ask.role.clone());
    let found = computed(move || {
        let team = look(&guide, &entries, By::Artist);
        let says = team.sentences.iter().find(|s| s.name == n).map(|s| s.says.clone());
        working(&guide, &team, &entries, &known, &n, &r).map(|w| (w, says))
    })
    .await?;
    let (Some(trim), says) = found.map_or((None, None), |(w, s)| (w.trim, s)) else {
        return Err(Problem::input(format!("{} is neither heavy nor thin in {} over these drawings: there is nothing to trim", ask.artist, ask.role)));
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
    let id = store::team::offer(&state.pool, &access, &offer).await?.ok_or_else(|| {
        Problem::new(StatusCode::CONFLICT, format!("a trim of {} for {} waits already; it is answered or withdrawn first", ask.role, ask.artist))
    })?;
    store::audit::log(&state.pool, &access, "trim offered", &format!("{} of {}, onto the {}", ask.role, ask.artist, c.onto.name())).await?;
    Ok(Json(Created { id }))
}

/// All trims with what became of those that were taken, and whether the member may take them.
pub(super) async fn trims(state: &State, access: &Access) -> Answer<Vec<TrimView>> {
    let mut all = store::team::trims(&state.pool, access.production).await?;
    let guides = store::guides::list(&state.pool, access.production).await?;
    let mut drawn: HashMap<Uuid, Vec<Entry>> = HashMap::new();
    for t in &mut all {
        t.mine = may_answer(state, access, &t.artist).await?;
        let (Some(at), true, Some(guide)) = (&t.answered_at, t.state == "taken", guides.iter().find(|g| g.id == t.guide_id)) else { continue };
        let Some(weight) = guide.guide.roles.iter().find(|r| r.name == t.role).and_then(|r| r.weight_px) else { continue };
        let entries = match drawn.entry(t.guide_id) {
            Slot::Occupied(e) => e.into_mut(),
            Slot::Vacant(e) => e.insert(store::team::entries(&state.pool, access.production, t.guide_id, None, Takes::Current).await?),
        };
        // Drawn since it was taken, where the manifest says when; else come in since.
        let day = at.get(..10).unwrap_or(at);
        let since: Vec<f64> = entries
            .iter()
            .filter(|e| e.known("artist").is_some_and(|a| same_name(a, &t.artist)) && e.added_at > *at && e.drawn_at().is_none_or(|d| d >= day))
            .filter_map(|e| e.role(&t.role).map(|r| r.mean_px))
            .collect();
        let (state, says) = outcome(&weight, &t.role, t.trim.before.mean_px, &since);
        (t.outcome, t.outcome_says) = (Some(state), Some(says));
    }
    Ok(all)
}

/// The artist of the trim may answer it; where no member bears the name, a lead may.
async fn may_answer(state: &State, access: &Access, artist: &str) -> Answer<bool> {
    if access.part == PartIn::Viewer {
        return Ok(false);
    }
    let own = same_name(&access.member.name, artist);
    Ok(own || access.part == PartIn::Lead && !store::team::is_member(&state.pool, access.production, artist).await?)
}

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<TrimView>>> {
    Ok(Json(trims(&state, &access).await?))
}

async fn open(state: &State, access: &Access, id: Uuid) -> Answer<TrimView> {
    let t = store::team::trims(&state.pool, access.production).await?.into_iter().find(|t| t.id == id).ok_or_else(|| Problem::not_found("this trim"))?;
    if t.state != "offered" {
        return Err(answered(&t));
    }
    Ok(t)
}

fn answered(t: &TrimView) -> Problem {
    let by = t.answered_by.as_deref().unwrap_or("somebody");
    Problem::new(StatusCode::CONFLICT, format!("this trim was {} by {by} meanwhile; nothing was changed", t.state))
}

/// Takes a trim: a brush of the artist's own, or their profile anew. What was there stays as it is.
pub async fn take(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<Created>> {
    let t = open(&state, &access, id).await?;
    if !may_answer(&state, &access, &t.artist).await? {
        return Err(Problem::new(StatusCode::FORBIDDEN, format!("this trim is offered to {}, who takes it or not", t.artist)));
    }
    let says = format!("trim of {} by {}, from version {}: {}", t.role, t.by, t.brush_version, t.says);
    let mut tx = state.pool.begin().await?;
    let (made, what) = match (t.onto, t.profile_id) {
        (Onto::Profile, Some(profile)) => {
            let advice = format!("Trimmed for {}: {}", t.role, t.says);
            let id = store::team::trimmed_profile(&mut tx, &access, profile, &t.curve, &advice).await?;
            (id.ok_or_else(|| Problem::not_found("the profile"))?, "profile kept".to_string())
        }
        _ => {
            let from = store::brushes::one(&state.pool, access.production, t.brush_id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
            let brush = from.versions.into_iter().find(|v| v.version == t.brush_version).map(|v| v.brush).ok_or_else(|| Problem::not_found("that version"))?;
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
    tx.commit().await?;
    store::audit::log(&state.pool, &access, "trim taken", &format!("{} of {}: {what}", t.role, t.artist)).await?;
    Ok(Json(Created { id: made }))
}

/// Leaves a trim: the artist declines it, or a lead withdraws it.
pub async fn leave(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let t = open(&state, &access, id).await?;
    let own = may_answer(&state, &access, &t.artist).await?;
    if !own {
        access.lead()?;
    }
    let (answer, action) = if own { ("declined", "trim declined") } else { ("withdrawn", "trim withdrawn") };
    let mut connection = state.pool.acquire().await?;
    if !store::team::answer(&mut connection, &access, id, answer, None).await? {
        return Err(Problem::new(StatusCode::CONFLICT, "this trim was answered meanwhile; nothing was changed"));
    }
    store::audit::log(&state.pool, &access, action, &format!("{} of {}", t.role, t.artist)).await?;
    Ok(Json(()))
}

/// The report's bytes with their kind.
pub async fn report(state: &State, access: &Access, production: &str, kind: &str, ask: &TeamAsk) -> Answer<(&'static str, Vec<u8>)> {
    let paper = ask.paper.as_deref().unwrap_or("a4");
    let paper = Paper::by_name(paper).ok_or_else(|| Problem::input(format!("a report is printed on a4 or letter, not on {paper}")))?;
    let l = looked(state, access, ask).await?.ok_or_else(|| Problem::input("no delivery is held against a guide yet: there is nothing to report"))?;
    if l.entries.is_empty() {
        return Err(Problem::input("no weighed drawing is among those asked for; choose other deliveries, shots or days"));
    }
    let look = look_of(&l).await?;
    let deliveries = store::deliveries::list(&state.pool, access.production).await?;
    let delivery = ask.delivery.and_then(|d| deliveries.into_iter().find(|x| x.id == d)).map(|d| d.name);
    let mut of = vec![delivery.unwrap_or_else(|| "all deliveries".into())];
    of.extend(ask.shot.iter().filter(|s| !s.is_empty()).map(|s| format!("shot {s}")));
    of.extend(ask.from.iter().filter(|s| !s.is_empty()).map(|s| format!("from {s}")));
    of.extend(ask.to.iter().filter(|s| !s.is_empty()).map(|s| format!("to {s}")));
    let heading = Heading {
        production: production.into(),
        of: of.join(", "),
        guide: held(&l.guide.guide, l.guide.version),
        made: store::iso(time::OffsetDateTime::now_utc()).get(..10).unwrap_or_default().to_string(),
    };
    match kind {
        "pdf" => {
            let bytes = computed(move || pdf(&heading, &look, paper)).await?;
            Ok(("application/pdf", bytes.map_err(|e| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, e))?))
        }
        "csv" => Ok(("text/csv; charset=utf-8", csv(&look).into_bytes())),
        other => Err(Problem::new(StatusCode::NOT_FOUND, format!("there is no report as {other}; pdf and csv are known"))),
    }
}

fn held(guide: &LineGuide, version: i32) -> String {
    format!("{}, version {version}", guide.name)
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
