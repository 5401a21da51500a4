//! A volume group by its description: which volumes it has, and what each is made of (the
//! keys are those of LVM2's lib/format_text and of its segment types).

use super::lvm_text::{Body, Node, list, names, number, sections, text_of, tree};
use crate::record::{LogicalVolume, RaidLeg, Segment, VolumeGroup, VolumePart, VolumePiece};

const SECTOR: u64 = 512;

/// Physical volumes: their name in the text, their UUID, where their extents begin.
type Physical<'a> = [(&'a str, String, u64)];

/// Reads the description; `None` when it is not one.
pub(super) fn group(text: &str) -> Option<VolumeGroup> {
    let all = tree(text)?;
    let (name, Node::Section(body)) = all.iter().find(|(_, n)| matches!(n, Node::Section(_)))? else {
        return None;
    };
    let extent = number(body, "extent_size")?.checked_mul(SECTOR)?;
    let volumes: Vec<(&str, String, u64)> = sections(body, "physical_volumes")
        .filter_map(|(key, pv)| {
            Some((key, uuid(text_of(pv, "id")?)?, number(pv, "pe_start")?.checked_mul(SECTOR)?))
        })
        .collect();
    let (volumes_seen, inner) = logical_volumes(body, extent, &volumes);
    Some(VolumeGroup {
        name: (*name).to_owned(),
        uuid: text_of(body, "id").and_then(uuid),
        pv_uuids: volumes.iter().map(|(_, id, _)| id.clone()).collect(),
        volumes: volumes_seen,
        inner,
    })
}

/// LVM2 spells its identities in groups of 6-4-4-4-4-4-6 characters.
pub(super) fn uuid(text: &str) -> Option<String> {
    let plain: String = text.chars().filter(|c| *c != '-').collect();
    if plain.len() != 32 || !plain.bytes().all(|b| b.is_ascii_alphanumeric() || matches!(b, b'!' | b'#')) {
        return None;
    }
    let cuts = [0, 6, 10, 14, 18, 22, 26, 32];
    Some(cuts.windows(2).map(|w| &plain[w[0]..w[1]]).collect::<Vec<_>>().join("-"))
}

/// Those that people see, and those that others are made of.
fn logical_volumes(
    body: &Body<'_>,
    extent: u64,
    pvs: &Physical<'_>,
) -> (Vec<LogicalVolume>, Vec<LogicalVolume>) {
    let all = || sections(body, "logical_volumes");
    let (mut seen, mut inner) = (Vec::new(), Vec::new());
    for (name, lv) in all() {
        let volume = logical_volume(name, lv, extent, pvs);
        let is_pool = volume.parts.iter().any(|part| match &part.of {
            VolumePiece::ThinPool { .. } => true,
            VolumePiece::Other { kind } => kind.starts_with("cache-pool"),
            _ => false,
        });
        if is_visible(lv) && !is_pool { seen.push(volume) } else { inner.push(volume) }
    }
    snapshots(all(), &mut seen);
    caches(&inner_modes(all()), &mut seen);
    if seen.iter().all(|volume| volume.parts.is_empty()) {
        inner.clear();
    }
    (seen, inner)
}

/// A snapshot is described under a name that nobody sees; `cow_store` is the one that people
/// gave it. What it shows is not read, nor an origin that a snapshot is being merged into.
fn snapshots<'b, 'a: 'b>(all: impl Iterator<Item = (&'a str, &'b Body<'a>)>, seen: &mut Vec<LogicalVolume>) {
    let segments = all.flat_map(|(name, lv)| segments(lv).map(move |(_, segment)| (name, segment)));
    for (name, segment) in segments.filter(|(_, s)| text_of(s, "type") == Some("snapshot")) {
        let Some(described) = seen.iter().position(|v| v.name == name) else { continue };
        if let Some(given) = text_of(segment, "cow_store") {
            seen[described].name = given.to_owned();
        } else {
            seen.remove(described);
            let origin = seen.iter_mut().find(|v| Some(v.name.as_str()) == text_of(segment, "origin"));
            if let Some(origin) = origin {
                origin.segments.clear();
                let of = VolumePiece::Other { kind: "snapshot".to_owned() };
                origin.parts = vec![VolumePart { length: origin.size, of }];
            }
        }
    }
}

