//! Arrays that a kernel made, of every level and layout (lab/record-arrays.py): what
//! is read through their members is what it read.

use super::*;
use bradawl_facts::probe::identify;
use bradawl_facts::record::{Content, ContentKind};
use sha2::{Digest as _, Sha256};
use std::collections::HashMap;
use std::io::Read as _;
use std::sync::Arc;

/// What is known of an array: its name, the sum of its bytes, the files of its members.
pub(crate) type Recorded = (String, String, Vec<String>);

/// The packed members by their names, and the arrays.
pub(crate) fn recorded(name: &str) -> (HashMap<String, Vec<u8>>, Vec<Recorded>) {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures");
    let packed = std::fs::File::open(format!("{folder}/{name}.tar.zst")).unwrap();
    let mut archive = tar::Archive::new(ruzstd::decoding::StreamingDecoder::new(packed).unwrap());
    let (mut members, mut manifest) = (HashMap::new(), String::new());
    for entry in archive.entries().unwrap() {
        let mut entry = entry.unwrap();
        let name = entry.path().unwrap().display().to_string().trim_start_matches("./").to_owned();
        if name == "MANIFEST" {
            entry.read_to_string(&mut manifest).unwrap();
        } else {
            let mut bytes = Vec::new();
            entry.read_to_end(&mut bytes).unwrap();
            members.insert(name, bytes);
        }
    }
    let line = |line: &str| {
        let [name, sum, _, files] = line.split('\t').collect::<Vec<_>>().try_into().unwrap();
        (name.to_owned(), sum.to_owned(), files.split(' ').map(str::to_owned).collect())
    };
    (members, manifest.lines().map(line).collect())
}

pub(crate) fn sum(view: &View) -> Option<String> {
    let mut bytes = vec![0; usize::try_from(view.size()).unwrap()];
    let read = view.read_at(0, &mut bytes).ok()?;
    assert_eq!(read, bytes.len());
    Some(Sha256::digest(&bytes).iter().map(|byte| format!("{byte:02x}")).collect())
}

/// The members in these files, and what is said of each.
fn opened(bytes: &mut HashMap<String, Vec<u8>>, files: &[String]) -> Vec<(Content, View)> {
    let open = |file: &String| {
        let bytes = bytes.remove(file).unwrap();
        (identify(&bytes).unwrap(), View::of(Arc::new(bytes)))
    };
    files.iter().map(open).collect()
}

/// Its first and its last bytes.
fn ends(view: &View) -> Vec<u8> {
    const SOME: usize = 600 << 10;
    let mut bytes = vec![0; 2 * SOME];
    let (first, last) = bytes.split_at_mut(SOME);
    view.read_at(0, first).unwrap();
    view.read_at(view.size() - SOME as u64, last).unwrap();
    bytes
}

#[test]
fn every_layout_is_read_as_the_kernel_reads_it() {
    let (mut bytes, arrays) = recorded("arrays");
    let (mut whole, mut without) = (0, 0);
    for (name, expected, files) in &arrays {
        let members = opened(&mut bytes, files);
        assert!(members.iter().all(|(content, _)| content.kind == ContentKind::RaidMember), "{name}");
        let read = |left_out: Option<usize>| {
            let there: Vec<(&Content, View)> = members
                .iter()
                .enumerate()
                .filter(|(n, _)| Some(*n) != left_out)
                .map(|(_, (content, view))| (content, view.clone()))
                .collect();
            assembled(&there)
        };
        let all = read(None).unwrap_or_else(|| panic!("{name}"));
        assert_eq!(sum(&all).as_ref(), Some(expected), "{name}");
        whole += 1;
        // One that left before is absent already.
        let bears = !name.starts_with("raid0") && !name.contains("stale");
        for n in (0..members.len()).filter(|_| bears) {
            let some = read(Some(n)).unwrap_or_else(|| panic!("{name} without {n}"));
            assert_eq!(some.size(), all.size(), "{name} without {n}");
            assert!(ends(&some) == ends(&all), "{name} without {n}");
            without += 1;
        }
        if name.starts_with("raid0") {
            assert!(read(Some(0)).is_none(), "{name} has nothing to spare");
        }
    }
    println!("{whole} arrays as the kernel reads them, {without} times without a member");
    assert!(whole >= 29, "{whole}");
}

#[test]
fn chains_and_unequal_stripes_are_read_as_the_kernel_reads_them() {
    let (mut bytes, all) = recorded("volumes");
    let arrays: Vec<&Recorded> = all.iter().filter(|(name, ..)| !name.contains('/')).collect();
    for (name, expected, files) in &arrays {
        let members = opened(&mut bytes, files);
        let there = |from: usize| -> Vec<(&Content, View)> {
            members[from..].iter().map(|(content, view)| (content, view.clone())).collect()
        };
        let array = assembled(&there(0)).unwrap_or_else(|| panic!("{name}"));
        assert_eq!(sum(&array).as_ref(), Some(expected), "{name}");
        assert!(assembled(&there(1)).is_none(), "{name} has nothing to spare");
    }
    assert_eq!(arrays.len(), 8, "three chains, four unequal stripes, an equal one");
}
