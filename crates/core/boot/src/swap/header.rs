//! The header of a swap area: the kernel's include/linux/swap.h, union
//! swap_header. It fills the first page.

/// Page sizes of Linux architectures, in bytes.
pub const PAGE_SIZES: [usize; 5] = [4096, 8192, 16384, 32768, 65536];
/// The kernel refuses areas of fewer pages (mm/swapfile.c: there must be one
/// beside the header; mkswap wants ten).
const MIN_PAGES: u64 = 10;

/// The first page of a swap area of `size` bytes. `None`: the page size is
/// none, or the size is too small or too large for it.
pub fn header(size: u64, page: usize, uuid: [u8; 16], label: &str) -> Option<Vec<u8>> {
    if !PAGE_SIZES.contains(&page) {
        return None;
    }
    let pages = size / page as u64;
    let last = u32::try_from(pages.checked_sub(1)?).ok().filter(|_| pages >= MIN_PAGES)?;
    let mut bytes = vec![0; page];
    bytes[1024..1028].copy_from_slice(&1u32.to_ne_bytes());
    bytes[1028..1032].copy_from_slice(&last.to_ne_bytes());
    bytes[1036..1052].copy_from_slice(&uuid);
    // The last byte of the label ends it.
    let end = (0..=label.len().min(15)).rfind(|end| label.is_char_boundary(*end))?;
    let label = &label.as_bytes()[..end];
    bytes[1052..1052 + label.len()].copy_from_slice(label);
    bytes[page - 10..].copy_from_slice(b"SWAPSPACE2");
    Some(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::probe::identify;
    use bradawl_facts::record::ContentKind;

    #[test]
    fn what_is_written_is_read() {
        for page in PAGE_SIZES {
            let size = page as u64 * 100;
            let mut data = header(size, page, [7; 16], "reserve-for-the-night").unwrap();
            data.resize(page * 100, 0);
            let content = identify(&data).unwrap();
            assert_eq!((content.kind, content.size), (ContentKind::Swap, Some(size)), "{page}");
            assert_eq!(content.block_size, Some(page as u64));
            assert_eq!(content.label.as_deref(), Some("reserve-for-the"));
            assert_eq!(content.uuid.as_deref(), Some("07070707-0707-0707-0707-070707070707"));
        }
        assert!(header(4096 * 9, 4096, [7; 16], "").is_none());
        assert!(header(1 << 20, 4095, [7; 16], "").is_none());
    }
}
