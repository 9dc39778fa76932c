//! The rack taken elsewhere and brought in; the pen roll; tags.

use std::collections::{HashMap, HashSet};

use axum::{
    extract::{Path, State as Extract},
    http::StatusCode,
    response::Response,
};
use eddymist_formats::library::{BrushLibrary, LibraryBrush, RollEntry};
use uuid::Uuid;

use super::bodies::file;
use crate::{
    access::Lead,
    access::lead_only,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{
        Access, BrushSummary, ClashChoice, LibraryBrushRead, LibraryClash, LibraryReading, LibraryTaken, LibraryText, Part, PutRoll, RollItem, Tags,
        TakeLibrary,
    },
    store,
};

/// All brushes at their current versions and the roll, as one file.
pub async fn take(Extract(state): Extract<State>, access: Access) -> Answer<Response> {
    let rack = store::brushes::list(&state.pool, access.production, access.member.id, Part::WHOLE).await?;
    if rack.is_empty() {
        return Err(Problem::input("the rack is empty: there is no brush to export"));
    }
    let roll = store::roll::read(&state.pool, access.production).await?;
    let mut names = HashSet::new();
    let mut called: HashMap<(Uuid, i32), String> = HashMap::new();
    let mut brushes = Vec::new();
    let mut add = |id: Uuid, version: i32, brush: eddymist_ink::Brush, tags: Vec<String>| {
        let mut brush = brush;
        brush.name = free_name(&brush.name, |n| names.contains(n));
        names.insert(brush.name.clone());
        called.insert((id, version), brush.name.clone());
        brushes.push(LibraryBrush { brush, of_version: Some(version), tags });
    };
    for b in as_they_go_out(rack.clone()) {
        add(b.id, b.current_version, b.brush, b.tags);
    }
    // A role that is inked with an older version takes that version along.
    for r in roll.iter().filter(|r| rack.iter().all(|b| (b.id, b.current_version) != (r.brush_id, r.version))) {
        let v = crate::work::brushes::version(&state, &access, r.brush_id, r.version).await?;
        let name = format!("{}, version {}", v.brush.name, r.version);
        add(r.brush_id, r.version, eddymist_ink::Brush { name, ..v.brush }, Vec::new());
    }
    let entries = roll.iter().filter_map(|r| {
        let brush = called.get(&(r.brush_id, r.version))?.clone();
        Some(RollEntry { role: r.role.clone(), brush, colour: r.colour.clone(), weight_factor: r.weight_factor })
    });
    let text = serde_json::to_string_pretty(&BrushLibrary::new(brushes.clone(), entries.collect()))?;
    Ok(file("brush-library.json".into(), "application/json", text.into_bytes()))
}

/// A rack with every name once: where two brushes have one name, the later ones are numbered.
fn as_they_go_out(mut rack: Vec<BrushSummary>) -> Vec<BrushSummary> {
    let mut names = HashSet::new();
    for b in &mut rack {
        b.brush.name = free_name(&b.brush.name, |n| names.contains(n));
        names.insert(b.brush.name.clone());
        b.name.clone_from(&b.brush.name);
    }
    rack
}

fn free_name(name: &str, taken: impl Fn(&str) -> bool) -> String {
    if !taken(name) {
        return name.to_string();
    }
    (2..).map(|k| format!("{name} ({k})")).find(|n| !taken(n)).unwrap_or_default()
}

/// What a file holds, and which names are taken; nothing is saved.
pub async fn read(Extract(state): Extract<State>, access: Access, Json(text): Json<LibraryText>) -> Answer<Json<LibraryReading>> {
    let library = BrushLibrary::from_json(&text.library).map_err(Problem::input)?;
    let rack = as_they_go_out(store::brushes::list(&state.pool, access.production, access.member.id, Part::WHOLE).await?);
    let read = |b: LibraryBrush| LibraryBrushRead { clash: clash(&rack, &b), brush: b.brush, tags: b.tags };
    Ok(Json(LibraryReading { brushes: library.brushes.into_iter().map(read).collect(), roll: library.roll }))
}

fn clash(rack: &[BrushSummary], b: &LibraryBrush) -> Option<LibraryClash> {
    let there = rack.iter().find(|r| r.name == b.brush.name)?;
    Some(LibraryClash { id: there.id, version: there.current_version, same: there.brush == b.brush })
}

