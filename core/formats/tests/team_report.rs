//! The team's report: what it says is what was looked at, whatever the names and however many, on both papers.

use eddymist_check::{
    LineGuide, Manifest,
    team::{
        By, Entry, Measured, TeamLook, look,
        measured::{MeasuredRole, SHARES},
    },
};
use eddymist_formats::{
    printed::Paper,
    team_first::{Piece, Story},
    team_report::{Heading, csv, pdf},
};
use proptest::prelude::*;

fn guide(roles: usize) -> LineGuide {
    let role = |k: usize| format!(r##"{{"name":"role {k}","from":{{"colour":"#1b1e{k:02x}"}},"weight_px":{{"target":6.0,"tolerance":0.1}}}}"##);
    let roles: Vec<String> = (0..roles).map(role).collect();
    let text = format!(r#"{{"format":"eddymist/line-guide","version":1,"name":"g","page":{{"width_px":800,"height_px":600}},"roles":[{}]}}"#, roles.join(","));
    LineGuide::from_json(&text).expect("a guide")
}

fn entries(names: &[String], roles: usize, drawings: usize) -> Vec<Entry> {
    let one = |name: &String, k: usize| {
        let role = |r: usize| {
            let mean = 5.8 + 0.1 * ((k + r + name.len()) % 5) as f64;
            MeasuredRole { role: format!("role {r}"), mean_px: mean, lines_px: vec![mean - 0.1, mean, mean + 0.1], widths_px: vec![mean; SHARES] }
        };
        Entry {
            id: format!("{name} {k}"),
            file: format!("{k}.png"),
            delivery: "d".into(),
            manifest: Manifest::from([("artist".to_string(), name.clone())]),
            added_at: "2026-11-25T10:00:00Z".into(),
            measured: Measured { roles: (0..roles).map(role).collect() },
        }
    };
    names.iter().flat_map(|n| (0..drawings).map(move |k| one(n, k))).collect()
}

fn heading() -> Heading {
    Heading { production: "Night Tram".into(), of: "all deliveries".into(), guide: "g, version 1".into(), made: "2026-11-26".into() }
}

/// Pages of a PDF, by its page objects.
fn pages(bytes: &[u8]) -> usize {
    let text = String::from_utf8_lossy(bytes);
    text.matches("/Type /Page").count() + text.matches("/Type/Page").count() - text.matches("/Type /Pages").count() - text.matches("/Type/Pages").count()
}

fn made(names: &[String], roles: usize, drawings: usize) -> TeamLook {
    look(&guide(roles), &entries(names, roles, drawings), By::Artist)
}

#[test]
fn it_is_as_long_as_the_team_is_and_papers_are_told_apart() {
    let few = made(&["ilse".into(), "dov".into()], 2, 4);
    let many = made(&(0..120).map(|k| format!("artist {k}")).collect::<Vec<_>>(), 7, 3);
    for paper in [Paper::A4, Paper::Letter] {
        let (short, long) = (pdf(&heading(), &few, &[], paper).expect("a report"), pdf(&heading(), &many, &[], paper).expect("a report"));
        assert!(short.starts_with(b"%PDF-") && long.starts_with(b"%PDF-"));
        assert!(pages(&short) == 1 || pages(&short) == 2, "{}", pages(&short));
        // 120 rows in two blocks of roles are ten pages and more.
        assert!(pages(&long) >= 10, "{}", pages(&long));
        // The words are text, not outlines: a page of them is small.
        assert!(short.len() < 80_000, "{}", short.len());
    }
    assert_eq!((Paper::by_name("A4"), Paper::by_name("letter"), Paper::by_name("a3")), (Some(Paper::A4), Some(Paper::Letter), None));
}

#[test]
fn nobody_is_a_report_too() {
    let none = look(&guide(1), &[], By::Tablet);
    assert!(pdf(&heading(), &none, &[], Paper::A4).is_ok());
    assert_eq!(csv(&none).lines().count(), 1);
    assert!(csv(&none).starts_with("tablet,role,"));
}

proptest! {
    /// Any name comes back from the table as it went in, one row a group and role, with its figures.
    #[test]
    fn the_table_keeps_every_name_and_figure(names in prop::collection::btree_set("[a-zA-Zäöü,\"';\n ]{1,12}", 1..5), roles in 1usize..4, drawings in 1usize..6) {
        let names: Vec<String> = names.into_iter().map(|n| format!("x{}", n.trim())).collect::<std::collections::BTreeSet<_>>().into_iter().collect();
        let team = made(&names, roles, drawings);
        let text = csv(&team);
        let mut table = csv::Reader::from_reader(text.as_bytes());
        let rows: Vec<csv::StringRecord> = table.records().map(|r| r.expect("a row")).collect();
        prop_assert_eq!(rows.len(), names.len() * roles);
        for r in &team.roles {
            for s in &r.standings {
                let row = rows.iter().find(|x| x[0] == *s.name && x[1] == *r.role).expect("its row");
                prop_assert!((row[5].parse::<f64>().expect("a mean") - s.mean_px).abs() < 6e-4);
                prop_assert_eq!(row[4].parse::<usize>().expect("a count"), drawings);
                prop_assert_eq!(row[6].is_empty(), drawings < 2);
            }
        }
        prop_assert!(pdf(&heading(), &team, &[], Paper::Letter).is_ok());
    }
}

#[test]
fn the_first_page_tells_who_differs_with_a_piece_of_the_line() {
    let team = made(&["ilse".into(), "dov".into()], 2, 4);
    let place = |k: usize| [10.0 * k as f64, 40.0 + (k % 2) as f64, 7.0];
    let line: Vec<[f64; 3]> = (0..30).map(place).collect();
    // Places upon one another, outside of the window, and more standings than places.
    let odd = vec![[50.0, 50.0, 6.0], [50.0, 50.0, 6.0], [9e5, -9e5, 3.0]];
    let lines = vec![(line, "h".repeat(30), true), (odd, "wt-htw".into(), false)];
    let piece = Piece { role: "contour".into(), file: "7.png".into(), window: [0.0, 0.0, 240.0, 100.0], lines, mean_px: 7.0, target_px: 6.0 };
    let story = |k: usize| Story {
        says: format!("dov: contour {k} px heavy since Tuesday"),
        causes: vec!["the tablet is full early. To find out: press harder".into(); 5],
        returned: vec!["7.png was returned by Ilse: “too heavy”".into(); 5],
        piece: Some(piece.clone()),
    };
    let with = |n: usize| pdf(&heading(), &team, &(0..n).map(story).collect::<Vec<_>>(), Paper::A4).expect("a report");
    let (none, one, many) = (with(0), with(1), with(6));
    // The statistics begin a page of their own.
    assert_eq!(pages(&one), pages(&none));
    assert!(pages(&many) > pages(&one) && one.len() > none.len());
}
