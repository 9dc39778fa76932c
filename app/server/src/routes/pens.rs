//! Scans measured, pens kept, pictures.

use axum::{
    extract::{Multipart, Path, Query, State as Extract},
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use eddymist_measure::scan::mark::MarkedStroke;
use eddymist_reader::reading;
use eddymist_sim::{
    pens::Pen,
    production::{pen_photo, pen_scan},
};
use uuid::Uuid;

use super::{
    archive::part,
    bodies::{Made, Simulated, uploaded},
};
use crate::{
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{
        pens::{derived, keep_pen, keep_picture, known, media_type, pen_line, read_scan, said_of},
        picture_bytes,
    },
};
use eddymist_store::{
    model::{Access, Kind, MarkRead, NewName, NewPen, PageAsk, PenSummary, PenView, ScanMarks, ScanView},
    store::{self},
};

pub async fn marks(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, sha)): Path<(Uuid, String)>,
    Json(ask): Json<ScanMarks>,
) -> Answer<Json<Vec<MarkRead>>> {
    let (_, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let read = state.heavy.work(picture_bytes(&bytes), move || Ok(reading::marks(&bytes, said_of(Some(ask.resolution_dpi), ask.photo), &ask.marks)?)).await?;
    let shown = |r: Result<MarkedStroke, String>| match r {
        Ok(s) => MarkRead { stroke: Some(s), problem: None },
        Err(e) => MarkRead { stroke: None, problem: Some(e) },
    };
    Ok(Json(read.into_iter().map(shown).collect()))
}

pub async fn measure(Extract(state): Extract<State>, access: Access, body: Multipart) -> Answer<Json<ScanView>> {
    let up = uploaded(body).await?;
    let Some((_, bytes)) = up.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let kept = bytes.clone();
    let (width_px, height_px, measurement, views) = state.heavy.work(picture_bytes(&bytes), move || read_scan(&bytes, said_of(up.dpi, up.photo))).await?;
    let sha256 = keep_picture(&state, access.production, media_type(&kept), &kept).await?;
    let lines = views.into_iter().map(|v| pen_line(v, None)).collect::<Answer<_>>()?;
    Ok(Json(ScanView { sha256, width_px, height_px, measurement, lines }))
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Json(new): Json<NewPen>) -> Answer<Made> {
    if new.name.trim().is_empty() {
        return Err(Problem::input("the pen needs a name, such as “fineliner 0.5, worn”"));
    }
    if new.efforts.iter().flatten().any(|e| !(0.0..=1.0).contains(e)) {
        return Err(Problem::input("efforts lie between 0 and 1"));
    }
    let (_, bytes) = store::images::read(&state.pictures, access.production, &new.scan_sha256).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let (given, marks) = (said_of(Some(new.resolution_dpi), new.photo), new.marks.clone());
    let (measurement, views, marked) = state
        .heavy
        .work(picture_bytes(&bytes), move || {
            let (_, _, measurement, views) = read_scan(&bytes, given.clone())?;
            let marked = if marks.is_empty() { Vec::new() } else { reading::marks(&bytes, given, &marks)? };
            Ok((measurement, views, marked.into_iter().collect::<Result<Vec<_>, _>>().map_err(Problem::input)?))
        })
        .await?;
    if new.efforts.len() != views.len() {
        return Err(Problem::input(format!("the scan has {} lines and {} efforts came with it", views.len(), new.efforts.len())));
    }
    let id = keep_pen(&state, &access, &new, measurement, views, &marked).await?;
    Ok(Made::new(&access, "pens", id))
}

pub async fn list(Extract(state): Extract<State>, access: Access, Query(ask): Query<PageAsk>) -> Answer<Json<Vec<PenSummary>>> {
    Ok(Json(store::pens::list(&state.pool, access.production, part(&state, &access, Kind::Pens, ask).await?).await?))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<PenView>> {
    store::pens::one(&state.pool, access.production, id).await?.map(Json).ok_or_else(|| Problem::not_found("the pen"))
}

pub async fn rename(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(new): Json<NewName>) -> Answer<Json<()>> {
    let name = new_name(&new)?;
    let mut tx = state.pool.begin().await?;
    let before = store::pens::rename(&mut tx, access.production, id, name).await?.ok_or_else(|| Problem::not_found("the pen"))?;
    store::audit::log(&mut tx, &access, "pen renamed", &format!("{before} to {name}")).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// A name as it is to be, without spaces about it.
pub fn new_name(new: &NewName) -> Answer<&str> {
    const MOST: usize = 120;
    let name = new.name.trim();
    if name.is_empty() || name.chars().count() > MOST { Err(Problem::input(format!("a name has 1 to {MOST} characters"))) } else { Ok(name) }
}

pub async fn image(Extract(state): Extract<State>, access: Access, headers: HeaderMap, Path((_, sha)): Path<(Uuid, String)>) -> Answer<Response> {
    let kind = store::images::media_type(&state.pool, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the picture"))?;
    // Browsers show no TIFF: they get the same pixels as PNG.
    if kind == "image/tiff" {
        return derived(&state, access.production, &sha, "png", &headers, |bytes| Ok(reading::png(bytes)?)).await;
    }
    let tag = format!("\"{sha}\"");
    if known(&headers, &tag) {
        return Ok((StatusCode::NOT_MODIFIED, [(header::ETAG, tag)]).into_response());
    }
    let (kind, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the picture"))?;
    Ok(([(header::CONTENT_TYPE, kind), (header::ETAG, tag)], bytes).into_response())
}

pub async fn simulated(Extract(state): Extract<State>, _: Access, Path((_, pen)): Path<(Uuid, String)>, Query(how): Query<Simulated>) -> Answer<Response> {
    let pen = Pen::by_id(&pen).ok_or_else(|| Problem::not_found("the simulated pen"))?;
    let picture = state.heavy.work(400 << 20, move || Ok(if how.photo { pen_photo(pen, 7) } else { pen_scan(pen, 600.0, 7).0 })).await?;
    Ok(([(header::CONTENT_TYPE, media_type(&picture))], picture).into_response())
}
