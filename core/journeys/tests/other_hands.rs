//! Ink drawings by two illustrators' hands, with blacks, white fills and dry brush: what is ink, and what is found where nothing was planted.
//!
//! Outside reference: the pictures in tests/reference/hands (make_hands.mjs). The limit on findings is methods.md's, section 6.

use eddymist_check::{FindingKind, LineGuide, Manifest, NamedLayer, check_lines};
use eddymist_formats::{LIMITS, images};
use eddymist_measure::{
    Picture,
    drawing::{Layer, Place, measure, palette},
};

fn guide(width: usize, height: usize) -> LineGuide {
    let json = format!(
        r#"{{"format":"eddymist/line-guide","version":1,"name":"hands","page":{{"width_px":{width},"height_px":{height}}},
        "roles":[{{"name":"line","from":{{"rest":true}},"weight_px":{{"target":10,"tolerance":0.5,"swell":[1,40]}}}}]}}"#
    );
    serde_json::from_str(&json).expect("a guide")
}

fn pictures() -> Vec<(String, images::Rgba)> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../tests/reference/hands");
    let mut all: Vec<_> = std::fs::read_dir(folder)
        .expect("the folder")
        .map(|f| f.expect("an entry").path())
        .map(|p| {
            (p.file_name().expect("a name").to_string_lossy().into_owned(), images::rgba(&std::fs::read(&p).expect("a file"), &LIMITS).expect("a picture"))
        })
        .collect();
    all.sort_by(|a, b| a.0.cmp(&b.0));
    assert_eq!(all.len(), 12);
    all
}

#[test]
fn the_black_is_the_ink_however_much_of_the_page_it_takes() {
    for (name, p) in pictures() {
        let picture = Picture::new(p.width, p.height, &p.data).expect("a picture");
        let dark = |i: usize| 1.0 - f64::from(p.data[4 * i + 1]) / 255.0;
        let drawn: f64 = (0..p.width * p.height).map(dark).sum();
        let lines = measure(&[Layer { picture, role: None }], &eddymist_check::plan::plan(&guide(p.width, p.height), 1.0));
        let found = lines.roles[0].ink_px2 + lines.masked.iter().map(|m| m.ink_px2).sum::<f64>();
        assert!((found / drawn - 1.0).abs() < 0.03, "{name}: {found:.0} px² of {drawn:.0}");
        let body: Vec<_> = lines.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).collect();
        let on_ink = body.iter().filter(|q| dark(q.y as usize * p.width + q.x as usize) > 0.5).count();
        assert!(on_ink as f64 > 0.98 * body.len() as f64 && body.len() > 10, "{name}: {on_ink} of {} on ink", body.len());
        assert_eq!(palette::inks(&picture), [[0, 0, 0]], "{name}");
    }
}

#[test]
fn little_is_found_that_a_lead_would_wave_away() {
    let all: Vec<Vec<FindingKind>> = pictures()
        .iter()
        .map(|(_, p)| {
            let picture = Picture::new(p.width, p.height, &p.data).expect("a picture");
            let check = check_lines(&guide(p.width, p.height), "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).expect("checked").check;
            // A dry brush leaves crumbs and holes, which are there, and openings that paint runs through.
            check.findings.iter().map(|f| f.kind).filter(|k| !matches!(k, FindingKind::Speck | FindingKind::Pinhole)).collect()
        })
        .collect();
    let mut numbers: Vec<usize> = all.iter().map(Vec::len).collect();
    numbers.sort_unstable();
    assert!(numbers[6] <= 2 && numbers.iter().sum::<usize>() <= 3 * numbers.len(), "{all:?}");
}
