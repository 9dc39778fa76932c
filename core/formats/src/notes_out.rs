//! Notes for an artist who does not sign in: each returned drawing with its picture, what the lead wrote, drew and pinned on it, and what
//! must be fixed, as PDF.

use std::collections::BTreeSet;

use eddymist_check::Finding;
use eddymist_ink::Outline;

use crate::{
    ReadError, archive,
    printed::{INK, Pages, Paper, SOFT},
};

/// Findings as causes: many of one kind and role are one, the first of them the worst.
pub fn causes(findings: &[&Finding]) -> Vec<(Vec<[f64; 2]>, String)> {
    /// So many of a kind and role are told one by one.
    const APART: usize = 2;
    let mut out: Vec<(Vec<[f64; 2]>, String)> = Vec::new();
    let mut done = BTreeSet::new();
    for f in findings {
        let of = |g: &&&Finding| (g.kind, &g.role) == (f.kind, &f.role);
        let all: Vec<&&Finding> = findings.iter().filter(of).collect();
        if all.len() <= APART {
            out.push((vec![[f.x, f.y]], f.message.clone()));
        } else if done.insert((f.kind, &f.role)) {
            out.push((all.iter().map(|g| [g.x, g.y]).collect(), format!("{} places; at worst {}", all.len(), f.message)));
        }
    }
    out
}

/// Whose notes, on what.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Heading {
    pub production: String,
    pub delivery: String,
    pub artist: String,
    /// When they were made.
    pub made: String,
}

/// A returned drawing; places are in px of the drawing.
#[derive(Debug, Clone)]
pub struct Note {
    pub title: String,
    pub file: String,
    /// A small PNG of it, and the drawing's own size in px; none where it could not be read.
    pub picture: Option<(Vec<u8>, [f64; 2])>,
    pub by: String,
    pub text: String,
    /// Drawn on it: polylines.
    pub strokes: Vec<Vec<[f64; 2]>>,
    pub pins: Vec<([f64; 2], String)>,
    /// What must be fixed: the places of one cause, and what it is.
    pub fix: Vec<(Vec<[f64; 2]>, String)>,
}

const STOP: [u8; 3] = [0xb3, 0x24, 0x3b];
/// A picture is no higher, mm.
const MOST_HIGH: f64 = 125.0;
/// So many causes are listed for one drawing, and so many places of one are ringed.
const LISTED: usize = 24;
const RINGED: usize = 40;

/// A ring of this radius and breadth, mm.
fn ring(at: [f64; 2], r: f64, broad: f64) -> Outline {
    let circle = |r: f64, way: f64| {
        (0..32).map(|k| (way * f64::from(k) * std::f64::consts::TAU / 32.0).sin_cos()).map(|(s, c)| [at[0] + r * c, at[1] + r * s]).collect()
    };
    Outline { paths: vec![circle(r, 1.0), circle(r - broad, -1.0)] }
}

/// A line along these places, mm.
fn along(places: &[[f64; 2]], broad: f64) -> Outline {
    let piece = |p: &[[f64; 2]]| {
        let ([ax, ay], [bx, by]) = (p[0], p[1]);
        let l = (bx - ax).hypot(by - ay).max(1e-9);
        let [nx, ny] = [(ay - by) / l * broad / 2.0, (bx - ax) / l * broad / 2.0];
        vec![[ax + nx, ay + ny], [bx + nx, by + ny], [bx - nx, by - ny], [ax - nx, ay - ny]]
    };
    Outline { paths: places.windows(2).map(piece).collect() }
}

/// The letter of a pin, as on the page.
fn letter(k: usize) -> char {
    char::from(b'a' + (k % 26) as u8)
}

fn drawing(p: &mut Pages, n: &Note) {
    p.text(&n.title, 5.0, true, INK);
    p.text(&n.file, 2.8, false, SOFT);
    if !n.text.is_empty() {
        p.y += 1.5;
        p.text(&format!("{}: “{}”", n.by, n.text), 3.8, false, INK);
    } else if !n.strokes.is_empty() {
        p.text(&format!("{}: see what is drawn", n.by), 3.8, false, INK);
    }
    p.y += 2.0;
    if let Some((png, [w, h])) = &n.picture {
        let mm = (p.width() / w).min(MOST_HIGH / h);
        p.room(mm * h);
        let (left, top) = (p.left(), p.y);
        p.picture(png.clone(), [left, top, mm * w, mm * h]);
        let at = |[x, y]: [f64; 2]| [left + mm * x, top + mm * y];
        for s in &n.strokes {
            p.push(along(&s.iter().map(|q| at(*q)).collect::<Vec<_>>(), 0.7), STOP);
        }
        for (k, (places, _)) in n.fix.iter().take(LISTED).enumerate() {
            for [x, y] in places.iter().take(RINGED).map(|q| at(*q)) {
                p.push(ring([x, y], 2.0, 0.3), STOP);
                p.word_at(&(k + 1).to_string(), [x + 2.4, y - 0.8], 2.6, true, STOP);
            }
        }
        for (k, (place, _)) in n.pins.iter().enumerate() {
            let [x, y] = at(*place);
            p.bar([x - 1.8, y - 1.8, 3.6, 3.6], STOP);
            p.word_at(&letter(k).to_string(), [x - 0.8, y + 0.9], 2.8, true, [255; 3]);
        }
        p.y = top + mm * h + 2.0;
    }
    for (k, (_, text)) in n.pins.iter().enumerate() {
        p.text(&format!("{}   {text}", letter(k)), 3.4, true, INK);
    }
    if !n.fix.is_empty() {
        p.y += 1.0;
        p.text("Must be fixed", 3.4, true, INK);
    }
    for (k, (_, text)) in n.fix.iter().take(LISTED).enumerate() {
        p.text(&format!("{}   {text}", k + 1), 3.0, false, INK);
    }
    if n.fix.len() > LISTED {
        p.text(&format!("and {} more", n.fix.len() - LISTED), 3.0, false, SOFT);
    }
}

/// The notes as PDF: a drawing begins a page.
pub fn pdf(head: &Heading, notes: &[Note], paper: Paper) -> Result<Vec<u8>, ReadError> {
    let mut p = Pages::new(paper.size_mm());
    let title = format!("{}: notes for {}", head.production, head.artist);
    p.text(&title, 6.4, true, INK);
    let n = notes.len();
    let back = "Hand each in again under its number: it is known by that.";
    p.text(&format!("{} · {n} {} returned · {}. {back}", head.delivery, if n == 1 { "drawing" } else { "drawings" }, head.made), 3.0, false, SOFT);
    p.y += 3.0;
    for (k, n) in notes.iter().enumerate() {
        if k > 0 {
            p.new_page();
        }
        drawing(&mut p, n);
    }
    p.finish(&title)
}

/// The notes for several artists, a PDF each in a ZIP.
pub fn zip(all: &[(Heading, Vec<Note>)], paper: Paper) -> Result<Vec<u8>, ReadError> {
    let plain = |name: &str| name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect::<String>();
    let mut entries: Vec<(String, Vec<u8>)> = Vec::new();
    for (k, (head, notes)) in all.iter().enumerate() {
        // Two names may be alike without their signs.
        let twice = all[..k].iter().any(|(h, _)| plain(&h.artist) == plain(&head.artist));
        let more = if twice { format!("-{}", k + 1) } else { String::new() };
        entries.push((format!("notes-{}{more}.pdf", plain(&head.artist)), pdf(head, notes, paper)?));
    }
    archive::zip(&entries)
}
