//! Any bytes as what the collector wrote: alone, and behind a sound head.

#![no_main]

use bradawl_survey::Survey;
use bradawl_survey::collected::Collection;
use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let surveyed = |bytes: &[u8]| Collection::of(bytes).and_then(|all| Survey::default().collected(&all));
    let _ = surveyed(data);
    let framed = [b"bradawl-collected 1 hex\n".as_slice(), data, b"\nend\n"].concat();
    let _ = surveyed(&framed);
});
