//! Which of the dark at a picture's border lies beside the sheet, and which is a black that bleeds off it.
//!
//! How: a sheet is convex and its edges are straight. What lies outside the hull of the paper is beside it where that hull's side is a
//! straight edge that the paper touches, about as upright as the picture; a black cuts into the hull, or takes a corner of it. In blocks.
//! Limits: a black that takes a whole side of the sheet, its edge straight, is taken for a lid. Common practice, no source.

/// A straight edge: along so much of a side the paper ends no further than this from one line, blocks.
const TOUCHED: f64 = 0.4;
const STRAIGHT: f64 = 0.3;
/// Lines are tried through so many of its places.
const TRIED: usize = 24;
/// tan 20°: a sheet in a scanner is turned by less.
const TURN: f64 = 0.364;
/// A sheet's edge may curl inward by so much of the picture's mean side.
const CURL: f64 = 0.03;

/// Blocks of a picture, row by row.
pub(super) struct Blocks {
    pub across: usize,
    pub down: usize,
}

impl Blocks {
    fn beside(&self, b: usize) -> impl Iterator<Item = usize> + use<> {
        let (x, y, across, down) = (b % self.across, b / self.across, self.across, self.down);
        [(x > 0).then(|| b - 1), (x + 1 < across).then_some(b + 1), (y > 0).then(|| b - across), (y + 1 < down).then_some(b + across)].into_iter().flatten()
    }

    /// The joined pieces of those blocks.
    pub fn pieces(&self, of: impl Fn(usize) -> bool) -> Vec<Vec<usize>> {
        let mut left: Vec<bool> = (0..self.across * self.down).map(of).collect();
        let mut pieces = Vec::new();
        for from in 0..left.len() {
            if !std::mem::take(&mut left[from]) {
                continue;
            }
            let (mut piece, mut k) = (vec![from], 0);
            while let Some(b) = piece.get(k).copied() {
                k += 1;
                piece.extend(self.beside(b).filter(|n| std::mem::take(&mut left[*n])));
            }
            pieces.push(piece);
        }
        pieces
    }

    fn middle(&self, b: usize) -> [f64; 2] {
        [(b % self.across) as f64 + 0.5, (b / self.across) as f64 + 0.5]
    }

    fn block(&self, [x, y]: [f64; 2]) -> Option<usize> {
        (x >= 0.0 && y >= 0.0 && x < self.across as f64 && y < self.down as f64).then(|| y as usize * self.across + x as usize)
    }
}

