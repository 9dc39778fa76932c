//! A pen's lines as SVG and its figures as CSV.

use eddymist_calibrate::{PenCard, lanes::PenLine};

use crate::table::Table;

/// The measured outlines of all lines, one under the other, in mm.
pub fn lines_svg(lines: &[PenLine]) -> String {
    let length = lines.iter().map(|l| l.step_mm * l.left_mm.len() as f64).fold(1.0, f64::max);
    let mut y = 1.0;
    let mut paths = String::new();
    for l in lines {
        let half = l.width_mm.iter().copied().fold(0.1, f64::max);
        y += half;
        let at = |i: usize, e: f64| format!("{:.3} {:.4}", 1.0 + i as f64 * l.step_mm, y + e);
        let up = l.left_mm.iter().enumerate().map(|(i, e)| at(i, *e));
        let down = l.right_mm.iter().enumerate().rev().map(|(i, e)| at(i, *e));
        paths.push_str(&format!("<path d=\"M{}Z\"/>\n", up.chain(down).collect::<Vec<_>>().join("L")));
        y += half + 0.6;
    }
    let w = length + 2.0;
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.3}mm\" height=\"{y:.3}mm\" viewBox=\"0 0 {w:.3} {y:.3}\">\n<g fill=\"#000\">\n{paths}</g>\n</svg>\n"
    )
}

/// All figures, a row each: figure, at, value, unit, spread, number, and the ends of the mean's 95 % interval.
pub fn figures_csv(card: &PenCard) -> String {
    let mut out = Table::new();
    let number = |v: Option<f64>| v.map_or(String::new(), |v| format!("{v:.4}"));
    out.row(&["figure", "at", "value", "unit", "spread", "number", "from", "to"]);
    for f in card.figures() {
        let n = f.number.map_or(String::new(), |n| n.to_string());
        let [from, to] = [0, 1].map(|k| number(f.interval.map(|i| i[k])));
        out.row(&[&f.figure, &f.at, &format!("{:.4}", f.value), &f.unit, &number(f.spread), &n, &from, &to]);
    }
    out.finish()
}
