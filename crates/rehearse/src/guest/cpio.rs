//! Archives as the kernel unpacks them into its first root (cpio, "new ASCII
//! format"; the kernel's Documentation/driver-api/early-userspace): several may
//! follow each other, and later files take the place of earlier ones.

const DIRECTORY: u32 = 0o040_755;
const FILE: u32 = 0o100_755;

/// An archive of files, with the directories above them.
#[derive(Debug, Default)]
pub(super) struct Archive {
    bytes: Vec<u8>,
    known: Vec<String>,
}

impl Archive {
    /// Adds a file; the path has no slash in front.
    pub(super) fn file(&mut self, path: &str, content: &[u8]) {
        for (at, _) in path.match_indices('/') {
            let above = path[..at].to_owned();
            if !self.known.contains(&above) {
                self.member(&above, DIRECTORY, &[]);
                self.known.push(above);
            }
        }
        self.member(path, FILE, content);
    }

    fn member(&mut self, name: &str, mode: u32, content: &[u8]) {
        let number = u32::try_from(self.known.len()).unwrap_or(u32::MAX);
        let size = u32::try_from(content.len()).unwrap_or(u32::MAX);
        let length = u32::try_from(name.len() + 1).unwrap_or(u32::MAX);
        let fields = [number, mode, 0, 0, 1, 0, size, 0, 0, 0, 0, length, 0];
        self.bytes.extend(b"070701");
        fields.iter().for_each(|f| self.bytes.extend(format!("{f:08x}").bytes()));
        self.bytes.extend(name.bytes().chain([0]));
        self.pad();
        self.bytes.extend(content);
        self.pad();
    }

    /// Names and contents begin at multiples of four.
    fn pad(&mut self) {
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
    }

    /// The archive behind another, as it is loaded.
    pub(super) fn behind(mut self, first: &[u8]) -> Vec<u8> {
        self.member("TRAILER!!!", 0, &[]);
        let mut all = first.to_vec();
        all.resize(all.len().next_multiple_of(4), 0);
        all.extend(self.bytes);
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_archive_has_its_directories_once_and_an_end() {
        let mut archive = Archive::default();
        archive.file("etc/a/one", b"12345");
        archive.file("etc/a/two", b"");
        let all = archive.behind(b"before");
        assert_eq!(&all[..8], b"before\0\0");
        let text = String::from_utf8_lossy(&all[8..]).into_owned();
        let names: Vec<&str> =
            text.split("070701").skip(1).map(|m| m[104..].split('\0').next().unwrap()).collect();
        assert_eq!(names, ["etc", "etc/a", "etc/a/one", "etc/a/two", "TRAILER!!!"]);
        assert!(all.len() % 4 == 0 && text.contains(&format!("12345{}070701", "\0".repeat(3))), "{text:?}");
    }
}
