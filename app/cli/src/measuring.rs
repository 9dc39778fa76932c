//! `measure line`, `measure sheet`, `tablet` and `fit`.

use std::path::Path;

use eddymist_calibrate::{
    PenCard, PressurePairs, TabletProfile, Verdict, WarmUp,
    matching::Part,
    pen_card::{CardNib, Note},
    profile,
    warmup::effort_name,
};
use eddymist_formats::{Given, LIMITS, inkml};
use eddymist_ink::Brush;
use eddymist_measure::source::Kind;
use eddymist_reader::{Unread, reading};

use crate::{
    args::{FitArgs, GivenArgs},
    fail::{Done, Fail, print_json, read, read_text, write},
};

/// `600`, or `300,600` where the axes differ.
fn axes(dpi: Option<&str>) -> Result<Option<[f64; 2]>, Fail> {
    let Some(text) = dpi else { return Ok(None) };
    let all: Option<Vec<f64>> = text.split(',').map(|v| v.trim().parse::<f64>().ok().filter(|d| (50.0..=10_000.0).contains(d))).collect();
    match all.as_deref() {
        Some([d]) => Ok(Some([*d; 2])),
        Some([x, y]) => Ok(Some([*x, *y])),
        _ => Err(Fail::usage("--dpi is a number between 50 and 10000, or two with a comma between where the axes differ: --dpi 300,600")),
    }
}

/// What was said of a picture.
pub fn said(args: &GivenArgs) -> Result<Given, Fail> {
    Ok(Given { dpi: axes(args.dpi.as_deref())?, kind: kind(args.kind.as_deref())?, icc: args.icc.as_deref().map(colour_profile).transpose()? })
}

/// An ICC profile.
pub fn colour_profile(path: &Path) -> Result<Vec<u8>, Fail> {
    Given::profile(read(path)?).map_err(|e| Fail::input(path, e))
}

/// `drawing`, `scan` or `photo`.
pub fn kind(name: Option<&str>) -> Result<Option<Kind>, Fail> {
    name.map(|k| Kind::by_name(k).ok_or_else(|| Fail::usage("--kind is drawing, scan or photo"))).transpose()
}

const NO_RESOLUTION: &str = "no scanner’s resolution is in the file; give it with --dpi, such as --dpi 600";

/// A sampler sheet to a pen card.
pub fn sheet(path: &Path, given: &GivenArgs, json: bool) -> Done {
    let given = said(given)?;
    let sheet = reading::sheet(&read(path)?, given, &[]).map_err(|e| unread(path, &e))?;
    let r = &sheet.reading;
    let mut card = PenCard::from_sheet(&format!("sheet {}", r.plan.number), r, &[], Note::default());
    (card.strip_png, card.source) = (sheet.strip_png, Some(sheet.source));
    if json {
        print_json(&card)?;
        return Ok(0);
    }
    println!(
        "sheet {}, {} corner marks, turned {:.2}°, printed at {:.1} % × {:.1} %",
        r.plan.number,
        r.marks,
        r.turn_deg,
        100.0 * r.printed_scale[0],
        100.0 * r.printed_scale[1]
    );
    if let Some(p) = &r.photo {
        let bars = p.widths.as_ref().map_or("not read".into(), |w| format!("{:.3} × width {:+.0} µm", w.gain, w.offset_um));
        println!("a photo of {:.1} px to the mm, at least {:.1}; printed bars: {bars}", p.px_per_mm, p.fewest_px_per_mm);
    }
    for w in card.widths_by_effort.iter().flatten() {
        let sd = w.sd_mm.map_or(String::new(), |s| format!(" ± {s:.4}"));
        println!("{:>8}  {:.4}{sd} mm, {} lines", effort_name(w.effort), w.width_mm, w.lines);
    }
    for p in card.widths_by_pace.iter().flatten() {
        println!("{:>8}  {:.4} ± {:.4} mm at {:.0} mm/s, {} lines", p.pace, p.width_mm, p.sd_mm, p.speed_mm_s, p.lines);
    }
    for (name, t) in [("lead-in", card.lead_in), ("lead-out", card.lead_out)] {
        if let Some(t) = t {
            let sd = t.sd_mm.map_or(String::new(), |s| format!(" ± {s:.2}"));
            println!("{name:>8}  half at {:.2} mm, nine tenths at {:.2}{sd} mm, {} flicks", t.at_50_mm, t.at_90_mm, t.flicks);
        }
    }
    match card.nib {
        Some(CardNib::Round { length_mm, .. }) => println!("     nib  round, {length_mm:.3} mm"),
        Some(CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. }) => println!("     nib  {length_mm:.3} × {breadth_mm:.3} mm at {angle_deg:.1}°"),
        Some(CardNib::Spring { length_mm, opening_mm, pull_deg, .. }) => {
            println!("     nib  spring, {length_mm:.3} mm, opens {opening_mm:.3} mm on the pull toward {pull_deg:.0}°");
        }
        None => println!("     nib  not shown"),
    }
    if let Some(p) = &card.pooling {
        println!("    dots  {:.3} mm, {:.2} of the line", p.dot_mm, p.ratio);
    }
    for w in &card.warnings {
        eprintln!("{w}");
    }
    Ok(0)
}

