//! A simulated card of ISO/IEC 7810 ID-1 that lies in a photo: its round corners, its thickness, what is printed on it, the shadow it throws.

/// What is on it: laws of which a finder may know none.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Print {
    Plain,
    /// A dark stripe along it, and a lighter field under that, as on many backs.
    Stripe,
    /// Waves of another light all over, cut off at the rim.
    Waves,
}

/// A card as it lies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Card {
    /// Its middle on the sheet, mm.
    pub at_mm: [f64; 2],
    pub turn_deg: f64,
    pub reflectance: f64,
    pub print: Print,
    pub thick_mm: f64,
    /// How far to the right and down its shadow reaches, mm, and how deep it is.
    pub shadow_mm: f64,
    pub shadow_depth: f64,
}

const SIZE: [f64; 2] = [85.6, 53.98];
const RADIUS: f64 = 3.18;

impl Card {
    pub fn lying(at_mm: [f64; 2], turn_deg: f64) -> Self {
        Self { at_mm, turn_deg, reflectance: 0.12, print: Print::Plain, thick_mm: 0.76, shadow_mm: 0.6, shadow_depth: 0.35 }
    }

    /// How far inside its rim a place of the sheet lies, mm; and where on the card it is.
    fn inside(&self, mm: [f64; 2]) -> (f64, [f64; 2]) {
        let (s, c) = self.turn_deg.to_radians().sin_cos();
        let (x, y) = (mm[0] - self.at_mm[0], mm[1] - self.at_mm[1]);
        let p = [c * x + s * y, c * y - s * x];
        let q = [0, 1].map(|i| p[i].abs() - 0.5 * SIZE[i] + RADIUS);
        let out = q[0].max(0.0).hypot(q[1].max(0.0)) + q[0].max(q[1]).min(0.0) - RADIUS;
        (-out, p)
    }

    /// The light that its face gives back, of a place in mm from the sheet's middle; none beside it.
    pub(crate) fn face(&self, from_middle: [f64; 2], size_mm: [f64; 2]) -> Option<f64> {
        let (within, p) = self.inside([0, 1].map(|i| from_middle[i] + 0.5 * size_mm[i]));
        let r = self.reflectance;
        (within > 0.0).then(|| match self.print {
            Print::Plain => r,
            Print::Stripe if p[1] > -20.0 && p[1] < -8.0 => 0.06,
            Print::Stripe if p[1] > -3.0 && p[1] < 6.0 && p[0] < 20.0 && p[0] > -38.0 => 0.7,
            Print::Stripe => r,
            Print::Waves => r * (1.0 + 0.5 * (1.1 * p[0] + 2.0 * (0.4 * p[1]).sin()).sin() * (0.7 * p[1]).cos()),
        })
    }

    /// What of the light its shadow leaves.
    pub(crate) fn shadow(&self, mm: [f64; 2]) -> f64 {
        let (within, _) = self.inside([mm[0] - self.shadow_mm, mm[1] - self.shadow_mm]);
        1.0 - self.shadow_depth / (1.0 + (-within / 0.25).exp())
    }
}
