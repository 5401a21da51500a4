//! Conditions and assertions of a unit (systemd.unit(5)), as far as the record tells:
//! files, the kernel and its command line, the host.

use bradawl_facts::record::{CommandLine, LocalUnit, PathFacts, PathKind, Record};
use bradawl_facts::{Version, text::visible};
use bradawl_resolve::Index;

/// What comes of them.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Conditions {
    /// All hold.
    Hold,
    /// This one does not: the unit is passed over, and nothing fails by it.
    PassedOver(String),
    /// This assertion does not hold: the unit fails.
    Denied(String),
    /// Of this one nothing is known.
    Unknown(String),
}

/// Those of a unit: all of them have to hold, of those with `|` one.
pub(crate) fn conditions(record: &Record, index: &Index<'_>, unit: &LocalUnit) -> Conditions {
    let kinds = [("Condition", false), ("Assert", true)];
    let mut open = None;
    for (kind, asserts) in kinds {
        let own = unit.conditions.iter().filter_map(|line| line.strip_prefix(kind)?.split_once('='));
        let (mut any, mut triggers) = (None, 0_usize);
        for (name, value) in own {
            let trigger = value.starts_with('|');
            let value = value.strip_prefix('|').unwrap_or(value).trim_start();
            let (negated, value) = value.strip_prefix('!').map_or((false, value), |v| (true, v.trim_start()));
            let holds = holds(record, index, name, value).map(|holds| holds != negated);
            let words = || format!("{kind}{name}={}{}", if negated { "!" } else { "" }, visible(value));
            match (trigger, holds) {
                (true, holds) => {
                    triggers += 1;
                    any = match (any, holds) {
                        (Some(Trigger::Holds), _) | (_, Some(true)) => Some(Trigger::Holds),
                        (Some(Trigger::Open(words)), _) => Some(Trigger::Open(words)),
                        (_, None) => Some(Trigger::Open(words())),
                        (_, Some(false)) => Some(Trigger::None(words())),
                    };
                }
                (false, Some(true)) => {}
                (false, Some(false)) => return not_held(asserts, words()),
                (false, None) => open = open.or_else(|| Some(words())),
            }
        }
        match any {
            Some(Trigger::None(_)) if triggers > 1 => {
                return not_held(asserts, format!("each of the {triggers} lines {kind}…=|"));
            }
            Some(Trigger::None(words)) => return not_held(asserts, words),
            Some(Trigger::Open(words)) => open = open.or(Some(words)),
            Some(Trigger::Holds) | None => {}
        }
    }
    open.map_or(Conditions::Hold, Conditions::Unknown)
}

/// What the conditions with `|` have come to so far.
enum Trigger {
    Holds,
    None(String),
    Open(String),
}

fn not_held(asserts: bool, words: String) -> Conditions {
    if asserts { Conditions::Denied(words) } else { Conditions::PassedOver(words) }
}

/// Whether one holds, its sign left away; `None`: the record does not tell.
fn holds(record: &Record, index: &Index<'_>, name: &str, value: &str) -> Option<bool> {
    let line = CommandLine::of(record);
    match name {
        "PathExists" => Some(file(index, value)?.kind != PathKind::Absent),
        "PathIsDirectory" => Some(file(index, value)?.kind == PathKind::Directory),
        "DirectoryNotEmpty" => {
            let facts = file(index, value)?;
            match facts.kind {
                PathKind::Directory => facts.entries.map(|n| n > 0),
                _ => Some(false),
            }
        }
        "FileNotEmpty" => {
            let facts = file(index, value)?;
            match facts.kind {
                PathKind::File => facts.size.map(|n| n > 0),
                _ => Some(false),
            }
        }
        "KernelCommandLine" if !line.text().is_empty() => Some(match value.split_once('=') {
            Some(_) => line.settings().iter().any(|word| *word == value),
            None => line.settings().iter().any(|w| w.split_once('=').map_or(&**w, |(n, _)| n) == value),
        }),
        "Host" if !value.contains(['*', '?', '[']) && value.len() != 32 => {
            (!record.host.name.is_empty()).then(|| record.host.name.eq_ignore_ascii_case(value))
        }
        "Architecture" => {
            let own = architecture(record.host.architecture.as_deref()?)?;
            Some(own == value || value == "native")
        }
        "KernelVersion" => kernel(record.host.kernel.as_deref()?, value),
        _ => None,
    }
}

/// What is known of a file whose presence does not hang on the boot itself.
fn file<'r>(index: &'r Index<'_>, path: &str) -> Option<&'r PathFacts> {
    let passing = ["/run", "/proc", "/sys", "/dev", "/tmp", "/var/run"];
    let made_at_boot = passing.iter().any(|place| bradawl_facts::path::is_within(path, place));
    index.path(path).filter(|_| !made_at_boot)
}

