//! Deliveries: names read, drawings taken in, checks followed, drawings shown.

use std::{convert::Infallible, time::Duration};

use axum::{
    Json,
    extract::{Multipart, Path, State as Extract},
    response::sse::{Event, KeepAlive, Sse},
};
use eddymist_check::{
    HandOn, LineCheck, NamePattern, Verdict,
    document::{FORMAT, Failed},
    drift::drifts,
    judge::not_looked_for,
};
use eddymist_formats::{archive, images};
use futures::Stream;
use uuid::Uuid;

use super::uploaded;
use crate::{
    access::Access,
    problem::{Answer, Problem},
    state::State,
    store,
    views::{Created, DeliverySummary, DeliveryView, DrawingSummary, DrawingView, NameRead, NamesPreview, NewDelivery},
};

fn pattern_of(text: &str) -> Answer<Option<NamePattern>> {
    if text.trim().is_empty() { Ok(None) } else { NamePattern::parse(text.trim()).map(Some).map_err(Problem::input) }
}

pub async fn names(_: Access, Json(ask): Json<NamesPreview>) -> Answer<Json<Vec<NameRead>>> {
    let pattern = pattern_of(&ask.pattern)?;
    Ok(Json(ask.files.into_iter().map(|file| NameRead { fields: pattern.as_ref().and_then(|p| p.read(&file)), file }).collect()))
}

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<DeliverySummary>>> {
    Ok(Json(store::deliveries::list(&state.pool, access.production).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(new): Json<NewDelivery>) -> Answer<Json<Created>> {
    if new.name.trim().is_empty() {
        return Err(Problem::input("the delivery needs a name, such as “Shot 012, 24 November”"));
    }
    pattern_of(&new.pattern)?;
    let guide = store::guides::one(&state.pool, access.production, new.guide_id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    let id = store::deliveries::create(&state.pool, &access, &new, guide.version).await?;
    store::audit::log(&state.pool, &access, "delivery made", &new.name).await?;
    Ok(Json(Created { id }))
}

/// The delivery, or a 404.
async fn own(state: &State, access: &Access, id: Uuid) -> Answer<store::deliveries::Delivery> {
    store::deliveries::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the delivery"))
}

pub async fn add(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, body: Multipart) -> Answer<Json<Vec<NameRead>>> {
    let delivery = own(&state, &access, id).await?;
    let pattern = pattern_of(&delivery.pattern)?;
    let mut files = Vec::new();
    for (name, bytes) in uploaded(body).await?.files {
        if archive::is_plain_zip(&bytes) {
            let read = archive::entries(&bytes, |entry, data| files.push((format!("{name}/{entry}"), data)));
            if let Err(e) = read {
                files.push((name, Err(e)));
            }
        } else {
            files.push((name, Ok(bytes)));
        }
    }
    let mut out = Vec::new();
    for (file, data) in files {
        let fields = pattern.as_ref().and_then(|p| p.read(&file));
        let bytes = data.clone().unwrap_or_default();
        let sha = store::images::keep(&state.pool, access.production, super::pens::media_type(&bytes), &bytes).await?;
        // A picture's header is looked at before anything is queued; the rest is the check's to say.
        let raster = !bytes.starts_with(b"PK") && !bytes.starts_with(b"<");
        match data.and_then(|b| if raster { images::dimensions(&b).map(|_| ()) } else { Ok(()) }) {
            Ok(()) => {
                let drawing = store::deliveries::add_drawing(&state.pool, id, &file, &sha, &fields.clone().unwrap_or_default()).await?;
                state.enqueue(drawing).await?;
            }
            Err(e) => store::deliveries::add_failed(&state.pool, id, &file, &sha, &e.to_string()).await?,
        }
        out.push(NameRead { file, fields });
    }
    store::audit::log(&state.pool, &access, "drawings added", &format!("{} to {}", out.len(), delivery.name)).await?;
    Ok(Json(out))
}

pub async fn pattern(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<NamesPreview>) -> Answer<Json<()>> {
    own(&state, &access, id).await?;
    let pattern = pattern_of(&ask.pattern)?;
    let manifests: Vec<_> = store::deliveries::drawings(&state.pool, id)
        .await?
        .into_iter()
        .map(|d| (d.id, pattern.as_ref().and_then(|p| p.read(&d.file)).unwrap_or_default()))
        .collect();
    store::deliveries::set_pattern(&state.pool, id, ask.pattern.trim(), &manifests).await?;
    Ok(Json(()))
}

/// Drawings in the natural order of their numbers, then of their names.
fn ordered(mut drawings: Vec<DrawingSummary>) -> Vec<DrawingSummary> {
    let key = |d: &DrawingSummary| d.manifest.get("drawing").cloned().unwrap_or_else(|| d.file.clone());
    drawings.sort_by(|a, b| natord::compare(&key(a), &key(b)).then(natord::compare(&a.file, &b.file)));
    drawings
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<DeliveryView>> {
    let d = own(&state, &access, id).await?;
    let drawings = ordered(store::deliveries::drawings(&state.pool, id).await?);
    let (headline, summary) = sentences(&drawings);
    let checks: Vec<_> = drawings.iter().filter_map(|d| d.check.clone()).collect();
    Ok(Json(DeliveryView {
        sequence: drifts(&d.guide, &checks),
        id,
        name: d.name,
        pattern: d.pattern,
        guide_id: d.guide_id,
        guide_version: d.guide_version,
        not_looked_for: not_looked_for(&d.guide),
        guide: d.guide,
        drawings,
        headline,
        summary,
    }))
}

fn plural(n: usize, one: &str, many: &str) -> String {
    format!("{n} {}", if n == 1 { one } else { many })
}

fn sentences(drawings: &[DrawingSummary]) -> (String, String) {
    let count = |f: &dyn Fn(&DrawingSummary) -> bool| drawings.iter().filter(|d| f(d)).count();
    let hand = |d: &DrawingSummary| d.check.as_ref().and_then(|c| c.hand_on);
    let (back, ready) = (count(&|d| hand(d) == Some(HandOn::Return)), count(&|d| hand(d) == Some(HandOn::Ready)));
    let (waiting, failed) = (count(&|d| d.state == "waiting"), count(&|d| d.state == "failed"));
    let outside = |v: Verdict| count(&|d| d.check.iter().flat_map(|c| &c.roles).any(|r| r.verdict == Some(v)));
    let headline = match (waiting, back) {
        _ if drawings.is_empty() => "No drawings yet".into(),
        (0, 0) => "No drawing goes back".into(),
        (0, 1) => "1 drawing goes back".into(),
        (0, n) => format!("{n} drawings go back"),
        (w, _) => format!("{} still to weigh", plural(w, "drawing", "drawings")),
    };
    let mut parts = Vec::new();
    if outside(Verdict::Heavy) > 0 {
        parts.push(format!("{} heavy in a role", outside(Verdict::Heavy)));
    }
    if outside(Verdict::Thin) > 0 {
        parts.push(format!("{} thin in a role", outside(Verdict::Thin)));
    }
    parts.push(format!("{ready} ready"));
    if failed > 0 {
        parts.push(format!("{failed} could not be read"));
    }
    (headline, parts.join(" · "))
}

pub async fn progress(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
) -> Answer<Sse<impl Stream<Item = Result<Event, Infallible>>>> {
    own(&state, &access, id).await?;
    // Jobs may have been lost with a queue: what waits is put in again, and weighed once all the same.
    for drawing in store::deliveries::waiting(&state.pool, id).await? {
        state.enqueue(drawing).await?;
    }
    let stream = futures::stream::unfold((state, false), move |(state, ended)| async move {
        if ended {
            return None;
        }
        tokio::time::sleep(Duration::from_millis(300)).await;
        let (waiting, done, failed) = store::deliveries::progress(&state.pool, id).await.unwrap_or((0, 0, 0));
        let event = Event::default().data(format!("{{\"waiting\":{waiting},\"done\":{done},\"failed\":{failed}}}"));
        Some((Ok(event), (state, waiting == 0)))
    });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

pub async fn document(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<LineCheck>> {
    let d = own(&state, &access, id).await?;
    let drawings = ordered(store::deliveries::drawings(&state.pool, id).await?);
    let failed = drawings.iter().filter_map(|d| Some(Failed { file: d.file.clone(), message: d.message.clone()? })).collect();
    let drawings: Vec<_> = drawings.into_iter().filter_map(|d| d.check).collect();
    Ok(Json(LineCheck {
        format: FORMAT.into(),
        version: 1,
        guide: d.guide.name.clone(),
        not_looked_for: not_looked_for(&d.guide),
        sequence: drifts(&d.guide, &drawings),
        drawings,
        failed,
    }))
}

pub async fn drawing(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<DrawingView>> {
    store::deliveries::drawing(&state.pool, access.production, id).await?.map(Json).ok_or_else(|| Problem::not_found("the drawing"))
}
