//! Sampler sheets inked, printed and scanned by stand-ins whose laws are not those that are fitted, good ones and bad ones.
//! The bounds are those of methods.md, section 2; `eddymist-bench sheets 200` gives the whole table.

use eddymist_calibrate::{
    PenCard,
    pen_card::{CardNib, Note},
};
use eddymist_formats::{LIMITS, images, pen_sheet, sheet as files};
use eddymist_ink::Outline;
use eddymist_measure::{
    sheet::{
        SheetError, SheetReading,
        layout::{CellKind, MarkText, Paper, SheetPlan, plan},
        read,
    },
    stats::median,
};
use eddymist_sim::{
    pens::PENS,
    scanner::{GreyScan, Scanner, scan},
    sheet::{Truth, ways},
};

use eddymist_journeys::{NUMBER, light, reading, scanned, steel};

#[test]
fn every_pen_comes_back_as_it_is() {
    for (i, pen) in PENS.iter().enumerate() {
        let turn_deg = 4.0 - 2.0 * i as f64;
        let (g, truth) = scanned(pen, 0.97, &Scanner { turn_deg, shading: 0.2, ..Scanner::fair(300.0) }, i as u64);
        let r = reading(&g, 300.0);
        let card = PenCard::from_sheet(pen.name, &r, &[], Note::default());
        assert_eq!((r.plan.number.as_str(), r.marks), (NUMBER, 4));
        assert!((r.turn_deg - turn_deg).abs() < 0.05 && r.printed_scale.iter().all(|s| (s - 0.97).abs() < 0.001), "{} {:?}", r.turn_deg, r.printed_scale);
        assert!(r.warnings.iter().any(|w| w.starts_with("printed at 97.0 %")), "{:?}", r.warnings);
        // 4 µm at 300 dpi or half a per cent.
        let (mut within, mut all) = (0, 0);
        for (id, slot, widths) in truth.bodies.iter().filter(|b| b.0 != "fan") {
            let stroke = r.cells.iter().find(|c| c.id == *id).and_then(|c| c.strokes.iter().find(|s| s.slot as usize == *slot));
            let Some(b) = stroke.and_then(|s| s.body) else { continue };
            let want = Truth::middle(widths, b.from_mm);
            all += 1;
            within += usize::from((b.width_mm - want).abs() <= f64::max(0.004, 0.005 * want));
        }
        assert!(all >= 36 && within * 20 >= all * 19, "{}: {within} of {all}", pen.id);
        for (taper, seen) in [card.lead_out, card.lead_in].into_iter().zip(&truth.at_90) {
            let (got, want) = (taper.expect("flicks").at_90_mm, median(seen).expect("flicks"));
            assert!((got - want).abs() <= 0.08 * want, "{}: {got} for {want}", pen.id);
        }
        let w = ways(pen);
        match card.nib.expect("a nib") {
            CardNib::Ellipse { angle_deg, .. } => assert!((angle_deg - w.nib_angle_deg().expect("a flat nib")).abs() < 1.0),
            CardNib::Spring { pull_deg, .. } => assert!(w.opens > 0.0 && (pull_deg - w.pull_deg).abs() < 5.0),
            CardNib::Round { .. } => assert!(w.opens == 0.0 && w.nib_angle_deg().is_none()),
        }
        // Common-practice facts: harder presses draw wider, fast strokes run thin, ink pools where a pen stops.
        let by_effort = card.widths_by_effort.expect("efforts");
        assert!(by_effort[4].width_mm > by_effort[0].width_mm);
        let pace = card.widths_by_pace.expect("paces");
        assert!(pace[2].speed_mm_s > 7.0 * pace[0].speed_mm_s && (w.pace == [1.0; 2] || pace[2].width_mm < pace[0].width_mm));
        let dots = median(&truth.dots_mm).expect("dots") / pen.width(0.5);
        assert!((card.pooling.expect("dots").ratio / dots - 1.0).abs() < 0.06 && dots > w.dot);
    }
}