/// Of the dark blocks, those beside the sheet. Where dark lies all round, the sheet is the greatest light piece, and all outside it is beside.
/// `is_dark` tells a place in the picture, in blocks, as sharply as its pixels do.
pub(super) fn beside(grid: &Blocks, dark: &[bool], all_round: bool, is_dark: impl Fn([f64; 2]) -> bool) -> Vec<bool> {
    let mut paper = grid.pieces(|b| !dark[b]);
    if all_round {
        paper.sort_by_key(|p| std::cmp::Reverse(p.len()));
        paper.truncate(1);
    }
    let corners = |b: usize| {
        let (x, y) = ((b % grid.across) as f64, (b / grid.across) as f64);
        [[x, y], [x + 1.0, y], [x, y + 1.0], [x + 1.0, y + 1.0]]
    };
    let hull = hull(paper.iter().flatten().flat_map(|b| corners(*b)).collect());
    let mut beside = vec![false; dark.len()];
    if hull.len() < 3 {
        return beside;
    }
    let deep: Vec<f64> = (0..dark.len()).map(|b| if dark[b] || all_round { depth(&hull, grid.middle(b)) } else { f64::MAX }).collect();
    let outside = |b: usize| (dark[b] || all_round) && deep[b] < 0.0;
    // The hull's sides by the sheet's four, and what is none of them; each of the four lies along its longest part.
    let part = |k: usize| [hull[k], hull[(k + 1) % hull.len()]];
    let side = |k: usize| {
        let [[ax, ay], [bx, by]] = part(k);
        let (dx, dy) = (bx - ax, by - ay);
        let turned = dx.abs().min(dy.abs()) > TURN * dx.abs().max(dy.abs());
        if turned && !all_round { 4 } else { 2 * usize::from(dx.abs() < dy.abs()) + usize::from(dx + dy > 0.0) }
    };
    let sides: Vec<usize> = (0..hull.len()).map(side).collect();
    // Of each, where the paper ends, seen from places along it that face the dark.
    let mut ends: [Vec<Option<[f64; 2]>>; 5] = Default::default();
    for (k, s) in sides.iter().enumerate() {
        let [a, b] = part(k);
        let long = length(&[a, b]);
        let (dx, dy) = ((b[0] - a[0]) / long, (b[1] - a[1]) / long);
        let steps = (2.0 * long).ceil() as usize;
        for step in 0..steps {
            let u = (step as f64 + 0.5) / steps as f64 * long;
            let place = |out: f64| [a[0] + u * dx + out * dy, a[1] + u * dy - out * dx];
            if grid.block(place(1.0)).is_some_and(outside) {
                let inward = (0..=32).map(|t| 2.0 - f64::from(t) / 8.0).find(|t| !is_dark(place(*t)));
                ends[*s].push(inward.filter(|t| *t < 2.0).map(place));
            }
        }
    }
    let lines: [Option<[[f64; 2]; 2]>; 5] = std::array::from_fn(|s| if s < 4 { straight(&ends[s]) } else { None });
    // A straight edge goes on past a corner that a black takes. In the hull's turn, though a side may begin where the hull's list ends.
    let turned = |(s, l): (usize, Option<[[f64; 2]; 2]>)| l.map(|[a, b]| if (b[0] - a[0] + b[1] - a[1] > 0.0) == (s % 2 == 1) { [a, b] } else { [b, a] });
    let lines: Vec<[[f64; 2]; 2]> = lines.into_iter().enumerate().filter_map(turned).collect();
    for (b, is) in beside.iter_mut().enumerate() {
        *is = outside(b) && (all_round || lines.iter().any(|l| from_line(l, grid.middle(b)) < -0.5));
    }
    // An edge that curls: shallow pockets that are joined to what lies beside.
    let curl = (CURL * (grid.across + grid.down) as f64 / 2.0).max(2.0);
    let shallow = |b: usize| if all_round { deep[b] <= curl } else { lines.iter().any(|l| from_line(l, grid.middle(b)) <= curl) };
    for piece in grid.pieces(|b| dark[b] && !beside[b]) {
        if piece.iter().all(|b| shallow(*b)) && piece.iter().any(|b| grid.beside(*b).any(|n| beside[n])) {
            piece.iter().for_each(|b| beside[*b] = true);
        }
    }
    beside
}

/// The line along which the paper ends; none where no one line has enough of the places.
fn straight(ends: &[Option<[f64; 2]>]) -> Option<[[f64; 2]; 2]> {
    let seen: Vec<[f64; 2]> = ends.iter().flatten().copied().collect();
    let tried: Vec<[f64; 2]> = (0..TRIED.min(seen.len())).map(|k| seen[k * seen.len() / TRIED.min(seen.len())]).collect();
    let pairs = tried.iter().enumerate().flat_map(|(k, a)| tried[k + 1..].iter().map(|b| [*a, *b]));
    let on = |line: &[[f64; 2]; 2]| seen.iter().filter(|p| from_line(line, **p).abs() < STRAIGHT).count();
    let (count, line) = pairs.map(|l| (on(&l), l)).max_by_key(|(n, _)| *n)?;
    (count as f64 >= TOUCHED * ends.len() as f64).then_some(line)
}

fn length([[ax, ay], [bx, by]]: &[[f64; 2]; 2]) -> f64 {
    (bx - ax).hypot(by - ay)
}

/// How far a place lies to the right of a line; below 0 to its left.
fn from_line(line: &[[f64; 2]; 2], [x, y]: [f64; 2]) -> f64 {
    let [[ax, ay], [bx, by]] = line;
    ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / length(line)
}

/// How deep a place lies in a hull; below 0 outside.
fn depth(hull: &[[f64; 2]], place: [f64; 2]) -> f64 {
    hull.iter().zip(hull.iter().cycle().skip(1)).map(|(a, b)| from_line(&[*a, *b], place)).fold(f64::MAX, f64::min)
}

/// The convex hull of points, turning right as the page is seen (Andrew's monotone chain, 1979).
fn hull(mut points: Vec<[f64; 2]>) -> Vec<[f64; 2]> {
    points.sort_by(|a, b| a[0].total_cmp(&b[0]).then(a[1].total_cmp(&b[1])));
    points.dedup();
    let half = |points: &mut dyn Iterator<Item = &[f64; 2]>| {
        let mut chain: Vec<[f64; 2]> = Vec::new();
        for p in points {
            while let [.., a, b] = chain[..]
                && (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) <= 0.0
            {
                chain.pop();
            }
            chain.push(*p);
        }
        chain.pop();
        chain
    };
    let mut all = half(&mut points.iter());
    all.extend(half(&mut points.iter().rev()));
    all
}
