//! Files that mean harm, through the program: each ends with its sentence, within its time and memory, and the good files beside it are
//! measured all the same. The files and the script that made them are in `tests/hostile/`.

#[allow(dead_code)]
mod common;

use std::{
    fs,
    path::Path,
    process::{Command, Stdio},
    sync::atomic::{AtomicBool, AtomicU64, Ordering},
    time::Duration,
};

use common::Folder;
use eddymist_formats::{
    images::{PngKind, write_png},
    inkml::write_warmup,
};
use eddymist_sim::{
    osk::Pose,
    production::{line_guide, render},
    stylus::{HANDS, TABLETS, warmup},
};
use serde_json::Value;

/// Without an allowance of its own, a file ends within this processor time, and takes no more memory.
const WITHIN: Duration = Duration::from_secs(10);
const MEMORY_MB: u64 = 512;

struct Ended {
    status: Option<i32>,
    stdout: String,
    stderr: String,
    /// Of the processor.
    took: Duration,
    /// The most that any of its processes held, MB.
    held_mb: u64,
}

/// Runs the program and looks at what it and its readers hold, by the kernel's own count of each.
fn watched(args: &[&str]) -> Ended {
    let child = Command::new(env!("CARGO_BIN_EXE_eddymist")).args(args).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().expect("started");
    let (root, most, took, done) = (child.id(), AtomicU64::new(0), AtomicU64::new(0), AtomicBool::new(false));
    let out = std::thread::scope(|s| {
        s.spawn(|| {
            while !done.load(Ordering::Relaxed) {
                let (held_kb, ticks) = of_tree(root);
                most.fetch_max(held_kb, Ordering::Relaxed);
                took.fetch_max(ticks, Ordering::Relaxed);
                std::thread::sleep(Duration::from_millis(5));
            }
        });
        let out = child.wait_with_output().expect("it ends");
        done.store(true, Ordering::Relaxed);
        out
    });
    let text = |b: &[u8]| String::from_utf8_lossy(b).into_owned();
    Ended {
        status: out.status.code(),
        stdout: text(&out.stdout),
        stderr: text(&out.stderr),
        took: Duration::from_millis(10 * took.into_inner()),
        held_mb: most.into_inner() >> 10,
    }
}

/// The most that a process, or one of those it started, has held so far, kB; and the processor time of all, hundredths of a second.
/// Source: proc(5), the fields of `status` and `stat`.
fn of_tree(process: u32) -> (u64, u64) {
    let of = |id: &str| {
        let status = fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
        let held: u64 = status.lines().find_map(|l| l.strip_prefix("VmHWM:")?.trim().strip_suffix(" kB")?.parse().ok()).unwrap_or(0);
        let stat = fs::read_to_string(format!("/proc/{id}/stat")).unwrap_or_default();
        // After the name, which may have blanks in it: fields 14 to 17, its own time and that of its children that ended.
        let fields = stat.rsplit(')').next().unwrap_or_default().split_whitespace().skip(11).take(4);
        (held, fields.filter_map(|v| v.parse::<u64>().ok()).sum::<u64>())
    };
    let (mut most, mut ticks) = of(&process.to_string());
    for task in fs::read_dir(format!("/proc/{process}/task")).into_iter().flatten().flatten() {
        let children = fs::read_to_string(task.path().join("children")).unwrap_or_default();
        for (held, time) in children.split_whitespace().map(of) {
            most = most.max(held);
            ticks += time;
        }
    }
    (most, ticks)
}

fn hostile() -> std::path::PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../tests/hostile")
}

fn good() -> Vec<u8> {
    render(&Pose::in_phase(0.0), 1.0, |_, _| 1.0, 5)
}

