//! How ink was mixed with paper: coverage of edge pixels is uniform over sub-pixel phases, so its mean is one half for the true way.

/// Coverage of edge pixels read both ways: uniform over sub-pixel phases, so its mean is one half for the true way.
#[derive(Default)]
pub(super) struct Edges {
    pub(super) count: f64,
    pub(super) encoded: f64,
    pub(super) linear: f64,
    /// How often each sixteenth of the range was met: lines along the pixels show a phase or two, which tells nothing.
    pub(super) met: [f64; 16],
}

impl Edges {
    /// One more edge pixel, by its share of ink read both ways.
    pub(super) fn push(&mut self, encoded: f32, linear: f32) {
        self.count += 1.0;
        self.encoded += f64::from(encoded);
        self.linear += f64::from(linear);
        self.met[((encoded * 16.0) as usize).min(15)] += 1.0;
    }

    pub(super) fn add(&mut self, other: &Self) {
        self.count += other.count;
        self.encoded += other.encoded;
        self.linear += other.linear;
        self.met.iter_mut().zip(other.met).for_each(|(m, more)| *m += more);
    }

    /// Only where it is beyond doubt: the mean of uniform shares is off by 0.27/√n, and neighbours on an edge repeat one
    /// another, so that eight deviations are asked for.
    pub(super) fn say_linear(&self) -> bool {
        let off = |sum: f64| (sum / self.count - 0.5).abs();
        self.count >= 50.0
            && self.met.iter().filter(|m| **m > 0.02 * self.count).count() >= 7
            && off(self.linear) + 0.05 < off(self.encoded)
            && off(self.encoded) > 8.0 * 0.27 / self.count.sqrt()
    }
}
