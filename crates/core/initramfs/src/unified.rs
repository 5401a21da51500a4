//! Unified kernel images: programs for the firmware in whose sections lie the kernel, its
//! command line and its initramfs (PE format; UAPI.5 of the Linux Userspace API group).

use std::io::{self, Read};

/// Headers lie within so many bytes.
const HEADERS: u64 = 64 << 10;
/// No command line is longer.
const MAX_LINE: u64 = 64 << 10;
/// Bytes of a section's header.
const SECTION: usize = 40;

/// Where a section lies in the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Section {
    name: [u8; 8],
    at: u64,
    length: u64,
}

/// The command line that is packed into an image; `None`: there is none, or several of
/// which one is chosen when it starts.
///
/// # Errors
/// When the image cannot be read.
pub fn unified_command_line(image: impl Read) -> io::Result<Option<String>> {
    let Some(section) = section(image, ".cmdline")? else { return Ok(None) };
    let mut line = Vec::new();
    section.take(MAX_LINE).read_to_end(&mut line)?;
    let text = String::from_utf8_lossy(&line);
    let text = text.trim_end_matches('\0').split_whitespace().collect::<Vec<_>>().join(" ");
    Ok(Some(text))
}

/// The bytes of the only section of a name.
pub(crate) fn section(mut image: impl Read, name: &str) -> io::Result<Option<impl Read>> {
    let mut head = Vec::new();
    (&mut image).take(HEADERS).read_to_end(&mut head)?;
    let all = sections(&head).unwrap_or_default();
    let is = |section: &Section, name: &str| section.name.split(|b| *b == 0).next() == Some(name.as_bytes());
    // Profiles have sections of their own, one of which counts.
    if all.iter().any(|s| is(s, ".profile")) {
        return Ok(None);
    }
    let Some(found) = all.iter().find(|s| is(s, name)) else { return Ok(None) };
    // What was read as headers comes first.
    let mut rest = io::Cursor::new(head).chain(image);
    let skipped = io::copy(&mut (&mut rest).take(found.at), &mut io::sink())?;
    Ok((skipped == found.at).then(|| rest.take(found.length)))
}

/// The sections that the headers name.
fn sections(head: &[u8]) -> Option<Vec<Section>> {
    let word = |at: usize| Some(u16::from_le_bytes(head.get(at..at + 2)?.try_into().ok()?));
    let long = |at: usize| Some(u32::from_le_bytes(head.get(at..at + 4)?.try_into().ok()?));
    head.starts_with(b"MZ").then_some(())?;
    let pe = usize::try_from(long(0x3c)?).ok()?;
    (head.get(pe..pe.checked_add(4)?)? == b"PE\0\0").then_some(())?;
    let (count, optional) = (usize::from(word(pe + 6)?), usize::from(word(pe + 20)?));
    let first = pe + 24 + optional;
    let of = |n: usize| {
        let header = head.get(first + n * SECTION..first + (n + 1) * SECTION)?;
        let long = |at: usize| header.get(at..at + 4)?.try_into().ok().map(u32::from_le_bytes);
        // On the disk it may be padded, or cut short of its zeros.
        let length = long(8)?.min(long(16)?).into();
        Some(Section { name: header[..8].try_into().ok()?, at: long(20)?.into(), length })
    };
    (0..count).map(of).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// An image with these sections, and nothing that a firmware would start.
    fn image(all: &[(&str, &[u8])]) -> Vec<u8> {
        let mut out = b"MZ".to_vec();
        out.resize(0x3c, 0);
        out.extend(64u32.to_le_bytes());
        out.extend(b"PE\0\0\x64\x86");
        out.extend(u16::try_from(all.len()).unwrap().to_le_bytes());
        out.extend([0; 12]);
        out.extend(16u16.to_le_bytes());
        out.extend([0; 2 + 16]);
        let mut at = out.len() + all.len() * SECTION;
        for (name, bytes) in all {
            let mut header = name.as_bytes().to_vec();
            header.resize(8, 0);
            let (size, place) = (u32::try_from(bytes.len()).unwrap(), u32::try_from(at).unwrap());
            for number in [size, 0x1000, size.next_multiple_of(64), place] {
                header.extend(number.to_le_bytes());
            }
            header.resize(SECTION, 0);
            out.extend(header);
            at += bytes.len().next_multiple_of(64);
        }
        for (_, bytes) in all {
            let end = out.len() + bytes.len().next_multiple_of(64);
            out.extend(*bytes);
            out.resize(end, 0);
        }
        out
    }

    #[test]
    fn the_command_line_is_found_in_its_section() {
        let line = |bytes: &[u8]| unified_command_line(bytes).unwrap();
        let sound =
            image(&[(".osrel", b"ID=kelp\n"), (".cmdline", b"root=LABEL=hull ro\n\0"), (".initrd", b"x")]);
        assert_eq!(line(&sound).as_deref(), Some("root=LABEL=hull ro"));
        assert_eq!(line(&image(&[(".linux", b"x")])), None);
        let profiles = image(&[(".cmdline", b"ro"), (".profile", b"ID=a"), (".cmdline", b"rw")]);
        assert_eq!(line(&profiles), None);
        for cut in 0..sound.len().min(400) {
            let _ = line(&sound[..cut]);
        }
        assert_eq!(line(b"MZ"), None);
        assert_eq!(line(b""), None);
    }
}
