//! A watched folder: drawings that come into it are taken into a delivery through the same door as the page's.

use std::{
    collections::HashMap,
    path::{Path, PathBuf},
    time::{Duration, SystemTime},
};

use eddymist_formats::archive;

use super::intake;
use crate::{StartError, access::ARCHIVED, state::State};
use eddymist_store::{
    model::{Access, MemberAccess, NewDelivery},
    store,
};

/// What is watched, and where it goes.
pub struct Watched {
    pub folder: PathBuf,
    pub production: Option<String>,
    pub delivery: Option<String>,
    pub guide: Option<String>,
    pub names: String,
    pub member: Option<String>,
    pub once: bool,
}

/// How often the folder is looked at.
const EVERY: Duration = Duration::from_secs(2);
/// So many files are taken in together.
const TOGETHER: usize = 8;

fn usage(text: impl Into<String>) -> StartError {
    StartError::Usage(text.into())
}

fn refused(p: crate::problem::Problem) -> StartError {
    StartError::Usage(p.detail)
}

/// Runs until it is told to stop; with `once` until what is there is checked.
pub async fn run(state: &State, w: &Watched) -> Result<(), StartError> {
    let access = acting_in(state, w.production.as_deref(), w.member.as_deref()).await?;
    let delivery = delivery(state, w, &access).await?;
    let mut taken: HashMap<PathBuf, (u64, SystemTime)> = HashMap::new();
    let mut before: HashMap<PathBuf, (u64, SystemTime)> = HashMap::new();
    loop {
        let mut now = HashMap::new();
        look(&w.folder, &mut now);
        // A file that is still being written grows: it is taken when two looks find it the same.
        let mut ready: Vec<&PathBuf> =
            now.iter().filter(|(p, seen)| (w.once || before.get(*p) == Some(seen)) && taken.get(*p) != Some(seen)).map(|(p, _)| p).collect();
        ready.sort_by(|a, b| natord::compare(&a.to_string_lossy(), &b.to_string_lossy()));
        for some in ready.chunks(TOGETHER) {
            let mut files: Vec<intake::Came> = Vec::new();
            for path in some {
                let name = path.strip_prefix(&w.folder).unwrap_or(path).to_string_lossy().into_owned();
                match std::fs::File::open(path) {
                    Ok(file) => files.push((name, Box::new(file))),
                    Err(e) => eprintln!("eddymist: {name}: {e}"),
                }
            }
            if files.is_empty() {
                continue;
            }
            match intake::take_in(state, &access, delivery, files).await {
                Ok(came) => {
                    for f in came.iter().filter(|f| !f.there) {
                        let of = f.of.as_ref().filter(|of| **of != f.file).map(|of| format!(" of {of}")).unwrap_or_default();
                        let asked = if f.asked { ", maybe a later take: the page of the delivery asks of which" } else { "" };
                        eprintln!("eddymist: {}{}{asked}", f.file, if f.take { format!(", a later take{of}") } else { String::new() });
                    }
                    taken.extend(some.iter().filter_map(|p| Some(((*p).clone(), *now.get(*p)?))));
                }
                // Tried again at the next look.
                Err(p) => eprintln!("eddymist: {}", p.detail),
            }
        }
        if w.once {
            return ended(state, &access, delivery).await;
        }
        before = now;
        tokio::time::sleep(EVERY).await;
    }
}

