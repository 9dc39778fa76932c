//! The team's report: PDF on A4 or Letter (a first page to be read by anybody; then dots on the tolerance bands, figures, the method in
//! short) and CSV.

use eddymist_check::{
    Verdict,
    team::{
        TeamLook,
        standing::{GroupWeight, RoleLook},
        variance::Component,
    },
};
use eddymist_ink::Outline;

use crate::{
    ReadError,
    lettering::length,
    printed::{HEAVY, INK, MARGIN, Pages, Paper, SOFT, THIN},
    table::Table,
    team_first::{Story, stories},
};

/// What stands above a report.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Heading {
    pub production: String,
    /// Which drawings: deliveries, shots, days.
    pub of: String,
    pub guide: String,
    /// When it was made.
    pub made: String,
}

const BAND: [u8; 3] = [0xe4, 0xec, 0xe0];

fn colour(verdict: Option<Verdict>) -> [u8; 3] {
    match verdict {
        Some(Verdict::Heavy) => HEAVY,
        Some(Verdict::Thin) => THIN,
        _ => INK,
    }
}

/// The report as PDF.
pub fn pdf(head: &Heading, look: &TeamLook, first: &[Story], paper: Paper) -> Result<Vec<u8>, ReadError> {
    let mut p = Pages::new(paper.size_mm());
    p.text(&format!("{}: team lines", head.production), 6.4, true, INK);
    p.text(&format!("{} · checked against {} · {}", head.of, head.guide, head.made), 3.0, false, SOFT);
    p.y += 3.0;
    if look.sentences.is_empty() {
        p.text(&format!("Nobody differs, over {} drawings.", look.drawings), 3.8, true, INK);
    }
    stories(&mut p, first);
    // Who has no story has at least the sentence.
    for s in look.sentences.iter().filter(|s| !first.iter().any(|f| f.says == s.says)) {
        p.text(&s.says, 4.2, true, INK);
    }
    if look.not_known > 0 {
        p.text(&format!("{} of {} drawings do not say which {} they are by.", look.not_known, look.drawings, look.by.name()), 3.0, false, SOFT);
    }
    p.new_page();
    p.heading(&format!("By {} and role", look.by.name()));
    dots(&mut p, look);
    p.heading("Where the variance lies");
    let differs = |r: &&RoleLook| {
        !r.pairs.is_empty() || r.standings.iter().any(|s| s.verdict.is_some_and(|v| v != Verdict::Within) || s.since.is_some() || s.drift_px.is_some())
    };
    for r in look.roles.iter().filter(differs) {
        p.text(&said_variance(r), 3.0, false, INK);
    }
    let alike: Vec<&str> = look.roles.iter().filter(|r| !differs(r)).map(|r| r.role.as_str()).collect();
    if !alike.is_empty() {
        p.text(&format!("Nothing differs in: {}.", alike.join(", ")), 3.0, false, SOFT);
    }
    let pairs: Vec<String> = look
        .roles
        .iter()
        .flat_map(|r| {
            r.pairs
                .iter()
                .map(move |q| format!("{}: {} {:+.2} px against {} ({:+.2} to {:+.2})", r.role, q.a, q.difference_px, q.b, q.interval_px[0], q.interval_px[1]))
        })
        .collect();
    if !pairs.is_empty() {
        p.heading("Pairs that differ");
        pairs.iter().for_each(|q| p.text(q, 3.0, false, INK));
    }
    p.heading("How this is computed");
    for line in METHOD {
        p.text(line, 2.8, false, SOFT);
        p.y += 0.8;
    }
    p.finish(&format!("{}: team lines", head.production))
}

const METHOD: [&str; 4] = [
    "A dot is the mean over the drawings since the last change of the mean weight of a role's lines, in px of the guide's page; its line is the 95 % interval by Student's t over the drawings. The band is the guide's tolerance.",
    "Heavy or thin: the mean lies beyond the tolerance (or the 90th or 10th percentile beyond the swell), surely for all groups and roles together (one-sided t, Holm, p < 0.05). A change is the one split of the series that explains most, by a permutation test (p < 0.05); a drift is Theil and Sen's slope by Mann and Kendall's test (Hamed and Rao, Holm, p < 0.01).",
    "The variance is parted into artist, drawing within artist and line within drawing by restricted maximum likelihood; intervals are of the profile likelihood, 95 %. A perfect calibration would take away the artists' part alone.",
    "Pairs are compared by Welch's t with Holm's correction for all pairs of the role.",
];

fn said_part(p: Component) -> String {
    match p.high_px {
        Some(high) => format!("{:.2} px ({:.2} to {high:.2})", p.sd_px, p.low_px),
        None => format!("{:.2} px ({:.2} and more)", p.sd_px, p.low_px),
    }
}

