//! The reader's process: what it is bound by while it waits, and what it does with questions that are none.

#[allow(dead_code)]
mod common;

use std::{
    fs,
    io::Write,
    process::{Child, Command, Stdio},
    time::{Duration, Instant},
};

use common::{Folder, document, eddymist};
use eddymist_check::Manifest;
use eddymist_formats::{Given, LIMITS, drawings, images, pen_sheet};
use eddymist_sim::{
    osk::Pose,
    pens::PENS,
    production::{line_guide, pen_scan, render, sheet_scan},
};

fn reader() -> Child {
    let mut command = Command::new(env!("CARGO_BIN_EXE_eddymist"));
    command.arg("read").stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("started")
}

/// A line of a file of the kernel's about a process. Source: proc(5).
fn told(pid: u32, file: &str, line: &str) -> String {
    let text = fs::read_to_string(format!("/proc/{pid}/{file}")).unwrap_or_default();
    text.lines().find_map(|l| l.strip_prefix(line)).unwrap_or_default().trim().to_string()
}

#[test]
fn it_is_bound_before_it_reads_a_byte() {
    let mut child = reader();
    let pid = child.id();
    let from = Instant::now();
    // The filter of system calls is the last of its bounds.
    while told(pid, "status", "Seccomp:") != "2" && from.elapsed() < Duration::from_secs(10) {
        std::thread::sleep(Duration::from_millis(5));
    }
    assert_eq!((told(pid, "status", "Seccomp:").as_str(), told(pid, "status", "NoNewPrivs:").as_str()), ("2", "1"));
    let bound = |what: &str| told(pid, "limits", what).split_whitespace().take(2).map(|v| v.parse::<u64>().unwrap_or(u64::MAX)).collect::<Vec<_>>();
    assert_eq!(bound("Max data size"), [512 << 20, 2 << 30]);
    assert_eq!(bound("Max address space"), [(512 << 20) + (1 << 30), 3 << 30]);
    assert_eq!(bound("Max cpu time")[0], 10);
    assert_eq!((bound("Max core file size"), bound("Max open files")), (vec![0, 0], vec![12, 12]));
    // Its priority: field 19 of its state, ten behind whoever started it.
    let nice = |who: &str| {
        let stat = fs::read_to_string(format!("/proc/{who}/stat")).expect("a state");
        stat.rsplit(')').next().and_then(|f| f.split_whitespace().nth(16)?.parse::<i32>().ok()).expect("a priority")
    };
    assert_eq!(nice(&pid.to_string()), (nice("self") + 10).min(19));
    child.kill().expect("ended");
    child.wait().expect("it ends");
}

#[test]
fn questions_that_are_none_end_it_with_a_sentence() {
    let long = [u64::MAX.to_le_bytes().to_vec(), vec![0xff; 100]].concat();
    let lies = [4u64.to_le_bytes().to_vec(), b"\xa1\x61\x61\xf6".to_vec()].concat();
    // An array in an array in an array: a question of CBOR that is nothing but depth.
    let deep = [100_000u64.to_le_bytes().to_vec(), vec![0x81; 100_000]].concat();
    for question in [Vec::new(), vec![1, 2, 3], 0u64.to_le_bytes().to_vec(), long, lies, deep] {
        let mut child = reader();
        let mut to = child.stdin.take().expect("a pipe");
        let _ = to.write_all(&question);
        drop(to);
        let out = child.wait_with_output().expect("it ends");
        let said = String::from_utf8_lossy(&out.stderr);
        assert_eq!(out.status.code(), Some(2), "{said}");
        assert!(out.stdout.is_empty() && said.starts_with("eddymist read: ") && !said.contains("panicked"), "{said}");
    }
}

/// It asks nothing of a terminal, and is no command that people are shown.
#[test]
fn it_is_hidden_and_ends_with_its_parent() {
    let help = Command::new(env!("CARGO_BIN_EXE_eddymist")).arg("--help").output().expect("help");
    assert!(!String::from_utf8_lossy(&help.stdout).contains("  read"));
    // A shell that starts a reader and is killed: the reader, whose pipe stays open, ends too.
    let mut shell = Command::new("bash");
    let script = format!("{} read < <(sleep 60) & echo $!; wait", env!("CARGO_BIN_EXE_eddymist"));
    let mut parent = shell.args(["-c", &script]).stdout(Stdio::piped()).spawn().expect("a shell");
    let mut line = String::new();
    std::io::BufRead::read_line(&mut std::io::BufReader::new(parent.stdout.as_mut().expect("a pipe")), &mut line).expect("its number");
    let pid: u32 = line.trim().parse().expect("a number");
    let from = Instant::now();
    while told(pid, "status", "Seccomp:") != "2" && from.elapsed() < Duration::from_secs(10) {
        std::thread::sleep(Duration::from_millis(5));
    }
    parent.kill().expect("killed");
    parent.wait().expect("it ends");
    let ended = || matches!(told(pid, "status", "State:").chars().next(), None | Some('Z'));
    while !ended() && from.elapsed() < Duration::from_secs(20) {
        std::thread::sleep(Duration::from_millis(5));
    }
    assert!(ended(), "{}", told(pid, "status", "State:"));
}

/// Through the pipe nothing is lost: what the command prints is, to the last digit, what reading in this process gives.
#[test]
fn what_comes_through_the_pipe_is_what_was_measured() {
    let f = Folder::new("pipe");
    let drawing = render(&Pose::in_phase(0.3), 1.0, |role, _| if role == 0 { 1.2 } else { 1.0 }, 5);
    let (guide, path) = (f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON")), f.put("d.png", &drawing));
    let printed = document(&eddymist(&["check", "--guide", &guide, &path, "--json"]), "line-check");
    let own = drawings::weigh(&line_guide(), &path, &drawing, &Manifest::new(), &LIMITS).expect("weighed").check;
    assert_eq!(printed["drawings"][0], serde_json::to_value(own).expect("JSON"));
    let scan = pen_scan(&PENS[1], 600.0, 4).0;
    let path = f.put("pen.png", &scan);
    let printed = document(&eddymist(&["measure", "line", &path, "--json"]), "line-measurement");
    let (mut own, _) = eddymist_measure::scan::measure(&images::scan(&scan, None, &LIMITS).expect("a scan")).expect("lines");
    own.source = Some(images::scan_source(&scan, &Given::default(), &LIMITS).expect("a source"));
    assert_eq!((printed["source"]["kind"].as_str(), printed["source"]["from"]["resolution"].as_str()), (Some("scan"), Some("file")));
    assert_eq!(printed, serde_json::to_value(own).expect("JSON"));
    let sheet = sheet_scan(&PENS[2], 300.0, 3);
    let path = f.put("sheet.png", &sheet);
    let printed = document(&eddymist(&["measure", "sheet", &path, "--json"]), "pen-card");
    let own = pen_sheet::read(&sheet, &Given::default(), &[], &LIMITS).expect("a sheet");
    assert_eq!(printed["strip_png"].as_str(), own.strip_png.as_deref());
    let card = eddymist_calibrate::PenCard::from_sheet(printed["name"].as_str().expect("a name"), &own.reading, &[], Default::default());
    assert_eq!(printed["widths_by_effort"], serde_json::to_value(card.widths_by_effort).expect("JSON"));
    assert_eq!(printed["nib"], serde_json::to_value(card.nib).expect("JSON"));
}
