//! The first page of the team's report, for who reads no statistics: who differs, since when, possible causes, what was returned and why, and
//! a piece of a line as it is drawn beside the same piece at the guide's weight.

use eddymist_ink::Outline;

use crate::printed::{HEAVY, INK, MARGIN, Pages, SOFT, THIN};

/// One who differs.
#[derive(Debug, Clone, Default)]
pub struct Story {
    /// Who, which role, how much, since when: a sentence.
    pub says: String,
    /// What it may come from, with how to find out.
    pub causes: Vec<String>,
    /// What of theirs was returned, and why.
    pub returned: Vec<String>,
    pub piece: Option<Piece>,
}

/// A piece of a drawing with its measured lines; px of the drawing.
#[derive(Debug, Clone)]
pub struct Piece {
    pub role: String,
    pub file: String,
    pub window: [f64; 4],
    /// Places x, y, width of each line, what each place is (`h` heavy, `t` thin, `w` within, else not measured), and whether it is of the role.
    pub lines: Vec<(Vec<[f64; 3]>, String, bool)>,
    pub mean_px: f64,
    pub target_px: f64,
}

/// A picture of a piece is so wide, mm.
const WIDE: f64 = 84.0;
/// Of a story so many causes and notes are told.
const TOLD: usize = 3;

/// The piece of a line from one place to the next, as wide as it is there, px.
fn quad(a: [f64; 3], b: [f64; 3]) -> Option<Vec<[f64; 2]>> {
    let l = (b[0] - a[0]).hypot(b[1] - a[1]);
    if l < 1e-9 {
        return None;
    }
    // A little over both ends, so that no paper shows between two of them.
    let [ux, uy] = [(b[0] - a[0]) / l, (b[1] - a[1]) / l];
    let over = 0.15 * a[2].min(b[2]);
    let end = |p: [f64; 3], along: f64, side: f64| [p[0] + along * over * ux - side * 0.5 * p[2] * uy, p[1] + along * over * uy + side * 0.5 * p[2] * ux];
    Some(vec![end(a, -1.0, 1.0), end(b, 1.0, 1.0), end(b, 1.0, -1.0), end(a, -1.0, -1.0)])
}

/// The piece at a place of the page; at the guide's weight, or as it is drawn.
fn shown(p: &mut Pages, piece: &Piece, [left, top, wide]: [f64; 3], as_drawn: bool) {
    let [x, y, w, h] = piece.window;
    let mm = wide / w;
    let inside = |q: [f64; 3]| (x..=x + w).contains(&q[0]) && (y..=y + h).contains(&q[1]);
    for (places, standing, own) in &piece.lines {
        for (k, two) in places.windows(2).enumerate() {
            if !inside(two[0]) || !inside(two[1]) {
                continue;
            }
            let at = |q: [f64; 3]| [q[0], q[1], if *own && !as_drawn { piece.target_px } else { q[2] }];
            let rgb = match standing.as_bytes().get(k) {
                Some(b'h') if *own && as_drawn => HEAVY,
                Some(b't') if *own && as_drawn => THIN,
                _ if *own => INK,
                _ => SOFT,
            };
            if let Some(path) = quad(at(two[0]), at(two[1])) {
                p.push(Outline { paths: vec![path.into_iter().map(|[a, b]| [left + mm * (a - x), top + mm * (b - y)]).collect()] }, rgb);
            }
        }
    }
}

fn pictures(p: &mut Pages, piece: &Piece) {
    let [_, _, w, h] = piece.window;
    let high = WIDE * h / w;
    p.room(high + 8.0);
    let (left, top) = (MARGIN, p.y + 1.0);
    let second = left + WIDE + (p.width() - 2.0 * WIDE);
    shown(p, piece, [left, top, WIDE], true);
    shown(p, piece, [second, top, WIDE], false);
    p.y = top + high + 3.0;
    p.word(&format!("{}: {} as drawn, {:.1} px", piece.file, piece.role, piece.mean_px), 0.0, 2.6, false, SOFT);
    p.word(&format!("the same at the guide’s weight, {:.1} px", piece.target_px), second - MARGIN, 2.6, false, SOFT);
    p.y += 2.5;
}

/// A sentence that goes on after a colon: "It goes" is "it goes".
fn in_line(says: &str) -> String {
    says.strip_prefix("It ").map_or_else(|| says.to_string(), |rest| format!("it {rest}"))
}

/// The page's stories, under its heading.
pub(crate) fn stories(p: &mut Pages, all: &[Story]) {
    for s in all {
        p.room(30.0);
        p.y += 2.0;
        p.text(&s.says, 4.2, true, INK);
        if let Some(piece) = &s.piece {
            pictures(p, piece);
        }
        for c in s.causes.iter().take(TOLD) {
            p.text(&format!("Possibly: {}", in_line(c)), 3.2, false, INK);
        }
        for r in s.returned.iter().take(TOLD) {
            p.text(r, 3.2, false, SOFT);
        }
        if s.returned.len() > TOLD {
            p.text(&format!("and {} more returned", s.returned.len() - TOLD), 3.2, false, SOFT);
        }
    }
}
