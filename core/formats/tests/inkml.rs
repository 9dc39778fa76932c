//! InkML in and out: the Recommendation's own example, every way of writing a trace, and what is refused and how.

use eddymist_calibrate::WarmUp;
use eddymist_formats::{LIMITS, ReadError, inkml};
use eddymist_ink::{Sample, Stroke};
use eddymist_sim::stylus::{HANDS, TABLETS, warmup};
use proptest::prelude::*;

fn ink(body: &str) -> Result<inkml::InkFile, ReadError> {
    inkml::read(&format!("<ink xmlns=\"http://www.w3.org/2003/InkML\">{body}</ink>"), &LIMITS)
}

fn strokes(body: &str) -> Vec<Stroke> {
    ink(body).expect(body).strokes().cloned().collect()
}

fn places(s: &Stroke) -> Vec<[f64; 2]> {
    s.samples.iter().map(|p| [p.x, p.y]).collect()
}

fn format(channels: &str) -> String {
    format!("<traceFormat>{channels}</traceFormat>")
}

const XYF: &str = "<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\" min=\"0\" max=\"1023\"/>";

/// W3C, Ink Markup Language (InkML), Recommendation of 20 September 2011, the example of section 3.2.1 and its table.
#[test]
fn the_recommendations_example_decodes_as_its_table() {
    let body = format(
        "<channel name=\"X\" type=\"integer\" units=\"pt\"/><channel name=\"Y\" type=\"integer\" units=\"pt\"/><intermittentChannels><channel name=\"B1\" type=\"boolean\" default=\"F\"/></intermittentChannels>",
    ) + "<trace id=\"id4525abc\">1125 18432,'23'43,\"7\"-8,3-5,7 -3,6 2,6 8,3 6 T,2 4*,3 6,3-6 F</trace>";
    let want = [
        [1125.0, 18432.0],
        [1148.0, 18475.0],
        [1178.0, 18510.0],
        [1211.0, 18540.0],
        [1251.0, 18567.0],
        [1297.0, 18596.0],
        [1349.0, 18633.0],
        [1404.0, 18676.0],
        [1461.0, 18723.0],
        [1521.0, 18776.0],
        [1584.0, 18823.0],
    ];
    // The example states no unit, and as mm would lie 18 m away: it is read as points.
    for (read, want) in places(&strokes(&body)[0]).iter().zip(want) {
        assert!((0..2).all(|k| (read[k] * 72.0 / 25.4 - want[k]).abs() < 1e-9), "{read:?}, {want:?}");
    }
    assert_eq!(places(&strokes(&body)[0]).len(), want.len());
}

#[test]
fn a_trace_without_a_format_is_x_and_y_in_mm() {
    let s = strokes("<trace> 1 2 ,3.5 -4, 5e0 +6 </trace>");
    assert_eq!(places(&s[0]), [[1.0, 2.0], [3.5, -4.0], [5.0, 6.0]]);
    assert!(!s[0].timed && s[0].zoom == 1.0 && s[0].samples.iter().all(|p| p.pressure.is_none()));
}

#[test]
fn values_repeat_go_back_to_explicit_and_may_be_missing() {
    // `*` repeats a value, or goes on with the last difference; `!` ends the differences; `#` writes in hexadecimal.
    assert_eq!(
        places(&strokes("<trace>1 1, '2 '3, * *, !10 !20, * *, #1F #0a</trace>")[0]),
        [[1.0, 1.0], [3.0, 4.0], [5.0, 7.0], [10.0, 20.0], [10.0, 20.0], [31.0, 10.0]]
    );
    // A sample without a place is dropped.
    let s = strokes(&(format(XYF) + "<trace>0 0 1023, ? 1 512, 3 3 0</trace>"));
    assert_eq!(places(&s[0]), [[0.0, 0.0], [3.0, 3.0]]);
}

