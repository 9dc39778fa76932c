//! Drawings taken into a delivery: files and ZIPs read apart, known by name and manifest, kept, and queued for their checks.

use std::io::{Read, Seek, SeekFrom};

use eddymist_check::{Manifest, NamePattern};
use eddymist_formats::{LIMITS, ReadError, archive, images, manifest};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, FileTaken, NewDelivery, Subject},
    store::{
        self,
        deliveries::Rows,
        takes::{Added, New},
    },
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
    let mut tx = state.pool.begin().await?;
    let id = store::deliveries::create(&mut tx, access, new, guide.version).await?;
    if let Some(rows) = rows {
        store::deliveries::set_manifest(&mut tx, id, 1, new.pattern.trim(), &rows, &[]).await?;
    }
    store::audit::log(&mut tx, access, "delivery made", &new.name).await?;
    tx.commit().await?;
    Ok(id)
}

/// What a delivery's drawings are known by from these rows; those whose measure they change are to be checked again.
pub async fn known_anew(state: &State, access: &Access, id: Uuid, pattern: Option<&NamePattern>, rows: &Rows) -> Answer<Vec<store::deliveries::Known>> {
    let mut read = Vec::new();
    for d in store::drawings::checks(&state.pool, id).await? {
        let manifest = known(pattern, rows, &d.file).unwrap_or_default();
        let other = |field: &str| manifest.get(field) != d.manifest.get(field);
        let again = ["shot_size", "picture_kind"].iter().any(|f| other(f)) && !d.refused;
        let subject = store::takes::known_by(&state.pool, access, id, d.id, &d.file, &manifest).await?;
        read.push(store::deliveries::Known { id: d.id, subject, again, manifest });
    }
    Ok(read)
}

/// The delivery, or a 404.
pub async fn own(state: &State, access: &Access, id: Uuid) -> Answer<store::deliveries::Delivery> {
    store::deliveries::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the delivery"))
}

/// A file that came: what is called what, and where it lies until it is read.
pub type Came = (String, Box<dyn ReadSeek>);

/// Where a file lies: on disk or in memory.
pub trait ReadSeek: Read + Seek + Send {}
impl<T: Read + Seek + Send> ReadSeek for T {}

/// Files and what lies in archives, one at a time: the next is read when the last was taken.
fn read_apart(came: Vec<Came>, each: &mut impl FnMut(String, Result<Vec<u8>, ReadError>) -> bool) {
    for (name, mut file) in came {
        let name = called(&name);
        if archive::is_plain_zip(&mut file, &LIMITS) {
            let mut wanted = true;
            let read = archive::entries(&mut file, &LIMITS, |entry, data| {
                wanted = each(format!("{name}/{entry}"), data);
                wanted
            });
            if !wanted || read.is_err_and(|e| !each(name, Err(e))) {
                return;
            }
        } else if !each(name, whole(&mut file)) {
            return;
        }
    }
}

fn whole(file: &mut impl ReadSeek) -> Result<Vec<u8>, ReadError> {
    let broken = |e: std::io::Error| ReadError::Damaged(e.to_string());
    LIMITS.file(file.seek(SeekFrom::End(0)).map_err(broken)?)?;
    file.rewind().map_err(broken)?;
    let mut bytes = Vec::new();
    file.read_to_end(&mut bytes).map_err(broken)?;
    Ok(bytes)
}

/// A file's name without what no name has: control characters, and more than a file system takes.
pub fn called(name: &str) -> String {
    const MOST: usize = 400;
    let plain: String = name.chars().filter(|c| !c.is_control()).take(MOST).collect();
    if plain.trim().is_empty() { "unnamed".into() } else { plain }
}

/// Takes files into a delivery and queues their checks: the one way in, for the page and for a watched folder.
pub async fn take_in(state: &State, access: &Access, id: Uuid, mut came: Vec<Came>) -> Answer<Vec<FileTaken>> {
    let mut delivery = own(state, access, id).await?;
    // A manifest in an archive says of its drawings what they are.
    let (came, tables) = super::off_thread(move || {
        let tables = came.iter_mut().filter_map(|(name, file)| Some((name.clone(), archive::table(file, &LIMITS).filter(|t| manifest::is_one(&t.1))?)));
        let tables: Vec<_> = tables.collect();
        Ok((came, tables))
    })
    .await?;
    let mut rows = delivery.rows.clone();
    for (name, (table, text)) in tables {
        rows.extend(manifest::read(&text).map_err(|e| Problem::input(format!("{table} in {name}: {e}. Nothing was added")))?);
    }
    let pattern = pattern_of(&delivery.pattern)?;
    if rows != delivery.rows {
        let read = known_anew(state, access, id, pattern.as_ref(), &rows).await?;
        let version = delivery.manifest_version;
        let mut tx = state.pool.begin().await?;
        if !store::deliveries::set_manifest(&mut tx, id, version, delivery.pattern.trim(), &rows, &read).await? {
            return Err(Problem::conflict("the manifest was changed meanwhile, and the archive has one too: nothing was added. Send the files again"));
        }
        store::audit::versions(&mut tx, access, "manifest changed", &delivery.name, None, [Some(version), Some(version + 1)]).await?;
        tx.commit().await?;
        state.enqueue_waiting(false).await?;
        delivery.rows = rows;
    }
    let (send, mut read) = tokio::sync::mpsc::channel(1);
    // It ends when nobody takes what it reads.
    let reading = tokio::task::spawn_blocking(move || read_apart(came, &mut |name, data| send.blocking_send((name, data)).is_ok()));
    let mut out = Vec::new();
    while let Some((file, data)) = read.recv().await {
        match take_one(state, access, (id, &delivery.rows), pattern.as_ref(), file.clone(), data).await {
            Ok(taken) => out.push(taken),
            Err(mut p) => {
                // What was taken in stays: it is said, so that the rest can be sent again.
                drop(read);
                added(state, access, &delivery.name, &out).await?;
                p.detail = format!(
                    "{} files were added; {file} and what came after it were not: {}. Send the same files again: those that are there are skipped",
                    out.len(),
                    p.detail
                );
                p.current = serde_json::to_value(&out).ok().map(Box::new);
                return Err(p);
            }
        }
    }
    let _ = reading.await;
    added(state, access, &delivery.name, &out).await?;
    Ok(out)
}

