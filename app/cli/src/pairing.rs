//! `pair`: pressure and ink of the same strokes.

use eddymist_calibrate::{
    Exercise, PenCard,
    pairs::{self, Drawn, EffortScale, Way},
    pen_card::Note,
};
use eddymist_formats::{LIMITS, inkml};
use eddymist_reader::reading;

use crate::{
    args::PairArgs,
    fail::{Done, Fail, print_json, read, read_text},
    measuring::{said, unread},
};

/// A scanned page and the strokes on it to pairs.
pub fn run(args: &PairArgs) -> Done {
    let given = said(&args.given)?;
    let file = inkml::read(&read_text(&args.strokes)?, &LIMITS).map_err(|e| Fail::input(&args.strokes, e))?;
    let way = if args.over { Way::Over } else { Way::Paper };
    let drawn = file.paired(if args.over { Exercise::Over } else { Exercise::Paper });
    let drawn = Drawn { strokes: drawn.strokes, efforts: drawn.efforts, scale_from_card: drawn.scale_from_card, start: None };
    if drawn.strokes.is_empty() {
        return Err(Fail::input(&args.strokes, "there are no strokes in it"));
    }
    let bytes = read(&args.scan)?;
    let page = reading::inked(&bytes, given.clone()).map_err(|e| unread(&args.scan, &e))?;
    // Of a sampler sheet the efforts are known: then theirs is the scale.
    let card = reading::sheet(&bytes, given, &[]).ok().map(|s| PenCard::from_sheet("", &s.reading, &[], Note::default()));
    let mut found = pairs::pair(&page.page, page.dpi, &drawn, way, card.as_ref()).map_err(|e| Fail::input(&args.strokes, e))?;
    found.source = Some(page.source);
    if args.json {
        print_json(&found)?;
        return Ok(0);
    }
    println!("pairs            {} from {} strokes", found.pairs.len(), found.pairs.chunk_by(|a, b| a.stroke == b.stroke).count());
    println!("off the lines    {:.2} mm in the median, {:.2} mm at the 95th percentile", found.registration_mm.median, found.registration_mm.p95);
    if args.over {
        println!("lag              {:.0} ms", found.lag_ms);
    }
    println!("widths           {}", found.widths.iter().map(|k| format!("{:.3}→{:.3} mm", k[0], k[1])).collect::<Vec<_>>().join("  "));
    if let Some(p) = &found.pace {
        println!("pace             {}", p.iter().map(|k| format!("{:.0} mm/s→{:.3}", k[0], k[1])).collect::<Vec<_>>().join("  "));
    }
    let scale = match found.scale {
        EffortScale::Card => "on the sheet's scale of effort",
        EffortScale::Widths => "evenly from the thinnest to the widest",
    };
    println!("response         {} ({scale})", found.response.iter().map(|k| format!("{:.3}→{:.2}", k[0], k[1])).collect::<Vec<_>>().join("  "));
    if let Some(u) = found.unseen {
        println!("unseen strokes   {:.1} % off in the median, {:.1} % at the 95th percentile", 100.0 * u.median, 100.0 * u.p95);
    }
    found.efforts_off.iter().for_each(|e| println!("effort {:.2}      off by {:+.2}", e[0], e[1]));
    found.warnings.iter().for_each(|w| eprintln!("{w}"));
    Ok(0)
}
