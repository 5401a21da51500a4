//! What a unit file or its drop-ins make of an entry.

use super::conditions::{Conditions, conditions};
use super::doubt::Doubt;
use super::need::Need;
use super::trial::{Cause, Trial};
use bradawl_facts::record::{CommandLine, LocalUnit, Record};
use bradawl_facts::table::{Entry, encode};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// What switches a unit off for good.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SwitchedOff {
    /// A unit file that is empty, or a link to /dev/null.
    ByFile,
    /// `systemd.mask=` on the kernel's command line
    /// (systemd-debug-generator(8)).
    ByCommandLine,
}

/// A unit file's `What=` that is no path asks for no device: the mount program looks for it
/// when the unit starts (recorded).
pub(super) fn tried_at_once<'a>(unit: Option<&LocalUnit>, need: Need<'a>, trial: Trial) -> (Need<'a>, Trial) {
    let what = unit.and_then(|unit| unit.what.as_deref()).filter(|what| !what.starts_with('/'));
    match (what, need) {
        (Some(what), Need::Missing(_)) => {
            let why = format!("no device has {}, which its unit file names", visible(what));
            (Need::None, Trial::Fails(Cause::Source, why))
        }
        (_, need) => (need, trial),
    }
}

pub(super) fn switched_off(record: &Record, name: &str, unit: Option<&LocalUnit>) -> Option<SwitchedOff> {
    if unit.is_some_and(|u| u.masked) {
        return Some(SwitchedOff::ByFile);
    }
    let mut words = CommandLine::of(record).words();
    words.any(|w| w.strip_prefix("systemd.mask=") == Some(name)).then_some(SwitchedOff::ByCommandLine)
}

/// What a unit file asks for, as a line of a table; what drop-ins do not set
/// stays as the entry has it.
pub(super) fn as_line(unit: &LocalUnit, entry: &Entry) -> Option<Vec<u8>> {
    let swap = unit.name.ends_with(".swap");
    let own = |text: &str| unit.drop_ins.then(|| text.to_owned());
    let options = entry.options.iter().map(|o| match &o.value {
        Some(value) => format!("{}={value}", o.name),
        None => o.name.clone(),
    });
    let options = options.collect::<Vec<_>>().join(",");
    let what = unit.what.clone().or_else(|| own(&entry.source))?;
    let target = if swap { "none".to_owned() } else { unit.target.clone().or_else(|| own(&entry.target))? };
    let fstype = unit.fstype.clone().or_else(|| own(&entry.fstype)).unwrap_or_else(|| "auto".to_owned());
    let fstype = if swap { "swap".to_owned() } else { fstype };
    let options = unit.options.clone().or_else(|| own(&options)).unwrap_or_else(|| "defaults".to_owned());
    let fields =
        [what, target, fstype, options].map(|f| if f.is_empty() { "defaults".to_owned() } else { f });
    let mut line = fields.map(|f| encode(f.as_bytes())).join(&b' ');
    // The check that the generator has a unit require stays beside drop-ins.
    if unit.drop_ins {
        line.extend(format!(" 0 {}", entry.pass).into_bytes());
    }
    Some(line)
}

/// What the conditions of its unit make of an entry; `None`: they hold, or have no say.
pub(super) fn unless_conditions(
    record: &Record,
    index: &Index<'_>,
    unit: &LocalUnit,
    trial: &Trial,
) -> Option<Trial> {
    // A check comes before them, as does the wait for the device.
    let checked = matches!(trial, Trial::Fails(Cause::Check, _));
    if unit.masked || checked || !record.host.boots_with().is_systemd() {
        return None;
    }
    match conditions(record, index, unit) {
        Conditions::PassedOver(words) => {
            Some(Trial::PassedOver(format!("its unit is passed over, as {words} does not hold")))
        }
        Conditions::Denied(words) => {
            Some(Trial::Fails(Cause::Assertion, format!("{words} of its unit does not hold")))
        }
        Conditions::Unknown(words) if !matches!(trial, Trial::Fails(..)) => {
            let why = format!("its unit has {words}, of which nothing is known");
            Some(Trial::Unknown(Doubt::event(why)))
        }
        Conditions::Unknown(_) | Conditions::Hold => None,
    }
}
