//! Deciding on many at once: drawings ready or returned, and a finding that recurs at the same place marked as intended wherever it does.

use axum::extract::{Path, State as Extract};
use eddymist_check::{Finding, takes};
use uuid::Uuid;

use super::drawings::{checked_text, marked, own, renew};
use crate::{
    access::Lead,
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::intake,
};
use eddymist_store::{
    model::{Access, Alike, Decide, Decided, DismissMany, MarkedOne, Subject},
    store,
};

/// Drawn notes of one decision hold so many numbers, a typed one so many characters.
const MOST_NUMBERS: usize = 200_000;
const MOST_CHARACTERS: usize = 4000;
/// So many findings are named one by one.
const MOST_FIXES: usize = 2000;
/// A finding is marked in so many drawings at once.
const MOST: usize = 2000;

/// Decides on drawings of a delivery, all or none.
pub async fn decide(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<Decide>) -> Answer<Json<Vec<i32>>> {
    let d = intake::own(&state, &access, id).await?;
    let ask = sent.read().await?;
    if ask.drawings.is_empty() {
        return Err(Problem::input("no drawing is named to be decided on"));
    }
    let numbers = ask.strokes.iter().map(Vec::len).sum::<usize>();
    if numbers > MOST_NUMBERS || ask.note.chars().count() > MOST_CHARACTERS || ask.strokes.iter().flatten().flatten().any(|v| !v.is_finite()) {
        return Err(Problem::input(format!("a note has up to {MOST_CHARACTERS} characters and {MOST_NUMBERS} drawn points")));
    }
    let fix = ask.fix.iter().flatten();
    if ask.fix.as_ref().is_some_and(|f| f.len() > MOST_FIXES) || fix.flat_map(|f| f.at).flatten().any(|v| !v.is_finite()) {
        return Err(Problem::input(format!("up to {MOST_FIXES} findings are named that must be fixed, each at a place on the drawing")));
    }
    let mut tx = state.pool.begin().await?;
    match store::decisions::decide(&mut tx, &access, id, &ask).await? {
        Ok(numbers) => {
            let what = match ask.state {
                Decided::Ready => "ready",
                Decided::Return => "returned",
                Decided::Open => "decision undone",
            };
            store::audit::pictured(
                &mut tx,
                &access,
                what,
                &format!("{} of {}", ask.drawings.len(), d.name),
                Subject::Drawing,
                &ask.drawings.iter().map(|a| a.id).collect::<Vec<_>>(),
            )
            .await?;
            tx.commit().await?;
            Ok(Json(numbers))
        }
        Err(drawing) => {
            drop(tx);
            let now = store::decisions::decisions(&state.pool, drawing).await?;
            let file = store::drawings::one(&state.pool, access.production, drawing).await?.map_or_else(|| "a drawing".into(), |d| d.file);
            let detail = match now.last() {
                Some(l) => format!(
                    "{} was decided on meanwhile: {} says {}{}. Nothing was changed; look at it, then decide again",
                    file,
                    l.by,
                    l.state,
                    if l.note.is_empty() { String::new() } else { format!(", “{}”", l.note) }
                ),
                None => format!("{file} is waiting to be measured, could not be read, or is not in this delivery: nothing was changed"),
            };
            Err(Problem { current: Some(Box::new(serde_json::to_value(now)?)), ..Problem::new(axum::http::StatusCode::CONFLICT, detail) })
        }
    }
}

/// The other drawings of the delivery that have a finding of this kind and role at the same place, and are of the same size.
pub async fn alike(Extract(state): Extract<State>, access: Access, Path((_, id, finding)): Path<(Uuid, Uuid, usize)>) -> Answer<Json<Vec<Alike>>> {
    let d = own(&state, &access, id).await?;
    let gone = || Problem::not_found("the finding");
    let check = d.check.ok_or_else(gone)?;
    let found = check.findings.get(finding).ok_or_else(gone)?;
    let mut meant = store::decisions::dismissals_of(&state.pool, d.delivery).await?;
    let mut out = Vec::new();
    for mut one in store::drawings::checks(&state.pool, d.delivery).await? {
        let Some(other) = one.check.as_mut().filter(|c| one.id != id && (c.width_px, c.height_px) == (check.width_px, check.height_px)) else { continue };
        takes::dismiss(&d.guide, other, &meant.remove(&one.id).unwrap_or_default());
        if let Some(at) = takes::alike(found, other) {
            out.push(Alike { drawing: one.id, file: one.file, finding: other.findings[at].clone() });
        }
    }
    Ok(Json(out))
}

/// Marks findings of several drawings as intended, with one reason; what is no longer found, or is marked already, is passed over.
pub async fn dismiss(
    Extract(state): Extract<State>,
    Lead(access): Lead,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Json(ask): Json<DismissMany>,
) -> Answer<Json<Vec<MarkedOne>>> {
    let delivery = intake::own(&state, &access, id).await?;
    let why = checked_text(&ask.why, "say why it is intended, so that the artist and the next lead know")?;
    let all = ask.all.as_ref();
    if ask.findings.len() + all.map_or(0, |a| a.drawings.len()) > MOST {
        return Err(Problem::input(format!("findings are marked in up to {MOST} drawings at once")));
    }
    // What is open on each drawing, and which of it is meant.
    let mut wanted: Vec<(Uuid, Option<Finding>)> = ask.findings.iter().map(|f| (f.drawing, Some(f.finding.clone()))).collect();
    wanted.extend(all.into_iter().flat_map(|a| &a.drawings).map(|d| (*d, None)));
    // In one order, so that two who mark many at once do not wait for one another.
    wanted.sort_by_key(|w| w.0);
    let mut tx = state.pool.begin().await?;
    let mut out = Vec::new();
    for (drawing, finding) in wanted {
        let mut d = own(&state, &access, drawing).await?;
        if d.delivery != id {
            return Err(Problem::not_found("the drawing in this delivery"));
        }
        marked(&state, &mut d).await?;
        let Some(check) = &d.check else { continue };
        let meant: Vec<Finding> = match finding {
            Some(f) => takes::alike(&f, check).map(|k| check.findings[k].clone()).into_iter().collect(),
            None => check.findings.iter().filter(|f| f.dismissed.is_none() && all.is_some_and(|a| a.kind == f.kind)).cloned().collect(),
        };
        for found in &meant {
            let dismissal = store::decisions::dismiss(&mut tx, &access, drawing, found, &why).await?;
            out.push(MarkedOne { drawing, dismissal });
        }
        if !meant.is_empty() {
            renew(&mut tx, &mut d).await?;
        }
    }
    let mut drawings: Vec<uuid::Uuid> = out.iter().map(|m| m.drawing).collect();
    drawings.dedup();
    if all.is_some() && out.is_empty() {
        return Err(Problem::conflict("no finding of that kind is open on these drawings: nothing was changed"));
    }
    let kind = match (ask.findings.first(), all) {
        (Some(f), _) => f.finding.message.clone(),
        (None, Some(a)) => format!("every finding of the kind “{}”", a.kind.name()),
        (None, None) => String::new(),
    };
    let says = format!("{kind} on {} drawings of {}: {why}", drawings.len(), delivery.name);
    store::audit::pictured(&mut tx, &access, "marked as intended", &says, Subject::Drawing, &drawings).await?;
    tx.commit().await?;
    Ok(Json(out))
}
