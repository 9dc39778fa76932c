//! What a brush may be: every number, shape and picture checked.

use crate::{
    InkError,
    brush::{Brush, Ends, FORMAT, NibShape, Shaped, SmoothingKind, StrokeKind},
    curve::Curve,
    kinds::Laying,
    polygon, strip,
};

const MOST_HAIRS: u32 = 200;

impl Brush {
    /// Checks every number of the brush; the error names the field and what it may be.
    pub fn validate(&self) -> Result<(), InkError> {
        let bad = |field: &str, problem: &str| Err(InkError::BadBrush { field: field.into(), problem: problem.into() });
        if self.format != FORMAT || self.version != 1 {
            return bad("format", "must be eddymist/brush, version 1");
        }
        if self.name.trim().is_empty() {
            return bad("name", "a brush needs a name");
        }
        let weight = Curve::new(&self.weight).map_err(|e| InkError::BadBrush { field: "weight".into(), problem: e.to_string() })?;
        let knots = weight.knots();
        if knots.iter().any(|k| !(0.0..=1.0).contains(&k[0])) {
            return bad("weight", "efforts lie between 0 and 1");
        }
        if knots.iter().any(|k| !(0.001..=100.0).contains(&k[1])) {
            return bad("weight", "widths lie between 0.001 and 100 mm");
        }
        if knots.windows(2).any(|w| w[1][1] < w[0][1]) {
            return bad("weight", "the width may not fall as effort rises");
        }
        if let Some(b) = self.nib.breadth
            && !(b > 0.0 && b <= 1.0)
        {
            return bad("nib.breadth", "the breadth is a share of the length, over 0 and up to 1");
        }
        if [self.nib.angle_deg, self.nib.pull_deg.unwrap_or(0.0)].iter().any(|a| !a.is_finite()) {
            return bad("nib.angle_deg", "angles are numbers of degrees");
        }
        if !(0.0..=360.0).contains(&self.nib.turn_range_deg) {
            return bad("nib.turn_range_deg", "lies between 0 and 360 degrees");
        }
        if !(0.0..=100.0).contains(&self.nib.opening_mm.unwrap_or(0.0)) {
            return bad("nib.opening_mm", "lies between 0 and 100 mm");
        }
        if !(0.05..=20.0).contains(&self.nib.widen_by_tilt.unwrap_or(1.0)) {
            return bad("nib.widen_by_tilt", "lies between 0.05 and 20 times the breadth");
        }
        if matches!(self.nib.shape, NibShape::Polygon | NibShape::Drawn) {
            let Some(rings) = self.nib.rings() else { return bad("nib.points", "a polygon or drawn nib needs the corners of its shape") };
            if self.nib.shape == NibShape::Polygon && rings.len() > 1 {
                return bad("nib.pieces", "a polygon is one piece; a drawn shape may have several");
            }
            polygon::Shape::new(&rings).map_err(|e| InkError::BadBrush { field: "nib.points".into(), problem: e.to_string() })?;
        }
        if let Some(p) = self.pooling
            && !((0.1..=20.0).contains(&p.ratio) && p.time_s > 0.0 && p.time_s <= 60.0)
        {
            return bad("pooling", "a ratio of 0.1 to 20, a time over 0 up to 60 s");
        }
        if let Some(j) = self.chance
            && !((0.0..=1.0).contains(&j.spread) && (0.0..=1000.0).contains(&j.correlation_mm))
        {
            return bad("chance", "a spread of 0 to 1 of the width, a correlation of 0 to 1000 mm");
        }
        if !(0.0..=1000.0).contains(&self.smoothing.lift_guard_ms) {
            return bad("smoothing.lift_guard_ms", "lies between 0 and 1000 ms");
        }
        if matches!(self.smoothing.effort, SmoothingKind::Tow { .. } | SmoothingKind::Faired { .. }) {
            return bad("smoothing.effort", "effort is smoothed by adaptive or average; tow and faired are for position");
        }
        if !(0.0..=100.0).contains(&self.floor_mm) {
            return bad("floor_mm", "lies between 0 and 100 mm");
        }
        for (name, taper) in [("lead_in", &self.lead_in), ("lead_out", &self.lead_out)] {
            let Some(t) = taper else { continue };
            let fine = (0.0..=1000.0).contains(&t.length_mm)
                && (0.0..=1.0).contains(&t.share)
                && (0.0..=100.0).contains(&t.tip_width_mm)
                && t.shape > 0.0
                && t.shape <= 10.0
                && (0.0..=1e5).contains(&t.over_mm_s);
            if !fine {
                return bad(name, "length 0 to 1000 mm, share 0 to 1, tip 0 to 100 mm, shape over 0 up to 10, speed 0 or more");
            }
        }
        if let Some(p) = &self.pace {
            let pace = Curve::new(p).map_err(|e| InkError::BadBrush { field: "pace".into(), problem: e.to_string() })?.knots();
            let rises = pace.windows(2).all(|w| w[1][1] >= w[0][1]);
            let falls = pace.windows(2).all(|w| w[1][1] <= w[0][1]);
            if !(rises || falls) || pace.iter().any(|k| !(0.0..=1e5).contains(&k[0]) || !(0.001..=20.0).contains(&k[1])) {
                return bad("pace", "speeds of 0 to 100000 mm/s, factors of 0.001 to 20 that only rise or only fall with the speed");
            }
        }
        for (field, kind) in [("smoothing.position", &self.smoothing.position), ("smoothing.effort", &self.smoothing.effort)] {
            let fine = match kind {
                SmoothingKind::None => true,
                SmoothingKind::Adaptive { min_cutoff_hz, speed_coefficient } => {
                    *min_cutoff_hz > 0.0 && min_cutoff_hz.is_finite() && *speed_coefficient >= 0.0 && speed_coefficient.is_finite()
                }
                SmoothingKind::Average { span_ms: v } | SmoothingKind::Tow { slack_mm: v } | SmoothingKind::Faired { tolerance_mm: v } => {
                    *v >= 0.0 && v.is_finite()
                }
            };
            if !fine {
                return bad(field, "a cut-off over 0 Hz, all else 0 or more");
            }
        }
        if !(0.0..=1.0).contains(&self.opacity.floor) || !(0.0..=1.0).contains(&self.opacity.full) {
            return bad("opacity", "lies between 0 and 1");
        }
        if [self.edge.softness_mm, self.edge.raggedness_um, self.edge.correlation_um].iter().any(|v| !(0.0..=1e5).contains(v)) {
            return bad("edge", "softness, raggedness and correlation are 0 or more");
        }
        if let Some(uri) = &self.edge.strip_png {
            strip::Strip::read(uri).map_err(|e| InkError::BadBrush { field: "edge.strip_png".into(), problem: e.to_string() })?;
        }
        let hex = self.colour.strip_prefix('#').unwrap_or("");
        if hex.len() != 6 || !hex.chars().all(|c| c.is_ascii_hexdigit()) {
            return bad("colour", "is written #rrggbb");
        }
        self.stroke_kind_is_fine()
    }

