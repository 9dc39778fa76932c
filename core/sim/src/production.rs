//! The demo production “Night Tram”: its guide, artists and deliveries of generated drawings with known deviations.

use eddymist_calibrate::warmup::EFFORTS;
use eddymist_check::{
    document::FindingKind,
    guide::{Ends, LineGuide, Page, Role, RoleSource, Weight},
};
use eddymist_formats::images::{PngKind, write_png};
use eddymist_ink::{Brush, Inker, Sample, Stroke, brush::Taper, raster::rasterise};
use eddymist_measure::colour::parse_hex;
use eddymist_measure::sheet::layout::{Paper, number_from, plan};

use crate::{
    beside::beside_lines,
    camera::{Camera, compressed, photograph},
    normal,
    osk::{Pose, ROLES, strokes},
    pens::Pen,
    rng,
    scanner::{Scanner, scan},
    wander,
};

/// An artist of the production, the tablet they use and how their lines come out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Artist {
    pub id: &'static str,
    pub name: &'static str,
    pub tablet: &'static str,
    pub hand: &'static str,
}

/// The invented artists.
pub const ARTISTS: [Artist; 5] = [
    Artist { id: "ilse", name: "Ilse Marrow", tablet: "large-slate", hand: "steady" },
    Artist { id: "dov", name: "Dov Tarrant", tablet: "old-slate", hand: "heavy" },
    Artist { id: "pia", name: "Pia Lunde", tablet: "display-16", hand: "steady" },
    Artist { id: "juno", name: "Juno Abara", tablet: "display-16", hand: "light" },
    Artist { id: "teo", name: "Teo Varga", tablet: "travel", hand: "light" },
];

/// Colours of the roles, in the order of [`ROLES`].
pub const COLOURS: [&str; 6] = ["#1b1e24", "#7a4326", "#4b2f7a", "#5c5f14", "#8a1f4e", "#e0209a"];
const TARGETS: [f64; 5] = [6.0, 3.5, 4.5, 4.0, 5.0];
const TOLERANCES: [f64; 5] = [0.10, 0.12, 0.10, 0.12, 0.12];

/// The production's line guide.
pub fn line_guide() -> LineGuide {
    let roles = ROLES
        .iter()
        .enumerate()
        .map(|(i, name)| Role {
            name: (*name).into(),
            from: RoleSource { colour: Some(COLOURS[i].into()), tolerance: Some(8.0), ..RoleSource::default() },
            weight_px: TARGETS.get(i).map(|t| Weight { target: *t, tolerance: TOLERANCES[i], swell: (i == 1).then_some([2.4, 4.8]) }),
            ends: if i == 1 { Ends::Tapered } else { Ends::Any },
            judge: i < 5,
            gap_px: None,
        })
        .collect();
    let page = Page { width_px: 1920.0, height_px: 1080.0, px_per_mm: Some(6.3), rate_fps: Some(12.0) };
    LineGuide {
        scale_by_shot: [("wide", 0.8), ("medium", 1.0), ("close", 1.25)].into_iter().map(|(k, v)| (k.to_string(), v)).collect(),
        must_mend: vec![FindingKind::Heavy, FindingKind::Thin],
        ..LineGuide::new("Night Tram line guide", page, roles)
    }
}

/// A drawing of a delivery: its file name, its PNG and the factor that its contour was drawn with.
pub struct Drawn {
    pub file: String,
    pub png: Vec<u8>,
    pub contour_factor: f64,
}

/// A delivery of the demo.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Delivery {
    pub name: &'static str,
    pub shot: &'static str,
    pub drawings: usize,
    pub artists: &'static [&'static str],
}

/// The two deliveries: in the first Dov's contour is heavy since he draws on the old pen tablet, in the second Teo's lines drift thinner.
pub const DELIVERIES: [Delivery; 2] = [
    Delivery { name: "Shot 012, delivery of 24 November", shot: "012", drawings: 32, artists: &["ilse", "dov", "pia"] },
    Delivery { name: "Shot 018, delivery of 25 November", shot: "018", drawings: 24, artists: &["juno", "teo"] },
];

/// A contour drawn past the tablet's full point: this much wider, most of it at the brush's widest.
const PILED: f64 = 1.2;

/// Dov draws on the old pen tablet since his large one is away for repair.
fn on_old_slate(drawing: usize) -> bool {
    drawing == 7 || drawing >= 13
}

