//! What a drawing keeps for the team, and the order and the spans that drawings are put in.

mod common;

use common::{INK, RED, Sheet, guide, role};
use eddymist_check::{
    Manifest,
    team::{
        By, Entry, Measured, Span,
        entries::{in_order, is_date},
        fits::same_name,
        measured::SHARES,
        standing::{at_share, grouped, listed, said_day},
    },
};
use proptest::prelude::*;

fn entry(file: &str, columns: &[(&str, &str)], added_at: &str) -> Entry {
    let manifest: Manifest = columns.iter().map(|(c, v)| (c.to_string(), v.to_string())).collect();
    Entry { id: file.into(), file: file.into(), delivery: "d".into(), manifest, added_at: added_at.into(), measured: Measured::default() }
}

fn files(mut entries: Vec<&Entry>) -> Vec<String> {
    in_order(&mut entries);
    entries.iter().map(|e| e.file.clone()).collect()
}

#[test]
fn what_is_kept_is_what_was_weighed_at_the_pages_size() {
    let g = guide(vec![role("line", "#1b1e24", 6.0, 0.1), role("red", "#c02020", 4.0, 0.1)]);
    let sheet = Sheet::new().lines(5.0, INK).line([60.0, 560.0], [740.0, 571.0], &[[0.0, 3.0], [1.0, 5.0]], RED);
    let w = sheet.check(&g);
    let m = Measured::new(&g, &w.check, &w.lines);
    let line = m.role("line").expect("its role");
    // Eight level lines of one width: each is kept, and the widths hardly differ.
    assert_eq!(line.lines_px.len(), 8);
    assert!((line.mean_px - 5.0).abs() < 0.03 && line.lines_px.iter().all(|l| (l - 5.0).abs() < 0.06), "{line:?}");
    assert_eq!(line.widths_px.len(), SHARES);
    // The red one grows evenly from 3 to 5 px: so do the widths at equal shares of what was measured of it.
    let red = m.role("red").expect("its role");
    assert!(red.widths_px.windows(2).all(|w| w[0] <= w[1]));
    let at = |q: f64| at_share(&red.widths_px, q).expect("a width");
    assert!((at(0.5) - red.mean_px).abs() < 0.1 && at(0.9) > at(0.1) + 0.5, "{:?}", red.widths_px);
    // A wide shot's target is half: what is kept is twice the drawing's px.
    let wide = sheet.check_with(&g, &Manifest::from([("shot_size".to_string(), "wide".to_string())])).expect("it is weighed");
    let twice = Measured::new(&g, &wide.check, &wide.lines);
    assert!((twice.role("line").expect("its role").mean_px - 2.0 * line.mean_px).abs() < 0.02);
    assert!(m.role("nothing").is_none());
}

#[test]
fn drawings_stand_in_the_order_drawn_or_else_as_they_came() {
    let at = |f: &str, drawn: &str, added: &str| entry(f, &[("artist", "dov"), ("drawn_at", drawn)], added);
    let by_date = [at("2.png", "2026-11-24T09:00", "x"), at("10.png", "2026-11-23", "y"), at("1.png", "2026-11-24T08:00", "z")];
    assert_eq!(files(by_date.iter().collect()), ["10.png", "1.png", "2.png"]);
    // One date that is none: all go by the day they came in on and by their names' numbers.
    let mixed = [
        at("10.png", "yesterday", "2026-11-24T01:00:00Z"),
        at("2.png", "2026-11-24", "2026-11-24T02:00:00Z"),
        at("9.png", "2026-11-20", "2026-11-23T01:00:00Z"),
    ];
    assert_eq!(files(mixed.iter().collect()), ["9.png", "2.png", "10.png"]);
    let all = [mixed.as_slice(), &[entry("n.png", &[("artist", "  ")], "x")]].concat();
    assert_eq!(grouped(&all, By::Artist).into_iter().map(|(n, g)| (n, g.len())).collect::<Vec<_>>(), [("dov", 3)]);
}

#[test]
fn words_are_said_as_people_say_them() {
    for (day, said) in [("2026-11-24", "24 November"), ("2026-01-05", "5 January"), ("2026-13-05", "2026-13-05"), ("soon", "soon")] {
        assert_eq!(said_day(day), said);
    }
    assert_eq!([listed(&[]), listed(&["a"]), listed(&["a", "b"]), listed(&["a", "b", "c"])], ["", "a", "a and b", "a, b and c"]);
    for (a, b, same) in
        [("dov", "Dov Tarrant", true), ("Old slate", "old-slate", true), ("dov", "Dovina", false), ("pia", "dov", false), ("Ann Lee", "Ann Kay", false)]
    {
        assert_eq!((same_name(a, b), same_name(b, a)), (same, same), "{a} {b}");
    }
}

/// Whether a day that is counted from 0000-03-01 and read back is the same (H. Hinnant, "chrono-Compatible Low-Level Date Algorithms",
/// days_from_civil and civil_from_days, from memory): only a day that the calendar has comes back.
fn comes_back(y: i64, m: i64, d: i64) -> bool {
    let (march_year, march_month) = (y - i64::from(m <= 2), (m + 9).rem_euclid(12));
    let (era, year) = (march_year.div_euclid(400), march_year.rem_euclid(400));
    let day = era * 146_097 + year * 365 + year / 4 - year / 100 + (153 * march_month + 2) / 5 + d - 1;
    let (era, day) = (day.div_euclid(146_097), day.rem_euclid(146_097));
    let year = (day - day / 1460 + day / 36_524 - day / 146_096) / 365;
    let of_year = day - (365 * year + year / 4 - year / 100);
    let month = (5 * of_year + 2) / 153;
    let (back_m, back_d) = (if month < 10 { month + 3 } else { month - 9 }, of_year - (153 * month + 2) / 5 + 1);
    (era * 400 + year + i64::from(back_m <= 2), back_m, back_d) == (y, m, d)
}

proptest! {
    /// Whatever a manifest says, it is a date or none, and no text makes any of it break.
    #[test]
    fn any_text_is_a_date_or_none(text in "\\PC{0,24}", y in 1000u32..9999, m in 0u32..20, d in 0u32..40) {
        let _ = (is_date(&text), said_day(&text), same_name(&text, "dov"));
        let e = entry("a.png", &[("drawn_at", &text)], &text);
        let _ = (e.day(), e.drawn_at());
        let day = format!("{y}-{m:02}-{d:02}");
        prop_assert_eq!(is_date(&day), comes_back(i64::from(y), i64::from(m), i64::from(d)), "{}", day);
    }

    /// A span holds a day just where it begins at it or before and ends at it or after.
    #[test]
    fn spans_hold_their_days(day in 1u32..29, from in prop::option::of(1u32..29), to in prop::option::of(1u32..29)) {
        let on = |d: u32| format!("2026-11-{d:02}");
        let span = Span { shot: None, from: from.map(on), to: to.map(on) };
        prop_assert_eq!(span.validate().is_ok(), !matches!((from, to), (Some(a), Some(b)) if a > b));
        let e = entry("a.png", &[("drawn_at", &on(day))], "2020-01-01T00:00:00Z");
        prop_assert_eq!(span.holds(&e), from.is_none_or(|f| f <= day) && to.is_none_or(|t| t >= day));
    }
}
