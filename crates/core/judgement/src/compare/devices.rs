//! Disks of one host at two times: come, gone, moved, re-created, grown.

use super::Difference;
use bradawl_facts::Consequence;
use bradawl_facts::record::{Content, Device, Record};
use bradawl_facts::size::binary;
use bradawl_resolve::same_devices;

/// What became of each device.
pub(super) fn differences(before: &Record, after: &Record) -> Vec<Difference> {
    let (Some(old), Some(new)) = (&before.devices, &after.devices) else { return Vec::new() };
    let mut all = Vec::new();
    let pairs = same_devices(old, new);
    for (device, was) in new.iter().zip(&pairs) {
        let Some(was) = was.and_then(|n| old.get(n)) else {
            all.push(said(device, "device", None, Some(held(device))));
            continue;
        };
        if was.path != device.path {
            all.push(said(device, "name", Some(was.path.clone()), Some(device.path.clone())));
        }
        all.extend(changed(was, device));
    }
    let gone = old.iter().enumerate().filter(|(n, _)| !pairs.contains(&Some(*n)));
    all.extend(gone.map(|(_, device)| Difference {
        harm: Consequence::Missing,
        ..said(device, "device", Some(held(device)), None)
    }));
    all
}

fn said(device: &Device, aspect: &str, before: Option<String>, after: Option<String>) -> Difference {
    Difference {
        subject: device.path.clone(),
        aspect: aspect.to_owned(),
        before,
        after,
        harm: Consequence::Risk,
    }
}

fn what(content: &Content) -> String {
    content.fstype.clone().unwrap_or_else(|| content.words().to_owned())
}

fn held(device: &Device) -> String {
    let content = device.content.as_ref().map_or_else(|| "not read".to_owned(), what);
    match device.size {
        Some(size) => format!("{content}, {}", binary(size)),
        None => content,
    }
}

fn changed(old: &Device, new: &Device) -> Vec<Difference> {
    let mut all = Vec::new();
    if let Some((a, b)) = old.size.zip(new.size).filter(|(a, b)| a != b) {
        all.push(Difference {
            harm: if b < a { Consequence::Missing } else { Consequence::Note },
            ..said(new, "size", Some(binary(a)), Some(binary(b)))
        });
    }
    let (Some(a), Some(b)) = (&old.content, &new.content) else { return all };
    if (a.kind, &a.fstype) != (b.kind, &b.fstype) {
        all.push(Difference {
            harm: Consequence::Missing,
            ..said(new, "holds", Some(what(a)), Some(what(b)))
        });
    } else if a.uuid != b.uuid {
        all.push(Difference {
            harm: Consequence::Missing,
            ..said(new, "UUID", a.uuid.clone(), b.uuid.clone())
        });
    }
    if a.label != b.label {
        all.push(said(new, "label", a.label.clone(), b.label.clone()));
    }
    all
}
