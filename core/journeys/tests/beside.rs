//! What lies beside the sheet, what is marked by hand, and what else a sheet and a single scan tell.

use eddymist_calibrate::{PenCard, pen_card::Note, profile, quantiles::second_estimate};
use eddymist_formats::{LIMITS, images};
use eddymist_measure::{
    colour::linear,
    course::Patch,
    scan::{
        Scan,
        mark::{Mark, MarkKind, Marking},
    },
    sheet::{Marked, beside::BesideKind, layout::CellKind, read},
};
use eddymist_sim::{
    pens::{PENS, rule},
    scanner::{GreyScan, Scanner, scan},
    sheet::Truth,
    stylus::{HANDS, Hand, TABLETS, Tablet, warmup},
};

use eddymist_journeys::{light, reading, scanned, steel};

/// The picture on a wider bed, what lies there drawn by its coverage: 0 is the lid, 1 the thing (of its own lightness).
fn wider(g: &GreyScan, dpi: f64, mm: f64, thing: impl Fn(f64, f64) -> (f64, f64)) -> GreyScan {
    let k = dpi / 25.4;
    let width = g.width + (mm * k) as usize;
    let mut data = Vec::with_capacity(width * g.height);
    for y in 0..g.height {
        data.extend(&g.data[y * g.width..][..g.width]);
        for x in g.width..width {
            // Sixteen looks at a pixel and the optics' blur.
            let (mut sum, mut n) = (0.0, 0.0);
            for i in -3..=3 {
                for j in -3..=3 {
                    let (u, v) = (f64::from(i) * 0.45, f64::from(j) * 0.45);
                    let w = (-0.5 * (u * u + v * v) / 0.8).exp();
                    let (c, grey) = thing(((x - g.width) as f64 + 0.5 + u) / k, (y as f64 + 0.5 + v) / k);
                    sum += w * (238.0 * (1.0 - c) + grey * c);
                    n += w;
                }
            }
            // A lid and a card have grain too.
            let grain = ((x * 7919 + y * 104_729) % 13) as f64 / 4.0 - 1.5;
            data.push((sum / n + grain).clamp(0.0, 255.0) as u8);
        }
    }
    GreyScan { width, height: g.height, data }
}

/// A turned card with round corners (ISO/IEC 7810: 3.18 mm) and a printed band.
fn card(x: f64, y: f64) -> (f64, f64) {
    let (s, c) = 2.0f64.to_radians().sin_cos();
    // Its long side lies down the bed.
    let (x, y) = (x - 34.0, y - 120.0);
    let (u, v) = (c * y - s * x, c * x + s * y);
    let (dx, dy) = ((u.abs() - 0.5 * 85.60 + 3.18).max(0.0), (v.abs() - 0.5 * 53.98 + 3.18).max(0.0));
    let inside = dx.hypot(dy) <= 3.18;
    (f64::from(u8::from(inside)), if (8.0..16.0).contains(&v) { 60.0 } else { 170.0 })
}

/// A steel rule down the bed: graduations every millimetre, longer ones every five and ten.
fn steel_rule(x: f64, y: f64) -> (f64, f64) {
    let (x, y) = (x - 10.0 - 0.01 * (y - 140.0), y - 60.0);
    if !(0.0..25.0).contains(&x) || !(0.0..170.0).contains(&y) {
        return (0.0, 0.0);
    }
    let near = (y - y.round()).abs() < 0.09;
    let long = if (y.round() as i64) % 10 == 0 {
        7.0
    } else if (y.round() as i64) % 5 == 0 {
        5.0
    } else {
        3.4
    };
    (1.0, if near && x < long { 40.0 } else { 175.0 })
}

