//! Sampler sheets: to print, to read, to keep as a pen; and what of a pen can be taken elsewhere.

use axum::{
    extract::{Multipart, Path, Query, State as Extract},
    http::{HeaderMap, header},
    response::{IntoResponse, Response},
};
use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{
    PenCard,
    compare::{Change, compare},
    pen_card::Note,
};
use eddymist_formats::{pen_out, pen_sheet::PenSheet, sheet};
use eddymist_measure::sheet::layout::{Paper, number_from, plan};
use eddymist_reader::reading;
use eddymist_sim::{
    pens::Pen,
    production::{sheet_photo, sheet_scan},
};
use uuid::Uuid;

use super::bodies::{Made, Simulated, file, uploaded};
use crate::{
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{
        pens::{derived, keep_picture, media_type, said_of},
        picture_bytes,
        sheets::{keep_sheet, read_sheet},
    },
};
use eddymist_store::{
    model::{Access, NewSheetPen, PenView, SheetAgain, SheetView, Tags},
    store::{self},
};

/// What drawing a sheet takes: 35 megapixels and what is drawn on them.
const SHEET_BYTES: u64 = 400 << 20;

/// A fresh sheet with a number of its own, to print or as blank pixels at 600 dpi.
pub async fn print(Extract(state): Extract<State>, _: Access, Path((_, paper, kind)): Path<(Uuid, String, String)>) -> Answer<Response> {
    let paper = match paper.as_str() {
        "a4" => Paper::A4,
        "letter" => Paper::Letter,
        _ => return Err(Problem::not_found("a sheet on that paper (a4 and letter are known)")),
    };
    let plan = plan(paper, &number_from(Uuid::new_v4().as_u64_pair().0));
    let name = format!("sampler-sheet-{}.{kind}", plan.number);
    let (media, bytes) = state
        .heavy
        .work(SHEET_BYTES, move || {
            Ok(match kind.as_str() {
                "pdf" => ("application/pdf", sheet::pdf(&plan).map_err(Problem::input)?),
                "svg" => ("image/svg+xml", sheet::svg(&plan).into_bytes()),
                "png" => ("image/png", sheet::png(&plan, 600.0).map_err(Problem::input)?),
                "ora" => ("image/openraster", sheet::ora(&plan, 600.0).map_err(Problem::input)?),
                _ => return Err(Problem::not_found("a sheet of that kind (pdf, svg, png and ora are known)")),
            })
        })
        .await?;
    Ok(file(name, media, bytes))
}

pub async fn read(Extract(state): Extract<State>, access: Access, body: Multipart) -> Answer<Json<SheetView>> {
    let up = uploaded(body).await?;
    let Some((name, bytes)) = up.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let kept = bytes.clone();
    let found = state.heavy.work(picture_bytes(&bytes), move || read_sheet(&bytes, said_of(up.dpi, up.photo), &[])).await?;
    let kind = if kept.starts_with(b"PK") { "image/openraster" } else { media_type(&kept) };
    let sha256 = keep_picture(&state, access.production, kind, &kept).await?;
    shown(&state, &access, sha256, name.trim(), found).await
}

async fn shown(state: &State, access: &Access, sha256: String, name: &str, found: PenSheet) -> Answer<Json<SheetView>> {
    let known = store::pens::from_sheet(&state.pool, access.production, &found.reading.plan.number).await?;
    let mut card = PenCard::from_sheet(name, &found.reading, &[], Note::default());
    (card.strip_png, card.source) = (found.strip_png, Some(found.source));
    Ok(Json(SheetView {
        sha256,
        width_px: found.width_px as u32,
        height_px: found.height_px as u32,
        card,
        strip_mismatch_um: found.strip_mismatch_um,
        known,
        reading: found.reading,
    }))
}

