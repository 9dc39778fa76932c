//! Deliveries: names read, drawings taken in, checks followed, stopped and begun anew; the line check as files.

use std::{
    collections::{BTreeMap, HashSet},
    convert::Infallible,
    time::Duration,
};

use axum::{
    extract::{Multipart, Path, Query, State as Extract},
    response::{
        Response,
        sse::{Event, KeepAlive, Sse},
    },
};
use eddymist_check::{
    LineCheck, LineGuide,
    document::{FORMAT, Failed, Pin, Verdict},
    drift::{of_summaries, unsaid},
    not_looked_for,
    sequence::order,
    summary::sentences,
    takes,
};
use eddymist_formats::{check_out, printed::Paper};
use futures::Stream;
use serde_json::json;
use uuid::Uuid;

use super::{
    archive::changed,
    bodies::{Made, file, laid_aside},
};
use crate::{
    access::Lead,
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::{
        intake::{self, known, missing_of, own, pattern_of, rows_of, take_in},
        notes, off_thread,
    },
};
use eddymist_store::{
    model::{
        Access, DeliveriesAsk, DeliveryStrip, DeliverySummary, DeliveryView, DrawingSummary, FileTaken, NameRead, NamesPreview, NamesRead, NewDelivery,
        PAGE as LISTED, PageAsk, SetManifest, StripMark,
    },
    store::{self},
};

/// What drawing one overlay takes.
const OVERLAY_BYTES: u64 = 256 << 20;

pub async fn names(Extract(state): Extract<State>, access: Access, Json(ask): Json<NamesPreview>) -> Answer<Json<NamesRead>> {
    let pattern = pattern_of(&ask.pattern)?;
    let rows = rows_of(ask.csv.as_deref())?.unwrap_or_default();
    let read: Vec<NameRead> = ask.files.into_iter().map(|file| NameRead { fields: known(pattern.as_ref(), &rows, &file), file }).collect();
    let base = |f: &str| f.rsplit('/').next().unwrap_or(f).to_string();
    let there: HashSet<String> = read.iter().flat_map(|r| [r.file.clone(), base(&r.file)]).collect();
    let absent = rows.keys().filter(|k| !there.contains(*k)).cloned().collect();
    let missing = missing_of(read.iter().map(|r| (r.file.as_str(), r.fields.as_ref())));
    let allowed = match ask.guide_id {
        Some(id) => {
            let guide = store::guides::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
            eddymist_check::missing::allowed(&guide.guide)
        }
        None => std::collections::BTreeMap::new(),
    };
    Ok(Json(NamesRead { read, missing, absent, allowed }))
}

/// So many deliveries are listed at a time.
const PAGE: i64 = 100;

