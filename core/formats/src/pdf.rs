//! One page of outlines and pictures as PDF, at true size.

use eddymist_ink::outline::Path;
use krilla::{
    Document,
    geom::{PathBuilder, Point, Size, Transform},
    image::Image,
    metadata::Metadata,
    num::NormalizedF32,
    page::PageSettings,
    paint::Fill,
    text::{Font, TextDirection},
};

use crate::{
    ReadError,
    lettering::{BOLD, REGULAR},
};

/// What is drawn, in mm from the page's top left corner.
pub enum Mark {
    /// Filled by the non-zero rule, in sRGB, with an opacity.
    Paths { paths: Vec<Path>, rgb: [u8; 3], alpha: f64 },
    /// Words from their base line's left end, `size` mm to the em: text that can be searched and read out.
    Words { text: String, at: [f64; 2], size: f64, bold: bool, rgb: [u8; 3] },
    /// A PNG at `[left, top, width, height]`.
    Png { bytes: Vec<u8>, area: [f64; 4] },
}

fn pt(mm: f64) -> f32 {
    (mm * 72.0 / 25.4) as f32
}

/// Pages of one size.
pub fn pages(size_mm: [f64; 2], title: &str, pages: &[Vec<Mark>]) -> Result<Vec<u8>, ReadError> {
    let failed = |what: &str| ReadError::Kind(format!("“{title}” could not be written as PDF: {what}"));
    let mut document = Document::new();
    let fonts = [REGULAR, BOLD].map(|f| Font::new(f.to_vec().into(), 0));
    for marks in pages {
        let settings = PageSettings::from_wh(pt(size_mm[0]), pt(size_mm[1])).ok_or_else(|| failed("its page has no size"))?;
        let mut page = document.start_page_with(settings);
        let mut surface = page.surface();
        for mark in marks {
            match mark {
                Mark::Paths { paths, rgb, alpha } => {
                    let mut all = PathBuilder::new();
                    for path in paths {
                        for (i, p) in path.iter().enumerate() {
                            if i == 0 {
                                all.move_to(pt(p[0]), pt(p[1]));
                            } else {
                                all.line_to(pt(p[0]), pt(p[1]));
                            }
                        }
                        all.close();
                    }
                    let Some(path) = all.finish() else { continue };
                    let paint = krilla::color::rgb::Color::new(rgb[0], rgb[1], rgb[2]).into();
                    let opacity = NormalizedF32::new(alpha.clamp(0.0, 1.0) as f32).unwrap_or(NormalizedF32::ONE);
                    surface.set_fill(Some(Fill { paint, opacity, ..Fill::default() }));
                    surface.draw_path(&path);
                }
                Mark::Words { text, at, size, bold, rgb } => {
                    let Some(font) = fonts[usize::from(*bold)].clone() else { continue };
                    let paint = krilla::color::rgb::Color::new(rgb[0], rgb[1], rgb[2]).into();
                    surface.set_fill(Some(Fill { paint, ..Fill::default() }));
                    surface.draw_text(Point::from_xy(pt(at[0]), pt(at[1])), font, pt(*size), text, false, TextDirection::LeftToRight);
                }
                Mark::Png { bytes, area: [x, y, w, h] } => {
                    let image = Image::from_png(bytes.clone().into(), true).map_err(|e| failed(&e))?;
                    let size = Size::from_wh(pt(*w), pt(*h)).ok_or_else(|| failed("a picture has no size"))?;
                    surface.push_transform(&Transform::from_translate(pt(*x), pt(*y)));
                    surface.draw_image(image, size);
                    surface.pop();
                }
            }
        }
        surface.finish();
        page.finish();
    }
    document.set_metadata(Metadata::new().title(title.to_string()));
    document.finish().map_err(|e| failed(&format!("{e:?}")))
}
