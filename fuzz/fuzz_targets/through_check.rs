//! Any small picture held against any guide: the check is written and read again as the same.
#![no_main]

use eddymist_check::{check_lines, DrawingCheck, LineGuide, Manifest, NamedLayer};
use eddymist_measure::Picture;
use libfuzzer_sys::arbitrary::{self, Arbitrary};

#[derive(Arbitrary, Debug)]
struct Drawing {
    width: u8,
    ground: [u8; 4],
    inks: [[u8; 4]; 3],
    /// Runs of pixels: which ink (or the ground), and how many.
    runs: Vec<(u8, u8)>,
    from: [u8; 2],
    hard: bool,
    limits: [u8; 6],
    target: u8,
}

libfuzzer_sys::fuzz_target!(|d: Drawing| {
    let width = usize::from(d.width).max(1);
    let mut data = Vec::new();
    for (which, long) in d.runs.iter().take(4000) {
        let colour = *d.inks.get(usize::from(which % 5)).unwrap_or(&d.ground);
        data.extend(colour.iter().copied().cycle().take(4 * usize::from(*long)));
    }
    let height = (data.len() / 4 / width).min(256);
    if height == 0 {
        return;
    }
    data.truncate(4 * width * height);
    let froms = [
        serde_json::json!({"rest": true}),
        serde_json::json!({"outline": true}),
        serde_json::json!({"colour": "#1b1e24", "tolerance": 20.0}),
        serde_json::json!({"layer": "i*"}),
    ];
    let role = |k: usize| serde_json::json!({"name": format!("r{k}"), "from": froms[usize::from(d.from[k]) % 4], "weight_px": {"target": 0.2 + f64::from(d.target) / 8.0, "tolerance": 0.1}, "ends": "tapered"});
    let l = d.limits.map(f64::from);
    let guide = serde_json::json!({"format": "eddymist/line-guide", "version": 1, "name": "any", "page": {"width_px": 256, "height_px": 256}, "finish": if d.hard { "hard" } else { "smooth" },
        "roles": [role(0), role(1)], "limits": {"gap_px": l[0], "speck_px2": l[1], "pinhole_px2": l[2], "hook_px": l[3], "uneven": l[4] / 255.0, "boil": l[5] / 255.0}});
    let Ok(guide) = LineGuide::from_json(&guide.to_string()) else { return };
    let layer = NamedLayer { name: Some("ink"), picture: Picture::new(width, height, &data).expect("a picture") };
    let Ok(found) = check_lines(&guide, "any.png", &[layer], 1.0, &Manifest::new()) else { return };
    let text = serde_json::to_string(&found.check).expect("written");
    let again: DrawingCheck = serde_json::from_str(&text).expect("read again");
    assert_eq!(serde_json::to_string(&again).expect("written again"), text);
});
