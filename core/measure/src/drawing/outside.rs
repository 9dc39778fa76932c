//! Which lines border the outside of the drawing: paper that is reached from its border.
//!
//! How: paper flooded from the border inward; a line is an outline where over half of its places have outside beside them. Limits: a gap in an
//! outline lets the outside in.

use super::{
    Line, Plan, Source,
    ink::{HALF, Ink},
};

/// The outside, and the roles that ask for it.
pub struct Outside<'a> {
    ink: &'a Ink,
    paper: Vec<bool>,
    outline: usize,
    rest: Option<usize>,
}

/// Finds the outside, if the plan has a role by outline.
pub fn find<'a>(ink: &'a Ink, plan: &Plan) -> Option<Outside<'a>> {
    let outline = plan.roles.iter().position(|r| *r == Source::Outline)?;
    let (w, h) = (ink.width, ink.height);
    let mut paper = vec![false; w * h];
    let mut stack: Vec<usize> = (0..w).flat_map(|x| [x, (h - 1) * w + x]).chain((0..h).flat_map(|y| [y * w, y * w + w - 1])).collect();
    while let Some(i) = stack.pop() {
        if paper[i] || ink.pixels[i].coverage >= HALF {
            continue;
        }
        paper[i] = true;
        let (x, y) = (i % w, i / w);
        if x > 0 {
            stack.push(i - 1);
        }
        if x + 1 < w {
            stack.push(i + 1);
        }
        if y > 0 {
            stack.push(i - w);
        }
        if y + 1 < h {
            stack.push(i + w);
        }
    }
    Some(Outside { ink, paper, outline, rest: plan.roles.iter().position(|r| *r == Source::Rest) })
}

impl Outside<'_> {
    /// The role of a line whose ink was found as `class`; none when no role takes it.
    pub fn role_of(&self, line: &Line, class: usize) -> Option<usize> {
        if class != self.outline.min(self.rest.unwrap_or(usize::MAX)) {
            return Some(class);
        }
        let n = line.points.len();
        let beside = (0..n)
            .filter(|&i| {
                let (a, b) = (&line.points[i.saturating_sub(1)], &line.points[(i + 1).min(n - 1)]);
                let (dx, dy) = (f64::from(b.x - a.x), f64::from(b.y - a.y));
                let len = dx.hypot(dy).max(1e-9);
                let p = &line.points[i];
                let reach = 0.5 * f64::from(p.width) + 2.0;
                [reach, -reach].iter().any(|r| self.is_outside(f64::from(p.x) - dy / len * r, f64::from(p.y) + dx / len * r))
            })
            .count();
        if beside * 2 > n { Some(self.outline) } else { self.rest }
    }

    fn is_outside(&self, x: f64, y: f64) -> bool {
        x < 0.0 || y < 0.0 || x >= self.ink.width as f64 || y >= self.ink.height as f64 || self.paper[y as usize * self.ink.width + x as usize]
    }
}
