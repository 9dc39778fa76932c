//! The team's report, and what its first page shows of those who differ: possible causes, what was returned, a piece of a line.

use eddymist_check::{
    FindingKind,
    team::{By, Entry, working},
};
use eddymist_formats::{
    printed::Paper,
    team_first::{Piece, Story},
    team_report::{Heading, csv, pdf},
};
use uuid::Uuid;

use axum::http::StatusCode;

use super::team::{computed, guide_title, known, profiles, seen};
use crate::{
    kept::Seen,
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, TeamAsk},
    store,
};

/// So many who differ have a story; the rest a sentence.
const STORIES: usize = 6;
/// A piece of a drawing has so much of its width, and is so much wider than high.
const SHARE: f64 = 0.2;
const WIDER: f64 = 2.4;

/// The stories of those who differ, in the report's order.
async fn stories(state: &State, access: &Access, seen: &std::sync::Arc<Seen>) -> Answer<Vec<Story>> {
    let profiles = known(&profiles(state, access).await?);
    let mut out = Vec::new();
    for s in seen.look.sentences.iter().take(STORIES) {
        let Some(role) = s.roles.first().cloned() else { continue };
        let (with, known, n, r) = (seen.clone(), profiles.clone(), s.name.clone(), role.clone());
        let worked = computed(move || working(&with.looked.guide.guide, &with.look, &with.looked.entries, &known, &n, &r)).await?;
        let Some(worked) = worked else { continue };
        let by = seen.look.by;
        let mut own: Vec<&Entry> = seen.looked.entries.iter().filter(|e| e.known(by.name()) == Some(s.name.as_str())).collect();
        let mut returned = Vec::new();
        for e in &own {
            let Ok(id) = e.id.parse::<Uuid>() else { continue };
            if let Some(last) = store::decisions::decisions(&state.pool, id).await?.pop().filter(|l| l.state == "return") {
                let why = if last.note.is_empty() { String::new() } else { format!(": “{}”", last.note) };
                returned.push(format!("{} was returned by {}{why}", e.file, last.by));
            }
        }
        // The drawing that is furthest off shows it.
        let off = |e: &&Entry| e.role(&role).map_or(0.0, |m| (m.mean_px - worked.weight.target).abs());
        own.sort_by(|a, b| off(b).total_cmp(&off(a)));
        let piece = match own.first() {
            Some(e) => piece(state, access, e, &role, worked.weight.target).await?,
            None => None,
        };
        let causes = if by == By::Artist { worked.fits.iter().map(|f| format!("{}. To find out: {}", f.says, f.settle)).collect() } else { Vec::new() };
        out.push(Story { says: s.says.clone(), causes, returned, piece });
    }
    Ok(out)
}

/// A piece of a drawing about the worst finding of a role.
async fn piece(state: &State, access: &Access, of: &Entry, role: &str, target: f64) -> Answer<Option<Piece>> {
    let Ok(id) = of.id.parse::<Uuid>() else { return Ok(None) };
    let Some(d) = store::drawings::one(&state.pool, access.production, id).await? else { return Ok(None) };
    let (Some(check), Some(at)) = (&d.check, d.guide.roles.iter().position(|r| r.name == role)) else { return Ok(None) };
    let (w, h) = (f64::from(check.width_px), f64::from(check.height_px));
    let worst = check.findings.iter().find(|f| f.role.as_deref() == Some(role) && matches!(f.kind, FindingKind::Heavy | FindingKind::Thin));
    let middle = worst.map(|f| [f.x, f.y]).or_else(|| {
        let line = d.lines.iter().filter(|l| l.role == at).max_by_key(|l| l.places.len())?;
        let mid = 3 * (line.places.len() / 6);
        Some([f64::from(line.places[mid]) / 10.0, f64::from(line.places[mid + 1]) / 10.0])
    });
    let Some([x, y]) = middle else { return Ok(None) };
    let (wide, high) = (SHARE * w, SHARE * w / WIDER);
    let window = [(x - wide / 2.0).clamp(0.0, (w - wide).max(0.0)), (y - high / 2.0).clamp(0.0, (h - high).max(0.0)), wide, high];
    let lines = d
        .lines
        .iter()
        .map(|l| {
            let places = l.places.as_chunks::<3>().0.iter().map(|p| p.map(|v| f64::from(v) / 10.0)).collect();
            (places, l.standing.clone(), l.role == at)
        })
        .collect();
    let k = check.scale * check.shot_factor;
    let mean_px = of.role(role).map_or(0.0, |m| m.mean_px) * k;
    Ok(Some(Piece { role: role.into(), file: d.file, window, lines, mean_px, target_px: target * k }))
}

/// The report's bytes with their kind.
pub async fn report(state: &State, access: &Access, production: &str, kind: &str, ask: &TeamAsk) -> Answer<(&'static str, Vec<u8>)> {
    let paper = ask.paper.as_deref().unwrap_or("a4");
    let paper = Paper::by_name(paper).ok_or_else(|| Problem::input(format!("a report is printed on a4 or letter, not on {paper}")))?;
    let seen = seen(state, access, ask).await?.ok_or_else(|| Problem::input("no delivery has been checked against a guide yet: there is nothing to report"))?;
    let l = &seen.looked;
    if l.entries.is_empty() {
        return Err(Problem::input("no measured drawing matches; choose other deliveries, shots or days"));
    }
    let deliveries = store::deliveries::list(&state.pool, access.production).await?;
    let delivery = ask.delivery.and_then(|d| deliveries.into_iter().find(|x| x.id == d)).map(|d| d.name);
    let mut of = vec![delivery.unwrap_or_else(|| "all deliveries".into())];
    of.extend(ask.shot.iter().filter(|s| !s.is_empty()).map(|s| format!("shot {s}")));
    of.extend(ask.from.iter().filter(|s| !s.is_empty()).map(|s| format!("from {s}")));
    of.extend(ask.to.iter().filter(|s| !s.is_empty()).map(|s| format!("to {s}")));
    let heading = Heading {
        production: production.into(),
        of: of.join(", "),
        guide: guide_title(&l.guide.guide, l.guide.version),
        made: store::iso(time::OffsetDateTime::now_utc()).get(..10).unwrap_or_default().to_string(),
    };
    match kind {
        "pdf" => {
            let first = stories(state, access, &seen).await?;
            let bytes = computed(move || pdf(&heading, &seen.look, &first, paper)).await?;
            Ok(("application/pdf", bytes.map_err(|e| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, e))?))
        }
        "csv" => Ok(("text/csv; charset=utf-8", computed(move || csv(&seen.look)).await?.into_bytes())),
        other => Err(Problem::new(StatusCode::NOT_FOUND, format!("there is no report as {other}; pdf and csv are known"))),
    }
}
