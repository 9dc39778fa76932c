//! The blind proof of a brush against its pen, and the recipe for a brush of another program.

use axum::{
    extract::{Path, Query, State as Extract},
    response::Response,
};
use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{
    Exercise,
    blind::{BlindResult, FlatLine, of_brush, of_pen},
    lanes::PenLine,
    recipe::recipe,
};
use eddymist_formats::recipe_out::{self, RecipeSheet};
use eddymist_ink::{Curve, Inker};
use eddymist_measure::sheet::layout::CellKind;
use uuid::Uuid;

use super::bodies::file;
use crate::{
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{
        brushes::{Against, WARM_UP_BYTES, against, card_of, version},
        off_thread,
    },
};
use eddymist_store::{
    model::{Access, BlindAnswers, BlindAsk, BlindKept, BlindTold, BlindView, RecipeAsk, RecipeView},
    store,
};

/// Lines of one proof, and their length where the lines allow it, mm.
const LINES: usize = 20;
const LENGTHS_MM: [f64; 4] = [40.0, 30.0, 20.0, 12.0];

/// Lines of the pen and of the brush as flat shapes of one length.
fn lines(a: &Against, inker: &Inker) -> Option<(f64, Vec<FlatLine>, Vec<FlatLine>)> {
    let pen = a.pen.as_ref()?;
    let ruled = pen.sheet.iter().flat_map(|s| &s.reading.cells).filter(|c| c.kind == CellKind::Effort || c.kind == CellKind::Pace);
    let from_sheet = ruled.flat_map(|c| &c.strokes).map(|s| PenLine::from_stroke(s, None));
    let theirs: Vec<PenLine> = pen.lines.iter().cloned().chain(from_sheet).collect();
    let warmup = &a.profile.as_ref()?.1;
    let hand: Vec<_> = warmup.efforts().map(|s| s.1).chain(warmup.strokes(Exercise::Ruled)).collect();
    LENGTHS_MM.iter().find_map(|length| {
        let p: Vec<FlatLine> = theirs.iter().filter_map(|l| of_pen(l, *length)).collect();
        let b: Vec<FlatLine> = hand.iter().filter_map(|s| of_brush(s, inker, *length)).collect();
        (p.len() > 2 && b.len() > 2).then_some((*length, p, b))
    })
}

/// Begins a blind proof of one version: lines in chance order.
pub async fn begin(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id, number)): Path<(Uuid, Uuid, i32)>,
    Json(ask): Json<BlindAsk>,
) -> Answer<Json<BlindView>> {
    let view = store::brushes::one(&state.pool, access.production, access.member.id, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    let brush = version(&state, &access, id, number).await?.brush;
    let a = against(&state, &access, view.pen.map(|p| p.id), ask.profile.or(view.profile.map(|p| p.id))).await?;
    let found = state
        .heavy
        .work(WARM_UP_BYTES, move || {
            let a = a.read()?;
            let response = a.profile.as_ref().map(|p| p.0.profile.curve()).transpose().map_err(Problem::input)?;
            let inker = Inker::new(&brush, response, None).map_err(Problem::input)?;
            lines(&a, &inker).ok_or_else(|| {
                Problem::input(
                    "a blind proof needs three ruled lines of the pen and three of the hand, 12 mm and longer: add a pen from a sheet and warm up on a tablet",
                )
            })
        })
        .await?;
    let (length_mm, pens, brushes) = found;
    // As many of either, in an order that no one knows.
    let mut chance = Uuid::new_v4().as_u128();
    let mut draw = |n: usize| {
        // One step of a 64-bit linear congruential generator (Knuth, The Art of Computer Programming 2, MMIX's constants).
        chance = chance.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (chance >> 64) as usize % n
    };
    let mut is_pen: Vec<bool> = (0..LINES).map(|k| k % 2 == 0).collect();
    (1..LINES).rev().for_each(|k| is_pen.swap(k, draw(k + 1)));
    let shown = is_pen.iter().map(|pen| if *pen { pens[draw(pens.len())].clone() } else { brushes[draw(brushes.len())].clone() }).collect();
    let id = store::roll::begin_blind(&state.pool, &access, id, number, &is_pen).await?;
    Ok(Json(BlindView { id, length_mm, lines: shown }))
}

/// Keeps the answers and says what they exclude.
pub async fn answer(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, brush, id)): Path<(Uuid, Uuid, Uuid)>,
    Json(given): Json<BlindAnswers>,
) -> Answer<Json<BlindTold>> {
    let mut tx = state.pool.begin().await?;
    let of_pen = store::roll::answer_blind(&mut tx, access.production, brush, id, &given.of_pen)
        .await?
        .ok_or_else(|| Problem::input("this proof was answered already, or not all of its lines were: begin a new one"))?;
    let right = of_pen.iter().zip(&given.of_pen).filter(|(a, b)| a == b).count() as u32;
    let result = BlindResult::new(right, of_pen.len() as u32);
    store::audit::log(&mut tx, &access, "blind proof", &result.says).await?;
    tx.commit().await?;
    Ok(Json(BlindTold { result, of_pen }))
}