/// The init system's name for a machine (systemd.unit(5)).
fn architecture(machine: &str) -> Option<&'static str> {
    Some(match machine {
        "x86_64" => "x86-64",
        "i386" | "i586" | "i686" => "x86",
        "aarch64" => "arm64",
        "armv7l" | "armv6l" | "armv8l" => "arm",
        "riscv64" => "riscv64",
        "ppc64le" => "ppc64-le",
        "s390x" => "s390x",
        _ => return None,
    })
}

/// `>=5.10`, several apart by blanks; a comparison without one of the signs is a
/// pattern, which is not looked into.
fn kernel(own: &str, asked: &str) -> Option<bool> {
    let own = Version::parse(own)?;
    let mut all = true;
    let asked = asked.replace("= ", "=").replace("> ", ">").replace("< ", "<");
    for one in asked.split_whitespace() {
        let signs = ["<=", ">=", "!=", "<", ">", "="];
        let (sign, version) = signs.iter().find_map(|sign| Some((*sign, one.strip_prefix(sign)?)))?;
        let version = Version::parse(version).or_else(|| Version::parse(&format!("{version}.0")))?;
        all &= match sign {
            ">=" => own >= version,
            "<" => own < version,
            // Versions have more parts than are compared here.
            _ if own == version => return None,
            "<=" => own < version,
            ">" => own > version,
            "=" => false,
            _ => true,
        };
    }
    Some(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn come_to(lines: &[&str]) -> Conditions {
        let mut record = Record::new("sounding");
        record.host.kernel = Some("6.1.0-50-amd64".to_owned());
        record.host.architecture = Some("x86_64".to_owned());
        record.command_line = Some("ro \"tides=high low\" quiet".to_owned());
        record.paths = vec![
            PathFacts::new("/none", PathKind::Absent),
            PathFacts { entries: Some(0), ..PathFacts::new("/srv/lost", PathKind::Directory) },
            PathFacts { size: Some(0), ..PathFacts::new("/etc/bare", PathKind::File) },
            PathFacts::new("/run/late", PathKind::Absent),
        ];
        let conditions = lines.iter().map(|line| (*line).to_owned()).collect();
        let unit = LocalUnit { conditions, ..LocalUnit::default() };
        super::conditions(&record, &Index::new(&record), &unit)
    }

    #[test]
    fn truth_table() {
        for (line, holds) in [
            ("PathExists=/srv/lost", Some(true)),
            ("PathExists=!/none", Some(true)),
            ("PathExists=/elsewhere", None),
            ("PathExists=/run/late", None),
            ("PathIsDirectory=/etc/bare", Some(false)),
            ("DirectoryNotEmpty=/srv/lost", Some(false)),
            ("DirectoryNotEmpty=!/srv/lost", Some(true)),
            ("FileNotEmpty=/etc/bare", Some(false)),
            ("KernelCommandLine=quiet", Some(true)),
            ("KernelCommandLine=tides", Some(true)),
            ("KernelCommandLine=tides=high low", Some(true)),
            ("KernelCommandLine=!splash", Some(true)),
            ("Host=SOUNDING", Some(true)),
            ("Host=sound*", None),
            ("Architecture=x86-64", Some(true)),
            ("Architecture=native", Some(true)),
            ("Architecture=arm64", Some(false)),
            ("KernelVersion=>=5.10", Some(true)),
            ("KernelVersion=>= 5.10 <6.1", Some(false)),
            ("KernelVersion=<=6.1", None),
            ("KernelVersion=6.1.0*", None),
            ("Virtualization=vm", None),
            ("FirstBoot=yes", None),
        ] {
            let condition = come_to(&[&format!("Condition{line}")]);
            let assertion = come_to(&[&format!("Assert{line}")]);
            let expected = match holds {
                Some(true) => [true, true],
                Some(false) => [
                    matches!(condition, Conditions::PassedOver(_)),
                    matches!(assertion, Conditions::Denied(_)),
                ],
                None => [&condition, &assertion].map(|c| matches!(c, Conditions::Unknown(_))),
            };
            assert_eq!(expected, [true, true], "{line}: {condition:?} {assertion:?}");
            assert_eq!(holds == Some(true), condition == Conditions::Hold, "{line}");
        }
    }

    #[test]
    fn what_does_not_hold_counts_before_what_is_not_known() {
        let passed = |lines: &[&str]| matches!(come_to(lines), Conditions::PassedOver(_));
        assert!(passed(&["ConditionVirtualization=vm", "ConditionPathExists=/none"]));
        assert!(!passed(&["ConditionPathExists=|/none", "ConditionVirtualization=|vm"]));
        assert!(passed(&["ConditionPathExists=|/none", "ConditionHost=|elsewhere"]));
        assert_eq!(come_to(&["ConditionPathExists=|/none", "ConditionHost=|sounding"]), Conditions::Hold);
    }
}
