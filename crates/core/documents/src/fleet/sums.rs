//! Hosts counted: all of them, and those of each role.

use super::missing::{self, MissingHost};
use super::{HostLine, NO_ROLE};
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_facts::text::count;
use serde::Serialize;
use std::collections::BTreeMap;

/// The hosts of one role together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RoleLine {
    /// The role.
    pub role: String,
    /// How many hosts have it.
    pub hosts: usize,
    /// How many of them will not come back from a reboot.
    pub lost: usize,
    /// How many come back late.
    pub late: usize,
    /// How many come back without something.
    pub partial: usize,
    /// Of how many it is not known: they reach login as far as is known, and
    /// facts are missing.
    pub not_known: usize,
    /// How many have nothing worse than a note.
    pub sound: usize,
}

/// The hosts of a run counted.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Sums {
    /// All that were judged.
    pub hosts: usize,
    /// Those that will not come back from a reboot.
    pub lost: usize,
    /// Those of which it is not known whether all is well.
    pub open: usize,
    /// Those that come back with everything in place.
    pub sound: usize,
    /// Findings that the policy's exceptions left out.
    pub silenced: usize,
    roles: BTreeMap<String, RoleLine>,
}

impl Sums {
    /// The hosts of these lines.
    pub fn of(lines: &[HostLine]) -> Self {
        let mut sums = Sums::default();
        lines.iter().for_each(|line| sums.add(line));
        sums
    }

    /// Counts one host.
    pub(super) fn add(&mut self, host: &HostLine) {
        self.hosts += 1;
        self.lost += usize::from(host.is_lost());
        self.open += usize::from(host.at_worst.is_some());
        self.sound += usize::from(host.is_sound());
        self.silenced += host.silenced;
        if host.roles.is_empty() {
            self.add_to(NO_ROLE, host);
        }
        host.roles.iter().for_each(|role| self.add_to(role, host));
    }

    fn add_to(&mut self, role: &str, host: &HostLine) {
        if !self.roles.contains_key(role) {
            self.roles.insert(role.to_owned(), RoleLine::empty(role));
        }
        let Some(line) = self.roles.get_mut(role) else { return };
        line.hosts += 1;
        let worst = host.rank().2;
        match () {
            () if host.is_lost() => line.lost += 1,
            () if host.is_late() => line.late += 1,
            () if host.outcome == Some(Outcome::Partial) => line.partial += 1,
            () if host.outcome == Some(Outcome::NotKnown) => line.not_known += 1,
            () if worst.is_none_or(|w| w == Consequence::Note) => line.sound += 1,
            () => {}
        }
    }

    /// The hosts of each role.
    pub(super) fn roles(&self) -> Vec<RoleLine> {
        self.roles.values().cloned().collect()
    }

    /// How many hosts come back from a reboot, in a line without a full stop;
    /// `failed`: inputs that could not be judged.
    pub fn headline(&self, failed: usize, missing: &[MissingHost]) -> String {
        let absent = missing.iter().filter(|m| m.has_no_record()).count();
        let said = self.of_judged(failed, absent);
        match missing::told(missing) {
            nothing if nothing.is_empty() => said,
            told => format!("{said}; {told}"),
        }
    }

    fn of_judged(&self, failed: usize, absent: usize) -> String {
        let total = count(self.hosts + failed + absent, "host");
        match (self.lost, self.open) {
            (0, 0) if failed + absent == 0 => format!("{total}: all will come back from a reboot"),
            (0, 0) => format!("{total}: those that could be judged will come back from a reboot"),
            (down, 0) => format!("{total}: {down} will not come back from a reboot"),
            (0, open) => format!("{total}: of {open} it is not known whether all is well after a reboot"),
            (down, open) => {
                format!("{total}: {down} will not come back from a reboot, of {open} it is not known")
            }
        }
    }
}

impl RoleLine {
    fn empty(role: &str) -> Self {
        RoleLine { role: role.to_owned(), hosts: 0, lost: 0, late: 0, partial: 0, not_known: 0, sound: 0 }
    }
}