/// File, what is said of it, and what it may take beyond the ordinary: seconds and MB for what it declares.
const DRAWINGS: [(&str, &str, u64, u64); 16] = [
    ("a-thousand-layers.ora", "1000 layers", 0, 0),
    ("deep.svg", "256 deep", 0, 0),
    ("ends-early.png", "damaged or cut short", 3, 150),
    ("entities.svg", "entities", 0, 0),
    // More than any machine draws in its time.
    ("filters.svg", "processor time", 10, 512),
    ("head-of-a-giant.png", "up to 120 megapixels", 0, 0),
    ("hundreds-of-groups.svg", "", 20, 600),
    ("masks-in-masks.svg", "", 70, 2048),
    ("opacity-in-opacity.svg", "drawn apart at once", 0, 0),
    ("raster-of-900-megapixels.svg", "30000×30000", 0, 0),
    ("says-a-million.zip", "1000000 entries", 0, 0),
    ("six-layers-of-one-picture.ora", "712 megapixels", 0, 0),
    ("size-of-a-continent.svg", "up to 120 megapixels", 0, 0),
    ("size-that-lies.ora", "", 30, 1500),
    ("use-of-use.svg", "repeats by reference", 0, 0),
    ("zeros.zip", "PNG, TIFF", 0, 0),
];

#[test]
fn every_drawing_that_means_harm_ends_with_its_sentence() {
    let f = Folder::new("hostile-drawings");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    for (name, says, seconds, mb) in DRAWINGS {
        let out = watched(&["check", "--guide", &guide, &hostile().join(name).to_string_lossy(), "--json"]);
        assert!(matches!(out.status, Some(0 | 2)), "{name}: {:?} {}", out.status, out.stderr);
        assert!(says.is_empty() || out.stderr.contains(says), "{name}: {}", out.stderr);
        assert!(!out.stderr.contains("panicked") && !out.stderr.contains("our fault"), "{name}: {}", out.stderr);
        assert!(out.took < WITHIN + Duration::from_secs(seconds), "{name}: {:?}", out.took);
        assert!(out.held_mb < MEMORY_MB + mb, "{name}: {} MB", out.held_mb);
        println!("{name}: {:.1} s, {} MB, {}", out.took.as_secs_f64(), out.held_mb, out.stderr.lines().next().unwrap_or("measured"));
    }
}

/// A page of 4000×3000 px with 60,000 slanted strokes: what looks for neighbours finds them without asking each for each.
#[test]
fn a_page_full_of_hatching_is_checked_in_its_time() {
    let f = Folder::new("hostile-hatching");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    let (w, h) = (4000, 3000);
    let mut data = vec![255u8; w * h];
    for (x, y) in (0..h - 20).step_by(18).flat_map(|y| (0..w - 20).step_by(11).map(move |x| (x, y))) {
        let other_way = (x / 600 + y / 600) % 2 == 1;
        for t in 0..14 {
            let at = (y + t) * w + if other_way { x + t / 3 } else { x + 4 - t / 3 };
            data[at..at + 2].fill(0x1e);
        }
    }
    let page = f.put("hatched.png", write_png(w, h, PngKind::Grey, &data, None).expect("a PNG"));
    let out = watched(&["check", "--guide", &guide, &page, "--json"]);
    assert!(matches!(out.status, Some(0 | 2)) && !out.stderr.contains("reading it"), "{}", out.stderr);
    println!("hatching: {:?}, {} MB", out.took, out.held_mb);
    assert!(out.took < WITHIN + Duration::from_secs(3) && out.held_mb < MEMORY_MB + 144, "{:?}, {} MB", out.took, out.held_mb);
}

#[test]
fn the_good_drawings_beside_them_are_measured() {
    let f = Folder::new("hostile-folder");
    let guide = f.put("guide.json", serde_json::to_vec(&line_guide()).expect("JSON"));
    let alone = f.put("alone.png", good());
    let alone: Value = serde_json::from_str(&watched(&["check", "--guide", &guide, &alone, "--json"]).stdout).expect("JSON");
    let folder = f.path("delivery");
    fs::create_dir(&folder).expect("made");
    // Those that take their whole allowance are tried one by one.
    let quick = DRAWINGS.iter().filter(|d| !d.0.ends_with(".zip") && d.2 == 0);
    let mut hostile_ones = 0;
    for (name, ..) in quick {
        fs::copy(hostile().join(name), Path::new(&folder).join(name)).expect("copied");
        hostile_ones += 1;
    }
    for name in ["a.png", "m.png", "z.png"] {
        fs::write(Path::new(&folder).join(name), good()).expect("written");
    }
    let out = watched(&["check", "--guide", &guide, &folder, "--json"]);
    let document: Value = serde_json::from_str(&out.stdout).expect("a document");
    let drawings = document["drawings"].as_array().expect("drawings");
    assert_eq!((out.status, drawings.len(), document["failed"].as_array().map(Vec::len)), (Some(2), 3, Some(hostile_ones)));
    for d in drawings {
        assert_eq!(d["roles"], alone["drawings"][0]["roles"]);
    }
}

