//! The skeleton as chains of pixels between ends and junctions, with the spurs that explain no ink pruned.
//!
//! How: a branch whose tip reaches hardly further than its junction's own disc is a spur, unless it is the line's own end folded back. Limits: a
//! junction is placed at the middle of its pixels. Common practice, no source.

use std::collections::HashMap;

use super::{
    ink::Ink,
    thin::{AROUND, Skeleton},
};

/// A junction: the middle of its pixels and the ink's half width there, px.
#[derive(Debug, Clone, Copy)]
pub struct Node {
    pub x: f64,
    pub y: f64,
    pub radius: f64,
}

/// Pixels in order, and the junctions at its two ends.
#[derive(Debug, Clone)]
pub struct Chain {
    pub role: u8,
    pub pixels: Vec<u32>,
    pub nodes: [Option<usize>; 2],
    pub closed: bool,
}

pub struct Graph {
    pub nodes: Vec<Node>,
    pub chains: Vec<Chain>,
}

/// At a line's end a branch this much longer than the next, and than the ink's half width, is the line's own, folded back.
const HOOK_ALONE: f64 = 1.5;
const HOOK_LONG: f64 = 1.1;

const SEEN: u8 = 1;
const JUNCTION: u8 = 2;

struct Tracer<'a> {
    ink: &'a Ink,
    skeleton: &'a Skeleton<'a>,
    w: usize,
    seen: &'a mut [u8],
    /// The node that a junction's pixel belongs to; looked up only where the skeleton is marked as a junction.
    junction: HashMap<u32, usize>,
}

/// Traces and prunes.
pub fn trace(ink: &Ink, skeleton: &Skeleton, seen: &mut [u8]) -> Graph {
    let w = ink.width;
    let (mut junction_pixels, mut tips) = (Vec::new(), Vec::new());
    for &i in &skeleton.pixels {
        match skeleton.near[i as usize].count_ones() {
            0 | 1 => tips.push(i),
            2 => {}
            _ => junction_pixels.push(i),
        }
    }
    let mut t = Tracer { ink, skeleton, w, seen, junction: HashMap::new() };
    for &j in &junction_pixels {
        t.seen[j as usize] = JUNCTION;
    }
    let nodes = t.cluster(&junction_pixels);
    let mut chains = Vec::new();
    for &j in &junction_pixels {
        let node = t.junction[&j];
        for p in t.around(j as usize) {
            if !t.is_junction(p) && !t.is_seen(p) {
                chains.push(t.walk(p, Some(node)));
            }
        }
    }
    for p in tips {
        if !t.is_seen(p) {
            chains.push(t.walk(p, None));
        }
    }
    for k in 0..skeleton.pixels.len() {
        let p = skeleton.pixels[k];
        if !t.is_seen(p) && !t.is_junction(p) {
            let mut chain = t.walk(p, None);
            let (a, b) = (chain.pixels[0] as usize, chain.pixels[chain.pixels.len() - 1] as usize);
            chain.closed = chain.pixels.len() > 3 && (a % w).abs_diff(b % w) <= 1 && (a / w).abs_diff(b / w) <= 1;
            chains.push(chain);
        }
    }
    let mut graph = Graph { nodes, chains };
    for _ in 0..2 {
        graph.prune(ink);
        graph.join(w);
    }
    graph
}

impl Tracer<'_> {
    fn around(&self, i: usize) -> impl Iterator<Item = u32> + use<> {
        let bits = self.skeleton.near[i];
        let w = self.w as isize;
        // Straight neighbours first, so that a walk takes the stairs pixel by pixel.
        [1, 3, 5, 7, 0, 2, 4, 6].into_iter().filter(move |k| bits & (1 << k) != 0).map(move |k: usize| (i as isize + AROUND[k].1 * w + AROUND[k].0) as u32)
    }

    fn is_junction(&self, p: u32) -> bool {
        self.seen[p as usize] == JUNCTION
    }

    fn is_seen(&self, p: u32) -> bool {
        self.seen[p as usize] == SEEN
    }

    fn cluster(&mut self, pixels: &[u32]) -> Vec<Node> {
        let mut nodes = Vec::new();
        for &p in pixels {
            if self.junction.contains_key(&p) {
                continue;
            }
            let mut stack = vec![p];
            let mut all = Vec::new();
            self.junction.insert(p, nodes.len());
            while let Some(q) = stack.pop() {
                all.push(q as usize);
                for n in self.around(q as usize) {
                    if self.is_junction(n) && !self.junction.contains_key(&n) {
                        self.junction.insert(n, nodes.len());
                        stack.push(n);
                    }
                }
            }
            let count = all.len() as f64;
            nodes.push(Node {
                x: all.iter().map(|i| (i % self.w) as f64 + 0.5).sum::<f64>() / count,
                y: all.iter().map(|i| (i / self.w) as f64 + 0.5).sum::<f64>() / count,
                radius: all.iter().map(|&i| self.ink.distance(i) - 0.5).fold(0.5, f64::max),
            });
        }
        nodes
    }

    fn walk(&mut self, start: u32, from: Option<usize>) -> Chain {
        let role = self.ink.pixels[start as usize].role;
        let mut chain = Chain { role, pixels: vec![start], nodes: [from, None], closed: false };
        let mut here = start;
        loop {
            self.seen[here as usize] = SEEN;
            let (mut next, mut junction) = (None, None);
            for p in self.around(here as usize) {
                match self.seen[p as usize] {
                    JUNCTION => junction = junction.or_else(|| self.junction.get(&p).copied().filter(|n| chain.pixels.len() > 1 || Some(*n) != from)),
                    SEEN => {}
                    _ => next = next.or(Some(p)),
                }
            }
            if let Some(n) = junction
                && (chain.pixels.len() > 2 || Some(n) != from)
            {
                chain.nodes[1] = Some(n);
                return chain;
            }
            let Some(next) = next else { return chain };
            chain.pixels.push(next);
            here = next;
        }
    }
}

