//! Every flag of every command, as the help lists them: each with a value that cannot be. A flag that is added without a row here
//! fails. What needs the database has its rows in the browser's tests, which have one.

mod common;

use std::{collections::BTreeSet, fs, path::Path};

use common::{Folder, document, eddymist, refused};
use eddymist_formats::inkml::write_warmup;
use eddymist_sim::{
    production::line_guide,
    stylus::{HANDS, TABLETS, warmup},
};

/// The long flags that a command's help lists.
fn listed(command: &[&str]) -> BTreeSet<String> {
    let out = eddymist(&[command, &["--help"]].concat());
    assert!(out.status.success(), "{command:?}");
    let help = String::from_utf8_lossy(&out.stdout).into_owned();
    let flags = help.lines().filter_map(|l| l.trim_start().split_once("--")).filter(|(before, _)| before.is_empty() || before.starts_with('-'));
    let names = flags.map(|(_, rest)| rest.split(|c: char| c != '-' && !c.is_ascii_lowercase()).next().unwrap_or_default().to_string());
    names.filter(|f| f != "help").collect()
}

/// A command with good arguments; then each of its flags with a value that cannot be and a word of what is said then. A flag without
/// a value takes none; a free text cannot be wrong.
struct Row<'a> {
    command: &'a [&'a str],
    good: Vec<&'a str>,
    flags: Vec<(&'a str, Bad<'a>)>,
}

enum Bad<'a> {
    Values(Vec<(&'a str, &'a str)>),
    Switch,
    NeedsDatabase,
}
use Bad::{NeedsDatabase, Switch, Values};