/// Rows and columns stretched apart from one another, as a scanner's carriage does.
fn stretched(g: &GreyScan, by: f64) -> GreyScan {
    let height = (g.height as f64 * by) as usize - 1;
    let row = |y: usize| {
        let at = (y as f64 / by).min((g.height - 2) as f64);
        let (i, t) = (at as usize, at - at.floor());
        // Light adds up, encoded values do not.
        let light = move |x: usize, row: usize| f64::from(linear(f32::from(g.data[row * g.width + x]) / 255.0));
        (0..g.width).map(move |x| {
            let v = light(x, i) * (1.0 - t) + light(x, i + 1) * t;
            (255.0 * if v <= 0.003_130_8 { 12.92 * v } else { 1.055 * v.powf(1.0 / 2.4) - 0.055 }).round() as u8
        })
    };
    GreyScan { width: g.width, height, data: (0..height).flat_map(row).collect() }
}

#[test]
fn a_card_or_a_rule_beside_the_sheet_gives_the_true_scale_of_each_axis() {
    let pen = &PENS[0];
    let width = |g: &GreyScan| {
        let r = reading(g, 300.0);
        (PenCard::from_sheet("x", &r, &[], Note::default()).widths_by_effort.expect("efforts")[2].width_mm, r)
    };
    // The scanner says 300 dpi and makes 303; down the bed half a per cent more.
    let (g, truth) = scanned(pen, 1.0, &Scanner::fair(303.0), 5);
    let want = truth.bodies.iter().filter(|b| b.0 == "effort-0.5").map(|b| Truth::middle(&b.2, 40.0)).sum::<f64>() / 6.0;
    let plain = stretched(&wider(&g, 303.0, 70.0, |_, _| (0.0, 0.0)), 1.005);
    let (off, r) = width(&plain);
    assert!(r.beside.is_none() && (off / want - 1.015).abs() < 0.006, "{off} {want}");
    let with_card = stretched(&wider(&g, 303.0, 70.0, card), 1.005);
    let (got, r) = width(&with_card);
    let beside = r.beside.expect("a card");
    assert_eq!(beside.kind, BesideKind::Card);
    assert!((beside.dpi[0] / 303.0 - 1.0).abs() < 0.0008 && (beside.dpi[1] / (303.0 * 1.005) - 1.0).abs() < 0.0008, "{:?}", beside.dpi);
    assert!((got - want).abs() < 0.004, "{got} {want}");
    assert!(r.printed_scale.iter().all(|s| (s - 1.0).abs() < 0.001), "{:?}", r.printed_scale);
    let with_rule = stretched(&wider(&g, 303.0, 70.0, steel_rule), 1.005);
    let (got, r) = width(&with_rule);
    let beside = r.beside.expect("a rule");
    assert!(beside.kind == BesideKind::Rule && (beside.dpi[1] / (303.0 * 1.005) - 1.0).abs() < 0.0008, "{beside:?}");
    assert!((got - want).abs() < 0.004, "{got} {want}");
    // Something else beside it is neither.
    let (_, r) = width(&wider(&g, 303.0, 70.0, |x, y| (f64::from(u8::from((x - 30.0).hypot(y - 100.0) < 24.0)), 150.0)));
    assert!(r.beside.is_none(), "{:?}", r.beside);
}

#[test]
fn a_cell_marked_by_hand_is_read_where_it_was_marked() {
    let g = steel(&Scanner::fair(300.0));
    let plain = reading(&g, 300.0);
    let found = |r: &eddymist_measure::sheet::SheetReading, id: &str| r.cells.iter().find(|c| c.id == id).cloned().expect("a cell");
    let cell = found(&plain, "effort-0.5");
    // Marked where it is: the same; two millimetres lower: lanes and lines no longer meet, and it says so.
    let moved = |mm: f64| Marked { id: cell.id.clone(), corners_px: cell.corners_px.map(|c| [c[0], c[1] + mm * 300.0 / 25.4]) };
    let at = |m: Marked| read(&light(&g, 300.0), &[m]).map(|r| found(&r.0, "effort-0.5"));
    let same = at(moved(0.0)).expect("a sheet");
    assert!(same.by_hand && !cell.by_hand && same.strokes.len() == cell.strokes.len());
    for (a, b) in same.strokes.iter().zip(&cell.strokes) {
        assert!((a.body.expect("a body").width_mm - b.body.expect("a body").width_mm).abs() < 1e-4);
    }
    assert!(at(moved(2.15)).expect("a sheet").strokes.len() < cell.strokes.len());
    // What is no area, or no cell, is refused.
    let flat = Marked { id: cell.id.clone(), corners_px: [[10.0, 10.0]; 4] };
    let other = Marked { id: "effort-0.6".into(), ..moved(0.0) };
    for bad in [flat, other, Marked { id: cell.id.clone(), corners_px: [[f64::NAN; 2]; 4] }] {
        assert!(read(&light(&g, 300.0), std::slice::from_ref(&bad)).is_err(), "{bad:?}");
    }
}

