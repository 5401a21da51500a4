//! Any bytes as what the collector wrote: alone, and behind a sound head.

#![no_main]

use bradawl_survey::Survey;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let _ = Survey::default().collected(&[data]);
    let framed = [b"bradawl-collected 1 hex\n".as_slice(), data, b"\nend\n"].concat();
    let _ = Survey::default().collected(&[&framed]);
});