#[test]
fn what_is_not_reported_stands_between_its_neighbours() {
    let timed = "<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"T\"/><intermittentChannels><channel name=\"F\"/><channel name=\"OA\"/></intermittentChannels>";
    let s = strokes(&(format(timed) + "<trace>0 0 0 0.2 350, 1 0 ? ?, 2 0 30 ? ?, 3 0 40 0.6 10, 4 0 ? ? ?</trace>"));
    let of = |f: fn(&Sample) -> f64| s[0].samples.iter().map(f).collect::<Vec<_>>();
    // Time by the number of the sample, the rest by time; at the end as the nearest; azimuth the shorter way round.
    assert_eq!(of(|p| p.t_ms), [0.0, 15.0, 30.0, 40.0, 40.0]);
    let force = of(|p| p.pressure.expect("reported or filled"));
    assert!(force.iter().zip([0.2, 0.3333, 0.4667, 0.6, 0.6]).all(|(a, b)| (a - b).abs() < 0.07), "{force:?}");
    assert_eq!((force[0], force[3], force[4]), (0.2, 0.6, 0.6));
    let turned = of(|p| p.azimuth_deg.expect("filled").rem_euclid(360.0));
    assert!(turned[1] > 350.0 && turned[1] < 360.0 && (turned[2] < 10.0 || turned[2] > 350.0) && turned[4] == 10.0, "{turned:?}");
    // None reported at all is none.
    assert!(strokes(&(format(timed) + "<trace>0 0 0, 1 1 1</trace>"))[0].samples.iter().all(|p| p.pressure.is_none()));
}

proptest! {
    /// Filled in from any pattern of gaps: between the neighbours, and the reported ones untouched.
    #[test]
    fn gaps_never_leave_the_range_of_what_was_reported(forces in prop::collection::vec(prop::option::of(0.0f64..1.0), 1..40)) {
        let points: Vec<String> = forces.iter().enumerate().map(|(i, f)| format!("{i} 0 {}", f.map_or("?".into(), |f| format!("{}", 1023.0 * f)))).collect();
        let s = strokes(&(format(XYF) + &format!("<trace>{}</trace>", points.join(","))));
        let known: Vec<f64> = forces.iter().flatten().copied().collect();
        for (p, f) in s[0].samples.iter().zip(&forces) {
            prop_assert_eq!(p.pressure.is_some(), !known.is_empty());
            if let Some(v) = p.pressure {
                let (low, high) = known.iter().fold((f64::MAX, f64::MIN), |b, k| (b.0.min(*k), b.1.max(*k)));
                prop_assert!((low - 1e-9..=high + 1e-9).contains(&v));
                prop_assert!(f.is_none_or(|f| (f - v).abs() < 1e-9));
            }
        }
    }
}

#[test]
fn text_after_a_comment_or_a_child_counts() {
    let s = strokes("<trace>0 0, <!-- a pause -->1 1, <annotation/>2 2<![CDATA[, 3 3]]></trace>");
    assert_eq!(places(&s[0]), [[0.0, 0.0], [1.0, 1.0], [2.0, 2.0], [3.0, 3.0]]);
}

