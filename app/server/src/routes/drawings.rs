//! One drawing of a delivery: its lines and findings, the previous take, what is marked as intended, pins, the loupe's figures.

use axum::{
    extract::{Path, State as Extract},
    http::StatusCode,
    response::Response,
};
use eddymist_check::takes::{self, Take};
use eddymist_formats::check_out;
use eddymist_measure::source::Kind;
use eddymist_reader::reading;
use sqlx::PgConnection;
use uuid::Uuid;

use super::bodies::{Made, file};
use crate::{
    access::Lead,
    heavy::off_thread,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::picture_bytes,
};
use eddymist_store::{
    model::{Access, AcrossView, Dismiss, DrawingView, EarlierPin, EarlierTake, LaidView, NewPin, Subject},
    store::{self, decisions::Put, drawings::Stored},
};

pub(super) async fn own(state: &State, access: &Access, id: Uuid) -> Answer<Stored> {
    store::drawings::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the drawing"))
}

/// The drawing with what is marked as intended marked among its findings.
pub(super) async fn marked(state: &State, stored: &mut Stored) -> Answer<Vec<eddymist_store::model::DismissalView>> {
    let (mut views, meant): (Vec<_>, Vec<_>) = store::decisions::dismissals(&state.pool, stored.id).await?.into_iter().unzip();
    if let Some(check) = &mut stored.check {
        for (view, at) in views.iter_mut().zip(takes::dismiss(&stored.guide, check, &meant)) {
            view.finding = at;
        }
    }
    Ok(views)
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<DrawingView>> {
    let mut d = own(&state, &access, id).await?;
    let dismissals = marked(&state, &mut d).await?;
    let mut earlier = None;
    if let Some((_, before)) = store::drawings::earlier(&state.pool, id).await? {
        let e = own(&state, &access, before).await?;
        if let (Some(then), Some(now)) = (e.check, d.check.clone()) {
            let last = store::decisions::decisions(&state.pool, before).await?.pop();
            let pinned = store::decisions::pins(&state.pool, before).await?;
            // Two scans are laid on one another first, which takes its time.
            let (guide, lines) = (d.guide.clone(), d.lines.clone());
            let compare = move || {
                let (earlier, later) = (Take { check: &then, lines: &e.lines }, Take { check: &now, lines: &lines });
                let compared = takes::compare(&guide, &earlier, &later);
                let at: Vec<[f64; 2]> = pinned.iter().map(|p| [p.x, p.y]).collect();
                let became = takes::pins(&at, &earlier, &later, &compared);
                let pins = pinned.into_iter().zip(became).map(|(p, ([x, y], became))| EarlierPin { x, y, text: p.text, by: p.by, became }).collect();
                Ok((compared, then.findings, pins))
            };
            let (compared, findings, pins) = off_thread(compare).await?;
            earlier = Some(EarlierTake {
                id: before,
                delivery_name: e.delivery_name,
                file: e.file,
                sha256: e.sha256,
                at: e.at,
                compared,
                findings,
                pins,
                note: last.filter(|l| l.state == "return").map(|l| l.note),
            });
        }
    }
    Ok(Json(DrawingView {
        id,
        delivery: d.delivery,
        decisions: store::decisions::decisions(&state.pool, id).await?,
        pins: store::decisions::pins(&state.pool, id).await?,
        later: store::drawings::later(&state.pool, id).await?,
        same_picture: store::drawings::same_picture(&state.pool, access.production, id).await?,
        regions: store::regions::of(&state.pool, id).await?,
        asks: store::takes::candidates(&state.pool, id).await?,
        finish: d.guide.finish,
        handed: d.handed,
        file: d.file,
        sha256: d.sha256,
        manifest: d.manifest,
        check: d.check,
        lines: d.lines,
        dismissals,
        earlier,
    }))
}

/// How a drawing is to be moved to lie on another, of this production too.
pub async fn laid(Extract(state): Extract<State>, access: Access, Path((_, id, onto)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<LaidView>> {
    let (from, onto) = (own(&state, &access, id).await?, own(&state, &access, onto).await?);
    let laid = off_thread(move || {
        let takes = from.check.as_ref().zip(onto.check.as_ref());
        Ok(takes.and_then(|(a, b)| takes::laid(&onto.guide, &Take { check: a, lines: &from.lines }, &Take { check: b, lines: &onto.lines })))
    });
    Ok(Json(LaidView { laid: laid.await? }))
}

pub(super) fn checked_text(text: &str, what: &str) -> Answer<String> {
    let text = text.trim();
    if text.is_empty() || text.chars().count() > 1000 { Err(Problem::input(format!("{what}, in up to 1000 characters"))) } else { Ok(text.into()) }
}

/// Sets what lanes show anew, from the findings and what is marked as intended now.
pub(super) async fn renew(tx: &mut PgConnection, d: &mut Stored) -> Answer<()> {
    // Of two who change it at once, the second sees what the first did.
    store::drawings::lock(tx, d.id).await?;
    let meant: Vec<_> = store::decisions::dismissals(&mut *tx, d.id).await?.into_iter().map(|d| d.1).collect();
    if let Some(check) = &mut d.check {
        takes::dismiss(&d.guide, check, &meant);
        store::drawings::set_summary(tx, d.id, &d.guide, check).await?;
    }
    Ok(())
}

pub async fn dismiss(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<Dismiss>) -> Answer<Made> {
    let why = checked_text(&ask.why, "say why it is intended, so that the artist and the next lead know")?;
    let mut d = own(&state, &access, id).await?;
    marked(&state, &mut d).await?;
    let near = |a: f64, b: f64| (a - b).abs() < 0.01;
    let same = |f: &&eddymist_check::Finding| f.kind == ask.finding.kind && f.role == ask.finding.role && near(f.x, ask.finding.x) && near(f.y, ask.finding.y);
    let Some(found) = d.check.as_ref().and_then(|c| c.findings.iter().find(same)) else {
        return Err(Problem::new(StatusCode::CONFLICT, "this finding is no longer on the drawing: it was measured again meanwhile. Look at it again"));
    };
    if let Some(by) = &found.dismissed {
        return Err(Problem::new(StatusCode::CONFLICT, format!("{} marked it as intended already: “{}”", by.by, by.why)));
    }
    let (found, message) = (found.clone(), found.message.clone());
    let mut tx = state.pool.begin().await?;
    let made = store::decisions::dismiss(&mut tx, &access, id, &found, &why).await?;
    renew(&mut tx, &mut d).await?;
    store::audit::pictured(&mut tx, &access, "marked as intended", &format!("{message} on {}: {why}", d.file), Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    Ok(Made::new(&access, &format!("drawings/{id}/dismissals"), made))
}

pub async fn undo_dismissal(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id, dismissal)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<()>> {
    let mut d = own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    if !store::decisions::undo(&mut tx, &access, id, dismissal, Put::Dismissal).await? {
        return Err(Problem::not_found("what was marked as intended"));
    }
    renew(&mut tx, &mut d).await?;
    store::audit::pictured(&mut tx, &access, "no longer intended", &d.file, Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn pin(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(ask): Json<NewPin>) -> Answer<Made> {
    let text = checked_text(&ask.text, "say what is wrong there")?;
    let d = own(&state, &access, id).await?;
    if !ask.x.is_finite() || !ask.y.is_finite() {
        return Err(Problem::input("a pin has a place on the drawing"));
    }
    let mut tx = state.pool.begin().await?;
    let made = store::decisions::pin(&mut tx, &access, id, [ask.x, ask.y], &text).await?;
    store::audit::pictured(&mut tx, &access, "pinned", &format!("{text} on {}", d.file), Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    Ok(Made::new(&access, &format!("drawings/{id}/pins"), made))
}

pub async fn unpin(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id, pin)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<()>> {
    let d = own(&state, &access, id).await?;
    let mut tx = state.pool.begin().await?;
    if !store::decisions::undo(&mut tx, &access, id, pin, Put::Pin).await? {
        return Err(Problem::not_found("the pin"));
    }
    store::audit::pictured(&mut tx, &access, "pin removed", &d.file, Subject::Drawing, &[id]).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// The ink across a line at a place, the normal given as the direction in degrees.
pub async fn across(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id, x, y, normal_deg)): Path<(Uuid, Uuid, f64, f64, f64)>,
) -> Answer<Json<AcrossView>> {
    let d = own(&state, &access, id).await?;
    let (_, bytes) = store::images::read(&state.pictures, access.production, &d.sha256).await?.ok_or_else(|| Problem::not_found("the picture"))?;
    if ![x, y, normal_deg].iter().all(|v| v.is_finite()) {
        return Err(Problem::input("a place has two numbers in px, and the normal an angle in degrees"));
    }
    state
        .heavy
        .work(picture_bytes(&bytes), move || {
            let mut guide = d.guide;
            guide.picture_kind = d.manifest.get("picture_kind").and_then(|k| Kind::by_name(k)).or(guide.picture_kind);
            let across = reading::across(&guide, &bytes, [x, y], normal_deg)?;
            Ok(Json(AcrossView { coverage: across.coverage, step_px: across.step_px }))
        })
        .await
}

pub async fn overlay(Extract(state): Extract<State>, access: Access, Path((_, id, kind)): Path<(Uuid, Uuid, String)>) -> Answer<Response> {
    let mut d = own(&state, &access, id).await?;
    marked(&state, &mut d).await?;
    let Some(check) = d.check else { return Err(Problem::input("this drawing is not measured yet")) };
    let (overlay, media) = match kind.as_str() {
        "png" => (check_out::Overlay::Png, "image/png"),
        "svg" => (check_out::Overlay::Svg, "image/svg+xml"),
        _ => return Err(Problem::not_found("an overlay of that kind (png and svg are known)")),
    };
    let name = check_out::overlay_name(&d.file, overlay);
    let bytes = state.heavy.work(256 << 20, move || check_out::overlay(overlay, &check, &d.lines).map_err(Problem::input)).await?;
    Ok(file(name, media, bytes))
}
