//! What the boot is started for: the usual target, or the one that the
//! kernel's command line asks for.

use bradawl_facts::record::{CommandLine, PathKind, Record};
use bradawl_facts::text::visible;

/// Where a boot is to stop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Goal<'r> {
    /// The usual target: login.
    Login,
    /// A shell for one person, once local file systems and swap are there.
    Rescue(&'r str),
    /// A shell, with nothing of the table mounted.
    Emergency(&'r str),
    /// A unit that brings nobody in, at or beside the way to login.
    Halfway(&'r str),
    /// The machine is switched off, or restarted.
    Off(&'r str),
    /// A shell in place of an init system.
    Shell(&'r str),
}

/// Units that the boot passes on its way to login.
const HALFWAY: [&str; 6] = [
    "basic.target",
    "sysinit.target",
    "local-fs.target",
    "remote-fs.target",
    "swap.target",
    "network-online.target",
];

/// Targets that end the running system (systemd.special(7)).
const OFF: [&str; 9] = [
    "poweroff.target",
    "halt.target",
    "reboot.target",
    "kexec.target",
    "exit.target",
    "shutdown.target",
    "runlevel0.target",
    "runlevel6.target",
    "final.target",
];

/// Programs that are no init system, by their names.
const SHELLS: [&str; 6] = ["sh", "bash", "dash", "ash", "zsh", "ksh"];

/// A boot that is asked to end otherwise than in login.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OtherGoal<'r> {
    /// The word of the kernel's command line.
    pub word: &'r str,
    /// What becomes of the boot, as a clause.
    pub clause: String,
    /// Whether somebody at the console has a shell then.
    pub console: bool,
}

impl<'r> Goal<'r> {
    /// What the command line asks for: by `init=`, by `systemd.unit=`, by one of
    /// the old words for run levels; the last of them counts (recorded).
    pub fn of(record: &'r Record) -> Self {
        let line = CommandLine::of(record);
        let shell = line.words().rfind(|w| w.starts_with("init=")).filter(|word| is_shell(record, word));
        let run = line.words().rfind(|w| w.starts_with("systemd.run="));
        let off = run.filter(|_| line.last("systemd.run_success_action") != Some("none"));
        match (shell, off) {
            (Some(word), _) => Goal::Shell(word),
            (None, Some(word)) => Goal::Off(word),
            (None, None) => {
                line.words().rev().find_map(|word| Self::by_word(record, word)).unwrap_or(Goal::Login)
            }
        }
    }

    fn by_word(record: &Record, word: &'r str) -> Option<Self> {
        if let Some(unit) = word.strip_prefix("systemd.unit=") {
            let is = |name: &str| unit == name;
            let absent = || record.services.iter().flatten().any(|s| s.name == unit && !s.found);
            return Some(match unit {
                "emergency.target" => Goal::Emergency(word),
                "rescue.target" | "runlevel1.target" => Goal::Rescue(word),
                _ if HALFWAY.iter().any(|name| is(name)) => Goal::Halfway(word),
                _ if OFF.iter().any(|name| is(name)) => Goal::Off(word),
                _ if unit.contains('.') && !unit.ends_with(".target") => Goal::Halfway(word),
                // It falls back to rescue mode (recorded).
                _ if absent() => Goal::Rescue(word),
                _ => Goal::Login,
            });
        }
        Some(match word {
            "emergency" | "-b" => Goal::Emergency(word),
            "rescue" | "single" | "-s" | "s" | "S" | "1" => Goal::Rescue(word),
            "2" | "3" | "4" | "5" => Goal::Login,
            _ => return None,
        })
    }

    /// The unit that is started; `None` where no unit of the table hangs on it.
    pub fn unit(self) -> Option<&'r str> {
        match self {
            Goal::Login => Some("graphical.target"),
            Goal::Rescue(_) => Some("rescue.target"),
            Goal::Emergency(_) | Goal::Shell(_) => None,
            Goal::Halfway(word) => word.strip_prefix("systemd.unit="),
            // The command is run once the system is up so far (systemd-run-generator(8)).
            Goal::Off(word) => word.starts_with("systemd.run=").then_some("basic.target"),
        }
    }

    /// The word that asks for another target than the usual one.
    pub fn word(self) -> Option<&'r str> {
        match self {
            Goal::Login => None,
            Goal::Rescue(word)
            | Goal::Emergency(word)
            | Goal::Halfway(word)
            | Goal::Off(word)
            | Goal::Shell(word) => Some(word),
        }
    }

    /// What the boot stops in or at.
    pub fn place(self) -> &'r str {
        match self {
            Goal::Login => "login",
            Goal::Rescue(_) => "rescue mode",
            Goal::Emergency(_) => "emergency mode",
            Goal::Halfway(_) => self.unit().unwrap_or_default(),
            Goal::Off(_) => "off",
            Goal::Shell(_) => "a shell",
        }
    }

    /// The same for others; `None` where it is login.
    pub fn other(self) -> Option<OtherGoal<'r>> {
        let clause = match self {
            Goal::Off(_) => "the machine switches itself off again".to_owned(),
            Goal::Shell(_) => "a shell runs in place of the init system".to_owned(),
            Goal::Halfway(_) => format!("the boot stops at {}", visible(self.place())),
            _ => format!("the boot stops in {}", self.place()),
        };
        let console = !matches!(self, Goal::Off(_) | Goal::Halfway(_));
        Some(OtherGoal { word: self.word()?, clause, console })
    }
}

/// Whether `init=` names a shell; one that is not there is passed over (recorded).
fn is_shell(record: &Record, word: &str) -> bool {
    let path = word.strip_prefix("init=").unwrap_or_default();
    let absent = record.paths.iter().any(|f| f.path == path && f.kind == PathKind::Absent);
    !absent && path.rsplit('/').next().is_some_and(|name| SHELLS.contains(&name))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{NamedUnit, PathFacts};

    #[test]
    fn words_of_the_command_line() {
        let mut record = Record::new("mooring");
        let absent = NamedUnit { name: "none.target".into(), ..NamedUnit::default() };
        record.services = Some(vec![absent]);
        record.paths = vec![PathFacts::new("/bin/dash", PathKind::Absent)];
        for (line, place) in [
            ("root=LABEL=hull ro quiet", "login"),
            ("ro single", "rescue mode"),
            ("ro s", "rescue mode"),
            ("ro 3", "login"),
            ("-b", "emergency mode"),
            ("systemd.unit=rescue.target", "rescue mode"),
            ("single systemd.unit=multi-user.target", "login"),
            ("systemd.unit=multi-user.target emergency", "emergency mode"),
            ("systemd.unit=basic.target", "basic.target"),
            ("systemd.unit=gauges.target", "login"),
            ("systemd.unit=none.target", "rescue mode"),
            ("systemd.unit=poweroff.target", "off"),
            ("systemd.unit=srv-a.mount", "srv-a.mount"),
            ("systemd.run=/bin/true", "off"),
            ("systemd.run=/bin/true systemd.run_success_action=none", "login"),
            ("6", "login"),
            ("init=/bin/sh single", "a shell"),
            ("init=/bin/dash", "login"),
            ("init=/lib/systemd/systemd", "login"),
        ] {
            record.command_line = Some(line.to_owned());
            assert_eq!(Goal::of(&record).place(), place, "{line}");
        }
    }
}