#[test]
fn what_is_over_a_limit_is_refused_with_the_limit() {
    let many = |n: usize, from: &str| format!("<trace>{}</trace>", vec![from; n].join(","));
    let nested = |n: usize| format!("{}<trace>0 0</trace>{}", "<traceGroup>".repeat(n), "</traceGroup>".repeat(n));
    let cases = [
        (format("<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"X\"/>") + "<trace>0 0 1</trace>", "channel X is declared twice"),
        (format(XYF) + "<trace>0 0</trace>", "trace 1, sample 1: there are 2 values for the format's 3 channels"),
        ("<trace>0 0</trace><trace>0 0,,1 1</trace>".into(), "trace 2, sample 2: there are no values"),
        ("<trace>0 0, 1e12 0</trace>".into(), "up to 10 m"),
        ("<trace>0 0, 1e300 0</trace>".into(), "up to 10 m"),
        (format!("<trace>0 0, '1e300 '0{}</trace>", ", 1e308 0".repeat(9)), "trace 1, sample 2"),
        (format(XYF) + "<trace>0 0 0, 0 0 \"1e308, 0 0 1e308</trace>", "sample 2"),
        (nested(63), "64 deep"),
        (nested(2000), "64 deep"),
        (nested(60_000), "64 deep"),
        (many(500_001, "0 0"), "up to 500000 samples"),
        (format!("<trace>1 {}</trace>", "9".repeat(1_000_000)), "9999…” is no number"),
        (format!("<trace>1 x{}</trace>", "y".repeat(1_000_000)), "yyyy…” is no number"),
        (
            format!("<trace xml:id=\"a\">{0}</trace><trace continuation=\"end\" priorRef=\"#a\">{0}</trace>", vec!["0 0"; 300_000].join(",")),
            "with what continues it",
        ),
    ];
    for (body, says) in cases {
        let said = ink(&body).expect_err(says).to_string();
        assert!(said.contains(says) && said.len() < 300, "{says}: {}", &said[..said.len().min(300)]);
    }
    assert!(ink(&nested(62)).is_ok());
    let small = eddymist_formats::Limits { samples: 10, strokes: 3, ..LIMITS };
    let read = |body: &str| inkml::read(&format!("<ink>{body}</ink>"), &small).expect_err("over").to_string();
    assert!(read(&many(11, "0 0")).contains("up to 10 samples") && read(&"<trace>0 0</trace>".repeat(4)).contains("up to 3 traces"));
}

/// A thousand groups that hand a long note on to a thousand more, and as many strokes: what is kept grows with the file, not with its square.
#[test]
fn notes_do_not_multiply() {
    let note = format!("<annotation type=\"remark\">{0}</annotation><annotation type=\"exercise\">{0}</annotation>", "n".repeat(20_000));
    let file = ink(&format!("<traceGroup>{note}{}</traceGroup>", "<traceGroup><trace>0 0</trace></traceGroup>".repeat(20_000))).expect("it reads");
    assert_eq!((file.groups.len(), file.groups[9].annotations.len(), file.groups[9].annotations["exercise"].len()), (20_000, 1, 200));
}

#[test]
fn channels_come_in_their_declared_order_and_units() {
    let body = format(
        "<channel name=\"T\" units=\"s\"/><channel name=\"OE\" units=\"rad\"/><channel name=\"Y\" units=\"cm\"/><channel name=\"TANGENT\"/><channel name=\"X\" units=\"in\"/><channel name=\"F\" min=\"-1\" max=\"1\"/><channel name=\"OA\" units=\"deg\"/>",
    ) + "<trace>0.5 1.5707963267948966 2 99 1 0 45</trace>";
    let s = strokes(&body);
    let p = s[0].samples[0];
    assert_eq!((p.t_ms, p.x, p.y, p.pressure, p.azimuth_deg, p.elevation_deg), (500.0, 25.4, 20.0, Some(0.5), Some(45.0), Some(90.0)));
    assert!(s[0].timed);
    for (unit, mm) in [("mm", 1.0), ("m", 1000.0), ("pt", 25.4 / 72.0), ("pc", 25.4 / 6.0)] {
        let s = strokes(&(format(&format!("<channel name=\"X\" units=\"{unit}\"/><channel name=\"Y\"/>")) + "<trace>3 0</trace>"));
        assert!((s[0].samples[0].x - 3.0 * mm).abs() < 1e-12, "{unit}");
    }
}

