//! What goes out is what it was and nothing more: tables that no spreadsheet runs, pictures in bands that are the picture in one.

use eddymist_check::{FindingKind, LineCheck, document::Failed};
use eddymist_formats::{LIMITS, Limits, check_out, images, ink_out, trial};
use eddymist_ink::{Brush, Inked, Inker, Sample, Stroke};
use proptest::prelude::*;

fn check(failed: Vec<Failed>) -> LineCheck {
    LineCheck {
        format: eddymist_check::document::FORMAT.into(),
        version: 1,
        guide: "g".into(),
        not_looked_for: vec![FindingKind::Boil],
        drawings: Vec::new(),
        sequence: Vec::new(),
        warnings: Vec::new(),
        failed,
    }
}

proptest! {
    /// RFC 4180 by another reader; a cell begins with no sign that a spreadsheet takes for a formula, and is otherwise as it was.
    #[test]
    fn a_table_is_read_back_and_holds_no_formula(names in prop::collection::vec(("[=+@\\-\t\r\n '\"a-z0-9;,]{0,12}", "\\PC{0,20}"), 1..8)) {
        let failed = names.iter().map(|(file, message)| Failed { file: file.clone(), message: message.clone() }).collect();
        let text = check_out::findings_csv(&check(failed));
        let mut table = csv::Reader::from_reader(text.as_bytes());
        let rows: Vec<csv::StringRecord> = table.records().collect::<Result<_, _>>().expect("every row has as many fields");
        prop_assert_eq!(rows.len(), names.len());
        for (row, (file, message)) in rows.iter().zip(&names) {
            for (cell, was) in [(&row[0], file), (&row[13], message)] {
                let formula = cell.trim_start().starts_with(['=', '+', '-', '@']) || cell.starts_with(['\t', '\r']);
                prop_assert!(!formula || cell.parse::<f64>().is_ok(), "{cell:?}");
                prop_assert!(cell == was || cell == format!("'{was}"), "{cell:?} for {was:?}");
            }
        }
    }
}

fn inked(softness_mm: f64, samples: Vec<Sample>) -> Inked {
    let brush = format!(
        r##"{{"format":"eddymist/brush","version":1,"name":"b","nib":{{"shape":"round"}},"weight":[[0.0,3.0],[1.0,3.0]],"edge":{{"softness_mm":{softness_mm}}},"colour":"#204060"}}"##
    );
    Inker::new(&Brush::from_json(&brush).expect("a brush"), None, None).expect("a brush").ink(&Stroke::new(samples)).inked(0.002)
}

fn at(x: f64, y: f64) -> Sample {
    Sample { x, y, pressure: Some(0.5), ..Sample::default() }
}

/// A page that is written in three bands: at the seams and away from them it is what one raster of the whole gives.
#[test]
fn a_page_in_bands_is_the_page_in_one() {
    let (w, h, k) = (6000usize, 4000usize, 20.0);
    for softness in [0.0, 0.8] {
        let stroke = inked(softness, vec![at(20.0, 5.0), at(150.0, 190.0), at(280.0, 30.0)]);
        let whole = stroke.raster(k, [0.0, 0.0], w, h);
        let page = trial::PageSize { width_px: w, height_px: h, px_per_mm: k };
        let ink = [trial::TrialInk { pass: "a".into(), colour: "#204060".into(), inked: stroke.clone() }];
        let read = images::rgba(&trial::png(&page, &ink, false).expect("a picture"), &LIMITS).expect("it is read");
        assert_eq!((read.width, read.height), (w, h));
        // Bands are of 8 Mi pixels: 1398 rows.
        let seams = [1397usize, 1398, 1399, 2795, 2796, 2797, 700, 3999];
        for y in seams {
            for x in 0..w {
                let want = (255.0 * whole.data[y * w + x]).round() as i32;
                let got = i32::from(read.data[4 * (y * w + x) + 3]);
                assert!((want - got).abs() <= 1, "{softness} mm soft at {x}, {y}: {got} for {want}");
            }
        }
    }
}

#[test]
fn a_picture_out_is_held_to_the_limits_too() {
    let long = [inked(0.0, vec![at(0.0, 0.0), at(9000.0, 9000.0)])];
    let said = ink_out::png(&long, 600.0, &LIMITS).map(|png| png.len()).expect_err("too large").to_string();
    assert!(said.contains("up to 120 megapixels"), "{said}");
    let small = Limits { pixels: 10_000, ..LIMITS };
    assert!(ink_out::png(&[inked(0.0, vec![at(0.0, 0.0), at(9.0, 4.0)])], 600.0, &small).is_err());
    // Passes are layers: as many as can be read again.
    let one = inked(0.0, vec![at(1.0, 1.0), at(9.0, 9.0)]);
    let page = trial::PageSize { width_px: 12_000, height_px: 8000, px_per_mm: 20.0 };
    let passes: Vec<_> = (0..4).map(|k| trial::TrialInk { pass: format!("p{k}"), colour: "#000000".into(), inked: one.clone() }).collect();
    assert!(trial::ora(&page, &passes, false, None).map(|ora| ora.len()).expect_err("too many").to_string().contains("4 layers of 12000×8000 px"));
}
