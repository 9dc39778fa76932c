//! `ink`: strokes or paths to an outline, a picture or inked strokes.

use eddymist_calibrate::TabletProfile;
use eddymist_formats::{LIMITS, ink_out, inkml};
use eddymist_ink::{Brush, Course, Inker, Stroke};
use eddymist_reader::reading;

use crate::{
    args::InkArgs,
    fail::{Done, Fail, read, read_text, write},
};

/// Inks.
pub fn run(args: &InkArgs) -> Done {
    let brush = Brush::from_json(&read_text(&args.brush)?).map_err(|e| Fail::input(&args.brush, e))?;
    let course = args.course.as_deref().map(Course::parse).transpose().map_err(|e| Fail::usage(format!("--course: {e}")))?;
    let response = match &args.tablet {
        Some(p) => {
            let profile = TabletProfile::from_json(&read_text(p)?).map_err(|e| Fail::input(p, e))?;
            Some(profile.curve().map_err(|e| Fail::input(p, e))?)
        }
        None => None,
    };
    if args.dpi.is_some_and(|d| !(10.0..=10_000.0).contains(&d)) {
        return Err(Fail::usage("--dpi must lie between 10 and 10000"));
    }
    let strokes = strokes(args)?;
    let dpi = args.dpi.unwrap_or(600.0);
    let inker = Inker::new(&brush, response, course).map_err(|e| Fail::input(&args.brush, e))?.at_px_per_mm(dpi / 25.4);
    let ending = args.out.extension().map(|e| e.to_string_lossy().to_lowercase()).unwrap_or_default();
    let bytes = match ending.as_str() {
        "svg" => ink_out::svg(&ink_out::ink(&inker, &strokes), &brush.colour).into_bytes(),
        "png" => ink_out::png(&ink_out::ink(&inker, &strokes), dpi, &LIMITS).map_err(|e| Fail::input(&args.out, e))?,
        "inkml" => {
            let inked: Vec<_> = strokes.iter().map(|s| inker.ink(s).samples).collect();
            inkml::write_strokes(&strokes, Some(&inked)).into_bytes()
        }
        _ => {
            return Err(Fail::input(&args.out, "the ending must be .svg, .png or .inkml"));
        }
    };
    write(&args.out, &bytes)?;
    Ok(0)
}

fn strokes(args: &InkArgs) -> Result<Vec<Stroke>, Fail> {
    if let Some(p) = &args.strokes {
        let file = inkml::read(&read_text(p)?, &LIMITS).map_err(|e| Fail::input(p, e))?;
        let strokes: Vec<Stroke> = file.strokes().cloned().collect();
        return if strokes.is_empty() { Err(Fail::input(p, "there is no stroke in it")) } else { Ok(strokes) };
    }
    let Some(p) = &args.paths else {
        return Err(Fail::usage("give --strokes or --paths"));
    };
    let paths = reading::paths(&read(p)?).map_err(|e| Fail::input(p, e))?;
    if !paths.in_mm {
        eprintln!("{}: no physical units are in the file; taken at 96 px to the inch", p.display());
    }
    Ok(paths.strokes)
}