#[test]
fn every_flag_refuses_what_cannot_be_and_writes_nothing() {
    let f = Folder::new("flags");
    let brush = f.put("brush.json", r#"{"format":"eddymist/brush","version":1,"name":"plain 0.5","nib":{"shape":"round"},"weight":[[0.0,0.5],[1.0,0.5]]}"#);
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    let strokes = f.put("warmup.inkml", write_warmup(&warmup(&HANDS[0], &TABLETS[0], 1)));
    let paths = f.put("p.svg", r#"<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="10mm" viewBox="0 0 40 10"><path d="M2 5L38 5"/></svg>"#);
    let scan = f.put("scan.png", eddymist_sim::production::pen_scan(&eddymist_sim::pens::PENS[0], 300.0, 1).0);
    let card = f.put("card.json", document(&eddymist(&["measure", "line", &scan, "--json"]), "line-measurement").to_string());
    let (text, blank, none) = (f.put("odd.json", "{\"format\":\"eddymist/brush\""), f.put("blank", ""), f.path("not there"));
    let (out, inside) = (f.path("out.svg"), f.path("no folder/out.svg"));
    let occupied = format!("{brush}/over");
    // A document of another kind, one that is cut off, an empty file and none at all.
    let other_document = |other: &'static str| {
        Values(vec![(if other == "brush" { &brush } else { &guide }, "eddymist/"), (&text, "odd.json"), (&blank, "blank"), (&none, "not there")])
    };
    let read_with = || vec![("0", "between"), ("-600", "between"), ("NaN", "between"), ("inf", "between"), ("1e9", "between")];
    let kinds = || Values(vec![("drawn", "drawing, scan or photo"), ("", "drawing, scan or photo")]);
    let profiles = || Values(vec![(&text, "colour profile"), (&blank, "colour profile"), (&none, "not there")]);
    let rows = [
        Row {
            command: &["sheet"],
            good: vec!["--paper", "a4", "--out", &out],
            flags: vec![
                ("paper", Values(vec![("a3", "letter"), ("A4 ", "letter"), ("", "letter")])),
                ("out", Values(vec![("sheet.doc", ".pdf"), (".pdf", ".pdf"), (&inside, "no folder")])),
                ("dpi", Values(vec![("149", "150"), ("1201", "1200"), ("NaN", "150"), ("-inf", "150")])),
                ("number", Values(vec![("12345", "six"), ("ABCDEFG", "six"), ("abcde1", "six"), ("ÄÖÜ", "six"), ("", "six")])),
                ("json", Switch),
            ],
        },
        Row {
            command: &["measure", "sheet"],
            good: vec![&scan],
            flags: vec![("dpi", Values(read_with())), ("kind", kinds()), ("icc", profiles()), ("json", Switch)],
        },
        Row {
            command: &["measure", "line"],
            good: vec![&scan],
            flags: vec![
                ("dpi", Values(read_with())),
                ("kind", kinds()),
                ("icc", profiles()),
                (
                    "area",
                    Values(vec![
                        ("1,2,3", "X,Y,W,H"),
                        ("0,0,0,9", "outside"),
                        ("-1,0,5,5", "whole numbers"),
                        ("0,0,99999,5", "outside"),
                        ("18446744073709551615,0,2,2", "outside"),
                    ]),
                ),
                ("json", Switch),
            ],
        },
        Row {
            command: &["pair"],
            good: vec!["--scan", &scan, "--strokes", &strokes],
            flags: vec![
                ("scan", Values(vec![(&blank, "blank"), (&strokes, "warmup.inkml"), (&none, "not there")])),
                ("strokes", Values(vec![(&text, "odd.json"), (&blank, "blank"), (&scan, "scan.png"), (&none, "not there")])),
                ("over", Switch),
                ("dpi", Values(read_with())),
                ("kind", kinds()),
                ("icc", profiles()),
                ("json", Switch),
            ],
        },
        Row {
            command: &["tablet"],
            good: vec![&strokes],
            flags: vec![("pairs", other_document("brush")), ("pen", Values(vec![(&card, "--pairs")])), ("json", Switch)],
        },
        Row {
            command: &["fit"],
            good: vec!["--pen", &card],
            flags: vec![
                ("pen", other_document("brush")),
                ("warmup", Values(vec![(&paths, "p.svg"), (&text, "odd.json"), (&blank, "blank"), (&scan, "scan.png"), (&none, "not there")])),
                ("tablet", other_document("brush")),
                ("pairs", other_document("brush")),
                ("brush", other_document("guide")),
                ("lock", Values(vec![("colour", "is no part"), ("nib,,taper", "is no part"), ("", "is no part")])),
                ("out", Values(vec![(&inside, "no folder")])),
                ("json", Switch),
            ],
        },
        Row {
            command: &["ink"],
            good: vec!["--brush", &brush, "--strokes", &strokes, "--out", &out],
            flags: vec![
                ("brush", other_document("guide")),
                ("strokes", Values(vec![(&text, "odd.json"), (&blank, "blank"), (&scan, "scan.png"), (&none, "not there")])),
                ("paths", Values(vec![(&strokes, "cannot be used with")])),
                ("tablet", other_document("brush")),
                ("course", Values(vec![("hop", "course"), ("[[0,2]]", "course"), ("[", "course"), ("[[0,0.5],[0,0.5]]", "course")])),
                ("out", Values(vec![("line.gif", ".svg"), ("line", ".svg"), (&inside, "no folder")])),
                ("dpi", Values(read_with())),
            ],
        },
        Row {
            command: &["check"],
            good: vec!["--guide", &guide, &scan],
            flags: vec![
                ("guide", other_document("brush")),
                ("manifest", Values(vec![(&blank, "blank"), (&scan, "scan.png"), (&none, "not there")])),
                ("names", Values(vec![("{drawer}", "drawer"), ("{shot", "brace"), ("}{", "--names")])),
                ("kind", kinds()),
                ("icc", profiles()),
                ("overlay", Values(vec![(&occupied, "over")])),
                ("strict", Switch),
                ("json", Switch),
            ],
        },
        Row {
            command: &["serve"],
            good: vec![],
            flags: vec![
                ("listen", Values(vec![("0.0.0.0:8380", "--public-url"), ("studio.example:80", "--public-url"), ("", "--public-url")])),
                ("pages", NeedsDatabase),
                ("demo", Switch),
                (
                    "public-url",
                    Values(vec![("ink.example", "such as"), ("ftp://ink.example", "such as"), ("https://ink.example/page", "such as"), ("", "such as")]),
                ),
                ("trusted-proxy", Values(vec![("proxy", "network"), ("10.0.0.0/33", "network"), ("", "network")])),
                ("metrics", NeedsDatabase),
            ],
        },
        Row { command: &["member", "reset"], good: vec!["a@studio.example"], flags: vec![] },
        Row { command: &["member", "disable"], good: vec!["a@studio.example"], flags: vec![] },
        Row { command: &["member", "erase"], good: vec!["a@studio.example"], flags: vec![] },
        Row {
            command: &["production", "add"],
            good: vec!["Low Tide", "--lead", "a@studio.example"],
            flags: vec![("lead", NeedsDatabase), ("quota", Values(vec![("much", "invalid value"), ("", "invalid value")]))],
        },
        Row { command: &["production", "quota"], good: vec!["Low Tide", "5"], flags: vec![] },
        Row { command: &["worker"], good: vec![], flags: vec![] },
        Row {
            command: &["watch"],
            good: vec!["."],
            flags: ["production", "delivery", "guide", "names", "member"].map(|n| (n, NeedsDatabase)).into_iter().chain([("once", Switch)]).collect(),
        },
        Row { command: &["backup"], good: vec![&out], flags: vec![] },
        Row { command: &["restore"], good: vec![&scan], flags: vec![] },
        Row {
            command: &["report"],
            good: vec!["--out", "team.csv"],
            flags: [("out", Values(vec![("team.doc", ".pdf"), (".csv", ".pdf")])), ("by", Values(vec![("mood", "tablet"), ("", "tablet")]))]
                .into_iter()
                .chain(["production", "delivery", "guide", "shot", "from", "to", "paper"].map(|n| (n, NeedsDatabase)))
                .collect(),
        },
        Row { command: &["migrate"], good: vec![], flags: vec![] },
        Row { command: &["demo"], good: vec![], flags: vec![] },
    ];
    let before = fs::read_dir(&f.0).expect("listed").count();
    for row in rows {
        let known: BTreeSet<String> = row.flags.iter().map(|(n, _)| (*n).to_string()).collect();
        assert_eq!(listed(row.command), known, "{:?}", row.command);
        for (name, bad) in row.flags {
            let flag = format!("--{name}");
            // The good arguments without this flag's own pair.
            let good: Vec<&str> = match row.good.iter().position(|g| *g == flag) {
                Some(i) => [&row.good[..i], &row.good[i + 2..]].concat(),
                None => row.good.clone(),
            };
            match bad {
                Values(values) => {
                    for (value, says) in values {
                        let given = format!("{flag}={value}");
                        let args = [row.command, &good, &[given.as_str()]].concat();
                        if ["cannot be used with", "invalid value", "--pairs"].contains(&says) {
                            let out = eddymist(&args);
                            assert!(out.status.code() == Some(2) && String::from_utf8_lossy(&out.stderr).contains(says), "{args:?}");
                        } else {
                            refused(&args, says);
                        }
                    }
                }
                Switch => {
                    let given = format!("{flag}=maybe");
                    assert_eq!(eddymist(&[row.command, &good, &[given.as_str()]].concat()).status.code(), Some(2), "{:?} {given}", row.command);
                }
                NeedsDatabase => refused(&[row.command, &good, &[format!("{flag}=x").as_str()]].concat(), "DATABASE_URL"),
            }
            assert!(!Path::new(&out).exists(), "{:?} {flag} wrote", row.command);
        }
    }
    assert_eq!(fs::read_dir(&f.0).expect("listed").count(), before, "nothing was written beside");
}
