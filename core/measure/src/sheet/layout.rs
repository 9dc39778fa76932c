//! The plan of a sampler sheet: its cells, lanes and marks in mm of the page.
//!
//! One plan for paper and for blank pixels; what is printed lies outside of what is measured. The marks' text names the sheet's kind and number.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/sampler-sheet";
/// Side of a corner mark, and of one of its modules (QR version 1 has 21), mm.
pub const MARK_MM: f64 = 15.75;
/// The block that holds everything, centred on the page, mm.
pub const BLOCK_MM: [f64; 2] = [190.0, 262.0];
/// The corner marks' kinds: sheets without bars at their sides, which are read as ever, and sheets with them.
const KINDS: [&str; 2] = ["EM1", "EM2"];
/// Thicknesses of the printed bars, mm.
pub const BARS_MM: [f64; 4] = [0.25, 0.5, 1.0, 2.0];

/// What the sheet is made for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Paper {
    A4,
    Letter,
}

impl Paper {
    /// Width and height, mm (ISO 216; ANSI/ASME Y14.1 A).
    pub fn size_mm(self) -> [f64; 2] {
        match self {
            Self::A4 => [210.0, 297.0],
            Self::Letter => [215.9, 279.4],
        }
    }

    fn code(self) -> &'static str {
        match self {
            Self::A4 => "A4",
            Self::Letter => "LT",
        }
    }
}

/// What a corner mark carries: whether the sheet has bars, the paper, the sheet's number, and which corner it stands in (clockwise from top
/// left).
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MarkText {
    pub bars: bool,
    pub paper: Paper,
    pub number: String,
    pub corner: usize,
}

impl MarkText {
    /// The text in the QR mark, in its alphanumeric set.
    pub fn encode(&self) -> String {
        format!("{}.{}.{}.{}", KINDS[usize::from(self.bars)], self.paper.code(), self.number, self.corner + 1)
    }

    /// Reads a mark's text; none for a mark that is not ours.
    pub fn decode(text: &str) -> Option<Self> {
        let [kind, paper, number, corner] = text.split('.').collect::<Vec<_>>()[..] else { return None };
        let paper = [Paper::A4, Paper::Letter].into_iter().find(|p| p.code() == paper)?;
        let corner = corner.parse::<usize>().ok()?.checked_sub(1).filter(|c| *c < 4)?;
        let bars = KINDS.iter().position(|k| *k == kind)? == 1;
        is_number(number).then(|| Self { bars, paper, number: number.into(), corner })
    }
}

/// Six capitals or digits.
pub fn is_number(s: &str) -> bool {
    s.len() == 6 && s.bytes().all(|b| b.is_ascii_uppercase() || b.is_ascii_digit())
}

/// A sheet's number from a seed: letters and digits that are not taken for one another.
pub fn number_from(seed: u64) -> String {
    const SET: &[u8] = b"23456789ABCDEFGHJKLMNPQRSTUVWXYZ";
    let mut s = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ (seed >> 31);
    (0..6)
        .map(|_| {
            s = s.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            char::from(SET[(s >> 59) as usize])
        })
        .collect()
}

/// What a cell shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum CellKind {
    Effort,
    Pace,
    Ramp,
    FlickOut,
    FlickIn,
    Fan,
    Circle,
    Dot,
    Hatching,
    Solid,
    Signature,
}

/// One stroke asked for: from where to where, and how far to either side its lane reaches, mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Slot {
    pub from: [f64; 2],
    pub to: [f64; 2],
    pub reach: f64,
}

/// A cell of the sheet.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Cell {
    /// Such as `effort-0.25`.
    pub id: String,
    pub kind: CellKind,
    pub title: String,
    pub instruction: String,
    /// Left, top, width and height.
    pub area: [f64; 4],
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effort: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pace: Option<String>,
    /// Seconds that one stroke lasts, or that a dot is held, by a beat of 60 a minute.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f64>,
    pub strokes: Vec<Slot>,
}

/// A printed bar of known thickness, by the ends of its middle line, mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Bar {
    pub from: [f64; 2],
    pub to: [f64; 2],
    pub width_mm: f64,
}