async fn added(state: &State, access: &Access, delivery: &str, taken: &[FileTaken]) -> Answer<()> {
    let new: Vec<Uuid> = taken.iter().filter(|f| !f.there).filter_map(|f| f.id).collect();
    if new.is_empty() {
        return Ok(());
    }
    let mut tx = state.pool.begin().await?;
    store::audit::added(&mut tx, access, delivery, &new).await?;
    Ok(tx.commit().await?)
}

async fn take_one(
    state: &State,
    access: &Access,
    (delivery, rows): (Uuid, &Rows),
    pattern: Option<&NamePattern>,
    file: String,
    data: Result<Vec<u8>, ReadError>,
) -> Answer<FileTaken> {
    let fields = known(pattern, rows, &file);
    let manifest = fields.clone().unwrap_or_default();
    // A picture's header is looked at before anything is kept or queued; the rest is the check's to say.
    let headed = data.and_then(|b| {
        let raster = !b.starts_with(b"PK") && !b.starts_with(b"<");
        if raster { images::dimensions(&b, &LIMITS).map(|_| b) } else { Ok(b) }
    });
    let failed = headed.as_ref().err().map(|e| e.to_string());
    let bytes = headed.unwrap_or_default();
    let sha = super::pens::keep_picture(state, access.production, super::pens::media_type(&bytes), &bytes).await?;
    let new = New { delivery, file: &file, sha: &sha, manifest: &manifest, failed: failed.as_deref(), of: None, note: "" };
    let added = store::takes::add(&state.pool, access, &new).await?.map_err(Problem::input)?;
    queued(state, added, failed.is_some(), FileTaken { file, fields, id: None, take: false, of: None, asked: false, there: false }).await
}

/// Queues the check of what was added, and says what became of the file.
async fn queued(state: &State, added: Added, failed: bool, mut taken: FileTaken) -> Answer<FileTaken> {
    match added {
        Added::New(id) => taken.id = Some(id),
        Added::Asked(id) => (taken.id, taken.asked) = (Some(id), true),
        Added::Take(id, of) => (taken.id, taken.take, taken.of) = (Some(id), true, Some(of)),
        Added::There => taken.there = true,
    }
    if let (Some(id), false) = (taken.id, failed) {
        state.enqueue(id).await?;
    }
    Ok(taken)
}

/// Takes one file in as the next take of a drawing, with a note.
pub async fn hand_in(state: &State, access: &Access, of: &store::drawings::Stored, (name, bytes): (String, Vec<u8>), note: &str) -> Answer<FileTaken> {
    if !bytes.starts_with(b"PK") && !bytes.starts_with(b"<") {
        images::dimensions(&bytes, &LIMITS).map_err(|e| Problem::input(format!("{name}: {e}. Nothing was changed")))?;
    } else if archive::is_plain_zip(&mut std::io::Cursor::new(&bytes), &LIMITS) {
        return Err(Problem::input(format!("{name} is a ZIP: hand in one drawing for this one, or drop the ZIP on the delivery. Nothing was changed")));
    }
    let sha = super::pens::keep_picture(state, access.production, super::pens::media_type(&bytes), &bytes).await?;
    // What the take is of says who drew it, where and which.
    let nothing = Manifest::new();
    let new = New { delivery: of.delivery, file: &name, sha: &sha, manifest: &nothing, failed: None, of: Some(of.id), note };
    let added = store::takes::add(&state.pool, access, &new).await?.map_err(Problem::conflict)?;
    if added == Added::There {
        return Err(Problem::input(format!("{name} is the same picture as {}: nothing was changed", of.file)));
    }
    let mut tx = state.pool.begin().await?;
    store::audit::pictured(&mut tx, access, "take handed in", &format!("{name} for {} of {}", of.file, of.delivery_name), Subject::Drawing, &[of.id]).await?;
    tx.commit().await?;
    queued(state, added, false, FileTaken { file: name, fields: None, id: None, take: false, of: None, asked: false, there: false }).await
}
