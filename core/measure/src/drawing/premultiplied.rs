//! Premultiplied colours: red, green, blue and alpha, so that nothing is a colour like any other.

/// Red, green, blue and alpha, premultiplied, 0…255.
pub(super) type Colour = [u8; 4];

/// A pixel premultiplied.
pub(super) fn premultiplied(p: [u8; 4]) -> Colour {
    if p[3] == 255 {
        return p;
    }
    let a = u32::from(p[3]);
    let m = |c: u8| ((u32::from(c) * a + 127) / 255) as u8;
    [m(p[0]), m(p[1]), m(p[2]), p[3]]
}

/// The colour of a premultiplied one, with its alpha.
pub(super) fn unpremultiplied(c: [u8; 4]) -> [u8; 4] {
    let a = u32::from(c[3]).max(1);
    [c[0], c[1], c[2]].map(|v| (u32::from(v) * 255 / a).min(255) as u8).into_iter().chain([c[3]]).collect::<Vec<u8>>().try_into().unwrap_or(c)
}

#[inline]
pub(super) fn alike(a: Colour, b: Colour, by: u8) -> bool {
    a.iter().zip(b).all(|(x, y)| x.abs_diff(y) <= by)
}

#[cfg(test)]
mod tests {
    use super::unpremultiplied;

    #[test]
    fn a_colour_comes_back_from_its_alpha() {
        assert_eq!(unpremultiplied([60, 30, 0, 120]), [127, 63, 0, 120]);
        assert_eq!(unpremultiplied([0; 4]), [0; 4]);
    }
}
