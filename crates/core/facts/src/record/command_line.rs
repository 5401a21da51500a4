//! The kernel's command line, as those who read it do: of a setting that is
//! given twice the last one counts. The kernel and the initramfs take blanks as
//! ends of words wherever they stand; the init system minds quotes, and takes `-`
//! and `_` in names for the same (recorded; kernel-command-line(7)).

use super::Record;
use memchr::{memchr2, memmem};
use std::borrow::Cow;

/// The words of a kernel command line.
#[derive(Debug, Clone, Copy)]
pub struct CommandLine<'r>(&'r str);

impl<'r> CommandLine<'r> {
    /// That of a host's next boot: what the boot loader is set to, else that of
    /// the boot that is running; empty when neither is known.
    pub fn of(record: &'r Record) -> Self {
        let next = record.early.as_ref().and_then(|e| e.next.as_ref()).map(|n| n.command_line.as_str());
        CommandLine(next.or(record.command_line.as_deref()).unwrap_or_default())
    }

    /// The whole line.
    pub fn text(self) -> &'r str {
        self.0
    }

    /// All words, as the kernel and the initramfs part them.
    pub fn words(self) -> impl DoubleEndedIterator<Item = &'r str> {
        self.0.split_ascii_whitespace()
    }

    /// Whether a word stands there.
    pub fn has(self, word: &str) -> bool {
        self.words().any(|w| w == word)
    }

    /// The value of a setting of the kernel or the initramfs.
    pub fn last(self, name: &str) -> Option<&'r str> {
        self.words().rev().filter_map(|w| w.split_once('=')).find(|(key, _)| *key == name).map(|(_, v)| v)
    }

    /// All words, as the init system parts them.
    pub fn settings(self) -> Vec<Cow<'r, str>> {
        let (mut all, mut word, mut quote, mut begun) = (Vec::new(), String::new(), None, false);
        if !self.0.bytes().any(|b| matches!(b, b'"' | b'\'')) {
            return self.words().map(Cow::Borrowed).collect();
        }
        for c in self.0.chars() {
            match (c, quote) {
                (_, Some(open)) if c == open => quote = None,
                ('"' | '\'', None) => quote = Some(c),
                (_, None) if c.is_ascii_whitespace() => {
                    if begun {
                        all.push(Cow::Owned(std::mem::take(&mut word)));
                    }
                    begun = false;
                    continue;
                }
                _ => word.push(c),
            }
            begun = true;
        }
        all.extend(begun.then_some(Cow::Owned(word)));
        all
    }

    /// All values of a setting of the init system, in order.
    pub fn values(self, name: &str) -> Vec<Cow<'r, str>> {
        let value = |word: Cow<'r, str>| {
            let end = word.find('=').filter(|end| same_name(&word[..*end], name))?;
            Some(match word {
                Cow::Borrowed(word) => Cow::Borrowed(&word[end + 1..]),
                Cow::Owned(word) => Cow::Owned(word[end + 1..].to_owned()),
            })
        };
        // Most are asked for and not there: the beginning of the name is looked for first.
        let start = &name.as_bytes()[..name.find(['-', '_']).unwrap_or(name.len())];
        let line = self.0.as_bytes();
        if memmem::find(line, start).is_none() && memchr2(b'"', b'\'', line).is_none() {
            return Vec::new();
        }
        self.settings().into_iter().filter_map(value).collect()
    }

    /// Whether a setting of the init system stands there, with a value or without.
    pub fn names(self, name: &str) -> bool {
        !self.values(name).is_empty() || self.settings().iter().any(|word| same_name(word, name))
    }

    /// Whether a setting of the init system is given, and says no. A value that is
    /// neither yes nor no is passed over (recorded).
    pub fn denies(self, name: &str) -> bool {
        let mut said = None;
        for word in self.settings() {
            match word.split_once('=') {
                None if same_name(&word, name) => return false,
                Some((key, value)) if same_name(key, name) => said = yes_or_no(value).or(said),
                _ => {}
            }
        }
        said == Some(false)
    }

    /// Whether the kernel is told to mount root read-only.
    pub fn read_only(self) -> bool {
        self.words().rfind(|w| matches!(*w, "ro" | "rw")) == Some("ro")
    }
}

/// Whether two names of settings are the same to the init system.
fn same_name(a: &str, b: &str) -> bool {
    let plain = |c: u8| if c == b'-' { b'_' } else { c };
    a.len() == b.len() && a.bytes().map(plain).eq(b.bytes().map(plain))
}

/// What the init system takes for yes and no; case does not count.
fn yes_or_no(value: &str) -> Option<bool> {
    match value.to_ascii_lowercase().as_str() {
        "1" | "yes" | "y" | "true" | "t" | "on" => Some(true),
        "0" | "no" | "n" | "false" | "f" | "off" => Some(false),
        _ => None,
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

    #[test]
    fn the_init_system_minds_quotes() {
        let line = CommandLine(
            "\"systemd.swap=no\" tide=\"high fstab=no\" systemd.default-device_timeout_sec=6s x\\x2d",
        );
        assert_eq!(
            line.settings(),
            ["systemd.swap=no", "tide=high fstab=no", "systemd.default-device_timeout_sec=6s", "x\\x2d"]
        );
        assert!(line.denies("systemd.swap") && !line.denies("fstab"));
        assert_eq!(line.values("systemd.default_device_timeout_sec"), ["6s"]);
        for (words, denied) in [
            ("fstab=No", true),
            ("fstab=", false),
            ("fstab=maybe", false),
            ("fstab=0 fstab=yes", false),
            ("fstab=0 fstab=maybe", true),
            ("rd.fstab=no", false),
            ("fstab=no fstab", false),
        ] {
            assert_eq!(CommandLine(words).denies("fstab"), denied, "{words}");
        }
    }
}
