//! The words on the screen: what people read in pages, wording modules and errors, file by file, for `docs/words.txt`.
//!
//! Of a page: text between tags, and string literals that read as words. Of Rust: string literals that read as words, outside tests. It is a
//! scan of the source, not a parse: now and then a literal that nobody reads stands in the list, and none that somebody reads is missing.

use std::{
    collections::BTreeSet,
    fs,
    path::{Path, PathBuf},
};

/// Where words stand that people read.
const PLACES: [&str; 9] = [
    "web/src",
    "core/ink/src",
    "core/measure/src",
    "core/calibrate/src",
    "core/check/src",
    "core/formats/src",
    "app/reader/src",
    "app/server/src",
    "app/cli/src",
];

/// Every file with its words, in order.
pub fn all(root: &Path) -> Result<Vec<(String, Vec<String>)>, String> {
    let mut files = Vec::new();
    for place in PLACES {
        super::walk(&root.join(place), &mut files)?;
    }
    files.sort();
    let mut out = Vec::new();
    for f in files {
        let name = f.strip_prefix(root).unwrap_or(&f).to_string_lossy().into_owned();
        let page = name.ends_with(".tsx") || name.ends_with(".ts");
        if !(page || name.ends_with(".rs")) || name.contains(".test.") || name.contains("/tests/") || name.contains("web/src/api/") {
            continue;
        }
        let text = fs::read_to_string(&f).map_err(|e| format!("{name}: {e}"))?;
        let mut words: BTreeSet<String> = literals(&text, page).into_iter().collect();
        if name.ends_with(".tsx") {
            words.extend(between_tags(&text));
        }
        if !words.is_empty() {
            out.push((name, words.into_iter().collect()));
        }
    }
    Ok(out)
}

/// As `docs/words.txt` has it.
pub fn listed(all: &[(String, Vec<String>)]) -> String {
    all.iter().map(|(file, words)| format!("## {file}\n{}\n", words.iter().map(|w| format!("{w}\n")).collect::<String>())).collect()
}

/// Whether a text reads as words: letters, and a space or a capital.
fn reads(text: &str) -> bool {
    let t = text.trim();
    let letters = t.chars().filter(|c| c.is_alphabetic()).count();
    let code =
        ["=>", "&&", "||", "();", "var(--", "SELECT", "import ", "/api/", "));", "= ", "?? ", "[[", "repeat(", "calc(", "${x}"].iter().any(|c| t.contains(c));
    letters > 2 && !code && !t.starts_with(['/', '#', '.', '@', ')', ']', ',', ';']) && (t.contains(' ') || t.starts_with(|c: char| c.is_uppercase()))
}

fn tidy(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// String literals that read as words.
fn literals(text: &str, page: bool) -> Vec<String> {
    let text = if page { text } else { text.split("#[cfg(test)]").next().unwrap_or_default() };
    let c: Vec<char> = text.chars().collect();
    let mut out = Vec::new();
    let mut i = 0;
    while i < c.len() {
        match c[i] {
            '/' if c.get(i + 1) == Some(&'/') && (i == 0 || c[i - 1] != ':') => {
                while i < c.len() && c[i] != '\n' {
                    i += 1;
                }
            }
            '/' if c.get(i + 1) == Some(&'*') => {
                i += 2;
                while i + 1 < c.len() && (c[i], c[i + 1]) != ('*', '/') {
                    i += 1;
                }
                i += 2;
            }
            // An apostrophe within a word.
            '\'' if page && i > 0 && c[i - 1].is_alphabetic() && c.get(i + 1).is_some_and(|n| n.is_alphabetic()) => i += 1,
            // A lifetime or a character of Rust.
            '\'' if !page => {
                i += if c.get(i + 1) == Some(&'\\') {
                    4
                } else if c.get(i + 2) == Some(&'\'') {
                    3
                } else {
                    1
                }
            }
            quote @ ('"' | '\'' | '`') => {
                let start = i + 1;
                i += 1;
                while i < c.len() && c[i] != quote {
                    i += if c[i] == '\\' { 2 } else { 1 };
                }
                let one: String = c[start.min(c.len())..i.min(c.len())].iter().collect();
                let before: String = c[start.saturating_sub(24)..start - 1].iter().collect();
                let style = before.ends_with("className=") || before.ends_with("expect(") || before.ends_with("d=") || before.ends_with("from ");
                if !style && reads(&one) {
                    out.push(tidy(&one.replace("\\n", " ").replace("\\", "")));
                }
                i += 1;
            }
            _ => i += 1,
        }
    }
    out
}

/// Texts between tags and expressions of a page.
fn between_tags(text: &str) -> Vec<String> {
    let c: Vec<char> = text.chars().collect();
    let mut out = Vec::new();
    let mut start = None;
    for (i, ch) in c.iter().enumerate() {
        match ch {
            '>' if i > 0 && !matches!(c[i - 1], '=' | '-' | ' ') => start = Some(i + 1),
            '}' => start = Some(i + 1),
            '<' | '{' => {
                if let Some(from) = start.take() {
                    let one: String = c[from..i].iter().collect();
                    let plain =
                        !one.contains([';', '=', '(', '|', '\'', '"', '`']) || one.trim().starts_with(char::is_uppercase) && !one.contains([';', '=', '`']);
                    if plain && one.chars().filter(|c| c.is_alphabetic()).count() > 1 {
                        out.push(tidy(&one));
                    }
                }
            }
            _ => {}
        }
    }
    out.retain(|t| !t.starts_with([')', ',', ':', '?', '&']) && !t.starts_with("else") && !t.starts_with("export "));
    out
}

/// Labels and phrases that are gone, as `docs/words-retired.txt` has them: `= label` is a whole one, anything else a phrase.
pub fn retired(list: &str, all: &[(String, Vec<String>)]) -> Vec<String> {
    let gone: Vec<&str> = list.lines().map(str::trim).filter(|l| !l.is_empty() && !l.starts_with('#')).collect();
    let mut found = Vec::new();
    for (file, words) in all {
        for w in words {
            let low = format!(" {} ", w.to_lowercase());
            let plain: String = low.chars().map(|c| if c.is_alphanumeric() || c == '’' { c } else { ' ' }).collect();
            let plain = format!(" {} ", tidy(&plain));
            for g in &gone {
                let hit = match g.strip_prefix("= ") {
                    Some(label) => w.eq_ignore_ascii_case(label),
                    None => plain.contains(&format!(" {} ", g.to_lowercase())),
                };
                if hit {
                    found.push(format!("{file}: “{w}” has “{g}”"));
                }
            }
        }
    }
    found
}

/// Writes `docs/words.txt`, or with `only` says whether it is as it should be.
pub fn run(only: bool) -> Result<(), String> {
    let root = PathBuf::from(".");
    let all = all(&root)?;
    let text = listed(&all);
    let file = root.join("docs/words.txt");
    if only {
        if fs::read_to_string(&file).unwrap_or_default() != text {
            return Err("docs/words.txt is not what stands in the sources: cargo run -p xtask -- words".into());
        }
        let list = fs::read_to_string(root.join("docs/words-retired.txt")).map_err(|e| format!("docs/words-retired.txt: {e}"))?;
        let found = retired(&list, &all);
        return if found.is_empty() { Ok(()) } else { Err(format!("words that are gone:\n{}", found.join("\n"))) };
    }
    fs::write(&file, text).map_err(|e| format!("{}: {e}", file.display()))
}
