//! Planes of a byte or two a pixel, kept from one drawing to the next: to clear the ink's own pixels is far cheaper than
//! to fetch and blank new memory for the whole page.

use std::cell::RefCell;

use super::classify::NONE;

/// All planes that measuring one layer needs.
#[derive(Default)]
pub struct Planes {
    pub coverage: Vec<u8>,
    pub role: Vec<u8>,
    pub distance2: Vec<u16>,
    pub mark: Vec<u8>,
    pub seen: Vec<u8>,
}

thread_local! {
    static KEPT: RefCell<Planes> = RefCell::default();
}

/// Blank planes of `n` pixels.
pub fn take(n: usize) -> Planes {
    let mut p = KEPT.take();
    if p.coverage.len() != n {
        p = Planes { coverage: vec![0; n], role: vec![NONE; n], distance2: vec![0; n], mark: vec![0; n], seen: vec![0; n] };
    }
    p
}

/// Blanks what was touched, of `mark` and `seen` only the skeleton, and keeps the planes for the next drawing on this thread.
pub fn give_back(mut p: Planes, touched: &[u32], skeleton: &[u32]) {
    fn blank<T: Copy>(plane: &mut [T], pixels: &[u32], with: T) {
        pixels.iter().for_each(|&i| plane[i as usize] = with);
    }
    rayon::join(
        || {
            blank(&mut p.distance2, touched, 0);
            blank(&mut p.mark, skeleton, 0);
            blank(&mut p.seen, skeleton, 0);
        },
        || {
            blank(&mut p.coverage, touched, 0);
            blank(&mut p.role, touched, NONE);
        },
    );
    KEPT.set(p);
}