/// Reads a sheet that was sent before, some of its cells where they were marked by hand; nothing is saved.
pub async fn again(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, sha)): Path<(Uuid, String)>,
    Json(ask): Json<SheetAgain>,
) -> Answer<Json<SheetView>> {
    let (_, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let found = state.heavy.work(picture_bytes(&bytes), move || read_sheet(&bytes, said_of(Some(ask.resolution_dpi), ask.photo), &ask.marked)).await?;
    shown(&state, &access, sha, ask.name.trim(), found).await
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Json(new): Json<NewSheetPen>) -> Answer<Made> {
    if new.name.trim().is_empty() {
        return Err(Problem::input("the pen needs a name, such as “fineliner 0.5, worn”"));
    }
    let (_, bytes) = store::images::read(&state.pictures, access.production, &new.scan_sha256).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let (given, marked) = (said_of(Some(new.resolution_dpi), new.photo), new.marked.clone());
    if new.grams.iter().any(|[e, g]| !(0.0..=1.0).contains(e) || !(0.0..=5000.0).contains(g)) {
        return Err(Problem::input("a weight is in grams, between 0 and 5000, for an effort between 0 and 1"));
    }
    let found = state.heavy.work(picture_bytes(&bytes), move || read_sheet(&bytes, given, &marked)).await?;
    keep_sheet(&state, &access, &new, found).await.map(|id| Made::new(&access, "pens", id))
}

pub async fn simulated(Extract(state): Extract<State>, _: Access, Path((_, pen)): Path<(Uuid, String)>, Query(how): Query<Simulated>) -> Answer<Response> {
    let pen = Pen::by_id(&pen).ok_or_else(|| Problem::not_found("the simulated pen"))?;
    let picture = state.heavy.work(SHEET_BYTES, move || Ok(if how.photo { sheet_photo(pen, 7) } else { sheet_scan(pen, 300.0, 7) })).await?;
    Ok(([(header::CONTENT_TYPE, media_type(&picture))], picture).into_response())
}

/// How a preview is wanted.
#[derive(serde::Deserialize, schemars::JsonSchema)]
pub struct Preview {
    /// With the paper's shading divided out.
    #[serde(default)]
    flat: bool,
    /// A photographed sheet, or lines beside a card, as they were read: laid flat, whole.
    #[serde(default)]
    laid: bool,
    /// For a small picture among others: at most 320 px to a side.
    #[serde(default)]
    small: bool,
}

/// The picture, at most 1,600 px to a side: a sheet of 35 megapixels is too much for a page.
pub async fn preview(
    Extract(state): Extract<State>,
    access: Access,
    headers: HeaderMap,
    Path((_, sha)): Path<(Uuid, String)>,
    Query(how): Query<Preview>,
) -> Answer<Response> {
    if how.laid {
        return derived(&state, access.production, &sha, "laid-flat", &headers, |bytes| Ok(reading::laid_flat(bytes)?)).await;
    }
    if how.small {
        return derived(&state, access.production, &sha, "preview-320", &headers, |bytes| Ok(reading::preview(bytes, 320, false)?)).await;
    }
    let kind = if how.flat { "preview-1600-flat" } else { "preview-1600" };
    derived(&state, access.production, &sha, kind, &headers, move |bytes| Ok(reading::preview(bytes, 1600, how.flat)?)).await
}

async fn pen(state: &State, access: &Access, id: Uuid) -> Answer<PenView> {
    store::pens::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the pen"))
}

/// What can be taken elsewhere: `card.json`, `strip.png`, `lines.svg`, `figures.csv`.
pub async fn export(Extract(state): Extract<State>, access: Access, Path((_, id, what)): Path<(Uuid, Uuid, String)>) -> Answer<Response> {
    let pen = pen(&state, &access, id).await?;
    let plain: String = pen.name.chars().map(|c| if c.is_ascii_alphanumeric() || c == '.' { c } else { '-' }).collect();
    let name = format!("{plain}-{what}");
    Ok(match what.as_str() {
        "card.json" => file(name, "application/json", serde_json::to_vec_pretty(&pen.card)?),
        "lines.svg" => file(name, "image/svg+xml", pen_out::lines_svg(&pen.lines).into_bytes()),
        "figures.csv" => file(name, "text/csv; charset=utf-8", pen_out::figures_csv(&pen.card).into_bytes()),
        "strip.png" => {
            let uri = pen.card.strip_png.ok_or_else(|| Problem::not_found("a strip of this pen: no line was long enough"))?;
            let bytes = uri.split_once(',').and_then(|(_, b)| STANDARD.decode(b).ok()).ok_or_else(|| Problem::not_found("the strip"))?;
            file(name, "image/png", bytes)
        }
        _ => return Err(Problem::not_found("such a file (card.json, strip.png, lines.svg and figures.csv are known)")),
    })
}

/// What changed from this pen to another, or to a later scan of the same.
pub async fn against(Extract(state): Extract<State>, access: Access, Path((_, id, other)): Path<(Uuid, Uuid, Uuid)>) -> Answer<Json<Vec<Change>>> {
    Ok(Json(compare(&pen(&state, &access, id).await?.card, &pen(&state, &access, other).await?.card)))
}

pub async fn tag(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(new): Json<Tags>) -> Answer<Json<()>> {
    let tags = new.cleaned().map_err(Problem::input)?;
    let mut tx = state.pool.begin().await?;
    if store::pens::tag(&mut tx, access.production, id, new.from_version, &tags).await?.is_none() {
        drop(tx);
        let now = pen(&state, &access, id).await?;
        return Err(Problem::stale("what this pen is tagged with", new.from_version, now.tags_version, serde_json::to_value(now.tags)?));
    }
    store::audit::log(&mut tx, &access, "pen tagged", &tags.join(", ")).await?;
    tx.commit().await?;
    Ok(Json(()))
}
