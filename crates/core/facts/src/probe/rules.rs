//! Several signatures on one device: which one counts.
//!
//! 1. A member of a RAID array with its superblock at the end shows the
//!    array's content at its start: membership counts, unless the superblock
//!    lies in a partition, whose member that partition is.
//! 2. What is damaged gives way to what is whole.
//! 3. A partition table with nothing in it gives way to any content, as does
//!    one of MBR form to the boot sector of a FAT, NTFS or exFAT it shares its
//!    mark with; a GPT counts over a FAT boot sector left in front of it.
//! 4. An ISO 9660 image may carry a partition table, and a UDF disc an
//!    ISO 9660 volume: both are made so on purpose.
//! 5. Anything else cannot be told: ambiguous, with all candidates.

use super::Found;
use crate::record::{Candidate, Content, ContentKind};

/// The one content of a device, from all that was found; `None` when nothing
/// was.
pub(super) fn settle(mut found: Vec<Found>) -> Option<Content> {
    drop_table_or_member(&mut found);
    if let Some(n) = found.iter().position(|f| f.content.kind == ContentKind::RaidMember) {
        let mut member = found.swap_remove(n).content;
        let read = |f: &Found| f.content.damaged.is_none() && f.content.kind != ContentKind::PartitionTable;
        member.candidates = candidates(found.into_iter().filter(read));
        return Some(member);
    }
    prefer(&mut found, |f| f.content.damaged.is_none());
    give_way(&mut found, is_bare_table, |_| true);
    give_way(&mut found, is_mbr, |other| boots(other) || is(other, "iso9660") || is(other, "gpt"));
    give_way(&mut found, |f| is(f, "vfat"), |other| is(other, "gpt"));
    give_way(&mut found, |f| is(f, "gpt"), |other| is(other, "iso9660"));
    give_way(&mut found, |f| is(f, "iso9660"), |other| is(other, "udf"));
    match found.len() {
        0 => None,
        1 => found.pop().map(|f| f.content),
        _ => Some(ambiguous(found)),
    }
}

/// A member superblock inside a partition is that partition's, not the
/// disk's.
fn drop_table_or_member(found: &mut Vec<Found>) {
    let partitions: Vec<(u64, u64)> = found
        .iter()
        .flat_map(|f| &f.content.partitions)
        .map(|p| (p.start, p.start.saturating_add(p.size)))
        .collect();
    let inside = |at: u64| partitions.iter().any(|(from, to)| (*from..*to).contains(&at));
    found.retain(|f| f.content.kind != ContentKind::RaidMember || f.offset < 8192 || !inside(f.offset));
}

fn prefer(found: &mut Vec<Found>, good: impl Fn(&Found) -> bool) {
    if found.iter().any(&good) {
        found.retain(good);
    }
}

/// Takes out what is weak when something it gives way to is there.
fn give_way(found: &mut Vec<Found>, weak: impl Fn(&Found) -> bool, to: impl Fn(&Found) -> bool) {
    if found.iter().any(|f| !weak(f) && to(f)) {
        found.retain(|f| !weak(f));
    }
}

fn is(found: &Found, fstype: &str) -> bool {
    found.content.fstype.as_deref() == Some(fstype)
}

fn is_mbr(found: &Found) -> bool {
    is(found, "dos")
}

fn is_bare_table(found: &Found) -> bool {
    is_mbr(found) && found.content.partitions.is_empty()
}

/// Contents that begin with a boot sector, which ends like an MBR.
fn boots(found: &Found) -> bool {
    ["vfat", "ntfs", "exfat", "BitLocker"].iter().any(|t| is(found, t))
}

fn ambiguous(mut found: Vec<Found>) -> Content {
    found.sort_by_key(|f| (f.content.kind != ContentKind::Filesystem, f.offset));
    let names: Vec<&str> = found.iter().map(|f| f.content.words()).collect();
    let mut content = Content::new(ContentKind::Ambiguous, Some(&names.join("+")));
    content.candidates = candidates(found.into_iter());
    content
}

fn candidates(found: impl Iterator<Item = Found>) -> Vec<Candidate> {
    found.map(|f| Candidate { offset: f.offset, content: f.content }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::PartitionEntry;

    fn one(kind: ContentKind, fstype: &str, offset: u64) -> Found {
        Found { offset, content: Content::new(kind, Some(fstype)) }
    }

    fn table(fstype: &str, start: u64, size: u64) -> Found {
        let mut found = one(ContentKind::PartitionTable, fstype, 0);
        found.content.partitions.push(PartitionEntry {
            number: 1,
            start,
            size,
            uuid: None,
            label: None,
            type_id: "0x83".into(),
            extended: false,
            out_of_range: false,
            no_auto: false,
        });
        found
    }

    fn settled(found: Vec<Found>) -> (ContentKind, String) {
        let content = settle(found).unwrap();
        (content.kind, content.fstype.unwrap())
    }

    #[test]
    fn stated_rules() {
        use ContentKind::{Ambiguous, Filesystem, PartitionTable, RaidMember};
        let fs = |t: &str, at| one(Filesystem, t, at);
        let md = |at| one(RaidMember, "mdraid 1.0", at);
        assert!(settle(Vec::new()).is_none());
        for (found, kind, fstype) in [
            (vec![md(1 << 20), fs("ext4", 1024)], RaidMember, "mdraid 1.0"),
            (vec![md(1 << 20), table("dos", 4096, 2 << 20)], PartitionTable, "dos"),
            (vec![fs("vfat", 0), table("dos", 4096, 4096)], Filesystem, "vfat"),
            (vec![fs("vfat", 0), table("gpt", 4096, 4096)], PartitionTable, "gpt"),
            (vec![fs("ext4", 1024), table("dos", 4096, 4096)], Ambiguous, "ext4+dos"),
            (vec![fs("ext4", 1024), one(PartitionTable, "dos", 0)], Filesystem, "ext4"),
            (vec![table("dos", 1, 1), fs("iso9660", 32768)], Filesystem, "iso9660"),
            (vec![fs("btrfs", 65536), fs("squashfs", 0)], Ambiguous, "squashfs+btrfs"),
        ] {
            assert_eq!(settled(found), (kind, fstype.to_owned()));
        }
        let under = settle(vec![md(1 << 20), fs("ext4", 1024), table("dos", 4096, 4096)]).unwrap().candidates;
        let under: Vec<_> = under.iter().map(|c| (c.offset, c.content.words())).collect();
        assert_eq!(under, [(1024, "ext4")], "what a member would be if it were none");
    }

    #[test]
    fn what_is_damaged_gives_way() {
        let mut old = one(ContentKind::Filesystem, "exfat", 0);
        old.content.damaged = Some("checksum".into());
        assert_eq!(settled(vec![old, one(ContentKind::Filesystem, "nilfs2", 1024)]).1, "nilfs2");
    }
}