/// Works on the checks itself until all is weighed, and says what came of it.
async fn ended(state: &State, access: &Access, delivery: uuid::Uuid) -> Result<(), StartError> {
    loop {
        let d = store::deliveries::one(&state.pool, access.production, delivery).await?;
        let waiting: Vec<_> = store::drawings::waiting(&state.pool, delivery).await?;
        if waiting.is_empty() || d.is_none_or(|d| d.stopped) {
            break;
        }
        for drawing in waiting {
            crate::work::checks::weigh(state, drawing).await?;
        }
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    let (_, done, failed, _) = store::deliveries::progress(&state.pool, delivery).await?;
    let back = store::deliveries::list(&state.pool, access.production).await?.into_iter().find(|d| d.id == delivery).map_or(0, |d| d.to_return);
    println!("{done} measured, {back} to return, {failed} could not be read");
    Ok(())
}

fn look(dir: &Path, out: &mut HashMap<PathBuf, (u64, SystemTime)>) {
    for entry in std::fs::read_dir(dir).into_iter().flatten().flatten() {
        let path = entry.path();
        let Ok(meta) = entry.metadata() else { continue };
        let is_zip = path.extension().is_some_and(|e| e.eq_ignore_ascii_case("zip"));
        if meta.is_dir() {
            look(&path, out);
        } else if meta.is_file() && (is_zip || archive::is_drawing_name(&entry.file_name().to_string_lossy())) {
            out.insert(path, (meta.len(), meta.modified().unwrap_or(SystemTime::UNIX_EPOCH)));
        }
    }
}

/// The production of a name (the only one without a name), and a member who acts in it: of an address, else a lead.
pub async fn acting_in(state: &State, production: Option<&str>, member: Option<&str>) -> Result<Access, StartError> {
    let mut all = store::members::all_productions(&state.pool).await?;
    // What is archived is not meant, unless it is named: then that is said.
    if production.is_none() {
        let mut open = Vec::new();
        for p in all {
            if !store::members::is_archived(&state.pool, p.0).await? {
                open.push(p);
            }
        }
        all = open;
    }
    let named: Vec<&(uuid::Uuid, String)> = all.iter().filter(|p| production.is_none_or(|n| n == p.1)).collect();
    let [(production, _)] = named.as_slice() else {
        let known = all.iter().map(|p| p.1.as_str()).collect::<Vec<_>>().join(", ");
        return Err(usage(if known.is_empty() {
            "there is no production yet; make it in the browser first".into()
        } else {
            format!("name one production with --production: {known}")
        }));
    };
    if store::members::is_archived(&state.pool, *production).await? {
        return Err(usage(ARCHIVED));
    }
    let member = match member {
        Some(address) => {
            store::members::by_email(&state.pool, address).await?.ok_or_else(|| usage(format!("there is no member with the address {address}")))?
        }
        None => store::members::a_lead(&state.pool, *production).await?.ok_or_else(|| usage("the production has no lead; name a member with --member"))?,
    };
    let part = store::members::part(&state.pool, *production, member.id).await?.filter(|p| *p != MemberAccess::Viewer);
    let part = part.ok_or_else(|| usage(format!("{} may not add drawings to this production", member.email)))?;
    Ok(Access { member, production: *production, part })
}

async fn delivery(state: &State, w: &Watched, access: &Access) -> Result<uuid::Uuid, StartError> {
    intake::pattern_of(&w.names).map_err(refused)?;
    let folder = w.folder.file_name().map_or_else(|| "Watched folder".into(), |n| n.to_string_lossy().into_owned());
    let name = w.delivery.clone().unwrap_or(folder);
    if let Some(d) = store::deliveries::list(&state.pool, access.production).await?.into_iter().rev().find(|d| d.name == name) {
        return Ok(d.id);
    }
    let guides = store::guides::list(&state.pool, access.production).await?;
    let guide = guides.iter().find(|g| w.guide.as_ref().is_none_or(|n| *n == g.guide.name)).ok_or_else(|| {
        let known = guides.iter().map(|g| g.guide.name.as_str()).collect::<Vec<_>>().join(", ");
        usage(if known.is_empty() {
            "the production has no line guide yet; set it in the browser first".into()
        } else {
            format!("there is no such line guide; there are {known}")
        })
    })?;
    let new = NewDelivery { name, guide_id: guide.id, pattern: w.names.clone(), csv: None };
    let mut tx = state.pool.begin().await?;
    let id = store::deliveries::create(&mut tx, access, &new, guide.version).await?;
    store::audit::log(&mut tx, access, "delivery made", &new.name).await?;
    tx.commit().await?;
    Ok(id)
}
