//! The colours of a drawing's ink: those that lines were drawn in and no others, whatever lies between ink and paper.

use eddymist_measure::{
    Picture,
    colour::{delta_e, lab_of},
    drawing::palette::inks,
};
use proptest::prelude::*;

const W: usize = 240;
const H: usize = 180;

/// Level lines 4 px wide with a soft edge of a px, one under the other, each in its colour; on paper of a colour or clear.
fn sheet(colours: &[[u8; 3]], paper: Option<[u8; 3]>) -> Vec<u8> {
    let mut rgba = vec![0u8; 4 * W * H];
    for (i, p) in rgba.as_chunks_mut::<4>().0.iter_mut().enumerate() {
        let (x, y) = (i % W, i / W);
        let (k, within) = (y / 20, y % 20);
        let inside = (20..W - 20).contains(&x);
        let cover = match within {
            8..=11 if inside => 1.0,
            7 | 12 if inside => 0.4,
            _ => 0.0,
        };
        let ink = colours.get(k).copied().unwrap_or([0; 3]);
        let cover = if k < colours.len() { cover } else { 0.0 };
        match paper {
            Some(paper) => {
                for c in 0..3 {
                    p[c] = (f64::from(paper[c]) + cover * (f64::from(ink[c]) - f64::from(paper[c]))).round() as u8;
                }
                p[3] = 255;
            }
            None => p.copy_from_slice(&[ink[0], ink[1], ink[2], (255.0 * cover) as u8]),
        }
    }
    rgba
}

fn found(rgba: &[u8]) -> Vec<[u8; 3]> {
    let mut out = inks(&Picture::new(W, H, rgba).expect("a picture"));
    out.sort_unstable();
    out
}

/// Colours far from one another, from the paper, and from one another's mixtures with it.
fn apart(colours: &[[u8; 3]]) -> bool {
    let far = |a: [u8; 3], b: [u8; 3]| delta_e(lab_of(a), lab_of(b)) > 12.0;
    let mixed = |c: [u8; 3], share: f64| c.map(|v| (255.0 + share * (f64::from(v) - 255.0)).round() as u8);
    colours
        .iter()
        .enumerate()
        .all(|(i, a)| far(*a, [255; 3]) && colours.iter().enumerate().all(|(j, b)| i == j || (0..=20).all(|s| far(*a, mixed(*b, f64::from(s) / 20.0)))))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    /// Each colour is found exactly and once; the edges' mixtures with the paper, level and long as they are, are none.
    #[test]
    fn colours_are_those_of_the_lines(colours in prop::collection::vec(prop::array::uniform3(0u8..=200), 1..6)) {
        prop_assume!(apart(&colours));
        let mut wanted = colours.clone();
        wanted.sort_unstable();
        prop_assert_eq!(found(&sheet(&colours, Some([255; 3]))), wanted.clone());
        prop_assert_eq!(found(&sheet(&colours, None)), wanted);
    }
}

#[test]
fn paper_alone_has_none_and_specks_of_colour_are_no_ink() {
    assert!(found(&sheet(&[], Some([255; 3]))).is_empty());
    assert!(found(&sheet(&[], Some([230, 220, 200]))).is_empty());
    let mut rgba = sheet(&[[16, 16, 16]], Some([255; 3]));
    for x in 30..38 {
        rgba[4 * (100 * W + x)..][..3].copy_from_slice(&[200, 20, 20]);
    }
    assert_eq!(found(&rgba), [[16, 16, 16]]);
    // Two shades nearer than the eye tells apart are one ink, the more used.
    let two = found(&sheet(&[[16, 16, 16], [16, 16, 16], [18, 17, 16]], Some([255; 3])));
    assert_eq!(two, [[16, 16, 16]]);
    // Yellowed paper is paper, however much of it there is.
    assert_eq!(found(&sheet(&[[30, 40, 90]], Some([240, 232, 214]))), [[30, 40, 90]]);
}
