//! Whole pens matched on simulated hands and tablets whose laws are not those that are fitted: methods.md, section 4.

use std::collections::BTreeMap;

use eddymist_calibrate::{
    Exercise, Match, PenCard, Verdict, WarmUp, fit,
    lanes::{Align, PenLine, lane, mean_autocorrelation, nearest},
    matching::Part,
    pen_card::{CardNib, Note},
    profile,
};
use eddymist_ink::{
    Brush, Inker, Sample, Stroke,
    brush::{Edge, Nib, NibShape, Taper},
};
use eddymist_sim::{
    pens::{PENS, Pen},
    scanner::Scanner,
    stylus::{HANDS, Hand, TABLETS, warmup},
};

use eddymist_journeys::{reading, scanned, scanned_by};

fn card(pen: usize) -> PenCard {
    let (g, _) = scanned(&PENS[pen], 1.0, &Scanner::fair(300.0), 20 + pen as u64);
    PenCard::from_sheet(PENS[pen].name, &reading(&g, 300.0), &[], Note::default())
}

fn matched(card: &PenCard, w: &WarmUp, locked: &[Part], start: Option<&Brush>) -> Match {
    fit(card, Some(w), Some(&profile(w, "x").expect("a profile")), start, locked).expect("a fit")
}

fn verdict(m: &Match, part: Part) -> Verdict {
    m.parts.iter().find(|p| p.part == part).unwrap_or_else(|| panic!("{part:?}")).verdict
}

/// All eight parts of five pens on two tablets, too few lines never counted as good: how many are alike, how many cannot be matched for
/// a reason that is said, and none told from the pen. A lead-in that no landing shows is said to be too few.
#[test]
fn a_sheet_and_a_warm_up_make_a_brush_that_is_that_pen() {
    let tablets: Vec<WarmUp> = [0, 1].map(|t| warmup(&HANDS[0], &TABLETS[t], 3)).to_vec();
    let mut table: BTreeMap<&str, [u32; 4]> = BTreeMap::new();
    for (i, pen) in PENS.iter().enumerate() {
        let c = card(i);
        for w in &tablets {
            let m = matched(&c, w, &[], None);
            // Each part once, what differs first.
            assert_eq!(m.parts.len(), 8);
            for (part, name) in Part::compared() {
                let p = m.parts.iter().find(|p| p.part == part).unwrap_or_else(|| panic!("{name} of {}", pen.name));
                table.entry(name).or_default()[p.verdict as usize] += 1;
                assert!(!p.says.is_empty() && !p.measured.is_empty(), "{name} of {}", pen.name);
                if p.verdict == Verdict::CannotBeMatched {
                    assert!(p.says.contains("tablet") || p.says.contains("hand"), "{name} of {}: {}", pen.name, p.says);
                }
            }
            // A steady hand's lines are too even for any pen: chance makes up for it.
            assert!(m.brush.chance.is_some_and(|j| j.spread > 0.003 && j.spread < 0.2), "{}: {:?}", pen.name, m.brush.chance);
            match pen.id {
                "chisel" => assert_eq!(m.brush.nib.shape, NibShape::Ellipse),
                "steel-nib" => assert_eq!(m.brush.nib.shape, NibShape::Spring),
                _ => {}
            }
        }
    }
    println!("part: alike, differs, too few, cannot be matched\n{table:#?}");
    let alike = |name: &str| table[name][Verdict::Alike as usize];
    // What steadies an edge makes a hand that slows down run out longer: two of the fineliner's flicks cannot be matched for it.
    for (name, least) in [("weight", 10), ("nib", 8), ("pooling", 8), ("pace", 10), ("edge", 8), ("lead-out", 5), ("lead-in", 10), ("steadiness", 10)] {
        assert!(alike(name) >= least, "{name}: alike {} of 10, {least} are wanted", alike(name));
    }
    let differs: u32 = table.values().map(|v| v[Verdict::Differs as usize]).sum();
    assert!(differs == 0, "{table:?}");
    // A warm-up of before has no landings.
    let mut before = tablets[0].clone();
    before.groups.retain(|g| g.exercise != eddymist_calibrate::Exercise::Landing);
    let m = matched(&card(2), &before, &[], None);
    let lead_in = m.parts.iter().find(|p| p.part == Part::LeadIn).expect("the part");
    assert!(lead_in.verdict == Verdict::TooFew && lead_in.says.contains("no stroke that lands"), "{lead_in:?}");
}