/// The manifest of a delivery: which tablet and brush each drawing was drawn with, and when.
pub fn manifest(delivery: &Delivery) -> String {
    let mut out = String::from("file,tablet,brush,drawn_at\n");
    for number in 1..=delivery.drawings {
        let artist = artist_of(delivery, number);
        let tablet = match artist {
            "dov" if !on_old_slate(number) => "large pen tablet",
            "dov" => "old pen tablet",
            "pia" | "juno" => "16-inch pen display",
            "teo" => "travel tablet",
            _ => "large pen tablet",
        };
        let brush = if delivery.shot == "012" { "Steel nib for Osk's coat" } else { "Fineliner for the tram" };
        // The seventh was drawn again last of the large pen tablet's days, on the old one.
        let hour = if number == 7 { 12.5 } else { number as f64 };
        let first = if delivery.shot == "012" { 20 } else { 23 };
        let day = first + (hour / 8.0) as usize;
        let minutes = ((hour % 8.0) * 60.0) as usize;
        out.push_str(&format!("{}_{artist}_{number:03}.png,{tablet},{brush},2026-11-{day}T{:02}:{:02}\n", delivery.shot, 9 + minutes / 60, minutes % 60));
    }
    out
}

fn artist_of(delivery: &Delivery, number: usize) -> &'static str {
    if delivery.shot == "012" { delivery.artists[number % 3] } else { delivery.artists[(number - 1) * delivery.artists.len() / delivery.drawings] }
}

/// Factor on a role's width for one stroke of one drawing.
fn factor(artist: &str, drawing: usize, role: usize, stroke: usize, seed: u64) -> f64 {
    let mut r = rng(seed, (drawing * 1000 + stroke) as u64);
    let own = match artist {
        // The old pen tablet reaches its full point early: the contour is heavy, and piles up at the brush's widest (see [`render`]).
        "dov" if role == 0 && on_old_slate(drawing) => PILED,
        "dov" if role == 0 => 1.01,
        "dov" if role == 1 && drawing == 19 => 0.8,
        "teo" => 1.02 - 0.01 * drawing as f64,
        // Juno's lines boil: every drawing another weight.
        "juno" => 1.0 + 0.035 * normal(&mut rng(seed, 77 + drawing as u64)),
        _ => 1.0,
    };
    own * (1.0 + 0.012 * normal(&mut r))
}

/// Draws one drawing of a delivery.
pub fn drawing(delivery: &Delivery, number: usize, seed: u64) -> Drawn {
    let artist = artist_of(delivery, number);
    let pose = Pose::in_phase((number - 1) as f64 / delivery.drawings as f64);
    let png = render(&pose, 1.0, |role, k| factor(artist, number, role, k, seed), seed.wrapping_add(number as u64));
    Drawn { file: format!("{}_{artist}_{number:03}.png", delivery.shot), png, contour_factor: factor(artist, number, 0, 0, seed) }
}

/// The same drawing drawn again by the same artist, as the guide asks.
pub fn redrawn(delivery: &Delivery, number: usize, seed: u64) -> Drawn {
    let first = drawing(delivery, number, seed);
    let pose = Pose::in_phase((number - 1) as f64 / delivery.drawings as f64);
    let png = render(&pose, 1.0, |role, k| 1.0 + 0.012 * normal(&mut rng(seed, (role * 100 + k) as u64)), seed.wrapping_add(number as u64));
    Drawn { png, contour_factor: 1.0, ..first }
}

/// Renders a pose at `scale` of the page, each stroke's width times its factor; returns a PNG on white.
pub fn render(pose: &Pose, scale: f64, factor: impl Fn(usize, usize) -> f64, seed: u64) -> Vec<u8> {
    let (w, h) = ((1920.0 * scale) as usize, (1080.0 * scale) as usize);
    let mut rgb = vec![255u8; w * h * 3];
    for (k, (role, points)) in strokes(pose).into_iter().enumerate() {
        let target = TARGETS.get(role).copied().unwrap_or(4.0);
        let Some(colour) = parse_hex(COLOURS[role]) else {
            continue;
        };
        let factor = factor(role, k);
        let piled = role == 0 && factor > 0.94 * PILED;
        lay(&mut rgb, w, h, &points, target * factor, piled, role, scale, colour, seed.wrapping_add(k as u64));
    }
    write_png(w, h, PngKind::Rgb, &rgb, None).unwrap_or_default()
}

