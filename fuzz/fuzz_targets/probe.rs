//! Any bytes as a device. The input is a list of patches (two bytes of place,
//! in units of 256 bytes, one of length, then the bytes) on 144 KiB of zeros,
//! so that signatures far from the start are reached.

#![no_main]

use libfuzzer_sys::fuzz_target;

fuzz_target!(|data: &[u8]| {
    let mut disk = vec![0u8; 144 << 10];
    let mut rest = data;
    while let [high, low, length, tail @ ..] = rest {
        let at = usize::from(u16::from_be_bytes([*high, *low])) * 256 % disk.len();
        let length = usize::from(*length).min(tail.len()).min(disk.len() - at);
        disk[at..at + length].copy_from_slice(&tail[..length]);
        rest = &tail[length..];
    }
    let _ = bradawl_facts::probe::identify(&disk);
    let _ = bradawl_facts::probe::identify(&data.to_vec());
});
