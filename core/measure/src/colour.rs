//! sRGB, linear light and colour difference.
//!
//! Sources: IEC 61966-2-1 for the curve; CIE L*a*b* under D65 and CIEDE2000 (Sharma, Wu, Dalal 2005) by the palette crate.

use palette::{FromColor, Lab, LinSrgb, Srgb, color_difference::Ciede2000, white_point::D65};

/// An sRGB colour, encoded values 0…255.
pub type Rgb = [u8; 3];

/// Reads `#rrggbb`.
pub fn parse_hex(text: &str) -> Option<Rgb> {
    let h = text.strip_prefix('#').filter(|h| h.len() == 6 && h.is_ascii())?;
    let byte = |i: usize| u8::from_str_radix(&h[i..i + 2], 16).ok();
    Some([byte(0)?, byte(2)?, byte(4)?])
}

/// Linear light 0…1 of an encoded sRGB value 0…1 (IEC 61966-2-1).
pub fn linear(v: f32) -> f32 {
    if v <= 0.04045 { v / 12.92 } else { ((v + 0.055) / 1.055).powf(2.4) }
}

/// Encoded sRGB value 0…1 of linear light (IEC 61966-2-1).
pub fn encode(v: f32) -> f32 {
    if v <= 0.003_130_8 { 12.92 * v } else { 1.055 * v.powf(1.0 / 2.4) - 0.055 }
}

/// The same with all digits of 64 bits.
pub fn encode_f64(v: f64) -> f64 {
    if v <= 0.003_130_8 { 12.92 * v } else { 1.055 * v.powf(1.0 / 2.4) - 0.055 }
}

/// CIE L*a*b* under D65 of encoded sRGB values 0…255.
pub fn lab(rgb: [f32; 3]) -> Lab<D65, f32> {
    Lab::from_color(Srgb::new(rgb[0] / 255.0, rgb[1] / 255.0, rgb[2] / 255.0))
}

/// Linear light of an encoded byte, by table.
pub fn linear_of(v: u8) -> f32 {
    static TABLE: std::sync::LazyLock<[f32; 256]> = std::sync::LazyLock::new(|| std::array::from_fn(|v| linear(v as f32 / 255.0)));
    TABLE[v as usize]
}

/// CIE L*a*b* under D65 of encoded sRGB bytes.
pub fn lab_of(rgb: Rgb) -> Lab<D65, f32> {
    let [r, g, b] = rgb.map(linear_of);
    Lab::from_color(LinSrgb::new(r, g, b))
}

/// CIEDE2000 (Sharma, Wu, Dalal 2005) between two L*a*b* colours.
pub fn delta_e(a: Lab<D65, f32>, b: Lab<D65, f32>) -> f32 {
    a.difference(b)
}
