//! The option catalogue against what real kernels answered.
//!
//! `fixtures/options.tsv`: type, options, and for each kernel `+` (mounted) or
//! `-` (refused). The promise tested here: whatever a kernel took is never
//! called refused, but for the rows listed; how much of what it refused is
//! seen is printed, and may not fall.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_core::options::{KernelVersion, Verdict, check};
use bradawl_core::table::Table;

/// Accepted rows whose options are called refused all the same: accidents of
/// one kernel's or mount program's reading that nobody should write.
const TOLERATED: [&str; 1] = ["noatime\""];

struct Row {
    fstype: String,
    options: String,
    answers: Vec<(KernelVersion, bool)>,
}

fn rows() -> Vec<Row> {
    let path = format!("{}/tests/fixtures/options.tsv", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).unwrap();
    text.lines()
        .map(|line| {
            let mut cells = line.split('\t');
            let mut cell = || cells.next().unwrap().to_owned();
            let (fstype, options, answers) = (cell(), cell(), cell());
            let answers = answers
                .split(' ')
                .map(|a| (KernelVersion::parse(&a[..a.len() - 1]).unwrap(), a.ends_with('+')))
                .collect();
            Row { fstype, options, answers }
        })
        .collect()
}

fn refused(row: &Row, kernel: KernelVersion) -> bool {
    let field = String::from_utf8(bradawl_core::table::encode(row.options.as_bytes())).unwrap();
    let table =
        Table::parse(format!("s /t {} {}", row.fstype, if field.is_empty() { "defaults" } else { &field }));
    let verdicts = check(&row.fstype, &table.entries()[0].options, Some(kernel));
    verdicts.iter().any(|v| v.verdict == Verdict::Refused)
}

#[test]
fn what_a_kernel_took_is_not_called_refused() {
    let mut wrong = Vec::new();
    let (mut seen, mut all) = (0, 0);
    for row in rows() {
        for &(kernel, accepted) in &row.answers {
            let refused = refused(&row, kernel);
            if accepted && refused && !TOLERATED.contains(&row.options.as_str()) {
                wrong.push(format!("{} {} on {kernel}", row.fstype, row.options));
            }
            if !accepted {
                all += 1;
                seen += usize::from(refused);
            }
        }
    }
    println!("{seen} of {all} refusals foreseen");
    assert!(wrong.is_empty(), "{} false alarms: {wrong:#?}", wrong.len());
    assert!(seen * 100 >= all * 75, "{seen} of {all}");
}