/// A hand that presses harder where it pulls makes every pen look like a spring: the brush is not made to do again what the hand does already, and a
/// real spring keeps its own opening.
#[test]
fn what_the_hand_pulls_is_not_the_nibs() {
    for (pen, pull) in [(3, 0.1), (2, 0.06)] {
        let hand = Hand { pull, ..HANDS[0] };
        let even = Pen { spread: 0.025, ..PENS[pen] };
        let (g, _) = scanned_by(&even, 1.0, pull, &Scanner::fair(300.0), 40 + pen as u64);
        let c = PenCard::from_sheet(PENS[pen].name, &reading(&g, 300.0), &[], Note::default());
        let w = warmup(&hand, &TABLETS[0], 9);
        let m = matched(&c, &w, &[], None);
        let (nib, told) = (&m.brush.nib, m.parts.iter().find(|p| p.part == Part::Nib).expect("the part"));
        println!("{}: card {:?}, brush {:?} {:?}, {:?} {}", PENS[pen].name, c.nib, nib.shape, nib.opening_mm, told.verdict, told.says);
        assert!(m.assumed.iter().any(|a| a.contains("presses harder toward")), "{:?}", m.assumed);
        assert_eq!(told.verdict, Verdict::Alike, "{}", told.says);
        if pen == 3 {
            assert_eq!(nib.shape, NibShape::Round);
            continue;
        }
        // Had the card's spring been taken as it is, it would open further, and the hand would pull twice.
        let Some(CardNib::Spring { opening_mm, pull_deg, .. }) = c.nib else { panic!("{:?}", c.nib) };
        assert!(nib.shape == NibShape::Spring && nib.opening_mm.is_some_and(|o| o < 0.9 * opening_mm), "{:?} of {opening_mm}", nib.opening_mm);
        let mut twice = m.brush.clone();
        (twice.nib.opening_mm, twice.nib.pull_deg) = (Some(opening_mm), Some(pull_deg));
        let m = matched(&c, &w, &[Part::Nib], Some(&twice));
        let off = |m: &Match| m.parts.iter().find(|p| p.part == Part::Nib).and_then(|p| p.difference).expect("a difference");
        assert!(verdict(&m, Part::Nib) != Verdict::Alike && off(&m) > 0.6, "{}", off(&m));
    }
}

/// What the lanes show and what the verdict says are one thing: a brush that is a tenth too heavy is so in the lane of every effort, once what the hand
/// did otherwise on the stroke that is shown is taken off, and the lane says what that is.
#[test]
fn a_lane_shows_what_the_verdict_says() {
    let (w, steel) = (warmup(&HANDS[1], &TABLETS[1], 11), card(2));
    let response = profile(&w, "x").expect("a profile").curve().expect("a curve");
    let fitted = matched(&steel, &w, &[], None).brush;
    for by in [0.89, 1.0, 1.11] {
        let brush = Brush { weight: fitted.weight.iter().map(|k| [k[0], by * k[1]]).collect(), lead_in: None, lead_out: None, ..fitted.clone() };
        let m = matched(&steel, &w, &[Part::Weight], Some(&brush));
        assert_eq!(verdict(&m, Part::Weight) == Verdict::Differs, by != 1.0, "{by}");
        let inker = Inker::new(&Brush { chance: None, edge: Edge::default(), ..brush }, Some(response.clone()), None).expect("inkable");
        for pen in steel.widths_by_effort.iter().flatten().filter(|p| p.effort <= response.value(1.0)) {
            let strokes: Vec<&Stroke> = w.efforts().filter(|s| (s.0 - pen.effort).abs() < 1e-6).map(|s| s.1).collect();
            let shown = nearest(strokes.iter().copied(), &inker, pen.effort);
            let l = lane(Some(&pen_line(60.0, |_| pen.width_mm)), shown, &inker, Align::Body).with_press(shown, &inker, pen.effort);
            let owed = l.pressed.map_or(0.0, |p| p.wider);
            assert!((l.brush_mm / pen.width_mm / (1.0 + owed) - by).abs() < 0.03, "{by} at {}: {} of {}, {owed}", pen.effort, l.brush_mm, pen.width_mm);
        }
    }
}

