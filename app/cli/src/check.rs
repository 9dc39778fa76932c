//! `check`: drawings checked against a guide, on all cores.

use std::{
    collections::BTreeMap,
    path::{Path, PathBuf},
};

use eddymist_check::{
    DrawingCheck, HandOn, LineCheck, LineGuide, Manifest, NamePattern, Verdict, WeighedDrawing,
    document::{FORMAT, Failed},
    not_looked_for,
    sequence::{Sequence, order},
};
use eddymist_formats::{
    LIMITS, archive,
    check_out::{self, Overlay},
    manifest,
};
use eddymist_reader::reading;
use rayon::prelude::*;

use crate::{
    args::CheckArgs,
    fail::{Done, Fail, print_json, read, read_text, write},
    measuring::{colour_profile, kind},
};

enum Source {
    File(PathBuf),
    /// An archive, and which of its entries.
    Entry(PathBuf, usize),
    Broken(String),
}

/// Checks.
pub fn run(args: &CheckArgs) -> Done {
    let guide = LineGuide::from_json(&read_text(&args.guide)?).map_err(|e| Fail::input(&args.guide, e))?;
    let table = match &args.manifest {
        Some(p) => manifest::read(&manifest::text(&read(p)?)).map_err(|e| Fail::input(p, e))?,
        None => BTreeMap::new(),
    };
    let pattern = args.names.as_deref().map(NamePattern::parse).transpose().map_err(|e| Fail::usage(format!("--names: {e}")))?;
    kind(args.kind.as_deref())?;
    let icc = args.icc.as_deref().map(colour_profile).transpose()?;
    if let Some(dir) = &args.overlay {
        std::fs::create_dir_all(dir).map_err(|e| Fail::input(dir, e))?;
    }
    let mut sources = Vec::new();
    for path in &args.paths {
        gather(path, &mut sources);
    }
    let results: Vec<(String, Result<WeighedDrawing, String>)> = sources
        .into_par_iter()
        .map(|(file, source)| {
            let mut known = known(&file, &table, pattern.as_ref());
            if let Some(kind) = &args.kind {
                known.insert("picture_kind".into(), kind.clone());
            }
            let result = one(&guide, &file, source, &known, icc.clone());
            if let (Some(dir), Ok(w)) = (&args.overlay, &result) {
                let name = check_out::overlay_name(&file, Overlay::Png);
                let done = check_out::overlay(Overlay::Png, &w.check, &w.lines).map_err(|e| e.to_string());
                if let Err(message) = done.and_then(|png| write(&dir.join(name), &png).map_err(|f| f.message)) {
                    return (file, Err(message));
                }
            }
            (file, result)
        })
        .collect();
    let mut document = LineCheck {
        format: FORMAT.into(),
        version: 1,
        guide: guide.name.clone(),
        not_looked_for: not_looked_for(&guide),
        drawings: Vec::new(),
        sequence: Vec::new(),
        warnings: Vec::new(),
        failed: Vec::new(),
    };
    for (file, result) in &results {
        match result {
            Ok(w) => document.drawings.push(w.check.clone()),
            Err(message) => document.failed.push(Failed { file: file.clone(), message: message.clone() }),
        }
    }
    // Drawings given one by one are no sequence.
    for path in &args.paths {
        let inside = format!("{}/", path.to_string_lossy().trim_end_matches('/'));
        let mut drawings: Vec<&WeighedDrawing> = results.iter().filter(|r| r.0.starts_with(&inside)).filter_map(|r| r.1.as_ref().ok()).collect();
        drawings.sort_by(|a, b| order((&a.check.file, &a.check.manifest), (&b.check.file, &b.check.manifest)));
        let mut sequence = Sequence::new(&guide);
        drawings.iter().for_each(|d| sequence.push(&d.check, &d.lines));
        if drawings.len() > 1 {
            document.warnings.extend(sequence.unsaid());
        }
        document.sequence.extend(sequence.finish());
    }
    for w in &document.warnings {
        eprintln!("eddymist: {w}");
    }
    for f in &document.failed {
        eprintln!("eddymist: {}: {}", f.file, f.message);
    }
    if document.drawings.is_empty() {
        return Err(Fail::usage("no drawing could be read; PNG, TIFF, JPEG, SVG, OpenRaster, ZIP and folders of them are accepted"));
    }
    if args.json {
        print_json(&document)?
    } else {
        table_out(&document)
    }
    let outside = |d: &DrawingCheck| {
        matches!(d.hand_on, Some(HandOn::Return | HandOn::NotChecked))
            || d.roles.iter().any(|r| matches!(r.verdict, Some(Verdict::Thin | Verdict::Heavy | Verdict::Mixed | Verdict::NotChecked)))
    };
    Ok(if !document.failed.is_empty() {
        2
    } else if args.strict && document.drawings.iter().any(outside) {
        3
    } else {
        0
    })
}