/// Brings a library in. Every brush whose name is taken needs a decision; one that is the same already is left.
pub async fn bring(Extract(state): Extract<State>, access: Access, Json(ask): Json<TakeLibrary>) -> Answer<Json<LibraryTaken>> {
    let library = BrushLibrary::from_json(&ask.library).map_err(Problem::input)?;
    let rack = as_they_go_out(store::brushes::list(&state.pool, access.production, access.member.id, Part::WHOLE).await?);
    let undecided: Vec<&str> = library
        .brushes
        .iter()
        .filter(|b| clash(&rack, b).is_some_and(|c| !c.same) && !ask.clashes.contains_key(&b.brush.name))
        .map(|b| b.brush.name.as_str())
        .collect();
    if !undecided.is_empty() {
        return Err(Problem::input(format!(
            "these names are taken; say of each whether it is renamed, becomes a version, or not imported: {}",
            undecided.join(", ")
        )));
    }
    if ask.with_roll {
        lead_only(&access)?;
    }
    // All of it or nothing.
    let mut tx = state.pool.begin().await?;
    let mut taken = LibraryTaken { made: 0, versions: 0, left: 0, roll: 0 };
    let mut names: HashSet<String> = rack.iter().map(|b| b.name.clone()).collect();
    let mut placed: HashMap<String, (Uuid, i32)> = HashMap::new();
    for b in &library.brushes {
        let name = &b.brush.name;
        let there = clash(&rack, b);
        match (&there, ask.clashes.get(name)) {
            (Some(c), _) if c.same => {
                placed.insert(name.clone(), (c.id, c.version));
                taken.left += 1;
            }
            (Some(c), Some(ClashChoice::Leave)) => {
                placed.insert(name.clone(), (c.id, c.version));
                taken.left += 1;
            }
            (Some(c), Some(ClashChoice::Version)) => {
                let version = store::brushes::save(&mut tx, &access, c.id, c.version, &b.brush, "from a library")
                    .await?
                    .map_err(|now| Problem::stale(&format!("“{name}”"), c.version, now, serde_json::Value::Null))?;
                placed.insert(name.clone(), (c.id, version));
                taken.versions += 1;
            }
            _ => {
                let mut brush = b.brush.clone();
                brush.name = free_name(name, |n| names.contains(n));
                names.insert(brush.name.clone());
                let id = store::brushes::create(&mut tx, &access, &brush, None, None, "from a library").await?;
                store::roll::tag(&mut tx, access.production, id, 1, &b.tags).await?;
                placed.insert(name.clone(), (id, 1));
                taken.made += 1;
            }
        }
    }
    if ask.with_roll {
        let item = |e: &RollEntry| {
            let (brush_id, version) = *placed.get(&e.brush)?;
            Some(RollItem {
                role: e.role.clone(),
                brush_id,
                brush: String::new(),
                version,
                current_version: version,
                colour: e.colour.clone(),
                weight_factor: e.weight_factor,
            })
        };
        let roll: Vec<RollItem> = library.roll.iter().filter_map(item).collect();
        store::roll::put(&mut tx, access.production, &roll, None).await?;
        taken.roll = roll.len() as u32;
    }
    store::audit::log(&mut tx, &access, "library imported", &format!("{} brushes made, {} new versions", taken.made, taken.versions)).await?;
    tx.commit().await?;
    Ok(Json(taken))
}

pub async fn roll(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<RollItem>>> {
    Ok(Json(store::roll::read(&state.pool, access.production).await?))
}

/// Puts the roll as a whole, in the order of its passes.
pub async fn put_roll(Extract(state): Extract<State>, Lead(access): Lead, Json(PutRoll { roll, seen }): Json<PutRoll>) -> Answer<Json<Vec<RollItem>>> {
    let mut roles = HashSet::new();
    for r in &roll {
        let entry = RollEntry { role: r.role.clone(), brush: String::new(), colour: r.colour.clone(), weight_factor: r.weight_factor };
        entry.validate().map_err(Problem::input)?;
        if !roles.insert(r.role.trim()) {
            return Err(Problem::input(format!("roll: {} stands there twice", r.role)));
        }
        crate::work::brushes::version(&state, &access, r.brush_id, r.version).await?;
    }
    let mut tx = state.pool.begin().await?;
    if !store::roll::put(&mut tx, access.production, &roll, Some(&seen)).await? {
        drop(tx);
        let now = store::roll::read(&state.pool, access.production).await?;
        let detail = "the pen roll was changed meanwhile; nothing of yours was saved yet. Look at what it is now, then save yours or use theirs";
        return Err(Problem { current: Some(Box::new(serde_json::to_value(&now)?)), ..Problem::new(StatusCode::CONFLICT, detail) });
    }
    store::audit::log(&mut tx, &access, "pen roll changed", &roll.iter().map(|r| r.role.as_str()).collect::<Vec<_>>().join(", ")).await?;
    tx.commit().await?;
    Ok(Json(store::roll::read(&state.pool, access.production).await?))
}

pub async fn tag(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, Json(t): Json<Tags>) -> Answer<Json<()>> {
    let tags = t.cleaned().map_err(Problem::input)?;
    let mut tx = state.pool.begin().await?;
    if store::roll::tag(&mut tx, access.production, id, t.from_version, &tags).await?.is_none() {
        drop(tx);
        let now = store::brushes::one(&state.pool, access.production, access.member.id, id).await?.ok_or_else(|| Problem::not_found("the brush"))?;
        return Err(Problem::stale("what this brush is tagged with", t.from_version, now.tags_version, serde_json::to_value(now.tags)?));
    }
    store::audit::log(&mut tx, &access, "brush tagged", &tags.join(", ")).await?;
    tx.commit().await?;
    Ok(Json(()))
}
