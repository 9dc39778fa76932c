//! Takes: handed in for a drawing, told of which drawing they are; drawings that are removed, marked as no drawings, and restored.

use axum::extract::{Multipart, Path, State as Extract};
use axum::response::Response;
use eddymist_check::{LineGuide, limits::LeftOut};
use eddymist_formats::archive;
use eddymist_sim::handed_in::day::{day, guide as day_guide};
use uuid::Uuid;

use super::{
    bodies::{Made, file, uploaded},
    drawings,
};
use crate::{
    access::Lead,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::intake,
};
use eddymist_store::{
    model::{Access, FileTaken, MemberAccess, SetAside, Subject, TakeOf, WhyAside},
    store,
};

/// Takes one file in as the next take of a drawing.
pub async fn hand_in(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, body: Multipart) -> Answer<Json<FileTaken>> {
    let d = drawings::own(&state, &access, id).await?;
    let mut sent = uploaded(body).await?;
    let note = sent.note.trim().to_string();
    if note.chars().count() > 1000 {
        return Err(Problem::input("a note with a take has up to 1000 characters"));
    }
    if sent.files.len() > 1 {
        return Err(Problem::input("one file is handed in for one drawing: drop several on the delivery. Nothing was changed"));
    }
    let Some(file) = sent.files.pop() else { return Err(Problem::input("no file came with the request")) };
    Ok(Json(intake::hand_in(&state, &access, &d, file, &note).await?))
}

/// Says whose next take a drawing is, or that it is a drawing of its own.
pub async fn take_of(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<TakeOf>) -> Answer<Json<()>> {
    let d = drawings::own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    if !store::takes::answer(&mut tx, id, ask.of).await? {
        return Err(Problem::conflict("this was answered already, or the drawing has a later take: nothing was changed. Reload the page"));
    }
    let says = if ask.of.is_some() { "is a next take" } else { "is a drawing of its own" };
    store::audit::pictured(&mut tx, &access, "take told", &format!("{} {says}", d.file), Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    state.enqueue_waiting(false).await?;
    Ok(Json(()))
}

/// Removes drawings, marks them as no drawings, or restores them. A lead may of all, who added one of theirs.
pub async fn set_aside(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Json(ask): Json<SetAside>,
) -> Answer<Json<Vec<String>>> {
    let d = intake::own(&state, &access, id).await?;
    let own_only = access.part != MemberAccess::Lead;
    let mut tx = state.pool.begin().await?;
    let (files, what) = match ask.why {
        Some(why) => {
            let said = if why == WhyAside::Removed { "removed" } else { "marked as no drawing" };
            (store::takes::set_aside(&mut tx, &access, id, &ask.drawings, why, own_only).await?, said)
        }
        None => (store::takes::restore(&mut tx, &access, id, &ask.drawings, own_only).await?, "restored"),
    };
    if files.is_empty() {
        return Err(Problem::conflict(
            "nothing was changed: the drawing is not as it was on this page, a later take of it is here, or it was added by somebody else. Reload the page",
        ));
    }
    let named = files.iter().take(5).map(String::as_str).collect::<Vec<_>>().join(", ");
    store::audit::pictured(
        &mut tx,
        &access,
        what,
        &format!("{named}{} of {}", if files.len() > 5 { " and more" } else { "" }, d.name),
        Subject::Drawing,
        &ask.drawings,
    )
    .await?;
    tx.commit().await?;
    state.enqueue_waiting(false).await?;
    Ok(Json(files))
}

/// What making a simulated delivery takes.
const SIMULATED_BYTES: u64 = 256 << 20;
/// So many regions are left out of one drawing.
const MOST_REGIONS: usize = 100;

/// Leaves a region out of one drawing, which is checked again; it goes with its takes.
pub async fn leave_out(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(region): Json<LeftOut>) -> Answer<Made> {
    let d = drawings::own(&state, &access, id).await?;
    let region = LeftOut { shot: None, ..region };
    region.validate().map_err(Problem::input)?;
    if store::regions::of(&state.pool, id).await?.len() >= MOST_REGIONS {
        return Err(Problem::input(format!("up to {MOST_REGIONS} regions are left out of one drawing: remove one first")));
    }
    let mut tx = state.pool.begin().await?;
    let made = store::regions::add(&mut tx, &access, id, &region).await?;
    store::audit::pictured(&mut tx, &access, "region left out", &format!("{} on {}", region.name, d.file), Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    state.enqueue(id).await?;
    Ok(Made::new(&access, &format!("drawings/{id}/regions"), made))
}

/// A region is no longer left out of a drawing, which is checked again.
pub async fn put_in(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id, region)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<()>> {
    let d = drawings::own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    if !store::regions::remove(&mut tx, id, region).await? {
        return Err(Problem::not_found("the region"));
    }
    store::audit::pictured(&mut tx, &access, "region no longer left out", &d.file, Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    state.enqueue(id).await?;
    Ok(Json(()))
}

/// The guide that the simulated delivery is of.
pub async fn simulated_guide(_: Access) -> Json<LineGuide> {
    Json(day_guide())
}

/// A simulated delivery as a ZIP: 24 drawings, their manifest, and the guide that they are of.
pub async fn simulated(Extract(state): Extract<State>, _: Access) -> Answer<Response> {
    let made = state.heavy.work(SIMULATED_BYTES, || {
        let day = day(7);
        let guide = serde_json::to_vec_pretty(&day.guide)?;
        let mut entries: Vec<(String, Vec<u8>)> = day.files.into_iter().map(|f| (f.name, f.bytes)).collect();
        entries.push(("manifest.csv".into(), day.manifest.into_bytes()));
        entries.push(("guide.json".into(), guide));
        archive::zip(&entries).map_err(Problem::input)
    });
    Ok(file("simulated-delivery.zip".into(), "application/zip", made.await?))
}
