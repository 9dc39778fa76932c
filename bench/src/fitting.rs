//! Curves through a stroke's outline: ours beside kurbo's own (`simplify_bezpath`, both of its ways), by what is left of the outline, how
//! many pieces it takes, and how long.

use std::{collections::HashMap, time::Instant};

use eddymist_ink::{Brush, Inker, Outline, Sample, Stroke, fitting::fit_outline, outline::signed_area};
use kurbo::{
    BezPath, PathEl, PathSeg, Point,
    simplify::{SimplifyOptLevel, SimplifyOptions, simplify_bezpath},
};

/// As the lift has it, mm; corners turn by more than this, radians.
const WITHIN_MM: f64 = 0.002;
const CORNER: f64 = 0.55;
/// Places of a piece that are looked at.
const PLACES: usize = 12;

/// A spiral of so many samples, its arms 1.5 mm apart.
fn spiral(n: usize) -> Stroke {
    let turns = n as f64 / 150.0;
    let at = |i: usize| {
        let u = i as f64 / (n - 1) as f64;
        let (a, r) = (std::f64::consts::TAU * turns * u, 2.0 + 1.5 * turns * u);
        Sample { t_ms: 5.0 * i as f64, x: r * a.cos(), y: r * a.sin(), pressure: Some(0.5), ..Sample::default() }
    };
    Stroke::new((0..n).map(at).collect())
}

/// The outline's sides, in cells of a millimetre.
struct Sides(HashMap<(i64, i64), Vec<[[f64; 2]; 2]>>);

impl Sides {
    fn new(outline: &Outline) -> Self {
        let mut cells: HashMap<(i64, i64), Vec<[[f64; 2]; 2]>> = HashMap::new();
        for ring in &outline.paths {
            for (k, p) in ring.iter().enumerate() {
                let q = ring[(k + 1) % ring.len()];
                let cell = |a: f64, b: f64| (a.min(b) - 0.5).floor() as i64..=(a.max(b) + 0.5).floor() as i64;
                for x in cell(p[0], q[0]) {
                    cell(p[1], q[1]).for_each(|y| cells.entry((x, y)).or_default().push([*p, q]));
                }
            }
        }
        Self(cells)
    }

    /// Distance of a place, mm; half a millimetre where none is near.
    fn off(&self, c: [f64; 2]) -> f64 {
        let to = |[p, q]: &[[f64; 2]; 2]| {
            let (dx, dy) = (q[0] - p[0], q[1] - p[1]);
            let t = (((c[0] - p[0]) * dx + (c[1] - p[1]) * dy) / (dx * dx + dy * dy).max(1e-18)).clamp(0.0, 1.0);
            (c[0] - p[0] - t * dx).hypot(c[1] - p[1] - t * dy)
        };
        self.0.get(&(c[0].floor() as i64, c[1].floor() as i64)).into_iter().flatten().map(to).fold(0.5, f64::min)
    }
}

fn report(what: &str, outline: &Outline, fitted: &BezPath, ms: f64) {
    let sides = Sides::new(outline);
    let rings: Vec<Vec<[f64; 2]>> = outline.paths.clone();
    let area: f64 = rings.iter().map(|r| signed_area(r)).sum();
    let segments: Vec<PathSeg> = fitted.segments().collect();
    let place = |s: &PathSeg, k: usize| {
        let p = kurbo::ParamCurve::eval(s, k as f64 / PLACES as f64);
        [p.x, p.y]
    };
    let worst = segments.iter().flat_map(|s| (0..PLACES).map(move |k| place(s, k))).map(|c| sides.off(c)).fold(0.0, f64::max);
    let now = kurbo::Shape::area(fitted);
    println!(
        "{what}\tpieces, worst µm, area off ppm, ms\t{}, {:.2}, {:.0}, {ms:.1}",
        segments.len(),
        1000.0 * worst,
        1e6 * (now.abs() / area.abs() - 1.0).abs()
    );
}

/// Ours beside kurbo's.
pub fn run() {
    for n in [300, 6000, 20_000] {
        let Ok(inker) = Inker::new(&Brush::plain("b", 0.5), None, None) else { return };
        let outline = inker.ink(&spiral(n)).outline(0.0005);
        let t = Instant::now();
        let ours = fit_outline(&outline, WITHIN_MM);
        let ms = t.elapsed().as_secs_f64() * 1000.0;
        let point = |p: [f64; 2]| Point::new(p[0], p[1]);
        let mut path = BezPath::new();
        for c in &ours {
            path.move_to(point(c.start));
            c.cubics.iter().for_each(|[a, b, e]| path.curve_to(point(*a), point(*b), point(*e)));
            path.close_path();
        }
        report(&format!("a spiral of {n} samples, ours"), &outline, &path, ms);
        let polygon: Vec<PathEl> = outline
            .paths
            .iter()
            .flat_map(|r| {
                let rest = r.iter().skip(1).chain(r.first()).map(|p| PathEl::LineTo(point(*p)));
                r.first().map(|p| PathEl::MoveTo(point(*p))).into_iter().chain(rest).chain([PathEl::ClosePath]).collect::<Vec<_>>()
            })
            .collect();
        // The other way takes two minutes of the longest.
        let ways = [("subdividing", SimplifyOptLevel::Subdivide), ("optimising", SimplifyOptLevel::Optimize)];
        for (how, level) in ways.into_iter().take(if n > 6000 { 1 } else { 2 }) {
            let options = SimplifyOptions::default().opt_level(level).angle_thresh(CORNER);
            let t = Instant::now();
            let theirs = simplify_bezpath(polygon.iter().copied(), WITHIN_MM, &options);
            report(&format!("a spiral of {n} samples, kurbo {how}"), &outline, &theirs, t.elapsed().as_secs_f64() * 1000.0);
        }
    }
}