fn said_variance(r: &RoleLook) -> String {
    match (&r.variance, &r.no_variance) {
        (Some(v), _) => format!(
            "{}: artists {}, drawings of one artist {}, lines of one drawing {}. A line's spread is {:.2} px; with all artists alike it would be {:.2}.",
            r.role,
            said_part(v.artist),
            said_part(v.drawing),
            said_part(v.line),
            v.whole_px,
            v.calibrated_px
        ),
        (None, why) => format!("{}: {}.", r.role, why.as_deref().unwrap_or("not known")),
    }
}

/// Rows of groups, columns of roles, each a dot with its interval on the band.
fn dots(p: &mut Pages, look: &TeamLook) {
    const NAME: f64 = 30.0;
    const ROW: f64 = 9.5;
    const AT_ONCE: usize = 5;
    for roles in look.roles.chunks(AT_ONCE) {
        let cell = (p.width() - NAME) / roles.len().max(1) as f64;
        let head = |p: &mut Pages| {
            p.room(2.5 * ROW);
            p.y += 3.4;
            for (k, r) in roles.iter().enumerate() {
                p.word(&format!("{} {:.1} px ±{:.0} %", r.role, r.weight.target, 100.0 * r.weight.tolerance), NAME + cell * k as f64, 2.5, true, INK);
            }
            p.y += 1.2;
            p.rule();
        };
        head(p);
        for name in &look.groups {
            if p.y + ROW > p.size[1] - MARGIN {
                p.room(ROW);
                head(p);
            }
            let top = p.y;
            p.y = top + 5.6;
            let short: String = if length(name, 3.2, true) > NAME - 2.0 { name.chars().take(14).chain(['…']).collect() } else { name.clone() };
            p.word(&short, 0.0, 3.2, true, INK);
            for (k, r) in roles.iter().enumerate() {
                let x = MARGIN + NAME + cell * k as f64;
                match r.standings.iter().find(|s| s.name == *name) {
                    Some(s) => dot(p, r, s, [x, top, cell - 3.0]),
                    None => p.word("not drawn", x - MARGIN, 2.5, false, SOFT),
                }
            }
            p.y = top + ROW;
            p.rule();
        }
        p.y += 2.0;
    }
}

fn dot(p: &mut Pages, r: &RoleLook, s: &GroupWeight, [x, top, wide]: [f64; 3]) {
    let range = (2.4 * r.weight.tolerance).max(0.24);
    let at = |px: f64| x + wide * (0.5 + 0.5 * ((px / r.weight.target - 1.0) / range).clamp(-0.97, 0.97));
    let [low, high] = r.weight.band();
    p.bar([at(low), top + 1.0, at(high) - at(low), 4.0], BAND);
    let rgb = colour(s.verdict);
    if let Some([a, b]) = s.now_interval_px {
        p.bar([at(a), top + 2.8, (at(b) - at(a)).max(0.2), 0.4], rgb);
    }
    let (cx, cy) = (at(s.now_px), top + 3.0);
    let round = (0..24).map(|k| (f64::from(k) * std::f64::consts::TAU / 24.0).sin_cos()).map(|(s, c)| [cx + 1.1 * c, cy + 1.1 * s]).collect();
    p.push(Outline { paths: vec![round] }, rgb);
    p.y = top + 8.2;
    let drawings = s.since.as_ref().map_or_else(|| s.drawings.to_string(), |c| format!("{} of {}", c.drawings, s.drawings));
    p.word(&format!("{:.2} px, {drawings} drawings", s.now_px), x - MARGIN, 2.2, false, rgb);
}

/// The report as CSV: one row a group and role; px of the guide's page.
pub fn csv(look: &TeamLook) -> String {
    let mut out = Table::new();
    let mut row = |r: &[String]| out.row(r);
    let head = [
        "role",
        "target_px",
        "tolerance",
        "drawings",
        "mean_px",
        "mean_low_px",
        "mean_high_px",
        "now_px",
        "now_low_px",
        "now_high_px",
        "verdict",
        "since",
        "drift_px",
    ];
    row(&[&[look.by.name().to_string()], head.map(String::from).as_slice()].concat());
    let px = |v: f64| format!("{v:.3}");
    for r in &look.roles {
        for s in &r.standings {
            let end = |i: Option<[f64; 2]>, k: usize| i.map_or_else(String::new, |i| px(i[k]));
            row(&[
                s.name.clone(),
                r.role.clone(),
                r.weight.target.to_string(),
                r.weight.tolerance.to_string(),
                s.drawings.to_string(),
                px(s.mean_px),
                end(s.interval_px, 0),
                end(s.interval_px, 1),
                px(s.now_px),
                end(s.now_interval_px, 0),
                end(s.now_interval_px, 1),
                verdict_word(s.verdict).to_string(),
                s.since.as_ref().map_or_else(String::new, |c| c.day.clone()),
                s.drift_px.map_or_else(String::new, px),
            ]);
        }
    }
    out.finish()
}

fn verdict_word(verdict: Option<Verdict>) -> &'static str {
    verdict.map_or("too few drawings", Verdict::says)
}
