//! A pen from a scan: measured, marked, made into a card and kept.

use axum::{
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_formats::{
    Given,
    images::{PngKind, write_png},
    pen_sheet::strip_uri,
};
use eddymist_measure::{
    scan::{LineMeasurement, LineView, mark::MarkedStroke},
    source::Kind,
};
use eddymist_reader::{Unread, reading};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, NewPen, Subject},
    store::{self, images::Kept, pens::PenLines},
};

/// What a page shows of a measured line.
pub fn pen_line(v: LineView, effort: Option<f64>) -> Answer<PenLine> {
    let grey: Vec<u8> = v.strip.data.iter().map(|c| 255 - (c * 255.0) as u8).collect();
    let png = write_png(v.strip.columns, v.strip.rows, PngKind::Grey, &grey, None).map_err(Problem::input)?;
    Ok(PenLine {
        effort,
        from: v.from,
        to: v.to,
        step_mm: v.step_mm,
        left_mm: v.left_mm,
        right_mm: v.right_mm,
        bow_mm: v.bow_mm,
        width_mm: v.width_mm,
        autocorrelation: v.autocorrelation,
        strip_png: format!("data:image/png;base64,{}", STANDARD.encode(png)),
        strip_mm: [v.strip.columns as f64 * v.strip.px_mm, v.strip.rows as f64 * v.strip.px_mm],
    })
}

/// What was said of a picture of lines or of a sheet: a photo's resolution is found and never given.
pub fn said_of(dpi: Option<f64>, photo: bool) -> Given {
    if photo { Given { kind: Some(Kind::Photo), ..Given::default() } } else { Given::dpi(dpi.map(|d| [d; 2])) }
}

/// Decodes and measures; the reason says what to do.
pub fn read_scan(bytes: &[u8], given: Given) -> Answer<(u32, u32, LineMeasurement, Vec<LineView>)> {
    let read = reading::lines(bytes, given, None).map_err(|e| match e {
        Unread::NoResolution => Problem::input(
            "no scanner’s resolution is in the file: type the dpi that it was scanned at, or say that it is a photo with a card beside the lines, then measure again",
        ),
        e => e.into(),
    })?;
    // A flick or a dot can still be marked.
    let none = || (LineMeasurement::none(read.dpi, format!("{}. Flicks and dots can be marked all the same", read.why)), Vec::new());
    let (document, views) = read.measured.unwrap_or_else(none);
    Ok((read.width_px as u32, read.height_px as u32, document, views))
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
        return Err(Problem::input("nothing of a pen was measured: rule a line, or mark a flick on the scan (a dot alone needs a line to be compared with)"));
    }
    let normal = |e: &Option<f64>| (e.unwrap_or(0.5) - 0.5).abs();
    let typical = views.iter().zip(&new.efforts).min_by(|a, b| normal(a.1).total_cmp(&normal(b.1)));
    if let Some(strip) = typical.and_then(|(v, _)| v.repeating.as_ref()) {
        card.strip_png = Some(strip_uri(strip).map_err(Problem::input)?);
    }
    let lines = views.into_iter().zip(&new.efforts).map(|(v, e)| pen_line(v, *e)).collect::<Answer<_>>()?;
    let mut tx = state.pool.begin().await?;
    let id = store::pens::keep(&mut tx, access, &card, &PenLines { measurement: Some(measurement), lines }, &new.scan_sha256, None).await?;
    store::audit::pictured(&mut tx, access, "pen saved", &card.name, Subject::Pen, &[id]).await?;
    tx.commit().await?;
    Ok(id)
}

/// Keeps a picture for a production, within its share of the disk.
pub async fn keep_picture(state: &State, production: Uuid, media_type: &str, bytes: &[u8]) -> Answer<String> {
    let used = state.room.used(&state.pool, production).await?;
    match store::images::keep(&state.pictures, production, used, media_type, bytes).await? {
        Kept::As(sha, new) => {
            if new {
                state.room.add(production, bytes.len() as i64);
            }
            Ok(sha)
        }
        Kept::OverQuota { quota } => {
            let gib = |b: i64| b as f64 / f64::from(1 << 30);
            Err(Problem::new(
                StatusCode::INSUFFICIENT_STORAGE,
                format!(
                    "the production’s pictures take {:.1} of {:.1} GiB and this one would be too much: remove archived deliveries, or whoever keeps the server gives it more",
                    gib(used),
                    gib(quota)
                ),
            ))
        }
    }
}

/// Whether a program has this very thing already (RFC 9110, 13.1.2).
pub fn known(headers: &HeaderMap, tag: &str) -> bool {
    let given = headers.get_all(header::IF_NONE_MATCH);
    given.iter().filter_map(|v| v.to_str().ok()).flat_map(|v| v.split(',')).any(|v| v.trim().trim_start_matches("W/") == tag || v.trim() == "*")
}

/// What is made of a picture for a page: once, and kept with it.
pub async fn derived(
    state: &State,
    production: Uuid,
    sha: &str,
    kind: &str,
    headers: &HeaderMap,
    make: impl FnOnce(&[u8]) -> Answer<Vec<u8>> + Send + 'static,
) -> Answer<Response> {
    let missing = || Problem::not_found("the picture");
    store::images::media_type(&state.pool, production, sha).await?.ok_or_else(missing)?;
    let tag = format!("\"{sha}-{kind}\"");
    if known(headers, &tag) {
        return Ok((StatusCode::NOT_MODIFIED, [(header::ETAG, tag)]).into_response());
    }
    let png = match store::images::derived(&state.pool, sha, kind).await? {
        Some(png) => png,
        None => {
            let (_, bytes) = store::images::read(&state.pictures, production, sha).await?.ok_or_else(missing)?;
            let png = state.heavy.work(super::picture_bytes(&bytes), move || make(&bytes)).await?;
            store::images::keep_derived(&state.pool, sha, kind, &png).await?;
            png
        }
    };
    Ok(([(header::CONTENT_TYPE, "image/png".to_string()), (header::ETAG, tag)], png).into_response())
}
