//! The child's side: bounds itself, reads the question and the picture, and answers.

use std::{
    io::{Read, Write},
    process::ExitCode,
};

use eddymist_formats::{
    Given, LIMITS, ReadError, drawings, images,
    pen_sheet::{self, PenSheetError},
    preview::preview,
    ruled::{self, Ruled, RuledError},
    svg_paths,
};
use eddymist_measure::{
    carded::CardedError,
    inked,
    scan::{
        self,
        mark::{Mark, MarkedStroke, Marking},
    },
    sheet::SheetError,
};
use serde::Serialize;
use serde_bytes::ByteBuf;

use crate::{
    ask::{Allowance, Ask, Inked, Lines, Refused, Tip},
    confine,
};

/// Stack of the thread that reads: elements lie in one another, and are walked by functions that call themselves.
const STACK: usize = 64 << 20;

/// Reads one picture from standard input and answers on standard output.
pub fn child() -> ExitCode {
    match run() {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("eddymist read: {e}");
            ExitCode::from(2)
        }
    }
}

fn run() -> Result<(), String> {
    let most = Allowance::most();
    confine::begin(Allowance::new(0), most)?;
    let mut input = std::io::stdin().lock();
    let mut length = [0; 8];
    input.read_exact(&mut length).map_err(|e| e.to_string())?;
    let ask: Ask = ciborium::from_reader((&mut input).take(u64::from_le_bytes(length))).map_err(|e| e.to_string())?;
    let mut bytes = Vec::new();
    input.take(LIMITS.bytes + 1).read_to_end(&mut bytes).map_err(|e| e.to_string())?;
    let answer = std::thread::Builder::new().stack_size(STACK).spawn(move || answer(ask, &bytes, most)).map_err(|e| e.to_string())?;
    answer.join().map_err(|_| "it broke off".to_string())?
}

fn answer(ask: Ask, bytes: &[u8], most: Allowance) -> Result<(), String> {
    let by_group = match &ask {
        Ask::Weigh { guide, .. } | Ask::Across { guide, .. } => drawings::by_group(guide),
        _ => false,
    };
    let allowed = Allowance::new(drawings::declared_pixels(bytes, by_group, &LIMITS));
    confine::widen(allowed, most)?;
    // What it may take is said first: where it takes more, its parent can say how much that was.
    let mut out = std::io::stdout().lock();
    let head = [allowed.bytes.to_le_bytes(), allowed.seconds.to_le_bytes()].concat();
    out.write_all(&head).and_then(|()| out.flush()).map_err(|e| e.to_string())?;
    match ask {
        Ask::Weigh { guide, file, manifest, icc } => give(drawings::weigh_given(&guide, &file, bytes, &manifest, icc, &LIMITS).map_err(refused)),
        Ask::Across { guide, at, normal_deg } => give(drawings::across(&guide, bytes, at, normal_deg, &LIMITS).map_err(refused)),
        Ask::ModelSheet => give(drawings::model_sheet(bytes, &LIMITS).map_err(refused)),
        Ask::Role { page, name, lines } => give(
            drawings::model_sheet(bytes, &LIMITS).map_err(refused).and_then(|sheet| eddymist_check::model::role(&sheet, &page, &name, &lines).map_err(refused)),
        ),
        Ask::Lines { given, area } => give(lines(bytes, &given, area)),
        Ask::Inked { given } => give(inked(bytes, &given)),
        Ask::Marks { given, marks } => give(read_marks(bytes, &given, &marks)),
        Ask::Sheet { given, marked } => give(pen_sheet::read(bytes, &given, &marked, &LIMITS).map_err(of_sheet)),
        Ask::Preview { side, flat } => give(preview(bytes, side, flat, &LIMITS).map(ByteBuf::from).map_err(unread)),
        Ask::Laid => give(laid_flat(bytes).map(ByteBuf::from)),
        Ask::Png => give(images::as_png(bytes, &LIMITS).map(ByteBuf::from).map_err(unread)),
        Ask::Tip => {
            give(images::tip(bytes, &LIMITS).map_err(unread).map(|(p, turned_deg)| Tip { width: p.width, height: p.height, coverage: p.coverage, turned_deg }))
        }
        Ask::Paths => give(match std::str::from_utf8(bytes) {
            Ok(text) => svg_paths::read(text, &LIMITS).map_err(unread),
            Err(_) => Err(refused("this is no SVG: it is not text")),
        }),
    }
}

fn refused(e: impl std::fmt::Display) -> Refused {
    Refused { message: e.to_string(), no_resolution: false }
}

fn of_sheet(e: PenSheetError) -> Refused {
    match e {
        PenSheetError::File(e) => unread(e),
        e => refused(e),
    }
}

fn unread(e: ReadError) -> Refused {
    Refused { no_resolution: e == ReadError::NoResolution, message: e.to_string() }
}

fn give(answer: Result<impl Serialize, Refused>) -> Result<(), String> {
    let mut out = std::io::BufWriter::new(std::io::stdout().lock());
    ciborium::into_writer(&answer, &mut out).map_err(|e| e.to_string())?;
    out.flush().map_err(|e| e.to_string())
}

fn lines(bytes: &[u8], given: &Given, area: Option<[usize; 4]>) -> Result<Lines, Refused> {
    let Ruled { width_px, height_px, dpi, measured } = ruled::read(bytes, given, area, &LIMITS).map_err(of_ruled)?;
    let why = measured.as_ref().err().map_or(String::new(), ToString::to_string);
    Ok(Lines { width_px, height_px, dpi, measured: measured.ok(), why })
}

fn of_ruled(e: RuledError) -> Refused {
    match e {
        RuledError::File(e) => unread(e),
        e => refused(e),
    }
}

/// A photo by the marks of the sheet in it, or by the card.
fn laid_flat(bytes: &[u8]) -> Result<Vec<u8>, Refused> {
    match pen_sheet::laid_flat(bytes, &LIMITS) {
        Err(e @ PenSheetError::Sheet(SheetError::NoMarks)) => match ruled::laid_flat(bytes, &LIMITS) {
            Err(RuledError::Photo(CardedError::NoCard)) => Err(of_sheet(e)),
            other => other.map_err(of_ruled),
        },
        other => other.map_err(of_sheet),
    }
}

fn inked(bytes: &[u8], given: &Given) -> Result<Inked, Refused> {
    let picture = images::scan_of(bytes, given, &LIMITS).map_err(unread)?;
    let page = inked::page(&picture).map_err(refused)?;
    Ok(Inked { page, dpi: picture.dpi, source: images::scan_source(bytes, given, &LIMITS).map_err(unread)? })
}

/// Each mark for itself: a stroke, or why there is none.
fn read_marks(bytes: &[u8], given: &Given, marks: &[Mark]) -> Result<Vec<Result<MarkedStroke, String>>, Refused> {
    let picture = ruled::laid(bytes, given, &LIMITS).map_err(of_ruled)?;
    // The solid ink's level, where ruled lines tell it.
    let darkness = |m: &scan::LineMeasurement| m.lines.iter().map(|l| 1.0 - 10f64.powf(-l.darkness)).collect::<Vec<_>>();
    let level = scan::measure(&picture).ok().and_then(|(m, _)| eddymist_measure::stats::median(&darkness(&m)));
    let marking = Marking::new(&picture).map_err(refused)?;
    Ok(marks.iter().map(|m| marking.read(m, level).map_err(|e| e.to_string())).collect())
}
