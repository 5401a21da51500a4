//! Any bytes as a table: nothing is lost, and it can be judged.

#![no_main]

use bradawl_judgement::judge;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let table = Table::parse(data);
    assert_eq!(table.bytes(), data);
    let mut record = Record::new("kelp");
    record.devices = Some(Vec::new());
    let judgement = judge(&record, &table);
    for finding in &judgement.findings {
        if let Some([first, last]) = finding.columns {
            assert!(first >= 1 && last >= first);
        }
    }
});
