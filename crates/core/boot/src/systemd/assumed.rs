//! What the forecast of a host with systemd supposes: what is not known, and what is not
//! played.

use super::super::doubt::DoubtSort;
use super::super::forecast::EntryForecast;
use super::super::on_failure::not_played as started_by_failures;
use super::goal::Goal;
use bradawl_catalogue::command_line::not_played;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::{InitKind, LocalUnit, Origin, Record};
use bradawl_facts::text::visible;

/// What drop-ins of targets of the boot ask for and is not played: time limits, and
/// services that have to succeed.
fn unplayed_of_targets(record: &Record) -> Vec<String> {
    let targets = record.units.iter().flatten().filter(|u| u.name.ends_with(".target") && !u.masked);
    let of = |u: &LocalUnit| {
        let name = visible(&u.name).into_owned();
        let limit = u.job_timeout.as_deref();
        let limit = limit.map(|l| format!("{name} has JobTimeoutSec={}, which is not played", visible(l)));
        let services = u.requires.iter().filter(|r| r.ends_with(".service"));
        let services = services.map(|s| format!("{}, which {name} requires, succeeds", visible(s)));
        limit.into_iter().chain(services).collect::<Vec<_>>()
    };
    targets.flat_map(of).collect()
}

/// What is supposed where nothing is known, in words.
pub(super) fn assumed(record: &Record, entries: &[EntryForecast]) -> Vec<String> {
    let mut assumed = unplayed_of_targets(record);
    match record.host.init.as_ref().map(|i| (i.kind, i.running)) {
        None => assumed.push("the init system is not known: systemd is assumed".to_owned()),
        Some((InitKind::Systemd, Some(false))) => {
            assumed.push("systemd is installed but not running: this host may not boot with it".to_owned());
        }
        Some((InitKind::Other, _)) => {
            assumed.push("the first process is no init system known here: systemd is assumed".to_owned());
        }
        _ => {}
    }
    for unplayed in not_played(record) {
        let word = visible(unplayed.word);
        assumed.push(format!("{word} on the kernel's command line is not looked into: it {}", unplayed.does));
    }
    let asked = CommandLine::of(record).last("systemd.unit");
    if let Some(unit) = asked.filter(|unit| !matches!(*unit, "multi-user.target" | "graphical.target"))
        && Goal::of(record) == Goal::Login
    {
        let unit = visible(unit);
        assumed.push(format!(
            "{unit}, which the kernel's command line asks for, leads to login like the usual target"
        ));
    }
    if record.host.origin == Some(Origin::Image) {
        assumed.push("the images given are all the disks that the host has".to_owned());
    }
    for (entry, unit) in started_by_failures(record, entries) {
        let unit = visible(unit);
        assumed
            .push(format!("{unit}, which the failure of line {} starts, does not end the boot", entry.line));
    }
    let hangs = |e: &&EntryForecast| e.doubt == Some(DoubtSort::Event) && e.because_of.is_none();
    for entry in entries.iter().filter(hangs) {
        assumed.push(format!("line {}: {}; it is assumed to work", entry.line, entry.why));
    }
    assumed
}
