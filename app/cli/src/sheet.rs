//! `sheet`: the sampler sheet, to print or as blank pixels.

use std::{path::PathBuf, time::SystemTime};

use eddymist_formats::sheet;
use eddymist_measure::sheet::layout::{self, Paper};

use crate::{
    args::SheetArgs,
    fail::{Done, Fail, print_json, write},
};

pub fn run(args: &SheetArgs) -> Done {
    let paper = match args.paper.as_str() {
        "a4" => Paper::A4,
        "letter" => Paper::Letter,
        other => return Err(Fail::usage(format!("--paper {other}: a4 and letter are known"))),
    };
    let number = match &args.number {
        Some(n) if layout::is_number(n) => n.clone(),
        Some(n) => return Err(Fail::usage(format!("--number {n}: a sheet's number is six capitals or digits"))),
        None => layout::number_from(SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).map_or(0, |d| d.as_nanos() as u64)),
    };
    let plan = layout::plan(paper, &number);
    let out = args.out.clone().or_else(|| (!args.json).then(|| PathBuf::from("sheet.pdf")));
    if let Some(out) = out {
        let dpi = args.dpi.unwrap_or(600.0);
        if !(150.0..=1200.0).contains(&dpi) {
            return Err(Fail::usage("--dpi of a sheet must lie between 150 and 1200"));
        }
        let failed = |e| Fail::internal(e);
        let bytes = match out.extension().and_then(|e| e.to_str()).map(str::to_lowercase).as_deref() {
            Some("pdf") => sheet::pdf(&plan).map_err(failed)?,
            Some("svg") => sheet::svg(&plan).into_bytes(),
            Some("png") => sheet::png(&plan, dpi).map_err(failed)?,
            Some("ora") => sheet::ora(&plan, dpi).map_err(failed)?,
            _ => return Err(Fail::usage(format!("{}: a sheet is written as .pdf, .svg, .png or .ora", out.display()))),
        };
        write(&out, &bytes)?;
        eprintln!("sheet {number} written to {}", out.display());
    }
    if args.json {
        print_json(&plan)?;
    }
    Ok(0)
}
