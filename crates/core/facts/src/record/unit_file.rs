//! Unit files and their drop-ins, as far as they have a say in what is mounted
//! (systemd.unit(5), systemd.mount(5)).

use super::LocalUnit;
use std::borrow::Cow;

/// The settings of a section that say what is mounted or run.
const SETTINGS: [&str; 4] = ["Mount", "Swap", "Automount", "Service"];

impl LocalUnit {
    /// Takes the settings of one of its files over those that it has: of several values of
    /// a setting the last counts, lists grow.
    pub fn read(&mut self, text: &str) {
        let mut section = "";
        for line in text.lines().map(str::trim) {
            if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
                section = name;
                continue;
            }
            let Some((key, value)) = line.split_once('=') else { continue };
            let (key, value) = (key.trim(), value.trim());
            match section {
                "Unit" => self.tie(key, value),
                _ if SETTINGS.contains(&section) => self.set(key, value),
                _ => {}
            }
        }
    }

    /// What stands in the section `Unit`.
    fn tie(&mut self, key: &str, value: &str) {
        let of_device = self.name.ends_with("device");
        let list = match key {
            _ if key.starts_with("Condition") || key.starts_with("Assert") => {
                return self.condition(key, value);
            }
            "JobTimeoutSec" => return self.job_timeout = written(value),
            "JobRunningTimeoutSec" if of_device => return self.job_timeout = written(value),
            "DefaultDependencies" => {
                return self.early = matches!(value, "no" | "false" | "0" | "off" | "n" | "f");
            }
            "OnFailureJobMode" => return self.failure_mode = written(value),
            "Requires" | "BindsTo" => &mut self.requires,
            "Wants" => &mut self.wants,
            "After" => &mut self.after,
            "Before" => &mut self.before,
            "Conflicts" => &mut self.conflicts,
            "OnFailure" => &mut self.on_failure,
            "RequiresMountsFor" => &mut self.mounts_for,
            _ => return,
        };
        // Nothing behind the sign takes back no tie (systemd.unit(5)).
        list.extend(value.split_whitespace().map(str::to_owned));
    }

    fn condition(&mut self, key: &str, value: &str) {
        if value.is_empty() {
            // It takes back all of its kind.
            let kind = if key.starts_with("Assert") { "Assert" } else { "Condition" };
            self.conditions.retain(|line| !line.starts_with(kind));
        } else {
            self.conditions.push(format!("{key}={value}"));
        }
    }

    fn set(&mut self, key: &str, value: &str) {
        let value = written(value);
        match key {
            "What" => self.what = value.or(self.what.take()),
            "Where" => self.target = value.or(self.target.take()),
            "Type" => self.fstype = value.or(self.fstype.take()),
            "Options" => self.options = value.or(self.options.take()),
            "ExecStart" => self.exec = value,
            _ => {}
        }
    }

    /// Whether nothing in it has a say in what is mounted, or when.
    pub fn says_nothing(&self) -> bool {
        let of = LocalUnit {
            name: self.name.clone(),
            path: self.path.clone(),
            drop_ins: self.drop_ins,
            wanted: self.wanted,
            ..LocalUnit::default()
        };
        *self == of
    }

    /// The names of drop-ins that a unit has beside its own, the most general first: those of
    /// its type (`mount`) and of each part of its name (`srv-.mount`).
    pub fn general_names(name: &str) -> Vec<String> {
        let Some((stem, kind)) = name.rsplit_once('.') else { return Vec::new() };
        let parts = stem.char_indices().filter(|(at, c)| *c == '-' && *at > 0 && at + 1 < stem.len());
        let prefixes = parts.map(|(at, _)| format!("{}-.{kind}", &stem[..at]));
        std::iter::once(kind.to_owned()).chain(prefixes).collect()
    }

    /// A unit with what its general drop-ins say, the most general first; `own`: its own file
    /// or drop-ins. `None` where there is nothing at all.
    pub fn merged<'u>(
        name: &str,
        general: &[&'u LocalUnit],
        own: Option<&'u LocalUnit>,
    ) -> Option<Cow<'u, LocalUnit>> {
        let (Some(first), false) = (general.first(), own.is_some_and(|u| u.masked)) else {
            return own.map(Cow::Borrowed);
        };
        let mut whole = LocalUnit {
            name: name.to_owned(),
            path: first.path.clone(),
            drop_ins: true,
            ..LocalUnit::default()
        };
        // A file of its own comes before all drop-ins.
        let file = own.filter(|u| !u.drop_ins);
        for unit in file.into_iter().chain(general.iter().copied()).chain(own.filter(|u| u.drop_ins)) {
            whole.take(unit);
        }
        if let Some(own) = own {
            (whole.path, whole.drop_ins, whole.wanted) = (own.path.clone(), own.drop_ins, own.wanted);
        }
        Some(Cow::Owned(whole))
    }

    /// Settings of another over its own.
    fn take(&mut self, other: &LocalUnit) {
        let over = |own: &mut Option<String>, value: &Option<String>| {
            if value.is_some() {
                own.clone_from(value);
            }
        };
        over(&mut self.what, &other.what);
        over(&mut self.target, &other.target);
        over(&mut self.fstype, &other.fstype);
        over(&mut self.options, &other.options);
        over(&mut self.job_timeout, &other.job_timeout);
        over(&mut self.exec, &other.exec);
        over(&mut self.failure_mode, &other.failure_mode);
        self.early |= other.early;
        for (own, more) in [
            (&mut self.requires, &other.requires),
            (&mut self.wants, &other.wants),
            (&mut self.after, &other.after),
            (&mut self.before, &other.before),
            (&mut self.conflicts, &other.conflicts),
            (&mut self.on_failure, &other.on_failure),
            (&mut self.mounts_for, &other.mounts_for),
            (&mut self.conditions, &other.conditions),
        ] {
            own.extend(more.iter().cloned());
        }
    }
}

