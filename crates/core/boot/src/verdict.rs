use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, some};
use std::fmt;

/// What is said of a whole boot; its words are one sentence.
#[derive(Debug, Clone, PartialEq)]
pub struct BootVerdict {
    /// Seconds of waiting in an initramfs that goes on all the same.
    pub early_s: f64,
    /// Seconds of waiting after that; `None`: without end.
    pub stall_s: Option<f64>,
    /// How it ends.
    pub ending: Ending,
    /// What it does at worst, where facts are missing.
    pub at_worst: Option<Box<AtWorst>>,
}

/// What a boot does at worst, where facts are missing.
#[derive(Debug, Clone, PartialEq)]
pub struct AtWorst {
    /// Seconds of waiting; `None`: without end.
    pub stall_s: Option<f64>,
    /// How it ends.
    pub ending: Ending,
    /// The lines of the entries of which nothing certain is known.
    pub lines: Vec<usize>,
}

/// How a boot ends, as far as its verdict tells.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Ending {
    /// Login, with everything in place.
    Whole,
    /// Login, without something.
    Without(Absent),
    /// It stops before login.
    Stops {
        /// In what, or at which target.
        place: String,
        /// Because a check fails.
        check: bool,
    },
    /// The machine is switched off, as the kernel's command line asks.
    Off,
    /// It ends in the initramfs, without this target.
    Initramfs(&'static str),
    /// The kernel panics: this target is not mounted, or nothing can be started from root.
    Panic(&'static str),
    /// It waits without end.
    Never,
}

/// What a boot that reaches login lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Absent {
    /// So many entries.
    Entries(usize),
    /// Swap that no entry asks for.
    Swap,
    /// A root that can be written to.
    WritableRoot,
}

impl BootVerdict {
    /// Makes it wait for this many seconds, where it waits for less.
    pub(crate) fn wait_at_least(&mut self, seconds: f64) {
        self.stall_s = self.stall_s.map(|s| s.max(seconds));
    }
}

impl fmt::Display for BootVerdict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.early_s > 0.0 {
            write!(f, "after {} in the initramfs ", seconds(Some(self.early_s)))?;
        }
        write!(f, "the boot will {}", told(&self.ending, self.stall_s))?;
        let Some(worst) = &self.at_worst else { return Ok(()) };
        write!(f, " as far as is known; at worst it will {worst}")
    }
}

impl fmt::Display for AtWorst {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&told(&self.ending, self.stall_s))?;
        let lines: Vec<String> = self.lines.iter().map(usize::to_string).collect();
        match lines.as_slice() {
            [] => Ok(()),
            [line] => write!(f, ": line {line}"),
            several => write!(f, ": lines {}", some(several)),
        }
    }
}

/// What a boot does, behind "will".
fn told(ending: &Ending, stall_s: Option<f64>) -> String {
    let after = match stall_s {
        Some(s) if s > 0.0 => format!(" after {}", seconds(Some(s))),
        _ => String::new(),
    };
    match ending {
        Ending::Whole if after.is_empty() => "reach login with everything in place".to_owned(),
        Ending::Whole => format!("reach login{after}, with everything in place"),
        Ending::Without(absent) => format!("reach login{after}, but {absent}"),
        Ending::Stops { place, check } => {
            let at = if place.ends_with(".target") { "at" } else { "in" };
            let why = if *check { ": a check fails" } else { "" };
            format!("stop {at} {place}{after}{why}")
        }
        Ending::Initramfs(target) => {
            format!("end in the initramfs{after}, without {}", called(target))
        }
        Ending::Panic(target) => format!("end in a kernel panic{after}, without {}", called(target)),
        Ending::Off => format!("switch the machine off again{after}"),
        Ending::Never => "wait without end and never reach login".to_owned(),
    }
}

/// What a target is called.
fn called(target: &'static str) -> &'static str {
    if target == "/" { "root" } else { target }
}

impl fmt::Display for Absent {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Absent::Entries(n) => write!(f, "{} will be missing", count(*n, "entry")),
            Absent::Swap => f.write_str("swap will be missing"),
            Absent::WritableRoot => f.write_str("root stays read-only"),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn is_one_sentence() {
        let stops = |place: &str| Ending::Stops { place: place.to_owned(), check: false };
        for (early_s, stall_s, ending, words) in [
            (0.0, 0.0, Ending::Whole, "the boot will reach login with everything in place"),
            (0.0, 30.0, Ending::Whole, "the boot will reach login after 30 s, with everything in place"),
            (
                20.0,
                0.0,
                Ending::Without(Absent::Entries(2)),
                "after 20 s in the initramfs the boot will reach login, but 2 entries will be missing",
            ),
            (0.0, 90.0, stops("emergency mode"), "the boot will stop in emergency mode after 90 s"),
            (0.0, 0.0, stops("tides.target"), "the boot will stop at tides.target"),
            (
                0.0,
                30.0,
                Ending::Initramfs("/"),
                "the boot will end in the initramfs after 30 s, without root",
            ),
        ] {
            let verdict = BootVerdict { early_s, stall_s: Some(stall_s), ending, at_worst: None };
            assert_eq!(verdict.to_string(), words);
        }
    }
}
