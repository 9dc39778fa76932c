//! The demo production, brought in through the same doors as real data.

use eddymist_calibrate::pen_card::Note;
use eddymist_formats::{Given, inkml};
use eddymist_ink::{
    Brush,
    brush::{Ends, Shaped, StrokeKind},
};
use eddymist_sim::{
    pens::PENS,
    production::{ARTISTS, DELIVERIES, Drawn, drawing, line_guide, manifest, pen_scan, redrawn, sheet_scan},
    stylus::{Hand, Tablet, warmup},
};

use uuid::Uuid;

use crate::{
    access::hash_password,
    state::State,
    work::{brushes, checks, intake, pens, sheets, tablets},
};
use eddymist_store::{
    model::{Access, Decide, Decided, DemoSignIn, Member, MemberAccess, NewBrush, NewDelivery, NewPen, NewProfile, NewSheetPen, RollItem, Seen},
    store,
};

/// The demo's members with their password: shown on the sign-in page and by the start command where the demo is loaded.
const SIGN_INS: [(&str, &str, MemberAccess); 3] = [
    ("Ilse Marrow", "ilse@nighttram.example", MemberAccess::Lead),
    ("Dov Tarrant", "dov@nighttram.example", MemberAccess::Artist),
    ("Wanda Quist", "wanda@nighttram.example", MemberAccess::Viewer),
];
const PASSWORD: &str = "last tram home";

/// What the sign-in page of a demo shows.
pub fn sign_ins() -> Vec<DemoSignIn> {
    SIGN_INS.iter().map(|(name, email, part)| DemoSignIn { name: (*name).into(), email: (*email).into(), password: PASSWORD.into(), part: *part }).collect()
}

const SEED: u64 = 12;

/// Brushes of other stroke kinds: a bundle of hairs for the umbrella's shade, and a leaf for the badger's whiskers.
fn laid() -> [(&'static str, f64, StrokeKind, &'static str); 2] {
    let leaf = "M0 0 C 10 -8 30 -8 40 0 C 30 8 10 8 0 0 Z".to_string();
    [
        ("Split hairs for the umbrella", 2.4, StrokeKind::DryBrush { hairs: 34, spread: 0.6, snap: 0.5, ink_held: 0.9 }, "texture"),
        (
            "Leaf for the whiskers",
            0.9,
            StrokeKind::Shaped(Shaped { shape_path: leaf, ends: Ends::Keep, caps: Some([0.45, 0.45]), break_over_deg: Some(70.0) }),
            "whiskers",
        ),
    ]
}