fn written(value: &str) -> Option<String> {
    Some(value.to_owned()).filter(|v| !v.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn unit(name: &str, text: &str) -> LocalUnit {
        let mut unit = LocalUnit { name: name.to_owned(), drop_ins: true, ..LocalUnit::default() };
        unit.read(text);
        unit
    }

    #[test]
    fn what_has_no_say() {
        assert!(unit("mount", "[Mount]\nTimeoutSec=9\n").says_nothing());
        assert!(!unit("mount", "[Mount]\nOptions=ro\n").says_nothing());
    }

    #[test]
    fn names_of_general_drop_ins() {
        assert_eq!(
            LocalUnit::general_names("srv-tide-gate.mount"),
            ["mount", "srv-.mount", "srv-tide-.mount"]
        );
        assert_eq!(LocalUnit::general_names("-.mount"), ["mount"]);
        assert!(LocalUnit::general_names("mount").is_empty());
    }

    #[test]
    fn the_special_comes_over_the_general() {
        let general = unit("srv-.mount", "[Unit]\nRequires=a.service\n[Mount]\nOptions=ro\nType=xfs\n");
        let own = unit("srv-tide.mount", "[Unit]\nConflicts=b.mount\n[Mount]\nOptions=rw\n");
        let merged = LocalUnit::merged("srv-tide.mount", &[&general], Some(&own)).unwrap();
        assert_eq!((merged.options.as_deref(), merged.fstype.as_deref()), (Some("rw"), Some("xfs")));
        assert_eq!(
            (merged.requires.as_slice(), merged.conflicts.as_slice()),
            (&["a.service".to_owned()][..], &["b.mount".to_owned()][..])
        );
        assert!(LocalUnit::merged("x.mount", &[], None).is_none());
        let masked = LocalUnit { masked: true, ..LocalUnit::default() };
        assert!(LocalUnit::merged("x.mount", &[&general], Some(&masked)).unwrap().masked);
    }

    #[test]
    fn settings_count_in_their_section() {
        let read = unit(
            "own.service",
            "[Mount]\nRequires=no\n[Unit]\nWhat=no\nDefaultDependencies=no\nConditionHost=a\nCondition=\n[Service]\nExecStart=/bin/true\n",
        );
        assert!(read.requires.is_empty() && read.what.is_none() && read.early);
        assert_eq!((read.exec.as_deref(), read.conditions.len()), (Some("/bin/true"), 0));
    }
}