fn gather(path: &Path, out: &mut Vec<(String, Source)>) {
    let shown = path.to_string_lossy().into_owned();
    if path.is_dir() {
        let mut files = Vec::new();
        walk(path, path, &mut files);
        files.sort_by(|a, b| natord::compare(&a.0, &b.0));
        let base = shown.trim_end_matches('/').to_string();
        out.extend(files.into_iter().map(|(entry, p)| (format!("{base}/{entry}"), Source::File(p))));
        return;
    }
    if path.extension().is_some_and(|e| e.eq_ignore_ascii_case("zip")) {
        let mut entries = Vec::new();
        // Only their names for now: each is unpacked when it is its turn.
        let read = std::fs::File::open(path).map_err(|e| e.to_string()).and_then(|f| archive::names(f, &LIMITS).map_err(|e| e.to_string()));
        match read {
            Ok(names) => entries.extend(names.into_iter().map(|(i, name)| (format!("{shown}/{name}"), Source::Entry(path.to_path_buf(), i)))),
            Err(e) => return out.push((shown, Source::Broken(e))),
        }
        entries.sort_by(|a, b| natord::compare(&a.0, &b.0));
        out.extend(entries);
        return;
    }
    out.push((shown, Source::File(path.to_path_buf())));
}

fn walk(root: &Path, dir: &Path, out: &mut Vec<(String, PathBuf)>) {
    for entry in std::fs::read_dir(dir).into_iter().flatten().flatten() {
        let path = entry.path();
        if path.is_dir() && !path.is_symlink() {
            walk(root, &path, out);
        } else if let Ok(inside) = path.strip_prefix(root)
            && archive::is_drawing_name(&inside.to_string_lossy())
        {
            out.push((inside.to_string_lossy().into_owned(), path.clone()));
        }
    }
}

fn known(file: &str, table: &BTreeMap<String, Manifest>, pattern: Option<&NamePattern>) -> Manifest {
    let mut out = pattern.and_then(|p| p.read(file)).unwrap_or_default();
    let base = file.rsplit('/').next().unwrap_or(file);
    if let Some(row) = table.get(file).or_else(|| table.get(base)) {
        out.extend(row.clone());
    }
    out
}

fn one(guide: &LineGuide, file: &str, source: Source, known: &Manifest, icc: Option<Vec<u8>>) -> Result<WeighedDrawing, String> {
    let bytes = match source {
        Source::File(p) => {
            LIMITS.file(std::fs::metadata(&p).map_err(|e| e.to_string())?.len()).map_err(|e| e.to_string())?;
            std::fs::read(p).map_err(|e| e.to_string())?
        }
        Source::Entry(p, i) => archive::entry(std::fs::File::open(p).map_err(|e| e.to_string())?, i, &LIMITS).map_err(|e| e.to_string())?,
        Source::Broken(e) => return Err(e),
    };
    reading::weigh_by(guide, file, &bytes, known, icc).map_err(|e| e.to_string())
}

fn table_out(document: &LineCheck) {
    println!("{:<40} {:<14} {:>9} {:>16} {:<16} {:>8}", "drawing", "role", "mean", "interval", "verdict", "findings");
    for d in &document.drawings {
        for r in &d.roles {
            let Some(w) = &r.weight_px else { continue };
            let verdict = r.verdict.map_or("–", Verdict::says);
            let n = d.findings.iter().filter(|f| f.role.as_ref() == Some(&r.role)).count();
            println!("{:<40} {:<14} {:>6.2} px {:>7.2} – {:<6.2} {:<16} {:>8}", d.file, r.role, w.mean, w.interval[0], w.interval[1], verdict, n);
        }
    }
}
