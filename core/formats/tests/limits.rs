//! The limits themselves: what is over one is refused with it in the sentence, whatever the numbers; what is within is read; smaller limits
//! come in from the door like the program's own.

use std::io::{Cursor, Write};

use eddymist_formats::{LIMITS, Limits, ReadError, archive, drawings, images, inkml};
use image::{DynamicImage, GrayImage, ImageFormat};
use proptest::prelude::*;

fn png(w: u32, h: u32) -> Vec<u8> {
    let mut out = Cursor::new(Vec::new());
    DynamicImage::ImageLuma8(GrayImage::from_pixel(w, h, image::Luma([200]))).write_to(&mut out, ImageFormat::Png).expect("encoded");
    out.into_inner()
}

fn archived(entries: usize, bytes: &[u8]) -> Vec<u8> {
    let mut z = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for k in 0..entries {
        z.start_file(format!("{k}.png"), zip::write::SimpleFileOptions::default()).expect("an entry");
        z.write_all(bytes).expect("written");
    }
    z.finish().expect("closed").into_inner()
}

proptest! {
    /// Whatever a header says: no sum overflows, and what is refused is told with its limit.
    #[test]
    fn any_numbers_are_held_against_the_limits(w in any::<u64>(), h in any::<u64>(), layers in any::<u64>(), most in 1u64..1 << 40) {
        let limits = Limits { pixels: most, layer_pixels: most, bytes: most, ..LIMITS };
        let wide = u128::from(w) * u128::from(h);
        prop_assert_eq!(limits.picture(w, h).is_ok(), wide <= u128::from(most) && wide < u128::from(u64::MAX));
        if let Err(e) = limits.picture(w, h) {
            prop_assert!(e.to_string().contains(&format!("{w}×{h}")), "{e}");
        }
        prop_assert_eq!(limits.file(w).is_ok(), w <= most);
        let held = limits.layers(layers, w, h);
        prop_assert_eq!(held.is_ok(), wide <= u128::from(most) && wide * u128::from(layers) <= u128::from(most));
    }

    #[test]
    fn pictures_are_read_up_to_the_limit_that_came_in(w in 1u32..40, h in 1u32..40, most in 1u64..1600) {
        let limits = Limits { pixels: most, ..LIMITS };
        let fits = u64::from(w * h) <= most;
        let bytes = png(w, h);
        prop_assert_eq!(images::dimensions(&bytes, &limits).is_ok(), fits);
        prop_assert_eq!(images::rgba(&bytes, &limits).is_ok(), fits);
        prop_assert_eq!(images::scan(&bytes, Some(300.0), &limits).is_ok(), fits);
        match drawings::read(&bytes, false, &limits) {
            Ok(d) => prop_assert!(fits && d.layers.len() == 1),
            Err(e) => prop_assert_eq!(e, ReadError::TooLarge { width: w.into(), height: h.into(), most }),
        }
    }

    #[test]
    fn archives_are_read_up_to_their_entries(entries in 0usize..12, most in 0u64..12) {
        let limits = Limits { entries: most, ..LIMITS };
        let bytes = archived(entries, b"x");
        let names = archive::names(Cursor::new(&bytes), &limits);
        prop_assert_eq!(names.is_ok(), entries as u64 <= most);
        prop_assert!(names.map_or(true, |n| n.len() == entries));
    }

    #[test]
    fn strokes_are_read_up_to_their_samples(lengths in prop::collection::vec(1usize..9, 1..9), one in 1usize..9, all in 1usize..40) {
        let traces: String = lengths.iter().map(|n| format!("<trace>{}</trace>", vec!["1 2"; *n].join(","))).collect();
        let limits = Limits { stroke_samples: one, samples: all, ..LIMITS };
        let read = inkml::read(&format!("<ink>{traces}</ink>"), &limits);
        let fits = lengths.iter().all(|n| *n <= one) && lengths.iter().sum::<usize>() <= all;
        prop_assert_eq!(read.is_ok(), fits, "{:?}", read.err());
    }
}

/// Bytes, too: an entry is not unpacked past what a file may have.
#[test]
fn entries_are_unpacked_up_to_the_bytes_of_a_file() {
    let bytes = archived(2, &vec![7; 5000]);
    for (most, reads) in [(4999, false), (5000, true)] {
        let limits = Limits { bytes: most, ..LIMITS };
        archive::entries(Cursor::new(&bytes), &limits, |_, data| {
            assert_eq!(data.is_ok(), reads, "{most}");
            true
        })
        .expect("an archive");
    }
    assert!(archive::names(Cursor::new(&bytes), &Limits { entries_bytes: 9999, ..LIMITS }).is_err());
}
