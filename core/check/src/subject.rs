//! By what a drawing is known from take to take: its number and the rest of its name.
//!
//! How: the number is the last run of digits without leading zeros, once a mark of the take ("_v2", "take 3") is off; the rest, without
//! regard to case and to what parts words, must agree, or one side has none and only one drawing can be meant. Folders count as words, but for
//! a drawing that is awaited. "4", "004" and "A-0004" may
//! be one drawing, "A-0004" and "B-0004" are two. Common practice, no source.

use std::collections::BTreeMap;

use crate::document::Manifest;

/// By what a drawing is known from take to take.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Subject {
    pub key: String,
    /// Only its file's name is known, which tells takes of one delivery: elsewhere the same name may be another drawing.
    pub by_name: bool,
}

/// What a name says: a number, if it has one, and the rest of its words in small letters.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub struct Named {
    pub number: Option<String>,
    pub rest: String,
}

/// What parts one word of a name from the next.
fn parts_words(c: char) -> bool {
    c.is_whitespace() || "_-./\\#()[]+,".contains(c)
}

/// Without the mark of a take at its end, where something is left before it: "0004_v2" is "0004".
fn without_take(text: &str) -> &str {
    let digits = text.trim_end_matches(|c: char| c.is_ascii_digit());
    if digits.len() == text.len() {
        return text;
    }
    let word = digits.trim_end_matches(parts_words);
    let marked = ["take", "tk", "t", "v"].into_iter().find_map(|m| word.strip_suffix(m));
    match marked {
        Some(before) if before.ends_with(parts_words) && before.contains(|c: char| c.is_ascii_digit()) => before.trim_end_matches(parts_words),
        _ => text,
    }
}

/// What the name of a drawing says.
pub fn named(text: &str) -> Named {
    let low = text.trim().to_lowercase();
    let low = without_take(&low);
    let end = low.rfind(|c: char| c.is_ascii_digit()).map_or(0, |e| e + 1);
    let begin = low[..end].trim_end_matches(|c: char| c.is_ascii_digit()).len();
    let words = |t: &str| t.split(parts_words).filter(|w| !w.is_empty()).map(String::from).collect::<Vec<_>>();
    let number = (begin < end).then(|| low[begin..end].trim_start_matches('0')).map(|n| if n.is_empty() { "0".into() } else { n.into() });
    let rest: Vec<String> = [words(&low[..begin]), words(&low[end..])].concat();
    Named { number, rest: rest.join(" ") }
}

/// What a file's name says: without its ending, and without the archive that it came in.
pub fn file_named(file: &str) -> Named {
    let path = file.rsplit_once('.').map_or(file, |(stem, end)| if end.contains(['/', '\\']) { file } else { stem });
    let inside = path.split_once('/').filter(|(archive, _)| archive.to_lowercase().ends_with(".zip"));
    named(inside.map_or(path, |(_, inside)| inside))
}

/// Where a drawing belongs, if shot and drawing are known: the shot and the character in small letters, and the drawing's name.
pub fn place(manifest: &Manifest) -> Option<(String, Named)> {
    let known = |c: &str| manifest.get(c).map(|v| v.trim().to_lowercase()).filter(|v| !v.is_empty());
    let (shot, drawing) = (known("shot")?, known("drawing")?);
    Some((format!("{shot}|{}|", known("character").unwrap_or_default()), named(&drawing)))
}

/// Shot, character and drawing where shot and drawing are known; else what the file's name says.
pub fn subject(file: &str, manifest: &Manifest) -> Subject {
    let key = |n: &Named| format!("{}|{}", n.rest, n.number.as_deref().unwrap_or_default());
    match place(manifest) {
        Some((place, drawing)) => Subject { key: place + &key(&drawing), by_name: false },
        None => Subject { key: key(&file_named(file)), by_name: true },
    }
}

/// Whose next take a drawing is.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Whose {
    /// Nobody's: it is a drawing of its own.
    New,
    Takes(Subject),
    /// Of one of these, or of none: somebody says which.
    Asked(Vec<Subject>),
}

/// A drawing that is there: what it is known by, its file and its manifest.
#[derive(Debug, Clone, Copy)]
pub struct There<'a> {
    pub subject: &'a Subject,
    pub file: &'a str,
    pub manifest: &'a Manifest,
    /// It was returned: a next take is awaited.
    pub awaited: bool,
}

/// A file from a folder of another name ("fixed/4.png") may be what is awaited of "4": that is asked. Folders that nobody awaits anything of
/// tell drawings apart.
fn from_another_folder(file: &str, there: &[There]) -> Whose {
    let base = |f: &str| file_named(f.rsplit(['/', '\\']).next().unwrap_or(f));
    let own = base(file);
    let mut asked: Vec<Subject> = Vec::new();
    if own.number.is_some() && file_named(file) != own {
        for t in there.iter().filter(|t| t.awaited) {
            let theirs = base(t.file);
            if !asked.contains(t.subject) && theirs.number == own.number && (theirs.rest == own.rest || theirs.rest.is_empty() || own.rest.is_empty()) {
                asked.push(t.subject.clone());
            }
        }
    }
    if asked.is_empty() { Whose::New } else { Whose::Asked(asked) }
}

/// Whose next take a file is among the drawings that are there.
pub fn whose(file: &str, manifest: &Manifest, there: &[There]) -> Whose {
    let own = place(manifest);
    let mut same: Vec<Subject> = Vec::new();
    // Of what has this number: each drawing with the rests of its takes.
    let mut loose: BTreeMap<(&str, bool), Vec<String>> = BTreeMap::new();
    let mut own_rests: BTreeMap<(&str, bool), bool> = BTreeMap::new();
    for t in there {
        let (mine, theirs) = match (&own, place(t.manifest)) {
            (Some((a, mine)), Some((b, theirs))) if *a == b => (mine.clone(), theirs),
            (Some(_), Some(_)) => continue,
            // Only files can be compared where either is known by its file alone.
            _ => (file_named(file), file_named(t.file)),
        };
        if mine.number != theirs.number {
            continue;
        }
        if mine.rest == theirs.rest {
            if !same.contains(t.subject) {
                same.push(t.subject.clone());
            }
        } else if mine.number.is_some() {
            let at = (t.subject.key.as_str(), t.subject.by_name);
            *own_rests.entry(at).or_default() |= mine.rest.is_empty();
            loose.entry(at).or_default().push(theirs.rest);
        }
    }
    if same.is_empty() {
        // One side has no rest: this file, or every take of that drawing.
        same = loose
            .into_iter()
            .filter(|(at, rests)| own_rests[at] || rests.iter().all(String::is_empty))
            .map(|((key, by_name), _)| Subject { key: key.into(), by_name })
            .collect();
    }
    match same.len() {
        0 => from_another_folder(file, there),
        1 => same.pop().map_or(Whose::New, Whose::Takes),
        _ => Whose::Asked(same),
    }
}
