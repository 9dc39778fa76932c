//! A pen from a sampler sheet: read, made into a card and kept.

use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_formats::{Given, pen_sheet::PenSheet};
use eddymist_measure::sheet::{Marked, layout::CellKind};
use eddymist_reader::{Unread, reading};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, KeptSheet, NewSheetPen, Subject},
    store::{self, pens::PenLines},
};

/// Reads the bytes of a sheet; the reason says what to do.
pub fn read_sheet(bytes: &[u8], given: Given, marked: &[Marked]) -> Answer<PenSheet> {
    reading::sheet(bytes, given, marked).map_err(|e| match e {
        Unread::NoResolution => {
            Problem::input("no scanner’s resolution is in the file: type the dpi that it was scanned at, or say that it is a photo, then read it again")
        }
        e => e.into(),
    })
}

/// Keeps the pen of a sheet.
pub async fn keep_sheet(state: &State, access: &Access, new: &NewSheetPen, found: PenSheet) -> Answer<Uuid> {
    let mut card = PenCard::from_sheet(new.name.trim(), &found.reading, &new.left_out, new.note.clone());
    (card.strip_png, card.source) = (found.strip_png, Some(found.source));
    card.weigh(&new.grams);
    if card.widths_by_effort.is_none() && card.lead_out.is_none() && card.widths_by_pace.is_none() {
        return Err(Problem::input("no cell that counts shows a line; leave at least one with ruled lines in"));
    }
    let ruled = found.reading.cells.iter().filter(|c| c.kind == CellKind::Effort && !new.left_out.contains(&c.id));
    let effort = |id: &str| found.reading.plan.cells.iter().find(|c| c.id == id).and_then(|c| c.effort);
    let lines = ruled.flat_map(|c| c.strokes.iter().map(|s| PenLine::from_stroke(s, effort(&c.id)))).collect();
    let kept = KeptSheet {
        width_px: found.width_px as u32,
        height_px: found.height_px as u32,
        left_out: new.left_out.clone(),
        strip_mismatch_um: found.strip_mismatch_um,
        reading: found.reading,
    };
    let mut tx = state.pool.begin().await?;
    let id = store::pens::keep(&mut tx, access, &card, &PenLines { measurement: None, lines }, &new.scan_sha256, Some(&kept)).await?;
    store::audit::pictured(&mut tx, access, "pen saved", &card.name, Subject::Pen, &[id]).await?;
    tx.commit().await?;
    Ok(id)
}
