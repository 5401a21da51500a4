//! Small read-only file systems: SquashFS, EROFS, cramfs, romfs, SCO bfs.
//! Layouts: their headers under the kernel's fs/ and include/uapi/linux.

use super::{Found, Reader, filesystem, found, set_label};

pub(super) fn probe_squashfs(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(0, 96)?;
    let block = sb.u32le(12)?;
    let sound = sb.has(0, b"hsqs")
        && (4096..=1 << 20).contains(&block)
        && 1u32.checked_shl(u32::from(sb.u16le(22)?)) == Some(block);
    sound.then_some(())?;
    let mut content = filesystem("squashfs");
    content.version = Some(format!("{}.{}", sb.u16le(28)?, sb.u16le(30)?));
    content.block_size = Some(u64::from(block));
    content.size = sb.u64le(40);
    found(0, content)
}

pub(super) fn probe_erofs(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(1024, 128)?;
    let bits = sb.u8(12)?;
    if sb.u32le(0)? != 0xe0f5_e1e2 || !(9..=16).contains(&bits) {
        return None;
    }
    let mut content = filesystem("erofs");
    content.uuid = sb.uuid(48);
    set_label(&mut content, sb.cstr(64, 16)?);
    content.block_size = Some(1 << bits);
    content.size = u64::from(sb.u32le(36)?).checked_mul(1 << bits);
    found(1024, content)
}

pub(super) fn probe_cramfs(reader: &Reader<'_>) -> Option<Found> {
    [0, 512].into_iter().find_map(|offset| {
        let sb = reader.at(offset, 64)?;
        let magic = 0x28cd_3d45;
        if (sb.u32le(0)? != magic && sb.u32be(0)? != magic) || !sb.has(16, b"Compressed ROMFS") {
            return None;
        }
        let mut content = filesystem("cramfs");
        set_label(&mut content, sb.cstr(48, 16)?);
        content.size = if sb.u32le(0)? == magic { sb.u32le(4) } else { sb.u32be(4) }.map(u64::from);
        found(offset, content)
    })
}

pub(super) fn probe_romfs(reader: &Reader<'_>) -> Option<Found> {
    let len = usize::try_from(reader.size().min(512)).ok()?;
    let sb = reader.at(0, len)?;
    if !sb.has(0, b"-rom1fs-") {
        return None;
    }
    let mut content = filesystem("romfs");
    set_label(&mut content, sb.cstr(16, len.checked_sub(16)?.min(128))?);
    content.size = sb.u32be(8).map(u64::from);
    found(0, content)
}

pub(super) fn probe_bfs(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(0, 64)?;
    let (start, end) = (sb.u32le(4)?, sb.u32le(8)?);
    if sb.u32le(0)? != 0x1bad_face || start < 512 || start >= end {
        return None;
    }
    let mut content = filesystem("bfs");
    set_label(&mut content, sb.cstr(34, 6)?.trim_ascii_end());
    content.block_size = Some(512);
    content.size = Some(u64::from(end) + 1);
    found(0, content)
}