pub async fn kept(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<Vec<BlindKept>>> {
    store::brushes::one(&state.pool, access.production, access.member.id, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    Ok(Json(store::roll::blinds(&state.pool, access.production, id).await?))
}

/// What a recipe is made of: the brush's pen, the other brush's card where one came in, and the response of the brush's profile.
async fn sheet(state: &State, access: &Access, id: Uuid, other: Option<Uuid>) -> Answer<impl Fn() -> Answer<RecipeView> + Send + 'static> {
    let view = store::brushes::one(&state.pool, access.production, access.member.id, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
    let there = match other {
        Some(card) => Some(store::pens::one(&state.pool, access.production, card).await?.ok_or_else(|| Problem::not_found("the other brush's card"))?),
        None => None,
    };
    let pen = view.pen.ok_or_else(|| Problem::input("this brush is matched to no pen: a recipe needs the pen that is to be drawn like"))?;
    let pen = store::pens::one(&state.pool, access.production, pen.id).await?.ok_or_else(|| Problem::not_found("the pen"))?;
    let response = view.response.map(|r| Curve::new(&r)).transpose().map_err(Problem::input)?;
    let profile = view.profile.map(|p| p.name);
    Ok(move || {
        let recipe = recipe(&card_of(&pen), there.as_ref().map(card_of).as_ref(), response.as_ref()).map_err(Problem::input)?;
        let tip_png = format!("data:image/png;base64,{}", STANDARD.encode(recipe_out::tip_png(&recipe).map_err(Problem::input)?));
        let there = there.as_ref().map(|t| t.name.clone());
        Ok(RecipeView { recipe, tip_png, pen: pen.name.clone(), there, profile: profile.clone(), strip_png: pen.card.strip_png.clone() })
    })
}

/// The recipe by which another program's brush draws like the brush's pen; surer once that brush's sheet came in as a pen card.
pub async fn make(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Query(ask): Query<RecipeAsk>) -> Answer<Json<RecipeView>> {
    let made = sheet(&state, &access, id, ask.other).await?;
    off_thread(move || made().map(Json)).await
}

/// The same as a file: pdf, or zip with the tip, the strip and the numbers beside it.
pub async fn recipe_file(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id, kind)): Path<(Uuid, Uuid, String)>,
    Query(ask): Query<RecipeAsk>,
) -> Answer<Response> {
    let made = sheet(&state, &access, id, ask.other).await?;
    off_thread(move || {
        let view = made()?;
        let sheet = RecipeSheet {
            pen: &view.pen,
            there: view.there.as_deref(),
            profile: view.profile.as_deref(),
            recipe: &view.recipe,
            strip_png: view.strip_png.as_deref(),
        };
        let (media, bytes) = match kind.as_str() {
            "pdf" => ("application/pdf", sheet.pdf()),
            "zip" => ("application/zip", sheet.zip()),
            _ => return Err(Problem::not_found("a recipe of that kind (pdf and zip are known)")),
        };
        Ok(file(format!("recipe {}.{kind}", view.pen), media, bytes.map_err(Problem::input)?))
    })
    .await
}
