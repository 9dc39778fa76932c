//! Planes that measuring needs, kept from one drawing to the next and blanked where they were touched.
//!
//! How: one set a thread. Limits: memory stays at the largest drawing's, eight bytes a pixel.

use std::cell::RefCell;

use super::ink::{PAPER, Pixel};

/// All planes that measuring one layer needs.
#[derive(Default)]
pub struct Planes {
    pub pixels: Vec<Pixel>,
    pub distance2: Vec<u16>,
    pub halves: [Half; 2],
}

/// What tracing one half of a drawing's pieces needs: two threads trace at once, each on planes of its own.
#[derive(Default)]
pub struct Half {
    /// Not blank when given back: whoever needs it fills it first.
    pub near: Vec<u8>,
    pub seen: Vec<u8>,
}

thread_local! {
    static KEPT: RefCell<Planes> = RefCell::default();
}

/// Blank planes of `n` pixels.
pub fn take(n: usize) -> Planes {
    let mut p = KEPT.take();
    if p.pixels.len() != n {
        p = Planes { pixels: vec![PAPER; n], distance2: vec![0; n], halves: [(); 2].map(|()| Half { near: vec![0; n], seen: vec![0; n] }) };
    }
    p
}

/// Blanks what was touched and keeps the planes for the next drawing on this thread; `seen` must be blank already.
pub fn give_back(mut p: Planes, touched: &[u32]) {
    rayon::join(|| blank(&mut p.distance2, touched, 0), || blank(&mut p.pixels, touched, PAPER));
    KEPT.set(p);
}

/// Sets some pixels of a plane.
pub fn blank<T: Copy>(plane: &mut [T], pixels: &[u32], with: T) {
    pixels.iter().for_each(|&i| plane[i as usize] = with);
}