impl Graph {
    /// Takes away branches whose tip reaches hardly further than the junction's own disc.
    fn prune(&mut self, ink: &Ink) {
        let nodes = &self.nodes;
        let spur = |c: &Chain| {
            let (node, tip) = match (c.nodes, c.pixels.first(), c.pixels.last()) {
                ([Some(n), None], _, Some(&tip)) | ([None, Some(n)], Some(&tip), _) => (nodes[n], tip as usize),
                _ => return None,
            };
            let way = ((tip % ink.width) as f64 + 0.5 - node.x).hypot((tip / ink.width) as f64 + 0.5 - node.y);
            let beyond = way + ink.distance(tip) - 0.5 - node.radius;
            (beyond < 0.6 * node.radius + 1.0).then_some(way)
        };
        let spurs: Vec<Option<f64>> = self.chains.iter().map(spur).collect();
        // A star of nothing but spurs is a dot or a short tick: its longest branches stay as the line.
        let mut at: HashMap<usize, Vec<usize>> = HashMap::new();
        for (i, c) in self.chains.iter().enumerate() {
            for n in c.nodes.iter().flatten() {
                at.entry(*n).or_default().push(i);
            }
        }
        let mut keep = vec![true; self.chains.len()];
        for branches in at.values() {
            let mut all: Vec<usize> = branches.iter().copied().filter(|&i| spurs[i].is_some()).collect();
            if all.len() == branches.len() {
                all.sort_by(|a, b| spurs[*b].unwrap_or(0.0).total_cmp(&spurs[*a].unwrap_or(0.0)));
                all.drain(..2.min(all.len()));
            } else if all.len() + 1 == branches.len() && !all.is_empty() {
                // One line ends here. Its corners are two short branches much alike; a hook that lies against it is one long one.
                all.sort_by(|a, b| spurs[*b].unwrap_or(0.0).total_cmp(&spurs[*a].unwrap_or(0.0)));
                let way = |k: usize| all.get(k).and_then(|i| spurs[*i]).unwrap_or(0.0);
                let radius = self.chains[all[0]].nodes.iter().flatten().map(|n| self.nodes[*n].radius).fold(0.0, f64::max);
                if way(0) > HOOK_ALONE * way(1) && way(0) > HOOK_LONG * radius {
                    all.remove(0);
                }
            }
            for i in all {
                keep[i] = false;
            }
        }
        let mut k = keep.into_iter();
        self.chains.retain(|_| k.next().unwrap_or(true));
    }

    /// Joins the two chains that a junction is left with, and frees the end of a single one.
    fn join(&mut self, w: usize) {
        let mut at: Vec<Vec<(usize, usize)>> = vec![Vec::new(); self.nodes.len()];
        for (i, c) in self.chains.iter().enumerate() {
            for (side, n) in c.nodes.iter().enumerate() {
                if let Some(n) = n {
                    at[*n].push((i, side));
                }
            }
        }
        let mut merged_into: Vec<usize> = (0..self.chains.len()).collect();
        for (n, ends) in at.iter().enumerate() {
            let here = self.nodes[n].y as usize * w + self.nodes[n].x as usize;
            match ends[..] {
                [(i, _)] => {
                    let i = root(&mut merged_into, i);
                    let c = &mut self.chains[i];
                    if c.nodes[0] == Some(n) {
                        c.nodes[0] = None;
                        c.pixels.insert(0, here as u32);
                    } else {
                        c.nodes[1] = None;
                        c.pixels.push(here as u32);
                    }
                }
                [(i, _), (j, _)] => {
                    let (i, j) = (root(&mut merged_into, i), root(&mut merged_into, j));
                    if i == j {
                        let c = &mut self.chains[i];
                        if c.nodes == [Some(n), Some(n)] {
                            c.nodes = [None, None];
                            c.pixels.push(here as u32);
                            c.closed = true;
                        }
                        continue;
                    }
                    let mut second = std::mem::replace(&mut self.chains[j], Chain { role: 0, pixels: Vec::new(), nodes: [None, None], closed: false });
                    if second.nodes[0] != Some(n) {
                        second.pixels.reverse();
                        second.nodes.swap(0, 1);
                    }
                    let first = &mut self.chains[i];
                    if first.nodes[1] != Some(n) {
                        first.pixels.reverse();
                        first.nodes.swap(0, 1);
                    }
                    first.pixels.push(here as u32);
                    first.pixels.append(&mut second.pixels);
                    first.nodes[1] = second.nodes[1];
                    merged_into[j] = i;
                }
                _ => {}
            }
        }
        self.chains.retain(|c| !c.pixels.is_empty());
    }
}

/// What a chain was merged into at last; the way there is halved for the next who asks. No union-find: which of two goes on is not for it to choose.
fn root(into: &mut [usize], mut i: usize) -> usize {
    while into[i] != i {
        into[i] = into[into[i]];
        i = into[i];
    }
    i
}
