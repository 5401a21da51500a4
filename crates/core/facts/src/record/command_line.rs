//! The kernel's command line, as those who read it do: of a setting that is
//! given twice the last one counts.

use super::Record;

/// The words of a kernel command line.
#[derive(Debug, Clone, Copy)]
pub struct CommandLine<'r>(&'r str);

impl<'r> CommandLine<'r> {
    /// That of a host's last boot; empty when it is not known.
    pub fn of(record: &'r Record) -> Self {
        CommandLine(record.command_line.as_deref().unwrap_or_default())
    }

    /// All words.
    pub fn words(self) -> impl DoubleEndedIterator<Item = &'r str> {
        self.0.split_ascii_whitespace()
    }

    /// Whether a word stands there.
    pub fn has(self, word: &str) -> bool {
        self.words().any(|w| w == word)
    }

    /// The value of a setting.
    pub fn last(self, name: &str) -> Option<&'r str> {
        self.words().rev().filter_map(|w| w.split_once('=')).find(|(key, _)| *key == name).map(|(_, v)| v)
    }

    /// Whether a setting is given, and says no.
    pub fn denies(self, name: &str) -> bool {
        matches!(self.last(name), Some("0" | "no" | "n" | "false" | "f" | "off"))
    }

    /// Whether the kernel is told to mount root read-only.
    pub fn read_only(self) -> bool {
        self.words().rfind(|w| matches!(*w, "ro" | "rw")) == Some("ro")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_last_one_counts() {
        let line = CommandLine("root=LABEL=a ro quiet root=LABEL=b=c rw fstab=no");
        assert_eq!(line.last("root"), Some("LABEL=b=c"));
        assert_eq!(line.last("resume"), None);
        assert!(line.has("quiet") && !line.has("root") && !line.read_only());
        assert!(line.denies("fstab") && !line.denies("systemd.swap"));
    }
}
