//! Tables as CSV (RFC 4180) that a spreadsheet only shows: what it would take for a formula is given as text.

/// A table that grows by rows.
pub(crate) struct Table(csv::Writer<Vec<u8>>);

impl Table {
    pub fn new() -> Self {
        Self(csv::Writer::from_writer(Vec::new()))
    }

    pub fn row<S: AsRef<str>>(&mut self, cells: &[S]) {
        // Writing to memory does not fail.
        drop(self.0.write_record(cells.iter().map(|c| shown(c.as_ref()))));
    }

    pub fn finish(self) -> String {
        String::from_utf8(self.0.into_inner().unwrap_or_default()).unwrap_or_default()
    }
}

/// A cell as it is only shown: an apostrophe before what begins a formula and is no number. Common practice, no source.
fn shown(cell: &str) -> String {
    let formula = cell.trim_start().starts_with(['=', '+', '-', '@']) || cell.starts_with(['\t', '\r', '\n']);
    if formula && cell.parse::<f64>().is_err() { format!("'{cell}") } else { cell.to_string() }
}
