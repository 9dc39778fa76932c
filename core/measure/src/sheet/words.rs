//! What is said of a sheet: its cells, its corner marks, its printed size.

use super::lane::Unread;

pub(super) const OUTSIDE: &str = "lies partly outside of the scan";
pub(super) const NO_RING: &str = "no closed ring was found inside the ticks";
pub(super) const SHORT: &str = "too short to measure";
pub(super) const NOTHING: &str = "nothing is inked here";
pub(super) const PHOTO: &str = "the sheet is larger on one side than on the other: this looks like a photo. Widths differ over it by as much; scan it flat";

/// Why strokes of a cell could not be read; `which` are their numbers.
pub(super) fn unread(why: Unread, which: &str) -> String {
    match why {
        Unread::Empty => format!("{which}: nothing is inked"),
        Unread::Outside => format!("{which}: outside of the scan"),
        Unread::Strays => format!("{which}: runs out of its lane, or its neighbour into it"),
        Unread::Stained => format!("{which}: a stain or a shadow lies under it"),
        Unread::Blotted => format!("{which}: a blot lies on it"),
        Unread::Short => format!("{which}: {SHORT}"),
    }
}

/// Fewer corner marks than the sheet has.
pub(super) fn marks_missing(found: usize) -> String {
    format!("{found} of the four corner marks were found; places are less sure toward the missing ones")
}

/// A sheet that was printed at another size, as shares across and down.
pub(super) fn printed_at(scale: [f64; 2], beside: bool) -> String {
    format!(
        "printed at {:.1} % across and {:.1} % down; widths are by {} and do not depend on it",
        100.0 * scale[0],
        100.0 * scale[1],
        if beside { "what lies beside the sheet" } else { "the scan's resolution" }
    )
}

pub(crate) const PHOTO_EDGES: &str = "raggedness and blurriness are not measurable from this photo: its own edges are softer than a pen’s. A scan tells them";
pub(super) const NO_BARS: &str =
    "this sheet has no printed bars at its sides, so that widths are as the camera shows them; print it anew to have them corrected";
pub(super) const BARS_UNREAD: &str =
    "the printed bars at the sides could not be read, so that widths are as the camera shows them; have both sides in view, without a shadow on them";
pub(super) const PHOTO_SCALE: &str = "the scale is the sheet’s own, taken as printed at full size; lay a bank card beside it to be sure";

/// Frames that are not where a flat sheet’s are.
pub(super) fn wavy(off_mm: f64) -> String {
    format!("the sheet did not lie flat: its frames are {off_mm:.2} mm off; press it flat, or widths differ over it")
}

/// Lines that the photo has too few pixels for.
pub(super) fn too_thin(px_mm: f64) -> String {
    format!("its lines are too thin for this photo, which has {px_mm:.1} px to the mm here; go nearer, or scan it")
}
