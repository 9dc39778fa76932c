//! The proof sheet: brushes on the proof figures, one under the other, as SVG and PDF at true size.

use eddymist_ink::{
    Brush, InkError, Inked, Inker,
    digits::push_polygon,
    proof::{PROOF_MM, figures},
};

use crate::{
    ReadError,
    ink_out::{coloured_png, ink, rgb_of, svg_strokes},
    lettering::words,
    pdf::{Mark, pages},
    sheet::HAIR,
};

/// An A4 page that lies on its side, mm.
const PAGE_MM: [f64; 2] = [297.0, 210.0];
/// Margin, and the height of one brush with its name, mm.
const MARGIN: f64 = 15.0;
const BAND: f64 = 60.0;
/// Brushes on one page.
const ON_A_PAGE: usize = 3;

/// A brush and what stands above its figures.
pub struct Proof<'a> {
    pub brush: &'a Brush,
    pub says: String,
}

/// The ink of a brush on all figures, from the band's top left corner.
pub fn inked(brush: &Brush, at: [f64; 2]) -> Result<Vec<Inked>, InkError> {
    let inker = Inker::new(brush, None, None)?;
    let mut strokes: Vec<_> = figures().iter().flat_map(|f| f.placed()).collect();
    strokes.iter_mut().flat_map(|s| &mut s.samples).for_each(|p| (p.x, p.y) = (p.x + at[0], p.y + at[1]));
    Ok(ink(&inker, &strokes))
}

struct Band {
    head: Vec<eddymist_ink::Outline>,
    ink: Vec<Inked>,
    colour: String,
}

fn bands(proofs: &[Proof], on_a_page: usize) -> Result<Vec<Band>, InkError> {
    let band = |(k, p): (usize, &Proof)| {
        let top = MARGIN + BAND * (k % on_a_page) as f64;
        let left = 0.5 * (PAGE_MM[0] - PROOF_MM[0]);
        let mut head = vec![words(&p.brush.name, [left, top], 4.2, true), words(&p.says, [left, top + 5.5], 2.8, false)];
        for f in figures() {
            head.push(words(f.name, [left + f.at[0], top + 9.0 + f.at[1] - 0.4], 1.9, false));
        }
        head.push(crate::sheet::tick([left, top + 8.0], [left + PROOF_MM[0], top + 8.0], HAIR));
        Ok(Band { head, ink: inked(p.brush, [left, top + 9.0])?, colour: p.brush.colour.clone() })
    };
    proofs.iter().enumerate().map(band).collect()
}

/// SVG in mm: all brushes one under the other on one sheet.
pub fn svg(proofs: &[Proof]) -> Result<String, InkError> {
    let high = (2.0 * MARGIN + BAND * proofs.len() as f64).max(PAGE_MM[1]);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0}mm\" height=\"{high}mm\" viewBox=\"0 0 {0} {high}\">\n<title>Proof sheet</title>\n",
        PAGE_MM[0]
    );
    for band in bands(proofs, usize::MAX)? {
        out.push_str("<path fill=\"#1b1e24\" d=\"");
        for path in band.head.iter().flat_map(|o| &o.paths) {
            push_polygon(&mut out, path, 3);
        }
        out.push_str("\"/>\n");
        out.push_str(&svg_strokes(&band.ink, &band.colour));
    }
    out.push_str("</svg>\n");
    Ok(out)
}

/// PDF of A4 pages at true size, three brushes to a page.
pub fn pdf(proofs: &[Proof]) -> Result<Vec<u8>, ReadError> {
    let bands = bands(proofs, ON_A_PAGE).map_err(|e| ReadError::Kind(e.to_string()))?;
    let marks = |band: &Band| {
        let mut out = vec![Mark::Paths { paths: band.head.iter().flat_map(|o| o.paths.clone()).collect(), rgb: [0x1b, 0x1e, 0x24], alpha: 1.0 }];
        let rgb = rgb_of(&band.colour);
        for s in &band.ink {
            // What is soft or set down has no outline of its own: it goes in as a picture.
            if s.stamping.is_some() || s.softness_mm > 0.0 {
                out.extend(coloured_png(s, &band.colour).map(|(bytes, area)| Mark::Png { bytes, area }));
            } else {
                out.extend(s.layers.iter().map(|l| Mark::Paths { paths: l.outline.paths.clone(), rgb, alpha: l.alpha }));
            }
        }
        out
    };
    let all: Vec<Vec<Mark>> = bands.chunks(ON_A_PAGE).map(|page| page.iter().flat_map(marks).collect()).collect();
    pages(PAGE_MM, "Proof sheet", &all)
}
