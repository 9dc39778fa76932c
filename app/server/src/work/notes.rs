//! Notes for artists who do not sign in: what was returned to each of a delivery, as PDF, one by one or in a ZIP.

use std::collections::BTreeMap;

use eddymist_check::{hand_on::must_fix, sequence::order, takes};
use eddymist_formats::{
    notes_out::{Heading, Note, causes, pdf, zip},
    printed::Paper,
};
use eddymist_reader::reading;
use uuid::Uuid;

use super::{intake, off_thread, picture_bytes};
use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{model::Access, store};

/// A picture in the notes has so many px to a side at most.
const SIDE: u32 = 1400;
/// Who drew what nobody is named for.
const NOBODY: &str = "artist not known";

fn title(manifest: &eddymist_check::Manifest, file: &str) -> String {
    let said = |c: &str| manifest.get(c).filter(|v| !v.is_empty());
    match (said("shot"), said("drawing")) {
        (Some(shot), Some(drawing)) => format!("Shot {shot}, drawing {drawing}"),
        (None, Some(drawing)) => format!("Drawing {drawing}"),
        _ => file.rsplit('/').next().unwrap_or(file).into(),
    }
}

/// What was returned of a delivery, by artist; of one artist only where one is named.
async fn returned(state: &State, access: &Access, id: Uuid, artist: Option<&str>) -> Answer<BTreeMap<String, Vec<Note>>> {
    let delivery = intake::own(state, access, id).await?;
    let mut all = store::drawings::checks(&state.pool, id).await?;
    all.sort_by(|a, b| order((&a.file, &a.manifest), (&b.file, &b.manifest)));
    let mut pinned = store::decisions::pins_of(&state.pool, id).await?;
    let mut meant = store::decisions::dismissals_of(&state.pool, id).await?;
    let mut out: BTreeMap<String, Vec<Note>> = BTreeMap::new();
    for mut d in all {
        let who = d.manifest.get("artist").map_or(NOBODY, String::as_str).trim().to_string();
        if artist.is_some_and(|a| !a.eq_ignore_ascii_case(&who)) {
            continue;
        }
        let Some(last) = store::decisions::decisions(&state.pool, d.id).await?.pop().filter(|l| l.state == "return") else { continue };
        let mut note = Note {
            title: title(&d.manifest, &d.file),
            file: d.file.clone(),
            picture: None,
            by: last.by,
            text: last.note,
            strokes: last.strokes,
            pins: pinned.remove(&d.id).unwrap_or_default().into_iter().map(|p| ([p.x, p.y], p.text)).collect(),
            fix: Vec::new(),
        };
        if let Some(check) = &mut d.check {
            takes::dismiss(&delivery.guide, check, &meant.remove(&d.id).unwrap_or_default());
            note.fix = causes(&check.findings.iter().filter(|f| must_fix(last.fix.as_deref(), f)).collect::<Vec<_>>());
            if let Some(stored) = store::drawings::one(&state.pool, access.production, d.id).await?
                && let Some((_, bytes)) = store::images::read(&state.pictures, access.production, &stored.sha256).await?
            {
                let size = [f64::from(check.width_px), f64::from(check.height_px)];
                let small = state.heavy.work(picture_bytes(&bytes), move || Ok(reading::preview(&bytes, SIDE, false)?)).await?;
                note.picture = Some((small, size));
            }
        }
        out.entry(who).or_default().push(note);
    }
    Ok(out)
}

fn heading(production: &str, delivery: &str, artist: &str) -> Heading {
    let made = store::iso(time::OffsetDateTime::now_utc()).get(..10).unwrap_or_default().to_string();
    Heading { production: production.into(), delivery: delivery.into(), artist: artist.into(), made }
}

/// The notes for one artist as PDF.
pub async fn of_artist(state: &State, access: &Access, production: &str, id: Uuid, artist: &str, paper: Paper) -> Answer<Vec<u8>> {
    let delivery = intake::own(state, access, id).await?.name;
    let Some((who, notes)) = returned(state, access, id, Some(artist)).await?.into_iter().next() else {
        return Err(Problem::not_found("a drawing of this delivery that was returned to this artist"));
    };
    let head = heading(production, &delivery, &who);
    off_thread(move || pdf(&head, &notes, paper).map_err(Problem::input)).await
}

/// The notes for every artist, a PDF each in a ZIP.
pub async fn of_all(state: &State, access: &Access, production: &str, id: Uuid, paper: Paper) -> Answer<Vec<u8>> {
    let delivery = intake::own(state, access, id).await?.name;
    let all = returned(state, access, id, None).await?;
    if all.is_empty() {
        return Err(Problem::input("no drawing of this delivery was returned: there are no notes yet"));
    }
    let heads: Vec<_> = all.into_iter().map(|(who, notes)| (heading(production, &delivery, &who), notes)).collect();
    off_thread(move || zip(&heads, paper).map_err(Problem::input)).await
}
