//! What the initramfs does, told of a forecast.

use super::super::forecast::{EntryState, Event, Forecast, Outcome};
use super::super::verdict::{BootVerdict, Ending};
use super::{EarlyWait, GivenUp, StoppedBy};
use bradawl_facts::Consequence;

impl StoppedBy {
    /// Where the boot ends.
    fn place(self) -> &'static str {
        match self {
            StoppedBy::Initramfs => "the initramfs",
            StoppedBy::Kernel | StoppedBy::Tiny => "a kernel panic",
        }
    }

    fn ending(self, target: &'static str) -> Ending {
        match self {
            StoppedBy::Initramfs => Ending::Initramfs(target),
            StoppedBy::Kernel | StoppedBy::Tiny => Ending::Panic(target),
        }
    }
}

impl Forecast {
    /// Puts waits of the initramfs before everything else.
    pub(super) fn wait_before(&mut self, waits: &[EarlyWait]) {
        let stall_s = longest(waits);
        self.before_init_s = stall_s;
        self.stall_s = self.stall_s.map(|s| s + stall_s);
        self.verdict.early_s = stall_s;
        self.events.splice(0..0, waits.iter().map(|wait| wait.event(-stall_s)));
        self.assumed.extend(waits.iter().map(|wait| wait.assumed.clone()));
    }

    /// Has the boot wait in the initramfs for ever.
    pub(super) fn wait_endlessly(&mut self, wait: &EarlyWait) {
        (self.outcome, self.reaches_login) = (Outcome::Never, false);
        self.local_fs_reached = false;
        self.ends_in = "never".to_owned();
        self.ended_by = Some(format!("the {} {}", wait.by.who(), wait.what));
        (self.stall_s, self.before_init_s) = (None, 0.0);
        self.verdict = BootVerdict { early_s: 0.0, stall_s: None, ending: Ending::Never, at_worst: None };
        self.events = vec![wait.event(0.0)];
        self.assumed.push(wait.assumed.clone());
        for entry in self.entries.iter_mut().filter(|e| !e.state.is_absent() && e.state != EntryState::Manual)
        {
            entry.state = EntryState::Blocked;
            entry.because(&format!("the {} waits without end, before the table is read", wait.by.who()));
            (entry.stall_s, entry.consequence) = (None, None);
        }
    }

    /// Has an entry mounted before the init system looks at it.
    pub(super) fn mount_early(&mut self, place: usize) {
        let entry = &mut self.entries[place];
        entry.state = EntryState::Mounted;
        entry.because("the initramfs mounts /usr, noauto or not");
    }

    /// Ends the boot in the initramfs.
    pub(super) fn give_up(&mut self, given_up: &GivenUp, waits: &[EarlyWait]) {
        let stall_s = given_up.stall_s.max(longest(waits));
        (self.outcome, self.reaches_login) = (Outcome::NoRoot, false);
        self.local_fs_reached = false;
        self.ends_in = given_up.by.place().to_owned();
        self.ended_by = given_up.entry.is_none().then(|| given_up.why.clone());
        (self.stall_s, self.before_init_s) = (Some(stall_s), stall_s);
        self.verdict = BootVerdict {
            early_s: 0.0,
            stall_s: Some(stall_s),
            ending: given_up.by.ending(given_up.target),
            at_worst: None,
        };
        let at =
            |at_s: f64, what: String| Event { at_s, unit: given_up.target.to_owned(), what: what.into() };
        self.events = waits.iter().map(|wait| wait.event(0.0)).collect();
        self.events.extend((given_up.stall_s > 0.0).then(|| at(0.0, "waits for its device".to_owned())));
        self.events.push(at(stall_s, format!("{}: the boot ends in {}", given_up.why, self.ends_in)));
        self.assumed.extend(waits.iter().map(|wait| wait.assumed.clone()));
        self.assumed.extend(given_up.assumed.clone());
        for entry in self.entries.iter_mut().filter(|e| !e.state.is_absent() && e.state != EntryState::Manual)
        {
            entry.state = EntryState::Blocked;
            entry.because(&format!("the boot ends in {}, before the table is read", self.ends_in));
            (entry.stall_s, entry.consequence) = (Some(stall_s), None);
        }
        if let Some((place, state)) = given_up.entry {
            let entry = &mut self.entries[place];
            entry.state = state;
            entry.because(&given_up.why);
            (entry.stall_s, entry.consequence) = (Some(given_up.stall_s), Some(Consequence::Halt));
        }
    }
}

/// All waits of the initramfs run side by side.
fn longest(waits: &[EarlyWait]) -> f64 {
    waits.iter().filter_map(|wait| wait.stall_s).fold(0.0, f64::max)
}
