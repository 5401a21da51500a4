//! What lies in a container that is locked now, a volume group that is not
//! active or an array that does not run: its names cannot be read before the
//! boot opens it.

use super::crypt::crypttab;
use bradawl_facts::record::{Content, ContentKind, Device, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source, dormant, is_read_through};

/// Where a name that no device matches may be found once the boot has
/// opened everything; `None` when nothing stays closed now that it opens.
pub(crate) fn may_lie_in(record: &Record, index: &Index<'_>, source: &Source) -> Option<String> {
    if !source.wants_device() {
        return None;
    }
    let by_content = matches!(source, Source::Tag(..));
    if let Some(found) = dormant(record, source) {
        return Some(format!(
            "it is {}, which is not active now; the boot activates it",
            visible(&found.path)
        ));
    }
    let closed = record.devices.iter().flatten().filter(|d| d.children.is_empty());
    closed
        .filter_map(|device| {
            container(record, index, device, by_content).or_else(|| group(record, device, source, by_content))
        })
        .next()
}

/// A container that crypttab opens at every boot.
fn container(record: &Record, index: &Index<'_>, device: &Device, by_content: bool) -> Option<String> {
    let locked = device.content.as_ref().is_some_and(|c| c.kind == ContentKind::Encrypted);
    if !locked || !by_content {
        return None;
    }
    let entries = crypttab(record);
    let opens = entries.iter().filter(|e| !e.has("noauto")).find(|e| {
        let found = index.resolve(&Source::parse(&e.source));
        matches!(found, Resolution::Found(all) if all.iter().any(|d| d.path == device.path))
    })?;
    let mapping = ["/dev/mapper/", &opens.name].concat();
    index
        .device(&mapping)
        .is_none()
        .then(|| format!("it may be in {}, which is locked now", visible(&opens.name)))
}

/// A group whose volumes are not active, or an array that does not run.
fn group(record: &Record, device: &Device, source: &Source, by_content: bool) -> Option<String> {
    let content = device.content.as_ref()?;
    let by_content = by_content && !is_read_through(record, device);
    match content.kind {
        ContentKind::LvmPv => {
            let name = &content.group.as_ref()?.name;
            let named = match source {
                Source::Device(path) => {
                    let (own, mapped) =
                        (format!("/dev/{name}/"), format!("/dev/mapper/{}-", name.replace('-', "--")));
                    // Where its volumes are known, it has no other.
                    let untold = content.group.as_ref().is_some_and(|g| g.volumes.is_empty());
                    untold && (path.starts_with(&own) || path.starts_with(&mapped))
                        || has_volume(content, path)
                }
                _ => by_content,
            };
            let why = || {
                format!(
                    "it may be in the group {}, which is not active now; the boot activates it",
                    visible(name)
                )
            };
            named.then(why)
        }
        ContentKind::RaidMember if by_content => {
            Some(format!("it may be in the array of {}, which does not run now", visible(&device.path)))
        }
        _ => None,
    }
}

/// Whether the group of a physical volume has the volume that a path names.
fn has_volume(content: &Content, path: &str) -> bool {
    let Some(group) = &content.group else { return false };
    let mapped = |name: &str| name.replace('-', "--");
    group.volumes.iter().any(|volume| {
        path == format!("/dev/{}/{}", group.name, volume.name)
            || path == format!("/dev/mapper/{}-{}", mapped(&group.name), mapped(&volume.name))
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Outcome, forecast, requests};
    use bradawl_facts::record::{CryptEntry, DeviceKind, Early, LogicalVolume, VolumeGroup};
    use bradawl_facts::table::Table;

    fn host(kind: ContentKind) -> Record {
        let mut record = Record::new("kelp");
        let mut shell = Device::new("/dev/vdb", DeviceKind::Disk);
        let mut content = Content::new(kind, None);
        content.uuid = Some("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300a".into());
        content.group = (kind == ContentKind::LvmPv)
            .then(|| VolumeGroup { name: "hold-a".into(), ..VolumeGroup::default() });
        shell.content = Some(content);
        record.devices = Some(vec![shell]);
        record.links_complete = Some(true);
        record
    }

    fn outcome(record: &Record, line: &str) -> Outcome {
        let index = Index::new(record);
        forecast(record, &index, &requests(record, &index, &Table::parse(line))).outcome
    }

    #[test]
    fn what_is_closed_may_hold_the_name() {
        let line = "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a300b /srv/a ext4 defaults 0 2\n";
        let mut locked = host(ContentKind::Encrypted);
        assert_eq!(outcome(&locked, line), Outcome::Emergency, "nobody opens it");
        let entry = |options: &str| CryptEntry {
            name: "tides".into(),
            source: "/dev/vdb".into(),
            key: Some("/etc/k".into()),
            options: options.into(),
        };
        for (options, expected) in [("luks", Outcome::NotKnown), ("luks,noauto", Outcome::Emergency)] {
            locked.early = Some(Early { crypttab: Some(vec![entry(options)]), ..Early::default() });
            assert_eq!(outcome(&locked, line), expected, "{options}");
        }
        let group = host(ContentKind::LvmPv);
        assert_eq!(outcome(&group, line), Outcome::NotKnown);
        assert_eq!(outcome(&group, "/dev/hold-a/cargo /srv/a ext4 defaults 0 2\n"), Outcome::NotKnown);
        assert_eq!(
            outcome(&group, "/dev/mapper/hold--a-cargo /srv/a ext4 defaults 0 2\n"),
            Outcome::NotKnown
        );
        assert_eq!(outcome(&group, "/dev/other/cargo /srv/a ext4 defaults 0 2\n"), Outcome::Emergency);
        assert_eq!(outcome(&host(ContentKind::RaidMember), line), Outcome::NotKnown);
    }

    #[test]
    fn what_was_read_through_is_known() {
        let mut record = host(ContentKind::LvmPv);
        let volume = LogicalVolume { name: "cargo".into(), ..LogicalVolume::default() };
        let content = record.devices.as_mut().unwrap()[0].content.as_mut().unwrap();
        content.group.as_mut().unwrap().volumes = vec![volume];
        let mut inside = Content::new(ContentKind::Filesystem, Some("ext4"));
        inside.label = Some("ledger".into());
        record.dormant = vec![Device {
            content: Some(inside),
            parents: vec!["/dev/vdb".into()],
            links: Some(vec!["/dev/hold-a/cargo".into()]),
            ..Device::new("/dev/mapper/hold--a-cargo", DeviceKind::Mapper)
        }];
        for (source, expected) in [
            ("LABEL=ledger", Outcome::NotKnown),
            ("/dev/hold-a/cargo", Outcome::NotKnown),
            ("LABEL=elsewhere", Outcome::Emergency),
            ("/dev/hold-a/lost", Outcome::Emergency),
        ] {
            assert_eq!(
                outcome(&record, &format!("{source} /srv/a ext4 defaults 0 2\n")),
                expected,
                "{source}"
            );
        }
    }
}