#[test]
fn hard_jpeg_is_said_and_light_jpeg_is_not() {
    let g = steel(&Scanner::fair(300.0));
    let warned = |quality: u8| {
        let mut bytes = Vec::new();
        let mut encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, quality);
        encoder.encode(&g.data, g.width as u32, g.height as u32, image::ExtendedColorType::L8).expect("a JPEG");
        let picture = images::scan(&bytes, Some(300.0), &LIMITS).expect("a picture");
        read(&picture, &[]).expect("a sheet").0.warnings.iter().any(|w| w.contains("JPEG"))
    };
    assert!(warned(15) && warned(40));
    assert!(!warned(92) && !warned(100));
}

#[test]
fn the_free_line_and_the_hatching_tell_what_they_are() {
    let pen = &PENS[3];
    let (g, _) = scanned(pen, 1.0, &Scanner::fair(300.0), 9);
    let r = reading(&g, 300.0);
    let card = PenCard::from_sheet("brush pen", &r, &[], Note::default());
    let free = card.free_line.clone().expect("a free line");
    // It was drawn between these efforts, by an effort that goes up and down evenly.
    let (low, high) = (pen.width(0.15), pen.width(0.75));
    assert!(free[0][1] > 0.95 * low && free[18][1] < 1.05 * high && free.windows(2).all(|w| w[1][1] >= w[0][1]), "{free:?} {low} {high}");
    assert!((free[0][1] / low - 1.0).abs() < 0.2 && (free[18][1] / high - 1.0).abs() < 0.1, "{free:?}");
    // Strokes of 0.7 of the normal width every 1.6 mm across, aslant by 2.4 in 18.
    let h = card.hatching.expect("hatching");
    let width = 0.7 * pen.width(0.5);
    let clear = 1.6 * (18.0 / 2.4f64.hypot(18.0)) - width;
    assert!((h.width / width - 1.0).abs() < 0.04 && (0.3 * clear..clear).contains(&h.clear), "{h:?} {width} {clear}");
    // The light falls by 0.08 · (0.6 u + 0.4 v²) over the page.
    assert!((r.shading.expect("shading") - 0.08).abs() < 0.012, "{:?}", r.shading);
    let ring = r.cells.iter().find(|c| c.kind == CellKind::Circle).expect("a circle");
    assert_eq!(ring.ring_px.len(), 2);
    let gap = |i: usize| (0..2).map(|k| (ring.ring_px[0][i][k] - ring.ring_px[1][i][k]).powi(2)).sum::<f64>().sqrt() * 25.4 / 300.0;
    assert!((0..ring.ring_px[0].len()).all(|i| (gap(i) / pen.width(0.5) - 1.0).abs() < 0.25));
    // The same free hand on paper and on a tablet: both estimates of the response agree; a hand that presses harder does not.
    let estimate = |hand: &Hand, tablet: &Tablet| {
        let w = warmup(hand, tablet, 3);
        second_estimate(&card, &profile(&w, "x").expect("a profile"), &w).expect("an estimate")
    };
    let hand = Hand { unsteady: 0.006, ..HANDS[0] };
    let agree = estimate(&hand, &TABLETS[0]);
    assert!(agree.disagreement < 0.06 && agree.says.contains("agree"), "{agree:?}");
    let w = warmup(&hand, &TABLETS[0], 3);
    let mut heavy = card.clone();
    heavy.free_line.iter_mut().flatten().for_each(|q| q[1] *= 1.6);
    let differ = second_estimate(&heavy, &profile(&w, "x").expect("a profile"), &w).expect("an estimate");
    assert!(differ.disagreement > 0.08 && differ.says.contains("harder on paper"), "{differ:?}");
    // What cannot tell says why.
    let refused = |c: &PenCard| second_estimate(c, &profile(&w, "x").expect("a profile"), &w).expect_err("no estimate").to_string();
    assert!(refused(&PenCard { free_line: None, ..card.clone() }).contains("free line"));
    assert!(refused(&PenCard { widths_by_effort: None, ..card.clone() }).contains("grow with effort"));
}