#[test]
fn contexts_formats_and_groups_find_one_another() {
    let body = "<definitions>
        <traceFormat xml:id=\"plain\"><channel name=\"X\"/><channel name=\"Y\"/></traceFormat>
        <context xml:id=\"pressed\"><inkSource xml:id=\"slate\"><traceFormat><channel name=\"X\" units=\"cm\"/><channel name=\"Y\" units=\"cm\"/><channel name=\"F\"/></traceFormat></inkSource></context>
        <context xml:id=\"again\" contextRef=\"#pressed\"/>
        <context xml:id=\"bare\" traceFormatRef=\"#plain\"/></definitions>
        <trace contextRef=\"#pressed\">1 1 0.5</trace>
        <traceGroup contextRef=\"#again\"><annotation type=\"zoom\">2</annotation><trace>2 2 0.25</trace><trace contextRef=\"#bare\">7 7</trace></traceGroup>
        <trace>9 9</trace>";
    let s = strokes(body);
    let seen: Vec<(f64, Option<f64>, f64)> = s.iter().map(|s| (s.samples[0].x, s.samples[0].pressure, s.zoom)).collect();
    assert_eq!(seen, [(10.0, Some(0.5), 1.0), (20.0, Some(0.25), 2.0), (7.0, None, 2.0), (9.0, None, 1.0)]);
}

#[test]
fn a_context_in_the_stream_holds_from_there_on() {
    let body = "<trace>1 1</trace><context><traceFormat><channel name=\"Y\"/><channel name=\"X\"/></traceFormat></context><trace>1 2</trace>";
    let s = strokes(body);
    assert_eq!((places(&s[0]), places(&s[1])), (vec![[1.0, 1.0]], vec![[2.0, 1.0]]));
}

#[test]
fn pen_up_leaves_no_ink_and_a_continuation_is_one_stroke() {
    let body = "<trace xml:id=\"a\" type=\"penDown\" continuation=\"begin\">0 0, 1 0</trace><trace type=\"penUp\">1 0, 5 5</trace>
        <trace xml:id=\"b\" continuation=\"middle\" priorRef=\"#a\">2 0</trace><trace continuation=\"end\" priorRef=\"#b\">3 0</trace><trace></trace>";
    let s = strokes(body);
    assert_eq!(s.len(), 1);
    assert_eq!(places(&s[0]), [[0.0, 0.0], [1.0, 0.0], [2.0, 0.0], [3.0, 0.0]]);
}

#[test]
fn groups_inherit_what_is_noted_about_them() {
    let file = ink("<annotation type=\"scale\">card</annotation><traceGroup><annotation type=\"exercise\">effort</annotation><traceGroup><annotation type=\"effort\">0.25</annotation><trace>0 0, 9 0</trace></traceGroup></traceGroup>").expect("it reads");
    assert_eq!((file.groups.len(), file.groups[0].annotations["exercise"].as_str(), file.groups[0].annotations["effort"].as_str()), (1, "effort", "0.25"));
    let warmup = file.warmup().expect("a warm-up");
    assert!(warmup.scale_from_card && warmup.groups[0].effort == Some(0.25));
}

