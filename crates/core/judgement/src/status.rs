//! What a run amounts to, as its exit status tells it: one place for all
//! commands and all formats.

use crate::rules::{Applied, Finding};
use bradawl_boot::Forecast;
use bradawl_facts::Consequence;

/// How a run that did its job ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Status {
    /// Nothing reaches the limit.
    Fine,
    /// Something does.
    Found,
    /// Part of the job could not be done, and was said so.
    Partly,
    /// Nothing reaches the limit as far as is known, and what is not known
    /// may.
    NotKnown,
}

impl Status {
    /// The exit status: 0 to 3.
    pub fn code(self) -> u8 {
        match self {
            Status::Fine => 0,
            Status::Found => 1,
            Status::Partly => 2,
            Status::NotKnown => 3,
        }
    }

    /// The status over the worst that counts; `limit`: the mildest that is
    /// bad enough, absent: nothing is; `failed`: an input could not be judged.
    pub fn of(worst: Option<Consequence>, limit: Option<Consequence>, failed: bool) -> Self {
        let reached = worst.zip(limit).is_some_and(|(worst, limit)| worst <= limit);
        match (failed, reached) {
            (true, _) => Status::Partly,
            (false, true) => Status::Found,
            (false, false) => Status::Fine,
        }
    }

    /// The same with what may be as bad where facts are missing; `at_worst`:
    /// what that counts as.
    pub fn or_not_known(self, at_worst: Option<Consequence>, limit: Option<Consequence>) -> Self {
        match Status::of(at_worst, limit, false) {
            Status::Found if self == Status::Fine => Status::NotKnown,
            _ => self,
        }
    }
}

/// What a boot may count as where facts are missing that a fuller survey would
/// settle; `None`: nothing worse than [`of_boot`] says.
pub fn at_worst(forecast: &Forecast) -> Option<Consequence> {
    let worst = forecast.not_known.as_ref()?;
    Some(match () {
        () if !worst.outcome.reaches_login() => Consequence::Halt,
        () if worst.stall_s.is_none_or(|s| forecast.stall_s.is_some_and(|now| s > now)) => Consequence::Stall,
        () => Consequence::Missing,
    })
}

/// What a boot counts as by itself, whatever is found in its table: one that
/// does not reach login is a halt, one that waits a stall, one that lacks
/// something that, and the worst that becomes of any entry.
pub fn of_boot(forecast: &Forecast) -> Option<Consequence> {
    let late = forecast.stall_s.is_none_or(|s| s > 0.0);
    let whole = match () {
        () if !forecast.outcome.reaches_login() => Some(Consequence::Halt),
        () if late => Some(Consequence::Stall),
        () if forecast.outcome == bradawl_boot::Outcome::Partial => Some(Consequence::Missing),
        () => None,
    };
    let entries = forecast.entries.iter().filter_map(|e| e.consequence);
    entries.chain(whole).min()
}

/// What is told of one host, as far as the exit status goes.
#[derive(Debug, Default)]
pub struct Counted {
    /// What its boot counts as.
    pub boot: Option<Consequence>,
    /// What its boot may count as where facts are missing.
    pub at_worst: Option<Consequence>,
    /// The worst of what is told, and of what an exception hides but does not
    /// excuse.
    pub told: Option<Consequence>,
    /// The worst of what was left out on purpose: by an exception, a baseline,
    /// a choice of rules.
    pub excused: Option<Consequence>,
}

impl Counted {
    /// A host's boot, and what a policy's exceptions did to its findings.
    pub fn new(forecast: &Forecast, applied: &Applied) -> Self {
        let hidden = applied.silenced.iter().any(|s| s.counts) || applied.lowered_halts > 0;
        Counted {
            boot: of_boot(forecast),
            at_worst: at_worst(forecast),
            told: hidden.then_some(Consequence::Halt),
            excused: applied.excused,
        }
    }

    /// The exit status with this limit.
    pub fn status(&self, limit: Option<Consequence>) -> Status {
        Status::of(self.counts_as(), limit, false).or_not_known(self.at_worst, limit)
    }

    /// Findings that are told.
    pub fn tell<'f>(&mut self, findings: impl IntoIterator<Item = &'f Finding>) {
        self.told = worse(self.told, findings.into_iter().map(|f| f.consequence));
    }

    /// Findings that were left out on purpose.
    pub fn excuse(&mut self, left_out: impl IntoIterator<Item = Consequence>) {
        self.excused = worse(self.excused, left_out);
    }

    /// What the host counts as. The boot itself counts unless something as bad
    /// was left out on purpose: that may be its cause.
    pub fn counts_as(&self) -> Option<Consequence> {
        let boot = self.boot.filter(|boot| self.excused.is_none_or(|excused| *boot < excused));
        worse(self.told, boot)
    }
}

fn worse(one: Option<Consequence>, others: impl IntoIterator<Item = Consequence>) -> Option<Consequence> {
    one.into_iter().chain(others).min()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::judge;
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn the_limit_decides_and_failures_come_first() {
        let of = |worst, limit, failed| Status::of(worst, limit, failed).code();
        let missing = Some(Consequence::Missing);
        assert_eq!(of(Some(Consequence::Halt), missing, false), 1);
        assert_eq!(of(missing, missing, false), 1);
        assert_eq!(of(Some(Consequence::Risk), missing, false), 0);
        assert_eq!(of(None, Some(Consequence::Note), false), 0);
        assert_eq!(of(Some(Consequence::Halt), None, false), 0);
        assert_eq!(of(None, None, true), 2);
        assert_eq!(of(Some(Consequence::Halt), missing, true), 2);
        let open = |status: Status, at_worst| status.or_not_known(at_worst, missing).code();
        assert_eq!(open(Status::Fine, Some(Consequence::Halt)), 3);
        assert_eq!(open(Status::Fine, Some(Consequence::Risk)), 0);
        assert_eq!(open(Status::Found, Some(Consequence::Halt)), 1);
        assert_eq!(open(Status::Partly, Some(Consequence::Halt)), 2);
    }

    #[test]
    fn a_boot_counts_as_how_it_ends() {
        let of = |line: &str| of_boot(&judge(&host(), &Table::parse(format!("{ROOT}{line}\n"))).forecast);
        assert_eq!(of("LABEL=gauges /srv/gauges xfs defaults 0 0"), None);
        assert_eq!(of("LABEL=lost /srv/lost ext4 defaults 0 0"), Some(Consequence::Halt));
        assert_eq!(of("LABEL=lost none swap sw 0 0"), Some(Consequence::Stall));
        assert_eq!(of("LABEL=lost /srv/lost ext4 nofail 0 0"), Some(Consequence::Missing));
    }
}
