//! Says how a host boots, and what to change, from the record of a survey.
//!
//! `cargo run -p bradawl-library --example verdict -- demo/quayside.json`

use bradawl_library::{Consequence, advise, judge, read_record, table_of};
use std::error::Error;

#[allow(clippy::print_stdout, clippy::disallowed_methods)] // a program
fn main() -> Result<(), Box<dyn Error>> {
    let path = std::env::args().nth(1).ok_or("give the file of a record")?;
    let record = read_record(&std::fs::read(&path)?)?;
    let table = table_of(&record)?.ok_or("the record has no table")?;

    let judgement = judge(&record, &table);
    println!("{}: {}", record.host.name, judgement.forecast.verdict);
    for finding in judgement.findings.iter().filter(|f| f.consequence <= Consequence::Missing) {
        let line = finding.line.map(|n| format!(" line {n}")).unwrap_or_default();
        println!("{}{line}: {} ({})", finding.consequence.name(), finding.message, finding.rule);
    }
    if let Some(advice) = advise(&record, &table, &judgement) {
        for step in &advice.steps {
            println!("line {}: {}", step.line, step.what);
        }
        println!("then {}", advice.verdict);
    }
    Ok(())
}
