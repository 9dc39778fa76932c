//! A lead's day: 24 drawings as artists hand them in, on many grounds, some with a fault, some with a slate; among them a slate alone and a
//! photo. All are held against one guide.

use eddymist_check::{FindingKind, LineGuide};
use eddymist_formats::lettering::words;
use eddymist_ink::Outline;

use super::{
    Edge, Ground, Shape, Sheet,
    planted::{Fault, planted},
};
use crate::camera::{Camera, compressed, photograph};

/// One file of the day.
pub struct DayFile {
    pub name: String,
    pub bytes: Vec<u8>,
    /// What was planted in it; none of what is clean, or no drawing.
    pub fault: Option<FindingKind>,
    /// It has the slate in its corner.
    pub slate: bool,
}

/// The day's files with their guide, and the manifest that goes with them, as a spreadsheet wrote it.
pub struct Day {
    pub guide: LineGuide,
    pub files: Vec<DayFile>,
    pub manifest: String,
}

/// The slate's corner of a page, px.
pub const SLATE: [f64; 4] = [0.0, 0.0, 330.0, 110.0];
const INK: [u8; 3] = [0x16, 0x20, 0x2b];
/// How far beyond their limits faults lie: plain to see.
const SEVERITY: f64 = 1.8;
/// The photo's sheet, mm to a px.
const MM: f64 = 0.16;

/// The grounds that the plain guide is of, one a drawing.
const GROUNDS: [Ground; 12] = [
    Ground::White,
    Ground::WhiteFills,
    Ground::PaintedFills,
    Ground::PaintedPage,
    Ground::ColouredPage,
    Ground::SpottedBlacks,
    Ground::MostlyBlack,
    Ground::RoughOnWhite,
    Ground::RoughOnClear,
    Ground::WhiteMatte,
    Ground::Palette,
    Ground::Jpeg,
];
const FAULTS: [(usize, FindingKind); 6] =
    [(2, FindingKind::Heavy), (5, FindingKind::Thin), (8, FindingKind::Heavy), (11, FindingKind::Gap), (14, FindingKind::Pinhole), (17, FindingKind::Hook)];
const ARTISTS: [&str; 3] = ["dov", "pia", "ilse"];

fn slate(number: usize) -> Vec<Shape> {
    let [x0, y0, x1, y1] = SLATE;
    let frame = |m: f64, way: bool| {
        let mut p = vec![[x0 + m, y0 + m], [x1 - m, y0 + m], [x1 - m, y1 - m], [x0 + m, y1 - m]];
        if !way {
            p.reverse();
        }
        p
    };
    let shape = |form: Outline| Shape { form, rgb: INK, edge: Edge::Plain };
    let text = words(&format!("NIGHT TRAM 060 / {number:04}"), [x0 + 24.0, y0 + 66.0], 26.0, true);
    vec![shape(Outline { paths: vec![frame(10.0, true), frame(14.0, false)] }), shape(text)]
}

fn png(of: &super::HandedIn) -> Vec<u8> {
    let p = of.picture();
    eddymist_formats::images::write_png(p.width, p.height, eddymist_formats::images::PngKind::Rgba, &p.data, None).unwrap_or_default()
}

/// The guide of the day: any ends, slates not left out yet; what a lead would send back must be fixed.
pub fn guide() -> LineGuide {
    let must_mend = vec![FindingKind::Heavy, FindingKind::Thin, FindingKind::Gap, FindingKind::Pinhole, FindingKind::Hook];
    LineGuide { name: "Simulated drawings".into(), must_mend, ..planted(Ground::White, None, 0).handed.guide }
}

/// A day by its seed: always the same.
pub fn day(seed: u64) -> Day {
    // By threes: the guide's ends are any.
    let seed_of = |k: usize| 3 * (seed * 100 + k as u64);
    let mut files = Vec::new();
    let mut manifest = String::from("File;Artist;Shot;Drawing\r\n");
    for k in 0..22 {
        let (ground, number) = (GROUNDS[k % GROUNDS.len()], k + 1);
        let fault = FAULTS.iter().find(|f| f.0 == k).map(|f| Fault { kind: f.1, severity: SEVERITY });
        let mut made = planted(ground, fault, seed_of(k)).handed;
        let slated = k % 4 == 0;
        if slated {
            made.sheets.push(Sheet { shapes: slate(number), opacity: 1.0 });
        }
        let name = format!("A-{number:04}.{}", if ground == Ground::Jpeg { "jpg" } else { "png" });
        manifest.push_str(&format!("{name};{};060;A-{number:04}\r\n", ARTISTS[k % ARTISTS.len()]));
        files.push(DayFile { name, bytes: png(&made), fault: fault.map(|f| f.kind), slate: slated });
    }
    // The slate's own file: no drawing.
    let mut alone = planted(Ground::White, None, seed_of(90)).handed;
    alone.sheets = vec![Sheet { shapes: slate(0), opacity: 1.0 }];
    files.push(DayFile { name: "slate.png".into(), bytes: png(&alone), fault: None, slate: true });
    // A drawing that was photographed from paper.
    let drawn = planted(Ground::White, None, seed_of(91)).handed;
    let ink: Vec<Outline> = drawn
        .sheets
        .last()
        .into_iter()
        .flat_map(|s| &s.shapes)
        .map(|s| Outline { paths: s.form.paths.iter().map(|p| p.iter().map(|q| q.map(|v| v * MM)).collect()).collect() })
        .collect();
    let camera = Camera { px: [1512, 1134], ..Camera::fair() };
    let photo = photograph(&camera, &ink, [drawn.width as f64 * MM, drawn.height as f64 * MM], seed);
    files.push(DayFile { name: "A-0023.jpg".into(), bytes: compressed(&photo, 88).unwrap_or_default(), fault: None, slate: false });
    manifest.push_str("A-0023.jpg;pia;060;A-0023\r\n");
    Day { guide: guide(), files, manifest }
}
