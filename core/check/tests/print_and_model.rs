//! What print loses, by the arithmetic of reduction and gain on lines of known widths and gaps; and roles read off a sheet of lines
//! of known weights.

use common::{H, INK, RED, Sheet, W, guide, role};
use eddymist_check::{
    LineGuide, NamedLayer,
    document::Lost,
    guide::{Ends, Page, Print},
    model::{self, ModelError},
};
use eddymist_measure::Picture;
use proptest::prelude::*;

mod common;

fn printed(print: Print, px_per_mm: f64) -> LineGuide {
    let plain = guide(vec![role("line", "#1b1e24", 6.0, 0.1)]);
    LineGuide { print: Some(print), page: Page { px_per_mm: Some(px_per_mm), ..plain.page }, ..plain }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, ..ProptestConfig::default() })]

    /// A line is lost where its width times the reduction, plus the gain, is under the thinnest; a white where what is left of it
    /// closes. Within 3 % of the limit either may be said.
    #[test]
    fn losses_are_those_of_the_arithmetic(width in 2.0f64..9.0, gap in 3.0f64..14.0, reduction in 0.3f64..1.0, gain in 0.0f64..0.05) {
        let ppm = 23.6;
        let print = Print { reduction, ink_gain_mm: gain, thinnest_mm: 0.15, closes_mm: 0.1 };
        let y = 200.0;
        let other = y + gap + width;
        let sheet = Sheet::new().line([80.0, y], [720.0, y + 9.0], &[[0.0, width]], INK).line([80.0, other], [720.0, other + 9.0], &[[0.0, width]], INK);
        let found = sheet.check(&printed(print, ppm)).check.print;
        // The gap across lines that run at arctan(9/640).
        let aslant = (9f64 / 640.0).atan().cos();
        let (w, g) = (width / ppm * reduction + gain, (gap * aslant - width * (1.0 - aslant)) / ppm * reduction - gain);
        for (lost, value, limit) in [(Lost::TooThin, w, 0.15), (Lost::Closes, g, 0.1)] {
            let told: Vec<_> = found.iter().filter(|f| f.lost == lost).collect();
            if value < 0.97 * limit - 0.002 {
                prop_assert!(!told.is_empty(), "{lost:?} {value} {found:?}");
                prop_assert!(told.iter().all(|t| (t.value_mm - value).abs() < 0.01 && t.limit_mm == limit), "{told:?} {value}");
            } else if value > 1.03 * limit + 0.002 {
                prop_assert!(told.is_empty(), "{lost:?} {value} {told:?}");
            }
        }
    }
}

#[test]
fn print_is_not_looked_at_unasked_and_needs_mm() {
    let sheet = Sheet::new().line([80.0, 200.0], [720.0, 209.0], &[[0.0, 1.0]], INK);
    assert!(sheet.check(&guide(vec![role("line", "#1b1e24", 6.0, 0.1)])).check.print.is_empty());
    let print = Print { reduction: 0.5, ink_gain_mm: 0.0, thinnest_mm: 0.1, closes_mm: 0.1 };
    let mut g = printed(print, 10.0);
    assert!(g.validate().is_ok());
    g.page.px_per_mm = None;
    assert!(g.validate().expect_err("no mm").contains("px_per_mm"));
    for bad in [Print { reduction: 0.0, ..print }, Print { ink_gain_mm: -0.1, ..print }, Print { thinnest_mm: f64::NAN, ..print }] {
        assert!(printed(bad, 10.0).validate().expect_err("it is refused").starts_with("print:"));
    }
    let mut fast = printed(print, 10.0);
    fast.page.rate_fps = Some(0.0);
    assert!(fast.validate().expect_err("it is refused").contains("rate_fps"));
}

fn sheet_of(sheet: &Sheet) -> Result<model::ModelSheet, ModelError> {
    let picture = Picture::new(W, H, &sheet.rgba).expect("a picture");
    model::read(&[NamedLayer { name: None, picture }], 1.0)
}

fn page() -> Page {
    Page { width_px: 2.0 * W as f64, height_px: 2.0 * H as f64, px_per_mm: None, rate_fps: None }
}