/// The sampler sheet's plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct SheetPlan {
    /// Always `eddymist/sampler-sheet`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub paper: Paper,
    pub size_mm: [f64; 2],
    pub number: String,
    /// Top left corners of the four marks, clockwise from the top left one.
    pub marks: [[f64; 2]; 4],
    pub mark_mm: f64,
    pub cells: Vec<Cell>,
    /// Bars at both sides, by which the widths in a photo are corrected; none on a sheet of the first kind.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bars: Vec<Bar>,
}

/// Height of the band at a cell's top that holds its words.
pub const HEAD_MM: f64 = 5.0;
/// Radii between which the fan's rays are measured (they are drawn from a ring of ticks further in), and the circle's, mm.
pub const RAY_MM: [f64; 2] = [16.5, 25.5];
/// Where they begin.
pub const HUB_MM: f64 = 6.5;
pub const RING_MM: f64 = 18.0;
pub const RAYS: usize = 24;
/// Side of the solid patch.
pub const SOLID_MM: f64 = 14.0;

const EFFORTS: [(f64, &str, &str); 5] = [
    (0.0, "feather", "six lines, as light as you can control"),
    (0.25, "light", "six lines, lightly"),
    (0.5, "normal", "six lines, as you usually draw"),
    (0.75, "firm", "six lines, firmly"),
    (1.0, "hardest", "six lines, as hard as is comfortable"),
];

/// The plan of a sheet of the first kind, which has no bars.
pub fn plan_without_bars(paper: Paper, number: &str) -> SheetPlan {
    SheetPlan { bars: Vec::new(), ..plan(paper, number) }
}

/// Bars at both sides: five groups one under the other, each of every thickness.
fn bars(o: [f64; 2]) -> Vec<Bar> {
    let clear = 2.6;
    let mut out = Vec::new();
    for x in [-4.3, BLOCK_MM[0] + 1.3] {
        for group in 0..5 {
            let mut y = o[1] + 28.0 + 45.0 * f64::from(group);
            for width_mm in BARS_MM {
                y += 0.5 * width_mm;
                out.push(Bar { from: [o[0] + x, y], to: [o[0] + x + 3.0, y], width_mm });
                y += 0.5 * width_mm + clear;
            }
        }
    }
    out
}

