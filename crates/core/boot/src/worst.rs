//! The worst boot that is credible where the facts leave something open: what
//! is not known to work is supposed to fail.

use super::assembly::Lack;
use super::doubt::DoubtSort;
use super::forecast::{EntryForecast, EntryState, Forecast, Outcome, Worst};
use super::need::Need;
use super::request::Request;
use super::silent;
use super::systemd::containers;
use super::trial::{Cause, Trial};
use super::verdict::{Absent, BootVerdict, Ending};
use ahash::AHashSet as HashSet;
use bradawl_catalogue::directories::Role;
use bradawl_facts::record::Record;
use bradawl_resolve::Index;

/// The boot with everything failing of which nothing certain is known; `None`
/// when there is nothing such, or it makes no difference. `counts`: which doubts
/// are supposed to come out badly; `play`: the boot of requests, with somebody at
/// the console or not (`attended`).
pub(super) fn worst(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    forecast: &Forecast,
    counts: impl Fn(DoubtSort) -> bool,
    attended: bool,
    play: impl Fn(&[Request<'_>], bool) -> Forecast,
) -> Option<Worst> {
    let doubted = |e: &EntryForecast| e.doubt.is_some_and(&counts);
    let open = |e: &&EntryForecast| e.state == EntryState::Unknown && e.because_of.is_none() && doubted(e);
    let lines: Vec<usize> = forecast.entries.iter().filter(open).map(|e| e.line).collect();
    let open: HashSet<usize> = lines.iter().copied().collect();
    let below = |r: &Request<'_>| r.lies_under().iter().any(|above| is_open_target(requests, &open, above));
    let depends = forecast.entries.iter().any(|e| e.state == EntryState::Unknown && e.because_of.is_some())
        || requests.iter().any(below);
    let hang = hang(record, requests.iter().filter(|r| open.contains(&r.line())));
    let mut concerned = requests.iter().filter(|r| open.contains(&r.line()));
    let asked =
        containers(record, index, requests).into_iter().filter(|c| !attended && c.may_ask() && !c.lost);
    let asked: Vec<String> = asked.map(|c| c.entry.name.clone()).collect();
    if asked.is_empty() && hang == 0.0 && (lines.is_empty() || (!depends && concerned.all(stands_apart))) {
        return merely_missing(forecast, lines);
    }
    let supposed: Vec<Request<'_>> = requests
        .iter()
        .map(|request| match open.contains(&request.line()) {
            true => failing(request.clone()),
            false => request.clone(),
        })
        .collect();
    let Forecast { outcome, stall_s, mut verdict, .. } = play(&supposed, attended);
    let stall_s = stall_s.map(|s| s.max(hang));
    verdict.wait_at_least(hang);
    let differs = outcome != forecast.outcome || stall_s != forecast.stall_s;
    differs.then_some(Worst { outcome, stall_s, verdict, lines, asked })
}

/// Whether one of the open entries is mounted on this directory.
fn is_open_target(requests: &[Request<'_>], open: &HashSet<usize>, directory: &str) -> bool {
    requests.iter().any(|r| open.contains(&r.line()) && r.target.as_deref() == Some(directory))
}

/// How long servers that do not answer hold the boot up: of several the longest,
/// since they are asked at the same time (recorded).
fn hang<'r>(record: &Record, open: impl Iterator<Item = &'r Request<'r>>) -> f64 {
    if !record.host.boots_with().is_systemd() {
        return 0.0;
    }
    let waited_for = open.filter(|r| r.network && !r.nofail && !r.noauto && !r.automount);
    waited_for.map(|r| silent::hang_s(record, r)).fold(0.0, f64::max)
}

/// Whether nothing waits for an entry and nothing falls with it: there is no
/// need to play the boot again.
fn stands_apart(request: &Request<'_>) -> bool {
    let early = request.target.as_deref().is_some_and(|t| Role::Early.covers(t));
    let asked_for = request.nofail || request.network;
    matches!(request.trial, Trial::Unknown(_))
        && !matches!(request.need, Need::Unknown(_))
        && asked_for
        && !early
        && !request.entry.is_swap()
}

/// The same boot without these entries.
fn merely_missing(forecast: &Forecast, lines: Vec<usize>) -> Option<Worst> {
    if lines.is_empty() || forecast.outcome != Outcome::Up {
        return None;
    }
    let ending = Ending::Without(Absent::Entries(lines.len()));
    let verdict = BootVerdict { ending, ..forecast.verdict.clone() };
    Some(Worst { outcome: Outcome::Partial, stall_s: forecast.stall_s, verdict, lines, asked: Vec::new() })
}

/// The request with what is not known about it gone wrong: a device that does
/// not come, else a mount that is refused.
fn failing(mut request: Request<'_>) -> Request<'_> {
    match (&request.need, &request.trial) {
        (_, Trial::Unknown(doubt)) if request.passing => request.lack = Some(Lack::Never(doubt.why.clone())),
        (Need::Unknown(doubt), _) => request.lack = Some(Lack::Never(doubt.why.clone())),
        (_, Trial::Unknown(doubt)) => request.trial = Trial::Fails(Cause::Content, doubt.why.clone()),
        _ => {}
    }
    request
}

#[cfg(test)]
mod tests {
    use super::super::{forecast, requests};
    use super::*;
    use bradawl_facts::record::{Device, DeviceKind, Init, InitKind};
    use bradawl_facts::table::Table;

    #[test]
    fn what_is_not_known_is_supposed_to_fail() {
        let mut record = Record::new("kelp");
        let worst = |record: &Record, table: &str| {
            let index = Index::new(record);
            let worst = forecast(record, &index, &requests(record, &index, &Table::parse(table))).worst;
            worst.map(|w| (w.outcome, w.stall_s, w.lines))
        };
        // The devices of this host are not known.
        assert_eq!(worst(&record, "LABEL=a /a ext4\n"), Some((Outcome::Emergency, Some(90.0), vec![1])));
        assert_eq!(worst(&record, "LABEL=a /a ext4 nofail\n"), Some((Outcome::Partial, Some(0.0), vec![1])));
        assert_eq!(worst(&record, "h.example:/a /a nfs\n"), Some((Outcome::Partial, Some(90.0), vec![1])));
        assert_eq!(worst(&record, "//h.example/a /a cifs\n"), Some((Outcome::Partial, Some(0.0), vec![1])));
        assert_eq!(worst(&record, "tmpfs /a tmpfs\n"), None);
        record.devices = Some(vec![Device::new("/dev/vdb", DeviceKind::Disk)]);
        record.links_complete = Some(true);
        assert_eq!(worst(&record, "LABEL=a /a ext4\n"), None);
        // What it holds was not read, and what lies below it is required.
        let table = "/dev/vdb /a ext4 nofail\ntmpfs /a/b tmpfs\n";
        assert_eq!(worst(&record, table), Some((Outcome::Emergency, Some(0.0), vec![1])));
        record.devices = None;
        record.host.init = Some(Init::new(InitKind::Sysvinit, None));
        assert_eq!(
            worst(&record, "LABEL=a /a ext4 rw 0 2\n"),
            Some((Outcome::Emergency, Some(0.0), vec![1]))
        );
    }
}
