//! Members of ZFS pools: four labels, each with a list of names and values in
//! XDR form. Layout: "ZFS On-Disk Specification", chapter one.

use super::{Block, Found, Reader, found, set_label};
use crate::record::{Content, ContentKind};

const LABEL: u64 = 256 << 10;
/// What is looked for stands in the first pages of the list.
const READ: usize = 8192;
const UINT64: u32 = 8;
const STRING: u32 = 9;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let end = reader.size() & !(LABEL - 1);
    let places = [Some(0), Some(LABEL), end.checked_sub(2 * LABEL), end.checked_sub(LABEL)];
    let mut whole = places.into_iter().flatten().filter_map(|label| member(reader, label));
    let mut first = whole.next()?;
    if first.offset != 0 {
        first.content.state = Some("its first label is gone".to_owned());
    }
    Some(first)
}

fn member(reader: &Reader<'_>, label: u64) -> Option<Found> {
    let room = usize::try_from(reader.size().checked_sub(label + (16 << 10))?).unwrap_or(READ).min(READ);
    let list = reader.at(label + (16 << 10), room)?;
    // XDR, and one of two byte orders, then version 0 of the list.
    if list.u8(0)? != 1 || list.u8(1)? > 1 || list.u32be(4)? != 0 {
        return None;
    }
    let mut content = Content::new(ContentKind::PoolMember, Some("zfs"));
    let mut at = 12;
    while let Some(pair) = pair(&list, at) {
        match (pair.name, pair.kind) {
            ("version", UINT64) => content.version = list.u64be(pair.value).map(|v| v.to_string()),
            ("pool_guid", UINT64) => content.uuid = list.u64be(pair.value).map(|v| v.to_string()),
            ("guid", UINT64) => content.sub_uuid = list.u64be(pair.value).map(|v| v.to_string()),
            ("name", STRING) => set_label(&mut content, text(&list, pair.value)?.as_bytes()),
            _ => {}
        }
        at += pair.length;
    }
    (content.uuid.is_some() && content.version.is_some()).then_some(())?;
    found(label, content)
}

/// One name with its value.
struct Pair<'a> {
    name: &'a str,
    kind: u32,
    value: usize,
    length: usize,
}

fn pair(list: &Block, at: usize) -> Option<Pair<'_>> {
    let length = usize::try_from(list.u32be(at)?).ok()?;
    let name = text(list, at + 8)?;
    let after = at + 12 + name.len().next_multiple_of(4);
    // A length too short to hold its own name would never end.
    let sound = length >= after + 8 - at && length <= READ * 16;
    sound.then_some(Pair { name, kind: list.u32be(after)?, value: after + 8, length })
}

fn text(list: &Block, at: usize) -> Option<&str> {
    let len = usize::try_from(list.u32be(at)?).ok().filter(|len| *len <= 256)?;
    std::str::from_utf8(list.bytes(at + 4, len)?).ok()
}