/// Parallel lines: coarseness is width over what is clear between them (definition of methods.md, section 4).
#[test]
fn coarseness_of_parallel_lines_is_width_over_the_clear_distance() {
    for (w, pitch, turn) in [(4.0, 12.0, 0.0f64), (6.0, 10.0, 0.4), (3.0, 24.0, 1.1)] {
        let (sin, cos) = turn.sin_cos();
        let coverage = (0..300 * 300)
            .map(|i| {
                let (x, y) = (f64::from(i % 300) + 0.5 - 150.0, f64::from(i / 300) + 0.5 - 150.0);
                let d = (c_rem(y * cos - x * sin, pitch)).abs();
                if x.hypot(y) < 120.0 { (0.5 + 0.5 * w - d).clamp(0.0, 1.0) as f32 } else { 0.0 }
            })
            .collect();
        let p = Patch { width: 300, height: 300, coverage };
        let c = p.coarseness(&p.lines(), 0.1).expect("lines");
        assert!((c.coarseness / (w / (pitch - w)) - 1.0).abs() < 0.06 && (c.width - 0.1 * w).abs() < 0.02, "{w} {pitch}: {c:?}");
    }
}

/// The distance to the nearest multiple.
fn c_rem(v: f64, pitch: f64) -> f64 {
    v - (v / pitch).round() * pitch
}

