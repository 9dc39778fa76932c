//! Drawings taken into a delivery: files and ZIPs read apart, known by name and manifest, kept, and queued for their checks.

use eddymist_check::{Manifest, NamePattern, takes};
use eddymist_formats::{ReadError, archive, images, manifest};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, FileTaken, NewDelivery},
    store::{self, deliveries::Rows, drawings::Added},
};

pub fn pattern_of(text: &str) -> Answer<Option<NamePattern>> {
    if text.trim().is_empty() { Ok(None) } else { NamePattern::parse(text.trim()).map(Some).map_err(Problem::input) }
}

pub fn rows_of(csv: Option<&str>) -> Answer<Option<Rows>> {
    csv.filter(|c| !c.trim().is_empty()).map(|c| manifest::read(c).map_err(Problem::input)).transpose()
}

/// What is known of a file; none when nothing is.
pub fn known(pattern: Option<&NamePattern>, rows: &Rows, file: &str) -> Option<Manifest> {
    let by_name = pattern.and_then(|p| p.read(file));
    let base = file.rsplit('/').next().unwrap_or(file);
    let row = rows.get(file).or_else(|| rows.get(base));
    if by_name.is_none() && row.is_none() {
        return None;
    }
    let mut out = by_name.unwrap_or_default();
    out.extend(row.into_iter().flatten().map(|(k, v)| (k.clone(), v.clone())));
    out.retain(|_, v| !v.is_empty());
    Some(out)
}

pub fn missing_of<'a>(read: impl Iterator<Item = (&'a str, Option<&'a Manifest>)>) -> Vec<String> {
    let nothing = Manifest::new();
    let all: Vec<_> = read.map(|(f, m)| (f, m.unwrap_or(&nothing))).collect();
    eddymist_check::missing::missing(&all)
}

/// Makes a delivery with what its manifest says.
pub async fn make(state: &State, access: &Access, new: &NewDelivery) -> Answer<Uuid> {
    if new.name.trim().is_empty() {
        return Err(Problem::input("the delivery needs a name, such as “Shot 012, 24 November”"));
    }
    pattern_of(&new.pattern)?;
    let rows = rows_of(new.csv.as_deref())?;
    let guide = store::guides::one(&state.pool, access.production, new.guide_id).await?.ok_or_else(|| Problem::not_found("the guide"))?;
    let id = store::deliveries::create(&state.pool, access, new, guide.version).await?;
    if let Some(rows) = rows {
        store::deliveries::set_manifest(&state.pool, id, new.pattern.trim(), &rows, &[]).await?;
    }
    store::audit::log(&state.pool, access, "delivery made", &new.name).await?;
    Ok(id)
}

/// The delivery, or a 404.
pub async fn own(state: &State, access: &Access, id: Uuid) -> Answer<store::deliveries::Delivery> {
    store::deliveries::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the delivery"))
}

/// Takes files into a delivery and queues their checks: the one way in, for the page and for a watched folder.
pub async fn take_in(state: &State, access: &Access, id: Uuid, came: Vec<(String, Vec<u8>)>) -> Answer<Vec<FileTaken>> {
    let delivery = own(state, access, id).await?;
    let pattern = pattern_of(&delivery.pattern)?;
    let mut files: Vec<(String, Result<Vec<u8>, ReadError>)> = Vec::new();
    for (name, bytes) in came {
        if archive::is_plain_zip(&bytes) {
            let read = archive::entries(&bytes, |entry, data| files.push((format!("{name}/{entry}"), data)));
            if let Err(e) = read {
                files.push((name, Err(e)));
            }
        } else {
            files.push((name, Ok(bytes)));
        }
    }
    let mut out = Vec::new();
    for (file, data) in files {
        let fields = known(pattern.as_ref(), &delivery.rows, &file);
        let manifest = fields.clone().unwrap_or_default();
        let bytes = data.as_ref().map(Vec::as_slice).unwrap_or_default();
        let sha = store::images::keep(&state.pool, access.production, crate::work::pens::media_type(bytes), bytes).await?;
        // A picture's header is looked at before anything is queued; the rest is the check's to say.
        let raster = !bytes.starts_with(b"PK") && !bytes.starts_with(b"<");
        let failed = match &data {
            Ok(b) if raster => images::dimensions(b).err().map(|e| e.to_string()),
            Ok(_) => None,
            Err(e) => Some(e.to_string()),
        };
        let subject = takes::subject(&file, &manifest);
        let added = store::drawings::add(&state.pool, id, &file, &sha, &manifest, &subject, failed.as_deref()).await?;
        if let (Added::New(drawing) | Added::Take(drawing), None) = (added, &failed) {
            state.enqueue(drawing).await?;
        }
        out.push(FileTaken { file, fields, take: matches!(added, Added::Take(_)), there: added == Added::There });
    }
    let new = out.iter().filter(|f| !f.there).count();
    store::audit::log(&state.pool, access, "drawings added", &format!("{new} to {}", delivery.name)).await?;
    Ok(out)
}