/// Names of pools and volumes that hold a cache, and how it is written.
fn inner_modes<'b, 'a: 'b>(all: impl Iterator<Item = (&'a str, &'b Body<'a>)>) -> Vec<(&'a str, &'a str)> {
    all.flat_map(|(name, lv)| segments(lv).map(move |(_, segment)| (name, segment)))
        .filter_map(|(name, segment)| Some((name, text_of(segment, "cache_mode")?)))
        .collect()
}

/// What lies behind a cache that is written through is complete; behind another it may be old.
fn caches(modes: &[(&str, &str)], seen: &mut [LogicalVolume]) {
    for volume in seen {
        for part in &mut volume.parts {
            if let VolumePiece::Cached { by, through, .. } = &mut part.of {
                // A cache without a pool has its words beside the volume's own.
                let is_of = |name: &str| name == by || name == volume.name;
                *through = modes.iter().any(|(name, mode)| is_of(name) && *mode == "writethrough");
            }
        }
    }
}

fn segments<'b, 'a>(lv: &'b Body<'a>) -> impl Iterator<Item = (&'a str, &'b Body<'a>)> {
    lv.iter().filter(|(key, _)| key.starts_with("segment")).filter_map(|(key, node)| match node {
        Node::Section(segment) => Some((*key, segment.as_slice())),
        _ => None,
    })
}

fn logical_volume(name: &str, lv: &Body<'_>, extent: u64, pvs: &Physical<'_>) -> LogicalVolume {
    let mut volume = LogicalVolume {
        name: name.to_owned(),
        uuid: text_of(lv, "id").and_then(uuid),
        ..LogicalVolume::default()
    };
    for (_, segment) in segments(lv) {
        let length = number(segment, "extent_count").unwrap_or(0).saturating_mul(extent);
        volume.size = volume.size.saturating_add(length);
        volume.parts.push(VolumePart { length, of: piece(segment, length, extent, pvs) });
    }
    let plain = |part: &VolumePart| match &part.of {
        VolumePiece::Striped { on, .. } if on.len() == 1 => on.first().cloned(),
        _ => None,
    };
    if let Some(segments) = volume.parts.iter().map(plain).collect() {
        volume.segments = segments;
        volume.parts.clear();
    }
    volume
}

/// What a segment is made of.
fn piece(segment: &Body<'_>, length: u64, extent: u64, pvs: &Physical<'_>) -> VolumePiece {
    let kind = text_of(segment, "type").unwrap_or_default();
    let text = |key: &str| text_of(segment, key).map(str::to_owned);
    let bytes = |key: &str| number(segment, key).unwrap_or(0).saturating_mul(SECTOR);
    let of = || names(segment, "mirrors").into_iter().map(str::to_owned).collect();
    let known = match kind {
        "striped" | "linear" => stripes(segment, length, extent, pvs)
            .map(|on| VolumePiece::Striped { stripe: bytes("stripe_size"), on }),
        "mirror" => Some(VolumePiece::Mirrored { of: of() }),
        "thin-pool" => text("pool")
            .zip(text("metadata"))
            .map(|(data, metadata)| VolumePiece::ThinPool { data, metadata }),
        // What is not in the pool of such a one is in another volume.
        "thin" if text_of(segment, "external_origin").is_none() => text("thin_pool")
            .zip(number(segment, "device_id"))
            .map(|(pool, device)| VolumePiece::Thin { pool, device }),
        "cache" | "cache+CACHE_USES_CACHEVOL" => {
            let by = text("cache_pool").or_else(|| text("cache_vol"));
            text("origin").zip(by).map(|(origin, by)| VolumePiece::Cached { origin, by, through: false })
        }
        _ if kind.starts_with("raid") => {
            Some(VolumePiece::Raid { kind: kind.to_owned(), stripe: bytes("stripe_size"), of: legs(segment) })
        }
        _ => None,
    };
    known.unwrap_or_else(|| VolumePiece::Other { kind: kind.to_owned() })
}