#[test]
fn flicks_and_dots_marked_on_any_scan_are_measured() {
    let pen = eddymist_sim::pens::Pen { lead_out_mm: 0.0, ..PENS[3] };
    let (dot, length, full) = (1.3, 9.0, 1.1);
    // A ruled line, three flicks aslant that run out along a parabola, and a dot.
    let mut ink = vec![rule(&pen, 0.5, [8.0, 8.0], 60.0, 3).outline];
    let flick = |x: f64, y: f64, turn: f64| {
        let (s, c) = f64::to_radians(turn).sin_cos();
        let n = 400;
        let half = |d: f64| 0.5 * full * if d < length { 1.0 - (1.0 - d / length).powi(2) } else { 1.0 };
        let at = |i: usize, side: f64| {
            let d = 16.0 * i as f64 / n as f64;
            let (u, v) = (16.0 - d, side * half(d));
            [x + c * u - s * v, y + s * u + c * v]
        };
        eddymist_ink::Outline { paths: vec![(0..=n).map(|i| at(i, -1.0)).chain((0..=n).rev().map(|i| at(i, 1.0))).collect()] }
    };
    ink.extend([flick(10.0, 20.0, 4.0), flick(40.0, 20.0, -6.0), flick(40.0, 30.0, 12.0)]);
    ink.push(eddymist_ink::Outline {
        paths: vec![(0..90).map(|i| f64::to_radians(4.0 * f64::from(i))).map(|a| [15.0 + 0.5 * dot * a.cos(), 40.0 + 0.5 * dot * a.sin()]).collect()],
    });
    let g = scan(&Scanner { shading: 0.15, ..Scanner::fair(600.0) }, &ink, [80.0, 50.0], 8);
    let picture = light(&g, 600.0);
    let marking = Marking::new(&picture).expect("a scan");
    let mm = |kind, x: f64, y: f64, w: f64, h: f64| Mark { kind, area: [x, y, w, h].map(|v| v * 600.0 / 25.4) };
    let level = Some(1.0 - 0.035 / 0.82);
    let out = |m: Mark| marking.read(&m, level);
    let flicks = [mm(MarkKind::FlickOut, 8.0, 16.0, 22.0, 8.0), mm(MarkKind::FlickOut, 37.0, 15.5, 22.0, 7.5), mm(MarkKind::FlickOut, 37.0, 27.5, 22.0, 8.0)];
    let strokes: Vec<_> = flicks.iter().map(|m| out(*m).expect("a flick")).collect();
    let read_dot = out(mm(MarkKind::Dot, 11.0, 36.0, 8.0, 8.0)).expect("a dot");
    assert!((read_dot.dot_mm.expect("a diameter") - dot).abs() < 0.012, "{read_dot:?}");
    let (m, _) = eddymist_measure::scan::measure(&picture).expect("lines");
    let mut card = PenCard::from_lines("x", &m, &vec![Some(0.5); m.lines.len()], Note::default());
    card.add_marks(&[&strokes[..], &[read_dot]].concat());
    let taper = card.lead_out.expect("a lead-out");
    // Nine tenths of 1 − (1 − d/L)² at d = L(1 − √0.1), half at L(1 − √0.5).
    assert!((taper.at_90_mm / (length * (1.0 - 0.1f64.sqrt())) - 1.0).abs() < 0.05 && taper.flicks == 3, "{taper:?}");
    assert!((taper.at_50_mm / (length * (1.0 - 0.5f64.sqrt())) - 1.0).abs() < 0.08, "{taper:?}");
    assert!(card.pooling.as_ref().is_some_and(|p| p.held_s.is_none() && p.ratio > 1.0));
    // A single one is enough for the law, and has no spread.
    card.lead_out = None;
    card.add_marks(&strokes[..1]);
    assert!(card.lead_out.is_some_and(|t| t.sd_mm.is_none() && t.flicks == 1));
    // Boxes that hold nothing, too much, or no flick say so.
    for (bad, says) in [
        (mm(MarkKind::Dot, 60.0, 40.0, 6.0, 6.0), "no ink"),
        (mm(MarkKind::FlickOut, 8.0, 16.0, 10.0, 8.0), "runs out"),
        (mm(MarkKind::FlickIn, 11.0, 36.0, 8.0, 8.0), "no flick"),
        (mm(MarkKind::Dot, 78.0, 48.0, 9.0, 9.0), "outside"),
        (Mark { kind: MarkKind::Dot, area: [f64::NAN; 4] }, "outside"),
    ] {
        let e = out(bad).expect_err("a refusal").to_string();
        assert!(e.contains(says), "{e}");
    }
}

/// The interval of raggedness holds the truth about as often as it says, and is narrower for a longer line.
#[test]
fn the_interval_of_raggedness_holds_the_truth() {
    let pen = eddymist_sim::pens::Pen { lead_out_mm: 0.0, waver: 0.0, ..PENS[2] };
    let (mut held, mut narrow, n) = (0, Vec::new(), 30u64);
    for seed in 0..n {
        let long = if seed % 2 == 0 { 25.0 } else { 70.0 };
        let g = scan(&Scanner::fair(1200.0), &[rule(&pen, 0.5, [6.0, 4.0], long, seed).outline], [long + 12.0, 8.0], seed);
        let data: Scan = light(&g, 1200.0);
        let (m, _) = eddymist_measure::scan::measure(&data).expect("a line");
        let i = m.lines[0].raggedness_interval_um.expect("an interval");
        held += u64::from(i[0] <= pen.raggedness_um && pen.raggedness_um <= i[1]);
        narrow.push((long, i[1] - i[0]));
        let b = m.lines[0].blurriness_interval_um.expect("an interval");
        assert!(m.lines[0].blurriness_um.is_some_and(|v| b[0] <= v && v <= b[1]));
    }
    let mean = |l: f64| narrow.iter().filter(|v| v.0 == l).map(|v| v.1).sum::<f64>() / 15.0;
    assert!(held * 10 >= n * 8, "{held} of {n}");
    assert!(mean(70.0) < 0.9 * mean(25.0), "{} {}", mean(70.0), mean(25.0));
}
