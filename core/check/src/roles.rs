//! A role in one drawing: its weight, what of it could be measured, its verdict, and its stretches that are heavy or thin.
//!
//! How: widths over the body of its lines (`weights`), the verdict by its interval (`verdict`); not checked where less than the guide's share
//! of what should be measured was. Limits: what lies in regions left out is no part of it.

use std::collections::BTreeMap;

use eddymist_measure::{
    drawing::{End, Line, Place, RoleLines},
    stats::median,
};

use crate::{
    document::{Finding, FindingKind, Hatching, RoleCheck, StretchPlace, Tapers, Unread, Verdict},
    guide::{LineGuide, Role, Weight},
    hand_on::share,
    stretches::{Standing, Stretch, outside},
    verdict::verdict,
    weights::{Own, body, weigh},
    words,
};

/// A role of the guide, in this drawing's px.
pub(crate) struct InDrawing<'a> {
    pub guide: &'a LineGuide,
    pub role: &'a Role,
    pub weight: Option<Weight>,
    /// What the measure itself may be off by.
    pub own: Own,
    /// It is looked at in a photo.
    pub photo: bool,
}

impl InDrawing<'_> {
    pub fn check(&self, found: &RoleLines, standing: &[Vec<(f64, Standing)>]) -> RoleCheck {
        let (mut length_px, mut measured_px, mut unread) = (0.0, 0.0, BTreeMap::new());
        for line in &found.lines {
            // A place stands for its share of the line.
            let each = line.length_px() / line.points.len().max(1) as f64;
            let count = |place: Place| line.points.iter().filter(|p| p.place == place).count() as f64 * each;
            length_px += line.length_px() - count(Place::LeftOut);
            measured_px += count(Place::Body);
            for (reason, place) in
                [(Unread::Leans, Place::Blocked), (Unread::Ground, Place::Unclear), (Unread::Soft, Place::Soft), (Unread::Masked, Place::Toned)]
            {
                *unread.entry(reason).or_insert(0.0) += count(place);
            }
        }
        if let Some(w) = self.weight.or(self.role.weight_px) {
            *unread.entry(Unread::Masked).or_insert(0.0) += found.toned_px2 / w.target.max(0.1);
        }
        // Of a photo no length is known in the page's pixels.
        if self.photo {
            unread = BTreeMap::from([(Unread::Photo, measured_px)]);
            measured_px = 0.0;
        }
        unread.retain(|_, px| *px >= 0.5);
        let mut widths: Vec<f64> = body(&found.lines).filter(|_| !self.photo).collect();
        let stats = weigh(&mut widths, &found.lines, self.own);
        let tapers: Vec<f64> = found
            .lines
            .iter()
            .flat_map(|l| l.ends)
            .filter_map(|e| match e {
                End::Free { taper_px, tapered: true } => Some(taper_px),
                _ => None,
            })
            .collect();
        let all = standing.iter().flatten().filter(|s| s.1 != Standing::Unmeasured);
        let (within, total) = all.fold((0usize, 0usize), |(w, n), s| (w + usize::from(s.1 == Standing::Within), n + 1));
        let read = share(measured_px, unread.values().copied());
        let enough = read >= self.guide.limits.least_measured;
        RoleCheck {
            role: self.role.name.clone(),
            length_px,
            measured_share: if length_px > 0.0 { (measured_px / length_px).min(1.0) } else { 0.0 },
            unread_px: unread,
            share_within: (total > 0).then(|| within as f64 / total as f64),
            verdict: self.weight.and_then(|w| match &stats {
                Some(s) if enough => Some(verdict(&w, s, &widths)),
                _ if length_px > 0.0 => Some(Verdict::NotChecked),
                _ => None,
            }),
            weight_px: stats,
            tapers_px: median(&tapers).filter(|_| !self.photo).map(|median| Tapers { median, ends: tapers.len() as u32 }),
            hatching: hatching(&found.lines),
        }
    }

    /// A line's stretches that are heavy, and those that are thin: one finding each.
    pub fn off_weight(&self, line: &Line, standing: &[(f64, Standing)]) -> Vec<Finding> {
        let Some(weight) = &self.weight else { return Vec::new() };
        let all = outside(line, standing, weight, self.guide.finish);
        [true, false].into_iter().filter_map(|heavy| self.one(weight, line, heavy, &all.iter().filter(|s| s.heavy == heavy).collect::<Vec<_>>())).collect()
    }

    fn one(&self, weight: &Weight, line: &Line, heavy: bool, all: &[&Stretch]) -> Option<Finding> {
        let [lo, hi] = weight.living();
        let (kind, limit) = if heavy { (FindingKind::Heavy, hi) } else { (FindingKind::Thin, lo) };
        let long = |s: &Stretch| (s.last - s.first + 1) as f64 * line.step_px;
        let worst = all.iter().max_by(|a, b| ((a.value - limit).abs() * long(a)).total_cmp(&((b.value - limit).abs() * long(b))))?;
        let place = |s: &Stretch| {
            let p = &line.points[(s.first + s.last) / 2];
            StretchPlace { x: f64::from(p.x), y: f64::from(p.y), length_px: long(s) }
        };
        let length: f64 = all.iter().map(|s| long(s)).sum();
        let at = place(worst);
        Some(Finding {
            role: Some(self.role.name.clone()),
            length_px: Some(length),
            must_mend: self.guide.must_mend.contains(&kind),
            stretches: if all.len() > 1 { all.iter().map(|s| place(s)).collect() } else { Vec::new() },
            ..Finding::new(kind, [at.x, at.y], worst.value, limit, words::off_weight(&self.role.name, heavy, worst.value, length, all.len(), weight))
        })
    }
}

/// What of a role's lines is hatching.
fn hatching(lines: &[Line]) -> Option<Hatching> {
    let of = || lines.iter().filter(|l| l.hatching);
    (of().next().is_some()).then(|| Hatching { strokes: of().count() as u32, length_px: of().map(Line::length_px).sum() })
}