/// Turned by a right angle, by half a turn or mirrored onto another file: the same pen.
#[test]
fn a_sheet_may_lie_any_way_round() {
    let g = steel(&Scanner::fair(300.0));
    let card = |g: &GreyScan| PenCard::from_sheet("x", &reading(g, 300.0), &[], Note::default());
    let upright = card(&g);
    let around = GreyScan { data: g.data.iter().rev().copied().collect(), ..g.clone() };
    let side = GreyScan {
        width: g.height,
        height: g.width,
        data: (0..g.width).flat_map(|x| (0..g.height).rev().map(move |y| (x, y))).map(|(x, y)| g.data[y * g.width + x]).collect(),
    };
    for turned in [around, side] {
        let other = card(&turned);
        for (a, b) in upright.widths_by_effort.iter().flatten().zip(other.widths_by_effort.iter().flatten()) {
            assert!((a.width_mm - b.width_mm).abs() < 0.002, "{} {}", a.width_mm, b.width_mm);
        }
    }
}

fn paint(g: &mut GreyScan, f: impl Fn(f64, f64, u8) -> u8) {
    let (w, k) = (g.width, 300.0 / 25.4);
    for (i, v) in g.data.iter_mut().enumerate() {
        *v = f((i % w) as f64 / k, (i / w) as f64 / k, *v);
    }
}

#[test]
fn what_is_wrong_with_a_sheet_is_said_and_the_rest_is_read() {
    let good = steel(&Scanner::fair(300.0));
    let cell = |r: &SheetReading, id: &str| r.cells.iter().find(|c| c.id == id).cloned().expect("a cell");
    // A coffee ring over the cell of the ramps.
    let mut coffee = good.clone();
    paint(&mut coffee, |x, y, v| if (x - 150.0).hypot(y - 55.0) < 25.0 { (f64::from(v) * 0.8) as u8 } else { v });
    let r = reading(&coffee, 300.0);
    assert!(cell(&r, "ramp").says.iter().any(|s| s.contains("stain")), "{:?}", cell(&r, "ramp").says);
    assert_eq!(cell(&r, "effort-0.5").strokes.len(), 6);
    // A drop of ink on a light line: that line is left out, and what is left is as without it.
    let mut drop = good.clone();
    paint(&mut drop, |x, y, v| if (x - 50.0).hypot(y - 80.0) < 1.2 { 25 } else { v });
    let (r, clean) = (reading(&drop, 300.0), reading(&good, 300.0));
    let light = cell(&r, "effort-0.25");
    assert!(light.strokes.len() == 5 && light.says.iter().any(|s| s.contains("blot")), "{:?}", light.says);
    let mean = |r: &SheetReading| {
        let widths: Vec<f64> = cell(r, "effort-0.25").strokes.iter().filter(|s| s.slot != 1).filter_map(|s| Some(s.body?.width_mm)).collect();
        widths.iter().sum::<f64>() / widths.len() as f64
    };
    assert!((mean(&r) / mean(&clean) - 1.0).abs() < 1e-3, "{} {}", mean(&r), mean(&clean));
    // Two corners torn off.
    let mut torn = good.clone();
    paint(&mut torn, |x, y, v| if y < 35.0 && !(40.0..170.0).contains(&x) { 230 } else { v });
    let r = reading(&torn, 300.0);
    assert!(r.marks == 2 && r.warnings.iter().any(|w| w.starts_with("2 of the four")) && cell(&r, "effort-0.5").strokes.len() == 6);
    // Cut off below the fan.
    let rows = good.height * 60 / 100;
    let cut = GreyScan { width: good.width, height: rows, data: good.data[..rows * good.width].to_vec() };
    let r = reading(&cut, 300.0);
    assert!(cell(&r, "pace-fast").strokes.is_empty() && cell(&r, "pace-fast").says.iter().any(|s| s.contains("outside")));
    // One-bit, and sharpened.
    let mut bits = good.clone();
    paint(&mut bits, |_, _, v| if v > 127 { 255 } else { 0 });
    assert!(reading(&bits, 300.0).warnings.iter().any(|w| w.contains("one-bit")));
    let mut sharp = good.clone();
    let from = |x: usize, y: usize| i32::from(good.data[y * good.width + x]);
    for y in 1..good.height - 1 {
        for x in 1..good.width - 1 {
            let around = from(x - 1, y) + from(x + 1, y) + from(x, y - 1) + from(x, y + 1);
            sharp.data[y * good.width + x] = (from(x, y) * 3 - around / 2).clamp(0, 255) as u8;
        }
    }
    assert!(reading(&sharp, 300.0).warnings.iter().any(|w| w.contains("sharpened")), "{:?}", reading(&sharp, 300.0).warnings);
    assert!(!reading(&good, 300.0).warnings.iter().any(|w| w.contains("sharpened") || w.contains("one-bit")));
}