/// What is locked stays as it is and is checked as it is; what is unlocked is fitted beside it.
#[test]
fn locked_parts_stay_and_are_told_from_the_pen() {
    let w = warmup(&HANDS[0], &TABLETS[0], 3);
    let all = Part::ALL.map(|p| p.0);
    let chisel = card(4);
    let fitted = matched(&chisel, &w, &[], None).brush;
    let round = Brush { nib: Nib::round(), ..fitted.clone() };
    let m = matched(&chisel, &w, &[Part::Nib], Some(&round));
    assert_eq!((m.brush.nib.shape, verdict(&m, Part::Nib)), (NibShape::Round, Verdict::Differs));
    let brush_pen = card(3);
    let plain = Brush {
        pace: None,
        pooling: None,
        lead_out: None,
        chance: None,
        edge: Edge { raggedness_um: 200.0, ..Edge::default() },
        ..matched(&brush_pen, &w, &[], None).brush
    };
    let m = matched(&brush_pen, &w, &all, Some(&plain));
    assert_eq!(m.brush, plain);
    // A steady hand with no chance in the brush draws too evenly, and is told so.
    assert_eq!(verdict(&m, Part::Steadiness), Verdict::Differs);
    for part in [Part::Pooling, Part::LeadOut, Part::Edge] {
        let p = m.parts.iter().find(|p| p.part == part).expect("the part");
        assert_eq!(p.verdict, Verdict::Differs, "{}", p.says);
    }
    // A feather line that is a third too heavy is told, though it is few hundredths of a millimetre: spreads grow with the width.
    let steel = card(2);
    let mut heavy = matched(&steel, &w, &[], None).brush;
    heavy.weight[0][1] *= 1.34;
    let m = matched(&steel, &w, &[Part::Weight], Some(&heavy));
    let p = m.parts.iter().find(|p| p.part == Part::Weight).expect("the part");
    assert!(p.verdict == Verdict::Differs && p.says.contains("feather"), "{p:?}");
    // Three fast lines vary too much among themselves to tell whether a pace is missed.
    let m = matched(&brush_pen, &w, &all, Some(&plain));
    assert_ne!(verdict(&m, Part::Pace), Verdict::Alike);
    assert_eq!(m.parts[0].verdict, Verdict::Differs);
    assert!(m.worst.is_some_and(|p| p == m.parts[0].part));
    // Fitted again but for its edge, the rest comes back.
    let m = matched(&brush_pen, &w, &[Part::Edge], Some(&plain));
    assert!(m.brush.pace.is_some() && m.brush.pooling.is_some() && m.brush.lead_out.is_some() && m.brush.edge == plain.edge);
    assert!(m.assumed.iter().any(|a| a.starts_with("pooling's time")));
}

/// Pace is what speed makes of the width. A hand that presses harder in the exercise that shows it than in its five efforts has told nothing of that;
/// a brush that grows twice as heavy when fast is told.
#[test]
fn pressing_harder_in_one_exercise_is_no_pace() {
    let mut w = warmup(&HANDS[1], &TABLETS[1], 6);
    let pen = card(3);
    let brush = matched(&pen, &w, &[], None).brush;
    for group in w.groups.iter_mut().filter(|g| matches!(g.exercise, Exercise::Ruled | Exercise::Diagonal)) {
        group.strokes.iter_mut().flat_map(|s| &mut s.samples).for_each(|s| s.pressure = s.pressure.map(|p| (p * 1.08).min(1.0)));
    }
    let told = |brush: &Brush| {
        let m = matched(&pen, &w, &[Part::Pace], Some(brush));
        m.parts.into_iter().find(|p| p.part == Part::Pace).expect("the pace")
    };
    let p = told(&brush);
    assert!(p.verdict == Verdict::Alike && p.off_share.is_some_and(|s| s < 0.03), "{p:?}");
    let p = told(&Brush { pace: Some(vec![[0.0, 0.7], [110.0, 1.4]]), ..brush });
    assert!(p.verdict == Verdict::Differs && p.says.ends_with("too heavy when fast") && p.off_share.is_some_and(|s| s > 0.1), "{p:?}");
}

/// Past a tablet's full point presses look the same: what the pen does there cannot be matched, which is not the brush's fault.
#[test]
fn what_a_tablet_does_not_tell_apart_cannot_be_matched() {
    let (steel, w) = (card(2), warmup(&HANDS[1], &TABLETS[2], 5));
    let p = profile(&w, "x").expect("a profile");
    let reach = p.curve().expect("a curve").value(1.0);
    let m = matched(&steel, &w, &[], None);
    let weight = m.parts.iter().find(|p| p.part == Part::Weight).expect("the weight");
    if reach < 0.98 {
        assert_eq!(weight.verdict, Verdict::CannotBeMatched, "{}", weight.says);
        assert!(weight.says.contains("full point") && weight.says.contains("hardest"), "{}", weight.says);
    } else {
        assert_ne!(weight.verdict, Verdict::CannotBeMatched, "{}", weight.says);
    }
    // An effort that a single stroke shows cannot be left out, and so tells nothing: the others do.
    let mut few = w.clone();
    for g in few.groups.iter_mut().filter(|g| g.exercise == eddymist_calibrate::Exercise::Effort && g.effort == Some(0.0)) {
        g.strokes.truncate(1);
    }
    let m = fit(&steel, Some(&few), Some(&p), None, &[]).expect("a fit");
    let weight = m.parts.iter().find(|p| p.part == Part::Weight).expect("the weight");
    assert!(!weight.says.contains("feather"), "{}", weight.says);
}

