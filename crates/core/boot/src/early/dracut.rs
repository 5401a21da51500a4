//! What an initramfs of dracut does. Recorded with dracut 059 of Debian 12
//! (boots-dracut.jsonl), with systemd in it and without.

use super::super::forecast::EntryState;
use super::super::need::Need;
use super::super::request::Request;
use super::{GivenUp, StoppedBy};
use bradawl_facts::record::{CommandLine, Early, Initramfs, PathKind, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Seconds of `rd.retry=` where it is not given: so many rounds of half a
/// second, twice as many; each takes at least that.
const RETRY_S: f64 = 180.0;
/// How long a device of an entry is waited for.
const DEVICE_S: f64 = 90.0;

/// Whether the host's initramfs is one of dracut.
pub(super) fn is_maker(record: &Record) -> bool {
    record.early.as_ref().and_then(Early::maker) == Some(Initramfs::Dracut)
}

/// Whether systemd runs in it: as its image says, else dracut puts in what the host
/// boots with.
fn has_systemd(record: &Record) -> bool {
    let image = record.early.as_ref().and_then(|e| e.image.as_ref());
    image.map_or_else(|| record.host.boots_with().is_systemd(), |image| image.systemd)
}

/// Whether it is dracut's without systemd.
pub(super) fn is_plain(record: &Record) -> bool {
    is_maker(record) && !has_systemd(record)
}

/// Seconds after which a lost root is given up: `rd.timeout=` of the device's
/// job, or the rounds of `rd.retry=`, whichever is over first.
pub(super) fn patience(record: &Record) -> f64 {
    let number =
        |name: &str| CommandLine::of(record).last(name).and_then(|v| v.parse::<u32>().ok()).map(f64::from);
    let rounds = number("rd.retry").unwrap_or(RETRY_S);
    timeout(record).map_or(rounds, |limit| limit.min(rounds))
}

/// The limit of `rd.timeout=`, where systemd in the initramfs reads it.
pub(super) fn timeout(record: &Record) -> Option<f64> {
    let value = CommandLine::of(record).last("rd.timeout")?.parse::<u32>().ok()?;
    Some(f64::from(value)).filter(|s| *s > 0.0 && has_systemd(record))
}

/// How long a lost resume device is waited for; `None`: without end. With
/// systemd its job has no limit but `rd.timeout=`; without, two thirds of the
/// rounds pass.
pub(super) fn resume_patience(record: &Record) -> Option<f64> {
    let limit = CommandLine::of(record).last("rd.timeout").and_then(|v| v.parse::<u32>().ok()).map(f64::from);
    match has_systemd(record) {
        true => limit.filter(|s| *s > 0.0),
        false => Some((patience(record) * 2.0 / 3.0).round()),
    }
}

/// Why it cannot hand over to the init system (recorded: initramfs-tools and dracut
/// without systemd pass over a program that is not there, with systemd it does not).
pub(super) fn no_init(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let by_systemd = is_maker(record) && has_systemd(record);
    let path = CommandLine::of(record).last("init").filter(|_| by_systemd)?;
    let absent = index.path(path).is_some_and(|f| f.kind == PathKind::Absent);
    let why = format!("init={} is not there", visible(path));
    absent.then_some(GivenUp {
        target: "/",
        why,
        stall_s: 0.0,
        entry: None,
        assumed: None,
        by: StoppedBy::Initramfs,
    })
}

/// Why the boot ends in the initramfs for /usr: with systemd in it, its device
/// is waited for as the entry says, unless that has nofail or noauto. What then
/// fails to mount is told by the init system.
pub(super) fn usr_not_mounted(record: &Record, requests: &[Request<'_>]) -> Option<GivenUp> {
    if !is_maker(record) || !has_systemd(record) {
        return None;
    }
    let place = requests.iter().position(|r| r.target.as_deref() == Some("/usr"))?;
    let request = &requests[place];
    let lost = matches!(request.need, Need::Missing(_)) && !request.nofail && !request.noauto;
    let stall_s = request.device_limit().map_or(Some(DEVICE_S), |limit| limit)?;
    lost.then(|| GivenUp {
        target: "/usr",
        why: format!("no device matches {}", visible(&request.entry.source)),
        stall_s,
        entry: Some((place, EntryState::TimedOut)),
        assumed: None,
        by: StoppedBy::Initramfs,
    })
}
