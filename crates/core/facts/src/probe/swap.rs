//! Swap areas: the signature ends the first page, whose size is the machine's
//! that made it. Layout: the kernel's include/linux/swap.h, union swap_header.

use super::{Block, Found, Reader, found, set_label};
use crate::record::{Content, ContentKind};

/// Page sizes of Linux architectures.
const PAGE_SIZES: [usize; 5] = [4096, 8192, 16384, 32768, 65536];
/// The marks that hibernation leaves in place of the signature.
const SUSPENDED: [&[u8]; 5] =
    [b"S1SUSPEND\0", b"S2SUSPEND\0", b"ULSUSPEND\0", b"LINHIB0001", b"\xed\xc3\x02\xe9\x98\x56\xe5\x0c"];

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    PAGE_SIZES.into_iter().find_map(|page| {
        let end = reader.at((page - 10) as u64, 10)?;
        let suspended = SUSPENDED.iter().any(|mark| end.has(0, mark));
        let known = suspended || end.has(0, b"SWAPSPACE2");
        let mut content = known.then(|| area(reader, page)).flatten()?;
        content.suspended = suspended.then_some(true);
        content.state = suspended.then(|| "holds a hibernation image".to_owned());
        found((page - 10) as u64, content)
    })
}

fn area(reader: &Reader<'_>, page: usize) -> Option<Content> {
    let header = reader.at(1024, 512)?;
    let little = header.u32le(0)? == 1;
    if !little && header.u32be(0)? != 1 {
        return None;
    }
    let number = |b: &Block, at| if little { b.u32le(at) } else { b.u32be(at) };
    let mut content = Content::new(ContentKind::Swap, Some("swap"));
    content.version = Some("1".to_owned());
    content.uuid = header.uuid(12);
    set_label(&mut content, header.cstr(28, 16)?);
    content.block_size = Some(page as u64);
    content.bad_pages = Some(number(&header, 8)?).filter(|bad| *bad > 0);
    content.size = (u64::from(number(&header, 4)?) + 1).checked_mul(page as u64);
    Some(content)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn image(page: usize, mark: &[u8; 10], big: bool) -> Vec<u8> {
        let mut data = vec![0; page * 4];
        let number = |n: u32| if big { n.to_be_bytes() } else { n.to_le_bytes() };
        data[1024..1028].copy_from_slice(&number(1));
        data[1028..1032].copy_from_slice(&number(3));
        data[1032..1036].copy_from_slice(&number(1));
        data[1036..1052].fill(0x5e);
        data[1052..1059].copy_from_slice(b"reserve");
        data[page - 10..page].copy_from_slice(mark);
        data
    }

    #[test]
    fn all_page_sizes_and_byte_orders() {
        for page in PAGE_SIZES {
            for big in [false, true] {
                let content = probe(&Reader::new(&image(page, b"SWAPSPACE2", big))).unwrap().content;
                assert_eq!(content.size, Some(page as u64 * 4), "{page} {big}");
                assert_eq!(content.label.as_deref(), Some("reserve"));
                assert_eq!(content.bad_pages, Some(1));
            }
        }
    }

    #[test]
    fn a_hibernation_image_is_still_swap() {
        assert!(probe(&Reader::new(&image(4096, b"S1SUSPEND\0", false))).is_some());
        assert!(probe(&Reader::new(&image(4096, b"SWAPSPACE9", false))).is_none());
    }
}
