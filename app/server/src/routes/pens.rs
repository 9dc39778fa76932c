//! Scans measured, pens kept, pictures.

use axum::{
    Json,
    extract::{Multipart, Path, State as Extract},
    http::header,
    response::{IntoResponse, Response},
};
use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_formats::{
    ReadError,
    images::{self, PngKind, write_png},
    pen_sheet::strip_uri,
};
use eddymist_measure::{
    scan::{
        self, LineMeasurement, LineView, ScanError,
        mark::{Mark, MarkError, MarkedStroke, Marking},
    },
    stats::median,
};
use eddymist_sim::{pens::Pen, production::pen_scan};
use uuid::Uuid;

use super::uploaded;
use crate::{
    access::Access,
    problem::{Answer, Problem},
    state::State,
    store::{self, pens::PenLines},
    views::{Created, MarkRead, NewPen, PenSummary, PenView, ScanMarks, ScanView},
};

/// What a page shows of a measured line.
fn pen_line(v: LineView, effort: Option<f64>) -> Answer<PenLine> {
    let grey: Vec<u8> = v.strip.data.iter().map(|c| 255 - (c * 255.0) as u8).collect();
    let png = write_png(v.strip.columns, v.strip.rows, PngKind::Grey, &grey, None).map_err(Problem::input)?;
    Ok(PenLine {
        effort,
        from: v.from,
        to: v.to,
        step_mm: v.step_mm,
        left_mm: v.left_mm,
        right_mm: v.right_mm,
        width_mm: v.width_mm,
        autocorrelation: v.autocorrelation,
        strip_png: format!("data:image/png;base64,{}", STANDARD.encode(png)),
        strip_mm: [v.strip.columns as f64 * v.strip.px_mm, v.strip.rows as f64 * v.strip.px_mm],
    })
}

/// Decodes and measures; the reason says what to do.
pub fn read_scan(bytes: &[u8], dpi: Option<f64>) -> Answer<(u32, u32, LineMeasurement, Vec<LineView>)> {
    let picture = images::scan(bytes, dpi).map_err(|e| match e {
        ReadError::NoResolution => Problem::input("no resolution is in the file: type the dpi that it was scanned at, then measure again"),
        e => Problem::input(e),
    })?;
    let (document, views) = match scan::measure(&picture) {
        // A flick or a dot can still be marked.
        Err(e @ ScanError::NoLine) => (LineMeasurement::none(picture.dpi, format!("{e}. Flicks and dots can be marked all the same")), Vec::new()),
        other => other.map_err(Problem::input)?,
    };
    Ok((picture.width as u32, picture.height as u32, document, views))
}

/// Reads marks; the first that gives nothing says why where they are kept, each for itself where they are shown.
fn read_marks(bytes: &[u8], dpi: f64, marks: &[Mark]) -> Answer<Vec<Result<MarkedStroke, MarkError>>> {
    let picture = images::scan(bytes, Some(dpi)).map_err(Problem::input)?;
    // The solid ink's level, where ruled lines tell it.
    let level = scan::measure(&picture).ok().and_then(|(m, _)| median(&m.lines.iter().map(|l| 1.0 - 10f64.powf(-l.darkness)).collect::<Vec<_>>()));
    let marking = Marking::new(&picture).map_err(Problem::input)?;
    Ok(marks.iter().map(|m| marking.read(m, level)).collect())
}

pub async fn marks(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, sha)): Path<(Uuid, String)>,
    Json(ask): Json<ScanMarks>,
) -> Answer<Json<Vec<MarkRead>>> {
    let (_, bytes) = store::images::read(&state.pool, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let read = off_thread(move || read_marks(&bytes, ask.resolution_dpi, &ask.marks)).await?;
    let shown = |r: Result<MarkedStroke, MarkError>| match r {
        Ok(s) => MarkRead { stroke: Some(s), problem: None },
        Err(e) => MarkRead { stroke: None, problem: Some(e.to_string()) },
    };
    Ok(Json(read.into_iter().map(shown).collect()))
}

pub(super) async fn off_thread<T: Send + 'static>(f: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
    tokio::task::spawn_blocking(f)
        .await
        .unwrap_or_else(|_| Err(Problem::input("the picture could not be worked on; this is our fault, please report it with the file")))
}

pub async fn measure(Extract(state): Extract<State>, access: Access, body: Multipart) -> Answer<Json<ScanView>> {
    let up = uploaded(body).await?;
    let Some((_, bytes)) = up.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let kept = bytes.clone();
    let (width_px, height_px, measurement, views) = off_thread(move || read_scan(&bytes, up.dpi)).await?;
    let sha256 = store::images::keep(&state.pool, access.production, media_type(&kept), &kept).await?;
    let lines = views.into_iter().map(|v| pen_line(v, None)).collect::<Answer<_>>()?;
    Ok(Json(ScanView { sha256, width_px, height_px, measurement, lines }))
}