/// Loads it, if it is not there.
pub async fn load(state: &State) -> Result<(), String> {
    let text = |e: sqlx::Error| e.to_string();
    let problem = |p: crate::problem::Problem| p.detail;
    if store::members::demo_production(&state.pool).await.map_err(text)?.is_some() {
        return Ok(());
    }
    let mut lead = None;
    let production = store::members::create_production(&mut *connection(state).await?, "Night Tram", false).await.map_err(text)?;
    for s in &sign_ins() {
        let hash = hash_password(&s.password)?;
        let Some(id) = store::members::create(&state.pool, &s.name, &s.email, &hash).await.map_err(text)? else {
            continue;
        };
        store::members::join(&state.pool, production, id, s.part).await.map_err(text)?;
        lead = lead.or(Some(Member { id, name: s.name.clone(), email: s.email.clone(), hash, stamp: Uuid::nil() }));
    }
    let member = lead.ok_or("the demo's members are there already, but its production is not; start with an empty database")?;
    let access = Access { member, production, part: MemberAccess::Lead };
    let mut pens = Vec::new();
    for (i, pen) in PENS.iter().enumerate() {
        let (png, efforts) = pen_scan(pen, 600.0, SEED + i as u64);
        let sha = pens::keep_picture(state, production, "image/png", &png).await.map_err(problem)?;
        let (_, _, measurement, views) = pens::read_scan(&png, pens::said_of(None, false)).map_err(problem)?;
        let efforts = if efforts.len() == views.len() { efforts.into_iter().map(Some).collect() } else { vec![None; views.len()] };
        let note = Note {
            paper: "bristol, smooth".into(),
            ink: "carbon black".into(),
            wear: if i == 2 { "third drawing with this nib".into() } else { String::new() },
            usage: String::new(),
        };
        let new =
            NewPen { name: pen.name.into(), scan_sha256: sha, resolution_dpi: measurement.resolution_dpi, photo: false, efforts, marks: Vec::new(), note };
        pens.push(pens::keep_pen(state, &access, &new, measurement, views, &[]).await.map_err(problem)?);
    }
    // Three of them on the whole sheet too: the nib by direction, tapers, paces and dots. Under one lay a kitchen scale.
    let scale = [[0.0, 18.0], [0.25, 55.0], [0.5, 110.0], [0.75, 190.0], [1.0, 310.0]];
    let sheets = [
        (2, "flexible steel nib, a month on", "a month of daily use"),
        (3, "soft brush pen, whole sheet", "fresh"),
        (4, "chisel marker, whole sheet", "fresh"),
    ];
    for (i, name, wear) in sheets {
        let png = tokio::task::spawn_blocking(move || sheet_scan(&PENS[i], 300.0, SEED + 40 + i as u64)).await.map_err(|e| e.to_string())?;
        let sha = pens::keep_picture(state, production, "image/png", &png).await.map_err(problem)?;
        let found = sheets::read_sheet(&png, Given::default(), &[]).map_err(problem)?;
        let note = Note { paper: "bristol, smooth".into(), ink: "carbon black".into(), wear: wear.into(), usage: String::new() };
        let new = NewSheetPen {
            name: name.into(),
            scan_sha256: sha,
            resolution_dpi: found.reading.resolution_dpi,
            photo: false,
            left_out: Vec::new(),
            marked: Vec::new(),
            grams: if i == 2 { scale.to_vec() } else { Vec::new() },
            note,
        };
        pens.push(sheets::keep_sheet(state, &access, &new, found).await.map_err(problem)?);
    }
    let mut profiles = Vec::new();
    for (i, artist) in ARTISTS.iter().enumerate() {
        let (Some(hand), Some(tablet)) = (Hand::by_id(artist.hand), Tablet::by_id(artist.tablet)) else {
            continue;
        };
        let text = inkml::write_warmup(&warmup(hand, tablet, SEED + i as u64));
        let new = NewProfile { artist: artist.name.into(), tablet: tablet.name.into(), inkml: text };
        profiles.push(tablets::keep_profile(state, &access, new).await.map_err(problem)?);
    }
    let mut brushes = Vec::new();
    let fitted = [
        ("Steel nib for Osk's coat", 5, 0, "coat, flexible"),
        ("Fineliner for the tram", 1, 1, "tram, even"),
        ("Brush pen for the stripes", 6, 2, "stripes, wet"),
    ];
    for (name, pen, profile, tags) in fitted {
        let new = NewBrush { name: name.into(), pen_id: pens.get(pen).copied(), profile_id: profiles.get(profile).copied(), copy_of: None, copy_version: None };
        let id = brushes::create_brush(state, &access, new).await.map_err(problem)?;
        store::roll::tag(&mut *connection(state).await?, production, id, 1, &tags.split(", ").map(str::to_string).collect::<Vec<_>>()).await.map_err(text)?;
        brushes.push(id);
    }
    for (name, width, stroke, tags) in laid() {
        let mut brush = Brush { stroke, ..Brush::plain(name, width) };
        brush.weight = vec![[0.0, 0.4 * width], [0.5, width], [1.0, 1.5 * width]];
        let id = store::brushes::create(&mut *connection(state).await?, &access, &brush, None, profiles.first().copied(), "first try").await.map_err(text)?;
        store::roll::tag(&mut *connection(state).await?, production, id, 1, &[tags.to_string()]).await.map_err(text)?;
    }
    let guide = line_guide();
    let on_roll = [("contour", 0), ("inner line", 1), ("stripe", 2)].into_iter().filter_map(|(role, k)| {
        let colour = guide.roles.iter().find(|r| r.name == role).and_then(|r| r.from.colour.clone());
        Some(RollItem { role: role.into(), brush_id: *brushes.get(k)?, brush: String::new(), version: 1, current_version: 1, colour, weight_factor: 1.0 })
    });
    store::roll::put(&mut *connection(state).await?, production, &on_roll.collect::<Vec<_>>(), None).await.map_err(text)?;
    let guide_id = store::guides::create(&mut *connection(state).await?, &access, &guide).await.map_err(text)?;
    let mut made = Vec::new();
    for d in &DELIVERIES {
        let drawn = tokio::task::spawn_blocking(move || (1..=d.drawings).map(|n| drawing(d, n, SEED)).collect::<Vec<_>>()).await.map_err(|e| e.to_string())?;
        made.push(deliver(state, &access, guide_id, d.name, Some(manifest(d)), drawn).await?);
    }
    decided(state, &access, made[0], guide_id).await?;
    // Dov of the manifests is the member of that name.
    if let Some((dov, _, _)) = store::members::account(&state.pool, SIGN_INS[1].1).await.map_err(text)? {
        store::artists::link(&mut *connection(state).await?, &access, "Dov", Some(dov)).await.map_err(text)?;
    }
    // Last, so that a load that broke off is not taken for a whole one.
    store::members::mark_demo(&mut *connection(state).await?, production).await.map_err(text)
}

