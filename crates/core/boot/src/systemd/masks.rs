//! Units that are switched off for good: by a file that is empty or leads to /dev/null,
//! or by `systemd.mask=` on the kernel's command line.

use bradawl_facts::map::Set;
use bradawl_facts::record::{CommandLine, Record};
use std::borrow::Cow;

/// Their names.
pub(super) struct Masks<'a>(Set<Cow<'a, str>>);

impl<'a> Masks<'a> {
    pub fn of(record: &'a Record) -> Self {
        let by_file = record.units.iter().flatten().filter(|u| u.masked);
        let by_file = by_file.map(|u| Cow::Borrowed(u.name.as_str()));
        Masks(by_file.chain(CommandLine::of(record).values("systemd.mask")).collect())
    }

    /// Whether a unit is switched off, itself or as one of its template.
    pub fn has(&self, name: &str) -> bool {
        let template = || {
            let (stem, instance) = name.split_once('@')?;
            Some(format!("{stem}@{}", &instance[instance.rfind('.')?..]))
        };
        self.0.contains(name) || template().is_some_and(|t| self.0.contains(t.as_str()))
    }

    /// Targets among them.
    pub fn targets(&self) -> impl Iterator<Item = &str> {
        self.0.iter().map(AsRef::as_ref).filter(|name| name.ends_with(".target"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::LocalUnit;

    #[test]
    fn files_and_words_switch_units_off() {
        let mut record = Record::new("kelp");
        let unit = |name: &str, masked| LocalUnit { name: name.to_owned(), masked, ..LocalUnit::default() };
        record.units = Some(vec![unit("systemd-fsck@.service", true), unit("swap.target", false)]);
        record.command_line = Some("systemd.mask=remote-fs.target".to_owned());
        let masks = Masks::of(&record);
        for (name, expected) in [
            ("systemd-fsck@dev-sda1.service", true),
            ("systemd-fsck@.service", true),
            ("systemd-fsck-root.service", false),
            ("swap.target", false),
            ("remote-fs.target", true),
        ] {
            assert_eq!(masks.has(name), expected, "{name}");
        }
        assert_eq!(masks.targets().collect::<Vec<_>>(), ["remote-fs.target"]);
    }
}
