//! Lines over any ground: drawings as they are handed in are read as those on white paper are, whoever drew them.
//!
//! Outside references: the pictures in tests/reference/handed_in, by cairo and skia (make_handed_in.py); resvg, which is the vector reader's.
//! The limits are methods.md's: a role's mean within 0.02 px in the median and 0.1 px at worst, every tenth along a line within 0.1 px.

use eddymist_formats::{LIMITS, drawings, images};
use eddymist_sim::handed_in::{
    Ground,
    held::{Held, held},
    made,
};

/// Of the length of its lines that is read on white, at least this share is read on any other ground.
const AS_ON_WHITE: f64 = 0.97;

fn read(ground: Ground, seed: u64, picture: &images::Rgba) -> Held {
    held(&made(ground, seed), picture).unwrap_or_else(|| panic!("{ground:?}: no picture"))
}

fn hold(what: &str, h: &Held, white: f64, median: f64, mean: f64) {
    assert!(h.off_at(0.5) < median, "{what}: places are off by {:.3} px in the median", h.off_at(0.5));
    assert!(h.worst_mean() < mean, "{what}: a role's mean is off by {:.3} px", h.worst_mean());
    assert!(h.share() > AS_ON_WHITE * white, "{what}: {:.1} % read, {:.1} % on white", 100.0 * h.share(), 100.0 * white);
    assert!(h.beside < 20.0, "{what}: {:.0} px of line measured where none was drawn", h.beside);
    assert_eq!(h.patches, 0, "{what}: patches called off-palette");
}

#[test]
fn on_every_ground_lines_are_read_as_on_white() {
    for seed in [40, 41] {
        let white = read(Ground::White, seed, &made(Ground::White, seed).picture()).share();
        for ground in Ground::ALL {
            let d = made(ground, seed);
            let (median, mean) = match ground {
                Ground::Palette => (0.08, 0.05),
                Ground::Jpeg => (0.06, 0.05),
                // A faint edge beneath an edge is not told from it.
                Ground::RoughOnWhite | Ground::RoughOnClear => (0.06, 0.03),
                _ => (0.05, 0.03),
            };
            // Blacks hide some of their lines; of JPEG's hatching in colour, which it keeps at half the size, less is seen.
            let share = if matches!(ground, Ground::SpottedBlacks | Ground::Jpeg) { 0.9 * white } else { white };
            let own = read(ground, seed, &d.picture());
            if ground == Ground::Jpeg {
                assert!(
                    own.share() > 0.85 * white && own.off_at(0.5) < median && own.worst_mean() < mean,
                    "{:.3} {:.3} {:.3}",
                    own.share(),
                    own.off_at(0.5),
                    own.worst_mean()
                );
                assert!(own.patches == 0 && own.beside < 20.0, "{} patches, {:.0} px beside", own.patches, own.beside);
                continue;
            }
            hold(&format!("{ground:?} {seed}"), &own, share, median, mean);
            if !matches!(ground, Ground::WhiteMatte | Ground::Palette) {
                let drawn = drawings::drawn(&d.svg(), 1.0, &LIMITS).unwrap_or_else(|e| panic!("{ground:?}: {e}"));
                hold(&format!("{ground:?} {seed}, by resvg"), &read(ground, seed, &drawn), share, median + 0.02, 0.03);
            }
        }
    }
}

#[test]
fn what_cairo_and_skia_draw_is_read_too() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../tests/reference/handed_in");
    let white = read(Ground::White, 77, &made(Ground::White, 77).picture()).share();
    for ground in [Ground::WhiteFills, Ground::PaintedFills, Ground::PaintedPage, Ground::MostlyBlack, Ground::HalfTransparent, Ground::SeveralInks] {
        let bytes = std::fs::read(format!("{folder}/{ground:?}.png")).unwrap_or_else(|e| panic!("{ground:?}: {e}"));
        let picture = images::rgba(&bytes, &LIMITS).unwrap_or_else(|e| panic!("{ground:?}: {e}"));
        hold(&format!("{ground:?}, from outside"), &read(ground, 77, &picture), white, 0.08, 0.05);
    }
}