/// Inks one stroke with a brush that tapers inner lines and sits on the picture.
#[allow(clippy::too_many_arguments)]
fn lay(rgb: &mut [u8], w: usize, h: usize, points: &[[f64; 2]], width: f64, piled: bool, role: usize, scale: f64, colour: [u8; 3], seed: u64) {
    let mut r = rng(seed, 0x1A);
    let waver = wander(&mut r, points.len(), 14.0);
    let samples: Vec<Sample> = points
        .iter()
        .zip(&waver)
        .map(|(p, v)| Sample { x: p[0] * scale, y: p[1] * scale, pressure: Some((0.5 + 0.08 * v).clamp(0.0, 1.0)), ..Sample::default() })
        .collect();
    let closed = points.len() > 3 && (points[0][0] - points[points.len() - 1][0]).hypot(points[0][1] - points[points.len() - 1][1]) < 4.0;
    let mut brush = Brush::plain("demo", width * scale);
    brush.weight = vec![[0.0, 0.84 * width * scale], [1.0, 1.16 * width * scale]];
    if piled {
        // Past the full point harder pressing changes nothing: what would be wider stays at the widest.
        brush.weight = vec![[0.0, 0.4 * width * scale], [0.45, 0.99 * width * scale], [0.47, 1.005 * width * scale], [1.0, 1.01 * width * scale]];
    }
    if role == 1 && !closed {
        let taper = Taper { length_mm: 26.0 * scale, share: 0.3, tip_width_mm: 0.9 * scale, shape: 0.8, over_mm_s: 0.0 };
        brush.lead_in = Some(Taper { length_mm: 14.0 * scale, ..taper });
        brush.lead_out = Some(taper);
    }
    let Ok(inker) = Inker::new(&brush, None, None) else {
        return;
    };
    let outline = inker.ink(&Stroke { samples, zoom: 1.0, timed: false }).outline(0.01);
    let Some([l, t, rt, b]) = outline.bounds() else {
        return;
    };
    let (x0, y0) = (l.floor().max(0.0) as usize, t.floor().max(0.0) as usize);
    let (x1, y1) = ((rt.ceil() as usize + 1).min(w), (b.ceil() as usize + 1).min(h));
    if x0 >= x1 || y0 >= y1 {
        return;
    }
    let part = rasterise(&outline, 1.0, [x0 as f64, y0 as f64], x1 - x0, y1 - y0);
    for y in y0..y1 {
        for x in x0..x1 {
            let a = part.data[(y - y0) * (x1 - x0) + x - x0];
            let i = 3 * (y * w + x);
            for (p, c) in rgb[i..i + 3].iter_mut().zip(colour) {
                *p = (f32::from(*p) + (f32::from(c) - f32::from(*p)) * a).round() as u8;
            }
        }
    }
}

/// A scanned sampler sheet, printed a little small and inked by a pen, as a PNG with its resolution.
pub fn sheet_scan(pen: &Pen, dpi: f64, seed: u64) -> Vec<u8> {
    let plan = plan(Paper::A4, &number_from(seed.wrapping_mul(31).wrapping_add(pen.id.len() as u64)));
    let (ink, _) = crate::sheet::inked(pen, &plan, 0.985, seed);
    let scanner = Scanner { turn_deg: 1.2 - (seed % 5) as f64 * 0.5, ..Scanner::fair(dpi) };
    let grey = scan(&scanner, &ink, plan.size_mm, seed);
    write_png(grey.width, grey.height, PngKind::Grey, &grey.data, Some(dpi / 25.4)).unwrap_or_default()
}

/// The same sheet, printed at full size and photographed by hand, as a JPEG that says nothing of itself.
pub fn sheet_photo(pen: &Pen, seed: u64) -> Vec<u8> {
    let plan = plan(Paper::A4, &number_from(seed.wrapping_mul(31).wrapping_add(pen.id.len() as u64)));
    let (ink, _) = crate::sheet::inked(pen, &plan, 1.0, seed);
    let photo = photograph(&Camera { quality: None, ..Camera::fair() }, &ink, plan.size_mm, seed);
    compressed(&photo, 92).unwrap_or_default()
}

/// Ruled lines of a pen at three efforts, two each, photographed by hand beside a card, as a JPEG that says nothing of itself.
pub fn pen_photo(pen: &Pen, seed: u64) -> Vec<u8> {
    // Quarter sheets lie nearer to the camera.
    let scene = beside_lines(pen, 4 * seed + 2);
    compressed(&scene.photo, 92).unwrap_or_default()
}

/// The scan of a pen's ruled lines at five efforts, four each, as a PNG with its resolution, and each line's effort.
pub fn pen_scan(pen: &Pen, dpi: f64, seed: u64) -> (Vec<u8>, Vec<f64>) {
    let efforts: Vec<f64> = EFFORTS.iter().map(|e| e.0).collect();
    let (lines, size) = crate::pens::ruled_sheet(pen, &efforts, 4, 62.0, seed);
    let outlines: Vec<_> = lines.iter().map(|l| l.outline.clone()).collect();
    let scanner = Scanner { turn_deg: 0.7 - (seed % 5) as f64 * 0.35, ..Scanner::fair(dpi) };
    let grey = scan(&scanner, &outlines, size, seed);
    let png = write_png(grey.width, grey.height, PngKind::Grey, &grey.data, Some(dpi / 25.4)).unwrap_or_default();
    (png, lines.iter().map(|l| l.effort).collect())
}