#[test]
fn a_role_read_off_a_sheet_has_the_weight_colour_and_spread_of_its_lines() {
    let widths = [5.6, 6.0, 6.4, 6.0];
    let mut sheet = Sheet::new();
    for (k, w) in widths.iter().enumerate() {
        sheet = sheet.line([60.0, 60.0 + 50.0 * k as f64], [740.0, 71.0 + 50.0 * k as f64], &[[0.0, *w]], INK);
    }
    // Lines that swell from 4 to 7 px, twice, and run out at both ends.
    for k in 0..4 {
        let y = 320.0 + 60.0 * f64::from(k);
        sheet = sheet.line([60.0, y], [740.0, y + 14.0], &[[0.0, 0.6], [0.06, 4.0], [0.3, 7.0], [0.5, 4.0], [0.7, 7.0], [0.94, 4.0], [1.0, 0.6]], RED);
    }
    let read = sheet_of(&sheet).expect("it is read");
    assert_eq!(read.colours.len(), 2, "{:?}", read.colours);
    assert!(read.colours.contains(&"#1b1e24".to_string()) && read.colours.contains(&"#c02020".to_string()));
    let of = |colour: &str| -> Vec<usize> { (0..read.lines.len()).filter(|i| read.colours[read.lines[*i].line.role] == colour).collect() };
    let (black, red) = (of("#1b1e24"), of("#c02020"));
    assert_eq!((black.len(), red.len()), (4, 4));
    // The page is twice the sheet: 12 px, give or take twice the lines' spread (their widths' standard deviation is 0.283 px).
    let all = model::role(&read, &page(), " contour ", &black).expect("a role");
    // All but one width at each blunt end.
    assert!((0.96..1.0).contains(&all.measured_share) && all.mostly_taper == 0, "{all:?}");
    let role = all.role;
    let weight = role.weight_px.expect("a weight");
    assert_eq!((role.name.as_str(), role.from.colour.as_deref(), role.ends), ("contour", Some("#1b1e24"), Ends::Blunt));
    assert!((weight.target - 12.0).abs() < 0.06 && weight.swell.is_none(), "{weight:?}");
    assert!((weight.tolerance - 2.0 * 0.283 / 6.0).abs() < 0.02, "{weight:?}");
    let swelling = model::role(&read, &page(), "crease", &red).expect("a role").role;
    let [lo, hi] = swelling.weight_px.expect("a weight").swell.expect("it swells");
    assert!((7.0..10.0).contains(&lo) && (12.5..14.5).contains(&hi) && swelling.ends == Ends::Tapered, "{swelling:?}");
    // A guide with what was read off the sheet finds the sheet itself without a fault of weight.
    let mut own = guide(vec![role, swelling]);
    own.page = page();
    assert!(own.validate().is_ok());
    let check = sheet.check(&own).check;
    assert!(check.findings.iter().all(|f| !matches!(f.kind, eddymist_check::FindingKind::Heavy | eddymist_check::FindingKind::Thin)), "{:?}", check.findings);
}

/// Lash lines that swell from tip to tip and have no body: they are on the sheet, and their role comes with the swell that they were drawn
/// with (a sine from 0.8 to 7 px, of which one width at the tips says nothing), with ends, and with the share that was read.
#[test]
fn lines_that_are_all_taper_make_a_role_with_a_swell() {
    let swell: Vec<[f64; 2]> = (0..=20).map(|k| f64::from(k) / 20.0).map(|u| [u, 0.8 + 6.2 * (std::f64::consts::PI * u).sin()]).collect();
    let mut sheet = Sheet::new();
    for k in 0..5 {
        let y = 60.0 + 60.0 * f64::from(k);
        sheet = sheet.line([60.0, y], [360.0 + 40.0 * f64::from(k), y + 12.0], &swell, INK);
    }
    let read = sheet_of(&sheet).expect("it is read");
    assert_eq!(read.lines.iter().filter(|l| l.mostly_taper).count(), 5, "{:?}", read.lines.iter().map(|l| (l.mostly_taper, l.length_px)).collect::<Vec<_>>());
    let all = model::role(&read, &page(), "lash line", &[0, 1, 2, 3, 4]).expect("a role");
    let [lo, hi] = all.role.weight_px.expect("a weight").swell.expect("it swells");
    // The page is twice the sheet; a width of the widest at each tip leaves 1.2 to 1.5 px at the narrowest.
    assert!((2.4..4.0).contains(&lo) && (13.3..14.2).contains(&hi), "{lo} {hi}");
    assert!(all.role.ends == Ends::Tapered && all.mostly_taper == 5 && (0.9..1.0).contains(&all.measured_share), "{all:?}");
    // Short blunt dashes have more end than body, and swell nowhere.
    let mut dashes = Sheet::new();
    for k in 0..6 {
        dashes = dashes.line([60.0 + 100.0 * f64::from(k), 100.0], [78.0 + 100.0 * f64::from(k), 102.0], &[[0.0, 8.0]], INK);
    }
    let read = sheet_of(&dashes).expect("it is read");
    assert!(read.lines.iter().all(|l| !l.mostly_taper), "{:?}", read.lines.iter().map(|l| (l.tapered, l.blunt)).collect::<Vec<_>>());
}

#[test]
fn what_cannot_be_read_off_a_sheet_is_said() {
    assert_eq!(sheet_of(&Sheet::new()), Err(ModelError::NoInk));
    let two =
        sheet_of(&Sheet::new().line([60.0, 60.0], [700.0, 70.0], &[[0.0, 6.0]], INK).line([60.0, 160.0], [700.0, 170.0], &[[0.0, 6.0]], RED)).expect("read");
    assert_eq!(model::role(&two, &page(), "r", &[]), Err(ModelError::NoLine));
    assert_eq!(model::role(&two, &page(), "r", &[7]), Err(ModelError::Line(7)));
    assert!(matches!(model::role(&two, &page(), "r", &[0, 1]), Err(ModelError::Colours(c)) if c.contains("#1b1e24") && c.contains("#c02020")));
}
