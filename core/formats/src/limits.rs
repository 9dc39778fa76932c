//! What is too large to be read: checked before anything is decoded or allocated.

/// A picture larger than this is refused before it is decoded.
pub const MAX_PIXELS: u64 = 120_000_000;