pub async fn list(Extract(state): Extract<State>, access: Access, Query(ask): Query<DeliveriesAsk>) -> Answer<Json<Vec<DeliverySummary>>> {
    Ok(Json(store::deliveries::page(&state.pool, access.production, ask.before, Some(PAGE)).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(new): Json<NewDelivery>) -> Answer<Made> {
    intake::make(&state, &access, &new).await.map(|id| Made::new(&access, "deliveries", id))
}

pub async fn add(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, body: Multipart) -> Answer<Json<Vec<FileTaken>>> {
    own(&state, &access, id).await?;
    let files = laid_aside(body).await?;
    Ok(Json(take_in(&state, &access, id, files).await?))
}

pub async fn set_manifest(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<SetManifest>) -> Answer<Json<()>> {
    let delivery = own(&state, &access, id).await?;
    let ask = sent.read().await?;
    let pattern = pattern_of(&ask.pattern)?;
    let table = rows_of(ask.csv.as_deref())?;
    let mut rows = if table.is_none() || ask.add { delivery.rows } else { store::deliveries::Rows::new() };
    rows.extend(table.into_iter().flatten());
    for (file, fields) in ask.rows {
        if let Some(unknown) = fields.keys().find(|k| !eddymist_check::document::MANIFEST_COLUMNS.contains(&k.as_str())) {
            return Err(Problem::input(format!("“{unknown}” is no column of a manifest")));
        }
        rows.entry(file).or_default().extend(fields);
    }
    let read = intake::known_anew(&state, &access, id, pattern.as_ref(), &rows).await?;
    let mut tx = state.pool.begin().await?;
    if !store::deliveries::set_manifest(&mut tx, id, ask.from_version, ask.pattern.trim(), &rows, &read).await? {
        drop(tx);
        let now = own(&state, &access, id).await?;
        let current = json!({"version": now.manifest_version, "pattern": now.pattern, "rows": now.rows});
        return Err(Problem::stale("names and manifest", ask.from_version, now.manifest_version, current));
    }
    let (from, to) = (Some(ask.from_version), Some(ask.from_version + 1));
    store::audit::versions(&mut tx, &access, "manifest changed", &delivery.name, None, [from, to]).await?;
    tx.commit().await?;
    state.enqueue_waiting(false).await?;
    Ok(Json(()))
}

async fn in_order(state: &State, delivery: Uuid, guide: &LineGuide) -> Answer<Vec<DrawingSummary>> {
    let mut drawings = store::drawings::summaries(&state.pool, delivery, guide).await?;
    drawings.sort_by(|a, b| order((&a.file, &a.manifest), (&b.file, &b.manifest)));
    Ok(drawings)
}

/// The drawings of a delivery in their order, a page at a time: the first page comes with the delivery.
pub async fn drawings(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Query(ask): Query<PageAsk>,
) -> Answer<Json<Vec<DrawingSummary>>> {
    let d = own(&state, &access, id).await?;
    let drawings = in_order(&state, id, &d.guide).await?;
    let from = match ask.after {
        None => 0,
        Some(after) => drawings.iter().position(|w| w.id == after).ok_or_else(changed)? + 1,
    };
    Ok(Json(drawings.into_iter().skip(from).take(LISTED).collect()))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<DeliveryView>> {
    let d = own(&state, &access, id).await?;
    let mut drawings = in_order(&state, id, &d.guide).await?;
    let (headline, summary) = sentences(&drawings.iter().map(|d| (d.standing, d.summary.as_ref())).collect::<Vec<_>>());
    let mut missing = missing_of(drawings.iter().map(|d| (d.file.as_str(), Some(&d.manifest))));
    missing.extend(unsaid(&of_summaries(&d.guide, drawings.iter().filter_map(|d| Some((d.file.as_str(), &d.manifest, d.summary.as_ref()?))))));
    let mut by_content: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    drawings.iter().for_each(|d| by_content.entry(&d.sha256).or_default().push(&d.file));
    missing.extend(by_content.values().filter(|f| f.len() > 1).map(|f| format!("{} are the same picture", f.join(" and "))));
    Ok(Json(DeliveryView {
        manifest_version: d.manifest_version,
        sequence: d.sequence,
        id,
        name: d.name,
        pattern: d.pattern,
        guide_id: d.guide_id,
        guide_version: d.guide_version,
        current_guide_version: d.current_version,
        not_looked_for: not_looked_for(&d.guide),
        guide: d.guide,
        in_all: drawings.len(),
        drawings: {
            drawings.truncate(LISTED);
            drawings
        },
        missing,
        stopped: d.stopped,
        aside: store::takes::aside(&state.pool, id).await?,
        headline,
        summary,
    }))
}

pub async fn progress(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id)): Path<(Uuid, Uuid)>,
) -> Answer<Sse<impl Stream<Item = Result<Event, Infallible>>>> {
    own(&state, &access, id).await?;
    let production = access.production;
    let stream = futures::stream::unfold((state, false), move |(state, ended)| async move {
        if ended {
            return None;
        }
        tokio::select! {
            () = tokio::time::sleep(Duration::from_millis(300)) => {}
            // The page asks again, of whoever serves then.
            () = state.stopping.cancelled() => return None,
        }
        // A database that is away for a moment is waited for.
        let Ok((waiting, done, failed, stopped)) = store::deliveries::progress(&state.pool, id).await else {
            return Some((Ok(Event::default().comment("waiting for the database")), (state, false)));
        };
        let event = Event::default().data(format!("{{\"waiting\":{waiting},\"done\":{done},\"failed\":{failed},\"stopped\":{stopped}}}"));
        // The sequence is looked at last of all.
        let whole =
            waiting == 0 && (done == 0 || store::deliveries::one(&state.pool, production, id).await.ok().flatten().is_none_or(|d| d.sequence.is_some()));
        Some((Ok(event), (state, stopped || whole)))
    });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

pub async fn check_again(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let d = own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    let version = store::deliveries::check_again(&mut tx, id).await?;
    store::audit::log(&mut tx, &access, "checked again", &format!("{} with version {version} of {}", d.name, d.guide.name)).await?;
    tx.commit().await?;
    state.enqueue_waiting(false).await?;
    Ok(Json(()))
}

pub async fn stop(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let d = own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    store::deliveries::stop(&mut tx, id, true).await?;
    store::audit::log(&mut tx, &access, "check stopped", &d.name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn go_on(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let d = own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    store::deliveries::stop(&mut tx, id, false).await?;
    store::audit::log(&mut tx, &access, "check went on", &d.name).await?;
    tx.commit().await?;
    state.enqueue_waiting(false).await?;
    Ok(Json(()))
}

/// So many drawings make a strip.
const STRIP: usize = 120;

/// A delivery in small: pictures of three of its drawings, and how each stands.
pub async fn strip(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<DeliveryStrip>> {
    let d = own(&state, &access, id).await?;
    let drawings = in_order(&state, id, &d.guide).await?;
    let read: Vec<&DrawingSummary> = drawings.iter().filter(|d| d.summary.is_some()).collect();
    // The first, the middle and the last.
    let mut at = vec![0, read.len() / 2, read.len().saturating_sub(1)];
    at.dedup();
    let pictures = at.into_iter().filter_map(|k| read.get(k).map(|d| d.sha256.clone())).collect();
    let off = |d: &DrawingSummary| {
        let verdicts = d.summary.iter().flat_map(|s| s.lanes.iter().filter_map(|l| l.verdict));
        verdicts.filter(|v| matches!(v, Verdict::Heavy | Verdict::Thin | Verdict::Mixed)).min_by_key(|v| *v == Verdict::Mixed)
    };
    let marks = drawings.iter().take(STRIP).map(|d| StripMark { standing: d.standing, off: off(d) }).collect();
    Ok(Json(DeliveryStrip { pictures, marks, in_all: drawings.len() }))
}

/// The delivery's line check as a document, with what is marked as intended and what was pinned.
async fn line_check(state: &State, access: &Access, id: Uuid) -> Answer<(LineCheck, Vec<Uuid>)> {
    let d = own(state, access, id).await?;
    let mut all = store::drawings::checks(&state.pool, id).await?;
    all.sort_by(|a, b| order((&a.file, &a.manifest), (&b.file, &b.manifest)));
    let failed = all.iter().filter_map(|d| Some(Failed { file: d.file.clone(), message: d.message.clone()? })).collect();
    let (mut drawings, mut ids) = (Vec::new(), Vec::new());
    let mut meant = store::decisions::dismissals_of(&state.pool, id).await?;
    let mut pinned = store::decisions::pins_of(&state.pool, id).await?;
    for one in all {
        let Some(mut check) = one.check else { continue };
        takes::dismiss(&d.guide, &mut check, &meant.remove(&one.id).unwrap_or_default());
        let pins = pinned.remove(&one.id).unwrap_or_default();
        check.pins = pins.into_iter().map(|p| Pin { x: p.x, y: p.y, text: p.text, by: p.by }).collect();
        drawings.push(check);
        ids.push(one.id);
    }
    let document = LineCheck {
        format: FORMAT.into(),
        version: 1,
        guide: d.guide.name.clone(),
        not_looked_for: not_looked_for(&d.guide),
        sequence: d.sequence.unwrap_or_default(),
        drawings,
        warnings: Vec::new(),
        failed,
    };
    Ok((document, ids))
}

pub async fn document(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<LineCheck>> {
    Ok(Json(line_check(&state, &access, id).await?.0))
}

/// How notes are printed.
#[derive(serde::Deserialize, schemars::JsonSchema)]
pub struct Printed {
    /// a4 or letter; a4 where none is named.
    #[serde(default)]
    paper: Option<String>,
}

impl Printed {
    fn on(&self) -> Answer<Paper> {
        let name = self.paper.as_deref().unwrap_or("a4");
        Paper::by_name(name).ok_or_else(|| Problem::input(format!("notes are printed on a4 or letter, not on {name}")))
    }
}

/// What was returned to one artist, as PDF.
pub async fn artist_notes(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id, artist)): Path<(Uuid, Uuid, String)>,
    Query(how): Query<Printed>,
) -> Answer<Response> {
    let production = store::members::production_name(&state.pool, access.production).await?;
    let bytes = notes::of_artist(&state, &access, &production, id, &artist, how.on()?).await?;
    Ok(file(format!("notes-{artist}.pdf"), "application/pdf", bytes))
}

/// What was returned to every artist, a PDF each in a ZIP.
pub async fn every_note(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Query(how): Query<Printed>) -> Answer<Response> {
    let production = store::members::production_name(&state.pool, access.production).await?;
    Ok(file("notes.zip".into(), "application/zip", notes::of_all(&state, &access, &production, id, how.on()?).await?))
}

pub async fn out(Extract(state): Extract<State>, access: Access, Path((_, id, what)): Path<(Uuid, Uuid, String)>) -> Answer<Response> {
    let (document, ids) = line_check(&state, &access, id).await?;
    match what.as_str() {
        "findings.csv" => Ok(file(what, "text/csv", check_out::findings_csv(&document).into_bytes())),
        "overlays-png.zip" | "overlays-svg.zip" => {
            let kind = if what.contains("png") { check_out::Overlay::Png } else { check_out::Overlay::Svg };
            let mut zip = check_out::Overlays::new(kind);
            for (check, id) in document.drawings.into_iter().zip(ids) {
                let lines = store::drawings::lines(&state.pool, id).await?;
                zip = state
                    .heavy
                    .work(OVERLAY_BYTES, move || {
                        zip.add(&check, &lines).map_err(Problem::input)?;
                        Ok(zip)
                    })
                    .await?;
            }
            let bytes = off_thread(move || zip.finish().map_err(Problem::input)).await?;
            Ok(file(what, "application/zip", bytes))
        }
        _ => Err(Problem::not_found("a delivery as that (findings.csv, overlays-png.zip and overlays-svg.zip are known)")),
    }
}
