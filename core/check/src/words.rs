//! Findings in the words of a person: what is wrong, how much, and what the guide asks.

use eddymist_ink::{picture::Picture, traced::borders};
use eddymist_measure::{
    colour::{delta_e, lab_of},
    drawing::{
        gaps::Region,
        islands::{Island, Islands, OffPalette},
    },
};

use crate::{
    document::{Finding, FindingKind, StretchPlace},
    fault::Fault,
    guide::{Limits, LineGuide, Role, Weight},
    hooks::HOOK_DEG,
};

/// A fault of a role's line.
pub fn of_line(guide: &LineGuide, role: &Role, f: Fault) -> Finding {
    let (name, v, limit) = (&role.name, f.value, f.limit);
    let message = match f.kind {
        FindingKind::Uneven => format!("uneven {name}: its widths spread by {:.0} % of their mean (limit {:.0} %)", 100.0 * v, 100.0 * limit),
        FindingKind::Hook => format!("hook on {name}: turns by {v:.0}° before its end (limit {HOOK_DEG:.0}°)"),
        FindingKind::BluntEnd => format!("blunt end on {name}: full after {v:.1} widths (this role runs out over more than {limit:.1})"),
        FindingKind::TaperedEnd => format!("tapered end on {name}: runs out over {v:.1} widths, and this role ends blunt"),
        FindingKind::SoftEdge => format!("soft edge on {name}: {v:.1} px from paper to ink (limit {limit:.1} px)"),
        FindingKind::HardEdge => format!("hard edge on {name}: no pixel is partly covered, and this guide's finish is smooth"),
        FindingKind::Double => format!("double {name}: {v:.1} px of clear paper between two lines (limit: a line's {limit:.1} px)"),
        _ => format!("{name}: {v:.2} (limit {limit:.2})"),
    };
    Finding {
        role: Some(name.clone()),
        length_px: f.length_px,
        must_mend: guide.must_mend.contains(&f.kind),
        stretches: f.stretches,
        ..Finding::new(f.kind, [f.x, f.y], v, limit, message)
    }
}

/// Specks, pinholes, off-palette ink and gaps; `oversampled` px of what was looked at make one of the drawing.
pub fn of_islands(guide: &LineGuide, limits: &Limits, found: &Islands, oversampled: f64) -> Vec<Finding> {
    let k = oversampled;
    let role_name = |r: Option<usize>| r.and_then(|r| guide.roles.get(r)).map(|r| r.name.clone());
    let finding = |kind: FindingKind, role: Option<String>, (x, y): (f64, f64), value: f64, limit: f64, message: String| Finding {
        role,
        must_mend: guide.must_mend.contains(&kind),
        ..Finding::new(kind, [x / k, y / k], value, limit, message)
    };
    let judged = |i: &Island| !i.texture && !i.open && i.role.and_then(|r| guide.roles.get(r)).is_none_or(|r| r.judge);
    let mut out = Vec::new();
    for i in found.ink.iter().filter(|i| judged(i) && !i.black) {
        let area = i.area_px2 / (k * k);
        if (limits.speck_least_px2..limits.speck_px2).contains(&area) {
            let says = format!("speck: {area:.1} px² of ink alone (limit {:.0} px²)", limits.speck_px2);
            out.push(finding(FindingKind::Speck, role_name(i.role), (i.x, i.y), area, limits.speck_px2, says));
        }
    }
    for i in found.paper.iter().filter(|i| judged(i)) {
        let area = i.area_px2 / (k * k);
        if (limits.pinhole_least_px2..limits.pinhole_px2).contains(&area) {
            let says = format!("pinhole: {area:.1} px² of paper inside the ink, which paint will miss");
            out.push(finding(FindingKind::Pinhole, role_name(i.role), (i.x, i.y), area, limits.pinhole_px2, says));
        }
    }
    for of_one in alike(&found.off) {
        let o = of_one[0];
        let [r, g, b] = o.rgb;
        let far = format!("#{r:02x}{g:02x}{b:02x} is {:.0} ΔE from the nearest role's colour (limit {:.0})", o.delta_e, o.tolerance);
        let n = of_one.len();
        if n < MANY_PATCHES {
            let one = |o: &&OffPalette| finding(FindingKind::OffPalette, None, (o.x, o.y), o.delta_e, o.tolerance, format!("off-palette: {far}"));
            out.extend(of_one.iter().map(one));
            continue;
        }
        let says = format!("off-palette in {n} places: {far}. A rough under the ink, or a role that the guide lacks?");
        let mut f = finding(FindingKind::OffPalette, None, (o.x, o.y), o.delta_e, o.tolerance, says);
        f.stretches = of_one.iter().take(MOST_STRETCHES).map(|o| StretchPlace { x: o.x / k, y: o.y / k, length_px: o.area_px2.sqrt() / k }).collect();
        out.push(f);
    }
    for g in &found.gaps {
        let [a, b] = g.points;
        let paper = g.paper_px / k;
        let area = g.region.inside.iter().filter(|i| **i).count() as f64 / (k * k);
        let says = format!("gap of {paper:.1} px: paint would leak out of {area:.0} px² here");
        let middle = (0.5 * (a[0] + b[0]), 0.5 * (a[1] + b[1]));
        let mut f = finding(FindingKind::Gap, role_name(Some(g.role)), middle, paper, limits.gap_px, says);
        f.points = Some([a, b].map(|p| p.map(|v| v / k)));
        f.region = Some(polygon(&g.region, k));
        out.push(f);
    }
    out
}