/// Each leg with the volume that says how fresh it is; a plain stripe has none.
fn legs(segment: &Body<'_>) -> Vec<RaidLeg> {
    let leg = |data: &str, metadata: Option<&&str>| RaidLeg {
        data: data.to_owned(),
        metadata: metadata.map(|name| (*name).to_owned()),
    };
    let plain = names(segment, "raid0_lvs").into_iter().map(|data| leg(data, None));
    let pairs = names(segment, "raids");
    plain.chain(pairs.chunks_exact(2).map(|pair| leg(pair[1], pair.first()))).collect()
}

/// Where the stripes lie, each on its own physical volume.
fn stripes(segment: &Body<'_>, length: u64, extent: u64, pvs: &Physical<'_>) -> Option<Vec<Segment>> {
    let pairs = list(segment, "stripes").chunks(2);
    let each = length / u64::try_from(pairs.len()).ok().filter(|n| *n > 0)?;
    let on = |pair: &[Node<'_>]| {
        let [Node::Text(pv), Node::Number(first)] = pair else { return None };
        let (_, id, start) = pvs.iter().find(|(key, ..)| key == pv)?;
        Some(Segment {
            pv_uuid: id.clone(),
            start: first.checked_mul(extent)?.checked_add(*start)?,
            length: each,
        })
    };
    pairs.map(on).collect()
}

fn is_visible(lv: &Body<'_>) -> bool {
    let status = lv.iter().find(|(key, _)| *key == "status");
    match status {
        Some((_, Node::List(flags))) => flags.iter().any(|f| matches!(f, Node::Text("VISIBLE"))),
        _ => true,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const TEXT: &str = r#"hold-a { # a comment
id = "c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC"
extent_size = 8192
physical_volumes { pv0 { id = "gr5igr-3g28-NTuz-yfHa-R0k0-gQZ4-V9PQa1"
device = "/dev/vdb" pe_start = 2048 pe_count = 10 } }
logical_volumes { cargo { id = "0zKm0V-rcPd-hDCD-RQf3-Y0cq-IchR-QOrw0x"
status = ["READ", "WRITE", "VISIBLE"] segment_count = 1
segment1 { start_extent = 0 extent_count = 2 type = "striped" stripe_count = 1 stripes = [ "pv0", 3 ] } } } }
contents = "Text Format Volume Group"
"#;

    #[test]
    fn reads_a_group() {
        let group = group(TEXT).unwrap();
        assert_eq!((group.name.as_str(), group.pv_uuids.len()), ("hold-a", 1));
        let volume = &group.volumes[0];
        assert_eq!((volume.name.as_str(), volume.size), ("cargo", 8 << 20));
        assert_eq!(volume.segments[0].start, (3 * 8192 + 2048) * 512);
    }

    #[test]
    fn strings_may_hold_quotes() {
        let described = r#"id = "c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC"
description = "vgcreate --addtag \"tide { \\\\\" hold-a \\\\"
"#;
        let text = TEXT.replacen("id = \"c7ppsX-H7Gp-5UWz-nuZm-wlj2-u6vz-NXFYjC\"\n", described, 1);
        assert_ne!(text, TEXT);
        assert_eq!(group(&text), group(TEXT));
    }

    proptest! {
        #[test]
        fn never_panics(cut in 0usize..TEXT.len(), noise in "[a-z{}\\[\\]=\", #\\n]{0,80}") {
            let _ = group(&format!("{}{noise}", &TEXT[..cut]));
            let _ = group(&noise);
        }
    }
}