/// The media type by the first bytes.
pub fn media_type(bytes: &[u8]) -> &'static str {
    match bytes {
        [0x89, b'P', b'N', b'G', ..] => "image/png",
        [0xFF, 0xD8, ..] => "image/jpeg",
        [b'I', b'I', ..] | [b'M', b'M', ..] => "image/tiff",
        _ => "application/octet-stream",
    }
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Json(new): Json<NewPen>) -> Answer<Json<Created>> {
    if new.name.trim().is_empty() {
        return Err(Problem::input("the pen needs a name, such as “fineliner 0.5, worn”"));
    }
    if new.efforts.iter().flatten().any(|e| !(0.0..=1.0).contains(e)) {
        return Err(Problem::input("efforts lie between 0 and 1"));
    }
    let (_, bytes) = store::images::read(&state.pool, access.production, &new.scan_sha256).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let (dpi, marks) = (new.resolution_dpi, new.marks.clone());
    let (measurement, views, marked) = off_thread(move || {
        let (_, _, measurement, views) = read_scan(&bytes, Some(dpi))?;
        let marked = if marks.is_empty() { Vec::new() } else { read_marks(&bytes, dpi, &marks)? };
        Ok((measurement, views, marked.into_iter().collect::<Result<Vec<_>, _>>().map_err(Problem::input)?))
    })
    .await?;
    if new.efforts.len() != views.len() {
        return Err(Problem::input(format!("the scan has {} lines and {} efforts came with it", views.len(), new.efforts.len())));
    }
    let id = keep_pen(&state, &access, &new, measurement, views, &marked).await?;
    Ok(Json(Created { id }))
}

/// Keeps a measured pen.
pub async fn keep_pen(
    state: &State,
    access: &Access,
    new: &NewPen,
    measurement: LineMeasurement,
    views: Vec<LineView>,
    marked: &[MarkedStroke],
) -> Answer<Uuid> {
    let mut card = PenCard::from_lines(new.name.trim(), &measurement, &new.efforts, new.note.clone());
    card.add_marks(marked);
    if views.is_empty() && card.lead_in.is_none() && card.lead_out.is_none() {
        return Err(Problem::input("nothing of a pen was measured: rule a line, or mark a flick on the scan (a dot alone needs a line to be held against)"));
    }
    let normal = |e: &Option<f64>| (e.unwrap_or(0.5) - 0.5).abs();
    let typical = views.iter().zip(&new.efforts).min_by(|a, b| normal(a.1).total_cmp(&normal(b.1)));
    if let Some(strip) = typical.and_then(|(v, _)| v.repeating.as_ref()) {
        card.strip_png = Some(strip_uri(strip).map_err(Problem::input)?);
    }
    let lines = views.into_iter().zip(&new.efforts).map(|(v, e)| pen_line(v, *e)).collect::<Answer<_>>()?;
    let id = store::pens::keep(&state.pool, access, &card, &PenLines { measurement: Some(measurement), lines }, &new.scan_sha256, None).await?;
    store::audit::log(&state.pool, access, "pen kept", &card.name).await?;
    Ok(id)
}

pub async fn list(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<PenSummary>>> {
    let mut pens = store::pens::list(&state.pool, access.production).await?;
    let width = |p: &PenSummary| p.line.as_ref().and_then(|l| eddymist_measure::stats::median(&l.width_mm)).unwrap_or(0.0);
    pens.sort_by(|a, b| width(a).total_cmp(&width(b)));
    Ok(Json(pens))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<PenView>> {
    store::pens::one(&state.pool, access.production, id).await?.map(Json).ok_or_else(|| Problem::not_found("the pen"))
}

pub async fn image(Extract(state): Extract<State>, access: Access, Path((_, sha)): Path<(Uuid, String)>) -> Answer<Response> {
    let (kind, bytes) = store::images::read(&state.pool, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the picture"))?;
    // Browsers show no TIFF: they get the same pixels as PNG.
    let (kind, bytes) = if kind == "image/tiff" {
        let png = off_thread(move || {
            let p = images::rgba(&bytes).map_err(Problem::input)?;
            write_png(p.width, p.height, PngKind::Rgba, &p.data, None).map_err(Problem::input)
        })
        .await?;
        ("image/png".to_string(), png)
    } else {
        (kind, bytes)
    };
    Ok(([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, "private, max-age=31536000, immutable".into())], bytes).into_response())
}

pub async fn simulated(_: Access, Path((_, pen)): Path<(Uuid, String)>) -> Answer<Response> {
    let pen = Pen::by_id(&pen).ok_or_else(|| Problem::not_found("the simulated pen"))?;
    let (png, _) = off_thread(move || Ok(pen_scan(pen, 600.0, 7))).await?;
    Ok(([(header::CONTENT_TYPE, "image/png")], png).into_response())
}
