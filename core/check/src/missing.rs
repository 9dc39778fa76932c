//! What a manifest leaves out, and what it costs; what it may say.

use std::collections::BTreeMap;

use crate::{document::Manifest, guide::LineGuide};

/// What the fields of a manifest may say that are one of a list: a drawing that says another cannot be checked.
pub fn allowed(guide: &LineGuide) -> BTreeMap<String, Vec<String>> {
    let kinds = ["drawing", "scan", "photo"].map(String::from).to_vec();
    BTreeMap::from([("shot_size".into(), guide.scale_by_shot.keys().cloned().collect()), ("picture_kind".into(), kinds)])
}

/// What a delivery's manifest leaves out, and what that makes unknowable.
pub fn missing(drawings: &[(&str, &Manifest)]) -> Vec<String> {
    let n = drawings.len();
    let mut out = Vec::new();
    let lacks = |c: &str| drawings.iter().filter(|(_, m)| m.get(c).is_none_or(|v| v.trim().is_empty())).count();
    for (column, costs) in [
        ("artist", "who differs, who drifts and who must fix them cannot be said"),
        ("drawing", "their order is that of their names"),
        ("shot", "they cannot be told from another shot’s, nor matched to their takes in another delivery"),
    ] {
        match lacks(column) {
            0 => {}
            k if k == n => out.push(format!("{column} is not known: {costs}")),
            k => out.push(format!("{column} is not known of {k} of {n}: {costs}")),
        }
    }
    // Numbers that a sequence leaves out, shot by shot.
    let mut numbers: BTreeMap<(&str, &str), Vec<u32>> = BTreeMap::new();
    for (_, m) in drawings {
        let field = |c: &str| m.get(c).map_or("", String::as_str);
        if let Ok(number) = field("drawing").parse::<u32>() {
            numbers.entry((field("shot"), field("character"))).or_default().push(number);
        }
    }
    for ((shot, character), mut all) in numbers {
        all.sort_unstable();
        let of = [("shot", shot), ("", character)]
            .iter()
            .filter(|p| !p.1.is_empty())
            .map(|p| format!("{} {}", p.0, p.1).trim().to_string())
            .collect::<Vec<_>>()
            .join(", ");
        let of = if of.is_empty() { String::new() } else { format!(" of {of}") };
        let mut twice: Vec<u32> = all.windows(2).filter(|w| w[0] == w[1]).map(|w| w[0]).collect();
        twice.dedup();
        all.dedup();
        // Drawn on twos or threes, numbers step by two or three: the step that most have.
        let mut steps: BTreeMap<u32, usize> = BTreeMap::new();
        all.windows(2).for_each(|w| *steps.entry(w[1] - w[0]).or_default() += 1);
        let step = steps.iter().max_by_key(|(s, n)| (**n, u32::MAX - **s)).map_or(1, |s| *s.0);
        let gone: Vec<u32> = all.windows(2).filter(|w| w[1] - w[0] > step).flat_map(|w| (w[0] + step..w[1]).step_by(step as usize)).take(1000).collect();
        if !gone.is_empty() {
            out.push(format!(
                "drawing {}{of} {} not there: what happens between its neighbours cannot be said",
                listed(&gone),
                if gone.len() == 1 { "is" } else { "are" }
            ));
        }
        if !twice.is_empty() {
            out.push(format!("drawing {}{of} came in more than one file: say with take which is later, or remove one", listed(&twice)));
        }
    }
    out
}

/// Numbers in short: runs as from–to, at most six.
fn listed(numbers: &[u32]) -> String {
    let shown: Vec<String> = numbers.iter().take(6).map(u32::to_string).collect();
    if numbers.len() > 6 { format!("{} and {} more", shown.join(", "), numbers.len() - 6) } else { shown.join(", ") }
}