/// A pen's line whose width goes by the way from its start.
fn pen_line(long: f64, width: impl Fn(f64) -> f64) -> PenLine {
    let step_mm = 0.05;
    let width_mm: Vec<f64> = (0..(long / step_mm) as usize).map(|i| width((i as f64 + 0.5) * step_mm)).collect();
    let edge = |sign: f64| width_mm.iter().map(|w| 0.5 * sign * w).collect();
    PenLine {
        effort: None,
        from: [0.0; 2],
        to: [1.0, 0.0],
        step_mm,
        left_mm: edge(-1.0),
        right_mm: edge(1.0),
        bow_mm: Vec::new(),
        autocorrelation: Vec::new(),
        strip_png: String::new(),
        strip_mm: [0.0; 2],
        width_mm,
    }
}

#[test]
fn lanes_lay_pen_and_brush_start_on_start_or_tip_on_tip() {
    let law = Taper { length_mm: 5.0, share: 1.0, tip_width_mm: 0.0, shape: 0.7, over_mm_s: 0.0 };
    let inker = Inker::new(&Brush { lead_out: Some(law), ..Brush::plain("flick", 1.0) }, None, None).expect("inkable");
    let stroke = Stroke::new((0..=400).map(|i| Sample { t_ms: 2.0 * f64::from(i), x: 0.1 * f64::from(i), ..Sample::default() }).collect());
    // A pen's flick by the same law, a third as long: tip on tip there is no difference, start on start there is.
    let long = 14.0;
    let pen = pen_line(long, |d| f64::min(1.0, (long - d) / 5.0).powf(0.7));
    let worst = |align: Align| {
        let l = lane(Some(&pen), Some(&stroke), &inker, align);
        assert!((l.length_mm - 40.0).abs() < 1e-6 && l.pen.len() == 2 * pen.width_mm.len(), "{}", l.length_mm);
        // Where both are, and nowhere else.
        let (from, to) = if align == Align::End { (26.0, 40.0) } else { (0.0, 14.0) };
        assert!(l.difference.iter().all(|d| d[0] > from - 0.1 && d[0] < to + 0.1));
        l.difference.iter().filter(|d| d[0] < to - 0.8).map(|d| d[1].abs()).fold(0.0, f64::max)
    };
    assert!(worst(Align::End) < 25.0 && worst(Align::Start) > 300.0, "{} {}", worst(Align::End), worst(Align::Start));
    // Bodies alone: from the first of both, over as many mm as the shorter is whole; neither shows its tip.
    let bodies = lane(Some(&pen), Some(&stroke), &inker, Align::Body);
    assert!((9.5..10.2).contains(&bodies.length_mm), "{}", bodies.length_mm);
    assert!(bodies.pen.iter().chain(&bodies.brush).all(|p| p[0] < 10.2 && p[1].abs() > 0.42));
    assert!(!bodies.difference.is_empty() && bodies.difference.iter().all(|d| d[1].abs() < 160.0));
    // One of the two alone is shown as it is, and there is nothing to hold against.
    let alone = lane(None, Some(&stroke), &inker, Align::End);
    assert!(alone.difference.is_empty() && alone.pen.is_empty() && (alone.brush_mm - 1.0).abs() < 1e-6);
    let alone = lane(Some(&pen), None, &inker, Align::Start);
    assert!(alone.difference.is_empty() && alone.brush.is_empty() && alone.pen_mm > 0.9);
}

#[test]
fn the_mean_autocorrelation_is_over_the_lines_that_have_one() {
    let with = |a: Vec<[f64; 2]>| PenLine { autocorrelation: a, ..pen_line(1.0, |_| 1.0) };
    let two = [with(vec![[0.0, 1.2], [50.0, 0.6], [100.0, 0.2]]), with(vec![[0.0, 1.0], [50.0, 0.4], [100.0, 0.0]])];
    assert_eq!(mean_autocorrelation(&two), vec![[0.0, 1.1], [50.0, 0.5], [100.0, 0.1]]);
    // A line that is too smooth to tell says nothing; one that reaches further does not speak for all.
    let more = [two.to_vec(), vec![with(Vec::new()), with(vec![[0.0, 1.1], [50.0, 0.5], [100.0, 0.1], [150.0, 0.9]])]].concat();
    let mean = mean_autocorrelation(&more);
    assert!(mean.len() == 3 && mean.iter().zip([1.1, 0.5, 0.1]).all(|(m, w)| (m[1] - w).abs() < 1e-9), "{mean:?}");
    assert!(mean_autocorrelation(&[]).is_empty());
}
