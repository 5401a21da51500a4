//! What probes say of real images against what the images are by
//! construction.
//!
//! `fixtures/images` holds a selection, packed, with a manifest. With
//! `BRADAWL_IMAGES=FOLDER` the test goes through another collection of the
//! same form.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_facts::probe::{Bytes, identify};
use bradawl_facts::record::{Content, PartitionEntry};
use serde_json::Value;
use std::collections::HashMap;
use std::io::Read as _;
use std::path::{Path, PathBuf};

const PAGE: usize = 4096;
const ZEROS: [u8; PAGE] = [0; PAGE];

/// An image unpacked without its pages of zeros.
struct Sparse {
    pages: HashMap<u64, Vec<u8>>,
    from: u64,
    size: u64,
    read: std::cell::Cell<u64>,
}

impl Sparse {
    fn unpack(path: &Path) -> Self {
        let file = std::fs::File::open(path).unwrap();
        let mut decoder = ruzstd::decoding::StreamingDecoder::new(file).unwrap();
        let (mut pages, mut size) = (HashMap::new(), 0u64);
        let mut block = Vec::new();
        loop {
            block.clear();
            let n = decoder.by_ref().take(1 << 20).read_to_end(&mut block).unwrap();
            // Compared as slices: a loop over bytes is slow without optimisation.
            for (page, bytes) in (size / PAGE as u64..).zip(block.chunks(PAGE)) {
                if bytes != &ZEROS[..bytes.len()] {
                    pages.insert(page, bytes.to_vec());
                }
            }
            size += n as u64;
            if n < 1 << 20 {
                break;
            }
        }
        Sparse { pages, from: 0, size, read: std::cell::Cell::default() }
    }

    fn part(&self, entry: &PartitionEntry) -> Sparse {
        let size = entry.size.min(self.size.saturating_sub(entry.start));
        Sparse { pages: self.pages.clone(), from: entry.start, size, read: std::cell::Cell::default() }
    }
}

impl Bytes for Sparse {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> std::io::Result<usize> {
        let len = buffer.len().min(usize::try_from(self.size - offset.min(self.size)).unwrap());
        let mut done = 0;
        while done < len {
            let at = self.from + offset + done as u64;
            let within = usize::try_from(at).unwrap() % PAGE;
            let run = (PAGE - within).min(len - done);
            let page = self.pages.get(&(at / PAGE as u64)).and_then(|p| p.get(within..));
            let target = &mut buffer[done..done + run];
            target.fill(0);
            if let Some(bytes) = page {
                let have = bytes.len().min(run);
                target[..have].copy_from_slice(&bytes[..have]);
            }
            done += run;
        }
        self.read.set(self.read.get() + len as u64);
        Ok(len)
    }
}

fn folder() -> PathBuf {
    std::env::var_os("BRADAWL_IMAGES")
        .map_or_else(|| Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/images"), PathBuf::from)
}

/// Compares the promised keys; the list of differences.
fn differences(found: &Content, image: &Value, expect: &Value) -> Vec<String> {
    let found = serde_json::to_value(found).unwrap();
    let accepted = |key: &str, value: &Value| {
        image[key].as_array().is_some_and(|all| all.contains(value)) || image[key] == "any"
    };
    let kind = &found["kind"];
    if kind != &expect["kind"] {
        return if accepted("accept", kind) {
            vec![]
        } else {
            vec![format!("kind {kind}, expected {}", expect["kind"])]
        };
    }
    let mut wrong = Vec::new();
    for key in [
        "type",
        "uuid",
        "label",
        "version",
        "size",
        "block_size",
        "sub_uuid",
        "set_uuid",
        "level",
        "raid_devices",
        "device_number",
        "num_devices",
    ] {
        let Some(wanted) = expect.get(key) else { continue };
        let value = &found[key];
        let excused = match key {
            "type" => accepted("accept_types", value),
            "label" => accepted("accept_labels", value),
            "uuid" => expect["uuid_unchecked"] == true || expect["kind"] == "ambiguous",
            _ => false,
        };
        // What was cut off or overwritten cannot be known.
        let lost =
            (expect["truncated"] == true && key == "version") || (expect["damaged"] == true && key == "size");
        if value != wanted && !excused && !lost {
            wrong.push(format!("{key} {value}, expected {wanted}"));
        }
    }
    let name = expect.get("vg_name").filter(|n| !n.is_null() && expect["truncated"] != true);
    if let Some(name) = name.filter(|n| &found["group"]["name"] != *n) {
        wrong.push(format!("group {}, expected {name}", found["group"]));
    }
    wrong
}

fn partition_differences(image: &Sparse, manifest: &Value, found: &Content) -> Vec<String> {
    let mut wrong = Vec::new();
    let Some(wanted) = manifest["partitions"].as_array() else { return wrong };
    let entries: Vec<&PartitionEntry> =
        found.partitions.iter().chain(found.candidates.iter().flat_map(|c| &c.content.partitions)).collect();
    for part in wanted {
        let Some(entry) = entries.iter().find(|e| e.number == part["number"]) else {
            wrong.push(format!("partition {} is not found", part["number"]));
            continue;
        };
        let json = serde_json::to_value(entry).unwrap();
        for (key, own) in [
            ("start", "start"),
            ("size", "size"),
            ("partuuid", "uuid"),
            ("partlabel", "label"),
            ("type", "type"),
        ] {
            if part[key] != json[own] {
                wrong.push(format!(
                    "partition {}: {key} {}, expected {}",
                    part["number"], json[own], part[key]
                ));
            }
        }
        if part["expect"].is_object() && !entry.extended && !entry.out_of_range {
            let content = identify(&image.part(entry)).unwrap();
            wrong.extend(
                differences(&content, part, &part["expect"])
                    .iter()
                    .map(|d| format!("partition {}: {d}", part["number"])),
            );
        }
    }
    let at_least = manifest["at_least"] == true;
    if !at_least && entries.len() > wanted.len() {
        wrong.push(format!("{} partitions, expected {}", entries.len(), wanted.len()));
    }
    wrong
}

#[test]
fn images_are_what_they_were_made_as() {
    let folder = folder();
    let manifest: Value =
        serde_json::from_slice(&std::fs::read(folder.join("manifest.json")).unwrap()).unwrap();
    let mut wrong = Vec::new();
    let mut most_read = 0;
    for image in manifest.as_array().unwrap() {
        let name = image["file"].as_str().unwrap();
        let bytes = Sparse::unpack(&folder.join(name));
        let found = identify(&bytes).unwrap();
        most_read = most_read.max(bytes.read.get());
        let mut all = differences(&found, image, &image["expect"]);
        all.extend(partition_differences(&bytes, image, &found));
        wrong.extend(all.into_iter().map(|d| format!("{name}: {d}")));
    }
    println!("{} images, at most {most_read} bytes read of one", manifest.as_array().unwrap().len());
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(most_read < 1 << 20);
}

/// Made with mkfs.btrfs and `btrfs subvolume`: at the top, in directories, below
/// each other, and forty snapshots.
#[test]
fn subvolumes_of_a_btrfs_are_told() {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/btrfs-subvolumes.img.zst");
    let image = Sparse::unpack(&path);
    let mut found = identify(&image).unwrap().subvolumes.unwrap();
    found.retain(|name| !name.starts_with('s'));
    assert_eq!(found, ["@", "@/a/b", "@/nested", "@home", "dir/inner/snap"]);
    assert!(image.read.get() < 1 << 20);
}