/// The plan of a sheet on this paper.
pub fn plan(paper: Paper, number: &str) -> SheetPlan {
    let size = paper.size_mm();
    let o = [0.5 * (size[0] - BLOCK_MM[0]), 0.5 * (size[1] - BLOCK_MM[1])];
    let far = [BLOCK_MM[0] - MARK_MM, BLOCK_MM[1] - MARK_MM];
    let marks = [[0.0, 0.0], [far[0], 0.0], far, [0.0, far[1]]].map(|m| [m[0] + o[0], m[1] + o[1]]);
    let mut cells = Vec::new();
    // Rows of horizontal strokes in a cell, from x to x, the first one `first` under the head.
    let rows = |area: [f64; 4], x: [f64; 2], n: usize, first: f64, pitch: f64| -> Vec<Slot> {
        (0..n)
            .map(|i| {
                let y = area[1] + HEAD_MM + first + pitch * i as f64;
                Slot { from: [area[0] + x[0], y], to: [area[0] + x[1], y], reach: 0.48 * pitch }
            })
            .collect()
    };
    let mut add = |id: String, kind, title: &str, instruction: &str, area: [f64; 4], strokes: Vec<Slot>| {
        let at = |p: [f64; 2]| [p[0] + o[0], p[1] + o[1]];
        cells.push(Cell {
            id,
            kind,
            title: title.into(),
            instruction: instruction.into(),
            area: [area[0] + o[0], area[1] + o[1], area[2], area[3]],
            effort: None,
            pace: None,
            seconds: None,
            strokes: strokes.into_iter().map(|s| Slot { from: at(s.from), to: at(s.to), ..s }).collect(),
        });
        cells.len() - 1
    };
    // Effort, pace and seconds of the cells that have them.
    type Meant = (usize, Option<f64>, Option<&'static str>, Option<f64>);
    let mut set: Vec<Meant> = Vec::new();
    for (i, (effort, title, words)) in EFFORTS.into_iter().enumerate() {
        // The heavier lines have more room.
        let (top, high, pitch) = if i < 3 { (19.0 + 32.0 * i as f64, 31.2, 4.3) } else { (115.0 + 37.8 * (i - 3) as f64, 37.0, 5.3) };
        let area = [0.0, top, 76.0, high];
        let k = add(format!("effort-{effort}"), CellKind::Effort, title, words, area, rows(area, [5.0, 71.0], 6, 0.5 * pitch, pitch));
        set.push((k, Some(effort), None, None));
    }
    for (i, (pace, words, seconds)) in
        [("slow", "four beats a line, at 60 beats a minute", 4.0), ("normal", "one beat a line", 1.0), ("fast", "two lines a beat", 0.5)]
            .into_iter()
            .enumerate()
    {
        let area = [0.0, 190.6 + 17.9 * i as f64, 76.0, 17.3];
        let title = format!("{pace} pace");
        let k = add(format!("pace-{pace}"), CellKind::Pace, &title, words, area, rows(area, [5.0, 71.0], 3, 1.9, 3.9));
        set.push((k, Some(0.5), Some(pace), Some(seconds)));
    }
    let area = [80.0, 19.0, 110.0, 37.0];
    add("ramp".into(), CellKind::Ramp, "ramps", "feather, hardest at the middle mark, feather again", area, rows(area, [5.0, 105.0], 4, 4.0, 7.8));
    let two = |area: [f64; 4], x: [[f64; 2]; 2]| x.into_iter().flat_map(|x| rows(area, x, 5, 3.2, 6.2)).collect::<Vec<_>>();
    let area = [80.0, 58.0, 54.0, 37.0];
    add("flick-out".into(), CellKind::FlickOut, "flicks out", "lift while moving", area, two(area, [[3.5, 26.0], [30.5, 53.0]]));
    let area = [136.0, 58.0, 54.0, 37.0];
    add("flick-in".into(), CellKind::FlickIn, "flicks in", "land while moving", area, two(area, [[1.0, 23.5], [28.0, 50.5]]));
    let area = [80.0, 97.0, 54.0, 58.0];
    let mid = [107.0, 128.5];
    let rays = (0..RAYS)
        .map(|k| {
            let a = std::f64::consts::TAU * k as f64 / RAYS as f64;
            let at = |r: f64| [mid[0] + r * a.cos(), mid[1] - r * a.sin()];
            Slot { from: at(RAY_MM[0]), to: at(RAY_MM[1]), reach: 2.1 }
        })
        .collect();
    add("fan".into(), CellKind::Fan, "fan", "outward, normal effort", area, rays);
    let area = [136.0, 97.0, 54.0, 58.0];
    let ring = vec![Slot { from: [163.0, 128.5], to: [163.0 + RING_MM, 128.5], reach: 3.0 }];
    add("circle".into(), CellKind::Circle, "circle", "inside the ticks, in one go", area, ring);
    let area = [80.0, 157.0, 110.0, 17.0];
    let dots = (0..8).map(|i| [86.0 + 14.0 * f64::from(i), 168.5]).map(|p| Slot { from: p, to: p, reach: 4.0 }).collect();
    let k = add("dot".into(), CellKind::Dot, "dots", "under each tick, normal effort, held for two beats", area, dots);
    set.push((k, Some(0.5), None, Some(2.0)));
    let area = [80.0, 176.0, 54.0, 36.0];
    add("hatching".into(), CellKind::Hatching, "hatching", "as in a drawing", area, vec![Slot { from: [84.0, 197.0], to: [130.0, 197.0], reach: 13.0 }]);
    let area = [136.0, 176.0, 54.0, 36.0];
    add(
        "solid".into(),
        CellKind::Solid,
        "solid",
        "fill the square",
        area,
        vec![Slot { from: [163.0 - 0.5 * SOLID_MM, 196.5], to: [163.0 + 0.5 * SOLID_MM, 196.5], reach: 0.5 * SOLID_MM }],
    );
    let area = [80.0, 214.0, 110.0, 29.0];
    add(
        "signature".into(),
        CellKind::Signature,
        "free line",
        "whatever the pen likes best",
        area,
        vec![Slot { from: [83.0, 231.0], to: [187.0, 231.0], reach: 11.0 }],
    );
    for (k, effort, pace, seconds) in set {
        cells[k].effort = effort;
        cells[k].pace = pace.map(Into::into);
        cells[k].seconds = seconds;
    }
    SheetPlan { format: FORMAT.into(), version: 1, paper, size_mm: size, number: number.into(), marks, mark_mm: MARK_MM, cells, bars: bars(o) }
}
