//! ReiserFS and Reiser4. Layout: the kernel's former fs/reiserfs/reiserfs.h;
//! for Reiser4 the master superblock of its tools.

use super::{Found, Reader, filesystem, found, set_label};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    [64 << 10, 8 << 10].into_iter().find_map(|offset| reiserfs(reader, offset)).or_else(|| reiser4(reader))
}

fn reiserfs(reader: &Reader<'_>, offset: u64) -> Option<Found> {
    let sb = reader.at(offset, 256)?;
    let version = match () {
        () if sb.has(52, b"ReIsErFs") => "3.5",
        () if sb.has(52, b"ReIsEr2Fs") || sb.has(52, b"ReIsEr3Fs") => "3.6",
        () => return None,
    };
    let block = u64::from(sb.u16le(44)?);
    if !block.is_power_of_two() || block < 512 {
        return None;
    }
    let mut content = filesystem("reiserfs");
    content.version = Some(version.to_owned());
    // Version 3.5 has neither.
    if version == "3.6" {
        content.uuid = sb.uuid(84);
        set_label(&mut content, sb.cstr(100, 16)?);
    }
    content.block_size = Some(block);
    content.size = u64::from(sb.u32le(0)?).checked_mul(block);
    content.state = Some(if sb.u16le(50)? == 1 { "clean" } else { "not cleanly unmounted" }.to_owned());
    found(offset, content)
}

fn reiser4(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(64 << 10, 512)?;
    if !sb.has(0, b"ReIsEr4") {
        return None;
    }
    let mut content = filesystem("reiser4");
    let block = u64::from(sb.u16le(18)?);
    content.block_size = Some(block);
    // Its usual format describes itself in the block after the master's.
    let format = reader.at((64 << 10) + 4096, 68).filter(|f| f.has(52, b"ReIsEr40FoRmAt"));
    content.size = format.and_then(|f| f.u64le(0)?.checked_mul(block));
    content.uuid = sb.uuid(20);
    set_label(&mut content, sb.cstr(36, 16)?);
    found(64 << 10, content)
}
