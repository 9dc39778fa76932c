//! A pen from a scan: measured, marked, made into a card and kept.

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_formats::{
    ReadError,
    images::{self, PngKind, write_png},
    pen_sheet::strip_uri,
};
use eddymist_measure::{
    scan::{
        self, LineMeasurement, LineView, ScanError,
        mark::{Mark, MarkError, MarkedStroke, Marking},
    },
    stats::median,
};
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
    let picture = images::scan(bytes, dpi).map_err(|e| match e {
        ReadError::NoResolution => Problem::input("no resolution is in the file: type the dpi that it was scanned at, then measure again"),
        e => Problem::input(e),
    })?;
    let (document, views) = match scan::measure(&picture) {
        // A flick or a dot can still be marked.
        Err(e @ ScanError::NoLine) => (LineMeasurement::none(picture.dpi, format!("{e}. Flicks and dots can be marked all the same")), Vec::new()),
        other => other.map_err(Problem::input)?,
    };
    Ok((picture.width as u32, picture.height as u32, document, views))
}

/// Reads marks; the first that gives nothing says why where they are kept, each for itself where they are shown.
pub fn read_marks(bytes: &[u8], dpi: f64, marks: &[Mark]) -> Answer<Vec<Result<MarkedStroke, MarkError>>> {
    let picture = images::scan(bytes, Some(dpi)).map_err(Problem::input)?;
    // The solid ink's level, where ruled lines tell it.
    let level = scan::measure(&picture).ok().and_then(|(m, _)| median(&m.lines.iter().map(|l| 1.0 - 10f64.powf(-l.darkness)).collect::<Vec<_>>()));
    let marking = Marking::new(&picture).map_err(Problem::input)?;
    Ok(marks.iter().map(|m| marking.read(m, level)).collect())
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
