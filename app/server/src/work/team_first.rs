//! What the report's first page shows of those who differ: possible causes, what was returned, a piece of a line.

use eddymist_check::{
    FindingKind,
    team::{By, Entry, working},
};
use eddymist_formats::team_first::{Piece, Story};
use uuid::Uuid;

use super::team::{computed, known, profiles};
use crate::{kept::Seen, problem::Answer, state::State};
use eddymist_store::{model::Access, store};

/// So many who differ have a story; the rest a sentence.
const STORIES: usize = 6;
/// A piece of a drawing has so much of its width, and is so much wider than high.
const SHARE: f64 = 0.2;
const WIDER: f64 = 2.4;

/// The stories of those who differ, in the report's order.
pub async fn stories(state: &State, access: &Access, seen: &std::sync::Arc<Seen>) -> Answer<Vec<Story>> {
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
