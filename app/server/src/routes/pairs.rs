//! Pressure and ink of the same strokes: read, saved with a profile, shown, and simulated.

use axum::extract::{Path, Query, State as Extract};
use eddymist_calibrate::{
    Exercise, Group, WarmUp,
    pairs::{Way, responses_off},
};
use eddymist_formats::{
    images::{PngKind, write_png},
    inkml,
};
use eddymist_measure::colour::encode;
use eddymist_sim::{
    paired::trial::Trial,
    stylus::{Hand, Tablet},
};
use uuid::Uuid;

use super::{bodies::Made, tablets::kept};
use crate::{
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::{brushes::WARM_UP_BYTES, pairs, pens::keep_picture, picture_bytes, tablets::by_efforts},
};
use eddymist_store::{
    model::{Access, PairsAsk, PairsView, ScanLines, ScanLinesAsk, SimulatedPage, SimulatedPairs},
    store,
};

pub async fn read(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<PairsAsk>) -> Answer<Json<PairsView>> {
    let profile = kept(&state, &access, id).await?;
    pairs::read(&state, &access, profile, sent.read().await?).await.map(Json)
}

pub async fn keep(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<PairsAsk>) -> Answer<Made> {
    let profile = kept(&state, &access, id).await?;
    pairs::keep(&state, &access, profile, sent.read().await?).await.map(|id| Made::new(&access, "profiles", id))
}

/// The lines that lie under the stylus.
pub async fn lines(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, sha)): Path<(Uuid, String)>,
    Query(ask): Query<ScanLinesAsk>,
) -> Answer<Json<ScanLines>> {
    let (_, bytes) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    state.heavy.work(picture_bytes(&bytes), move || pairs::lines(&bytes, ask.resolution_dpi)).await.map(Json)
}

/// What a profile's response comes from, where it is pairs.
pub async fn saved(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<PairsView>> {
    let (view, warmup) = kept(&state, &access, id).await?;
    let (pairs, pen) = store::profiles::pairs(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("pairs of pressure and ink"))?;
    let by_efforts = state.heavy.work(WARM_UP_BYTES, move || Ok(by_efforts(&warmup))).await?;
    let efforts_off = responses_off(&by_efforts, &view.profile.response);
    Ok(Json(PairsView { pairs, efforts_off, response: view.profile.response, by_efforts, pen, size_mm: None, laid_mm: Vec::new() }))
}

/// What a page of the simulated exercise takes.
const PAGE_BYTES: u64 = 128 << 20;

pub async fn simulated(Extract(state): Extract<State>, access: Access, Json(ask): Json<SimulatedPairs>) -> Answer<Json<SimulatedPage>> {
    let hand = *Hand::by_id(&ask.hand).ok_or_else(|| Problem::not_found("the simulated hand"))?;
    let tablet = *Tablet::by_id(&ask.tablet).ok_or_else(|| Problem::not_found("the simulated tablet"))?;
    let trial = Trial::by_seed(5, &ask.pen).map(|t| Trial { hand, tablet, ..t }).ok_or_else(|| Problem::not_found("the simulated pen"))?;
    let dpi = trial.scanner.dpi;
    let (inkml, png) = state
        .heavy
        .work(PAGE_BYTES, move || {
            let page = trial.page(ask.way);
            let scan = trial.scan(ask.way, &page.ink);
            let grey: Vec<u8> = scan.data.iter().map(|v| (encode(*v) * 255.0).round() as u8).collect();
            let png = write_png(scan.width, scan.height, PngKind::Grey, &grey, Some(scan.dpi / 25.4)).map_err(Problem::input)?;
            let exercise = if ask.way == Way::Over { Exercise::Over } else { Exercise::Paper };
            let strokes = page.strokes.into_iter().filter(|s| !s.samples.is_empty()).collect();
            let drawn = WarmUp { groups: vec![Group { exercise, effort: None, pace: None, strokes }], scale_from_card: false, slips_counted: false };
            Ok((inkml::write_warmup(&drawn), png))
        })
        .await?;
    let scan_sha256 = keep_picture(&state, access.production, "image/png", &png).await?;
    Ok(Json(SimulatedPage { scan_sha256, resolution_dpi: dpi, inkml }))
}