#[test]
fn what_cannot_be_read_says_why() {
    let group = |notes: &str| format!("<traceGroup>{notes}<trace>0 0, 1 1</trace></traceGroup>");
    let exercise = "<annotation type=\"exercise\">effort</annotation>";
    let cases: [(String, &str); 20] = [
        (String::new(), "empty"),
        ("<ink".into(), "XML"),
        ("<svg/>".into(), "<svg>"),
        ("<ink><trace>1 x</trace></ink>".into(), "trace 1, sample 1: “x”"),
        ("<ink><trace>1 1, 2 NaN</trace></ink>".into(), "sample 2"),
        ("<ink><trace>1 1e999</trace></ink>".into(), "no number"),
        ("<ink><trace>1 2 3</trace></ink>".into(), "more values than the format's 2"),
        ("<ink><trace>1 #zz</trace></ink>".into(), "no number"),
        (format!("<ink>{}<trace>1 1 1024</trace></ink>", format(XYF)), "outside its range"),
        (format!("<ink>{}<trace>1 1 1.5</trace></ink>", format("<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\"/>")), "min and max"),
        (format!("<ink>{}</ink>", format("<channel name=\"X\"/>")), "no X and Y"),
        (format!("<ink>{}</ink>", format("<channel name=\"X\" units=\"furlong\"/><channel name=\"Y\"/>")), "furlong"),
        (format!("<ink>{}</ink>", format("<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"T\" units=\"fortnight\"/>")), "ms and s"),
        (format!("<ink>{}</ink>", format("<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\" min=\"5\" max=\"5\"/>")), "max must be over min"),
        (format!("<ink>{}</ink>", format("<channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\" max=\"full\"/>")), "“full”"),
        ("<ink><trace contextRef=\"#none\">1 1</trace></ink>".into(), "#none"),
        (format!("<ink>{}</ink>", group("<annotation type=\"zoom\">0</annotation>")), "zoom"),
        (format!("<ink>{}</ink>", group("<annotation type=\"exercise\">doodle</annotation>")), "doodle"),
        (format!("<ink>{}</ink>", group(exercise)), "“effort” annotation"),
        (format!("<ink>{}</ink>", group(&format!("{exercise}<annotation type=\"effort\">2</annotation>"))), "from 0 to 1"),
    ];
    for (text, says) in cases {
        let said = inkml::read(&text, &LIMITS).and_then(inkml::InkFile::warmup).expect_err(&text).to_string();
        assert!(said.contains(says), "{text}: {said}");
    }
}

