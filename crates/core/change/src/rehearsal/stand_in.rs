//! Disks that stand for those of a host which a guest does not have: empty, with
//! the names that its table asks for.

use bradawl_facts::record::{Content, ContentKind, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source, Tag};

/// An empty file system or swap area with the names of another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct StandIn {
    /// The line of the entry that asks for it.
    pub line: usize,
    /// Its type, as in a table.
    pub fstype: String,
    /// Its UUID.
    pub uuid: Option<String>,
    /// Its label.
    pub label: Option<String>,
}

impl StandIn {
    /// What makes it in a file: the program and its arguments; `None`: nothing
    /// does.
    pub fn made_by(&self, file: &str) -> Option<Vec<String>> {
        let uuid = self.uuid.clone()?;
        let label = |option: &str| self.label.iter().flat_map(|l| [option.to_owned(), l.clone()]).collect();
        let (mut words, label): (Vec<String>, Vec<String>) = match self.fstype.as_str() {
            "ext2" | "ext3" | "ext4" => (
                vec![format!("mkfs.{}", self.fstype), "-q".into(), "-F".into(), "-U".into(), uuid],
                label("-L"),
            ),
            "xfs" => (vec!["mkfs.xfs".into(), "-q".into(), "-m".into(), format!("uuid={uuid}")], label("-L")),
            "btrfs" => (vec!["mkfs.btrfs".into(), "-q".into(), "-U".into(), uuid], label("-L")),
            "vfat" => (vec!["mkfs.vfat".into(), "-i".into(), uuid.replace('-', "")], label("-n")),
            "swap" => (vec!["mkswap".into(), "-q".into(), "-U".into(), uuid], label("-L")),
            _ => return None,
        };
        words.extend(label);
        words.push(file.to_owned());
        Some(words)
    }
}

/// The stand-ins that a table needs beside the disks of `images`, by what `host`
/// has. With the entries that none can stand for.
pub fn stand_ins(images: &Record, host: &Record, table: &Table) -> (Vec<StandIn>, Vec<String>) {
    let (there, known) = (Index::new(images), Index::new(host));
    let (mut needed, mut lacking): (Vec<StandIn>, Vec<String>) = (Vec::new(), Vec::new());
    for entry in table.entries() {
        let source = Source::of(&entry);
        let Resolution::Found(devices) = known.resolve(&source) else { continue };
        if matches!(there.resolve(&source), Resolution::Found(_)) {
            continue;
        }
        let by_content = matches!(source, Source::Tag(Tag::Uuid | Tag::Label, _));
        let content = devices.first().and_then(|d| d.content.as_ref()).filter(|_| by_content);
        match content.and_then(|c| stand_in(entry.line, c)) {
            Some(one) if needed.iter().any(|n| n.uuid == one.uuid) => {}
            Some(one) => needed.push(one),
            None => lacking.push(format!(
                "line {}: nothing in the guest can stand for {}",
                entry.line,
                visible(&entry.source)
            )),
        }
    }
    (needed, lacking)
}

fn stand_in(line: usize, content: &Content) -> Option<StandIn> {
    let fstype = match content.kind {
        ContentKind::Filesystem => content.fstype.clone()?,
        ContentKind::Swap => "swap".to_owned(),
        _ => return None,
    };
    let one = StandIn { line, fstype, uuid: content.uuid.clone(), label: content.label.clone() };
    one.made_by("").map(|_| one)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Device, DeviceKind};

    fn record(devices: &[(&str, ContentKind, &str, &str, &str)]) -> Record {
        let mut record = Record::new("kelp");
        let device = |(path, kind, fstype, uuid, label): &(&str, ContentKind, &str, &str, &str)| {
            let mut device = Device::new(*path, DeviceKind::Disk);
            let mut content = Content::new(*kind, Some(*fstype));
            (content.uuid, content.label) = (Some((*uuid).to_owned()), Some((*label).to_owned()));
            device.content = Some(content);
            device.links = Some(Vec::new());
            device
        };
        record.devices = Some(devices.iter().map(device).collect());
        record
    }

    #[test]
    fn what_the_images_lack_and_the_host_has_gets_a_stand_in() {
        let root = ("a.img", ContentKind::Filesystem, "ext4", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0002", "top");
        let tides =
            ("/dev/sdb", ContentKind::Filesystem, "xfs", "f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6", "tides");
        let vault =
            ("/dev/sdc", ContentKind::Encrypted, "LUKS2", "d41c8b92-6f0e-4a57-93b1-2e7d5c8f0a66", "vault");
        let table = Table::parse(
            "LABEL=top / ext4 defaults 0 1\nLABEL=tides /srv/tides xfs defaults 0 0\n/dev/sdb /srv/again xfs nofail 0 0\nLABEL=vault /v ext4 nofail 0 0\nLABEL=lost /lost ext4 nofail 0 0\n",
        );
        let (needed, lacking) = stand_ins(&record(&[root]), &record(&[root, tides, vault]), &table);
        assert_eq!(needed.len(), 1);
        let words = needed[0].made_by("b.img").unwrap().join(" ");
        assert_eq!(words, "mkfs.xfs -q -m uuid=f02d6c9a-18e5-4b73-a4c1-8d5e7092b3f6 -L tides b.img");
        let of = |line, name| format!("line {line}: nothing in the guest can stand for {name}");
        assert_eq!(lacking, [of(3, "/dev/sdb"), of(4, "LABEL=vault")]);
    }
}