#[test]
fn strokes_that_mean_harm_are_refused_or_read_in_their_time() {
    let f = Folder::new("hostile-strokes");
    let ink = |body: &str| format!("<ink xmlns=\"http://www.w3.org/2003/InkML\">{body}</ink>").into_bytes();
    let nested = |n: usize| ink(&format!("{}<trace>0 0, 1 1</trace>{}", "<traceGroup>".repeat(n), "</traceGroup>".repeat(n)));
    let channels = "<traceFormat><channel name=\"X\"/><channel name=\"Y\"/><channel name=\"F\"/><channel name=\"T\"/></traceFormat>";
    let effort = |traces: &str| {
        format!("{channels}<traceGroup><annotation type=\"exercise\">effort</annotation><annotation type=\"effort\">0.5</annotation>{traces}</traceGroup>")
    };
    let long: Vec<String> = (0..120_000)
        .map(|i| format!("{:.4} {:.4} {:.4} {}", f64::from(i) * 0.002, 20.0 * (f64::from(i) * 0.0005).sin(), 0.5 + 0.1 * (f64::from(i) * 0.03).sin(), 5 * i))
        .collect();
    let zigzag: Vec<String> = (0..5000).map(|i| format!("{} {} 0.5 {}", 9999 * (1 - 2 * (i % 2)), i - 2500, 5 * i)).collect();
    let short = "<trace>0 0 .5 0, 9 0 .5 90, 18 0 .5 180</trace>".repeat(9_000);
    let note = format!("<annotation type=\"remark\">{}</annotation>", "n".repeat(2000));
    let many = format!("{note}<traceGroup>{note}").repeat(30) + &"<traceGroup><trace>0 0</trace></traceGroup>".repeat(5000) + &"</traceGroup>".repeat(30);
    let plain = r#"{"format":"eddymist/brush","version":1,"name":"plain","nib":{"shape":"round"},"weight":[[0.0,0.2],[1.0,1.0]]}"#;
    let ragged = plain.trim_end_matches('}').to_string() + r#","edge":{"raggedness_um":6.0,"correlation_um":1.0}}"#;
    let (brush, ragged) = (f.put("brush.json", plain), f.put("ragged.json", ragged));
    let ruled = warmup(&HANDS[2], &TABLETS[2], 2);
    for (name, bytes, says) in [
        ("nested-2000", nested(2000), "64 deep"),
        ("nested-60000", nested(60_000), "64 deep"),
        ("notes", ink(&many), ""),
        ("far", ink("<trace>0 0, 1e12 0</trace>"), "up to 10 m"),
        ("farther", ink("<trace>0 0, 1e300 1e300</trace>"), "up to 10 m"),
        ("long", ink(&effort(&format!("<trace>{}</trace>", long.join(",")))), ""),
        ("short-ones", ink(&effort(&short)), ""),
        ("digits", ink(&format!("<trace>0 {}</trace>", "1".repeat(1_000_000))), "is no number"),
        ("zigzag", ink(&effort(&format!("<trace>{}</trace>", zigzag.join(",")))), ""),
        ("good", write_warmup(&ruled).into_bytes(), ""),
    ] {
        let path = f.put(&format!("{name}.inkml"), bytes);
        let out_path = f.path(&format!("{name}.svg"));
        for args in
            [vec!["tablet", &path, "--json"], vec!["ink", "--brush", if name == "zigzag" { &ragged } else { &brush }, "--strokes", &path, "--out", &out_path]]
        {
            let out = watched(&args);
            assert!(matches!(out.status, Some(0 | 2)), "{name}, {}: {:?} {}", args[0], out.status, out.stderr);
            assert!(says.is_empty() || (out.status == Some(2) && out.stderr.contains(says) && out.stderr.len() < 400), "{name}, {}: {}", args[0], out.stderr);
            assert!(out.took < WITHIN && out.held_mb < MEMORY_MB, "{name}, {}: {:?}, {} MB", args[0], out.took, out.held_mb);
        }
    }
}
