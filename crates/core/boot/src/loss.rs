//! What a boot does the day that an entry's device is gone.

use super::request::Request;
use super::scripts;
use bradawl_facts::record::Record;

/// Where the boot stops for want of a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Loss {
    /// It waits for the device, then falls into emergency mode.
    WaitedFor,
    /// It checks what the entry names, that fails, and it stops in this shell.
    Checked(&'static str),
}

impl Loss {
    /// Of an entry that is there now and is mounted at boot without nofail; `None`: the
    /// boot continues without it.
    pub fn of(record: &Record, request: &Request<'_>) -> Option<Loss> {
        match scripts::of_host(record) {
            None => Some(Loss::WaitedFor),
            Some(scripts) => scripts.stops_without(request).then_some(Loss::Checked(scripts.shell)),
        }
    }

    /// What then happens, after "the boot" or "it".
    pub fn words(self) -> String {
        match self {
            Loss::WaitedFor => "the boot waits for it and then stops in emergency mode".to_owned(),
            Loss::Checked(shell) => format!("its check fails and the boot stops in {shell}"),
        }
    }
}
