//! Putting the fields of all entries into columns.

use super::entry_on;
use bradawl_facts::table::{LineKind, Table};

/// Wider fields do not push the others' columns.
const WIDEST: usize = 48;

/// The table with the fields of its entries below each other. Comments, blank
/// lines and lines with bytes that are no text keep theirs.
pub fn align(table: &Table) -> Table {
    let rows: Vec<Option<Vec<String>>> = table.lines().iter().map(|l| row(table, l.number)).collect();
    let mut widths = [0; 6];
    for row in rows.iter().flatten() {
        for (width, field) in widths.iter_mut().zip(row) {
            let columns = field.chars().count();
            *width = (*width).max(if columns > WIDEST { 0 } else { columns });
        }
    }
    let mut out = Vec::with_capacity(table.bytes().len());
    for (line, row) in table.lines().iter().zip(&rows) {
        match row {
            Some(row) => out.extend_from_slice(laid_out(row, &widths).as_bytes()),
            None => out.extend_from_slice(table.slice(line.text)),
        }
        out.extend_from_slice(table.slice(line.ending));
    }
    Table::parse(out)
}

/// The fields of an entry that can be laid out anew.
fn row(table: &Table, number: usize) -> Option<Vec<String>> {
    let line = table.line(number).filter(|l| l.kind == LineKind::Entry)?;
    let text = std::str::from_utf8(table.slice(line.text)).ok()?;
    let text = text.strip_suffix('\r').unwrap_or(text);
    if text.contains(|c: char| c.is_control() && c != '\t') {
        return None;
    }
    let fields = entry_on(table, number)?.fields;
    fields.iter().map(|span| String::from_utf8(table.slice(*span).to_vec()).ok()).collect()
}

/// Fields behind the sixth are no columns.
fn laid_out(row: &[String], widths: &[usize; 6]) -> String {
    let mut out = String::new();
    for (n, field) in row.iter().enumerate() {
        out.push_str(field);
        if n + 1 < row.len() {
            let width = widths.get(n).copied().unwrap_or(0);
            let gap = width.saturating_sub(field.chars().count()) + if n < 5 { 2 } else { 1 };
            out.push_str(&" ".repeat(gap));
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_line_up_and_comments_stay() {
        let table =
            Table::parse("# a  b\nLABEL=tides\t/srv/tides xfs noatime 0 0\n  b /b\text4 ro # why\r\n");
        let aligned = align(&table);
        let want = "# a  b\nLABEL=tides  /srv/tides  xfs   noatime  0  0\nb            /b          ext4  \
                    ro       #  why\r\n";
        // The carriage return belongs to the last field's line and stays.
        assert_eq!(String::from_utf8_lossy(aligned.bytes()), want);
        assert_eq!(align(&aligned), aligned);
    }
}