#[test]
fn what_is_no_sheet_is_refused_with_what_to_do() {
    let good = steel(&Scanner::fair(300.0));
    assert!(matches!(read(&light(&good, 600.0), &[]), Err(SheetError::Resolution { likely, .. }) if (likely - 300.0).abs() < 2.0));
    assert!(matches!(read(&light(&good, 50.0), &[]), Err(SheetError::Range(_))));
    let plan = plan(Paper::A4, NUMBER);
    let blank = scan(&Scanner::fair(300.0), &files::drawing(&plan), plan.size_mm, 1);
    assert!(matches!(read(&light(&blank, 300.0), &[]), Err(SheetError::Blank)), "{:?}", read(&light(&blank, 300.0), &[]));
    let nothing = scan(&Scanner::fair(300.0), &Vec::<Outline>::new(), plan.size_mm, 1);
    assert!(matches!(read(&light(&nothing, 300.0), &[]), Err(SheetError::NoMarks)));
    let mut one = good.clone();
    paint(&mut one, |x, y, v| if x > 100.0 || y > 60.0 { 230 } else { v });
    assert!(matches!(read(&light(&one, 300.0), &[]), Err(SheetError::OneMark)), "{:?}", read(&light(&one, 300.0), &[]).map(|r| r.0.marks));
}

/// Blank pixels inked by another program's aliased black: no scanner between.
#[test]
fn blank_pixels_inked_come_back_through_the_same_door() {
    let plan: SheetPlan = plan(Paper::Letter, "ABC234");
    let dpi = 300.0;
    for bytes in [files::png(&plan, dpi).expect("a PNG"), files::ora(&plan, dpi).expect("an OpenRaster file")] {
        assert_eq!(pen_sheet::read(&bytes, &Default::default(), &[], &LIMITS).expect_err("nothing is inked").to_string(), SheetError::Blank.to_string());
    }
    let picture = images::scan(&files::png(&plan, dpi).expect("a PNG"), None, &LIMITS).expect("a picture");
    assert_eq!((picture.dpi.round(), picture.width), (300.0, 2550));
    let mut inked = picture.clone();
    let k = dpi / 25.4;
    for cell in plan.cells.iter().filter(|c| c.kind == CellKind::Effort) {
        for s in &cell.strokes {
            for y in ((s.from[1] * k) as usize)..((s.from[1] * k) as usize + 6) {
                inked.data[y * inked.width..][(s.from[0] * k) as usize..(s.to[0] * k) as usize].fill(0.0);
            }
        }
    }
    let card = PenCard::from_sheet("x", &read(&inked, &[]).expect("a sheet").0, &[], Note::default());
    for w in card.widths_by_effort.expect("efforts") {
        assert!((w.width_mm - 6.0 / k).abs() < 0.004 && w.lines == 6, "{w:?}");
    }
    assert!(card.lead_out.is_none() && card.pooling.is_none() && card.widths_by_pace.is_none());
}

#[test]
fn marks_carry_their_sheet() {
    for (corner, bars) in (0..4).flat_map(|c| [(c, false), (c, true)]) {
        let mark = MarkText { bars, paper: Paper::Letter, number: NUMBER.into(), corner };
        assert_eq!(MarkText::decode(&mark.encode()), Some(mark));
    }
    for wrong in ["", "EM1.A4.7K2M9Q.5", "EM1.A4.7K2M9Q.0", "EM1.A4.7k2m9q.1", "EM3.A4.7K2M9Q.1", "EM1.A4.7K2M9Q", "EM1.A5.7K2M9Q.1"] {
        assert_eq!(MarkText::decode(wrong), None, "{wrong}");
    }
    // The plan keeps its cells apart and on the page, and its strokes inside their cells.
    for paper in [Paper::A4, Paper::Letter] {
        let p = plan(paper, NUMBER);
        for (i, c) in p.cells.iter().enumerate() {
            let [x, y, w, h] = c.area;
            assert!(x > 5.0 && y > 5.0 && x + w < p.size_mm[0] - 5.0 && y + h < p.size_mm[1] - 5.0);
            for q in c.strokes.iter().flat_map(|s| [s.from, s.to]) {
                assert!(q[0] > x && q[0] < x + w && q[1] > y && q[1] < y + h, "{}", c.id);
            }
            for o in &p.cells[i + 1..] {
                let [u, v, k, l] = o.area;
                assert!(x + w <= u || u + k <= x || y + h <= v || v + l <= y, "{} {}", c.id, o.id);
            }
        }
    }
}
