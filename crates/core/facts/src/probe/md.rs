//! Members of Linux RAID arrays. Layout: include/uapi/linux/raid/md_p.h.

use super::{Block, Found, Reader, found, set_label};
use crate::record::{ArrayPlace, Content, ContentKind};

const MAGIC: u32 = 0xa92b_4efc;
/// Role numbers that a superblock of version 1 can hold.
const MAX_ROLES: u32 = 1920;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let size = reader.size();
    let sectors = size / 512;
    let end = (sectors.saturating_sub(16)) & !7;
    version_1(reader, 0, "1.1")
        .or_else(|| version_1(reader, 4096, "1.2"))
        .or_else(|| version_1(reader, end * 512, "1.0").filter(|_| end > 0))
        .or_else(|| version_090(reader, (size & !0xffff).checked_sub(0x10000)?))
}

fn version_1(reader: &Reader<'_>, offset: u64, version: &str) -> Option<Found> {
    let sb = reader.at(offset, 512)?;
    let max_dev = sb.u32le(220)?;
    if sb.u32le(0)? != MAGIC
        || sb.u32le(4)? != 1
        || sb.u64le(144)?.checked_mul(512)? != offset
        || max_dev > MAX_ROLES
    {
        return None;
    }
    let mut content = member(version, level(sb.u32le(72)?.cast_signed()));
    content.uuid = sb.uuid(16);
    content.sub_uuid = sb.uuid(168);
    set_label(&mut content, sb.cstr(32, 32)?);
    content.raid_devices = sb.u32le(92);
    content.device_number = sb.u32le(160);
    content.data_offset = sb.u64le(128)?.checked_mul(512);
    content.size = sb.u64le(80)?.checked_mul(512);
    content.array = place(&sb, reader, offset);
    let whole = reader.at(offset, 256 + 2 * usize::try_from(max_dev).ok()?);
    content.working_devices = whole.as_ref().map(working);
    if whole.is_none_or(|sb| checksum(&sb) != sb.u32le(216)) {
        content.damaged = Some("the checksum of the superblock is wrong".to_owned());
    }
    found(offset, content)
}

/// Being changed into another shape: where its data lie changes with every row.
const RESHAPING: u32 = 4;
/// Not filled to its end.
const FILLING: u32 = 2;

/// Where the array's data lie on this member.
fn place(sb: &Block, reader: &Reader<'_>, offset: u64) -> Option<ArrayPlace> {
    let features = sb.u32le(8)?;
    if features & RESHAPING != 0 {
        return None;
    }
    let number = u64::from(sb.u32le(160)?);
    let role = reader.at(offset.checked_add(256 + 2 * number)?, 2)?.u16le(0)?;
    let filled = features & FILLING == 0 && role < 0xfffd;
    let (size, data) = (sb.u64le(80)?, sb.u64le(136)?);
    Some(ArrayPlace {
        role: filled.then_some(u32::from(role)),
        // Of a stripe or a chain each member gives all that it has.
        length: if size == 0 { data } else { size }.checked_mul(512)?,
        chunk: u64::from(sb.u32le(88)?) * 512,
        layout: sb.u32le(76)?,
        events: sb.u64le(200)?,
    })
}

/// How many devices have a place in the array, by their roles: spares, and
/// devices that failed, have none.
fn working(sb: &Block) -> u32 {
    let roles = sb.all().get(256..).unwrap_or_default().chunks_exact(2);
    let active = roles.filter(|role| u16::from_le_bytes([role[0], role[1]]) < 0xfffd);
    u32::try_from(active.count()).unwrap_or(u32::MAX)
}

/// The sum of all words but the checksum itself, the carry added in.
fn checksum(sb: &Block) -> Option<u32> {
    let mut sum: u64 = 0;
    for (_, word) in sb.all().chunks(4).enumerate().filter(|(n, _)| *n != 54) {
        let mut bytes = [0; 4];
        bytes[..word.len()].copy_from_slice(word);
        sum += u64::from(u32::from_le_bytes(bytes));
    }
    u32::try_from((sum & 0xffff_ffff) + (sum >> 32)).ok()
}

fn version_090(reader: &Reader<'_>, offset: u64) -> Option<Found> {
    let sb = reader.at(offset, 4096)?;
    let little = sb.u32le(0)? == MAGIC;
    let word = |n: usize| if little { sb.u32le(4 * n) } else { sb.u32be(4 * n) };
    if word(0)? != MAGIC || word(1)? != 0 || word(2)? != 90 {
        return None;
    }
    // The size of each member in KiB has to fit in front of the superblock.
    if u64::from(word(8)?).checked_mul(1024)? > offset {
        return None;
    }
    let mut content = member("0.90", level(word(7)?.cast_signed()));
    let id: String =
        [5, 13, 14, 15].iter().map(|&n| Some(format!("{:08x}", word(n)?))).collect::<Option<_>>()?;
    content.uuid = uuid::Uuid::try_parse(&id).ok().map(|id| id.hyphenated().to_string());
    content.raid_devices = word(10);
    content.working_devices = word(32 + 2);
    // This device's own descriptor: number, major, minor, role.
    content.device_number = word(992 + 3);
    content.data_offset = Some(0);
    let (low, high) = if little { (39, 40) } else { (40, 39) };
    let size = u64::from(word(8)?) * 1024;
    content.array = Some(ArrayPlace {
        role: content.device_number.filter(|role| Some(*role) < content.raid_devices),
        length: if size == 0 { offset } else { size },
        chunk: u64::from(word(65)?),
        layout: word(64)?,
        events: u64::from(word(low)?) | u64::from(word(high)?) << 32,
    });
    content.size = u64::from(word(8)?).checked_mul(1024);
    found(offset, content)
}

fn member(version: &str, level: Option<&str>) -> Content {
    let mut content = Content::new(ContentKind::RaidMember, Some(&format!("mdraid {version}")));
    content.version = Some(version.to_owned());
    content.level = level.map(str::to_owned);
    content
}

fn level(number: i32) -> Option<&'static str> {
    Some(match number {
        -6 => "container",
        -5 => "faulty",
        -4 => "multipath",
        -1 => "linear",
        0 => "raid0",
        1 => "raid1",
        4 => "raid4",
        5 => "raid5",
        6 => "raid6",
        10 => "raid10",
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn version_090_spells_its_uuid_by_words() {
        let mut data = vec![0; 256 << 10];
        let at = (256 << 10) - 0x10000;
        for (n, value) in [
            (0, MAGIC),
            (2, 90),
            (5, 0x5c75_4461),
            (13, 0x689c_5307),
            (14, 0x878f_558c),
            (15, 0x590e_ca6e),
            (7, 1),
            (10, 2),
        ] {
            data[at + 4 * n..at + 4 * n + 4].copy_from_slice(&u32::to_le_bytes(value));
        }
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!(content.uuid.as_deref(), Some("5c754461-689c-5307-878f-558c590eca6e"));
        assert_eq!((content.level.as_deref(), content.raid_devices), (Some("raid1"), Some(2)));
    }
}