    fn stroke_kind_is_fine(&self) -> Result<(), InkError> {
        let bad = |field: &str, problem: &str| Err(InkError::BadBrush { field: field.into(), problem: problem.into() });
        match &self.stroke {
            StrokeKind::Shaped(Shaped { ends, caps, break_over_deg, .. }) => {
                if *ends == Ends::Keep && caps.is_none() {
                    return bad("stroke.caps", "ends that keep their length need the shares of the shape that they take");
                }
                let caps = caps.unwrap_or_default();
                if caps.iter().any(|c| !(0.0..=1.0).contains(c)) || caps[0] + caps[1] > 1.0 {
                    return bad("stroke.caps", "shares of the shape's length, together no more than 1");
                }
                if break_over_deg.is_some_and(|d| !(5.0..=180.0).contains(&d)) {
                    return bad("stroke.break_over_deg", "lies between 5 and 180 degrees");
                }
            }
            StrokeKind::DryBrush { hairs, spread, snap, ink_held } => {
                if !(1..=MOST_HAIRS).contains(hairs) {
                    return bad("stroke.hairs", "a dry brush has 1 to 200 hairs");
                }
                if !(0.0..=1.0).contains(spread) || !(0.0..=1.0).contains(snap) || !(0.0..=10.0).contains(ink_held) {
                    return bad("stroke", "spread and snap lie between 0 and 1, the ink held between 0 and 10");
                }
            }
            StrokeKind::Stamped(s) => {
                if !(0.01..=20.0).contains(&s.spacing) {
                    return bad("stroke.spacing", "lies between 0.01 and 20 of the tip's size");
                }
                let fine = (0.0..=2.0).contains(&s.size_range) && (0.0..=2.0).contains(&s.spacing_range);
                if !fine || !(0.0..=360.0).contains(&s.angle_range_deg) || !(0.0..=20.0).contains(&s.stray) {
                    return bad("stroke", "ranges of size and spacing lie between 0 and 2, of the angle up to 360 degrees, the stray up to 20");
                }
            }
            StrokeKind::Swept | StrokeKind::Pixel => {}
        }
        // Reading its shape and pictures checks them.
        Laying::new(self, 1.0).map(drop)
    }
}
