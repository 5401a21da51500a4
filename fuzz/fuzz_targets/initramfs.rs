//! Any bytes as an initramfs image: alone, and as what a sound header is followed by.

#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let _ = bradawl_initramfs::read(data);
    let _ = bradawl_initramfs::read([b"070701".as_slice(), data].concat().as_slice());
});
