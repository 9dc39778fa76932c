//! A pen from a scan: measured, marked, made into a card and kept.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_formats::{
    images::{PngKind, write_png},
    pen_sheet::strip_uri,
};
use eddymist_measure::scan::{LineMeasurement, LineView, mark::MarkedStroke};
use eddymist_reader::{Unread, reading};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, NewPen},
    store::{self, pens::PenLines},
};

/// What a page shows of a measured line.
pub fn pen_line(v: LineView, effort: Option<f64>) -> Answer<PenLine> {
    let grey: Vec<u8> = v.strip.data.iter().map(|c| 255 - (c * 255.0) as u8).collect();
    let png = write_png(v.strip.columns, v.strip.rows, PngKind::Grey, &grey, None).map_err(Problem::input)?;
    Ok(PenLine {
        effort,
        from: v.from,
        to: v.to,
        step_mm: v.step_mm,
        left_mm: v.left_mm,
        right_mm: v.right_mm,
        width_mm: v.width_mm,
        autocorrelation: v.autocorrelation,
        strip_png: format!("data:image/png;base64,{}", STANDARD.encode(png)),
        strip_mm: [v.strip.columns as f64 * v.strip.px_mm, v.strip.rows as f64 * v.strip.px_mm],
    })
}

/// Decodes and measures; the reason says what to do.
pub fn read_scan(bytes: &[u8], dpi: Option<f64>) -> Answer<(u32, u32, LineMeasurement, Vec<LineView>)> {
    let read = reading::lines(bytes, dpi, None).map_err(|e| match e {
        Unread::NoResolution => Problem::input("no resolution is in the file: type the dpi that it was scanned at, then measure again"),
        e => e.into(),
    })?;
    // A flick or a dot can still be marked.
    let none = || (LineMeasurement::none(read.dpi, format!("{}. Flicks and dots can be marked all the same", read.why)), Vec::new());
    let (document, views) = read.measured.unwrap_or_else(none);
    Ok((read.width_px as u32, read.height_px as u32, document, views))
}

/// The media type by the first bytes.
pub fn media_type(bytes: &[u8]) -> &'static str {
    match bytes {
        [0x89, b'P', b'N', b'G', ..] => "image/png",
        [0xFF, 0xD8, ..] => "image/jpeg",
        [b'I', b'I', ..] | [b'M', b'M', ..] => "image/tiff",
        _ => "application/octet-stream",
    }
}

/// Keeps a measured pen.
pub async fn keep_pen(
    state: &State,
    access: &Access,
    new: &NewPen,
    measurement: LineMeasurement,
    views: Vec<LineView>,
    marked: &[MarkedStroke],
) -> Answer<Uuid> {
    let mut card = PenCard::from_lines(new.name.trim(), &measurement, &new.efforts, new.note.clone());
    card.add_marks(marked);
    if views.is_empty() && card.lead_in.is_none() && card.lead_out.is_none() {
        return Err(Problem::input("nothing of a pen was measured: rule a line, or mark a flick on the scan (a dot alone needs a line to be held against)"));
    }
    let normal = |e: &Option<f64>| (e.unwrap_or(0.5) - 0.5).abs();
    let typical = views.iter().zip(&new.efforts).min_by(|a, b| normal(a.1).total_cmp(&normal(b.1)));
    if let Some(strip) = typical.and_then(|(v, _)| v.repeating.as_ref()) {
        card.strip_png = Some(strip_uri(strip).map_err(Problem::input)?);
    }
    let lines = views.into_iter().zip(&new.efforts).map(|(v, e)| pen_line(v, *e)).collect::<Answer<_>>()?;
    let id = store::pens::keep(&state.pool, access, &card, &PenLines { measurement: Some(measurement), lines }, &new.scan_sha256, None).await?;
    store::audit::log(&state.pool, access, "pen kept", &card.name).await?;
    Ok(id)
}