/// Off-palette patches by their colour, the largest first in each.
fn alike(off: &[OffPalette]) -> Vec<Vec<&OffPalette>> {
    let mut all: Vec<&OffPalette> = off.iter().collect();
    all.sort_by(|a, b| b.area_px2.total_cmp(&a.area_px2));
    let mut out: Vec<Vec<&OffPalette>> = Vec::new();
    for o in all {
        let own = lab_of(o.rgb);
        match out.iter_mut().find(|same| delta_e(lab_of(same[0].rgb), own) < ONE_COLOUR) {
            Some(same) => same.push(o),
            None => out.push(vec![o]),
        }
    }
    out
}

/// Patches nearer than this are of one colour, CIEDE2000; so many of them are one finding, whose places are listed up to a number.
const ONE_COLOUR: f32 = 6.0;
const MANY_PATCHES: usize = 4;
const MOST_STRETCHES: usize = 200;

/// The border of a region, px of the drawing; its holes are left out.
fn polygon(r: &Region, k: f64) -> Vec<[f64; 2]> {
    let coverage = r.inside.iter().map(|i| f32::from(u8::from(*i))).collect();
    let picture = Picture { width: r.width, height: r.inside.len() / r.width.max(1), coverage, px_mm: None };
    let area = |ring: &Vec<[f64; 2]>| eddymist_ink::outline::signed_area(ring).abs();
    let ring = borders(&picture, 0.75, 0.0).into_iter().max_by(|a, b| area(a).total_cmp(&area(b)));
    ring.unwrap_or_default().into_iter().map(|[x, y]| [x + r.x as f64, y + r.y as f64].map(|v| (v / k * 10.0).round() / 10.0)).collect()
}

/// A line's stretches that are heavy or thin.
pub fn off_weight(role: &str, heavy: bool, value: f64, length_px: f64, stretches: usize, weight: &Weight) -> String {
    let word = if heavy { "heavy" } else { "thin" };
    let over = if stretches > 1 { format!("{stretches} stretches, {length_px:.0} px together") } else { format!("{length_px:.0} px") };
    let limit = match weight.swell {
        Some([lo, hi]) => format!("{lo:.1} to {hi:.1} px"),
        None => format!("{:.1} ± {:.0} %", weight.target, 100.0 * weight.tolerance),
    };
    format!("{word} {role}: {value:.1} px wide over {over} ({limit})")
}

/// Ink that shows what is beneath it.
pub fn of_opacity(role: &str, opacity: f64) -> Option<String> {
    (opacity < OPAQUE).then(|| {
        format!(
            "The ink of {role} is {:.0} % opaque. It was measured as if it were solid; set its layer or its brush to full opacity before painting.",
            100.0 * opacity
        )
    })
}

/// Ink as opaque as this is solid: a rounding, a soft brush's core.
const OPAQUE: f64 = 0.92;

/// What is said of a photo, in place of everything else.
pub const PHOTO: &str = "This is a photo: how large its lines are on the page cannot be told, so weights are not checked, and light and lens would make findings that are not the drawing’s. Scan the drawing, or export it from its program.";

/// What is to be said first of a drawing whose sides are not as the page's.
pub fn of_page([w, h]: [f64; 2], [page_w, page_h]: [f64; 2]) -> Option<String> {
    let ratio = (w / h) / (page_w / page_h);
    ((ratio - 1.0).abs() > UNLIKE).then(|| {
        format!("This drawing is {w:.0} × {h:.0} px and the guide’s page {page_w:.0} × {page_h:.0}: not the same proportions. Limits are scaled by the widths alone; compare the guide’s page with the size the drawing was made for.")
    })
}

/// Sides' proportions may differ by this share: a pixel's rounding, a bleed.
const UNLIKE: f64 = 0.02;

/// A role that boils: in weight, shape or place, so many of its lines, by a share of their weight.
pub fn boils(artist: Option<&str>, role: &str, what: &[&str], [over, all]: [usize; 2], value: f64, limit: f64) -> String {
    format!(
        "{}: {role} boils in {}, {over} of {all} lines jump from drawing to drawing by {:.0} % of their weight (limit {:.0} %)",
        artist.unwrap_or("Between artists"),
        what.join(" and "),
        100.0 * value,
        100.0 * limit
    )
}

/// A warning of the measure's, as a sentence of its own.
pub fn sentence(warning: &str) -> String {
    let mut out = warning.to_owned();
    out[..1].make_ascii_uppercase();
    out
}