/// Ruled lines in a scan.
pub fn line(path: &Path, given: &GivenArgs, area: Option<&str>, json: bool) -> Done {
    let given = said(given)?;
    let area = area.map(four).transpose()?;
    let lines = reading::lines(&read(path)?, given, area).map_err(|e| unread(path, &e))?;
    let (document, _) = lines.measured.ok_or_else(|| Fail::input(path, lines.why))?;
    if json {
        print_json(&document)?;
        return Ok(0);
    }
    // A photo's own edges are softer than a pen's.
    let um = |v: Option<f64>, places: usize| v.map_or("–".into(), |v| format!("{v:.places$} µm"));
    println!("{:>4} {:>9} {:>7} {:>16} {:>8} {:>7} {:>7} {:>9}", "line", "length", "angle", "width ± sd", "at 60 %", "ragged", "blur", "darkness");
    for (i, l) in document.lines.iter().enumerate() {
        println!(
            "{:>4} {:>6.1} mm {:>6.2}° {:>7.4} ± {:.4} mm {:>5.3} mm {:>7} {:>7} {:>6.2}",
            i + 1,
            l.length_mm,
            l.angle_deg,
            l.width_mm.mean,
            l.width_mm.sd,
            l.width_60_mm,
            um(l.raggedness_um, 1),
            um(l.blurriness_um, 0),
            l.darkness
        );
    }
    if let Some(p) = &document.photo {
        println!("a photo of {:.1} px to the mm by the card in it; widths are sure to ±{:.3} mm", p.px_per_mm, p.sure_mm);
    }
    if let Some(w) = document.nearest_standard_width_mm {
        println!("nearest standard width: {w} mm");
    }
    for w in &document.warnings {
        eprintln!("{w}");
    }
    Ok(0)
}

/// Left, top, width and height of an area.
fn four(area: &str) -> Result<[usize; 4], Fail> {
    let read: Option<Vec<usize>> = area.split(',').map(|p| p.trim().parse().ok()).collect();
    read.and_then(|v| v.try_into().ok()).ok_or_else(|| Fail::usage("--area is four whole numbers of px: X,Y,W,H"))
}

/// A picture that was not read, and why.
pub fn unread(path: &Path, e: &Unread) -> Fail {
    match e {
        Unread::NoResolution => Fail::input(path, NO_RESOLUTION),
        Unread::NoReader(_) => Fail::internal(e),
        e => Fail::input(path, e),
    }
}

/// Reads a warm-up file.
pub fn read_warmup(path: &Path) -> Result<WarmUp, Fail> {
    inkml::read(&read_text(path)?, &LIMITS).and_then(|f| f.warmup()).map_err(|e| Fail::input(path, e))
}

/// Reads a pen card.
pub fn read_card(path: &Path) -> Result<PenCard, Fail> {
    PenCard::from_json(&read_text(path)?).map_err(|e| Fail::input(path, e))
}

/// Reads pairs of pressure and ink.
fn read_pairs(path: &Path) -> Result<PressurePairs, Fail> {
    PressurePairs::from_json(&read_text(path)?).map_err(|e| Fail::input(path, e))
}

