//! What is said of a sheet: its cells, its corner marks, its printed size.

use super::lane::Unread;

pub(super) const OUTSIDE: &str = "lies partly outside of the scan";
pub(super) const NO_RING: &str = "no closed ring was found inside the ticks";
pub(super) const NOTHING: &str = "nothing is inked here";
pub(super) const PHOTO: &str = "the sheet is larger on one side than on the other: this looks like a photo. Widths differ over it by as much; scan it flat";

/// Why strokes of a cell could not be read; `which` are their numbers.
pub(super) fn unread(why: Unread, which: &str) -> String {
    match why {
        Unread::Empty => format!("{which}: nothing is inked"),
        Unread::Outside => format!("{which}: outside of the scan"),
        Unread::Strays => format!("{which}: runs out of its lane, or its neighbour into it"),
        Unread::Stained => format!("{which}: a stain or a shadow lies under it"),
        Unread::Short => format!("{which}: too short to measure"),
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
