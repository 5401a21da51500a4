//! What the boot is started for: the usual target, or the one that the
//! kernel's command line asks for.

use bradawl_facts::record::CommandLine;

/// Where a boot is to stop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Goal<'r> {
    /// The usual target: login.
    Login,
    /// A shell for one person, once local file systems and swap are there.
    Rescue(&'r str),
    /// A shell, with nothing of the table mounted.
    Emergency(&'r str),
    /// A point on the way to login, which itself brings nobody in.
    Halfway(&'r str),
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

impl<'r> Goal<'r> {
    /// What the command line asks for: by `systemd.unit=`, or by one of the old
    /// words for run levels; the last of them counts (recorded).
    pub fn of(line: CommandLine<'r>) -> Self {
        line.words().rev().find_map(Self::by_word).unwrap_or(Goal::Login)
    }

    fn by_word(word: &'r str) -> Option<Self> {
        if let Some(unit) = word.strip_prefix("systemd.unit=") {
            return Some(match unit {
                "emergency.target" => Goal::Emergency(word),
                "rescue.target" | "runlevel1.target" => Goal::Rescue(word),
                _ if HALFWAY.contains(&unit) => Goal::Halfway(word),
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
            Goal::Emergency(_) => None,
            Goal::Halfway(word) => word.strip_prefix("systemd.unit="),
        }
    }

    /// The word that asks for another target than the usual one.
    pub fn word(self) -> Option<&'r str> {
        match self {
            Goal::Login => None,
            Goal::Rescue(word) | Goal::Emergency(word) | Goal::Halfway(word) => Some(word),
        }
    }

    /// What the boot stops in or at.
    pub fn place(self) -> &'r str {
        match self {
            Goal::Login => "login",
            Goal::Rescue(_) => "rescue mode",
            Goal::Emergency(_) => "emergency mode",
            Goal::Halfway(_) => self.unit().unwrap_or_default(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::Record;

    #[test]
    fn words_of_the_command_line() {
        let mut record = Record::new("mooring");
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
        ] {
            record.command_line = Some(line.to_owned());
            assert_eq!(Goal::of(CommandLine::of(&record)).place(), place, "{line}");
        }
    }
}
