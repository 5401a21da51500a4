//! What a device holds, from its own bytes.
//!
//! One file per format over a bounds-checked [`Reader`]. Probing one device
//! reads at most 224 pages of 4 KiB (896 KiB), usually under ten.

mod btrfs;
mod ext;
mod fat;
mod reader;
mod swap;
mod xfs;

pub use reader::{Block, Bytes, Reader};

use crate::record::{Content, ContentKind};
use base64::Engine as _;

type Probe = fn(&Reader<'_>) -> Option<Content>;

/// In the order of how much each has to match before it answers.
const PROBES: [Probe; 5] = [swap::probe, xfs::probe, btrfs::probe, ext::probe, fat::probe];

/// Says what a device holds.
///
/// # Errors
/// The device's own error, when a read failed.
pub fn identify(bytes: &dyn Bytes) -> std::io::Result<Content> {
    let reader = Reader::new(bytes);
    let mut found: Vec<Content> = PROBES.iter().filter_map(|probe| probe(&reader)).collect();
    let content = match found.len() {
        1 => found.remove(0),
        0 => nothing(&reader),
        _ => several(&found),
    };
    match reader.error() {
        Some(e) => Err(e),
        None => Ok(content),
    }
}

fn nothing(reader: &Reader<'_>) -> Content {
    let len = usize::try_from(reader.size().min(68 << 10)).unwrap_or(0);
    let zeros = reader.at(0, len).is_some_and(|b| b.all().iter().all(|&b| b == 0));
    Content::new(if zeros { ContentKind::Empty } else { ContentKind::Unknown }, None)
}

/// Signatures of more than one format: left-overs of an earlier life. Which
/// one counts cannot be told from the signatures alone.
fn several(found: &[Content]) -> Content {
    let names: Vec<&str> = found.iter().map(Content::words).collect();
    Content::new(ContentKind::Ambiguous, Some(&names.join("+")))
}

/// Sets a label from its bytes; an empty one means there is none.
fn set_label(content: &mut Content, bytes: &[u8]) {
    if bytes.is_empty() {
        return;
    }
    content.label = Some(String::from_utf8_lossy(bytes).into_owned());
    if std::str::from_utf8(bytes).is_err() {
        content.label_base64 = Some(base64::engine::general_purpose::STANDARD.encode(bytes));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const MAGICS: [(usize, &[u8]); 6] = [
        (0x438, &[0x53, 0xef]),
        (0, b"XFSB"),
        (0x10040, b"_BHRfS_M"),
        (510, &[0x55, 0xaa]),
        (4086, b"SWAPSPACE2"),
        (54, b"FAT16   "),
    ];

    proptest! {
        #[test]
        fn never_panics(seed in proptest::collection::vec(any::<u8>(), 1..2048), size in 0usize..80_000,
                        planted in proptest::collection::vec(0usize..MAGICS.len(), 0..3)) {
            let mut data: Vec<u8> = seed.iter().copied().cycle().take(size).collect();
            for n in planted {
                let (at, magic) = MAGICS[n];
                if let Some(place) = data.get_mut(at..at + magic.len()) {
                    place.copy_from_slice(magic);
                }
            }
            identify(&data).unwrap();
        }
    }

    #[test]
    fn nothing_and_something_unknown() {
        assert_eq!(identify(&vec![0u8; 1 << 17]).unwrap().kind, ContentKind::Empty);
        assert_eq!(identify(&vec![7u8; 4096]).unwrap().kind, ContentKind::Unknown);
        assert_eq!(identify(&vec![0u8; 0]).unwrap().kind, ContentKind::Empty);
    }

    #[test]
    fn labels_keep_their_bytes() {
        let mut content = Content::new(ContentKind::Swap, None);
        set_label(&mut content, b"");
        assert_eq!(content.label, None);
        set_label(&mut content, b"a\xff");
        assert_eq!(content.label.as_deref(), Some("a\u{fffd}"));
        assert_eq!(content.label_base64.as_deref(), Some("Yf8="));
    }
}