/// A warm-up to a tablet profile, its response from pairs where they are given.
pub fn tablet(path: &Path, pairs: Option<&Path>, pen: Option<&Path>, json: bool) -> Done {
    let warmup = read_warmup(path)?;
    let label = path.file_stem().map(|s| s.to_string_lossy().into_owned()).unwrap_or_default();
    let mut p = profile(&warmup, &label).map_err(|e| Fail::input(path, e))?;
    if let Some(file) = pairs {
        let card = pen.map(read_card).transpose()?;
        let none = "these pairs show no response: the pen's width hardly goes by pressure, and the five efforts stand";
        p = p.by_pairs(&read_pairs(file)?, card.as_ref()).ok_or_else(|| Fail::input(file, none))?;
    }
    if json {
        print_json(&p)?;
        return Ok(0);
    }
    println!("activation       {:.4}", p.activation);
    println!("full point       {:.4}{}", p.full_point, if p.full_point_seen { "" } else { " (no plateau seen)" });
    println!("pressure steps   {}", p.pressure_steps.map_or("too few values seen".into(), |s| s.to_string()));
    println!("report rate      {:.1} Hz, {} dropouts", p.report_rate_hz, p.dropouts);
    let known = |v: Option<String>| v.unwrap_or_else(|| "not shown".into());
    println!("pressure noise   {}", known(p.pressure_noise.map(|n| format!("± {:.2} % of the range", 100.0 * n))));
    println!("hysteresis       {}", known(p.hysteresis.map(|h| format!("{:+.2} % letting go over pressing", 100.0 * h))));
    println!("position noise   {}", known(p.position_noise_um.map(|n| format!("± {n:.0} µm"))));
    println!("diagonal wobble  {}", known(p.diagonal_wobble.map(|w| format!("{:.0} µm every {:.1} mm", w.amplitude_um, w.period_mm))));
    println!("response         {}", p.response.iter().map(|k| format!("{:.3}→{:.2}", k[0], k[1])).collect::<Vec<_>>().join("  "));
    p.advice.iter().for_each(|a| println!("· {a}"));
    Ok(0)
}

/// A brush for a pen through a profile.
pub fn fit(args: &FitArgs) -> Done {
    let card = read_card(&args.pen)?;
    let pairs = args.pairs.as_deref().map(read_pairs).transpose()?;
    let warmup = args.warmup.as_deref().map(read_warmup).transpose()?;
    let tablet = match (&args.tablet, &warmup) {
        (Some(p), _) => Some(TabletProfile::from_json(&read_text(p)?).map_err(|e| Fail::input(p, e))?),
        // The warm-up itself says how this tablet answers.
        (None, Some(w)) => Some(profile(w, "").map_err(|e| Fail::input(args.warmup.as_deref().unwrap_or(Path::new("")), e))?),
        (None, None) => None,
    };
    let start = match &args.brush {
        Some(p) => Some(Brush::from_json(&read_text(p)?).map_err(|e| Fail::input(p, e))?),
        None => None,
    };
    let locked = args
        .lock
        .iter()
        .map(|name| Part::from_name(name.trim()).ok_or_else(|| Fail::usage(format!("--lock: “{name}” is no part; {} are", Part::ALL.map(|p| p.1).join(", ")))))
        .collect::<Result<Vec<_>, _>>()?;
    let found =
        eddymist_calibrate::fit_by(&card, warmup.as_ref(), tablet.as_ref(), start.as_ref(), &locked, pairs.as_ref()).map_err(|e| Fail::input(&args.pen, e))?;
    if let Some(out) = &args.out {
        write(out, serde_json::to_string_pretty(&found.brush).map_err(Fail::internal)?.as_bytes())?;
    }
    if args.json {
        print_json(&found)?;
        return Ok(0);
    }
    println!("weight           {}", found.brush.weight.iter().map(|k| format!("{:.2}→{:.3} mm", k[0], k[1])).collect::<Vec<_>>().join("  "));
    for p in &found.parts {
        let name = Part::ALL.iter().find(|k| k.0 == p.part).map_or("part", |k| k.1);
        let verdict = match p.verdict {
            Verdict::Alike => "alike",
            Verdict::Differs => "differs",
            Verdict::TooFew => "too few lines to say",
            Verdict::CannotBeMatched => "cannot be matched",
        };
        println!("{name:<16} {verdict}: {}", p.says);
    }
    found.smoothing.iter().for_each(|s| println!("{:<16} {}", "smoothing", s.says));
    found.assumed.iter().for_each(|a| println!("assumed  {a}"));
    Ok(0)
}
