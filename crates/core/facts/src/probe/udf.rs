//! UDF. Layout: ECMA-167 and the OSTA UDF specification; the identity as the
//! device manager spells it is made from the volume set's name.

use super::{Block, Found, Reader, filesystem, found, set_label, utf16be};

const PRIMARY: u16 = 1;
const ANCHOR: u16 = 2;
const LOGICAL: u16 = 6;
const TERMINATOR: u16 = 8;
/// A sequence of descriptors longer than this is not read to its end.
const MAX_DESCRIPTORS: u64 = 32;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    recognised(reader)?;
    let (block, anchor) = [2048, 512, 4096, 1024].into_iter().find_map(|block: u64| {
        let anchor = reader.at(256 * block, 512)?;
        (anchor.u16le(0)? == ANCHOR && anchor.u32le(12)? == 256).then_some((block, anchor))
    })?;
    let mut content = filesystem("udf");
    content.block_size = Some(block);
    let (length, start) = (u64::from(anchor.u32le(16)?) / block, u64::from(anchor.u32le(20)?));
    for n in 0..length.min(MAX_DESCRIPTORS) {
        let Some(descriptor) = reader.at(start.checked_add(n)?.checked_mul(block)?, 512) else { break };
        match descriptor.u16le(0)? {
            PRIMARY => {
                content.uuid = descriptor.bytes(72, 128).map(dstring).and_then(|name| identity(&name));
                if content.label.is_none() {
                    set_label(&mut content, dstring(descriptor.bytes(24, 32)?).as_bytes());
                }
            }
            LOGICAL => logical(&descriptor, &mut content)?,
            TERMINATOR => break,
            _ => {}
        }
    }
    found(32 << 10, content)
}

fn logical(descriptor: &Block, content: &mut crate::record::Content) -> Option<()> {
    let label = dstring(descriptor.bytes(84, 128)?);
    if !label.is_empty() {
        set_label(content, label.as_bytes());
    }
    let revision = descriptor.u16le(240)?;
    content.version = Some(format!("{:x}.{:02x}", revision >> 8, revision & 0xff));
    Some(())
}

/// The descriptors at 32 KiB that say UDF is here.
fn recognised(reader: &Reader<'_>) -> Option<()> {
    (0..16).find_map(|n| {
        let descriptor = reader.at((32 << 10) + n * 2048, 8)?;
        (descriptor.has(1, b"NSR02") || descriptor.has(1, b"NSR03")).then_some(())
    })
}

/// A string with its compression in the first byte and its length in the last.
fn dstring(field: &[u8]) -> String {
    let length = usize::from(field.last().copied().unwrap_or(0)).min(field.len() - 1);
    let (kind, text) = field[..length].split_first().map_or((0, &field[..0]), |(k, t)| (*k, t));
    let text = match kind {
        8 => text.iter().map(|&b| char::from(b)).collect(),
        16 => String::from_utf16_lossy(&utf16be(text).collect::<Vec<_>>()),
        _ => String::new(),
    };
    text.trim_end_matches(['\0', ' ']).to_owned()
}

/// Sixteen digits from the beginning of the volume set's name: as they stand
/// when they are hexadecimal, else the bytes' own numbers.
fn identity(name: &str) -> Option<String> {
    let bytes = name.as_bytes();
    if bytes.len() < 8 {
        return None;
    }
    let hex = |b: &[u8]| b.iter().fold(String::new(), |s, b| s + &format!("{b:02x}"));
    let digits = bytes.iter().take(16).take_while(|b| b.is_ascii_hexdigit()).count();
    Some(match digits {
        16 => name[..16].to_ascii_lowercase(),
        8..16 => format!("{}{}", name[..8].to_ascii_lowercase(), hex(bytes.get(8..12)?)),
        _ => hex(&bytes[..8]),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn identity_from_the_set_name() {
        assert_eq!(identity("5566778899AABBCCLinuxUDF").as_deref(), Some("5566778899aabbcc"));
        assert_eq!(identity("5566778xy").as_deref(), Some("3535363637373878"));
        assert_eq!(identity("55667788xyzw").as_deref(), Some("5566778878797a77"));
        assert_eq!(identity("short"), None);
    }
}