async fn connection(state: &State) -> Result<sqlx::pool::PoolConnection<sqlx::Postgres>, String> {
    state.pool.acquire().await.map_err(|e| e.to_string())
}

/// A delivery brought in through the door, and weighed at once.
async fn deliver(state: &State, access: &Access, guide_id: uuid::Uuid, name: &str, csv: Option<String>, drawn: Vec<Drawn>) -> Result<uuid::Uuid, String> {
    let text = |e: sqlx::Error| e.to_string();
    let new = NewDelivery { name: name.into(), guide_id, pattern: "{shot}_{artist}_{drawing}".into(), csv };
    let id = intake::make(state, access, &new).await.map_err(|p| p.detail)?;
    for one in drawn {
        intake::take_in(state, access, id, vec![(one.file, Box::new(std::io::Cursor::new(one.png)))]).await.map_err(|p| p.detail)?;
    }
    for waits in store::drawings::checks(&state.pool, id).await.map_err(text)? {
        checks::weigh(state, waits.id).await.map_err(text)?;
    }
    Ok(id)
}

/// Two of Dov's drawings are returned, one finding is marked as intended, something is pinned; one of the two comes again, mended.
async fn decided(state: &State, access: &Access, delivery: uuid::Uuid, guide_id: uuid::Uuid) -> Result<(), String> {
    let text = |e: sqlx::Error| e.to_string();
    let all = store::drawings::checks(&state.pool, delivery).await.map_err(text)?;
    let by_number = |n: &str| all.iter().find(|d| d.manifest.get("drawing").is_some_and(|v| v == n));
    let around = |x: f64, y: f64| (0..=40).map(|k| (f64::from(k) * 0.16).sin_cos()).map(|(s, c)| [x + 90.0 * c, y + 62.0 * s]).collect::<Vec<_>>();
    for (n, note) in [
        ("007", "The coat is too heavy all along the back. Same brush, less pressure, please."),
        ("013", "Heavy again: has the tablet reached its full point?"),
    ] {
        let Some(d) = by_number(n) else { continue };
        let worst = d.check.as_ref().and_then(|c| c.findings.first()).map(|f| around(f.x, f.y));
        let decide =
            Decide { drawings: vec![Seen { id: d.id, seen: 0 }], state: Decided::Return, note: note.into(), strokes: worst.into_iter().collect(), fix: None };
        store::decisions::decide(&mut *connection(state).await?, access, delivery, &decide).await.map_err(text)?.map_err(|d| format!("{d} was decided on"))?;
    }
    if let Some(d) = by_number("013") {
        store::decisions::pin(&mut *connection(state).await?, access, d.id, [980.0, 330.0], "The cap slips off the ear here").await.map_err(text)?;
    }
    let again = tokio::task::spawn_blocking(|| redrawn(&DELIVERIES[0], 7, SEED)).await.map_err(|e| e.to_string())?;
    // Drawn again on the large pen tablet.
    let row = format!("file,tablet,brush,drawn_at\n{},large pen tablet,Steel nib for Osk's coat,2026-11-25T10:00\n", again.file);
    deliver(state, access, guide_id, "Shot 012, retakes", Some(row), vec![again]).await.map(|_| ())
}
