//! Any bytes as a record, and what is judged from it.

#![no_main]

use bradawl_judgement::judge;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let Ok(record) = Record::from_json(data) else { return };
    for file in &record.tables {
        let table = Table::parse(file.bytes.bytes().unwrap_or_default());
        if table.check_size().is_ok() {
            let _ = judge(&record, &table);
        }
    }
});