#[test]
fn a_warm_up_comes_back_as_it_was_written() {
    for (hand, tablet) in [(0, 0), (1, 2), (2, 3)] {
        let done = WarmUp { slips_counted: hand == 1, ..warmup(&HANDS[hand], &TABLETS[tablet], 5) };
        let back = inkml::read(&inkml::write_warmup(&done), &LIMITS).expect("it reads").warmup().expect("a warm-up");
        assert_eq!((back.groups.len(), back.scale_from_card, back.slips_counted), (done.groups.len(), done.scale_from_card, done.slips_counted));
        for (a, b) in done.groups.iter().zip(&back.groups) {
            assert_eq!((a.exercise, a.effort, a.pace, a.strokes.len()), (b.exercise, b.effort, b.pace, b.strokes.len()));
            for (p, q) in a.strokes.iter().zip(&b.strokes).flat_map(|(s, t)| s.samples.iter().zip(&t.samples)) {
                assert!((p.x - q.x).abs() < 1e-4 && (p.t_ms - q.t_ms).abs() < 1e-2, "{p:?} {q:?}");
                assert!((p.pressure.unwrap_or(-1.0) - q.pressure.unwrap_or(-1.0)).abs() < 1e-6);
                assert_eq!(p.azimuth_deg.is_some(), q.azimuth_deg.is_some());
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Strokes written are the strokes read, with or without pressure, time and tilt.
    #[test]
    fn strokes_come_back(points in prop::collection::vec((-500.0f64..500.0, -500.0f64..500.0, 0.0f64..=1.0, 0.0f64..360.0), 1..30), pressed in any::<bool>(), tilted in any::<bool>(), timed in any::<bool>()) {
        let samples: Vec<Sample> = points.iter().enumerate().map(|(i, p)| Sample {
            t_ms: if timed { 7.5 * i as f64 } else { 0.0 }, x: p.0, y: p.1, pressure: pressed.then_some(p.2), azimuth_deg: tilted.then_some(p.3), elevation_deg: tilted.then_some(40.0),
        }).collect();
        let stroke = Stroke { samples, zoom: 1.0, timed };
        let back = inkml::read(&inkml::write_strokes(std::slice::from_ref(&stroke), None), &LIMITS).expect("it reads");
        let back: Vec<&Stroke> = back.strokes().collect();
        prop_assert_eq!((back.len(), back[0].timed, back[0].samples.len()), (1, timed, points.len()));
        for (p, q) in stroke.samples.iter().zip(&back[0].samples) {
            prop_assert!((p.x - q.x).abs() < 1e-4 && (p.y - q.y).abs() < 1e-4 && (p.t_ms - q.t_ms).abs() < 1e-3);
            prop_assert_eq!((p.pressure.is_some(), p.elevation_deg), (q.pressure.is_some(), q.elevation_deg));
        }
    }

    /// No text makes the reader fall over.
    #[test]
    fn any_trace_is_read_or_refused(text in "[-+0-9.eE!'\"*?#TF, \\n]{0,60}", channels in "[XYFTOAE ]{0,6}") {
        let list: String = channels.split(' ').filter(|c| !c.is_empty()).map(|c| format!("<channel name=\"{c}\"/>")).collect();
        let _ = ink(&format!("<trace>{text}</trace>"));
        let _ = ink(&format!("{}<trace>{text}</trace>", format(&list)));
        let _ = inkml::read(&text, &LIMITS);
    }
}

/// One channel's values written in turns explicitly, as first and as second differences (section 3.3.2 of the Recommendation); the writer here
/// knows only the definitions.
fn written(values: &[i64], modes: &[u8]) -> Vec<String> {
    let (mut mode, mut last, mut step) = (b'!', 0, 0);
    let mut out = Vec::new();
    for (i, (v, m)) in values.iter().zip(modes).enumerate() {
        // A second difference needs a first one to stand on.
        let wanted = if i < 2 { b'!' } else { [b'!', b'\'', b'"'][usize::from(*m % 3)] };
        let number = match wanted {
            b'!' => *v,
            b'\'' => v - last,
            _ => v - last - step,
        };
        let prefix = if wanted == mode { String::new() } else { char::from(wanted).to_string() };
        out.push(format!("{prefix}{number}"));
        (mode, step, last) = (wanted, v - last, *v);
    }
    out
}

proptest! {
    #[test]
    fn differences_of_any_order_come_to_the_values_they_were_made_of(
        points in prop::collection::vec((-4000i64..4000, -4000i64..4000, any::<u8>(), any::<u8>()), 1..40),
        spaces in any::<bool>(),
    ) {
        let (values, modes): (Vec<_>, Vec<_>) = points.iter().map(|p| ([p.0, p.1], [p.2, p.3])).unzip();
        let column = |k: usize| written(&values.iter().map(|v| v[k]).collect::<Vec<_>>(), &modes.iter().map(|m| m[k]).collect::<Vec<_>>());
        let (xs, ys) = (column(0), column(1));
        // Where a value begins with its sign or its prefix, no blank is needed before it.
        let gap = |y: &str| if spaces || y.starts_with(|c: char| c.is_ascii_digit()) { " " } else { "" };
        let trace: Vec<String> = xs.iter().zip(&ys).map(|(x, y)| format!("{x}{}{y}", gap(y))).collect();
        let read = strokes(&format!("<trace>{}</trace>", trace.join(",")));
        let want: Vec<[f64; 2]> = points.iter().map(|p| [p.0 as f64, p.1 as f64]).collect();
        prop_assert_eq!(places(&read[0]), want, "{:?}", trace);
    }

    /// Whatever stands between elements, the depth that is counted is theirs.
    #[test]
    fn depth_is_counted_whatever_stands_between(
        depth in 55usize..70,
        between in prop::collection::vec(prop::sample::select(vec![" ", "<!-- <traceGroup> -->", "<![CDATA[<traceGroup>]]>", "<?note <traceGroup> ?>", "<annotation type=\"a>b\">x</annotation>", "<trace/>"]), 70),
    ) {
        let open: String = between.iter().take(depth).map(|b| format!("{b}<traceGroup contextRef='' id=\"g/>\">")).collect();
        let body = open.replace(" contextRef=''", "") + "<trace>1 1</trace>" + &"</traceGroup>".repeat(depth);
        let read = ink(&body);
        // The root is one level, and the trace or a note another.
        prop_assert_eq!(read.is_ok(), depth <= 62, "{}: {:?}", depth, read.err());
    }
}
