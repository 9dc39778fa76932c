//! Numbers written into path data: a fixed number of decimals, without trailing zeros.

/// Adds `v` rounded to `decimals` (at most 6). Values beyond ±10¹² mm are written as they come.
pub fn push(out: &mut String, v: f64, decimals: u32) {
    let unit = 10u64.pow(decimals.min(6));
    let scaled = (v * unit as f64).round();
    if !scaled.is_finite() || scaled.abs() >= 1e17 {
        out.push_str(&v.to_string());
        return;
    }
    if scaled < 0.0 {
        out.push('-');
    }
    let n = scaled.abs() as u64;
    let (mut whole, mut part) = (n / unit, n % unit);
    let mut digits = [0u8; 20];
    let mut at = digits.len();
    loop {
        at -= 1;
        digits[at] = b'0' + (whole % 10) as u8;
        whole /= 10;
        if whole == 0 {
            break;
        }
    }
    digits[at..].iter().for_each(|d| out.push(char::from(*d)));
    if part > 0 {
        out.push('.');
        let mut step = unit / 10;
        while part > 0 {
            out.push(char::from(b'0' + (part / step) as u8));
            part %= step;
            step = (step / 10).max(1);
        }
    }
}

/// `x y`, parted by a space.
pub fn push_point(out: &mut String, p: [f64; 2], decimals: u32) {
    push(out, p[0], decimals);
    out.push(' ');
    push(out, p[1], decimals);
}

/// A closed polygon as SVG path data.
pub fn push_polygon(out: &mut String, path: &[[f64; 2]], decimals: u32) {
    for (i, p) in path.iter().enumerate() {
        out.push(if i == 0 { 'M' } else { 'L' });
        push_point(out, *p, decimals);
    }
    out.push('Z');
}
