//! A recipe's files: what is in them is what the recipe says; the tip against the area of an ellipse, the table read by a CSV reader.

use std::io::{Cursor, Read};

use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::recipe::Recipe;
use eddymist_formats::recipe_out::{RecipeSheet, tip_png};
use eddymist_ink::picture::Picture;
use proptest::prelude::*;

fn made(roundness: f64, angle_deg: f64, points: usize) -> Recipe {
    let at = |k: usize| k as f64 / (points - 1) as f64;
    Recipe {
        correction: (0..points).map(|k| [at(k), at(k).powf(1.3)]).collect(),
        size_factor: 1.0,
        least_size: 0.1,
        roundness,
        angle_deg,
        spacing: 0.1,
        widths_mm: (0..points).map(|k| 0.1 + at(k)).collect(),
        sure_mm: (0..points).map(|k| (k > 0).then_some(0.012)).collect(),
        size_mm: 1.1,
        assumed: true,
        left_mm: 0.004,
        says: vec!["What is said of it. ".repeat(30)],
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// The area of an ellipse is π·a·b; its longest reach lies where it is turned to.
    #[test]
    fn a_tip_is_its_ellipse(roundness in 0.15f64..1.0, angle in -90.0f64..90.0) {
        let png = tip_png(&made(roundness, angle, 4)).expect("a tip");
        let tip = Picture::read(&format!("data:image/png;base64,{}", STANDARD.encode(png))).expect("a picture");
        let all: f64 = tip.coverage.iter().map(|c| f64::from(*c)).sum();
        let want = std::f64::consts::PI * 127.0 * 127.0 * roundness;
        prop_assert!((all / want - 1.0).abs() < 0.01, "{all} and {want}");
        // Second moments: the axis turns with the angle, counter-clockwise on the page.
        let moment = |f: &dyn Fn(f64, f64) -> f64| tip.coverage.iter().enumerate().map(|(i, c)| f64::from(*c) * f((i % 256) as f64 - 127.5, 127.5 - (i / 256) as f64)).sum::<f64>();
        let (xx, yy, xy) = (moment(&|x, _| x * x), moment(&|_, y| y * y), moment(&|x, y| x * y));
        let turned = 0.5 * (2.0 * xy).atan2(xx - yy).to_degrees();
        let off = (turned - angle + 90.0).rem_euclid(180.0) - 90.0;
        prop_assert!(roundness > 0.95 || off.abs() < 1.0, "{turned} and {angle}");
    }
}

#[test]
fn the_files_hold_the_recipe() {
    let (recipe, strip) = (made(0.4, 30.0, 4), b"any picture".as_slice());
    let uri = format!("data:image/png;base64,{}", STANDARD.encode(strip));
    let sheet = RecipeSheet { pen: "steel nib =1+1", there: None, profile: Some("Pia on the display"), recipe: &recipe, strip_png: Some(&uri) };
    let mut zip = zip::ZipArchive::new(Cursor::new(sheet.zip().expect("a ZIP"))).expect("read again");
    let mut bytes = |name: &str| {
        let mut out = Vec::new();
        zip.by_name(name).expect(name).read_to_end(&mut out).expect("read");
        out
    };
    assert_eq!((bytes("strip.png"), bytes("tip.png")), (strip.to_vec(), tip_png(&recipe).expect("a tip")));
    assert!(bytes("recipe.pdf").starts_with(b"%PDF-"));
    let text = String::from_utf8(bytes("recipe.csv")).expect("text");
    let rows: Vec<csv::StringRecord> =
        csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(text.as_bytes()).records().collect::<Result<_, _>>().expect("rows");
    let value = |name: &str| rows.iter().find(|r| &r[0] == name).map(|r| r[1].to_string()).unwrap_or_else(|| panic!("{name} in {text}"));
    assert_eq!([value("size"), value("roundness"), value("angle")], ["1.10", "40", "30"]);
    let points = &rows[rows.iter().position(|r| &r[0] == "pressure in %").expect("a head") + 1..];
    assert_eq!(points.len(), 4);
    for (row, (p, width)) in points.iter().zip(recipe.correction.iter().zip(&recipe.widths_mm)) {
        let number = |k: usize| row[k].parse::<f64>().expect("a number");
        assert!((number(0) - 100.0 * p[0]).abs() < 0.06 && (number(1) - 100.0 * p[1]).abs() < 0.06 && (number(2) - width).abs() < 6e-4);
    }
    assert_eq!((&points[0][3], &points[1][3]), ("", "0.012"));
    // Against the sheet's size only where one was inked.
    assert!(
        !text.contains("against the sheet")
            && RecipeSheet { recipe: &Recipe { assumed: false, ..recipe.clone() }, ..sheet }.csv().contains("against the sheet")
    );
}
