//! Any text as a file of hosts: no name may be an option or shell text.

#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|text: &str| {
    for host in bradawl_remote::parse_hosts(text).into_iter().flatten() {
        assert!(!host.name.starts_with('-') && !host.name.contains(['/', ' ', '$', ';', '`', '\n']));
    }
});
